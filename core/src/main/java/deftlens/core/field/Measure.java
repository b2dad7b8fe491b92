package deftlens.core.field;

import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * A figure about several records: how many they are, or what the values of one of their fields come to. Records without a value
 * of the field count for nothing, so that the average of 10, 20 and an empty is 15; of no values at all there is no figure, but for
 * numbers of things, which are 0 then.
 *
 * @param field what is counted, added up or compared; none for {@link Function#COUNT}
 * @param percent for {@link Function#PERCENTILE} what part of the values is at or below the figure, 1 to 99; none for others
 */
public record Measure(Function function, Optional<Field> field, Optional<Integer> percent) {

    /** The percentile where none is said. */
    public static final int USUAL_PERCENT = 90;

    /** What is done with the values of several records. */
    public enum Function {
        /** The number of records, with and without values. */
        COUNT,
        /** The number of values that differ from one another, letter case and all. */
        DISTINCT,
        /** The sum, exact. */
        SUM,
        /** The arithmetic mean, to at least 16 digits. */
        AVERAGE,
        /** The value in the middle, or halfway between the two that are: exact. */
        MEDIAN,
        /**
         * The least value that so many percent of the values are at or below: always the value of a record. Of 1 to 10, the 90th is 9 and
         * the 91st is 10.
         */
        PERCENTILE,
        /** The least number, the earliest date or time. */
        MIN,
        /** The greatest number, the latest date or time. */
        MAX;

        /** Its name in the API and in files: {@code average}. */
        public String label() {
            return name().toLowerCase(Locale.ROOT);
        }

        /** The functions that fit a field of a type, the usual one first. */
        public static List<Function> of(FieldType type) {
            return switch (type) {
                case NUMBER, MONEY, DURATION -> List.of(SUM, AVERAGE, MEDIAN, PERCENTILE, MIN, MAX, DISTINCT);
                case DATE, MOMENT, TIME -> List.of(MIN, MAX, DISTINCT);
                case TEXT, CHOICE, PERSON -> List.of(DISTINCT);
                // Of two values the number says nothing; a record has several tags; a span is a matter of its two ends.
                case YES_NO, TAGS, SPAN -> List.of();
            };
        }

        /** What it is called before the name of a field of a type: {@code sum of}, {@code earliest}. */
        public String words(FieldType type) {
            return switch (this) {
                case COUNT -> "number of records";
                case DISTINCT -> "different values of";
                case SUM -> "sum of";
                case AVERAGE -> "average of";
                case MEDIAN -> "median of";
                case PERCENTILE -> "percentile of";
                case MIN ->
                    switch (type) {
                        case DATE, MOMENT, TIME -> "earliest";
                        case DURATION -> "shortest";
                        default -> "least";
                    };
                case MAX ->
                    switch (type) {
                        case DATE, MOMENT, TIME -> "latest";
                        case DURATION -> "longest";
                        default -> "most";
                    };
            };
        }

        /** Whether the figures of groups that have no record in common add up to the figure of all of them. */
        public boolean addsUp() {
            return this == COUNT || this == SUM;
        }

        /** Whether it reckons with numbers, so that what is no number has to be left out. */
        public boolean reckons() {
            return switch (this) {
                case SUM, AVERAGE, MEDIAN, PERCENTILE, MIN, MAX -> true;
                case COUNT, DISTINCT -> false;
            };
        }
    }

    /**
     * A figure about records.
     *
     * @throws IllegalArgumentException where the function does not fit the field; its message is a part of a sentence
     */
    public Measure {
        if (function == Function.COUNT ? field.isPresent() : field.isEmpty()) {
            throw new IllegalArgumentException(
                    function == Function.COUNT ? "records are counted without a field" : "the field is missing");
        }
        if (function == Function.PERCENTILE) {
            percent = percent.or(() -> Optional.of(USUAL_PERCENT));
        }
        percent.ifPresent(p -> {
            if (function != Function.PERCENTILE) {
                throw new IllegalArgumentException("only a percentile has a percent");
            }
            if (p < 1 || p > 99) {
                throw new IllegalArgumentException("a percentile is one of 1 to 99, not " + p);
            }
        });
        field.filter(f -> !Function.of(f.type()).contains(function)).ifPresent(f -> {
            throw new IllegalArgumentException("there is no " + function.label() + " of " + f.label() + ", which holds "
                    + f.type().words());
        });
    }

    /** A figure about records or a field; the usual one where it is a percentile. */
    public Measure(Function function, Optional<Field> field) {
        this(function, field, Optional.empty());
    }

    /** A figure about a field; the usual one where it is a percentile. */
    public static Measure of(Function function, Field field) {
        return new Measure(function, Optional.of(field));
    }

    /** A percentile of a field. */
    public static Measure percentile(int percent, Field field) {
        return new Measure(Function.PERCENTILE, Optional.of(field), Optional.of(percent));
    }

    /** What the figure is. */
    public FieldType type() {
        return switch (function) {
            case COUNT, DISTINCT -> FieldType.NUMBER;
            case SUM, AVERAGE, MEDIAN, PERCENTILE, MIN, MAX ->
                field.orElseThrow().type();
        };
    }

    /** What it is called: {@code sum of Cost}, {@code earliest Due}, {@code 90th percentile of Cost}. */
    public String words() {
        String which = percent.map(p -> p + ending(p) + " ").orElse("");
        return field.map(f -> which + function.words(f.type()) + " " + f.label())
                .orElseGet(() -> function.words(FieldType.NUMBER));
    }

    /** What it is called in statements over figures: {@code number}, {@code sum_of_cost}, {@code percentile_90_of_cost}. */
    public String key() {
        String which = function.label() + percent.map(p -> "_" + p).orElse("");
        return field.map(f -> which + "_of_" + f.key()).orElse("number");
    }

    private static String ending(int number) {
        return switch (number / 10 == 1 ? 0 : number % 10) {
            case 1 -> "st";
            case 2 -> "nd";
            case 3 -> "rd";
            default -> "th";
        };
    }
}
