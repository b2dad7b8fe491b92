package deftlens.core.time;

import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;

/**
 * The half-open interval {@code [start, end)} a {@link Period} stands for at one reading. A local day begins at its
 * first instant in the zone, also where clocks jump over midnight.
 */
public sealed interface Window {

    /** The zone the window was resolved in. */
    ZoneId zone();

    /** The first instant inside. */
    Instant start();

    /** The first instant after the window. Equal to {@link #start()} for a single moment. */
    Instant end();

    /** Whether nothing can lie inside. A single moment is empty in this sense: it has no length. */
    default boolean isEmpty() {
        return !start().isBefore(end());
    }

    /** A window of whole local days, {@code [firstDay, dayAfterLast)}. */
    record Days(LocalDate firstDay, LocalDate dayAfterLast, ZoneId zone) implements Window {
        @Override
        public Instant start() {
            return firstDay.atStartOfDay(zone).toInstant();
        }

        @Override
        public Instant end() {
            return dayAfterLast.atStartOfDay(zone).toInstant();
        }

        @Override
        public boolean isEmpty() {
            return !firstDay.isBefore(dayAfterLast);
        }

        /** The last day inside; only meaningful when the window is not empty. */
        public LocalDate lastDay() {
            return dayAfterLast.minusDays(1);
        }

        /** The number of local days inside, 0 when empty. */
        public long length() {
            return Math.max(0, ChronoUnit.DAYS.between(firstDay, dayAfterLast));
        }
    }

    /** A window of instants, {@code [start, end)}. */
    record Instants(Instant start, Instant end, ZoneId zone) implements Window {}
}
