package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.Register;
import java.util.Collection;
import java.util.List;

/**
 * The SQL that reads what records were and are.
 *
 * @param register the register, with a table of its own
 * @param past the table of what its records were
 */
public record Story(Register register, String past) {

    /**
     * Selects each of some records as it is, if it is there, and as it was: its number, the values of the fields, the set of changes that
     * made it so and the one that ended it, which the record as it is has not. The latest of each come first, as far as the numbers of
     * sets tell.
     *
     * @param fields whose values are read
     * @param ids the numbers of the records
     * @param most how many of each at the most
     */
    public Sql versions(List<Field> fields, Collection<Long> ids, int most) {
        String columns = fields.isEmpty() ? "" : Write.columns(fields) + ", ";
        String since = Sql.identifier(Stood.SINCE);
        String until = Sql.identifier(Stood.UNTIL);
        String number = " where " + Sql.identifier(register.idColumn()) + " = deft_of.deft_id";
        return new Sql()
                .add("select deft_of.deft_id, v.* from unnest(cast(")
                .bind(ids.toArray(Long[]::new))
                .add(" as bigint[])) as deft_of(deft_id) cross join lateral (select " + columns + since
                        + ", cast(null as bigint) as " + until + " from " + register.table() + number
                        + " union all select " + columns + since + ", " + until + " from " + past + number
                        + " order by " + until + " desc nulls first limit " + most
                        + ") v order by deft_of.deft_id, v." + until + " desc nulls first");
    }
}
