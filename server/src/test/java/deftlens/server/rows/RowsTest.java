package deftlens.server.rows;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.io.StringReader;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVRecord;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

@ExtendWith(TestServer.class)
class RowsTest {

    /** Statements beside the SQL that somebody else would write for them, on 23 November 2026 in London, for Dora. */
    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "``|true",
                "due before today and state is not \"Done\"|due < '2026-11-23' and state <> 'Done'",
                "site is my site|site = 'North'",
                "site is not my site|site is distinct from 'North'",
                "not site is \"North\"|coalesce(site <> 'North', true)",
                "owner is me or level >= 4|coalesce(owner = 'dora', false) or level >= 4",
                "made_at on yesterday|made_at >= '2026-11-22 00:00 Europe/London' and made_at < '2026-11-23 00:00 Europe/London'",
                "made_at on 2026-11-23|made_at >= '2026-11-23 00:00 Europe/London' and made_at < '2026-11-24 00:00 Europe/London'",
                "made_at in last 7 days|made_at >= '2026-11-17 00:00 Europe/London' and made_at < '2026-11-24 00:00 Europe/London'",
                "made_at in last 24 hours|made_at >= '2026-11-22 09:30 Europe/London' and made_at < '2026-11-23 09:30 Europe/London'",
                "due between 2026-11-10 and 2026-11-20|due between '2026-11-10' and '2026-11-20'",
                "due in this week or due is empty|(due >= '2026-11-23' and due < '2026-11-30') or due is null",
                "due at least 5 days ago|due <= '2026-11-18'",
                "due more than 5 days ago|due < '2026-11-18'",
                "due less than 5 days ago|due > '2026-11-18' and due <= '2026-11-23'",
                "tags has any of (\"safety\") and not tags has all of (\"Safety\", \"Winter\")|tags && '{Safety}' and not tags @> '{Safety,Winter}'",
                "tags is empty|tags = '{}'",
                "title contains \"ÅNGSTRÖM\"|title like 'Ångström%'",
                "title contains \"ångström\" exactly|false",
                "cost > 100 and cost <= 150.75|cost > 100 and cost <= 150.75",
                "level between 2 and 4 and off(state is \"Done\")|level in (2, 3, 4)",
                "number is in (\"J-001\", \"j-002\", \"X\")|number in ('J-001', 'J-002')",
            })
    void countsAgreeWithHandWrittenSql(String statement, String where) throws SQLException {
        Caller dora = Caller.signedIn("dora");
        JsonNode count = dora.post("/api/registers/jobs/count", Map.of("statement", statement))
                .json();
        assertThat(count.get("matching").longValue())
                .isEqualTo(Long.parseLong(TestServer.query("select count(*) from records.jobs where " + where)));
        assertThat(count.get("exact").booleanValue()).isTrue();
        assertThat(count.get("total").longValue()).isEqualTo(300);
        assertThat(page(dora, Map.of("statement", statement, "limit", 1000)).rows())
                .hasSize(count.get("matching").intValue());
    }

    @Test
    void pagesJoinUpInTheOrderAskedFor() {
        Caller dora = Caller.signedIn("dora");
        for (List<String> order : List.of(
                List.of("due"),
                List.of("-due", "title"),
                List.of("cost", "-level"),
                List.<String>of(),
                List.of("-made_at"))) {
            List<JsonNode> whole =
                    page(dora, Map.of("limit", 1000, "order", order)).rows();
            List<JsonNode> pieces = new ArrayList<>();
            Map<String, Object> asked = new HashMap<>(Map.of("limit", 37, "order", order));
            while (true) {
                Page page = page(dora, asked);
                pieces.addAll(page.rows());
                if (page.next() == null) {
                    break;
                }
                asked.put("after", page.next());
            }
            assertThat(pieces).as("%s", order).isEqualTo(whole).hasSize(300);
        }
    }

    @Test
    void onlyTheColumnsAskedForAreSent() {
        JsonNode row = page(Caller.signedIn("dora"), Map.of("columns", List.of("due", "number"), "limit", 1))
                .rows()
                .get(0);
        assertThat(row.get("values").propertyNames()).containsExactly("due", "number");
    }

    @Test
    void eachReaderHasTheirOwnAnswer() {
        Map<String, Object> mine = Map.of("statement", "site is my site");
        assertThat(matching(Caller.signedIn("dora"), mine)).isEqualTo(100);
        assertThat(matching(Caller.signedIn("nina"), mine)).isEqualTo(100);
        assertThat(matching(Caller.signedIn("ada"), mine)).as("Ada has no site").isZero();
        assertThat(page(Caller.signedIn("nina"), Map.of("statement", "site is my site", "limit", 1))
                        .rows()
                        .get(0)
                        .at("/values/site")
                        .stringValue())
                .isEqualTo("South");
    }

    @Test
    void rollingWindowsAreReadAsOfAnotherDay() throws SQLException {
        Caller dora = Caller.signedIn("dora");
        assertThat(matching(dora, Map.of("statement", "due before today", "asOf", "2026-11-10")))
                .isEqualTo(
                        Long.parseLong(TestServer.query("select count(*) from records.jobs where due < '2026-11-10'")));
        assertThat(dora.post("/api/registers/jobs/count", Map.of("asOf", "soon"))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("bad-as-of");
    }

    @Test
    void eachPartSaysWhatItLetsInAndWhatItTakesAway() throws SQLException {
        JsonNode counts = Caller.signedIn("dora")
                .post(
                        "/api/registers/jobs/parts",
                        Map.of(
                                "statement",
                                "due before today and off(level = 1) and (state is \"Open\" or not site is my site)"))
                .json();
        String overdue = "coalesce(due < '2026-11-23', false)";
        String open = "state = 'Open'";
        String elsewhere = "site is distinct from 'North'";
        String either = "(" + open + " or " + elsewhere + ")";
        Map<String, String[]> expected = Map.of(
                "", new String[] {overdue + " and " + either, "true", overdue + " and " + either},
                "/all/0", new String[] {overdue, either, overdue},
                "/all/2", new String[] {either, overdue, overdue + " and " + either},
                "/all/2/any/0", new String[] {open, overdue + " and " + elsewhere, overdue + " and " + open},
                "/all/2/any/1", new String[] {elsewhere, overdue + " and " + open, overdue + " and " + either},
                "/all/2/any/1/none/0",
                        new String[] {"not " + elsewhere, overdue + " and " + open, overdue + " and " + either});
        assertThat(counts.get("parts")).hasSize(expected.size());
        for (JsonNode part : counts.get("parts")) {
            String[] sql = expected.get(part.get("path").stringValue());
            assertThat(part.get("alone").longValue()).as("%s alone", part).isEqualTo(jobs(sql[0]));
            assertThat(part.get("without").longValue()).as("without %s", part).isEqualTo(jobs(sql[1]));
            assertThat(part.get("left").longValue()).as("left after %s", part).isEqualTo(jobs(sql[2]));
        }
    }

    @Test
    void aStatementThatIsSwitchedOffAsAWholeHasNoPartsToCount() {
        JsonNode counts = Caller.signedIn("dora")
                .post("/api/registers/jobs/parts", Map.of("statement", "off(level >= 3)"))
                .json();
        assertThat(counts.get("parts")).isEmpty();
    }

    @Test
    void aQuestionTooLongForAnAddressBecomesAFileToo() {
        Caller dora = Caller.signedIn("dora");
        StringBuilder statement = new StringBuilder("number is in (\"J-001\"");
        for (int i = 2; i < 4_000; i++) {
            statement.append(", \"J-").append(i).append('"');
        }
        statement.append(")");
        Caller.Answer prepared = dora.post(
                "/api/registers/jobs/export",
                Map.of(
                        "statement",
                        statement.toString(),
                        "columns",
                        List.of("number", "title"),
                        "order",
                        List.of("-number")));
        assertThat(prepared.status()).as(prepared.text()).isEqualTo(201);
        String file = prepared.json().get("file").stringValue();
        List<String> lines = dora.get(file).text().lines().toList();
        assertThat(lines.get(0)).isEqualTo("Number,Title");
        assertThat(lines).hasSize(1 + 201).contains("J-001,\"Lamp, \"\"old\"\" 1\"");
        assertThat(Caller.signedIn("dan").get(file).status()).isEqualTo(404);
        assertThat(dora.get("/api/exports/not-one").status()).isEqualTo(400);
        assertThat(dora.post("/api/registers/jobs/export", Map.of("statement", "nothing is 1"))
                        .status())
                .isEqualTo(422);
    }

    @Test
    void aRecordIsToldWhichPartShutsItOut() {
        Caller dora = Caller.signedIn("dora");
        Map<String, Object> asked = new HashMap<>(
                Map.of("statement", "made_at on today and (level >= 5 or site is \"North\")", "record", "j-004"));
        JsonNode why = dora.post("/api/registers/jobs/why", asked).json();
        assertThat(why.at("/record/values/number").stringValue()).isEqualTo("J-004");
        assertThat(why.get("matches").booleanValue()).isFalse();
        JsonNode day = why.at("/outcome/parts/0");
        assertThat(day.get("verdict").stringValue()).isEqualTo("OUT");
        assertThat(day.get("value").stringValue()).isEqualTo("2026-11-22T20:00:00Z");
        assertThat(day.get("window").stringValue()).isEqualTo("on Mon 23 Nov 2026, the whole day");
        assertThat(why.at("/outcome/parts/1/verdict").stringValue()).isEqualTo("IN");
        assertThat(why.at("/outcome/parts/1/parts/0/verdict").stringValue()).isEqualTo("IN");

        asked.put("record", "no such");
        assertThat(dora.post("/api/registers/jobs/why", asked).status()).isEqualTo(404);
        asked.put("record", "1");
        assertThat(dora.post("/api/registers/jobs/why", asked)
                        .json()
                        .at("/record/values/number")
                        .stringValue())
                .as("the record's own number")
                .isEqualTo("J-000");
    }

    private static long jobs(String where) throws SQLException {
        return Long.parseLong(TestServer.query("select count(*) from records.jobs where " + where));
    }

    @Test
    void valuesComeWithTheirCounts() throws SQLException {
        JsonNode values = Caller.signedIn("dora")
                .post("/api/registers/jobs/values", Map.of("field", "tags", "statement", "state is \"Open\""))
                .json()
                .get("values");
        for (JsonNode value : values) {
            String condition = value.get("value").isNull()
                    ? "tags = '{}'"
                    : "'" + value.get("value").stringValue() + "' = any(tags)";
            assertThat(value.get("count")
                            .stringValueOpt()
                            .orElse(value.get("count").toString()))
                    .isEqualTo(TestServer.query(
                            "select count(*) from records.jobs where state = 'Open' and " + condition));
        }
        assertThat(values).hasSize(3);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "rows|`{\"statement\":\"staus is 1\"}`|422|statement-unreadable",
                "rows|`{\"limit\":0}`|400|bad-limit",
                "rows|`{\"limit\":1001}`|400|bad-limit",
                "rows|`{\"order\":[\"nothing\"]}`|422|unknown-field",
                "rows|`{\"order\":[\"tags\"]}`|422|not-orderable",
                "rows|`{\"order\":[\"due\",\"-due\"]}`|422|bad-order",
                "rows|`{\"columns\":[\"nothing\"]}`|422|unknown-field",
                "rows|`{\"after\":\"made up\"}`|400|bad-after",
                "rows|`{\"zone\":\"Nowhere/Here\"}`|400|bad-zone",
                "rows|`{\"statement\":\"\",\"condition\":{\"all\":[]}}`|400|two-questions",
                "rows|`{\"condition\":{\"all\":[{\"field\":\"due\",\"test\":\"near\"}]}}`|422|condition-unreadable",
                "rows|`{\"condition\":{\"field\":\"gone\",\"test\":\"is empty\"}}`|422|condition-unfit",
                "rows|`{\"condition\":{\"field\":\"title\",\"test\":\"before\",\"period\":\"today\"}}`|422|condition-unfit",
                "rows|`{\"limit\":\"many\"}`|400|unreadable-body",
                "rows|`{\"sort\":1}`|400|unreadable-body",
                "rows|`{`|400|unreadable-body",
                "rows|``|400|unreadable-body",
                "values|`{}`|400|bad-value",
                "values|`{\"field\":\"nothing\"}`|422|unknown-field",
                "count|`{\"statement\":\"title contains \\\"\\u0000\\\"\"}`|400|bad-text",
            })
    void badInputIsRefusedWithACode(String call, String body, int status, String code) {
        Caller.Answer answer = Caller.signedIn("dora").post("/api/registers/jobs/" + call, body);
        assertThat(answer.status()).as(answer.text()).isEqualTo(status);
        assertThat(answer.json().get("code").stringValue()).isEqualTo(code);
        assertThat(answer.json().get("detail").stringValue()).doesNotContain("Exception", "java.", "deftlens.");
    }

    @Test
    void aPageTokenBelongsToItsOrder() {
        Caller dora = Caller.signedIn("dora");
        String next = page(dora, Map.of("limit", 5, "order", List.of("due"))).next();
        assertThat(dora.post("/api/registers/jobs/rows", Map.of("order", List.of("-due"), "after", next))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("page-mismatch");
    }

    @Test
    void theFileHoldsTheWholeResultAndRunsNoFormula() throws Exception {
        Caller.Answer answer = Caller.signedIn("dora")
                .get(
                        "/api/registers/jobs/export.csv?statement=level%20%3E=%203&order=number&columns=number,title,made_at,cost,owner,tags,due");
        assertThat(answer.status()).isEqualTo(200);
        assertThat(answer.header("Content-Type")).startsWith("text/csv").containsIgnoringCase("charset=utf-8");
        assertThat(answer.header("Content-Disposition")).contains("attachment").contains("Jobs.csv");
        assertThat(answer.text()).contains("\r\n");
        List<CSVRecord> records = CSVFormat.RFC4180
                .builder()
                .setHeader()
                .setSkipHeaderRecord(true)
                .get()
                .parse(new StringReader(answer.text()))
                .getRecords();
        assertThat(records)
                .hasSize(Integer.parseInt(TestServer.query("select count(*) from records.jobs where level >= 3")));
        assertThat(records.get(0).getParser().getHeaderNames())
                .containsExactly("Number", "Title", "Made at (Europe/London)", "Cost", "Owner", "Tags", "Due");
        CSVRecord formula = records.stream()
                .filter(r -> r.get("Title").contains("SUM"))
                .findFirst()
                .orElseThrow();
        assertThat(formula.get("Title")).startsWith("'=SUM(A1)");
        CSVRecord quoted = records.stream()
                .filter(r -> r.get("Number").equals("J-013"))
                .findFirst()
                .orElseThrow();
        assertThat(quoted.get("Title")).isEqualTo("Lamp, \"old\" 13");
        assertThat(quoted.get("Owner")).isEqualTo("Dan Day");
        assertThat(quoted.get("Made at (Europe/London)")).isEqualTo("2026-11-22 11:00:00");
        assertThat(quoted.get("Cost")).as("a negative number is a number").isEqualTo("-33.75");
    }

    /** What the records are grouped by stands in the file, moments by the clock that is wanted; the database says the same. */
    @Test
    void aFileSaysWhatItsRecordsAreGroupedByAndByWhichClock() throws Exception {
        String shape = java.net.URLEncoder.encode(
                "{\"groups\":[{\"field\":\"owner\"},{\"field\":\"made_at\",\"by\":\"month\"},{\"field\":\"due\",\"by\":\"week\"}]}",
                java.nio.charset.StandardCharsets.UTF_8);
        String at = "/api/registers/jobs/export.csv?order=number&columns=number,made_at&zone=America/St_Johns&shape="
                + shape;
        for (boolean offsets : new boolean[] {false, true}) {
            String text = Caller.signedIn("dora")
                    .get(at + (offsets ? "&times=offset&bom=true" : ""))
                    .text();
            assertThat(text.startsWith("\uFEFF")).isEqualTo(offsets);
            List<String> lines = text.substring(offsets ? 1 : 0).lines().toList();
            assertThat(lines.get(0))
                    .isEqualTo(
                            offsets
                                    ? "Owner,\"Made at, month\",\"Due, week\",Number,Made at"
                                    : "Owner,\"Made at, month\",\"Due, week\",Number,Made at (America/St_Johns)");
            String local = "made_at at time zone 'America/St_Johns'";
            String moment = offsets
                    ? "to_char(" + local + ", 'YYYY-MM-DD\"T\"HH24:MI:SS') || case when " + local
                            + " - (made_at at time zone 'UTC') " + "= interval '-2:30' then '-02:30' else '-03:30' end"
                    : "to_char(" + local + ", 'YYYY-MM-DD HH24:MI:SS')";
            String expected = TestServer.query(
                    "select string_agg(concat_ws(',', coalesce((select full_name from person p where p.name = owner), ''), to_char("
                            + local + ", 'YYYY-MM'), coalesce(to_char(due, 'IYYY-\"W\"IW'), ''), number, " + moment
                            + "), E'\\n' order by number) from records.jobs");
            // An empty first cell is quoted, so that no line is empty.
            assertThat(String.join("\n", lines.subList(1, lines.size())).replaceAll("(?m)^\"\",", ","))
                    .isEqualTo(expected);
        }
        assertThat(Caller.signedIn("dora").get(at + "&times=none").status()).isEqualTo(400);
        String banded = java.net.URLEncoder.encode(
                "{\"groups\":[{\"field\":\"length\",\"by\":\"band\"}]}", java.nio.charset.StandardCharsets.UTF_8);
        assertThat(Caller.signedIn("dora")
                        .get("/api/registers/stays/export.csv?order=number&columns=number&shape=" + banded)
                        .text()
                        .lines()
                        .skip(1)
                        .collect(java.util.stream.Collectors.joining("\n")))
                .isEqualTo(
                        TestServer.query(
                                "select string_agg(case when length < 15 then 'Small craft' when length < 1000 then 'Ship' else '\"\"' end || ',' || number, E'\\n' order by number) from records.stays"));
    }

    @Test
    void anEmptyFileStillHasItsHeadAndARefusalIsAProblem() {
        Caller dora = Caller.signedIn("dora");
        assertThat(dora.get("/api/registers/jobs/export.csv?statement=level%20=%2099&columns=number")
                        .text())
                .isEqualTo("Number\r\n");
        assertThat(dora.get("/api/registers/jobs/export.csv?statement=nonsense")
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("statement-unreadable");
    }

    @Test
    void aMemberThatIsNotThereIsRefusedWithThoseThatAre() {
        Caller.Answer answer =
                Caller.signedIn("dora").post("/api/registers/jobs/rows", Map.of("statment", "level >= 3", "limit", 1));
        assertThat(answer.status()).isEqualTo(400);
        assertThat(answer.json().get("detail").stringValue())
                .contains("“statment”")
                .contains("statement", "condition", "asOf", "zone", "answers")
                .contains("order", "columns", "shape")
                .contains("limit", "after", "inside", "compared")
                .doesNotContain("question", "presentation");
    }

    @Test
    void aReaderWhoMovesOnStopsTheirQuestionInTheDatabase() throws Exception {
        Caller dora = Caller.signedIn("dora");
        Caller dan = Caller.signedIn("dan");
        try (Connection lock = TestServer.connect();
                Statement statement = lock.createStatement()) {
            lock.setAutoCommit(false);
            statement.execute("lock table records.jobs in access exclusive mode");
            CompletableFuture<Caller.Answer> waiting = CompletableFuture.supplyAsync(
                    () -> Caller.signedIn("dora").naming("q-1").post("/api/registers/jobs/rows", Map.of()));
            await("the question waits in the database", () -> waiters() == 1);
            assertThat(dan.delete("/api/questions/q-1").status()).isEqualTo(204);
            assertThat(waiters()).as("Dan cannot stop what Dora asked").isEqualTo(1);
            assertThat(dora.delete("/api/questions/q-1").status()).isEqualTo(204);
            Caller.Answer answer = waiting.get(10, TimeUnit.SECONDS);
            assertThat(answer.status()).isEqualTo(503);
            assertThat(answer.json().get("code").stringValue()).isEqualTo("stopped");
            assertThat(waiters()).isZero();
        }
    }

    private static int waiters() {
        try {
            return Integer.parseInt(
                    TestServer.query(
                            "select count(*) from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'"));
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    private static void await(String what, java.util.function.BooleanSupplier condition) {
        long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(10);
        while (!condition.getAsBoolean()) {
            assertThat(System.nanoTime()).as(what).isLessThan(end);
            Thread.onSpinWait();
        }
    }

    private record Page(List<JsonNode> rows, String next) {}

    private static Page page(Caller caller, Map<String, Object> asked) {
        Caller.Answer answer = caller.post("/api/registers/jobs/rows", asked);
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        List<JsonNode> rows = new ArrayList<>();
        answer.json().get("rows").forEach(rows::add);
        JsonNode next = answer.json().get("next");
        return new Page(rows, next.isNull() ? null : next.stringValue());
    }

    private static long matching(Caller caller, Map<String, Object> asked) {
        return caller.post("/api/registers/jobs/count", asked)
                .json()
                .get("matching")
                .longValue();
    }
}
