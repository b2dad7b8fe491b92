package deftlens.core.time;

import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Optional;

/**
 * What a local clock means in a zone where clocks are set forward and back. There is one reading everywhere: a time that comes
 * twice is the second one, and one that is left out lies as much later as the clock was set forward. PostgreSQL reads them so.
 */
public final class LocalTimes {

    private LocalTimes() {}

    /**
     * The instant of a local time.
     *
     * <p>{@code 2026-10-25T01:30} in London is 01:30 UTC, not 00:30; {@code 2026-03-29T01:30}, which no clock shows, is 02:30 there.
     */
    public static Instant instant(LocalDateTime at, ZoneId zone) {
        return at.atZone(zone).withLaterOffsetAtOverlap().toInstant();
    }

    /** Whether clocks in the zone show a local time twice. */
    public static boolean comesTwice(LocalDateTime at, ZoneId zone) {
        return zone.getRules().getValidOffsets(at).size() > 1;
    }

    /** The offset that a local time has to be written with to mean this instant: none where it comes only once. */
    public static Optional<ZoneOffset> offset(Instant instant, ZoneId zone) {
        return comesTwice(LocalDateTime.ofInstant(instant, zone), zone)
                ? Optional.of(zone.getRules().getOffset(instant))
                : Optional.empty();
    }
}
