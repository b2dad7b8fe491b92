package deftlens.server.registers;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Fields go from a register and come back, with what records have in them. */
@ExtendWith(TestServer.class)
class FieldRemovalTest {

    private static final String AT = "/api/registers/wagons";
    private final Caller ada = Caller.signedIn("ada");

    @BeforeEach
    void make() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                                "wagons",
                                "Wagons",
                                "wagon",
                                "came",
                                "number",
                                true,
                                List.of(
                                        new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()),
                                        new FieldDefinition("came", "Came", FieldType.MOMENT, false, true, List.of()),
                                        new FieldDefinition(
                                                "left_at", "Left", FieldType.MOMENT, false, true, List.of()),
                                        FieldDefinition.span(
                                                "there", "There", new Field.Ends("came", "left_at", false)),
                                        new FieldDefinition("load", "Load", FieldType.NUMBER, true, true, List.of()),
                                        new FieldDefinition("price", "Price", FieldType.MONEY, false, true, List.of()),
                                        new FieldDefinition("yard", "Yard", FieldType.TEXT, false, true, List.of())))
                        .running("price"));
        TestServer.sql("insert into records.wagons (number, came, load, yard) select 'W-' || i,"
                + " timestamptz '2026-11-01Z' + interval '1 hour' * i, i, case when i % 3 = 0 then null else 'North' end"
                + " from generate_series(1, 30) i");
    }

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql("delete from kept_view where register_key = 'wagons';"
                + " delete from register where key = 'wagons'; drop table if exists records.wagons");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 204);
        return answer.json();
    }

    private JsonNode use(String field) {
        return ok(ada.get(AT + "/fields/" + field + "/use"));
    }

    private Caller.Answer remove(String field) {
        int version = ok(ada.get(AT)).get("version").asInt();
        return ada.delete(AT + "/fields/" + field + "?version=" + version);
    }

    private List<String> fields() {
        List<String> keys = new ArrayList<>();
        ok(ada.get(AT)).get("fields").forEach(f -> keys.add(f.get("key").stringValue()));
        return keys;
    }

    private Caller.Answer count(String statement) {
        return ada.post(AT + "/count", Map.of("statement", statement));
    }

    @Test
    void aFieldGoesAndComesBackWithItsValues() throws SQLException {
        JsonNode view = ok(ada.post(
                "/api/views",
                Map.of(
                        "register",
                        "wagons",
                        "name",
                        "Heavy",
                        "statement",
                        "load > 10",
                        "columns",
                        List.of("number", "load"))));
        JsonNode shows = ok(ada.post(
                "/api/views",
                Map.of(
                        "register",
                        "wagons",
                        "name",
                        "Northern",
                        "statement",
                        "yard is \"North\"",
                        "columns",
                        List.of("number", "load"))));
        JsonNode found = use("load");
        assertThat(found.get("values").asLong()).isEqualTo(30);
        assertThat(found.get("needed")).isEmpty();
        assertThat(found.get("views")).hasSize(2);
        assertThat(found.at("/views/0/name").stringValue() + ": "
                        + found.at("/views/0/criteria/0").stringValue())
                .isEqualTo("Heavy: load is more than 10");
        assertThat(found.at("/views/1/criteria")).isEmpty();
        assertThat(use("yard").get("values").asLong()).isEqualTo(20);
        assertThat(use("price").get("values").asLong()).isZero();

        assertThat(ok(remove("load")).get("key").stringValue()).isEqualTo("wagons");
        assertThat(fields()).containsExactly("number", "came", "left_at", "there", "price", "yard");
        assertThat(ok(ada.get(AT + "/removed-fields")).at("/0/label").stringValue())
                .isEqualTo("Load");
        assertThat(count("load > 10").status()).isEqualTo(422);
        JsonNode row = ok(ada.post(AT + "/rows", Map.of("statement", ""))).at("/rows/0/values");
        assertThat(row.has("load")).isFalse();
        // A view that asks for it says so; one that only shows it goes on without.
        assertThat(ada.get("/api/views/" + view.get("id").stringValue() + "/count")
                        .status())
                .isEqualTo(422);
        assertThat(ok(ada.get("/api/views/" + shows.get("id").stringValue() + "/rows"))
                        .get("rows"))
                .hasSize(20);
        // Every record had one; those that come now have none.
        ok(ada.post(AT + "/records", Map.of("values", Map.of("number", "W-31"))));
        assertThat(ada.post(AT + "/fields", Map.of("type", "text", "label", "Load"))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("field-removed");

        ok(ada.post(AT + "/removed-fields/load", Map.of()));
        assertThat(fields()).containsExactly("number", "came", "left_at", "there", "price", "yard", "load");
        assertThat(ok(ada.get(AT + "/removed-fields"))).isEmpty();
        assertThat(ok(count("load > 10")).get("matching").asLong()).isEqualTo(20);
        assertThat(ok(count("load is empty")).get("matching").asLong()).isEqualTo(1);
        assertThat(ok(ada.get("/api/views/" + view.get("id").stringValue() + "/count"))
                        .get("matching")
                        .asLong())
                .isEqualTo(20);
        assertThat(TestServer.query("select string_agg(action, ', ' order by id) from trail where subject = 'register'"
                        + " and subject_id = (select id from register where key = 'wagons')"))
                .isEqualTo("field removed, field restored");
    }

    @Test
    void whatRestsOnAFieldIsSaidFirst() throws SQLException {
        assertThat(ada.get(AT + "/fields/nothing/use").status()).isEqualTo(404);
        Map<String, String> reasons = new HashMap<>();
        for (String field : List.of("number", "came", "left_at", "price", "yard")) {
            JsonNode needed = use(field).get("needed");
            reasons.put(field, needed.isEmpty() ? "" : needed.get(0).stringValue());
        }
        assertThat(reasons.get("number")).startsWith("It names a record to people.");
        assertThat(reasons.get("came")).startsWith("It is the main date.");
        assertThat(reasons.get("left_at")).isEqualTo("“There” begins or ends with it. Remove that field first.");
        assertThat(reasons.get("price")).startsWith("It is added up as time goes.");
        assertThat(reasons.get("yard")).isEmpty();
        assertThat(remove("price").json().get("code").stringValue()).isEqualTo("field-needed");

        ok(ada.put(
                AT + "/access",
                List.of(Map.of("mayRead", true, "statement", "yard is \"North\"", "hidden", List.of("load")))));
        assertThat(use("yard").at("/needed/0").stringValue()).startsWith("Who sees which records is limited by it.");
        assertThat(remove("yard").status()).isEqualTo(422);
        // What is hidden from somebody stays hidden from them when it comes back, whatever is said meanwhile.
        Caller dora = Caller.signedIn("dora");
        ok(remove("load"));
        ok(ada.put(
                AT + "/access", List.of(Map.of("mayRead", true, "statement", "", "hidden", List.of("load", "price")))));
        ok(ada.post(AT + "/removed-fields/load", Map.of()));
        assertThat(ok(dora.get(AT)).get("fields").toString()).doesNotContain("\"load\"", "\"price\"");
        assertThat(dora.post(AT + "/count", Map.of("statement", "load > 10")).status())
                .isEqualTo(422);
        ok(ada.put(AT + "/access", List.of()));
        assertThat(ok(dora.get(AT)).get("fields").toString()).contains("\"load\"");

        // A span goes before its ends, and comes back after them.
        ok(remove("there"));
        ok(remove("left_at"));
        assertThat(ada.post(AT + "/removed-fields/there", Map.of())
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("field-lacks-ends");
        ok(ada.post(AT + "/removed-fields/left_at", Map.of()));
        ok(ada.post(AT + "/removed-fields/there", Map.of()));
        assertThat(ok(count("there overlaps 2026")).get("matching").asLong()).isEqualTo(30);
    }

    @Test
    void nobodyRemovesWhatSomebodyElseChangedMeanwhile() {
        int version = ok(ada.get(AT)).get("version").asInt();
        ok(remove("yard"));
        Caller.Answer late = ada.delete(AT + "/fields/load?version=" + version);
        assertThat(late.status()).isEqualTo(409);
        assertThat(late.json().get("code").stringValue()).isEqualTo("changed-meanwhile");
        assertThat(remove("yard").status()).isEqualTo(404);
        assertThat(ada.post(AT + "/removed-fields/load", Map.of()).status()).isEqualTo(404);
        assertThat(Caller.signedIn("dora").get(AT + "/removed-fields").status()).isEqualTo(403);
        assertThat(fields()).contains("load");
    }
}
