package deftlens.core.time;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.Objects;
import java.util.Optional;

/**
 * A date phrase: what a person says for a stretch of time. It stands for one half-open {@link Window} once it is read
 * at a moment in a zone (see {@link Windows}). Immutable; equal when the phrases are the same, not when today's windows
 * happen to be.
 *
 * <p>Years run from 1 to 9999 and counts from 0 (or 1 where 0 would mean nothing) to {@value #MAX_COUNT}; factories and
 * constructors refuse anything else with {@link IllegalArgumentException}.
 */
public sealed interface Period {

    /** The largest count a phrase may carry: {@code last 100000 days} is a little under 274 years. */
    int MAX_COUNT = 100_000;

    /** Which of the calendar periods around now. */
    enum Which {
        LAST,
        THIS,
        NEXT
    }

    /** Towards the past or the future. */
    enum Side {
        LAST,
        NEXT
    }

    /** Yesterday (-1), today (0) or tomorrow (1). */
    record NearDay(int offset) implements Period {
        public NearDay {
            require(offset >= -1 && offset <= 1, "a near day is yesterday, today or tomorrow");
        }
    }

    /** {@code this / last / next week, month, …}: one whole calendar period. */
    record Calendar(Which which, Unit unit) implements Period {
        public Calendar {
            Objects.requireNonNull(which);
            require(unit.isCalendar(), "no calendar period is named by " + unit.singular());
        }
    }

    /** {@code last 7 days}, {@code next 6 months}, {@code last 4 hours}: runs up to, or on from, now. */
    record Running(Side side, int count, Unit unit) implements Period {
        public Running {
            Objects.requireNonNull(side);
            requireCount(count, 1);
            require(unit.isCounted(), "no running window is counted in " + unit.plural());
        }
    }

    /** {@code last 3 full months}: whole calendar periods before or after the current one. */
    record Full(Side side, int count, Unit unit) implements Period {
        public Full {
            Objects.requireNonNull(side);
            requireCount(count, 1);
            require(unit.isWhole(), "there are no full " + unit.plural());
        }
    }

    /** {@code 30 days ago}, {@code 2 hours from now}: one local day, or a moment for hours and minutes. */
    record Away(Side side, int count, Unit unit) implements Period {
        public Away {
            Objects.requireNonNull(side);
            requireCount(count, 0);
            require(unit.isCounted(), "no distance is counted in " + unit.plural());
        }
    }

    /** {@code Friday of last week}. */
    record WeekdayOf(DayOfWeek day, Which which) implements Period {
        public WeekdayOf {
            Objects.requireNonNull(day);
            Objects.requireNonNull(which);
        }
    }

    /** {@code start of P}: its first day. P must be made of days. */
    record StartOf(Period of) implements Period {
        public StartOf {
            require(isSingle(of), "only a single period of whole days has a first day");
        }
    }

    /** {@code end of P}: its last day. P must be made of days. */
    record EndOf(Period of) implements Period {
        public EndOf {
            require(isSingle(of), "only a single period of whole days has a last day");
        }
    }

    /** A named day, ISO 8601: {@code 2026-11-23}. */
    record Day(LocalDate day) implements Period {
        public Day {
            requireYear(day.getYear());
        }
    }

    /** A named month, ISO 8601: {@code 2026-11}. */
    record Month(YearMonth month) implements Period {
        public Month {
            requireYear(month.getYear());
        }
    }

    /** A quarter of the calendar year, 1 to 4: {@code 2026-Q4}. */
    record Quarter(int year, int quarter) implements Period {
        public Quarter {
            requireYear(year);
            require(quarter >= 1 && quarter <= 4, "quarters run from Q1 to Q4");
        }
    }

    /** A half of the calendar year, 1 or 2: {@code 2026-H2}. */
    record Half(int year, int half) implements Period {
        public Half {
            requireYear(year);
            require(half == 1 || half == 2, "halves are H1 and H2");
        }
    }

