package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * The SQL of pages, counts and exports over one register. Names of our own in it begin with {@code deft_}, so that no column
 * of a register is taken for one of them. Pages go by keyset: each continues behind the last record of
 * the one before, wherever it stands now, at the same cost at any depth.
 */
public final class Page {

    /**
     * Where a page ends: the order's values of its last record, {@code Optional.empty()} for an empty field, and its
     * number.
     */
    public record After(List<Optional<Object>> values, long id) {}

    private Page() {}

    /**
     * Selects the record's number as {@code c0}, then the columns and the order's own fields as {@code c1}, {@code c2}, …;
     * in the order of a list, its place comes last.
     *
     * @param condition the expression of {@link Where}
     * @param limit the most rows, 1 or more
     */
    public static Sql rows(
            Scope scope, Sql condition, Order order, List<Field> columns, Optional<After> after, int limit) {
        return rows(scope, condition, Optional.empty(), order, columns, after, limit);
    }

    /**
     * The same, with whether a record satisfies a further condition as the very last column.
     *
     * @param marked the condition that leaves no record out; none for no such column
     */
    public static Sql rows(
            Scope scope,
            Sql condition,
            Optional<Sql> marked,
            Order order,
            List<Field> columns,
            Optional<After> after,
            int limit) {
        return isSplit(order)
                ? split(scope, condition, marked, order, columns, after, limit)
                : selected(scope, condition, marked, order, columns)
                        .add(after.map(a -> new Sql().add(" and ").add(behind(scope.register(), order, a)))
                                .orElseGet(Sql::new))
                        .add(orderBy(scope.register(), order))
                        .add(" limit ")
                        .bind((long) limit);
    }

    /**
     * The same rows, found before they are ordered: every matching record is read, by whatever way finds them best, and the
     * first ones of those are kept. Where few records match, walking along the order until a page is full reads more than all
     * of them, and out of order; where walking has taken too long, this is the way that ends.
     */
    public static Sql rowsFoundFirst(
            Scope scope,
            Sql condition,
            Optional<Sql> marked,
            Order order,
            List<Field> columns,
            Optional<After> after,
            int limit) {
        Sql found = selected(scope, condition, marked, order, columns);
        after.ifPresent(a -> found.add(" and ").add(behind(scope.register(), order, a)));
        // The planner does not look through an offset, so the order does not tempt it.
        return new Sql()
                .add("select * from (")
                .add(found)
                .add(" offset 0) deft_found")
                .add(orderOfSelected(order, columns))
                .add(" limit ")
                .bind((long) limit);
    }

    private static Sql selected(Scope scope, Sql condition, Optional<Sql> marked, Order order, List<Field> columns) {
        List<Field> selected = new ArrayList<>(columns);
        order.keys().forEach(k -> selected.add(k.field()));
        Sql sql = select(scope.register(), selected);
        if (order.listed().isPresent()) {
            sql.add(", deft_place as c" + (selected.size() + 1));
        }
        int last = selected.size() + (order.listed().isPresent() ? 2 : 1);
        marked.ifPresent(m -> sql.add(", coalesce(").add(m).add(", false) as c" + last));
        return sql.add(scope.source(listed(order))).add(" and ").add(condition);
    }

    /**
     * Whether records with and without a value are looked for each by themselves: by one date that may be empty. An index
     * keeps its empties at one end only, and serves the other order, and every page behind the first, in two walks.
     */
    private static boolean isSplit(Order order) {
        return order.listed().isEmpty()
                && order.keys().size() == 1
                && !order.keys().get(0).field().required()
                && order.keys().get(0).field().type().isTemporal();
    }

