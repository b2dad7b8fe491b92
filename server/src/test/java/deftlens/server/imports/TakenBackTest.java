package deftlens.server.imports;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import tools.jackson.databind.JsonNode;

/** An import is taken back, and what others did meanwhile stays. */
@ExtendWith(TestServer.class)
class TakenBackTest {

    private static final String FIRST = """
            Number,State,Pieces,Counted at
            A-1,old,1,2026-03-01 08:00
            A-2,old,,
            A-3,old,3,2026-03-03 09:30
            """;
    private static final String SECOND = """
            Number,State,Pieces
            A-2,new,20
            A-3,new,30
            A-4,new,40
            A-5,new,50
            """;

    /** The field that each column of the file goes into. */
    private static final Map<String, Map<String, Object>> FIELDS = Map.of(
            "Number", Map.of("field", "number"),
            "State", Map.of("field", "state"),
            "Pieces", Map.of("field", "pieces"));

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
                Map.of("label", "Counted", "titleField", "Number"),
                ImportCalls.plan(look, Map.of(), List.of(), "ADD"));
        assertThat(run.get("hasWayBack").booleanValue()).isFalse();
        assertThat(run.get("madeRegister").booleanValue()).isTrue();
        key = run.get("register").stringValue();
    }

    @AfterEach
    void leave() {
        files.deleteRegisters();
    }

    private String records() throws SQLException {
        return TestServer.query(
                "select string_agg(concat_ws(' ', id, number, state, pieces, counted_at at time zone 'UTC'),"
                        + " '|' order by id) from records." + key);
    }

    private JsonNode bringIn(String csv, ImportPlan.Known known) throws InterruptedException {
        JsonNode look = files.look(csv);
        JsonNode run = files.bringIn(
                look,
                Map.of("register", key),
                ImportCalls.plan(
                        look,
                        FIELDS,
                        known == ImportPlan.Known.UPDATE || known == ImportPlan.Known.SKIP
                                ? List.of("number")
                                : List.of(),
                        known.name()));
        assertThat(run.get("state").stringValue()).as(run.toString()).isEqualTo("DONE");
        return run;
    }

    private JsonNode takeBack(JsonNode run) {
        Caller.Answer begun = ada.post("/api/imports/" + run.get("id").asLong() + "/back", Map.of());
        assertThat(begun.status()).as(begun.text()).isEqualTo(202);
        JsonNode ended = files.ended(begun.json());
        assertThat(ended.get("state").stringValue()).as(ended.toString()).isEqualTo("DONE");
        return ended;
    }

    private List<Integer> extent(JsonNode run) {
        JsonNode extent =
                ada.get("/api/imports/" + run.get("id").asLong() + "/back").json();
        return List.of(
                extent.get("removed").intValue(),
                extent.get("restored").intValue(),
                extent.get("returned").intValue(),
                extent.get("changedSince").intValue());
    }

    @ParameterizedTest
    @EnumSource(ImportPlan.Known.class)
    void everythingIsAsItWas(ImportPlan.Known known) throws InterruptedException, SQLException {
        String before = records();
        JsonNode run = bringIn(SECOND, known);
        assertThat(records()).isNotEqualTo(before);
        assertThat(extent(run))
                .isEqualTo(
                        switch (known) {
                            case ADD -> List.of(4, 0, 0, 0);
                            case UPDATE -> List.of(2, 2, 0, 0);
                            case SKIP -> List.of(2, 0, 0, 0);
                            case REPLACE -> List.of(4, 0, 3, 0);
                        });
        takeBack(run);
        assertThat(records()).isEqualTo(before);
        assertThat(ada.post("/api/registers/" + key + "/count", Map.of("statement", "state is \"old\""))
                        .json()
                        .get("matching")
                        .longValue())
                .isEqualTo(3);
    }

    private List<String> told(String number) throws SQLException {
        String id = TestServer.query("select id from records." + key + " where number = '" + number + "'");
        Caller.Answer answer = ada.get("/api/registers/" + key + "/records/" + id + "/history");
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json()
                .valueStream()
                .map(s -> s.get("who").stringValue() + " " + s.get("action").stringValue() + " " + s.get("before") + " "
                        + s.get("after"))
                .toList();
    }

    @Test
    void whoChangedARecordIsToldOfFilesToo() throws InterruptedException, SQLException {
        String made = "Ada Admin made by the file “a.csv” null ";
        JsonNode second = bringIn(SECOND, ImportPlan.Known.UPDATE);
        assertThat(told("A-1"))
                .containsExactly(made + "{\"number\":\"A-1\",\"state\":\"old\",\"pieces\":1,"
                        + "\"counted_at\":\"2026-03-01T08:00:00Z\"}");
        assertThat(told("A-2"))
                .containsExactly(
                        "Ada Admin changed by the file “a.csv” {\"state\":\"old\",\"pieces\":null}"
                                + " {\"state\":\"new\",\"pieces\":20}",
                        made + "{\"number\":\"A-2\",\"state\":\"old\"}");
        String five = made + "{\"number\":\"A-5\",\"state\":\"new\",\"pieces\":50}";
        assertThat(told("A-5")).containsExactly(five);
        // The same file again says nothing new of anything.
        JsonNode again = bringIn(SECOND, ImportPlan.Known.UPDATE);
        assertThat(List.of(
                        again.get("added").intValue(),
                        again.get("updated").intValue(),
                        again.get("skipped").intValue()))
                .containsExactly(0, 0, 4);
        assertThat(told("A-2")).hasSize(2);
        takeBack(second);
        assertThat(told("A-2"))
                .hasSize(3)
                .first()
                .isEqualTo("Ada Admin changed by taking back the file “a.csv” {\"state\":\"new\",\"pieces\":20}"
                        + " {\"state\":\"old\",\"pieces\":null}");
        JsonNode replacing = bringIn(SECOND, ImportPlan.Known.REPLACE);
        assertThat(told("A-2")).containsExactly(made + "{\"number\":\"A-2\",\"state\":\"new\",\"pieces\":20}");
        takeBack(replacing);
        assertThat(told("A-2"))
                .hasSize(5)
                .first()
                .isEqualTo(
                        "Ada Admin made by taking back the file “a.csv” null {\"number\":\"A-2\",\"state\":\"old\"}");
    }

    @Test
    void aFieldThatCameAfterTheReplacingIsEmptyInWhatComesBack() throws InterruptedException, SQLException {
        String before = records();
        JsonNode run = bringIn(SECOND, ImportPlan.Known.REPLACE);
        Caller.Answer added =
                ada.post("/api/registers/" + key + "/fields", Map.of("type", "tags", "label", "Marks", "key", "marks"));
        assertThat(added.status()).as(added.text()).isLessThan(300);
        takeBack(run);
        assertThat(records()).isEqualTo(before);
        assertThat(TestServer.query("select count(*) from records." + key + " where marks = '{}'"))
                .isEqualTo("3");
    }

    @Test
    void replacedRecordsAreThoseOfTheFile() throws InterruptedException, SQLException {
        bringIn(SECOND, ImportPlan.Known.REPLACE);
        assertThat(TestServer.query("select string_agg(number || state, ' ' order by number) from records." + key))
                .isEqualTo("A-2new A-3new A-4new A-5new");
    }

    @Test
    void aFileThatIsRefusedReplacesNothing() throws InterruptedException, SQLException {
        String before = records();
        JsonNode look = files.look("Number,State,Pieces\nA-9,new,many\n");
        JsonNode run =
                files.bringIn(look, Map.of("register", key), ImportCalls.plan(look, FIELDS, List.of(), "REPLACE"));
        assertThat(run.get("state").stringValue()).isEqualTo("REFUSED");
        assertThat(run.get("hasWayBack").booleanValue()).isFalse();
        assertThat(records()).isEqualTo(before);
    }

    @Test
    void whatWasChangedSinceStays() throws InterruptedException, SQLException {
        JsonNode run = bringIn(SECOND, ImportPlan.Known.UPDATE);
        TestServer.sql("update records." + key + " set pieces = 21 where number = 'A-2'");
        TestServer.sql("update records." + key + " set pieces = 41 where number = 'A-4'");
        TestServer.sql("delete from records." + key + " where number = 'A-3'");
        TestServer.sql("insert into records." + key + " (number, state) values ('B-1', 'by hand')");
        assertThat(extent(run)).containsExactly(1, 0, 0, 3);
        takeBack(run);
        assertThat(TestServer.query(
                        "select string_agg(concat_ws(' ', number, state, pieces), '|' order by number) from records."
                                + key))
                .isEqualTo("A-1 old 1|A-2 new 21|A-4 new 41|B-1 by hand");
    }

    @Test
    void itIsTakenBackOnce() throws InterruptedException {
        JsonNode run = bringIn(SECOND, ImportPlan.Known.ADD);
        assertThat(run.get("hasWayBack").booleanValue()).isTrue();
        JsonNode back = takeBack(run);
        assertThat(back.get("backOf").asLong()).isEqualTo(run.get("id").asLong());
        assertThat(back.get("hasWayBack").booleanValue()).isFalse();
        Caller.Answer again = ada.post("/api/imports/" + run.get("id").asLong() + "/back", Map.of());
        assertThat(again.status()).isEqualTo(422);
        assertThat(again.json().get("code").stringValue()).isEqualTo("no-way-back");
        assertThat(ada.get("/api/imports?register=" + key)
                        .json()
                        .get(1)
                        .get("hasWayBack")
                        .booleanValue())
                .isFalse();
    }

    @Test
    void afterATypeWasChangedItIsNotTakenBack() throws InterruptedException {
        JsonNode run = bringIn(SECOND, ImportPlan.Known.UPDATE);
        String at = "/api/registers/" + key;
        Caller.Answer looked = ada.post(at + "/fields/pieces/type/preview", Map.of("type", "text"));
        assertThat(looked.json().get("follows").toString()).contains("can no longer be taken back");
        Caller.Answer changed = ada.put(
                at + "/fields/pieces/type",
                Map.of(
                        "wanted",
                        Map.of("type", "text"),
                        "unread",
                        0,
                        "version",
                        ada.get(at).json().get("version").intValue()));
        assertThat(changed.status()).as(changed.text()).isEqualTo(200);
        Caller.Answer back = ada.post("/api/imports/" + run.get("id").asLong() + "/back", Map.of());
        assertThat(back.status()).isEqualTo(422);
        assertThat(back.json().get("code").stringValue()).isEqualTo("no-way-back");
        assertThat(ada.post(at + "/fields/pieces/type/preview", Map.of("type", "number"))
                        .json()
                        .get("follows")
                        .toString())
                .doesNotContain("taken back");
    }

    @Test
    void aNewRegisterIsSeenByNobodyUntilTheySaySo() {
        Caller nina = Caller.signedIn("nina");
        assertThat(nina.get("/api/registers/" + key).status()).isEqualTo(404);
        assertThat(ada.put("/api/registers/" + key + "/access", List.of()).status())
                .isEqualTo(200);
        assertThat(nina.get("/api/registers/" + key).status()).isEqualTo(200);
    }
}
