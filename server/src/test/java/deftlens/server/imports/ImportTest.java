package deftlens.server.imports;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.dhatim.fastexcel.Workbook;
import org.dhatim.fastexcel.Worksheet;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

@ExtendWith(TestServer.class)
class ImportTest {

    private static ImportCalls files;
    private static Caller ada;

    @BeforeAll
    static void signIn() {
        ada = Caller.signedIn("ada");
        files = new ImportCalls(ada);
    }

    @AfterEach
    void leave() {
        files.deleteRegisters();
    }

    private static final String TICKETS = """
            Ticket;Opened;Closed at;Site;Amount;Urgent;Code
            T-1;13/02/2026;2026-02-14 09:30;North;"1.204,50";yes;00417
            T-2;03/04/2026;;South;-7,25;no;00018
            T-3;05/04/2026;2026-04-06 23:59:59;North;;yes;
            """;

    @Test
    void typesAreFoundWithTheirEvidence() {
        JsonNode look = files.look(TICKETS);
        assertThat(look.get("delimiter").stringValue()).isEqualTo(";");
        assertThat(look.get("encoding").stringValue()).isEqualTo("UTF-8");
        assertThat(look.get("rows").longValue()).isEqualTo(3);
        assertThat(ImportCalls.column(look, "Opened")
                        .get("guess")
                        .get("evidence")
                        .stringValue())
                .isEqualTo("3 of 3 read as dates, day first; 2 could be either");
        assertThat(ImportCalls.column(look, "Opened").get("guess").get("ask").booleanValue())
                .isFalse();
        assertThat(ImportCalls.column(look, "Closed at")
                        .get("guess")
                        .get("evidence")
                        .stringValue())
                .isEqualTo("2 of 2 read as dates and times; the times say no zone");
        assertThat(ImportCalls.column(look, "Amount").get("guess").get("type").stringValue())
                .isEqualTo("MONEY");
        assertThat(ImportCalls.column(look, "Amount")
                        .get("guess")
                        .get("decimal")
                        .stringValue())
                .isEqualTo("COMMA");
        assertThat(ImportCalls.column(look, "Code").get("guess").get("type").stringValue())
                .isEqualTo("TEXT");
        assertThat(ImportCalls.column(look, "Urgent").get("guess").get("type").stringValue())
                .isEqualTo("YES_NO");
        assertThat(ImportCalls.column(look, "Ticket").get("unique").booleanValue())
                .isTrue();
    }

    @Test
    void datesThatCouldBeEitherAreAskedAbout() {
        JsonNode guess = ImportCalls.column(files.look("Day\n03/04/2026\n05/06/2026\n"), "Day")
                .get("guess");
        assertThat(guess.get("ask").booleanValue()).isTrue();
        assertThat(guess.get("evidence").stringValue())
                .isEqualTo("2 of 2 read as dates; 2 could be either, and nothing in the file says which");
        assertThat(ImportCalls.column(files.look("Day\n03/04/2026\n05/13/2026\n"), "Day")
                        .get("guess")
                        .get("order")
                        .stringValue())
                .isEqualTo("MONTH_FIRST");
    }

    @ParameterizedTest
    @CsvSource({"1,2,first second", "2,1,second first", ",,first second", "2,,second first", "9,1,second first"})
    void columnsOfOneNameAreKnownByTheirPlace(Integer note, Integer again, String expected)
            throws InterruptedException, SQLException {
        JsonNode look = files.look("Name,Note,Note\nOak,first,second\n");
        List<Map<String, Object>> columns = new ArrayList<>();
        List<Integer> places = new ArrayList<>();
        places.add(0);
        places.add(note);
        places.add(again);
        List<String> labels = List.of("Name", "Note", "Note again");
        for (int i = 0; i < 3; i++) {
            Map<String, Object> taken = new HashMap<>(Map.of(
                    "name",
                    i == 0 ? "Name" : "Note",
                    "label",
                    labels.get(i),
                    "type",
                    "text",
                    "unfit",
                    "REFUSE",
                    "identifying",
                    false,
                    "shown",
                    true));
            taken.put("place", places.get(i));
            columns.add(taken);
        }
        Caller.Answer started = ada.post(
                "/api/files/" + look.get("token").stringValue() + "/import",
                Map.of(
                        "reading", Map.of("namesAt", 1),
                        "into", Map.of("label", "Notes", "titleField", "Name"),
                        "plan", Map.of("columns", columns, "by", List.of(), "known", "ADD")));
        assertThat(started.status()).as(started.text()).isEqualTo(202);
        JsonNode run = files.ended(started.json());
        assertThat(run.get("state").stringValue()).as(run.toString()).isEqualTo("DONE");
        String key = run.get("register").stringValue();
        files.made(key);
        assertThat(TestServer.query("select note || ' ' || note_again from records." + key))
                .isEqualTo(expected);
    }

