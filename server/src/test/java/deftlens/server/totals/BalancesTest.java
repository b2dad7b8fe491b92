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
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import tools.jackson.databind.JsonNode;

/** Balances against hand-written SQL, and the records behind each; of registers whose date is a moment, and a day. */
@ExtendWith(TestServer.class)
class BalancesTest {

    private static final String ZONE = "Europe/London";
    private static Caller ada;

    @BeforeAll
    static void make() throws SQLException {
        for (String key : List.of("tills", "shelves")) {
            FieldType date = key.equals("tills") ? FieldType.MOMENT : FieldType.DATE;
            TestServer.bean(RegisterCatalogue.class)
                    .add(new RegisterDefinition(
                                    key,
                                    key,
                                    "entry",
                                    "at",
                                    "number",
                                    true,
                                    List.of(
                                            new FieldDefinition(
                                                    "number", "Number", FieldType.TEXT, true, true, List.of()),
                                            new FieldDefinition("at", "At", date, false, true, List.of()),
                                            new FieldDefinition("item", "Item", FieldType.TEXT, false, true, List.of()),
                                            new FieldDefinition(
                                                    "site",
                                                    "Site",
                                                    FieldType.CHOICE,
                                                    false,
                                                    true,
                                                    List.of("West", "East")),
                                            new FieldDefinition(
                                                    "amount", "Amount", FieldType.MONEY, false, true, List.of())))
                            .running("amount"));
            String at = "timestamp '2026-01-03 21:10' + interval '17 hours 20 minutes' * (i % 250)";
            TestServer.sql("insert into records." + key + " (number, at, item, site, amount) select 'E-' || i,"
                    + " case when i % 29 = 0 then null else "
                    + (date == FieldType.MOMENT ? "(" + at + ") at time zone 'Europe/London'" : "(" + at + ")::date")
                    + " end, case when i > 260 then 'Only early' else (array['Rope', 'rope', null, 'Oil', ''])[1 + i % 5] end,"
                    + " (array['West', 'East', null])[1 + i % 3],"
                    + " case when i % 13 = 0 then null else (i * 37 % 400 - 190)::numeric / 4 end"
                    + " from generate_series(1, 270) i");
            TestServer.sql(
                    "update records." + key + " set at = (timestamp '2026-01-09 08:00' at time zone 'Europe/London')"
                            + (date == FieldType.DATE ? "::date" : "") + " where item = 'Only early'");
        }
        ada = Caller.signedIn("ada");
    }

    @AfterAll
    static void leave() {
        ada.delete("/api/registers/tills");
        ada.delete("/api/registers/shelves");
    }

    private static Caller.Answer put(String key, String path, Map<String, Object> body) {
        return ada.post("/api/registers/" + key + path, body);
    }

    private static JsonNode ok(String key, String path, Map<String, Object> body) {
        Caller.Answer answer = put(key, path, body);
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json();
    }

    private static void refused(Map<String, Object> body, String code) {
        Caller.Answer answer = put("tills", "/totals", body);
        assertThat(answer.status()).as(answer.text()).isBetween(400, 422);
        assertThat(answer.json().get("code").stringValue()).as(answer.text()).isEqualTo(code);
    }

    private static Map<String, Object> by(String field, String... by) {
        return by.length == 0 ? Map.of("field", field) : Map.of("field", field, "by", by[0]);
    }

    private static List<String> query(String sql) throws SQLException {
        return List.of(TestServer.query("select coalesce(string_agg(t, E'\\n'), '') from (" + sql + ") q(t)")
                .split("\n"));
    }

    private static String plain(JsonNode number) {
        return number.isNull() || number.isMissingNode()
                ? "none"
                : number.decimalValue().signum() == 0
                        ? "0"
                        : number.decimalValue().stripTrailingZeros().toPlainString();
    }

    private static String text(JsonNode row) {
        StringBuilder text = new StringBuilder();
        row.get("keys")
                .forEach(k -> text.append(k.path("value").stringValue("none")).append('|'));
        if (row.hasNonNull("across")) {
            text.append('@').append(row.at("/across/value").stringValue("none")).append('|');
        }
        JsonNode values = row.has("values") ? row.get("values") : row;
        for (String name : List.of("opening", "in", "out", "movement", "closing")) {
            text.append(plain(values.path(name))).append(' ');
        }
        return text.toString().strip();
    }

