package deftlens.server.registers;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

@ExtendWith(TestServer.class)
class AttachingTest {

    private Caller ada;
    private Caller dora;
    private final List<String> made = new ArrayList<>();

    @BeforeEach
    void make() throws SQLException {
        ada = Caller.signedIn("ada");
        dora = Caller.signedIn("dora");
        TestServer.sql("""
                drop schema if exists plant cascade;
                create schema plant;
                create type plant.state as enum ('Idle', 'At "work"', 'Broken');
                create domain plant.weight as numeric(8, 3);
                create table plant."Odd ""machine""s" (
                    "machine id" integer primary key,
                    name varchar(40) not null,
                    state plant.state,
                    kind text check (kind in ('Crane', 'Pump', 'O''Brine')),
                    "Weight (t)" plant.weight,
                    speed double precision,
                    seen_on date,
                    started timestamp,
                    served timestamptz not null,
                    shift time,
                    labels varchar(20)[],
                    uid uuid,
                    facts jsonb,
                    picture bytea,
                    fine boolean);
                comment on table plant."Odd ""machine""s" is 'Everything with an engine.';
                comment on column plant."Odd ""machine""s".state is 'What it does now.';
                insert into plant."Odd ""machine""s"
                select i, 'Machine ' || i, (array['Idle', 'At "work"', null])[1 + i % 3]::plant.state,
                       (array['Crane', 'O''Brine'])[1 + i % 2], i + 0.125, i / 4.0, date '2026-11-01' + i,
                       timestamp '2026-07-01 12:00' + interval '1 hour' * i, timestamptz '2026-11-01 00:00Z' + interval '1 hour' * i,
                       time '08:00', array['a', 'b' || i], gen_random_uuid(), '{"a": 1}', 'x', i % 2 = 0
                from generate_series(1, 50) i;
                create table plant.oddities (code text primary key, big bigint, labels text[], booked daterange, was date, at timestamptz);
                insert into plant.oddities values
                    ('a', 9007199254740993, array['x', null], daterange(null, '2026-11-10'), '0001-01-01', '0001-01-01 00:00Z'),
                    ('b', 9007199254740995, array[null]::text[], daterange('2026-11-01', null), '2026-11-05', '2026-11-05 12:00Z'),
                    ('c', null, null, null, null, null),
                    ('d', -9007199254740993, '{}', 'empty', '9999-12-31', '9999-12-31 23:59Z');
                create table plant.extremes (code text primary key, amount numeric, speed float8, due date, seen timestamptz);
                insert into plant.extremes values
                    ('a', 'NaN', 'NaN', 'infinity', 'infinity'),
                    ('b', 'Infinity', 'Infinity', '2026-11-05', '2026-11-05 12:00Z'),
                    ('c', '-Infinity', '-Infinity', '-infinity', '-infinity'),
                    ('d', 600, 1.5, null, null),
                    ('e', 5, 2.5, '2026-11-06', '2026-11-06 12:00Z');
                create view plant.pairs as select (i / 2) || '-' || (i % 2) as code, i % 5 as part, i as n from generate_series(0, 19) i;
                """);
    }

    @AfterEach
    void leave() throws SQLException {
        made.forEach(key -> ada.delete("/api/registers/" + key));
        TestServer.sql("drop schema if exists plant cascade");
    }

    private JsonNode propose(String table) {
        Caller.Answer answer =
                ada.get("/api/attachable/plant/" + table.replace(" ", "%20").replace("\"", "%22"));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json();
    }

