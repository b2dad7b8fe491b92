package deftlens.server.totals;

import static org.assertj.core.api.Assertions.assertThat;

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
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Totals against hand-written SQL, and the records behind each of their figures. */
@ExtendWith(TestServer.class)
class TotalsTest {

    private static final String AT = "/api/registers/fees";
    private static final String ZONE = "Europe/London";
    private static final Map<String, Object> SUM = Map.of("function", "sum", "field", "amount");
    private static final Map<String, Object> NUMBER = Map.of("function", "count");
    private static Caller ada;

    @BeforeAll
    static void make() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "fees",
                        "Fees",
                        "fee",
                        "at",
                        "number",
                        true,
                        List.of(
                                new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()),
                                new FieldDefinition("at", "At", FieldType.MOMENT, false, true, List.of()),
                                new FieldDefinition(
                                        "site", "Site", FieldType.CHOICE, false, true, List.of("West", "East")),
                                new FieldDefinition("clerk", "Clerk", FieldType.TEXT, false, true, List.of()),
                                new FieldDefinition("due", "Due", FieldType.DATE, false, true, List.of()),
                                new FieldDefinition("opens", "Opens", FieldType.TIME, false, true, List.of()),
                                new FieldDefinition("paid", "Paid", FieldType.YES_NO, false, true, List.of()),
                                new FieldDefinition("spent", "Spent", FieldType.DURATION, false, true, List.of()),
                                new FieldDefinition("amount", "Amount", FieldType.MONEY, false, true, List.of()))));
        TestServer.sql("""
                insert into records.fees (number, at, site, clerk, due, opens, paid, spent, amount)
                select 'F-' || i,
                       case when i % 23 = 0 then null
                            else timestamptz '2026-03-27 22:10 Europe/London' + interval '7 hours 13 minutes' * (i % 290) end,
                       (array['West', 'East', null])[1 + i % 3],
                       (array['Ana', 'ana', '', null, 'Bo "the" Clerk, Jr', '=1+1'])[1 + i % 6],
                       case when i % 4 = 0 then null else date '2026-01-10' + i % 300 end,
                       case when i % 5 = 0 then null else time '06:30' + interval '25 minutes' * (i % 40) end,
                       (array[true, false, null])[1 + i % 3],
                       case when i % 7 = 0 then null else i % 9 * 1800 end,
                       case when i % 11 = 0 then null else (i * 37 % 400 - 150)::numeric / 4 end
                from generate_series(1, 340) i""");
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

    private static String refused(Map<String, Object> body, String code) {
        Caller.Answer answer = ada.post(AT + "/totals", body);
        assertThat(answer.status()).as(answer.text()).isBetween(400, 422);
        assertThat(answer.json().get("code").stringValue()).as(answer.text()).isEqualTo(code);
        return answer.json().get("detail").stringValue();
    }

    private static Map<String, Object> by(String field, String... by) {
        return by.length == 0 ? Map.of("field", field) : Map.of("field", field, "by", by[0]);
    }

    /** A row in short: its keys, its column, its figures. */
    private static String text(JsonNode row) {
        StringBuilder text = new StringBuilder();
        row.get("keys")
                .forEach(k -> text.append(k.path("value").stringValue("none")).append('|'));
        if (row.hasNonNull("across")) {
            text.append('@').append(row.at("/across/value").stringValue("none")).append('|');
        }
        row.get("values")
                .forEach(v -> text.append(
                                v.isNull()
                                        ? "null"
                                        : v.decimalValue().stripTrailingZeros().toPlainString())
                        .append(' '));
        return text.toString().strip();
    }

    private static List<String> rows(JsonNode totals) {
        List<String> rows = new ArrayList<>();
        totals.get("rows").forEach(r -> rows.add(text(r)));
        return rows;
    }

    private static List<String> query(String sql) throws SQLException {
        return List.of(TestServer.query("select coalesce(string_agg(t, E'\\n'), '') from (" + sql + ") q(t)")
                .split("\n"));
    }

    /** Against the rank, which is counted in whole numbers. */
    @Test
    void percentilesAreValuesOfRecords() throws SQLException {
        for (int percent : new int[] {1, 7, 14, 28, 50, 55, 56, 57, 90, 99}) {
            JsonNode totals = ok(
                    "/totals",
                    Map.of(
                            "rows",
                            List.of(by("site")),
                            "measures",
                            List.of(Map.of("function", "percentile", "field", "amount", "percent", percent)),
                            "keep",
                            "percentile_" + percent + "_of_amount is not empty"));
            List<String> expected = query("""
                    with r as (
                        select site, amount, row_number() over (partition by site order by amount) as at,
                               count(*) over (partition by site) as n
                        from records.fees where amount is not null)
                    select concat(coalesce(site, 'none'), ' ', trim_scale(amount)) from r
                    where at = (%d * n + 99) / 100 order by site is null, site""".formatted(percent));
            assertThat(totals.get("rows")
                            .valueStream()
                            .map(row -> row.at("/keys/0/value").stringValue("none") + " "
                                    + row.at("/values/percentile_" + percent + "_of_amount")
                                            .decimalValue()
                                            .stripTrailingZeros()
                                            .toPlainString()))
                    .containsExactlyInAnyOrderElementsOf(expected)
                    .isNotEmpty();
            assertThat(totals.at("/figures/0/label").stringValue()).endsWith("percentile of Amount");
        }
        JsonNode usual = ok(
                "/totals",
                Map.of(
                        "measures",
                        List.of(
                                Map.of("function", "percentile", "field", "amount"),
                                Map.of("function", "percentile", "field", "amount", "percent", 10))));
        assertThat(usual.get("figures").valueStream().map(f -> f.get("name").stringValue()))
                .containsExactly("percentile_90_of_amount", "percentile_10_of_amount");
        for (Object wrong : List.of(0, 100, 2.5)) {
            assertThat(ada.post(
                                    AT + "/totals",
                                    Map.of(
                                            "measures",
                                            List.of(Map.of(
                                                    "function", "percentile", "field", "amount", "percent", wrong))))
                            .status())
                    .as("%s", wrong)
                    .isIn(400, 422);
        }
    }

    @Test
    void sumsBySiteAndMonthAreThoseOfPlainSql() throws SQLException {
        JsonNode totals = ok(
                "/totals",
                Map.of(
                        "statement",
                        "amount > -20",
                        "zone",
                        ZONE,
                        "rows",
                        List.of(by("site"), by("at", "month")),
                        "across",
                        by("paid"),
                        "measures",
                        List.of(NUMBER, SUM, Map.of("name", "middle", "function", "median", "field", "amount")),
                        "empties",
                        false));
        List<String> found = rows(totals);
        List<String> expected = query("""
                with r as (
                    select site, date_trunc('month', at at time zone 'Europe/London')::date as month, paid, amount
                    from records.fees where amount > -20)
                select concat(coalesce(site, 'none'), '|',
                           case when grouping(month) = 0 then coalesce(month::text, 'none') || '|' end,
                           case when grouping(paid) = 0 then '@' || coalesce(paid::text, 'none') || '|' end,
                           count(*), ' ', trim_scale(sum(amount)), ' ',
                           trim_scale((percentile_cont(0.5) within group (order by amount))::numeric))
                from r group by grouping sets ((site, month, paid), (site, month), (site, paid), (site))
                order by site is null, site desc, grouping(month) desc, month is null, month,
                         grouping(paid) desc, paid is null, paid""");
        // Rows stand between those around them, each with its columns.
        assertThat(found).containsExactlyInAnyOrderElementsOf(expected).hasSizeGreaterThan(20);
        assertThat(totals.get("figures").valueStream().map(f -> f.get("name").stringValue()))
                .containsExactly("number", "sum_of_amount", "middle");
        assertThat(text(totals.get("total")))
                .isEqualTo(query("select concat(count(*), ' ', trim_scale(sum(amount)), ' ',"
                                + " trim_scale((percentile_cont(0.5) within group (order by amount))::numeric))"
                                + " from records.fees where amount > -20")
                        .getFirst());
        assertThat(totals.get("shownTotal")).isEqualTo(totals.get("total"));
        assertThat(totals.get("columns").valueStream().map(c -> c.path("value").stringValue("none")))
                .containsExactly("false", "true", "none");
    }

    @Test
    void rowsStandInTheirDeclaredOrderEachBeforeThoseInside() {
        JsonNode totals = ok("/totals", Map.of("rows", List.of(by("site"), by("paid")), "empties", false));
        assertThat(totals.get("rows").valueStream().map(r -> text(r).replaceAll("\\|\\d+$", "")))
                .containsExactly("West", "West|true", "East", "East|false", "none", "none|none");
    }

    @Test
    void rowsAreOrderedByAFigureAndThoseWithoutComeLast() {
        List<BigDecimal> sums = new ArrayList<>();
        JsonNode totals = ok(
                "/totals",
                Map.of("rows", List.of(by("at", "week")), "measures", List.of(SUM), "order", "-sum_of_amount"));
        totals.get("rows").forEach(r -> {
            JsonNode sum = r.at("/values/sum_of_amount");
            sums.add(sum.isNull() ? null : sum.decimalValue());
        });
        List<BigDecimal> sorted = new ArrayList<>(sums);
        sorted.sort(java.util.Comparator.nullsLast(java.util.Comparator.reverseOrder()));
        assertThat(sums).hasSizeGreaterThan(5).isEqualTo(sorted);
    }

    /** The promise: a figure opens exactly the records behind it, whatever the rows, columns and criteria are. */
    @Test
    void everyFigureOpensItsRecords() {
        Random random = new Random(Long.getLong("deft.seed", 7919));
        List<Map<String, Object>> levels = List.of(
                by("site"),
                by("clerk"),
                by("paid"),
                by("spent"),
                by("amount"),
                by("opens"),
                by("opens", "hour of day"),
                by("at", "hour"),
                by("at", "day"),
                by("at", "week"),
                by("at", "month"),
                by("at", "quarter"),
                by("at", "fiscal quarter"),
                by("at", "weekday"),
                by("at", "hour of day"),
                by("due", "month of year"),
                by("due", "year"),
                by("due", "week"));
        List<String> statements = List.of(
                "",
                "amount >= 10 or site is empty",
                "not clerk is \"ana\" and due in 2026",
                "at in working hours or paid is yes",
                "due before 2026-09-01 and off(site is \"West\")");
        List<String> keeps = List.of("", "number >= 3", "sum_of_amount > 20 or number = 2", "share_of_number >= 0.05");
        int opened = 0;
        for (int round = 0; round < 32; round++) {
            Map<String, Object> asked = new HashMap<>();
            asked.put("statement", statements.get(random.nextInt(statements.size())));
            asked.put("zone", random.nextBoolean() ? ZONE : "Australia/Lord_Howe");
            List<Map<String, Object>> rows = new ArrayList<>();
            for (int n = random.nextInt(4); n > 0; n--) {
                rows.add(levels.get(random.nextInt(levels.size())));
            }
            asked.put("rows", rows);
            if (random.nextBoolean()) {
                List<Map<String, Object>> few = levels.stream()
                        .filter(l ->
                                !List.of("amount", "spent").contains(l.get("field")) && !"hour".equals(l.get("by")))
                        .toList();
                asked.put("across", few.get(random.nextInt(few.size())));
            }
            asked.put("measures", List.of(NUMBER, SUM, Map.of("function", "share")));
            if (!rows.isEmpty()) {
                asked.put("keep", keeps.get(random.nextInt(keeps.size())));
                if (random.nextBoolean()) {
                    asked.put("limit", 1 + random.nextInt(4));
                    asked.put("order", random.nextBoolean() ? "-sum_of_amount" : "number");
                }
            }
            Caller.Answer answer = ada.post(AT + "/totals", asked);
            assertThat(answer.status()).as("%s %s", asked, answer.text()).isEqualTo(200);
            JsonNode totals = answer.json();
            List<JsonNode> places = new ArrayList<>();
            totals.get("rows").forEach(places::add);
            java.util.Collections.shuffle(places, random);
            List<JsonNode> tried = new ArrayList<>(places.subList(0, Math.min(12, places.size())));
            tried.add(totals.get("shownTotal"));
            totals.get("shownTotals").forEach(tried::add);
            for (JsonNode place : tried.subList(0, Math.min(14, tried.size()))) {
                assertOpens(asked, place, false, false);
                opened++;
            }
            assertOpens(asked, totals.get("total"), true, false);
        }
        assertThat(opened).isGreaterThan(200);
    }

    /** @param earlier whether the records of the earlier time are opened, beside which the totals stand */
    private static void assertOpens(Map<String, Object> asked, JsonNode place, boolean whole, boolean earlier) {
        Map<String, Object> at = Places.of(place);
        at.put("whole", whole);
        if (earlier) {
            at.put("figure", "earlier_of_number");
        }
        Map<String, Object> request = new HashMap<>(asked);
        request.put("at", at);
        JsonNode behind = ok("/totals/records", request);
        for (Map<String, Object> question : List.<Map<String, Object>>of(
                Map.of("statement", behind.get("statement").stringValue()),
                Map.of("condition", behind.get("condition")))) {
            Map<String, Object> sum = new HashMap<>(question);
            sum.put("zone", asked.get("zone"));
            sum.put("asOf", asked.get("asOf"));
            sum.put("groups", List.of());
            sum.put("measures", List.of(SUM));
            JsonNode all = ok("/groups", sum);
            String what = asked + " at " + at + ": " + question;
            assertThat(all.get("records").longValue())
                    .as(what)
                    .isEqualTo(place.get(earlier ? "earlier" : "records").longValue());
            JsonNode figure = place.at(earlier ? "/values/earlier_of_sum_of_amount" : "/values/sum_of_amount");
            JsonNode found = all.at("/figures/0");
            assertThat(found.isNull()).as(what).isEqualTo(figure.isNull());
            if (!figure.isNull()) {
                assertThat(found.decimalValue()).as(what).isEqualByComparingTo(figure.decimalValue());
            }
        }
    }

    /** So does every figure of the earlier time that is compared with. */
    @Test
    void everyEarlierFigureOpensItsRecords() {
        Random random = new Random(Long.getLong("deft.seed", 7919));
        List<String> windows = List.of(
                "at in 2026-06",
                "at in 2026-Q2",
                "at in last 90 days",
                "at between 2026-04-03 and 2026-05-31",
                "at in 2026");
        List<String> others = List.of("", " and (amount >= 0 or site is empty)", " and not clerk is \"ana\"");
        int opened = 0;
        for (int round = 0; round < 14; round++) {
            Map<String, Object> asked = new HashMap<>();
            asked.put("statement", windows.get(round % windows.size()) + others.get(random.nextInt(others.size())));
            asked.put("zone", random.nextBoolean() ? ZONE : "Australia/Lord_Howe");
            asked.put("asOf", "2026-08-20T12:00:00Z");
            asked.put("compare", round % 4 == 3 ? "year" : "before");
            List<String> steps = List.of("day", "week", "month", "weekday", "fiscal quarter", "hour");
            asked.put("rows", List.of(by("site"), by("at", steps.get(random.nextInt(steps.size())))));
            if (random.nextBoolean()) {
                asked.put("across", by("paid"));
            }
            asked.put("measures", List.of(NUMBER, SUM));
            if (round % 3 == 0) {
                asked.put("keep", "number >= 2");
            }
            if (round % 2 == 0) {
                asked.put("limit", 2);
                asked.put("order", "-difference_of_sum_of_amount");
            }
            JsonNode totals = ok("/totals", asked);
            List<JsonNode> places = new ArrayList<>();
            totals.get("rows").forEach(places::add);
            java.util.Collections.shuffle(places, random);
            List<JsonNode> tried = new ArrayList<>(places.subList(0, Math.min(10, places.size())));
            tried.add(totals.get("shownTotal"));
            for (JsonNode place : tried) {
                assertOpens(asked, place, false, true);
                assertOpens(asked, place, false, false);
                opened += place.get("earlier").intValue() > 0 ? 1 : 0;
            }
            assertOpens(asked, totals.get("total"), true, true);
        }
        assertThat(opened).isGreaterThan(50);
    }

    @Test
    void theWindowBeforeStandsBesideWithDifferenceAndGrowth() throws SQLException {
        Map<String, Object> asked = new HashMap<>(Map.of(
                "statement",
                "at in 2026-05",
                "zone",
                ZONE,
                "asOf",
                "2026-05-20T12:00:00Z",
                "rows",
                List.of(by("site")),
                "measures",
                List.of(NUMBER, SUM, Map.of("function", "max", "field", "at")),
                "compare",
                "before"));
        JsonNode totals = ok("/totals", asked);
        assertThat(totals.get("figures").valueStream().map(f -> f.get("name").stringValue()))
                .containsExactly(
                        "number",
                        "earlier_of_number",
                        "difference_of_number",
                        "growth_of_number",
                        "sum_of_amount",
                        "earlier_of_sum_of_amount",
                        "difference_of_sum_of_amount",
                        "growth_of_sum_of_amount",
                        "max_of_at",
                        "earlier_of_max_of_at");
        String month = "date_trunc('month', at at time zone 'Europe/London')";
        List<String> expected = query("""
                select concat(coalesce(site, 'none'), '|', n, ' ', e, ' ', n - e, ' ', trim_scale(round((n - e) / e::numeric, 6)), ' ',
                              trim_scale(s), ' ', trim_scale(t), ' ', trim_scale(s - t), ' ', trim_scale(round((s - t) / abs(t), 6)))
                from (select site, count(*) filter (where now) as n, count(*) filter (where not now) as e,
                             sum(amount) filter (where now) as s, sum(amount) filter (where not now) as t
                      from (select *, %1$s = '2026-05-01' as now from records.fees
                            where %1$s in ('2026-05-01', '2026-04-01')) f group by site) g
                order by site is null, site desc""".formatted(month));
        List<String> found = totals.get("rows")
                .valueStream()
                .map(r -> {
                    tools.jackson.databind.node.ObjectNode values =
                            (tools.jackson.databind.node.ObjectNode) r.get("values");
                    values.remove(List.of("max_of_at", "earlier_of_max_of_at"));
                    return text(r);
                })
                .toList();
        assertThat(found).containsExactlyElementsOf(expected).hasSize(3);
        assertThat(totals.at("/compared/window/from").stringValue()).isEqualTo("2026-05-01");
        assertThat(totals.at("/compared/earlier/to").stringValue()).isEqualTo("2026-04-30");
        assertThat(totals.at("/compared/notes").valueStream().map(JsonNode::stringValue))
                .containsExactly(
                        "This window is not over: it ends on 31 May 2026.", "It has 31 days, the earlier one 30.");
        // Rows go by what changed most.
        asked.put("order", "-difference_of_sum_of_amount");
        List<BigDecimal> differences = new ArrayList<>();
        ok("/totals", asked)
                .get("rows")
                .forEach(r -> differences.add(
                        r.at("/values/difference_of_sum_of_amount").decimalValue()));
        assertThat(differences).isSortedAccordingTo(java.util.Comparator.reverseOrder());
        // Nothing of it is asked by criteria on figures.
        asked.put("keep", "difference_of_number > 1");
        refused(asked, "statement-unreadable");
    }

    @Test
    void whatHasNoRecordsNowStandsBesideWhatItHad() throws SQLException {
        // No fee of November 2026 exists; those of June stand in its rows.
        JsonNode totals = ok(
                "/totals",
                Map.of(
                        "statement",
                        "at in 2026-07 and clerk is \"Ana\"",
                        "zone",
                        ZONE,
                        "rows",
                        List.of(by("at", "month")),
                        "measures",
                        List.of(NUMBER, SUM),
                        "compare",
                        "before"));
        String june =
                " from records.fees where clerk ilike 'ana' and date_trunc('month', at at time zone 'Europe/London') = '2026-06-01'";
        assertThat(totals.get("rows")).hasSize(1);
        JsonNode row = totals.at("/rows/0");
        assertThat(row.at("/keys/0/value").stringValue()).isEqualTo("2026-07-01");
        assertThat(row.get("records").longValue()).isZero();
        assertThat(row.get("earlier").longValue())
                .isEqualTo(Long.parseLong(TestServer.query("select count(*)" + june)))
                .isPositive();
        assertThat(row.at("/values/sum_of_amount").isNull()).isTrue();
        assertThat(row.at("/values/difference_of_sum_of_amount").decimalValue())
                .isEqualByComparingTo(TestServer.query("select -sum(amount)" + june));
    }

    @Test
    void withoutAWindowNothingIsComparedAndTheTotalsStand() {
        JsonNode totals = ok(
                "/totals",
                Map.of(
                        "statement", "amount > 0",
                        "rows", List.of(by("site")),
                        "compare", "year",
                        "order", "growth_of_number"));
        assertThat(totals.get("figures")).hasSize(1);
        assertThat(totals.get("rows")).hasSize(3);
        assertThat(totals.at("/compared/window").isMissingNode()).isTrue();
        assertThat(totals.at("/compared/notes/0").stringValue())
                .isEqualTo("Nothing is compared: the question has no window with two ends that all its records lie in,"
                        + " such as “At in this month”.");
        JsonNode hours = ok(
                "/totals",
                Map.of(
                        "statement", "at in last 36 hours",
                        "rows", List.of(by("at", "day")),
                        "compare", "before"));
        assertThat(hours.at("/compared/notes/0").stringValue()).contains("need a window of whole days");
        Caller.Answer none = ada.post(
                AT + "/totals/records",
                Map.of(
                        "rows",
                        List.of(),
                        "compare",
                        "year",
                        "at",
                        Map.of("keys", List.of(), "figure", "earlier_of_number")));
        assertThat(none.json().get("code").stringValue()).isEqualTo("no-place");
    }

    /** The order that follows a list leaves out what is not listed; where nothing is ordered the criterion has to. */
    @Test
    void groupsAndTotalsOfAListThatTheOrderFollowsAreOfTheListAlone() {
        Map<String, Object> asked = new HashMap<>(Map.of(
                "statement", "number is in (\"F-7\", \"F-3\", \"F-250\")",
                "order", List.of("as-listed:number"),
                "groups", List.of(by("paid"))));
        assertThat(ok("/groups", asked).get("records").longValue()).isEqualTo(3);
        asked.put("groups", List.of());
        asked.put("measures", List.of(SUM));
        assertThat(ok("/groups", asked).get("records").longValue()).isEqualTo(3);
        assertThat(ok("/rows", Map.of("statement", asked.get("statement"), "order", asked.get("order")))
                        .get("rows"))
                .hasSize(3);
    }

    @Test
    void aChangeIsAgainstTheColumnBefore() throws SQLException {
        JsonNode totals = ok(
                "/totals",
                Map.of(
                        "statement",
                        "at is not empty",
                        "zone",
                        ZONE,
                        "rows",
                        List.of(by("clerk")),
                        "across",
                        Map.of("field", "at", "by", "month", "arranged", "descending"),
                        "measures",
                        List.of(SUM),
                        "changes",
                        true));
        List<String> expected = query("""
                select concat(coalesce(clerk, 'none'), '|', month, '|', coalesce(trim_scale(sum)::text, 'null'), ' ',
                              coalesce(trim_scale(case when month > '2026-03-01' then coalesce(sum, 0) - coalesce(lag, 0) end)::text, 'null'))
                from (select clerk, month, sum, lag(sum) over (partition by clerk order by month) as lag
                      from (select c.clerk, m.month, (select sum(amount) from records.fees f
                                where nullif(f.clerk, '') is not distinct from c.clerk
                                  and date_trunc('month', at at time zone 'Europe/London')::date = m.month) as sum
                            from (select distinct nullif(clerk, '') as clerk from records.fees) c,
                                 (select generate_series(date '2026-03-01', date '2026-06-01', interval '1 month')::date as month) m) s) t
                where sum is not null or lag is not null""");
        assertThat(totals.get("rows")
                        .valueStream()
                        .filter(r -> r.hasNonNull("across"))
                        .map(r -> text(r).replace("@", "")))
                .containsExactlyInAnyOrderElementsOf(expected)
                .hasSizeGreaterThan(15);
        refused(Map.of("rows", List.of(by("site")), "changes", true), "no-columns");
    }

    @Test
    void criteriaOnFiguresLeaveRowsOutAfterAddingUp() throws SQLException {
        JsonNode totals = ok(
                "/totals",
                Map.of(
                        "rows", List.of(by("site"), by("clerk")),
                        "measures", List.of(NUMBER, SUM, Map.of("function", "distinct", "field", "clerk")),
                        "keep", "[sum of Amount] > 100 and number is at least 20"));
        String kept =
                "(select site, clerk, count(*) as n, sum(amount) as s from (select site, nullif(clerk, '') as clerk,"
                        + " amount from records.fees) f group by 1, 2 having sum(amount) > 100 and count(*) >= 20)";
        assertThat(totals.get("rows")
                        .valueStream()
                        .filter(r -> r.get("keys").size() == 2)
                        .map(r -> text(r).replaceAll(" \\d+$", "")))
                .containsExactlyInAnyOrderElementsOf(query(
                        "select concat(coalesce(site, 'none'), '|', coalesce(clerk, 'none'), '|', n, ' ', trim_scale(s)) from "
                                + kept + " k"))
                .hasSizeBetween(2, 14);
        assertThat(totals.get("rows")
                        .valueStream()
                        .filter(r -> r.get("keys").size() == 1)
                        .map(r -> text(r).replaceAll(" \\d+$", "")))
                .containsExactlyInAnyOrderElementsOf(
                        query("select concat(coalesce(site, 'none'), '|', sum(n), ' ', trim_scale(sum(s))) from " + kept
                                + " k group by site"));
        assertThat(text(totals.get("shownTotal")).replaceAll(" \\d+$", ""))
                .isEqualTo(query("select concat(sum(n), ' ', trim_scale(sum(s))) from " + kept + " k")
                        .getFirst());
        assertThat(totals.at("/total/records").longValue()).isEqualTo(340);
        assertThat(totals.at("/total/values/sum_of_amount").decimalValue())
                .isEqualByComparingTo(TestServer.query("select sum(amount) from records.fees"));
        // No row fits: nothing is shown, and the total of all stays.
        JsonNode none = ok("/totals", Map.of("rows", List.of(by("site")), "keep", "number > 1000"));
        assertThat(none.get("rows")).isEmpty();
        assertThat(none.at("/shownTotal/records").longValue()).isZero();
        assertThat(none.at("/total/records").longValue()).isEqualTo(340);
    }

    /** The first rows in their order; a median under them is of their records, which their own medians do not tell. */
    @Test
    void theFirstRowsStandAloneWithTheTotalOfTheirRecords() throws SQLException {
        Map<String, Object> median = Map.of("function", "median", "field", "amount");
        Map<String, Object> asked = Map.of(
                "rows",
                List.of(by("clerk"), by("site")),
                "measures",
                List.of(SUM, median),
                "order",
                "-sum_of_amount",
                "limit",
                2);
        JsonNode totals = ok("/totals", asked);
        String clerk = "coalesce(nullif(clerk, ''), 'none')";
        List<String> first =
                query("select " + clerk + " from records.fees group by 1 order by sum(amount) desc limit 2");
        assertThat(totals.get("rows")
                        .valueStream()
                        .filter(r -> r.get("keys").size() == 1)
                        .map(r -> r.at("/keys/0/value").stringValue("none")))
                .containsExactlyElementsOf(first);
        assertThat(totals.at("/outermost/shown").asInt()).isEqualTo(2);
        assertThat(totals.at("/outermost/all").asInt()).isEqualTo(5);
        String records = " from records.fees where " + clerk + " in ('" + String.join("', '", first) + "')";
        String figures = "select concat(trim_scale(sum(amount)), ' ', trim_scale(cast(percentile_cont(0.5) within group"
                + " (order by amount) as numeric)))";
        assertThat(text(totals.get("shownTotal"))).isEqualTo(TestServer.query(figures + records));
        assertThat(text(totals.get("total"))).isEqualTo(TestServer.query(figures + " from records.fees"));
        // Every row inside them is there, as among all.
        List<String> all = rows(ok("/totals", Map.of("rows", asked.get("rows"), "measures", asked.get("measures"))));
        assertThat(all).containsAll(rows(totals));
        assertThat(rows(totals))
                .hasSize(2
                        + all.stream()
                                .filter(r -> r.split("\\|").length == 3
                                        && first.stream().anyMatch(c -> r.startsWith(c + "|")))
                                .toList()
                                .size());
        // Where there are not so many, all are there and nothing is said of others.
        JsonNode few = ok("/totals", Map.of("rows", List.of(by("site")), "limit", 3));
        assertThat(few.get("rows")).hasSize(3);
        assertThat(few.has("outermost") && !few.get("outermost").isNull()).isFalse();
        refused(Map.of("limit", 3), "no-rows");
        refused(Map.of("rows", List.of(by("site")), "limit", 0), "bad-limit");
        refused(Map.of("shape", Map.of("groups", List.of(by("site")), "totals", Map.of("limit", 1001))), "bad-limit");
    }

    /** Months without records are not among the first ones. */
    @Test
    void theFirstPeriodsAreThoseWithRecords() {
        Map<String, Object> asked = new HashMap<>(Map.of(
                "statement", "at in 2026-04 or at in 2026-06",
                "rows", List.of(by("at", "month")),
                "order", "-number"));
        assertThat(rows(ok("/totals", asked))).anyMatch(r -> r.startsWith("2026-05"));
        asked.put("limit", 1);
        assertThat(rows(ok("/totals", asked))).hasSize(1).noneMatch(r -> r.startsWith("2026-05"));
    }

    @Test
    void sharesAreOfTheTotalOfTheirColumn() {
        JsonNode totals = ok(
                "/totals",
                Map.of(
                        "rows", List.of(by("clerk")),
                        "across", by("site"),
                        "measures",
                                List.of(
                                        NUMBER,
                                        Map.of("function", "share"),
                                        Map.of("function", "share", "field", "amount"))));
        Map<String, BigDecimal> shares = new HashMap<>();
        totals.get("rows")
                .forEach(r -> shares.merge(
                        r.hasNonNull("across") ? r.at("/across/value").stringValue("none") : "all",
                        r.at("/values/share_of_number").decimalValue(),
                        BigDecimal::add));
        // Rounded to six places each.
        assertThat(shares).hasSizeGreaterThan(2);
        shares.values().forEach(sum -> assertThat(sum).isBetween(new BigDecimal("0.99999"), new BigDecimal("1.00001")));
        assertThat(totals.at("/total/values/share_of_number").decimalValue()).isEqualByComparingTo("1");
    }

    @Test
    void periodsWithoutRecordsAreThere() {
        Map<String, Object> asked = Map.of(
                "statement",
                "at from 2026-05-01 and at up to 2026-08-31 and not at in 2026-06",
                "zone",
                ZONE,
                "rows",
                List.of(by("at", "month")),
                "measures",
                List.of(NUMBER, SUM));
        JsonNode totals = ok("/totals", asked);
        assertThat(totals.get("rows")
                        .valueStream()
                        .map(r -> r.at("/keys/0/value").stringValue()))
                .containsExactly("2026-05-01", "2026-06-01", "2026-07-01", "2026-08-01");
        assertThat(text(totals.get("rows").get(1))).isEqualTo("2026-06-01|0 null");
        Map<String, Object> without = new HashMap<>(asked);
        without.put("empties", false);
        assertThat(ok("/totals", without).get("rows")).hasSizeLessThan(4);
        JsonNode days = ok("/totals", Map.of("statement", "at weekday in (Mon, Tue)", "across", by("at", "weekday")));
        assertThat(days.get("columns").valueStream().map(c -> c.get("label").stringValue()))
                .containsExactly("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday");
        assertThat(days.at("/totals/6/records").longValue()).isZero();
        // What has not come yet is not empty.
        JsonNode year = ok(
                "/totals",
                Map.of(
                        "statement",
                        "at in 2026",
                        "asOf",
                        "2026-07-15",
                        "zone",
                        ZONE,
                        "rows",
                        List.of(by("at", "month"))));
        assertThat(year.get("rows").valueStream().map(r -> r.at("/keys/0/value").stringValue()))
                .startsWith("2026-01-01", "2026-02-01")
                .doesNotContain("2026-12-01");
        assertThat(year.at("/windows/0/field").stringValue()).isEqualTo("at");
        assertThat(year.at("/windows/0/from").stringValue()).isEqualTo("2026-01-01T00:00:00Z");
    }

    @Test
    void periodsAreNotFilledUpWhereThatWouldBeMoreRowsThanAnybodyReads() throws SQLException {
        Map<String, Object> asked = new HashMap<>(
                Map.of("statement", "at is not empty", "zone", ZONE, "rows", List.of(by("number"), by("at", "day"))));
        long records = Long.parseLong(TestServer.query("select count(*) from records.fees where at is not null"));
        assertThat(ok("/totals", asked).get("rows")).hasSize((int) (2 * records));
        // Under fewer rows they are there.
        asked.put("rows", List.of(by("site"), by("at", "day")));
        assertThat(ok("/totals", asked)
                        .get("rows")
                        .valueStream()
                        .map(r -> r.get("records").longValue()))
                .contains(0L);
    }

    @Test
    void aViewsShapeIsReadAsTheSameTotals() {
        Map<String, Object> shape = Map.of(
                "groups", List.of(by("site")),
                "measures", List.of(Map.of("function", "sum", "field", "amount")),
                "totals",
                        Map.of(
                                "across",
                                by("paid"),
                                "shares",
                                true,
                                "order",
                                "-sum_of_amount",
                                "keep",
                                "sum_of_amount > 0"));
        JsonNode kept = ok("/totals", Map.of("shape", shape));
        JsonNode asked = ok(
                "/totals",
                Map.of(
                        "rows", List.of(by("site")),
                        "across", by("paid"),
                        "measures", List.of(SUM, Map.of("function", "share", "field", "amount")),
                        "order", "-sum_of_amount",
                        "keep", "sum_of_amount > 0"));
        assertThat(kept).isEqualTo(asked);
    }

    @Test
    void whatCannotBeTotalledIsRefusedWithWhatToDo() {
        assertThat(refused(Map.of("rows", List.of(by("site")), "keep", "sum_of_amont > 3"), "statement-unreadable"))
                .contains("number");
        assertThat(refused(Map.of("keep", "number > 3"), "no-rows")).contains("Choose what the rows are");
        assertThat(refused(Map.of("rows", List.of(by("site")), "order", "sum_of_amount"), "unknown-figure"))
                .contains("number");
        refused(Map.of("measures", List.of(Map.of("function", "sum", "field", "clerk"))), "bad-measure");
        refused(Map.of("measures", List.of(NUMBER, NUMBER)), "named-twice");
        refused(Map.of("measures", List.of(Map.of("name", "a b", "function", "count"))), "bad-name");
        refused(Map.of("rows", List.of(by("none"))), "unknown-field");
        refused(Map.of("rows", List.of(by("site", "month"))), "bad-group");
        refused(Map.of("shape", Map.of("totals", Map.of(), "take", Map.of("first", 10))), "totals-whole");
        refused(Map.of("shape", Map.of()), "no-totals");
        refused(Map.of("across", by("at", "hour")), "too-many-columns");
    }

    @Test
    void aCriterionOnWhatIsAddedUpIsNoticedAndCanBeHeldAfterwards() {
        Map<String, Object> asked = Map.of(
                "statement",
                "site is not empty and amount > 40",
                "rows",
                List.of(by("clerk")),
                "measures",
                List.of(NUMBER, SUM),
                "keep",
                "number > 1 or number = 0");
        JsonNode finding = ok("/totals", asked).at("/findings/0");
        assertThat(finding.get("message").stringValue())
                .isEqualTo("“amount is more than 40” leaves records out before they are added up."
                        + " Did you mean their sum?");
        assertThat(finding.get("statement").stringValue()).isEqualTo("site is not empty");
        assertThat(finding.get("keep").stringValue()).isEqualTo("(number > 1 or number = 0) and sum_of_amount > 40");
        Map<String, Object> mended = new HashMap<>(asked);
        mended.put("statement", finding.get("statement"));
        mended.put("keep", finding.get("keep"));
        JsonNode after = ok("/totals", mended);
        assertThat(after.get("findings")).isEmpty();
        assertThat(after.get("rows")).isNotEmpty();
        after.get("rows")
                .forEach(r ->
                        assertThat(r.at("/values/sum_of_amount").decimalValue()).isGreaterThan(new BigDecimal(40)));
        // Only what is added up, under all of, and where there are rows to leave out.
        assertThat(ok("/totals", Map.of("statement", "amount > 40", "rows", List.of(by("site"))))
                        .get("findings"))
                .isEmpty();
        assertThat(ok("/totals", Map.of("statement", "amount > 40", "measures", List.of(SUM)))
                        .get("findings"))
                .isEmpty();
        assertThat(ok(
                                "/totals",
                                Map.of(
                                        "statement",
                                        "amount > 40 or paid is yes",
                                        "rows",
                                        List.of(by("site")),
                                        "measures",
                                        List.of(SUM)))
                        .get("findings"))
                .isEmpty();
    }

    @Test
    void moreRowsThanAnybodyReadsAreRefused() throws SQLException {
        TestServer.sql(
                "insert into records.fees (number, site) select 'X-' || i, 'East' from generate_series(1, 10000) i");
        try {
            assertThat(refused(Map.of("rows", List.of(by("number")), "across", by("site")), "too-many-rows"))
                    .contains("20,000");
            // Criteria on figures make them few enough.
            JsonNode few = ok(
                    "/totals", Map.of("rows", List.of(by("number")), "across", by("site"), "keep", "number > 10000"));
            assertThat(few.get("rows")).isEmpty();
            assertThat(few.at("/total/records").longValue()).isEqualTo(10_340);
        } finally {
            TestServer.sql("delete from records.fees where number like 'X-%'");
        }
    }

    @Test
    void criteriaOnFiguresAreCompletedByTheirNames() {
        JsonNode answer = ok(
                "/totals/complete",
                Map.of("rows", List.of(by("site")), "measures", List.of(NUMBER, SUM), "text", "s", "position", 1));
        assertThat(answer.get("proposals")
                        .valueStream()
                        .map(p -> p.get("insert").stringValue()))
                .anyMatch(i -> i.contains("sum_of_amount") || i.contains("sum of Amount"));
        assertThat(answer.get("from").intValue()).isZero();
        Map<String, Object> written = Map.of(
                "rows",
                List.of(by("site")),
                "measures",
                List.of(NUMBER, SUM),
                "text",
                "[sum of Amount] is more than 5");
        assertThat(ok("/totals/statement", written).get("statement").stringValue())
                .isEqualTo("sum_of_amount > 5");
    }
}