    @Test
    void aFileBecomesATypedRegister() throws InterruptedException, SQLException {
        JsonNode look = files.look(TICKETS);
        JsonNode run = files.bringIn(
                look,
                Map.of("label", "Old tickets", "recordLabel", "ticket", "mainField", "Opened", "titleField", "Ticket"),
                ImportCalls.plan(look, Map.of(), List.of(), "ADD"));
        assertThat(run.get("state").stringValue()).as(run.toString()).isEqualTo("DONE");
        String key = run.get("register").stringValue();
        assertThat(TestServer.query(
                        "select string_agg(concat_ws(' ', ticket, opened, closed_at at time zone 'UTC', site, amount,"
                                + " urgent, code), '|' order by id) from records." + key))
                .isEqualTo(
                        "T-1 2026-02-13 2026-02-14 09:30:00 North 1204.50 t 00417|T-2 2026-04-03 South -7.25 f 00018|"
                                + "T-3 2026-04-05 2026-04-06 22:59:59 North t");
        assertThat(ada.post(
                                "/api/registers/" + key + "/count",
                                Map.of("statement", "opened in 2026-04 and site is \"North\""))
                        .json()
                        .get("matching")
                        .longValue())
                .isEqualTo(1);
        assertThat(ada.get("/api/registers/" + key).json().get("mainField").stringValue())
                .isEqualTo("opened");
    }

    @Test
    void everyRefusedRowIsToldAndNothingIsWritten() throws InterruptedException {
        JsonNode look = files.look("""
                Number,When,Note
                1,2026-01-01,fine
                2,2026-02-30,"two
                lines"
                3,soon,fine
                4,2026-01-02,fine,more
                """);
        JsonNode run = files.bringIn(
                look,
                Map.of("label", "Broken", "titleField", "Number"),
                ImportCalls.plan(look, Map.of("When", Map.of("type", "date", "order", "DAY_FIRST")), List.of(), "ADD"));
        assertThat(run.get("state").stringValue()).isEqualTo("REFUSED");
        assertThat(run.get("refused").longValue()).isEqualTo(2);
        assertThat(run.get("refusals").get(0).get("line").longValue()).isEqualTo(3);
        assertThat(run.get("refusals").get(0).get("reason").stringValue())
                .isEqualTo("When: “2026-02-30” does not read as a date.");
        assertThat(run.get("refusals").get(1).get("line").longValue()).isEqualTo(5);
        assertThat(run.get("register").isNull()).isTrue();
        assertThat(ada.get("/api/registers").text()).doesNotContain("Broken");
        JsonNode lenient = files.bringIn(
                look,
                Map.of("label", "Broken", "titleField", "Number"),
                ImportCalls.plan(
                        look,
                        Map.of("When", Map.of("type", "date", "order", "DAY_FIRST", "unfit", "EMPTY")),
                        List.of(),
                        "ADD"));
        assertThat(lenient.get("state").stringValue()).as(lenient.toString()).isEqualTo("DONE");
    }

    @ParameterizedTest
    @CsvSource({"UPDATE,1,2,0,new", "SKIP,1,0,2,old", "ADD,3,0,0,old"})
    void rowsThatAreThereAreChangedLeftOrAdded(String known, int added, int updated, int skipped, String then)
            throws InterruptedException, SQLException {
        JsonNode first = files.look("Number,State\nA-1,old\nA-2,old\n");
        JsonNode run = files.bringIn(
                first,
                Map.of("label", "Again " + known, "titleField", "Number"),
                ImportCalls.plan(first, Map.of(), List.of(), "ADD"));
        String key = run.get("register").stringValue();
        JsonNode second = files.look("Number,State\nA-1,new\nA-2,new\na-1,new\n");
        JsonNode again = files.bringIn(
                second,
                Map.of("register", key),
                ImportCalls.plan(
                        second,
                        Map.of("Number", Map.of("field", "number"), "State", Map.of("field", "state")),
                        known.equals("ADD") ? List.of() : List.of("number"),
                        known));
        assertThat(again.get("state").stringValue()).as(again.toString()).isEqualTo("DONE");
        assertThat(List.of(
                        again.get("added").intValue(),
                        again.get("updated").intValue(),
                        again.get("skipped").intValue()))
                .containsExactly(added, updated, skipped);
        assertThat(TestServer.query("select state from records." + key + " where number = 'A-1' order by id limit 1"))
                .isEqualTo(then);
    }

