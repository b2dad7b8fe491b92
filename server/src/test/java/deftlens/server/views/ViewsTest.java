package deftlens.server.views;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

@ExtendWith(TestServer.class)
class ViewsTest {

    private static final String OVERDUE = "due before today and state is \"Open\" and site is my site";

    @Test
    void aViewIsKeptAndReadWithTodaysAnswer() throws Exception {
        Caller dora = Caller.signedIn("dora");
        JsonNode kept = keep(dora, "Overdue", OVERDUE);
        assertThat(kept.get("statement").stringValue()).isEqualTo(OVERDUE);
        assertThat(kept.get("mine").booleanValue()).isTrue();
        long id = kept.get("id").asLong();
        long count =
                dora.get("/api/views/" + id + "/count").json().get("matching").longValue();
        assertThat(count)
                .isEqualTo(
                        Long.parseLong(
                                TestServer.query(
                                        "select count(*) from records.jobs where due < '2026-11-23' and state = 'Open' and site = 'North'")));
        assertThat(dora.get("/api/views/" + id + "/rows?limit=1000").json().get("rows"))
                .hasSize((int) count);
        assertThat(dora.get("/api/views/" + id + "/export.csv").text().lines()).hasSize((int) count + 1);
        assertThat(TestServer.query("select condition ->> 'version' from kept_view where id = " + id))
                .isEqualTo("3");
    }

    /** What a page begins with is what its parts are, each asked for by itself. */
    @Test
    void aPageBeginsWithItsPartsInOneAnswer() throws Exception {
        for (String name : List.of("ada", "dora")) {
            Caller caller = Caller.signedIn(name);
            JsonNode desk = caller.get("/api/desk").json();
            JsonNode session = caller.get("/api/session").json();
            assertThat(desk.at("/session/person")).isEqualTo(session.get("person"));
            assertThat(desk.at("/session/zone")).isEqualTo(session.get("zone"));
            assertThat(desk.get("views")).isEqualTo(caller.get("/api/views").json());
            assertThat(desk.get("pins")).isEqualTo(caller.get("/api/pins").json());
            assertThat(desk.get("teamLists"))
                    .isEqualTo(caller.get("/api/team-lists").json());
            assertThat(desk.get("use")).isEqualTo(caller.get("/api/view-use").json());
            assertThat(desk.get("registers"))
                    .isEqualTo(caller.get("/api/registers").json());
        }
        Caller dora = Caller.signedIn("dora");
        String path =
                "/api/views/" + keep(dora, "A page of mine", OVERDUE).get("id").stringValue();
        JsonNode page = dora.get(path + "/page").json();
        assertThat(page.get("view")).isEqualTo(dora.get(path).json());
        assertThat(page.get("own")).isEqualTo(dora.get(path + "/own").json());
        Caller.Answer register = dora.get("/api/registers/jobs");
        assertThat(page.get("register")).isEqualTo(register.json());
        assertThat(page.get("definitions").stringValue()).isEqualTo(register.header("X-Definitions"));
        JsonNode view = page.get("view");
        JsonNode read = dora.post(
                        "/api/registers/jobs/statement",
                        Map.of(
                                "statement",
                                view.get("statement").stringValue(),
                                "name",
                                "A page of mine",
                                "purpose",
                                view.get("purpose").stringValue(),
                                "ifSmall",
                                true))
                .json();
        for (String part : List.of("statement", "condition", "windows", "asks", "findings", "checked", "outline")) {
            assertThat(page.at("/read/" + part)).as(part).isEqualTo(read.get(part));
        }
        assertThat(page.at("/read/findings")).isNotEmpty();

        // A page opens where its statement cannot be read any more, to be mended.
        TestServer.sql(
                "update kept_view set condition = replace(condition::text, '\"due\"', '\"gone\"')::jsonb where id = "
                        + view.get("id").stringValue());
        Caller.Answer broken = dora.get(path + "/page");
        assertThat(broken.status()).as(broken.text()).isEqualTo(200);
        assertThat(broken.json().get("read").isNull()).isTrue();
    }

    @Test
    void whoeverHasToChooseAPasswordFirstIsToldOnlyThat() throws Exception {
        Caller audrey = Caller.signedIn("audrey");
        TestServer.sql("update person set must_change_password = true where name = 'audrey'");
        try {
            JsonNode desk = audrey.get("/api/desk").json();
            assertThat(desk.at("/session/mustChangePassword").booleanValue()).isTrue();
            for (String part : List.of("views", "pins", "teamLists", "use", "registers", "setup")) {
                assertThat(desk.get(part)).as(part).isEmpty();
            }
            assertThat(audrey.post("/api/counts", Map.of("registers", List.of("jobs")))
                            .status())
                    .isEqualTo(403);
        } finally {
            TestServer.sql("update person set must_change_password = false where name = 'audrey'");
        }
    }

