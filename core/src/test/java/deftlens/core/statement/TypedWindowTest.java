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
}