    private static List<String> rows(JsonNode answer) {
        return answer.get("rows").valueStream().map(BalancesTest::text).toList();
    }

    /** The five figures of a stretch of days by the local calendar. */
    private static String five(String from, String to) {
        String day = "(at_day)";
        return "trim_scale(coalesce(sum(amount) filter (where " + day + " < '" + from + "'), 0)), ' ',"
                + " trim_scale(coalesce(sum(amount) filter (where " + day + " >= '" + from + "' and " + day + " < '"
                + to
                + "' and amount > 0), 0)), ' ', trim_scale(coalesce(sum(amount) filter (where " + day + " >= '" + from
                + "' and " + day + " < '" + to
                + "' and amount < 0), 0)), ' ', trim_scale(coalesce(sum(amount) filter (where "
                + day + " >= '" + from + "' and " + day + " < '" + to + "'), 0)), ' ', trim_scale(coalesce(sum(amount)"
                + " filter (where " + day + " < '" + to + "'), 0))";
    }

    private static String records(String key) {
        return " (select nullif(item, '') as item, site, amount, "
                + (key.equals("tills") ? "(at at time zone 'Europe/London')::date" : "at") + " as at_day from records."
                + key
                + ") r ";
    }

    @ParameterizedTest
    @ValueSource(strings = {"tills", "shelves"})
    void openingInOutMovementAndClosingAreThoseOfPlainSql(String key) throws SQLException {
        JsonNode totals = ok(
                key,
                "/totals",
                Map.of(
                        "statement",
                        "at in 2026-05 and (site is not empty or amount > 0)",
                        "zone",
                        ZONE,
                        "rows",
                        List.of(by("site"), by("item")),
                        "balances",
                        "beginning"));
        assertThat(totals.get("figures").valueStream().map(f -> f.get("name").stringValue()))
                .containsExactly("opening", "in", "out", "movement", "closing");
        String of = " from" + records(key) + "where (site is not null or amount > 0) and at_day < '2026-06-01'";
        assertThat(rows(totals).stream()
                        .filter(r -> r.chars().filter(c -> c == '|').count() == 2))
                .containsExactlyInAnyOrderElementsOf(
                        query("select concat(coalesce(site, 'none'), '|', coalesce(item, 'none'), '|', "
                                + five("2026-05-01", "2026-06-01") + ")" + of + " group by site, item"))
                .anyMatch(r -> r.contains("Only early"));
        assertThat(rows(totals).stream()
                        .filter(r -> r.chars().filter(c -> c == '|').count() == 1))
                .containsExactlyElementsOf(query("select concat(coalesce(site, 'none'), '|', "
                        + five("2026-05-01", "2026-06-01") + ")" + of
                        + " group by site order by site is null, site desc"));
        assertThat(text(totals.get("total")))
                .isEqualTo(query("select concat(" + five("2026-05-01", "2026-06-01") + ")" + of)
                        .getFirst());
        assertThat(totals.at("/balance/field").stringValue()).isEqualTo("amount");
        assertThat(totals.at("/balance/window/from").stringValue())
                .startsWith(key.equals("tills") ? "2026-04-30T23" : "2026-05-01");

        // The same by itself, its window beside the statement.
        JsonNode balances = ok(
                key,
                "/balances",
                Map.of(
                        "statement",
                        "site is not empty or amount > 0",
                        "window",
                        "2026-05",
                        "zone",
                        ZONE,
                        "by",
                        List.of(by("site"), by("item"))));
        assertThat(rows(balances)).isEqualTo(rows(totals));
        assertThat(text(balances.get("total"))).isEqualTo(text(totals.get("total")));
    }

