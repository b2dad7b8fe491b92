package deftlens.server.rows;

import deftlens.core.field.Field;
import deftlens.core.sql.Order;
import jakarta.servlet.http.HttpServletResponse;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Map;
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

    CsvFile(RowsService rows) {
        this.rows = rows;
    }

    /** Answers a request with the file. */
    public void send(
            HttpServletResponse response,
            String name,
            RowsService.Question question,
            Order order,
            List<Field> columns,
            Shape shape)
            throws IOException {
        Opened file = new Opened(response, name, question.reading().zone(), columns, shape.titles());
        // Nothing is sent before the database has answered, so that a refusal can still be a refusal.
        rows.stream(question, order, columns, shape.taken(), file::row);
        file.close();
    }

    private static final class Opened {
        private final HttpServletResponse response;
        private final String name;
        private final ZoneId zone;
        private final List<Field> columns;
        private final Map<String, String> titles;
        private CSVPrinter printer;

        Opened(
                HttpServletResponse response,
                String name,
                ZoneId zone,
                List<Field> columns,
                Map<String, String> titles) {
            this.response = response;
            this.name = name;
            this.zone = zone;
            this.columns = columns;
            this.titles = titles;
        }

        private CSVPrinter printer() throws IOException {
            if (printer == null) {
                response.setContentType("text/csv; charset=UTF-8; header=present");
                response.setHeader(
                        HttpHeaders.CONTENT_DISPOSITION,
                        ContentDisposition.attachment()
                                .filename(fileName(name) + ".csv", StandardCharsets.UTF_8)
                                .build()
                                .toString());
                Writer writer = new BufferedWriter(
                        new OutputStreamWriter(response.getOutputStream(), StandardCharsets.UTF_8), 1 << 16);
                printer = new CSVPrinter(writer, CSVFormat.RFC4180);
                for (Field column : columns) {
                    printer.print(safe(titles.getOrDefault(column.key(), column.label())));
                }
                printer.println();
            }
            return printer;
        }

        void row(RowsService.Row row) {
            try {
                CSVPrinter to = printer();
                for (Field column : columns) {
                    to.print(cell(column, row.values().get(column.key()), zone));
                }
                to.println();
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }

        void close() throws IOException {
            printer().close(true);
        }
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
