package deftlens.core.time;

import java.math.BigDecimal;
import java.math.BigInteger;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Durations as they are written: in words ({@code 2 h 30 min}, {@code 3 days}), by the clock ({@code 2:30}, hours and minutes) and in
 * ISO 8601 ({@code PT2H30M}). They are kept in seconds, exactly. A day is 24 hours and a week seven days; months and years have no one
 * length and are refused.
 *
 * <pre>{@code
 * DurationText.seconds("2 h 30 min")               // 9000
 * DurationText.words(new BigDecimal(93_600))       // 1 day 2 h
 * DurationText.iso(new BigDecimal(93_600))         // P1DT2H
 * }</pre>
 */
public final class DurationText {

    private static final int MOST_LETTERS = 100;
    private static final BigDecimal MINUTE = BigDecimal.valueOf(60);
    private static final BigDecimal HOUR = BigDecimal.valueOf(3_600);
    private static final BigDecimal DAY = BigDecimal.valueOf(86_400);
    private static final BigDecimal WEEK = BigDecimal.valueOf(604_800);

    private static final String NUMBER = "(\\d{1,40}(?:[.]\\d{1,40})?)";
    private static final Pattern ISO = Pattern.compile("([+-]?)P(?=[\\dT])(?:" + NUMBER + "W)?(?:" + NUMBER
            + "D)?(?:T(?=\\d)(?:" + NUMBER + "H)?(?:" + NUMBER + "M)?(?:" + NUMBER + "S)?)?");
    private static final Pattern CLOCK =
            Pattern.compile("([+-]?)(\\d{1,40}):([0-5]\\d)(?::([0-5]\\d(?:[.]\\d{1,40})?))?");
    private static final Pattern PART = Pattern.compile("\\s*" + NUMBER + "\\s*(\\p{L}+)[.]?\\s*(?:,|and\\b)?\\s*");

    private DurationText() {}

    /** The seconds of a duration that is written in one of these ways; nothing where it is none. */
    public static Optional<BigDecimal> seconds(String written) {
        String text = written.strip();
        if (text.isEmpty() || text.length() > MOST_LETTERS) {
            return Optional.empty();
        }
        return iso8601(text.toUpperCase(Locale.ROOT))
                .or(() -> clock(text))
                .or(() -> parts(text))
                .map(DurationText::plain);
    }

    private static Optional<BigDecimal> iso8601(String text) {
        Matcher m = ISO.matcher(text);
        if (!m.matches()) {
            return Optional.empty();
        }
        BigDecimal sum = part(m.group(2), WEEK)
                .add(part(m.group(3), DAY))
                .add(part(m.group(4), HOUR))
                .add(part(m.group(5), MINUTE))
                .add(part(m.group(6), BigDecimal.ONE));
        return Optional.of(m.group(1).equals("-") ? sum.negate() : sum);
    }

    private static Optional<BigDecimal> clock(String text) {
        Matcher m = CLOCK.matcher(text);
        if (!m.matches()) {
            return Optional.empty();
        }
        BigDecimal sum = part(m.group(2), HOUR).add(part(m.group(3), MINUTE)).add(part(m.group(4), BigDecimal.ONE));
        return Optional.of(m.group(1).equals("-") ? sum.negate() : sum);
    }

    private static BigDecimal part(String digits, BigDecimal unit) {
        return digits == null ? BigDecimal.ZERO : new BigDecimal(digits).multiply(unit);
    }

    private static Optional<BigDecimal> parts(String text) {
        boolean negative = text.startsWith("-");
        Matcher m = PART.matcher(negative ? text.substring(1) : text);
        BigDecimal sum = BigDecimal.ZERO;
        BigDecimal last = null;
        while (m.lookingAt()) {
            Optional<BigDecimal> unit = unit(m.group(2));
            // Each unit once, the longest first: “30 min 2 h” is rather a slip than a duration.
            if (unit.isEmpty() || last != null && unit.get().compareTo(last) >= 0) {
                return Optional.empty();
            }
            last = unit.get();
            sum = sum.add(part(m.group(1), last));
            m.region(m.end(), m.regionEnd());
            if (m.regionStart() == m.regionEnd()) {
                return Optional.of(negative ? sum.negate() : sum);
            }
        }
        return Optional.empty();
    }

    /** The seconds in a unit by its name or short form; nothing for what is no unit of one length. */
    public static Optional<BigDecimal> unit(String name) {
        return switch (name.toLowerCase(Locale.ROOT)) {
            case "s", "sec", "secs", "second", "seconds" -> Optional.of(BigDecimal.ONE);
            case "m", "min", "mins", "minute", "minutes" -> Optional.of(MINUTE);
            case "h", "hr", "hrs", "hour", "hours" -> Optional.of(HOUR);
            case "d", "day", "days" -> Optional.of(DAY);
            case "w", "week", "weeks" -> Optional.of(WEEK);
            default -> Optional.empty();
        };
    }

    /** A duration as people and the language write it: days, hours, minutes and seconds, those that are none left out. */
    public static String words(BigDecimal seconds) {
        Parts parts = new Parts(seconds);
        StringBuilder text = new StringBuilder(parts.negative ? "-" : "");
        if (parts.days.signum() > 0) {
            text.append(parts.days).append(parts.days.equals(BigInteger.ONE) ? " day " : " days ");
        }
        if (parts.hours > 0) {
            text.append(parts.hours).append(" h ");
        }
        if (parts.minutes > 0) {
            text.append(parts.minutes).append(" min ");
        }
        if (parts.rest.signum() > 0 || parts.isNothing()) {
            text.append(parts.rest.toPlainString()).append(" s ");
        }
        return text.substring(0, text.length() - 1);
    }

    /** A duration in ISO 8601: {@code P1DT2H30M}, {@code PT0S}. */
    public static String iso(BigDecimal seconds) {
        Parts parts = new Parts(seconds);
        StringBuilder text = new StringBuilder(parts.negative ? "-P" : "P");
        if (parts.days.signum() > 0) {
            text.append(parts.days).append('D');
        }
        if (parts.hours > 0 || parts.minutes > 0 || parts.rest.signum() > 0 || parts.isNothing()) {
            text.append('T');
        }
        if (parts.hours > 0) {
            text.append(parts.hours).append('H');
        }
        if (parts.minutes > 0) {
            text.append(parts.minutes).append('M');
        }
        if (parts.rest.signum() > 0 || parts.isNothing()) {
            text.append(parts.rest.toPlainString()).append('S');
        }
        return text.toString();
    }

    private static BigDecimal plain(BigDecimal seconds) {
        return seconds.signum() == 0
                ? BigDecimal.ZERO
                : seconds.stripTrailingZeros().scale() < 0 ? seconds.setScale(0) : seconds.stripTrailingZeros();
    }

    private static final class Parts {
        private final boolean negative;
        private final BigInteger days;
        private final int hours;
        private final int minutes;
        private final BigDecimal rest;

        Parts(BigDecimal seconds) {
            negative = seconds.signum() < 0;
            BigDecimal[] byDay = seconds.abs().divideAndRemainder(DAY);
            days = byDay[0].toBigInteger();
            BigDecimal[] byHour = byDay[1].divideAndRemainder(HOUR);
            hours = byHour[0].intValue();
            BigDecimal[] byMinute = byHour[1].divideAndRemainder(MINUTE);
            minutes = byMinute[0].intValue();
            rest = plain(byMinute[1]);
        }

        boolean isNothing() {
            return days.signum() == 0 && hours == 0 && minutes == 0 && rest.signum() == 0;
        }
    }
}
