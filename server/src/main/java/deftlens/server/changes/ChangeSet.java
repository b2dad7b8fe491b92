package deftlens.server.changes;

import deftlens.core.sql.Sql;
import deftlens.core.sql.Write;

/**
 * A set of changes that is being written: what somebody does to the records of a register at one time, for one reason. What it does to each
 * record is noted by the statements that write ({@link Write}), in their transaction.
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

    /** Notes each record that a statement writes, with its values before and after; what stays the same is not noted. */
    public Sql note(Kind kind) {
        return new Sql()
                .add("insert into record_change (change_set_id, register_id, record_id, kind, before, after) select "
                        + id + ", " + registerId + ", id, '" + kind + "', before, after from " + Write.WRITTEN
                        + (kind == Kind.CHANGED ? " where after <> cast('{}' as jsonb)" : ""));
    }

    /** Notes the records that a statement writes by their numbers only, from one to another: of whole files. */
    public Sql noteRanges(Kind kind) {
        return ranges(kind, Sql.of("select id from " + Write.WRITTEN));
    }

    /**
     * Notes records by their numbers only, from one to another.
     *
     * @param ids what selects the numbers: {@code id}
     */
    public Sql ranges(Kind kind, Sql ids) {
        return new Sql()
                .add("insert into record_range (change_set_id, register_id, kind, first_id, last_id) select " + id
                        + ", " + registerId + ", '" + kind
                        + "', min(id), max(id) from (select id, id - row_number() over (order by id) as run from (")
                .add(ids)
                .add(") deft_ids) deft_runs group by run");
    }

    /** The numbers of the records that a set of changes made: {@code record_id}. */
    public static Sql made(long set) {
        return new Sql()
                .add("select record_id from record_change where change_set_id = ")
                .bind(set)
                .add(" and kind = 'MADE'");
    }

    /** What a set of changes noted of records: {@code record_id}, {@code before}. */
    public static Sql noted(long set, Kind kind) {
        return new Sql()
                .add("select record_id, before from record_change where change_set_id = ")
                .bind(set)
                .add(" and kind = '" + kind + "'");
    }
}
