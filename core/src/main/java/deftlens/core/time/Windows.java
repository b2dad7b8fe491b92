package deftlens.core.time;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.YearMonth;
import java.time.temporal.IsoFields;
import java.time.temporal.TemporalAdjusters;

/**
 * Resolves date phrases to windows. Adding months clamps to the month's last day; windows that would leave the years 1
 * to 9999 end there.
 */
public final class Windows {

    /** The first day that any window reaches. */
    public static final LocalDate FIRST_DAY = LocalDate.of(1, 1, 1);

    /** The last day that any window reaches. */
    public static final LocalDate LAST_DAY = LocalDate.of(9999, 12, 31);

    private Windows() {}

    /**
     * The window a phrase stands for at a reading. It is empty when a range is written backwards.
     *
     * @throws Unanswered when the phrase holds an ask without a default
     */
    public static Window resolve(Period period, Reading reading) {
        LocalDate today = reading.today();
        return switch (period) {
            case Period.NearDay(int offset) -> day(today.plusDays(offset), reading);
            case Period.Calendar(Period.Which which, Unit unit) -> {
                LocalDate start = plus(startOf(unit, today, reading), which.ordinal() - 1, unit);
                yield days(start, plus(start, 1, unit), reading);
            }
            case Period.Running(Period.Side side, int count, Unit unit) -> running(side, count, unit, today, reading);
            case Period.Full(Period.Side side, int count, Unit unit) -> {
                LocalDate start = startOf(unit, today, reading);
                LocalDate next = plus(start, 1, unit);
                yield side == Period.Side.LAST
                        ? days(plus(start, -count, unit), start, reading)
                        : days(next, plus(next, count, unit), reading);
            }
            case Period.Away(Period.Side side, int count, Unit unit) -> away(side, count, unit, today, reading);
            case Period.WeekdayOf(DayOfWeek weekday, Period.Which which) -> {
                LocalDate week = startOf(Unit.WEEK, today, reading).plusWeeks(which.ordinal() - 1);
                yield day(week.with(TemporalAdjusters.nextOrSame(weekday)), reading);
            }
            case Period.StartOf(Period of) -> day(((Window.Days) resolve(of, reading)).firstDay(), reading);
            case Period.EndOf(Period of) -> day(((Window.Days) resolve(of, reading)).lastDay(), reading);
            case Period.Day(LocalDate day) -> day(day, reading);
            case Period.Month(YearMonth month) ->
                days(month.atDay(1), month.plusMonths(1).atDay(1), reading);
            case Period.Quarter(int year, int quarter) -> months(LocalDate.of(year, quarter * 3 - 2, 1), 3, reading);
            case Period.Half(int year, int half) -> months(LocalDate.of(year, half * 6 - 5, 1), 6, reading);
            case Period.Week(int year, int week) -> {
                LocalDate monday = LocalDate.of(year, 1, 4)
                        .with(IsoFields.WEEK_OF_WEEK_BASED_YEAR, week)
                        .with(DayOfWeek.MONDAY);
                yield days(monday, monday.plusWeeks(1), reading);
            }
            case Period.Year(int year) -> months(LocalDate.of(year, 1, 1), 12, reading);
            case Period.FiscalYear(int year) -> months(startOfFiscalYear(year, reading), 12, reading);
            case Period.FiscalQuarter(int year, int quarter) ->
                months(startOfFiscalYear(year, reading).plusMonths(3L * (quarter - 1)), 3, reading);
            case Period.Moment(var at, var offset) -> {
                Instant instant = offset.map(at::toInstant).orElseGet(() -> LocalTimes.instant(at, reading.zone()));
                yield new Window.Instants(instant, instant, reading.zone());
            }
            case Period.Asked asked -> resolve(asked.settled(), reading);
            case Period.AskedCount asked -> resolve(asked.settled(), reading);
            case Period.Range(Period from, Period to) -> range(resolve(from, reading), resolve(to, reading), reading);
        };
    }

    private static Window running(Period.Side side, int count, Unit unit, LocalDate today, Reading reading) {
        if (unit.isClock()) {
            Instant other = clock(reading.now(), side, count, unit);
            return side == Period.Side.LAST
                    ? new Window.Instants(other, reading.now(), reading.zone())
                    : new Window.Instants(reading.now(), other, reading.zone());
        }
        LocalDate tomorrow = today.plusDays(1);
        if (unit == Unit.WORKING_DAY) {
            // The window ends (or begins) with today in any case; days off inside do not use up the count.
            WorkingCalendar working = reading.working();
            return side == Period.Side.LAST
                    ? days(working.walk(tomorrow, count, -1), tomorrow, reading)
                    : days(today, working.walk(today.minusDays(1), count, 1).plusDays(1), reading);
        }
        return side == Period.Side.LAST
                ? days(plus(tomorrow, -count, unit), tomorrow, reading)
                : days(today, plus(today, count, unit), reading);
    }

