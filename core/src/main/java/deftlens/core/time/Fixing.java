package deftlens.core.time;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.time.temporal.IsoFields;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** Turns rolling windows into the fixed ones they stand for at a reading, and fixed ones into rolling ones. */
public final class Fixing {

    private static final int MOST_LOOSENED = 6;
    private static final int MONTHS_OF_YEAR = 12;

    private Fixing() {}

    /**
     * The fixed phrase for the window that a phrase stands for now: the name of a month, quarter, … where it has one, from
     * day to day or moment to moment otherwise. A fixed phrase, an empty window and one beyond the years 1 to
     * 9999 come back as they are.
     *
     * @throws Unanswered when the phrase holds an ask without a default
     */
    public static Period fix(Period period, Reading reading) {
        if (!period.isRolling() && !period.isAsked()) {
            return period;
        }
        Window window = Windows.resolve(period, reading);
        if (window instanceof Window.Days days) {
            return days.isEmpty() ? period : named(days, reading);
        }
        if (isBeyond(window.start(), reading) || isBeyond(window.end(), reading)) {
            return period;
        }
        Period from = moment(window.start(), reading.zone());
        return window.start().equals(window.end())
                ? from
                : new Period.Range(from, moment(window.end(), reading.zone()));
    }

    /**
     * The fixed phrase for the window of the same length right before or after the one that a phrase stands for now: a month
     * is followed by a month, three months by three months, seven days by seven days. Nothing for a window without length,
     * and beyond the years 1 to 9999.
     *
     * @param later whether the one after is wanted
     * @throws Unanswered when the phrase holds an ask without a default
     */
    public static Optional<Period> neighbour(Period period, boolean later, Reading reading) {
        Window window = Windows.resolve(period, reading);
        if (window.isEmpty()) {
            return Optional.empty();
        }
        if (!(window instanceof Window.Days days)) {
            Duration length = Duration.between(window.start(), window.end());
            Instant from = later ? window.end() : window.start().minus(length);
            Instant to = later ? window.end().plus(length) : window.start();
            return isBeyond(from, reading) || isBeyond(to, reading)
                    ? Optional.empty()
                    : Optional.of(new Period.Range(moment(from, reading.zone()), moment(to, reading.zone())));
        }
        int months = months(period, days, reading);
        LocalDate from;
        LocalDate to;
        if (months > 0) {
            from = later ? days.dayAfterLast() : days.firstDay().minusMonths(months);
            to = later ? days.dayAfterLast().plusMonths(months) : days.firstDay();
        } else {
            from = later ? days.dayAfterLast() : days.firstDay().minusDays(days.length());
            to = later ? days.dayAfterLast().plusDays(days.length()) : days.firstDay();
        }
        return from.getYear() < 1 || to.getYear() > 9999
                ? Optional.empty()
                : Optional.of(named(new Window.Days(from, to, days.zone()), reading));
    }

    /**
     * A window and an earlier one that stands beside it.
     *
     * @param period the fixed phrase for the earlier one
     * @param shift how far its days are moved to be beside those of the later one; absent for windows of moments that count hours or
     *     minutes
     */
    public record Earlier(Period period, Optional<Shift> shift) {}

    /**
     * The window of the same length right before the one that a phrase stands for now, as {@link #neighbour} has it. Nothing for a window
     * without length, and beyond the years 1 to 9999.
     *
     * @throws Unanswered when the phrase holds an ask without a default
     */
    public static Optional<Earlier> before(Period period, Reading reading) {
        return neighbour(period, false, reading).map(before -> switch (Windows.resolve(period, reading)) {
            case Window.Days days -> {
                int months = months(period, days, reading);
                yield new Earlier(
                        before, Optional.of(months > 0 ? Shift.ofMonths(months) : Shift.ofDays(days.length())));
            }
            case Window.Instants i -> new Earlier(before, Optional.empty());
        });
    }

    /**
     * The same window a year before: the days that are a year before those of the window that a phrase stands for now. Nothing for a
     * window without length, and beyond the years 1 to 9999.
     *
     * @throws Unanswered when the phrase holds an ask without a default
     */
    public static Optional<Earlier> yearBefore(Period period, Reading reading) {
        Window window = Windows.resolve(period, reading);
        Shift year = Shift.ofMonths(MONTHS_OF_YEAR);
        if (window.isEmpty()) {
            return Optional.empty();
        }
        ZoneId zone = reading.zone();
        LocalDateTime from = year.origin(LocalDateTime.ofInstant(window.start(), zone));
        LocalDateTime to = year.origin(LocalDateTime.ofInstant(window.end(), zone));
        if (from.getYear() < 1 || to.getYear() > 9999 || !from.isBefore(to)) {
            return Optional.empty();
        }
        Period before = window instanceof Window.Days
                ? named(new Window.Days(from.toLocalDate(), to.toLocalDate(), zone), reading)
                : new Period.Range(
                        moment(LocalTimes.instant(from, zone), zone), moment(LocalTimes.instant(to, zone), zone));
        return Optional.of(new Earlier(before, Optional.of(year)));
    }

    /** How many months a window counts by its phrase or by the calendar; 0 for one that counts days. */
    private static int months(Period period, Window.Days days, Reading reading) {
        if (period instanceof Period.Running(var side, int count, Unit unit)) {
            return switch (unit) {
                case MONTH -> count;
                case QUARTER -> 3 * count;
                case YEAR -> 12 * count;
                default -> 0;
            };
        }
        boolean whole =
                days.firstDay().getDayOfMonth() == 1 && days.dayAfterLast().getDayOfMonth() == 1;
        return whole ? (int) ChronoUnit.MONTHS.between(days.firstDay(), days.dayAfterLast()) : 0;
    }

