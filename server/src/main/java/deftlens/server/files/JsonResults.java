package deftlens.server.files;

import deftlens.core.field.Field;
import deftlens.core.sql.Groups;
import deftlens.server.platform.AsText;
import deftlens.server.question.ResultRow;
import deftlens.server.question.RowValues;
import deftlens.server.totals.TotalsAnswer;
import java.io.BufferedOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.annotation.Order;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.ObjectWriter;
import tools.jackson.databind.SequenceWriter;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.annotation.JsonSerialize;

/** Records as JSON (RFC 8259), each as the API gives it: as one array, or one record on each line. */
@Configuration(proxyBeanMethods = false)
class JsonResults {

    /** A record of a file: its number, and its values by the keys of their fields. */
    private record Row(
            @AsText long id,
            @JsonSerialize(using = RowValues.Json.class) Map<String, Object> values) {}

    @FunctionalInterface
    private interface Opening {
        SequenceWriter open(ObjectWriter writer, OutputStream out);
    }

    private static final int BUFFER = 1 << 16;

    private record Format(String extension, String mediaType, ObjectWriter writer, Opening opening, boolean inLines)
            implements ResultFormat {

        /** The answer as the API gives it; where a record goes on each line, a row. */
        @Override
        public void totals(Result result, Optional<Groups.Level> across, TotalsAnswer answer, OutputStream out)
                throws IOException {
            if (!inLines) {
                writer.writeValue(out, answer);
                return;
            }
            try (SequenceWriter rows = opening.open(writer, new BufferedOutputStream(out, BUFFER))) {
                answer.rows().forEach(rows::write);
            }
        }

        @Override
        public ResultSink open(Result result, OutputStream out) {
            SequenceWriter rows = opening.open(writer, new BufferedOutputStream(out, BUFFER));
            return new ResultSink() {
                @Override
                public List<Field> fields() {
                    return result.question().columns();
                }

                @Override
                public void row(ResultRow row) {
                    rows.write(new Row(row.id(), row.values()));
                }

                @Override
                public void close() throws IOException {
                    rows.close();
                }
            };
        }
    }

    @Bean
    @Order(2)
    ResultFormat json(ObjectMapper json) {
        return new Format("json", "application/json", writer(json), ObjectWriter::writeValuesAsArray, false);
    }

    /** One record on each line, so that a program need not hold the whole file. */
    @Bean
    @Order(3)
    ResultFormat jsonLines(ObjectMapper json) {
        return new Format(
                "jsonl",
                "application/jsonl",
                writer(json).withRootValueSeparator("\n"),
                ObjectWriter::writeValues,
                true);
    }

    /** Records go out when the buffer is full, not one by one. */
    private static ObjectWriter writer(ObjectMapper json) {
        return json.writer().without(SerializationFeature.FLUSH_AFTER_WRITE_VALUE);
    }
}