    /** A week of the ISO 8601 week calendar (from Monday, whatever the organisation's week): {@code 2026-W48}. */
    record Week(int weekYear, int week) implements Period {
        public Week {
            requireYear(weekYear);
            require(
                    week >= 1 && week <= weeksOf(weekYear),
                    weekYear + " has ISO weeks W01 to W" + weeksOf(weekYear) + " only");
        }
    }

    /** A calendar year: {@code 2026}. */
    record Year(int year) implements Period {
        public Year {
            requireYear(year);
        }
    }

    /** A fiscal year, named by the calendar year it ends in: {@code FY2026}. */
    record FiscalYear(int year) implements Period {
        public FiscalYear {
            requireYear(year);
        }
    }

    /** A quarter of a fiscal year, 1 to 4: {@code FY2026-Q2}. */
    record FiscalQuarter(int year, int quarter) implements Period {
        public FiscalQuarter {
            requireYear(year);
            require(quarter >= 1 && quarter <= 4, "quarters run from Q1 to Q4");
        }
    }

    /**
     * A moment by the local clock, read in the zone: {@code 2026-11-23T14:30}. One with an offset (RFC 3339,
     * {@code 2026-10-25T01:30+01:00}) is the same moment in every zone; without one, {@link LocalTimes} says what is meant.
     */
    record Moment(LocalDateTime at, Optional<ZoneOffset> offset) implements Period {

        /** A moment by the local clock alone. */
        public Moment(LocalDateTime at) {
            this(at, Optional.empty());
        }

        /** An instant by the local clock of a zone, with its offset where the clock shows that time twice. */
        public static Moment of(Instant instant, ZoneId zone) {
            Instant kept = instant.truncatedTo(ChronoUnit.MICROS);
            return new Moment(LocalDateTime.ofInstant(kept, zone), LocalTimes.offset(kept, zone));
        }

        public Moment {
            requireYear(at.getYear());
            require(at.getNano() % 1_000 == 0, "a moment is kept to the microsecond");
        }
    }

    /** {@code P to Q}: from the start of the first to the end of the second. Neither may be a range itself. */
    record Range(Period from, Period to) implements Period {
        public Range {
            require(!(from instanceof Range) && !(to instanceof Range), "a range runs from one period to another");
        }
    }

    /**
     * A blank in the place of a date phrase, for the reader of a view to fill in.
     *
     * @param label what the reader is asked
     * @param preset the phrase until the reader gives another; itself no ask and no range
     */
    record Asked(String label, Optional<Period> preset) implements Period {
        public Asked {
            requireAskLabel(label);
            require(
                    preset.isEmpty() || !(preset.get() instanceof Asked || preset.get() instanceof AskedCount),
                    "the default of an ask is a date phrase");
            require(preset.isEmpty() || !(preset.get() instanceof Range), "the default of an ask is no range");
        }
    }

    /**
     * A blank in the place of a count: {@code last {days = 30} days}.
     *
     * @param label what the reader is asked
     * @param hasPreset whether the count of {@code shape} holds until the reader gives another
     * @param shape the phrase around it: a {@link Running}, {@link Full} or {@link Away}
     */
    record AskedCount(String label, boolean hasPreset, Period shape) implements Period {
        public AskedCount {
            requireAskLabel(label);
            require(
                    shape instanceof Running || shape instanceof Full || shape instanceof Away,
                    "a count is asked for in a running window, in full periods or in a distance");
            if (!hasPreset) {
                shape = counted(shape, 1);
            }
        }

        /** The phrase with a count filled in. */
        public Period with(int count) {
            return counted(shape, count);
        }

        private static Period counted(Period shape, int count) {
            return switch (shape) {
                case Running(Side side, int c, Unit unit) -> new Running(side, count, unit);
                case Full(Side side, int c, Unit unit) -> new Full(side, count, unit);
                case Away(Side side, int c, Unit unit) -> new Away(side, count, unit);
                default -> throw new IllegalArgumentException("nothing is counted in this phrase");
            };
        }
    }

    /** The longest label of an ask, in characters. */
    int MAX_LABEL = 60;

