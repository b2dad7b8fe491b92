package deftlens.server.question;

import deftlens.core.sql.Sql;
import deftlens.server.lanes.Attempt;
import deftlens.server.registers.Origin;
import deftlens.server.values.Parameters;
import deftlens.server.values.RowReader;
import jakarta.persistence.EntityManager;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Supplier;
import org.hibernate.Session;
import org.postgresql.PGConnection;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.TransactionDefinition;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Runs the SQL of questions, and nothing else does. Each query is made in a transaction that only reads (the caller's, where
 * there is one), ends at its time, and is stopped where the {@link Attempt} that it belongs to is stopped.
 *
 * <p>The time limit and the query go to the database together, so that a question costs one way there and back.
 */
@Component
public class QueryRunner {

    private static final int FETCHED_AT_ONCE = 2_000;

    /** Both hold to the end of the transaction only. */
    private static final String LIMITS =
            "select set_config('statement_timeout', ?, true), set_config('max_parallel_workers_per_gather', ?, true);";

    private static final int LIMIT_PARAMETERS = 2;
    private static final String ONE_PROCESSOR = "0";
    private static final String MORE_PROCESSORS = "2";

    private final EntityManager entities;
    private final TransactionTemplate reading;
    private final TransactionTemplate apart;
    private final Duration patience;

    QueryRunner(
            EntityManager entities,
            PlatformTransactionManager transactions,
            @Value("${deft.limits.statement-timeout}") Duration patience) {
        this.entities = entities;
        this.patience = patience;
        this.reading = new TransactionTemplate(transactions);
        reading.setReadOnly(true);
        this.apart = new TransactionTemplate(transactions);
        apart.setReadOnly(true);
        apart.setPropagationBehavior(TransactionDefinition.PROPAGATION_REQUIRES_NEW);
    }

    /** The longest that one query may take. */
    public Duration patience() {
        return patience;
    }

    /** Does work in a transaction of its own, since a query that takes too long ends the transaction it is in. */
    public <T> T apart(Supplier<T> work) {
        return apart.execute(s -> work.get());
    }

    /** All rows of a query. */
    public <T> List<T> list(Question question, Sql sql, RowReader<T> reader) {
        return list(question, sql, patience, reader);
    }

    /** All rows of a query that may take so long at the most. */
    public <T> List<T> list(Question question, Sql sql, Duration within, RowReader<T> reader) {
        return run(question, sql, within, rows -> {
            List<T> found = new ArrayList<>();
            while (rows.next()) {
                found.add(reader.read(rows));
            }
            return found;
        });
    }

    /**
     * The one row of a query that always has one, such as a count.
     *
     * @throws IllegalStateException where it has none
     */
    public <T> T single(Question question, Sql sql, Duration within, RowReader<T> reader) {
        return run(question, sql, within, rows -> {
            if (!rows.next()) {
                throw new IllegalStateException("a query that always has a row had none");
            }
            return reader.read(rows);
        });
    }

    /** The one row of a query that always has one. */
    public <T> T single(Question question, Sql sql, RowReader<T> reader) {
        return single(question, sql, patience, reader);
    }

    /** The number that a query counts. */
    public long number(Question question, Sql sql) {
        return number(question, sql, patience);
    }

    /** The number that a query counts, in so long at the most. */
    public long number(Question question, Sql sql, Duration within) {
        return single(question, sql, within, row -> row.getLong(1));
    }

    /** The numbers that a query counts side by side. */
    public List<Long> numbers(Question question, Sql sql, Duration within) {
        return single(question, sql, within, row -> {
            List<Long> numbers = new ArrayList<>();
            for (int i = 1; i <= row.getMetaData().getColumnCount(); i++) {
                numbers.add(row.getLong(i));
            }
            return numbers;
        });
    }

    /** Hands each row of a query over as it comes, without keeping it. */
    public <T> void stream(Question question, Sql sql, RowReader<T> reader, Consumer<T> each) {
        tracked(question, connection -> {
            try (PreparedStatement limits = connection.prepareStatement(LIMITS)) {
                limit(limits, patience);
                limits.execute();
            }
            try (PreparedStatement statement = connection.prepareStatement(sql.text())) {
                statement.setFetchSize(FETCHED_AT_ONCE);
                Parameters.bind(statement, 1, sql.values());
                try (ResultSet rows = statement.executeQuery()) {
                    while (rows.next()) {
                        each.accept(reader.read(rows));
                    }
                }
            }
            return Optional.empty();
        });
    }

    @FunctionalInterface
    private interface OnResult<T> {
        T read(ResultSet rows) throws SQLException;
    }

    @FunctionalInterface
    private interface OnConnection<T> {
        T run(Connection connection) throws SQLException;
    }

    private <T> T run(Question question, Sql sql, Duration within, OnResult<T> result) {
        return tracked(question, connection -> {
            try (PreparedStatement statement = connection.prepareStatement(LIMITS + sql.text())) {
                limit(statement, within);
                Parameters.bind(statement, 1 + LIMIT_PARAMETERS, sql.values());
                statement.execute();
                statement.getMoreResults();
                try (ResultSet rows = statement.getResultSet()) {
                    return result.read(rows);
                }
            }
        });
    }

    private static void limit(PreparedStatement statement, Duration within) throws SQLException {
        Optional<Attempt> attempt = Attempt.current();
        Duration left = attempt.map(a -> a.within(within)).orElse(within);
        statement.setString(1, String.valueOf(left.toMillis()));
        // Where others ask too, nobody has more than one processor.
        statement.setString(2, attempt.map(Attempt::isAlone).orElse(true) ? MORE_PROCESSORS : ONE_PROCESSOR);
    }

    private <T> T tracked(Question question, OnConnection<T> work) {
        return reading.execute(s -> entities.unwrap(Session.class).doReturningWork(connection -> {
            Optional<Attempt> attempt = Attempt.current();
            try (Attempt.Tracking tracking = attempt.isPresent()
                    ? attempt.get().track(connection.unwrap(PGConnection.class))
                    : Attempt.Tracking.NONE) {
                return work.run(connection);
            } catch (SQLException e) {
                if (!question.registerForReader().can(Origin.Capability.GUARDED) && ChangedTable.isBehind(e)) {
                    throw ChangedTable.problem(question.registerForReader());
                }
                throw e;
            }
        }));
    }
}
