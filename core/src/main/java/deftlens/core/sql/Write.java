package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * The SQL that writes records into a register's own table, and notes in the same statement what was written. Values are bound, but for
 * {@code null}.
 *
 * <p>What is noted is said by whoever keeps it: a statement without an end of its own over {@value #WRITTEN}, the records that were
 * written: {@code id}, {@code before} and {@code after}, JSON objects of the values that changed, by field; {@code before} is
 * {@code null} of records that were made, {@code after} of those that were taken away.
 */
public final class Write {

    /** The name of the records that a statement wrote. */
    public static final String WRITTEN = "deft_written";

    private static final String NOTHING = "cast('{}' as jsonb)";
    /** A function takes a hundred arguments at the most. */
    private static final int MEMBERS_AT_ONCE = 50;

    private Write() {}

    /**
     * Inserts records with the same fields and returns their numbers: {@code id}.
     *
     * @param fields the fields that have values
     * @param rows the values of each record in the order of the fields; empty for none
     * @param note what notes them
     */
    public static Sql insert(Register register, List<Field> fields, List<List<Optional<Object>>> rows, Sql note) {
        Sql sql = new Sql().add("insert into " + register.table());
        if (fields.isEmpty()) {
            sql.add(" default values");
        } else {
            sql.add(" (" + columns(fields) + ") values ");
            for (int r = 0; r < rows.size(); r++) {
                sql.add(r == 0 ? "(" : ", (");
                for (int i = 0; i < fields.size(); i++) {
                    sql.add(i == 0 ? "" : ", ")
                            .add(value(fields.get(i), rows.get(r).get(i)));
                }
                sql.add(")");
            }
        }
        return with(sql.add(" returning " + made(register, fields)), note, "id");
    }

    /**
     * Changes one record, unless a field that is to be as somebody saw it is not so any more; selects how many records there were to
     * change, 1 or 0.
     *
     * @param id the record's number
     * @param values the new values by field
     * @param was the values that the fields are to have before; empty for none
     * @param note what notes it
     */
    public static Sql update(
            Register register,
            long id,
            Map<Field, Optional<Object>> values,
            Map<Field, Optional<Object>> was,
            Sql note) {
        Sql old = new Sql().add(" where r.id = ").bind(id);
        was.forEach((field, value) -> old.add(" and r." + Where.column(field) + " is not distinct from ")
                .add(value(field, value)));
        Sql set = new Sql();
        for (Map.Entry<Field, Optional<Object>> entry : values.entrySet()) {
            set.add((set.values().isEmpty() && set.text().isEmpty() ? "" : ", ") + Where.column(entry.getKey()) + " = ")
                    .add(value(entry.getKey(), entry.getValue()));
        }
        return changed(register, values.keySet(), new Sql(), old, set, note);
    }

    /**
     * Changes records, and selects how many.
     *
     * @param fields the fields that are written
     * @param carried what of other tables the new values need, each behind a comma: {@code , s.due as n0}
     * @param old where the records come from that change, {@code r}: joins and conditions behind the table
     * @param set the new values, {@code due = o.n0, …}; what was carried is in {@code o}
     */
    static Sql changed(Register register, Collection<Field> fields, Sql carried, Sql old, Sql set, Sql note) {
        StringBuilder columns = new StringBuilder();
        StringBuilder before = new StringBuilder(NOTHING);
        StringBuilder after = new StringBuilder(NOTHING);
        int at = 0;
        for (Field field : fields) {
            String column = Where.column(field);
            columns.append(", r.").append(column).append(" as v").append(at);
            String is = "r." + column;
            String differ = " || case when o.v" + at + " is distinct from " + is + " then jsonb_build_object("
                    + literal(field.key()) + ", ";
            String same = ") else " + NOTHING + " end";
            before.append(differ).append("o.v").append(at).append(same);
            after.append(differ).append(is).append(same);
            at++;
        }
        // What was is carried into the update, which returns both. Joined afterwards, each would be compared with each:
        // the database expects one row of a statement inside of another.
        Sql writing = new Sql()
                .add("update " + register.table() + " r set ")
                .add(set)
                .add(" from deft_old o where r.id = o.id returning r.id, " + before + " as before, " + after
                        + " as after");
        return new Sql()
                .add("with deft_old as materialized (select r.id" + columns)
                .add(carried)
                .add(" from " + register.table() + " r")
                .add(old)
                .add(" for update of r), ")
                .add(noted(writing, note, "count(*)"));
    }

    /**
     * Takes records away, and selects how many.
     *
     * @param fields the fields that are noted, all that have a column
     * @param which the condition of those that go, over {@code r}
     */
    public static Sql delete(Register register, List<Field> fields, Sql which, Sql note) {
        Sql sql = new Sql()
                .add("delete from " + register.table() + " r where ")
                .add(which)
                .add(" returning r.id, " + filled(fields, "r.") + " as before, cast(null as jsonb) as after");
        return with(sql, note, "count(*)");
    }

    /**
     * Gives records the values back that were noted of them, and selects how many. What was not noted stays as it is.
     *
     * @param fields those that are given back
     * @param noted what selects them: {@code record_id}, {@code before}
     * @param which the condition of the records that are restored, over {@code r}
     */
    public static Sql restore(Register register, List<Field> fields, Sql noted, Sql which, Sql note) {
        StringBuilder carried = new StringBuilder();
        StringBuilder set = new StringBuilder();
        for (int i = 0; i < fields.size(); i++) {
            String column = Where.column(fields.get(i));
            carried.append(", case when b.before -> " + literal(fields.get(i).key()) + " is not null then p." + column
                    + " else r." + column + " end as n" + i);
            set.append(i == 0 ? "" : ", ").append(column).append(" = o.n").append(i);
        }
        Sql old = new Sql()
                .add(" join (")
                .add(noted)
                .add(") b on b.record_id = r.id" + values(register, fields) + " where ")
                .add(which);
        return changed(register, fields, Sql.of(carried.toString()), old, Sql.of(set.toString()), note);
    }

    /**
     * Makes records again that were taken away, under their numbers, and selects how many.
     *
     * @param fields all that have a column
     * @param noted what selects them: {@code record_id}, {@code before}
     */
    public static Sql giveBack(Register register, List<Field> fields, Sql noted, Sql note) {
        // A field that came after they were taken away was not noted of them; tags are never null.
        String values = fields.stream()
                .map(f -> f.type() == FieldType.TAGS
                        ? "coalesce(p." + Where.column(f) + ", '{}')"
                        : "p." + Where.column(f))
                .collect(Collectors.joining(", "));
        Sql sql = new Sql()
                .add("insert into " + register.table() + " (" + Sql.identifier(register.idColumn()) + ", "
                        + columns(fields) + ") select b.record_id, " + values + " from (")
                .add(noted)
                .add(") b" + values(register, fields) + " returning " + made(register, List.of()));
        return with(sql, note, "count(*)");
    }

    /** The values that are noted by field as those of columns: {@code p}. */
    private static String values(Register register, List<Field> fields) {
        return " cross join lateral jsonb_populate_record(cast(null as " + register.table() + "), "
                + object(fields, f -> literal(f.column()), f -> "b.before -> " + literal(f.key()))
                + ") p";
    }

    private static Sql noted(Sql writing, Sql note, String selected) {
        return new Sql()
                .add(WRITTEN + " as (")
                .add(writing)
                .add("), deft_noted as (")
                .add(note)
                .add(") select " + selected + " from " + WRITTEN);
    }

    static Sql with(Sql writing, Sql note, String selected) {
        return new Sql().add("with ").add(noted(writing, note, selected));
    }

    /** What is noted of records that are made: their values. */
    static String made(Register register, List<Field> fields) {
        return Sql.identifier(register.idColumn()) + " as id, cast(null as jsonb) as before, " + filled(fields, "")
                + " as after";
    }

    /** The values of a record as JSON, by field; without those that are empty. */
    private static String filled(List<Field> fields, String table) {
        return "jsonb_strip_nulls(" + object(fields, f -> literal(f.key()), f -> table + Where.column(f)) + ")";
    }

    private static String object(List<Field> fields, Function<Field, String> name, Function<Field, String> value) {
        StringBuilder json = new StringBuilder(NOTHING);
        for (int from = 0; from < fields.size(); from += MEMBERS_AT_ONCE) {
            json.append(" || jsonb_build_object(")
                    .append(fields.subList(from, Math.min(fields.size(), from + MEMBERS_AT_ONCE)).stream()
                            .map(f -> name.apply(f) + ", " + value.apply(f))
                            .collect(Collectors.joining(", ")))
                    .append(")");
        }
        return json.toString();
    }

    static String columns(List<Field> fields) {
        return String.join(", ", fields.stream().map(Where::column).toList());
    }

    /** The name of a field or a column as a text. */
    private static String literal(String name) {
        return "'" + name.replace("'", "''") + "'";
    }

    /** The condition that a record has one of the numbers. */
    public static Sql numbered(Register register, List<Long> ids) {
        return new Sql()
                .add(Sql.identifier(register.idColumn()) + " = any(cast(cast(")
                .bind(ids.stream().map(String::valueOf).toArray(String[]::new))
                .add(" as text[]) as bigint[]))");
    }

    static Sql value(Field field, Optional<Object> value) {
        if (value.isEmpty()) {
            return Sql.of(field.type() == FieldType.TAGS ? "'{}'" : "null");
        }
        if (value.get() instanceof List<?> tags) {
            return new Sql().add("cast(").bind(tags.toArray(String[]::new)).add(" as text[])");
        }
        return new Sql().bind(value.get());
    }
}
