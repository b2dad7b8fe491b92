package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.time.Reading;
import deftlens.core.time.WorkingCalendar;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.Month;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.List;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class TypedWindowTest {

    private static final Reading FROM_APRIL = new Reading(
            Instant.parse("2026-11-23T14:30:00Z"),
            ZoneId.of("Europe/London"),
            DayOfWeek.MONDAY,
            Month.APRIL,
            WorkingCalendar.standard());
    private static final Reading FROM_JANUARY = Reading.at(FROM_APRIL.now(), FROM_APRIL.zone());

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "last 6 months | last 6 months",
                "LAST  6 mths | last 6 months",
                "mon last week | Monday of last week",
                "Wednesday of next week | Wednesday of next week",
                "fri next | Friday of next week",
                "3/11/2026 | 2026-11-03, 2026-03-11",
                "3/11 | 2026-11-03, 2026-03-11",
                "23/11 | 2026-11-23",
                "11/23/2026 | 2026-11-23",
                "31.12.2025 | 2025-12-31",
                "2026/11/3 | 2026-11-03",
                "4/5/26 | 2026-05-04, 2026-04-05",
                "30/2 | ",
                "3 nov 2026 | 2026-11-03",
                "3rd of November, 2026 | 2026-11-03",
                "Nov 3, 2026 | 2026-11-03",
                "3 nov | 2026-11-03, 2025-11-03, 2027-11-03",
                "nov 25 | 2026-11-25, 2025-11",
                "nov 99 | 2099-11",
                "november 2025 | 2025-11",
                "march | 2026-03, 2025-03, 2027-03",
                "30d | last 30 days, next 30 days",
                "past 2 fortnights | last 28 days",
                "6 weeks ago | 6 weeks ago",
                "week 48 2026 | 2026-W48",
                "w9 | 2026-W09, 2025-W09, 2027-W09",
                "h1 2026 | 2026-H1",
                "since march 2026 | 2026-03 to today",
                "4 to 8 hours from now | 4 hours from now to 8 hours from now",
                "in 4 to 8 hours | 4 hours from now to 8 hours from now",
                "3-5 days ago | 5 days ago to 3 days ago",
                "the last quarter | last quarter",
                "in the last seven days | last 7 days",
                "a week ago | 1 week ago",
                "next ninety days | next 90 days",
                "last hour | last 1 hour",
                "the last hour | last 1 hour",
                "last day | yesterday, last 1 day",
                "three business days ago | 3 working days ago",
                "month end | end of this month, end of last month, end of next month",
                "end of the month | end of this month, end of last month, end of next month",
                "end of last quarter | end of last quarter",
                "next fiscal year end | end of next fiscal year",
                "tonight | 2026-11-23T18:00 to 2026-11-24T00:00, today",
                "last night | 2026-11-22T18:00 to 2026-11-23T06:00, yesterday",
                "FY26 | FY2026",
                "fy 2025/26 | FY2026",
                "FY26 Q3 | FY2026-Q3",
                "financial year 2027 | FY2027",
                "1 to 30 March 2026 | 2026-03-01 to 2026-03-30",
                "1 to 30 March | 2026-03-01 to 2026-03-30, 2025-03-01 to 2025-03-30, 2027-03-01 to 2027-03-30",
                "1st - 5th of Nov 2026 | 2026-11-01 to 2026-11-05",
                "March 1 to 30, 2026 | 2026-03-01 to 2026-03-30",
                "30 to 1 March | ",
                "2026-11-03 09:00 to 2026-11-05 17:00 | 2026-11-03T09:00 to 2026-11-05T17:00",
                "3 nov 2026 9:00 to 5:30pm | 2026-11-03T09:00 to 2026-11-03T17:30",
                "2026-11-03 at 25:00 | ",
                "until Friday | today to Friday of this week, today to Friday of next week",
                "since Monday | Monday of this week to today, Monday of last week to today",
                "until march | today to 2027-03",
                "nov to feb | 2026-11 to 2027-02, 2025-11 to 2026-02",
                "friday to monday | Friday of this week to Monday of next week, Friday of last week to Monday of this week",
                "jan 2026 - mar 2026 | 2026-01 to 2026-03",
                "1 nov 2026 to 20 nov 2026 | 2026-11-01 to 2026-11-20",
                "from 3/11 to 4/12 | 2026-11-03 to 2026-12-04, 2026-03-11 to 2026-04-12",
                "mtd | start of this month to today",
                "last weekend | Saturday of last week to Sunday of last week",
                "last monday | Monday of last week, Monday of this week",
                "previous week | last 7 days, last week",
                "2026-Q3 | 2026-Q3",
                "soonish | ",
                "99/99 | ",
            })
    void whatPeopleTypeFindsItsPhrases(String typed, String expected) {
        assertThat(TypedWindow.read(typed, FROM_APRIL)).isEqualTo(list(expected));
    }

    private static List<String> list(String expected) {
        return expected == null
                ? List.of()
                : Arrays.stream(expected.split(", ")).map(String::strip).toList();
    }

    @Test
    void aQuarterIsAskedAboutWhereTheFiscalYearIsAnother() {
        assertThat(TypedWindow.read("Q3", FROM_APRIL)).containsExactly("2026-Q3", "FY2027-Q3", "2025-Q3", "FY2026-Q3");
        assertThat(TypedWindow.read("Q3 2026", FROM_APRIL)).containsExactly("2026-Q3", "FY2026-Q3");
        assertThat(TypedWindow.read("Q3 2026", FROM_JANUARY)).containsExactly("2026-Q3");
        assertThat(TypedWindow.read("ytd", FROM_JANUARY)).contains("start of this year to today");
    }

    @Test
    void everyReadingIsAPhraseOfTheLanguageWhateverIsTyped() {
        SplittableRandom random = new SplittableRandom(41);
        List<String> pieces = List.of(
                "q", "3", "11", "2026", "26", "mon", "tuesday", "nov", "march", "last", "next", "this", "week", "of",
                "to", "since", "until", "-", "/", ".", " ", " ", " ", "days", "d", "months", "ago", "fy", "h", "w",
                "31", "ytd");
        int read = 0;
        for (int i = 0; i < 40_000; i++) {
            StringBuilder text = new StringBuilder();
            for (int n = 1 + random.nextInt(6); n > 0; n--) {
                text.append(pieces.get(random.nextInt(pieces.size())));
            }
            List<String> found = TypedWindow.read(text.toString(), FROM_APRIL);
            assertThat(found).doesNotHaveDuplicates();
            for (String phrase : found) {
                assertThat(Printer.period(Reader.period(phrase))).as("%s", text).isEqualTo(phrase);
            }
            read += found.isEmpty() ? 0 : 1;
        }
        assertThat(read).isGreaterThan(2_000);
    }

    @ParameterizedTest
    @CsvSource({
        "March in any year, MONTH, 3",
        "every march, MONTH, 3",
        "any Monday, WEEKDAY, 1",
        "on sundays, WEEKDAY, 7",
        "Fridays, WEEKDAY, 5"
    })
    void whatRepeatsIsATestOfItsOwn(String text, deftlens.core.condition.Test.Part part, int number) {
        assertThat(TypedWindow.read(text, FROM_APRIL)).isEmpty();
        assertThat(TypedWindow.repeating(text)).contains(new TypedWindow.Repeating(part, number));
    }

    @ParameterizedTest
    @org.junit.jupiter.params.provider.ValueSource(
            strings = {"march", "monday", "last monday", "every crane", "days", "in any year"})
    void whatIsOnceRepeatsNot(String text) {
        assertThat(TypedWindow.repeating(text)).isEmpty();
    }
}
