package deftlens.core.condition;

import deftlens.core.time.Period;
import deftlens.core.time.Unit;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Objects;

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

    /** A piece of text found in a text field. */
    record Find(Search search, String text, boolean exactly) implements Test {
        public Find {
            Objects.requireNonNull(search);
            new Operand.Text(text);
            if (text.isEmpty()) {
                throw new IllegalArgumentException("an empty text is found everywhere");
            }
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
    enum Stand {
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

        Stand(String words) {
            this.words = words;
        }

        /** The words of the language. */
        public String words() {
            return words;
        }
    }

    /** A date or moment held against a window. */
    record Dated(Stand stand, Period period) implements Test {
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
    enum Far {
        MORE_THAN("more than"),
        AT_LEAST("at least"),
        LESS_THAN("less than");

        private final String words;

        Far(String words) {
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
    record Distance(Far far, Period.Side side, int count, Unit unit) implements Test {
        public Distance {
            Objects.requireNonNull(far);
            new Period.Away(side, count, unit);
        }

        /** The day or moment the distance is measured to. */
        public Period.Away mark() {
            return new Period.Away(side, count, unit);
        }
    }

    /** Whether the language spells the exact opposite in the criterion itself ({@code is not}, {@code not in}, …). */
    default boolean hasOpposite() {
        return switch (this) {
            case Is t -> true;
            case In t -> true;
            case Empty t -> true;
            case Find(Search search, String text, boolean exactly) -> search == Search.CONTAINS;
            case Tagged(boolean all, List<Operand> tags) -> !all;
            case Dated(Stand stand, Period period) -> stand == Stand.IN;
            case Compare t -> false;
            case Between t -> false;
            case DatedBetween t -> false;
            case Distance t -> false;
        };
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
