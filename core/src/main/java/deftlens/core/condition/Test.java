package deftlens.core.condition;

import deftlens.core.time.Period;
import deftlens.core.time.Unit;
import java.time.LocalDate;
import java.util.Collections;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.stream.Stream;

/**
 * The positive half of a criterion: what is asked of one field. On an empty field every test but {@link Empty} is false.
 */
public sealed interface Test {

    /** The most values one {@code is in (…)} may list. */
    int MAX_VALUES = 10_000;

    /** Equal to a value. {@code exactly} makes letter case count; it has a meaning for text fields only. */
    record Is(Operand value, boolean exactly) implements Test {}

    /** Equal to one of at least one and at most {@value Test#MAX_VALUES} values, kept in their order without repeats. */
    record In(List<Operand> values, boolean exactly) implements Test {
        public In {
            values = List.copyOf(new LinkedHashSet<>(values));
            requireSome(values.size());
        }
    }

    /** How two numbers stand. */
    enum Order {
        MORE(">"),
        AT_LEAST(">="),
        LESS("<"),
        AT_MOST("<=");

        private final String sign;

        Order(String sign) {
            this.sign = sign;
        }

        /** The sign of the language. */
        public String sign() {
            return sign;
        }
    }

    /** More or less than a number. */
    record Compare(Order order, Operand value) implements Test {}

    /** Between two numbers; both ends belong. Nothing lies between ends that are written backwards. */
    record Between(Operand low, Operand high) implements Test {}

    /** How a piece of text is looked for. */
    enum Search {
        CONTAINS("contains"),
        STARTS_WITH("starts with"),
        ENDS_WITH("ends with"),
        /** {@code *} stands for any run, {@code ?} for one character, {@code \} takes the next as it is. */
        LIKE("is like");

        private final String words;

        Search(String words) {
            this.words = words;
        }

        /** The words of the language. */
        public String words() {
            return words;
        }
    }

    /** A piece of text, or a blank for one, found in a text field. */
    record Find(Search search, Operand text, boolean exactly) implements Test {
        public Find {
            Objects.requireNonNull(search);
            requireKind(text, Operand.Text.class, "what is looked for is a text or a blank for one");
            if (text.known().filter(t -> ((Operand.Text) t).value().isEmpty()).isPresent()) {
                throw new IllegalArgumentException("an empty text is found everywhere");
            }
        }

        public Find(Search search, String text, boolean exactly) {
            this(search, new Operand.Text(text), exactly);
        }
    }

    /** The field has no value; for text, also no characters; for tags, also none. */
    record Empty() implements Test {}

    /** At least one of the tags, or with {@code all} every one of them. */
    record Tagged(boolean all, List<Operand> tags) implements Test {
        public Tagged {
            tags = List.copyOf(new LinkedHashSet<>(tags));
            requireSome(tags.size());
        }
    }

    /** How a date stands to a window {@code [s, e)}; for a single moment s = e. */
    enum DateRelation {
        /** {@code s ≤ f < e}. */
        IN("in"),
        /** {@code f < s}. */
        BEFORE("before"),
        /** {@code f ≥ e}; for a moment {@code f > s}. */
        AFTER("after"),
        /** {@code f < e}; for a moment {@code f ≤ s}. */
        UP_TO("up to"),
        /** {@code f ≥ s}. */
        FROM("from");

        private final String words;

        DateRelation(String words) {
            this.words = words;
        }

        /** The words of the language. */
        public String words() {
            return words;
        }
    }

    /** A date or moment held against a window. */
    record Dated(DateRelation stand, Period period) implements Test {
        public Dated {
            Objects.requireNonNull(stand);
            Objects.requireNonNull(period);
        }
    }

    /** From the start of the first period to the end of the second. */
    record DatedBetween(Period from, Period to) implements Test {
        public DatedBetween {
            if (from instanceof Period.Range || to instanceof Period.Range) {
                throw new IllegalArgumentException("between takes two periods, neither of them a range");
            }
        }
    }

    /** How a distance in time compares. */
    enum DistanceRelation {
        MORE_THAN("more than"),
        AT_LEAST("at least"),
        LESS_THAN("less than");

        private final String words;

        DistanceRelation(String words) {
            this.words = words;
        }

        /** The words of the language. */
        public String words() {
            return words;
        }
    }

    /**
     * {@code more than 30 days ago}: before that day. {@code at least}: up to it. {@code less than}: after it, and no later
     * than today (hours and minutes: than now). For the future, the mirror image.
     */
    record Distance(DistanceRelation far, Period away) implements Test {
        public Distance {
            Objects.requireNonNull(far);
            boolean fits = away instanceof Period.Away
                    || away instanceof Period.AskedCount(String label, boolean preset, Period shape)
                            && shape instanceof Period.Away;
            if (!fits) {
                throw new IllegalArgumentException("a distance is measured to a day or moment away from now");
            }
        }

        /** A distance of a known count. */
        public static Distance of(DistanceRelation far, Period.Side side, int count, Unit unit) {
            return new Distance(far, new Period.Away(side, count, unit));
        }

