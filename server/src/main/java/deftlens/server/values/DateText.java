package deftlens.server.values;

import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Dates and times as people's files write them. */
public final class DateText {

    /** Which of two short numbers is the day. A date that begins with its year reads the same either way. */
    public enum Order {
        DAY_FIRST,
        MONTH_FIRST
    }

    /**
     * A date that was read.
     *
     * @param time the time of day, where there is one
     * @param offset the offset from UTC, where there is one
     * @param either whether the other order would give another day
     */
    public record Read(LocalDate day, Optional<LocalTime> time, Optional<ZoneOffset> offset, boolean either) {
        /** The local date and time; midnight where no time was written. */
        public LocalDateTime local() {
            return day.atTime(time.orElse(LocalTime.MIDNIGHT));
        }
    }

    private static final String CLOCK =
            "(?:[T ]\\s*(\\d{1,2}):(\\d{2})(?::(\\d{2})(?:[.,](\\d{1,9}))?)?\\s*([AaPp])?\\.?[Mm]?\\.?\\s*(Z|UTC|[+-]\\d{2}(?::?\\d{2})?)?)?";
    private static final Pattern NUMBERS =
            Pattern.compile("(\\d{1,4})([-/. ])(\\d{1,2}|\\p{L}{3,9})\\.?\\2(\\d{1,4})" + CLOCK);
    private static final Pattern MONTH_BEFORE =
            Pattern.compile("(\\p{L}{3,9})\\.? (\\d{1,2})(?:st|nd|rd|th)?,? (\\d{4})" + CLOCK);
    private static final Pattern TIME =
            Pattern.compile("(\\d{1,2}):(\\d{2})(?::(\\d{2})(?:[.,](\\d{1,9}))?)?\\s*([AaPp])?\\.?[Mm]?\\.?");
    private static final Map<String, Integer> MONTHS = Map.ofEntries(
            Map.entry("jan", 1),
            Map.entry("feb", 2),
            Map.entry("mar", 3),
            Map.entry("apr", 4),
            Map.entry("may", 5),
            Map.entry("jun", 6),
            Map.entry("jul", 7),
            Map.entry("aug", 8),
            Map.entry("sep", 9),
            Map.entry("oct", 10),
            Map.entry("nov", 11),
            Map.entry("dec", 12));
    /** Years of two digits below this one are in this century. */
    private static final int PIVOT = 70;

    private DateText() {}

    /** Reads a date, with or without a time of day; nothing when it is none. */
    public static Optional<Read> date(String text, Order order) {
        if (text.length() < 6 || text.length() > 40) {
            return Optional.empty();
        }
        try {
            Matcher numbers = NUMBERS.matcher(text);
            if (numbers.matches()) {
                return numbers(numbers, order);
            }
            Matcher named = MONTH_BEFORE.matcher(text);
            if (named.matches()) {
                Integer month = month(named.group(1));
                return month == null
                        ? Optional.empty()
                        : Optional.of(read(
                                LocalDate.of(year(named.group(3)), month, Integer.parseInt(named.group(2))),
                                named,
                                4,
                                false));
            }
            return Optional.empty();
        } catch (DateTimeException e) {
            return Optional.empty();
        }
    }

    private static Optional<Read> numbers(Matcher m, Order order) {
        String first = m.group(1);
        String middle = m.group(3);
        String last = m.group(4);
        Integer named = Character.isLetter(middle.charAt(0)) ? month(middle) : null;
        if (Character.isLetter(middle.charAt(0)) && named == null) {
            return Optional.empty();
        }
        if (first.length() == 4) {
            return last.length() > 2
                    ? Optional.empty()
                    : Optional.of(read(
                            LocalDate.of(
                                    Integer.parseInt(first),
                                    named != null ? named : Integer.parseInt(middle),
                                    Integer.parseInt(last)),
                            m,
                            5,
                            false));
        }
        if (first.length() > 2 || last.length() == 3 || last.length() == 1) {
            return Optional.empty();
        }
        int a = Integer.parseInt(first);
        if (named != null) {
            return Optional.of(read(LocalDate.of(year(last), named, a), m, 5, false));
        }
        int b = Integer.parseInt(middle);
        int day = order == Order.DAY_FIRST ? a : b;
        int month = order == Order.DAY_FIRST ? b : a;
        return Optional.of(read(LocalDate.of(year(last), month, day), m, 5, a <= 12 && b <= 12 && a != b));
    }

    private static Read read(LocalDate day, Matcher m, int clock, boolean either) {
        Optional<LocalTime> time = m.group(clock) == null ? Optional.empty() : Optional.of(time(m, clock));
        Optional<ZoneOffset> offset = Optional.ofNullable(m.group(clock + 5))
                .map(o -> o.equals("Z") || o.equals("UTC")
                        ? ZoneOffset.UTC
                        : ZoneOffset.of(o.length() == 5 ? o.substring(0, 3) + ":" + o.substring(3) : o));
        return new Read(day, time, offset, either);
    }

    private static LocalTime time(Matcher m, int at) {
        int hour = Integer.parseInt(m.group(at));
        String half = m.group(at + 4);
        if (half != null) {
            if (hour < 1 || hour > 12) {
                throw new DateTimeException("no such hour");
            }
            hour = hour % 12 + (half.equalsIgnoreCase("p") ? 12 : 0);
        }
        String fraction = m.group(at + 3);
        int nanos = fraction == null ? 0 : Integer.parseInt((fraction + "00000000").substring(0, 9));
        return LocalTime.of(
                hour,
                Integer.parseInt(m.group(at + 1)),
                m.group(at + 2) == null ? 0 : Integer.parseInt(m.group(at + 2)),
                nanos / 1_000 * 1_000);
    }

    /** Reads a time of day. */
    public static Optional<LocalTime> time(String text) {
        Matcher m = TIME.matcher(text);
        try {
            return text.length() <= 24 && m.matches() ? Optional.of(time(m, 1)) : Optional.empty();
        } catch (DateTimeException e) {
            return Optional.empty();
        }
    }

    private static Integer month(String name) {
        return MONTHS.get(name.substring(0, 3).toLowerCase(Locale.ROOT));
    }

    private static int year(String digits) {
        int year = Integer.parseInt(digits);
        return digits.length() > 2 ? year : year < PIVOT ? 2000 + year : 1900 + year;
    }
}