    @ParameterizedTest
    @ValueSource(strings = {"tills", "shelves"})
    void aBalanceIsCarriedFromMonthToMonth(String key) throws SQLException {
        List<String> expected = new ArrayList<>();
        for (int month = 3; month <= 5; month++) {
            String from = "2026-0" + month + "-01";
            String to = "2026-0" + (month + 1) + "-01";
            expected.addAll(query("select concat(coalesce(item, 'none'), '|" + from + "|', " + five(from, to) + ") from"
                    + records(key) + "where at_day < '2026-06-01' group by item"));
        }
        String window = "at between 2026-03 and 2026-05";
        JsonNode rows = ok(
                key,
                "/totals",
                Map.of(
                        "statement",
                        window,
                        "zone",
                        ZONE,
                        "rows",
                        List.of(by("item"), by("at", "month")),
                        "balances",
                        "beginning"));
        // An item that does not move any more is on hand in each month.
        assertThat(rows(rows).stream()
                        .filter(r -> r.chars().filter(c -> c == '|').count() == 2))
                .containsExactlyInAnyOrderElementsOf(expected)
                .anyMatch(r -> r.matches("Only early\\|2026-05-01\\|\\S+ 0 0 0 \\S+"));
        JsonNode across = ok(
                key,
                "/totals",
                Map.of(
                        "statement",
                        window,
                        "zone",
                        ZONE,
                        "rows",
                        List.of(by("item")),
                        "across",
                        by("at", "month"),
                        "balances",
                        "beginning"));
        assertThat(rows(across).stream().filter(r -> r.contains("@")).map(r -> r.replace("@", "")))
                .containsExactlyInAnyOrderElementsOf(expected);
        assertThat(across.get("columns")).hasSize(3);
        assertThat(across.get("totals").valueStream().map(t -> text(t).replaceAll(".*\\|", "")))
                .containsExactlyElementsOf(query("select concat(" + five("2026-03-01", "2026-04-01") + ") from"
                        + records(key)
                        + "union all select concat(" + five("2026-04-01", "2026-05-01") + ") from" + records(key)
                        + "union all select concat(" + five("2026-05-01", "2026-06-01") + ") from" + records(key)));
        // Quarters of years and their months: each opens where the one before closed.
        JsonNode nested = ok(
                key,
                "/totals",
                Map.of(
                        "statement",
                        "at from 2026-03-10",
                        "zone",
                        ZONE,
                        "rows",
                        List.of(by("at", "quarter"), by("at", "month")),
                        "balances",
                        "beginning"));
        String closed = null;
        for (JsonNode row : nested.get("rows")) {
            if (row.get("keys").size() == 2 && !row.at("/keys/1/value").isMissingNode()) {
                assertThat(closed == null || closed.equals(plain(row.at("/values/opening"))))
                        .isTrue();
                closed = plain(row.at("/values/closing"));
                // No month stands in a quarter that is not its own.
                assertThat(row.at("/keys/1/from").stringValue())
                        .isBetween(
                                row.at("/keys/0/from").stringValue(),
                                row.at("/keys/0/to").stringValue());
            }
        }
        assertThat(closed).isEqualTo(plain(nested.at("/total/values/closing")));
    }

    @Test
    void fromZeroABalanceIsWhatCameSinceTheWindowBegan() throws SQLException {
        JsonNode totals = ok(
                "shelves",
                "/totals",
                Map.of(
                        "statement", "at between 2026-03 and 2026-04",
                        "rows", List.of(by("site"), by("at", "month")),
                        "balances", "zero"));
        String march = "sum(amount) filter (where at_day < '2026-04-01')";
        assertThat(totals.get("rows")
                        .valueStream()
                        .filter(r -> r.get("keys").size() == 2)
                        .map(r -> plain(r.at("/values/opening"))))
                .containsExactlyElementsOf(query(
                        "select trim_scale(o)::text from (select site, o, n from (select site, 0::numeric as o, 1 as n from"
                                + " (values ('West'), ('East'), (null)) s(site) union all select site, " + march
                                + ", 2 from"
                                + records("shelves")
                                + "where at_day >= '2026-03-01' and at_day < '2026-05-01' group by site) x) y"
                                + " order by site is null, site desc, n"));
        assertThat(plain(totals.at("/total/values/opening"))).isEqualTo("0");
        assertThat(plain(totals.at("/total/values/closing")))
                .isEqualTo(query("select trim_scale(sum(amount))::text from" + records("shelves")
                                + "where at_day >= '2026-03-01' and at_day < '2026-05-01'")
                        .getFirst());
    }