        /** The day or moment the distance is measured to; an ask's default where it has one, else a count of 1. */
        public Period.Away mark() {
            return new Operands.Distance(away).mark();
        }
    }

    /** A part of the local calendar. */
    enum Part {
        WEEKDAY("weekday"),
        MONTH("month"),
        DAY_OF_MONTH("day of month");

        private final String words;

        Part(String words) {
            this.words = words;
        }

        /** The words of the language. */
        public String words() {
            return words;
        }

        /** The largest number; weekdays run from 1, Monday. */
        public int most() {
            return switch (this) {
                case WEEKDAY -> 7;
                case MONTH -> 12;
                case DAY_OF_MONTH -> 31;
            };
        }

        /** The number of a day in this part of the calendar. */
        public int of(LocalDate day) {
            return switch (this) {
                case WEEKDAY -> day.getDayOfWeek().getValue();
                case MONTH -> day.getMonthValue();
                case DAY_OF_MONTH -> day.getDayOfMonth();
            };
        }
    }

    /** The local day falls on one of these weekdays, in one of these months of any year, on one of these days of the month. */
    record OnCalendar(Part part, SortedSet<Integer> numbers) implements Test {
        public OnCalendar {
            Objects.requireNonNull(part);
            numbers = Collections.unmodifiableSortedSet(new TreeSet<>(numbers));
            requireSome(numbers.size());
            if (numbers.first() < 1 || numbers.last() > part.most()) {
                throw new IllegalArgumentException(part.words() + "s run from 1 to " + part.most());
            }
        }
    }

    /** The local wall clock of a moment is in {@code [from, to)}; over midnight when {@code to} is before {@code from}. */
    record ClockBetween(Operand from, Operand to) implements Test {
        public ClockBetween {
            requireTime(from);
            requireTime(to);
        }
    }

    /** A time of day before, after (not at), from (at or after) or up to (at or before) another. */
    record Timed(DateRelation stand, Operand at) implements Test {
        public Timed {
            if (stand == DateRelation.IN) {
                throw new IllegalArgumentException("a time of day has no length to lie in");
            }
            requireTime(at);
        }
    }

    /** A time of day in {@code [from, to)}; over midnight when {@code to} is before {@code from}. */
    record TimeBetween(Operand from, Operand to) implements Test {
        public TimeBetween {
            requireTime(from);
            requireTime(to);
        }
    }

    /** How a date or moment stands to the working calendar. */
    enum Work {
        IN_HOURS("in working hours"),
        OUTSIDE_HOURS("outside working hours"),
        WORKING_DAY("on a working day"),
        DAY_OFF("on a day off");

        private final String words;

        Work(String words) {
            this.words = words;
        }

        /** The words of the language. */
        public String words() {
            return words;
        }
    }

    /** In or outside the hours, or on or off the days, of the organisation's working calendar. */
    record Working(Work work) implements Test {
        public Working {
            Objects.requireNonNull(work);
        }
    }

    /** How a span stands to a window {@code [s, e)}. */
    enum Extent {
        /** {@code start < e} and ({@code end > s}, or a span without length at or after {@code s}). */
        OVERLAPS("overlaps"),
        /** {@code start ≥ s} and {@code end ≤ e}. */
        WITHIN("within"),
        /** {@code start ≤ s} and {@code end ≥ e}. */
        COVERS("covers"),
        /** {@code s ≤ start < e}. */
        STARTS_IN("starts in"),
        /** {@code s ≤ end < e}; for a span with a last day, that day. */
        ENDS_IN("ends in");

        private final String words;

        Extent(String words) {
            this.words = words;
        }

        /** The words of the language. */
        public String words() {
            return words;
        }
    }

    /** A span held against a window. A span without an end never ends; nothing stands so to a window written backwards. */
    record Spanned(Extent extent, Period period) implements Test {
        public Spanned {
            Objects.requireNonNull(extent);
            Objects.requireNonNull(period);
        }
    }

    /**
     * A span that is under way at any time of {@code [from, to)} by the wall clock, on at least one of the days: each stretch is
     * taken from the day it begins on, and ends on the next one when {@code to} is before {@code from}.
     *
     * @param days the days that stretches begin on, at most {@value #MOST_DAYS} when it is resolved
     */
    record SpannedDaily(Operand from, Operand to, Period days) implements Test {
        /** The most days that are looked through one by one. */
        public static final int MOST_DAYS = 400;

        public SpannedDaily {
            requireTime(from);
            requireTime(to);
            Objects.requireNonNull(days);
        }
    }

    /** In at least one of the field's bands of these names, or blanks for names, kept in their order without repeats. */
    record Banded(List<Operand> bands) implements Test {
        public Banded {
            bands = List.copyOf(new LinkedHashSet<>(bands));
            requireSome(bands.size());
            bands.forEach(
                    band -> requireKind(band, Operand.Text.class, "a band is named by a text or a blank for one"));
        }

        /** In at least one of the bands of these names. */
        public static Banded of(String... names) {
            return new Banded(Stream.of(names).<Operand>map(Operand.Text::new).toList());
        }