    @Test
    void theNumbersOnTheListAreThoseOfTheirCalls() throws Exception {
        Caller dora = Caller.signedIn("dora");
        String overdue = keep(dora, "Counted beside", OVERDUE).get("id").stringValue();
        String wide = keep(dora, "Counted widely", "").get("id").stringValue();
        String closed = keep(Caller.signedIn("nina"), "Closed to others", OVERDUE)
                .get("id")
                .stringValue();
        JsonNode counts = dora.post(
                        "/api/counts",
                        Map.of(
                                "views",
                                List.of(overdue, wide, closed, "999999"),
                                "registers",
                                List.of("jobs", "stays", "nothing")))
                .json();
        for (String id : List.of(overdue, wide)) {
            assertThat(counts.at("/views/" + id))
                    .isEqualTo(dora.get("/api/views/" + id + "/count").json());
        }
        assertThat(counts.get("views").size()).isEqualTo(2);
        assertThat(counts.get("failed").valueStream().map(JsonNode::stringValue))
                .containsExactly(closed, "999999");
        assertThat(counts.at("/registers/jobs").asLong()).isEqualTo(300);
        assertThat(counts.at("/registers/stays").asLong()).isEqualTo(200);
        assertThat(counts.get("registers").has("nothing")).isFalse();
        assertThat(counts.at("/later/views")).isEmpty();
        assertThat(counts.at("/later/registers")).isEmpty();
        // One that the database refuses takes no other with it.
        TestServer.sql("alter table records.jobs rename column title to title_away");
        try {
            String broken = keep(dora, "Refused by the database", "title contains \"a\"")
                    .get("id")
                    .stringValue();
            JsonNode others = dora.post("/api/counts", Map.of("views", List.of(broken, overdue)))
                    .json();
            assertThat(others.get("failed").valueStream().map(JsonNode::stringValue))
                    .containsExactly(broken);
            assertThat(others.at("/views/" + overdue)).isEqualTo(counts.at("/views/" + overdue));
        } finally {
            TestServer.sql("alter table records.jobs rename column title_away to title");
        }
        // With what the reader answered and refined before, as their own page has it.
        dora.put("/api/views/" + overdue + "/own", Map.of("statement", "level = 1"));
        assertThat(dora.post("/api/counts", Map.of("views", List.of(overdue)))
                        .json()
                        .at("/views/" + overdue + "/matching"))
                .isEqualTo(dora.post("/api/registers/jobs/count", Map.of("statement", "level = 1"))
                        .json()
                        .get("matching"));
    }

    @Test
    void aViewIsClosedUntilItIsShared() {
        Caller dora = Caller.signedIn("dora");
        Caller dan = Caller.signedIn("dan");
        Caller nina = Caller.signedIn("nina");
        JsonNode kept = keep(dora, "For the day shift", OVERDUE);
        String path = "/api/views/" + kept.get("id").asLong();
        for (String part : new String[] {"", "/rows", "/count", "/export.csv", "/history"}) {
            assertThat(dan.get(path + part).status()).as(part).isEqualTo(404);
        }
        long day = team(dora, "Day shift");
        JsonNode shared = share(dora, kept, List.of(Map.of("team", day, "mayChange", false)));
        assertThat(shared.at("/shares/0/label").stringValue()).isEqualTo("Day shift");
        assertThat(dan.get(path).json().get("mayChange").booleanValue()).isFalse();
        assertThat(nina.get(path).status()).as("another team").isEqualTo(404);
        assertThat(names(dan)).contains("For the day shift");
        assertThat(names(nina)).doesNotContain("For the day shift");
        assertThat(dan.patch(path, Map.of("version", 1, "name", "Dan's")).status())
                .isEqualTo(403);
        assertThat(dan.get(path + "/rows?limit=1")
                        .json()
                        .at("/rows/0/values/site")
                        .stringValue())
                .as("my site is the reader's")
                .isEqualTo("South");
        assertThat(Caller.signedIn("audrey").get(path).status())
                .as("an auditor reads everything")
                .isEqualTo(200);
    }

