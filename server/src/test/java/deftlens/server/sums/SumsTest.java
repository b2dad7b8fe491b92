package deftlens.server.sums;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.organisation.ZoneChanged;
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
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.JsonNode;

/** Totals of kept sums beside the same totals of the records, by way of the API. */
@ExtendWith(TestServer.class)
class SumsTest {

    private static final String AT = "/api/registers/cashbook";
    private static final long SEED = Long.getLong("deft.seed", 7919);
    private static final Map<String, Object> KEPT =
            Map.of("keys", List.of("site", "item", "paid"), "amounts", List.of("amount", "pieces"));
    private static final List<Map<String, Object>> BOTH =
            List.of(Map.of("function", "count"), Map.of("function", "sum", "field", "amount"));
    private static final AtomicInteger NEXT = new AtomicInteger(1);

    private static Caller ada;

    private static FieldDefinition field(String key, FieldType type, List<String> options) {
        return new FieldDefinition(
                key,
                Character.toUpperCase(key.charAt(0)) + key.substring(1),
                type,
                key.equals("number"),
                true,
                options);
    }

    @BeforeAll
    static void make() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                                "cashbook",
                                "Cash book",
                                "entry",
                                "at",
                                "number",
                                true,
                                List.of(
                                        field("number", FieldType.TEXT, List.of()),
                                        field("at", FieldType.MOMENT, List.of()),
                                        field("due", FieldType.DATE, List.of()),
                                        field("item", FieldType.TEXT, List.of()),
                                        field("site", FieldType.CHOICE, List.of("West", "East")),
                                        field("paid", FieldType.YES_NO, List.of()),
                                        field("pieces", FieldType.NUMBER, List.of()),
                                        field("amount", FieldType.MONEY, List.of())))
                        .running("amount"));
        TestServer.sql(
                "insert into records.cashbook (number, at, due, item, site, paid, pieces, amount) select 'E-' || i,"
                        + " case when i % 29 = 0 then null else (timestamp '2026-09-01 21:10' + interval '7 hours 25 minutes' * (i % 260))"
                        + " at time zone 'Europe/London' end, date '2026-09-01' + i % 80,"
                        + " (array['Rope', 'rope', null, 'Oil', ''])[1 + i % 5], (array['West', 'East', null])[1 + i % 3], i % 7 < 3,"
                        + " i % 11 - 3, case when i % 13 = 0 then null else (i * 37 % 400 - 190)::numeric / 4 end"
                        + " from generate_series(1, 400) i");
        ada = Caller.signedIn("ada");
    }

    @AfterAll
    static void leave() {
        ada.delete(AT);
    }

    @BeforeEach
    void keep() {
        ok(ada.put(AT + "/sums", KEPT));
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json();
    }

    private static JsonNode totals(Map<String, Object> body) {
        return ok(ada.post(AT + "/totals", body));
    }

    private static Map<String, Object> by(String field, String... by) {
        return by.length == 0 ? Map.of("field", field) : Map.of("field", field, "by", by[0]);
    }

    private static <T> T pick(Random random, List<T> from) {
        return from.get(random.nextInt(from.size()));
    }

    private static Map<String, Object> any(Random random) {
        List<Map<String, Object>> levels = List.of(
                by("site"),
                by("item"),
                by("paid"),
                by("at", "month"),
                by("at", "week"),
                by("at", "day"),
                by("at", "fiscal quarter"),
                by("at", "weekday"));
        List<Map<String, Object>> rows = new ArrayList<>();
        for (int n = random.nextInt(3); n > 0; n--) {
            rows.add(pick(random, levels));
        }
        Map<String, Object> body = new HashMap<>();
        body.put("rows", rows);
        body.put("zone", random.nextInt(5) == 0 ? "Asia/Kolkata" : "Europe/London");
        body.put(
                "measures",
                List.of(
                        Map.of("function", "count"),
                        Map.of("function", "sum", "field", "amount"),
                        Map.of("function", "share", "field", "pieces"),
                        Map.of("function", pick(random, List.of("average", "sum", "median")), "field", "pieces")));
        body.put(
                "statement",
                pick(
                        random,
                        List.of(
                                "",
                                "at in this month",
                                "at in last 30 days",
                                "at in last 5 full weeks and site is \"West\"",
                                "at before today or item is empty",
                                "not (item is \"Rope\" and paid is yes)",
                                "at weekday in (Mon, Fri)",
                                "at is empty",
                                "at in 2026-10-01 to 2026-11-15 and amount > 3",
                                "at in last 100 hours")));
        if (random.nextBoolean()) {
            body.put("across", pick(random, levels));
        }
        String statement = (String) body.get("statement");
        boolean window = statement.startsWith("at in");
        if (window && random.nextInt(3) == 0) {
            body.put("compare", pick(random, List.of("before", "year")));
        } else if (window
                && random.nextInt(2) == 0
                && rows.stream().noneMatch(r -> r.get("field").equals("at"))) {
            body.put("balances", pick(random, List.of("beginning", "zero")));
        }
        if (!rows.isEmpty() && random.nextInt(3) == 0) {
            body.put("keep", "number >= 3");
        }
        return body;
    }

    @Test
    void areWhatTheRecordsComeTo() throws SQLException {
        Random random = new Random(SEED);
        List<Map<String, Object>> asked = new ArrayList<>();
        for (int i = 0; i < 160; i++) {
            asked.add(any(random));
        }
        List<String> kept = new ArrayList<>();
        int answered = 0;
        for (Map<String, Object> body : asked) {
            Caller.Answer answer = ada.post(AT + "/totals", body);
            answered += answer.status() == 200 ? 1 : 0;
            kept.add(answer.status() + answer.json().toPrettyString());
        }
        assertThat(answered).isGreaterThan(120);
        assertThat(ada.delete(AT + "/sums").status()).isEqualTo(204);
        for (int i = 0; i < asked.size(); i++) {
            Caller.Answer answer = ada.post(AT + "/totals", asked.get(i));
            assertThat(kept.get(i))
                    .as("%s", asked.get(i))
                    .isEqualTo(answer.status() + answer.json().toPrettyString());
        }
    }

    private static long number(Map<String, Object> body) {
        return totals(body).at("/total/values/number").asLong();
    }

    /** Whether totals are made of kept sums: somebody puts a hundred records into them that are not there. */
    private static boolean areUsed(Map<String, Object> body) throws SQLException {
        long before = number(body);
        TestServer.sql(
                "update kept.cashbook set \"@n\" = \"@n\" + 100 where ctid = (select min(ctid) from kept.cashbook"
                        + " where \"@day\" = (select max(\"@day\") from kept.cashbook where \"@day\" < '2026-11-20'))");
        boolean used = number(body) == before + 100;
        ok(ada.put(AT + "/sums", KEPT));
        assertThat(number(body)).isEqualTo(before);
        return used;
    }

    @Test
    void areUsedWhereTheyTellWhatIsAsked() throws SQLException {
        assertThat(areUsed(Map.of("statement", ""))).isTrue();
        assertThat(areUsed(Map.of("statement", "at in this year"))).isTrue();
        assertThat(areUsed(Map.of("statement", "at in this year", "zone", "Asia/Kolkata")))
                .isFalse();
        assertThat(areUsed(Map.of("statement", "amount > -1000000"))).isFalse();
    }

    /** Who sees some records alone does not get what all of them come to. */
    @Test
    void aLimitOfAccessHolds() throws SQLException {
        ok(ada.put(
                AT + "/access",
                List.of(Map.of("mayRead", true, "statement", "site is \"West\"", "hidden", List.of()))));
        try {
            JsonNode seen = ok(Caller.signedIn("dora").post(AT + "/totals", Map.of("statement", "")));
            assertThat(seen.at("/total/values/number").asText())
                    .isEqualTo(TestServer.query("select count(*) from records.cashbook where site = 'West'"));
        } finally {
            ok(ada.put(AT + "/access", List.of()));
        }
    }

    @Test
    void followWhatIsWritten() throws SQLException {
        Map<String, Object> west = Map.of("statement", "site is \"West\"", "measures", BOTH);
        String query =
                "select concat(count(*), ' ', trim_scale(sum(amount))) from records.cashbook where site = 'West'";
        for (int i = 0; i < 12; i++) {
            String number = "N-" + NEXT.getAndIncrement();
            JsonNode made = ada.post(
                            AT + "/records",
                            Map.of(
                                    "values",
                                    Map.of(
                                            "number",
                                            number,
                                            "at",
                                            "2026-11-0" + (1 + i % 9) + "T00:00:00Z",
                                            "site",
                                            "West",
                                            "amount",
                                            10 + i)))
                    .json();
            assertThat(text(west)).isEqualTo(TestServer.query(query));
            if (i % 3 == 0) {
                TestServer.sql("update records.cashbook set site = 'East' where number = '" + number + "'");
            } else if (i % 3 == 1) {
                TestServer.sql("delete from records.cashbook where number = '" + number + "'");
            }
            assertThat(made.isObject()).isTrue();
            assertThat(text(west)).isEqualTo(TestServer.query(query));
            if (i % 4 == 0) {
                TestServer.bean(SumsService.class).fold();
                assertThat(TestServer.query("select count(*) from kept.\"cashbook+\""))
                        .isEqualTo("0");
                assertThat(text(west)).isEqualTo(TestServer.query(query));
            }
        }
    }

    private static String text(Map<String, Object> body) {
        JsonNode values = totals(body).at("/total/values");
        return values.get("number").asLong() + " "
                + values.get("sum_of_amount")
                        .decimalValue()
                        .stripTrailingZeros()
                        .toPlainString();
    }

    /** Puts a hundred records into the sums that are not there; they are gone when the sums were counted anew. */
    private static void spoil() throws SQLException {
        TestServer.sql(
                "update kept.cashbook set \"@n\" = \"@n\" + 100 where ctid = (select min(ctid) from kept.cashbook)");
        assertThat(number(Map.of("statement", "")))
                .isEqualTo(Long.parseLong(TestServer.query("select count(*) from records.cashbook")) + 100);
    }

    private static void assertCountedAnew() throws SQLException {
        assertThat(number(Map.of("statement", "")))
                .isEqualTo(Long.parseLong(TestServer.query("select count(*) from records.cashbook")));
    }

    @Test
    void areCountedAnewWhereTheRegisterChanges() throws SQLException {
        assertThat(ada.post(AT + "/fields", Map.of("type", "text", "label", "Shift"))
                        .status())
                .isEqualTo(201);
        ok(ada.put(AT + "/sums", Map.of("keys", List.of("site", "shift"), "amounts", List.of("amount"))));
        TestServer.sql("update records.cashbook set shift = 'Night' where pieces > 2");
        String night = TestServer.query("select count(*) from records.cashbook where shift = 'Night'");
        assertThat(String.valueOf(number(Map.of("statement", "shift is \"Night\""))))
                .isEqualTo(night);

        // Another zone has other days.
        spoil();
        String zone = TestServer.bean(OrganisationService.class).zone().getId();
        TestServer.bean(TransactionTemplate.class)
                .executeWithoutResult(t -> TestServer.events().publishEvent(new ZoneChanged(zone, zone)));
        assertCountedAnew();

        // A key that is removed tells nothing apart any more; the rest is kept, and records are written as before.
        spoil();
        int version = ok(ada.get(AT)).get("version").asInt();
        assertThat(ada.delete(AT + "/fields/shift?version=" + version).status()).isBetween(200, 204);
        assertThat(ok(ada.get(AT + "/sums")).get("keys").valueStream().map(JsonNode::stringValue))
                .containsExactly("site");
        assertCountedAnew();
        TestServer.sql("update records.cashbook set site = 'East' where number in ('E-3', 'E-6')");
        assertThat(text(Map.of("statement", "site is \"East\"", "measures", BOTH)))
                .isEqualTo(
                        TestServer.query("select concat(count(*), ' ', trim_scale(sum(amount))) from records.cashbook"
                                + " where site = 'East'"));
    }

    /** A balance that runs from record to record begins with what the kept sums have. */
    @Test
    void runningBalancesBeginWithThem() {
        List<Map<String, Object>> asked = new ArrayList<>();
        for (String order : List.of("at", "-at")) {
            for (String statement : List.of(
                    "",
                    "at in last 30 days",
                    "site is \"West\" and at in this month",
                    "at in last 100 hours",
                    "amount > 0")) {
                asked.add(Map.of(
                        "statement",
                        statement,
                        "zone",
                        "Europe/London",
                        "order",
                        List.of(order),
                        "limit",
                        40,
                        "shape",
                        Map.of("running", "beginning")));
            }
        }
        List<String> kept = asked.stream()
                .map(body -> ok(ada.post(AT + "/rows", body)).toPrettyString())
                .toList();
        assertThat(ada.delete(AT + "/sums").status()).isEqualTo(204);
        for (int i = 0; i < asked.size(); i++) {
            assertThat(kept.get(i))
                    .as("%s", asked.get(i))
                    .isEqualTo(ok(ada.post(AT + "/rows", asked.get(i))).toPrettyString())
                    .contains("opening");
        }
    }

    @Test
    void whatCannotBeKeptIsRefusedInWords() {
        refused(Map.of("keys", List.of("nothing"), "amounts", List.of()), "bad-sums", "“nothing” stands in no column");
        refused(Map.of("keys", List.of("due"), "amounts", List.of()), "bad-sums", "Due cannot tell sums apart");
        refused(Map.of("keys", List.of(), "amounts", List.of("site")), "bad-sums", "Site is no number");
        assertThat(Caller.signedIn("dora").put(AT + "/sums", KEPT).status()).isEqualTo(403);
        assertThat(Caller.signedIn("dora").get(AT + "/sums").status()).isEqualTo(403);
        JsonNode kept = ok(ada.get(AT + "/sums"));
        assertThat(kept.get("kept").asBoolean()).isTrue();
        assertThat(kept.get("possibleKeys").valueStream().map(JsonNode::stringValue))
                .containsExactly("number", "item", "site", "paid");
        assertThat(kept.get("possibleAmounts").valueStream().map(JsonNode::stringValue))
                .containsExactly("pieces", "amount");
    }

    private static void refused(Map<String, Object> body, String code, String words) {
        Caller.Answer answer = ada.put(AT + "/sums", body);
        assertThat(answer.status()).as(answer.text()).isEqualTo(422);
        assertThat(answer.json().get("code").stringValue()).isEqualTo(code);
        assertThat(answer.json().get("detail").stringValue()).contains(words);
    }
}
