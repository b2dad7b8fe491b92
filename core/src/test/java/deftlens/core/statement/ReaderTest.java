package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import deftlens.core.Generate;
import deftlens.core.condition.Condition;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ReaderTest {

    private static final Reader READER = new Reader(Generate.REGISTER, Generate.ATTRIBUTES);

    @Test
    void whatIsPrintedReadsBackTheSame() {
        long seed = 417;
        Generate generate = new Generate(seed);
        for (int i = 0; i < 20_000; i++) {
            Condition condition = generate.condition(5);
            String printed = Printer.print(condition);
            Condition read = READER.read(printed);
            assertThat(read).as("seed %d, case %d: %s", seed, i, printed).isEqualTo(condition.normal());
            assertThat(Printer.print(read)).isEqualTo(printed);
        }
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "``|``",
                "Due BEFORE Today|due before today",
                "due is before today and status is not in (\"done\", \"DROPPED\",)|due before today and status is not in (\"Done\", \"Dropped\")",
                "severity is at least 3 or severity = 1 and urgent is yes|severity >= 3 or (severity = 1 and urgent is yes)",
                "not (severity > 1 or severity < 0)|not (severity > 1 or severity < 0)",
                "not (severity > 1 and cost < 0.50)|not (severity > 1 and cost < 0.5)",
                "((severity > 1)) and (rank = 2 and (rank = 3))|severity > 1 and rank = 2 and rank = 3",
                "off(due before today)|off(due before today)",
                "[Reported at] in last 7 days|reported_at in last 7 days",
                "[Code number] is \"00417\" exactly|code is \"00417\" exactly",
                "title is like \"N?rth*\"|title is like \"N?rth*\"",
                "title contains \"say \\\"ho\\\"\"|title contains \"say \\\"ho\\\"\"",
                "assignee is me and site is my site|assignee is me and site is my site",
                "assignee is \"Asta Quill\"|assignee is \"asta.quill\"",
                "due in 2026-01-10/2026-02-03|due in 2026-01-10 to 2026-02-03",
                "due on today and due in this month|due on today and due in this month",
                "due between 3 days ago and tomorrow|due between 3 days ago and tomorrow",
                "severity between 1 and 3 and rank = 1|severity between 1 and 3 and rank = 1",
                "due more than 30 days ago|due more than 30 days ago",
                "reported_at less than 1 hour from now|reported_at less than 1 hour from now",
                "tags has none of (\"safety\")|tags has none of (\"Safety\")",
                "due in last 1 days|due in last 1 day",
                "open overlaps today and closure WITHIN 2026|open overlaps today and closure within 2026",
                "open starts in 2026-11-23T14:30 to 2026-11-23T15:00|open starts in 2026-11-23T14:30 to 2026-11-23T15:00",
                "reported_at from 2026-10-25T01:30+01:00|reported_at from 2026-10-25T01:30+01:00",
                "reported_at in 2026-10-25t01:30-03:30 to 2026-10-25t01:30z|reported_at in 2026-10-25T01:30-03:30 to 2026-10-25T01:30Z",
                "opens between 9:00 and 17:30:15|opens between 09:00 and 17:30:15",
                "reported_at time between 22:00 and 06:00|reported_at time between 22:00 and 06:00",
                "due weekday in (Friday, mon, Fri)|due weekday in (Mon, Fri)",
                "due month not in (mar, DECEMBER)|due month not in (March, December)",
                "due day of month in (15, 1)|due day of month in (1, 15)",
                "due is on a working day or reported_at is outside working hours|due on a working day or reported_at outside working hours",
                "rank is in bands (\"low\", \"LOW\")|rank is in band \"Low\"",
                "rank is not in band \"Any rank\"|rank is not in band \"Any rank\"",
                "closed_at after due + 2 days|closed_at after due + 2 days",
                "closed_at after due -2 days|closed_at after due - 2 days",
                "closed_at on [Due]|closed_at on due",
                "cost > allowed - 2.50|cost > allowed - 2.5",
                "cost is at least allowed|cost >= allowed",
                "assignee is not owner|assignee is not owner",
                "title is code exactly|title is code exactly",
                "title matches /^a\\/b[0-9]+$/ exactly|title matches /^a\\/b[0-9]+$/ exactly",
                "severity >= {at least=3} and due before { when }|severity >= {at least = 3} and due before {when}",
                "due more than {days overdue = 30} days ago|due more than {days overdue = 30} days ago",
                "due in last {n} weeks and site is {which site = \"North Quay\"}|due in last {n} weeks and site is {which site = \"North Quay\"}",
                "due in 2026|due in 2026",
                "due is in 2026 or due on 2026|due in 2026 or due in 2026",
                "due not in 2026 and due before 2026|due not in 2026 and due before 2026",
                "due between 2025 and 2026|due between 2025 and 2026",
                "open overlaps 2026|open overlaps 2026",
                "due in 2025 to 2026|due in 2025 to 2026",
                "due between 2026-01 to 2026-03 and today|due between 2026-01 and today",
                "due between today and 2026-12-01 to 2027|due between today and 2027",
                "closed_at after due + 0 days|closed_at after due",
                "cost > allowed - 0|cost > allowed",
                "cost = allowed + 0.00|cost = allowed",
                "title contains {what} or title does not contain {what = \"x\"} exactly|title contains {what} or title does not contain {what = \"x\"} exactly",
                "opens before {t = 9:30} or opens between {from} and {to = 17:00}|opens before {t = 09:30} or opens between {from} and {to = 17:00}",
                "reported_at time between {from} and 06:00|reported_at time between {from} and 06:00",
                "rank is in bands ({which = \"low\"}, \"High\")|rank is in bands ({which = \"Low\"}, \"High\")",
                "open overlaps between 12:00 and 16:00 in last week|open overlaps time between 12:00 and 16:00 in last week",
                "open overlaps time between {from} and {to = 6:00} in {days = today}|open overlaps time between {from} and {to = 06:00} on {days = today}",
                "not open overlaps time between 22:00 and 06:00 on 2026-11-23|not open overlaps time between 22:00 and 06:00 on 2026-11-23",
                "mon is empty or title is empty|error",
            })
    void readsAndPrints(String statement, String canonical) {
        if (canonical.equals("error")) {
            assertThat(catchThrowableOfType(StatementError.class, () -> READER.read(statement)))
                    .hasMessageContaining("“mon” is no field");
            return;
        }
        assertThat(Printer.print(READER.read(statement))).isEqualTo(canonical);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "staus is \"New\"|1|1|“staus” is no field of Things. Did you mean “status”?|status",
                "title is \"x\" and|1|17|The text ends too early: here I expected a field of Things, “not” or “(”.|",
                "due befor today|1|5|“befor” cannot stand here|before",
                "due before lst 7 days|1|12|“lst” cannot stand here. I expected a date phrase|last",
                "due on 4/5/26|1|8|can be read two ways. Write 2026-05-04 (4 May 2026) or 2026-04-05 (5 April 2026)|2026-05-04",
                "due on 23.11.2026|1|8|Write 2026-11-23 (23 November 2026)|2026-11-23",
                "due on 2026-02-30|1|8|is no date: February 2026 has days 01 to 28|",
                "due on 2026-13-01|1|8|is no date: a month is a number from 01 to 12|",
                "due in last 4 hours|1|5|Due is a day without a time of day|",
                "reported_at from 2026-11-23T14:30+19:00|1|18|is no date: a time of day runs|",
                "due before 2026-11-23T14:30|1|5|Due is a day without a time of day|",
                "status is Done|1|11|Text goes in double quotes: \"Done\"|\"Done\"",
                "title is \"open|1|10|This quote is never closed|",
                "title before today|1|7|This test does not fit Title, a text field|",
                "severity contains \"a\"|1|10|Tests that fit: is in,|",
                "severity = \"3\"|1|12|write the number without quotes|3",
                "due in last day|1|8|names no period. Did you mean “yesterday”?|yesterday",
                "due in last 3 fiscal years|1|8|last 3 full fiscal years|last 3 full fiscal years",
                "site is my sit|1|9|There is no attribute “my sit”|my site",
                "Reported at before today|1|13|I expected [Reported at] or reported_at|",
                "title is \"a\" & rank = 1|1|14|“&” is written “and” here|and",
                "title is \"a\" ~ rank = 1|1|14|“~” has no meaning here|",
                "(title is \"a\"|1|14|“)”|",
                "title contains \"\"|1|16|An empty text is found everywhere|",
                "due in last 0 days|1|8|runs from 1 to 100000|",
                "due in last 7000000 days|1|13|is no count|",
                "status is \"New\" exactly|1|8|“exactly” goes with text fields|",
                "due overlaps today|1|5|Tests that fit: in,|",
                "open in today|1|6|Tests that fit: overlaps,|",
                "closure overlaps last 2 hours|1|9|runs from day to day|",
                "opens before today|1|7|Tests that fit: between,|",
                "opens before 24:00|1|14|midnight is 00:00|00:00",
                "reported_at time between 25:00 and 06:00|1|26|is no time of day|",
                "due time between 09:00 and 10:00|1|5|a day without a time of day|",
                "due day of month in (0, 32)|1|22|run from 1 to 31|",
                "closure overlaps between 12:00 and 16:00 in last week|1|9|runs from day to day|",
                "open overlaps between 12:00 and 16:00 in last 5 hours|1|6|the days after the times are whole days|",
                "due weekday in (Mon, Mittwoch)|1|22|“Mittwoch” cannot stand here|",
                "rank is in band {b = \"Lwo\"}|1|17|In the default of “b”: “Lwo” is no band of Rank|",
                "opens before {t = 25:00}|1|14|In the default of “t”: “25:00” is no time of day|",
                "title contains {t = 5}|1|16|In the default of “t”: Text goes in double quotes|",
                "title contains {t = \"\"}|1|16|An empty text is found everywhere|",
                "title contains {t = my site}|1|16|Here what is looked for is a text or a blank for one|",
                "severity contains {t}|1|10|Tests that fit: is in,|",
                "rank is in band \"Lwo\"|1|17|is no band of Rank. Did you mean “Low”?|\"Low\"",
                "severity is in band \"Low\"|1|21|Severity has no bands|",
                "title matches /(a/|1|7|“(” is never closed|",
                "title matches /a\\wb/|1|7|write [A-Za-z0-9_]|",
                "title matches /a*?/|1|7|lazy|",
                "title matches /(?=a)/|1|7|not read here|",
                "title matches /a|1|7|never closed. Write /|",
                "title matches \"a\"|1|7|“matches” cannot stand here|",
                "cost > severity|1|6|only fields of one type are compared|",
                "closed_at on reported_at|1|11|hardly ever the same|",
                "closed_at after due + 2 hours|1|11|Say it in days|",
                "closed_at after due + 2 working days|1|21|not by working days|",
                "due after due|1|11|compared with itself|",
                "due before alowed|1|12|“alowed” cannot stand here|",
                "severity >= {= 3}|1|13|an ask has a label|",
                "severity >= {n =}|1|13|A default has to follow|{n}",
                "severity >= {n = many}|1|13|In the default of “n”|",
                "severity >= {n|1|13|never closed|",
            })
    void refusesWithAPlaceAndAWayOut(String statement, int line, int column, String message, String suggestion) {
        StatementError error = catchThrowableOfType(StatementError.class, () -> READER.read(statement));
        assertThat(error).as(statement).isNotNull();
        assertThat(error).hasMessageContaining(message);
        assertThat(error.place().line()).isEqualTo(line);
        assertThat(error.place().column()).as(error.getMessage()).isEqualTo(column);
        if (suggestion != null) {
            assertThat(error.suggestions()).first().isEqualTo(suggestion);
        }
    }

    @Test
    void placesCountLinesAndCharactersNotUnits() {
        StatementError error = catchThrowableOfType(
                StatementError.class, () -> READER.read("title is \"😀😀\"\n  and title is \"😀\" or staus is me"));
        assertThat(error.place().line()).isEqualTo(2);
        assertThat(error.place().column()).isEqualTo(23);
        assertThat(error.place().offset()).isEqualTo(39);
        assertThat(error.found()).isEqualTo("staus");
    }

    @Test
    void noInputMakesItThrowAnythingElse() {
        Random random = new Random(99);
        List<String> words = List.of(
                "due",
                "title",
                "severity",
                "status",
                "tags",
                "not",
                "off",
                "(",
                ")",
                "and",
                "or",
                "is",
                "in",
                "between",
                "before",
                "last",
                "7",
                "days",
                "today",
                "2026-11-23",
                "2026-W99",
                "4/5/26",
                "\"a\"",
                "\"",
                "\\",
                "[",
                "]",
                "my",
                "me",
                "like",
                "has",
                "any",
                "of",
                ",",
                ">=",
                "-1.5",
                "FY2026-Q9",
                "to",
                "/",
                "start",
                "end",
                "😀",
                "\u0000",
                "\ud800",
                "exactly",
                "ago",
                "from",
                "now",
                "full",
                "0",
                "99999999999999999999",
                "{",
                "{n = 3}",
                "{when = last month}",
                "}",
                "+",
                "open",
                "opens",
                "overlaps",
                "within",
                "14:30",
                "weekday",
                "(Mon)",
                "time",
                "working",
                "hours",
                "on",
                "a",
                "band",
                "\"Low\"",
                "rank",
                "closed_at",
                "allowed",
                "cost",
                "matches /a+/",
                "matches /",
                "/x/",
                "march",
                "month",
                "day",
                "$");
        for (int i = 0; i < 60_000; i++) {
            StringBuilder text = new StringBuilder();
            for (int n = random.nextInt(14); n >= 0; n--) {
                text.append(words.get(random.nextInt(words.size()))).append(random.nextInt(6) == 0 ? "" : " ");
            }
            readsOrRefuses(text.toString());
        }
    }

    @ParameterizedTest
    @ValueSource(ints = {60, 5_000, 200_000})
    void depthAndLengthAreBounded(int size) {
        readsOrRefuses("(".repeat(size));
        readsOrRefuses("(".repeat(size) + "due on today" + ")".repeat(size));
        readsOrRefuses("not ".repeat(size) + "due on today");
        readsOrRefuses("off(".repeat(size) + "due on today" + ")".repeat(size));
        readsOrRefuses("due on start of ".repeat(size));
        readsOrRefuses("due on " + "1".repeat(size));
        readsOrRefuses("severity = " + "1".repeat(size));
        readsOrRefuses("\"".repeat(size));
        readsOrRefuses("x".repeat(size) + " is empty");
    }

    @Test
    void aPastedListOfTenThousandIsRead() {
        StringBuilder text = new StringBuilder("code is in (");
        for (int i = 0; i < 10_000; i++) {
            text.append(i == 0 ? "" : ", ").append('"').append("D-").append(i).append('"');
        }
        assertThat(READER.read(text + ")").criteria()).hasSize(1);
        StatementError tooMany =
                catchThrowableOfType(StatementError.class, () -> READER.read(text + ", \"one more\")"));
        assertThat(tooMany).hasMessageContaining("at most 10000 values");
    }

    private static void readsOrRefuses(String text) {
        try {
            Condition condition = READER.read(text);
            assertThat(READER.read(Printer.print(condition))).isEqualTo(condition);
        } catch (StatementError refused) {
            assertThat(refused).hasMessageMatching("(?s).+[.?]");
            assertThat(refused.place().offset()).isBetween(0, text.length());
        }
    }
}
