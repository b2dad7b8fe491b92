package deftlens.core.sql;

import java.util.List;

/**
 * Which changes of a register had been made at a moment, so that its records can be read as they stood then. Sets of changes are
 * numbered when they begin, and are seen when they end: all up to a number had ended, and some of the later ones.
 *
 * <p>Both are asked in the statement that reads the records, and so of the same moment: what ends between two statements would be
 * in the one and not in the other.
 *
 * @param upTo the highest number up to which all had ended: an expression that depends on no record
 * @param besides the numbers above it that had ended, too: an array of them
 */
public record Stood(Sql upTo, Sql besides) {

    /** The column of a record with the set of changes that made it what it is; none where that was before any. */
    public static final String SINCE = "@since";

    /** The column of a former record with the set of changes that ended it. */
    public static final String UNTIL = "@until";

    /**
     * The records as they stood, as a query in brackets with a name. Its conditions are outside of the union, where PostgreSQL hands
     * them down to both of its parts, and so walks along the indexes of both for an order or a window.
     *
     * @param present the table of the records
     * @param past the table of former records, with the same columns
     * @param columns the columns that are read, already quoted
     * @param name what it is called, already quoted
     */
    public Sql records(String present, String past, List<String> columns, String name) {
        String read = String.join(", ", columns);
        String since = Sql.identifier(SINCE);
        String until = Sql.identifier(UNTIL);
        return new Sql()
                .add("(select " + read + " from (select " + read + ", " + since + ", cast(null as bigint) as " + until
                        + " from " + present + " union all select " + read + ", " + since + ", " + until + " from "
                        + past
                        + ") deft_ever where (")
                .add(ended(since))
                .add(") is not false and (not (")
                .add(ended(until))
                .add(")) is not false) as " + name);
    }

    /** Whether a set had ended; unknown where there is none. */
    private Sql ended(String set) {
        return new Sql()
                .add(set + " <= ")
                .add(upTo)
                .add(" or " + set + " = any(")
                .add(besides)
                .add(")");
    }
}
