package deftlens.server.linking;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import deftlens.testing.TestCluster;
import java.net.URI;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

/** The other server is another database of the test cluster, reached over TCP like any. */
@ExtendWith(TestServer.class)
class LinkedServersTest {

    private static final List<Map<String, String>> BOATS = List.of(Map.of("schema", "yard", "table", "boats"));

    private static String elsewhere;

    private Caller ada;
    private final List<String> registers = new ArrayList<>();
    private final List<String> links = new ArrayList<>();

    @BeforeEach
    void make() throws SQLException {
        ada = Caller.signedIn("ada");
        if (elsewhere == null) {
            elsewhere = TestCluster.freshDatabase("deft_elsewhere");
        }
        remote("""
                drop schema if exists yard cascade;
                drop role if exists yard_reader;
                create role yard_reader login password 'it''s "open": 50 %?';
                create schema yard;
                grant usage on schema yard to yard_reader;
                create type yard.state as enum ('Afloat', 'On "land"');
                create domain yard.metres as numeric(6, 2);
                create table yard.boats (
                    no integer primary key,
                    name text not null,
                    state yard.state not null,
                    paint varchar(20) check (paint in ('Red', 'O''Blue')),
                    length yard.metres,
                    built date,
                    here tstzrange,
                    booked daterange,
                    states yard.state[]);
                comment on table yard.boats is 'Every boat of the yard''s.';
                comment on column yard.boats.built is 'As its papers say.';
                insert into yard.boats
                select i, 'Boat ' || i, (array['Afloat', 'On "land"'])[1 + i % 2]::yard.state, 'Red', i / 2.0,
                       date '2026-01-01' + i, tstzrange(timestamptz '2026-11-01 00:00Z' + interval '1 day' * i, null),
                       case when i % 10 = 0 then daterange(null, date '2026-11-10') else daterange(date '2026-11-01' + i, date '2026-11-03' + i) end,
                       array['Afloat']::yard.state[]
                from generate_series(1, 40) i;
                create table yard.secret (a integer);
                create table yard.odd ("a ""b""\" integer, "c'd" text);
                insert into yard.odd values (1, 'x');
                grant select on yard.boats, yard.odd to yard_reader;
                """);
    }

    @AfterEach
    void leave() throws SQLException {
        registers.forEach(key -> ada.delete("/api/registers/" + key));
        for (String key : links) {
            assertThat(ada.delete("/api/linked-servers/" + key).status()).isEqualTo(204);
        }
        assertThat(TestServer.query("select count(*) from pg_foreign_server")).isEqualTo("0");
    }

