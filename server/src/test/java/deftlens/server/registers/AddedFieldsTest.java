package deftlens.server.registers;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Calculated fields that questions and views add to a register for themselves; held against SQL of our own. */
@ExtendWith(TestServer.class)
class AddedFieldsTest {

    private static final String AT = "/api/registers/hampers";
    private static final String MARGIN = "price - cost";
    private static Caller ada;
    private static Caller dora;
    private static Caller dan;

    private static FieldDefinition field(String key, String label, FieldType type) {
        return new FieldDefinition(key, label, type, false, true, List.of());
    }

    @BeforeAll
    static void make() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "hampers",
                        "Hampers",
                        "hamper",
                        "came",
                        "number",
                        true,
                        List.of(
                                new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()),
                                field("came", "Came", FieldType.DATE),
                                field("pieces", "Pieces", FieldType.NUMBER),
                                field("price", "Price", FieldType.MONEY),
                                field("cost", "Cost", FieldType.MONEY),
                                new FieldDefinition(
                                        "yard",
                                        "Yard",
                                        FieldType.CHOICE,
                                        false,
                                        true,
                                        List.of("North", "South", "East")))));
        TestServer.sql("""
                insert into records.hampers (number, came, pieces, price, cost, yard)
                select 'C-' || i, date '2026-10-01' + i, case when i % 7 <> 0 then i % 5 end,
                       case when i % 11 <> 0 then round(i * 1.37, 2) end, round(60 - i * 0.4, 2),
                       case when i % 4 = 0 then null when i % 3 = 0 then 'North' when i % 3 = 1 then 'South' else 'East' end
                from generate_series(1, 80) i""");
        ada = Caller.signedIn("ada");
        dora = Caller.signedIn("dora");
        dan = Caller.signedIn("dan");
    }

    @AfterAll
    static void leave() throws SQLException {
        TestServer.sql(
                "delete from kept_view where register_key = 'hampers'; delete from register where key = 'hampers'; drop table if exists records.hampers");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 204);
        return answer.json();
    }

    private static void assertRefused(Caller.Answer answer, String code, String words) {
        assertThat(answer.status()).as(answer.text()).isBetween(400, 422);
        assertThat(answer.json().get("code").stringValue()).as(answer.text()).isEqualTo(code);
        assertThat(answer.text()).contains(words);
    }

    private static Map<String, Object> field(String label, String calculation) {
        return Map.of("label", label, "calculation", calculation);
    }

    @SafeVarargs
    private static Caller.Answer adding(Caller who, Map<String, Object>... fields) {
        return who.post(AT + "/added-fields", Map.of("fields", List.of(fields)));
    }

    /** The key of the register with fields. */
    @SafeVarargs
    private static String with(Caller who, Map<String, Object>... fields) {
        return ok(adding(who, fields)).get("key").stringValue();
    }

    private static long count(Caller who, String key, String statement) {
        return ok(who.post("/api/registers/" + key + "/count", Map.of("statement", statement, "exact", true)))
                .get("matching")
                .asLong();
    }

    private static long sql(String condition) throws SQLException {
        return Long.parseLong(TestServer.query("select count(*) from records.hampers where " + condition));
    }

    private static List<String> texts(JsonNode list) {
        List<String> texts = new ArrayList<>();
        list.forEach(t -> texts.add(t.stringValue()));
        return texts;
    }

    private static JsonNode keep(Caller who, String key, String name, String statement, List<String> columns) {
        return ok(who.post(
                "/api/views", Map.of("register", key, "name", name, "statement", statement, "columns", columns)));
    }

    private static long count(Caller who, JsonNode view) {
        return ok(who.get("/api/views/" + view.get("id").stringValue() + "/count?exact=true"))
                .get("matching")
                .asLong();
    }

    @Test
    void aQuestionHasFieldsOfItsOwn() throws SQLException {
        JsonNode described = ok(adding(dora, field("Twice", "_margin * 2"), field("Margin", MARGIN)));
        String key = described.get("key").stringValue();
        assertThat(key).startsWith("hampers~");
        assertThat(described.get("register").stringValue()).isEqualTo("hampers");
        assertThat(texts(described.get("added"))).containsExactly("_twice", "_margin");
        assertThat(ok(dan.get("/api/registers/" + key))).isEqualTo(described);
        assertThat(count(dan, key, "_margin > 5")).isEqualTo(sql("price - cost > 5"));
        assertThat(count(dan, key, "Margin is empty or Twice < -100"))
                .isEqualTo(sql("price - cost is null or (price - cost) * 2 < -100"));
        JsonNode rows = ok(dan.post(
                        "/api/registers/" + key + "/rows",
                        Map.of(
                                "statement",
                                "_margin is not empty",
                                "order",
                                List.of("-_twice"),
                                "columns",
                                List.of("number", "_twice"),
                                "limit",
                                3)))
                .get("rows");
        assertThat(rows.at("/0/values/number").stringValue())
                .isEqualTo(TestServer.query(
                        "select number from records.hampers order by price - cost desc nulls last, id limit 1"));
        assertThat(rows.at("/0/values/_twice").decimalValue())
                .isEqualByComparingTo(TestServer.query("select 2 * max(price - cost) from records.hampers"));
        JsonNode totals = ok(dan.post(
                "/api/registers/" + key + "/totals",
                Map.of(
                        "rows",
                        List.of(Map.of("field", "yard")),
                        "measures",
                        List.of(Map.of("name", "margin", "function", "sum", "field", "_margin")))));
        assertThat(totals.at("/total/values/margin").decimalValue())
                .isEqualByComparingTo(TestServer.query("select sum(price - cost) from records.hampers"));
        assertThat(ok(dan.post("/api/registers/" + key + "/complete", Map.of("text", "_ma", "position", 3)))
                        .get("proposals")
                        .get(0)
                        .get("insert")
                        .stringValue())
                .isEqualTo("_margin");
        assertThat(dan.get("/api/registers/" + key + "/export.csv?columns=number,_margin&order=number")
                        .text())
                .startsWith("Number,Margin\r\n");
        // One record, and why it is in.
        String id = TestServer.query("select id from records.hampers where number = 'C-80'");
        assertThat(ok(dan.get("/api/registers/" + key + "/records/" + id))
                        .at("/values/_margin")
                        .decimalValue())
                .isEqualByComparingTo(TestServer.query("select price - cost from records.hampers where id = " + id));
        // The same fields have the same key; the register is as it was.
        assertThat(with(ada, field("Twice", "_margin  *  2"), field("Margin", MARGIN)))
                .isEqualTo(key);
        assertThat(with(dora)).isEqualTo("hampers");
        assertThat(dora.post(AT + "/count", Map.of("statement", "_margin > 5")).status())
                .isEqualTo(422);
        assertThat(ok(dora.get(AT)).get("added")).isEmpty();
        // Under another label it is the same field: what names it goes on.
        JsonNode renamed = ok(dora.post(
                "/api/registers/" + key + "/added-fields",
                Map.of("fields", List.of(Map.of("key", "_margin", "label", "What is left", "calculation", MARGIN)))));
        assertThat(count(dora, renamed.get("key").stringValue(), "_margin > 5 and [What is left] > 5"))
                .isEqualTo(sql("price - cost > 5"));
        assertThat(ok(dora.get("/api/registers/jobs")).get("key").stringValue()).isEqualTo("jobs");
    }

    @Test
    void whatCannotBeIsRefusedInWords() {
        assertRefused(adding(dora, field("Price", MARGIN)), "label-taken", "There is a field “Price” already");
        assertRefused(adding(dora, field("One", MARGIN), field("one", MARGIN)), "label-taken", "“one”");
        assertRefused(adding(dora, field(" ", MARGIN)), "bad-label", "1 to 80 characters");
        assertRefused(
                adding(dora, Map.of("key", "_one", "label", "A", "calculation", MARGIN), field("_one", MARGIN)),
                "label-taken",
                "“_one”");
        ok(adding(dora, field("_one", MARGIN), field("One", MARGIN)));
        assertRefused(adding(dora, field("Odd", "price +")), "bad-calculation", "“Odd”: The text ends too early");
        assertRefused(adding(dora, field("A", "_b + 1"), field("B", "_a + 1")), "bad-calculation", "“_b” is no field");
        assertRefused(
                adding(dora, Map.of("key", "price", "label", "Odd", "calculation", MARGIN)),
                "bad-key",
                "begins with an underscore");
        assertRefused(dora.post(AT + "/added-fields", Map.of()), "bad-value", "fields");
        Map<String, Object> without = new HashMap<>();
        without.put("label", "Odd");
        assertRefused(adding(dora, without), "bad-value", "calculation");
        assertThat(dora.get("/api/registers/hampers~0123").status()).isEqualTo(404);
        assertThat(dora.get("/api/registers/hampers~0123").text()).contains("What this address calculates");
        assertThat(dora.get("/api/registers/nothing~0123").text()).contains("The register “nothing”");
        // The register itself is not changed by way of such a key.
        String key = with(ada, field("Margin", MARGIN));
        assertThat(ada.post(
                                "/api/registers/" + key + "/fields",
                                Map.of("type", "calculated", "label", "X", "calculation", "pieces"))
                        .status())
                .isEqualTo(404);
        assertThat(ada.delete("/api/registers/" + key).status()).isEqualTo(404);
        assertThat(ada.put("/api/registers/" + key + "/access", List.of()).status())
                .isEqualTo(404);
    }

    @Test
    void whatIsHiddenStaysHidden() throws SQLException {
        String key = with(ada, field("Margin", MARGIN), field("Twice", "_margin * 2"), field("Many", "pieces * 2"));
        JsonNode view = keep(ada, key, "Margins", "_margin > 5 or _many > 2", List.of("number", "_margin", "_many"));
        String id = view.get("id").stringValue();
        ok(ada.put("/api/views/" + id + "/shares", Map.of("version", 0, "shares", List.of(Map.of("may", "LOOK")))));
        assertThat(count(dora, view)).isEqualTo(sql("price - cost > 5 or pieces * 2 > 2"));
        ok(ada.put(
                AT + "/access",
                List.of(Map.of("mayRead", true, "statement", "pieces > 1", "hidden", List.of("price")))));
        try {
            JsonNode described = ok(dora.get("/api/registers/" + key));
            assertThat(texts(described.get("added"))).containsExactly("_many");
            assertThat(described.toString()).doesNotContain(MARGIN).doesNotContain("Margin");
            assertThat(count(dora, key, "_many > 2")).isEqualTo(sql("pieces > 1 and pieces * 2 > 2"));
            assertThat(count(dora, key, "")).isEqualTo(sql("pieces > 1"));
            assertThat(dora.post("/api/registers/" + key + "/count", Map.of("statement", "_margin > 5"))
                            .status())
                    .isEqualTo(422);
            assertThat(dora.post("/api/registers/" + key + "/rows", Map.of("order", List.of("_twice")))
                            .status())
                    .isBetween(400, 422);
            assertRefused(adding(dora, field("Margin", MARGIN)), "bad-calculation", "“price” is no field");
            // The view asks for what the reader must not see: refused as one with any hidden field is, and it shows
            // none of it.
            assertThat(dora.get("/api/views/" + id + "/count").status()).isEqualTo(422);
            assertThat(texts(ok(dora.get("/api/views/" + id)).get("columns"))).containsExactly("number", "_many");
        } finally {
            ok(ada.put(AT + "/access", List.of()));
        }
        assertThat(count(dora, view)).isEqualTo(sql("price - cost > 5 or pieces * 2 > 2"));
    }

    @Test
    void aViewKeepsItsFieldsAndTheirHistory() throws SQLException {
        String key = with(dora, field("Margin", MARGIN));
        JsonNode view = keep(dora, key, "Left over", "_margin > 5", List.of("number", "_margin"));
        String at = "/api/views/" + view.get("id").stringValue();
        assertThat(view.get("register").stringValue()).isEqualTo("hampers");
        assertThat(view.get("reads").stringValue()).isEqualTo(key);
        assertThat(texts(ok(dora.get(at + "/page")).at("/register/added"))).containsExactly("_margin");
        assertThat(count(dora, view)).isEqualTo(sql("price - cost > 5"));
        assertThat(ok(dora.post(
                                "/api/counts",
                                Map.of("views", List.of(view.get("id").stringValue()))))
                        .at("/views/" + view.get("id").stringValue() + "/matching")
                        .asLong())
                .isEqualTo(sql("price - cost > 5"));
        assertThat(ok(dora.get("/api/views/words?views=" + view.get("id").stringValue()))
                        .at("/0/lines/0")
                        .stringValue())
                .isEqualTo("margin is more than 5");
        // The other calculation is reviewed as another statement is: by the records that come and go.
        String other = with(dora, Map.of("key", "_margin", "label", "Margin", "calculation", "price - cost * 0.5"));
        JsonNode difference = ok(dora.post(at + "/difference", Map.of("statement", "_margin > 5", "register", other)));
        String was = "coalesce(price - cost > 5, false)";
        String is = "coalesce(price - cost * 0.5 > 5, false)";
        assertThat(difference.get("enter").asLong()).isEqualTo(sql(is + " and not " + was));
        assertThat(difference.get("leave").asLong()).isEqualTo(sql(was + " and not " + is));
        assertThat(difference.get("both").asLong()).isEqualTo(sql(was + " and " + is));
        assertThat(count(
                        dora,
                        difference.get("register").stringValue(),
                        difference.get("entering").stringValue()))
                .isEqualTo(difference.get("enter").asLong());
        // So it is beside a field that is called as the one before is there, and beside very many.
        List<Map<String, Object>> many = new ArrayList<>();
        many.add(Map.of("key", "_before", "label", "Margin (before)", "calculation", "price"));
        many.add(Map.of("key", "_margin", "label", "Margin", "calculation", "price - cost * 0.5"));
        for (int i = 0; i < 18; i++) {
            many.add(Map.of("label", "Of many " + i, "calculation", "pieces + " + i));
        }
        String crowded = ok(dora.post(AT + "/added-fields", Map.of("fields", many)))
                .get("key")
                .stringValue();
        assertThat(ok(dora.post(at + "/difference", Map.of("statement", "_margin > 5", "register", crowded)))
                        .get("enter")
                        .asLong())
                .isEqualTo(sql(is + " and not " + was));
        JsonNode changed = ok(dora.patch(at, Map.of("version", 0, "register", other)));
        assertThat(changed.get("reads").stringValue()).isEqualTo(other);
        assertThat(count(dora, view)).isEqualTo(sql("price - cost * 0.5 > 5"));
        // Its criteria have to have a field to ask of.
        assertRefused(dora.patch(at, Map.of("version", 1, "register", "hampers")), "condition-unfit", "_margin");
        assertRefused(dora.patch(at, Map.of("version", 1, "register", "jobs")), "other-register", "stays over");
        JsonNode history = ok(dora.get(at + "/history"));
        assertThat(history.at("/0/before/added/0/calculation").stringValue()).isEqualTo(MARGIN);
        assertThat(history.at("/0/after/added/0/calculation").stringValue()).isEqualTo("price - cost * 0.5");
        String first = history.get(1).get("id").stringValue();
        JsonNode since = ok(dora.get(at + "/history/" + first + "/difference"));
        assertThat(since.get("enter").asLong()).isEqualTo(sql(is + " and not " + was));
        // Without the fields, and what it was put back.
        ok(dora.patch(
                at,
                Map.of("version", 1, "register", "hampers", "statement", "pieces > 2", "columns", List.of("number"))));
        assertThat(count(dora, view)).isEqualTo(sql("pieces > 2"));
        assertThat(texts(ok(dora.get(at + "/history")).at("/1/afterLines"))).containsExactly("margin is more than 5");
        JsonNode back = ok(dora.post(at + "/history/" + first + "/restore", Map.of("version", 2)));
        assertThat(back.get("reads").stringValue()).isEqualTo(key);
        assertThat(count(dora, view)).isEqualTo(sql("price - cost > 5"));
        // As a file, and in again under another name.
        JsonNode file = ok(dora.get("/api/views/file?ids=" + view.get("id").stringValue()));
        assertThat(file.at("/views/0/added/0/calculation").stringValue()).isEqualTo(MARGIN);
        JsonNode read = ok(dan.post("/api/views/file", Map.of("file", file, "ifThere", "RENAME", "write", true)));
        JsonNode brought = ok(dan.get("/api/views/" + read.at("/views/0/view").stringValue()));
        assertThat(brought.get("reads").stringValue()).isEqualTo(key);
        assertThat(count(dan, brought)).isEqualTo(sql("price - cost > 5"));
        // Unsaved changes remember them.
        JsonNode own = ok(dora.put(at + "/own/unsaved", Map.of("register", other)));
        assertThat(own.at("/unsaved/changes/register").stringValue()).isEqualTo(other);
    }

    /** The register as the catalogue has it, its pieces with one band. */
    private static Map<String, Object> change(String band, String was) {
        JsonNode now = ok(ada.get(AT));
        List<Map<String, Object>> fields = new ArrayList<>();
        now.get("fields").forEach(f -> {
            Map<String, Object> field = new HashMap<>();
            List.of("key", "label").forEach(word -> field.put(word, f.get(word).stringValue()));
            List.of("description", "unit").forEach(word -> field.put(word, ""));
            List.of("useful", "identifying", "correctable").forEach(word -> field.put(word, false));
            List<String> options = new ArrayList<>();
            f.get("options").forEach(o -> options.add(o.get("value").stringValue()));
            field.put("shown", true);
            field.put("options", options);
            field.put("relates", List.of());
            Map<String, Object> many = new HashMap<>(Map.of("name", band, "extents", List.of(Map.of("low", 3))));
            many.put("was", was);
            field.put("bands", f.get("key").stringValue().equals("pieces") ? List.of(many) : List.of());
            fields.add(field);
        });
        Map<String, Object> change = new HashMap<>();
        change.put("label", "Hampers");
        change.put("recordLabel", "hamper");
        change.put("description", "");
        change.put("mainField", "came");
        change.put("titleField", "number");
        change.put("order", List.of("-came"));
        change.put("fields", fields);
        change.put("version", now.get("version").asInt());
        return change;
    }

    @Test
    void whoeverChangesTheRegisterIsTold() throws SQLException {
        ok(ada.post(AT + "/fields", Map.of("type", "number", "label", "Weight", "key", "weight")));
        ok(ada.put(AT, change("Many", null)));
        JsonNode view = keep(
                dora,
                with(
                        dora,
                        field("Heavier", "weight * 2"),
                        field("Lot", "when(pieces in band \"Many\", \"a lot\", \"a few\")")),
                "Lots",
                "_lot is \"a lot\"",
                List.of("number", "_lot"));
        String at = "/api/views/" + view.get("id").stringValue();
        assertThat(count(dora, view)).isEqualTo(sql("pieces >= 3"));
        // A field that the view calculates from goes: that it does is told before.
        assertThat(ok(ada.get(AT + "/fields/weight/use"))
                        .at("/views/0/criteria/0")
                        .stringValue())
                .isEqualTo("calculates “Heavier”");
        assertThat(ok(ada.get(AT + "/fields/weight/type/views?type=text"))
                        .at("/0/criteria/0")
                        .stringValue())
                .isEqualTo("calculates “Heavier”");
        assertThat(ok(ada.get(AT + "/fields/cost/use")).get("views").toString()).doesNotContain("Lots");
        ok(ada.delete(
                AT + "/fields/weight?version=" + ok(ada.get(AT)).get("version").asInt()));
        JsonNode page = ok(dora.get(at + "/page"));
        assertThat(page.at("/register/gaps/0").stringValue())
                .contains("“Heavier” cannot be calculated any more", "“weight” is no field");
        assertThat(count(dora, view)).isEqualTo(sql("pieces >= 3"));
        // What a band is called is carried along.
        ok(ada.put(AT, change("Plenty", "Many")));
        assertThat(ok(dora.get(at + "/history"))
                        .at("/0/after/added/1/calculation")
                        .stringValue())
                .contains("\"Plenty\"");
        assertThat(count(dora, view)).isEqualTo(sql("pieces >= 3"));
        // A field of the same name is the register's; the view goes on with its own.
        ok(ada.post(AT + "/fields", Map.of("type", "calculated", "label", "Lot", "calculation", "pieces + 1")));
        JsonNode now = ok(dora.get(at + "/page")).get("register");
        assertThat(now.toString()).contains("Lot (added)");
        assertThat(count(dora, view)).isEqualTo(sql("pieces >= 3"));
        // Its earlier states can be compared and put back all the same.
        JsonNode history = ok(dora.get(at + "/history"));
        String first = history.get(history.size() - 1).get("id").stringValue();
        JsonNode since = ok(dora.get(at + "/history/" + first + "/difference"));
        assertThat(since.get("both").asLong()).isEqualTo(sql("pieces >= 3"));
        assertThat(since.get("enter").asLong() + since.get("leave").asLong()).isZero();
        assertThat(ok(dora.post(at + "/difference", Map.of("statement", "not _lot is \"a lot\"")))
                        .get("leave")
                        .asLong())
                .isEqualTo(sql("pieces >= 3"));
        int version = ok(dora.get(at)).get("version").asInt();
        ok(dora.post(
                at + "/history/" + history.get(0).get("id").stringValue() + "/restore", Map.of("version", version)));
        assertThat(count(dora, view)).isEqualTo(sql("pieces >= 3"));
    }
}
