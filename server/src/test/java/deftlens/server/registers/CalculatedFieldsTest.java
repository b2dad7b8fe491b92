package deftlens.server.registers;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.math.BigDecimal;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Calculated fields, declared in the catalogue, as fields like any other; held against SQL of our own. */
@ExtendWith(TestServer.class)
class CalculatedFieldsTest {

    private static final String AT = "/api/registers/parcels";
    private static Caller ada;
    private static Caller dora;

    private static FieldDefinition field(String key, String label, FieldType type) {
        return new FieldDefinition(key, label, type, false, true, List.of());
    }

    @BeforeAll
    static void make() throws SQLException {
        RegisterCatalogue catalogue = TestServer.bean(RegisterCatalogue.class);
        catalogue.add(new RegisterDefinition(
                "parcels",
                "Parcels",
                "parcel",
                "came",
                "number",
                true,
                List.of(
                        new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()),
                        field("came", "Came", FieldType.MOMENT),
                        field("left_at", "Left", FieldType.MOMENT),
                        field("due", "Due", FieldType.DATE),
                        field("pieces", "Pieces", FieldType.NUMBER),
                        field("price", "Price", FieldType.MONEY),
                        field("cost", "Cost", FieldType.MONEY),
                        new FieldDefinition(
                                "yard", "Yard", FieldType.CHOICE, false, true, List.of("North", "South")))));
        TestServer.sql("""
                insert into records.parcels (number, came, left_at, due, pieces, price, cost, yard)
                select 'P-' || i,
                       timestamptz '2026-11-01 06:00Z' + interval '7 hours' * i,
                       case when i % 3 <> 0 then timestamptz '2026-11-01 06:00Z' + interval '7 hours' * i + interval '11 hours' * (i % 9) end,
                       date '2026-11-10' + i % 25,
                       case when i % 7 <> 0 then i % 5 end,
                       round(i * 1.37, 2),
                       round(i * 0.9, 2),
                       case when i % 4 = 0 then null when i % 2 = 0 then 'North' else 'South' end
                from generate_series(1, 60) i""");
        ada = Caller.signedIn("ada");
        dora = Caller.signedIn("dora");
        add("Days overdue", "when(left_at is empty, greatest(0, days_between(due, today)))");
        add("Value", "pieces * price");
        add("Time to close", "left_at - came");
        add("Overdue", "left_at is empty and due is before today");
        add("State", "when(overdue, \"late\", left_at is empty, \"here\", \"gone\")");
        add("Margin", "round((value - cost) / value, 4)");
        catalogue.combine(
                new RegisterDefinition(
                        "loads",
                        "Loads",
                        "load",
                        "",
                        Optional.empty(),
                        "number",
                        true,
                        List.of(
                                FieldDefinition.member("source", "Source", List.of("Left", "Right")),
                                new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()),
                                field("worth", "Worth", FieldType.MONEY),
                                field("wait", "Wait", FieldType.NUMBER),
                                FieldDefinition.seen(true))),
                List.of(
                        new RegisterForReader.Member(
                                "parcels",
                                "Left",
                                Map.of("number", "number", "worth", "value", "wait", "days_overdue")),
                        new RegisterForReader.Member("parcels", "Right", Map.of("number", "number", "worth", "cost"))));
    }

    @AfterAll
    static void leave() throws SQLException {
        TestServer.sql(
                "delete from kept_view where register_key in ('parcels', 'loads');"
                        + " delete from register where key = 'loads'; delete from register where key = 'parcels'; drop table if exists records.parcels");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 204);
        return answer.json();
    }

    private static Caller.Answer added(String label, String calculation) {
        return ada.post(AT + "/fields", Map.of("type", "calculated", "label", label, "calculation", calculation));
    }

    private static void add(String label, String calculation) {
        ok(added(label, calculation));
    }

    private static long count(Caller who, String register, Map<String, Object> question) {
        Map<String, Object> sent = new HashMap<>(question);
        sent.put("exact", true);
        return ok(who.post("/api/registers/" + register + "/count", sent))
                .get("matching")
                .asLong();
    }

    private static long count(String statement) {
        return count(ada, "parcels", Map.of("statement", statement));
    }

    private static long sql(String condition) throws SQLException {
        return Long.parseLong(TestServer.query("select count(*) from records.parcels where " + condition));
    }

    private static JsonNode described(String key) {
        for (JsonNode field : ok(ada.get(AT)).get("fields")) {
            if (field.get("key").stringValue().equals(key)) {
                return field;
            }
        }
        throw new AssertionError("no field " + key);
    }

    @Test
    void theyAreFieldsLikeAnyOther() throws SQLException {
        String value = "(pieces * price)";
        String overdue = "(left_at is null and due < date '2026-11-23')";
        assertThat(count("value > 20")).isEqualTo(sql(value + " > 20")).isPositive();
        assertThat(count("value is empty")).isEqualTo(sql(value + " is null")).isPositive();
        assertThat(count("not value > 20")).isEqualTo(sql("(" + value + " > 20) is not true"));
        assertThat(count("days_overdue >= 3"))
                .isEqualTo(sql("left_at is null and date '2026-11-23' - due >= 3"))
                .isPositive();
        assertThat(count("overdue is yes and yard is \"North\""))
                .isEqualTo(sql(overdue + " and yard = 'North'"))
                .isPositive();
        assertThat(count("overdue is no")).isEqualTo(sql("not " + overdue));
        assertThat(count("state is \"late\" or time_to_close is more than 1 day"))
                .isEqualTo(sql(overdue + " or left_at - came > interval '1 day'"))
                .isPositive();
        assertThat(count("value > price")).isEqualTo(sql(value + " > price")).isPositive();
        assertThat(described("state").get("type").stringValue()).isEqualTo("choice");
        assertThat(described("state").get("options")).hasSize(3);
        assertThat(described("time_to_close").get("type").stringValue()).isEqualTo("duration");
        assertThat(described("overdue").get("required").asBoolean()).isTrue();
        assertThat(described("value").at("/calculation/words").stringValue()).isEqualTo("pieces * price");
        assertThat(described("value").get("origin").stringValue()).isEqualTo("CALCULATED");

        List<String> read = new ArrayList<>();
        JsonNode page = ok(ada.post(
                AT + "/rows",
                Map.of(
                        "statement",
                        "",
                        "columns",
                        List.of("number", "value"),
                        "order",
                        List.of("-value"),
                        "limit",
                        7)));
        page.get("rows").forEach(r -> read.add(r.at("/values/number").stringValue()));
        assertThat(String.join(",", read))
                .isEqualTo(TestServer.query("select string_agg(number, ',') from (select number from records.parcels"
                        + " order by " + value + " desc nulls last, id desc limit 7) t"));
        JsonNode next = ok(ada.post(
                AT + "/rows",
                Map.of(
                        "statement",
                        "",
                        "columns",
                        List.of("number", "value"),
                        "order",
                        List.of("-value"),
                        "limit",
                        7,
                        "after",
                        page.get("next").stringValue())));
        assertThat(next.at("/rows/0/values/number").stringValue())
                .isEqualTo(TestServer.query("select number from records.parcels order by " + value
                        + " desc nulls last, id desc offset 7 limit 1"));
        JsonNode one = ok(ada.get(AT + "/records/" + page.at("/rows/0/id").asText()));
        assertThat(one.at("/values/value").decimalValue())
                .isEqualByComparingTo(page.at("/rows/0/values/value").decimalValue());

        String file = ada.get(AT + "/export.csv?columns=number,value&statement=value+%3E+20")
                .text();
        assertThat(file.lines().count()).isEqualTo(1 + sql(value + " > 20"));
    }

    @Test
    void figuresAndGroupsAreMadeOfThem() throws SQLException {
        JsonNode totals = ok(ada.post(
                AT + "/totals",
                Map.of(
                        "statement",
                        "",
                        "rows",
                        List.of(Map.of("field", "state")),
                        "measures",
                        List.of(
                                Map.of("name", "worth", "function", "sum", "field", "value"),
                                Map.of("name", "median", "function", "median", "field", "time_to_close")))));
        assertThat(totals.at("/total/values/worth").decimalValue())
                .isEqualByComparingTo(TestServer.query("select sum(pieces * price) from records.parcels"));
        assertThat(totals.get("rows")).hasSize(3);
        assertThat(totals.at("/total/values/median").decimalValue())
                .isEqualByComparingTo(TestServer.query(
                        "select percentile_cont(0.5) within group (order by extract(epoch from left_at - came)::float8)"
                                + " from records.parcels"));
    }

    @Test
    void theyAreReadAsOfTheDayThatIsAskedFor() throws SQLException {
        assertThat(count(ada, "parcels", Map.of("statement", "overdue is yes", "asOf", "2026-11-13")))
                .isEqualTo(sql("left_at is null and due < date '2026-11-13'"))
                .isNotEqualTo(count("overdue is yes"))
                .isPositive();
    }

    @Test
    void aCombinedRegisterReadsThem() throws SQLException {
        assertThat(count(ada, "loads", Map.of("statement", "worth > 20 and seen is no")))
                .isEqualTo(sql("pieces * price > 20") + sql("cost > 20"));
        ok(ada.post(
                "/api/registers/loads/fields",
                Map.of("type", "calculated", "label", "Dear", "calculation", "worth > 20 and source is \"Left\"")));
        assertThat(count(ada, "loads", Map.of("statement", "dear is yes"))).isEqualTo(sql("pieces * price > 20"));
    }

    /** The days that a parcel is overdue on a day, in SQL. */
    private static String waitOn(String day) {
        return "case when left_at is null then greatest(0, date '" + day + "' - due) end";
    }

    @Test
    void twoReadingsOfACombinedRegisterEachHaveWhatItsMembersCalculateThatDay() throws SQLException {
        ok(ada.post(
                "/api/registers/loads/fields",
                Map.of("type", "calculated", "label", "Long wait", "calculation", "wait > 7 or worth < 5")));
        for (var one : Map.of(
                        "wait > 5",
                        "coalesce(%s > 5, false)",
                        "long_wait is yes and source is \"Left\"",
                        "coalesce(%s > 7, false) or coalesce(pieces * price < 5, false)")
                .entrySet()) {
            String here = "(" + one.getValue().formatted(waitOn("2026-11-16")) + ")";
            String there = "(" + one.getValue().formatted(waitOn("2026-11-30")) + ")";
            JsonNode compared = ok(ada.post(
                    "/api/registers/loads/comparison",
                    Map.of("statement", one.getKey(), "asOf", "2026-11-16", "against", "2026-11-30")));
            assertThat(compared.get("here").asLong()).as(one.getKey()).isEqualTo(sql(here + " and not " + there));
            assertThat(compared.get("there").asLong())
                    .as(one.getKey())
                    .isEqualTo(sql(there + " and not " + here))
                    .isPositive();
            assertThat(compared.get("both").asLong()).as(one.getKey()).isEqualTo(sql(there + " and " + here));
            JsonNode rows = ok(ada.post(
                            "/api/registers/loads/rows",
                            Map.of(
                                    "statement",
                                    one.getKey(),
                                    "asOf",
                                    "2026-11-16",
                                    "columns",
                                    List.of("number", "wait"),
                                    "compared",
                                    Map.of("against", "2026-11-30", "side", "there"))))
                    .get("rows");
            assertThat(rows).hasSize((int) compared.get("there").asLong());
            assertThat(rows.toString()).doesNotContain("_later");
        }
    }

    @Test
    void aLimitOfACombinedRegisterHoldsNowWhateverDayItIsReadAt() throws SQLException {
        ok(ada.put(
                "/api/registers/loads/access",
                List.of(Map.of("mayRead", true, "statement", "wait > 5", "hidden", List.of("wait")))));
        try {
            long now = sql(waitOn("2026-11-23") + " > 5");
            assertThat(now).isPositive().isNotEqualTo(sql(waitOn("2026-11-30") + " > 5"));
            assertThat(count(dora, "loads", Map.of("statement", ""))).isEqualTo(now);
            assertThat(count(dora, "loads", Map.of("statement", "", "asOf", "2026-11-30")))
                    .isEqualTo(now);
            assertThat(ok(dora.post(
                                    "/api/registers/loads/comparison",
                                    Map.of("statement", "worth > 20", "asOf", "2026-11-20", "against", "2026-11-30")))
                            .get("both")
                            .asLong())
                    .isEqualTo(sql(waitOn("2026-11-23") + " > 5 and pieces * price > 20"));
        } finally {
            ok(ada.put("/api/registers/loads/access", List.of()));
        }
    }

    @Test
    void whatIsHiddenStaysHiddenAndALimitHoldsNow() throws SQLException {
        ok(ada.put(
                AT + "/access",
                List.of(Map.of(
                        "mayRead", true, "statement", "overdue is yes", "hidden", List.of("price", "left_at")))));
        try {
            List<String> keys = new ArrayList<>();
            ok(dora.get(AT)).get("fields").forEach(f -> keys.add(f.get("key").stringValue()));
            assertThat(keys).containsExactly("number", "came", "due", "pieces", "cost", "yard");
            assertThat(dora.post(AT + "/count", Map.of("statement", "margin > 0"))
                            .status())
                    .isEqualTo(422);
            long late = sql("left_at is null and due < date '2026-11-23'");
            assertThat(count(dora, "parcels", Map.of("statement", ""))).isEqualTo(late);
            assertThat(count(dora, "parcels", Map.of("statement", "", "asOf", "2030-01-01", "zone", "Asia/Tokyo")))
                    .isEqualTo(late);
            assertThat(dora.post(AT + "/calculations/try", Map.of("calculation", "price * 2"))
                            .status())
                    .isEqualTo(422);
            // Who sees what changes under Access alone.
            assertRefused(
                    ada.put(AT, change(Map.of("overdue", "left_at is empty"))), "field-needed", "limited by “Overdue”");
            // What cannot be calculated any more opens nothing, however the limit is put.
            String broken = "update register_field set calculation = '%s' where key = 'overdue'"
                    + " and register_id = (select id from register where key = 'parcels')";
            ok(ada.put(
                    AT + "/access",
                    List.of(Map.of("mayRead", true, "statement", "not overdue is yes", "hidden", List.of()))));
            assertThat(count(dora, "parcels", Map.of("statement", ""))).isEqualTo(60 - late);
            TestServer.sql(broken.formatted("nothing is empty"));
            assertThat(count(dora, "parcels", Map.of("statement", ""))).isZero();
            TestServer.sql(broken.formatted("left_at is empty and due before today"));
            assertThat(count(dora, "parcels", Map.of("statement", ""))).isEqualTo(60 - late);
            // Marks are read beside the records; a limit may rest on a field that is hidden all the same.
            ok(ada.post(AT + "/fields", Map.of("type", "seen")));
            ok(ada.put(
                    AT + "/access",
                    List.of(Map.of("mayRead", true, "statement", "price > 20", "hidden", List.of("price")))));
            assertThat(count(dora, "parcels", Map.of("statement", "seen is no")))
                    .isEqualTo(sql("price > 20"));
        } finally {
            ok(ada.put(AT + "/access", List.of()));
        }
    }

    @Test
    void aCalculationIsTriedBeforeItIsKept() throws SQLException {
        JsonNode tried = ok(ada.post(AT + "/calculations/try", Map.of("calculation", "Value*2 -pieces")));
        assertThat(tried.get("calculation").stringValue()).isEqualTo("value * 2 - pieces");
        assertThat(tried.get("type").stringValue()).isEqualTo("money");
        assertThat(tried.get("changes").asBoolean()).isFalse();
        assertThat(tried.get("samples")).hasSize(5);
        String column = tried.get("column").stringValue();
        tried.get("samples").forEach(sample -> {
            JsonNode values = sample.get("values");
            if (!values.get("pieces").isNull()) {
                assertThat(values.get(column).decimalValue())
                        .isEqualByComparingTo(values.get("value")
                                .decimalValue()
                                .multiply(BigDecimal.TWO)
                                .subtract(values.get("pieces").decimalValue()));
            }
        });
        assertThat(ok(ada.post(
                                AT + "/calculations/try",
                                Map.of("calculation", "due before today or yard is \"North\"")))
                        .get("type")
                        .stringValue())
                .isEqualTo("yes/no");
        // Read alone, it is the same without any record.
        JsonNode read = ok(ada.post(AT + "/calculations/read", Map.of("calculation", "Value*2 -pieces")));
        for (String part : List.of("calculation", "type", "changes", "fields")) {
            assertThat(read.get(part)).isEqualTo(tried.get(part));
        }
        assertThat(read.has("samples")).isFalse();
        assertRefused(
                ada.post(AT + "/calculations/read", Map.of("calculation", "pieces +")),
                "statement-unreadable",
                "The text ends too early");
    }

    @Test
    void whatCannotBeIsRefusedInWords() {
        assertRefused(added("Circle", "circle + 1"), "bad-calculation", "“circle” is no field of Parcels");
        assertRefused(added("Odd", "pieces +"), "bad-calculation", "The text ends too early");
        assertRefused(added("Odd", "pieces + due"), "bad-calculation", "goes with numbers");
        assertRefused(added("Odd", ""), "bad-calculation", "says how the value comes about");
        assertRefused(ada.put(AT, change(Map.of("value", "margin * price"))), "bad-calculation", "It needs itself");
        assertRefused(ada.put(AT, change(Map.of("value", "\"a\""))), "other-type", "“Value” is a money field");
        assertRefused(
                ada.delete(AT + "/fields/pieces?version="
                        + ok(ada.get(AT)).get("version").asInt()),
                "field-needed",
                "“Value” is calculated from it");
        assertThat(ada.post(AT + "/records", Map.of("values", Map.of("number", "P-0", "value", 3)))
                        .status())
                .isEqualTo(422);
        Map<String, Object> mainDate = change(Map.of());
        mainDate.put("mainField", "value");
        assertRefused(ada.put(AT, mainDate), "bad-main-field", "must be a date");
    }

    private static void assertRefused(Caller.Answer answer, String code, String words) {
        assertThat(answer.status()).as(answer.text()).isEqualTo(422);
        assertThat(answer.json().get("code").stringValue()).as(answer.text()).isEqualTo(code);
        assertThat(answer.json().get("detail").stringValue()).contains(words);
    }

    /** The register as it is, with other calculations. */
    private static Map<String, Object> change(Map<String, String> calculations) {
        JsonNode now = ok(ada.get(AT));
        List<Map<String, Object>> fields = new ArrayList<>();
        now.get("fields").forEach(f -> {
            String key = f.get("key").stringValue();
            Map<String, Object> field = new HashMap<>();
            field.put("key", key);
            field.put("label", f.get("label").stringValue());
            field.put("description", "");
            field.put("unit", "");
            List.of("shown", "useful", "identifying", "correctable").forEach(word -> field.put(word, false));
            List<String> options = new ArrayList<>();
            f.get("options").forEach(o -> options.add(o.get("value").stringValue()));
            field.put(
                    "options",
                    f.get("type").stringValue().equals("choice") && !f.has("calculation") ? options : List.of());
            field.put("bands", List.of());
            field.put("relates", List.of());
            if (calculations.containsKey(key)) {
                field.put("calculation", calculations.get(key));
            }
            fields.add(field);
        });
        Map<String, Object> change = new HashMap<>();
        change.put("label", "Parcels");
        change.put("recordLabel", "parcel");
        change.put("description", "");
        change.put("mainField", "came");
        change.put("titleField", "number");
        change.put("order", List.of("-came"));
        change.put("fields", fields);
        change.put("version", now.get("version").asInt());
        return change;
    }

    @Test
    void twoReadingsAreHeldAgainstEachOtherWithWhatEachCalculates() throws SQLException {
        Map<String, String> then = Map.of(
                "days_overdue > 5 and pieces is not empty",
                "pieces is not null and left_at is null and greatest(0, date 'DAY' - due) > 5",
                "overdue is yes",
                "left_at is null and due < date 'DAY'",
                "not state is \"here\" and price > 10",
                "price > 10 and not (left_at is null and coalesce(due >= date 'DAY', true))");
        for (Map.Entry<String, String> one : then.entrySet()) {
            String here = "coalesce(" + one.getValue().replace("DAY", "2026-11-20") + ", false)";
            String there = "coalesce(" + one.getValue().replace("DAY", "2026-11-30") + ", false)";
            Map<String, Object> question = Map.of("statement", one.getKey(), "asOf", "2026-11-20");
            Map<String, Object> asked = new HashMap<>(question);
            asked.put("against", "2026-11-30");
            JsonNode compared = ok(ada.post(AT + "/comparison", asked));
            assertThat(compared.get("here").asLong()).as(one.getKey()).isEqualTo(sql(here + " and not " + there));
            assertThat(compared.get("there").asLong()).as(one.getKey()).isEqualTo(sql(there + " and not " + here));
            assertThat(compared.get("both").asLong()).as(one.getKey()).isEqualTo(sql(there + " and " + here));
            assertThat(compared.get("here").asLong() + compared.get("there").asLong())
                    .as(one.getKey())
                    .isPositive();
            Map<String, Object> rows = new HashMap<>(question);
            rows.put("compared", Map.of("against", "2026-11-30", "side", "there"));
            rows.put("columns", List.of("number", "days_overdue"));
            JsonNode found = ok(ada.post(AT + "/rows", rows)).get("rows");
            assertThat(found).hasSize((int) compared.get("there").asLong());
            assertThat(found.toString()).doesNotContain("_later");
        }
    }

    @Test
    void whyAndEdgesSeeWhatAFieldStandsFor() throws SQLException {
        String late = TestServer.query(
                "select number from records.parcels where left_at is null and due < date '2026-11-20' order by id limit 1");
        JsonNode why = ok(dora.post(AT + "/why", Map.of("statement", "overdue is no and value > 1", "record", late)));
        JsonNode overdue = why.at("/outcome/parts/0");
        assertThat(overdue.get("verdict").stringValue()).isEqualTo("OUT");
        assertThat(overdue.at("/parts/0/path").stringValue()).isEqualTo("/all/0/means");
        assertThat(overdue.at("/parts/0/verdict").stringValue()).isEqualTo("IN");
        assertThat(overdue.at("/parts/0/parts/0/words").stringValue()).isEqualTo("left is empty");
        assertThat(overdue.at("/parts/0/parts/1/words").stringValue()).contains("due is before");
        assertThat(overdue.at("/parts/0/parts/1/window").stringValue()).contains("23 Nov 2026");
        assertThat(overdue.get("from")).isEmpty();
        // A number comes from others.
        JsonNode value = why.at("/outcome/parts/1");
        assertThat(value.at("/from/0/field").stringValue()).isEqualTo("pieces");
        assertThat(value.at("/from/1/value").decimalValue())
                .isEqualByComparingTo(
                        TestServer.query("select price from records.parcels where number = '" + late + "'"));
        JsonNode edges = ok(dora.post(AT + "/edges", Map.of("statement", "overdue is yes")));
        assertThat(edges).hasSize(1);
        assertThat(edges.at("/0/field").stringValue()).isEqualTo("due");
        assertThat(edges.at("/0/statement").stringValue()).isEqualTo("overdue is yes");
        assertThat(edges.at("/0/boundaries/0/inside/rows/0/value").stringValue())
                .isEqualTo(TestServer.query("select max(due) from records.parcels where due < date '2026-11-23'"));
        assertThat(findings("overdue is yes and due in next month")).contains("never");
    }

    private static List<String> findings(String statement) {
        List<String> codes = new ArrayList<>();
        ok(dora.post(AT + "/statement", Map.of("statement", statement)))
                .get("findings")
                .forEach(f -> codes.add(f.get("code").stringValue()));
        return codes;
    }

    @Test
    void aChangeIsReviewedByWhatComesInAndGoes() throws SQLException {
        String own = ok(dora.post(
                        AT + "/added-fields",
                        Map.of("fields", List.of(Map.of("label", "Twice", "calculation", "days_overdue * 2")))))
                .get("key")
                .stringValue();
        Map<String, Object> view = new HashMap<>(Map.of("register", "parcels", "columns", List.of("number")));
        for (var one : Map.of(
                        "Late",
                        "state is \"late\" and yard is not empty",
                        "Dear",
                        "price > 20",
                        "Twice",
                        "_twice > 10 or not state is \"late\"")
                .entrySet()) {
            view.put("name", one.getKey());
            view.put("register", one.getKey().equals("Twice") ? own : "parcels");
            view.put("statement", one.getValue());
            ok(dora.post("/api/views", view));
        }
        view.put("name", "Shown");
        view.put("register", "parcels");
        view.put("statement", "");
        view.put("columns", List.of("number", "state"));
        ok(dora.post("/api/views", view));
        view.put("name", "Waiting");
        view.put("register", "loads");
        view.put("statement", "wait > 5 or source is \"Right\" and number is \"P-1\"");
        view.put("columns", List.of("number"));
        ok(dora.post("/api/views", view));
        JsonNode effects = ok(ada.post(
                AT + "/calculations/review",
                Map.of(
                        "calculations",
                        Map.of(
                                "overdue",
                                "left_at is empty and due is before 2026-12-01",
                                "days_overdue",
                                "when(left_at is empty, days_between(due, today) + 3)"))));
        Map<String, JsonNode> found = new HashMap<>();
        effects.forEach(e -> found.put(e.get("name").stringValue(), e));
        assertThat(found.keySet()).containsExactlyInAnyOrder("Late", "Twice", "Shown", "Waiting");
        String was = "left_at is null and coalesce(due < date '2026-11-23', false)";
        String is = "left_at is null and coalesce(due < date '2026-12-01', false)";
        assertMoves(
                found.get("Late"), "coalesce(yard <> '', false) and " + was, "coalesce(yard <> '', false) and " + is);
        assertThat(found.get("Late").at("/criteria/0").stringValue()).isEqualTo("state is late");
        assertThat(found.get("Late").at("/owner/name").stringValue()).isEqualTo("dora");
        String waiting = "coalesce(left_at is null and greatest(0, date '2026-11-23' - due) > 5, false)";
        String waitingNow = "coalesce(left_at is null and date '2026-11-23' - due + 3 > 5, false)";
        JsonNode loads = found.get("Waiting").get("moves");
        assertThat(loads.get("enter").asLong())
                .isEqualTo(sql(waitingNow + " and not " + waiting))
                .isPositive();
        assertThat(loads.get("both").asLong()).isEqualTo(sql(waiting) + 1);
        assertThat(found.get("Waiting").at("/criteria/0").stringValue()).isEqualTo("wait is more than 5");
        String twice = "coalesce(left_at is null and greatest(0, date '2026-11-23' - due) * 2 > 10, false)";
        String twiceNow = "coalesce(left_at is null and (date '2026-11-23' - due + 3) * 2 > 10, false)";
        assertMoves(found.get("Twice"), twice + " or not (" + was + ")", twiceNow + " or not (" + is + ")");
        assertThat(found.get("Shown").get("shown").asBoolean()).isTrue();
        assertThat(found.get("Shown").get("moves").isNull()).isTrue();
        // What is the same as before moves nothing; a slip is told in words, and another type when it is saved.
        JsonNode same = ok(ada.post(
                AT + "/calculations/review",
                Map.of("calculations", Map.of("overdue", "due is before today and left_at is empty"))));
        same.forEach(e -> {
            if (!e.get("moves").isNull()) {
                assertThat(e.at("/moves/enter").asLong() + e.at("/moves/leave").asLong())
                        .isZero();
            }
        });
        assertThat(same).isNotEmpty();
        assertRefused(
                ada.post(AT + "/calculations/review", Map.of("calculations", Map.of("overdue", "overdue is no"))),
                "statement-unreadable",
                "“overdue” is no field");
        assertRefused(
                ada.post(AT + "/calculations/review", Map.of("calculations", Map.of("price", "cost"))),
                "unknown-field",
                "no calculated field “price”");
        assertThat(dora.post(AT + "/calculations/review", Map.of("calculations", Map.of()))
                        .status())
                .isEqualTo(403);
    }

    private static void assertMoves(JsonNode effect, String was, String is) throws SQLException {
        assertThat(effect.at("/moves/enter").asLong()).isEqualTo(sql("(" + is + ") and not (" + was + ")"));
        assertThat(effect.at("/moves/leave").asLong()).isEqualTo(sql("(" + was + ") and not (" + is + ")"));
        assertThat(effect.at("/moves/both").asLong()).isEqualTo(sql("(" + was + ") and (" + is + ")"));
        assertThat(effect.at("/moves/enter").asLong()
                        + effect.at("/moves/leave").asLong())
                .isPositive();
    }

    @Test
    void aCalculationIsChangedAndGoesAndComesBack() throws SQLException {
        add("Doubled", "price * 2");
        ok(ada.put(AT, change(Map.of("doubled", "price * 2 + cost"))));
        assertThat(count("doubled > 100"))
                .isEqualTo(sql("price * 2 + cost > 100"))
                .isPositive();
        add("Redoubled", "doubled * 2");
        ok(ada.delete(AT + "/fields/redoubled?version="
                + ok(ada.get(AT)).get("version").asInt()));
        ok(ada.delete(
                AT + "/fields/doubled?version=" + ok(ada.get(AT)).get("version").asInt()));
        assertRefused(
                ada.post(AT + "/removed-fields/redoubled", Map.of()), "field-lacks-fields", "Restore the fields first");
        ok(ada.post(AT + "/removed-fields/doubled", Map.of()));
        ok(ada.post(AT + "/removed-fields/redoubled", Map.of()));
        assertThat(count("redoubled > 100")).isEqualTo(sql("(price * 2 + cost) * 2 > 100"));
        // What came about elsewhere and cannot be read any more leaves the field empty, and everything else goes on.
        TestServer.sql("update register_field set calculation = 'pieces * nothing' where key = 'doubled'"
                + " and register_id = (select id from register where key = 'parcels')");
        assertThat(count("doubled is empty and redoubled is empty and value > 20"))
                .isEqualTo(sql("pieces * price > 20"));
        assertThat(described("doubled").at("/calculation/trouble").stringValue())
                .contains("“nothing” is no field");
        for (String key : List.of("redoubled", "doubled")) {
            ok(ada.delete(AT + "/fields/" + key + "?version="
                    + ok(ada.get(AT)).get("version").asInt()));
        }
    }
}
