package deftlens.server.registers;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(TestServer.class)
class OriginTest {

    /** Where it is decided what a source is made of: its tables, its columns, its members. */
    private static final List<String> MAKERS = List.of(
            "Attaching.java",
            "Combining.java",
            "Origin.java",
            "RecordScopes.java",
            "RecordTables.java",
            "RegisterAttention.java",
            "RegisterCatalogue.java",
            "RegisterDescription.java",
            "RegisterEntity.java",
            "TableShapes.java");

    @Test
    void aRegisterSaysWhatCanBeDoneWithIt() {
        assertThat(Caller.signedIn("dora")
                        .get("/api/registers/jobs")
                        .json()
                        .get("capabilities")
                        .toString())
                .isEqualTo("[\"records\",\"fields\",\"trail\",\"counts\",\"indexes\",\"guarded\"]");
        assertThat(Origin.ATTACHED.capabilities()).isEmpty();
        assertThat(Origin.COMBINED.can(Origin.Capability.RECORDS)).isFalse();
    }

    @Test
    void nobodyElseComparesTheNameOfASource() throws IOException {
        try (Stream<Path> files = Files.walk(Path.of("src/main/java"))) {
            assertThat(files.filter(f -> f.toString().endsWith(".java"))
                            .filter(f -> !MAKERS.contains(f.getFileName().toString()))
                            .filter(OriginTest::compares))
                    .isEmpty();
        }
    }

    private static boolean compares(Path file) {
        try {
            String text = Files.readString(file);
            return Stream.of("Origin.OWN", "Origin.ATTACHED", "Origin.COMBINED")
                    .anyMatch(name -> text.matches("(?s).*\\b" + name.replace(".", "\\.") + "\\b.*"));
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }
}
