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

    private long count(String key, String statement) {
        Caller.Answer answer = dora.post("/api/registers/" + key + "/count", Map.of("statement", statement));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json().get("matching").longValue();
    }
}
