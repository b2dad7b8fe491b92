package deftlens.core.time;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.time.WorkingCalendar.Hours;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.List;
import java.util.Map;
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
}
