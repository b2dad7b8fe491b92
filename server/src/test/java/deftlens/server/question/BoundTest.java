package deftlens.server.question;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/**
 * What people send reaches the database as bound values and never as a piece of SQL: a word that no program has in it is sent in every
 * place that takes one, and is looked for in the statements that the database itself notes.
 */
@ExtendWith(TestServer.class)
class BoundTest {

    /** What is sent; with what would end a text or a name early if it were spliced in. */
    private static final String SENT = "zqx'sp\"liced$body$;--\\";

    private static final String MARK = "zqx";
    private static final String AT = "/api/registers/jobs";

    /** An entry of the database's log: when, by whom, what kind, and what. */
    private static final Pattern ENTRY = Pattern.compile(
            "(?m)^\\d{4}-\\d\\d-\\d\\d [^\\n]*? (LOG|DETAIL|ERROR|STATEMENT|HINT|CONTEXT|WARNING|NOTICE|FATAL): ");

    private final Caller dora = Caller.signedIn("dora");

    @BeforeAll
    static void note() throws SQLException {
        TestServer.sql("alter system set log_statement = 'all'");
        TestServer.sql("select pg_reload_conf()");
    }

    @AfterAll
    static void noMore() throws SQLException {
        TestServer.sql("alter system reset log_statement");
        TestServer.sql("select pg_reload_conf()");
    }

    private static long size() throws SQLException {
        return Long.parseLong(TestServer.query("select size from pg_stat_file('server.log')"));
    }

    /** The statements that the database was given since its log had a size, without their values. */
    private static List<String> statements(long since) throws SQLException {
        String log = TestServer.query("select pg_read_file('server.log', " + since + ", " + (size() - since) + ")");
        List<String> found = new ArrayList<>();
        Matcher entry = ENTRY.matcher(log);
        int from = -1;
        String kind = "";
        while (entry.find()) {
            if (from >= 0 && (kind.equals("LOG") || kind.equals("STATEMENT"))) {
                found.add(log.substring(from, entry.start()));
            }
            from = entry.end();
            kind = entry.group(1);
        }
        return found;
    }

    private static Map<String, Object> condition(String field, String test, Object value) {
        Map<String, Object> node = new HashMap<>();
        node.put("field", field);
        node.put("test", test);
        node.put(value instanceof List ? "values" : "value", value);
        return node;
    }

    private static String quoted(String text) {
        return "\"" + text.replace("\\", "\\\\").replace("\"", "\\\"") + "\"";
    }

