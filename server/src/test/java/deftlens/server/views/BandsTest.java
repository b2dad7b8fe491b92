package deftlens.server.views;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.CatalogueCalls;
import deftlens.server.testing.TestServer;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Bands of a field, the views that rest on them, and what becomes of these when the bands change. */
@ExtendWith(TestServer.class)
class BandsTest {

    private final Caller ada = Caller.signedIn("ada");
    private final Caller dora = Caller.signedIn("dora");
    private ObjectNode asItWas;

    @BeforeEach
    void note() {
        asItWas = (ObjectNode) ada.get("/api/registers/stays").json();
    }

    @AfterEach
    void putBack() throws SQLException {
        TestServer.sql("delete from register_access; delete from kept_view; delete from trail");
        assertThat(write(bands -> {}, (ArrayNode) length(asItWas).get("bands")).status())
                .isEqualTo(200);
        TestServer.sql("delete from trail");
    }

    private interface Change {
        void in(ArrayNode bands);
    }

    private static ObjectNode length(JsonNode register) {
        return (ObjectNode) register.get("fields")
                .valueStream()
                .filter(f -> f.get("key").stringValue().equals("length"))
                .findFirst()
                .orElseThrow();
    }

    /** Writes the register with other bands of its length; those that are there are changed in their place. */
    private Caller.Answer write(Change change, ArrayNode... instead) {
        ObjectNode register = (ObjectNode) ada.get("/api/registers/stays").json();
        ObjectNode field = length(register);
        if (instead.length > 0) {
            field.set("bands", instead[0]);
        }
        change.in((ArrayNode) field.get("bands"));
        return ada.put("/api/registers/stays", CatalogueCalls.written(register));
    }

    private JsonNode review(Change change) {
        ArrayNode bands =
                (ArrayNode) length(ada.get("/api/registers/stays").json()).get("bands");
        change.in(bands);
        Caller.Answer answer = ada.post("/api/registers/stays/bands/review", Map.of("fields", Map.of("length", bands)));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json();
    }

    /** The band of a name at the outermost level. */
    private static ObjectNode band(ArrayNode bands, String name) {
        return (ObjectNode) bands.valueStream()
                .filter(b -> b.get("name").stringValue().equals(name))
                .findFirst()
                .orElseThrow();
    }

    private static void rename(ObjectNode band, String to) {
        band.put("was", band.get("name").stringValue());
        band.put("name", to);
    }

    private static JsonNode keep(Caller caller, String name, String statement) {
        Caller.Answer kept =
                caller.post("/api/views", Map.of("register", "stays", "name", name, "statement", statement));
        assertThat(kept.status()).as(kept.text()).isEqualTo(201);
        return kept.json();
    }

    private static String path(JsonNode view) {
        return "/api/views/" + view.get("id").stringValue();
    }

    private static String statement(Caller caller, JsonNode view) {
        return caller.get(path(view)).json().get("statement").stringValue();
    }

    private static long count(String where) throws SQLException {
        try (var connection = TestServer.connect();
                var statement = connection.createStatement();
                ResultSet found = statement.executeQuery("select count(*) from records.stays where " + where)) {
            found.next();
            return found.getLong(1);
        }
    }

    private static long matching(Caller caller, JsonNode view) {
        return caller.get(path(view) + "/count").json().get("matching").asLong();
    }

