package deftlens.server.rows;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import tools.jackson.databind.JsonNode;

/**
 * Everything that a page says of a random statement, held against SQL that is written here and shares nothing with the server:
 * the number, the margin, the edges, the records without a value, the groups with their sums, and the same windows fixed.
 */
@ExtendWith(TestServer.class)
class PagePropertyTest {

    private static final int STATEMENTS = 30;
    /** The most criteria that edges are shown of. */
    private static final int MOST = 10;

    private static final String AS_OF = "2026-11-23T12:00:00Z";
    /** Another day, on which a window that is fixed still means what it meant. */
    private static final String LATER = "2027-03-02T09:00:00Z";

    private static final int EACH = 3;

    private static Caller dora;
    private static Connection database;
    private static int boundaries;
    private static int emptiesTold;

    @BeforeAll
    static void connect() throws SQLException {
        dora = Caller.signedIn("dora");
        database = TestServer.connect();
    }

    /** A test that found nothing to compare would be green too. */
    @AfterAll
    static void somethingWasCompared() throws SQLException {
        database.close();
        assertThat(boundaries).isGreaterThan(STATEMENTS);
        assertThat(emptiesTold).isGreaterThan(STATEMENTS / 5);
    }

    /** A part of a statement, in the language and in SQL that is true or false of every record. */
    private sealed interface Part {
        String text();

        String sql();
    }

    /**
     * One criterion.
     *
     * @param phrase the date phrase in it, if it has one
     */
    private record Leaf(String text, String sql, String field, Optional<String> phrase) implements Part {}

    private enum Kind {
        ALL("all", " and "),
        ANY("any", " or "),
        NONE("none", " or ");

        private final String member;
        private final String between;

        Kind(String member, String between) {
            this.member = member;
            this.between = between;
        }
    }

    private record Group(Kind kind, List<Part> parts) implements Part {
        @Override
        public String text() {
            String inside = parts.stream()
                    .map(p -> p instanceof Group g && g.kind != Kind.NONE ? "(" + p.text() + ")" : p.text())
                    .collect(Collectors.joining(kind.between));
            return kind == Kind.NONE ? "not (" + inside + ")" : inside;
        }

        @Override
        public String sql() {
            String inside = parts.stream()
                    .map(p -> "(" + p.sql() + ")")
                    .collect(Collectors.joining(kind == Kind.ALL ? " and " : " or "));
            return kind == Kind.NONE ? "not (" + inside + ")" : inside;
        }
    }

    // ------------------------------------------------------------------ random statements

    private static Leaf plain(String text, String sql, String field) {
        return new Leaf(text, sql, field, Optional.empty());
    }

    /** Windows at {@link #AS_OF} in London, written out by hand. */
    private static Leaf window(String field, boolean in, String phrase, String low, String high) {
        String inside = "coalesce(" + field + " >= " + low + " and " + field + " < " + high + ", false)";
        return new Leaf(
                field + (in ? " in " : " not in ") + phrase, in ? inside : "not " + inside, field, Optional.of(phrase));
    }

