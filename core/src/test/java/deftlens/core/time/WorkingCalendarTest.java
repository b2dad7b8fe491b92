package deftlens.core.time;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.time.WorkingCalendar.Hours;
import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.Test;

class WorkingCalendarTest {

    @Test
    void theHoursAreSaidWithDaysOfTheSameTogether() {
        assertThat(WorkingCalendar.standard().words()).isEqualTo("Mon–Fri 09:00–17:00");
        Hours morning = new Hours(LocalTime.of(8, 0), LocalTime.of(12, 0));
        Hours afternoon = new Hours(LocalTime.of(13, 0), LocalTime.MIDNIGHT);
        List<Hours> both = List.of(morning, afternoon);
        WorkingCalendar calendar = new WorkingCalendar(
                Map.of(
                        DayOfWeek.MONDAY, both,
                        DayOfWeek.TUESDAY, both,
                        DayOfWeek.WEDNESDAY, List.of(morning),
                        DayOfWeek.THURSDAY, both,
                        DayOfWeek.SUNDAY, List.of(morning)),
                Map.of(LocalDate.of(2026, 12, 25), List.of()));
        assertThat(calendar.words())
                .isEqualTo("Mon–Tue 08:00–12:00, 13:00–00:00; Wed 08:00–12:00; Thu 08:00–12:00, 13:00–00:00;"
                        + " Sun 08:00–12:00; other hours on 1 single day");
    }

    /** Held against a count of minutes, one by one. */
    @Test
    void workingTimeIsTheMinutesThatAreWorked() {
        Random random = new Random(3);
        for (int i = 0; i < 300; i++) {
            LocalDateTime from = LocalDateTime.of(2026, 11, 16, 0, 0).plusMinutes(random.nextInt(20_000));
            LocalDateTime to = from.plusMinutes(random.nextInt(20_000));
            WorkingCalendar calendar = random.nextBoolean() ? Generate.WORKING : WorkingCalendar.standard();
            long minutes = 0;
            for (LocalDateTime at = from; at.isBefore(to); at = at.plusMinutes(1)) {
                LocalTime time = at.toLocalTime();
                minutes += calendar.hours(at.toLocalDate()).stream().anyMatch(h -> h.contains(time)) ? 1 : 0;
            }
            assertThat(calendar.worked(from, to)).as("%s to %s", from, to).isEqualByComparingTo(minutes * 60 + "");
            assertThat(calendar.worked(to, from)).isEqualByComparingTo(-minutes * 60 + "");
        }
        LocalDateTime friday = LocalDateTime.of(2026, 11, 27, 16, 0);
        assertThat(WorkingCalendar.standard().worked(friday, friday.plusDays(3).withHour(10)))
                .isEqualByComparingTo("7200");
        assertThat(WorkingCalendar.standard().worked(friday.minusYears(2_000), friday.plusYears(2_000)))
                .isGreaterThan(new BigDecimal("30000000000"));
    }
}