        /** The names in it, defaults of blanks among them. */
        public List<String> names() {
            return bands.stream()
                    .flatMap(band -> band.known().stream())
                    .map(band -> ((Operand.Text) band).value())
                    .toList();
        }

        /**
         * The same test after bands were given other names.
         *
         * @param names the new names by the old ones, which are in small letters
         */
        public Banded renamed(Map<String, String> names) {
            return new Banded(bands.stream().map(band -> renamed(band, names)).toList());
        }

        private static Operand renamed(Operand band, Map<String, String> names) {
            return switch (band) {
                case Operand.Text(String name) ->
                    new Operand.Text(names.getOrDefault(name.toLowerCase(Locale.ROOT), name));
                case Operand.Ask(String label, Optional<Operand> preset) ->
                    new Operand.Ask(label, preset.map(p -> renamed(p, names)));
                default -> band;
            };
        }
    }

    /** A regular expression found anywhere in a text field. */
    record Matches(String pattern, boolean exactly) implements Test {
        public Matches {
            pattern = Regex.withoutEscapedSlashes(pattern);
            new Regex(pattern, !exactly);
        }
    }

    /** How one field stands to another. */
    enum Relation {
        IS("is"),
        EQUAL("="),
        MORE(">"),
        AT_LEAST(">="),
        LESS("<"),
        AT_MOST("<="),
        BEFORE("before"),
        AFTER("after"),
        FROM("from"),
        UP_TO("up to"),
        ON("on");

        private final String words;

        Relation(String words) {
            this.words = words;
        }

        /** The words of the language. */
        public String words() {
            return words;
        }

        /** Whether the relation holds for the sign of a comparison of the two values. */
        public boolean holds(int comparison) {
            return switch (this) {
                case IS, EQUAL, ON -> comparison == 0;
                case MORE, AFTER -> comparison > 0;
                case AT_LEAST, FROM -> comparison >= 0;
                case LESS, BEFORE -> comparison < 0;
                case AT_MOST, UP_TO -> comparison <= 0;
            };
        }
    }

    /** What is added to the other field before it is compared. */
    sealed interface Offset {

        /** A length of time; negative for earlier. Months and longer clamp to the month's last day. */
        record Time(int count, Unit unit) implements Offset {
            public Time {
                int most = switch (unit) {
                    case MINUTE, HOUR, DAY -> Period.MAX_COUNT;
                    case WEEK -> 52_000;
                    case MONTH -> 12_000;
                    case QUARTER -> 4_000;
                    case YEAR -> 1_000;
                    default ->
                        throw new IllegalArgumentException(
                                "a field is offset by minutes, hours, days, weeks, months, quarters or years, not by "
                                        + unit.plural());
                };
                if (count == 0 || Math.abs(count) > most) {
                    throw new IllegalArgumentException("an offset here runs from 1 to " + unit.counted(most));
                }
            }
        }

        /** A duration; negative for less. */
        record Length(Operand.Duration duration) implements Offset {
            public Length {
                if (duration.seconds().signum() == 0) {
                    throw new IllegalArgumentException("an offset of nothing says nothing");
                }
            }
        }

        /** A number; negative for less. */
        record Amount(Operand.Number number) implements Offset {
            public Amount {
                if (number.value().signum() == 0) {
                    throw new IllegalArgumentException("an offset of nothing says nothing");
                }
            }
        }
    }

    /**
     * One field held against another of the same record; a date and a moment may meet. FieldComparison a date, a moment is
     * compared by its local day. False when either is empty.
     *
     * @param other the key of the other field
     * @param exactly whether letter case counts; for text fields only
     */
    record FieldComparison(Relation relation, String other, Optional<Offset> offset, boolean exactly) implements Test {
        public FieldComparison {
            Objects.requireNonNull(relation);
            Objects.requireNonNull(other);
            Objects.requireNonNull(offset);
        }
    }

    /**
     * The field's value is also that of a record in a condition of its own, in another register or in the same one.
     *
     * @param register the key of that register
     * @param where the condition there, in its normal form
     */
    record Related(String register, Condition where) implements Test {
        public Related {
            Objects.requireNonNull(register);
            where = where.normal();
        }
    }

    /** Whether the language spells the exact opposite in the criterion itself ({@code is not}, {@code not in}, …). */
    default boolean hasOpposite() {
        return Verb.of(this).opposite().isPresent();
    }

    private static void requireTime(Operand value) {
        requireKind(value, Operand.Time.class, "a time of day or a blank for one has to stand here");
    }

    private static void requireKind(Operand value, Class<? extends Operand> kind, String otherwise) {
        if (!value.known().map(kind::isInstance).orElse(true)) {
            throw new IllegalArgumentException(otherwise);
        }
    }

    private static void requireSome(int size) {
        if (size == 0) {
            throw new IllegalArgumentException("a list needs at least one value");
        }
        if (size > MAX_VALUES) {
            throw new IllegalArgumentException("a list holds at most " + MAX_VALUES + " values");
        }
    }
}