    private static Leaf leaf(Random random) {
        boolean yes = random.nextBoolean();
        int level = 1 + random.nextInt(6);
        int cost = random.nextInt(340) - 50;
        return switch (random.nextInt(14)) {
            case 0 -> plain("level " + (yes ? ">= " : "< ") + level, "level " + (yes ? ">= " : "< ") + level, "level");
            case 1 ->
                plain(
                        "cost " + (yes ? "> " : "<= ") + cost,
                        "coalesce(cost " + (yes ? "> " : "<= ") + cost + ", false)",
                        "cost");
            case 2 ->
                plain(
                        "cost between " + cost + " and " + (cost + 60),
                        "coalesce(cost >= " + cost + " and cost <= " + (cost + 60) + ", false)",
                        "cost");
            case 3 ->
                plain("cost is " + (yes ? "" : "not ") + "empty", "cost is " + (yes ? "" : "not ") + "null", "cost");
            case 4 ->
                plain(
                        "site is " + (yes ? "" : "not ") + "\"North\"",
                        (yes ? "" : "not ") + "coalesce(site = 'North', false)",
                        "site");
            case 5 -> plain("state is \"Open\"", "state = 'Open'", "state");
            case 6 -> plain("tags has any of (\"Safety\")", "'Safety' = any (tags)", "tags");
            case 7 ->
                plain(
                        "title contains \"" + (yes ? "PUMP" : "gate") + "\"",
                        "title ilike '%" + (yes ? "pump" : "gate") + "%'",
                        "title");
            case 8 -> window("due", yes, "last 7 days", "date '2026-11-17'", "date '2026-11-24'");
            case 9 -> window("due", yes, "this month", "date '2026-11-01'", "date '2026-12-01'");
            case 10 -> window("due", yes, "next week", "date '2026-11-30'", "date '2026-12-07'");
            case 11 ->
                window(
                        "made_at",
                        yes,
                        "yesterday",
                        "timestamptz '2026-11-22 00:00Z'",
                        "timestamptz '2026-11-23 00:00Z'");
            case 12 ->
                window(
                        "made_at",
                        yes,
                        "last 48 hours",
                        "timestamptz '2026-11-21 12:00Z'",
                        "timestamptz '2026-11-23 12:00Z'");
            default ->
                yes
                        ? new Leaf(
                                "due before today",
                                "coalesce(due < date '2026-11-23', false)",
                                "due",
                                Optional.of("today"))
                        : new Leaf(
                                "due after yesterday",
                                "coalesce(due > date '2026-11-22', false)",
                                "due",
                                Optional.of("yesterday"));
        };
    }

    /** Groups whose parts are of another kind, so that the server has nothing to draw together. */
    private static Part part(Random random, int depth, Kind around) {
        if (depth == 0 || random.nextInt(5) < 2) {
            return leaf(random);
        }
        List<Kind> kinds = new ArrayList<>(List.of(Kind.values()));
        kinds.remove(around);
        if (around == Kind.NONE) {
            kinds.remove(Kind.ANY);
        }
        return group(random, depth, kinds.get(random.nextInt(kinds.size())));
    }

    private static Group group(Random random, int depth, Kind kind) {
        Map<String, Part> parts = new TreeMap<>();
        int many = 2 + random.nextInt(3);
        while (parts.size() < many) {
            Part made = part(random, depth - 1, kind);
            parts.putIfAbsent(made.text(), made);
        }
        return new Group(kind, List.copyOf(parts.values()));
    }

    static List<Group> statements() {
        Random random = new Random(20261123);
        List<Group> made = new ArrayList<>();
        for (int i = 0; made.size() < STATEMENTS; i++) {
            Group one = group(random, 1 + i % 3, Kind.values()[i % 3 == 2 ? random.nextInt(3) : i % 2]);
            if (byPath(one).values().stream().filter(Leaf.class::isInstance).count() <= MOST) {
                made.add(one);
            }
        }
        return made;
    }

    // ------------------------------------------------------------------ trees, by path

    private static Map<String, Part> byPath(Part part) {
        Map<String, Part> found = new TreeMap<>();
        collect(part, "", found);
        return found;
    }

    private static void collect(Part part, String path, Map<String, Part> found) {
        found.put(path, part);
        if (part instanceof Group group) {
            for (int i = 0; i < group.parts().size(); i++) {
                collect(group.parts().get(i), path + "/" + group.kind().member + "/" + i, found);
            }
        }
    }

    /** The tree with what is made of one part in its place; a group that nothing is left of is left out too. */
    private static Optional<Part> with(Part part, String path, String wanted, Function<Part, Optional<Part>> change) {
        if (path.equals(wanted)) {
            return change.apply(part);
        }
        if (!(part instanceof Group group)) {
            return Optional.of(part);
        }
        List<Part> parts = new ArrayList<>();
        for (int i = 0; i < group.parts().size(); i++) {
            with(group.parts().get(i), path + "/" + group.kind().member + "/" + i, wanted, change)
                    .ifPresent(parts::add);
        }
        return parts.isEmpty() ? Optional.empty() : Optional.of(new Group(group.kind(), parts));
    }

