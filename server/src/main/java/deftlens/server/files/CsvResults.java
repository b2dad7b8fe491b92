package deftlens.server.files;

import deftlens.core.field.Field;
import deftlens.core.sql.Groups;
import deftlens.server.question.ResultRow;
import deftlens.server.totals.TotalsAnswer;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Optional;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;

/**
 * CSV (RFC 4180, UTF-8): a head of field labels, then the records as people read them; see {@link FileColumns}. A text that a spreadsheet
 * would take for a formula gets an apostrophe in front.
 */
@Component
@Order(1)
class CsvResults implements ResultFormat {

    /** Spreadsheets take a file that begins with it for UTF-8, and others for what their machine is set to. */
    private static final char BYTE_ORDER_MARK = '\uFEFF';

    private static final int BUFFER = 1 << 16;

    @Override
    public String extension() {
        return "csv";
    }

    @Override
    public String mediaType() {
        return "text/csv; charset=UTF-8; header=present";
    }

    @Override
    public ResultSink open(Result result, OutputStream out) throws IOException {
        FileColumns columns = new FileColumns(
                result.question(), result.levels(), result.form().offsets());
        CSVPrinter printer = printer(result, out);
        printer.printRecord(columns.heads().stream().map(CsvResults::safe).toList());
        return new ResultSink() {
            @Override
            public List<Field> fields() {
                return columns.fields();
            }

            @Override
            public void row(ResultRow row) throws IOException {
                printer.printRecord(columns.cells(row.values()));
            }

            @Override
            public void close() throws IOException {
                printer.close(true);
            }
        };
    }

    @Override
    public void totals(Result result, Optional<Groups.Level> across, TotalsAnswer answer, OutputStream out)
            throws IOException {
        TotalsSheet sheet = new TotalsSheet(
                result.question(),
                result.levels(),
                across,
                answer,
                result.form().offsets());
        try (CSVPrinter printer = printer(result, out)) {
            printer.printRecord(sheet.heads());
            printer.printRecords(sheet.lines());
        }
    }

    private static CSVPrinter printer(Result result, OutputStream out) throws IOException {
        Writer writer = new BufferedWriter(new OutputStreamWriter(out, StandardCharsets.UTF_8), BUFFER);
        if (result.form().mark()) {
            writer.write(BYTE_ORDER_MARK);
        }
        return new CSVPrinter(writer, CSVFormat.RFC4180);
    }

    /** A text that no spreadsheet runs. */
    static String safe(String text) {
        return !text.isEmpty() && "=+-@\t\r\n".indexOf(text.charAt(0)) >= 0 ? "'" + text : text;
    }
}
