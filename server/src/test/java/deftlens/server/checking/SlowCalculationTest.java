package deftlens.server.checking;

import static org.assertj.core.api.Assertions.assertThat;

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

/** A criterion on a calculated field that makes a question slow is noticed. */
@ExtendWith(TestServer.class)
class SlowCalculationTest {

    private static final String AT = "/api/registers/slow_readings";

    private final Caller ada = Caller.signedIn("ada");

    /** Two thousand readings, of which each takes five thousandths of a second to be read, and nothing else does. */
    @BeforeEach
    void attach() throws SQLException {
        TestServer.sql("""
                create schema slowly;
                create function slowly.read(n int) returns numeric language plpgsql stable as
                    $$ begin perform pg_sleep(0.005); return n; end $$;
                create view slowly.readings as
                    select i as code, i % 199 as kind, slowly.read(i) as reading from generate_series(1, 2000) i;
                """);
        JsonNode proposal = ok(ada.get("/api/attachable/slowly/readings"));
        List<Map<String, Object>> fields = new ArrayList<>();
        for (JsonNode f : proposal.get("fields")) {
            Map<String, Object> field = new HashMap<>();
            for (String part : List.of("key", "label", "type", "description")) {
                field.put(part, f.get(part).stringValue());
            }
            field.put("shown", true);
            fields.add(field);
        }
        ok(ada.post(
                "/api/attached",
                Map.of(
                        "schema",
                        "slowly",
                        "table",
                        "readings",
                        "label",
                        "Slow readings",
                        "recordLabel",
                        "reading",
                        "keyColumns",
                        List.of("code"),
                        "titleField",
                        "code",
                        "fields",
                        fields)));
        for (String calculation : List.of("reading * 2", "kind * 2")) {
            ok(ada.post(
                    AT + "/fields",
                    Map.of(
                            "type",
                            "calculated",
                            "label",
                            calculation.startsWith("kind") ? "Twice the kind" : "Twice",
                            "calculation",
                            calculation)));
        }
    }

    @AfterEach
    void leave() throws SQLException {
        ada.delete(AT);
        TestServer.sql(
                "delete from view_attention where view_id in (select id from kept_view where register_key = 'slow_readings');"
                        + " delete from kept_view where register_key = 'slow_readings'; delete from register where key = 'slow_readings'; drop schema slowly cascade");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 201);
        return answer.json();
    }

    private List<String> found(String statement) {
        return ok(ada.post(AT + "/statement", Map.of("statement", statement)))
                .get("findings")
                .valueStream()
                .filter(f -> f.get("code").stringValue().equals("slow-calculation"))
                .map(f -> f.get("path").stringValue() + " " + f.get("message").stringValue())
                .toList();
    }

    @Test
    void whatIsQuickWithoutItIsSaid() {
        assertThat(found("kind >= 0 and twice > 4000"))
                .hasSize(1)
                .first()
                .satisfies(message -> assertThat(message)
                        .startsWith("/all/1 ")
                        .contains("“Twice” is worked out for every record", "did not find the first hundred"));
        // Few records are left by another criterion, a calculation is quick, a question is slow without any.
        assertThat(found("kind = 3 and twice > 4000")).isEmpty();
        assertThat(found("[Twice the kind] > 20")).isEmpty();
        assertThat(found("reading > 4000 and [Twice the kind] > 2")).isEmpty();
    }

    @Test
    void whatAChangeDoesToViewsIsCountedAlsoWhereAFirstTryIsTooShort() {
        ok(ada.post(
                "/api/views",
                Map.of(
                        "register",
                        "slow_readings",
                        "name",
                        "Slow ones",
                        "statement",
                        "kind < 3 and twice > 2000",
                        "columns",
                        List.of("code"))));
        JsonNode effect = ok(ada.post(
                        AT + "/calculations/review", Map.of("calculations", Map.of("twice", "reading * 4"))))
                .get(0);
        assertThat(effect.get("moves").get("enter").longValue()).isEqualTo(ofKind(3, 500, 1000));
        assertThat(effect.get("moves").get("leave").longValue()).isZero();
    }

    /** How many readings of the first kinds are more than one number, and at most another. */
    private static long ofKind(int kinds, int above, int most) {
        return java.util.stream.IntStream.rangeClosed(above + 1, most)
                .filter(i -> i % 199 < kinds)
                .count();
    }
}
