package deftlens.core.match;

import deftlens.core.condition.Bound;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Regex;
import deftlens.core.condition.Test;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.time.LocalTimes;
import deftlens.core.time.Unit;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;

/** Tests single records in memory against a bound condition, with the same outcome as the SQL of the same condition. */
public final class Matcher {

    private Matcher() {}

    /** The test of one record; it keeps no state and may be shared by threads. */
    public static Predicate<Row> of(Register register, Bound bound) {
        return switch (bound) {
            case Bound.Constant(boolean holds) -> row -> holds;
            case Bound.Not(Bound part) -> of(register, part).negate();
            case Bound.Every(List<Bound> parts) -> {
                Predicate<Row>[] tests = tests(register, parts);
                yield row -> {
                    for (Predicate<Row> test : tests) {
                        if (!test.test(row)) {
                            return false;
                        }
                    }
                    return true;
                };
            }
            case Bound.Some(List<Bound> parts) -> {
                Predicate<Row>[] tests = tests(register, parts);
                yield row -> {
                    for (Predicate<Row> test : tests) {
                        if (test.test(row)) {
                            return true;
                        }
                    }
                    return false;
                };
            }
            case Bound.IsEmpty(Field field) -> {
                int at = at(register, field);
                yield row -> isEmpty(row.value(at));
            }
            case Bound.OneOf(Field field, Set<String> values, boolean fold) ->
                leaf(register, field, v -> values.contains(fold ? LetterCase.fold((String) v) : (String) v));
            case Bound.Finds(Field field, Test.Search search, String text, boolean fold) -> {
                Predicate<String> finds = finder(search, text);
                yield leaf(register, field, v -> finds.test(fold ? LetterCase.fold((String) v) : (String) v));
            }
            case Bound.Numbers(Field field, List<BigDecimal> values) ->
                leaf(register, field, v -> values.stream().anyMatch(n -> n.compareTo((BigDecimal) v) == 0));
            case Bound.NumberRange(Field field, var low, boolean lowBelongs, var high, boolean highBelongs) ->
                leaf(register, field, v -> {
                    BigDecimal number = (BigDecimal) v;
                    return (low.isEmpty() || number.compareTo(low.get()) > (lowBelongs ? -1 : 0))
                            && (high.isEmpty() || number.compareTo(high.get()) < (highBelongs ? 1 : 0));
                });
            case Bound.Truth(Field field, boolean value) -> leaf(register, field, v -> (Boolean) v == value);
            case Bound.Tags(Field field, boolean all, Set<String> tags) ->
                leaf(register, field, v -> {
                    Collection<?> present = (Collection<?>) v;
                    return all ? present.containsAll(tags) : tags.stream().anyMatch(present::contains);
                });
            case Bound.DayRange(Field field, var from, var to) ->
                leaf(register, field, v -> {
                    LocalDate day = (LocalDate) v;
                    return (from.isEmpty() || !day.isBefore(from.get())) && (to.isEmpty() || day.isBefore(to.get()));
                });
            case Bound.InstantRange(Field field, var from, boolean fromBelongs, var to, boolean toBelongs) ->
                leaf(register, field, v -> {
                    Instant instant = (Instant) v;
                    return (from.isEmpty() || instant.compareTo(from.get()) > (fromBelongs ? -1 : 0))
                            && (to.isEmpty() || instant.compareTo(to.get()) < (toBelongs ? 1 : 0));
                });
            case Bound.TimeRange(Field field, var from, boolean fromBelongs, var to, boolean toBelongs) ->
                leaf(register, field, v -> {
                    LocalTime time = (LocalTime) v;
                    return (from.isEmpty() || time.compareTo(from.get()) > (fromBelongs ? -1 : 0))
                            && (to.isEmpty() || time.compareTo(to.get()) < (toBelongs ? 1 : 0));
                });
            case Bound.ClockRange(Field field, ZoneId zone, var from, var to) ->
                leaf(register, field, v -> {
                    if (Beyond.words(v).isPresent()) {
                        return false;
                    }
                    LocalTime time = ((Instant) v).atZone(zone).toLocalTime();
                    return (from.isEmpty() || !time.isBefore(from.get())) && (to.isEmpty() || time.isBefore(to.get()));
                });
            case Bound.LocalPart(Field field, ZoneId zone, Test.Part part, Set<Integer> numbers) ->
                // A day beyond all days is on no weekday and in no month.
                leaf(register, field, v -> Beyond.words(v).isEmpty() && numbers.contains(part.of(day(v, zone))));
            case Bound.LocalDays(Field field, ZoneId zone, Set<LocalDate> days) ->
                leaf(register, field, v -> days.contains(day(v, zone)));
            case Bound.Matches(Field field, Regex regex, boolean fold) ->
                leaf(register, field, v -> regex.isFoundIn(fold ? LetterCase.fold((String) v) : (String) v));
            case Bound.FieldComparison beside -> {
                int other = at(register, beside.other());
                int at = at(register, beside.field());
                yield row -> {
                    Object value = row.value(at);
                    Object second = row.value(other);
                    return !isEmpty(value) && !isEmpty(second) && beside(beside, value, second);
                };
            }
            case Bound.Related related ->
                leaf(
                        register,
                        related.field(),
                        v -> other(related, v)
                                .filter(of(related.place().register(), related.where()))
                                .isPresent());
        };
    }

