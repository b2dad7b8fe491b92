package deftlens.server.jobs;

import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.jdbc.core.RowCallbackHandler;
import org.springframework.stereotype.Repository;

/** The rows of jobs. Times are the database's, which are the same for all servers. */
@Repository
class JobStore {

    private static final String COLUMNS =
            "select j.id, j.kind, j.about, p.full_name, j.state, j.phase, j.share, j.message, j.server, j.attempts, j.asked_at, j.started_at, j.ended_at, j.stop_asked_at is not null as stopping";

    private static final String FROM = " from job j left join person p on p.id = j.person_id";

    private final JdbcTemplate database;
    private final ObjectProvider<JobKind> kinds;

    JobStore(JdbcTemplate database, ObjectProvider<JobKind> kinds) {
        this.database = database;
        this.kinds = kinds;
    }

    /** A job as it was taken. */
    record Taken(String input, int attempt) {}

    /** A job with what it was asked to do. */
    record WithInput(Jobs.AskedJob job, String input) {}

    long add(String kind, String about, String input, Optional<Long> person) {
        return database.queryForObject(
                "insert into job (kind, about, input, person_id) values (?, ?, cast(? as jsonb), ?) returning id",
                Long.class,
                kind,
                about,
                input,
                person.orElse(null));
    }

    /** Who asked for a job. */
    Optional<Long> askedBy(long id) {
        return database
                .queryForList("select person_id from job where id = ? and person_id is not null", Long.class, id)
                .stream()
                .findFirst();
    }

    /** Takes a job, unless it is done or stopped meanwhile. */
    Optional<Taken> take(long id, String server) {
        return database.query("""
                        update job set state = 'RUNNING', server = ?, attempts = attempts + 1,
                            started_at = coalesce(started_at, clock_timestamp())
                        where id = ? and state in ('WAITING', 'RUNNING') and stop_asked_at is null
                        returning cast(input as text), attempts""", (row, n) -> new Taken(row.getString(1), row.getInt(2)), server, id).stream()
                .findFirst();
    }

    /** @return whether somebody asked for it to be stopped */
    boolean beat(long id, String phase, double share) {
        return database
                .queryForList(
                        "update job set phase = ?, share = ? where id = ? returning stop_asked_at is not null",
                        Boolean.class,
                        phase,
                        share,
                        id)
                .stream()
                .anyMatch(Boolean::booleanValue);
    }

    /** @return whether it was still to be done */
    boolean done(long id, String message) {
        return database.update(
                        "update job set state = 'DONE', message = ?, share = 1, ended_at = clock_timestamp() where id = ? and state = 'RUNNING' and stop_asked_at is null",
                        message,
                        id)
                == 1;
    }

    /** Notes that work is done that did not say so itself. */
    void finish(long id) {
        database.update(
                "update job set state = 'DONE', share = 1, ended_at = clock_timestamp() where id = ? and state = 'RUNNING'",
                id);
    }

    /** Notes an end other than that it is done. */
    void end(long id, Jobs.State state, String message) {
        database.update(
                "update job set state = ?, message = ?, ended_at = clock_timestamp() where id = ? and state in ('WAITING', 'RUNNING')",
                state.name(),
                message,
                id);
    }

    /**
     * Notes that another server is to begin it again.
     *
     * @param tried whether its server had what it takes; not where that was only stopped
     */
    void giveBack(long id, boolean tried) {
        database.update(
                "update job set state = 'WAITING', server = null, attempts = attempts - ? where id = ? and state = 'RUNNING'",
                tried ? 0 : 1,
                id);
    }

    /** Asks for a job to be stopped; one that nobody has begun is stopped at once. */
    void askToStop(long id) {
        database.update(
                "update job set stop_asked_at = clock_timestamp(), state = case state when 'WAITING' then 'STOPPED' else state end, ended_at = case state when 'WAITING' then clock_timestamp() end where id = ? and state in ('WAITING', 'RUNNING')",
                id);
    }

    Optional<Jobs.AskedJob> find(long id) {
        return database.query(COLUMNS + FROM + " where j.id = ?", this::job, id).stream()
                .findFirst();
    }

    List<Jobs.AskedJob> latest(int limit) {
        return database.query(
                COLUMNS + FROM + " order by j.state in ('WAITING', 'RUNNING') desc, j.id desc limit ?",
                this::job,
                limit);
    }

    List<WithInput> ofKind(String kind, String about, Duration ended) {
        return database.query(
                COLUMNS + ", cast(j.input as text) as input" + FROM
                        + " where j.kind = ? and j.about = ? and (j.ended_at is null or j.ended_at > clock_timestamp() - ? * interval '1 second') order by j.id desc limit 50",
                (row, n) -> new WithInput(job(row, n), row.getString("input")),
                kind,
                about,
                ended.toSeconds());
    }

    private Jobs.AskedJob job(ResultSet row, int number) throws SQLException {
        return new Jobs.AskedJob(
                row.getLong("id"),
                label(row.getString("kind")),
                row.getString("about"),
                Optional.ofNullable(row.getString("full_name")),
                Jobs.State.valueOf(row.getString("state")),
                row.getString("phase"),
                row.getDouble("share"),
                row.getString("message"),
                Optional.ofNullable(row.getString("server")),
                row.getInt("attempts"),
                instant(row, "asked_at").orElseThrow(),
                instant(row, "started_at"),
                instant(row, "ended_at"),
                row.getBoolean("stopping"));
    }

    /** A kind in words; one that there is no more is called as its rows have it. */
    private String label(String kind) {
        return kinds.stream()
                .filter(k -> k.name().equals(kind))
                .map(JobKind::label)
                .findFirst()
                .orElse(kind);
    }

    private static Optional<Instant> instant(ResultSet row, String column) throws SQLException {
        return Optional.ofNullable(row.getObject(column, OffsetDateTime.class)).map(OffsetDateTime::toInstant);
    }

    void round(String kind, boolean failed, String message, String server, Instant startedAt, Instant endedAt) {
        database.update(
                """
                insert into job_round (kind, state, message, server, started_at, ended_at) values (?, ?, ?, ?, ?, ?)
                on conflict (kind) do update set state = excluded.state, message = excluded.message,
                    server = excluded.server, started_at = excluded.started_at, ended_at = excluded.ended_at""",
                kind,
                failed ? "FAILED" : "DONE",
                message,
                server,
                startedAt.atOffset(java.time.ZoneOffset.UTC),
                endedAt.atOffset(java.time.ZoneOffset.UTC));
    }

    /** The last round of each kind of work that the clock begins. */
    Map<String, Jobs.JobRound> rounds() {
        Map<String, Jobs.JobRound> rounds = new HashMap<>();
        database.query("select kind, state, message, server, started_at, ended_at from job_round", (RowCallbackHandler)
                row -> rounds.put(
                        row.getString("kind"),
                        new Jobs.JobRound(
                                row.getString("state").equals("FAILED"),
                                row.getString("message"),
                                row.getString("server"),
                                instant(row, "started_at").orElseThrow(),
                                instant(row, "ended_at").orElseThrow())));
        return rounds;
    }

    /** Takes out what ended longer ago. */
    int forget(Duration ago) {
        return database.update(
                "delete from job where ended_at < clock_timestamp() - ? * interval '1 second'", ago.toSeconds());
    }
}