    /** Whether a moment lies outside of the years that can be written. */
    private static boolean isBeyond(Instant instant, Reading reading) {
        int year = instant.atZone(reading.zone()).getYear();
        return year < 1 || year > 9999;
    }

    private static Period moment(Instant instant, ZoneId zone) {
        return Period.Moment.of(instant, zone);
    }

    /** The name of a month, quarter, … that whole days are, or from day to day. */
    public static Period named(Window.Days days, Reading reading) {
        LocalDate first = days.firstDay();
        if (days.length() == 1) {
            return new Period.Day(first);
        }
        List<Period> names = new ArrayList<>();
        names.add(new Period.Month(YearMonth.from(first)));
        names.add(new Period.Quarter(first.getYear(), (first.getMonthValue() + 2) / 3));
        names.add(new Period.Half(first.getYear(), (first.getMonthValue() + 5) / 6));
        names.add(new Period.Year(first.getYear()));
        int weekYear = first.get(IsoFields.WEEK_BASED_YEAR);
        if (weekYear >= 1 && weekYear <= 9999) {
            names.add(new Period.Week(weekYear, first.get(IsoFields.WEEK_OF_WEEK_BASED_YEAR)));
        }
        for (int year = Math.max(1, first.getYear()); year <= Math.min(9999, first.getYear() + 1); year++) {
            names.add(new Period.FiscalYear(year));
            for (int quarter = 1; quarter <= 4; quarter++) {
                names.add(new Period.FiscalQuarter(year, quarter));
            }
        }
        return names.stream()
                .filter(name -> Windows.resolve(name, reading).equals(days))
                .findFirst()
                .orElseGet(() -> new Period.Range(new Period.Day(first), new Period.Day(days.lastDay())));
    }

    /**
     * The rolling phrases that stand for exactly the same window at this reading, the likeliest first; at most
     * {@value #MOST_LOOSENED}, and none for a phrase that rolls already, for moments and for windows far from today.
     */
    public static List<Period> loosen(Period period, Reading reading) {
        if (period.isRolling()
                || period.isAsked()
                || !(Windows.resolve(period, reading) instanceof Window.Days wanted)
                || wanted.isEmpty()) {
            return List.of();
        }
        LocalDate today = reading.today();
        List<Period> candidates = new ArrayList<>();
        for (int offset = -1; offset <= 1; offset++) {
            candidates.add(new Period.NearDay(offset));
        }
        for (Unit unit : Unit.values()) {
            if (unit.isCalendar()) {
                for (Period.Which which : Period.Which.values()) {
                    candidates.add(new Period.Calendar(which, unit));
                }
            }
        }
        for (Period.Side side : Period.Side.values()) {
            for (Unit unit : List.of(Unit.DAY, Unit.WEEK, Unit.MONTH, Unit.QUARTER, Unit.YEAR)) {
                int count = count(side, unit, wanted, today);
                if (count >= 1 && count < Period.MAX_COUNT) {
                    candidates.add(new Period.Running(side, count, unit));
                    candidates.add(new Period.Running(side, count + 1, unit));
                }
            }
            for (int count = 2; count <= 24; count++) {
                for (Unit unit : List.of(
                        Unit.WEEK,
                        Unit.MONTH,
                        Unit.QUARTER,
                        Unit.HALF,
                        Unit.YEAR,
                        Unit.FISCAL_QUARTER,
                        Unit.FISCAL_YEAR)) {
                    candidates.add(new Period.Full(side, count, unit));
                }
            }
        }
        if (wanted.length() == 1) {
            for (Period.Which which : Period.Which.values()) {
                for (DayOfWeek day : DayOfWeek.values()) {
                    candidates.add(new Period.WeekdayOf(day, which));
                }
            }
            for (Unit unit : List.of(Unit.MONTH, Unit.QUARTER, Unit.YEAR, Unit.FISCAL_YEAR)) {
                for (Period.Which which : Period.Which.values()) {
                    candidates.add(new Period.StartOf(new Period.Calendar(which, unit)));
                    candidates.add(new Period.EndOf(new Period.Calendar(which, unit)));
                }
            }
            long away = ChronoUnit.DAYS.between(today, wanted.firstDay());
            if (Math.abs(away) > 1 && Math.abs(away) <= Period.MAX_COUNT) {
                candidates.add(new Period.Away(
                        away < 0 ? Period.Side.LAST : Period.Side.NEXT, (int) Math.abs(away), Unit.DAY));
            }
        }
        Set<Period> same = new LinkedHashSet<>();
        for (Period candidate : candidates) {
            if (same.size() < MOST_LOOSENED
                    && Windows.resolve(candidate, reading).equals(wanted)) {
                same.add(candidate);
            }
        }
        return List.copyOf(same);
    }

    /** How many whole units lie between today and the window's far end, at least roughly. */
    private static int count(Period.Side side, Unit unit, Window.Days window, LocalDate today) {
        LocalDate near = side == Period.Side.LAST ? window.firstDay() : today;
        LocalDate far = side == Period.Side.LAST ? today.plusDays(1) : window.dayAfterLast();
        long count = switch (unit) {
            case DAY -> ChronoUnit.DAYS.between(near, far);
            case WEEK -> ChronoUnit.WEEKS.between(near, far);
            case MONTH -> ChronoUnit.MONTHS.between(near, far);
            case QUARTER -> ChronoUnit.MONTHS.between(near, far) / 3;
            default -> ChronoUnit.YEARS.between(near, far);
        };
        return (int) Math.min(count, Period.MAX_COUNT);
    }
}
