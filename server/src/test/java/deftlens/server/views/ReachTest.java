package deftlens.server.views;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/**
 * Every call of the document that is not about records, tried by everybody from a stranger to the auditor at a view that
 * Ada keeps for herself and one that Dan may only look at. What is in the first carries a mark that must reach nobody, and
 * at the end nothing is other than it was. (Calls about records are tried in the same way by {@code AccessTest}.)
 */
@ExtendWith(TestServer.class)
class ReachTest {

    /** Stands in the name, the purpose, a label and the statement of the view that is Ada's alone. */
    private static final String SECRET = "hushhush";

    private static final long DAN = 3;

    private static Caller ada;
    private static long own;
    private static long shown;
    private static long step;

    @BeforeAll
    static void fill() {
        ada = Caller.signedIn("ada");
        own = keep(SECRET + " name", "title contains \"" + SECRET + "\"");
        shown = keep("Shown", "level >= 2");
        ada.put(
                "/api/views/" + shown + "/shares",
                Map.of("version", 0, "shares", List.of(Map.of("person", DAN, "may", "LOOK"))));
        ada.put("/api/views/" + own + "/own/answers", Map.of("x", SECRET));
        step = ada.get("/api/views/" + shown + "/history")
                .json()
                .get(1)
                .get("id")
                .asLong();
    }

    @AfterAll
    static void leave() throws SQLException {
        TestServer.sql("delete from kept_view; delete from trail");
    }

    private static long keep(String name, String statement) {
        Caller.Answer kept = ada.post(
                "/api/views",
                Map.of(
                        "register",
                        "jobs",
                        "name",
                        name,
                        "purpose",
                        name,
                        "statement",
                        statement,
                        "labels",
                        List.of(name),
                        "shape",
                        Map.of("totals", Map.of())));
        assertThat(kept.status()).as(kept.text()).isEqualTo(201);
        return kept.json().get("id").asLong();
    }

    /** All calls of the document about anything but records. */
    private static List<String> documented() {
        List<String> found = new ArrayList<>();
        ada.get("/api/openapi.json")
                .json()
                .get("paths")
                .properties()
                .forEach(path -> path.getValue()
                        .properties()
                        .forEach(method -> found.add(method.getKey().toUpperCase(Locale.ROOT) + " " + path.getKey())));
        return found;
    }

    /** The calls about one view, with bodies that would do something. */
    private static Map<String, Object> aboutAView(long version) {
        Map<String, Object> calls = new LinkedHashMap<>();
        Object nothing = "";
        calls.put("GET /api/views/{id}", nothing);
        calls.put("GET /api/views/{id}/page", nothing);
        calls.put("PATCH /api/views/{id}", Map.of("version", version, "name", "Taken"));
        calls.put("DELETE /api/views/{id}?version=" + version, nothing);
        calls.put("POST /api/views/{id}/restore", Map.of());
        calls.put("PUT /api/views/{id}/shares", Map.of("version", version, "shares", List.of()));
        calls.put("GET /api/views/{id}/history", nothing);
        calls.put("GET /api/views/{id}/history/{step}/difference", nothing);
        calls.put("POST /api/views/{id}/history/{step}/restore", Map.of("version", version));
        calls.put("GET /api/views/{id}/rows", nothing);
        calls.put("GET /api/views/{id}/count", nothing);
        calls.put("GET /api/views/{id}/figure?name=number", nothing);
        calls.put("GET /api/views/{id}/export.{format}", nothing);
        calls.put("POST /api/views/{id}/opened", Map.of());
        calls.put("GET /api/views/{id}/reliance", nothing);
        calls.put("PUT /api/views/{id}/presence", Map.of("page", "page-of-mine", "changing", false));
        calls.put("DELETE /api/views/{id}/presence/{page}", nothing);
        calls.put("GET /api/views/{id}/own", nothing);
        calls.put("PUT /api/views/{id}/own", Map.of("statement", "level = 1"));
        calls.put("DELETE /api/views/{id}/own", nothing);
        calls.put("PUT /api/views/{id}/own/answers", Map.of("x", "y"));
        calls.put("PUT /api/views/{id}/own/unsaved", Map.of("statement", "level = 1"));
        calls.put("DELETE /api/views/{id}/own/unsaved", nothing);
        calls.put("POST /api/views/{id}/difference", Map.of("statement", "level = 1"));
        calls.put("GET /api/views/{id}/access?person=1", nothing);
        calls.put("POST /api/views/{id}/audience", List.of());
        return calls;
    }

    /** The calls that are refused to somebody who may only look. */
    private static final List<String> MORE_THAN_LOOKING = List.of(
            "PATCH /api/views/{id}",
            "DELETE /api/views/{id}",
            "POST /api/views/{id}/restore",
            "PUT /api/views/{id}/shares",
            "POST /api/views/{id}/history/{step}/restore",
            "GET /api/views/{id}/reliance",
            "GET /api/views/{id}/access",
            "POST /api/views/{id}/audience");

