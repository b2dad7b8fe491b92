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
     * @param madeRegister whether the register was made for it
     * @param by the full name of whoever began it
     * @param phase what it is doing, in words
     * @param expected how many rows the file has
     * @param share how much of the phase is done, from 0 to 1
     * @param backOf the import that it takes back
     * @param hasWayBack whether it can be taken back
     * @param refusals the refused rows with line and reason, at most {@value ImportRun#MOST_TOLD}
     */
    record ShownRun(
            @AsText long id,
            Optional<String> register,
            boolean madeRegister,
            String fileName,
            String by,
            State state,
            String phase,
            double share,
            long read,
            long expected,
            long added,
            long updated,
            long skipped,
            long refused,
            String message,
            List<Refusal> refusals,
            @AsText Optional<Long> backOf,
            boolean hasWayBack,
            Instant startedAt,
            Optional<Instant> endedAt) {}

    final long id;
    final String by;
    final String fileName;
    final long expected;
    final Optional<Long> backOf;
    final Instant startedAt;
    private final List<Refusal> refusals = new ArrayList<>();
    private State state = State.RUNNING;
    private String register;
    private boolean made;
    private Optional<WayBack.Mark> mark = Optional.empty();
    private String phase = "reading";
    private long done;
    private long of = 1;
    private String message = "";
    private long read;
    private long added;
    private long updated;
    private long skipped;
    private long refused;
    private Instant endedAt;
    private volatile boolean cancelled;
    private PGConnection working;

    /**
     * A run that begins.
     *
     * @param by the full name of whoever began it
     * @param expected how many rows it is about
     * @param backOf the import that it takes back
     */
    ImportRun(long id, String by, String fileName, long expected, Optional<Long> backOf, Instant startedAt) {
        this.id = id;
        this.by = by;
        this.fileName = fileName;
        this.expected = expected;
        this.backOf = backOf;
        this.startedAt = startedAt;
    }

    /** Says where it writes; {@code null} for nowhere any more. */
    synchronized void into(String key, boolean madeForIt) {
        register = key;
        made = madeForIt;
    }

    /** Says how it can be taken back. */
    synchronized void wayBack(WayBack.Mark how) {
        mark = Optional.of(how);
    }

    synchronized Optional<WayBack.Mark> mark() {
        return mark;
    }

    /** Begins another phase. */
    synchronized void phase(String words) {
        phase = words;
        share(0, 1);
    }

    /** Says how much of the phase is done, in whatever it counts. */
    synchronized void share(long soMany, long ofAll) {
        done = soMany;
        of = Math.max(1, ofAll);
    }

    synchronized void read(long rows) {
        read = rows;
        share(rows, expected);
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
                made,
                fileName,
                by,
                state,
                phase,
                Math.min(1, (double) done / of),
                read,
                expected,
                added,
                updated,
                skipped,
                refused,
                message,
                List.copyOf(refusals),
                backOf,
                // Only what is stored knows whether there is a way back; a run that goes on has none.
                false,
                startedAt,
                Optional.ofNullable(endedAt));
    }
}
