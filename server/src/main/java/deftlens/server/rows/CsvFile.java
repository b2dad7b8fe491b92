package deftlens.server.rows;

import deftlens.server.lanes.Spool;
import deftlens.server.platform.Problem;
import deftlens.server.question.GroupLevels;
import deftlens.server.question.Question;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Optional;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.springframework.http.ContentDisposition;
import org.springframework.http.HttpHeaders;
import org.springframework.stereotype.Component;

/**
 * Writes results as CSV (RFC 4180, UTF-8): a head of field labels, then the records, streamed; see {@link FileColumns}. A text
 * that a spreadsheet would take for a formula gets an apostrophe in front.
 */
@Component
public class CsvFile {

    /** Spreadsheets take a file that begins with it for UTF-8, and others for what their machine is set to. */
    private static final char BYTE_ORDER_MARK = '\uFEFF';

    private final RowsService rows;
    private final GroupLevels levels;
    private final Spool spool;

    CsvFile(RowsService rows, GroupLevels levels, Spool spool) {
        this.rows = rows;
        this.levels = levels;
        this.spool = spool;
    }

    /**
     * How a file is written.
     *
     * @param offsets whether moments have their offset from UTC in each cell; else the zone stands in the head
     * @param mark whether it begins with a byte order mark
     */
    public record Form(boolean offsets, boolean mark) {

        /** As asked for: {@code times} is {@code local}, which is usual, or {@code offset}. */
        public static Form of(Optional<String> times, Optional<Boolean> mark) {
            if (times.isPresent() && !List.of("local", "offset").contains(times.get())) {
                throw Problem.badRequest("bad-times", "“times” is local or offset, not “" + times.get() + "”.");
            }
            return new Form(times.equals(Optional.of("offset")), mark.orElse(false));
        }
    }

    /** Answers a request with the file. */
    public void send(
            HttpServletRequest request, HttpServletResponse response, String name, Question question, Form form)
            throws IOException {
        FileColumns all = new FileColumns(
                question, levels.levels(question, question.shape().groups()), form.offsets());
        spool.send(
                question.who(),
                request,
                response,
                () -> {
                    response.setContentType("text/csv; charset=UTF-8; header=present");
                    response.setHeader(
                            HttpHeaders.CONTENT_DISPOSITION,
                            ContentDisposition.attachment()
                                    .filename(fileName(name) + ".csv", StandardCharsets.UTF_8)
                                    .build()
                                    .toString());
                },
                out -> write(out, question, all, form));
    }

    private void write(OutputStream out, Question question, FileColumns columns, Form form) throws IOException {
        Writer writer = new BufferedWriter(new OutputStreamWriter(out, StandardCharsets.UTF_8), 1 << 16);
        if (form.mark()) {
            writer.write(BYTE_ORDER_MARK);
        }
        CSVPrinter printer = new CSVPrinter(writer, CSVFormat.RFC4180);
        printer.printRecord(columns.heads().stream().map(CsvFile::safe).toList());
        rows.stream(question, columns.fields(), row -> {
            try {
                printer.printRecord(columns.cells(row.values()));
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        });
        printer.close(true);
    }

    /** A text that no spreadsheet runs. */
    static String safe(String text) {
        return !text.isEmpty() && "=+-@\t\r\n".indexOf(text.charAt(0)) >= 0 ? "'" + text : text;
    }

    private static String fileName(String name) {
        String plain = name.replaceAll("[^\\p{L}\\p{N} ._-]", "").strip();
        return Optional.of(plain).filter(p -> !p.isEmpty()).orElse("records");
    }
}
