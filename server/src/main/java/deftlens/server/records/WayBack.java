package deftlens.server.records;

import deftlens.core.field.Field;
import deftlens.core.sql.Undo;
import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSets;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.Statements;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Objects;
import java.util.Optional;

/**
 * Takes a set of changes back from what records were: what was changed since by anybody, by whatever door, stays as it is.
 *
 * @param whole the register with all its fields
 * @param set the number of the set
 * @param made between which numbers the records are that it made
 */
public record WayBack(Connection connection, RegisterForReader whole, long set, Optional<Undo.Made> made) {

    /**
     * What taking changes back does, or would do.
     *
     * @param removed records that they made, which go
     * @param restored records that they changed, which get their former values
     * @param returned records that they took away, which come back
     * @param changedSince records that they wrote and that were written since; they stay as they are
     */
    public record Extent(long removed, long restored, long returned, long changedSince) {}

    private Undo undo() {
        return new Undo(whole.register(), RecordTables.past(whole), set, made);
    }

    /** What taking them back would do now. */
    public Extent extent() throws SQLException {
        return Statements.list(
                        connection,
                        undo().extent(),
                        row -> new Extent(row.getLong(3), row.getLong(1), row.getLong(2), row.getLong(4)))
                .getFirst();
    }

    /**
     * Takes them back, and says how many records were written.
     *
     * @param as the set of changes that does it
     */
    public long takeBack(ChangeSet as, ChangeSets changes) throws SQLException {
        List<Field> fields = RecordTables.columns(whole);
        Statements.list(
                        connection,
                        undo().returned(),
                        row -> row.getObject(1) == null ? null : new Undo.Made(row.getLong(1), row.getLong(2)))
                .stream()
                .filter(Objects::nonNull)
                .forEach(made -> changes.made(as, made));
        return Statements.update(connection, undo().takeAway())
                + Statements.update(connection, undo().restore(fields))
                + Statements.update(connection, undo().giveBack(fields));
    }
}