    /** The tree as far as it goes up to a part, with all that stands before it. */
    private static Part upTo(Part part, String path, String wanted) {
        if (path.equals(wanted) || !(part instanceof Group group)) {
            return part;
        }
        List<Part> parts = new ArrayList<>();
        for (int i = 0; i < group.parts().size(); i++) {
            String own = path + "/" + group.kind().member + "/" + i;
            if (wanted.equals(own) || wanted.startsWith(own + "/")) {
                parts.add(upTo(group.parts().get(i), own, wanted));
                break;
            }
            parts.add(group.parts().get(i));
        }
        return new Group(group.kind(), parts);
    }

    private static String sqlOf(Optional<Part> part) {
        return part.map(Part::sql).orElse("true");
    }

    /** The condition with one criterion held to be true, or false. */
    private static String held(Part whole, String path, boolean true_) {
        return sqlOf(with(whole, "", path, p -> Optional.of(plain("", String.valueOf(true_), ""))));
    }

    // ------------------------------------------------------------------ asking

    private static JsonNode ask(String call, Map<String, Object> more) {
        Map<String, Object> body = new HashMap<>(Map.of("asOf", AS_OF));
        body.putAll(more);
        Caller.Answer answer = dora.post("/api/registers/jobs/" + call, body);
        assertThat(answer.status()).as("%s %s: %s", call, more, answer.text()).isEqualTo(200);
        return answer.json();
    }

    private static List<Long> counts(List<String> conditions) throws SQLException {
        String columns = conditions.stream()
                .map(c -> "count(*) filter (where " + c + ")")
                .collect(Collectors.joining(", "));
        try (Statement statement = database.createStatement();
                ResultSet found = statement.executeQuery("select " + columns + " from records.jobs")) {
            found.next();
            List<Long> numbers = new ArrayList<>();
            for (int i = 1; i <= conditions.size(); i++) {
                numbers.add(found.getLong(i));
            }
            return numbers;
        }
    }

    private static List<List<String>> rows(String sql) throws SQLException {
        try (Statement statement = database.createStatement();
                ResultSet found = statement.executeQuery(sql)) {
            List<List<String>> rows = new ArrayList<>();
            while (found.next()) {
                List<String> row = new ArrayList<>();
                for (int i = 1; i <= found.getMetaData().getColumnCount(); i++) {
                    row.add(found.getString(i));
                }
                rows.add(row);
            }
            return rows;
        }
    }

    private static BigDecimal amount(String text) {
        return text == null ? null : new BigDecimal(text).stripTrailingZeros();
    }

    private static BigDecimal amount(JsonNode node) {
        return node == null || node.isNull() ? null : amount(node.asString());
    }

    @ParameterizedTest
    @MethodSource("statements")
    void allThatAPageSaysIsTrue(Group whole) throws SQLException {
        String text = whole.text();
        String sql = whole.sql();
        Map<String, Part> parts = byPath(whole);
        long matching = counts(List.of(sql)).getFirst();
        assertThat(ask("count", Map.of("statement", text)).get("matching").asLong())
                .as(text)
                .isEqualTo(matching);
        margin(whole, text, parts);
        edges(whole, text, sql, parts);
        empties(whole, text, sql, parts);
        figures(text, sql, matching);
        fixed(whole, parts, matching);
    }

    private static void margin(Group whole, String text, Map<String, Part> parts) throws SQLException {
        JsonNode margin = ask("parts", Map.of("statement", text)).get("parts");
        assertThat(margin.valueStream().map(p -> p.get("path").stringValue()))
                .as(text)
                .containsExactlyInAnyOrderElementsOf(parts.keySet());
        for (JsonNode line : margin) {
            String path = line.get("path").stringValue();
            List<Long> expected = counts(List.of(
                    parts.get(path).sql(),
                    sqlOf(with(whole, "", path, p -> Optional.empty())),
                    upTo(whole, "", path).sql()));
            assertThat(List.of(
                            line.get("alone").asLong(),
                            line.get("without").asLong(),
                            line.get("left").asLong()))
                    .as("%s at %s: alone, without, left", text, path)
                    .isEqualTo(expected);
        }
    }

