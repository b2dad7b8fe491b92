package deftlens.server.platform;

import java.time.LocalDate;
import org.springframework.stereotype.Component;
import tools.jackson.core.JsonGenerator;
import tools.jackson.databind.SerializationContext;
import tools.jackson.databind.ValueSerializer;
import tools.jackson.databind.module.SimpleModule;

/**
 * Days as JSON: {@code "2026-11-23"} (ISO 8601), as they come without this, but without a formatter, which answers with
 * thousands of periods spend much of their time in.
 */
@Component
public class DayText extends SimpleModule {

    DayText() {
        super("day-text");
        addSerializer(LocalDate.class, new Writer());
    }

    private static final class Writer extends ValueSerializer<LocalDate> {
        @Override
        public void serialize(LocalDate day, JsonGenerator json, SerializationContext context) {
            json.writeString(day.toString());
        }
    }
}