    @ParameterizedTest
    @CsvSource({"UPDATE", "SKIP"})
    void rowsWithOneKeyThatSayDifferentThingsAreRefused(String known) throws InterruptedException {
        JsonNode look = files.look("Number,State\nA-1,first\nB-1,only\nB-1,only\nA-1,last\na-1,another\n");
        JsonNode run = files.bringIn(
                look,
                Map.of("label", "Twice " + known, "titleField", "Number"),
                ImportCalls.plan(look, Map.of(), List.of("number"), known));
        assertThat(run.get("state").stringValue()).isEqualTo("REFUSED");
        assertThat(run.get("refusals")).hasSize(1);
        assertThat(run.at("/refusals/0/line").intValue()).isEqualTo(5);
        assertThat(run.at("/refusals/0/reason").stringValue())
                .isEqualTo("It has the same Number as line 2 and says something else. Keep one of them.");
    }

    @Test
    void aKeyThatSeveralRecordsHaveIsRefused() throws InterruptedException, SQLException {
        JsonNode first = files.look("Number,State\nA-1,old\nA-1,older\nA-2,old\n");
        String key = files.bringIn(
                        first,
                        Map.of("label", "Ambiguous", "titleField", "Number"),
                        ImportCalls.plan(first, Map.of(), List.of(), "ADD"))
                .get("register")
                .stringValue();
        JsonNode second = files.look("Number,State\nA-2,new\nA-1,new\n");
        JsonNode run = files.bringIn(
                second,
                Map.of("register", key),
                ImportCalls.plan(
                        second,
                        Map.of("Number", Map.of("field", "number"), "State", Map.of("field", "state")),
                        List.of("number"),
                        "UPDATE"));
        assertThat(run.get("state").stringValue()).isEqualTo("REFUSED");
        assertThat(run.at("/refusals/0/line").intValue()).isEqualTo(3);
        assertThat(run.at("/refusals/0/reason").stringValue()).startsWith("2 records have this Number.");
        assertThat(TestServer.query("select string_agg(state, ',' order by id) from records." + key))
                .isEqualTo("old,older,old");
    }

    @ParameterizedTest
    @CsvSource({"UTF-8,true", "UTF-16LE,true", "windows-1252,false"})
    void encodingsAreFound(String encoding, boolean sure) {
        byte[] bytes =
                "Name,Town\nÅsa,Köln\nRené,Łódź\n".replace("Łódź", "Arles").getBytes(Charset.forName(encoding));
        JsonNode look = files.look("a.csv", bytes);
        assertThat(look.get("encoding").stringValue()).isEqualTo(encoding);
        assertThat(look.get("encodingSure").booleanValue()).isEqualTo(sure);
        assertThat(look.get("preview").get(0).get(0).stringValue()).isEqualTo("Åsa");
    }

    @ParameterizedTest
    @CsvSource(
            quoteCharacter = '`',
            value = {"`,`", ";", "|", "`\t`"})
    void delimitersAreFound(String delimiter) {
        String csv = "A,B,C\n\"x,;|\ty\",2,3\n4,5,6\n";
        StringBuilder written = new StringBuilder();
        boolean quoted = false;
        for (char c : csv.toCharArray()) {
            quoted ^= c == '"';
            written.append(c == ',' && !quoted ? delimiter : String.valueOf(c));
        }
        JsonNode look = files.look(written.toString());
        assertThat(look.get("delimiter").stringValue()).isEqualTo(delimiter);
        assertThat(look.get("preview").get(0).get(0).stringValue()).isEqualTo("x,;|\ty");
    }

