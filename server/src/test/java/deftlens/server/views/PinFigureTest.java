package deftlens.server.views;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Figures beside pinned views on the list. */
@ExtendWith(TestServer.class)
class PinFigureTest {

    private final Caller dora = Caller.signedIn("dora");
    private final Caller dan = Caller.signedIn("dan");

    @AfterEach
    void unpin() {
        dora.put("/api/pins", Map.of("views", List.of()));
        dan.put("/api/pins", Map.of("views", List.of()));
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 201);
        return answer.json();
    }

    private static String refused(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(400, 422);
        return answer.json().get("code").stringValue();
    }

    /** A view of jobs as totals by site, with the sum of their levels. */
    private String keep(String name, Map<String, Object> totals) {
        return ok(dora.post(
                        "/api/views",
                        Map.of(
                                "register",
                                "jobs",
                                "name",
                                name,
                                "statement",
                                "level >= 2",
                                "shape",
                                Map.of(
                                        "groups",
                                        List.of(Map.of("field", "site")),
                                        "measures",
                                        List.of(
                                                Map.of("function", "count"),
                                                Map.of("function", "sum", "field", "level")),
                                        "totals",
                                        totals))))
                .get("id")
                .stringValue();
    }

    private JsonNode counts(String id) {
        return ok(dora.post("/api/counts", Map.of("views", List.of(id))));
    }

    private static Map<String, Object> figure(String name) {
        Map<String, Object> figure = new HashMap<>();
        figure.put("figure", name);
        return figure;
    }

    @Test
    void aFigureStandsBesideAPinnedView() throws SQLException {
        String id = keep("Levels", Map.of("empties", false));
        assertThat(refused(dora.put("/api/pins/" + id + "/figure", figure("sum_of_level"))))
                .isEqualTo("not-pinned");
        ok(dora.put("/api/pins", Map.of("views", List.of(id))));
        assertThat(counts(id).at("/views/" + id + "/matching").asText())
                .isEqualTo(TestServer.query("select count(*) from records.jobs where level >= 2"));
        assertThat(ok(dora.put("/api/pins/" + id + "/figure", figure("sum_of_level")))
                        .at("/0/figure")
                        .stringValue())
                .isEqualTo("sum_of_level");
        JsonNode told = counts(id).at("/figures/" + id);
        assertThat(told.get("value").asText())
                .isEqualTo(TestServer.query("select sum(level) from records.jobs where level >= 2"));
        assertThat(told.get("label").stringValue()).isEqualTo("sum of Level");
        assertThat(told.get("type").stringValue()).isEqualTo("number");
        assertThat(counts(id).get("views")).isEmpty();
        assertThat(ok(dora.get("/api/views/" + id + "/figure?name=sum_of_level")))
                .isEqualTo(told);
        // Another order of the pins keeps it; it is the person's own.
        String other = keep("Levels again", Map.of());
        ok(dora.put("/api/pins", Map.of("views", List.of(other, id))));
        assertThat(ok(dora.get("/api/pins")).at("/1/figure").stringValue()).isEqualTo("sum_of_level");
        assertThat(ok(dora.get("/api/pins")).at("/0/figure").isNull()).isTrue();
        // The number of records again.
        ok(dora.put("/api/pins/" + id + "/figure", figure(null)));
        assertThat(counts(id).at("/views/" + id + "/matching").isMissingNode()).isFalse();
    }

    @Test
    void itIsOfTheRowsShown() throws SQLException {
        String id = keep("The first site", Map.of("order", "-sum_of_level", "limit", 1));
        String kept = keep("Large sites", Map.of("keep", "number > 60"));
        ok(dora.put("/api/pins", Map.of("views", List.of(id, kept))));
        ok(dora.put("/api/pins/" + id + "/figure", figure("sum_of_level")));
        ok(dora.put("/api/pins/" + kept + "/figure", figure("sum_of_level")));
        String sites =
                " from (select sum(level) as s, count(*) as n from records.jobs where level >= 2 group by site) j";
        assertThat(counts(id).at("/figures/" + id + "/value").asText())
                .isEqualTo(TestServer.query("select max(s)" + sites));
        assertThat(counts(kept).at("/figures/" + kept + "/value").asText())
                .isEqualTo(TestServer.query("select coalesce(sum(s), 0)" + sites + " where n > 60"));
    }

    @Test
    void aViewThatIsReadOtherwiseByNowHasItsNumberThere() {
        String id = keep("Changed later", Map.of());
        ok(dora.put("/api/pins", Map.of("views", List.of(id))));
        assertThat(refused(dora.put("/api/pins/" + id + "/figure", figure("sum_of_cost"))))
                .isEqualTo("unknown-figure");
        ok(dora.put("/api/pins/" + id + "/figure", figure("sum_of_level")));
        int version = ok(dora.get("/api/views/" + id)).get("version").asInt();
        ok(dora.patch("/api/views/" + id, Map.of("version", version, "shape", Map.of("density", "close"))));
        JsonNode counts = counts(id);
        assertThat(counts.get("figures")).isEmpty();
        assertThat(counts.get("failed")).isEmpty();
        assertThat(counts.at("/views/" + id + "/matching").asLong()).isPositive();
        assertThat(refused(dora.put("/api/pins/" + id + "/figure", figure("sum_of_level"))))
                .isEqualTo("no-totals");
        // All columns together have no column before them.
        String changes = keep("Changes", Map.of("across", Map.of("field", "due", "by", "month"), "changes", true));
        ok(dora.put("/api/pins", Map.of("views", List.of(id, changes))));
        assertThat(refused(dora.put("/api/pins/" + changes + "/figure", figure("change_of_sum_of_level"))))
                .isEqualTo("no-place");
        // Nobody tells what they may not read.
        assertThat(dan.put("/api/pins/" + id + "/figure", figure(null)).status())
                .isEqualTo(404);
        assertThat(dan.get("/api/views/" + id + "/figure?name=number").status()).isEqualTo(404);
    }
}
