package deftlens.server.statements;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.server.question.ConditionJson;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

@ExtendWith(TestServer.class)
class StatementsTest {

    @Test
    void aStatementIsReadToItsTreeWordsAndWindows() {
        JsonNode read = Caller.signedIn("dora")
                .post(
                        "/api/registers/jobs/statement",
                        Map.of("statement", "DUE before Today and (level >= 3 or tags has any of (\"safety\"))"))
                .json();
        assertThat(read.get("statement").stringValue())
                .isEqualTo("due before today and (level >= 3 or tags has any of (\"Safety\"))");
        assertThat(read.at("/condition/all/0/test").stringValue()).isEqualTo("before");
        assertThat(read.at("/condition/all/1/any/0/value").intValue()).isEqualTo(3);
        JsonNode window = read.at("/windows/0");
        assertThat(window.get("path").stringValue()).isEqualTo("/all/0");
        assertThat(window.get("words").stringValue()).isEqualTo("before Mon 23 Nov 2026");
        assertThat(window.get("rolling").booleanValue()).isTrue();
        assertThat(window.get("firstDay").stringValue()).isEqualTo("2026-11-23");
        assertThat(read.at("/outline/parts/1/parts/0/object").stringValue()).isEqualTo("at least 3");
    }

    @Test
    void aSpaceTooManyIsNoticedWithItsMend() {
        JsonNode findings = Caller.signedIn("dora")
                .post(
                        "/api/registers/jobs/statement",
                        Map.of("statement", "level >= 1 and title is in (\"Pump  0\", \"Pump 4 \", \"Pump 8\")"))
                .json()
                .get("findings");
        JsonNode found = findings.values().stream()
                .filter(f -> f.get("code").stringValue().equals("extra-space"))
                .findFirst()
                .orElseThrow();
        assertThat(found.get("message").stringValue()).isEqualTo("2 records have title without the extra space.");
        assertThat(found.at("/mend/statement").stringValue())
                .isEqualTo("level >= 1 and title is in (\"Pump 0\", \"Pump 4\", \"Pump 8\")");
        assertThat(Caller.signedIn("dora")
                        .post("/api/registers/jobs/statement", Map.of("statement", "title is \"Nothing  like it\""))
                        .text())
                .doesNotContain("extra-space");
    }

