package deftlens.core.condition;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.core.time.Shift;
import deftlens.core.time.Window;
import deftlens.core.time.WorkingCalendar;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.Month;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ComparisonTest {

    private static final Register REGISTER = new Register(
            "dues",
            "Dues",
            "dues",
            "id",
            List.of(
                    Field.of("site", "Site", FieldType.TEXT),
                    Field.of("due", "Due", FieldType.DATE),
                    Field.of("posted", "Posted", FieldType.MOMENT)));
    private static final Reading READING = new Reading(
            Instant.parse("2026-11-23T09:30:00Z"),
            ZoneId.of("Europe/London"),
            DayOfWeek.MONDAY,
            Month.APRIL,
            WorkingCalendar.standard());

    private static Optional<Comparison> compared(String statement, Comparison.With with) {
        return Comparison.of(new Reader(REGISTER, Set.of()).read(statement), with, "posted", REGISTER, READING);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "due in this month | due in 2026-10 | due in 2025-11",
                "due in 2026-Q1 | due in 2025-Q4 | due in 2025-Q1",
                "due in this fiscal year | due in FY2026 | due in FY2026",
                "due in last 7 days | due in 2026-11-10 to 2026-11-16 | due in 2025-W47",
                "due in 2024-02 | due in 2024-01 | due in 2023-02",
                "due between 2026-01 and 2026-03 | due in 2025-Q4 | due in 2025-Q1",
                "site is \"West\" and due in 2026-W47 | site is \"West\" and due in 2026-W46"
                        + " | site is \"West\" and due in 2025-11-16 to 2025-11-22",
                "off(due in 2020) and due in today | off(due in 2020) and due on 2026-11-22"
                        + " | off(due in 2020) and due on 2025-11-23"
            })
    void oneWindowIsMovedAndTheRestStays(String statement, String before, String year) {
        assertThat(compared(statement, Comparison.With.BEFORE).map(c -> Printer.print(c.condition())))
                .contains(before);
        assertThat(compared(statement, Comparison.With.YEAR).map(c -> Printer.print(c.condition())))
                .contains(year);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                "site is \"West\"",
                "due before 2026-01-01",
                "not due in 2026",
                "due in 2026 or site is empty",
                "off(due in 2026)",
                "due in 0001"
            })
    void withoutAWindowThatEveryRecordLiesInThereIsNone(String statement) {
        assertThat(compared(statement, Comparison.With.YEAR)).isEmpty();
    }

    @Test
    void theFieldThatIsPreferredGoesBeforeTheFirst() {
        assertThat(compared("due in 2026 and posted in this month", Comparison.With.BEFORE)
                        .map(c -> Printer.print(c.condition())))
                .contains("due in 2026 and posted in 2026-10");
    }

    @Test
    void itSaysBothWindowsAndHowFarTheyAreApart() {
        Comparison found = compared("due in this month", Comparison.With.BEFORE).orElseThrow();
        assertThat(found.field().key()).isEqualTo("due");
        assertThat(found.shift()).contains(Shift.ofMonths(1));
        assertThat(found.window())
                .isEqualTo(new Window.Days(LocalDate.of(2026, 11, 1), LocalDate.of(2026, 12, 1), READING.zone()));
        assertThat(found.earlier())
                .isEqualTo(new Window.Days(LocalDate.of(2026, 10, 1), LocalDate.of(2026, 11, 1), READING.zone()));
        assertThat(compared("due in last 7 days", Comparison.With.BEFORE)
                        .orElseThrow()
                        .shift())
                .contains(Shift.ofDays(7));
        // Hours are as long as they are; a year is one of the calendar.
        assertThat(compared("posted in last 36 hours", Comparison.With.BEFORE)
                        .orElseThrow()
                        .shift())
                .isEmpty();
        assertThat(compared("posted in last 36 hours", Comparison.With.YEAR)
                        .orElseThrow()
                        .earlier()
                        .start())
                .isEqualTo(Instant.parse("2025-11-21T21:30:00Z"));
    }
}
