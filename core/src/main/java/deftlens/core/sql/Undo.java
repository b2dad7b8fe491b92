package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.Register;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.IntStream;

/**
 * The SQL that takes a set of changes back: what it changed or took away is as it was before, what it made goes. What was written
 * since by anybody stays as it is.
 *
 * @param register the register, with a table of its own
 * @param past the table of what its records were
 * @param set the number of the set
 * @param made selects the numbers of the records that it made
 */
public record Undo(Register register, String past, long set, Sql made) {

    /** A former record that the set ended: {@code p}. */
    private Sql ended() {
        return new Sql().add(past + " p where p." + until() + " = ").bind(set);
    }

    private static String until() {
        return Sql.identifier(Stood.UNTIL);
    }

    private static String since() {
        return Sql.identifier(Stood.SINCE);
    }

    private String id() {
        return Sql.identifier(register.idColumn());
    }

    /** Whether the set wrote a record that is there, and nobody since. */
    private Sql isLast(String record) {
        return new Sql().add(record + "." + since() + " = ").bind(set);
    }

    /** Whether the set took a former record away, rather than changing it. */
    private Sql isTakenAway() {
        return new Sql()
                .add("not exists (select from " + past + " q where q." + id() + " = p." + id() + " and q." + since()
                        + " = ")
                .bind(set)
                .add(") and not exists (select from " + register.table() + " t where t." + id() + " = p." + id()
                        + " and t." + since() + " = ")
                .bind(set)
                .add(")");
    }

    private String isThere() {
        return "exists (select from " + register.table() + " r where r." + id() + " = p." + id() + ")";
    }

    /**
     * Selects how many records would be as they were, how many would come back, how many would go, and how many the set wrote
     * that were written since and stay.
     */
    public Sql extent() {
        Sql restored = new Sql()
                .add("(select count(*) from ")
                .add(ended())
                .add(" and exists (select from " + register.table() + " r where r." + id() + " = p." + id() + " and ")
                .add(isLast("r"))
                .add("))");
        Sql returned = new Sql()
                .add("(select count(*) from ")
                .add(ended())
                .add(" and not " + isThere() + " and ")
                .add(isTakenAway())
                .add(")");
        Sql gone = new Sql()
                .add("(select count(*) from " + register.table() + " r where ")
                .add(isMade())
                .add(")");
        Sql written = new Sql()
                .add("(select count(*) from (select p." + id() + " from ")
                .add(ended())
                .add(" union select * from (")
                .add(made)
                .add(") m) w)");
        return new Sql()
                .add("select restored, returned, gone, written - restored - returned - gone from (select ")
                .add(restored)
                .add(" as restored, ")
                .add(returned)
                .add(" as returned, ")
                .add(gone)
                .add(" as gone, ")
                .add(written)
                .add(" as written) e");
    }

    private Sql isMade() {
        return new Sql()
                .add("r." + id() + " in (")
                .add(made)
                .add(") and ")
                .add(isLast("r"))
                .add(" and not exists (select from " + past + " p where p." + id() + " = r." + id() + " and p."
                        + until() + " = ")
                .bind(set)
                .add(")");
    }

    /** Takes away what the set made, and selects how many. */
    public Sql takeAway(List<Field> fields, Sql note) {
        return Write.delete(register, fields, isMade(), note);
    }

    /** Gives what the set changed its former values, and selects how many. */
    public Sql restore(List<Field> fields, Sql note) {
        String carried = IntStream.range(0, fields.size())
                .mapToObj(i -> ", p." + Where.column(fields.get(i)) + " as n" + i)
                .collect(Collectors.joining());
        String values = IntStream.range(0, fields.size())
                .mapToObj(i -> Where.column(fields.get(i)) + " = o.n" + i)
                .collect(Collectors.joining(", "));
        Sql old = new Sql()
                .add(" join " + past + " p on p." + id() + " = r." + id() + " and p." + until() + " = ")
                .bind(set)
                .add(" where ")
                .add(isLast("r"));
        return Write.changed(register, fields, Sql.of(carried), old, Sql.of(values), note);
    }

    /** Makes the records again that the set took away, under their numbers, and selects how many. */
    public Sql giveBack(List<Field> fields, Sql note) {
        String columns = Write.columns(fields);
        String values = fields.stream().map(f -> "p." + Where.column(f)).collect(Collectors.joining(", "));
        Sql sql = new Sql()
                .add("insert into " + register.table() + " (" + id() + ", " + columns + ") select p." + id() + ", "
                        + values + " from ")
                .add(ended())
                .add(" and not " + isThere() + " and ")
                .add(isTakenAway())
                .add(" returning " + Write.made(register, fields));
        return Write.with(sql, note, "count(*)");
    }
}
