package deftlens.server.changes;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
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

/** Records are read as they stood, whoever changed them since: held against what was seen at the time. */
@ExtendWith(TestServer.class)
class RecordsAtTest {

    private static final String REGISTER = "/api/registers/stood";
    private static final Instant BEGIN = Instant.parse("2026-11-22T00:00:00Z");
    private static Caller ada;

    @BeforeAll
    static void make() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "stood",
                        "Standing entries",
                        "standing entry",
                        "posted",
                        "number",
                        true,
                        List.of(
                                field("number", FieldType.TEXT, true, List.of()).identifying(),
                                field("posted", FieldType.DATE, false, List.of()),
                                field("site", FieldType.CHOICE, false, List.of("North", "South")),
                                field("amount", FieldType.MONEY, false, List.of()),
                                field("labels", FieldType.TAGS, true, List.of()),
                                FieldDefinition.seen(false))));
        TestServer.sql("update register set past_since = '2026-11-20' where key = 'stood'");
        ada = Caller.signedIn("ada");
    }

    @AfterAll
    static void leave() {
        ada.delete(REGISTER);
    }

    private static FieldDefinition field(String key, FieldType type, boolean required, List<String> options) {
        return new FieldDefinition(
                key, key.substring(0, 1).toUpperCase() + key.substring(1), type, required, true, options);
    }

    /** What was seen after a step. */
    private record Seen(JsonNode rows, JsonNode some, JsonNode count, JsonNode totals, JsonNode values) {}

    private static Map<String, Object> asked(Instant at, Object... more) {
        Map<String, Object> asked = new HashMap<>();
        if (at != null) {
            asked.put("recordsAt", at.toString());
        }
        for (int i = 0; i < more.length; i += 2) {
            asked.put((String) more[i], more[i + 1]);
        }
        return asked;
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 299);
        return answer.json();
    }

    private static Seen seen(Instant at) {
        String some = "site is \"North\" and amount > 50 and posted in last 90 days";
        return new Seen(
                ok(ada.post(REGISTER + "/rows", asked(at, "statement", "", "limit", 500)))
                        .get("rows"),
                ok(ada.post(
                                REGISTER + "/rows",
                                asked(at, "statement", some, "limit", 500, "order", List.of("-amount", "number"))))
                        .get("rows"),
                ok(ada.post(REGISTER + "/count", asked(at, "statement", some))),
                ok(ada.post(
                                REGISTER + "/totals",
                                asked(
                                        at,
                                        "statement",
                                        "",
                                        "rows",
                                        List.of(Map.of("field", "site")),
                                        "measures",
                                        List.of(Map.of("function", "sum", "field", "amount")))))
                        .get("rows"),
                ok(ada.post(REGISTER + "/values", asked(at, "field", "site"))));
    }

    private static long lastSet() throws SQLException {
        return Long.parseLong(TestServer.query("select coalesce(max(id), 0) from change_set"));
    }

    private static List<String> ids() throws SQLException {
        String ids = TestServer.query("select string_agg(id::text, ',' order by id) from records.stood");
        return ids == null ? List.of() : List.of(ids.split(","));
    }

    /** One change by one of the ways in. */
    private static void change(Random random, int step) throws SQLException {
        List<String> ids = ids();
        String one = ids.isEmpty() ? "0" : ids.get(random.nextInt(ids.size()));
        String day = "2026-1" + random.nextInt(2) + "-1" + random.nextInt(10);
        String site = random.nextBoolean() ? "North" : "South";
        BigDecimal amount = BigDecimal.valueOf(random.nextInt(20_000), 2);
        switch (ids.size() < 4 ? 0 : random.nextInt(8)) {
            case 0 ->
                ok(ada.post(
                        REGISTER + "/records",
                        Map.of(
                                "values",
                                Map.of(
                                        "number",
                                        "K-" + step,
                                        "posted",
                                        day,
                                        "site",
                                        site,
                                        "amount",
                                        amount.toString(),
                                        "labels",
                                        List.of()))));
            case 1, 2 ->
                ok(ada.patch(
                        REGISTER + "/records/" + one,
                        Map.of("values", Map.of("amount", amount.toString(), "site", site))));
            case 3 -> {
                List<Map<String, Object>> many = new ArrayList<>();
                for (int i = 0; i < 5; i++) {
                    many.add(Map.of(
                            "number",
                            "K-" + random.nextInt(step + 1),
                            "amount",
                            amount.toString(),
                            "labels",
                            List.of()));
                }
                ok(ada.post(
                        REGISTER + "/records/bulk",
                        Map.of(
                                "by",
                                List.of("number"),
                                "records",
                                List.copyOf(new java.util.LinkedHashSet<>(many.stream()
                                        .collect(java.util.stream.Collectors.toMap(
                                                m -> m.get("number"), m -> m, (a, b) -> a))
                                        .values())))));
            }
            case 4 ->
                ok(ada.put(
                        REGISTER + "/records/tags",
                        Map.of("records", List.of(one), "add", List.of("t" + step), "remove", List.of())));
            case 5 -> TestServer.sql("update records.stood set posted = '" + day + "' where id % 3 = " + step % 3);
            case 6 -> TestServer.sql("delete from records.stood where id = " + one);
            default ->
                TestServer.sql("with gone as (delete from records.stood where id = " + one
                        + " returning *) insert into records.stood (id, number, posted, site, amount, labels)"
                        + " select id, number, posted, site, 1, labels from gone");
        }
    }

    @Test
    void whatWasSeenAtTheTimeIsSeenAgain() throws SQLException {
        Random random = new Random(11);
        List<Seen> seen = new ArrayList<>();
        seen.add(seen(null));
        long last = lastSet();
        for (int step = 1; step <= 40; step++) {
            change(random, step);
            // The clock of the tests stands still.
            TestServer.sql("update change_set set at = timestamptz '" + BEGIN + "' + interval '" + step
                    + " minutes' where id > " + last);
            last = lastSet();
            seen.add(seen(null));
        }
        for (int step = 0; step <= 40; step++) {
            Instant at = BEGIN.plusSeconds(step * 60L + 30);
            assertThat(seen(at)).as("after step %s", step).isEqualTo(seen.get(step));
        }
        assertThat(seen.stream().map(Seen::rows).distinct().count()).isGreaterThan(20);
    }

    /** One record is made, read as it stood by every call that reads records, and gone since. */
    @Test
    void everyCallReadsThemAsTheyStood() throws SQLException {
        long last = lastSet();
        TestServer.sql("insert into records.stood (number, posted, site, amount, labels)"
                + " values ('gone', '2026-10-05', 'South', 7, '{}')");
        String id = TestServer.query("select id from records.stood where number = 'gone'");
        stamp(last, "2026-11-22 20:00+00");
        last = lastSet();
        TestServer.sql("truncate records.stood");
        stamp(last, "2026-11-22 21:00+00");
        Instant then = Instant.parse("2026-11-22T20:30:00Z");
        String statement = "number is \"gone\" and posted in last 90 days";
        assertThat(ok(ada.post(REGISTER + "/rows", asked(null, "statement", statement)))
                        .get("rows"))
                .isEmpty();
        assertThat(ok(ada.post(REGISTER + "/rows", asked(then, "statement", statement)))
                        .get("rows"))
                .hasSize(1);
        assertThat(ada.get(REGISTER + "/records/" + id).status()).isEqualTo(404);
        assertThat(ok(ada.get(REGISTER + "/records/" + id + "?recordsAt=" + then))
                        .toString())
                .contains("gone");
        // A day ends in each zone by itself: in Tehran at 20:30 of UTC, while the record was there.
        String day = REGISTER + "/records/" + id + "?recordsAt=2026-11-22&zone=";
        assertThat(ada.get(day + "Pacific/Auckland").status()).isEqualTo(404);
        assertThat(ada.get(day + "Asia/Tehran").status()).isEqualTo(200);
        assertThat(ada.get(day + "Europe/London").status()).isEqualTo(404);
        String file = "?statement=number+is+%22gone%22&recordsAt=";
        assertThat(ada.get(REGISTER + "/export.csv" + file + then).text()).contains("gone");
        assertThat(ok(ada.post(REGISTER + "/why", asked(then, "statement", "site is \"North\"", "record", "gone")))
                        .toString())
                .contains("South");
        JsonNode view = ok(ada.post("/api/views", Map.of("register", "stood", "name", "Gone", "statement", statement)));
        String rows = "/api/views/" + view.get("id").asString() + "/rows";
        assertThat(ok(ada.get(rows)).get("rows")).isEmpty();
        assertThat(ok(ada.get(rows + "?recordsAt=" + then)).get("rows")).hasSize(1);
        assertThat(ok(ada.get(rows.replace("/rows", "/count?recordsAt=") + then))
                        .get("matching")
                        .longValue())
                .isEqualTo(1);
    }

    /** When the changes since a set were seen: the clock of the tests stands still. */
    private static void stamp(long last, String at) throws SQLException {
        TestServer.sql("update change_set set at = timestamptz '" + at + "' where id > " + last);
    }

    /** Whoever sees only some records sees those that were among them then, and no field that is hidden from them. */
    @Test
    void accessHoldsOverRecordsAsTheyStood() throws SQLException {
        long last = lastSet();
        TestServer.sql("insert into records.stood (number, site, amount, labels)"
                + " values ('alpha', 'North', 1, '{}'), ('beta', 'South', 2, '{}')");
        stamp(last, "2026-11-22 22:00+00");
        last = lastSet();
        TestServer.sql("update records.stood set site = case site when 'North' then 'South' else 'North' end"
                + " where number in ('alpha', 'beta')");
        stamp(last, "2026-11-22 23:00+00");
        TestServer.sql("insert into register_access (register_id, team_id, statement, hidden)"
                + " select r.id, t.id, 'site is \"North\"', '[\"amount\"]' from register r, team t"
                + " where r.key = 'stood' and t.name = 'Day shift'");
        try {
            Caller dora = Caller.signedIn("dora");
            Instant then = Instant.parse("2026-11-22T22:30:00Z");
            Map<String, Object> now = asked(null, "statement", "number is \"alpha\" or number is \"beta\"");
            Map<String, Object> before = asked(then, "statement", "number is \"alpha\" or number is \"beta\"");
            assertThat(ok(dora.post(REGISTER + "/rows", now)).get("rows").toString())
                    .contains("beta")
                    .doesNotContain("alpha")
                    .doesNotContain("amount");
            assertThat(ok(dora.post(REGISTER + "/rows", before)).get("rows").toString())
                    .contains("alpha")
                    .doesNotContain("beta")
                    .doesNotContain("amount");
            assertThat(dora.post(REGISTER + "/rows", asked(then, "statement", "amount > 0"))
                            .status())
                    .isEqualTo(422);
        } finally {
            TestServer.sql("delete from register_access");
        }
    }

    /** What began first can be seen last. */
    @Test
    void whatHadNotEndedThenIsNotSeen() throws SQLException {
        String path = REGISTER + "/count";
        long before = ok(ada.post(path, Map.of("statement", ""))).get("total").longValue();
        try (Connection slow = TestServer.connect();
                Statement writing = slow.createStatement()) {
            slow.setAutoCommit(false);
            writing.execute("insert into records.stood (number, labels) values ('slow', '{}')");
            TestServer.sql("insert into records.stood (number, labels) values ('quick', '{}')");
            slow.commit();
        }
        assertThat(TestServer.query("select string_agg(r.number, ' ' order by s.at) from records.stood r"
                        + " join change_set s on s.id = r.\"@since\" where r.number in ('slow', 'quick')"))
                .isEqualTo("quick slow");
        assertThat(TestServer.query("select string_agg(r.number, ' ' order by s.id) from records.stood r"
                        + " join change_set s on s.id = r.\"@since\" where r.number in ('slow', 'quick')"))
                .isEqualTo("slow quick");
        String between =
                TestServer.query("select cast(min(s.at) + (max(s.at) - min(s.at)) / 2 as text) from change_set s"
                        + " join records.stood r on s.id = r.\"@since\" where r.number in ('slow', 'quick')");
        TestServer.sql("update change_set set at = at - interval '30 days' where at > now() - interval '1 day'");
        assertThat(between).isNotNull();
        String at = TestServer.query("select to_char((timestamptz '" + between
                + "' - interval '30 days') at time zone 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS.US\"Z\"')");
        TestServer.sql("update register set past_since = '2026-01-01' where key = 'stood'");
        JsonNode then =
                ok(ada.post(path, Map.of("statement", "number is \"quick\" or number is \"slow\"", "recordsAt", at)));
        assertThat(then.get("matching").longValue()).isEqualTo(1);
        assertThat(ok(ada.post(path, Map.of("statement", ""))).get("total").longValue())
                .isEqualTo(before + 2);
    }

    @Test
    void whatIsNotKnownIsSaid() {
        Caller.Answer early = ada.post(REGISTER + "/count", Map.of("statement", "", "recordsAt", "2025-01-01"));
        assertThat(early.status()).isEqualTo(422);
        assertThat(early.json().get("code").stringValue()).isEqualTo("no-past");
        assertThat(ada.post(REGISTER + "/count", Map.of("statement", "", "recordsAt", "2027-01-01"))
                        .status())
                .isEqualTo(400);
        assertThat(ada.post(REGISTER + "/count", Map.of("statement", "", "recordsAt", "soon"))
                        .text())
                .contains("Records as they stood at");
    }
}
