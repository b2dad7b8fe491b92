package deftlens.server.imports;

import deftlens.core.field.FieldType;
import deftlens.core.sql.Sql;
import deftlens.server.values.Unfitting;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.LongFunction;
import java.util.stream.Collectors;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.postgresql.PGConnection;
import org.postgresql.copy.PGCopyOutputStream;

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

    private static final int TELL_EVERY = 2_000;
    /** How many staged rows are written at once, before it is said how far the writing is. */
    private static final int SLICE = 100_000;

    private final ImportRun run;
    private final Tabular source;
    private final int width;
    private final String table;
    private final ImportPlan plan;
    private final List<Conversion> conversions;
    private final Connection connection;
    private final String columns;
    private final boolean staged;
    private final long namesAt;
    private final Optional<WayBack> wayBack;

    /**
     * A loading.
     *
     * @param namesAt the line of the row that names the columns; 0 for none. The rows after it are read
     * @param width how many columns the file has
     * @param table the table, quoted
     * @param wayBack what keeps the records that change; absent for a new register
     */
    Loading(
            ImportRun run,
            Tabular source,
            long namesAt,
            int width,
            String table,
            ImportPlan plan,
            List<Conversion> conversions,
            Optional<WayBack> wayBack,
            Connection connection) {
        this.run = run;
        this.source = source;
        this.namesAt = namesAt;
        this.wayBack = wayBack;
        this.width = width;
        this.table = table;
        this.plan = plan;
        this.conversions = conversions;
        this.connection = connection;
        this.columns = conversions.stream()
                .map(c -> Sql.identifier(c.field().column()))
                .collect(Collectors.joining(", "));
        this.staged = plan.recognises();
    }

    /**
     * Loads everything.
     *
     * @throws Refused when a row was refused; all rows were read then and every refusal is noted
     */
    void load() throws SQLException {
        run.working(connection.unwrap(PGConnection.class));
        if (wayBack.isPresent()) {
            run.wayBack(wayBack.get().mark());
        }
        if (plan.known() == ImportPlan.Known.REPLACE && wayBack.isPresent()) {
            run.phase("setting aside");
            wayBack.get().replaceAll();
            run.phase("reading");
        }
        if (staged) {
            try (Statement statement = connection.createStatement()) {
                statement.execute("create temporary table deft_stage on commit drop as select"
                        + " cast(0 as bigint) as deft_line, " + columns + " from " + table + " where false");
            }
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
        String[] values = new String[conversions.size() + (staged ? 1 : 0)];
        String into = staged ? "deft_stage (deft_line, " + columns + ")" : table + " (" + columns + ")";
        PGCopyOutputStream copy = new PGCopyOutputStream(
                connection.unwrap(PGConnection.class), "copy " + into + " from stdin (format csv)", 1 << 16);
        try (Writer writer = new OutputStreamWriter(copy, StandardCharsets.UTF_8);
                CSVPrinter csv = new CSVPrinter(writer, CSVFormat.POSTGRESQL_CSV)) {
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
                    csv.printRecord((Object[]) values);
                }
                return true;
            });
            run.read(rows[0]);
        } catch (IOException e) {
            if (copy.isActive()) {
                copy.cancelCopy();
            }
            if (e.getCause() instanceof SQLException sql) {
                throw sql;
            }
            throw new UncheckedIOException(e);
        }
        return rows[0];
    }

    private boolean row(long line, List<String> cells, String[] values) {
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
                values[at++] = conversion.copied(cells);
            } catch (Unfitting e) {
                run.refuse(line, e.getMessage());
                return false;
            }
        }
        return true;
    }

    /** Brings staged rows in: those whose record is there change it or are left, the others are added. */
    private void merge(long rows) throws SQLException {
        boolean update = plan.known() == ImportPlan.Known.UPDATE;
        List<String> keys = new ArrayList<>();
        List<String> others = new ArrayList<>();
        List<String> there = new ArrayList<>();
        List<String> exactKeys = new ArrayList<>();
        List<String> labels = new ArrayList<>();
        for (Conversion conversion : conversions) {
            String column = Sql.identifier(conversion.field().column());
            if (plan.by().contains(conversion.field().key())) {
                labels.add(conversion.field().label());
                boolean text = conversion.field().type() == FieldType.TEXT;
                keys.add(text ? "lower(" + column + ")" : column);
                there.add(same(column, text));
                exactKeys.add(column);
            } else {
                others.add(column + " = s." + column);
            }
        }
        String match = String.join(" and ", there);
        try (Statement statement = connection.createStatement()) {
            statement.execute("create index on deft_stage (" + String.join(", ", keys) + ")");
            statement.execute("analyze deft_stage");
            // A row that is there twice says nothing twice.
            String complete = exactKeys.stream().map(c -> c + " is not null").collect(Collectors.joining(" and "));
            statement.executeUpdate(
                    "delete from deft_stage where deft_line in (select deft_line from (select deft_line,"
                            + " row_number() over (partition by " + columns
                            + " order by deft_line) as n from deft_stage where "
                            + complete + ") as rows where n > 1)");
            String key = String.join(" and ", labels);
            refuse(
                    statement,
                    "select deft_line, first from (select deft_line, min(deft_line) over (partition by "
                            + String.join(", ", exactKeys) + ") as first from deft_stage where " + complete
                            + ") as rows where first < deft_line order by 1",
                    line -> "It has the same " + key + " as line " + line
                            + " and says something else. Keep one of them.");
            if (update) {
                refuse(
                        statement,
                        "select s.deft_line, count(*) from deft_stage s join " + table + " r on " + match
                                + " group by 1 having count(*) > 1 order by 1",
                        records -> records + " records have this " + key
                                + ". Tell them apart by another field, or correct them one by one.");
            }
            if (run.refused() > 0) {
                throw new Refused();
            }
            boolean changes = update && !others.isEmpty();
            if (changes && wayBack.isPresent()) {
                wayBack.get().keep("exists (select 1 from deft_stage s where " + match + ")", false);
            }
            long updated = 0;
            long added = 0;
            long last = count(statement, "select coalesce(max(deft_line), 0) from deft_stage");
            for (long line = 0; line <= last; line += SLICE) {
                run.share(line, last);
                String slice = "s.deft_line >= " + line + " and s.deft_line < " + (line + SLICE);
                if (changes) {
                    updated += statement.executeUpdate("update " + table + " r set " + String.join(", ", others)
                            + " from deft_stage s where " + slice + " and " + match);
                }
                added += statement.executeUpdate("insert into " + table + " (" + columns + ") select " + columns
                        + " from deft_stage s where " + slice + " and not exists (select 1 from " + table
                        + " r where " + match + ") order by deft_line");
            }
            run.count(added, updated, Math.max(0, rows - added - updated));
        }
    }

    private static long count(Statement statement, String query) throws SQLException {
        try (ResultSet found = statement.executeQuery(query)) {
            found.next();
            return found.getLong(1);
        }
    }

    /** Refuses the rows that a query of lines finds, each with a number that says why. */
    private void refuse(Statement statement, String query, LongFunction<String> why) throws SQLException {
        try (ResultSet found = statement.executeQuery(query)) {
            while (found.next()) {
                run.refuse(found.getLong(1), why.apply(found.getLong(2)));
            }
        }
    }

    /** Letter by letter; texts are indexed with their letter case folded. */
    private static String same(String column, boolean text) {
        String exactly = "r." + column + " = s." + column;
        return text ? exactly + " and lower(r." + column + ") = lower(s." + column + ")" : exactly;
    }
}
