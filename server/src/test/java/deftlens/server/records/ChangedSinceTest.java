package deftlens.server.records;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.TreeSet;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** What entered a question, left it and changed in it since a moment, by whom and why; and how many there were. */
@ExtendWith(TestServer.class)
class ChangedSinceTest {

    private static final String AT = "/api/registers/ropes";
    private static Caller ada;

    @BeforeAll
    static void make() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "ropes",
                        "Ropes",
                        "rope",
                        "due",
                        "number",
                        true,
                        List.of(
                                field("number", FieldType.TEXT, List.of()).identifying(),
                                field("site", FieldType.CHOICE, List.of("North", "South"))
                                        .correctable(),
                                field("due", FieldType.DATE, List.of()),
                                field("price", FieldType.MONEY, List.of()))));
        TestServer.sql("update register set past_since = '2026-11-10' where key = 'ropes'");
        ada = Caller.signedIn("ada");
    }

    private static FieldDefinition field(String key, FieldType type, List<String> options) {
        return new FieldDefinition(
                key, key.substring(0, 1).toUpperCase() + key.substring(1), type, false, true, options);
    }

    @AfterAll
    static void leave() {
        ada.delete(AT);
    }

    @BeforeEach
    void empty() throws SQLException {
        TestServer.sql("delete from register_access");
        TestServer.sql("truncate records.ropes restart identity; truncate past.ropes;"
                + " delete from change_set where register_id = (select id from register where key = 'ropes')");
    }

    /** Writes in the database, as if at a moment. */
    private static void at(String moment, String sql) throws SQLException {
        TestServer.sql(sql);
        TestServer.sql("update change_set set at = '" + moment + "' where id = (select max(id) from change_set)");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 299);
        return answer.json();
    }

    private static JsonNode since(Caller who, String statement, String since) {
        return ok(who.post(AT + "/changed-since", Map.of("statement", statement, "since", since)));
    }

    private static String told(JsonNode since) {
        List<String> told = new ArrayList<>();
        since.get("records")
                .forEach(r -> told.add(r.get("title").stringValue() + " "
                        + r.get("became").stringValue() + " "
                        + r.get("changes").size()));
        return since.get("entered") + " " + since.get("left") + " " + since.get("changed") + " " + told;
    }

    @Test
    void whatEnteredLeftAndChangedIsToldWithWhoAndWhy() throws SQLException {
        at(
                "2026-11-12 10:00+00",
                "insert into records.ropes (number, site, due, price) values"
                        + " ('R1', 'North', '2026-11-15', 1), ('R2', 'North', '2026-11-15', 2),"
                        + " ('R3', 'South', '2026-11-15', 3), ('R4', 'North', '2026-11-15', 4),"
                        + " ('R5', 'North', '2026-11-21', 5), ('R6', 'South', '2026-11-15', 6)");
        at("2026-11-20 10:00+00", "delete from records.ropes where number = 'R1'");
        at("2026-11-20 11:00+00", "update records.ropes set price = 20 where number = 'R2'");
        at("2026-11-20 12:00+00", "update records.ropes set price = 60 where number = 'R6'");
        long third = Long.parseLong(TestServer.query("select id from records.ropes where number = 'R3'"));
        assertThat(ada.patch(
                                AT + "/records/" + third,
                                Map.of("values", Map.of("site", "North"), "reason", "It hangs there."))
                        .status())
                .isEqualTo(200);
        // R5 is overdue by now, and nobody touched it.
        JsonNode since = since(ada, "site is \"North\" and due before today", "2026-11-18");
        assertThat(told(since)).isEqualTo("2 1 1 [R2 CHANGED 1, R3 ENTERED 1, R5 ENTERED 0, R1 LEFT 1]");
        JsonNode entered = since.at("/records/1/changes/0");
        assertThat(entered.get("who").stringValue()).isEqualTo("Ada Admin");
        assertThat(entered.get("reason").stringValue()).isEqualTo("It hangs there.");
        assertThat(entered.get("before").toString()).isEqualTo("{\"site\":\"South\"}");
        assertThat(since.at("/records/3/changes/0/action").stringValue()).isEqualTo("removed in the database itself");
        // Since this morning only the correction was made.
        assertThat(told(since(ada, "site is \"North\"", "2026-11-23"))).isEqualTo("1 0 0 [R3 ENTERED 1]");
        assertThat(told(since(ada, "number is \"none\"", "2026-11-12T12:00"))).isEqualTo("0 0 0 []");
    }

    @Test
    void whatIsNotKnownOrStillToComeIsRefused() throws SQLException {
        Caller.Answer early = ada.post(AT + "/changed-since", Map.of("since", "2026-11-01"));
        assertThat(early.status()).isEqualTo(422);
        assertThat(early.json().get("code").stringValue()).isEqualTo("no-past");
        assertThat(ada.post(AT + "/changed-since", Map.of("since", "2026-11-24"))
                        .status())
                .isEqualTo(422);
        assertThat(ada.post(AT + "/changed-since", Map.of("since", "Monday")).status())
                .isEqualTo(400);
        assertThat(ada.post(AT + "/numbers-at", Map.of("moments", List.of())).status())
                .isEqualTo(400);
    }

    /** What a reader does not see any more is told without its values, and what they never saw not at all. */
    @Test
    void nothingIsSeenThroughItThatIsNotSeenOtherwise() throws SQLException {
        at(
                "2026-11-12 10:00+00",
                "insert into records.ropes (number, site, price) values ('R1', 'North', 1), ('R2', 'South', 2)");
        TestServer.sql("insert into register_access (register_id, team_id, statement, hidden)"
                + " select r.id, t.id, 'site is \"North\"', '[\"price\"]' from register r, team t"
                + " where r.key = 'ropes' and t.name = 'Day shift'");
        at("2026-11-20 10:00+00", "update records.ropes set site = 'South', price = 99 where number = 'R1'");
        at("2026-11-20 11:00+00", "update records.ropes set price = 77 where number = 'R2'");
        Caller dora = Caller.signedIn("dora");
        JsonNode since = since(dora, "", "2026-11-18");
        assertThat(told(since)).isEqualTo("0 1 0 [R1 LEFT 1]");
        assertThat(since.toString())
                .doesNotContain("South")
                .doesNotContain("99")
                .doesNotContain("77");
        assertThat(dora.post(AT + "/changed-since", Map.of("statement", "price > 5", "since", "2026-11-18"))
                        .status())
                .isEqualTo(422);
        at("2026-11-21 10:00+00", "update records.ropes set site = 'North', price = 50 where number = 'R2'");
        since = since(dora, "", "2026-11-18");
        assertThat(told(since)).isEqualTo("1 1 0 [R2 ENTERED 2, R1 LEFT 1]");
        assertThat(since.toString()).doesNotContain("price");
        assertThat(told(since(ada, "", "2026-11-18"))).isEqualTo("0 0 2 [R2 CHANGED 2, R1 CHANGED 1]");
    }

    /** Against what the question was seen to have at each moment, over random changes. */
    @Test
    void itAgreesWithWhatWasSeenAtTheTime() throws SQLException {
        Random random = new Random(20_261_123);
        String statement = "site is \"North\" and price > 3 and due from 10 days ago to today";
        List<String> moments = new ArrayList<>();
        List<Map<String, String>> seen = new ArrayList<>();
        for (int day = 12; day < 23; day++) {
            String moment = "2026-11-" + day + "T12:00:00Z";
            at(
                    "2026-11-" + day + " 08:00+00",
                    "insert into records.ropes (number, site, due, price) select 'K" + day
                            + "-' || i, case when i % 2 = 0 then 'North' else 'South' end, date '2026-11-" + day
                            + "' - i, i from generate_series(1, " + (2 + random.nextInt(9)) + ") i");
            at(
                    "2026-11-" + day + " 09:00+00",
                    "update records.ropes set price = price + 1, site = case when id % 3 = 0 then 'North' else site end"
                            + " where id % 5 = " + random.nextInt(5));
            at("2026-11-" + day + " 10:00+00", "delete from records.ropes where id % 7 = " + random.nextInt(7));
            Map<String, String> now = new TreeMap<>();
            Map<String, Object> asked = new HashMap<>(Map.of("statement", statement, "limit", 1000));
            asked.put("asOf", moment);
            ok(ada.post(AT + "/rows", asked))
                    .get("rows")
                    .forEach(r ->
                            now.put(r.get("id").stringValue(), r.get("values").toString()));
            moments.add(moment);
            seen.add(now);
        }
        JsonNode numbers = ok(ada.post(AT + "/numbers-at", Map.of("statement", statement, "moments", moments)));
        int moved = 0;
        Map<String, String> now = new TreeMap<>();
        ok(ada.post(AT + "/rows", Map.of("statement", statement, "limit", 1000)))
                .get("rows")
                .forEach(r -> now.put(r.get("id").stringValue(), r.get("values").toString()));
        for (int i = 0; i < moments.size(); i++) {
            assertThat(numbers.get(i).get("records").intValue())
                    .as(moments.get(i))
                    .isEqualTo(seen.get(i).size());
            Map<String, List<String>> became = new HashMap<>();
            since(ada, statement, moments.get(i))
                    .get("records")
                    .forEach(r -> became.computeIfAbsent(r.get("became").stringValue(), k -> new ArrayList<>())
                            .add(r.get("id").stringValue()));
            TreeSet<String> entered = new TreeSet<>(now.keySet());
            entered.removeAll(seen.get(i).keySet());
            TreeSet<String> left = new TreeSet<>(seen.get(i).keySet());
            left.removeAll(now.keySet());
            TreeSet<String> changed = new TreeSet<>(now.keySet());
            changed.retainAll(seen.get(i).keySet());
            Map<String, String> then = seen.get(i);
            changed.removeIf(id -> now.get(id).equals(then.get(id)));
            assertThat(became.getOrDefault("ENTERED", List.of())).containsExactlyInAnyOrderElementsOf(entered);
            assertThat(became.getOrDefault("LEFT", List.of())).containsExactlyInAnyOrderElementsOf(left);
            assertThat(became.getOrDefault("CHANGED", List.of())).containsExactlyInAnyOrderElementsOf(changed);
            assertThat(since(ada, statement, moments.get(i)).get("now").intValue())
                    .isEqualTo(now.size());
            moved += entered.size() + left.size() + changed.size();
        }
        assertThat(moved).isGreaterThan(50);
    }
}
