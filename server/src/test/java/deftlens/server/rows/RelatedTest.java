package deftlens.server.rows;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.Band;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.CatalogueCalls;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/** Questions across registers: what they find, for whom, when, and what shares a value with a record. */
@ExtendWith(TestServer.class)
class RelatedTest {

    private static final String TUGS = "/api/registers/tugs";
    private static final String TOLLS = "/api/registers/tolls";
    private static Caller ada;

    @BeforeAll
    static void make() throws SQLException {
        RegisterCatalogue catalogue = TestServer.bean(RegisterCatalogue.class);
        catalogue.add(new RegisterDefinition(
                "tugs",
                "Tugs",
                "tug",
                "since",
                "name",
                true,
                List.of(
                        field("name", FieldType.TEXT, List.of()).identifying(),
                        field("site", FieldType.CHOICE, List.of("North", "South"))
                                .correctable(),
                        field("since", FieldType.DATE, List.of()).correctable(),
                        field("secret", FieldType.TEXT, List.of()),
                        field("length", FieldType.NUMBER, List.of())
                                .withBands(List.of(Band.of("Small", Band.Numbers.from(0, 10)))))));
        catalogue.add(new RegisterDefinition(
                "tolls",
                "Tolls",
                "toll",
                "due",
                "number",
                true,
                List.of(
                        field("number", FieldType.TEXT, List.of()).identifying(),
                        field("boat", FieldType.TEXT, List.of()).alsoIn("tugs", "name"),
                        field("batch", FieldType.NUMBER, List.of()).alsoIn("tolls", "batch"),
                        field("due", FieldType.DATE, List.of()),
                        field("amount", FieldType.MONEY, List.of()))));
        TestServer.sql("update register set past_since = '2026-11-10' where key in ('tugs', 'tolls')");
        ada = Caller.signedIn("ada");
    }

    private static FieldDefinition field(String key, FieldType type, List<String> options) {
        return new FieldDefinition(
                key, key.substring(0, 1).toUpperCase() + key.substring(1), type, false, true, options);
    }

    @AfterAll
    static void leave() throws SQLException {
        TestServer.sql("delete from register_access");
        ada.delete(TOLLS);
        ada.delete(TUGS);
    }