    private static Window away(Period.Side side, int count, Unit unit, LocalDate today, Reading reading) {
        if (unit.isClock()) {
            Instant instant = clock(reading.now(), side, count, unit);
            return new Window.Instants(instant, instant, reading.zone());
        }
        int sign = side == Period.Side.LAST ? -1 : 1;
        return day(
                unit == Unit.WORKING_DAY ? reading.working().walk(today, count, sign) : plus(today, sign * count, unit),
                reading);
    }

    private static Window range(Window from, Window to, Reading reading) {
        if (from instanceof Window.Days first && to instanceof Window.Days last) {
            return days(first.firstDay(), last.dayAfterLast(), reading);
        }
        return new Window.Instants(from.start(), to.end(), reading.zone());
    }

    /** The first day of the calendar period of that unit, a day or longer, which holds the day. */
    public static LocalDate startOf(Unit unit, LocalDate day, Reading reading) {
        LocalDate month = day.withDayOfMonth(1);
        return switch (unit) {
            case DAY -> day;
            case WEEK -> day.with(TemporalAdjusters.previousOrSame(reading.weekStarts()));
            case MONTH -> month;
            case QUARTER -> month.minusMonths((day.getMonthValue() - 1) % 3);
            case HALF -> month.minusMonths((day.getMonthValue() - 1) % 6);
            case YEAR -> day.withDayOfYear(1);
            case FISCAL_QUARTER -> month.minusMonths(monthOfFiscalYear(day, reading) % 3);
            case FISCAL_YEAR -> month.minusMonths(monthOfFiscalYear(day, reading));
            case MINUTE, HOUR, WORKING_DAY ->
                throw new IllegalArgumentException("no calendar period is named by " + unit.singular());
        };
    }

    /** The fiscal year that holds a day. It is named by the year it ends in. */
    public static Period.FiscalYear fiscalYear(LocalDate day, Reading reading) {
        LocalDate last = startOf(Unit.FISCAL_YEAR, day, reading).plusYears(1).minusDays(1);
        return new Period.FiscalYear(last.getYear());
    }

    /** The fiscal quarter that holds a day. */
    public static Period.FiscalQuarter fiscalQuarter(LocalDate day, Reading reading) {
        return new Period.FiscalQuarter(fiscalYear(day, reading).year(), monthOfFiscalYear(day, reading) / 3 + 1);
    }

    /** Months since the fiscal year began, 0 to 11. */
    private static int monthOfFiscalYear(LocalDate day, Reading reading) {
        return Math.floorMod(day.getMonthValue() - reading.fiscalYearStarts().getValue(), 12);
    }

    private static LocalDate startOfFiscalYear(int year, Reading reading) {
        int month = reading.fiscalYearStarts().getValue();
        return LocalDate.of(month == 1 ? year : year - 1, month, 1);
    }

    private static LocalDate plus(LocalDate day, long count, Unit unit) {
        return switch (unit) {
            case DAY -> day.plusDays(count);
            case WEEK -> day.plusWeeks(count);
            case MONTH -> day.plusMonths(count);
            case QUARTER, FISCAL_QUARTER -> day.plusMonths(3 * count);
            case HALF -> day.plusMonths(6 * count);
            case YEAR, FISCAL_YEAR -> day.plusYears(count);
            case MINUTE, HOUR, WORKING_DAY ->
                throw new IllegalArgumentException("no days are counted in " + unit.plural());
        };
    }

    private static Instant clock(Instant now, Period.Side side, int count, Unit unit) {
        Duration distance = unit == Unit.HOUR ? Duration.ofHours(count) : Duration.ofMinutes(count);
        return side == Period.Side.LAST ? now.minus(distance) : now.plus(distance);
    }

    private static Window.Days months(LocalDate start, int months, Reading reading) {
        return days(start, start.plusMonths(months), reading);
    }

    private static Window.Days day(LocalDate day, Reading reading) {
        LocalDate inside = clamp(day);
        return days(inside, inside.plusDays(1), reading);
    }

    private static Window.Days days(LocalDate firstDay, LocalDate dayAfterLast, Reading reading) {
        return new Window.Days(clamp(firstDay), clamp(dayAfterLast), reading.zone());
    }

    /** Keeps a bound within the years that PostgreSQL and ISO 8601's four digits both carry. */
    private static LocalDate clamp(LocalDate day) {
        LocalDate end = LAST_DAY.plusDays(1);
        return day.isBefore(FIRST_DAY) ? FIRST_DAY : day.isAfter(end) ? end : day;
    }
}
