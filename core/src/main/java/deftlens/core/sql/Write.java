package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The SQL that writes records into a register's own table. Values are bound, but for {@code null}. */
public final class Write {

    private Write() {}

    /**
     * Inserts records with the same fields and returns their numbers: {@code id}.
     *
     * @param fields the fields that have values
     * @param rows the values of each record in the order of the fields; empty for none
     */
    public static Sql insert(Register register, List<Field> fields, List<List<Optional<Object>>> rows) {
        if (fields.isEmpty()) {
            return Sql.of("insert into " + register.table() + " default values returning id");
        }
        Sql sql = new Sql().add("insert into " + register.table() + " (");
        for (int i = 0; i < fields.size(); i++) {
            sql.add((i == 0 ? "" : ", ") + Where.column(fields.get(i)));
        }
        sql.add(") values ");
        for (int r = 0; r < rows.size(); r++) {
            sql.add(r == 0 ? "(" : ", (");
            for (int i = 0; i < fields.size(); i++) {
                sql.add(i == 0 ? "" : ", ").add(value(fields.get(i), rows.get(r).get(i)));
            }
            sql.add(")");
        }
        return sql.add(" returning id");
    }

    /**
     * Changes one record, unless a field that is to be as somebody saw it is not so any more.
     *
     * @param id the record's number
     * @param values the new values by field
     * @param was the values that the fields are to have before; empty for none
     */
    public static Sql update(
            Register register, long id, Map<Field, Optional<Object>> values, Map<Field, Optional<Object>> was) {
        Sql sql = new Sql().add("update " + register.table() + " set ");
        String comma = "";
        for (Map.Entry<Field, Optional<Object>> entry : values.entrySet()) {
            sql.add(comma + Where.column(entry.getKey()) + " = ").add(value(entry.getKey(), entry.getValue()));
            comma = ", ";
        }
        sql.add(" where id = ").bind(id);
        was.forEach((field, value) -> sql.add(" and " + Where.column(field) + " is not distinct from ")
                .add(value(field, value)));
        return sql;
    }

    /** The condition that a record has one of the numbers. */
    public static Sql numbered(Register register, List<Long> ids) {
        return new Sql()
                .add(Sql.identifier(register.idColumn()) + " = any(cast(cast(")
                .bind(ids.stream().map(String::valueOf).toArray(String[]::new))
                .add(" as text[]) as bigint[]))");
    }

    private static Sql value(Field field, Optional<Object> value) {
        if (value.isEmpty()) {
            return Sql.of(field.type() == FieldType.TAGS ? "'{}'" : "null");
        }
        if (value.get() instanceof List<?> tags) {
            return new Sql().add("cast(").bind(tags.toArray(String[]::new)).add(" as text[])");
        }
        return new Sql().bind(value.get());
    }
}
