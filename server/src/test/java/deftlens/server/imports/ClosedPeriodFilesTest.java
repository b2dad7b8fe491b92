package deftlens.server.imports;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import tools.jackson.databind.JsonNode;

/** Files do not write into a closed period either, nor are they taken back out of one. */
@ExtendWith(TestServer.class)
class ClosedPeriodFilesTest {

    private static final String FIRST = """
            Number,Pieces,Counted on
            B-1,1,2026-09-15
            B-2,2,2026-10-15
            """;
    private static final Map<String, Map<String, Object>> FIELDS = Map.of(
            "Number", Map.of("field", "number"),
            "Pieces", Map.of("field", "pieces"),
            "Counted on", Map.of("field", "counted_on"));

    private Caller ada;
    private ImportCalls files;
    private String key;

    @BeforeEach
    void makeRegister() throws InterruptedException {
        ada = Caller.signedIn("ada");
        files = new ImportCalls(ada);
        JsonNode look = files.look(FIRST);
        JsonNode run = files.bringIn(
                look,
                Map.of("label", "Booked", "titleField", "Number", "mainField", "Counted on"),
                ImportCalls.plan(look, Map.of(), List.of(), "ADD"));
        key = run.get("register").stringValue();
    }

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql("update register set closed_up_to = null where key = '" + key + "'");
        files.deleteRegisters();
    }

    private void close(String upTo, String was) {
        Map<String, Object> change = new HashMap<>();
        change.put("upTo", upTo);
        change.put("was", was);
        change.put("reason", "Reported.");
        Caller.Answer answer = ada.put("/api/registers/" + key + "/closed-period", change);
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
    }

    private JsonNode bringIn(String csv, ImportPlan.Known known) throws InterruptedException {
        JsonNode look = files.look(csv);
        boolean byNumber = known == ImportPlan.Known.UPDATE || known == ImportPlan.Known.SKIP;
        return files.bringIn(
                look,
                Map.of("register", key),
                ImportCalls.plan(look, FIELDS, byNumber ? List.of("number") : List.of(), known.name()));
    }

    private String records() throws SQLException {
        return TestServer.query("select string_agg(concat_ws(' ', number, pieces, counted_on), '|' order by number)"
                + " from records." + key);
    }

    @ParameterizedTest
    @EnumSource(ImportPlan.Known.class)
    void rowsOfAClosedPeriodAreRefusedByTheirLines(ImportPlan.Known known) throws InterruptedException, SQLException {
        close("2026-09-30", null);
        String before = records();
        JsonNode run = bringIn("""
                Number,Pieces,Counted on
                B-1,10,2026-09-15
                B-2,2,2026-10-15
                B-3,3,2026-09-30
                B-4,4,2026-10-01
                """, known);
        assertThat(records()).isEqualTo(before);
        if (known == ImportPlan.Known.REPLACE) {
            // All that is there would go, what is closed with it.
            assertThat(run.get("state").stringValue()).isEqualTo("FAILED");
            assertThat(run.get("message").stringValue())
                    .contains("closed period")
                    .contains("30 Sep 2026");
            return;
        }
        assertThat(run.get("state").stringValue()).as(run.toString()).isEqualTo("REFUSED");
        assertThat(run.get("refusals").valueStream().map(r -> r.get("line").intValue()))
                .isEqualTo(
                        switch (known) {
                            case ADD, UPDATE -> List.of(2, 4);
                            case SKIP -> List.of(4);
                            case REPLACE -> List.of();
                        });
        assertThat(run.at("/refusals/0/reason").stringValue()).contains("up to 30 Sep 2026");
    }

    @ParameterizedTest
    @EnumSource(
            value = ImportPlan.Known.class,
            names = {"ADD", "UPDATE", "SKIP"})
    void whatIsOpenComesIn(ImportPlan.Known known) throws InterruptedException, SQLException {
        close("2026-09-30", null);
        String csv = "Number,Pieces,Counted on\nB-4,4,2026-10-01\n"
                + (known == ImportPlan.Known.ADD ? "" : "B-1,1,2026-09-15\n");
        JsonNode run = bringIn(csv, known);
        assertThat(run.get("state").stringValue()).as(run.toString()).isEqualTo("DONE");
        assertThat(records()).contains("B-4 4 2026-10-01").contains("B-1 1 2026-09-15");
    }

    @Test
    void aFileIsNotTakenBackOutOfAClosedPeriod() throws InterruptedException, SQLException {
        JsonNode run =
                bringIn("Number,Pieces,Counted on\nB-1,5,2026-09-15\nB-5,5,2026-10-05\n", ImportPlan.Known.UPDATE);
        close("2026-09-30", null);
        String before = records();
        Caller.Answer begun = ada.post("/api/imports/" + run.get("id").asLong() + "/back", Map.of());
        JsonNode ended = files.ended(begun.json());
        assertThat(ended.get("state").stringValue()).isEqualTo("FAILED");
        assertThat(ended.get("message").stringValue()).contains("This").contains("closed period");
        assertThat(records()).isEqualTo(before);
        close(null, "2026-09-30");
        JsonNode again = files.ended(ada.post("/api/imports/" + run.get("id").asLong() + "/back", Map.of())
                .json());
        assertThat(again.get("state").stringValue()).isEqualTo("DONE");
    }
}
