package deftlens.server.views;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Views over their years: names, rights, each reader's own, use, versions, attention, care, files, and two at once. */
@ExtendWith(TestServer.class)
class ViewLifeTest {

    private static final long ADA = 1;
    private static final long DORA = 2;
    private static final long DAN = 3;
    private static final long NINA = 4;
    private static final long DAY = 1;

    private final Caller ada = Caller.signedIn("ada");
    private final Caller dora = Caller.signedIn("dora");
    private final Caller dan = Caller.signedIn("dan");
    private final Caller nina = Caller.signedIn("nina");

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql("delete from kept_view; delete from trail; delete from register_access;"
                + " update person set active = true, left_at = null where id <= 5");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 204);
        return answer.text().isEmpty() ? null : answer.json();
    }

    private static JsonNode keep(Caller caller, String name, String statement) {
        return ok(caller.post("/api/views", Map.of("register", "jobs", "name", name, "statement", statement)));
    }

    private static String path(JsonNode view) {
        return "/api/views/" + view.get("id").asLong();
    }

    private static JsonNode share(Caller caller, JsonNode view, Object... shares) {
        int version = ok(caller.get(path(view))).get("version").intValue();
        return ok(caller.put(path(view) + "/shares", Map.of("version", version, "shares", List.of(shares))));
    }

    private static Map<String, Object> team(long team, ViewPermission may) {
        return Map.of("team", team, "may", may);
    }

    private static Map<String, Object> person(long person, ViewPermission may) {
        return Map.of("person", person, "may", may);
    }

    private static String code(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(400, 499);
        return answer.json().get("code").stringValue();
    }

    @Test
    void oneOwnerHasOneViewOfAName() {
        JsonNode first = keep(dora, "Mornings", "level = 1");
        Caller.Answer again = dora.post("/api/views", Map.of("register", "jobs", "name", " mornings "));
        assertThat(again.status()).isEqualTo(409);
        assertThat(again.json().get("view").asLong()).isEqualTo(first.get("id").asLong());
        keep(dan, "Mornings", "level = 2");
        JsonNode other = keep(dora, "Evenings", "level = 3");
        assertThat(code(dora.patch(path(other), Map.of("version", 0, "name", "MORNINGS"))))
                .isEqualTo("name-taken");
        assertThat(dora.patch(path(other), Map.of("version", 0, "name", "EVENINGS"))
                        .status())
                .as("its own name in other letters")
                .isEqualTo(200);
        ok(dora.delete(path(first) + "?version=0"));
        keep(dora, "Mornings", "level = 4");
        assertThat(ok(dora.post(path(first) + "/restore", Map.of())).get("name").stringValue())
                .as("what comes back beside a new one")
                .isEqualTo("Mornings (2)");
    }

    @Test
    void twoOfOneNameAtTheSameInstantAreOne() throws InterruptedException {
        List<Integer> statuses = java.util.Collections.synchronizedList(new java.util.ArrayList<>());
        List<Thread> threads = new java.util.ArrayList<>();
        for (int i = 0; i < 8; i++) {
            Caller own = Caller.signedIn("dora");
            threads.add(Thread.ofVirtual()
                    .start(() -> statuses.add(own.post("/api/views", Map.of("register", "jobs", "name", "Contested"))
                            .status())));
        }
        for (Thread thread : threads) {
            thread.join();
        }
        assertThat(statuses).hasSize(8).containsOnly(201, 409).containsOnlyOnce(201);
    }

    @Test
    void labelsAreKeptAndBoundedAndFoundInHistory() {
        JsonNode view = keep(dora, "Labelled", "level = 1");
        JsonNode labelled = ok(
                dora.patch(path(view), Map.of("version", 0, "labels", List.of(" month  end ", "audit", "audit", ""))));
        assertThat(labelled.get("labels").values().stream().map(JsonNode::stringValue))
                .containsExactly("month end", "audit");
        assertThat(code(dora.patch(path(view), Map.of("version", 1, "labels", List.of("x".repeat(41))))))
                .isEqualTo("bad-labels");
        assertThat(ok(dora.get(path(view) + "/history")).at("/0/after/labels/1").stringValue())
                .isEqualTo("audit");
    }

    @Test
    void whoManagesSharesAndHandsOnWhoChangesDoesNot() {
        JsonNode view = keep(dora, "Run together", "level = 1");
        share(dora, view, person(DAN, ViewPermission.MANAGE), person(NINA, ViewPermission.CHANGE));
        JsonNode asDan = ok(dan.get(path(view)));
        assertThat(asDan.get("may").stringValue()).isEqualTo("MANAGE");
        assertThat(asDan.get("mayChange").booleanValue()).isTrue();
        JsonNode shared = share(
                dan,
                view,
                person(DAN, ViewPermission.MANAGE),
                person(NINA, ViewPermission.CHANGE),
                team(DAY, ViewPermission.LOOK));
        assertThat(shared.get("shares")).hasSize(3);
        int version = shared.get("version").intValue();
        assertThat(nina.patch(path(view), Map.of("version", version, "purpose", "Nina says"))
                        .status())
                .isEqualTo(200);
        assertThat(nina.put(path(view) + "/shares", Map.of("version", version + 1, "shares", List.of()))
                        .status())
                .isEqualTo(403);
        assertThat(nina.delete(path(view) + "?version=" + (version + 1)).status())
                .isEqualTo(403);
        assertThat(dan.delete(path(view) + "?version=" + (version + 1)).status())
                .isEqualTo(204);
        assertThat(dan.post(path(view) + "/restore", Map.of()).status()).isEqualTo(200);
    }

    @Test
    void answersAreRememberedForEachReader() throws SQLException {
        JsonNode view = keep(dora, "Of a level", "level >= {from level = 1}");
        share(dora, view, team(DAY, ViewPermission.LOOK));
        long all = count(dora, view, "");
        ok(dan.put(path(view) + "/own/answers", Map.of("from level", "4")));
        assertThat(count(dan, view, "")).isEqualTo(sql("level >= 4"));
        assertThat(count(dan, view, "?ask.from level=5".replace(" ", "%20"))).isEqualTo(sql("level >= 5"));
        assertThat(count(dan, view, "?asShared=true")).isEqualTo(all);
        assertThat(count(dora, view, "")).isEqualTo(all);
        ok(dan.put(path(view) + "/own/answers", Map.of("from level", " ")));
        assertThat(count(dan, view, "")).isEqualTo(all);
        assertThat(nina.put(path(view) + "/own/answers", Map.of("from level", "4"))
                        .status())
                .isEqualTo(404);
    }

    @Test
    void unsavedChangesAreRememberedForTheirReaderAlone() throws SQLException {
        JsonNode view = keep(dora, "Changed and left", "level >= 2");
        share(dora, view, team(DAY, ViewPermission.LOOK));
        assertThat(ok(dan.get(path(view) + "/own")).get("unsaved").isNull()).isTrue();
        ok(dan.put(
                path(view) + "/own/unsaved",
                Map.of(
                        "statement",
                        "level >= 3",
                        "order",
                        List.of("due"),
                        "shape",
                        Map.of("groups", List.of(Map.of("field", "site"))))));
        JsonNode own = ok(dan.get(path(view) + "/own"));
        assertThat(own.at("/unsaved/changes/statement").stringValue()).isEqualTo("level >= 3");
        assertThat(own.at("/unsaved/changes/order/0").stringValue()).isEqualTo("due");
        assertThat(own.at("/unsaved/changes/shape/groups/0/field").stringValue())
                .isEqualTo("site");
        assertThat(own.at("/unsaved/changes/columns").isNull()).isTrue();
        assertThat(own.at("/unsaved/at").stringValue()).isEqualTo("2026-11-23T09:30:00Z");
        assertThat(own.get("refined").isNull()).isTrue();
        // They ask nothing of the view, and nobody else hears of them.
        assertThat(count(dan, view, "")).isEqualTo(sql("level >= 2"));
        assertThat(ok(dora.get(path(view) + "/own")).get("unsaved").isNull()).isTrue();
        assertThat(ok(dan.delete(path(view) + "/own/unsaved")).get("unsaved").isNull())
                .isTrue();
        assertThat(nina.put(path(view) + "/own/unsaved", Map.of("statement", "level >= 3"))
                        .status())
                .isEqualTo(404);
        assertThat(dan.put(path(view) + "/own/unsaved", Map.of("statement", "x".repeat(200_001)))
                        .status())
                .isEqualTo(400);
    }

    @Test
    void whatAPageRemembersAndWhatItsReaderSavesAtOnceAreBothKept() throws InterruptedException {
        List<Caller> pages =
                Stream.generate(() -> Caller.signedIn("dan")).limit(5).toList();
        for (int round = 0; round < 6; round++) {
            JsonNode view = keep(dora, "At once " + round, "level >= 2");
            share(dora, view, team(DAY, ViewPermission.LOOK));
            String own = path(view) + "/own";
            List<Integer> statuses = java.util.Collections.synchronizedList(new java.util.ArrayList<>());
            List<Thread> threads = new java.util.ArrayList<>();
            for (int level = 3; level < 7; level++) {
                Map<String, Object> changes = Map.of("statement", "level >= " + level);
                Caller one = pages.get(level - 3);
                threads.add(Thread.ofVirtual()
                        .start(() ->
                                statuses.add(one.put(own + "/unsaved", changes).status())));
            }
            Caller other = pages.getLast();
            threads.add(Thread.ofVirtual()
                    .start(() -> statuses.add(other.put(own, Map.of("statement", "level >= 2 and site is \"North\""))
                            .status())));
            for (Thread thread : threads) {
                thread.join();
            }
            assertThat(statuses).hasSize(5).containsOnly(200);
            JsonNode kept = ok(dan.get(own));
            assertThat(kept.at("/refined/statement").stringValue()).contains("North");
            assertThat(kept.at("/unsaved/changes/statement").stringValue()).startsWith("level >= ");
        }
    }

    private static long count(Caller caller, JsonNode view, String query) {
        return ok(caller.get(path(view) + "/count" + query)).get("matching").longValue();
    }

    private static long sql(String where) throws SQLException {
        return Long.parseLong(TestServer.query("select count(*) from records.jobs where " + where));
    }

    @Test
    void aRefinementStaysTheReadersAndIsCarriedAlong() throws SQLException {
        JsonNode view = keep(dora, "Open ones", "state is \"Open\" and level >= 2 and due before today");
        share(dora, view, team(DAY, ViewPermission.LOOK));
        JsonNode own = ok(dan.put(
                path(view) + "/own",
                Map.of(
                        "statement",
                        "state is \"Open\" and level >= 4 and due before today and site is my site",
                        "columns",
                        List.of("number", "level"))));
        assertThat(own.at("/refined/statement").stringValue())
                .isEqualTo("state is \"Open\" and level >= 4 and due before today and site is my site");
        assertThat(own.at("/refined/lost")).isEmpty();
        assertThat(count(dan, view, ""))
                .isEqualTo(sql("state = 'Open' and level >= 4 and due < '2026-11-23' and site = 'South'"));
        assertThat(count(dora, view, ""))
                .as("nobody else sees it")
                .isEqualTo(sql("state = 'Open' and level >= 2 and due < '2026-11-23'"));

        ok(dora.patch(
                path(view), Map.of("version", 1, "statement", "state is \"Open\" and level >= 2 and due up to today")));
        assertThat(ok(dan.get(path(view) + "/own")).at("/refined/statement").stringValue())
                .isEqualTo("state is \"Open\" and level >= 4 and due up to today and site is my site");
        ok(dora.patch(path(view), Map.of("version", 2, "statement", "state is \"Open\" and level >= 3")));
        JsonNode later = ok(dan.get(path(view) + "/own"));
        assertThat(later.at("/refined/statement").stringValue())
                .isEqualTo("state is \"Open\" and level >= 3 and site is my site");
        assertThat(later.at("/refined/lost/0").stringValue()).isEqualTo("level is at least 4");
        assertThat(ok(dan.delete(path(view) + "/own")).get("refined").isNull()).isTrue();
        assertThat(count(dan, view, "")).isEqualTo(sql("state = 'Open' and level >= 3"));
        assertThat(code(dan.put(path(view) + "/own", Map.of("statement", "level >"))))
                .isEqualTo("statement-unreadable");
        assertThat(code(dan.put(
                        path(view) + "/own",
                        Map.of("statement", "level > 1", "columns", List.of("number", "nothing")))))
                .isEqualTo("unknown-field");
        assertThat(code(dan.put(path(view) + "/own", Map.of("statement", "level > 1", "order", List.of("-nothing")))))
                .isEqualTo("unknown-field");
    }

    @Test
    void aLockedPartStaysAsItIsAndTheLockFollowsIt() {
        JsonNode view = keep(dora, "With a lock", "state is \"Open\" and level >= 2");
        share(dora, view, team(DAY, ViewPermission.LOOK));
        ok(dora.patch(path(view), Map.of("version", 1, "locked", List.of(0))));
        Caller.Answer refused = dan.put(path(view) + "/own", Map.of("statement", "state is \"Done\" and level >= 2"));
        assertThat(code(refused)).isEqualTo("locked");
        assertThat(refused.text()).contains("state is Open");
        assertThat(code(dan.put(path(view) + "/own", Map.of("statement", "level >= 2"))))
                .isEqualTo("locked");
        ok(dan.put(path(view) + "/own", Map.of("statement", "state is \"Open\" and level >= 5")));
        JsonNode moved = ok(dora.patch(
                path(view),
                Map.of("version", 2, "statement", "due before today and state is \"Open\" and level >= 2")));
        assertThat(moved.get("locked").values().stream().map(JsonNode::intValue))
                .containsExactly(1);
        JsonNode changed = ok(dora.patch(
                path(view),
                Map.of("version", 3, "statement", "due before today and state is \"Done\" and level >= 2")));
        assertThat(changed.get("locked").get(0).intValue()).isEqualTo(1);
        assertThat(ok(dora.patch(path(view), Map.of("version", 4, "statement", "level >= 2")))
                        .get("locked"))
                .isEmpty();
        assertThat(code(dora.patch(path(view), Map.of("version", 5, "locked", List.of(1)))))
                .isEqualTo("bad-lock");
    }

    @Test
    void whoOpensAViewIsToldToThoseWhoChangeIt() {
        JsonNode view = keep(dora, "Read by some", "level = 1");
        share(dora, view, team(DAY, ViewPermission.LOOK));
        ok(dan.post(path(view) + "/opened", Map.of()));
        ok(dan.post(path(view) + "/opened", Map.of()));
        ok(dan.put("/api/pins", Map.of("views", List.of(view.get("id").asLong()))));
        ok(dan.put(path(view) + "/own", Map.of("statement", "level = 1 and site is my site")));
        ok(ada.put(
                "/api/team-lists/" + DAY, Map.of("views", List.of(view.get("id").asLong()))));
        JsonNode reliance = ok(dora.get(path(view) + "/reliance"));
        assertThat(reliance.at("/readers/0/who/name").stringValue()).isEqualTo("dan");
        assertThat(reliance.at("/readers/0/times").intValue()).isEqualTo(2);
        assertThat(reliance.get("pinnedBy").intValue()).isEqualTo(1);
        assertThat(reliance.get("refinedBy").intValue()).isEqualTo(1);
        assertThat(reliance.at("/listOf/0").stringValue()).isEqualTo("Day shift");
        assertThat(dan.get(path(view) + "/reliance").status()).isEqualTo(403);
        JsonNode use = ok(dan.get("/api/view-use")).get(0);
        assertThat(use.get("readers").intValue()).isEqualTo(1);
        assertThat(use.get("mineAt").stringValue()).isEqualTo("2026-11-23T09:30:00Z");
        ok(dan.put("/api/pins", Map.of("views", List.of())));
    }

    @Test
    void aTeamHasAListFromTheFirstDay() {
        JsonNode open = keep(dora, "For the shift", "level = 1");
        JsonNode closed = keep(dora, "Not for the shift", "level = 1");
        share(dora, open, team(DAY, ViewPermission.LOOK));
        assertThat(code(ada.put(
                        "/api/team-lists/" + DAY,
                        Map.of("views", List.of(closed.get("id").asLong())))))
                .isEqualTo("not-shared");
        ok(ada.put(
                "/api/team-lists/" + DAY, Map.of("views", List.of(open.get("id").asLong()))));
        assertThat(ok(dan.get("/api/team-lists")).at("/0/views/0/name").stringValue())
                .isEqualTo("For the shift");
        assertThat(ok(nina.get("/api/team-lists"))).isEmpty();
        assertThat(ok(nina.get("/api/team-lists?all=true"))).isEmpty();
        assertThat(ok(ada.get("/api/team-lists?all=true"))).hasSize(2);
    }

    @Test
    void theDifferenceOfTwoStatementsIsCountedAndAsked() throws SQLException {
        JsonNode view = keep(dora, "Compared", "level >= 2");
        JsonNode difference = ok(dora.post(
                path(view) + "/difference", Map.of("statement", "level >= 4 or tags has any of (\"Safety\")")));
        assertThat(difference.get("enter").longValue()).isEqualTo(sql("'Safety' = any(tags) and level < 2"));
        assertThat(difference.get("leave").longValue()).isEqualTo(sql("level in (2, 3) and not 'Safety' = any(tags)"));
        for (String side : List.of("entering", "leaving")) {
            long found = ok(dora.post(
                            "/api/registers/jobs/count",
                            Map.of("statement", difference.get(side).stringValue())))
                    .get("matching")
                    .longValue();
            assertThat(found)
                    .as(side)
                    .isEqualTo(difference
                            .get(side.equals("entering") ? "enter" : "leave")
                            .longValue());
        }
        JsonNode wide = ok(dora.post(path(view) + "/difference", Map.of("statement", "")));
        assertThat(wide.get("leave").longValue()).isZero();
        assertThat(wide.get("leaving").isNull()).isTrue();
        assertThat(wide.get("enter").longValue()).isEqualTo(sql("level < 2"));
        JsonNode off = ok(dora.post(path(view) + "/difference", Map.of("statement", "off(level >= 2)")));
        assertThat(off.get("enter").longValue()).isEqualTo(sql("level < 2"));
        assertThat(off.get("leave").longValue()).isZero();
    }

    @Test
    void anEarlierVersionIsComparedAndPutBackAsAChangeOfItsOwn() throws SQLException {
        JsonNode view = keep(dora, "Changing", "level >= 4");
        share(dora, view, person(DAN, ViewPermission.CHANGE));
        ok(dan.patch(path(view), Map.of("version", 1, "statement", "level >= 2", "labels", List.of("by Dan"))));
        JsonNode history = ok(dora.get(path(view) + "/history"));
        assertThat(history.at("/0/afterLines/0").stringValue()).startsWith("level is at ");
        long first = history.get(2).get("id").asLong();
        JsonNode difference = ok(dora.get(path(view) + "/history/" + first + "/difference"));
        assertThat(difference.get("from").stringValue()).isEqualTo("level >= 4");
        assertThat(difference.get("enter").longValue()).isEqualTo(sql("level in (2, 3)"));
        assertThat(difference.get("leave").longValue()).isZero();
        assertThat(code(dora.post(path(view) + "/history/" + first + "/restore", Map.of("version", 1))))
                .isEqualTo("changed-meanwhile");
        JsonNode back = ok(dora.post(path(view) + "/history/" + first + "/restore", Map.of("version", 2)));
        assertThat(back.get("statement").stringValue()).isEqualTo("level >= 4");
        assertThat(back.get("labels")).isEmpty();
        JsonNode after = ok(dan.get(path(view) + "/history"));
        assertThat(after.at("/0/action").stringValue()).isEqualTo("put back");
        assertThat(after.at("/0/before/statement").stringValue()).isEqualTo("level >= 2");
        long shared = history.get(1).get("id").asLong();
        assertThat(dora.get(path(view) + "/history/" + shared + "/difference").status())
                .as("a step that is no version")
                .isEqualTo(404);
        JsonNode other = keep(dora, "Another", "level = 1");
        assertThat(dora.get(path(other) + "/history/" + first + "/difference").status())
                .as("a step of another view")
                .isEqualTo(404);
    }

    @Test
    void whatAPersonWouldSeeIsToldWithItsReasons() throws SQLException {
        JsonNode view = keep(ada, "Costly", "level >= 2 and site is my site");
        share(ada, view, team(DAY, ViewPermission.LOOK), person(DAN, ViewPermission.CHANGE));
        ok(ada.put(
                "/api/registers/jobs/access",
                List.of(
                        Map.of("team", DAY, "mayRead", true, "statement", "level <= 3", "hidden", List.of("cost")),
                        Map.of("team", 2, "mayRead", false, "statement", "", "hidden", List.of()))));
        JsonNode access = ok(ada.get(path(view) + "/access?person=" + DAN));
        assertThat(access.get("may").stringValue()).isEqualTo("CHANGE");
        assertThat(access.get("why").values().stream().map(JsonNode::stringValue))
                .containsExactly(
                        "It is shared with the team Day shift, to look.", "It is shared with Dan Day, to change.");
        assertThat(access.at("/limits/0").stringValue()).isEqualTo("level is at most 3");
        assertThat(access.at("/hidden/0").stringValue()).isEqualTo("Cost");
        assertThat(access.get("matching").longValue()).isEqualTo(sql("level between 2 and 3 and site = 'South'"));
        assertThat(access.get("total").longValue()).isEqualTo(sql("level <= 3"));
        JsonNode closed = ok(ada.get(path(view) + "/access?person=" + NINA));
        assertThat(closed.get("may").isNull()).isTrue();
        assertThat(closed.at("/why/0").stringValue()).contains("closed to Nina Night");
        assertThat(dan.get(path(view) + "/access?person=" + DORA).status()).isEqualTo(403);
        assertThat(dan.get(path(view) + "/access?person=" + DAN).status()).isEqualTo(200);
        JsonNode register = ok(dan.get("/api/registers/jobs"));
        assertThat(register.at("/limits/0").stringValue()).isEqualTo("level <= 3");
        assertThat(register.get("hiddenFields").intValue()).isEqualTo(1);

        JsonNode audience = ok(ada.post(path(view) + "/audience", List.of(Map.of("may", "LOOK"))));
        assertThat(audience.get("people").intValue()).isEqualTo(4);
        assertThat(audience.at("/closed/0").stringValue()).isEqualTo("Nina Night");
        assertThat(audience.at("/limited/0/people").values().stream().map(JsonNode::stringValue))
                .containsExactly("Dan Day", "Dora Day");
        ok(ada.put("/api/registers/jobs/access", List.of()));
        TestServer.sql("update person set active = false where name = 'dan'");
        assertThat(ok(ada.get(path(view) + "/access?person=" + DAN)).get("may").isNull())
                .isTrue();
    }

    @Test
    void aViewThatCannotBeLookedAtLeavesTheOthersTold() throws SQLException {
        JsonNode unreadable = keep(dora, "Unreadable", "level >= 2");
        JsonNode passed = keep(dora, "Passed", "due in 2025-10");
        TestServer.sql("update kept_view set condition = '{\"version\": 99}' where id = "
                + unreadable.get("id").asLong());
        try {
            Caller.Answer run = ada.post("/api/view-attention", Map.of());
            assertThat(run.status()).as(run.text()).isEqualTo(200);
            assertThat(run.json().get("views").intValue()).isGreaterThanOrEqualTo(2);
            assertThat(TestServer.query("select count(*) from view_attention where view_id = "
                            + passed.get("id").asLong()))
                    .isEqualTo("1");
        } finally {
            TestServer.sql(
                    "delete from kept_view where id = " + unreadable.get("id").asLong());
        }
    }

    @Test
    void theNightlyLookFindsWhatItsOwnerShouldSeeTo() throws SQLException {
        JsonNode passed = keep(dora, "Last quarter", "made_at in 2026-Q3");
        JsonNode regatta = keep(dora, "Regatta", "made_at in 2026-09");
        JsonNode good = keep(dora, "Fine", "level >= 2");
        JsonNode lonely = keep(dora, "Old", "level >= 3");
        JsonNode orphan = keep(nina, "Nina's", "level >= 4");
        share(dora, good, person(DAN, ViewPermission.LOOK));
        TestServer.sql("update kept_view set created_at = '2026-01-01', changed_at = '2026-01-01' where id in (%d, %d)"
                .formatted(lonely.get("id").asLong(), good.get("id").asLong()));
        ok(dan.post(path(good) + "/opened", Map.of()));
        JsonNode broken = keep(dora, "Of another time", "level >= 2 and cost > 1");
        TestServer.sql(
                "update kept_view set condition = replace(condition::text, '\"cost\"', '\"price\"')::jsonb where id = "
                        + broken.get("id").asLong());
        TestServer.sql("update person set active = false where name in ('dan', 'nina')");
        assertThat(ok(ada.post("/api/view-attention", Map.of())).get("needing").intValue())
                .isEqualTo(6);
        Map<String, List<String>> found = new HashMap<>();
        ok(ada.get("/api/view-use"))
                .forEach(u -> found.put(
                        u.get("view").toString(),
                        u.get("attention").values().stream()
                                .map(n -> n.get("code").stringValue())
                                .toList()));
        assertThat(found.get(passed.get("id").toString())).containsExactly("fixed-not-rolling");
        assertThat(found.get(regatta.get("id").toString())).containsExactly("passed");
        assertThat(found.get(broken.get("id").toString())).containsExactly("field-gone");
        assertThat(found.get(good.get("id").toString())).containsExactly("shared-with-gone");
        assertThat(found.get(lonely.get("id").toString())).containsExactly("unused");
        assertThat(found.get(orphan.get("id").toString())).containsExactly("owner-gone");
        // A change is looked at at once.
        ok(dora.patch(path(passed), Map.of("version", 0, "statement", "made_at in last quarter")));
        assertThat(ok(dora.get("/api/view-use")).values().stream()
                        .filter(u -> u.get("view").asLong() == passed.get("id").asLong())
                        .findFirst()
                        .orElseThrow()
                        .get("attention"))
                .isEmpty();
    }

    @Test
    void theNightlyLookIsTakenOnceADay() throws SQLException {
        Attention attention = TestServer.bean(Attention.class);
        attention.nightly();
        JsonNode view = keep(dora, "Regatta", "made_at in 2026-09");
        attention.nightly();
        assertThat(TestServer.query("select count(*) from view_attention")).isEqualTo("0");
        attention.run();
        assertThat(TestServer.query("select min(code) from view_attention where view_id = "
                        + view.get("id").asLong()))
                .isEqualTo("passed");
    }

    @Test
    void aDeletedViewIsTakenOutWhenItCanNoLongerBeBroughtBack() throws SQLException {
        JsonNode old = keep(dora, "Of last month", "level = 1");
        JsonNode recent = keep(dora, "Of last week", "level = 2");
        share(dora, old, person(DAN, ViewPermission.CHANGE));
        ok(dan.post(path(old) + "/opened", Map.of()));
        ok(dora.delete(path(old) + "?version=1"));
        ok(dora.delete(path(recent) + "?version=0"));
        // Today is 23 November in these tests.
        deletedAt(old, "2026-10-20");
        deletedAt(recent, "2026-11-16");
        TestServer.bean(Attention.class).run();
        assertThat(TestServer.query("select string_agg(name, ', ') from kept_view"))
                .isEqualTo("Of last week");
        assertThat(ok(ada.get("/api/views?deleted=true"))).hasSize(1);
        assertThat(TestServer.query("select count(*) from view_opening where view_id = "
                        + old.get("id").stringValue()))
                .isEqualTo("0");
        // What it asked is still in the trail.
        assertThat(TestServer.query(
                        "select before ->> 'statement' from trail where action = 'taken out' and subject_id = "
                                + old.get("id").stringValue()))
                .isEqualTo("level = 1");
    }

    private static void deletedAt(JsonNode view, String day) throws SQLException {
        TestServer.sql("update kept_view set deleted_at = '" + day + "' where id = "
                + view.get("id").stringValue());
    }

    @Test
    void howManyViewsSomebodyOwnsIsToldWithThem() {
        keep(dora, "One", "level = 1");
        JsonNode gone = keep(dora, "Two", "level = 2");
        ok(dora.delete(path(gone) + "?version=0"));
        assertThat(ok(ada.get("/api/people/" + DORA)).get("views").intValue()).isEqualTo(1);
        assertThat(ok(ada.get("/api/people/" + DAN)).get("views").intValue()).isZero();
    }

    @Test
    void whatBelongsToSomebodyWhoLeavesIsHandedOver() {
        keep(dora, "Weekly", "level = 1");
        JsonNode theirs = keep(nina, "Weekly", "level = 2");
        share(nina, theirs, person(DORA, ViewPermission.LOOK), team(DAY, ViewPermission.LOOK));
        assertThat(dora.post("/api/people/" + NINA + "/hand-over", Map.of("to", DORA))
                        .status())
                .isEqualTo(403);
        assertThat(code(ada.post("/api/people/" + NINA + "/hand-over", Map.of("to", 5))))
                .isEqualTo("auditor");
        JsonNode done = ok(ada.post("/api/people/" + NINA + "/hand-over", Map.of("to", DORA)));
        assertThat(done.get("views").intValue()).isEqualTo(1);
        assertThat(done.at("/renamed/0/to").stringValue()).isEqualTo("Weekly (2)");
        JsonNode now = ok(dora.get(path(theirs)));
        assertThat(now.get("mine").booleanValue()).isTrue();
        assertThat(now.get("shares").values().stream().map(s -> s.get("label").stringValue()))
                .containsExactly("Day shift", "Nina Night");
        assertThat(ok(nina.get(path(theirs))).get("may").stringValue()).isEqualTo("CHANGE");
        assertThat(ok(dora.get(path(theirs) + "/history")).at("/0/after/owner").stringValue())
                .isEqualTo("Dora Day");
    }

    @Test
    void manyViewsAreCaredForAtOnceOrNoneIs() throws SQLException {
        JsonNode one = keep(dora, "One", "level = 1");
        JsonNode two = keep(dan, "Two", "level = 2");
        Map<String, Object> chosen = Map.of("view", one.get("id").asLong(), "version", 0);
        Map<String, Object> other = Map.of("view", two.get("id").asLong(), "version", 0);
        Map<String, Object> labels = Map.of("addLabels", List.of("spring"), "delete", false);
        assertThat(dora.post("/api/views/care", Map.of("views", List.of(chosen, other), "wanted", labels))
                        .status())
                .as("one of them is not open to her")
                .isEqualTo(404);
        assertThat(TestServer.query("select count(*) from kept_view where labels <> '[]'"))
                .isEqualTo("0");
        JsonNode done = ok(ada.post(
                "/api/views/care",
                Map.of(
                        "views",
                        List.of(chosen, other),
                        "wanted",
                        Map.of(
                                "addLabels",
                                List.of("spring"),
                                "share",
                                List.of(team(DAY, ViewPermission.LOOK)),
                                "handOverTo",
                                NINA,
                                "delete",
                                false))));
        assertThat(done.get("views").intValue()).isEqualTo(2);
        assertThat(ok(nina.get(path(two))).at("/labels/0").stringValue()).isEqualTo("spring");
        assertThat(ok(nina.get(path(one))).get("mine").booleanValue()).isTrue();
        Caller.Answer stale =
                ada.post("/api/views/care", Map.of("views", List.of(chosen), "wanted", Map.of("delete", true)));
        assertThat(code(stale)).isEqualTo("changed-meanwhile");
        assertThat(stale.json().get("detail").stringValue()).startsWith("“One”");
        assertThat(code(ada.post("/api/views/care", Map.of("views", List.of(), "wanted", labels))))
                .isEqualTo("no-views");
    }

    @Test
    void viewsTravelAsAFileAndSayWhatDoesNotFit() throws SQLException {
        JsonNode fits = keep(dora, "Travels", "level >= 2 and due in this month");
        ok(dora.patch(
                path(fits),
                Map.of("version", 0, "labels", List.of("out"), "locked", List.of(0), "order", List.of("-due"))));
        share(dora, fits, team(DAY, ViewPermission.CHANGE), person(NINA, ViewPermission.LOOK));
        JsonNode file = ok(ada.get("/api/views/file?ids=" + fits.get("id").asLong()));
        assertThat(file.get("format").stringValue()).isEqualTo("deft-lens-views");
        assertThat(file.at("/views/0/owner").stringValue()).isEqualTo("dora");
        TestServer.sql("delete from kept_view");

        String text = file.toString();
        JsonNode back = bringIn(ada, text, "SKIP", true);
        assertThat(back.at("/views/0/outcome").stringValue()).isEqualTo("ADDED");
        assertThat(back.at("/views/0/notes")).isEmpty();
        JsonNode again = ok(ada.get("/api/views/" + back.at("/views/0/view").asLong()));
        assertThat(again.get("statement").stringValue()).isEqualTo("level >= 2 and due in this month");
        assertThat(again.at("/owner/name").stringValue()).isEqualTo("dora");
        assertThat(again.at("/labels/0").stringValue()).isEqualTo("out");
        assertThat(again.at("/locked/0").intValue()).isZero();
        assertThat(again.get("shares").values().stream().map(s -> s.get("may").stringValue()))
                .containsExactlyInAnyOrder("CHANGE", "LOOK");

        assertThat(bringIn(ada, text, "SKIP", true).at("/views/0/outcome").stringValue())
                .isEqualTo("SKIPPED");
        assertThat(bringIn(ada, text, "RENAME", false).at("/views/0/notes/0").stringValue())
                .contains("Travels (2)");
        assertThat(bringIn(ada, text.replace("level >= 2", "level >= 3").replace("\"2\"", "\"3\""), "REPLACE", true)
                        .at("/views/0/outcome")
                        .stringValue())
                .isEqualTo("REPLACED");
        assertThat(TestServer.query("select count(*) from kept_view")).isEqualTo("1");

        String strange = text.replace("\"register\":\"jobs\"", "\"register\":\"ledgers\"");
        JsonNode refused = bringIn(ada, strange, "RENAME", true);
        assertThat(refused.at("/views/0/outcome").stringValue()).isEqualTo("REFUSED");
        assertThat(refused.at("/views/0/notes/0").stringValue()).contains("no register “ledgers”");
        String partly = text.replace("\"dora\"", "\"somebody\"")
                .replace("\"Day shift\"", "\"Dusk shift\"")
                .replace("\"nina\"", "\"norma\"")
                .replace("\"-due\"", "\"-dues\"");
        JsonNode noted = bringIn(ada, partly, "RENAME", true).at("/views/0");
        assertThat(noted.get("outcome").stringValue()).isEqualTo("ADDED");
        assertThat(noted.get("notes").values().stream().map(JsonNode::stringValue))
                .anyMatch(n -> n.contains("no “somebody” here; it is yours"))
                .anyMatch(n -> n.contains("team “Dusk shift”"))
                .anyMatch(n -> n.contains("“norma”"))
                .anyMatch(n -> n.contains("no such field: dues"));
        JsonNode own = bringIn(dan, text, "SKIP", true).at("/views/0");
        assertThat(ok(dan.get("/api/views/" + own.get("view").asLong())).get("shares"))
                .as("whoever does not administer keeps it for themselves")
                .isEmpty();
        for (String blank :
                List.of("/api/views/file?ids=%20", "/api/views/file?ids=1,,2", "/api/views/words?views=%20")) {
            Caller.Answer answer = ada.get(blank);
            assertThat(answer.status()).as(blank).isEqualTo(400);
            assertThat(answer.json().get("detail").stringValue()).contains("has a blank where an id should be");
        }
        assertThat(code(ada.post(
                        "/api/views/file", Map.of("file", Map.of("format", "else"), "ifThere", "SKIP", "write", true))))
                .isEqualTo("not-a-view-file");
        assertThat(code(ada.post(
                        "/api/views/file",
                        Map.of(
                                "file",
                                Map.of("format", "deft-lens-views", "version", 9),
                                "ifThere",
                                "SKIP",
                                "write",
                                true))))
                .isEqualTo("newer-view-file");
        assertThat(code(ada.post(
                        "/api/views/file",
                        Map.of(
                                "file",
                                Map.of("format", "deft-lens-views", "version", 1, "views", "none"),
                                "ifThere",
                                "SKIP",
                                "write",
                                true))))
                .isEqualTo("broken-view-file");
    }

    private static JsonNode bringIn(Caller caller, String file, String ifThere, boolean write) {
        return ok(caller.post(
                "/api/views/file", "{\"file\":" + file + ",\"ifThere\":\"" + ifThere + "\",\"write\":" + write + "}"));
    }

    @Test
    void twoOnOneViewSeeEachOtherAndWhatChanged() {
        JsonNode view = keep(dora, "Met on", "level = 1");
        share(dora, view, person(DAN, ViewPermission.CHANGE));
        Map<String, Object> mine = Map.of("page", "page-of-dora", "changing", false);
        assertThat(ok(dora.put(path(view) + "/presence", mine)).get("others")).isEmpty();
        JsonNode met = ok(dan.put(path(view) + "/presence", Map.of("page", "page-of-dan", "changing", true)));
        assertThat(met.at("/others/0/who/name").stringValue()).isEqualTo("dora");
        assertThat(met.at("/others/0/changing").booleanValue()).isFalse();
        assertThat(ok(dora.put(path(view) + "/presence", mine))
                        .at("/others/0/changing")
                        .booleanValue())
                .isTrue();
        ok(dan.patch(path(view), Map.of("version", 1, "statement", "level = 2")));
        JsonNode told = ok(dora.put(path(view) + "/presence", mine));
        assertThat(told.get("version").intValue()).isEqualTo(2);
        assertThat(told.at("/changedBy/name").stringValue()).isEqualTo("dan");
        ok(dan.delete(path(view) + "/presence/page-of-dan"));
        assertThat(ok(dora.put(path(view) + "/presence", mine)).get("others")).isEmpty();
        assertThat(nina.put(path(view) + "/presence", mine).status()).isEqualTo(404);
    }

    @Test
    void aPageThatFallsSilentIsForgotten() throws SQLException {
        Presence presence = TestServer.bean(Presence.class);
        deftlens.server.people.SignedIn one =
                new deftlens.server.people.SignedIn(1, "one", deftlens.server.people.Role.MEMBER);
        deftlens.server.people.SignedIn two =
                new deftlens.server.people.SignedIn(2, "two", deftlens.server.people.Role.MEMBER);
        presence.open(7, one, "first page", true);
        assertThat(presence.open(7, two, "second page", false)).hasSize(1);
        assertThat(presence.open(8, two, "third page", false))
                .as("another view")
                .isEmpty();
        TestServer.sql("update open_page set seen_at = seen_at - interval '26 seconds'");
        assertThat(presence.open(7, two, "second page", false)).isEmpty();
    }
}
