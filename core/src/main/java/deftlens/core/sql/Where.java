package deftlens.core.sql;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import java.math.BigDecimal;
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
            default -> wanted ? leaf(bound) : opposite(bound);
        };
    }

    private static Sql join(List<Bound> parts, String word, boolean wanted) {
        Sql sql = new Sql().add("(");
        for (int i = 0; i < parts.size(); i++) {
            sql.add(i == 0 ? "" : word).add(compile(parts.get(i), wanted));
        }
        return sql.add(")");
    }

    private static Sql opposite(Bound leaf) {
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

    private static Sql leaf(Bound leaf) {
        return switch (leaf) {
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
                        ? new Sql().add(column(field) + " = ").bind(values.get(0))
                        : new Sql()
                                .add(column(field) + " = any(cast(")
                                .bind(values.toArray(BigDecimal[]::new))
                                .add(" as numeric[]))");
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
            default -> throw new IllegalStateException("not a leaf: " + leaf);
        };
    }

    private static Sql end(Field field, String sign, Object value) {
        return new Sql().add(column(field) + sign).bind(value);
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

    /** Whether two values of the type are put in order by the rules of language and not by their bytes. */
    static boolean isCollated(FieldType type) {
        return switch (type) {
            case TEXT, CHOICE, PERSON -> true;
            default -> false;
        };
    }
}
