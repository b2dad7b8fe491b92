package deftlens.core.sql;

import deftlens.core.field.Register;

/**
 * The records of a register that one reader may see. Every query is made over a scope and carries its limit; there is no
 * way to write one without.
 *
 * @param register the register, with the fields that the reader may see
 * @param from what the records are read from: a table, or a bracketed query with a name, whose columns are those of the
 *     register
 * @param limit the expression that is true for the records that the reader may see
 */
public record Scope(Register register, Sql from, Sql limit) {

    /** All records in the register's own table. */
    public static Scope all(Register register) {
        return new Scope(register, Sql.of(register.table()), Sql.of("true"));
    }

    /** {@code from … where limit}, to be followed by {@code and …}. */
    Sql source() {
        return source(new Sql());
    }

    /** {@code from … join … where limit}, to be followed by {@code and …}. */
    Sql source(Sql join) {
        return new Sql().add(" from ").add(from).add(join).add(" where ").add(limit);
    }
}
