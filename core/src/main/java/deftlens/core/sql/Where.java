package deftlens.core.sql;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Regex;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.time.Unit;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;

/**
 * Compiles a bound condition to an SQL expression that is true exactly for the records in it. PostgreSQL's unknown never
 * decides: negation is pushed down to the leaves, and a negated leaf is spelled so that an empty field is in it.
 *
 * <p>Dates are plain half-open bounds on the bare column, so that an index can serve them.
 */
public final class Where {

    private Where() {}

    /** The expression for a condition. */
    public static Sql of(Bound bound) {
        return compile(bound, true);
    }

    private static Sql compile(Bound bound, boolean wanted) {
        return switch (bound) {
            case Bound.Not(Bound part) -> compile(part, !wanted);
            case Bound.Constant(boolean holds) -> Sql.of(holds == wanted ? "true" : "false");
            case Bound.Every(List<Bound> parts) -> join(parts, wanted ? " and " : " or ", wanted);
            case Bound.Some(List<Bound> parts) -> join(parts, wanted ? " or " : " and ", wanted);
            case Bound.IsEmpty(Field field) -> empty(field, wanted);
            case Bound.OneOf(Field field, Set<String> values, boolean fold) -> oneOf(field, values, fold, wanted);
            case Bound.Leaf leaf -> wanted ? leaf(leaf) : opposite(leaf);
        };
    }

    private static Sql join(List<Bound> parts, String word, boolean wanted) {
        Sql sql = new Sql().add("(");
        for (int i = 0; i < parts.size(); i++) {
            sql.add(i == 0 ? "" : word).add(compile(parts.get(i), wanted));
        }
        return sql.add(")");
    }

    private static Sql opposite(Bound.Leaf leaf) {
        return new Sql().add("((").add(leaf(leaf)).add(") is not true)");
    }

    private static Sql empty(Field field, boolean wanted) {
        String column = column(field);
        String nothing = switch (field.type()) {
            case TEXT -> "''";
            case TAGS -> "'{}'";
            default -> "";
        };
        if (nothing.isEmpty()) {
            return Sql.of(
                    field.required() ? (wanted ? "false" : "true") : column + (wanted ? " is null" : " is not null"));
        }
        return Sql.of(
                wanted
                        ? "(" + column + " is null or " + column + " = " + nothing + ")"
                        : "(" + column + " is not null and " + column + " <> " + nothing + ")");
    }

    private static Sql oneOf(Field field, Set<String> values, boolean fold, boolean wanted) {
        String text = fold ? "lower(" + column(field) + ")" : column(field);
        if (values.size() == 1) {
            String sign = wanted ? " = " : field.required() ? " <> " : " is distinct from ";
            return new Sql().add(text + sign).bind(values.iterator().next());
        }
        Object array = values.toArray(String[]::new);
        if (wanted || field.required()) {
            return new Sql()
                    .add(text + (wanted ? " = any(" : " <> all("))
                    .add("cast(")
                    .bind(array)
                    .add(" as text[]))");
        }
        return new Sql().add("(" + text + " = any(cast(").bind(array).add(" as text[]))) is not true");
    }

