package deftlens.server.rows;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.math.BigDecimal;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/** Groups, parts, marks, running totals and two readings of one question, held against plain SQL. */
@ExtendWith(TestServer.class)
class ShapeTest {

    private static final String AT = "/api/registers/takings";
    private static Caller ada;

    @BeforeAll
    static void make() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                                "takings",
                                "Takings",
                                "taking",
                                "at",
                                "number",
                                true,
                                List.of(
                                        new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()),
                                        new FieldDefinition("at", "At", FieldType.MOMENT, false, true, List.of()),
                                        new FieldDefinition(
                                                "till", "Till", FieldType.CHOICE, false, true, List.of("West", "East")),
                                        new FieldDefinition("clerk", "Clerk", FieldType.TEXT, false, true, List.of()),
                                        new FieldDefinition("tags", "Tags", FieldType.TAGS, true, false, List.of()),
                                        new FieldDefinition("due", "Due", FieldType.DATE, false, true, List.of()),
                                        new FieldDefinition(
                                                "amount", "Amount", FieldType.MONEY, false, true, List.of())))
                        .running("amount"));
        TestServer.sql("""
                insert into records.takings (number, at, till, clerk, tags, due, amount)
                select 'T-' || i,
                       case when i % 23 = 0 then null
                            else timestamptz '2026-08-30 22:10 Europe/London' + interval '7 hours 13 minutes' * (i % 190) end,
                       (array['West', 'East', null])[1 + i % 3],
                       (array['Ana', 'ana', '', null, 'Bo'])[1 + i % 5],
                       '{}',
                       case when i % 4 = 0 then null else date '2026-11-10' + i % 30 end,
                       case when i % 11 = 0 then null else (i * 37 % 400 - 150)::numeric / 4 end
                from generate_series(1, 240) i""");
        ada = Caller.signedIn("ada");
    }

    @AfterAll
    static void leave() {
        ada.delete(AT);
    }

    private static JsonNode ok(String path, Map<String, Object> body) {
        Caller.Answer answer = ada.post(AT + path, body);
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json();
    }

    private static void refused(String path, Map<String, Object> body, String code) {
        Caller.Answer answer = ada.post(AT + path, body);
        assertThat(answer.status()).as(answer.text()).isEqualTo(422);
        assertThat(answer.json().get("code").stringValue()).isEqualTo(code);
    }

    /** Every row of a question, page after page. */
    private static List<JsonNode> rows(Map<String, Object> question, int limit) {
        List<JsonNode> rows = new ArrayList<>();
        Map<String, Object> body = new HashMap<>(question);
        body.put("limit", limit);
        JsonNode page;
        do {
            page = ok("/rows", body);
            page.get("rows").forEach(rows::add);
            if (page.hasNonNull("next")) {
                body.put("after", page.get("next").stringValue());
            }
        } while (page.hasNonNull("next"));
        return rows;
    }

    @Test
    void fiscalPeriodsBeginWithTheFiscalYear() throws SQLException {
        int before = fiscalYearStarts(11);
        try {
            for (String[] each : new String[][] {
                {
                    "fiscal quarter",
                    "date_trunc('quarter', at at time zone 'Europe/London' - interval '1 month') + interval '1 month'"
                },
                {
                    "fiscal year",
                    "date_trunc('year', at at time zone 'Europe/London' - interval '10 months') + interval '10 months'"
                }
            }) {
                Map<String, Object> grouping = Map.of("field", "at", "by", each[0]);
                JsonNode answer = ok("/groups", Map.of("groups", List.of(grouping), "zone", "Europe/London"));
                List<String> groups = new ArrayList<>();
                answer.get("groups")
                        .forEach(g -> groups.add(g.path("from").stringValue("none") + " "
                                + g.get("records").asLong()));
                assertThat(groups)
                        .as(each[0])
                        .isEqualTo(query("select coalesce(cast(" + each[1]
                                + " as date)::text, 'none') || ' ' || count(*) from records.takings group by " + each[1]
                                + " order by " + each[1]));
                assertThat(answer.at("/groups/0/label").stringValue())
                        .isEqualTo(each[0].equals("fiscal year") ? "fiscal year 2026" : "Q4 of fiscal year 2026");
                Map<String, Object> inside = inside("at", each[0], answer.at("/groups/1"));
                assertThat(rows(Map.of("inside", List.of(inside), "zone", "Europe/London"), 100))
                        .hasSize(answer.at("/groups/1/records").asInt());
            }
        } finally {
            fiscalYearStarts(before);
        }
    }

    @Test
    void sumsGoWithoutGroups() throws SQLException {
        JsonNode whole = ok(
                "/groups",
                Map.of(
                        "groups",
                        List.of(),
                        "measures",
                        List.of(Map.of("function", "sum", "field", "amount")),
                        "statement",
                        "till is \"West\""));
        assertThat(whole.get("groups")).isEmpty();
        assertThat(whole.get("records").asText())
                .isEqualTo(TestServer.query("select count(*) from records.takings where till = 'West'"));
        assertThat(whole.at("/figures/0").decimalValue())
                .isEqualByComparingTo(TestServer.query("select sum(amount) from records.takings where till = 'West'"));
        JsonNode part = ok(
                "/groups",
                Map.of(
                        "groups",
                        List.of(),
                        "measures",
                        List.of(Map.of("function", "sum", "field", "amount")),
                        "order",
                        List.of("number"),
                        "take",
                        Map.of("first", 7)));
        assertThat(part.get("records").asInt()).isEqualTo(7);
        assertThat(part.at("/figures/0").decimalValue())
                .isEqualByComparingTo(TestServer.query("select sum(amount) from (select amount from records.takings"
                        + " order by number collate \"und-x-icu\", id limit 7) q"));
        assertThat(ok(
                                "/groups",
                                Map.of(
                                        "groups",
                                        List.of(),
                                        "statement",
                                        "number is \"none\"",
                                        "measures",
                                        List.of(Map.of("function", "sum", "field", "amount"))))
                        .at("/figures/0")
                        .isNull())
                .isTrue();
        refused("/groups", Map.of("groups", List.of(), "inside", List.of(Map.of("field", "till"))), "no-level");
    }

    @Test
    void eachMeasureIsWhatTheDatabaseSaysOfEachGroupAndOfAll() throws SQLException {
        List<Map<String, String>> measures = List.of(
                Map.of("function", "average", "field", "amount"),
                Map.of("function", "median", "field", "amount"),
                Map.of("function", "min", "field", "amount"),
                Map.of("function", "max", "field", "at"),
                Map.of("function", "distinct", "field", "clerk"),
                Map.of("function", "count"));
        String sql = "avg(amount), (select avg(x) from (select amount as x, row_number() over (order by amount) as n,"
                + " count(*) over () as m from records.takings k where %s and amount is not null) q"
                + " where n in ((m + 1) / 2, (m + 2) / 2)), min(amount),"
                + " to_char(max(at) at time zone 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"'),"
                + " count(distinct nullif(clerk, '')), count(*)";
        JsonNode found = ok("/groups", Map.of("groups", List.of(Map.of("field", "till")), "measures", measures));
        for (JsonNode group : found.get("groups")) {
            String till = group.get("value").isNull()
                    ? "till is null"
                    : "till = '" + group.get("value").stringValue() + "'";
            assertFigures(group, sql.formatted("k." + till), till);
        }
        assertThat(found.get("groups").size()).isEqualTo(3);
        assertFigures(found, sql.formatted("true"), "true");
        JsonNode none =
                ok("/groups", Map.of("groups", List.of(), "statement", "number is \"none\"", "measures", measures));
        assertThat(none.get("figures").toString()).isEqualTo("[null,null,null,null,0,0]");
    }

    private static void assertFigures(JsonNode said, String sql, String where) throws SQLException {
        List<String> figures =
                List.of(TestServer.query("select concat_ws('|', " + sql + ") from records.takings where " + where)
                        .split("\\|"));
        assertThat(figures).hasSize(6);
        for (int i = 0; i < figures.size(); i++) {
            JsonNode figure = said.get("figures").get(i);
            if (figure.isString()) {
                assertThat(figure.stringValue()).as(where).isEqualTo(figures.get(i));
            } else {
                assertThat(figure.decimalValue())
                        .as(where + " " + i)
                        .isCloseTo(new BigDecimal(figures.get(i)), within(new BigDecimal("1e-12")));
            }
        }
    }

    @Test
    void measuresThatDoNotFitAreRefused() {
        refusedMeasures(List.of(Map.of("function", "sum", "field", "clerk")), "bad-measure");
        refusedMeasures(List.of(Map.of("function", "sum")), "bad-measure");
        refusedMeasures(List.of(Map.of("function", "count", "field", "clerk")), "bad-measure");
        refusedMeasures(List.of(Map.of("function", "sum", "field", "nothing")), "unknown-field");
        refusedMeasures(List.of(Map.of("function", "mode", "field", "amount")), "unknown-word");
        Map<String, String> sum = Map.of("function", "sum", "field", "amount");
        refusedMeasures(List.of(sum, sum), "measured-twice");
        refusedMeasures(java.util.Collections.nCopies(11, sum), "too-many-measures");
    }

    private static void refusedMeasures(List<Map<String, String>> measures, String code) {
        Caller.Answer answer = ada.post(AT + "/groups", Map.of("groups", List.of(), "measures", measures));
        assertThat(answer.status()).as(answer.text()).isIn(400, 422);
        assertThat(answer.json().get("code").stringValue()).isEqualTo(code);
    }

    @Test
    void shapesOfOlderVersionsAreReadWhereverTheyComeFrom() throws SQLException {
        Map<String, Object> old = Map.of("totals", List.of("amount"), "groups", List.of(Map.of("field", "till")));
        // From an older program, by a request.
        Caller.Answer made = ada.post(
                "/api/views", Map.of("register", "takings", "name", "Old sums", "statement", "", "shape", old));
        assertThat(made.status()).as(made.text()).isEqualTo(201);
        String id = made.json().get("id").stringValue();
        String sums = "[{\"function\":\"sum\",\"field\":\"amount\"}]";
        assertThat(made.json().at("/shape/measures").toString()).isEqualTo(sums);
        assertThat(made.json().at("/shape/version").asInt()).isEqualTo(2);
        // From the database, where it was kept by one.
        TestServer.sql("update kept_view set shape = '{\"totals\":[\"amount\"]}' where id = " + id);
        assertThat(ada.get("/api/views/" + id).json().at("/shape/measures").toString())
                .isEqualTo(sums);
        // From a link.
        assertThat(ada.get(AT + "/export.csv?shape=%7B%22totals%22%3A%5B%22amount%22%5D%7D")
                        .status())
                .isEqualTo(200);
        for (Object unknown : List.of(0, 3, "new")) {
            Caller.Answer refused = ada.post(
                    "/api/views",
                    Map.of("register", "takings", "name", "New", "statement", "", "shape", Map.of("version", unknown)));
            assertThat(refused.status()).isEqualTo(400);
            assertThat(refused.json().get("code").stringValue()).isEqualTo("unknown-version");
        }
    }

    /** Has fiscal years begin with another month, and says with which they did. */
    private static int fiscalYearStarts(int month) {
        ObjectNode settings = (ObjectNode) ada.get("/api/organisation").json();
        int before = settings.get("fiscalYearStartsMonth").asInt();
        assertThat(ada.put("/api/organisation", settings.put("fiscalYearStartsMonth", month))
                        .status())
                .isEqualTo(200);
        return before;
    }

    private static List<String> numbers(List<JsonNode> rows) {
        return rows.stream()
                .map(r -> r.get("values").get("number").stringValue())
                .toList();
    }

    private static List<String> query(String sql) throws SQLException {
        String found = TestServer.query("select coalesce(string_agg(t::text, '|'), '') from (" + sql + ") q(t)");
        return found.isEmpty() ? List.of() : List.of(found.split("\\|"));
    }

    @Test
    void groupsInsideGroupsHoldEveryRecordOnceAndAddUp() throws SQLException {
        List<Map<String, Object>> levels = List.of(
                Map.of("field", "at", "by", "month", "arranged", "descending"),
                Map.of("field", "till"),
                Map.of("field", "clerk", "arranged", "largest"));
        Map<String, Object> asked = Map.of(
                "statement",
                "amount is not empty",
                "groups",
                levels,
                "measures",
                List.of(Map.of("function", "sum", "field", "amount")));
        JsonNode months = ok("/groups", asked);
        assertThat(months.get("records").longValue())
                .isEqualTo(Long.parseLong(
                        TestServer.query("select count(*) from records.takings where amount is not null")));
        assertThat(months.at("/figures/0").decimalValue())
                .isEqualByComparingTo(TestServer.query("select sum(amount) from records.takings"));
        List<String> starts = new ArrayList<>();
        Set<String> seen = new HashSet<>();
        for (JsonNode month : months.get("groups")) {
            starts.add(month.hasNonNull("value") ? month.get("value").stringValue() : "none");
            Map<String, Object> outer = inside("at", "month", month);
            long inMonth = 0;
            BigDecimal sum = BigDecimal.ZERO;
            Map<String, Object> nextLevel = new HashMap<>(asked);
            nextLevel.put("inside", List.of(outer));
            List<String> tills = new ArrayList<>();
            for (JsonNode till : ok("/groups", nextLevel).get("groups")) {
                tills.add(till.hasNonNull("value") ? till.get("value").stringValue() : "none");
                inMonth += till.get("records").longValue();
                sum = sum.add(till.at("/figures/0").decimalValue());
                List<JsonNode> found = rows(
                        Map.of(
                                "statement",
                                "amount is not empty",
                                "inside",
                                List.of(outer, inside("till", null, till))),
                        50);
                assertThat(found).hasSize(till.get("records").intValue());
                numbers(found).forEach(n -> assertThat(seen.add(n)).isTrue());
            }
            assertThat(tills)
                    .as("as they are declared")
                    .isSubsetOf("West", "East", "none")
                    .isSortedAccordingTo(java.util.Comparator.comparing(List.of("West", "East", "none")::indexOf));
            assertThat(inMonth).isEqualTo(month.get("records").longValue());
            assertThat(sum).isEqualByComparingTo(month.at("/figures/0").decimalValue());
        }
        assertThat(starts).containsExactly("2026-10-01", "2026-09-01", "2026-08-01", "none");
        assertThat(seen).hasSize(months.get("records").intValue());
        // August by the local clock, not by UTC: 22:10 of the 30th and the 31st.
        assertThat(months.get("groups").get(2).get("from").stringValue()).isEqualTo("2026-08-01");
        assertThat(months.get("groups").get(2).get("to").stringValue()).isEqualTo("2026-08-31");
    }

    private static Map<String, Object> inside(String field, String by, JsonNode group) {
        Map<String, Object> inside = new HashMap<>(Map.of("field", field));
        if (by != null) {
            inside.put("by", by);
        }
        if (group.hasNonNull("value")) {
            inside.put("value", group.get("value").stringValue());
        }
        return inside;
    }

    @Test
    void textsDifferByTheirLettersAndTheEmptyTextIsNoValue() {
        JsonNode clerks = ok("/groups", Map.of("groups", List.of(Map.of("field", "clerk"))));
        List<String> values = new ArrayList<>();
        clerks.get("groups")
                .forEach(g -> values.add(g.hasNonNull("value") ? g.get("value").stringValue() : "none"));
        assertThat(values).hasSize(4).endsWith("none").contains("Ana", "ana", "Bo");
        assertThat(clerks.get("groups").get(3).get("records").longValue()).isEqualTo(96);
    }

    @Test
    void moreGroupsThanAreWantedAreStillCountedAndAdded() throws SQLException {
        JsonNode few = ok(
                "/groups",
                Map.of(
                        "groups",
                        List.of(Map.of("field", "number")),
                        "measures",
                        List.of(Map.of("function", "sum", "field", "amount")),
                        "limit",
                        7));
        assertThat(few.get("groups").size()).isEqualTo(7);
        assertThat(few.get("more").booleanValue()).isTrue();
        assertThat(few.get("records").longValue()).isEqualTo(240);
        assertThat(few.at("/figures/0").decimalValue())
                .isEqualByComparingTo(TestServer.query("select sum(amount) from records.takings"));
    }

    @Test
    void whatMakesNoGroupsIsRefused() {
        refused("/groups", Map.of("groups", List.of(Map.of("field", "tags"))), "bad-group");
        refused("/groups", Map.of("groups", List.of(Map.of("field", "at", "by", "value"))), "bad-group");
        refused("/groups", Map.of("groups", List.of(Map.of("field", "till", "by", "month"))), "bad-group");
        refused("/groups", Map.of("groups", List.of(Map.of("field", "till", "by", "band"))), "bad-group");
        refused(
                "/groups",
                Map.of(
                        "groups",
                        List.of(Map.of("field", "till")),
                        "measures",
                        List.of(Map.of("function", "sum", "field", "clerk"))),
                "bad-measure");
        refused(
                "/rows",
                Map.of("inside", List.of(Map.of("field", "at", "by", "month", "value", "2026-09-02"))),
                "no-group");
        refused(
                "/groups",
                Map.of("groups", List.of(Map.of("field", "till")), "inside", List.of(Map.of("field", "till"))),
                "no-level");
    }

    @Test
    void aRunningTotalIsTheWindowFunctionsWhicheverWayAndPageByPage() throws SQLException {
        String window = "at in 2026-09-05 to 2026-10-20 and till is \"East\"";
        String where =
                "at >= '2026-09-05 00:00 Europe/London' and at < '2026-10-21 00:00 Europe/London' and till = 'East'";
        BigDecimal before = new BigDecimal(
                TestServer.query(
                        "select coalesce(sum(amount), 0) from records.takings where till = 'East' and at < '2026-09-05 00:00 Europe/London'"));
        assertThat(before).isNotZero();
        for (String from : List.of("zero", "beginning")) {
            BigDecimal opening = from.equals("zero") ? BigDecimal.ZERO : before;
            List<String> expected = query("select number || ' ' || trim_scale(" + opening
                    + " + sum(coalesce(amount, 0)) over (order by at, id)) from records.takings where " + where
                    + " order by at, id");
            for (String order : List.of("at", "-at")) {
                Map<String, Object> asked = Map.of(
                        "statement",
                        window,
                        "order",
                        List.of(order),
                        "columns",
                        List.of("number"),
                        "shape",
                        Map.of("running", from));
                List<String> found = new ArrayList<>(rows(asked, 9).stream()
                        .map(r -> r.get("values").get("number").stringValue() + " "
                                + plain(r.get("running").decimalValue()))
                        .toList());
                if (order.equals("-at")) {
                    java.util.Collections.reverse(found);
                }
                assertThat(found).as(from + " " + order).isEqualTo(expected);
                assertThat(ok("/rows", asked).get("opening").decimalValue()).isEqualByComparingTo(opening);
            }
        }
    }

    private static String plain(BigDecimal number) {
        return number.signum() == 0 ? "0" : number.stripTrailingZeros().toPlainString();
    }

    @Test
    void recordsWithoutADateHaveNoRunningTotal() throws SQLException {
        Map<String, Object> asked = Map.of("order", List.of("-at"), "shape", Map.of("running", "zero"));
        List<JsonNode> all = rows(asked, 100);
        assertThat(all.stream().filter(r -> !r.hasNonNull("running"))).hasSize(10);
        assertThat(all.get(0).get("running").decimalValue())
                .isEqualByComparingTo(TestServer.query("select sum(amount) from records.takings where at is not null"));
        refused("/rows", Map.of("order", List.of("number"), "shape", Map.of("running", "zero")), "running-order");
    }

    @Test
    void aPartIsAStretchOrASampleAndSoIsItsFile() throws SQLException {
        List<String> byDue = query("select number from records.takings order by due nulls first, id");
        Map<String, Object> shape = Map.of("take", Map.of("from", 11, "to", 47));
        List<JsonNode> stretch = rows(Map.of("order", List.of("due:empties-first"), "shape", shape), 10);
        assertThat(numbers(stretch)).isEqualTo(byDue.subList(10, 47));

        Map<String, Object> sample = Map.of("take", Map.of("sample", 25, "seed", 8));
        List<String> once = numbers(rows(Map.of("order", List.of("due"), "shape", sample), 10));
        assertThat(once).hasSize(25).doesNotHaveDuplicates();
        assertThat(numbers(rows(Map.of("order", List.of("-number"), "shape", sample), 100)))
                .as("the same ones in another order")
                .containsExactlyInAnyOrderElementsOf(once);
        String file = ada.get(AT + "/export.csv?columns=number&order=due&shape="
                        + java.net.URLEncoder.encode(
                                "{\"take\":{\"sample\":25,\"seed\":8},\"columns\":{\"number\":{\"title\":\"No.\"}}}",
                                java.nio.charset.StandardCharsets.UTF_8))
                .text();
        List<String> lines = file.lines().toList();
        assertThat(lines.get(0)).isEqualTo("No.");
        assertThat(lines.subList(1, 26)).isEqualTo(once);
        JsonNode tills = ok(
                "/groups",
                Map.of(
                        "groups",
                        List.of(Map.of("field", "till")),
                        "take",
                        Map.of("first", 30),
                        "order",
                        List.of("due")));
        assertThat(tills.get("records").longValue()).isEqualTo(30);
        // What is in a group of a part is in the part, too.
        Set<String> inGroups = new HashSet<>();
        for (JsonNode till : tills.get("groups")) {
            List<JsonNode> found = rows(
                    Map.of(
                            "order", List.of("due"),
                            "inside", List.of(inside("till", null, till)),
                            "shape", Map.of("take", Map.of("first", 30))),
                    4);
            assertThat(found).hasSize(till.get("records").intValue());
            inGroups.addAll(numbers(found));
        }
        assertThat(inGroups)
                .containsExactlyInAnyOrderElementsOf(
                        query("select number from records.takings order by due nulls last, id limit 30"));
        refused("/rows", Map.of("shape", Map.of("take", Map.of("from", 5, "to", 2))), "bad-part");
        refused("/rows", Map.of("shape", Map.of("take", Map.of("first", 5, "sample", 2))), "bad-part");
    }

    @Test
    void allRecordsWithTheMatchesMarked() throws SQLException {
        Map<String, Object> asked = Map.of(
                "statement",
                "till is \"West\" and due in 2026-11-01 to 2026-11-30",
                "order",
                List.of("-due"),
                "shape",
                Map.of("marked", true));
        List<JsonNode> all = rows(asked, 70);
        assertThat(numbers(all))
                .isEqualTo(query("select number from records.takings order by due desc nulls last, id desc"));
        assertThat(numbers(all.stream()
                        .filter(r -> r.get("matches").booleanValue())
                        .toList()))
                .isEqualTo(query(
                        "select number from records.takings where till = 'West' and due >= '2026-11-01' and due < '2026-12-01'"
                                + " order by due desc, id desc"));
        refused("/rows", Map.of("shape", Map.of("marked", true, "take", Map.of("first", 3))), "marks-alone");
    }

    @Test
    void twoReadingsOfOneQuestionSayWhatEntersAndWhatLeaves() throws SQLException {
        Map<String, Object> asked = Map.of(
                "statement", "due in next 7 days", "asOf", "2026-11-12T15:00:00Z", "against", "2026-11-15T15:00:00Z");
        JsonNode counts = ok("/comparison", asked);
        String here = "due >= '2026-11-12' and due < '2026-11-19'";
        String there = "due >= '2026-11-15' and due < '2026-11-22'";
        Map<String, String> sides = Map.of(
                "here", here + " and not (" + there + ")",
                "there", there + " and not (" + here + ")",
                "both", here + " and " + there);
        for (Map.Entry<String, String> side : sides.entrySet()) {
            List<String> expected =
                    query("select number from records.takings where " + side.getValue() + " order by number");
            assertThat(counts.get(side.getKey()).intValue())
                    .as(side.getKey())
                    .isEqualTo(expected.size())
                    .isPositive();
            List<JsonNode> found = rows(
                    Map.of(
                            "statement",
                            "due in next 7 days",
                            "asOf",
                            "2026-11-12T15:00:00Z",
                            "compared",
                            Map.of("against", "2026-11-15T15:00:00Z", "side", side.getKey())),
                    20);
            assertThat(numbers(found)).as(side.getKey()).containsExactlyInAnyOrderElementsOf(expected);
        }
    }

    @Test
    void aTimeOfDayIsReadInTheZoneOfTheQuestion() {
        for (String asOf : List.of("2026-07-12T00:30", "2026-07-11T23:30:00Z", "2026-07-12")) {
            assertThat(ok("/rows", Map.of("asOf", asOf, "limit", 1)).get("asOf").stringValue())
                    .isEqualTo(asOf.contains("T") ? "2026-07-11T23:30:00Z" : "2026-07-12T11:00:00Z");
        }
        assertThat(ok("/rows", Map.of("asOf", "2026-07-12T00:30", "zone", "UTC", "limit", 1))
                        .get("asOf")
                        .stringValue())
                .isEqualTo("2026-07-12T00:30:00Z");
    }

    @Test
    void aViewKeepsItsShapeAndRefusesOneThatDoesNotGo() {
        Map<String, Object> shape = Map.of(
                "columns",
                Map.of("number", Map.of("width", 120, "title", "No.", "pinned", true)),
                "density",
                "close",
                "wrap",
                true,
                "groups",
                List.of(Map.of("field", "at", "by", "week")),
                "measures",
                List.of(Map.of("function", "sum", "field", "amount")));
        Map<String, Object> view = new HashMap<>(Map.of("register", "takings", "name", "By week", "shape", shape));
        Caller.Answer kept = ada.post("/api/views", view);
        assertThat(kept.status()).as(kept.text()).isEqualTo(201);
        JsonNode back =
                ada.get("/api/views/" + kept.json().get("id").asLong()).json().get("shape");
        assertThat(back.get("columns").get("number").get("title").stringValue()).isEqualTo("No.");
        assertThat(back.get("groups").get(0).get("by").stringValue()).isEqualTo("week");
        assertThat(back.get("density").stringValue()).isEqualTo("close");
        assertThat(back.has("take")).isFalse();

        List<Map.Entry<Map<String, Object>, String>> wrong = List.of(
                Map.entry(Map.of("running", "zero"), "running-order"),
                Map.entry(Map.of("columns", Map.of("number", Map.of("width", 3))), "bad-width"),
                Map.entry(Map.of("columns", Map.of("nothing", Map.of("width", 300))), "unknown-field"),
                Map.entry(Map.of("groups", List.of(Map.of("field", "tags"))), "bad-group"));
        for (Map.Entry<Map<String, Object>, String> one : wrong) {
            Caller.Answer refused = ada.patch(
                    "/api/views/" + kept.json().get("id").asLong(),
                    Map.of(
                            "version",
                            kept.json().get("version").intValue(),
                            "shape",
                            one.getKey(),
                            "order",
                            List.of("number")));
            assertThat(refused.status()).as(refused.text()).isEqualTo(422);
            assertThat(refused.json().get("code").stringValue()).isEqualTo(one.getValue());
        }
        Optional<JsonNode> history = Optional.ofNullable(
                ada.get("/api/views/" + kept.json().get("id").asLong() + "/history")
                        .json()
                        .get(0)
                        .get("after")
                        .get("shape"));
        assertThat(history).isPresent();
    }
}
