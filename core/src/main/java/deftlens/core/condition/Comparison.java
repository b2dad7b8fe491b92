package deftlens.core.condition;

import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.time.Fixing;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Shift;
import deftlens.core.time.Unanswered;
import deftlens.core.time.Window;
import deftlens.core.time.Windows;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.IntStream;

/**
 * A question beside the same question of an earlier time: one of its windows is moved, everything else stays.
 *
 * @param with which earlier time it is
 * @param field the date or moment whose window is moved
 * @param window the window as it stands at the reading
 * @param earlier the window that it is compared with
 * @param condition the question of the earlier time
 * @param shift how far days of the earlier window are moved to be beside those of the other; absent for windows of moments that count
 *     hours or minutes
 */
public record Comparison(
        With with, Field field, Window window, Window earlier, Condition condition, Optional<Shift> shift) {

    /** Which earlier time a question is held beside. */
    public enum With {
        /** The window of the same length right before. */
        BEFORE,
        /** The same window a year before. */
        YEAR;

        /** What it is called: {@code year}. */
        public String words() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    private record Candidate(Field field, Period period) {}

    /**
     * The comparison of a question. The window is one that every record lies in and that has two ends, {@code in this month},
     * {@code between 2026-01 and 2026-03}; of the field that is preferred where it has one, of the first that has one otherwise.
     *
     * @param preferred the key of a field
     * @return nothing where there is no such window, or none before it
     * @throws Unanswered when the window holds an ask without a default
     */
    public static Optional<Comparison> of(
            Condition condition, With with, String preferred, Register register, Reading reading) {
        List<Condition> parts = condition instanceof Condition.All(List<Condition> all) ? all : List.of(condition);
        List<Integer> places =
                new ArrayList<>(IntStream.range(0, parts.size()).boxed().toList());
        places.sort(Comparator.comparing(i ->
                !(parts.get(i) instanceof Condition.Criterion c && c.field().equals(preferred))));
        for (int at : places) {
            Optional<Candidate> found = candidate(parts.get(at), register);
            if (found.isEmpty()) {
                continue;
            }
            Candidate candidate = found.get();
            Optional<Fixing.Earlier> earlier = with == With.BEFORE
                    ? Fixing.before(candidate.period(), reading)
                    : Fixing.yearBefore(candidate.period(), reading);
            if (earlier.isPresent()) {
                List<Condition> moved = new ArrayList<>(parts);
                moved.set(
                        at,
                        Condition.Criterion.of(
                                candidate.field().key(),
                                new Test.Dated(
                                        Test.DateRelation.IN, earlier.get().period())));
                return Optional.of(new Comparison(
                        with,
                        candidate.field(),
                        Windows.resolve(candidate.period(), reading),
                        Windows.resolve(earlier.get().period(), reading),
                        new Condition.All(moved).normal(),
                        earlier.get().shift()));
            }
        }
        return Optional.empty();
    }

    private static Optional<Candidate> candidate(Condition part, Register register) {
        if (!(part instanceof Condition.Criterion(String key, Test test, boolean negated)) || negated) {
            return Optional.empty();
        }
        Optional<Period> period = Optional.empty();
        if (test instanceof Test.Dated(Test.DateRelation stand, Period in) && stand == Test.DateRelation.IN) {
            period = Optional.of(in);
        } else if (test instanceof Test.DatedBetween(Period from, Period to)) {
            period = Optional.of(new Period.Range(from, to));
        }
        return period.flatMap(
                p -> register.field(key).filter(f -> f.type().isTemporal()).map(f -> new Candidate(f, p)));
    }
}
