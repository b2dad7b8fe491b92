package deftlens.server.imports;

import deftlens.core.field.Field;
import deftlens.core.sql.Merge;
import deftlens.core.sql.Sql;
import deftlens.server.changes.ChangeSet;
import deftlens.server.closing.ClosedPeriods;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.CopyIn;
import deftlens.server.values.Statements;
import deftlens.server.values.Unfitting;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Optional;
import java.util.function.LongFunction;
import java.util.stream.Collectors;
import org.postgresql.PGConnection;

/**
 * Copies the rows of a file into a table, on one connection and in its transaction. Where rows may be there already they go
 * through a temporary table first.
 */
final class Loading {

    /** Rows were refused, so nothing is written. */
    static final class Refused extends RuntimeException {
        private static final long serialVersionUID = 1;

        Refused() {
            super(null, null, false, false);
        }
    }

    private static final String STAGE = "deft_stage";
    private static final int TELL_EVERY = 2_000;
    /** How many staged rows are written at once, before it is said how far the writing is. */
    private static final int SLICE = 100_000;

    private final ImportRun run;
    private final Tabular source;
    private final int width;
    private final RegisterForReader into;
    private final ImportPlan plan;
    private final List<Conversion> conversions;
    private final Connection connection;
    private final List<Field> fields;
    private final boolean staged;
    private final long namesAt;
    private final ChangeSet set;
    private final boolean replaces;
    private final Optional<ClosedPeriods.Until> closed;

    /**
     * A loading.
     *
     * @param namesAt the line of the row that names the columns; 0 for none. The rows after it are read
     * @param width how many columns the file has
     * @param set the changes that it makes
     * @param closed where the closed period of the register ends, if it has one
     */
    Loading(
            ImportRun run,
            Tabular source,
            long namesAt,
            int width,
            RegisterForReader into,
            ImportPlan plan,
            List<Conversion> conversions,
            ChangeSet set,
            Optional<ClosedPeriods.Until> closed,
            Connection connection) {
        this.run = run;
        this.source = source;
        this.namesAt = namesAt;
        this.set = set;
        this.closed = closed;
        this.width = width;
        this.into = into;
        this.plan = plan;
        this.conversions = conversions;
        this.connection = connection;
        this.fields = conversions.stream().map(Conversion::field).toList();
        this.staged = plan.recognises();
        this.replaces = plan.known() == ImportPlan.Known.REPLACE;
    }

    /**
     * Loads everything.
     *
     * @throws Refused when a row was refused; all rows were read then and every refusal is noted
     */
    void load() throws SQLException {
        run.working(connection.unwrap(PGConnection.class));
        run.writes(set);
        if (replaces) {
            run.phase("setting aside");
            // Whoever corrects a record meanwhile waits, and finds it gone, rather than being written over.
            Statements.update(connection, Sql.of("lock table " + into.table().name() + " in share row exclusive mode"));
            Statements.update(connection, Sql.of("delete from " + into.table().name()));
            run.phase("reading");
        }
        if (staged) {
            Statements.update(connection, Merge.stage(into.register(), STAGE, fields));
        }
        long rows = copy();
        if (run.refused() > 0) {
            throw new Refused();
        }
        if (staged) {
            run.phase("writing");
            merge(rows);
        } else {
            run.count(rows, 0, 0);
        }
        run.phase("indexing");
    }

