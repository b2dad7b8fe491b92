package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The SQL that writes records into a register's own table. Values are bound, but for {@code null}. What the records were before is
 * kept by the database, whoever writes.
 */
public final class Write {

    private Write() {}

    /**
     * Inserts a record and returns its number: {@code id}.
     *
     * @param fields the fields that have values
     * @param values the values in the order of the fields; empty for none
     */
    public static Sql insert(Register register, List<Field> fields, List<Optional<Object>> values) {
        Sql sql = new Sql().add("insert into " + register.table());
        if (fields.isEmpty()) {
            sql.add(" default values");
        } else {
            sql.add(" (" + columns(fields) + ") values (");
            for (int i = 0; i < fields.size(); i++) {
                sql.add(i == 0 ? "" : ", ").add(value(fields.get(i), values.get(i)));
            }
            sql.add(")");
        }
        return sql.add(" returning " + Sql.identifier(register.idColumn()) + " as id");
    }

    /**
     * Changes one record, unless a field that is to be as somebody saw it is not so any more; returns the set of changes that changed the
     * record last, which is the one that is being written only where the record did not have the values already. No row where it
     * was not changed.
     *
     * @param id the record's number
     * @param values the new values by field
     * @param was the values that the fields are to have before; empty for none
     */
    public static Sql update(
            Register register, long id, Map<Field, Optional<Object>> values, Map<Field, Optional<Object>> was) {
        Sql sql = new Sql().add("update " + register.table() + " r set ");
        boolean first = true;
        for (Map.Entry<Field, Optional<Object>> entry : values.entrySet()) {
            sql.add((first ? "" : ", ") + Where.column(entry.getKey()) + " = ")
                    .add(value(entry.getKey(), entry.getValue()));
            first = false;
        }
        sql.add(" where r." + Sql.identifier(register.idColumn()) + " = ").bind(id);
        was.forEach((field, value) -> sql.add(" and r." + Where.column(field) + " is not distinct from ")
                .add(value(field, value)));
        return sql.add(" returning r." + Sql.identifier(Stood.SINCE));
    }

    static String columns(List<Field> fields) {
        return String.join(", ", fields.stream().map(Where::column).toList());
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
