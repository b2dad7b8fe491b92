package deftlens.server.platform;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonUnwrapped;
import com.fasterxml.jackson.databind.JavaType;
import io.swagger.v3.core.converter.AnnotatedType;
import io.swagger.v3.core.converter.ModelConverter;
import io.swagger.v3.core.converter.ModelConverterContext;
import io.swagger.v3.core.util.Json;
import io.swagger.v3.oas.models.Components;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.media.Content;
import io.swagger.v3.oas.models.media.JsonSchema;
import io.swagger.v3.oas.models.media.MediaType;
import io.swagger.v3.oas.models.media.Schema;
import io.swagger.v3.oas.models.responses.ApiResponse;
import io.swagger.v3.oas.models.security.SecurityRequirement;
import io.swagger.v3.oas.models.security.SecurityScheme;
import java.lang.reflect.RecordComponent;
import java.util.Collection;
import java.util.Iterator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;
import org.springdoc.core.customizers.GlobalOpenApiCustomizer;
import org.springdoc.core.customizers.OperationCustomizer;
import org.springdoc.core.utils.SpringDocUtils;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import tools.jackson.databind.JsonNode;

/** The OpenAPI document: what is never absent is marked as required, so that generated clients need not guess. */
@Configuration
class OpenApiSettings {

    private static final String SESSION = "session";
    private static final String TOKEN = "token";
    private static final String PROBLEM = "Problem";

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
                                        "Questions over registers, and the views saved of them. Errors are RFC 9457 problem details with a stable code."))
                .components(
                        new Components()
                                .addSecuritySchemes(
                                        SESSION,
                                        new SecurityScheme()
                                                .type(SecurityScheme.Type.APIKEY)
                                                .in(SecurityScheme.In.COOKIE)
                                                .name("DEFT_SESSION")
                                                .description(
                                                        "Signing in (POST /api/session) sets it. Calls that are not GET send the cookie XSRF-TOKEN, which any GET sets, back in the header X-XSRF-TOKEN."))
                                .addSecuritySchemes(
                                        TOKEN,
                                        new SecurityScheme()
                                                .type(SecurityScheme.Type.HTTP)
                                                .scheme("bearer")
                                                .description(
                                                        "A personal token, made on one's account page; it works everywhere, without cookies.")))
                .addSecurityItem(new SecurityRequirement().addList(SESSION))
                .addSecurityItem(new SecurityRequirement().addList(TOKEN));
    }

    /**
     * What each call may answer beside what it is for. The problem's {@code code} is stable and tells programs what is the matter; its
     * {@code detail} is a sentence for people.
     */
    @Bean
    GlobalOpenApiCustomizer problems() {
        return document -> {
            document.getComponents().addSchemas(PROBLEM, problem());
            document.getPaths().values().stream()
                    .flatMap(p -> p.readOperations().stream())
                    .forEach(o -> o.getResponses()
                            .addApiResponse(
                                    "default",
                                    new ApiResponse()
                                            .description("It was refused, or could not be done: RFC 9457.")
                                            .content(new Content()
                                                    .addMediaType(
                                                            "application/problem+json",
                                                            new MediaType()
                                                                    .schema(new JsonSchema()
                                                                            .$ref("#/components/schemas/"
                                                                                    + PROBLEM))))));
        };
    }

    private static Schema<?> problem() {
        return new JsonSchema()
                .typesItem("object")
                .description(
                        "What is the matter. 400: the request cannot be read; 401: nobody is signed in; 403: not this person's to do; 404: not there, or not for this person; 409: changed by somebody else meanwhile; 422: understood, and it cannot be; 503: busy, stopped, or the database is away.")
                .addProperty("status", new JsonSchema().typesItem("integer").description("The HTTP status."))
                .addProperty("code", new JsonSchema().typesItem("string").description("Stable; for programs."))
                .addProperty(
                        "detail",
                        new JsonSchema()
                                .typesItem("string")
                                .description("A sentence that says what to do; for people."))
                .addProperty(
                        "at",
                        new JsonSchema().typesItem("string").description("The member of the request that it is about."))
                .addProperty(
                        "line",
                        new JsonSchema().typesItem("integer").description("Of a statement that does not read, from 1."))
                .addProperty(
                        "column",
                        new JsonSchema().typesItem("integer").description("Of a statement that does not read, from 1."))
                .addRequiredItem("status")
                .addRequiredItem("code")
                .addRequiredItem("detail");
    }

    /** What stands in Javadoc as HTML, as the CommonMark that the document's texts are. */
    @Bean
    GlobalOpenApiCustomizer plainTexts() {
        return document -> {
            document.getPaths().values().stream()
                    .flatMap(p -> p.readOperations().stream())
                    .forEach(o -> {
                        o.setDescription(plain(o.getDescription()));
                        // What is said in one place need not be said in two.
                        o.setSummary(null);
                    });
            document.getComponents().getSchemas().values().forEach(OpenApiSettings::plain);
        };
    }

    private static void plain(Schema<?> schema) {
        schema.setDescription(plain(schema.getDescription()));
        Stream.of(schema.getProperties(), schema.getAnyOf(), schema.getItems())
                .flatMap(parts -> switch (parts) {
                    case null -> Stream.of();
                    case Map<?, ?> properties -> properties.values().stream();
                    case Collection<?> schemas -> schemas.stream();
                    default -> Stream.of(parts);
                })
                .forEach(part -> plain((Schema<?>) part));
    }

    private static String plain(String html) {
        return html == null
                ? null
                : html.replaceAll("\\s+", " ")
                        .replaceAll("</?(code|tt)>", "`")
                        .replaceAll("</?(em|i)>", "*")
                        .replaceAll(" ?</?p> ?", "\n\n")
                        .replace("&quot;", "\"")
                        .replace("&lt;", "<")
                        .replace("&gt;", ">")
                        .replace("&amp;", "&")
                        .strip();
    }

    /** A call is known by its controller and its method, whatever else is added: {@code views.rows}. */
    @Bean
    OperationCustomizer stableNames() {
        return (operation, handler) -> {
            String controller = handler.getBeanType().getSimpleName().replaceAll("(Controller)?(\\$\\$.*)?$", "");
            return operation.operationId(controller.substring(0, 1).toLowerCase(Locale.ROOT) + controller.substring(1)
                    + "."
                    + handler.getMethod().getName());
        };
    }

    @Bean
    ModelConverter requiredRecordComponents() {
        return new ModelConverter() {
            @Override
            public Schema<?> resolve(
                    AnnotatedType type, ModelConverterContext context, Iterator<ModelConverter> chain) {
                JavaType java = Json.mapper().constructType(type.getType());
                Optional<List<String>> words = Optional.ofNullable(java).flatMap(j -> CoreWords.of(j.getRawClass()));
                if (words.isPresent()) {
                    return words(words.get());
                }
                Schema<?> resolved = chain.hasNext() ? chain.next().resolve(type, context, chain) : null;
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

    private static Schema<?> words(List<String> known) {
        JsonSchema text = new JsonSchema();
        text.addType("string");
        known.forEach(text::addEnumItemObject);
        return text;
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
