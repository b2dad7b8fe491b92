package deftlens.server.rows;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.CatalogueCalls;
import deftlens.server.testing.TestServer;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.concurrent.CompletableFuture;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/** Kept counts say at every moment what counting the records would say, whoever writes, and however many at once. */
@ExtendWith(TestServer.class)
class KeptCountsTest {

    private static final String AT = "/api/registers/parcels";
    private static Caller ada;

    @BeforeAll
    static void make() {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "parcels",
                        "Parcels",
                        "parcel",
                        "at",
                        "number",
                        true,
                        List.of(
                                new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()),
                                new FieldDefinition("at", "At", FieldType.MOMENT, false, true, List.of()),
                                new FieldDefinition(
                                        "site", "Site", FieldType.CHOICE, false, true, List.of("A", "B", "C")),
                                new FieldDefinition("open", "Open", FieldType.YES_NO, false, true, List.of()))));
        ada = Caller.signedIn("ada");
    }

    @AfterAll
    static void leave() {
        ada.delete(AT);
    }

    private static void write(SplittableRandom random, Statement statement) throws SQLException {
        String number = "number = 'P-" + random.nextInt(60) + "'";
        switch (random.nextInt(10)) {
            case 0, 1, 2, 3 ->
                statement.execute(
                        "insert into records.parcels (number, at, site, open) select 'P-' || i % 60, case when i % 11 = 0"
                                + " then null else timestamptz '2026-01-01Z' + interval '37 minutes' * "
                                + random.nextInt(9_000)
                                + " end, (array['A', 'B', 'C', null])[1 + (i + " + random.nextInt(4)
                                + ") % 4], (array[true, false, null])[1 + i % 3] from generate_series(1, "
                                + random.nextInt(1, 9)
                                + ") i");
            case 4, 5, 6 ->
                statement.execute(
                        "update records.parcels set site = (array['A', 'B', null])[1 + id % 3], at = at + interval '5 hours' where "
                                + number);
            case 7, 8 -> statement.execute("delete from records.parcels where " + number);
            default -> statement.execute("select deft_fold(" + random.nextInt(1, 50) + ")");
        }
    }

    @Test
    void theyAgreeWithTheRecordsAfterManyWritersAtOnce() throws SQLException {
        TestServer.sql("truncate records.parcels");
        List<CompletableFuture<Void>> writers = new ArrayList<>();
        for (int w = 0; w < 4; w++) {
            SplittableRandom random = new SplittableRandom(77 + w);
            writers.add(CompletableFuture.runAsync(() -> {
                try (Connection connection = TestServer.connect();
                        Statement statement = connection.createStatement()) {
                    for (int i = 0; i < 150; i++) {
                        boolean together = random.nextInt(4) == 0;
                        connection.setAutoCommit(!together);
                        try {
                            write(random, statement);
                            if (together) {
                                write(random, statement);
                                if (random.nextInt(3) == 0) {
                                    connection.rollback();
                                } else {
                                    connection.commit();
                                }
                            }
                        } catch (SQLException e) {
                            // Two writers may want each other's rows; the database lets one of them go.
                            if (!"40P01".equals(e.getSQLState())) {
                                throw e;
                            }
                            if (!connection.getAutoCommit()) {
                                connection.rollback();
                            }
                        }
                    }
                } catch (SQLException e) {
                    throw new IllegalStateException(e);
                }
            }));
        }
        writers.forEach(CompletableFuture::join);
        assertThat(Long.parseLong(TestServer.query("select count(*) from records.parcels")))
                .isGreaterThan(50);
        agree();
        TestServer.sql("select deft_fold(1000000)");
        assertThat(TestServer.query("select count(*) from kept_delta")).isEqualTo("0");
        agree();
        TestServer.sql("truncate records.parcels");
        agree();
    }

    /** What the calls say beside what counting says. */
    private static void agree() throws SQLException {
        long total = Long.parseLong(TestServer.query("select count(*) from records.parcels"));
        JsonNode count = ada.post(AT + "/count", Map.of("statement", "")).json();
        assertThat(count.get("total").longValue()).isEqualTo(total);
        assertThat(count.get("matching").longValue()).isEqualTo(total);
        for (String field : List.of("site", "open")) {
            // A criterion that lets everything in has the records counted.
            JsonNode kept = ada.post(AT + "/values", Map.of("field", field)).json();
            JsonNode counted = ada.post(AT + "/values", Map.of("field", field, "statement", "number is not empty"))
                    .json();
            assertThat(kept).isEqualTo(counted);
        }
        for (String zone : List.of("Europe/London", "America/St_Johns", "Asia/Tokyo")) {
            for (String step : List.of("day", "week", "month")) {
                JsonNode kept = ada.post(AT + "/histogram", Map.of("zone", zone, "step", step))
                        .json();
                JsonNode counted = ada.post(
                                AT + "/histogram",
                                Map.of("zone", zone, "step", step, "statement", "number is not empty"))
                        .json();
                assertThat(kept).as("%s by %s", zone, step).isEqualTo(counted);
            }
        }
        JsonNode part = ada.post(AT + "/histogram", Map.of("from", "2026-02-01", "to", "2026-04-30", "step", "week"))
                .json();
        assertThat(part)
                .isEqualTo(ada.post(
                                AT + "/histogram",
                                Map.of(
                                        "from",
                                        "2026-02-01",
                                        "to",
                                        "2026-04-30",
                                        "step",
                                        "week",
                                        "statement",
                                        "number is not empty"))
                        .json());
    }

    @Test
    void aRegisterWithNothingButTextsIsCountedToo() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "words",
                        "Words",
                        "word",
                        "",
                        java.util.Optional.empty(),
                        "word",
                        true,
                        List.of(new FieldDefinition("word", "Word", FieldType.TEXT, true, true, List.of()))));
        TestServer.sql("insert into records.words (word) values ('a'), ('b')");
        JsonNode count =
                ada.post("/api/registers/words/count", Map.of("statement", "")).json();
        assertThat(count.get("total").longValue()).isEqualTo(2);
        assertThat(ada.post("/api/registers/words/rows", Map.of("statement", ""))
                        .json()
                        .get("rows"))
                .hasSize(2);
        ada.delete("/api/registers/words");
    }

    @Test
    void theyFollowAnotherMainDate() throws SQLException {
        TestServer.sql("insert into records.parcels (number, at) values ('M-1', '2026-05-05Z')");
        Map<String, Object> one = Map.of("type", "date", "label", "Due");
        assertThat(ada.post(AT + "/fields", one).status()).isEqualTo(201);
        JsonNode now = ada.get(AT).json();
        Caller.Answer changed = ada.put(AT, CatalogueCalls.written(now, Map.of("mainField", "due")));
        assertThat(changed.status()).as(changed.text()).isEqualTo(200);
        TestServer.sql("update records.parcels set due = '2026-06-06' where number = 'M-1'");
        JsonNode kept = ada.post(AT + "/histogram", Map.of("step", "day")).json();
        assertThat(kept.get("field").stringValue()).isEqualTo("due");
        assertThat(kept.get("buckets").get(0).get("start").stringValue()).startsWith("2026-06-06");
        ObjectNode back = CatalogueCalls.written(changed.json(), Map.of("mainField", "at"));
        assertThat(ada.put(AT, back).status()).isEqualTo(200);
        agree();
    }
}
