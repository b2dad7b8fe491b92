package deftlens.core.field;

import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.Optional;

/**
 * What PostgreSQL holds beyond numbers and dates: {@code NaN} and {@code infinity}. They are kept as values of the same types
 * that lie beyond all others, so that they compare here as they do there: minus infinity before everything, infinity after it,
 * and {@code NaN}, which equals itself, after that.
 */
public final class Beyond {

    /** PostgreSQL's numbers have at most 131,072 digits before the point. */
    private static final int MOST_DIGITS = 131_072;

    /** Greater than every number. */
    public static final BigDecimal INFINITY = BigDecimal.ONE.scaleByPowerOfTen(MOST_DIGITS + 1);

    /** Less than every number. */
    public static final BigDecimal MINUS_INFINITY = INFINITY.negate();

    /** Greater than infinity, as PostgreSQL orders it. */
    public static final BigDecimal NOT_A_NUMBER = BigDecimal.ONE.scaleByPowerOfTen(MOST_DIGITS + 2);

    /** PostgreSQL's dates end in the year 5874897, its moments in 294276; both begin in 4714 BC. */
    private static final int LAST_YEAR = 5_874_897;

    private static final int FIRST_YEAR = -4_713;

    private static final Instant LAST_MOMENT =
            LocalDate.of(294_277, 1, 1).atStartOfDay(ZoneOffset.UTC).toInstant();
    private static final Instant FIRST_MOMENT =
            LocalDate.of(FIRST_YEAR - 1, 1, 1).atStartOfDay(ZoneOffset.UTC).toInstant();

    private Beyond() {}

    /**
     * A number as PostgreSQL writes it.
     *
     * @throws NumberFormatException where it is none
     */
    public static BigDecimal number(String written) {
        return switch (written) {
            case "NaN" -> NOT_A_NUMBER;
            case "Infinity" -> INFINITY;
            case "-Infinity" -> MINUS_INFINITY;
            default -> new BigDecimal(written);
        };
    }

    /**
     * A day as PostgreSQL writes it: {@code 2026-11-23}, {@code 0044-03-15 BC}, {@code infinity}.
     *
     * @throws java.time.DateTimeException where it is none
     */
    public static LocalDate day(String written) {
        if (written.endsWith("infinity")) {
            return written.startsWith("-") ? LocalDate.MIN : LocalDate.MAX;
        }
        boolean before = written.endsWith(" BC");
        String[] parts = (before ? written.substring(0, written.length() - 3) : written).split("-");
        int year = Integer.parseInt(parts[0]);
        return LocalDate.of(before ? 1 - year : year, Integer.parseInt(parts[1]), Integer.parseInt(parts[2]));
    }

    /** The local day of a moment; of one beyond all moments the day beyond all days. */
    public static LocalDate day(Instant instant, ZoneId zone) {
        return words(instant)
                .map(w -> w.equals("infinity") ? LocalDate.MAX : LocalDate.MIN)
                .orElseGet(() -> instant.atZone(zone).toLocalDate());
    }

    /** The number as a double where it is beyond all numbers; none for all others. */
    public static Optional<Double> asDouble(BigDecimal number) {
        return number.compareTo(NOT_A_NUMBER) == 0
                ? Optional.of(Double.NaN)
                : number.compareTo(INFINITY) == 0
                        ? Optional.of(Double.POSITIVE_INFINITY)
                        : number.compareTo(MINUS_INFINITY) == 0
                                ? Optional.of(Double.NEGATIVE_INFINITY)
                                : Optional.empty();
    }

    /** What people are told in the place of such a value; none for all others. */
    public static Optional<String> words(Object value) {
        return switch (value) {
            case BigDecimal number ->
                asDouble(number).map(d -> d.isNaN() ? "not a number" : d > 0 ? "infinity" : "minus infinity");
            case LocalDate day -> ofYear(day.getYear());
            case Instant instant ->
                instant.isAfter(LAST_MOMENT)
                        ? Optional.of("infinity")
                        : instant.isBefore(FIRST_MOMENT) ? Optional.of("minus infinity") : Optional.empty();
            case null, default -> Optional.empty();
        };
    }

    private static Optional<String> ofYear(int year) {
        return year > LAST_YEAR
                ? Optional.of("infinity")
                : year < FIRST_YEAR - 1 ? Optional.of("minus infinity") : Optional.empty();
    }
}