    @Test
    void whatComesAndGoesIsSaidBeforeABandIsNarrowed() throws SQLException {
        JsonNode ships = keep(dora, "Ships", "length is in band \"Ship\" and allowed is not empty");
        keep(dora, "Others", "length is in bands (\"Small craft\")");
        JsonNode notShips = keep(dora, "No ships", "length is not in band \"Ship\"");
        keep(dora, "Elsewhere", "length > 3");
        assertThat(dora.put(path(ships) + "/own", Map.of("statement", "length is in band \"Yacht\""))
                        .status())
                .isEqualTo(200);
        assertThat(dora.post(path(ships) + "/opened", Map.of()).status()).isEqualTo(204);
        // From 15 up to 1,000 becomes from 12 up to 18, its end included.
        Change narrowed = bands -> {
            ObjectNode extent = (ObjectNode) band(bands, "Ship").get("extents").get(0);
            extent.put("low", 12);
            extent.put("high", 18);
            extent.put("highBelongs", true);
        };
        JsonNode review = review(narrowed);
        assertThat(review.get("limits")).isEmpty();
        assertThat(review.get("views").valueStream().map(v -> v.get("name").stringValue()))
                .containsExactlyInAnyOrder("Ships", "No ships");
        for (JsonNode view : review.get("views")) {
            boolean not = view.get("name").stringValue().equals("No ships");
            String was = not
                    ? "not (length >= 15 and length < 1000)"
                    : "length >= 15 and length < 1000 and allowed is not null";
            String is = not
                    ? "not (length >= 12 and length <= 18)"
                    : "length >= 12 and length <= 18 and allowed is not null";
            JsonNode moves = view.get("moves");
            assertThat(moves.get("enter").asLong()).isEqualTo(count(is + " and not (" + was + ")"));
            assertThat(moves.get("leave").asLong()).isEqualTo(count(was + " and not (" + is + ")"));
            assertThat(moves.get("both").asLong()).isEqualTo(count(was + " and " + is));
            assertThat(moves.get("enter").asLong() + moves.get("leave").asLong())
                    .isPositive();
            assertThat(view.get("owner").get("fullName").stringValue()).isEqualTo("Dora Day");
            assertThat(view.get("reliance").get("readers")).hasSize(not ? 0 : 1);
            assertThat(view.get("criteria").get(0).stringValue())
                    .startsWith("length is ")
                    .contains("Ship");
        }
        // Looking changes nothing; making it is told in the histories of the two.
        assertThat(matching(ada, ships)).isEqualTo(count("length >= 15 and length < 1000 and allowed is not null"));
        assertThat(write(narrowed).status()).isEqualTo(200);
        assertThat(matching(ada, ships)).isEqualTo(count("length >= 12 and length <= 18 and allowed is not null"));
        JsonNode step = dora.get(path(notShips) + "/history").json().get(0);
        assertThat(step.get("action").stringValue()).isEqualTo("bands changed");
        assertThat(step.get("who").get("fullName").stringValue()).isEqualTo("Ada Admin");
        assertThat(step.get("before").get("bands").get("Length").stringValue())
                .isEqualTo("Small craft: (Tender: from 0 up to 5; Yacht: from 5 up to 15); Ship: from 15 up to 1000");
        assertThat(step.get("after").get("bands").get("Length").stringValue())
                .endsWith("Ship: from 12 up to and with 18");
    }

    @Test
    void aNewNameIsCarriedToEverythingThatRestsOnTheBand() throws SQLException {
        JsonNode view = keep(
                dora, "Craft", "length is in bands (\"tender\", \"Ship\") or length is not in band \"Small craft\"");
        assertThat(dora.put(path(view) + "/own", Map.of("statement", "length is in band \"Tender\""))
                        .status())
                .isEqualTo(200);
        JsonNode gone = keep(dora, "Deleted", "length is in band \"Ship\"");
        assertThat(dora.delete(path(gone) + "?version=0").status()).isEqualTo(204);
        TestServer.sql("insert into register_access (register_id, team_id, statement)"
                + " select r.id, t.id, 'length is in band \"Small craft\"' from register r, team t"
                + " where r.key = 'stays' and t.name = 'Night shift'");
        long before = matching(ada, view);
        long seen = Caller.signedIn("nina")
                .post("/api/registers/stays/count", Map.of())
                .json()
                .get("total")
                .asLong();
        // Two exchange their names, one inside gets a new one, and the outer too.
        Change renamed = bands -> {
            ObjectNode small = band(bands, "Small craft");
            rename(band((ArrayNode) small.get("bands"), "Tender"), "Yacht");
            rename((ObjectNode) small.get("bands").get(1), "Tender");
            rename(small, "Boats");
            rename(band(bands, "Ship"), "Vessel");
        };
        JsonNode review = review(renamed);
        assertThat(review.get("views").get(0).get("moves").get("both").asLong()).isEqualTo(before);
        assertThat(review.get("views").get(0).get("moves").get("leave").asLong())
                .isZero();
        assertThat(review.get("views").get(0).get("refinements").intValue()).isEqualTo(1);
        assertThat(review.get("limits").get(0).get("team").stringValue()).isEqualTo("Night shift");
        Caller.Answer written = write(renamed);
        assertThat(written.status()).as(written.text()).isEqualTo(200);
        assertThat(statement(ada, view))
                .isEqualTo("length is in bands (\"Yacht\", \"Vessel\") or length is not in band \"Boats\"");
        assertThat(matching(ada, view)).isEqualTo(before);
        assertThat(dora.get(path(view) + "/own")
                        .json()
                        .get("refined")
                        .get("statement")
                        .stringValue())
                .isEqualTo("length is in band \"Yacht\"");
        assertThat(ada.get("/api/registers/stays/access")
                        .json()
                        .get(0)
                        .get("statement")
                        .stringValue())
                .isEqualTo("length is in band \"Boats\"");
        assertThat(Caller.signedIn("nina")
                        .post("/api/registers/stays/count", Map.of())
                        .json()
                        .get("total")
                        .asLong())
                .isEqualTo(seen);
        assertThat(dora.post(path(gone) + "/restore", Map.of()).status()).isEqualTo(200);
        assertThat(statement(dora, gone)).isEqualTo("length is in band \"Vessel\"");
        // The history keeps what was, and an earlier state is put back by the names of today.
        JsonNode history = dora.get(path(view) + "/history").json();
        assertThat(history.get(0).get("action").stringValue()).isEqualTo("bands renamed");
        assertThat(history.get(0).get("beforeLines").get(0).stringValue())
                .contains("“Tender”")
                .contains("“Ship”");
        assertThat(history.get(0).get("afterLines").get(0).stringValue())
                .contains("“Yacht”")
                .contains("“Vessel”");
        JsonNode kept = history.get(history.size() - 1);
        assertThat(dora.get(path(view) + "/history/" + kept.get("id").stringValue() + "/difference")
                        .json()
                        .get("leave")
                        .asLong())
                .isZero();
        int version = dora.get(path(view)).json().get("version").intValue();
        Caller.Answer back = dora.post(
                path(view) + "/history/" + kept.get("id").stringValue() + "/restore", Map.of("version", version));
        assertThat(back.status()).as(back.text()).isEqualTo(200);
        assertThat(matching(ada, view)).isEqualTo(before);
    }

