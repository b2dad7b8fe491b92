package deftlens.server.rows;

import deftlens.core.field.Beyond;
import tools.jackson.core.JsonGenerator;
import tools.jackson.databind.SerializationContext;
import tools.jackson.databind.ValueSerializer;

/** A record's value as JSON; in words where it is beyond all numbers or dates. */
final class ShownValue extends ValueSerializer<Object> {

    @Override
    public void serialize(Object value, JsonGenerator json, SerializationContext context) {
        Object shown = Beyond.words(value).<Object>map(w -> w).orElse(value);
        context.writeValue(json, shown);
    }
}
