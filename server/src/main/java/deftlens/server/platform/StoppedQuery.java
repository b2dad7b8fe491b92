package deftlens.server.platform;

import java.sql.SQLException;

/** Tells a query that the database stopped, for its time or because its reader moved on, from one that failed. */
public final class StoppedQuery {

    /** PostgreSQL's SQLSTATE of a cancelled query. */
    private static final String CANCELLED = "57014";

    private StoppedQuery() {}

    /** Whether a stopped query is behind an exception. */
    public static boolean isBehind(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql && CANCELLED.equals(sql.getSQLState())) {
                return true;
            }
        }
        return false;
    }
}