    /** The records that a criterion decides, on each side of each of its boundaries, the nearest first. */
    private static void edges(Group whole, String text, String sql, Map<String, Part> parts) throws SQLException {
        for (JsonNode edge : ask("edges", Map.of("statement", text))) {
            String path = edge.get("path").stringValue();
            Leaf leaf = (Leaf) parts.get(path);
            assertThat(edge.get("field").stringValue())
                    .as("%s at %s", text, path)
                    .isEqualTo(leaf.field());
            String decided = "(" + held(whole, path, true) + ") <> (" + held(whole, path, false) + ")";
            for (JsonNode boundary : edge.get("boundaries")) {
                boundaries++;
                for (boolean inside : List.of(true, false)) {
                    near(leaf.field(), boundary, inside, decided, sql, text + " at " + path);
                }
            }
        }
    }

    private static void near(String field, JsonNode boundary, boolean inside, String decided, String sql, String what)
            throws SQLException {
        boolean above = boundary.get("begins").booleanValue() == inside;
        boolean equal = boundary.get("belongs").booleanValue() == inside;
        String at = boundary.get("at").asString();
        String value =
                field.equals("made_at") ? "timestamptz '" + at + "'" : field.equals("due") ? "date '" + at + "'" : at;
        String side = " from records.jobs where (" + decided + ") and " + (inside ? "" : "not ") + "(" + sql + ") and "
                + field + (above ? " >" : " <") + (equal ? "= " : " ") + value;
        String order = above ? " asc" : " desc";
        JsonNode found = boundary.get(inside ? "inside" : "outside");
        if (field.equals("level") || field.equals("cost")) {
            assertThat(found.get("values")
                            .valueStream()
                            .map(v -> List.<Object>of(
                                    amount(v.get("value")),
                                    v.get("count").asLong(),
                                    v.get("matches").booleanValue())))
                    .as("%s, boundary %s, %s", what, at, inside ? "in" : "out")
                    .containsExactlyElementsOf(rows("select " + field + ", count(*)" + side + " group by 1 order by 1"
                                    + order + " limit " + EACH)
                            .stream()
                            .map(r -> List.<Object>of(amount(r.get(0)), Long.valueOf(r.get(1)), inside))
                            .toList());
        } else {
            // Several records may be equally near: their values are compared, and each is looked at by itself.
            String shown = field.equals("due")
                    ? "due::text"
                    : "to_char(made_at at time zone 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')";
            assertThat(found.get("rows").valueStream().map(r -> r.get("value").stringValue()))
                    .as("%s, boundary %s, %s", what, at, inside ? "in" : "out")
                    .containsExactlyElementsOf(
                            rows("select " + shown + side + " order by " + field + order + " limit " + EACH).stream()
                                    .map(List::getFirst)
                                    .toList());
            for (JsonNode row : found.get("rows")) {
                assertThat(row.get("matches").booleanValue()).as(what).isEqualTo(inside);
                assertThat(rows("select 1" + side + " and id = "
                                + row.get("record").get("id").stringValue()))
                        .as("%s: record %s", what, row)
                        .hasSize(1);
            }
        }
    }

