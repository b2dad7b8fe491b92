package deftlens.server.imports;

import deftlens.server.changes.ChangeSet;
import deftlens.server.jobs.JobRun;
import deftlens.server.platform.AsText;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.postgresql.PGConnection;

/** One file on its way into a register, on the server that does it. */
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
            Optional<Instant> endedAt) {

        /** The same run, at a phase. */
        ShownRun at(String nowPhase, double nowShare) {
            return new ShownRun(
                    id,
                    register,
                    madeRegister,
                    fileName,
                    by,
                    state,
                    nowPhase,
                    nowShare,
                    read,
                    expected,
                    added,
                    updated,
                    skipped,
                    refused,
                    message,
                    refusals,
                    backOf,
                    hasWayBack,
                    startedAt,
                    endedAt);
        }
    }

    /** How many rows a run has read, and what became of them. */
    record Counts(long read, long added, long updated, long skipped, long refused) {}

    final long id;
    private final JobRun job;
    private final long expected;
    private final List<Refusal> refusals = new ArrayList<>();
    private Optional<String> register = Optional.empty();
    private boolean made;
    private Optional<Long> changes = Optional.empty();
    private String phase = "reading";
    private long read;
    private long added;
    private long updated;
    private long skipped;
    private long refused;

    /**
     * A run that begins.
     *
     * @param expected how many rows it is about
     */
    ImportRun(long id, JobRun job, long expected) {
        this.id = id;
        this.job = job;
        this.expected = expected;
        share(0, 1);
    }

    /** Says where it writes. */
    synchronized void into(String key, boolean madeForIt) {
        register = Optional.of(key);
        made = madeForIt;
    }

    synchronized Optional<String> register() {
        return register;
    }

    synchronized boolean isMade() {
        return made;
    }

    /** Says by which set of changes it writes. */
    synchronized void writes(ChangeSet set) {
        changes = Optional.of(set.id());
    }

    /** The set of changes by which it can be taken back; a register that was made for it is deleted instead. */
    synchronized Optional<Long> changes() {
        return made ? Optional.empty() : changes;
    }

    /** Begins another phase. */
    synchronized void phase(String words) {
        phase = words;
        share(0, 1);
    }

    /** Says how much of the phase is done, in whatever it counts. */
    synchronized void share(long soMany, long ofAll) {
        job.at(phase, (double) soMany / Math.max(1, ofAll));
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

    synchronized List<Refusal> refusals() {
        return List.copyOf(refusals);
    }

    synchronized void count(long newAdded, long newUpdated, long newSkipped) {
        added = newAdded;
        updated = newUpdated;
        skipped = newSkipped;
    }

    synchronized Counts counts() {
        return new Counts(read, added, updated, skipped, refused);
    }

    /** The same run, which wrote nothing: a register that was made for it is not there. */
    synchronized ImportRun without() {
        if (made) {
            register = Optional.empty();
            made = false;
        }
        changes = Optional.empty();
        return this;
    }

    void working(PGConnection connection) {
        job.working(connection);
    }

    void onBeat(Runnable beat) {
        job.onBeat(beat);
    }

    void requireWanted() {
        job.requireWanted();
    }

    /** Notes that it is done, in the transaction that writes. */
    void done() {
        job.done(String.format(Locale.UK, "%,d added, %,d changed, %,d left as they were", added, updated, skipped));
    }

    boolean isCancelled() {
        return job.isStopped();
    }
}
