package deftlens.server.jobs;

import java.sql.SQLException;
import org.postgresql.PGConnection;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.ObjectMapper;

/** One run of a job on this server. The work tells how far it is; others may stop it from anywhere. */
public final class JobRun {

    private static final Logger LOG = LoggerFactory.getLogger(JobRun.class);

    private final long id;
    private final String input;
    private final JobStore store;
    private final ObjectMapper json;
    private volatile String phase = "";
    private volatile double share;
    private volatile Runnable beat = () -> {};
    private boolean stopped;
    private boolean givenBack;
    private PGConnection working;

    JobRun(long id, String input, JobStore store, ObjectMapper json) {
        this.id = id;
        this.input = input;
        this.store = store;
        this.json = json;
    }

    /** It was stopped: by somebody, or because its server goes away. */
    public static final class Stopped extends RuntimeException {
        private static final long serialVersionUID = 1;

        Stopped() {
            super("the job was stopped");
        }
    }

    /** The job's number. */
    public long id() {
        return id;
    }

    /** What was asked for. */
    public <T> T input(Class<T> type) {
        return json.readValue(input, type);
    }

    /**
     * Says what it is doing, and how much of that is done.
     *
     * @param newShare from 0 to 1
     */
    public void at(String newPhase, double newShare) {
        phase = newPhase;
        share = Math.clamp(newShare, 0, 1);
    }

    /** Is called about once a second while it runs, on another thread. */
    public void onBeat(Runnable newBeat) {
        beat = newBeat;
    }

    /**
     * Notes the connection that works for it, so that what the database is doing can be stopped; {@code null} for none any more.
     *
     * @throws Stopped where it is not wanted any more
     */
    public synchronized void working(PGConnection connection) {
        working = connection;
        if (connection != null) {
            requireWanted();
        }
    }

    /** @throws Stopped where it is not wanted any more */
    public void requireWanted() {
        if (isStopped()) {
            throw new Stopped();
        }
    }

    /** Whether somebody stopped it, or its server goes away. */
    public synchronized boolean isStopped() {
        return stopped;
    }

    /**
     * Notes that the work is done, in the transaction that writes it; so it is never done twice.
     *
     * @param message what came of it
     * @throws Stopped where it is not wanted any more, or done already
     */
    public void done(String message) {
        requireWanted();
        if (!store.done(id, message)) {
            throw new Stopped();
        }
    }

    synchronized boolean isGivenBack() {
        return givenBack;
    }

    synchronized void stop() {
        stopped = true;
        cancel();
    }

    /** Stops it here, to be begun again elsewhere. */
    synchronized void giveBack() {
        givenBack = true;
        stop();
    }

    private void cancel() {
        if (working != null) {
            try {
                working.cancelQuery();
            } catch (SQLException e) {
                LOG.warn("a job could not be stopped at once", e);
            }
        }
    }

    /** Tells the row how far it is, and hears from it whether it is wanted. */
    void beat() {
        if (store.beat(id, phase, share)) {
            stop();
        }
        beat.run();
    }
}
