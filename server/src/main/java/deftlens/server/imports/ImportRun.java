package deftlens.server.imports;

import deftlens.server.platform.AsText;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.postgresql.PGConnection;

/** One file on its way into a register; others may look at it and stop it while it works. */
final class ImportRun {

    /** The most refusals that are told one by one. */
    static final int MOST_TOLD = 1_000;

    /** A row that was refused. */
    record Refusal(long line, String reason) {}

    /** How far a run is. */
    enum State {
        RUNNING,
        DONE,
        REFUSED,
        CANCELLED,
        FAILED
    }

    /**
     * A run as it is shown.
     *
     * @param phase what it is doing, in words
     * @param expected how many rows the file has
     * @param refusals the refused rows with line and reason, at most {@value ImportRun#MOST_TOLD}
     */
    record ShownRun(
            @AsText long id,
            Optional<String> register,
            String fileName,
            State state,
            String phase,
            long read,
            long expected,
            long added,
            long updated,
            long skipped,
            long refused,
            String message,
            List<Refusal> refusals,
            Instant startedAt,
            Optional<Instant> endedAt) {}

    final long id;
    final long person;
    final String fileName;
    final long expected;
    final Instant startedAt;
    private final List<Refusal> refusals = new ArrayList<>();
    private State state = State.RUNNING;
    private String register;
    private String phase = "reading";
    private String message = "";
    private long read;
    private long added;
    private long updated;
    private long skipped;
    private long refused;
    private Instant endedAt;
    private volatile boolean cancelled;
    private PGConnection working;

    ImportRun(long id, long person, String fileName, long expected, Instant startedAt) {
        this.id = id;
        this.person = person;
        this.fileName = fileName;
        this.expected = expected;
        this.startedAt = startedAt;
    }

    synchronized void into(String key) {
        register = key;
    }

    synchronized void phase(String words) {
        phase = words;
    }

    synchronized void read(long rows) {
        read = rows;
    }

    synchronized void refuse(long line, String reason) {
        refused++;
        if (refusals.size() < MOST_TOLD) {
            refusals.add(new Refusal(line, reason));
        }
    }

    synchronized long refused() {
        return refused;
    }

    synchronized void count(long newAdded, long newUpdated, long newSkipped) {
        added = newAdded;
        updated = newUpdated;
        skipped = newSkipped;
    }

    synchronized void end(State as, String words, Instant at) {
        state = as;
        message = words;
        endedAt = at;
        working = null;
    }

    synchronized void working(PGConnection connection) {
        working = connection;
    }

    boolean isCancelled() {
        return cancelled;
    }

    /** Asks the run to stop; what the database is doing for it is stopped too. */
    synchronized void cancel() throws java.sql.SQLException {
        cancelled = true;
        if (working != null) {
            working.cancelQuery();
        }
    }

    synchronized ShownRun shown() {
        return new ShownRun(
                id,
                Optional.ofNullable(register),
                fileName,
                state,
                phase,
                read,
                expected,
                added,
                updated,
                skipped,
                refused,
                message,
                List.copyOf(refusals),
                startedAt,
                Optional.ofNullable(endedAt));
    }
}