    @BeforeEach
    void fill() throws SQLException {
        TestServer.sql("delete from register_access");
        TestServer.sql("truncate records.tugs restart identity; truncate records.tolls restart identity;"
                + " truncate past.tugs; truncate past.tolls; delete from change_set where register_id in"
                + " (select id from register where key in ('tugs', 'tolls'))");
        TestServer.sql(
                "insert into records.tugs (name, site, since, secret) values ('Ark', 'North', '2026-11-01', 'x'),"
                        + " ('Bee', 'South', '2026-11-02', 'y'), ('Cat', 'North', '2026-11-23', 'z'), (null, 'North', null, '')");
        TestServer.sql("insert into records.tolls (number, boat, batch, due, amount) values"
                + " ('B1', 'Ark', 1, '2026-11-20', 10), ('B2', 'ARK', 1, '2026-11-21', 20),"
                + " ('B3', 'Bee', 2, '2026-11-20', 30), ('B4', 'Dog', 2, '2026-11-20', 40), ('B5', null, 3, null, 50)");
        TestServer.sql("update change_set set at = '2026-11-12'");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 299);
        return answer.json();
    }

    private static Map<String, Object> asking(String statement) {
        return new HashMap<>(Map.of("statement", statement, "limit", 100, "order", List.of("number")));
    }

    private static String found(Caller who, Map<String, Object> asked) {
        List<String> numbers = new ArrayList<>();
        ok(who.post(TOLLS + "/rows", asked))
                .get("rows")
                .forEach(r -> numbers.add(r.at("/values/number").stringValue()));
        return String.join(" ", numbers);
    }

    private static String found(Caller who, String statement) {
        return found(who, asking(statement));
    }

    @Test
    void valuesAreLookedForInOtherRecords() {
        assertThat(found(ada, "boat in (tugs where site is \"North\")")).isEqualTo("B1 B2");
        assertThat(found(ada, "boat not in (tugs where site is \"North\")")).isEqualTo("B3 B4 B5");
        assertThat(found(ada, "boat in (tugs)")).isEqualTo("B1 B2 B3");
        assertThat(found(ada, "not boat in (Tugs) and amount > 40")).isEqualTo("B5");
        assertThat(found(ada, "boat in (tugs where since before last 7 days) or amount = 50"))
                .isEqualTo("B1 B2 B3 B5");
        // Everything that is in the same batches as those.
        assertThat(found(ada, "batch in (tolls where amount > 35)")).isEqualTo("B3 B4 B5");
        assertThat(found(ada, "batch in (tolls where boat in (tugs where site is \"South\"))"))
                .isEqualTo("B3 B4");
        JsonNode count = ok(ada.post(
                TUGS + "/count", Map.of("statement", "name in (tolls where amount >= 20 and due on 2026-11-20)")));
        assertThat(count.get("matching").longValue()).isEqualTo(1);
    }

    /** Of everything in the same batches as some, these are told apart from the others. */
    @Test
    void thoseThatTheOthersShareAValueWithAreMarked() {
        JsonNode rows = ok(ada.post(TOLLS + "/rows", asking("batch in (tolls where amount > 35) and amount < 45")))
                .get("rows");
        assertThat(rows).hasSize(2);
        assertThat(rows.get(0).get("matches").booleanValue()).isFalse();
        assertThat(rows.get(1).get("matches").booleanValue()).isTrue();
        for (String untold : List.of(
                "batch not in (tolls where amount > 45)",
                "batch in (tolls)",
                "batch in (tolls where amount > 35) or amount = 10",
                "boat in (tugs where site is \"North\")")) {
            rows = ok(ada.post(TOLLS + "/rows", asking(untold))).get("rows");
            assertThat(rows).isNotEmpty();
            assertThat(rows.get(0).get("matches").isNull()).as(untold).isTrue();
        }
    }

    @Test
    void theTreeGoesThereAndBack() {
        JsonNode read = ok(ada.post(
                TOLLS + "/statement",
                Map.of("statement", "[Boat] not in ([Tugs] where since before today and site is my site)")));
        assertThat(read.get("statement").stringValue())
                .isEqualTo("boat not in (tugs where since before today and site is my site)");
        assertThat(read.at("/condition/register").stringValue()).isEqualTo("tugs");
        assertThat(read.at("/condition/where/all/1/value/viewer").stringValue()).isEqualTo("site");
        assertThat(read.at("/outline/object").stringValue())
                .isEqualTo("tugs whose (since is before today and site is my site)");
        JsonNode again = ok(ada.post(TOLLS + "/statement", Map.of("condition", read.get("condition"))));
        assertThat(again.get("statement")).isEqualTo(read.get("statement"));
        Caller.Answer refused =
                ada.post(TOLLS + "/statement", Map.of("statement", "boat in (tugs where sit is \"x\")"));
        assertThat(refused.status()).isEqualTo(422);
        assertThat(refused.text()).contains("“sit” is no field of Tugs", "site");
        assertThat(ada.post(TOLLS + "/count", Map.of("statement", "amount in (tolls)"))
                        .text())
                .contains("No other records are known to hold values of Amount");
    }

    /** Whoever sees some tugs finds the tolls of those, and whoever sees none, or not a field, learns nothing of them. */
    @Test
    void nothingIsSeenThroughItThatIsNotSeenDirectly() throws SQLException {
        Caller dora = Caller.signedIn("dora");
        assertThat(found(dora, "boat in (tugs where secret is \"y\")")).isEqualTo("B3");
        TestServer.sql("insert into register_access (register_id, team_id, statement, hidden)"
                + " select r.id, t.id, 'site is \"North\"', '[\"secret\"]' from register r, team t"
                + " where r.key = 'tugs' and t.name = 'Day shift'");
        assertThat(found(dora, "boat in (tugs)")).isEqualTo("B1 B2");
        assertThat(found(dora, "boat not in (tugs)")).isEqualTo("B3 B4 B5");
        Caller.Answer hidden = dora.post(TOLLS + "/count", Map.of("statement", "boat in (tugs where secret is \"y\")"));
        assertThat(hidden.status()).isEqualTo(422);
        JsonNode tree = ok(ada.post(TOLLS + "/statement", Map.of("statement", "boat in (tugs where secret is \"y\")")))
                .get("condition");
        Caller.Answer asTree = dora.post(TOLLS + "/count", Map.of("condition", tree));
        assertThat(asTree.status()).as(asTree.text()).isEqualTo(422);
        assertThat(asTree.text()).contains("Tugs has no field “secret”");
        // Nina's team may not read tugs at all, now that some may.
        TestServer.sql("insert into register_access (register_id, team_id, statement, hidden, may_read)"
                + " select r.id, null, '', '[]', false from register r where r.key = 'tugs'");
        Caller nina = Caller.signedIn("nina");
        Caller.Answer none = nina.post(TOLLS + "/count", Map.of("statement", "boat in (tugs)"));
        assertThat(none.status()).as(none.text()).isEqualTo(422);
        assertThat(none.text()).doesNotContain("North");
        assertThat(ok(nina.get(TOLLS + "/records/1/related")).toString()).doesNotContain("tugs");
        TestServer.sql("delete from register_access");
        // A limit that opens nothing, though tolls are open.
        TestServer.sql(
                "insert into register_access (register_id, team_id, statement, hidden)"
                        + " select r.id, t.id, 'site is \"Nowhere\"', '[]' from register r, team t where r.key = 'tugs' and t.name = 'Day shift'");
        assertThat(found(dora, "boat in (tugs)")).isEmpty();
    }

    @Test
    void whySaysItOfOneThatHasTheValue() {
        Map<String, Object> asked = asking("boat in (tugs where site is \"North\" and since before today)");
        asked.remove("limit");
        asked.remove("order");
        asked.put("record", "B3");
        JsonNode why = ok(ada.post(TOLLS + "/why", asked));
        assertThat(why.get("matches").booleanValue()).isFalse();
        JsonNode there = why.at("/outcome/parts/0");
        assertThat(there.at("/other/label").stringValue()).isEqualTo("Tugs");
        assertThat(there.at("/other/title").stringValue()).isEqualTo("Bee");
        assertThat(there.at("/parts/0/value").stringValue()).isEqualTo("South");
        assertThat(there.at("/parts/0/verdict").stringValue()).isEqualTo("OUT");
        assertThat(there.at("/parts/1/verdict").stringValue()).isEqualTo("IN");
        asked.put("record", "B1");
        why = ok(ada.post(TOLLS + "/why", asked));
        assertThat(why.get("matches").booleanValue()).isTrue();
        assertThat(why.at("/outcome/parts/0/other/title").stringValue()).isEqualTo("Ark");
        for (String nowhere : List.of("B4", "B5")) {
            asked.put("record", nowhere);
            why = ok(ada.post(TOLLS + "/why", asked));
            assertThat(why.at("/outcome/verdict").stringValue()).isEqualTo("OUT");
            assertThat(why.at("/outcome/parts")).isEmpty();
            assertThat(why.at("/outcome/other/label").stringValue()).isEqualTo("Tugs");
        }
    }

    /** The others are read as they stood, too. */
    @Test
    void recordsAsTheyStoodAreHeldAgainstOthersAsTheyStood() throws SQLException {
        TestServer.sql("update records.tugs set site = 'South' where name = 'Ark'");
        TestServer.sql("update change_set set at = '2026-11-20' where id = (select max(id) from change_set)");
        assertThat(found(ada, "boat in (tugs where site is \"North\")")).isEmpty();
        Map<String, Object> then = asking("boat in (tugs where site is \"North\")");
        then.put("recordsAt", "2026-11-15");
        assertThat(found(ada, then)).isEqualTo("B1 B2");
        JsonNode since = ok(ada.post(
                TOLLS + "/changed-since",
                Map.of("statement", "boat in (tugs where site is \"North\")", "since", "2026-11-18")));
        assertThat(since.get("left").longValue()).isEqualTo(2);
    }

    @Test
    void aViewOfItIsKeptSharedAndSaysWhatIsAmissToWhoMayNot() throws SQLException {
        JsonNode view = ok(ada.post(
                "/api/views",
                Map.of(
                        "register",
                        "tolls",
                        "name",
                        "Tolls of northern tugs",
                        "purpose",
                        "",
                        "statement",
                        "boat in (tugs where site is \"North\" and since before {day = today})",
                        "columns",
                        List.of("number", "amount"),
                        "order",
                        List.of("number"))));
        assertThat(view.get("statement").stringValue())
                .isEqualTo("boat in (tugs where site is \"North\" and since before {day = today})");
        JsonNode words = ok(ada.get("/api/views/words?views=" + view.get("id").stringValue()));
        assertThat(words.toString()).contains("boat is that of tugs whose (site is North and since is before");
        JsonNode read = ok(ada.post(TOLLS + "/statement", Map.of("condition", view.get("condition"))));
        assertThat(read.at("/asks/0/register").stringValue()).isEqualTo("tugs");
        assertThat(read.at("/asks/0/field").stringValue()).isEqualTo("since");
        Map<String, Object> answered = asking(view.get("statement").stringValue());
        answered.put("answers", Map.of("day", "2026-11-01"));
        assertThat(found(ada, answered)).isEmpty();
        assertThat(found(ada, view.get("statement").stringValue())).isEqualTo("B1 B2");
    }

    /** A band that has another name has it in what other registers ask, too. */
    @Test
    void newNamesOfBandsAreCarriedToWhoAsksAboutThem() throws SQLException {
        TestServer.sql("update records.tugs set length = id * 6");
        String asked = "boat in (tugs where length is in band \"Small\")";
        assertThat(found(ada, asked)).isEqualTo("B1 B2");
        JsonNode view = ok(
                ada.post("/api/views", Map.of("register", "tolls", "name", "Tolls of small tugs", "statement", asked)));
        String at = "/api/views/" + view.get("id").stringValue();
        ok(ada.put(at + "/own", Map.of("statement", "not " + asked)));
        ObjectNode register = (ObjectNode) ok(ada.get(TUGS));
        register.get("fields").forEach(field -> {
            for (JsonNode band : field.get("bands")) {
                ((ObjectNode) band).put("was", "Small").put("name", "Tiny");
            }
        });
        ok(ada.put(TUGS, CatalogueCalls.written(register)));
        String now = asked.replace("Small", "Tiny");
        assertThat(ok(ada.get(at)).get("statement").stringValue()).isEqualTo(now);
        assertThat(ok(ada.get(at + "/own")).toString())
                .contains("not boat in (tugs where length is in band \\\"Tiny\\\")");
        assertThat(found(ada, now)).isEqualTo("B1 B2");
    }

    @Test
    void whatSharesAValueIsToldWithHowMany() {
        JsonNode related = ok(ada.get(TOLLS + "/records/1/related"));
        assertThat(related.toString())
                .contains("\"register\":\"tugs\",\"label\":\"Tugs\",\"statement\":\"name is \\\"Ark\\\"\"")
                .contains("\"statement\":\"batch = 1\"");
        assertThat(related.get(0).get("records").longValue()).isEqualTo(1);
        assertThat(related.get(1).get("records").longValue()).isEqualTo(2);
        // The other way round, though only tolls say so.
        related = ok(ada.get(TUGS + "/records/1/related"));
        assertThat(related.get(0).get("register").stringValue()).isEqualTo("tolls");
        assertThat(related.get(0).get("records").longValue()).isEqualTo(2);
        assertThat(ok(ada.get(TOLLS + "/records/5/related"))).hasSize(1);
        assertThat(ok(ada.get(TUGS + "/places")).toString())
                .isEqualTo(
                        "[{\"field\":\"name\",\"register\":\"tolls\",\"label\":\"Tolls\",\"records\":\"tolls\",\"there\":\"boat\"}]");
        assertThat(ada.get(TOLLS + "/records/99/related").status()).isEqualTo(404);
        JsonNode all = ok(ada.post(TOLLS + "/related", Map.of("statement", "amount >= 30")));
        assertThat(all.get(0).get("statement").stringValue()).isEqualTo("name in (tolls where amount >= 30)");
        assertThat(all.get(0).get("records").longValue()).isEqualTo(1);
        assertThat(all.get(1).get("statement").stringValue()).isEqualTo("batch in (tolls where amount >= 30)");
        assertThat(all.get(1).get("records").longValue()).isEqualTo(3);
    }

    @Test
    void limitsDoNotAskAboutOthers() {
        Caller.Answer refused = ada.put(
                TOLLS + "/access", List.of(Map.of("team", "1", "statement", "boat in (tugs)", "hidden", List.of())));
        assertThat(refused.status()).isBetween(400, 499);
    }
}