    @Test
    void anUnreadableStatementSaysWhere() {
        Caller.Answer answer = Caller.signedIn("dora")
                .post("/api/registers/jobs/statement", Map.of("statement", "level > 1\n  and staet is \"Open\""));
        assertThat(answer.status()).isEqualTo(422);
        JsonNode problem = answer.json();
        assertThat(problem.get("line").intValue()).isEqualTo(2);
        assertThat(problem.get("column").intValue()).isEqualTo(7);
        assertThat(problem.get("suggestions").get(0).stringValue()).isEqualTo("state");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "title is \"A \\\"b\\\"\" exactly and title is in (\"x\", \"y\")",
                "title is like \"a*\" and title does not contain \"é\" and title starts with \"x\" and title ends with \"y\" exactly",
                "level = 1 or level != 2 or level > 3 or level >= 4 or level < 5 or level <= 6.25 or level between 1 and 2 or level is not in (1, 2)",
                "state is \"Open\" and state is not \"Done\" and owner is me and owner is not in (\"dora\", me) and site is my site",
                "tags has any of (\"Safety\") and tags has all of (\"Safety\", \"Winter\") and tags has none of (\"x\") and tags is not empty",
                "due on today and due not in last 7 days and due before 2026-Q3 and due after 2026-11 and due from FY2026 and due up to end of this month",
                "due between 2026-11-01 and today and made_at more than 3 hours ago and made_at at least 2 weeks from now and due less than 4 working days ago",
                "not (level = 1 or off(level = 2)) and off(title is empty and not level = 3)",
            })
    void wordsAndTreeCarryTheSame(String statement) {
        Caller dora = Caller.signedIn("dora");
        JsonNode read = dora.post("/api/registers/jobs/statement", Map.of("statement", statement))
                .json();
        assertThat(read.get("statement").stringValue()).isEqualTo(statement);
        JsonNode again = dora.post("/api/registers/jobs/statement", Map.of("condition", read.get("condition")))
                .json();
        assertThat(again.get("statement").stringValue()).isEqualTo(statement);
        assertThat(again.get("condition")).isEqualTo(read.get("condition"));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "stay overlaps last week and stay within 2026 and booked covers today and stay starts in 2026-11-23T14:30 to 2026-11-24T14:30 and booked ends in this month",
                "gate between 22:00 and 06:00 or gate before 07:30 or gate after 09:00 or gate from 12:15:30 or gate up to 23:59",
                "arrives weekday in (Mon, Fri) and arrives month not in (March) and arrives day of month in (1, 15) and arrives time between 22:00 and 06:00",
                "arrives in working hours or arrives outside working hours or from_day on a working day or from_day on a day off",
                "length is in band \"Yacht\" or length is not in bands (\"Small craft\", \"Ship\")",
                "length > allowed and length != allowed and length <= allowed + 2.5 and number matches /^S-\\d+$/ exactly",
                "leaves after from_day + 2 days and arrives on from_day and leaves before arrives + 12 hours and from_day up to until_day - 1 month",
                "arrives more than {days = 3} days ago and from_day in {when = last month} and length >= {at least = 5} and number is {which} and arrives in last {n} days",
            })
    void everyOtherTestIsCarriedToo(String statement) {
        Caller dora = Caller.signedIn("dora");
        JsonNode read = dora.post("/api/registers/stays/statement", Map.of("statement", statement))
                .json();
        assertThat(read.has("statement")).as(read.toString()).isTrue();
        assertThat(read.get("statement").stringValue()).isEqualTo(statement);
        JsonNode again = dora.post("/api/registers/stays/statement", Map.of("condition", read.get("condition")))
                .json();
        assertThat(again.has("statement")).as(again.toString()).isTrue();
        assertThat(again.get("statement").stringValue()).isEqualTo(statement);
        assertThat(again.get("condition")).isEqualTo(read.get("condition"));
    }

    @Test
    void aTreeOfTheFirstVersionIsStillRead() {
        ObjectMapper json = new ObjectMapper();
        String tree =
                "{\"all\":[{\"field\":\"due\",\"test\":\"more than\",\"count\":3,\"unit\":\"day\",\"side\":\"ago\"}]}";
        assertThat(ConditionJson.fromDocument(json.readTree("{\"version\":1,\"condition\":" + tree + "}")))
                .isEqualTo(ConditionJson.fromDocument(json.readTree("{\"version\":2,\"condition\":" + tree + "}")))
                .isEqualTo(ConditionJson.fromDocument(json.readTree("{\"version\":3,\"condition\":" + tree + "}")));
        assertThatThrownBy(
                        () -> ConditionJson.fromDocument(json.readTree("{\"version\":4,\"condition\":" + tree + "}")))
                .hasMessageContaining("/version");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "{\"all\":[{\"field\":\"due\"}]} /all/0/test",
                "{\"all\":[{\"field\":\"level\",\"test\":\">\",\"value\":3,\"note\":1}]} /all/0/note",
                "{\"any\":[{\"off\":{\"field\":\"level\",\"test\":\">\",\"value\":[3]}}]} /any/0/off/value",
                "{\"all\":{}} /all",
                "{\"all\":[],\"any\":[]} /any",
                "{\"field\":\"due\",\"test\":\"in\",\"period\":\"last 7 day\"} ok",
                "{\"field\":\"due\",\"test\":\"in\",\"period\":\"lately\"} /period",
                "{\"field\":\"title\",\"test\":\"contains\",\"text\":\"\"} refused",
                "{\"field\":\"state\",\"test\":\"is in\",\"values\":[]} refused",
                "{\"field\":\"due\",\"test\":\"more than\",\"count\":-1,\"unit\":\"day\",\"side\":\"ago\"} refused",
                "{\"field\":\"due\",\"test\":\"weekday in\",\"values\":[\"Mittwoch\"]} /values",
                "{\"field\":\"due\",\"test\":\"day of month in\",\"values\":[32]} refused",
                "{\"field\":\"made_at\",\"test\":\"time between\",\"from\":\"25:00\",\"to\":\"06:00\"} /from",
                "{\"field\":\"title\",\"test\":\"matches\",\"pattern\":\"(a\"} refused",
                "{\"field\":\"due\",\"test\":\"after\",\"other\":\"made_at\",\"plus\":{\"count\":2,\"unit\":\"half\"}} refused",
                "{\"field\":\"due\",\"test\":\"contains\",\"other\":\"made_at\"} /test",
                "{\"field\":\"level\",\"test\":\">\",\"value\":{\"ask\":\"\"}} refused",
                "[] refused",
            })
    void unknownPartsOfATreeAreRefusedWithTheirPath(String given) {
        int space = given.lastIndexOf(' ');
        String expected = given.substring(space + 1);
        Caller.Answer answer = Caller.signedIn("dora")
                .post("/api/registers/jobs/statement", "{\"condition\":" + given.substring(0, space) + "}");
        if (expected.equals("ok")) {
            assertThat(answer.status()).isEqualTo(200);
            return;
        }
        assertThat(answer.status()).as(answer.text()).isEqualTo(422);
        assertThat(answer.json().get("code").stringValue()).isEqualTo("condition-unreadable");
        if (expected.startsWith("/")) {
            assertThat(answer.json().get("path").stringValue()).isEqualTo(expected);
        }
    }

    @Test
    void windowsAreResolvedInAnyCalendar() {
        Caller dora = Caller.signedIn("dora");
        JsonNode window = dora.post(
                        "/api/windows/resolve",
                        Map.of(
                                "phrase", "this fiscal year",
                                "now", "2026-12-31T23:59:59Z",
                                "zone", "Pacific/Auckland",
                                "weekStarts", "MONDAY",
                                "fiscalYearStartsMonth", 4))
                .json();
        assertThat(window.get("kind").stringValue()).isEqualTo("days");
        assertThat(window.get("firstDay").stringValue()).isEqualTo("2026-04-01");
        assertThat(window.get("dayAfterLast").stringValue()).isEqualTo("2027-04-01");
        assertThat(window.get("start").stringValue()).isEqualTo("2026-03-31T11:00:00Z");
        assertThat(window.get("end").stringValue()).isEqualTo("2027-03-31T11:00:00Z");
        JsonNode hours = dora.post("/api/windows/resolve", Map.of("phrase", "last 4 hours"))
                .json();
        assertThat(hours.get("kind").stringValue()).isEqualTo("instants");
        assertThat(hours.get("firstDay").isNull()).isTrue();
        assertThat(dora.post("/api/windows/resolve", Map.of("phrase", "last few days"))
                        .status())
                .isEqualTo(422);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "| number,title,not",
                "du| due",
                "due bef| before",
                "due before | today,last 7 days",
                "due in last 3 | days,months",
                "due before today | and,or",
                "state is | \"Open\",\"Done\"",
                "state is in (\"Open\", | \"Done\"",
                "owner is | me,\"dora\"",
                "site is m| my site",
                "(level >= 3 | and,or,)",
                "due between today | and",
                "not | title",
                "level >= 3 and tit| title",
            })
    void completionProposesWhatFits(String given) {
        String text = given.substring(0, given.lastIndexOf('|'));
        JsonNode answer = Caller.signedIn("dora")
                .post("/api/registers/jobs/complete", Map.of("text", text, "position", text.length()))
                .json();
        for (String wanted : given.substring(given.lastIndexOf('|') + 2).split(",")) {
            assertThat(answer.get("proposals").values().stream()
                            .map(p -> p.get("insert").stringValue()))
                    .as("after “%s”", text)
                    .anyMatch(insert -> insert.equals(wanted)
                            || insert.endsWith(" " + wanted)
                            || insert.contains(" " + wanted + " "));
        }
    }

    @Test
    void aFewWordsAreProposedAsCriteria() {
        JsonNode proposals = Caller.signedIn("dora")
                .post("/api/registers/jobs/proposals", Map.of("text", "south level over 2 last month"))
                .json();
        assertThat(proposals.values().stream().map(p -> p.get("typed").stringValue()))
                .containsExactly("south", "level over 2", "last month");
        assertThat(proposals.at("/0/meanings/0/words").stringValue()).isEqualTo("site is South");
        assertThat(proposals.at("/1/meanings/0/statement").stringValue()).isEqualTo("level > 2");
        assertThat(proposals.at("/1/meanings/0/condition/test").stringValue()).isEqualTo(">");
        assertThat(proposals.at("/2/meanings/0/statement").stringValue()).endsWith("in last month");
        assertThat(Caller.signedIn("dora")
                        .post("/api/registers/jobs/proposals", Map.of("text", "the of"))
                        .json())
                .isEmpty();
    }
}
