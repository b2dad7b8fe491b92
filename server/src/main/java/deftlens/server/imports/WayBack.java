package deftlens.server.imports;

import deftlens.core.field.Field;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Write;
import deftlens.server.changes.ChangeSet;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.Statements;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;

/**
 * Takes an import back by what it changed. PostgreSQL notes with each row which transaction wrote it, so what was changed since by anybody,
 * by whatever door, is known: it stays as it is.
 *
 * @param into the register that it wrote to
 * @param mark what is known of the import
 */
record WayBack(Connection connection, RegisterForReader into, Mark mark) {

    /**
     * What taking an import back does, or would do.
     *
     * @param removed records that it added, which go
     * @param restored records that it changed, which get their former values
     * @param returned records that it took away, which come back
     * @param changedSince records that it added or changed, which were changed or deleted since and stay as they are
     */
    record Extent(long removed, long restored, long returned, long changedSince) {}

    /**
     * What the database needs to know of an import to take it back.
     *
     * @param transaction the transaction that wrote the records
     * @param highest the highest number of a record before them
     * @param set the number of the changes that it made
     */
    record Mark(String transaction, long highest, long set) {}

    /** The mark of the import that the transaction of the connection is writing; asked before anything is written. */
    static Mark mark(Connection connection, RegisterForReader into, ChangeSet set) throws SQLException {
        return Statements.list(
                        connection,
                        Sql.of("select cast(pg_current_xact_id() as text), coalesce(max(id), 0) from "
                                + into.table().name()),
                        row -> new Mark(row.getString(1), row.getLong(2), set.id()))
                .getFirst();
    }

    /** Keeps every record, and takes it away. */
    static void replaceAll(Connection connection, RegisterForReader into, ChangeSet set) throws SQLException {
        // Whoever corrects a record meanwhile waits, and finds it gone, rather than being written over.
        Statements.update(connection, Sql.of("lock table " + into.table().name() + " in share row exclusive mode"));
        Statements.number(
                connection,
                Write.delete(
                        into.register(), RecordTables.columns(into), Sql.of("true"), set.note(ChangeSet.Kind.REMOVED)));
    }

    /** The numbers of the records that an import added and nobody touched since: {@code id}. */
    static Sql added(RegisterForReader into, Mark mark) {
        return Sql.of("select r.id from " + into.table().name() + " r where ").add(isAdded(mark));
    }

    /** What taking the import back would do now. */
    Extent extent(long added, long updated) throws SQLException {
        long removed = Statements.number(
                connection,
                new Sql().add("select count(*) from (").add(added(into, mark)).add(") deft_added"));
        long restored = Statements.number(
                connection,
                new Sql()
                        .add("select count(*) from (")
                        .add(noted(ChangeSet.Kind.CHANGED))
                        .add(") b join " + into.table().name() + " r on r.id = b.record_id where ")
                        .add(isUntouched(mark)));
        long returned = Statements.number(
                connection,
                new Sql()
                        .add("select count(*) from (")
                        .add(noted(ChangeSet.Kind.REMOVED))
                        .add(") b"));
        return new Extent(removed, restored, returned, Math.max(0, added + updated - removed - restored));
    }

    /**
     * Takes the import back: what it added goes, what it changed or took away is as it was.
     *
     * @param set the changes that this makes
     */
    void takeBack(ChangeSet set) throws SQLException {
        List<Field> fields = RecordTables.columns(into);
        Statements.number(
                connection,
                Write.delete(into.register(), List.of(), isAdded(mark), set.noteRanges(ChangeSet.Kind.REMOVED)));
        Statements.number(
                connection,
                Write.restore(
                        into.register(),
                        fields,
                        noted(ChangeSet.Kind.CHANGED),
                        isUntouched(mark),
                        set.note(ChangeSet.Kind.CHANGED)));
        Statements.number(
                connection,
                Write.giveBack(
                        into.register(), fields, noted(ChangeSet.Kind.REMOVED), set.noteRanges(ChangeSet.Kind.MADE)));
    }

    /** What the import noted of the records that it changed, or took away. */
    private Sql noted(ChangeSet.Kind kind) {
        return ChangeSet.noted(mark.set(), kind);
    }

    private static Sql isAdded(Mark mark) {
        return new Sql().add("r.id > ").bind(mark.highest()).add(" and ").add(isUntouched(mark));
    }

    private static Sql isUntouched(Mark mark) {
        return new Sql().add("r.xmin = cast(cast(").bind(mark.transaction()).add(" as xid8) as xid)");
    }
}