    @Test
    void whatIsSentIsBound() throws SQLException {
        long since = size();
        Map<String, Integer> answered = new HashMap<>();
        List<Map<String, Object>> conditions = new ArrayList<>();
        JsonNode described = dora.get(AT).json();
        for (JsonNode field : described.get("fields")) {
            for (JsonNode test : described.get("tests").get(field.get("type").stringValue())) {
                String words = test.get("words").stringValue();
                if (field.get("type").stringValue().matches("text|choice|tags|person")) {
                    conditions.add(condition(field.get("key").stringValue(), words, SENT));
                    conditions.add(condition(field.get("key").stringValue(), words, List.of(SENT, SENT + "2")));
                }
            }
        }
        for (Map<String, Object> condition : conditions) {
            for (String call : List.of("rows", "count", "statement", "parts")) {
                int status = dora.post(AT + "/" + call, Map.of("condition", condition))
                        .status();
                answered.merge(call + " " + status, 1, Integer::sum);
            }
        }
        Map<String, Object> holds = Map.of("condition", condition("title", "contains", SENT));
        Map<String, Object> sought = new HashMap<>(holds);
        List<Map<String, Object>> bodies = new ArrayList<>();
        List<String> paths = new ArrayList<>();
        Map<String, Map<String, Object>> more = new HashMap<>();
        more.put("rows?", Map.of("inside", List.of(Map.of("field", "site", "value", SENT))));
        more.put("rows", Map.of("order", List.of(SENT)));
        more.put("groups", Map.of("groups", List.of(Map.of("field", "site"))));
        more.put("values", Map.of("field", "title", "search", SENT));
        more.put("totals", Map.of("rows", List.of(Map.of("field", "site")), "keep", SENT));
        more.put(
                "totals/records",
                Map.of("rows", List.of(Map.of("field", "site")), "at", Map.of("keys", List.of(SENT))));
        more.put("why", Map.of("record", SENT));
        more.put("edges", Map.of());
        more.put("proposals", Map.of("text", SENT));
        more.put("pasted", Map.of("field", "title", "text", SENT));
        more.put("histogram", Map.of("field", "due"));
        more.put(
                "added-fields",
                Map.of("fields", List.of(Map.of("label", SENT, "calculation", "join(title, " + quoted(SENT) + ")"))));
        more.forEach((path, body) -> {
            paths.add(path.replace("?", ""));
            Map<String, Object> all = new HashMap<>(path.matches("added-fields|proposals|pasted") ? Map.of() : sought);
            all.putAll(body);
            bodies.add(all);
        });
        for (int i = 0; i < paths.size(); i++) {
            answered.merge(
                    paths.get(i) + " "
                            + dora.post(AT + "/" + paths.get(i), bodies.get(i)).status(),
                    1,
                    Integer::sum);
        }
        // Fields that are calculated with it, and all that is asked of them.
        Caller.Answer added = dora.post(
                AT + "/added-fields",
                Map.of(
                        "fields",
                        List.of(Map.of("label", "Added", "calculation", "join(title, " + quoted(SENT) + ")"))));
        assertThat(added.status()).as(added.text()).isEqualTo(200);
        String with = added.json().get("key").stringValue();
        assertThat(dora.post(
                                "/api/registers/" + with + "/rows",
                                Map.of("statement", "_added contains " + quoted(SENT), "order", List.of("_added")))
                        .json()
                        .get("rows"))
                .isNotEmpty();
        // Views, and what readers have of their own.
        Caller.Answer kept = dora.post(
                "/api/views",
                Map.of(
                        "register",
                        with,
                        "name",
                        SENT,
                        "purpose",
                        SENT,
                        "labels",
                        List.of(SENT),
                        "statement",
                        "title contains {Which one}"));
        String view =
                "/api/views/" + (kept.status() == 201 ? kept.json().get("id").stringValue() : "0");
        assertThat(kept.status()).as(kept.text()).isEqualTo(201);
        assertThat(dora.put(view + "/own/answers", Map.of("Which one", SENT)).status())
                .isEqualTo(200);
        assertThat(dora.get(view + "/rows?ask." + URLEncoder.encode("Which one", StandardCharsets.UTF_8) + "="
                                + URLEncoder.encode(SENT, StandardCharsets.UTF_8))
                        .status())
                .isEqualTo(200);
        dora.get("/api/registers/" + URLEncoder.encode(SENT, StandardCharsets.UTF_8));
        dora.get("/api/questions/" + URLEncoder.encode(SENT, StandardCharsets.UTF_8));

        List<String> statements = statements(since);
        assertThat(statements.stream().filter(s -> s.contains("\"jobs\"")).count())
                .isGreaterThan(50);
        assertThat(statements.stream().filter(s -> s.contains(MARK))).isEmpty();
        // One that has it is found.
        TestServer.query("select '" + MARK + " in the text'");
        assertThat(statements(since)).anyMatch(s -> s.contains(MARK + " in the text"));
        assertThat(answered.entrySet().stream()
                        .filter(e -> e.getKey().endsWith(" 200"))
                        .mapToInt(Map.Entry::getValue)
                        .sum())
                .as(answered.toString())
                .isGreaterThan(40);
        assertThat(answered.keySet()).noneMatch(k -> k.endsWith(" 500"));
    }
}
