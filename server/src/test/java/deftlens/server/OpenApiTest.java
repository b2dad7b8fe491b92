package deftlens.server;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import deftlens.testing.TestCluster;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashSet;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

/**
 * The document in docs/openapi.json, which the interface's client is generated from, is the one the server gives. Run with
 * {@code -Ddeft.write.openapi=true} to write it anew.
 */
@ExtendWith(TestServer.class)
class OpenApiTest {

    private static final ObjectMapper JSON = JsonMapper.builder()
            .enable(SerializationFeature.ORDER_MAP_ENTRIES_BY_KEYS)
            .build();

    @Test
    void theDocumentIsTheServersOwn() throws IOException {
        Path file = TestCluster.root().resolve("docs/openapi.json");
        ObjectNode given =
                (ObjectNode) Caller.stranger().get("/api/openapi.json").json();
        given.putArray("servers").addObject().put("url", "/");
        if (Boolean.getBoolean("deft.write.openapi")) {
            Object sorted = JSON.treeToValue(given, Object.class);
            Files.writeString(file, JSON.writerWithDefaultPrettyPrinter().writeValueAsString(sorted) + "\n");
        }
        assertThat(JSON.readTree(Files.readString(file))).isEqualTo(given);
    }

    @Test
    void everyCallSaysWhatItDoesUnderANameOfItsOwn() {
        Set<String> names = new HashSet<>();
        JsonNode given = Caller.stranger().get("/api/openapi.json").json();
        given.get("paths")
                .properties()
                .forEach(path -> path.getValue().properties().forEach(call -> {
                    String which = call.getKey() + " " + path.getKey();
                    JsonNode about = call.getValue();
                    assertThat(about.path("description").stringValue(""))
                            .as(which)
                            .endsWith(".");
                    assertThat(about.path("description").stringValue(""))
                            .as(which)
                            .doesNotContain("<", "&quot;");
                    assertThat(names.add(about.get("operationId").stringValue()))
                            .as(which)
                            .isTrue();
                    assertThat(about.at("/responses/default/content").has("application/problem+json"))
                            .as(which)
                            .isTrue();
                }));
        assertThat(names).contains("rows.rows", "views.rows", "figures.count").noneMatch(n -> n.matches(".*_\\d+"));
        assertThat(given.at("/components/securitySchemes").propertyNames())
                .containsExactlyInAnyOrder("session", "token");
    }
}
