package deftlens.core.time;

import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.format.TextStyle;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;

/**
 * When an organisation works: hours for each day of the week, and the dates that differ (holidays and closures with no
 * hours, half days with fewer, worked weekends with some).
 *
 * @param weekly the hours of each day of the week; a day that is missing is a day off; at least one day has hours
 * @param exceptions the hours of single dates, which replace the weekly ones; an empty list is a day off
 */
public record WorkingCalendar(Map<DayOfWeek, List<Hours>> weekly, Map<LocalDate, List<Hours>> exceptions) {

    private static final LocalDate FIRST_MONDAY = LocalDate.of(1, 1, 1);

    /** A stretch of local wall-clock time, {@code [from, to)}, within one day; {@code to} 00:00 is the day's end. */
    public record Hours(LocalTime from, LocalTime to) {
        public Hours {
            if (!to.equals(LocalTime.MIDNIGHT) && !from.isBefore(to)) {
                throw new IllegalArgumentException("working hours end after they begin, on the same day");
            }
        }

        /** The seconds of the day that it begins after. */
        public BigDecimal start() {
            return secondsOf(from);
        }

        /** The seconds of the day that it ends after; 86,400 at the day's end. */
        public BigDecimal end() {
            return to.equals(LocalTime.MIDNIGHT) ? BigDecimal.valueOf(86_400) : secondsOf(to);
        }

        /** How long it is, in seconds by the clock. */
        public BigDecimal seconds() {
            return end().subtract(start());
        }

        /** Whether the wall-clock time lies inside. */
        public boolean contains(LocalTime time) {
            return !time.isBefore(from) && (to.equals(LocalTime.MIDNIGHT) || time.isBefore(to));
        }
    }

    public WorkingCalendar {
        weekly = Map.copyOf(weekly);
        exceptions = Map.copyOf(exceptions);
        if (weekly.values().stream().allMatch(List::isEmpty)) {
            throw new IllegalArgumentException("a working calendar needs at least one day of the week with hours");
        }
    }

    /** Monday to Friday, 09:00 to 17:00, no holidays. */
    public static WorkingCalendar standard() {
        Map<DayOfWeek, List<Hours>> weekly = new EnumMap<>(DayOfWeek.class);
        for (DayOfWeek day : DayOfWeek.values()) {
            if (day.getValue() <= 5) {
                weekly.put(day, List.of(new Hours(LocalTime.of(9, 0), LocalTime.of(17, 0))));
            }
        }
        return new WorkingCalendar(weekly, Map.of());
    }

    /**
     * The hours as people read them, days of the same hours together.
     *
     * @return such as {@code Mon–Thu 08:00–12:00, 13:00–17:00; Fri 08:00–12:00; other hours on 3 single days}
     */
    public String words() {
        List<String> parts = new ArrayList<>();
        DayOfWeek[] days = DayOfWeek.values();
        for (int i = 0; i < days.length; ) {
            List<Hours> hours = weekly.getOrDefault(days[i], List.of());
            int last = i;
            while (last + 1 < days.length
                    && weekly.getOrDefault(days[last + 1], List.of()).equals(hours)) {
                last++;
            }
            if (!hours.isEmpty()) {
                String from = days[i].getDisplayName(TextStyle.SHORT, Locale.UK);
                String to = days[last].getDisplayName(TextStyle.SHORT, Locale.UK);
                parts.add((i == last ? from : from + "–" + to) + " "
                        + hours.stream().map(h -> h.from() + "–" + h.to()).collect(Collectors.joining(", ")));
            }
            i = last + 1;
        }
        if (!exceptions.isEmpty()) {
            parts.add(
                    "other hours on " + (exceptions.size() == 1 ? "1 single day" : exceptions.size() + " single days"));
        }
        return String.join("; ", parts);
    }

    /** The hours worked on a date; empty on a day off. */
    public List<Hours> hours(LocalDate day) {
        List<Hours> exception = exceptions.get(day);
        return exception != null ? exception : weekly.getOrDefault(day.getDayOfWeek(), List.of());
    }

    /** The seconds of several stretches together. */
    public static BigDecimal seconds(List<Hours> hours) {
        return hours.stream().map(Hours::seconds).reduce(BigDecimal.ZERO, BigDecimal::add);
    }

    /**
     * The working time from one local time to another, by the clock on the wall, in seconds to the nanosecond; less than zero where
     * the second is the earlier one. A night in which clocks change counts as any other.
     *
     * <p>With the standard calendar, from Friday 16:00 to Monday 10:00 it is two hours.
     */
    public BigDecimal worked(LocalDateTime from, LocalDateTime to) {
        return workedBefore(to).subtract(workedBefore(from));
    }

    /** The working time from the first Monday of the year 1 to a local time. */
    private BigDecimal workedBefore(LocalDateTime at) {
        LocalDate day = at.toLocalDate();
        long days = ChronoUnit.DAYS.between(FIRST_MONDAY, day);
        BigDecimal sum = BigDecimal.ZERO;
        for (DayOfWeek of : DayOfWeek.values()) {
            // The whole weeks, and this day of the last one where it lies before.
            long times = Math.floorDiv(days, 7) + (of.getValue() <= Math.floorMod(days, 7) ? 1 : 0);
            sum = sum.add(seconds(weekly.getOrDefault(of, List.of())).multiply(BigDecimal.valueOf(times)));
        }
        for (Map.Entry<LocalDate, List<Hours>> single : exceptions.entrySet()) {
            if (single.getKey().isBefore(day)) {
                sum = sum.add(seconds(single.getValue()))
                        .subtract(seconds(weekly.getOrDefault(single.getKey().getDayOfWeek(), List.of())));
            }
        }
        BigDecimal time = secondsOf(at.toLocalTime());
        for (Hours hours : hours(day)) {
            sum = sum.add(time.min(hours.end()).subtract(hours.start()).max(BigDecimal.ZERO));
        }
        return sum;
    }

    private static BigDecimal secondsOf(LocalTime time) {
        return BigDecimal.valueOf(time.toNanoOfDay(), 9);
    }

    /** Whether any hours are worked on the date. */
    public boolean isWorkingDay(LocalDate day) {
        return !hours(day).isEmpty();
    }

    /**
     * The {@code count}-th working day strictly before ({@code step} -1) or after ({@code step} 1) a day; the day itself
     * when the count is 0. Saturates at the calendar's ends.
     */
    LocalDate walk(LocalDate from, int count, int step) {
        LocalDate day = from;
        for (int left = count; left > 0; ) {
            if (step < 0 ? !day.isAfter(Windows.FIRST_DAY) : !day.isBefore(Windows.LAST_DAY)) {
                return day;
            }
            day = day.plusDays(step);
            if (isWorkingDay(day)) {
                left--;
            }
        }
        return day;
    }
}