    /** A record somewhere else that has a value: one in the condition that is put to it, where there is such a one. */
    static Optional<Row> other(Bound.Related related, Object value) {
        return related.place().records().get().with(value, related).map(values -> values::get);
    }

    private static LocalDate day(Object value, ZoneId zone) {
        return value instanceof LocalDate day ? day : Beyond.day((Instant) value, zone);
    }

    private static boolean beside(Bound.FieldComparison beside, Object value, Object other) {
        return beside.relation()
                .holds(
                        switch (value) {
                            case String text ->
                                beside.fold()
                                        ? LetterCase.fold(text).compareTo(LetterCase.fold((String) other))
                                        : text.compareTo((String) other);
                            case BigDecimal number ->
                                number.compareTo(beside.offset()
                                        .map(o -> ((BigDecimal) other).add(added(o)))
                                        .orElse((BigDecimal) other));
                            case Instant instant
                            when other instanceof Instant second ->
                                instant.compareTo(beside.offset()
                                        .map(o -> shifted(second, (Test.Offset.Time) o, beside.zone()))
                                        .orElse(second));
                            case LocalTime time -> time.compareTo((LocalTime) other);
                            case Boolean yes -> yes.compareTo((Boolean) other);
                            default -> {
                                LocalDate second = day(other, beside.zone());
                                yield day(value, beside.zone())
                                        .compareTo(beside.offset()
                                                .filter(o ->
                                                        Beyond.words(second).isEmpty())
                                                .map(o -> second.plus(amount((Test.Offset.Time) o)))
                                                .orElse(second));
                            }
                        });
    }

    private static BigDecimal added(Test.Offset offset) {
        return switch (offset) {
            case Test.Offset.Amount(Operand.Number number) -> number.value();
            case Test.Offset.Length(Operand.Duration duration) -> duration.seconds();
            case Test.Offset.Time time -> throw new IllegalArgumentException("no time is added to a number");
        };
    }

    private static Instant shifted(Instant instant, Test.Offset.Time offset, ZoneId zone) {
        if (Beyond.words(instant).isPresent()) {
            return instant;
        }
        if (offset.unit().isClock()) {
            return instant.plus(offset.count(), offset.unit() == Unit.HOUR ? ChronoUnit.HOURS : ChronoUnit.MINUTES);
        }
        return LocalTimes.instant(instant.atZone(zone).toLocalDateTime().plus(amount(offset)), zone);
    }

    private static java.time.Period amount(Test.Offset.Time offset) {
        int count = offset.count();
        return switch (offset.unit()) {
            case DAY -> java.time.Period.ofDays(count);
            case WEEK -> java.time.Period.ofWeeks(count);
            case MONTH -> java.time.Period.ofMonths(count);
            case QUARTER -> java.time.Period.ofMonths(3 * count);
            case YEAR -> java.time.Period.ofYears(count);
            default ->
                throw new IllegalArgumentException(
                        "no days are added by " + offset.unit().plural());
        };
    }

    @SuppressWarnings("unchecked")
    private static Predicate<Row>[] tests(Register register, List<Bound> parts) {
        return parts.stream().map(p -> of(register, p)).toArray(Predicate[]::new);
    }

    private static Predicate<Row> leaf(Register register, Field field, Predicate<Object> test) {
        int at = at(register, field);
        return row -> {
            Object value = row.value(at);
            return !isEmpty(value) && test.test(value);
        };
    }

    private static int at(Register register, Field field) {
        int at = register.fields().indexOf(field);
        if (at < 0) {
            throw new IllegalArgumentException(register.label() + " has no field " + field.key());
        }
        return at;
    }

    private static boolean isEmpty(Object value) {
        return value == null
                || value instanceof String s && s.isEmpty()
                || value instanceof Collection<?> c && c.isEmpty();
    }

    /** The test of one text for a search; both are folded already where letter case is ignored. */
    public static Predicate<String> finder(Test.Search search, String text) {
        return switch (search) {
            case CONTAINS -> value -> value.contains(text);
            case STARTS_WITH -> value -> value.startsWith(text);
            case ENDS_WITH -> value -> value.endsWith(text);
            case LIKE -> {
                Glob glob = Glob.of(text);
                yield glob::matches;
            }
        };
    }
}
