package deftlens.server.registers;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Tables that change behind their registers, registers read together from them, and how that is told and mended. */
@ExtendWith(TestServer.class)
class ChangingSourcesTest {

    private final Caller ada = Caller.signedIn("ada");
    private final Caller dora = Caller.signedIn("dora");
    private final List<String> made = new ArrayList<>();

    @BeforeEach
    void make() throws SQLException {
        TestServer.sql("""
                drop schema if exists plant cascade;
                create schema plant;
                create type plant.state as enum ('Idle', 'Running');
                create table plant.pumps (code text primary key, state plant.state not null, grade integer not null,
                                          booked daterange, serviced date);
                insert into plant.pumps select 'P' || i, (array['Idle', 'Running'])[1 + i % 2]::plant.state, i % 7,
                    daterange(date '2026-11-01' + i, date '2026-11-03' + i), date '2026-11-01' + i % 9 from generate_series(1, 40) i;
                create table plant.lamps (number text primary key, level integer not null, lit date);
                insert into plant.lamps select 'L' || i, i % 5, date '2026-11-01' + i % 4 from generate_series(1, 30) i;
                """);
    }

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql("delete from kept_view; delete from trail");
        for (int i = made.size() - 1; i >= 0; i--) {
            ada.delete("/api/registers/" + made.get(i));
        }
        TestServer.sql("drop schema if exists plant cascade");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 204);
        return answer.text().isEmpty() ? null : answer.json();
    }

    private String attach(String table) {
        JsonNode proposal = ok(ada.get("/api/attachable/plant/" + table));
        List<Map<String, Object>> fields = new ArrayList<>();
        proposal.get("fields").forEach(f -> {
            Map<String, Object> field = new HashMap<>(Map.of("shown", true));
            List.of("key", "label", "type", "description").forEach(part -> field.put(part, f.get(part)));
            fields.add(field);
        });
        Map<String, Object> wanted = new HashMap<>(Map.of(
                "schema",
                "plant",
                "table",
                table,
                "label",
                table,
                "recordLabel",
                "thing",
                "keyColumns",
                List.of(),
                "titleField",
                proposal.get("titleField"),
                "fields",
                fields));
        wanted.put("mainField", proposal.get("mainField"));
        String key = ok(ada.post("/api/attached", wanted)).get("key").stringValue();
        made.add(key);
        return key;
    }

    private static Map<String, Object> field(String label, Map<String, String> from) {
        return Map.of("label", label, "shown", true, "from", from);
    }

    private static Map<String, Object> together(String pumps, String lamps, List<Map<String, Object>> fields) {
        Map<String, Object> wanted = new HashMap<>();
        wanted.put("label", "Everything");
        wanted.put("recordLabel", "entry");
        wanted.put(
                "members",
                List.of(Map.of("register", pumps, "label", "Pump"), Map.of("register", lamps, "label", "Lamp")));
        wanted.put("fields", fields);
        wanted.put("titleField", "Name");
        return wanted;
    }

    private String combine(String pumps, String lamps) {
        String key = ok(ada.post(
                        "/api/combined",
                        together(
                                pumps,
                                lamps,
                                List.of(
                                        field("Name", Map.of(pumps, "code", lamps, "number")),
                                        field("Severity", Map.of(pumps, "grade", lamps, "level")),
                                        field("State", Map.of(pumps, "state"))))))
                .get("key")
                .stringValue();
        made.add(key);
        return key;
    }

    private long count(String register, String statement) {
        return ok(dora.post("/api/registers/" + register + "/count", Map.of("statement", statement)))
                .get("matching")
                .asLong();
    }

    private long keep(String register, Map<String, Object> more) {
        Map<String, Object> wanted = new HashMap<>(more);
        wanted.put("register", register);
        return ok(dora.post("/api/views", wanted)).get("id").asLong();
    }

    private List<String> codes(long view) {
        return ok(dora.get("/api/view-use"))
                .valueStream()
                .filter(u -> u.get("view").stringValue().equals(String.valueOf(view)))
                .flatMap(u -> u.get("attention").valueStream())
                .map(n -> n.get("code").stringValue())
                .distinct()
                .toList();
    }

    private List<String> needs(String register) {
        return ok(ada.get("/api/register-attention"))
                .valueStream()
                .filter(n -> n.get("register").stringValue().equals(register))
                .map(n -> n.get("code").stringValue())
                .toList();
    }

    private List<String> gaps(String register) {
        return ok(dora.get("/api/registers/" + register))
                .get("gaps")
                .valueStream()
                .map(JsonNode::stringValue)
                .toList();
    }

    @Test
    void aColumnUnderAnotherNameIsReadByTheFieldThatThereIs() throws SQLException {
        String pumps = attach("pumps");
        String all = combine(pumps, attach("lamps"));
        long view =
                keep(pumps, Map.of("name", "Grave", "statement", "grade >= 5", "columns", List.of("code", "grade")));
        long grave = Long.parseLong(TestServer.query("select count(*) from plant.pumps where grade >= 5"));
        assertThat(count(pumps, "grade >= 5")).isEqualTo(grave);
        TestServer.sql("""
                alter table plant.pumps rename column grade to severity;
                alter table plant.pumps rename column code to name;
                alter table plant.pumps rename column booked to taken;
                alter table plant.pumps add column weight integer""");
        JsonNode shape = ok(ada.get("/api/registers/" + pumps + "/shape"));
        assertThat(shape.get("renamed").get("grade").valueStream().map(JsonNode::stringValue))
                .containsExactlyInAnyOrder("severity", "weight");
        assertThat(shape.get("renamed").get("code").toString()).isEqualTo("[\"name\"]");
        assertThat(shape.get("renamed").get("booked").toString()).isEqualTo("[\"taken\"]");
        // What is not of the same type, or not there, or taken twice, is refused; nothing is written.
        for (Map<String, String> wrong :
                List.of(Map.of("grade", "name"), Map.of("grade", "nothing"), Map.of("serviced", "weight"))) {
            assertThat(ada.post("/api/registers/" + pumps + "/shape", Map.of("renamed", wrong))
                            .json()
                            .get("code")
                            .stringValue())
                    .isEqualTo("bad-rename");
        }
        assertThat(ada.post("/api/registers/" + pumps + "/shape", Map.of())
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("key-gone");
        JsonNode taken = ok(ada.post(
                "/api/registers/" + pumps + "/shape",
                Map.of("renamed", Map.of("grade", "severity", "code", "name", "booked", "taken"))));
        assertThat(taken.get("fields").valueStream().map(f -> f.get("key").stringValue()))
                .contains("grade", "code", "booked_from", "booked", "weight")
                .doesNotContain("severity", "name", "taken");
        assertThat(count(pumps, "grade >= 5")).isEqualTo(grave);
        assertThat(count(pumps, "booked overlaps 2026-11-10"))
                .isEqualTo(Long.parseLong(
                        TestServer.query("select count(*) from plant.pumps where taken @> date '2026-11-10'")));
        assertThat(ok(dora.get("/api/views/" + view + "/count")).get("matching").asLong())
                .isEqualTo(grave);
        assertThat(gaps(all)).isEmpty();
        assertThat(count(all, "severity >= 5 and source is \"Pump\"")).isEqualTo(grave);
    }

    @Test
    void newValuesOfAnEnumerationAreTaken() throws SQLException {
        String pumps = attach("pumps");
        String all = combine(pumps, attach("lamps"));
        TestServer.sql("alter type plant.state add value 'Broken' before 'Running'");
        TestServer.sql("update plant.pumps set state = 'Broken' where grade = 3");
        long broken = Long.parseLong(TestServer.query("select count(*) from plant.pumps where grade = 3"));
        assertThat(ok(ada.get("/api/registers/" + pumps + "/shape"))
                        .get("values")
                        .toString())
                .isEqualTo("[\"state\"]");
        int version = ok(dora.get("/api/registers/" + all)).get("version").intValue();
        ok(ada.post("/api/view-attention", Map.of()));
        assertThat(ok(dora.get("/api/registers/" + pumps))
                        .at("/fields")
                        .valueStream()
                        .filter(f -> f.get("key").stringValue().equals("state"))
                        .flatMap(f -> f.get("options").valueStream())
                        .map(o -> o.get("value").stringValue()))
                .containsExactly("Idle", "Broken", "Running");
        assertThat(count(pumps, "state is \"Broken\"")).isEqualTo(broken);
        assertThat(count(all, "state is \"Broken\"")).isEqualTo(broken);
        assertThat(ok(dora.get("/api/registers/" + all)).get("version").intValue())
                .isGreaterThan(version);
        assertThat(ok(ada.get("/api/registers/" + pumps + "/shape")).get("values"))
                .isEmpty();
    }

    @Test
    void aCombinedRegisterSaysWhatItLacksAndCanReadItFromElsewhere() throws SQLException {
        String pumps = attach("pumps");
        String lamps = attach("lamps");
        String all = combine(pumps, lamps);
        long view = keep(all, Map.of("name", "Grave", "statement", "severity >= 3"));
        long both = count(all, "severity >= 3");
        TestServer.sql("alter table plant.pumps rename column grade to severity");
        // Taken without saying that it is the same column: the field goes, another one comes.
        ok(ada.post("/api/registers/" + pumps + "/shape", Map.of()));
        assertThat(count(all, "severity >= 3 and source is \"Pump\"")).isZero();
        assertThat(gaps(all)).singleElement().asString().contains("“Severity”").contains("pumps");
        JsonNode shape = ok(ada.get("/api/registers/" + all + "/shape"));
        assertThat(shape.get("broken").booleanValue()).isTrue();
        assertThat(shape.get("views").valueStream().map(v -> v.get("name").stringValue()))
                .containsExactly("Grave");
        ok(ada.post("/api/view-attention", Map.of()));
        assertThat(codes(view)).contains("gaps");
        assertThat(needs(all)).containsExactly("gaps");
        // Read from the new field, by the key that the views know.
        JsonNode now = ok(ada.get("/api/registers/" + all));
        Map<String, Object> wanted = together(
                pumps,
                lamps,
                List.of(
                        Map.of(
                                "key",
                                "name",
                                "label",
                                "Name",
                                "shown",
                                true,
                                "from",
                                Map.of(pumps, "code", lamps, "number")),
                        Map.of(
                                "key",
                                "severity",
                                "label",
                                "How bad",
                                "shown",
                                true,
                                "from",
                                Map.of(pumps, "severity", lamps, "level")),
                        Map.of("key", "state", "label", "State", "shown", false, "from", Map.of(pumps, "state")),
                        field("Last seen to", Map.of(pumps, "serviced", lamps, "lit"))));
        wanted.put("version", now.get("version").intValue() + 1);
        assertThat(ada.put("/api/combined/" + all, wanted).status()).isEqualTo(409);
        wanted.put("version", now.get("version").intValue());
        JsonNode changed = ok(ada.put("/api/combined/" + all, wanted));
        assertThat(changed.get("fields")
                        .valueStream()
                        .map(f -> f.get("key").stringValue() + " "
                                + f.get("label").stringValue()))
                .contains("severity How bad", "last_seen_to Last seen to", "source Record");
        assertThat(changed.get("gaps")).isEmpty();
        assertThat(count(all, "severity >= 3")).isEqualTo(both);
        assertThat(count(all, "last_seen_to in 2026-11-02"))
                .isEqualTo(Long.parseLong(
                        TestServer.query("select (select count(*) from plant.pumps where serviced = '2026-11-02')"
                                + " + (select count(*) from plant.lamps where lit = '2026-11-02')")));
        ok(ada.post("/api/view-attention", Map.of()));
        assertThat(codes(view)).isEmpty();
        assertThat(needs(all)).isEmpty();
        // Records are known by their member's place, so that stays.
        wanted.put("version", changed.get("version").intValue());
        wanted.put(
                "members",
                List.of(Map.of("register", lamps, "label", "Lamp"), Map.of("register", pumps, "label", "Pump")));
        assertThat(ada.put("/api/combined/" + all, wanted).json().get("code").stringValue())
                .isEqualTo("members-stay");
        assertThat(dora.put("/api/combined/" + all, wanted).status()).isEqualTo(403);
    }

    @Test
    void aMemberThatHoldsSomethingElseOrIsGoneIsSaidAndComesBack() throws SQLException {
        String pumps = attach("pumps");
        String lamps = attach("lamps");
        String all = combine(pumps, lamps);
        TestServer.sql("alter table plant.lamps alter column level type text using 'about ' || level");
        ok(ada.post("/api/registers/" + lamps + "/shape", Map.of()));
        // Words cannot be read as numbers: the others are still there.
        assertThat(count(all, "severity is not empty")).isEqualTo(40);
        assertThat(gaps(all)).singleElement().asString().contains("holds text now");
        TestServer.sql("alter table plant.lamps alter column level type integer using substr(level, 7)::integer");
        ok(ada.post("/api/registers/" + lamps + "/shape", Map.of()));
        assertThat(gaps(all)).isEmpty();
        assertThat(count(all, "severity is not empty")).isEqualTo(70);
        // A register goes while nothing is read from it, and what was read from it is brought back.
        ok(ada.delete("/api/registers/" + all));
        ok(ada.delete("/api/registers/" + lamps));
        ok(ada.post("/api/registers/" + all + "/restore", Map.of()));
        assertThat(gaps(all)).singleElement().asString().contains("“Lamp”").contains("taken away");
        assertThat(count(all, "")).isEqualTo(40);
        ok(ada.post("/api/registers/" + lamps + "/restore", Map.of()));
        assertThat(gaps(all)).isEmpty();
        assertThat(count(all, "severity is not empty")).isEqualTo(70);
    }

    @Test
    void whatIsGoneUnderAViewNeedsAttention() throws SQLException {
        String pumps = attach("pumps");
        long view = keep(
                pumps,
                Map.of(
                        "name", "By grade",
                        "statement", "state is \"Idle\"",
                        "columns", List.of("code", "serviced"),
                        "order", List.of("-serviced"),
                        "shape",
                                Map.of(
                                        "groups", List.of(Map.of("field", "serviced", "by", "month")),
                                        "totals", List.of("grade"))));
        ok(ada.post("/api/view-attention", Map.of()));
        assertThat(codes(view)).isEmpty();
        assertThat(needs(pumps)).isEmpty();
        TestServer.sql("alter table plant.pumps drop column serviced, drop column grade");
        JsonNode run = ok(ada.post("/api/view-attention", Map.of()));
        assertThat(run.get("registers").intValue()).isEqualTo(1);
        assertThat(codes(view)).contains("table-changed");
        assertThat(needs(pumps)).containsExactly("table-changed");
        ok(ada.post("/api/registers/" + pumps + "/shape", Map.of()));
        ok(ada.post("/api/view-attention", Map.of()));
        assertThat(needs(pumps)).isEmpty();
        List<String> told = ok(dora.get("/api/view-use"))
                .valueStream()
                .filter(u -> u.get("view").stringValue().equals(String.valueOf(view)))
                .flatMap(u -> u.get("attention").valueStream())
                .map(n -> n.get("message").stringValue())
                .toList();
        assertThat(told)
                .containsExactlyInAnyOrder(
                        "The field “serviced” was shown and ordered by and grouped by and is gone.",
                        "The field “grade” was measured and is gone.");
        TestServer.sql("drop table plant.pumps");
        ok(ada.post("/api/view-attention", Map.of()));
        assertThat(codes(view)).contains("table-gone");
        assertThat(needs(pumps)).containsExactly("table-gone");
        assertThat(dora.get("/api/register-attention").status()).isEqualTo(403);
        assertThat(Optional.of(dora.post("/api/view-attention", Map.of()).status()))
                .hasValue(403);
    }
}
