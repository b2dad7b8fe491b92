package deftlens.server.people;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** People, teams, what is known of them, sessions, tokens, and looking as somebody else. */
@ExtendWith(TestServer.class)
class PeopleTest {

    private final Caller ada = Caller.signedIn("ada");

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql("delete from kept_view; delete from trail; delete from personal_token;"
                + " delete from team_member where person_id > 5 or team_id > 2; delete from person where id > 5;"
                + " delete from team where id > 2; delete from viewer_attribute where key <> 'site';"
                + " delete from register_access");
    }

    private JsonNode add(String name, Map<String, List<String>> values, Long... teams) {
        Caller.Answer added = ada.post(
                "/api/people",
                Map.of(
                        "name",
                        name,
                        "password",
                        "kelp lantern 49 gravel",
                        "fullName",
                        name + " Someone",
                        "role",
                        "MEMBER",
                        "teams",
                        List.of(teams),
                        "values",
                        values));
        assertThat(added.status()).as(added.text()).isEqualTo(201);
        return added.json();
    }

    private static long id(JsonNode entry) {
        return entry.at("/person/id").asLong();
    }

    private static Caller signIn(String name, String password) {
        Caller caller = Caller.stranger();
        Caller.Answer answer = caller.post("/api/session", Map.of("name", name, "password", password));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return caller;
    }

    @Test
    void keysOfOneLetterAreEachPersonsToSwitchOff() {
        Caller dora = Caller.signedIn("dora");
        assertThat(dora.get("/api/session").json().get("letterKeys").booleanValue())
                .isTrue();
        assertThat(dora.put("/api/account/letter-keys", Map.of("on", false)).status())
                .isEqualTo(204);
        assertThat(Caller.signedIn("dora")
                        .get("/api/session")
                        .json()
                        .get("letterKeys")
                        .booleanValue())
                .isFalse();
        assertThat(Caller.signedIn("dan")
                        .get("/api/session")
                        .json()
                        .get("letterKeys")
                        .booleanValue())
                .isTrue();
        assertThat(dora.put("/api/account/letter-keys", Map.of()).status()).isEqualTo(400);
        assertThat(dora.put("/api/account/letter-keys", Map.of("on", true)).status())
                .isEqualTo(204);
    }

    @Test
    void theListIsEachPersonsToArrange() {
        Caller dora = Caller.signedIn("dora");
        JsonNode before = dora.get("/api/session").json().get("list");
        Map<String, Object> wanted = Map.of(
                "registers",
                List.of("stays", "gone"),
                "hidden",
                List.of("moves"),
                "folded",
                List.of("mine"),
                "width",
                280);
        assertThat(dora.put("/api/account/list", wanted).status()).isEqualTo(204);
        JsonNode there = Caller.signedIn("dora").get("/api/session").json().get("list");
        assertThat(there.at("/registers/0").stringValue()).isEqualTo("stays");
        assertThat(there.at("/hidden/0").stringValue()).isEqualTo("moves");
        assertThat(there.at("/width").intValue()).isEqualTo(280);
        assertThat(Caller.signedIn("dan").get("/api/session").json().get("list"))
                .isEqualTo(before);
        Map<String, Object> tooWide = new java.util.HashMap<>(wanted);
        tooWide.put("width", 4000);
        assertThat(dora.put("/api/account/list", tooWide).status()).isEqualTo(400);
        assertThat(dora.put("/api/account/list", before).status()).isEqualTo(204);
    }

    @Test
    void somebodyNewChoosesAPasswordOfTheirOwnFirst() {
        add("eve", Map.of("site", List.of("North")), 1L);
        Caller eve = signIn("eve", "kelp lantern 49 gravel");
        assertThat(eve.get("/api/session").json().get("mustChangePassword").booleanValue())
                .isTrue();
        Caller.Answer held = eve.get("/api/registers");
        assertThat(held.status()).isEqualTo(403);
        assertThat(held.json().get("code").stringValue()).isEqualTo("change-password");
        assertThat(eve.put(
                                "/api/account/password",
                                Map.of("old", "kelp lantern 49 gravel", "fresh", "otter mast 72 willow"))
                        .status())
                .isEqualTo(204);
        assertThat(eve.get("/api/registers").status()).isEqualTo(200);
        assertThat(eve.post("/api/registers/jobs/count", Map.of("statement", "site is my site"))
                        .json()
                        .get("matching")
                        .longValue())
                .isPositive();
    }

    @Test
    void whoLeavesIsOutAtOnceAndMayReturn() {
        JsonNode entry = add("finn", Map.of());
        Caller finn = signIn("finn", "kelp lantern 49 gravel");
        finn.put("/api/account/password", Map.of("old", "kelp lantern 49 gravel", "fresh", "otter mast 72 willow"));
        Caller program = Caller.withToken(finn.post("/api/account/tokens", Map.of("label", "nightly"))
                .json()
                .get("token")
                .stringValue());
        assertThat(program.get("/api/registers").status()).isEqualTo(200);
        int version = ada.get("/api/people/" + id(entry)).json().get("version").intValue();
        Caller.Answer left = ada.post("/api/people/" + id(entry) + "/leave", Map.of("version", version));
        assertThat(left.status()).as(left.text()).isEqualTo(200);
        assertThat(left.json().at("/person/active").booleanValue()).isFalse();
        assertThat(left.json().get("sessions").intValue()).isZero();
        assertThat(left.json().get("tokens").intValue()).isZero();
        assertThat(finn.get("/api/registers").status()).isEqualTo(401);
        assertThat(program.get("/api/registers").status()).isEqualTo(401);
        assertThat(Caller.stranger()
                        .post("/api/session", Map.of("name", "finn", "password", "otter mast 72 willow"))
                        .status())
                .isEqualTo(401);
        assertThat(ada.post(
                                "/api/people/" + id(entry) + "/return",
                                Map.of("version", left.json().get("version").intValue()))
                        .status())
                .isEqualTo(200);
        signIn("finn", "otter mast 72 willow");
    }

    @Test
    void aRoleThatChangesHoldsFromTheNextCallOn() {
        JsonNode entry = add("gus", Map.of());
        Caller gus = signIn("gus", "kelp lantern 49 gravel");
        gus.put("/api/account/password", Map.of("old", "kelp lantern 49 gravel", "fresh", "otter mast 72 willow"));
        assertThat(gus.post("/api/views", Map.of("register", "jobs", "name", "Gus's"))
                        .status())
                .isEqualTo(201);
        JsonNode now = ada.get("/api/people/" + id(entry)).json();
        Map<String, Object> change = Map.of(
                "version",
                now.get("version").intValue(),
                "fullName",
                "Gus Other",
                "role",
                "AUDITOR",
                "teams",
                List.of(),
                "values",
                Map.of());
        assertThat(ada.put("/api/people/" + id(entry), change).status()).isEqualTo(200);
        assertThat(ada.put("/api/people/" + id(entry), change).status())
                .as("from an old version")
                .isEqualTo(409);
        assertThat(gus.post("/api/views", Map.of("register", "jobs", "name", "More"))
                        .status())
                .isEqualTo(403);
        assertThat(gus.get("/api/session").json().at("/person/fullName").stringValue())
                .isEqualTo("Gus Other");
    }

    @Test
    void thereIsAlwaysAnAdministratorAndNobodyLocksThemselvesOut() {
        JsonNode own = ada.get("/api/people/1").json();
        Caller.Answer answer = ada.put(
                "/api/people/1",
                Map.of(
                        "version",
                        own.get("version").intValue(),
                        "fullName",
                        "Ada Admin",
                        "role",
                        "MEMBER",
                        "teams",
                        List.of(),
                        "values",
                        Map.of()));
        assertThat(answer.json().get("code").stringValue()).isEqualTo("last-administrator");
        assertThat(ada.post(
                                "/api/people/1/leave",
                                Map.of("version", own.get("version").intValue()))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("oneself");
    }

    @Test
    void namesAreOnesOwnAndBadOnesAreRefused() {
        for (Map.Entry<String, String> wrong : Map.of(
                        "ADA", "name-taken", "two words", "bad-name", "", "bad-name", "x".repeat(61), "bad-name")
                .entrySet()) {
            Caller.Answer answer = ada.post(
                    "/api/people",
                    Map.of("name", wrong.getKey(), "password", "long enough", "fullName", "X", "role", "MEMBER"));
            assertThat(answer.json().get("code").stringValue())
                    .as(wrong.getKey())
                    .isEqualTo(wrong.getValue());
        }
    }

    @Test
    void whatIsKnownOfPeopleIsSaidInStatementsAndCannotBeTakenFromUnderThem() {
        List<Map<String, String>> wanted = List.of(
                Map.of("key", "site", "label", "Site", "description", ""),
                Map.of("key", "grade", "label", "Pay grade", "description", "For who sees what"));
        Caller.Answer settled = ada.put("/api/viewer-attributes", wanted);
        assertThat(settled.status()).as(settled.text()).isEqualTo(200);
        add("hal", Map.of("grade", List.of("1", "2")));
        Caller hal = signIn("hal", "kelp lantern 49 gravel");
        hal.put("/api/account/password", Map.of("old", "kelp lantern 49 gravel", "fresh", "otter mast 72 willow"));
        assertThat(hal.get("/api/registers/jobs").json().get("viewerValues").values().stream()
                        .map(JsonNode::stringValue))
                .containsExactly("grade", "site", "team");
        assertThat(hal.post("/api/registers/jobs/count", Map.of("statement", "number is my grade"))
                        .status())
                .isEqualTo(200);
        Caller.Answer kept = hal.post(
                "/api/views",
                Map.of("register", "jobs", "name", "By grade", "statement", "number is in (my grade, \"x\")"));
        assertThat(kept.status()).as(kept.text()).isEqualTo(201);
        Caller.Answer taken = ada.put("/api/viewer-attributes", wanted.subList(0, 1));
        assertThat(taken.status()).isEqualTo(409);
        assertThat(taken.json().get("detail").stringValue()).contains("the view “By grade”");
        for (String key : List.of("me", "team", "Two", "1x", "a b")) {
            assertThat(ada.put("/api/viewer-attributes", List.of(Map.of("key", key, "label", "X", "description", "")))
                            .status())
                    .as(key)
                    .isEqualTo(422);
        }
        assertThat(ada.put(
                                "/api/people/" + id(hal),
                                Map.of(
                                        "version",
                                        0,
                                        "fullName",
                                        "Hal",
                                        "role",
                                        "MEMBER",
                                        "teams",
                                        List.of(),
                                        "values",
                                        Map.of("nothing", List.of("x"))))
                        .status())
                .isIn(409, 422);
    }

    private long id(Caller caller) {
        return caller.get("/api/session").json().at("/person/id").asLong();
    }

    @Test
    void teamsGoOnlyWhenNothingLeansOnThem() {
        long team = ada.post("/api/teams", Map.of("name", "  Early  birds "))
                .json()
                .get("id")
                .asLong();
        assertThat(ada.post("/api/teams", Map.of("name", "early birds")).status())
                .isEqualTo(409);
        JsonNode entry = add("ivy", Map.of());
        Caller.Answer changed = ada.put(
                "/api/teams/" + team, Map.of("version", 0, "name", "Early birds", "members", List.of(id(entry), 2)));
        assertThat(changed.status()).as(changed.text()).isEqualTo(200);
        assertThat(changed.json().get("members")).hasSize(2);
        JsonNode view = Caller.signedIn("dora")
                .post("/api/views", Map.of("register", "jobs", "name", "Shared once"))
                .json();
        Caller.signedIn("dora")
                .put(
                        "/api/views/" + view.get("id").asLong() + "/shares",
                        Map.of("version", 0, "shares", List.of(Map.of("team", team, "may", "LOOK"))));
        int version = changed.json().get("version").intValue();
        Caller.Answer refused = ada.delete("/api/teams/" + team + "?version=" + version);
        assertThat(refused.status()).isEqualTo(409);
        assertThat(refused.json().get("detail").stringValue()).contains("Shared once");
        Caller.signedIn("dora")
                .put(
                        "/api/views/" + view.get("id").asLong() + "/shares",
                        Map.of("version", version(view), "shares", List.of()));
        assertThat(ada.delete("/api/teams/" + team + "?version=" + version).status())
                .isEqualTo(204);
        assertThat(Caller.signedIn("dora").get("/api/session").json().at("/person/teams"))
                .hasSize(1);
    }

    private static int version(JsonNode view) {
        return Caller.signedIn("dora")
                .get("/api/views/" + view.get("id").asLong())
                .json()
                .get("version")
                .intValue();
    }

    @Test
    void aFileOfPeopleIsLookedAtFirstAndComesInWhole() throws SQLException {
        String file = """
                name,full name,role,teams,Site,password
                jo.new,Jo New,member,Day shift; Night shift,North; South,first password
                dora,,,,East,
                nina,"Nina, Night",,,,
                """;
        JsonNode look = ada.post("/api/people/file", Map.of("text", file, "write", false))
                .json();
        assertThat(look.get("added").get(0).stringValue()).isEqualTo("jo.new");
        assertThat(look.get("changed").values().stream().map(JsonNode::stringValue))
                .containsExactly("dora: teams ; my site = East", "nina: called Nina, Night; teams ; my site = nothing");
        assertThat(look.get("written").booleanValue()).isFalse();
        assertThat(TestServer.query("select count(*) from person where name = 'jo.new'"))
                .isEqualTo("0");

        String broken = file.replace("Night shift", "No such team") + "x y,,,,,first password\nshort\n";
        JsonNode refused = ada.post("/api/people/file", Map.of("text", broken, "write", true))
                .json();
        assertThat(refused.get("written").booleanValue()).isFalse();
        assertThat(refused.get("refused").values().stream()
                        .map(r -> r.get("line").longValue() + " "
                                + r.get("reason").stringValue())
                        .sorted())
                .satisfiesExactly(
                        a -> assertThat(a).startsWith("2 There is no team “No such team”"),
                        b -> assertThat(b).startsWith("5 A sign-in name has"),
                        c -> assertThat(c).startsWith("6 It has 1 cells"));
        assertThat(TestServer.query("select count(*) from person where name = 'jo.new'"))
                .isEqualTo("0");

        String one = "name,full name,teams,site,password\njo.new,Jo New,Day shift,North; South,first password\n";
        assertThat(ada.post("/api/people/file", Map.of("text", one, "write", true))
                        .json()
                        .get("written")
                        .booleanValue())
                .isTrue();
        assertThat(ada.post("/api/people/file", Map.of("text", one, "write", true))
                        .json()
                        .get("same")
                        .intValue())
                .isEqualTo(1);
        assertThat(
                        TestServer.query(
                                "select string_agg(value, '+' order by position) from viewer_value v join person p on p.id = v.person_id where p.name = 'jo.new'"))
                .isEqualTo("North+South");
        for (String unreadable : List.of("", "who,what\na,b\n", "name,name\na,b\n", "full name\nX\n")) {
            assertThat(ada.post("/api/people/file", Map.of("text", unreadable, "write", true))
                            .status())
                    .as(unreadable)
                    .isEqualTo(422);
        }
    }

    @Test
    void anAdministratorLooksAsSomebodyAndChangesNothing() {
        JsonNode view = Caller.signedIn("dan")
                .post("/api/views", Map.of("register", "jobs", "name", "Dan's", "statement", "site is my site"))
                .json();
        Caller looking = Caller.signedIn("ada");
        assertThat(looking.post("/api/session/looking-as", Map.of("person", 3)).status())
                .isEqualTo(200);
        JsonNode session = looking.get("/api/session").json();
        assertThat(session.at("/person/name").stringValue()).isEqualTo("dan");
        assertThat(session.get("lookedAtBy").stringValue()).isEqualTo("Ada Admin");
        String path = "/api/views/" + view.get("id").asLong();
        assertThat(looking.get(path + "/rows?limit=1")
                        .json()
                        .at("/rows/0/values/site")
                        .stringValue())
                .isEqualTo("South");
        assertThat(looking.post("/api/registers/jobs/count", Map.of()).status()).isEqualTo(200);
        assertThat(looking.patch(path, Map.of("version", 0, "name", "Mine")).status())
                .isEqualTo(403);
        assertThat(looking.post("/api/views", Map.of("register", "jobs", "name", "X"))
                        .status())
                .isEqualTo(403);
        assertThat(looking.put("/api/pins", Map.of("views", List.of())).status())
                .isEqualTo(403);
        assertThat(looking.get("/api/account/tokens").status()).isEqualTo(403);
        assertThat(looking.post("/api/session/looking-as", Map.of("person", 2)).status())
                .isEqualTo(403);
        assertThat(looking.delete("/api/session/looking-as").status()).isEqualTo(204);
        assertThat(looking.get("/api/session").json().at("/person/name").stringValue())
                .isEqualTo("ada");
        assertThat(Caller.signedIn("dan")
                        .post("/api/session/looking-as", Map.of("person", 1))
                        .status())
                .isEqualTo(403);
        JsonNode trail = ada.get("/api/trail?kind=people&person=1").json();
        assertThat(trail.at("/entries/0/action").stringValue()).isEqualTo("stopped looking as");
        assertThat(trail.at("/entries/0/about").stringValue()).isEqualTo("Dan Day");
        assertThat(trail.at("/entries/0/who").stringValue()).isEqualTo("Ada Admin");
        assertThat(trail.at("/entries/1/action").stringValue()).isEqualTo("looked as");
        // Who signs out while looking signs out themselves.
        looking.post("/api/session/looking-as", Map.of("person", 3));
        looking.delete("/api/session");
        JsonNode ends = ada.get("/api/trail?kind=sign-ins&person=1&limit=1").json();
        assertThat(ends.at("/entries/0/action").stringValue()).isEqualTo("signed out");
        assertThat(ends.at("/entries/0/about").stringValue()).isEqualTo("Ada Admin");
        assertThat(ada.get("/api/trail?kind=people&person=1")
                        .json()
                        .at("/entries/0/action")
                        .stringValue())
                .isEqualTo("stopped looking as");
    }

    @Test
    void theTrailNamesWhatItIsAboutAndIsNarrowedAndCarriedAway() throws SQLException {
        long view = Caller.signedIn("dan")
                .post("/api/views", Map.of("register", "jobs", "name", "Dan's own", "statement", ""))
                .json()
                .get("id")
                .asLong();
        add("ida", Map.of(), 1L);
        ada.put(
                "/api/registers/jobs/access",
                List.of(Map.of("mayRead", true, "statement", "level < 9", "hidden", List.of())));
        assertThat(ada.get("/api/trail?kind=views")
                        .json()
                        .at("/entries/0/about")
                        .stringValue())
                .isEqualTo("Dan's own");
        TestServer.sql("update kept_view set name = 'Dan''s better one' where id = " + view);
        assertThat(ada.get("/api/trail?kind=views")
                        .json()
                        .at("/entries/0/about")
                        .stringValue())
                .isEqualTo("Dan's better one");
        assertThat(ada.get("/api/trail?kind=registers")
                        .json()
                        .at("/entries/0/about")
                        .stringValue())
                .isEqualTo("Jobs");
        JsonNode added = ada.get("/api/trail?kind=people").json();
        assertThat(added.at("/entries/0/after/role").stringValue()).isEqualTo("MEMBER");
        TestServer.sql("update trail set at = '2026-11-20T23:30:00Z' where subject = 'view'");
        for (String narrowed : List.of("from=2026-11-20&to=2026-11-20", "from=2026-11-20", "to=2026-11-20")) {
            assertThat(ada.get("/api/trail?kind=views&" + narrowed).json().get("entries"))
                    .as(narrowed)
                    .hasSize(1);
        }
        assertThat(ada.get("/api/trail?kind=views&from=2026-11-21").json().get("entries"))
                .isEmpty();
        assertThat(ada.get("/api/trail?kind=views&to=2026-11-19").json().get("entries"))
                .isEmpty();
        assertThat(ada.get("/api/trail?kind=views&to=+999999999-01-01").status())
                .isEqualTo(400);
        Caller.Answer file = ada.get("/api/trail/export.csv?kind=views&from=2026-11-20");
        assertThat(file.status()).isEqualTo(200);
        assertThat(file.text().lines().toList().get(1))
                .startsWith("2026-11-20T23:30:00Z,Dan Day,saved,view " + view + ",Dan's better one,,");
        assertThat(Caller.signedIn("dora").get("/api/trail/export.csv").status())
                .isEqualTo(403);
    }

    @Test
    void twoAdministratorsWhoDemoteEachOtherLeaveOne() throws Exception {
        for (int round = 0; round < 5; round++) {
            JsonNode entry = add("second" + round, Map.of());
            TestServer.sql(
                    "update person set role = 'ADMINISTRATOR', must_change_password = false where id = " + id(entry));
            Caller second = signIn("second" + round, "kelp lantern 49 gravel");
            CountDownLatch go = new CountDownLatch(1);
            try (ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor()) {
                Future<Integer> one = threads.submit(() -> demote(go, ada, second, id(entry), "second"));
                Future<Integer> other = threads.submit(() -> demote(go, second, ada, 1, "Ada Admin"));
                go.countDown();
                assertThat(List.of(one.get(), other.get())).containsAnyOf(200);
                assertThat(TestServer.query("select count(*) from person where role = 'ADMINISTRATOR' and active"))
                        .isEqualTo("1");
            } finally {
                TestServer.sql(
                        "update person set role = 'ADMINISTRATOR' where id = 1; update person set role = 'MEMBER' where id > 5");
            }
        }
    }

    private static int demote(CountDownLatch go, Caller by, Caller reads, long person, String fullName)
            throws InterruptedException {
        int version = reads.get("/api/people/" + person).json().get("version").intValue();
        go.await();
        return by.put(
                        "/api/people/" + person,
                        Map.of(
                                "version",
                                version,
                                "fullName",
                                fullName,
                                "role",
                                "MEMBER",
                                "teams",
                                List.of(),
                                "values",
                                Map.of()))
                .status();
    }

    @Test
    void aTokenThatReadsChangesNothingAndTokensEnd() throws SQLException {
        Caller dora = Caller.signedIn("dora");
        Caller reader = Caller.withToken(
                dora.post("/api/account/tokens", Map.of("label", "reads", "mayWrite", false, "days", 7))
                        .json()
                        .get("token")
                        .stringValue());
        assertThat(reader.post("/api/registers/jobs/rows", Map.of()).status()).isEqualTo(200);
        assertThat(reader.post("/api/views", Map.of("register", "jobs", "name", "X"))
                        .status())
                .isEqualTo(403);
        assertThat(reader.put("/api/account/password", Map.of("old", "dora-password", "fresh", "another one"))
                        .status())
                .isEqualTo(403);
        JsonNode named = dora.get("/api/account/tokens").json().get(0);
        assertThat(named.get("mayWrite").booleanValue()).isFalse();
        assertThat(named.get("expiresAt").stringValue()).isEqualTo("2026-11-30T09:30:00Z");
        assertThat(named.get("lastUsedAt").stringValue()).isEqualTo("2026-11-23T09:30:00Z");
        TestServer.sql("update personal_token set expires_at = '2026-11-23 09:29Z'");
        assertThat(reader.get("/api/registers").status()).isEqualTo(401);
        assertThat(dora.get("/api/account/tokens").json().at("/0/expired").booleanValue())
                .isTrue();
        for (int days : new int[] {0, -1, 367}) {
            assertThat(dora.post("/api/account/tokens", Map.of("label", "x", "days", days))
                            .status())
                    .isEqualTo(422);
        }
    }

    @Test
    void theLastUseOfASessionIsWrittenOnceInAWhile() throws SQLException {
        Caller caller = Caller.signedIn("dan");
        String used = "select max(last_access_time) from spring_session where principal_name = 'dan'";
        TestServer.sql(
                "update spring_session set last_access_time = last_access_time - 50000 where principal_name = 'dan'");
        String before = TestServer.query(used);
        assertThat(caller.get("/api/session").status()).isEqualTo(200);
        assertThat(TestServer.query(used)).isEqualTo(before);
        TestServer.sql(
                "update spring_session set last_access_time = last_access_time - 20000 where principal_name = 'dan'");
        assertThat(caller.get("/api/session").status()).isEqualTo(200);
        assertThat(Long.parseLong(TestServer.query(used))).isGreaterThan(Long.parseLong(before));
    }

    @Test
    void sessionsAreListedAndEndedEverywhereElse() {
        add("kim", Map.of());
        Caller here = signIn("kim", "kelp lantern 49 gravel");
        here.put("/api/account/password", Map.of("old", "kelp lantern 49 gravel", "fresh", "otter mast 72 willow"));
        Caller there = signIn("kim", "otter mast 72 willow");
        Caller third = signIn("kim", "otter mast 72 willow");
        JsonNode places = here.get("/api/account/sessions").json();
        assertThat(places).hasSize(3);
        assertThat(places.values().stream().filter(p -> p.get("here").booleanValue()))
                .hasSize(1);
        assertThat(places.get(0).get("agent").stringValue()).startsWith("Java-http-client");
        String other = there.get("/api/account/sessions").json().values().stream()
                .filter(p -> p.get("here").booleanValue())
                .findFirst()
                .orElseThrow()
                .get("id")
                .stringValue();
        assertThat(here.delete("/api/account/sessions/" + other).status()).isEqualTo(204);
        assertThat(there.get("/api/registers").status()).isEqualTo(401);
        assertThat(Caller.signedIn("dan")
                        .delete("/api/account/sessions/" + other)
                        .status())
                .isEqualTo(404);
        assertThat(here.delete("/api/account/sessions").json().get("sessions").intValue())
                .isEqualTo(1);
        assertThat(third.get("/api/registers").status()).isEqualTo(401);
        assertThat(here.get("/api/registers").status()).isEqualTo(200);
    }

    @Test
    void theTrailOfSignInsIsForAdministratorsAndAuditors() {
        Caller.stranger().post("/api/session", Map.of("name", "mallory", "password", "guess"));
        JsonNode trail = Caller.signedIn("audrey")
                .get("/api/trail?kind=sign-ins&limit=2")
                .json();
        assertThat(trail.at("/entries/0/action").stringValue()).isEqualTo("signed in");
        assertThat(trail.at("/entries/0/about").stringValue()).isEqualTo("Audrey Audit");
        assertThat(trail.at("/entries/1/action").stringValue()).isEqualTo("refused");
        assertThat(trail.at("/entries/1/after/name").stringValue()).isEqualTo("mallory");
        long next = trail.get("next").asLong();
        assertThat(ada.get("/api/trail?kind=sign-ins&before=" + next)
                        .json()
                        .at("/entries/0/id")
                        .asLong())
                .isLessThan(next);
        assertThat(Caller.signedIn("dora").get("/api/trail").status()).isEqualTo(403);
        assertThat(ada.get("/api/trail?kind=nothing").status()).isEqualTo(400);
    }

    @Test
    void onlyAdministratorsKeepPeople() {
        for (String name : List.of("dora", "audrey")) {
            Caller caller = Caller.signedIn(name);
            Map<String, Object> at = Map.of("version", 0);
            for (Caller.Answer answer : List.of(
                    caller.post(
                            "/api/people",
                            Map.of("name", "x", "password", "long enough", "fullName", "X", "role", "ADMINISTRATOR")),
                    caller.put(
                            "/api/people/2",
                            Map.of(
                                    "version",
                                    0,
                                    "fullName",
                                    "X",
                                    "role",
                                    "ADMINISTRATOR",
                                    "teams",
                                    List.of(),
                                    "values",
                                    Map.of())),
                    caller.post("/api/people/1/leave", at),
                    caller.post("/api/people/1/return", at),
                    caller.put("/api/people/1/password", Map.of("password", "long enough")),
                    caller.delete("/api/people/1/sessions"),
                    caller.delete("/api/people/1/identity"),
                    caller.post("/api/people/1/hand-over", Map.of("to", 2)),
                    caller.post("/api/people/file", Map.of("text", "name\nx\n", "write", true)),
                    caller.post("/api/teams", Map.of("name", "X")),
                    caller.put("/api/teams/1", Map.of("version", 0, "name", "X", "members", List.of())),
                    caller.delete("/api/teams/1?version=0"),
                    caller.put("/api/viewer-attributes", List.of()),
                    caller.put("/api/team-lists/1", Map.of("views", List.of())),
                    caller.post("/api/view-attention", Map.of()))) {
                assertThat(answer.status())
                        .as("%s: %s", answer.response().uri(), answer.text())
                        .isEqualTo(403);
            }
            assertThat(caller.get("/api/people").text().contains("\"South\""))
                    .as("what is known of others, told to %s", name)
                    .isEqualTo(name.equals("audrey"));
            assertThat(caller.get("/api/people/1").status()).isEqualTo(name.equals("audrey") ? 200 : 403);
        }
        assertThat(Caller.stranger()
                        .post("/api/session/looking-as", Map.of("person", 1))
                        .status())
                .isEqualTo(401);
    }
}
