package deftlens.server.files;

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
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.node.ObjectNode;

/** Results as files of each format, beside what the screen has. */
@ExtendWith(TestServer.class)
class FilesTest {

    private static final String AT = "/api/registers/jobs";
    private static final List<String> COLUMNS =
            List.of("number", "title", "made_at", "cost", "owner", "tags", "due", "site");
    private static final ObjectMapper JSON = new ObjectMapper();

    private final Caller dora = Caller.signedIn("dora");

    /** The same records, page by page. */
    private List<JsonNode> rows(String statement) {
        List<JsonNode> rows = new ArrayList<>();
        Map<String, Object> asked = new HashMap<>(
                Map.of("statement", statement, "columns", COLUMNS, "order", List.of("number"), "limit", 37));
        do {
            JsonNode page = dora.post(AT + "/rows", asked).json();
            page.get("rows").forEach(row -> rows.add(((ObjectNode) row).retain("id", "values")));
            asked.put(
                    "after", page.get("next").isNull() ? null : page.get("next").stringValue());
        } while (asked.get("after") != null);
        return rows;
    }

    private static String query(String statement) {
        return "?columns=" + String.join(",", COLUMNS) + "&order=number&statement="
                + URLEncoder.encode(statement, StandardCharsets.UTF_8);
    }

    @Test
    void recordsAsJsonAreThoseOfTheApiOneByOne() throws SQLException {
        List<JsonNode> rows = rows("level >= 2");
        assertThat(rows)
                .hasSize(Integer.parseInt(TestServer.query("select count(*) from records.jobs where level >= 2")))
                .hasSizeGreaterThan(37);
        Caller.Answer array = dora.get(AT + "/export.json" + query("level >= 2"));
        assertThat(array.header("Content-Type")).startsWith("application/json");
        assertThat(array.header("Content-Disposition")).contains("attachment").contains("Jobs.json");
        assertThat(array.json().valueStream().toList()).isEqualTo(rows);
        Caller.Answer lines = dora.get(AT + "/export.jsonl" + query("level >= 2"));
        assertThat(lines.header("Content-Type")).startsWith("application/jsonl");
        assertThat(lines.text().lines().map(JSON::readTree).toList()).isEqualTo(rows);
        // A program runs no formula: the text is as it is.
        assertThat(lines.text()).contains("\"=SUM(A1)");
    }

    private static String shaped(String shape) {
        return "?shape=" + URLEncoder.encode(shape, StandardCharsets.UTF_8);
    }

    @Test
    void totalsAreOneLineForEachInnermostRowAndOneForAll() throws SQLException {
        String shape = """
                {"groups": [{"field": "site"}, {"field": "level"}],
                 "measures": [{"function": "sum", "field": "cost"}, {"function": "max", "field": "due"}],
                 "totals": {"across": {"field": "made_at", "by": "quarter"}, "empties": false}}""";
        Caller.Answer file = dora.get(AT + "/export.csv" + shaped(shape));
        assertThat(file.status()).as(file.text()).isEqualTo(200);
        List<String> lines = file.text().lines().toList();
        assertThat(lines.getFirst()).startsWith("Site,Level,").endsWith("\"all, sum of Cost\",\"all, latest Due\"");
        assertThat(lines)
                .hasSize(2
                        + Integer.parseInt(TestServer.query(
                                "select count(*) from (select distinct site, level from records.jobs) k")));
        String all = TestServer.query("select sum(cost) || ',' || max(due) from records.jobs");
        assertThat(lines.getLast()).startsWith("total,,").endsWith("," + all);
        JsonNode answer =
                dora.post(AT + "/totals", Map.of("shape", JSON.readTree(shape))).json();
        assertThat(dora.get(AT + "/export.json" + shaped(shape)).json()).isEqualTo(answer);
        assertThat(dora.get(AT + "/export.jsonl" + shaped(shape)).text().lines())
                .hasSize(answer.get("rows").size());
        // What cannot be shown is no half a file.
        Caller.Answer refused = dora.get(AT + "/export.csv" + shaped("{\"totals\": {\"keep\": \"number > 3\"}}"));
        assertThat(refused.status()).isEqualTo(422);
        assertThat(refused.json().get("code").stringValue()).isEqualTo("no-rows");
    }

    @Test
    void whatHasNoRecordsIsStillAFileOfItsFormat() {
        assertThat(dora.get(AT + "/export.json" + query("level = 99")).text()).isEqualTo("[]");
        Caller.Answer lines = dora.get(AT + "/export.jsonl" + query("level = 99"));
        assertThat(lines.status()).isEqualTo(200);
        assertThat(lines.text()).isEmpty();
    }

    @Test
    void aFormatThatIsNotThereIsRefusedWithThoseThatAre() {
        for (Caller.Answer answer : List.of(
                dora.get(AT + "/export.pdf"), dora.post(AT + "/export", Map.of("format", "pdf", "statement", "")))) {
            assertThat(answer.status()).as(answer.text()).isEqualTo(400);
            assertThat(answer.json().get("code").stringValue()).isEqualTo("unknown-format");
            assertThat(answer.json().get("detail").stringValue())
                    .isEqualTo("There are no files of the format “pdf”; there are csv, json, jsonl.");
        }
        assertThat(dora.get(AT + "/export.json" + query("nonsense"))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("statement-unreadable");
    }

    @Test
    void aQuestionThatWasSentBeforeIsAFileOfTheFormatThatWasAsked() {
        Map<String, Object> asked =
                Map.of("statement", "level >= 2", "columns", COLUMNS, "order", List.of("number"), "format", "jsonl");
        Caller.Answer prepared = dora.post(AT + "/export", asked);
        assertThat(prepared.status()).as(prepared.text()).isEqualTo(201);
        Caller.Answer file = dora.get(prepared.json().get("file").stringValue());
        assertThat(file.header("Content-Disposition")).contains("Jobs.jsonl");
        assertThat(file.text().lines().map(JSON::readTree).toList()).isEqualTo(rows("level >= 2"));
    }

    @Test
    void aViewIsAFileOfEachFormat() {
        JsonNode view = dora.post(
                        "/api/views", Map.of("register", "jobs", "name", "To hand on", "statement", "level = 3"))
                .json();
        String at = "/api/views/" + view.get("id").stringValue();
        int count = dora.get(at + "/count").json().get("matching").intValue();
        assertThat(dora.get(at + "/export.csv").text().lines()).hasSize(count + 1);
        assertThat(dora.get(at + "/export.json").json().size()).isEqualTo(count);
        assertThat(dora.get(at + "/export.jsonl").text().lines()).hasSize(count);
        assertThat(dora.get(at + "/export.jsonl").header("Content-Disposition")).contains("To hand on.jsonl");
        dora.delete(at);
    }
}
