package deftlens.server.imports;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.dhatim.fastexcel.Workbook;
import org.dhatim.fastexcel.Worksheet;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

/** What is said of a file before anything of it is written. */
@ExtendWith(TestServer.class)
class FileLookTest {

    private static Caller ada;
    private static ImportCalls files;

    @BeforeAll
    static void signIn() {
        ada = Caller.signedIn("ada");
        files = new ImportCalls(ada);
    }

    @AfterAll
    static void leave() {
        files.deleteRegisters();
    }

    private static String evidence(JsonNode look, String column) {
        return ImportCalls.column(look, column).at("/guess/evidence").stringValue();
    }

    @Test
    void rowsBeforeTheNamesAreLeftOut() throws InterruptedException, SQLException {
        JsonNode look =
                files.look("Harbour dues\n\nAccount;Due;Amount\nA-1;2026-11-30;12.50\n;;\nA-2;2026-12-01;7.00\n");
        assertThat(look.get("namesAt").longValue()).isEqualTo(3);
        assertThat(look.get("before").toString()).isEqualTo("[{\"line\":1,\"cells\":[\"Harbour dues\"]}]");
        assertThat(look.get("rows").longValue()).isEqualTo(2);
        assertThat(evidence(look, "Due")).isEqualTo("2 of 2 read as dates");
        JsonNode run = files.bringIn(
                look,
                Map.of("label", "Found dues", "titleField", "Account"),
                ImportCalls.plan(look, Map.of(), List.of(), "ADD"));
        assertThat(TestServer.query("select string_agg(account || ' ' || amount, '|' order by id) from records."
                        + run.get("register").stringValue()))
                .isEqualTo("A-1 12.50|A-2 7.00");
    }

    @Test
    void anotherRowIsSaidToHaveTheNames() {
        JsonNode look = files.look("Site,Note\nPlace,Words\nNorth,a\n");
        assertThat(look.get("namesAt").longValue()).isEqualTo(1);
        JsonNode again = ada.post("/api/files/" + look.get("token").stringValue() + "/look", Map.of("namesAt", 2))
                .json();
        assertThat(again.at("/columns/0/name").stringValue()).isEqualTo("Place");
        assertThat(again.get("rows").longValue()).isEqualTo(1);
        JsonNode none = ada.post("/api/files/" + look.get("token").stringValue() + "/look", Map.of("namesAt", 0))
                .json();
        assertThat(none.at("/columns/0/name").stringValue()).isEqualTo("Column 1");
        assertThat(none.get("rows").longValue()).isEqualTo(3);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "2026-01-01;2026-01-02;soon| 3 texts; 2 of 3 read as dates, but 1 does not| soon",
                "12;13;14;n/a;?| 5 texts; 3 of 5 read as numbers, but 2 do not| n/a",
                "00417;00018;22222| 3 texts; as numbers, 2 would lose the zeros they begin with|",
                "one;two;three| 3 texts|",
                "alone| 1 text|"
            })
    void whyAGuessWasNotTaken(String values, String evidence, String odd) {
        JsonNode look = files.look("Held\n" + values.replace(';', '\n') + "\n");
        assertThat(evidence(look, "Held")).isEqualTo(evidence);
        assertThat(look.at("/columns/0/guess/odd/0/value").stringValue(null)).isEqualTo(odd);
    }

    @Test
    void formulasWithoutValuesAreSaid() throws IOException {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        try (Workbook book = new Workbook(out, "Test", "1.0")) {
            Worksheet sheet = book.newWorksheet("Stock");
            sheet.value(0, 0, "Item");
            sheet.value(0, 1, "Pieces");
            for (int row = 1; row < 9; row++) {
                sheet.value(row, 0, "Rope " + row);
                if (row > 2) {
                    sheet.formula(row, 1, "2*" + row);
                } else {
                    sheet.value(row, 1, row);
                }
            }
        }
        JsonNode pieces = ImportCalls.column(files.look("stock.xlsx", out.toByteArray()), "Pieces");
        assertThat(pieces.get("formulas").longValue()).isEqualTo(6);
        assertThat(pieces.get("formulaLines").toString()).isEqualTo("[4,5,6,7,8]");
        assertThat(pieces.get("filled").longValue()).isEqualTo(2);
    }

    @Test
    void aFormulaIsWhatItComesTo() throws IOException {
        Map<String, String> parts = FileLimitsTest.spreadsheet("""
                <row r="1"><c r="A1" t="inlineStr"><is><t>Item</t></is></c>\
                <c r="B1" t="inlineStr"><is><t>Next</t></is></c><c r="C1" t="inlineStr"><is><t>Fine</t></is></c></row>
                <row r="2"><c r="A2" t="inlineStr"><is><t>Rope</t></is></c>\
                <c r="B2" s="1"><f>B3+1</f><v>46349</v></c><c r="C2" t="b"><f>1=1</f><v>1</v></c></row>
                """);
        parts.merge(
                "[Content_Types].xml",
                "<Override PartName=\"/xl/styles.xml\" ContentType=\"application/vnd.openxmlformats-officedocument.spreadsheetml.styles+xml\"/></Types>",
                (types, styles) -> types.replace("</Types>", styles));
        parts.put(
                "xl/styles.xml",
                "<styleSheet xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><cellXfs count=\"2\">"
                        + "<xf numFmtId=\"0\"/><xf numFmtId=\"14\" applyNumberFormat=\"1\"/></cellXfs></styleSheet>");
        JsonNode look = files.look("next.xlsx", FileLimitsTest.zip(parts));
        assertThat(look.get("preview").toString()).isEqualTo("[[\"Rope\",\"2026-11-23\",\"yes\"]]");
        assertThat(ImportCalls.column(look, "Next").get("formulas").longValue()).isZero();
    }

    @Test
    void whoeverSendsAFileCanStopIt() {
        String token = UUID.randomUUID().toString();
        Caller.Answer sent =
                ada.upload("/api/files?name=a.csv&token=" + token, "Site\nNorth\n".getBytes(StandardCharsets.UTF_8));
        assertThat(sent.json().get("token").stringValue()).isEqualTo(token);
        assertThat(ada.get("/api/files/" + token).json().get("share").doubleValue())
                .isEqualTo(1);
        assertThat(Caller.signedIn("nina").get("/api/files/" + token).status()).isEqualTo(403);
        assertThat(ada.upload("/api/files?name=a.csv&token=" + token, new byte[] {'a'})
                        .status())
                .isEqualTo(422);
        assertThat(ada.upload("/api/files?name=a.csv&token=no", new byte[] {'a'})
                        .status())
                .isEqualTo(422);
        assertThat(ada.delete("/api/files/" + token).status()).isEqualTo(204);
        assertThat(ada.get("/api/files/" + token).status()).isEqualTo(404);
    }
}