    private static Sql leaf(Bound.Leaf leaf) {
        return switch (leaf) {
            case Bound.IsEmpty(Field field) -> empty(field, true);
            case Bound.OneOf(Field field, Set<String> values, boolean fold) -> oneOf(field, values, fold, true);
            case Bound.Finds(Field field, Test.Search search, String text, boolean fold) -> {
                String column = column(field);
                Sql sql = new Sql()
                        .add((fold ? "lower(" + column + ")" : column) + " like ")
                        .bind(Patterns.sql(search, text));
                // A pattern of stars alone would let in the empty text, which counts as no value.
                yield Patterns.takesEmpty(search, text)
                        ? new Sql().add("(").add(sql).add(" and " + column + " <> '')")
                        : sql;
            }
            case Bound.Numbers(Field field, List<BigDecimal> values) ->
                values.size() == 1
                        ? new Sql().add(column(field) + " = ").compare(values.get(0))
                        : new Sql()
                                .add(column(field) + " = any(")
                                .compare(values.toArray(BigDecimal[]::new))
                                .add(")");
            case Bound.NumberRange(Field field, var low, boolean lowBelongs, var high, boolean highBelongs) -> {
                List<Sql> ends = new ArrayList<>();
                low.ifPresent(v -> ends.add(end(field, lowBelongs ? " >= " : " > ", v)));
                high.ifPresent(v -> ends.add(end(field, highBelongs ? " <= " : " < ", v)));
                yield ends(field, ends);
            }
            case Bound.Truth(Field field, boolean value) -> Sql.of(column(field) + " = " + value);
            case Bound.Tags(Field field, boolean all, Set<String> tags) ->
                new Sql()
                        .add(column(field) + (all ? " @> " : " && ") + "cast(")
                        .bind(tags.toArray(String[]::new))
                        .add(" as text[])");
            case Bound.DayRange(Field field, var from, var to) -> {
                List<Sql> ends = new ArrayList<>();
                from.ifPresent(v -> ends.add(end(field, " >= ", v)));
                to.ifPresent(v -> ends.add(end(field, " < ", v)));
                yield ends(field, ends);
            }
            case Bound.InstantRange(Field field, var from, boolean fromBelongs, var to, boolean toBelongs) -> {
                List<Sql> ends = new ArrayList<>();
                from.ifPresent(v -> ends.add(end(field, fromBelongs ? " >= " : " > ", v)));
                to.ifPresent(v -> ends.add(end(field, toBelongs ? " <= " : " < ", v)));
                yield ends(field, ends);
            }
            case Bound.TimeRange(Field field, var from, boolean fromBelongs, var to, boolean toBelongs) -> {
                List<Sql> ends = new ArrayList<>();
                from.ifPresent(v -> ends.add(end(field, fromBelongs ? " >= " : " > ", v)));
                to.ifPresent(v -> ends.add(end(field, toBelongs ? " <= " : " < ", v)));
                yield ends(field, ends);
            }
            case Bound.ClockRange(Field field, ZoneId zone, var from, var to) -> {
                List<Sql> ends = new ArrayList<>();
                from.ifPresent(v -> ends.add(clock(field, zone).add(" >= ").bind(v)));
                to.ifPresent(v -> ends.add(clock(field, zone).add(" < ").bind(v)));
                yield ends(field, ends);
            }
            case Bound.LocalPart(Field field, ZoneId zone, Test.Part part, Set<Integer> numbers) ->
                new Sql()
                        .add("cast(date_part('"
                                + switch (part) {
                                    case WEEKDAY -> "isodow";
                                    case MONTH -> "month";
                                    case DAY_OF_MONTH -> "day";
                                }
                                + "', ")
                        .add(local(field, zone))
                        .add(") as bigint) = any(cast(")
                        .bind(numbers.stream().sorted().map(Integer::longValue).toArray(Long[]::new))
                        .add(" as bigint[]))");
            case Bound.LocalDays(Field field, ZoneId zone, Set<LocalDate> days) ->
                new Sql()
                        .add("cast(")
                        .add(local(field, zone))
                        .add(" as date) = any(cast(")
                        .bind(days.stream().sorted().toArray(LocalDate[]::new))
                        .add(" as date[]))");
            case Bound.Matches(Field field, Regex regex, boolean fold) -> {
                String column = column(field);
                Sql sql = new Sql()
                        .add((fold ? "lower(" + column + ")" : column) + " ~ ")
                        .bind(regex.sql());
                // The empty text counts as no value, whatever is found in it.
                yield regex.isFoundIn("") ? new Sql().add("(").add(sql).add(" and " + column + " <> '')") : sql;
            }
            case Bound.FieldComparison beside -> beside(beside);
            case Bound.Related related -> Others.have(related);
        };
    }

    /** A date as it is, a moment by the local clock of the zone. */
    static Sql local(Field field, ZoneId zone) {
        return field.type() == FieldType.DATE
                ? Sql.of(column(field))
                : new Sql()
                        .add("(" + column(field) + " at time zone ")
                        .bind(zone.getId())
                        .add(")");
    }

    private static Sql clock(Field field, ZoneId zone) {
        return new Sql().add("cast(").add(local(field, zone)).add(" as time)");
    }