    private static Sql split(
            Scope scope,
            Sql condition,
            Optional<Sql> marked,
            Order order,
            List<Field> columns,
            Optional<After> after,
            int limit) {
        Order.Key key = order.keys().get(0);
        String column = Where.column(key.field());
        String id = Sql.identifier(scope.register().idColumn());
        String direction = key.descending() ? " desc" : " asc";
        String beyond = key.descending() ? " < " : " > ";
        if (after.isPresent() && after.get().values().size() != 1) {
            throw new IllegalArgumentException("the page's end does not fit its order");
        }
        Optional<Object> end = after.flatMap(a -> a.values().get(0));
        boolean endsEmpty = after.isPresent() && end.isEmpty();
        Sql valued = selected(scope, condition, marked, order, columns).add(" and " + column + " is not null");
        end.ifPresent(v -> valued.add(" and (" + column + ", " + id + ")" + beyond + "(")
                .compare(v)
                .add(", ")
                .bind(after.get().id())
                .add(")"));
        valued.add(" order by " + column + direction + ", " + id + direction + " limit ")
                .bind((long) limit);
        Sql empty = selected(scope, condition, marked, order, columns).add(" and " + column + " is null");
        if (endsEmpty) {
            empty.add(" and " + id + beyond).bind(after.get().id());
        }
        empty.add(" order by " + id + direction + " limit ").bind((long) limit);
        if (endsEmpty && !key.emptiesFirst()) {
            return empty;
        }
        if (end.isPresent() && key.emptiesFirst()) {
            return valued;
        }
        return new Sql()
                .add("select * from ((")
                .add(valued)
                .add(") union all (")
                .add(empty)
                .add(")) deft_found")
                .add(orderOfSelected(order, columns))
                .add(" limit ")
                .bind((long) limit);
    }

    /** The order, of what {@link #selected} gives names. */
    private static String orderOfSelected(Order order, List<Field> columns) {
        StringBuilder words = new StringBuilder(" order by ");
        int place = columns.size() + 1;
        if (order.listed().isPresent()) {
            words.append("c").append(place).append(", ");
        }
        for (Order.Key key : order.keys()) {
            words.append("c")
                    .append(place++)
                    .append(Where.isCollated(key.field().type()) ? " collate \"und-x-icu\"" : "")
                    .append(key.descending() ? " desc" : " asc");
            if (!key.field().required()) {
                words.append(key.emptiesFirst() ? " nulls first" : " nulls last");
            }
            words.append(", ");
        }
        return words.append("c0")
                .append(order.numbersDescend() ? " desc" : " asc")
                .toString();
    }

    private static Sql select(Register register, List<Field> fields) {
        Sql sql = new Sql()
                .add("select ")
                .add(Sql.identifier(register.idColumn()))
                .add(" as c0");
        for (int i = 0; i < fields.size(); i++) {
            sql.add(", ").add(Where.column(fields.get(i))).add(" as c" + (i + 1));
        }
        return sql;
    }

    /** Selects all columns of all matching rows, in order, for streaming. */
    public static Sql all(Scope scope, Sql condition, Order order, List<Field> columns) {
        return select(scope.register(), columns)
                .add(scope.source(listed(order)))
                .add(" and ")
                .add(condition)
                .add(orderBy(scope.register(), order));
    }

    /**
     * The scope of a part of the matching records: what is read over it needs no condition any more.
     *
     * @param order which records come first; what a sample takes does not depend on it
     */
    public static Scope taken(Scope scope, Sql condition, Order order, RowSlice take) {
        Register register = scope.register();
        Set<String> columns = new LinkedHashSet<>();
        columns.add(Sql.identifier(register.idColumn()));
        register.stored().forEach(f -> columns.add(Where.column(f)));
        Sql sql = new Sql()
                .add("(select " + String.join(", ", columns))
                .add(scope.source(listed(order)))
                .add(" and ")
                .add(condition);
        switch (take) {
            case RowSlice.Stretch(long from, long to) ->
                sql.add(orderBy(register, order))
                        .add(" limit ")
                        .bind(to - from + 1)
                        .add(" offset ")
                        .bind(from - 1);
            case RowSlice.Sample(int size, long seed) -> {
                String id = Sql.identifier(register.idColumn());
                sql.add(" order by hashint8extended(" + id + ", ")
                        .bind(seed)
                        .add("), " + id + " limit ")
                        .bind((long) size);
            }
        }
        return new Scope(register, sql.add(") deft_taken"), Sql.of("true"));
    }

    /** The join that puts records where their value stands in a list. */
    private static Sql listed(Order order) {
        return order.listed()
                .map(listed -> new Sql()
                        .add(" join unnest(cast(")
                        .bind(listed.values().toArray(String[]::new))
                        .add(" as text[])) with ordinality as deft_pasted(deft_item, deft_place) on deft_item = "
                                + text(listed)))
                .orElseGet(Sql::new);
    }

