package deftlens.core.time;

import java.time.LocalDateTime;

/**
 * How far local dates are moved to stand beside later ones: so many months, or so many days. A day that a month does not have becomes
 * its last one: 31 January a month later is 28 February, and 29 February a year later is too.
 *
 * <p>Moving never changes the order of two times, so that the times which are moved into a stretch are a stretch themselves.
 *
 * @param months 0 where days are counted
 * @param days 0 where months are counted
 */
public record Shift(int months, long days) {

    public Shift {
        if (months < 0 || days < 0 || (months == 0) == (days == 0)) {
            throw new IllegalArgumentException("a shift is so many months or so many days");
        }
    }

    /** So many months. */
    public static Shift ofMonths(int months) {
        return new Shift(months, 0);
    }

    /** So many days. */
    public static Shift ofDays(long days) {
        return new Shift(0, days);
    }

    /** Where a time is moved to. */
    public LocalDateTime move(LocalDateTime at) {
        return months > 0 ? at.plusMonths(months) : at.plusDays(days);
    }

    /**
     * The first time that is moved to this one or a later one. Worked example, for a month: 1 March for 31 March, since 28 February
     * becomes 28 March; 31 January for none.
     */
    public LocalDateTime origin(LocalDateTime at) {
        if (months == 0) {
            return at.minusDays(days);
        }
        LocalDateTime back = at.minusMonths(months);
        return back.plusMonths(months).isBefore(at)
                ? back.toLocalDate().plusDays(1).atStartOfDay()
                : back;
    }
}
