package deftlens.server.question;

import deftlens.server.platform.Problem;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.springframework.stereotype.Component;
import tools.jackson.core.JsonParser;
import tools.jackson.core.JsonToken;
import tools.jackson.databind.BeanDescription;
import tools.jackson.databind.BeanProperty;
import tools.jackson.databind.DeserializationConfig;
import tools.jackson.databind.DeserializationContext;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ValueDeserializer;
import tools.jackson.databind.deser.ValueDeserializerModifier;
import tools.jackson.databind.deser.std.DelegatingDeserializer;
import tools.jackson.databind.module.SimpleModule;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * Reads shapes of every version: kept ones, those of links and files, and those of requests. Each is brought up to the version of
 * now before anybody sees it, and written back as such when its view is next kept.
 */
@Component
public class ShapeVersions extends SimpleModule {

    /**
     * How a shape of one version becomes one of the next, by the version it starts from. Each step is kept for ever, and leaves alone
     * what it does not know: a shape that does not say its version goes through all of them.
     */
    private static final Map<Integer, UnaryOperator<ObjectNode>> STEPS = Map.of(1, ShapeVersions::measured);

    private static final String VERSION = "version";

    ShapeVersions() {
        super("shape-versions");
        setDeserializerModifier(new ValueDeserializerModifier() {
            @Override
            public ValueDeserializer<?> modifyDeserializer(
                    DeserializationConfig config,
                    BeanDescription.Supplier description,
                    ValueDeserializer<?> deserializer) {
                return description.getBeanClass() == Shape.class ? new OfAnyVersion(deserializer) : deserializer;
            }
        });
    }

    /** Version 2 has figures of every kind where there were sums only: fields that were added up. */
    private static ObjectNode measured(ObjectNode shape) {
        // An object of this name is how later versions are read as totals.
        if (!shape.path("totals").isArray()) {
            return shape;
        }
        JsonNode totals = shape.remove("totals");
        if (!shape.has("measures")) {
            ArrayNode measures = shape.putArray("measures");
            totals.forEach(field -> measures.addObject().put("function", "sum").put("field", field.asString("")));
        }
        return shape;
    }

    /**
     * A shape as it is read now.
     *
     * @throws Problem {@code unknown-version}
     */
    static ObjectNode migrated(ObjectNode shape) {
        Optional<JsonNode> version = Optional.ofNullable(shape.remove(VERSION));
        int from = version.map(v -> v.asInt(0)).orElse(1);
        if (from < 1 || from > Shape.VERSION) {
            throw Problem.badRequest(
                    "unknown-version",
                    "This shape is of version " + version.get().asString("?") + "; 1 to " + Shape.VERSION
                            + " are known here.");
        }
        ObjectNode now = shape;
        for (int step = from; step < Shape.VERSION; step++) {
            now = STEPS.get(step).apply(now);
        }
        return now;
    }

    private static final class OfAnyVersion extends DelegatingDeserializer {

        OfAnyVersion(ValueDeserializer<?> shapes) {
            super(shapes);
        }

        @Override
        protected ValueDeserializer<?> newDelegatingInstance(ValueDeserializer<?> shapes) {
            return new OfAnyVersion(shapes);
        }

        @Override
        public ValueDeserializer<?> createContextual(DeserializationContext context, BeanProperty property) {
            return super.createContextual(context, property);
        }

        @Override
        public Object deserialize(JsonParser json, DeserializationContext context) {
            if (!json.isExpectedStartObjectToken()) {
                return super.deserialize(json, context);
            }
            ObjectNode shape = context.readTree(json).asObject();
            try (JsonParser migrated = context.treeAsTokens(migrated(shape))) {
                if (migrated.nextToken() == JsonToken.START_OBJECT) {
                    return super.deserialize(migrated, context);
                }
                throw new IllegalStateException("an object begins otherwise");
            }
        }
    }
}