    @Test
    void aSpreadsheetComesInWithItsDaysAndTimes() throws IOException, InterruptedException, SQLException {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        try (Workbook book = new Workbook(out, "Test", "1.0")) {
            book.newWorksheet("Empty").value(0, 0, "nothing");
            Worksheet sheet = book.newWorksheet("Stock");
            String[] head = {"Item", "Counted on", "Checked at", "Pieces", "Fine"};
            for (int i = 0; i < head.length; i++) {
                sheet.value(0, i, head[i]);
            }
            sheet.value(1, 0, "Rope \"12 mm\"");
            sheet.value(1, 1, LocalDate.of(2026, 3, 29));
            sheet.style(1, 1).format("yyyy-mm-dd").set();
            sheet.value(1, 2, LocalDateTime.of(2026, 3, 29, 14, 30));
            sheet.style(1, 2).format("dd/mm/yyyy hh:mm").set();
            sheet.value(1, 3, 12.5);
            sheet.value(1, 4, true);
        }
        JsonNode look = files.look("stock.xlsx", out.toByteArray());
        assertThat(look.get("sheets").toString()).isEqualTo("[\"Empty\",\"Stock\"]");
        assertThat(look.get("sheet").stringValue()).isEqualTo("Stock");
        assertThat(ImportCalls.column(look, "Counted on")
                        .get("guess")
                        .get("type")
                        .stringValue())
                .isEqualTo("DATE");
        JsonNode run = files.bringIn(
                look,
                Map.of("label", "Stock count", "titleField", "Item"),
                ImportCalls.plan(look, Map.of("Fine", Map.of("type", "yes/no")), List.of(), "ADD"));
        assertThat(TestServer.query(
                        "select concat_ws('|', item, counted_on, checked_at at time zone 'UTC', pieces, fine) from records."
                                + run.get("register").stringValue()))
                .isEqualTo("Rope \"12 mm\"|2026-03-29|2026-03-29 13:30:00|12.5|t");
    }

    @Test
    void aRunThatIsStoppedWritesNothing() throws InterruptedException {
        StringBuilder csv = new StringBuilder("Number,Note\n");
        for (int i = 0; i < 400_000; i++) {
            csv.append(i).append(",some words about it\n");
        }
        JsonNode look = files.look(csv.toString());
        Caller.Answer started = ada.post(
                "/api/files/" + look.get("token").stringValue() + "/import",
                Map.of(
                        "reading",
                        Map.of(),
                        "into",
                        Map.of("label", "Stopped", "titleField", "Number"),
                        "plan",
                        ImportCalls.plan(look, Map.of(), List.of(), "ADD")));
        long id = started.json().get("id").asLong();
        assertThat(ada.delete("/api/imports/" + id).status()).isEqualTo(204);
        JsonNode run = ada.get("/api/imports/" + id).json();
        while (run.get("state").stringValue().equals("RUNNING")) {
            Thread.onSpinWait();
            run = ada.get("/api/imports/" + id).json();
        }
        assertThat(run.get("state").stringValue()).isEqualTo("CANCELLED");
        assertThat(ada.get("/api/registers").text()).doesNotContain("Stopped");
    }

    @Test
    void aPlanIsKeptForTheNextFile() throws InterruptedException {
        JsonNode look = files.look("Number,State\nA-1,old\n");
        JsonNode run = files.bringIn(
                look,
                Map.of("label", "Monthly", "titleField", "Number"),
                ImportCalls.plan(look, Map.of(), List.of(), "ADD"));
        String at = "/api/registers/" + run.get("register").stringValue() + "/import-plans";
        assertThat(ada.put(at + "/From%20the%20yard", ImportCalls.plan(look, Map.of(), List.of("number"), "UPDATE"))
                        .status())
                .isEqualTo(204);
        JsonNode kept = ada.get(at).json().get(0);
        assertThat(kept.get("name").stringValue()).isEqualTo("From the yard");
        assertThat(kept.get("plan").get("known").stringValue()).isEqualTo("UPDATE");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            nullValues = "",
            value = {"no-rows|Number,State", "file-unreadable|PK\u0003\u0004 no archive"})
    void whatIsNoTableIsRefusedWithASentence(String code, String content) {
        Caller.Answer answer = ada.upload("/api/files?name=a.csv", content.getBytes(StandardCharsets.UTF_8));
        assertThat(answer.status()).as(answer.text()).isEqualTo(422);
        assertThat(answer.json().get("code").stringValue()).isEqualTo(code);
    }
}
