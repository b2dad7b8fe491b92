package deftlens.server.rows;

import deftlens.core.field.Field;
import deftlens.core.sql.Order;
import deftlens.server.question.Spool;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Optional;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.springframework.http.ContentDisposition;
import org.springframework.http.HttpHeaders;
import org.springframework.stereotype.Component;

/**
 * Writes results as CSV (RFC 4180, UTF-8): a head of field labels, then the records, streamed. Moments are ISO 8601
 * with their offset in the zone of the reading. A text that a spreadsheet would take for a formula gets an apostrophe in
 * front.
 */
@Component
public class CsvFile {

    private static final DateTimeFormatter MOMENT = DateTimeFormatter.ISO_OFFSET_DATE_TIME;

    private final RowsService rows;
    private final Spool spool;

    CsvFile(RowsService rows, Spool spool) {
        this.rows = rows;
        this.spool = spool;
    }

    /** Answers a request with the file. */
    public void send(
            HttpServletRequest request,
            HttpServletResponse response,
            String name,
            RowsService.Question question,
            Order order,
            List<Field> columns,
            Shape shape)
            throws IOException {
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
                out -> write(out, question, order, columns, shape));
    }

    private void write(OutputStream out, RowsService.Question question, Order order, List<Field> columns, Shape shape)
            throws IOException {
        ZoneId zone = question.reading().zone();
        Writer writer = new BufferedWriter(new OutputStreamWriter(out, StandardCharsets.UTF_8), 1 << 16);
        CSVPrinter printer = new CSVPrinter(writer, CSVFormat.RFC4180);
        for (Field column : columns) {
            printer.print(safe(shape.titles().getOrDefault(column.key(), column.label())));
        }
        printer.println();
        rows.stream(question, order, columns, shape.taken(), row -> {
            try {
                for (Field column : columns) {
                    printer.print(cell(column, row.values().get(column.key()), zone));
                }
                printer.println();
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        });
        printer.close(true);
    }

    static String cell(Field column, Object value, ZoneId zone) {
        return switch (value) {
            case null -> "";
            case BigDecimal number -> number.toPlainString();
            case Boolean yes -> yes ? "yes" : "no";
            case Instant instant -> MOMENT.format(instant.atZone(zone));
            case String[] tags -> safe(String.join(", ", tags));
            case String text
            when column.type().isListed() ->
                safe(column.option(text).map(o -> o.label()).orElse(text));
            default -> safe(value.toString());
        };
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
