package deftlens.server.people;

import deftlens.server.platform.Problem;
import java.io.IOException;
import java.io.StringReader;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVParser;
import org.apache.commons.csv.CSVRecord;

/**
 * A file of people: CSV (RFC 4180) with a heading. {@code name} must be there; {@code full name}, {@code role},
 * {@code teams}, {@code password} and the attributes by key or label may be. Several teams or values are parted by
 * semicolons. A column that is not there leaves what it is about as it is; an empty cell empties it.
 */
record PeopleFile(List<Line> lines, List<PeopleImport.RefusedLine> refused) {

    private static final int MOST_LINES = 20_000;

    /** One person of the file. */
    record Line(
            long number,
            String name,
            Optional<String> fullName,
            Optional<Role> role,
            Optional<List<String>> teams,
            Optional<String> password,
            Map<String, List<String>> values) {}

    static PeopleFile read(String text, List<ViewerAttribute> attributes) {
        Map<String, String> byName = new HashMap<>();
        for (ViewerAttribute a : attributes) {
            byName.put(a.key(), a.key());
            byName.put(a.label().toLowerCase(Locale.ROOT), a.key());
        }
        String plain = text.startsWith("\uFEFF") ? text.substring(1) : text;
        String heading = plain.lines().findFirst().orElse("");
        char delimiter = heading.contains(",") || !heading.contains(";") ? ',' : ';';
        CSVFormat format = CSVFormat.RFC4180
                .builder()
                .setDelimiter(delimiter)
                .setIgnoreEmptyLines(true)
                .setTrim(true)
                .get();
        try (CSVParser parser = CSVParser.parse(new StringReader(plain), format)) {
            List<String> columns = null;
            List<Line> lines = new ArrayList<>();
            List<PeopleImport.RefusedLine> refused = new ArrayList<>();
            for (CSVRecord record : parser) {
                if (columns == null) {
                    columns = columns(record, byName);
                } else if (lines.size() >= MOST_LINES) {
                    throw Problem.unprocessable("long-file", "A file has at most " + MOST_LINES + " people.");
                } else {
                    read(record, parser.getCurrentLineNumber(), columns, lines, refused);
                }
            }
            if (columns == null) {
                throw Problem.unprocessable(
                        "empty-file", "The file is empty. Its first line names the columns: name, full name, role, …");
            }
            return new PeopleFile(lines, refused);
        } catch (IOException | UncheckedIOException | IllegalArgumentException e) {
            throw Problem.unprocessable("bad-file", "The file cannot be read as CSV: " + e.getMessage());
        }
    }

    private static List<String> columns(CSVRecord heading, Map<String, String> byName) {
        List<String> columns = new ArrayList<>();
        for (String cell : heading) {
            String plain = cell.strip().toLowerCase(Locale.ROOT).replace('_', ' ');
            String key = byName.getOrDefault(plain.replace(' ', '_'), byName.get(plain));
            String column = switch (plain) {
                case "name", "full name", "role", "teams", "password" -> plain;
                case "team" -> "teams";
                default -> key == null ? null : "my " + key;
            };
            if (column == null) {
                throw Problem.unprocessable(
                        "unknown-column",
                        "The column “" + cell.strip()
                                + "” is not known. Known are name, full name, role, teams, password and "
                                + String.join(", ", new java.util.TreeSet<>(byName.values())) + ".");
            }
            if (columns.contains(column)) {
                throw Problem.unprocessable("column-twice", "The column “" + cell.strip() + "” is there twice.");
            }
            columns.add(column);
        }
        if (!columns.contains("name")) {
            throw Problem.unprocessable("no-name-column", "The file needs a column “name” with the sign-in names.");
        }
        return columns;
    }

    private static void read(
            CSVRecord record,
            long number,
            List<String> columns,
            List<Line> lines,
            List<PeopleImport.RefusedLine> refused) {
        if (record.size() != columns.size()) {
            refused.add(new PeopleImport.RefusedLine(
                    number, "It has " + record.size() + " cells; the heading has " + columns.size() + "."));
            return;
        }
        Map<String, String> cells = new LinkedHashMap<>();
        for (int i = 0; i < columns.size(); i++) {
            cells.put(columns.get(i), record.get(i).strip());
        }
        Optional<Role> role = Optional.empty();
        String said = cells.getOrDefault("role", "");
        if (!said.isEmpty()) {
            role = Arrays.stream(Role.values())
                    .filter(r -> r.name().equalsIgnoreCase(said))
                    .findFirst();
            if (role.isEmpty()) {
                refused.add(new PeopleImport.RefusedLine(
                        number, "“" + said + "” is no role; write administrator, member or auditor."));
                return;
            }
        }
        Map<String, List<String>> values = new LinkedHashMap<>();
        cells.forEach((column, cell) -> {
            if (column.startsWith("my ")) {
                values.put(column.substring(3), several(cell));
            }
        });
        lines.add(new Line(
                number,
                cells.get("name").toLowerCase(Locale.ROOT),
                Optional.ofNullable(cells.get("full name")).filter(c -> !c.isEmpty()),
                role,
                Optional.ofNullable(cells.get("teams")).map(PeopleFile::several),
                Optional.ofNullable(cells.get("password")).filter(c -> !c.isEmpty()),
                values));
    }

    private static List<String> several(String cell) {
        return Arrays.stream(cell.split(";"))
                .map(String::strip)
                .filter(c -> !c.isEmpty())
                .toList();
    }
}