    /** The promise: a balance opens exactly the records that make it up, at any date and however it begins. */
    @Test
    void everyBalanceOpensItsRecords() {
        Random random = new Random(Long.getLong("deft.seed", 7919));
        List<String> statements = List.of(
                "at in 2026-04",
                "at in last 60 days and site is not \"East\"",
                "at from 2026-03-17 and (amount < 40 or item is empty)",
                "at up to 2026-05-05",
                "at from 2026-02-02 and at before 2026-06-10 and not item is \"Oil\"",
                "amount is not empty",
                "at in last 1000 hours");
        List<List<Map<String, Object>>> rows = List.of(
                List.of(),
                List.of(by("item")),
                List.of(by("site"), by("item")),
                List.of(by("site"), by("at", "month")),
                List.of(by("at", "week")),
                List.of(by("item"), by("at", "quarter"), by("at", "month")));
        int opened = 0;
        for (int round = 0; round < 28; round++) {
            String key = random.nextBoolean() ? "tills" : "shelves";
            String statement = statements.get(round % statements.size());
            if (statement.contains("hours") && key.equals("shelves")) {
                key = "tills";
            }
            Map<String, Object> asked = new HashMap<>();
            asked.put("statement", statement);
            asked.put("zone", random.nextBoolean() ? ZONE : "Australia/Lord_Howe");
            asked.put("asOf", "2026-05-20T12:34:56Z");
            asked.put("rows", rows.get(random.nextInt(rows.size())));
            asked.put("balances", random.nextInt(3) == 0 ? "zero" : "beginning");
            if (random.nextBoolean()) {
                asked.put("across", random.nextBoolean() ? by("at", "fiscal year") : by("site"));
            }
            Caller.Answer answer = put(key, "/totals", asked);
            assertThat(answer.status()).as("%s %s", asked, answer.text()).isEqualTo(200);
            List<JsonNode> places = new ArrayList<>();
            answer.json().get("rows").forEach(places::add);
            java.util.Collections.shuffle(places, random);
            List<JsonNode> tried = new ArrayList<>(places.subList(0, Math.min(7, places.size())));
            tried.add(answer.json().get("total"));
            for (JsonNode place : tried) {
                for (String name : List.of("opening", "in", "out", "movement", "closing")) {
                    if (!place.at("/values/" + name).isNull()) {
                        assertOpens(key, asked, place, name);
                        opened++;
                    }
                }
            }
        }
        assertThat(opened).isGreaterThan(500);
    }

    private static void assertOpens(String key, Map<String, Object> asked, JsonNode place, String name) {
        Map<String, Object> at = Places.of(place);
        at.put("figure", name);
        Map<String, Object> request = new HashMap<>(asked);
        request.put("at", at);
        JsonNode behind = ok(key, "/totals/records", request);
        Map<String, Object> sum = new HashMap<>();
        sum.put("statement", behind.get("statement").stringValue());
        sum.put("zone", asked.get("zone"));
        sum.put("asOf", asked.get("asOf"));
        sum.put("groups", List.of());
        sum.put("measures", List.of(Map.of("function", "sum", "field", "amount")));
        JsonNode found = ok(key, "/groups", sum).at("/figures/0");
        assertThat(found.isNull() ? BigDecimal.ZERO : found.decimalValue())
                .as("%s %s %s: %s", key, asked, at, behind.get("statement"))
                .isEqualByComparingTo(place.at("/values/" + name).decimalValue());
    }

    /** Criteria on the figures of a balance leave out the rows that do not fit, those with an opening alone among them. */
    @Test
    void criteriaOnBalancesLeaveRowsOut() {
        for (String opening : List.of("beginning", "zero")) {
            for (String across : List.of("", "month")) {
                Map<String, Object> asked = new HashMap<>(
                        Map.of("statement", "at in 2026-04", "rows", List.of(by("item")), "balances", opening));
                if (!across.isEmpty()) {
                    asked.put("across", by("at", across));
                }
                JsonNode all = ok("tills", "/totals", asked);
                Map<String, java.util.function.Predicate<JsonNode>> keeps = Map.of(
                        "closing > 20",
                        v -> v.get("closing").decimalValue().compareTo(BigDecimal.valueOf(20)) > 0,
                        "opening < 0 or movement = 0",
                        v -> v.get("opening").decimalValue().signum() < 0
                                || v.get("movement").decimalValue().signum() == 0,
                        "[in of Amount] >= 30 and [out of Amount] < -10",
                        v -> v.get("in").decimalValue().compareTo(BigDecimal.valueOf(30)) >= 0
                                && v.get("out").decimalValue().compareTo(BigDecimal.valueOf(-10)) < 0,
                        "not closing >= 0",
                        v -> v.get("closing").decimalValue().signum() < 0);
                keeps.forEach((keep, fits) -> {
                    asked.put("keep", keep);
                    JsonNode some = ok("tills", "/totals", asked);
                    assertThat(items(some, v -> true))
                            .as("%s %s", asked, keep)
                            .containsExactlyElementsOf(items(all, fits));
                    assertThat(some.at("/total/values/closing").decimalValue())
                            .isEqualByComparingTo(
                                    all.at("/total/values/closing").decimalValue());
                    assertThat(some.at("/shownTotal/values/closing").decimalValue())
                            .isEqualByComparingTo(some.get("rows")
                                    .valueStream()
                                    .filter(r -> !r.hasNonNull("across"))
                                    .map(r -> r.at("/values/closing").decimalValue())
                                    .reduce(BigDecimal.ZERO, BigDecimal::add));
                    assertOpens("tills", asked, some.get("shownTotal"), "closing");
                    // As it is printed it is the same.
                    Map<String, Object> written = new HashMap<>(asked);
                    written.put("text", keep);
                    written.remove("keep");
                    written.remove("statement");
                    String printed = ok("tills", "/totals/statement", written)
                            .get("statement")
                            .stringValue();
                    asked.put("keep", printed);
                    assertThat(items(ok("tills", "/totals", asked), v -> true))
                            .as(printed)
                            .isEqualTo(items(some, v -> true));
                });
            }
        }
    }

