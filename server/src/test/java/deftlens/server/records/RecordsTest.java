package deftlens.server.records;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

@ExtendWith(TestServer.class)
class RecordsTest {

    private static final String AT = "/api/registers/crates/records";
    private static Caller ada;
    private static Caller dora;

    @BeforeAll
    static void make() {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "crates",
                        "Crates",
                        "crate",
                        "at",
                        "number",
                        true,
                        List.of(
                                field("number", FieldType.TEXT, true, List.of()).identifying(),
                                field("at", FieldType.MOMENT, true, List.of()),
                                field("site", FieldType.CHOICE, false, List.of("North", "South"))
                                        .correctable(),
                                field("weight", FieldType.NUMBER, false, List.of()),
                                field("price", FieldType.MONEY, false, List.of())
                                        .correctable(),
                                field("due", FieldType.DATE, false, List.of()).correctable(),
                                field("gate", FieldType.TIME, false, List.of()),
                                field("open", FieldType.YES_NO, false, List.of()),
                                field("owner", FieldType.PERSON, false, List.of()),
                                field("tags", FieldType.TAGS, true, List.of("Blue"))
                                        .correctable(),
                                FieldDefinition.seen(false))));
        ada = Caller.signedIn("ada");
        dora = Caller.signedIn("dora");
    }

    @AfterAll
    static void leave() {
        ada.delete("/api/registers/crates");
    }

    @BeforeEach
    void empty() throws SQLException {
        TestServer.sql("truncate records.crates restart identity; truncate past.crates, record_seen, record_request;"
                + " delete from change_set");
    }

    private static FieldDefinition field(String key, FieldType type, boolean required, List<String> options) {
        return new FieldDefinition(
                key, key.substring(0, 1).toUpperCase() + key.substring(1), type, required, true, options);
    }

    private static Map<String, Object> crate(String number) {
        return new HashMap<>(Map.of("number", number, "at", "2026-11-22T10:00:00Z"));
    }

    private static long make(Map<String, Object> values) {
        Caller.Answer made = ada.post(AT, Map.of("values", values));
        assertThat(made.status()).as(made.text()).isEqualTo(201);
        return made.json().get("id").asLong();
    }

    @Test
    void aRecordOfEveryTypeIsKeptAsItWasSent() {
        Map<String, Object> all = crate("C-1");
        all.putAll(Map.of(
                "site",
                "north",
                "weight",
                12.125,
                "price",
                "7.5",
                "due",
                "2026-12-01",
                "gate",
                "22:05",
                "open",
                true,
                "owner",
                "DORA",
                "tags",
                List.of("blue", "Own \"tag\"", "Own \"tag\"")));
        long id = make(all);
        JsonNode values = ada.get(AT + "/" + id).json().get("values");
        assertThat(values.get("site").stringValue()).isEqualTo("North");
        assertThat(values.get("weight").decimalValue()).isEqualByComparingTo("12.125");
        assertThat(values.get("price").decimalValue()).isEqualByComparingTo("7.50");
        assertThat(values.get("due").stringValue()).isEqualTo("2026-12-01");
        assertThat(values.get("gate").stringValue()).startsWith("22:05");
        assertThat(values.get("open").booleanValue()).isTrue();
        assertThat(values.get("owner").stringValue()).isEqualTo("dora");
        assertThat(values.get("tags").toString()).isEqualTo("[\"Blue\",\"Own \\\"tag\\\"\"]");
        assertThat(values.get("at").stringValue()).isEqualTo("2026-11-22T10:00:00Z");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "site|\"East\"|“East” is no value of Site",
                "weight|\"heavy\"|Weight takes a number",
                "weight|1e-5000|Weight holds at most 100 digits",
                "price|1.005|Price has at most two decimals",
                "price|1000000000000|Price holds less",
                "due|\"4/5/26\"|Due takes a day such as 2026-11-23",
                "due|\"2026-02-30\"|Due takes a day",
                "at|\"2026-11-22T10:00\"|At takes a date and time with its offset",
                "at|null|At is needed in every record",
                "gate|\"25:00\"|Gate takes a time of day",
                "open|\"yes\"|Open takes true or false",
                "owner|\"nobody\"|“nobody” is no value of Owner",
                "tags|[\" \"]|A tag is a text that is not blank",
                "seen|true|have no field “seen” that can be written",
                "colour|\"red\"|have no field “colour”",
            })
    void aValueThatDoesNotFitIsRefusedWithASentence(String field, String value, String sentence) throws SQLException {
        Caller.Answer answer = ada.post(
                AT,
                "{\"values\": {\"number\": \"C-1\", \"at\": \"2026-11-22T10:00:00Z\", \"" + field + "\": " + value
                        + "}}");
        assertThat(answer.status()).as(answer.text()).isEqualTo(422);
        assertThat(answer.json().get("detail").stringValue()).contains(sentence);
        assertThat(TestServer.query("select count(*) from records.crates")).isEqualTo("0");
    }

    @Test
    void peopleCorrectWhatIsOpenToCorrectionAndTheTrailSaysWho() {
        long id = make(crate("C-1"));
        assertThat(dora.patch(AT + "/" + id, Map.of("values", Map.of("weight", 3)))
                        .status())
                .isEqualTo(403);
        assertThat(dora.patch(AT + "/" + id, Map.of("values", Map.of("due", "2026-12-24")))
                        .status())
                .isEqualTo(200);
        JsonNode steps = dora.get(AT + "/" + id + "/history").json();
        assertThat(steps.get(0).get("who").stringValue()).isEqualTo("Dora Day");
        assertThat(steps.get(0).get("before").get("due").isNull()).isTrue();
        assertThat(steps.get(0).get("after").get("due").stringValue()).isEqualTo("2026-12-24");
        assertThat(steps.get(1).get("action").stringValue()).isEqualTo("made");
    }

    @Test
    void onlyTheTeamsThatAreNamedCorrectAField() throws SQLException {
        long id = make(crate("C-1"));
        String due = AT + "/" + id;
        JsonNode crates = ada.get("/api/registers/crates").json();
        TestServer.sql(
                "update register_field f set correctors = to_jsonb(array(select id from team where name = 'Night shift'))"
                        + " from register r where r.id = f.register_id and r.key = 'crates' and f.key = 'due'");
        try {
            assertThat(dora.patch(due, Map.of("values", Map.of("due", "2026-12-24")))
                            .status())
                    .isEqualTo(403);
            assertThat(Caller.signedIn("nina")
                            .patch(due, Map.of("values", Map.of("due", "2026-12-24")))
                            .status())
                    .isEqualTo(200);
            assertThat(ada.patch(due, Map.of("values", Map.of("due", "2026-12-25")))
                            .status())
                    .isEqualTo(200);
            assertThat(dora.get("/api/registers/crates").json().toString()).contains("\"correctors\":[\"2\"]");
            Caller.Answer removed = ada.delete("/api/teams/2?version=0");
            assertThat(removed.status()).isEqualTo(409);
            assertThat(removed.text()).contains("who corrects “Due” of “Crates”");
        } finally {
            TestServer.sql("update register_field set correctors = '[]'");
        }
        assertThat(crates.toString()).doesNotContain("\"correctors\":[2]");
    }

    @Test
    void aChangeToWhatSomebodyElseChangedIsAConflict() {
        long id = make(crate("C-1"));
        ada.patch(AT + "/" + id, Map.of("values", Map.of("site", "South")));
        Map<String, Object> was = new HashMap<>();
        was.put("site", null);
        Caller.Answer late = dora.patch(AT + "/" + id, Map.of("values", Map.of("site", "North"), "was", was));
        assertThat(late.status()).as(late.text()).isEqualTo(409);
        assertThat(late.json().get("current").get("values").get("site").stringValue())
                .isEqualTo("South");
        assertThat(dora.patch(AT + "/" + id, Map.of("values", Map.of("site", "North"), "was", Map.of("site", "South")))
                        .status())
                .isEqualTo(200);
    }

    @Test
    void manyRecordsAreMadeOrChangedByTheirKey() throws SQLException {
        make(crate("C-1"));
        List<Map<String, Object>> many = new ArrayList<>();
        for (int i = 0; i < 1_500; i++) {
            Map<String, Object> one = crate((i % 2 == 0 ? "c-" : "C-") + i);
            one.put("weight", i);
            many.add(one);
        }
        Caller.Answer answer = ada.post(AT + "/bulk", Map.of("by", List.of("number"), "records", many));
        assertThat(answer.json().toString()).isEqualTo("{\"added\":1499,\"updated\":1,\"unchanged\":0}");
        assertThat(TestServer.query("select count(*) || ' ' || sum(weight) from records.crates"))
                .isEqualTo("1500 " + IntStream.range(0, 1_500).sum());
        assertThat(ada.post(AT + "/bulk", Map.of("by", List.of("number"), "records", many))
                        .json()
                        .toString())
                .isEqualTo("{\"added\":0,\"updated\":0,\"unchanged\":1500}");
    }

    private static JsonNode history(long id) {
        Caller.Answer answer = ada.get(AT + "/" + id + "/history");
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json();
    }

    @Test
    void whatManyAtOnceChangedIsToldOfEachFromWhatToWhat() throws SQLException {
        Map<String, Object> one = crate("C-1");
        one.put("weight", 5);
        one.put("tags", List.of("Blue"));
        long first = make(one);
        long second = make(crate("C-2"));
        // What is not sent stays; each record may send other fields.
        Caller.Answer answer = ada.post(
                AT + "/bulk",
                Map.of(
                        "by",
                        List.of("number"),
                        "records",
                        List.of(
                                Map.of("number", "C-1", "weight", 7.50, "site", "North"),
                                Map.of("number", "C-2", "tags", List.of("Own")),
                                Map.of("number", "C-3", "at", "2026-11-22T10:00:00Z", "due", "2026-12-01"))));
        assertThat(answer.json().toString()).isEqualTo("{\"added\":1,\"updated\":2,\"unchanged\":0}");
        JsonNode changed = history(first).get(0);
        assertThat(changed.get("action").stringValue()).isEqualTo("changed in bulk");
        assertThat(changed.get("who").stringValue()).isEqualTo("Ada Admin");
        assertThat(changed.get("before").toString()).isEqualTo("{\"site\":null,\"weight\":5}");
        assertThat(changed.get("after").toString()).isEqualTo("{\"site\":\"North\",\"weight\":7.5}");
        assertThat(history(second).get(0).get("before").toString()).isEqualTo("{\"tags\":[]}");
        assertThat(history(second).get(0).get("after").toString()).isEqualTo("{\"tags\":[\"Own\"]}");
        JsonNode made = history(Long.parseLong(TestServer.query("select id from records.crates where number = 'C-3'")))
                .get(0);
        assertThat(made.get("action").stringValue()).isEqualTo("made in bulk");
        assertThat(made.get("before").isNull()).isTrue();
        assertThat(made.at("/after/due").stringValue()).isEqualTo("2026-12-01");
        assertThat(TestServer.query(
                        "select weight || ' ' || site || ' ' || tags::text from records.crates where id = " + first))
                .isEqualTo("7.5 North {Blue}");
        // The same again changes nothing, and nobody is said to have changed it.
        Map<String, Object> again =
                Map.of("by", List.of("number"), "records", List.of(Map.of("number", "C-1", "weight", "7.5")));
        assertThat(ada.post(AT + "/bulk", again).json().get("unchanged").intValue())
                .isEqualTo(1);
        assertThat(history(first).size()).isEqualTo(2);
    }

    @Test
    void aCorrectionToTheSameValueIsNoChange() throws SQLException {
        long id = make(crate("C-1"));
        assertThat(dora.patch(AT + "/" + id, Map.of("values", Map.of("site", "North")))
                        .status())
                .isEqualTo(200);
        assertThat(dora.patch(AT + "/" + id, Map.of("values", Map.of("site", "North")))
                        .status())
                .isEqualTo(200);
        assertThat(history(id).size()).isEqualTo(2);
        ada.post(
                AT + "/bulk",
                Map.of("by", List.of("number"), "records", List.of(Map.of("number", "C-1", "site", "North"))));
        dora.put(AT + "/tags", Map.of("records", List.of(id), "add", List.of(), "remove", List.of("none such")));
        // Nor is there a set of changes in which nothing changed.
        assertThat(TestServer.query("select count(*) from change_set s join register r on r.id = s.register_id"
                        + " where r.key = 'crates' and not exists (select from records.crates t"
                        + " where t.\"@since\" = s.id) and not exists (select from past.crates t"
                        + " where s.id in (t.\"@since\", t.\"@until\"))"))
                .isEqualTo("0");
    }

    /** So many sessions, begun one after the other: tries that are made at once count as guesses until each was right. */
    private static List<Caller> signedIn(int sessions) {
        List<Caller> people = new ArrayList<>();
        for (int i = 0; i < sessions; i++) {
            people.add(Caller.signedIn("ada"));
        }
        return people;
    }

    @Test
    void manyThatWriteAtOnceAreEachToldOf() throws SQLException {
        long id = make(crate("C-1"));
        List<Caller> people = signedIn(8);
        List<CompletableFuture<Integer>> writers = new ArrayList<>();
        for (int i = 0; i < 8; i++) {
            int weight = i + 1;
            Caller writer = people.get(i);
            writers.add(CompletableFuture.supplyAsync(() -> writer.post(
                            AT + "/bulk",
                            Map.of(
                                    "by",
                                    List.of("number"),
                                    "records",
                                    List.of(Map.of("number", "C-1", "weight", weight))))
                    .status()));
        }
        assertThat(writers.stream().map(CompletableFuture::join)).containsOnly(200);
        // Each begins where another ended: no change is told twice, none is left out.
        List<String> before = new ArrayList<>();
        List<String> after = new ArrayList<>();
        history(id).forEach(step -> {
            if (step.get("action").stringValue().equals("changed in bulk")) {
                before.add(step.at("/before/weight").asString("none"));
                after.add(step.at("/after/weight").asString("none"));
            }
        });
        assertThat(after).containsExactlyInAnyOrder("1", "2", "3", "4", "5", "6", "7", "8");
        assertThat(before).contains("none").doesNotHaveDuplicates();
        List<String> last = new ArrayList<>(after);
        last.removeAll(before);
        assertThat(last).containsExactly(TestServer.query("select weight from records.crates where id = " + id));
    }

    @Test
    void manyThatMakeTheSameRecordAtOnceMakeItOnce() throws SQLException {
        List<CompletableFuture<String>> writers = new ArrayList<>();
        for (Caller writer : signedIn(6)) {
            writers.add(CompletableFuture.supplyAsync(() -> writer.post(
                            AT + "/bulk",
                            Map.of("by", List.of("number"), "records", List.of(crate("C-1"), crate("C-2"))))
                    .text()));
        }
        assertThat(writers.stream().map(CompletableFuture::join).filter(t -> t.contains("\"added\":2")))
                .hasSize(1);
        assertThat(TestServer.query("select count(*) from records.crates")).isEqualTo("2");
    }

    @Test
    void keysMatchLetterByLetterAndWhatIsAmbiguousIsRefused() throws SQLException {
        make(crate("C-1"));
        Map<String, Object> small = crate("c-1");
        small.put("weight", 7);
        assertThat(ada.post(AT + "/bulk", Map.of("by", List.of("number"), "records", List.of(small)))
                        .json()
                        .toString())
                .isEqualTo("{\"added\":1,\"updated\":0,\"unchanged\":0}");
        assertThat(TestServer.query("select count(*) from records.crates where number = 'C-1' and weight = 7"))
                .isEqualTo("0");
        make(crate("C-1"));
        Map<String, Object> heavy = crate("C-1");
        heavy.put("weight", 99);
        Caller.Answer refused =
                ada.post(AT + "/bulk", Map.of("by", List.of("number"), "records", List.of(small, heavy)));
        assertThat(refused.status()).isEqualTo(422);
        assertThat(refused.json().at("/refused/0/record").intValue()).isEqualTo(2);
        assertThat(refused.json().at("/refused/0/reason").stringValue()).startsWith("2 records have this Number.");
        assertThat(TestServer.query("select count(*) from records.crates where weight = 99"))
                .isEqualTo("0");
    }

    @Test
    void oneBadRecordAmongManyAndNothingIsWritten() throws SQLException {
        Map<String, Object> bad = crate("C-2");
        bad.put("site", "Moon");
        Caller.Answer answer = ada.post(
                AT + "/bulk", Map.of("by", List.of("number"), "records", List.of(crate("C-1"), bad, crate("C-1"))));
        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.json().get("refused").get(0).get("record").intValue()).isEqualTo(2);
        assertThat(answer.json().get("refused").get(1).get("reason").stringValue())
                .isEqualTo("It repeats record 1.");
        assertThat(TestServer.query("select count(*) from records.crates")).isEqualTo("0");
    }

    @Test
    void theSameRequestUnderTheSameKeyIsDoneOnce() throws SQLException {
        List<CompletableFuture<Caller.Answer>> together = new ArrayList<>();
        for (int i = 0; i < 4; i++) {
            Caller one = Caller.signedIn("ada");
            together.add(CompletableFuture.supplyAsync(() -> one.post(AT, Map.of("values", crate("C-9")), "key-1")));
        }
        Set<String> ids = together.stream().map(f -> f.join().text()).collect(Collectors.toSet());
        assertThat(ids).hasSize(1);
        assertThat(TestServer.query("select count(*) from records.crates")).isEqualTo("1");
        assertThat(ada.post(AT, Map.of("values", crate("C-10")), "key-1")
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("idempotency-mismatch");
    }

    @Test
    void seenIsEachReadersOwnAndAFieldOfTheLanguage() {
        long first = make(crate("C-1"));
        make(crate("C-2"));
        assertThat(dora.put(AT + "/seen", Map.of("records", List.of(first), "seen", true))
                        .json()
                        .get("records")
                        .intValue())
                .isEqualTo(1);
        assertThat(count(dora, "seen is yes")).isEqualTo(1);
        assertThat(count(dora, "seen is no")).isEqualTo(1);
        assertThat(count(ada, "seen is yes")).isZero();
        assertThat(dora.post("/api/registers/crates/why", Map.of("statement", "seen is yes", "record", "C-2"))
                        .json()
                        .get("matches")
                        .booleanValue())
                .isFalse();
        dora.put(AT + "/seen", Map.of("records", List.of(first), "seen", false));
        assertThat(count(dora, "seen is no")).isEqualTo(2);
    }

    @Test
    void tagsArePutOnAndTakenOff() {
        long first = make(crate("C-1"));
        long second = make(crate("C-2"));
        Map<String, Object> both =
                Map.of("records", List.of(first, second), "add", List.of("blue", "Late"), "remove", List.of());
        assertThat(dora.put(AT + "/tags", both).json().get("records").intValue())
                .isEqualTo(2);
        assertThat(dora.put(AT + "/tags", both).json().get("records").intValue())
                .isZero();
        assertThat(count(dora, "tags has all of (\"Blue\", \"Late\")")).isEqualTo(2);
        dora.put(AT + "/tags", Map.of("records", List.of(first), "add", List.of(), "remove", List.of("Late")));
        assertThat(count(dora, "tags has any of (\"Late\")")).isEqualTo(1);
    }

    @Test
    void noNameOfAFieldIsTakenForOneOfOurOwn() {
        List<String> names = List.of(
                "item", "place", "tag", "capped", "pasted", "ordinality", "id", "select", "c0", "t", "value", "n");
        List<FieldDefinition> fields = new ArrayList<>();
        names.forEach(n -> fields.add(field(n, FieldType.TEXT, false, List.of())));
        fields.add(field("at", FieldType.MOMENT, true, List.of()));
        fields.add(field("tags", FieldType.TAGS, true, List.of()));
        fields.add(FieldDefinition.seen(false));
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition("odd", "Odd", "one", "at", "item", true, fields));
        try {
            Map<String, Object> one = new HashMap<>(Map.of("at", "2026-11-22T10:00:00Z", "tags", List.of("x")));
            names.forEach(n -> one.put(n, n + " 1"));
            assertThat(ada.post("/api/registers/odd/records", Map.of("values", one))
                            .status())
                    .isEqualTo(201);
            for (String name : names) {
                String listed = name + " is in (\"" + name + " 1\", \"other\", \"third\")";
                for (List<String> order : List.of(List.of("as-listed:" + name), List.of("-" + name))) {
                    Caller.Answer rows =
                            ada.post("/api/registers/odd/rows", Map.of("statement", listed, "order", order));
                    assertThat(rows.status()).as("%s %s", name, rows.text()).isEqualTo(200);
                    assertThat(rows.json().get("rows")).hasSize(1);
                }
                for (String call : List.of("count", "parts", "edges", "statement", "histogram")) {
                    assertThat(ada.post("/api/registers/odd/" + call, Map.of("statement", listed))
                                    .status())
                            .as("%s %s", call, name)
                            .isEqualTo(200);
                }
                assertThat(ada.post("/api/registers/odd/values", Map.of("field", name, "statement", listed))
                                .status())
                        .isEqualTo(200);
                assertThat(ada.post("/api/registers/odd/pasted", Map.of("field", name, "text", name + " 1\nnobody"))
                                .json()
                                .get("missing")
                                .toString())
                        .isEqualTo("[\"nobody\"]");
            }
            assertThat(ada.post("/api/registers/odd/values", Map.of("field", "tags", "statement", "tag is not empty"))
                            .json()
                            .get("values")
                            .toString())
                    .contains("\"x\"");
        } finally {
            ada.delete("/api/registers/odd");
        }
    }

    private static long count(Caller caller, String statement) {
        Caller.Answer answer = caller.post("/api/registers/crates/count", Map.of("statement", statement));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        return answer.json().get("matching").longValue();
    }
}
