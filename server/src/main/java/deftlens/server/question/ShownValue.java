package deftlens.server.question;

import deftlens.core.field.Beyond;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import tools.jackson.core.JsonGenerator;
import tools.jackson.databind.SerializationContext;
import tools.jackson.databind.ValueSerializer;

/** A record's value as JSON; in words where it is beyond all numbers or dates. */
public final class ShownValue extends ValueSerializer<Object> {

    @Override
    public void serialize(Object value, JsonGenerator json, SerializationContext context) {
        write(value, json, context);
    }

    /** Writes a value of a field. */
    static void write(Object value, JsonGenerator json, SerializationContext context) {
        switch (value) {
            case null -> json.writeNull();
            case Optional<?> found -> write(found.orElse(null), json, context);
            case String text -> json.writeString(text);
            case Boolean yes -> json.writeBoolean(yes);
            case List<?> tags -> {
                json.writeStartArray();
                tags.forEach(tag -> write(tag, json, context));
                json.writeEndArray();
            }
            default -> {
                Optional<String> beyond = Beyond.words(value);
                if (beyond.isPresent()) {
                    json.writeString(beyond.get());
                    return;
                }
                switch (value) {
                    case BigDecimal number -> json.writeNumber(number);
                    case LocalDate day -> json.writeString(day.toString());
                    case Instant instant -> json.writeString(instant.toString());
                    default -> context.writeValue(json, value);
                }
            }
        }
    }
}