    @Test
    void everyoneMeansEveryone() {
        Caller dora = Caller.signedIn("dora");
        JsonNode kept = keep(dora, "For all", "level >= 4");
        share(dora, kept, List.of(Map.of("mayChange", true)));
        Caller nina = Caller.signedIn("nina");
        JsonNode hers = nina.get("/api/views/" + kept.get("id").asLong()).json();
        assertThat(hers.get("mayChange").booleanValue()).isTrue();
        assertThat(hers.at("/shares/0/label").stringValue()).isEqualTo("Everyone");
        JsonNode changed = nina.patch(
                        "/api/views/" + hers.get("id").asLong(),
                        Map.of("version", hers.get("version").intValue(), "statement", "level >= 5"))
                .json();
        assertThat(changed.get("statement").stringValue()).isEqualTo("level >= 5");
        assertThat(changed.at("/changedBy/name").stringValue()).isEqualTo("nina");
        assertThat(changed.get("mine").booleanValue()).isFalse();
    }

    @Test
    void twoPeopleChangingAtOnceLoseNothing() {
        Caller dora = Caller.signedIn("dora");
        JsonNode kept = keep(dora, "Contested", "level >= 1");
        JsonNode shared = share(dora, kept, List.of(Map.of("person", person(dora, "dan"), "mayChange", true)));
        String path = "/api/views/" + kept.get("id").asLong();
        int version = shared.get("version").intValue();
        Caller dan = Caller.signedIn("dan");
        assertThat(dan.patch(path, Map.of("version", version, "statement", "level >= 2"))
                        .status())
                .isEqualTo(200);
        Caller.Answer late = dora.patch(path, Map.of("version", version, "statement", "level >= 3"));
        assertThat(late.status()).isEqualTo(409);
        assertThat(late.json().get("code").stringValue()).isEqualTo("changed-meanwhile");
        assertThat(late.json().get("detail").stringValue()).contains("Dan Day");
        assertThat(late.json().at("/current/statement").stringValue()).isEqualTo("level >= 2");
        int current = late.json().at("/current/version").intValue();
        assertThat(dora.patch(path, Map.of("version", current, "statement", "level >= 3"))
                        .json()
                        .get("statement")
                        .stringValue())
                .isEqualTo("level >= 3");
        JsonNode history = dora.get(path + "/history").json();
        assertThat(history.get(0).at("/before/statement").stringValue()).isEqualTo("level >= 2");
        assertThat(history.get(0).at("/after/statement").stringValue()).isEqualTo("level >= 3");
        assertThat(history.get(1).at("/who/name").stringValue()).isEqualTo("dan");
        assertThat(history).hasSize(4);
    }

    @Test
    void aChangedRequestAtTheSameInstantIsARefusalNotAMistake() throws Exception {
        Caller dora = Caller.signedIn("dora");
        JsonNode kept = keep(dora, "Hurried", "level >= 1");
        String path = "/api/views/" + kept.get("id").asLong();
        List<Thread> threads = new ArrayList<>();
        List<Integer> statuses = java.util.Collections.synchronizedList(new ArrayList<>());
        for (int i = 0; i < 6; i++) {
            int level = i;
            Caller own = Caller.signedIn("dora");
            threads.add(Thread.ofVirtual()
                    .start(() -> statuses.add(own.patch(path, Map.of("version", 0, "statement", "level >= " + level))
                            .status())));
        }
        for (Thread thread : threads) {
            thread.join();
        }
        assertThat(statuses).hasSize(6).containsOnly(200, 409).containsOnlyOnce(200);
    }

    @Test
    void deletedViewsComeBack() {
        Caller dora = Caller.signedIn("dora");
        JsonNode kept = keep(dora, "Short-lived", "level = 1");
        String path = "/api/views/" + kept.get("id").asLong();
        assertThat(dora.delete(path + "?version=7").status()).isEqualTo(409);
        assertThat(dora.delete(path + "?version=0").status()).isEqualTo(204);
        assertThat(dora.get(path).status()).isEqualTo(404);
        assertThat(dora.get("/api/views?deleted=true").json().get(0).get("name").stringValue())
                .isEqualTo("Short-lived");
        assertThat(Caller.signedIn("dan").post(path + "/restore", Map.of()).status())
                .isEqualTo(403);
        assertThat(dora.post(path + "/restore", Map.of()).status()).isEqualTo(200);
        assertThat(names(dora)).contains("Short-lived");
    }

