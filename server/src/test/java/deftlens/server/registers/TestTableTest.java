package deftlens.server.registers;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.condition.Verb;
import deftlens.core.field.FieldType;
import deftlens.testing.TestCluster;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.json.JsonMapper;

/**
 * The tests of the web stand on fields as the server describes them: the tests of each type, in {@code web/src/testing/tests.json}.
 * Run with {@code -Ddeft.write.openapi=true} to write it anew.
 */
class TestTableTest {

    private static final ObjectMapper JSON = JsonMapper.builder().build();

    @Test
    void theTestsOfEachTypeAreTheServersOwn() throws IOException {
        Map<String, List<RegisterDescription.Test>> all = new LinkedHashMap<>();
        for (FieldType type : FieldType.values()) {
            all.put(
                    type.label(),
                    Verb.of(type).stream()
                            .map(verb -> RegisterDescription.Test.of(type, verb))
                            .toList());
        }
        Path file = TestCluster.root().resolve("web/src/testing/tests.json");
        if (Boolean.getBoolean("deft.write.openapi")) {
            Files.writeString(file, JSON.writerWithDefaultPrettyPrinter().writeValueAsString(all) + "\n");
        }
        assertThat(JSON.readTree(Files.readString(file))).isEqualTo(JSON.valueToTree(all));
    }
}
