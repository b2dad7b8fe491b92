package deftlens.core.time;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.Month;
import java.time.ZoneId;
import java.util.Objects;

/**
 * The one moment, and the one calendar, that every rolling window of a question is read against. Nothing in the core
 * asks a clock or a system zone.
 *
 * @param now the moment of reading; the product's "as of"
 * @param zone the zone whose local days count
 * @param weekStarts the organisation's first day of the week
 * @param fiscalYearStarts the month whose first day begins the fiscal year
 * @param working the organisation's working hours and days off
 */
public record Reading(Instant now, ZoneId zone, DayOfWeek weekStarts, Month fiscalYearStarts, WorkingCalendar working) {

    public Reading {
        Objects.requireNonNull(now);
        Objects.requireNonNull(zone);
        Objects.requireNonNull(weekStarts);
        Objects.requireNonNull(fiscalYearStarts);
        Objects.requireNonNull(working);
    }

    /** A reading in an organisation with weeks from Monday, fiscal years from January and the standard calendar. */
    public static Reading at(Instant now, ZoneId zone) {
        return new Reading(now, zone, DayOfWeek.MONDAY, Month.JANUARY, WorkingCalendar.standard());
    }

    /** The local day of the reading moment. */
    public LocalDate today() {
        return now.atZone(zone).toLocalDate();
    }

    /** The same organisation, read at another moment. */
    public Reading asOf(Instant other) {
        return new Reading(other, zone, weekStarts, fiscalYearStarts, working);
    }

    /** The same organisation and moment, read in another zone. */
    public Reading in(ZoneId other) {
        return new Reading(now, other, weekStarts, fiscalYearStarts, working);
    }
}
