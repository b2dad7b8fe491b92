package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.Register;
import java.util.List;

/**
 * The SQL that reads what one record was and is.
 *
 * @param register the register, with a table of its own
 * @param past the table of what its records were
 */
public record Story(Register register, String past) {

    /**
     * Selects the record as it is, if it is there, and as it was: the values of the fields, the set of changes that made it so and the one
     * that ended it, which the record as it is has not. The latest come first, as far as the numbers of sets tell.
     *
     * @param fields whose values are read
     * @param most how many at the most
     */
    public Sql versions(List<Field> fields, long id, int most) {
        String columns = fields.isEmpty() ? "" : Write.columns(fields) + ", ";
        String since = Sql.identifier(Stood.SINCE);
        String until = Sql.identifier(Stood.UNTIL);
        String number = " where " + Sql.identifier(register.idColumn()) + " = ";
        return new Sql()
                .add("select " + columns + since + ", cast(null as bigint) as " + until + " from " + register.table()
                        + number)
                .bind(id)
                .add(" union all select " + columns + since + ", " + until + " from " + past + number)
                .bind(id)
                .add(" order by " + until + " desc nulls first limit " + most);
    }
}