    @Test
    void anAuditorChangesNothing() {
        Caller audrey = Caller.signedIn("audrey");
        assertThat(audrey.post("/api/views", Map.of("register", "jobs", "name", "Mine"))
                        .status())
                .isEqualTo(403);
        JsonNode kept = keep(Caller.signedIn("dora"), "Audited", "level = 1");
        String path = "/api/views/" + kept.get("id").asLong();
        assertThat(audrey.patch(path, Map.of("version", 0, "name", "Mine now")).status())
                .isEqualTo(403);
        assertThat(audrey.put(path + "/shares", Map.of("version", 0, "shares", List.of()))
                        .status())
                .isEqualTo(403);
        assertThat(audrey.delete(path + "?version=0").status()).isEqualTo(403);
    }

    @Test
    void whatCannotBeKeptIsRefusedWhole() {
        Caller dora = Caller.signedIn("dora");
        Map<String, Object> good = Map.of("register", "jobs", "name", "Fine");
        assertRefused(dora, good, "name", "  ", 422, "no-name");
        assertRefused(dora, good, "name", "n".repeat(121), 422, "long-name");
        assertRefused(dora, good, "purpose", "p".repeat(2_001), 422, "long-purpose");
        assertRefused(dora, good, "register", "nothing", 404, "not-found");
        assertRefused(dora, good, "statement", "level >", 422, "statement-unreadable");
        assertRefused(dora, good, "columns", List.of(), 422, "no-columns");
        assertRefused(dora, good, "columns", List.of("nothing"), 422, "unknown-field");
        assertRefused(dora, good, "zone", "Mars/Here", 400, "bad-zone");
        JsonNode kept = keep(dora, "To share", "");
        String shares = "/api/views/" + kept.get("id").asLong() + "/shares";
        for (Object share : List.of(
                Map.of("person", 99_999, "mayChange", true),
                Map.of("team", 99_999, "mayChange", true),
                Map.of("team", 1, "person", 1, "mayChange", true))) {
            assertThat(dora.put(shares, Map.of("version", 0, "shares", List.of(share)))
                            .status())
                    .isEqualTo(422);
        }
        assertThat(Caller.signedIn("dan")
                        .put(shares, Map.of("version", 0, "shares", List.of()))
                        .status())
                .isEqualTo(404);
    }

    @Test
    void aViewMayReadInAZoneOfItsOwn() throws Exception {
        Caller dora = Caller.signedIn("dora");
        Map<String, Object> view =
                new HashMap<>(Map.of("register", "jobs", "name", "Elsewhere", "statement", "made_at on today"));
        view.put("zone", "Pacific/Auckland");
        JsonNode kept = dora.post("/api/views", view).json();
        assertThat(dora.get("/api/views/" + kept.get("id").asLong() + "/count")
                        .json()
                        .get("matching")
                        .longValue())
                .isEqualTo(
                        Long.parseLong(
                                TestServer.query(
                                        "select count(*) from records.jobs where made_at >= '2026-11-23 00:00 Pacific/Auckland' and made_at < '2026-11-24 00:00 Pacific/Auckland'")));
    }

    private static void assertRefused(
            Caller caller, Map<String, Object> good, String name, Object value, int status, String code) {
        Map<String, Object> body = new HashMap<>(good);
        body.put(name, value);
        Caller.Answer answer = caller.post("/api/views", body);
        assertThat(answer.status()).as(answer.text()).isEqualTo(status);
        assertThat(answer.json().get("code").stringValue()).isEqualTo(code);
    }

    private static JsonNode keep(Caller caller, String name, String statement) {
        Caller.Answer answer =
                caller.post("/api/views", Map.of("register", "jobs", "name", name, "statement", statement));
        assertThat(answer.status()).as(answer.text()).isEqualTo(201);
        return answer.json();
    }

    private static JsonNode share(Caller caller, JsonNode view, List<Map<String, Object>> shares) {
        Caller.Answer answer = caller.put(
                "/api/views/" + view.get("id").asLong() + "/shares",
                Map.of("version", view.get("version").intValue(), "shares", shares));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json();
    }

    private static List<String> names(Caller caller) {
        return caller.get("/api/views").json().values().stream()
                .map(v -> v.get("name").stringValue())
                .toList();
    }

    private static long team(Caller caller, String name) {
        return byName(caller.get("/api/teams").json(), name);
    }

    private static long person(Caller caller, String name) {
        return byName(caller.get("/api/people").json(), name);
    }

    private static long byName(JsonNode all, String name) {
        return all.values().stream()
                .filter(p -> p.get("name").stringValue().equals(name))
                .findFirst()
                .orElseThrow()
                .get("id")
                .asLong();
    }
}
