package deftlens.server.jobs;

/**
 * A kind of work that somebody asks for and that goes on without them. It is done once: what it writes, and that it is done, are written in
 * one transaction ({@link JobRun#done}). Where its server goes away before that, another one begins it again, up to
 * three times in all.
 */
public interface JobKind {

    /** A stable name, as the rows have it: {@code import}. */
    String name();

    /** What it does, in words: “Bring a file in”. */
    String label();

    /**
     * Does the work. It calls {@link JobRun#requireWanted} every now and then.
     *
     * @throws deftlens.server.platform.Problem with a sentence that says why it could not be done
     */
    void run(JobRun run);

    /**
     * Is told that a job ended without being done: it failed, or was stopped, perhaps before it was begun.
     *
     * @param job its number
     * @param message why, in a sentence
     */
    default void notDone(long job, Jobs.State state, String message) {}
}
