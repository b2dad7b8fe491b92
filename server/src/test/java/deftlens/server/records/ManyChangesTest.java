package deftlens.server.records;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Many records are changed at once, looked at before, and taken back as a whole. */
@ExtendWith(TestServer.class)
class ManyChangesTest {

    private static final String AT = "/api/registers/pallets";
    private static final String NORTH = "site is \"North\"";
    private static Caller ada;
    private static Caller dora;

    @BeforeAll
    static void make() {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "pallets",
                        "Pallets",
                        "pallet",
                        "due",
                        "number",
                        true,
                        List.of(
                                field("number", FieldType.TEXT, true, List.of()).identifying(),
                                field("site", FieldType.CHOICE, false, List.of("North", "South"))
                                        .correctable(),
                                field("former_site", FieldType.CHOICE, false, List.of("North", "South", "East")),
                                field("due", FieldType.DATE, false, List.of()).correctable(),
                                field("price", FieldType.MONEY, false, List.of())
                                        .correctable(),
                                field("memo", FieldType.TEXT, true, List.of()),
                                field("labels", FieldType.TAGS, false, List.of("Blue"))
                                        .correctable())));
        ada = Caller.signedIn("ada");
        dora = Caller.signedIn("dora");
    }

    private static FieldDefinition field(String key, FieldType type, boolean required, List<String> options) {
        return new FieldDefinition(
                key,
                key.substring(0, 1).toUpperCase() + key.substring(1).replace('_', ' '),
                type,
                required,
                true,
                options);
    }

    @AfterAll
    static void leave() {
        ada.delete(AT);
    }

    /** Ten pallets: the first six at North, due on ten days in a row. */
    @BeforeEach
    void fill() throws SQLException {
        TestServer.sql("delete from register_access");
        TestServer.sql("update register set closed_up_to = null where key = 'pallets'");
        TestServer.sql(
                "select deft_guard_closed('records.pallets'::regclass, (select id from register where key = 'pallets'), false)");
        TestServer.sql("delete from records.pallets; truncate past.pallets");
        TestServer.sql("delete from change_set where register_id = (select id from register where key = 'pallets')");
        TestServer.sql("insert into records.pallets (id, number, site, former_site, due, price, memo, labels)"
                + " select 1000 + i, 'P-' || i, case when i <= 6 then 'North' else 'South' end,"
                + " case when i % 2 = 0 then 'East' end, date '2026-11-10' + i, 10 * i, 'm' || i, '{}'"
                + " from generate_series(1, 10) i");
    }

    private static Map<String, Object> set(String field, Object value) {
        Map<String, Object> set = new HashMap<>(Map.of("field", field, "act", "SET"));
        set.put("value", value);
        return set;
    }

    private static Map<String, Object> asked(String statement, List<Map<String, Object>> set) {
        return new HashMap<>(Map.of("statement", statement, "set", set, "delete", false));
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 299);
        return answer.json();
    }

    private static JsonNode preview(Caller who, Map<String, Object> asked) {
        return ok(who.post(AT + "/changes/preview", asked));
    }

    private static JsonNode ended(Caller who, JsonNode begun) throws InterruptedException {
        String at = AT + "/changes/jobs/" + begun.get("job").stringValue();
        for (int i = 0; i < 400; i++) {
            JsonNode run = ok(who.get(at));
            if (List.of("DONE", "FAILED", "STOPPED").contains(run.get("state").stringValue())) {
                return run;
            }
            Thread.sleep(25);
        }
        throw new AssertionError("the job did not end");
    }

    /** Looks, and changes what was looked at. */
    private static JsonNode changed(Caller who, Map<String, Object> asked) throws InterruptedException {
        return begun(who, asked, preview(who, asked).get("mark").stringValue());
    }

    private static JsonNode begun(Caller who, Map<String, Object> asked, String mark) throws InterruptedException {
        return ended(who, ok(who.post(AT + "/changes", wanted(asked, mark, "Put at the wrong site."))));
    }

    private static Map<String, Object> wanted(Map<String, Object> asked, String mark, String reason) {
        return Map.of("change", asked, "mark", mark, "reason", reason);
    }

    private static String records() throws SQLException {
        return TestServer.query(
                "select string_agg(number || ' ' || coalesce(site, '-') || ' ' || coalesce(due::text, '-')"
                        + " || ' ' || coalesce(price::text, '-') || ' ' || labels::text, ', ' order by id) from records.pallets");
    }

    private static String query(String sql) throws SQLException {
        return TestServer.query(sql);
    }

    @Test
    void whatIsLookedAtIsSaidAndNothingIsWritten() throws SQLException {
        String before = records();
        JsonNode preview = preview(
                ada,
                asked(
                        NORTH + " and due before 2026-11-15",
                        List.of(
                                set("site", "South"),
                                Map.of("field", "due", "act", "MOVE", "count", 1, "unit", "MONTH"),
                                Map.of("field", "price", "act", "ADD", "value", "-5.50"))));
        assertThat(preview.get("records").longValue()).isEqualTo(4);
        assertThat(preview.get("changed").longValue()).isEqualTo(4);
        assertThat(preview.get("leaving").longValue()).isEqualTo(4);
        assertThat(preview.get("refused")).isEmpty();
        JsonNode site = preview.get("fields").get(0);
        assertThat(site.get("steps").toString())
                .isEqualTo("[{\"before\":\"North\",\"after\":\"South\",\"records\":4}]");
        assertThat(site.get("more").longValue()).isZero();
        assertThat(preview.get("fields").get(1).get("steps").get(0).toString())
                .isEqualTo("{\"before\":\"2026-11-11\",\"after\":\"2026-12-11\",\"records\":1}");
        assertThat(preview.get("fields").get(2).get("steps").get(0).get("after").decimalValue())
                .isEqualByComparingTo("4.50");
        assertThat(records()).isEqualTo(before);
    }

    @Test
    void allThatMatchAreChangedWithTheReasonInTheirHistory() throws SQLException, InterruptedException {
        Map<String, Object> asked =
                asked(NORTH, List.of(set("site", "South"), Map.of("field", "labels", "act", "TAG", "value", "Moved")));
        JsonNode run = changed(ada, asked);
        assertThat(run.get("state").stringValue()).as(run.toString()).isEqualTo("DONE");
        assertThat(run.get("message").stringValue()).isEqualTo("6 records changed");
        assertThat(run.at("/change/records").longValue()).isEqualTo(6);
        assertThat(query("select count(*) from records.pallets where site = 'South' and labels = '{Moved}'"))
                .isEqualTo("6");
        JsonNode history = ok(ada.get(AT + "/records/1001/history")).get(0);
        assertThat(history.get("action").stringValue()).isEqualTo("changed in bulk");
        assertThat(history.get("reason").stringValue()).isEqualTo("Put at the wrong site.");
        assertThat(history.at("/before/site").stringValue()).isEqualTo("North");
        // Nothing is left that would change, and of nothing nothing is made.
        assertThat(preview(ada, asked).get("records").longValue()).isZero();
    }

    @Test
    void aChangeIsTakenBackAsAWholeAndWritesNothingOver() throws SQLException, InterruptedException {
        String before = records();
        String id = changed(ada, asked(NORTH, List.of(set("site", "South"), set("due", null))))
                .at("/change/id")
                .stringValue();
        TestServer.sql("update records.pallets set price = 99 where id = 1002");
        TestServer.sql("delete from records.pallets where id = 1003");
        JsonNode look = ok(ada.get("/api/changes/" + id));
        assertThat(look.get("restored").longValue()).isEqualTo(4);
        assertThat(look.get("changedSince").longValue()).isEqualTo(2);
        JsonNode undone = ended(ada, ok(ada.post("/api/changes/" + id + "/undo", Map.of("reason", "It was right."))));
        assertThat(undone.get("message").stringValue()).isEqualTo("4 records as before");
        assertThat(
                        query(
                                "select string_agg(number, ' ' order by id) from records.pallets where site = 'South' and id < 1007"))
                .isEqualTo("P-2");
        assertThat(records().replaceAll("P-2 [^,]*, ", "")).isEqualTo(before.replaceAll("P-[23] [^,]*, ", ""));
        // Once is enough; and what took it back can be taken back.
        assertThat(ada.post("/api/changes/" + id + "/undo", Map.of("reason", "Again."))
                        .status())
                .isEqualTo(409);
        JsonNode latest = ok(ada.get(AT + "/changes"));
        assertThat(latest.get(0).get("undoes").stringValue()).isEqualTo(id);
        assertThat(latest.get(1).get("undone").booleanValue()).isTrue();
        String back = latest.get(0).get("id").stringValue();
        JsonNode again = ended(ada, ok(ada.post("/api/changes/" + back + "/undo", Map.of("reason", "After all."))));
        assertThat(again.get("message").stringValue()).isEqualTo("4 records as before");
        assertThat(query("select count(*) from records.pallets where site = 'South' and due is null"))
                .isEqualTo("5");
    }

    @Test
    void recordsAreDeletedAndComeBackUnderTheirNumbers() throws SQLException, InterruptedException {
        String before = records();
        Map<String, Object> asked = new HashMap<>(Map.of("statement", NORTH, "set", List.of(), "delete", true));
        JsonNode preview = preview(ada, asked);
        assertThat(preview.get("leaving").longValue()).isEqualTo(6);
        JsonNode run = changed(ada, asked);
        assertThat(run.get("message").stringValue()).isEqualTo("6 records deleted");
        assertThat(query("select count(*) from records.pallets")).isEqualTo("4");
        String id = run.at("/change/id").stringValue();
        assertThat(ok(ada.get("/api/changes/" + id)).get("returned").longValue())
                .isEqualTo(6);
        ended(ada, ok(ada.post("/api/changes/" + id + "/undo", Map.of("reason", "They are there."))));
        assertThat(records()).isEqualTo(before);
        assertThat(ok(ada.get(AT + "/records/1001/history"))
                        .get(0)
                        .get("action")
                        .stringValue())
                .isEqualTo("made by taking a change back");
    }

    @Test
    void whoeverWritesBetweenTheLookAndTheChangeIsNotOverwritten() throws SQLException, InterruptedException {
        Map<String, Object> asked = asked(NORTH, List.of(set("site", "South")));
        String mark = preview(ada, asked).get("mark").stringValue();
        TestServer.sql("update records.pallets set memo = 'mine' where id = 1002");
        String before = records();
        JsonNode run = begun(ada, asked, mark);
        assertThat(run.get("state").stringValue()).isEqualTo("FAILED");
        assertThat(run.get("message").stringValue()).contains("look again");
        assertThat(records()).isEqualTo(before);
        assertThat(query("select count(*) from change_set where origin = 'BULK'"
                        + " and register_id = (select id from register where key = 'pallets')"))
                .isEqualTo("0");
        // One that came in is noticed as well.
        mark = preview(ada, asked).get("mark").stringValue();
        TestServer.sql("update records.pallets set site = 'North' where id = 1009");
        assertThat(begun(ada, asked, mark).get("state").stringValue()).isEqualTo("FAILED");
    }

    /** The change waits for whoever is writing one of its records, and then sees what they wrote. */
    @Test
    void whoeverIsWritingMeanwhileIsWaitedFor() throws SQLException, InterruptedException {
        Map<String, Object> asked = asked(NORTH, List.of(set("site", "South")));
        Map<String, Object> wanted =
                wanted(asked, preview(ada, asked).get("mark").stringValue(), "Both at once.");
        try (Connection other = TestServer.connect();
                Statement writing = other.createStatement()) {
            other.setAutoCommit(false);
            writing.execute("update records.pallets set price = 1 where id = 1004");
            JsonNode begun = ok(ada.post(AT + "/changes", wanted));
            while ("0"
                    .equals(query("select count(*) from pg_stat_activity where datname = current_database()"
                            + " and wait_event_type = 'Lock' and query like '%deft_changes%'"))) {
                Thread.sleep(20);
            }
            other.commit();
            assertThat(ended(ada, begun).get("state").stringValue()).isEqualTo("FAILED");
        }
        assertThat(query("select count(*) from records.pallets where site = 'South'"))
                .isEqualTo("4");
    }

    @Test
    void whatCannotBeIsSaidAndNothingIsChanged() throws SQLException, InterruptedException {
        String before = records();
        JsonNode taken =
                preview(ada, asked(NORTH, List.of(Map.of("field", "site", "act", "TAKE", "from", "former_site"))));
        assertThat(taken.get("refused").toString()).contains("UNKNOWN").contains("\"records\":3");
        JsonNode beyond = preview(
                ada,
                asked(
                        "",
                        List.of(
                                Map.of("field", "price", "act", "ADD", "value", "999999999990"),
                                Map.of("field", "due", "act", "MOVE", "count", 9000, "unit", "YEAR"))));
        assertThat(beyond.get("refused")).hasSize(2);
        JsonNode run =
                changed(ada, asked(NORTH, List.of(Map.of("field", "site", "act", "TAKE", "from", "former_site"))));
        assertThat(run.get("state").stringValue()).isEqualTo("FAILED");
        assertThat(run.get("message").stringValue()).contains("3 records").contains("Nothing was written");
        assertThat(records()).isEqualTo(before);
        for (Map<String, Object> change : List.<Map<String, Object>>of(
                set("memo", null),
                set("site", "West"),
                set("nothing", 1),
                Map.of("field", "memo", "act", "ADD", "value", 1),
                Map.of("field", "due", "act", "MOVE", "count", 1, "unit", "HOUR"),
                Map.of("field", "due", "act", "MOVE"),
                Map.of("field", "labels", "act", "TAG"),
                Map.of("field", "site", "act", "TAKE", "from", "memo"))) {
            Caller.Answer answer = ada.post(AT + "/changes/preview", asked("", List.of(change)));
            assertThat(answer.status()).as(change + answer.text()).isEqualTo(422);
            assertThat(answer.json().get("code").stringValue()).isEqualTo("bad-value");
        }
        assertThat(ada.post(AT + "/changes/preview", asked("", List.of())).status())
                .isEqualTo(422);
        assertThat(ada.post(AT + "/changes/preview", asked("", List.of(set("site", "South"), set("site", "North"))))
                        .status())
                .isEqualTo(422);
        Map<String, Object> none = asked("", List.of(set("site", "South")));
        none.put("records", List.of());
        assertThat(ada.post(AT + "/changes/preview", none).status()).isEqualTo(400);
        Map<String, Object> wanted = wanted(asked(NORTH, List.of(set("site", "South"))), "1.a", "  ");
        assertThat(ada.post(AT + "/changes", wanted).status()).isEqualTo(422);
    }

    @Test
    void aClosedPeriodIsNotChangedNorReached() throws SQLException, InterruptedException {
        ok(ada.put(AT + "/closed-period", Map.of("upTo", "2026-11-12", "reason", "Closed.")));
        JsonNode preview = preview(ada, asked(NORTH, List.of(set("price", 1))));
        assertThat(preview.get("refused").toString())
                .contains("CLOSED")
                .contains("\"records\":2")
                .contains("12 Nov 2026");
        JsonNode back =
                preview(ada, asked("", List.of(Map.of("field", "due", "act", "MOVE", "count", -4, "unit", "DAY"))));
        assertThat(back.at("/refused/0/records").longValue()).isEqualTo(6);
        JsonNode run = changed(ada, asked(NORTH + " and due from 2026-11-13", List.of(set("price", 1))));
        assertThat(run.get("message").stringValue()).isEqualTo("4 records changed");
        // Closed since, a change is not taken back.
        ok(ada.put(AT + "/closed-period", Map.of("upTo", "2026-11-13", "was", "2026-11-12", "reason", "More.")));
        JsonNode undone = ended(
                ada,
                ok(ada.post(
                        "/api/changes/" + run.at("/change/id").stringValue() + "/undo", Map.of("reason", "Back."))));
        assertThat(undone.get("state").stringValue()).isEqualTo("FAILED");
        assertThat(undone.get("message").stringValue()).contains("closed period");
        ok(ada.put(AT + "/closed-period", new HashMap<>(Map.of("was", "2026-11-13", "reason", "Open."))));
    }

    @Test
    void thoseThatAreChosenAreChangedWhetherTheyMatchOrNot() throws SQLException, InterruptedException {
        Map<String, Object> asked = asked(NORTH, List.of(set("site", "South")));
        asked.put("records", List.of("1001", "1007", "1008", "4711"));
        JsonNode preview = preview(ada, asked);
        assertThat(preview.get("records").longValue()).isEqualTo(3);
        assertThat(preview.get("changed").longValue()).isEqualTo(1);
        assertThat(preview.get("leaving").longValue()).isEqualTo(1);
        assertThat(changed(ada, asked).get("message").stringValue()).isEqualTo("1 record changed");
    }

    @Test
    void allThatMatchButSomeAreChanged() throws SQLException, InterruptedException {
        Map<String, Object> asked = asked(NORTH, List.of(set("site", "South")));
        asked.put("except", List.of("1002", "1003", "1009"));
        JsonNode preview = preview(ada, asked);
        assertThat(preview.get("records").longValue()).isEqualTo(4);
        assertThat(preview.get("leaving").longValue()).isEqualTo(4);
        assertThat(changed(ada, asked).get("message").stringValue()).isEqualTo("4 records changed");
        assertThat(query("select string_agg(id::text, ' ' order by id) from records.pallets where site = 'North'"))
                .isEqualTo("1002 1003");
        asked.put("records", List.of("1001"));
        assertThat(ada.post(AT + "/changes/preview", asked).status()).isEqualTo(422);
    }

    /** Whoever is writing one of them when the change comes to it is waited for, and not written over. */
    @Test
    void whoIsWritingOneOfThemMeanwhileIsNotOverwritten() throws SQLException, InterruptedException {
        for (boolean delete : List.of(false, true)) {
            Map<String, Object> asked = asked(NORTH, delete ? List.of() : List.of(set("site", "South")));
            asked.put("delete", delete);
            String mark = preview(ada, asked).get("mark").stringValue();
            JsonNode begun;
            try (Connection other = TestServer.connect();
                    Statement statement = other.createStatement()) {
                other.setAutoCommit(false);
                statement.execute("update records.pallets set memo = 'mine " + delete + "' where id = 1004");
                begun = ok(ada.post(AT + "/changes", wanted(asked, mark, "Both.")));
                awaitWaiting();
                other.commit();
            }
            JsonNode run = ended(ada, begun);
            assertThat(run.get("state").stringValue()).isEqualTo("FAILED");
            assertThat(run.get("message").stringValue()).contains("look again");
            assertThat(query("select count(*) from records.pallets where site = 'North'"))
                    .isEqualTo("6");
            assertThat(query("select memo from records.pallets where id = 1004"))
                    .isEqualTo("mine " + delete);
        }
    }

    private static final String WAITS =
            "select max(pid) from pg_stat_activity where wait_event_type = 'Lock' and query like '%deft_changes%'"
                    + " and datname = current_database()";

    private static void awaitWaiting() throws SQLException, InterruptedException {
        for (int i = 0; query(WAITS) == null && i < 400; i++) {
            Thread.sleep(25);
        }
        assertThat(query(WAITS)).as("the change waits").isNotNull();
    }

    /** Whether the database or the server goes in the middle: nothing of it is written, and it can be begun again. */
    @Test
    void whatIsCutOffInTheMiddleWroteNothing() throws SQLException, InterruptedException {
        String before = records();
        Map<String, Object> asked = asked(NORTH, List.of(set("site", "South")));
        String mark = preview(ada, asked).get("mark").stringValue();
        try (Connection other = TestServer.connect();
                Statement statement = other.createStatement()) {
            other.setAutoCommit(false);
            // Most of them can be written, and the last one not yet.
            statement.execute("select from records.pallets where id = 1006 for update");
            JsonNode begun = ok(ada.post(AT + "/changes", wanted(asked, mark, "Cut off.")));
            awaitWaiting();
            assertThat(query("select pg_terminate_backend((" + WAITS + "))")).isEqualTo("t");
            JsonNode run = ended(ada, begun);
            assertThat(run.get("state").stringValue()).as(run.toString()).isEqualTo("FAILED");
            assertThat(run.get("change").isNull()).isTrue();
        }
        assertThat(records()).isEqualTo(before);
        assertThat(query("select count(*) from change_set where reason = 'Cut off.'"))
                .isEqualTo("0");
        assertThat(begun(ada, asked, mark).get("message").stringValue()).isEqualTo("6 records changed");
    }

    @Test
    void itIsARightOfItsOwn() throws SQLException, InterruptedException {
        Map<String, Object> asked = asked(NORTH, List.of(set("site", "South")));
        assertThat(dora.post(AT + "/changes/preview", asked).status()).isEqualTo(403);
        assertThat(Caller.signedIn("audrey")
                        .post(AT + "/changes/preview", asked)
                        .status())
                .isEqualTo(403);
        assertThat(ok(dora.get(AT)).get("mayChangeMany").booleanValue()).isFalse();
        // Given to her team, over what they see and what is open to correction only.
        TestServer.sql("insert into register_access (register_id, team_id, statement, hidden, may_change_many)"
                + " select r.id, t.id, 'due before 2026-11-14', '[\"memo\"]', true from register r, team t"
                + " where r.key = 'pallets' and t.name = 'Day shift'");
        assertThat(ok(dora.get(AT)).get("mayChangeMany").booleanValue()).isTrue();
        assertThat(preview(dora, asked).get("records").longValue()).isEqualTo(3);
        assertThat(dora.post(AT + "/changes/preview", asked(NORTH, List.of(set("former_site", "East"))))
                        .status())
                .isEqualTo(403);
        assertThat(dora.post(AT + "/changes/preview", asked(NORTH, List.of(set("memo", "x"))))
                        .status())
                .isEqualTo(422);
        JsonNode run = changed(dora, asked);
        assertThat(run.get("message").stringValue()).isEqualTo("3 records changed");
        String id = run.at("/change/id").stringValue();
        // Nobody but her, administrators and auditors sees it; an auditor takes nothing back.
        assertThat(Caller.signedIn("dan").get("/api/changes/" + id).status()).isEqualTo(404);
        assertThat(ok(Caller.signedIn("dan").get(AT + "/changes"))).isEmpty();
        Caller audrey = Caller.signedIn("audrey");
        assertThat(ok(audrey.get("/api/changes/" + id)).at("/change/mayUndo").booleanValue())
                .isFalse();
        assertThat(audrey.post("/api/changes/" + id + "/undo", Map.of("reason", "x"))
                        .status())
                .isEqualTo(403);
        assertThat(ok(dora.get(AT + "/changes")).get(0).get("mayUndo").booleanValue())
                .isTrue();
        // Who is not allowed any more takes nothing back either.
        TestServer.sql("update register_access set may_change_many = false");
        assertThat(dora.post("/api/changes/" + id + "/undo", Map.of("reason", "x"))
                        .status())
                .isEqualTo(403);
        TestServer.sql("delete from register_access");
        assertThat(ended(ada, ok(ada.post("/api/changes/" + id + "/undo", Map.of("reason", "x"))))
                        .get("message")
                        .stringValue())
                .isEqualTo("3 records as before");
    }

    @Test
    void askedTwiceUnderAKeyItIsDoneOnce() throws SQLException, InterruptedException {
        Map<String, Object> asked = asked(NORTH, List.of(Map.of("field", "price", "act", "ADD", "value", 1)));
        Map<String, Object> wanted =
                wanted(asked, preview(ada, asked).get("mark").stringValue(), "One more.");
        JsonNode first = ok(ada.post(AT + "/changes", wanted, "many-1"));
        ended(ada, first);
        assertThat(ok(ada.post(AT + "/changes", wanted, "many-1"))).isEqualTo(first);
        assertThat(query("select sum(price) from records.pallets")).isEqualTo("556.00");
    }
}
