package deftlens.server;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** A table belongs to one feature; no other reads or writes it. Held by the sources, since SQL is text. */
class TablesTest {

    private static final Path MAIN = Path.of("src/main");

    /**
     * What more than one feature names, and why. A table that is not here belongs to one package only; nothing is added here without a
     * reason that holds.
     */
    private static final Map<String, Set<String>> SHARED = Map.of(
            // Lists of jobs and imports say who asked, in one query.
            "person", Set.of("people", "jobs", "imports"),
            // Whom a register is open to, as people see it before they leave; the register that a file went into.
            "register", Set.of("registers", "views", "imports"),
            // Views that a team has put on its list, by its name.
            "team", Set.of("people", "views"),
            // Marks are kept beside the records and read with them.
            "record_seen", Set.of("records", "registers"),
            "record_tags", Set.of("records", "registers"));

    private static final Pattern MADE = Pattern.compile("create (?:unlogged )?table (\\w+)");
    private static final Pattern NAMED = Pattern.compile("\\b(?:from|join|into|update|table)\\s+(\\w+)\\b");
    private static final Pattern MAPPED =
            Pattern.compile("@(?:Table|CollectionTable|JoinTable)\\(\\s*name = \"(\\w+)\"");

    private static List<Path> files(Path under, String ending) throws IOException {
        try (Stream<Path> all = Files.walk(under)) {
            return all.filter(f -> f.toString().endsWith(ending)).toList();
        }
    }

    private static String text(Path file) {
        try {
            return Files.readString(file);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static List<String> found(Pattern pattern, String text) {
        List<String> found = new ArrayList<>();
        Matcher matcher = pattern.matcher(text);
        while (matcher.find()) {
            found.add(matcher.group(1));
        }
        return found;
    }

    @Test
    void eachTableBelongsToOneFeature() throws IOException {
        Set<String> tables = files(MAIN.resolve("resources/db/migration"), ".sql").stream()
                .flatMap(f -> found(MADE, text(f)).stream())
                .collect(Collectors.toSet());
        assertThat(tables).contains("person", "kept_view", "job", "change_set");
        Path server = MAIN.resolve("java/deftlens/server");
        Map<String, Set<String>> users = new TreeMap<>();
        for (Path file : files(server, ".java")) {
            String feature = server.relativize(file).getName(0).toString();
            String text = text(file);
            Stream.concat(found(NAMED, text).stream(), found(MAPPED, text).stream())
                    .filter(tables::contains)
                    .forEach(table ->
                            users.computeIfAbsent(table, t -> new TreeSet<>()).add(feature));
        }
        assertThat(users).hasSizeGreaterThan(30);
        Map<String, Set<String>> shared = new HashMap<>(users);
        shared.values().removeIf(features -> features.size() == 1);
        assertThat(shared).isEqualTo(SHARED);
    }
}
