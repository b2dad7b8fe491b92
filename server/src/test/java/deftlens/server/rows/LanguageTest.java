package deftlens.server.rows;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.time.LocalDate;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

@ExtendWith(TestServer.class)
class LanguageTest {

    private static final String STAYS = "/api/registers/stays/";

    /** Spans, bands, times, calendars and fields beside fields, with the SQL that somebody else would write for them. */
    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "stay overlaps 2026-11-10|arrives < '2026-11-11 00:00 Europe/London' and (leaves is null or leaves > '2026-11-10 00:00 Europe/London' or leaves = arrives and arrives >= '2026-11-10 00:00 Europe/London')",
                "stay within last week|arrives >= '2026-11-16 00:00 Europe/London' and leaves <= '2026-11-23 00:00 Europe/London'",
                "stay covers 2026-11-10|arrives <= '2026-11-10 00:00 Europe/London' and (leaves is null or leaves >= '2026-11-11 00:00 Europe/London')",
                "stay starts in this month|arrives >= '2026-11-01 00:00 Europe/London' and arrives < '2026-12-01 00:00 Europe/London'",
                "stay ends in yesterday|leaves >= '2026-11-22 00:00 Europe/London' and leaves < '2026-11-23 00:00 Europe/London'",
                "not stay ends in yesterday|(leaves >= '2026-11-22 00:00 Europe/London' and leaves < '2026-11-23 00:00 Europe/London') is not true",
                "booked overlaps 2026-11-10 to 2026-11-12|from_day <= '2026-11-12' and (until_day is null or until_day >= '2026-11-10')",
                "booked within 2026-11-10 to 2026-11-12|from_day >= '2026-11-10' and until_day <= '2026-11-12'",
                "booked covers 2026-11-10 to 2026-11-12|from_day <= '2026-11-10' and (until_day is null or until_day >= '2026-11-12')",
                "booked ends in 2026-11-10|until_day = '2026-11-10'",
                "gate between 22:00 and 06:00|gate >= '22:00' or gate < '06:00'",
                "gate after 09:15 and gate up to 12:20|gate > '09:15' and gate <= '12:20'",
                "gate is empty|gate is null",
                "arrives weekday in (Mon, Fri)|extract(isodow from arrives at time zone 'Europe/London') in (1, 5)",
                "arrives day of month in (1, 15)|extract(day from arrives at time zone 'Europe/London') in (1, 15)",
                "arrives month in (December)|extract(month from arrives at time zone 'Europe/London') = 12",
                "arrives time between 22:00 and 06:00|(arrives at time zone 'Europe/London')::time >= '22:00' or (arrives at time zone 'Europe/London')::time < '06:00'",
                "from_day on a day off|extract(isodow from from_day) > 5",
                "arrives in working hours|extract(isodow from arrives at time zone 'Europe/London') < 6 and (arrives at time zone 'Europe/London')::time >= '09:00' and (arrives at time zone 'Europe/London')::time < '17:00'",
                "length is in band \"Small craft\"|length >= 0 and length < 15",
                "length is not in bands (\"Tender\", \"Ship\")|not (length >= 0 and length < 5 or length >= 15 and length < 1000)",
                "length > allowed|length > allowed",
                "not length > allowed + 3|(length > allowed + 3) is not true",
                "leaves after from_day + 1 day|(leaves at time zone 'Europe/London')::date > from_day + 1",
                "leaves after arrives + 12 hours|leaves > arrives + interval '12 hours'",
                "until_day on from_day|until_day = from_day",
                "number matches /^S-1\\d$/|number ~ '^S-1[0-9]$'",
                "number matches /^s-/ exactly|false",
                "from_day in last {days = 10} days|from_day > '2026-11-13' and from_day <= '2026-11-23'",
            })
    void countsAgreeWithHandWrittenSql(String statement, String where) throws SQLException {
        JsonNode count = Caller.signedIn("dora")
                .post(STAYS + "count", Map.of("statement", statement))
                .json();
        assertThat(count.has("matching")).as(count.toString()).isTrue();
        assertThat(count.get("matching").longValue())
                .isEqualTo(Long.parseLong(TestServer.query("select count(*) from records.stays where " + where)));
    }

    @Test
    void blanksAreFilledInByTheirReader() {
        Caller dora = Caller.signedIn("dora");
        String statement = "length >= {at least} and from_day in last {days = 10} days";
        Caller.Answer open = dora.post(STAYS + "count", Map.of("statement", statement));
        assertThat(open.status()).isEqualTo(422);
        assertThat(open.json().get("code").stringValue()).isEqualTo("ask-open");
        assertThat(open.json().get("ask").stringValue()).isEqualTo("at least");
        long few = matching(dora, Map.of("statement", statement, "answers", Map.of("at least", "15")));
        long plain = matching(dora, Map.of("statement", "length >= 15 and from_day in last 10 days"));
        assertThat(few).isEqualTo(plain).isPositive();
        assertThat(matching(dora, Map.of("statement", statement, "answers", Map.of("at least", "15", "days", "3"))))
                .isLessThan(few);
        Caller.Answer wrong =
                dora.post(STAYS + "count", Map.of("statement", statement, "answers", Map.of("at least", "many")));
        assertThat(wrong.status()).isEqualTo(422);
        assertThat(wrong.json().get("code").stringValue()).isEqualTo("bad-answer");
        JsonNode read = dora.post(STAYS + "statement", Map.of("statement", statement, "answers", Map.of("days", "3")))
                .json();
        assertThat(read.at("/asks/0/label").stringValue()).isEqualTo("at least");
        assertThat(read.at("/asks/1/kind").stringValue()).isEqualTo("COUNT");
        assertThat(read.at("/asks/1/preset").stringValue()).isEqualTo("10");
        assertThat(read.at("/asks/1/answered").booleanValue()).isTrue();
        assertThat(read.get("answered").stringValue()).endsWith("from_day in last 3 days");
    }

    @Test
    void aViewWithABlankServesEveryReader() {
        Caller dora = Caller.signedIn("dora");
        JsonNode view = dora.post(
                        "/api/views",
                        Map.of(
                                "register", "stays",
                                "name", "Long ones",
                                "statement", "length >= {at least} and stay overlaps {when = this month}",
                                "zone", "reader"))
                .json();
        String path = "/api/views/" + view.get("id").stringValue() + "/count";
        assertThat(view.get("zone").stringValue()).isEqualTo("reader");
        assertThat(dora.get(path).status()).isEqualTo(422);
        long all = dora.get(path + "?ask.at%20least=15").json().get("matching").longValue();
        long day = dora.get(path + "?ask.at%20least=15&ask.when=2026-11-10&readerZone=Pacific/Auckland")
                .json()
                .get("matching")
                .longValue();
        assertThat(all).isGreaterThan(day);
        assertThat(day)
                .isEqualTo(matching(
                        dora,
                        Map.of("statement", "length >= 15 and stay overlaps 2026-11-10", "zone", "Pacific/Auckland")));
    }

    @Test
    void edgesStandOnEitherSideOfEachBoundary() {
        JsonNode edges = Caller.signedIn("dora")
                .post(
                        STAYS + "edges",
                        Map.of("statement", "arrives in 2026-11-10 and length >= 4 and until_day before today"))
                .json();
        assertThat(edges).hasSize(3);
        JsonNode start = edges.get(0).at("/boundaries/0");
        assertThat(start.get("words").stringValue()).isEqualTo("Tue 10 Nov 2026, 00:00");
        assertThat(start.get("begins").booleanValue()).isTrue();
        for (JsonNode row : start.at("/inside/rows")) {
            assertThat(row.get("value").stringValue()).isGreaterThanOrEqualTo("2026-11-10T00:00:00Z");
            assertThat(row.get("matches").booleanValue()).isTrue();
        }
        JsonNode outside = start.at("/outside/rows");
        assertThat(outside).hasSize(3);
        assertThat(outside.get(0).get("value").stringValue()).isLessThan("2026-11-10T00:00:00Z");
        assertThat(outside.get(0).get("value").stringValue())
                .isGreaterThan(outside.get(1).get("value").stringValue());
        assertThat(outside.get(0).get("matches").booleanValue()).isFalse();
        JsonNode number = edges.get(1).at("/boundaries/0");
        assertThat(number.at("/inside/values/0/value").intValue()).isGreaterThanOrEqualTo(4);
        assertThat(number.at("/outside/values/0/value").intValue()).isLessThan(4);
        assertThat(edges.get(2).at("/empties/rows/0/value").isNull()).isTrue();
    }

    @Test
    void theNumberWithoutAValueIsTheQuestions() throws SQLException {
        JsonNode asked = Caller.signedIn("dora")
                .post(STAYS + "distribution", Map.of("field", "allowed", "statement", "length >= 10"))
                .json();
        assertThat(asked.get("empty").longValue())
                .isEqualTo(Long.parseLong(
                        TestServer.query("select count(*) from records.stays where length >= 10 and allowed is null")))
                .isPositive();
    }

    @Test
    void recordsOverTimeAddUp() throws SQLException {
        Caller dora = Caller.signedIn("dora");
        JsonNode days = dora.post(STAYS + "histogram", Map.of("statement", "arrives in last week and length >= 4"))
                .json();
        assertThat(days.get("step").stringValue()).isEqualTo("day");
        long records = 0;
        long matching = 0;
        String before = "";
        for (JsonNode bucket : days.get("buckets")) {
            records += bucket.get("records").longValue();
            matching += bucket.get("matching").longValue();
            assertThat(bucket.get("start").stringValue()).isGreaterThan(before);
            before = bucket.get("start").stringValue();
        }
        assertThat(records)
                .as("criteria on the field itself do not thin the records out")
                .isEqualTo(Long.parseLong(TestServer.query("select count(*) from records.stays where length >= 4")));
        assertThat(matching).isEqualTo(matching(dora, Map.of("statement", "arrives in last week and length >= 4")));
        JsonNode weeks = dora.post(
                        STAYS + "histogram",
                        Map.of("field", "booked", "step", "week", "from", "2026-11-05", "to", "2026-11-20"))
                .json();
        assertThat(weeks.get("buckets")).hasSize(3);
        assertThat(weeks.at("/buckets/0/start").stringValue()).startsWith("2026-11-02");
        assertThat(dora.post(STAYS + "histogram", Map.of("field", "length")).status())
                .isEqualTo(422);
        assertThat(dora.post(STAYS + "histogram", Map.of("step", "fortnight")).status())
                .isEqualTo(422);
        assertThat(dora.post(STAYS + "histogram", Map.of("statement", "length > 999"))
                        .json()
                        .get("buckets"))
                .isEmpty();
    }

    @ParameterizedTest
    @CsvSource({"stay,day,2026-11-16,2026-11-29", "stay,hour,2026-11-22,2026-11-23", "booked,week,2026-09-28,2026-12-06"
    })
    void aSpanIsDrawnByWhatRunsInEachStretch(String span, String step, String from, String to) {
        Caller dora = Caller.signedIn("dora");
        JsonNode drawn = dora.post(
                        STAYS + "histogram",
                        Map.of(
                                "field",
                                span,
                                "step",
                                step,
                                "from",
                                from,
                                "to",
                                to,
                                "statement",
                                "length >= 4 and (" + span + " overlaps 2026-11-20 or length > 20)"))
                .json();
        int busy = 0;
        for (JsonNode bucket : drawn.get("buckets")) {
            String stretch = step.equals("hour")
                    ? bucket.get("start").stringValue() + " to "
                            + bucket.get("end").stringValue()
                    : bucket.get("start").stringValue().substring(0, 10) + " to "
                            + LocalDate.parse(bucket.get("end").stringValue().substring(0, 10))
                                    .minusDays(1);
            String overlapping = "length >= 4 and " + span + " overlaps " + stretch;
            assertThat(bucket.get("records").longValue()).as(stretch).isEqualTo(count(dora, overlapping));
            assertThat(bucket.get("matching").longValue())
                    .as(stretch)
                    .isEqualTo(count(dora, overlapping + " and (" + span + " overlaps 2026-11-20 or length > 20)"));
            busy += bucket.get("records").longValue() > 0 ? 1 : 0;
        }
        assertThat(busy).isGreaterThan(3);
    }

    private static long count(Caller dora, String statement) {
        JsonNode counted =
                dora.post(STAYS + "count", Map.of("statement", statement)).json();
        assertThat(counted.has("matching")).as(statement + ": " + counted).isTrue();
        return counted.get("matching").longValue();
    }

    @Test
    void windowsHaveNeighboursAndSayWhereTheyReach() {
        JsonNode next = Caller.signedIn("dora")
                .post("/api/windows/neighbours", Map.of("phrase", "last month"))
                .json();
        assertThat(next.get("before").stringValue()).isEqualTo("2026-09");
        assertThat(next.get("after").stringValue()).isEqualTo("2026-11");
        JsonNode window = Caller.signedIn("dora")
                .post(STAYS + "statement", Map.of("statement", "arrives before today"))
                .json()
                .get("windows")
                .get(0);
        assertThat(window.get("from").isNull()).isTrue();
        assertThat(window.get("to").stringValue()).isEqualTo("2026-11-23T00:00:00Z");
    }

    @Test
    void aPastedListKeepsItsOrderAndNamesWhatIsMissing() {
        Caller dora = Caller.signedIn("dora");
        JsonNode pasted = dora.post(
                        STAYS + "pasted", Map.of("field", "number", "text", "S-7\ts-3; S-1000,\n S-5 \r\n\"S-3\"\n"))
                .json();
        assertThat(strings(pasted.get("values"))).containsExactly("S-7", "s-3", "S-1000", "S-5");
        assertThat(pasted.get("repeated").intValue()).isEqualTo(1);
        assertThat(strings(pasted.get("missing"))).containsExactly("S-1000");
        assertThat(pasted.get("statement").stringValue()).isEqualTo("number is in (\"S-7\", \"s-3\", \"S-5\")");
        Map<String, Object> asked = new HashMap<>(Map.of(
                "statement", pasted.get("statement").stringValue(),
                "order", List.of("as-listed:number"),
                "columns", List.of("number"),
                "limit", 2));
        JsonNode first = dora.post(STAYS + "rows", asked).json();
        assertThat(first.get("rows").values().stream()
                        .map(r -> r.at("/values/number").stringValue()))
                .containsExactly("S-7", "S-3");
        asked.put("after", first.get("next").stringValue());
        JsonNode second = dora.post(STAYS + "rows", asked).json();
        assertThat(second.get("rows").values().stream()
                        .map(r -> r.at("/values/number").stringValue()))
                .containsExactly("S-5");
        JsonNode numbers = dora.post(STAYS + "pasted", Map.of("field", "length", "text", "3, 4, 99"))
                .json();
        assertThat(strings(numbers.get("missing"))).containsExactly("99");
        assertThat(dora.post(STAYS + "pasted", Map.of("field", "length", "text", "3, four"))
                        .status())
                .isEqualTo(422);
        assertThat(dora.post(STAYS + "pasted", Map.of("field", "number", "text", " ,; "))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("nothing-pasted");
    }

    @Test
    void aListOfTenThousandIsReadAndAnswered() {
        StringBuilder list = new StringBuilder("number is in (\"S-0\"");
        for (int i = 1; i < 10_000; i++) {
            list.append(", \"S-").append(i).append('"');
        }
        assertThat(matching(Caller.signedIn("dora"), Map.of("statement", list + ")")))
                .isEqualTo(200);
    }

    @Test
    void whatWouldMisleadIsSaidWithItsNumberAndItsMend() throws SQLException {
        Caller dora = Caller.signedIn("dora");
        JsonNode read = dora.post(
                        STAYS + "statement", Map.of("statement", "allowed > 3 and number is in (\"S-1\", \"S-999\")"))
                .json();
        List<String> codes = read.get("findings").values().stream()
                .map(f -> f.get("level").stringValue() + " " + f.get("code").stringValue() + " "
                        + f.get("path").stringValue())
                .toList();
        assertThat(codes).containsExactly("warning value-nobody-has /all/1");
        JsonNode empties = dora.post(STAYS + "statement", Map.of("statement", "allowed > 7"))
                .json()
                .get("findings");
        assertThat(empties.get(0).get("code").stringValue()).isEqualTo("empty-left-out");
        assertThat(empties.get(0).get("count").longValue())
                .isEqualTo(
                        Long.parseLong(TestServer.query("select count(*) from records.stays where allowed is null")));
        assertThat(empties.get(0).at("/mend/statement").stringValue()).isEqualTo("allowed > 7 or allowed is empty");
        assertThat(empties.get(1).get("code").stringValue()).isEqualTo("at-boundary");
        JsonNode never = dora.post(
                        STAYS + "statement",
                        Map.of("statement", "arrives before 2026-11-01 and arrives after 2026-11-02"))
                .json();
        assertThat(never.at("/findings/0/level").stringValue()).isEqualTo("error");
        assertThat(never.get("checked").booleanValue()).isTrue();
        JsonNode named = dora.post(
                        STAYS + "statement",
                        Map.of("statement", "arrives in 2026-10", "name", "Arrivals last month", "records", false))
                .json();
        assertThat(named.at("/findings/0/code").stringValue()).isEqualTo("fixed-not-rolling");
        assertThat(named.at("/findings/0/mend/statement").stringValue()).isEqualTo("arrives in last month");
        JsonNode gone = dora.post(
                        STAYS + "statement",
                        "{\"condition\":{\"all\":[{\"field\":\"mast\",\"test\":\"is empty\"},{\"field\":\"length\",\"test\":\"is in band\",\"bands\":[\"Raft\"]}]}}")
                .json();
        assertThat(gone.get("findings").values().stream().map(f -> f.get("code").stringValue()))
                .containsExactly("field-gone", "choice-gone");
    }

    @Test
    void windowsAreFixedAndLoosened() {
        Caller dora = Caller.signedIn("dora");
        JsonNode fixed = dora.post("/api/windows/fix", Map.of("phrase", "last 3 full months"))
                .json();
        assertThat(fixed.get("fixed").stringValue()).isEqualTo("2026-08-01 to 2026-10-31");
        JsonNode rolling =
                dora.post("/api/windows/fix", Map.of("phrase", "2026-Q4")).json();
        assertThat(strings(rolling.get("rolling"))).contains("this quarter");
        assertThat(rolling.get("fixed").stringValue()).isEqualTo("2026-Q4");
    }

    @Test
    void theEndsOfTheCalendarBreakNothing() {
        Caller dora = Caller.signedIn("dora");
        for (String now : List.of(
                "9999-12-31T23:00:00Z", "0001-01-01T00:00:00Z", "+50000-01-01T00:00:00Z", "-50000-01-01T00:00:00Z")) {
            for (String phrase : List.of(
                    "100000 hours from now",
                    "last 100000 minutes",
                    "next 100000 years",
                    "last 100000 working days",
                    "next fiscal quarter",
                    "Friday of last week",
                    "last 3 full halves")) {
                for (String call : List.of("resolve", "fix")) {
                    assertThat(dora.post("/api/windows/" + call, Map.of("phrase", phrase, "now", now))
                                    .status())
                            .as("%s at %s", phrase, now)
                            .isIn(200, 400, 422);
                }
            }
        }
        for (String statement : List.of(
                "arrives in 0001-01-01 to 9999-12-31",
                "arrives in 2026-01-01T00:00 to 9999-12-31T00:00",
                "booked overlaps 0001-01-01 and stay within 9999",
                "leaves after arrives + 1000 years and from_day before until_day - 1000 years",
                "leaves after arrives - 100000 hours")) {
            assertThat(dora.post(STAYS + "statement", Map.of("statement", statement))
                            .status())
                    .as(statement)
                    .isEqualTo(200);
            assertThat(dora.post(STAYS + "edges", Map.of("statement", statement))
                            .status())
                    .as(statement)
                    .isEqualTo(200);
            assertThat(dora.post(STAYS + "histogram", Map.of("statement", statement))
                            .status())
                    .as(statement)
                    .isEqualTo(200);
        }
    }

    private static List<String> strings(JsonNode array) {
        return array.values().stream().map(JsonNode::stringValue).toList();
    }

    private static long matching(Caller caller, Map<String, Object> asked) {
        JsonNode answer = caller.post(STAYS + "count", asked).json();
        assertThat(answer.has("matching")).as(answer.toString()).isTrue();
        return answer.get("matching").longValue();
    }

    /** What the editors offer is told by the register, each test once for its type. */
    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "jobs|site|[\"site\"]|[\"VALUE\"]|",
                "jobs|state|[]|[\"VALUE\"]|",
                "jobs|owner|[\"me\"]|[\"VALUE\"]|",
                "jobs|number|[\"site\",\"team\"]|[\"VALUE\"]|title",
                "jobs|due|[]|[\"MONTH\",\"DAY\",\"WEEK\",\"QUARTER\",\"YEAR\",\"FISCAL_QUARTER\",\"FISCAL_YEAR\",\"WEEKDAY\",\"MONTH_OF_YEAR\"]|made_at",
                "jobs|tags|[]|[]|",
                "stays|length|[]|[\"VALUE\",\"BAND\"]|allowed",
                "stays|stay|[]|[]|",
            })
    void aRegisterSaysWhatItsFieldsCanBeAsked(
            String register, String key, String viewerValues, String groupings, String other) {
        JsonNode described =
                Caller.signedIn("dora").get("/api/registers/" + register).json();
        JsonNode field = described
                .get("fields")
                .valueStream()
                .filter(f -> f.get("key").stringValue().equals(key))
                .findFirst()
                .orElseThrow();
        assertThat(field.get("viewerValues").toString()).isEqualTo(viewerValues);
        assertThat(field.get("groupings").toString().toUpperCase().replace(' ', '_'))
                .isEqualTo(groupings);
        assertThat(field.get("others").toString().contains("\"" + other + "\"")).isEqualTo(other != null);
        JsonNode ofType = described.get("tests").get(field.get("type").stringValue());
        List<String> words =
                ofType.valueStream().map(t -> t.get("words").stringValue()).toList();
        assertThat(field.get("tests").valueStream().map(JsonNode::stringValue))
                .isNotEmpty()
                .isSubsetOf(words);
        assertThat(field.get("tests").toString().contains("is in band")).isEqualTo(key.equals("length"));
    }
}