    /** Refuses a label that could not be written in the language. */
    static void requireAskLabel(String label) {
        require(
                !label.isBlank()
                        && label.equals(label.strip())
                        && label.length() <= MAX_LABEL
                        && label.codePoints()
                                .noneMatch(c -> c == '{'
                                        || c == '}'
                                        || c == '='
                                        || c == '"'
                                        || Character.isISOControl(c)
                                        || Character.getType(c) == Character.SURROGATE),
                "an ask has a label of 1 to " + MAX_LABEL + " characters, without braces, quotes or =");
    }

    /** The phrase that counts now: an ask's default, anything else as it is. */
    default Period settled() {
        return switch (this) {
            case Asked(String label, Optional<Period> preset) -> preset.orElseThrow(() -> new Unanswered(label));
            case AskedCount(String label, boolean hasPreset, Period shape) -> {
                if (!hasPreset) {
                    throw new Unanswered(label);
                }
                yield shape;
            }
            default -> this;
        };
    }

    /** Whether the window depends on what the reader fills in. */
    default boolean isAsked() {
        return switch (this) {
            case Asked p -> true;
            case AskedCount p -> true;
            case Range(Period from, Period to) -> from.isAsked() || to.isAsked();
            default -> false;
        };
    }

    /** Whether the window is made of instants (hours, minutes, moments) and not of local days. */
    default boolean isClock() {
        return switch (this) {
            case Running(Side side, int count, Unit unit) -> unit.isClock();
            case Away(Side side, int count, Unit unit) -> unit.isClock();
            case Moment moment -> true;
            case Range(Period from, Period to) -> from.isClock() || to.isClock();
            case Asked(String label, Optional<Period> preset) ->
                preset.map(Period::isClock).orElse(false);
            case AskedCount(String label, boolean hasPreset, Period shape) -> shape.isClock();
            default -> false;
        };
    }

    /** Whether the window is a single moment, with no length: {@code 2 hours ago}. */
    default boolean isMoment() {
        return switch (this) {
            case Moment moment -> true;
            case Away(Side side, int count, Unit unit) -> unit.isClock();
            case Asked(String label, Optional<Period> preset) ->
                preset.map(Period::isMoment).orElse(false);
            case AskedCount(String label, boolean hasPreset, Period shape) -> shape.isMoment();
            default -> false;
        };
    }

    /** Whether the window moves with the day it is read on. */
    default boolean isRolling() {
        return switch (this) {
            case NearDay p -> true;
            case Calendar p -> true;
            case Running p -> true;
            case Full p -> true;
            case Away p -> true;
            case WeekdayOf p -> true;
            case StartOf(Period of) -> of.isRolling();
            case EndOf(Period of) -> of.isRolling();
            case Range(Period from, Period to) -> from.isRolling() || to.isRolling();
            case Day p -> false;
            case Month p -> false;
            case Quarter p -> false;
            case Half p -> false;
            case Week p -> false;
            case Year p -> false;
            case FiscalYear p -> false;
            case FiscalQuarter p -> false;
            case Moment p -> false;
            case Asked(String label, Optional<Period> preset) ->
                preset.map(Period::isRolling).orElse(true);
            case AskedCount p -> true;
        };
    }

    /** The number of ISO 8601 weeks of a week-based year: 52 or 53. */
    static int weeksOf(int weekYear) {
        return (int) LocalDate.of(weekYear, 12, 28).get(java.time.temporal.IsoFields.WEEK_OF_WEEK_BASED_YEAR);
    }

    private static boolean isSingle(Period period) {
        return !period.isClock()
                && !period.isAsked()
                && !(period instanceof Range || period instanceof StartOf || period instanceof EndOf);
    }

    private static void require(boolean condition, String message) {
        if (!condition) {
            throw new IllegalArgumentException(message);
        }
    }

    private static void requireCount(int count, int least) {
        require(count >= least && count <= MAX_COUNT, "a count here runs from " + least + " to " + MAX_COUNT);
    }

    private static void requireYear(int year) {
        require(year >= 1 && year <= 9999, "years run from 0001 to 9999");
    }
}
