package deftlens.core.time;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.Month;
import java.time.ZoneId;
import java.time.zone.ZoneOffsetTransition;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class FixingTest {

    private static final Reading READING = new Reading(
            Instant.parse("2026-11-23T09:30:00Z"),
            ZoneId.of("Europe/London"),
            DayOfWeek.MONDAY,
            Month.APRIL,
            WorkingCalendar.standard());

    @ParameterizedTest
    @CsvSource({
        "today,2026-11-23",
        "last month,2026-10",
        "last quarter,2026-Q3",
        "this half,2026-H2",
        "this week,2026-W48",
        "last 7 days,2026-11-17 to 2026-11-23",
        "last 3 full months,2026-08-01 to 2026-10-31",
        "this fiscal year,FY2027",
        "last year to today,2025-01-01 to 2026-11-23",
        "2 hours ago,2026-11-23T07:30",
        "last 4 hours,2026-11-23T05:30 to 2026-11-23T09:30",
        "2026-Q3,2026-Q3",
    })
    void aRollingWindowIsFixedWhereItStands(String rolling, String fixed) {
        assertThat(Printer.period(Fixing.fix(Reader.period(rolling), READING))).isEqualTo(fixed);
    }

    @ParameterizedTest
    @CsvSource({
        "today,2026-11-22,2026-11-24",
        "last month,2026-09,2026-11",
        "this quarter,2026-Q3,2027-Q1",
        "last 7 days,2026-11-10 to 2026-11-16,2026-11-24 to 2026-11-30",
        "last 3 months,2026-05-24 to 2026-08-23,2026-11-24 to 2027-02-23",
        "last 3 full months,2026-05-01 to 2026-07-31,2026-11-01 to 2027-01-31",
        "2026-W48,2026-W47,2026-W49",
        "this fiscal year,FY2026,FY2028",
        "2024-02,2024-01,2024-03",
        "2026-08-01 to 2026-10-31,2026-05-01 to 2026-07-31,2026-11-01 to 2027-01-31",
        "last 4 hours,2026-11-23T01:30 to 2026-11-23T05:30,2026-11-23T09:30 to 2026-11-23T13:30",
    })
    void aWindowHasNeighboursOfItsLength(String phrase, String before, String after) {
        Period period = Reader.period(phrase);
        assertThat(Fixing.neighbour(period, false, READING).map(Printer::period))
                .contains(before);
        assertThat(Fixing.neighbour(period, true, READING).map(Printer::period)).contains(after);
    }

    @ParameterizedTest
    @CsvSource({
        "last 1 hours,2026-10-25T01:30+01:00 to 2026-10-25T01:30Z,2026-10-25T00:30 to 2026-10-25T01:30+01:00,"
                + "2026-10-25T01:30Z to 2026-10-25T02:30",
        "next 30 minutes,2026-10-25T01:30Z to 2026-10-25T02:00,2026-10-25T01:00Z to 2026-10-25T01:30Z,"
                + "2026-10-25T02:00 to 2026-10-25T02:30",
    })
    void anHourThatComesTwiceIsWrittenWithItsOffset(String phrase, String fixed, String before, String after) {
        Reading reading = new Reading(
                Instant.parse("2026-10-25T01:30:00Z"),
                READING.zone(),
                READING.weekStarts(),
                READING.fiscalYearStarts(),
                READING.working());
        Period period = Reader.period(phrase);
        assertThat(Printer.period(Fixing.fix(period, reading))).isEqualTo(fixed);
        assertThat(Fixing.neighbour(period, false, reading).map(Printer::period))
                .contains(before);
        assertThat(Fixing.neighbour(period, true, reading).map(Printer::period)).contains(after);
    }

    /** At moments around clock changes, in zones of every kind: what is fixed is what was, read again from its text. */
    @Test
    void aroundClockChangesNothingMovesEither() {
        Generate generate = new Generate(1_618);
        for (int i = 0; i < 3_000; i++) {
            ZoneId zone = ZoneId.of(generate.pick(List.of(
                    "Europe/London",
                    "America/St_Johns",
                    "Australia/Lord_Howe",
                    "America/Havana",
                    "Pacific/Apia",
                    "Asia/Kathmandu")));
            ZoneOffsetTransition change = zone.getRules()
                    .nextTransition(Instant.parse("2005-01-01T00:00:00Z")
                            .plusSeconds(generate.random().nextInt(600_000_000)));
            Instant around = change == null
                    ? Instant.EPOCH
                    : change.getInstant().plusSeconds(generate.random().nextInt(14_400) - 7_200);
            Reading reading = new Reading(around, zone, DayOfWeek.MONDAY, Month.APRIL, WorkingCalendar.standard());
            Period period = Reader.period(generate.pick(List.of("last ", "next "))
                    + (1 + generate.random().nextInt(150))
                    + generate.pick(List.of(" minutes", " hours")));
            Window window = Windows.resolve(period, reading);
            Period fixed = Reader.period(Printer.period(Fixing.fix(period, reading)));
            String said = Printer.period(period) + " at " + around + " in " + zone;
            assertThat(Windows.resolve(fixed, reading)).as(said).isEqualTo(window);
            for (boolean later : new boolean[] {false, true}) {
                Window beside = Windows.resolve(
                        Reader.period(Printer.period(
                                Fixing.neighbour(period, later, reading).orElseThrow())),
                        reading);
                assertThat(later ? beside.start() : beside.end())
                        .as(said)
                        .isEqualTo(later ? window.end() : window.start());
                assertThat(Duration.between(beside.start(), beside.end()))
                        .as(said)
                        .isEqualTo(Duration.between(window.start(), window.end()));
            }
        }
    }

    @ParameterizedTest
    @CsvSource({"2026-11-23T14:30", "2026-11-30 to 2026-11-01", "2 hours ago"})
    void aWindowWithoutLengthHasNone(String phrase) {
        assertThat(Fixing.neighbour(Reader.period(phrase), true, READING)).isEmpty();
    }

    @ParameterizedTest
    @CsvSource({"last 5 months", "next 8 weeks", "this half", "last 3 quarters", "2024-01-31 to 2024-02-29", "yesterday"
    })
    void neighboursMeetWithoutGapOrOverlap(String phrase) {
        Period period = Reader.period(phrase);
        Window window = Windows.resolve(period, READING);
        assertThat(Windows.resolve(Fixing.neighbour(period, true, READING).orElseThrow(), READING)
                        .start())
                .isEqualTo(window.end());
        assertThat(Windows.resolve(Fixing.neighbour(period, false, READING).orElseThrow(), READING)
                        .end())
                .isEqualTo(window.start());
    }

    @ParameterizedTest
    @CsvSource({
        "2026-11-23,today",
        "2026-10,last month",
        "2026-Q4,this quarter",
        "2026-11-17 to 2026-11-23,last 7 days",
        "2026-05-24 to 2026-11-23,last 6 months",
        "2026-11-23 to 2027-05-22,next 6 months",
        "2026-08-01 to 2026-10-31,last 3 full months",
        "FY2026,last fiscal year",
        "2026-11-01,start of this month",
        "2026-10-24,30 days ago",
        "2026-11-20,Friday of last week",
    })
    void aFixedWindowIsLoosenedIntoWhatStandsThereToday(String fixed, String rolling) {
        assertThat(Fixing.loosen(Reader.period(fixed), READING))
                .extracting(Printer::period)
                .contains(rolling);
    }

    @Test
    void neitherWayMovesTheWindow() {
        Generate generate = new Generate(2_718);
        int loosened = 0;
        for (int i = 0; i < 6_000; i++) {
            Period period = generate.period();
            Window window = Windows.resolve(period, READING);
            Period fixed = Fixing.fix(period, READING);
            assertThat(Windows.resolve(fixed, READING))
                    .as(Printer.period(period))
                    .isEqualTo(window);
            for (Period rolling : Fixing.loosen(fixed, READING)) {
                assertThat(rolling.isRolling()).isTrue();
                assertThat(Windows.resolve(rolling, READING))
                        .as(Printer.period(rolling))
                        .isEqualTo(window);
                loosened++;
            }
        }
        assertThat(loosened).isGreaterThan(500);
    }
}
