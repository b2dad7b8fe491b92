package deftlens.server.lanes;

import deftlens.server.platform.Problem;
import deftlens.server.platform.StoppedQuery;
import java.sql.SQLException;
import java.time.Duration;
import java.util.Optional;
import org.postgresql.PGConnection;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * One run of a question: how long the database may work on it in all, and the way to stop it. All of its queries are made by
 * one thread; others only stop it.
 */
public final class Attempt {

    private static final Logger LOG = LoggerFactory.getLogger(Attempt.class);
    private static final ThreadLocal<Attempt> CURRENT = new ThreadLocal<>();

    private final Optional<Duration> patience;
    private final boolean first;
    private final boolean alone;
    private long deadline;
    private PGConnection working;
    private boolean stopped;

    private Attempt(Optional<Duration> patience, boolean first, boolean alone) {
        this.patience = patience;
        this.first = first;
        this.alone = alone;
    }

    /** A first try; what does not end in its time is run again. */
    static Attempt first(Duration patience, boolean alone) {
        return new Attempt(Optional.of(patience), true, alone);
    }

    /** A run whose queries may take so long together. */
    static Attempt within(Duration patience, boolean alone) {
        return new Attempt(Optional.of(patience), false, alone);
    }

    /** A run whose queries may each take as long as they may by themselves. */
    static Attempt unbounded() {
        return new Attempt(Optional.empty(), false, false);
    }

    /** Whether nobody else asked anything when it began, so that it may have all processors. */
    public boolean isAlone() {
        return alone;
    }

    /** Whether what does not end in its time is run again. */
    public boolean isFirst() {
        return first;
    }

    /** The run that this thread is at, if it is at one. */
    public static Optional<Attempt> current() {
        return Optional.ofNullable(CURRENT.get());
    }

    /** Makes this the run of the thread until it is closed. */
    AutoCloseable onThisThread() {
        Attempt before = CURRENT.get();
        CURRENT.set(this);
        return () -> {
            if (before == null) {
                CURRENT.remove();
            } else {
                CURRENT.set(before);
            }
        };
    }

    /**
     * Whether a query took longer than it may, and is not made again: neither at the end of a first try, which is run anew, nor stopped
     * by whoever asked. Whoever goes on without its answer passes on what is stopped otherwise.
     */
    public static boolean isGivenUp(Throwable e) {
        return StoppedQuery.isBehind(e)
                && current().filter(a -> a.isFirst() || a.isStopped()).isEmpty();
    }

    /** How long a query may take that is made now. The time begins with the first: waiting for a connection does not count. */
    public Duration within(Duration wanted) {
        if (patience.isEmpty()) {
            return wanted;
        }
        if (deadline == 0) {
            deadline = System.nanoTime() + patience.get().toNanos();
        }
        Duration left = Duration.ofNanos(Math.max(deadline - System.nanoTime(), 1_000_000));
        return left.compareTo(wanted) < 0 ? left : wanted;
    }

    /** Whether its time has run out. */
    boolean isOver() {
        // A query that is stopped for its time ends a moment before or after it, by the database's clock.
        return deadline != 0
                && System.nanoTime() > deadline - Duration.ofMillis(20).toNanos();
    }

    /** The time that a connection works for a run. */
    @FunctionalInterface
    public interface Tracking extends AutoCloseable {
        /** For work that belongs to no run. */
        Tracking NONE = () -> {};

        @Override
        void close();
    }

    /**
     * Notes that a connection works for it until the result is closed.
     *
     * @throws Problem when it was stopped between two of its queries
     */
    public Tracking track(PGConnection connection) {
        synchronized (this) {
            if (stopped) {
                throw Ticket.stopped();
            }
            working = connection;
        }
        return () -> {
            synchronized (this) {
                working = null;
            }
        };
    }

    /** Stops what the database is doing for it, and all that it would do further. */
    synchronized void stop() {
        stopped = true;
        if (working != null) {
            try {
                working.cancelQuery();
            } catch (SQLException e) {
                LOG.warn("a question could not be stopped", e);
            }
        }
    }

    /** Whether somebody stopped it. */
    public synchronized boolean isStopped() {
        return stopped;
    }
}
