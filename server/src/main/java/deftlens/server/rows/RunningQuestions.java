package deftlens.server.rows;

import deftlens.server.people.SignedIn;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.postgresql.PGConnection;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/**
 * The questions that the database is working on, by the name their reader gave them, so that a reader who has moved on can
 * stop them. A name works for its own person only.
 */
@Component
class RunningQuestions {

    private static final Logger LOG = LoggerFactory.getLogger(RunningQuestions.class);

    private final Map<String, PGConnection> running = new ConcurrentHashMap<>();

    /** Notes that the connection works for a question until the result is closed. */
    AutoCloseable track(SignedIn who, Optional<String> question, Connection connection) throws SQLException {
        if (question.isEmpty()) {
            return () -> {};
        }
        String key = key(who, question.get());
        PGConnection own = connection.unwrap(PGConnection.class);
        running.put(key, own);
        return () -> running.remove(key, own);
    }

    /** Stops a question if it runs. */
    void stop(SignedIn who, String question) {
        PGConnection connection = running.get(key(who, question));
        if (connection != null) {
            try {
                connection.cancelQuery();
            } catch (SQLException e) {
                LOG.warn("a question could not be stopped", e);
            }
        }
    }

    private static String key(SignedIn who, String question) {
        return who.id() + "/" + question;
    }
}
