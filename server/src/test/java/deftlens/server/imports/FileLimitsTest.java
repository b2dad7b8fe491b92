package deftlens.server.imports;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.platform.PrivateDirectory;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.zip.ZipEntry;
import java.util.zip.ZipOutputStream;
import org.dhatim.fastexcel.Workbook;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Files that somebody made to do harm, or that came to harm. */
@ExtendWith(TestServer.class)
class FileLimitsTest {

    private static Caller ada;
    private static Path directory;

    @BeforeAll
    static void signIn() {
        ada = Caller.signedIn("ada");
        directory = TestServer.bean("uploadDirectory", PrivateDirectory.class).place();
    }

    static byte[] zip(Map<String, String> parts) throws IOException {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (ZipOutputStream zip = new ZipOutputStream(bytes)) {
            for (Map.Entry<String, String> part : parts.entrySet()) {
                zip.putNextEntry(new ZipEntry(part.getKey()));
                zip.write(part.getValue().getBytes(StandardCharsets.UTF_8));
            }
        }
        return bytes.toByteArray();
    }

    /** A spreadsheet whose one sheet is this XML. */
    static Map<String, String> spreadsheet(String rows) {
        Map<String, String> parts = new LinkedHashMap<>();
        parts.put(
                "[Content_Types].xml",
                "<Types xmlns=\"http://schemas.openxmlformats.org/package/2006/content-types\"><Override PartName=\"/xl/workbook.xml\" ContentType=\"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml\"/></Types>");
        parts.put(
                "xl/workbook.xml",
                "<workbook xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\" xmlns:r=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships\"><sheets><sheet name=\"One\" sheetId=\"1\" r:id=\"rId1\"/></sheets></workbook>");
        parts.put(
                "xl/_rels/workbook.xml.rels",
                "<Relationships xmlns=\"http://schemas.openxmlformats.org/package/2006/relationships\"><Relationship Id=\"rId1\" Type=\"http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet\" Target=\"worksheets/sheet1.xml\"/></Relationships>");
        parts.put(
                "xl/worksheets/sheet1.xml",
                "<worksheet xmlns=\"http://schemas.openxmlformats.org/spreadsheetml/2006/main\"><sheetData>" + rows
                        + "</sheetData></worksheet>");
        return parts;
    }

    private static String row(int number, String... cells) {
        StringBuilder row = new StringBuilder("<row r=\"" + number + "\">");
        for (int i = 0; i < cells.length; i++) {
            row.append("<c r=\"")
                    .append((char) ('A' + i))
                    .append(number)
                    .append("\" ")
                    .append(cells[i])
                    .append("</c>");
        }
        return row.append("</row>").toString();
    }

    private static String text(String text) {
        return "t=\"inlineStr\"><is><t>" + text + "</t></is>";
    }

    private static JsonNode refused(byte[] content, String code) throws IOException {
        List<Path> before = waiting();
        Caller.Answer answer = ada.upload("/api/files?name=a", content);
        assertThat(answer.status()).as(answer.text()).isEqualTo(422);
        assertThat(answer.json().get("code").stringValue()).as(answer.text()).isEqualTo(code);
        assertThat(answer.text()).doesNotContain(directory.toString()).doesNotContain("Exception");
        assertThat(waiting()).isEqualTo(before);
        return answer.json();
    }

    private static List<Path> waiting() throws IOException {
        try (var files = Files.list(directory)) {
            return files.sorted().toList();
        }
    }

    @Test
    void aSpreadsheetMadeByHandComesIn() throws IOException {
        Caller.Answer answer = ada.upload(
                "/api/files?name=a.xlsx",
                zip(spreadsheet(row(1, text("Name"), text("Size"))
                        + row(2, text("Oak"), "><v>1e999999999</v>")
                        + row(3, text("Elm"), "><v>2.50</v>"))));
        assertThat(answer.status()).as(answer.text()).isEqualTo(201);
        // Written out, this number would have a thousand million digits.
        assertThat(answer.json().at("/preview/0/1").stringValue()).isEqualTo("1E+999999999");
        assertThat(answer.json().at("/preview/1/1").stringValue()).isEqualTo("2.5");
    }

