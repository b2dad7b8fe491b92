package deftlens.server.values;

import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.SQLException;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.postgresql.PGConnection;
import org.postgresql.copy.PGCopyOutputStream;

/** Rows on their way into a table by PostgreSQL's {@code copy}, in the transaction of the connection. They are there once it is closed. */
public final class CopyIn implements AutoCloseable {

    private static final int BUFFER = 1 << 16;

    private final PGCopyOutputStream copy;
    private final CSVPrinter csv;

    /**
     * Begins.
     *
     * @param into the table and its columns, quoted: {@code records.moves (item, quantity)}
     */
    public CopyIn(Connection connection, String into) throws SQLException {
        copy = new PGCopyOutputStream(
                connection.unwrap(PGConnection.class), "copy " + into + " from stdin (format csv)", BUFFER);
        Writer writer = new OutputStreamWriter(copy, StandardCharsets.UTF_8);
        try {
            csv = new CSVPrinter(writer, CSVFormat.POSTGRESQL_CSV);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Adds a row: a text for each column as {@link ValueType#copied} writes it, {@code null} for none. */
    public void row(Object... values) throws IOException {
        csv.printRecord(values);
    }

    /** Ends it, so that nothing of it is written. */
    public void cancel() throws SQLException {
        if (copy.isActive()) {
            copy.cancelCopy();
        }
    }

    @Override
    public void close() throws IOException {
        csv.close(true);
    }
}
