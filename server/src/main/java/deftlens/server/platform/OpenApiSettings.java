package deftlens.server.platform;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonUnwrapped;
import com.fasterxml.jackson.databind.JavaType;
import io.swagger.v3.core.converter.AnnotatedType;
import io.swagger.v3.core.converter.ModelConverter;
import io.swagger.v3.core.converter.ModelConverterContext;
import io.swagger.v3.core.util.Json;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.media.JsonSchema;
import io.swagger.v3.oas.models.media.Schema;
import java.lang.reflect.RecordComponent;
import java.util.Collection;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.springdoc.core.customizers.GlobalOpenApiCustomizer;
import org.springdoc.core.utils.SpringDocUtils;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import tools.jackson.databind.JsonNode;

/** The OpenAPI document: what is never absent is marked as required, so that generated clients need not guess. */
@Configuration
class OpenApiSettings {

    /** The record behind each name of the document. */
    private static final Map<String, Class<?>> NAMED = new ConcurrentHashMap<>();

    static {
        SpringDocUtils.getConfig().replaceWithClass(JsonNode.class, Object.class);
        SpringDocUtils.getConfig().addRequestWrapperToIgnore(java.security.Principal.class);
    }

    @Bean
    OpenAPI openApi() {
        return new OpenAPI()
                .info(
                        new Info()
                                .title("Deft Lens")
                                .version("0.1.0")
                                .description(
                                        "Questions over registers, and the views saved of them. Errors are RFC 9457 problem details with a stable code."));
    }

    @Bean
    ModelConverter requiredRecordComponents() {
        return new ModelConverter() {
            @Override
            public Schema<?> resolve(
                    AnnotatedType type, ModelConverterContext context, Iterator<ModelConverter> chain) {
                Schema<?> resolved = chain.hasNext() ? chain.next().resolve(type, context, chain) : null;
                JavaType java = Json.mapper().constructType(type.getType());
                if (resolved != null && java != null && java.getRawClass().isRecord()) {
                    requireOwnName(resolved, java.getRawClass());
                    Schema<?> schema = resolved.get$ref() == null
                            ? resolved
                            : context.getDefinedModels()
                                    .get(resolved.get$ref().substring("#/components/schemas/".length()));
                    if (schema != null && schema.getProperties() != null) {
                        for (RecordComponent component : java.getRawClass().getRecordComponents()) {
                            if (component.isAnnotationPresent(AsText.class)) {
                                schema.getProperties().put(component.getName(), idText());
                            } else if (component.isAnnotationPresent(AsTexts.class)) {
                                schema.getProperties().get(component.getName()).setItems(idText());
                            }
                            if (component.getAccessor().isAnnotationPresent(JsonUnwrapped.class)) {
                                // Its members are those of the request itself.
                                continue;
                            }
                            boolean listed = schema.getRequired() != null
                                    && schema.getRequired().contains(component.getName());
                            if (component.getType() == Optional.class) {
                                allowNull(schema, component.getName());
                            } else if (!listed && !isLeftOut(component)) {
                                schema.addRequiredItem(component.getName());
                            }
                        }
                    }
                }
                return resolved;
            }
        };
    }

    /** Every whole number of 64 bits in an address is an id. */
    @Bean
    GlobalOpenApiCustomizer idsInAddresses() {
        return document -> document.getPaths().values().stream()
                .flatMap(p -> p.readOperations().stream())
                .filter(o -> o.getParameters() != null)
                .flatMap(o -> o.getParameters().stream())
                .forEach(p -> {
                    Schema<?> schema = p.getSchema();
                    if ("int64".equals(schema.getFormat())) {
                        p.setSchema(idText());
                    } else if (schema.getItems() != null
                            && "int64".equals(schema.getItems().getFormat())) {
                        schema.setItems(idText());
                    }
                });
    }

    private static Schema<?> idText() {
        Schema<?> text = new JsonSchema();
        text.addType("string");
        text.setPattern(AsText.PATTERN);
        return text;
    }

    /** Whether a component is not sent when there is nothing in it. */
    private static boolean isLeftOut(RecordComponent component) {
        JsonInclude sent = component.getDeclaringRecord().getAnnotation(JsonInclude.class);
        return sent != null
                && sent.value() == JsonInclude.Include.NON_EMPTY
                && (Collection.class.isAssignableFrom(component.getType())
                        || Map.class.isAssignableFrom(component.getType()));
    }

    /** Two records of one simple name would be written over each other. */
    private static void requireOwnName(Schema<?> schema, Class<?> record) {
        String name = schema.get$ref() == null
                ? schema.getName()
                : schema.get$ref().substring("#/components/schemas/".length());
        Class<?> other = name == null ? null : NAMED.putIfAbsent(name, record);
        if (other != null && other != record) {
            throw new IllegalStateException(record + " and " + other + " have one name in the document");
        }
    }

    /** Optional members are sent as null when there is nothing to say. */
    private static void allowNull(Schema<?> schema, String name) {
        Schema<?> property = schema.getProperties().get(name);
        if (property.get$ref() != null) {
            Schema<?> nothing = new JsonSchema();
            nothing.addType("null");
            schema.getProperties().put(name, new JsonSchema().anyOf(List.of(property, nothing)));
        } else if (property.getTypes() != null) {
            property.addType("null");
        }
    }
}
