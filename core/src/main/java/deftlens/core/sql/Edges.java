package deftlens.core.sql;

import deftlens.core.condition.Bound;
import deftlens.core.field.Field;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** The boundaries of a criterion, and the SQL of the records nearest to them on either side. */
public final class Edges {

    /**
     * One boundary of a range that a field is held against, or of what is left beside it.
     *
     * @param field the field that is compared
     * @param at the value at the boundary: a {@link LocalDate}, {@link Instant}, {@link LocalTime} or {@link BigDecimal}
     * @param begins whether the inside lies above it
     * @param belongs whether a record exactly at it is inside
     * @param range the range that the boundary belongs to
     * @param outer whether the inside is what is left beside the range, as for {@code not length >= 18}
     */
    public record Boundary(Field field, Object at, boolean begins, boolean belongs, Bound range, boolean outer) {

        /** The same boundary with inside and outside exchanged: {@code from 5 on} becomes {@code below 5}. */
        public Boundary turned() {
            return new Boundary(field, at, !begins, !belongs, range, !outer);
        }
    }

    private Edges() {}

    /** The boundaries of the ranges in a bound criterion, in their order; none for criteria without ranges. */
    public static List<Boundary> of(Bound bound) {
        List<Boundary> found = new ArrayList<>();
        collect(bound, false, found);
        return found.stream().distinct().toList();
    }

    private static void collect(Bound bound, boolean outer, List<Boundary> into) {
        switch (bound) {
            case Bound.Not(Bound part) -> collect(part, !outer, into);
            case Bound.Every(List<Bound> parts) -> parts.forEach(p -> collect(p, outer, into));
            case Bound.Some(List<Bound> parts) -> parts.forEach(p -> collect(p, outer, into));
            case Bound.DayRange(Field field, var from, var to) ->
                ends(field, from, true, to, false, bound, outer, into);
            case Bound.InstantRange(Field field, var from, boolean fromIn, var to, boolean toIn) ->
                ends(field, from, fromIn, to, toIn, bound, outer, into);
            case Bound.NumberRange(Field field, var low, boolean lowIn, var high, boolean highIn) ->
                ends(field, low, lowIn, high, highIn, bound, outer, into);
            case Bound.TimeRange(Field field, var from, boolean fromIn, var to, boolean toIn) ->
                ends(field, from, fromIn, to, toIn, bound, outer, into);
            case Bound.Constant _,
                    Bound.IsEmpty _,
                    Bound.OneOf _,
                    Bound.Finds _,
                    Bound.Numbers _,
                    Bound.Truth _,
                    Bound.Tags _,
                    Bound.ClockRange _,
                    Bound.LocalPart _,
                    Bound.LocalDays _,
                    Bound.Matches _,
                    Bound.FieldComparison _,
                    Bound.Related _ -> {
                // These have no boundary that records could stand near.
            }
        }
    }

    private static void ends(
            Field field,
            Optional<?> from,
            boolean fromIn,
            Optional<?> to,
            boolean toIn,
            Bound range,
            boolean outer,
            List<Boundary> into) {
        from.map(v -> new Boundary(field, v, true, fromIn, range, false))
                .map(b -> outer ? b.turned() : b)
                .ifPresent(into::add);
        to.map(v -> new Boundary(field, v, false, toIn, range, false))
                .map(b -> outer ? b.turned() : b)
                .ifPresent(into::add);
    }

    /**
     * Selects the records nearest to a boundary on one side, the nearest first, with plain bounds on the bare column so
     * that an index on it ends the search after a few records: {@code c0} the record's number, {@code c1} whether it is in
     * the whole condition, {@code c2} the field, then the columns.
     *
     * @param decided the expression of the records that the criterion decides about
     * @param whole the expression of the whole condition
     * @param inside which side
     * @param limit the most rows
     */
    public static Sql nearest(
            Scope scope, Sql decided, Sql whole, Boundary boundary, boolean inside, List<Field> columns, int limit) {
        boolean above = boundary.begins() == inside;
        String column = Where.column(boundary.field());
        String sign = above
                ? (boundary.belongs() == inside ? " >= " : " > ")
                : (boundary.belongs() == inside ? " <= " : " < ");
        Sql sql = head(scope, whole, boundary.field(), columns)
                .add(" and ")
                .add(decided)
                .add(" and " + column + sign)
                .compare(boundary.at());
        if (inside != boundary.outer()) {
            sql.add(" and ").add(Where.of(boundary.range()));
        }
        String direction = above ? " asc" : " desc";
        return sql.add(" order by " + column + direction + ", "
                        + Sql.identifier(scope.register().idColumn()) + direction + " limit ")
                .bind((long) limit);
    }

    /** Selects records whose field is empty, the newest first, in the same columns as {@link #nearest}. */
    public static Sql empties(Scope scope, Sql decided, Sql whole, Field field, List<Field> columns, int limit) {
        return head(scope, whole, field, columns)
                .add(" and ")
                .add(decided)
                .add(" and ")
                .add(Where.of(new Bound.IsEmpty(field)))
                .add(" order by " + Sql.identifier(scope.register().idColumn()) + " desc limit ")
                .bind((long) limit);
    }

    private static Sql head(Scope scope, Sql whole, Field field, List<Field> columns) {
        Sql sql = new Sql()
                .add("select " + Sql.identifier(scope.register().idColumn()) + " as c0, (")
                .add(whole)
                .add(") is true as c1, " + Where.column(field) + " as c2");
        for (int i = 0; i < columns.size(); i++) {
            sql.add(", " + Where.column(columns.get(i)) + " as c" + (i + 3));
        }
        return sql.add(scope.source());
    }

    /**
     * Counts the records for each of the values nearest to a boundary on one side: {@code c0} the value, {@code c1} their
     * number, {@code c2} whether they are in the whole condition; those that the criterion decides about all are, or none.
     */
    public static Sql values(Scope scope, Sql decided, Sql whole, Boundary boundary, boolean inside, int limit) {
        boolean above = boundary.begins() == inside;
        String column = Where.column(boundary.field());
        String sign = above
                ? (boundary.belongs() == inside ? " >= " : " > ")
                : (boundary.belongs() == inside ? " <= " : " < ");
        Sql sql = new Sql()
                .add("select " + column + " as c0, count(*) as c1, bool_or((")
                .add(whole)
                .add(") is true) as c2")
                .add(scope.source())
                .add(" and ")
                .add(decided)
                .add(" and " + column + sign)
                .compare(boundary.at());
        if (inside != boundary.outer()) {
            sql.add(" and ").add(Where.of(boundary.range()));
        }
        return sql.add(" group by 1 order by 1" + (above ? " asc" : " desc") + " limit ")
                .bind((long) limit);
    }
}
