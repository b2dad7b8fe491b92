package deftlens.server.lanes;

import java.util.function.Supplier;

/**
 * The connections that a piece of work has for itself, so that no other kind of work can take them from it. What says nothing
 * is on {@link #PAGES}.
 */
public enum Lane {
    /** Sign-in, accounts, views, the catalogue: what every page needs. */
    PAGES(12),
    /** The first, short try of every question over records. */
    QUICK(12),
    /** Questions that turned out slow; a few at a time. */
    SLOW(Math.max(2, Runtime.getRuntime().availableProcessors())),
    /** Whole results for files; a few at a time. */
    EXPORT(2),
    /** Files coming in, the nightly look, measurements. */
    BACKGROUND(6);

    private static final ThreadLocal<Lane> CURRENT = ThreadLocal.withInitial(() -> PAGES);

    private final int connections;

    Lane(int connections) {
        this.connections = connections;
    }

    int connections() {
        return connections;
    }

    static Lane current() {
        return CURRENT.get();
    }

    /** Does work on this lane; transactions that begin inside have their connection from it. */
    public <T> T run(Supplier<T> work) {
        Lane before = CURRENT.get();
        CURRENT.set(this);
        try {
            return work.get();
        } finally {
            CURRENT.set(before);
        }
    }
}
