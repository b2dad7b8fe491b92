package deftlens.server.changes;

/**
 * A set of changes that is being written: what somebody does to the records of a register at one time, for one reason. What each record
 * was before is kept by the database, with the number of the set.
 *
 * @param registerId the number of the register
 */
public record ChangeSet(long id, long registerId) {

    /** What became of a record. */
    public enum Kind {
        MADE,
        CHANGED,
        REMOVED
    }

    /** Where changes come from. */
    public enum Origin {
        /** One record, made or corrected by itself. */
        RECORD,
        /** Many records at once. */
        BULK,
        /** A transaction, posted by hand. */
        POSTED,
        /** Tags, put on and taken off. */
        TAGS,
        /** A file that was brought in. */
        FILE,
        /** A file that was taken back. */
        TAKEN_BACK,
        /** Somebody who wrote into the database itself. */
        DATABASE,
        /** Another set, taken back. */
        UNDONE
    }
}