    /** The calls about many views, or about people, with bodies that reach for the secret one. */
    private static Map<String, Object> aboutMany() {
        Map<String, Object> calls = new LinkedHashMap<>();
        Map<String, Object> chosen = Map.of("view", own, "version", 0);
        calls.put("GET /api/views", "");
        calls.put("GET /api/desk", "");
        calls.put("POST /api/counts", Map.of("views", List.of(String.valueOf(own)), "registers", List.of("jobs")));
        calls.put("GET /api/views?deleted=true", "");
        calls.put("GET /api/views/words?views=" + own, "");
        calls.put("GET /api/view-use", "");
        calls.put("GET /api/pins", "");
        calls.put("PUT /api/pins", Map.of("views", List.of(own)));
        calls.put("PUT /api/pins/{id}/figure", Map.of());
        calls.put("GET /api/team-lists", "");
        calls.put("GET /api/team-lists?all=true", "");
        calls.put("PUT /api/team-lists/1", Map.of("views", List.of(own)));
        calls.put("GET /api/views/file", "");
        calls.put("GET /api/views/file?ids=" + own, "");
        calls.put(
                "POST /api/views/file",
                Map.of(
                        "file",
                        Map.of("format", "deft-lens-views", "version", 1, "views", List.of()),
                        "ifThere",
                        "SKIP",
                        "write",
                        true));
        calls.put("POST /api/views/care", Map.of("views", List.of(chosen), "wanted", Map.of("delete", true)));
        calls.put("POST /api/view-attention", Map.of());
        calls.put("POST /api/people/1/hand-over", Map.of("to", DAN));
        calls.put("GET /api/trail?kind=views", "");
        calls.put("GET /api/people", "");
        calls.put("GET /api/teams", "");
        calls.put("POST /api/registers/jobs/bands/review", Map.of("fields", Map.of()));
        calls.put("GET /api/registers/jobs/fields/title/use", "");
        calls.put("GET /api/registers/jobs/fields/title/type/views?type=choice", "");
        calls.put("POST /api/registers/jobs/fields/title/type/preview", Map.of("type", "choice"));
        calls.put("GET /api/registers/jobs/start", "");
        calls.put("GET /api/registers/jobs/starts", "");
        return calls;
    }

    private static String plain(String call) {
        return call.replaceAll("\\?.*", "");
    }

    private static Caller.Answer send(Caller caller, String call, Object body, long view) {
        String[] parts = call.split(" ", 2);
        return caller.send(
                parts[0],
                parts[1].replace("{id}", String.valueOf(view))
                        .replace("{step}", String.valueOf(step))
                        .replace("{page}", "page-of-mine")
                        .replace("{format}", "csv"),
                body);
    }

    private static String state() throws SQLException {
        return TestServer.query("""
                select md5(string_agg(t, '|' order by t)) from (
                    select v::text t from kept_view v union all select s::text from view_share s
                    union all select p::text from person p union all select m::text from team_member m
                    union all select r::text from view_reader r where person_id = 1
                    union all select l::text from team_view l union all select a::text from viewer_attribute a) all_of_it""");
    }

    @Test
    void everyCallAboutAViewIsTriedHere() {
        List<String> tried = new ArrayList<>();
        aboutAView(0).keySet().forEach(c -> tried.add(plain(c)));
        assertThat(documented().stream().filter(c -> c.contains("/api/views/{id}")))
                .allSatisfy(c -> assertThat(tried).contains(c));
    }

    @Test
    void aStrangerReachesNothing() {
        Caller stranger = Caller.stranger();
        Map<String, Integer> open = new TreeMap<>();
        for (String call : documented()) {
            String[] parts = call.split(" ", 2);
            Caller.Answer answer = stranger.send(
                    parts[0],
                    parts[1].replaceAll("\\{(id|step|team)\\}", "1")
                            .replace("{key}", "jobs")
                            .replaceAll("\\{[a-z]+\\}", "x"),
                    parts[0].equals("GET") || parts[0].equals("DELETE") ? "" : Map.of());
            if (answer.status() != 401) {
                open.put(call, answer.status());
            }
        }
        assertThat(open)
                .containsExactlyInAnyOrderEntriesOf(Map.of(
                        "GET /api/welcome",
                        200,
                        "POST /api/session",
                        400,
                        "DELETE /api/session",
                        204,
                        "DELETE /api/session/looking-as",
                        204));
    }

