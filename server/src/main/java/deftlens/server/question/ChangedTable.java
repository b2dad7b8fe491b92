package deftlens.server.question;

import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterForReader;
import java.sql.SQLException;
import java.util.Set;
import org.springframework.http.HttpStatus;

/** Tells a query that failed because the table behind an attached register is not what it was. */
final class ChangedTable {

    /** PostgreSQL's SQLSTATEs of what is missing, of another type, or closed: column, table, function, type, schema, right. */
    private static final Set<String> STATES = Set.of("42703", "42P01", "42883", "42804", "3F000", "42501", "42846");

    private ChangedTable() {}

    static boolean isBehind(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql && STATES.contains(sql.getSQLState())) {
                return true;
            }
        }
        return false;
    }

    static Problem problem(RegisterForReader described) {
        return new Problem(
                HttpStatus.CONFLICT,
                "table-changed",
                "The table behind “" + described.register().label()
                        + "” is not what it was. An administrator can see in the catalogue what changed, and take it as it is.");
    }
}