    private static List<String> items(JsonNode totals, java.util.function.Predicate<JsonNode> fits) {
        return totals.get("rows")
                .valueStream()
                .filter(r -> !r.hasNonNull("across"))
                .filter(r -> fits.test(r.get("values")))
                .map(r -> r.at("/keys/0/value").stringValue("none"))
                .toList();
    }

    @Test
    void whatHasNoBalanceIsRefusedInWords() {
        refused(Map.of("rows", List.of(by("at", "month"), by("item")), "balances", "beginning"), "balances-order");
        refused(
                Map.of("statement", "at in 2026", "rows", List.of(), "balances", "zero", "compare", "year"),
                "balances-alone");
        Map<String, Object> kept = new HashMap<>(Map.of("balances", "zero", "keep", "number > 2"));
        kept.put("measures", List.of(Map.of("function", "count")));
        kept.put("rows", List.of(by("item"), by("at", "month")));
        refused(kept, "balances-rows");
        // Whole accounts may be left out: the others have all of theirs.
        kept.putAll(Map.of("rows", List.of(by("item")), "across", by("at", "month"), "statement", "at in 2026-04"));
        kept.put("balances", "beginning");
        JsonNode some = ok("tills", "/totals", kept);
        kept.remove("keep");
        List<String> all = rows(ok("tills", "/totals", kept));
        assertThat(all).containsAll(rows(some));
        assertThat(rows(some)).isNotEmpty().hasSizeLessThan(all.size());
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "plainlist",
                        "Plain list",
                        "entry",
                        "at",
                        "number",
                        true,
                        List.of(
                                new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()),
                                new FieldDefinition("at", "At", FieldType.DATE, false, true, List.of()))));
        Caller.Answer none = put("plainlist", "/totals", Map.of("rows", List.of(), "balances", "zero"));
        assertThat(none.json().get("code").stringValue()).as(none.text()).isEqualTo("no-running");
        ada.delete("/api/registers/plainlist");
        assertThat(put("tills", "/balances", Map.of("window", "once upon a time"))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("bad-window");
        Caller.Answer made = put(
                "tills",
                "/totals/records",
                Map.of("rows", List.of(), "at", Map.of("keys", List.of(), "figure", "closing")));
        assertThat(made.json().get("code").stringValue()).isEqualTo("unknown-figure");
    }

    @Test
    void aViewKeepsThemAndRowsGoByThem() {
        Map<String, Object> shape = Map.of(
                "version", 2,
                "groups", List.of(by("item")),
                "totals", Map.of("balances", "beginning", "order", "-closing"));
        JsonNode totals = ok("tills", "/totals", Map.of("statement", "at up to 2026-06-30", "shape", shape));
        List<BigDecimal> closings = totals.get("rows")
                .valueStream()
                .map(r -> r.at("/values/closing").decimalValue())
                .toList();
        assertThat(closings).hasSize(5).isSortedAccordingTo(java.util.Comparator.reverseOrder());
        assertThat(totals.get("figures")).hasSize(5);
        // Without a beginning there is nothing before.
        assertThat(plain(totals.at("/total/values/opening"))).isEqualTo("0");
        assertThat(totals.at("/balance/window/from").isMissingNode()).isTrue();
    }
}