    private static String text(Order.Listed listed) {
        String column = Where.column(listed.field());
        return listed.field().type().isNumeric()
                ? "cast(trim_scale(" + column + ") as text)"
                : listed.fold() ? "lower(" + column + ")" : column;
    }

    /**
     * Adds up a number over the matching records that come up to a certain one, by one required-or-not date or moment and the
     * record's number, that one with it: {@code c0}, 0 for none. Records without that date are left out.
     *
     * @param key the date or moment; its direction says which records come up to the end
     * @param end the last of them; all of them when there is none
     */
    public static Sql sum(Scope scope, Sql condition, Field amount, Field date, Optional<After> end, boolean withEnd) {
        Sql sql = new Sql()
                .add("select coalesce(sum(" + Where.column(amount) + ")" + finite(Where.column(amount)) + ", 0) as c0")
                .add(scope.source())
                .add(" and ")
                .add(condition)
                .add(" and " + Where.column(date) + " is not null");
        end.ifPresent(e -> sql.add(" and (" + Where.column(date) + ", "
                        + Sql.identifier(scope.register().idColumn()) + ")" + (withEnd ? " <= (" : " < ("))
                .compare(e.values().get(0).orElseThrow())
                .add(", ")
                .bind(e.id())
                .add(")"));
        return sql;
    }

    /** Holds for numbers alone. Whole numbers of the database have no infinity to be compared with. */
    static String bounded(String column) {
        String number = "cast(" + column + " as numeric)";
        return number + " > '-Infinity' and " + number + " < 'Infinity'";
    }

    /** Leaves out of an aggregate what is no number; {@code NaN} is greater than infinity. */
    static String finite(String column) {
        return " filter (where " + bounded(column) + ")";
    }

    /** Selects the values of a list that no record has: {@code c0}, in the order of the list. */
    public static Sql missing(Scope scope, Order.Listed listed) {
        return new Sql()
                .add("select deft_item as c0 from unnest(cast(")
                .bind(listed.values().toArray(String[]::new))
                .add(" as text[])) with ordinality as deft_pasted(deft_item, deft_place) where not exists (select 1")
                .add(scope.source())
                .add(" and " + text(listed) + " = deft_item) order by deft_place");
    }

    /** Selects the numbers of a few matching records, whichever are found first: {@code c0}. */
    public static Sql some(Scope scope, Sql condition, int limit) {
        return numbers(scope, condition).add(" limit ").bind((long) limit);
    }

    /** Counts several conditions, each by itself and no further than a cap, in one statement: {@code c0}, {@code c1}, … */
    public static Sql cappedCounts(Scope scope, List<Sql> conditions, int cap) {
        Sql sql = new Sql().add("select ");
        for (int i = 0; i < conditions.size(); i++) {
            sql.add(i == 0 ? "(" : ", (")
                    .add(count(scope, conditions.get(i), Optional.of(cap)))
                    .add(") as c" + i);
        }
        return sql;
    }

    /** Selects the numbers of the matching records: {@code c0}. */
    public static Sql numbers(Scope scope, Sql condition) {
        return select(scope.register(), List.of())
                .add(scope.source())
                .add(" and ")
                .add(condition);
    }

    /** Counts matching rows, but stops looking beyond the cap. */
    public static Sql count(Scope scope, Sql condition, Optional<Integer> cap) {
        if (cap.isEmpty()) {
            return new Sql()
                    .add("select count(*)")
                    .add(scope.source())
                    .add(" and ")
                    .add(condition);
        }
        return new Sql()
                .add("select count(*) from (select 1")
                .add(scope.source())
                .add(" and ")
                .add(condition)
                .add(" limit ")
                .bind((long) cap.get())
                .add(") capped");
    }

    /** Counts several conditions in one pass over the scope: {@code c0}, {@code c1}, … in their order. */
    public static Sql counts(Scope scope, List<Sql> conditions) {
        Sql sql = new Sql().add("select ");
        for (int i = 0; i < conditions.size(); i++) {
            sql.add(i == 0 ? "" : ", ")
                    .add("count(*) filter (where ")
                    .add(conditions.get(i))
                    .add(") as c" + i);
        }
        return sql.add(scope.source());
    }