    @Test
    void aViewOfOnesOwnIsNowhereForOthers() throws SQLException {
        String before = state();
        for (String name : List.of("dora", "dan", "nina")) {
            Caller member = Caller.signedIn(name);
            for (Map.Entry<String, Object> call : aboutAView(0).entrySet()) {
                Caller.Answer answer = send(member, call.getKey(), call.getValue(), own);
                // Leaving a page tells nothing and does nothing where there was none; bringing back is refused by its
                // owner's rule.
                assertThat(answer.status())
                        .as("%s by %s: %s", call.getKey(), name, answer.text())
                        .isIn(plain(call.getKey()).endsWith("{page}") ? List.of(204) : List.of(403, 404));
                assertThat(answer.text()).as(call.getKey()).doesNotContain(SECRET);
            }
            for (Map.Entry<String, Object> call : aboutMany().entrySet()) {
                Caller.Answer answer = send(member, call.getKey(), call.getValue(), own);
                assertThat(answer.status()).as(call.getKey()).isLessThan(500);
                assertThat(answer.text()).as("%s by %s", call.getKey(), name).doesNotContain(SECRET);
            }
        }
        assertThat(state()).isEqualTo(before);
        assertThat(ada.get("/api/views").text()).contains(SECRET);
    }

    @Test
    void whoMayLookDoesNoMore() throws SQLException {
        String before = state();
        Caller dan = Caller.signedIn("dan");
        long version = dan.get("/api/views/" + shown).json().get("version").longValue();
        aboutAView(version).forEach((call, body) -> {
            Caller.Answer answer = send(dan, call, body, shown);
            boolean more = MORE_THAN_LOOKING.contains(plain(call));
            assertThat(answer.status())
                    .as("%s: %s", call, answer.text())
                    .isIn(more ? List.of(403, 404) : List.of(200, 204));
        });
        assertThat(state()).isEqualTo(before);
    }

    @Test
    void anAuditorSeesAllAndChangesNothing() throws SQLException {
        String before = state();
        Caller audrey = Caller.signedIn("audrey");
        long version = audrey.get("/api/views/" + shown).json().get("version").longValue();
        assertThat(audrey.get("/api/views").text()).contains(SECRET);
        for (long view : new long[] {own, shown}) {
            aboutAView(view == own ? 0 : version).forEach((call, body) -> {
                Caller.Answer answer = send(audrey, call, body, view);
                boolean changes = List.of(
                                "PATCH /api/views/{id}",
                                "DELETE /api/views/{id}",
                                "POST /api/views/{id}/restore",
                                "PUT /api/views/{id}/shares",
                                "POST /api/views/{id}/history/{step}/restore")
                        .contains(plain(call));
                boolean otherViews = view == own && call.contains("{step}");
                assertThat(answer.status())
                        .as("%s: %s", call, answer.text())
                        .isIn(changes || otherViews ? List.of(403, 404) : List.of(200, 204));
            });
        }
        assertThat(state()).isEqualTo(before);
    }

    @Test
    void whoLooksAsSomebodyElseChangesNothingByAnyCall() throws SQLException {
        Caller looking = Caller.signedIn("ada");
        assertThat(looking.post("/api/session/looking-as", Map.of("person", DAN))
                        .status())
                .isEqualTo(200);
        String before = state();
        List<String> went = new ArrayList<>();
        for (String call : documented()) {
            String[] parts = call.split(" ", 2);
            if (parts[0].equals("GET") || parts[1].startsWith("/api/session")) {
                continue;
            }
            Caller.Answer answer = parts[1].equals("/api/files")
                    ? looking.upload("/api/files?name=a.csv", new byte[] {'a'})
                    : looking.send(
                            parts[0],
                            parts[1].replace("{id}", String.valueOf(shown))
                                    .replace("{step}", String.valueOf(step))
                                    .replace("{team}", "1")
                                    .replace("{key}", "jobs")
                                    .replaceAll("\\{[a-z]+\\}", "x"),
                            parts[0].equals("DELETE") ? "" : Map.of());
            if (answer.status() != 403) {
                went.add(call);
            }
        }
        assertThat(state()).isEqualTo(before);
        assertThat(went)
                .as("what is answered reads only")
                .allMatch(
                        c -> c.matches(
                                "POST /api/(counts|registers/\\{key\\}/(rows|groups|balances|totals(?:/.*)?|calculations/.*|added-fields|comparison|changed-since|numbers-at|related|count|parts|values|edges|histogram|distribution|pasted|proposals|why|statement|complete|export|bands/review|fields/\\{field\\}/type/preview|cql2/.*)|windows/.*|views/\\{id\\}/(opened|difference|audience))"
                                        + "|PUT /api/views/\\{id\\}/presence|DELETE /api/(views/\\{id\\}/presence/\\{page\\}|questions/\\{name\\})"));
        assertThat(looking.get("/api/views/" + own).status()).isEqualTo(404);
        assertThat(looking.get("/api/views").text()).doesNotContain(SECRET);
    }

    @Test
    void theAdministratorReachesWhatOthersDoNot() {
        JsonNode view = ada.get("/api/views/" + own).json();
        assertThat(view.get("may").stringValue()).isEqualTo("MANAGE");
        assertThat(ada.get("/api/views/file?ids=" + own).text()).contains(SECRET);
    }
}