    @Test
    void aCellThatIsTooLargeIsRefusedWithItsPlace() throws IOException {
        String cell = "x".repeat(FileLimits.MAX_CELL + 1);
        JsonNode spread = refused(zip(spreadsheet(row(1, text("Name")) + row(2, text(cell)))), "file-limits");
        assertThat(spread.get("detail").stringValue()).startsWith("Row 2, column 1: a cell has more than 100,000");
        JsonNode csv = refused(("Name,Text\nOak," + cell + "\n").getBytes(StandardCharsets.UTF_8), "file-limits");
        assertThat(csv.get("line").intValue()).isEqualTo(2);
        assertThat(csv.get("column").intValue()).isEqualTo(2);
    }

    @Test
    void aCellThatUnpacksToHundredsOfMegabytesIsNotUnpacked() throws IOException {
        String huge = "x".repeat(50_000_000);
        byte[] small = zip(spreadsheet(row(1, text("Name")) + row(2, text(huge))));
        assertThat(small.length).isLessThan(100_000);
        refused(small, "file-limits");
        Map<String, String> inTexts = spreadsheet(row(1, "t=\"s\"><v>0</v>"));
        inTexts.put("xl/sharedStrings.xml", "<sst><si><t>" + huge + "</t></si></sst>");
        refused(zip(inTexts), "file-limits");
        Map<String, String> inAttribute = spreadsheet("<row r=\"1\" spans=\"" + huge + "\"/>");
        refused(zip(inAttribute), "file-limits");
    }

    @Test
    void cellsBeyondASheetAreRefused() throws IOException {
        refused(zip(spreadsheet("<row r=\"1\"><c r=\"ZZZZZZ1\"><v>1</v></c></row>")), "file-limits");
        refused(zip(spreadsheet("<row r=\"99999999999\"><c r=\"A99999999999\"><v>1</v></c></row>")), "file-limits");
    }

    @Test
    void missingPartsAndDeclarationsAreRefused() throws IOException {
        Map<String, String> whole = spreadsheet(row(1, text("Name")) + row(2, text("Oak")));
        for (String part : List.of("xl/workbook.xml", "xl/_rels/workbook.xml.rels", "xl/worksheets/sheet1.xml")) {
            Map<String, String> rest = new LinkedHashMap<>(whole);
            rest.remove(part);
            refused(zip(rest), "file-unreadable");
        }
        for (String part : whole.keySet()) {
            Map<String, String> broken = new LinkedHashMap<>(whole);
            broken.computeIfPresent(part, (p, xml) -> xml.substring(0, xml.length() / 2));
            Caller.Answer answer = ada.upload("/api/files?name=a.xlsx", zip(broken));
            assertThat(answer.status()).as(part + answer.text()).isIn(201, 422);
            Map<String, String> declared = new LinkedHashMap<>(whole);
            declared.computeIfPresent(
                    part, (p, xml) -> "<!DOCTYPE x [<!ENTITY a \"aaaaaaaaaa\"><!ENTITY b \"&a;&a;&a;\">]>" + xml);
            refused(zip(declared), "file-unreadable");
        }
        refused(zip(Map.of("notes.txt", "no spreadsheet")), "file-unreadable");
        byte[] good = zip(whole);
        refused(java.util.Arrays.copyOf(good, good.length / 2), "file-unreadable");
    }

    @Test
    void aQuoteThatIsNeverClosedIsRefused() throws IOException {
        String text = "Name,Text\nOak,fine\nElm,\"" + "never closed\n".repeat(400_000);
        JsonNode refused = refused(text.getBytes(StandardCharsets.UTF_8), "file-limits");
        assertThat(refused.get("line").intValue()).isEqualTo(3);
    }

    @Test
    void waitingFilesAreTheServersOwnAndGoWhenTheyAreNotNeeded() throws IOException {
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(directory)))
                .isEqualTo("rwx------");
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (Workbook book = new Workbook(bytes, "test", "1.0")) {
            var sheet = book.newWorksheet("One");
            sheet.value(0, 0, "Name");
            sheet.value(1, 0, "Oak");
        }
        String token = ada.upload("/api/files?name=a.xlsx", bytes.toByteArray())
                .json()
                .get("token")
                .stringValue();
        Path file = directory.resolve(token);
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(file)))
                .isEqualTo("rw-------");
        TestServer.bean(Uploads.class).sweep();
        assertThat(file).exists();
        TestServer.bean("uploadDirectory", PrivateDirectory.class).deleteBut(java.util.Set.of(file));
        assertThat(file).exists();
        Files.setLastModifiedTime(file, java.nio.file.attribute.FileTime.fromMillis(0));
        TestServer.bean("uploadDirectory", PrivateDirectory.class).deleteBut(java.util.Set.of());
        assertThat(file).doesNotExist();
    }
}
