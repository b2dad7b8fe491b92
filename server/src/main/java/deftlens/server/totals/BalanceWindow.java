package deftlens.server.totals;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Groups;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Shape;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * The window of a question whose balances are shown, and the questions for what was before a time and up to its end. Times are days of a
 * date and instants of a moment.
 *
 * @param date the date that goes with the number
 * @param others what else is asked of the records
 * @param from where the window begins; absent where it has no beginning
 * @param to where it ends, which does not belong; absent where it has no end
 * @param opening what the opening balance is
 */
record BalanceWindow(
        Field date,
        List<Condition> others,
        Optional<Comparable<?>> from,
        Optional<Comparable<?>> to,
        Shape.Opening opening,
        Reading reading) {

    static BalanceWindow of(Question question, Shape.Opening opening, Questions questions) {
        Field date = question.registerForReader().main().orElseThrow();
        List<Condition> parts = question.condition() instanceof Condition.All(List<Condition> all)
                ? all
                : List.of(question.condition());
        List<Condition> others = new ArrayList<>();
        Optional<Comparable<?>> from = Optional.empty();
        Optional<Comparable<?>> to = Optional.empty();
        for (Condition part : parts) {
            Optional<Stretch> stretch = part instanceof Condition.Criterion
                    ? stretch(questions.bindAlone(question, part), date)
                    : Optional.empty();
            if (stretch.isEmpty()) {
                others.add(part);
                continue;
            }
            from = latest(from, stretch.get().from());
            to = earliest(to, stretch.get().to());
        }
        return new BalanceWindow(date, List.copyOf(others), from, to, opening, question.reading());
    }

    /** A stretch of time; what has no bound goes on. */
    record Stretch(Optional<Comparable<?>> from, Optional<Comparable<?>> to) {}

    /** The stretch of a date that a bound is, where it is one. */
    private static Optional<Stretch> stretch(Bound bound, Field date) {
        return switch (bound) {
            case Bound.DayRange(Field field, Optional<LocalDate> from, Optional<LocalDate> to)
            when field.equals(date) -> Optional.of(new Stretch(from.map(f -> f), to.map(t -> t)));
            case Bound.InstantRange(Field field, Optional<Instant> from, boolean f, Optional<Instant> to, boolean t)
            when field.equals(date) ->
                Optional.of(new Stretch(
                        // The database counts microseconds.
                        from.map(i -> f ? i : i.plusNanos(1_000)), to.map(i -> t ? i.plusNanos(1_000) : i)));
            case Bound.Every e -> Optional.empty();
            case Bound.Some s -> Optional.empty();
            case Bound.Not n -> Optional.empty();
            case Bound.Constant c -> Optional.empty();
            case Bound.Leaf l -> Optional.empty();
        };
    }

    /** The stretch of a period of the date. */
    Stretch of(Groups.Level level, Object period) {
        return stretch(Groups.within(level, Optional.of(period), reading), date).orElseThrow();
    }

    /** The later of two beginnings. */
    @SuppressWarnings({"unchecked", "rawtypes"})
    static Optional<Comparable<?>> latest(Optional<Comparable<?>> one, Optional<Comparable<?>> other) {
        return one.isPresent() && other.isPresent()
                ? ((Comparable) one.get()).compareTo(other.get()) >= 0 ? one : other
                : one.or(() -> other);
    }

    /** The earlier of two ends. */
    @SuppressWarnings({"unchecked", "rawtypes"})
    static Optional<Comparable<?>> earliest(Optional<Comparable<?>> one, Optional<Comparable<?>> other) {
        return one.isPresent() && other.isPresent()
                ? ((Comparable) one.get()).compareTo(other.get()) <= 0 ? one : other
                : one.or(() -> other);
    }

    /** The condition for everything before the window; nothing where it has no beginning, or begins with nothing. */
    Optional<Condition> prior() {
        return opening == Shape.Opening.BEGINNING ? from.map(f -> all(List.of(before(f)))) : Optional.empty();
    }

    /**
     * The criteria for what makes up a balance, in the place of the window.
     *
     * @param end where the balance is; the end of the window when absent
     * @return nothing where no record does
     */
    Optional<List<Condition>> upTo(Optional<Comparable<?>> end) {
        Optional<Comparable<?>> until = earliest(to, end);
        List<Condition> criteria = new ArrayList<>();
        if (opening == Shape.Opening.ZERO && from.isPresent()) {
            if (until.isPresent() && latest(from, until).equals(from)) {
                return Optional.empty();
            }
            criteria.add(Condition.Criterion.of(date.key(), new Test.Dated(Test.DateRelation.FROM, at(from.get()))));
        }
        until.ifPresent(u -> criteria.add(before(u)));
        if (criteria.isEmpty() && from.isPresent()) {
            // Without a date nothing is in the window, nor before it.
            criteria.add(Condition.Criterion.not(date.key(), new Test.Empty()));
        }
        return Optional.of(criteria);
    }

    /**
     * The criteria for what makes up an opening balance.
     *
     * @param start where it is; the beginning of the window when absent
     * @return nothing where no record does
     */
    Optional<List<Condition>> upToBeginning(Optional<Comparable<?>> start) {
        Optional<Comparable<?>> begins = latest(from, start);
        return begins.isEmpty() || opening == Shape.Opening.ZERO && begins.equals(from)
                ? Optional.empty()
                : upTo(begins);
    }

    /** The others, and more. */
    Condition all(List<Condition> more) {
        List<Condition> parts = new ArrayList<>(others);
        parts.addAll(more);
        return new Condition.All(parts).normal();
    }

    private Condition before(Comparable<?> time) {
        return Condition.Criterion.of(date.key(), new Test.Dated(Test.DateRelation.BEFORE, at(time)));
    }

    /** A time as people write it: a day where one begins. */
    private Period at(Comparable<?> time) {
        if (time instanceof LocalDate day) {
            return new Period.Day(day);
        }
        Instant instant = (Instant) time;
        ZonedDateTime local = instant.atZone(reading.zone());
        return local.toLocalDate().atStartOfDay(reading.zone()).toInstant().equals(instant)
                        && local.toLocalTime().equals(LocalTime.MIDNIGHT)
                ? new Period.Day(local.toLocalDate())
                : Period.Moment.of(instant, reading.zone());
    }

    /** What is said of it beside the totals. */
    TotalsAnswer.TotalsWindow said() {
        return new TotalsAnswer.TotalsWindow(
                date.key(),
                from.map(Object::toString),
                to.map(t -> date.type() == FieldType.DATE
                        ? ((LocalDate) t).minusDays(1).toString()
                        : t.toString()));
    }
}