    @Test
    void aBandThatIsTakenAwayIsToldAndNeverOpensOrClosesRecords() throws SQLException, InterruptedException {
        JsonNode view = keep(dora, "Ships", "length is in band \"Ship\"");
        Change without = bands -> bands.remove(1);
        JsonNode effect = review(without).get("views").get(0);
        assertThat(effect.get("breaks").stringValue()).isEqualTo("Length has no band “Ship” (any more).");
        assertThat(effect.get("moves").isNull()).isTrue();
        TestServer.sql("insert into register_access (register_id, statement)"
                + " select id, 'length is in band \"Ship\"' from register where key = 'stays'");
        Caller.Answer refused = write(without);
        assertThat(refused.status()).isEqualTo(422);
        assertThat(refused.json().get("code").stringValue()).isEqualTo("band-in-access");
        assertThat(statement(ada, view)).isEqualTo("length is in band \"Ship\"");
        TestServer.sql("delete from register_access");
        assertThat(write(without).status()).isEqualTo(200);
        assertThat(dora.get(path(view) + "/rows").status()).isEqualTo(422);
        // It is looked at once the change is made, and nobody waits for that.
        long end = System.nanoTime() + 10_000_000_000L;
        while (attention(view).isEmpty() && System.nanoTime() < end) {
            Thread.onSpinWait();
        }
        assertThat(attention(view)).hasValue("choice-gone");
        // The band comes back, and with it the view.
        assertThat(write(bands -> {}, (ArrayNode) length(asItWas).get("bands")).status())
                .isEqualTo(200);
        assertThat(matching(dora, view)).isEqualTo(count("length >= 15 and length < 1000"));
        ada.post("/api/view-attention", Map.of());
        assertThat(attention(view)).isEmpty();
    }

    private Optional<String> attention(JsonNode view) {
        return dora.get("/api/view-use")
                .json()
                .valueStream()
                .filter(u -> u.get("view").equals(view.get("id")))
                .flatMap(u -> u.get("attention").valueStream())
                .map(n -> n.get("code").stringValue())
                .findFirst();
    }

    @Test
    void aViewInGroupsOfBandsIsToldOfThem() {
        Caller.Answer kept = dora.post(
                "/api/views",
                Map.of(
                        "register", "stays",
                        "name", "By size",
                        "shape", Map.of("groups", List.of(Map.of("field", "length", "by", "band")))));
        assertThat(kept.status()).as(kept.text()).isEqualTo(201);
        Change narrowed =
                bands -> ((ObjectNode) band(bands, "Ship").get("extents").get(0)).put("low", 18);
        JsonNode effect = review(narrowed).get("views").get(0);
        assertThat(effect.get("shown").booleanValue()).isTrue();
        assertThat(effect.get("criteria")).isEmpty();
        assertThat(write(narrowed).status()).isEqualTo(200);
        assertThat(dora.get(path(kept.json()) + "/history")
                        .json()
                        .get(0)
                        .get("action")
                        .stringValue())
                .isEqualTo("bands changed");
    }

    @Test
    void namesThatWereNoneOrTwoAreRefused() {
        assertThat(write(bands -> band(bands, "Ship").put("was", "Boat"))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("unknown-band");
        assertThat(write(bands -> {
                            band(bands, "Ship").put("was", "Ship");
                            band(bands, "Small craft").put("was", "ship");
                        })
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("renamed-twice");
        assertThat(write(bands -> rename(band(bands, "Ship"), "Yacht"))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("bad-band");
        assertThat(dora.post("/api/registers/stays/bands/review", Map.of("fields", Map.of()))
                        .status())
                .isEqualTo(403);
    }
}
