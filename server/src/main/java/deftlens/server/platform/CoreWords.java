package deftlens.server.platform;

import deftlens.core.condition.Comparison;
import deftlens.core.field.Measure;
import deftlens.core.sql.Groups;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.springframework.stereotype.Component;
import tools.jackson.core.JsonGenerator;
import tools.jackson.core.JsonParser;
import tools.jackson.databind.DeserializationContext;
import tools.jackson.databind.SerializationContext;
import tools.jackson.databind.ValueDeserializer;
import tools.jackson.databind.ValueSerializer;
import tools.jackson.databind.module.SimpleModule;

/**
 * The core's own enums as JSON: by the words that the core has for them, since the core knows no JSON. A word that is none is refused
 * with those that are; the OpenAPI document has the same list.
 */
@Component
public class CoreWords extends SimpleModule {

    private static final Map<Class<?>, Function<Object, String>> WORDS = new LinkedHashMap<>();

    static {
        put(Comparison.With.class, Comparison.With::words);
        put(Groups.Kind.class, Groups.Kind::words);
        put(Groups.Arrangement.class, Groups.Arrangement::words);
        put(Measure.Function.class, Measure.Function::label);
    }

    private static <E extends Enum<E>> void put(Class<E> type, Function<E, String> words) {
        WORDS.put(type, value -> words.apply(type.cast(value)));
    }

    CoreWords() {
        super("core-words");
        WORDS.keySet().forEach(this::register);
    }

    private <E> void register(Class<E> type) {
        addSerializer(type, new Writer<>());
        addDeserializer(type, new Words<>(type));
    }

    /** All words of an enum of the core, in its order; nothing for other types. */
    static Optional<List<String>> of(Class<?> type) {
        return Optional.ofNullable(WORDS.get(type))
                .map(words -> Arrays.stream(type.getEnumConstants()).map(words).toList());
    }

    private static final class Writer<E> extends ValueSerializer<E> {
        @Override
        public void serialize(E value, JsonGenerator json, SerializationContext context) {
            json.writeString(WORDS.get(value.getClass()).apply(value));
        }
    }

    private static final class Words<E> extends ValueDeserializer<E> {
        private final Class<E> type;

        Words(Class<E> type) {
            this.type = type;
        }

        @Override
        public E deserialize(JsonParser json, DeserializationContext context) {
            String text = json.getValueAsString("");
            return Arrays.stream(type.getEnumConstants())
                    .filter(value -> WORDS.get(type).apply(value).equals(text))
                    .findFirst()
                    .orElseThrow(() -> Problem.badRequest(
                            "unknown-word",
                            "“" + text + "” is not known here; known are " + String.join(", ", of(type).orElseThrow())
                                    + "."));
        }
    }
}