    private Caller.Answer attach(JsonNode proposal, String label, List<String> keys) {
        List<Map<String, Object>> fields = new ArrayList<>();
        for (JsonNode f : proposal.get("fields")) {
            fields.add(Map.of(
                    "key",
                    f.get("key").stringValue(),
                    "label",
                    f.get("label").stringValue(),
                    "type",
                    f.get("type").stringValue(),
                    "shown",
                    true,
                    "description",
                    f.get("description").stringValue()));
        }
        Map<String, Object> wanted = new java.util.HashMap<>(Map.of(
                "schema",
                "plant",
                "table",
                proposal.get("table").stringValue(),
                "label",
                label,
                "recordLabel",
                "machine",
                "keyColumns",
                keys,
                "titleField",
                proposal.get("titleField").stringValue(),
                "fields",
                fields));
        if (!proposal.get("mainField").isNull()) {
            wanted.put("mainField", proposal.get("mainField").stringValue());
        }
        Caller.Answer answer = ada.post("/api/attached", wanted);
        if (answer.status() == 201) {
            made.add(answer.json().get("key").stringValue());
        }
        return answer;
    }

    @Test
    void aTableIsDescribedByWhatTheDatabaseSays() {
        JsonNode proposal = propose("Odd \"machine\"s");
        List<String> fields = new ArrayList<>();
        proposal.get("fields")
                .forEach(f -> fields.add(
                        f.get("key").stringValue() + " " + f.get("type").stringValue()));
        assertThat(fields)
                .containsExactly(
                        "machine_id number",
                        "name text",
                        "state choice",
                        "kind choice",
                        "weight_t number",
                        "speed number",
                        "seen_on date",
                        "started moment",
                        "served moment",
                        "shift time of day",
                        "labels tags",
                        "uid text",
                        "facts text",
                        "fine yes/no");
        assertThat(proposal.get("fields").get(2).get("options").toString())
                .isEqualTo("[\"Idle\",\"At \\\"work\\\"\",\"Broken\"]");
        assertThat(proposal.get("fields").get(2).get("description").stringValue())
                .isEqualTo("What it does now.");
        assertThat(proposal.get("fields").get(3).get("options").toString())
                .isEqualTo("[\"Crane\",\"Pump\",\"O'Brine\"]");
        assertThat(proposal.get("keyColumns").toString()).isEqualTo("[\"machine id\"]");
        assertThat(proposal.get("mainField").stringValue()).isEqualTo("served");
        assertThat(proposal.get("skipped").toString()).isEqualTo("[\"picture\"]");
        assertThat(proposal.get("comment").stringValue()).isEqualTo("Everything with an engine.");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "state is \"At \\\"work\\\"\"|state = 'At \"work\"'",
                "kind is \"O'Brine\" and fine is yes|kind = 'O''Brine' and fine",
                "weight_t between 3 and 9.125|\"Weight (t)\" between 3 and 9.125",
                "speed > 2.5|speed > 2.5",
                "started on 2026-07-01|started < '2026-07-02'",
                "served in 2026-11-02|served >= '2026-11-02Z' and served < '2026-11-03Z'",
                "labels has any of (\"b7\", \"b8\")|'b7' = any(labels) or 'b8' = any(labels)",
                "state is empty or seen_on before 2026-11-04|state is null or seen_on < '2026-11-04'",
                "machine_id is in (1, 2, 99)|\"machine id\" in (1, 2, 99)",
                "shift between 07:00 and 09:00|true",
            })
    void theWholeLanguageWorksOnIt(String statement, String where) throws SQLException {
        String key = attach(propose("Odd \"machine\"s"), "Machines", List.of())
                .json()
                .get("key")
                .stringValue();
        Caller.Answer count = dora.post("/api/registers/" + key + "/count", Map.of("statement", statement));
        assertThat(count.status()).as(count.text()).isEqualTo(200);
        assertThat(count.json().get("matching").longValue())
                .isEqualTo(Long.parseLong(
                        TestServer.query("select count(*) from plant.\"Odd \"\"machine\"\"s\" where " + where)));
        for (String call : List.of("rows", "parts", "edges", "statement")) {
            assertThat(dora.post("/api/registers/" + key + "/" + call, Map.of("statement", statement))
                            .status())
                    .as(call)
                    .isEqualTo(200);
        }
    }

    @Test
    void nothingIsWrittenToIt() throws SQLException {
        String key = attach(propose("Odd \"machine\"s"), "Machines", List.of())
                .json()
                .get("key")
                .stringValue();
        String before = TestServer.query(
                "select md5(string_agg(m::text, '|' order by name)) from plant.\"Odd \"\"machine\"\"s\" m");
        ada.post("/api/registers/" + key + "/fields", Map.of("type", "seen"));
        assertThat(ada.post("/api/registers/" + key + "/fields", Map.of("type", "tags", "label", "My tags"))
                        .status())
                .isEqualTo(201);
        assertThat(ada.post("/api/registers/" + key + "/records", Map.of("values", Map.of("name", "x")))
                        .status())
                .isEqualTo(422);
        assertThat(ada.patch("/api/registers/" + key + "/records/1", Map.of("values", Map.of("name", "x")))
                        .status())
                .isEqualTo(422);
        assertThat(dora.put(
                                "/api/registers/" + key + "/records/seen",
                                Map.of("records", List.of(1, 2, 77), "seen", true))
                        .json()
                        .get("records")
                        .intValue())
                .isEqualTo(2);
        assertThat(dora.put(
                                "/api/registers/" + key + "/records/tags",
                                Map.of("records", List.of(3), "add", List.of("Look"), "remove", List.of()))
                        .status())
                .isEqualTo(200);
        assertThat(dora.post(
                                "/api/registers/" + key + "/count",
                                Map.of("statement", "seen is yes or my_tags has any of (\"Look\")"))
                        .json()
                        .get("matching")
                        .longValue())
                .isEqualTo(3);
        assertThat(TestServer.query(
                        "select md5(string_agg(m::text, '|' order by name)) from plant.\"Odd \"\"machine\"\"s\" m"))
                .isEqualTo(before);
        assertThat(
                        TestServer.query(
                                "select count(*) from pg_trigger t join pg_class c on c.oid = t.tgrelid where c.relname like 'Odd%'"))
                .isEqualTo("0");
    }

    @Test
    void aDatabaseViewNeedsAKeyThatTellsItsRowsApart() {
        JsonNode proposal = propose("pairs");
        assertThat(proposal.get("kind").stringValue()).isEqualTo("view");
        assertThat(attach(proposal, "Pairs", List.of()).json().get("code").stringValue())
                .isEqualTo("no-key");
        assertThat(attach(proposal, "Pairs", List.of("part")).json().get("code").stringValue())
                .isEqualTo("key-repeats");
        Caller.Answer attached = attach(proposal, "Pairs", List.of("code"));
        assertThat(attached.status()).as(attached.text()).isEqualTo(201);
        String at = "/api/registers/" + attached.json().get("key").stringValue();
        JsonNode first =
                dora.post(at + "/rows", Map.of("statement", "", "limit", 7)).json();
        JsonNode second = dora.post(
                        at + "/rows",
                        Map.of(
                                "statement",
                                "",
                                "limit",
                                100,
                                "after",
                                first.get("next").stringValue()))
                .json();
        assertThat(second.get("rows")).hasSize(13);
        long id = first.get("rows").get(0).get("id").asLong();
        assertThat(dora.get(at + "/records/" + id)
                        .json()
                        .get("values")
                        .get("code")
                        .stringValue())
                .isEqualTo(first.get("rows").get(0).get("values").get("code").stringValue());
    }

    @Test
    void aChangedTableIsNoticedWithTheViewsThatItTouches() throws SQLException {
        String key = attach(propose("Odd \"machine\"s"), "Machines", List.of())
                .json()
                .get("key")
                .stringValue();
        ada.post(
                "/api/views",
                Map.of("register", key, "name", "Fast ones", "statement", "speed > 3", "columns", List.of("name")));
        ada.post(
                "/api/views",
                Map.of("register", key, "name", "Fine ones", "statement", "fine is yes", "columns", List.of("name")));
        JsonNode same = ada.get("/api/registers/" + key + "/shape").json();
        assertThat(same.get("broken").booleanValue()).isFalse();
        TestServer.sql("""
                alter table plant."Odd ""machine""s" rename column speed to pace;
                alter table plant."Odd ""machine""s" drop constraint "Odd ""machine""s_kind_check";
                alter table plant."Odd ""machine""s" alter column kind type integer using 1""");
        Caller.Answer rows = dora.post("/api/registers/" + key + "/rows", Map.of("statement", "speed > 1"));
        assertThat(rows.status()).as(rows.text()).isEqualTo(409);
        assertThat(rows.json().get("code").stringValue()).isEqualTo("table-changed");
        JsonNode shape = ada.get("/api/registers/" + key + "/shape").json();
        assertThat(shape.get("missing").toString()).isEqualTo("[\"speed\"]");
        assertThat(shape.get("retyped").toString()).isEqualTo("[\"kind\"]");
        assertThat(shape.get("fresh").toString()).isEqualTo("[\"pace\"]");
        assertThat(shape.get("views").toString()).contains("Fast ones").doesNotContain("Fine ones");
        JsonNode accepted = ada.post("/api/registers/" + key + "/shape", null).json();
        assertThat(accepted.get("fields").toString()).contains("\"pace\"").doesNotContain("\"speed\"");
        assertThat(dora.post("/api/registers/" + key + "/count", Map.of("statement", "pace > 3 and kind = 1"))
                        .status())
                .isEqualTo(200);
        TestServer.sql("drop table plant.\"Odd \"\"machine\"\"s\"");
        JsonNode gone = ada.get("/api/registers/" + key + "/shape").json();
        assertThat(gone.get("gone").booleanValue()).isTrue();
        assertThat(gone.get("views")).hasSize(2);
    }

    @Test
    void severalRegistersAreReadTogether() throws SQLException {
        String machines = attach(propose("Odd \"machine\"s"), "Machines", List.of())
                .json()
                .get("key")
                .stringValue();
        Caller.Answer answer = ada.post(
                "/api/combined",
                Map.of(
                        "label", "Work and machines",
                        "recordLabel", "entry",
                        "members",
                                List.of(
                                        Map.of("register", "jobs", "label", "Job"),
                                        Map.of("register", machines, "label", "Machine")),
                        "fields",
                                List.of(
                                        Map.of(
                                                "label",
                                                "Name",
                                                "shown",
                                                true,
                                                "from",
                                                Map.of("jobs", "title", machines, "name")),
                                        Map.of(
                                                "label",
                                                "At",
                                                "shown",
                                                true,
                                                "from",
                                                Map.of("jobs", "made_at", machines, "served")),
                                        Map.of(
                                                "label",
                                                "State",
                                                "shown",
                                                true,
                                                "from",
                                                Map.of("jobs", "state", machines, "state")),
                                        Map.of("label", "Level", "shown", true, "from", Map.of("jobs", "level"))),
                        "mainField", "At",
                        "titleField", "Name"));
        assertThat(answer.status()).as(answer.text()).isEqualTo(201);
        String key = answer.json().get("key").stringValue();
        made.add(0, key);
        assertThat(count(key, "source is \"Job\"")).isEqualTo(300);
        assertThat(count(key, "source is \"Machine\" and level is empty")).isEqualTo(50);
        assertThat(count(key, "state is in (\"Open\", \"Idle\") and at in 2026-11"))
                .isEqualTo(Long.parseLong(TestServer.query("""
                        select (select count(*) from records.jobs where state = 'Open' and made_at >= '2026-11-01Z')
                             + (select count(*) from plant."Odd ""machine""s" where state = 'Idle')""")));
        JsonNode page = dora.post("/api/registers/" + key + "/rows", Map.of("statement", "", "limit", 340))
                .json();
        JsonNode rest = dora.post(
                        "/api/registers/" + key + "/rows",
                        Map.of(
                                "statement",
                                "",
                                "limit",
                                340,
                                "after",
                                page.get("next").stringValue()))
                .json();
        assertThat(rest.get("rows")).hasSize(10);
        assertThat(ada.delete("/api/registers/" + machines).json().get("code").stringValue())
                .isEqualTo("register-in-use");
        Caller.Answer mixed = ada.post(
                "/api/combined",
                Map.of(
                        "label",
                        "Mixed",
                        "recordLabel",
                        "entry",
                        "members",
                        List.of(
                                Map.of("register", "jobs", "label", "Job"),
                                Map.of("register", machines, "label", "Machine")),
                        "fields",
                        List.of(Map.of("label", "X", "shown", true, "from", Map.of("jobs", "due", machines, "served"))),
                        "titleField",
                        "X"));
        assertThat(mixed.json().get("code").stringValue()).isEqualTo("types-differ");
    }

    @Test
    void addressesAreReadAndFoundAsTheyAreWritten() throws SQLException {
        TestServer.sql("""
                create table plant.hosts (name text primary key, at inet, net cidr);
                insert into plant.hosts values ('a', '10.1.0.7', '10.1.0.0/16'), ('b', '10.1.0.7/16', '10.1.0.7/32'),
                    ('c', 'fe80::1', 'fe80::/10'), ('d', null, null)""");
        String key = attach(propose("hosts"), "Hosts", List.of("name"))
                .json()
                .get("key")
                .stringValue();
        assertThat(count(key, "at is \"10.1.0.7\"")).isEqualTo(1);
        assertThat(count(key, "at is \"10.1.0.7/16\" or at is \"FE80::1\"")).isEqualTo(2);
        assertThat(count(key, "at ends with \"/32\" or at ends with \"/128\"")).isZero();
        assertThat(count(key, "net is in (\"10.1.0.0/16\", \"10.1.0.7/32\")")).isEqualTo(2);
        assertThat(count(key, "at is empty")).isEqualTo(1);
    }

    @Test
    void daysBeforeTheYearOneAreGroupsThatOpen() throws SQLException {
        TestServer.sql("""
                create table plant.old (code text primary key, was date, at timestamptz);
                insert into plant.old values
                    ('a', '0001-12-31 BC', '0001-12-31 12:00Z BC'), ('b', '0001-01-01', '0001-01-02 12:00Z'),
                    ('c', '0045-03-15 BC', '0045-03-15 12:00Z BC'), ('d', '0001-12-31 BC', null),
                    ('e', '1500-02-28', '1500-02-28 12:00Z'), ('f', '1582-10-10', '1582-10-10 12:00Z'), ('g', '1500-03-04', '1500-03-03 12:00Z')""");
        String key =
                attach(propose("old"), "Old", List.of("code")).json().get("key").stringValue();
        for (String[] each : new String[][] {
            {"at before 0001-01-02", "at < '0001-01-02 00:01:15Z'"},
            {"at before 1500-03-01", "at < '1500-03-01 00:01:15Z'"},
            {"was after 1500-02-25 and was before 1500-03-05", "was > '1500-02-25' and was < '1500-03-05'"},
            {
                "at after 1500-02-25 and at before 1500-03-05",
                "at >= '1500-02-26 00:01:15Z' and at < '1500-03-05 00:01:15Z'"
            },
            {"was in 1500-02-28", "was = '1500-02-28'"}
        }) {
            assertThat(count(key, each[0]))
                    .as(each[0])
                    .isEqualTo(Long.parseLong(TestServer.query("select count(*) from plant.old where " + each[1])));
        }
        for (JsonNode row : ada.post(
                        "/api/registers/" + key + "/rows",
                        Map.of("statement", "at is not empty and at after 0001-01-01"))
                .json()
                .get("rows")) {
            assertThat(row.at("/values/at").stringValue() + " "
                            + row.at("/values/was").stringValue())
                    .isEqualTo(TestServer.query(
                            "select to_char(at at time zone 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"') || ' ' || was from plant.old where code = '"
                                    + row.at("/values/code").stringValue() + "'"));
        }
        for (String field : List.of("was", "at")) {
            for (String by : List.of("day", "week", "month", "quarter", "year", "fiscal quarter", "fiscal year")) {
                Map<String, Object> grouping = Map.of("field", field, "by", by);
                Caller.Answer answer =
                        ada.post("/api/registers/" + key + "/groups", Map.of("groups", List.of(grouping)));
                assertThat(answer.status()).as(by + answer.text()).isEqualTo(200);
                long all = 0;
                for (JsonNode group : answer.json().get("groups")) {
                    Map<String, Object> inside = new java.util.HashMap<>(grouping);
                    if (!group.get("value").isNull()) {
                        inside.put("value", group.get("value").stringValue());
                    }
                    Caller.Answer opened =
                            ada.post("/api/registers/" + key + "/rows", Map.of("inside", List.of(inside)));
                    assertThat(opened.status()).as(inside + opened.text()).isEqualTo(200);
                    assertThat(opened.json().get("rows"))
                            .as(inside.toString())
                            .hasSize(group.get("records").intValue());
                    all += group.get("records").asLong();
                }
                assertThat(all).isEqualTo(7);
            }
        }
    }

    private long count(String key, String statement) {
        Caller.Answer answer = dora.post("/api/registers/" + key + "/count", Map.of("statement", statement));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json().get("matching").longValue();
    }

    /** Values at the ends of what there is: every call answers, and a record is found again by the id that its line has. */
    @Test
    void oddValuesAreReadLikeAnyOther() throws SQLException {
        String key = attach(propose("oddities"), "Oddities", List.of("code"))
                .json()
                .get("key")
                .stringValue();
        String at = "/api/registers/" + key;
        JsonNode rows =
                ada.post(at + "/rows", Map.of("order", List.of("code"))).json().get("rows");
        assertThat(rows).hasSize(4);
        for (JsonNode row : rows) {
            assertThat(row.get("id").isString()).isTrue();
            String id = row.get("id").stringValue();
            String code = row.at("/values/code").stringValue();
            assertThat(ada.get(at + "/records/" + id).json().at("/values/code").stringValue())
                    .isEqualTo(code);
            for (String statement : List.of(
                    "labels has any of (\"x\")",
                    "labels has none of (\"x\")",
                    "labels is empty",
                    "booked overlaps 2026",
                    "booked covers 2026-11-05",
                    "was before 2026",
                    "at in 2026-11-05",
                    "big > 9007199254740993")) {
                Caller.Answer why = ada.post(at + "/why", Map.of("record", id, "statement", statement));
                assertThat(why.status()).as(statement + " " + why.text()).isEqualTo(200);
                JsonNode found = ada.post(at + "/rows", Map.of("statement", statement))
                        .json()
                        .get("rows");
                assertThat(why.json().get("matches").booleanValue())
                        .as(code + " " + statement)
                        .isEqualTo(found.findValuesAsString("code").contains(code));
            }
        }
        assertThat(rows.get(0).at("/values/big").toString()).isEqualTo("9007199254740993");
        JsonNode read = ada.post(at + "/statement", Map.of("statement", "big = 9007199254740993"))
                .json();
        assertThat(read.get("condition").toString())
                .isEqualTo("{\"field\":\"big\",\"test\":\"=\",\"value\":{\"number\":\"9007199254740993\"}}");
        assertThat(ada.post(at + "/count", Map.of("condition", read.get("condition")))
                        .json()
                        .get("matching")
                        .intValue())
                .isEqualTo(1);
        for (String field : List.of("booked", "was", "at")) {
            for (String step : List.of("", "hour", "day", "week", "month", "quarter", "year")) {
                Map<String, Object> asked = new java.util.HashMap<>(Map.of("field", field));
                if (!step.isEmpty()) {
                    asked.put("step", step);
                }
                Caller.Answer answer = ada.post(at + "/histogram", asked);
                assertThat(answer.status())
                        .as(field + " " + step + " " + answer.text())
                        .isIn(200, 422);
                if (answer.status() == 200 && !field.equals("booked")) {
                    long records = 0;
                    for (JsonNode bucket : answer.json().get("buckets")) {
                        records += bucket.get("records").longValue();
                    }
                    assertThat(records).as(field + " " + step).isEqualTo(3);
                }
            }
            if (!field.equals("booked")) {
                for (String by : List.of("day", "week", "month", "quarter", "year")) {
                    Caller.Answer groups =
                            ada.post(at + "/groups", Map.of("groups", List.of(Map.of("field", field, "by", by))));
                    assertThat(groups.status()).as(groups.text()).isEqualTo(200);
                    for (JsonNode group : groups.json().get("groups")) {
                        Map<String, Object> inside = new java.util.HashMap<>(Map.of("field", field, "by", by));
                        if (!group.get("value").isNull()) {
                            if (group.get("value").stringValue().startsWith("0000")) {
                                // The year before the year 1, where no window reaches.
                                continue;
                            }
                            inside.put("value", group.get("value").stringValue());
                        }
                        Caller.Answer within = ada.post(at + "/rows", Map.of("inside", List.of(inside)));
                        assertThat(within.status()).as(within.text()).isEqualTo(200);
                        assertThat(within.json().get("rows"))
                                .as(by + inside)
                                .hasSize(group.get("records").intValue());
                    }
                }
            }
        }
        assertThat(ada.get(at + "/export.csv").status()).isEqualTo(200);
        Caller.Answer spread = ada.post(at + "/distribution", Map.of("field", "big"));
        assertThat(spread.status()).as(spread.text()).isEqualTo(200);
        assertThat(spread.json().get("empty").longValue()).isEqualTo(1);
    }

    /** What PostgreSQL holds beyond numbers and dates is compared as it compares it, shown in words, and added up nowhere. */
    @Test
    void valuesBeyondNumbersAndDatesAreReadAsTheDatabaseMeansThem() throws SQLException {
        String key = attach(propose("extremes"), "Extremes", List.of("code"))
                .json()
                .get("key")
                .stringValue();
        String at = "/api/registers/" + key;
        for (String order : List.of("amount", "-amount", "speed", "-speed", "due", "-due", "seen", "-seen")) {
            List<String> found = new ArrayList<>();
            Map<String, Object> asked = new java.util.HashMap<>(Map.of("order", List.of(order), "limit", 1));
            for (boolean more = true; more; ) {
                Caller.Answer page = ada.post(at + "/rows", asked);
                assertThat(page.status()).as(order + " " + page.text()).isEqualTo(200);
                page.json()
                        .get("rows")
                        .forEach(r -> found.add(r.at("/values/code").stringValue()));
                more = !page.json().get("next").isNull();
                if (more) {
                    asked.put("after", page.json().get("next").stringValue());
                }
            }
            String column = order.replace("-", "");
            assertThat(String.join("", found))
                    .as(order)
                    .isEqualTo(TestServer.query("select string_agg(code, '' order by " + column
                            + (order.startsWith("-") ? " desc" : "") + " nulls last) from plant.extremes"));
        }
        JsonNode rows =
                ada.post(at + "/rows", Map.of("order", List.of("code"))).json().get("rows");
        assertThat(rows.findValues("amount").toString())
                .isEqualTo("[\"not a number\", \"infinity\", \"minus infinity\", 600, 5]");
        assertThat(rows.findValues("due").toString())
                .isEqualTo("[\"infinity\", \"2026-11-05\", \"minus infinity\", null, \"2026-11-06\"]");
        assertThat(rows.findValues("seen").toString())
                .startsWith("[\"infinity\",")
                .contains("\"minus infinity\"");
        for (String[] each : new String[][] {
            {"amount > 500", "amount > 500"},
            {"speed > 2", "speed > 2"},
            {"amount <= 600", "amount <= 600"},
            {"due before 2026-11-06", "due < '2026-11-06'"},
            {"due after 2026-11-05", "due > '2026-11-05'"},
            {"seen from 2026-11-06", "seen >= '2026-11-06Z'"},
            {"due in 2026", "due >= '2026-01-01' and due < '2027-01-01'"},
            {"due after seen", "due > cast(seen at time zone 'Europe/London' as date)"},
            {"seen on weekdays", ""},
        }) {
            if (each[1].isEmpty()) {
                continue;
            }
            Map<String, Object> asked = Map.of("statement", each[0]);
            String wanted = TestServer.query(
                    "select coalesce(string_agg(code, '' order by code), '') from plant.extremes where " + each[1]);
            assertThat(String.join(
                            "",
                            ada.post(at + "/rows", Map.of("statement", each[0], "order", List.of("code")))
                                    .json()
                                    .get("rows")
                                    .findValuesAsString("code")))
                    .as(each[0])
                    .isEqualTo(wanted);
            for (JsonNode row : rows) {
                String code = row.at("/values/code").stringValue();
                Caller.Answer why =
                        ada.post(at + "/why", Map.of("record", row.get("id").stringValue(), "statement", each[0]));
                assertThat(why.status()).as(each[0] + why.text()).isEqualTo(200);
                assertThat(why.json().get("matches").booleanValue())
                        .as(code + " " + each[0])
                        .isEqualTo(wanted.contains(code));
            }
            for (String call : List.of("/edges", "/parts", "/statement", "/count")) {
                Caller.Answer answer = ada.post(at + call, asked);
                assertThat(answer.status()).as(call + each[0] + answer.text()).isEqualTo(200);
            }
        }
        for (String field : List.of("amount", "speed", "due", "seen")) {
            for (String call : List.of("/values", "/histogram", "/distribution")) {
                boolean date = field.equals("due") || field.equals("seen");
                if (date != call.equals("/histogram") && !call.equals("/values")) {
                    continue;
                }
                Caller.Answer answer = ada.post(at + call, Map.of("field", field));
                assertThat(answer.status()).as(call + field + answer.text()).isIn(200, 422);
            }
            Caller.Answer groups = ada.post(
                    at + "/groups",
                    Map.of(
                            "groups",
                            List.of(Map.of("field", field)),
                            "measures",
                            List.of(
                                    Map.of("function", "sum", "field", "amount"),
                                    Map.of("function", "sum", "field", "speed"))));
            assertThat(groups.status()).as(field + groups.text()).isEqualTo(200);
            assertThat(groups.json().at("/figures/0").toString()).isEqualTo("605");
            // Three of five amounts, and three of the speeds, are no numbers; the sums say that they lack them.
            assertThat(groups.json().get("leftOut").toString()).isEqualTo("{\"amount\":3,\"speed\":3}");
            assertThat(groups.json()
                            .get("groups")
                            .valueStream()
                            .mapToLong(g -> g.at("/leftOut/amount").asLong(0))
                            .sum())
                    .isEqualTo(3);
            JsonNode first = ada.post(
                            at + "/groups",
                            Map.of(
                                    "groups",
                                    List.of(Map.of("field", field)),
                                    "measures",
                                    List.of(Map.of("function", "sum", "field", "amount")),
                                    "limit",
                                    1))
                    .json();
            assertThat(first.get("leftOut").toString()).isEqualTo("{\"amount\":3}");
            for (JsonNode group : groups.json().get("groups")) {
                Map<String, Object> inside = new java.util.HashMap<>(Map.of("field", field));
                if (!group.get("value").isNull()) {
                    inside.put("value", group.get("value").stringValue());
                }
                Caller.Answer within = ada.post(at + "/rows", Map.of("inside", List.of(inside)));
                assertThat(within.status()).as(field + within.text()).isEqualTo(200);
                assertThat(within.json().get("rows"))
                        .as(field + inside)
                        .hasSize(group.get("records").intValue());
            }
        }
        String shape = java.net.URLEncoder.encode(
                "{\"groups\":[{\"field\":\"seen\",\"by\":\"month\"}]}", java.nio.charset.StandardCharsets.UTF_8);
        assertThat(ada.get(at + "/export.csv?order=code&columns=code&shape=" + shape)
                        .text()
                        .lines()
                        .toList())
                .containsExactly(
                        "\"Seen, month\",Code", "infinity,a", "2026-11,b", "minus infinity,c", "\"\",d", "2026-11,e");
        assertThat(ada.get(at + "/export.csv?order=code&columns=code,amount,due")
                        .text()
                        .lines()
                        .toList())
                .containsExactly(
                        "Code,Amount,Due",
                        "a,not a number,infinity",
                        "b,infinity,2026-11-05",
                        "c,minus infinity,minus infinity",
                        "d,600,",
                        "e,5,2026-11-06");
    }
}