    private static Sql beside(Bound.FieldComparison beside) {
        Field field = beside.field();
        Field other = beside.other();
        String sign = switch (beside.relation()) {
            case IS, EQUAL, ON -> " = ";
            case MORE, AFTER -> " > ";
            case AT_LEAST, FROM -> " >= ";
            case LESS, BEFORE -> " < ";
            case AT_MOST, UP_TO -> " <= ";
        };
        if (field.type() == FieldType.TEXT) {
            String same = beside.fold()
                    ? "lower(" + column(field) + ") = lower(" + column(other) + ")"
                    : column(field) + " = " + column(other);
            return Sql.of("(" + same + " and " + column(field) + " <> '')");
        }
        if (!field.type().isTemporal()) {
            Sql sql = Sql.of(column(field) + sign + column(other));
            beside.offset().ifPresent(o -> sql.add(" + ").bind(added(o)));
            return sql;
        }
        if (field.type() == FieldType.MOMENT && other.type() == FieldType.MOMENT) {
            return new Sql().add(column(field) + sign).add(shifted(other, beside));
        }
        return new Sql().add(day(field, beside.zone())).add(sign).add(shiftedDay(other, beside));
    }

    private static BigDecimal added(Test.Offset offset) {
        return switch (offset) {
            case Test.Offset.Amount(Operand.Number number) -> number.value();
            case Test.Offset.Length(Operand.Duration duration) -> duration.seconds();
            case Test.Offset.Time time -> throw new IllegalArgumentException("no time is added to a number");
        };
    }

    private static Sql day(Field field, ZoneId zone) {
        return field.type() == FieldType.DATE
                ? Sql.of(column(field))
                : new Sql().add("cast(").add(local(field, zone)).add(" as date)");
    }

    private static Sql shiftedDay(Field other, Bound.FieldComparison beside) {
        Sql day = day(other, beside.zone());
        return beside.offset()
                .map(o -> new Sql().add("cast(").add(day).add(interval(o)).add(" as date)"))
                .orElse(day);
    }

    /** A moment moved by a length: hours and minutes as they pass, days and longer by the local calendar. */
    private static Sql shifted(Field other, Bound.FieldComparison beside) {
        if (beside.offset().isEmpty()) {
            return Sql.of(column(other));
        }
        Test.Offset.Time offset = (Test.Offset.Time) beside.offset().get();
        if (offset.unit().isClock()) {
            return new Sql().add("(" + column(other)).add(interval(offset)).add(")");
        }
        return new Sql()
                .add("((")
                .add(local(other, beside.zone()))
                .add(interval(offset))
                .add(") at time zone ")
                .bind(beside.zone().getId())
                .add(")");
    }

    private static Sql interval(Test.Offset offset) {
        Test.Offset.Time time = (Test.Offset.Time) offset;
        String unit = switch (time.unit()) {
            case MINUTE -> "minute";
            case HOUR -> "hour";
            case DAY -> "day";
            case WEEK -> "week";
            case YEAR -> "year";
            default -> "month";
        };
        int count = time.unit() == Unit.QUARTER ? 3 * time.count() : time.count();
        return new Sql().add(" + cast(").bind(count + " " + unit).add(" as interval)");
    }

    private static Sql end(Field field, String sign, Object value) {
        return new Sql().add(column(field) + sign).compare(value);
    }

    private static Sql ends(Field field, List<Sql> ends) {
        return switch (ends.size()) {
            case 0 -> Sql.of(column(field) + " is not null");
            case 1 -> ends.get(0);
            default ->
                new Sql()
                        .add("(")
                        .add(ends.get(0))
                        .add(" and ")
                        .add(ends.get(1))
                        .add(")");
        };
    }

    static String column(Field field) {
        return Sql.identifier(field.column());
    }

    /** A field's value, empty where people see nothing: an empty text is none. */
    static String value(Field field) {
        return field.type() == FieldType.TEXT ? "nullif(" + column(field) + ", '')" : column(field);
    }

    /** Whether two values of the type are put in order by the rules of language and not by their bytes. */
    static boolean isCollated(FieldType type) {
        return switch (type) {
            case TEXT, CHOICE, PERSON -> true;
            default -> false;
        };
    }
}