    private static void remote(String sql) throws SQLException {
        try (Connection connection =
                        DriverManager.getConnection(elsewhere, TestCluster.user(), TestCluster.password());
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    private static Map<String, Object> address(String role) {
        URI uri = URI.create(elsewhere.substring("jdbc:".length()));
        return new HashMap<>(Map.of(
                "host", uri.getHost(),
                "port", uri.getPort(),
                "database", uri.getPath().substring(1),
                "role", role,
                "encryption", "PREFERRED"));
    }

    private static Map<String, Object> access() {
        return new HashMap<>(Map.of("address", address("yard_reader"), "password", "it's \"open\": 50 %?"));
    }

    private JsonNode link(List<Map<String, String>> tables) {
        Map<String, Object> wanted = access();
        wanted.put("label", "The yard");
        wanted.put("tables", tables);
        Caller.Answer answer = ada.post("/api/linked-servers", wanted);
        assertThat(answer.status()).as(answer.text()).isEqualTo(201);
        links.add(answer.json().get("key").stringValue());
        return answer.json();
    }

    private JsonNode attach(String schema, String table) {
        JsonNode proposal = ada.get("/api/attachable/" + schema + "/" + table).json();
        List<Map<String, Object>> fields = new ArrayList<>();
        for (JsonNode f : proposal.get("fields")) {
            fields.add(Map.of(
                    "key", f.get("key").stringValue(),
                    "label", f.get("label").stringValue(),
                    "type", f.get("type").stringValue(),
                    "shown", true,
                    "description", f.get("description").stringValue()));
        }
        Caller.Answer answer = ada.post(
                "/api/attached",
                Map.of(
                        "schema",
                        schema,
                        "table",
                        table,
                        "label",
                        "Boats",
                        "recordLabel",
                        "boat",
                        "keyColumns",
                        List.of(),
                        "mainField",
                        "built",
                        "titleField",
                        "name",
                        "fields",
                        fields));
        assertThat(answer.status()).as(answer.text()).isEqualTo(201);
        registers.add(answer.json().get("key").stringValue());
        return answer.json();
    }

    private long matching(String statement) {
        Caller.Answer answer =
                ada.post("/api/registers/" + registers.getLast() + "/count", Map.of("statement", statement));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json().get("matching").longValue();
    }

    @Test
    void aServerShowsTheTablesThatItsRoleMayRead() {
        JsonNode look = ada.post("/api/linked-servers/look", access()).json();
        assertThat(look.get("comparesAlike").booleanValue()).isTrue();
        List<String> tables = new ArrayList<>();
        look.get("tables").forEach(t -> tables.add(t.get("table").stringValue()));
        assertThat(tables).containsExactly("boats", "odd");
        assertThat(look.get("tables").get(0).get("comment").stringValue()).isEqualTo("Every boat of the yard's.");
        assertThat(look.get("tables").get(0).get("columns").intValue()).isEqualTo(9);
    }

    @Test
    void aLinkedTableBecomesARegisterWithKeysChoicesAndSpans() {
        assertThat(link(BOATS).get("key").stringValue()).isEqualTo("the_yard");
        JsonNode proposal = ada.get("/api/attachable/the_yard/boats").json();
        assertThat(proposal.get("keyColumns").get(0).stringValue()).isEqualTo("no");
        List<String> fields = new ArrayList<>();
        proposal.get("fields")
                .forEach(f -> fields.add(
                        f.get("key").stringValue() + " " + f.get("type").stringValue() + " " + f.get("options")));
        assertThat(fields)
                .containsExactly(
                        "no number []",
                        "name text []",
                        "state choice [\"Afloat\",\"On \\\"land\\\"\"]",
                        "paint choice [\"Red\",\"O'Blue\"]",
                        "length number []",
                        "built date []",
                        "here_from moment []",
                        "here_until moment []",
                        "here span []",
                        "booked_from date []",
                        "booked_until date []",
                        "booked span []",
                        "states tags []");
        attach("the_yard", "boats");
        assertThat(matching("")).isEqualTo(40);
        assertThat(matching("no > 10 and state is \"On \\\"land\\\"\"")).isEqualTo(15);
        assertThat(matching("length between 2 and 3")).isEqualTo(3);
        assertThat(matching("name contains \"OAT 3\"")).isEqualTo(11);
        assertThat(matching("built in this year")).isEqualTo(40);
        assertThat(matching("here overlaps 2026-11-05")).isEqualTo(4);
        // Four of them have no beginning and end on 9 November; those of the 3rd, 4th and 5th hold the 5th or begin on
        // it.
        assertThat(matching("booked overlaps 2026-11-05")).isEqualTo(4 + 2);
        assertThat(matching("booked ends in 2026-11-09")).isEqualTo(4 + 1);
    }

    @Test
    void theOtherServerDoesTheWorkAndIsNeverWrittenTo() throws SQLException {
        link(BOATS);
        String plan = plan("select * from the_yard.boats t where t.no > 35 and lower(t.name) = 'boat 38'");
        assertThat(plan).contains("Remote SQL").contains("no > 35").contains("lower(name)");
        assertThat(org.assertj.core.api.Assertions.catchThrowable(
                        () -> TestServer.sql("update the_yard.boats set name = 'x'")))
                .isInstanceOf(SQLException.class);
        // Whatever its rights are there, and whatever somebody changes here.
        remote("grant all on yard.boats to yard_reader");
        TestServer.sql("alter server deft_the_yard options (set updatable 'true')");
        assertThat(org.assertj.core.api.Assertions.catchThrowable(
                        () -> TestServer.sql("update the_yard.boats set name = 'x'")))
                .hasMessageContaining("read-only transaction");
    }

    private static String plan(String sql) throws SQLException {
        StringBuilder plan = new StringBuilder();
        try (Connection connection = TestServer.connect();
                Statement statement = connection.createStatement();
                var rows = statement.executeQuery("explain (verbose) " + sql)) {
            while (rows.next()) {
                plan.append(rows.getString(1)).append('\n');
            }
        }
        return plan.toString();
    }

    @Test
    void namesThatNeedQuotesAreRead() {
        link(List.of(Map.of("schema", "yard", "table", "odd")));
        Caller.Answer answer = ada.get("/api/attachable/the_yard/odd");
        assertThat(answer.json().get("columns").get(0).stringValue()).isEqualTo("a \"b\"");
        assertThat(answer.json().get("keyColumns").isEmpty()).isTrue();
    }

    @ParameterizedTest
    @CsvSource({
        "host, no-such-host.invalid, no-such-host",
        "port, 1, not-listening",
        "database, nothing, no-such-database",
        "role, nobody, wrong-password",
        "host, http://x, bad-value",
    })
    void whatIsWrongIsSaid(String member, String value, String code) {
        Map<String, Object> address = address("yard_reader");
        address.put(member, member.equals("port") ? Integer.valueOf(value) : value);
        Caller.Answer answer =
                ada.post("/api/linked-servers/look", Map.of("address", address, "password", "it's \"open\": 50 %?"));
        assertThat(answer.status()).as(answer.text()).isBetween(400, 422);
        assertThat(answer.json().get("code").stringValue()).isEqualTo(code);
    }

    @Test
    void aTableThatIsUsedStaysAndItsServerToo() {
        link(BOATS);
        attach("the_yard", "boats");
        assertThat(ada.put("/api/linked-servers/the_yard/tables", List.of(Map.of("schema", "yard", "table", "odd")))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("attached");
        assertThat(ada.delete("/api/linked-servers/the_yard")
                        .json()
                        .get("detail")
                        .stringValue())
                .contains("boats");
        JsonNode more = ada.put(
                        "/api/linked-servers/the_yard/tables",
                        List.of(BOATS.get(0), Map.of("schema", "yard", "table", "odd")))
                .json();
        assertThat(more.get("tables").get(0).get("register").stringValue()).isEqualTo(registers.getLast());
        assertThat(more.get("tables").size()).isEqualTo(2);
        assertThat(matching("")).isEqualTo(40);
    }

    @Test
    void aChangedTableIsNoticedWhenItIsReadAnew() throws SQLException {
        link(BOATS);
        attach("the_yard", "boats");
        remote("alter table yard.boats rename column length to long");
        Caller.Answer broken =
                ada.post("/api/registers/" + registers.getLast() + "/rows", Map.of("statement", "length > 3"));
        assertThat(broken.status()).isEqualTo(409);
        assertThat(broken.json().get("detail").stringValue()).contains("is not what it was");
        assertThat(needed()).isEqualTo("table-changed");
        assertThat(ada.put("/api/linked-servers/the_yard/tables", BOATS).status())
                .isEqualTo(200);
        assertThat(ada.post("/api/registers/" + registers.getLast() + "/shape", Map.of())
                        .status())
                .isEqualTo(200);
        assertThat(matching("long > 3")).isEqualTo(34);
        assertThat(needed()).isEmpty();
    }

    /** What the look at registers finds about the last one, now. */
    private String needed() {
        assertThat(ada.post("/api/view-attention", Map.of()).status()).isEqualTo(200);
        return ada.get("/api/register-attention")
                .json()
                .valueStream()
                .filter(n -> n.get("register").stringValue().equals(registers.getLast()))
                .map(n -> n.get("code").stringValue())
                .findFirst()
                .orElse("");
    }

    @Test
    void aServerThatLetsNobodyInAnyMoreIsNamedAsTheReason() throws SQLException {
        link(BOATS);
        attach("the_yard", "boats");
        String schema = "the_yard";
        TestServer.sql("alter server deft_" + schema + " options (set dbname 'nothing')");
        Caller.Answer answer = ada.post("/api/registers/" + registers.getLast() + "/rows", Map.of("statement", ""));
        assertThat(answer.status()).isEqualTo(503);
        assertThat(answer.json().get("code").stringValue()).isEqualTo("linked-server");
        assertThat(answer.json().get("detail").stringValue()).contains("another server");
        assertThat(ada.post(
                                "/api/views",
                                Map.of("register", registers.getLast(), "name", "Boats elsewhere", "statement", ""))
                        .status())
                .isEqualTo(201);
        assertThat(needed()).isEqualTo("unreachable");
        assertThat(ada.get("/api/view-use").text()).contains("\"unreachable\"");
        TestServer.sql("delete from kept_view");
    }

    @Test
    void theSignInIsTriedBeforeItIsChanged() throws SQLException {
        link(BOATS);
        Map<String, Object> wrong = access();
        wrong.put("password", "wrong");
        assertThat(ada.put("/api/linked-servers/the_yard/access", wrong)
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("wrong-password");
        remote("alter role yard_reader password 'new'");
        wrong.put("password", "new");
        assertThat(ada.put("/api/linked-servers/the_yard/access", wrong).status())
                .isEqualTo(200);
        assertThat(ada.get("/api/linked-servers/the_yard/look").status()).isEqualTo(200);
    }

    @Test
    void onlyAdministratorsLinkAndNobodyReadsThePassword() {
        link(BOATS);
        assertThat(ada.get("/api/linked-servers").text())
                .contains("yard_reader")
                .doesNotContain("open");
        Caller dora = Caller.signedIn("dora");
        assertThat(dora.get("/api/linked-servers").status()).isEqualTo(403);
        assertThat(dora.post("/api/linked-servers/look", access()).status()).isEqualTo(403);
        assertThat(dora.delete("/api/linked-servers/the_yard").status()).isEqualTo(403);
        assertThat(dora.get("/api/linked-servers/the_yard/look").status()).isEqualTo(403);
    }
}
