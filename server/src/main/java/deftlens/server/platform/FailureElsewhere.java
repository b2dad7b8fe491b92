package deftlens.server.platform;

import java.util.Optional;
import org.postgresql.util.PSQLException;
import org.postgresql.util.ServerErrorMessage;

/** Tells what failed on a linked server from what failed in our own database. */
public final class FailureElsewhere {

    private FailureElsewhere() {}

    /** What the linked server says, if it is what is behind an exception. */
    public static Optional<String> behind(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof PSQLException sql && sql.getServerErrorMessage() != null) {
                ServerErrorMessage message = sql.getServerErrorMessage();
                String state = String.valueOf(message.getSQLState());
                boolean remote = state.startsWith("HV")
                        // Our own database cannot tell us in words that it is out of reach.
                        || state.startsWith("08")
                        || String.valueOf(message.getWhere()).contains("remote SQL command");
                if (remote) {
                    return Optional.of(String.valueOf(message.getMessage()));
                }
            }
        }
        return Optional.empty();
    }
}