    /**
     * Counts the records for each value of a field, the most frequent first; one row for those without a value.
     *
     * @param limit the most rows, 1 or more
     */
    public static Sql values(Scope scope, Sql condition, Field field, int limit) {
        String column = Where.column(field);
        boolean tags = field.type() == FieldType.TAGS;
        return new Sql()
                .add("select " + (tags ? "deft_tag" : column) + " as c0, count(*) as c1")
                .add(scope.source(Sql.of(tags ? " left join lateral unnest(" + column + ") as deft_tag on true" : "")))
                .add(" and ")
                .add(condition)
                .add(" group by 1 order by 2 desc, 1 limit ")
                .bind((long) limit);
    }

    /** The columns of an index that an order of fields walks along, to stand in its brackets. */
    public static String index(Register register, Order order) {
        return orderBy(register, order).text().substring(" order by ".length());
    }

    private static Sql orderBy(Register register, Order order) {
        Sql sql = new Sql().add(order.listed().isPresent() ? " order by deft_place, " : " order by ");
        for (Order.Key key : order.keys()) {
            sql.add(expression(key.field())).add(key.descending() ? " desc" : " asc");
            if (!key.field().required()) {
                sql.add(key.emptiesFirst() ? " nulls first" : " nulls last");
            }
            sql.add(", ");
        }
        return sql.add(Sql.identifier(register.idColumn())).add(order.numbersDescend() ? " desc" : " asc");
    }

    private static Sql behind(Register register, Order order, After after) {
        if (order.listed().isPresent()) {
            return new Sql()
                    .add("(deft_place, " + Sql.identifier(register.idColumn()) + ") > (")
                    .bind(after.values().get(0).orElseThrow())
                    .add(", ")
                    .bind(after.id())
                    .add(")");
        }
        if (after.values().size() != order.keys().size()) {
            throw new IllegalArgumentException("the page's end does not fit its order");
        }
        String id = Sql.identifier(register.idColumn());
        boolean plain =
                order.keys().stream().allMatch(k -> k.field().required() && k.descending() == order.numbersDescend());
        if (plain) {
            // A row comparison is what the planner turns into one index range.
            Sql names = new Sql().add("(");
            Sql values = new Sql().add("(");
            for (int i = 0; i < order.keys().size(); i++) {
                names.add(expression(order.keys().get(i).field())).add(", ");
                values.compare(after.values().get(i).orElseThrow()).add(", ");
            }
            return names.add(id)
                    .add(order.numbersDescend() ? ") < " : ") > ")
                    .add(values)
                    .bind(after.id())
                    .add(")");
        }
        Sql sql = new Sql().add("(");
        for (int i = 0; i <= order.keys().size(); i++) {
            sql.add(i == 0 ? "(" : " or (");
            for (int j = 0; j < i; j++) {
                sql.add(same(order.keys().get(j), after.values().get(j))).add(" and ");
            }
            if (i < order.keys().size()) {
                sql.add(beyond(order.keys().get(i), after.values().get(i)));
            } else {
                sql.add(id).add(order.numbersDescend() ? " < " : " > ").bind(after.id());
            }
            sql.add(")");
        }
        return sql.add(")");
    }

    private static Sql same(Order.Key key, Optional<Object> value) {
        return value.map(v -> new Sql().add(expression(key.field()) + " = ").compare(v))
                .orElseGet(() -> Sql.of(Where.column(key.field()) + " is null"));
    }

    private static Sql beyond(Order.Key key, Optional<Object> value) {
        String column = Where.column(key.field());
        boolean emptiesFollow = !key.field().required() && !key.emptiesFirst();
        return value.map(v -> new Sql()
                        .add("(" + expression(key.field()) + (key.descending() ? " < " : " > "))
                        .compare(v)
                        .add(emptiesFollow ? " or " + column + " is null)" : ")"))
                .orElseGet(() -> Sql.of(key.emptiesFirst() ? column + " is not null" : "false"));
    }

    private static String expression(Field field) {
        return Where.column(field) + (Where.isCollated(field.type()) ? " collate \"und-x-icu\"" : "");
    }

    /** Whether records can be ordered by a field. */
    public static boolean isOrderable(FieldType type) {
        return type != FieldType.TAGS && type.isStored();
    }
}
