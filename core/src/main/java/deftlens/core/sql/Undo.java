package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.Register;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;

/**
 * The SQL that takes a set of changes back: what it changed or took away is as it was before, what it made goes. What was written
 * since by anybody stays as it is.
 *
 * @param register the register, with a table of its own
 * @param past the table of what its records were
 * @param set the number of the set
 * @param made between which numbers the records are that it made; absent where it made none
 */
public record Undo(Register register, String past, long set, Optional<Made> made) {

    /**
     * The numbers of the records that a set made, from the first to the last; others may have made some in between.
     */
    public record Made(long first, long last) {}

    private static final String SINCE = Sql.identifier(Stood.SINCE);
    private static final String UNTIL = Sql.identifier(Stood.UNTIL);

    private String id() {
        return Sql.identifier(register.idColumn());
    }

    /** Former records that the set ended: {@code p}. */
    private Sql ended() {
        return new Sql().add(past + " p where p." + UNTIL + " = ").bind(set);
    }

    /** Whether the set wrote a record that is there, {@code r}, and nobody since. */
    private Sql isLast() {
        return new Sql().add("r." + SINCE + " = ").bind(set);
    }

    /** Whether a record has a number such as the set gave to those that it made. */
    private Sql isNumbered(String record) {
        return made.map(m -> new Sql()
                        .add(record + "." + id() + " between ")
                        .bind(m.first())
                        .add(" and ")
                        .bind(m.last()))
                .orElseGet(() -> Sql.of("false"));
    }

    /**
     * Whether the set made a record that is there, {@code r}, and nobody wrote it since. What the set ended is looked up in a hash: of a
     * set that was just written the planner knows nothing, takes it for one record, and would go through all of them for each.
     */
    private Sql isMade() {
        return isNumbered("r")
                .add(" and ")
                .add(isLast())
                .add(" and r." + id() + " not in (select p." + id() + " from ")
                .add(ended())
                .add(")");
    }

    /** Whether the set took a former record, {@code p}, away, rather than changing it, and no record had its number since. */
    private Sql isGone() {
        return new Sql()
                .add("not exists (select from " + register.table() + " r where r." + id() + " = p." + id()
                        + ") and not exists (select from " + past + " q where q." + id() + " = p." + id() + " and (q."
                        + SINCE + " = ")
                .bind(set)
                .add(" or q." + UNTIL + " > ")
                .bind(set)
                .add("))");
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
                .add(isLast())
                .add("))");
        Sql returned = new Sql()
                .add("(select count(*) from ")
                .add(ended())
                .add(" and ")
                .add(isGone())
                .add(")");
        Sql gone = new Sql()
                .add("(select count(*) from " + register.table() + " r where ")
                .add(isMade())
                .add(")");
        Sql written = new Sql()
                .add("(select count(*) from (select p." + id() + " from ")
                .add(ended())
                .add(" union select p." + id() + " from " + past + " p where ")
                .add(isNumbered("p"))
                .add(" and p." + SINCE + " = ")
                .bind(set)
                .add(" union select r." + id() + " from " + register.table() + " r where ")
                .add(isNumbered("r"))
                .add(" and ")
                .add(isLast())
                .add(") w)");
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

    /** Selects the first and the last number of the records that would come back; of none, none. */
    public Sql returned() {
        return new Sql()
                .add("select min(p." + id() + "), max(p." + id() + ") from ")
                .add(ended())
                .add(" and ")
                .add(isGone());
    }

    /** Takes away what the set made. */
    public Sql takeAway() {
        return new Sql().add("delete from " + register.table() + " r where ").add(isMade());
    }

    /**
     * Gives what the set changed its former values.
     *
     * @param fields all fields that have a column
     */
    public Sql restore(List<Field> fields) {
        String values = fields.stream()
                .map(f -> Where.column(f) + " = p." + Where.column(f))
                .collect(Collectors.joining(", "));
        return new Sql()
                .add("update " + register.table() + " r set " + values + " from ")
                .add(ended())
                .add(" and p." + id() + " = r." + id() + " and ")
                .add(isLast());
    }

    /**
     * Makes the records again that the set took away, under their numbers.
     *
     * @param fields all fields that have a column
     */
    public Sql giveBack(List<Field> fields) {
        String values = fields.stream().map(f -> "p." + Where.column(f)).collect(Collectors.joining(", "));
        return new Sql()
                .add("insert into " + register.table() + " (" + id() + ", " + Write.columns(fields) + ") select p."
                        + id() + ", " + values + " from ")
                .add(ended())
                .add(" and ")
                .add(isGone());
    }
}