    /** What is said of records without a value, beside the statement and under the columns' heads. */
    private static void empties(Group whole, String text, String sql, Map<String, Part> parts) throws SQLException {
        for (JsonNode finding : ask("statement", Map.of("statement", text)).get("findings")) {
            String code = finding.get("code").stringValue();
            if (!code.startsWith("empty-")) {
                continue;
            }
            emptiesTold++;
            String path = finding.get("path").stringValue();
            Leaf leaf = (Leaf) parts.get(path);
            String decided = "(" + held(whole, path, true) + ") <> (" + held(whole, path, false) + ")";
            boolean letIn = code.equals("empty-let-in");
            assertThat(finding.get("count").asLong())
                    .as("%s: %s at %s", text, finding.get("message"), path)
                    .isEqualTo(counts(List.of(leaf.field() + " is null and (" + decided + ") and "
                                    + (letIn ? "" : "not ") + "(" + sql + ")"))
                            .getFirst());
        }
        long without = counts(List.of("(" + sql + ") and cost is null")).getFirst();
        assertThat(ask("distribution", Map.of("statement", text, "field", "cost"))
                        .get("empty")
                        .asLong())
                .as("%s: without a cost", text)
                .isEqualTo(without);
        Map<String, Long> sites = new HashMap<>();
        ask("values", Map.of("statement", text, "field", "site"))
                .get("values")
                .forEach(v -> sites.put(
                        v.get("value").isNull() ? "" : v.get("value").stringValue(),
                        v.get("count").asLong()));
        assertThat(sites).as(text).isEqualTo(bySite("count(*)", sql));
    }

    private static Map<String, Long> bySite(String what, String sql) throws SQLException {
        Map<String, Long> found = new HashMap<>();
        rows("select coalesce(site, ''), " + what + " from records.jobs where " + sql + " group by 1")
                .forEach(r -> found.put(r.get(0), Long.valueOf(r.get(1))));
        return found;
    }

    private static void figures(String text, String sql, long matching) throws SQLException {
        JsonNode groups = ask(
                "groups",
                Map.of(
                        "statement",
                        text,
                        "groups",
                        List.of(Map.of("field", "site")),
                        "measures",
                        List.of(
                                Map.of("function", "sum", "field", "cost"),
                                Map.of("function", "sum", "field", "level"))));
        Map<String, List<Object>> said = new HashMap<>();
        groups.get("groups")
                .forEach(g -> said.put(
                        g.get("value").isNull() ? "" : g.get("value").stringValue(),
                        java.util.Arrays.asList(
                                g.get("records").asLong(), amount(g.at("/figures/0")), amount(g.at("/figures/1")))));
        Map<String, List<Object>> summed = new HashMap<>();
        rows("select coalesce(site, ''), count(*), sum(cost), sum(level) from records.jobs where " + sql
                        + " group by 1")
                .forEach(r -> summed.put(
                        r.get(0), java.util.Arrays.asList(Long.valueOf(r.get(1)), amount(r.get(2)), amount(r.get(3)))));
        assertThat(said).as(text).isEqualTo(summed);
        assertThat(groups.get("records").asLong()).as(text).isEqualTo(matching);
        assertThat(amount(groups.at("/figures/0")))
                .as(text)
                .isEqualTo(amount(rows("select sum(cost) from records.jobs where " + sql)
                        .getFirst()
                        .getFirst()));
    }

    /** The same statement with its windows fixed as they are now finds the same records on any other day. */
    private static void fixed(Group whole, Map<String, Part> parts, long matching) {
        Optional<Part> still = Optional.of(whole);
        for (Map.Entry<String, Part> one : parts.entrySet()) {
            if (one.getValue() instanceof Leaf(String text, String sql, String field, Optional<String> phrase)
                    && phrase.isPresent()) {
                JsonNode answer = dora.post(
                                "/api/windows/fix",
                                Map.of("phrase", phrase.get(), "now", AS_OF, "zone", "Europe/London"))
                        .json();
                String now = text.replace(phrase.get(), answer.get("fixed").stringValue());
                still = still.flatMap(w ->
                        with(w, "", one.getKey(), p -> Optional.of(new Leaf(now, sql, field, Optional.empty()))));
            }
        }
        String text = still.orElseThrow().text();
        assertThat(ask("count", Map.of("statement", text, "asOf", LATER))
                        .get("matching")
                        .asLong())
                .as(text)
                .isEqualTo(matching);
    }
}
