package deftlens.server.records;

import deftlens.core.sql.Sql;
import deftlens.server.jobs.JobRun;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.Statements;
import jakarta.persistence.EntityManager;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.hibernate.Session;
import org.postgresql.PGConnection;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/** What changing many records and taking such a change back have in common: the right to it, the reason, the connection. */
@Component
class ManyChangeWork {

    private static final int MOST_LETTERS = 500;

    private final RegisterCatalogue registers;
    private final PeopleService people;
    private final EntityManager entities;
    private final Duration patience;

    ManyChangeWork(
            RegisterCatalogue registers,
            PeopleService people,
            EntityManager entities,
            @Value("${deft.limits.statement-timeout}") Duration patience) {
        this.registers = registers;
        this.people = people;
        this.entities = entities;
        this.patience = patience;
    }

    /** What is done on a connection. */
    @FunctionalInterface
    interface OnConnection<T> {
        T on(Connection connection) throws SQLException;
    }

    /** Looks, in as long as a question may take. */
    <T> T looking(OnConnection<T> work) {
        return on(connection -> {
            try (Statement statement = connection.createStatement()) {
                statement.execute("set local statement_timeout = " + patience.toMillis());
            }
            return work.on(connection);
        });
    }

    /** Writes, in a job that can be stopped meanwhile. */
    <T> T working(JobRun job, OnConnection<T> work) {
        return on(connection -> {
            job.working(connection.unwrap(PGConnection.class));
            try {
                return work.on(connection);
            } finally {
                job.working(null);
            }
        });
    }

    private <T> T on(OnConnection<T> work) {
        return entities.unwrap(Session.class).doReturningWork(work::on);
    }

    /** Whoever a job was begun by, as they are now. */
    SignedIn asker(long person) {
        return people.now(person)
                .map(PeopleService.Standing::who)
                .orElseThrow(() -> Problem.notFound("Whoever asked for this"));
    }

    /** The register, where the person may change many of its records. */
    RegisterForReader mine(String key, SignedIn who) {
        RecordValues.requireWriter(who);
        RegisterForReader described = registers.get(key, who);
        RecordValues.requireOwn(described);
        if (!described.mayChangeMany()) {
            throw Problem.forbidden("Changing many " + described.recordsLabel()
                    + " at once is a right of its own. An administrator gives it to a team, under Access.");
        }
        return described;
    }

    /** A reason as it is kept. */
    static String reason(String reason) {
        String why = reason.strip();
        if (!VisibleText.isVisible(why) || why.length() > MOST_LETTERS) {
            throw Problem.unprocessable("bad-value", "Say why, in at most " + MOST_LETTERS + " characters.")
                    .at("reason");
        }
        return why;
    }

    /** So many records, in words. */
    static String counted(long records) {
        return String.format(Locale.UK, "%,d", records) + (records == 1 ? " record" : " records");
    }

    /** The numbers in the one row that a statement gives. */
    static List<Long> numbers(Connection connection, Sql sql, int columns) throws SQLException {
        return Statements.list(connection, sql, row -> {
                    List<Long> numbers = new ArrayList<>();
                    for (int i = 1; i <= columns; i++) {
                        numbers.add(row.getLong(i));
                    }
                    return numbers;
                })
                .getFirst();
    }
}
