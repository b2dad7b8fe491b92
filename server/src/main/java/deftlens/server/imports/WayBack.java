package deftlens.server.imports;

import deftlens.core.sql.Sql;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import java.util.stream.Collectors;

/**
 * Keeps what an import changes, and puts it back. PostgreSQL notes with each row which transaction wrote it, so what was changed
 * since by anybody, by whatever door, is known: it stays as it is.
 *
 * @param table the table of the register, quoted
 * @param run the number of the import
 */
record WayBack(Connection connection, String table, long run) {

    /**
     * What taking an import back does, or would do.
     *
     * @param removed records that it added, which go
     * @param restored records that it changed, which get their former values
     * @param returned records that it took away, which come back
     * @param changedSince records that it added or changed, which were changed or deleted since and stay as they are
     */
    record Extent(long removed, long restored, long returned, long changedSince) {}

    /** What the database needs to know of an import to take it back: its transaction, and the highest record before it. */
    record Mark(String transaction, long highest) {}

    /** The mark of the import that the transaction of the connection is writing; asked before anything is written. */
    Mark mark() throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet found = statement.executeQuery(
                        "select cast(pg_current_xact_id() as text), coalesce(max(id), 0) from " + table)) {
            found.next();
            return new Mark(found.getString(1), found.getLong(2));
        }
    }

    /** Keeps every record, and takes it away. */
    void replaceAll() throws SQLException {
        // Whoever corrects a record meanwhile waits, and finds it gone, rather than being written over.
        execute("lock table " + table + " in share row exclusive mode");
        keep("true", true);
        execute("delete from " + table);
    }

    /** Keeps the records that a condition over {@code r} holds for, before they are changed. */
    void keep(String condition, boolean gone) throws SQLException {
        try (PreparedStatement statement =
                connection.prepareStatement("insert into import_before (run_id, record_id, gone, before)"
                        + " select ?, r.id, ?, to_jsonb(r) from " + table + " r where " + condition)) {
            statement.setLong(1, run);
            statement.setBoolean(2, gone);
            statement.executeUpdate();
        }
    }

    /** What taking the import back would do now. */
    Extent extent(Mark mark, long added, long updated) throws SQLException {
        long removed = count("select count(*) from " + table + " r where " + isAdded(mark));
        long restored = count("select count(*) from import_before b join " + table + " r on r.id = b.record_id where "
                + isChanged(mark));
        long returned = count("select count(*) from import_before where gone and run_id = " + run);
        return new Extent(removed, restored, returned, Math.max(0, added + updated - removed - restored));
    }

    /** Takes the import back: what it added goes, what it changed or took away is as it was. */
    void takeBack(Mark mark, List<String> columns) throws SQLException {
        String names = columns.stream().map(Sql::identifier).collect(Collectors.joining(", "));
        String before = columns.stream().map(c -> "p." + Sql.identifier(c)).collect(Collectors.joining(", "));
        String was = " from import_before b cross join lateral jsonb_populate_record(cast(null as " + table
                + "), b.before) p ";
        execute("delete from " + table + " r where " + isAdded(mark));
        execute("update " + table + " r set (" + names + ") = row(" + before + ")" + was
                + "where r.id = b.record_id and " + isChanged(mark));
        execute("insert into " + table + " (id, " + names + ") select b.record_id, " + before + was
                + "where b.gone and b.run_id = " + run);
        execute("delete from import_before where run_id = " + run);
    }

    private static String isAdded(Mark mark) {
        return "r.id > " + mark.highest() + " and " + isUntouched(mark);
    }

    private String isChanged(Mark mark) {
        return "not b.gone and b.run_id = " + run + " and " + isUntouched(mark);
    }

    private static String isUntouched(Mark mark) {
        return "r.xmin = cast(cast('" + Long.parseUnsignedLong(mark.transaction()) + "' as xid8) as xid)";
    }

    private long count(String query) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet found = statement.executeQuery(query)) {
            found.next();
            return found.getLong(1);
        }
    }

    private void execute(String sql) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }
}