    private long copy() throws SQLException {
        long[] rows = {0};
        Object[] values = new Object[conversions.size() + (staged ? 1 : 0)];
        String columns = fields.stream().map(f -> Sql.identifier(f.column())).collect(Collectors.joining(", "));
        CopyIn copy = new CopyIn(
                connection,
                staged
                        ? STAGE + " (" + Merge.LINE + ", " + columns + ")"
                        : into.table().name() + " (" + columns + ")");
        try (copy) {
            source.each((line, cells) -> {
                if (line <= namesAt) {
                    return true;
                }
                if (++rows[0] % TELL_EVERY == 0) {
                    run.read(rows[0]);
                }
                if (run.isCancelled()) {
                    throw new IOException("stopped");
                }
                // After the first refusal nothing will be kept; the rest is only looked at.
                if (row(line, cells, values) && run.refused() == 0) {
                    copy.row(values);
                }
                return true;
            });
            run.read(rows[0]);
        } catch (IOException e) {
            copy.cancel();
            if (e.getCause() instanceof SQLException sql) {
                throw sql;
            }
            throw new UncheckedIOException(e);
        }
        return rows[0];
    }

    private boolean row(long line, List<String> cells, Object[] values) {
        if (cells.size() > width) {
            run.refuse(line, "It has " + cells.size() + " cells, where the others have " + width + ".");
            return false;
        }
        int at = 0;
        if (staged) {
            values[at++] = String.valueOf(line);
        }
        for (Conversion conversion : conversions) {
            try {
                Object value = conversion.value(cells);
                if (isClosed(conversion, value)) {
                    run.refuse(line, closed.orElseThrow().reason());
                    return false;
                }
                values[at++] = conversion.text(value);
            } catch (Unfitting e) {
                run.refuse(line, e.getMessage());
                return false;
            }
        }
        return true;
    }

    /** Whether a row that is added as it is would lie in the closed period; of staged rows that is seen when they are merged. */
    private boolean isClosed(Conversion conversion, Object value) {
        return !staged
                && closed.filter(c -> c.main().key().equals(conversion.field().key()) && c.isClosed(value))
                        .isPresent();
    }

    /** Brings staged rows in: those whose record is there change it or are left, the others are added. */
    private void merge(long rows) throws SQLException {
        boolean update = plan.known() == ImportPlan.Known.UPDATE;
        List<Field> keys =
                fields.stream().filter(f -> plan.by().contains(f.key())).toList();
        List<Field> others = fields.stream().filter(f -> !keys.contains(f)).toList();
        Merge merge = new Merge(into.register(), STAGE, fields, keys);
        Statements.update(connection, merge.index());
        Statements.update(connection, Sql.of("analyze " + STAGE));
        Statements.update(connection, merge.withoutRepetitions());
        String labels = keys.stream().map(Field::label).collect(Collectors.joining(" and "));
        refuse(
                merge.contradictions(),
                line -> "It has the same " + labels + " as line " + line
                        + " and says something else. Keep one of them.");
        if (update) {
            refuse(
                    merge.ambiguities(),
                    records -> records + " records have this " + labels
                            + ". Tell them apart by another field, or correct them one by one.");
        }
        if (closed.isPresent()) {
            refuse(
                    merge.before(
                            update ? others : List.of(),
                            Sql.of("true"),
                            closed.get().main(),
                            closed.get().open()),
                    none -> closed.get().reason());
        }
        if (run.refused() > 0) {
            throw new Refused();
        }
        long updated = 0;
        long added = 0;
        long last = Statements.number(connection, Sql.of("select coalesce(max(" + Merge.LINE + "), 0) from " + STAGE));
        for (long line = 0; line <= last; line += SLICE) {
            run.share(line, last);
            Sql slice = new Sql()
                    .add("s." + Merge.LINE + " >= ")
                    .bind(line)
                    .add(" and s." + Merge.LINE + " < ")
                    .bind(line + SLICE);
            if (update && !others.isEmpty()) {
                updated += Statements.update(connection, merge.changes(others, slice));
            }
            added += Statements.update(connection, merge.additions(slice));
        }
        run.count(added, updated, Math.max(0, rows - added - updated));
    }

    /** Refuses the rows that a query of lines finds, each with a number that says why. */
    private void refuse(Sql query, LongFunction<String> why) throws SQLException {
        Statements.list(connection, query, found -> {
            run.refuse(found.getLong(1), why.apply(found.getLong(2)));
            return found.getLong(1);
        });
    }
}
