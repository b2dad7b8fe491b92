package deftlens.core.time;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.Month;
import java.time.ZoneId;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVRecord;
import org.junit.jupiter.api.DisplayName;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;

class WindowsTest {

    @TestFactory
    @DisplayName("every worked case of date-windows.csv")
    Stream<DynamicTest> workedCases() throws IOException {
        try (InputStreamReader file = new InputStreamReader(
                WindowsTest.class.getResourceAsStream("date-windows.csv"), StandardCharsets.UTF_8)) {
            List<CSVRecord> cases = CSVFormat.RFC4180
                    .builder()
                    .setHeader()
                    .setSkipHeaderRecord(true)
                    .get()
                    .parse(file)
                    .getRecords();
            assertThat(cases.size()).isEqualTo(160);
            return cases.stream()
                    .map(c -> DynamicTest.dynamicTest(
                            c.get("phrase") + " in " + c.get("zone") + " at " + c.get("now"), () -> check(c)));
        }
    }

    private static void check(CSVRecord expected) {
        Reading reading = new Reading(
                Instant.parse(expected.get("now")),
                ZoneId.of(expected.get("zone")),
                DayOfWeek.valueOf(expected.get("week_starts")),
                Month.of(Integer.parseInt(expected.get("fiscal_year_starts_month"))),
                WorkingCalendar.standard());
        Window window = Windows.resolve(Reader.period(expected.get("phrase")), reading);
        if (window instanceof Window.Days(LocalDate firstDay, LocalDate dayAfterLast, ZoneId zone)) {
            assertThat(firstDay).hasToString(expected.get("first_day"));
            assertThat(dayAfterLast).hasToString(expected.get("day_after_last"));
        } else {
            assertThat(expected.get("first_day")).isEmpty();
        }
        assertThat(window.start()).isEqualTo(Instant.parse(expected.get("start")));
        assertThat(window.end()).isEqualTo(Instant.parse(expected.get("end")));
    }

    @Test
    void everyPhraseReadsBackAsThePeriodThatPrintedIt() {
        long seed = 20261123;
        Generate generate = new Generate(seed);
        for (int i = 0; i < 20_000; i++) {
            Period period = generate.period();
            assertThat(Reader.period(Printer.period(period)))
                    .as("seed %d, case %d: %s", seed, i, Printer.period(period))
                    .isEqualTo(period);
        }
    }

    @Test
    void windowsNeverLeaveTheYearsThatAreKept() {
        Reading late = Reading.at(Instant.parse("9999-12-31T12:00:00Z"), ZoneId.of("UTC"));
        Window.Days window = (Window.Days) Windows.resolve(Reader.period("next 1000 years"), late);
        assertThat(window.dayAfterLast()).isEqualTo(LocalDate.of(10000, 1, 1));
        Window.Days early = (Window.Days)
                Windows.resolve(Reader.period("last 100000 years"), Reading.at(Instant.EPOCH, ZoneId.of("UTC")));
        assertThat(early.firstDay()).isEqualTo(LocalDate.of(1, 1, 1));
    }

    @Test
    void workingDaysSkipDaysOff() {
        Map<DayOfWeek, List<WorkingCalendar.Hours>> weekly = new EnumMap<>(DayOfWeek.class);
        for (DayOfWeek day : List.of(DayOfWeek.MONDAY, DayOfWeek.TUESDAY, DayOfWeek.WEDNESDAY, DayOfWeek.FRIDAY)) {
            weekly.put(day, List.of(new WorkingCalendar.Hours(LocalTime.of(8, 0), LocalTime.of(16, 0))));
        }
        WorkingCalendar calendar = new WorkingCalendar(weekly, Map.of(LocalDate.of(2026, 11, 20), List.of()));
        Reading monday = new Reading(
                Instant.parse("2026-11-23T09:30:00Z"),
                ZoneId.of("Europe/London"),
                DayOfWeek.MONDAY,
                Month.APRIL,
                calendar);
        // Friday the 20th is a holiday and Thursdays are off, so the day before Monday the 23rd is Wednesday the 18th.
        assertThat(days("1 working day ago", monday).firstDay()).isEqualTo(LocalDate.of(2026, 11, 18));
        assertThat(days("last 2 working days", monday))
                .isEqualTo(new Window.Days(LocalDate.of(2026, 11, 18), LocalDate.of(2026, 11, 24), monday.zone()));
        assertThat(days("next 4 working days", monday))
                .isEqualTo(new Window.Days(LocalDate.of(2026, 11, 23), LocalDate.of(2026, 11, 28), monday.zone()));
    }

    private static Window.Days days(String phrase, Reading reading) {
        return (Window.Days) Windows.resolve(Reader.period(phrase), reading);
    }
}
