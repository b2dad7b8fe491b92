package deftlens.core.statement;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.FieldType;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * The tests of the language by name: which words, for which fields, followed by what. An interface offers these, the
 * JSON form of a criterion names them, completion suggests them.
 */
public final class Verbs {

    /** What follows a verb. */
    public enum Takes {
        NOTHING,
        VALUE,
        VALUES,
        TEXT,
        NUMBER,
        TWO_NUMBERS,
        PERIOD,
        TWO_PERIODS,
        /** A count and a unit, then {@code ago} or {@code from now}. */
        DISTANCE
    }

    private static final Set<FieldType> ALL = EnumSet.allOf(FieldType.class);
    private static final Set<FieldType> WORDED = EnumSet.of(FieldType.TEXT, FieldType.CHOICE, FieldType.PERSON);
    private static final Set<FieldType> SINGLE =
            EnumSet.of(FieldType.TEXT, FieldType.CHOICE, FieldType.PERSON, FieldType.YES_NO);
    private static final Set<FieldType> NUMERIC = EnumSet.of(FieldType.NUMBER, FieldType.MONEY);
    private static final Set<FieldType> LISTED =
            EnumSet.of(FieldType.TEXT, FieldType.CHOICE, FieldType.PERSON, FieldType.NUMBER, FieldType.MONEY);
    private static final Set<FieldType> TEMPORAL = EnumSet.of(FieldType.DATE, FieldType.MOMENT);

    /** One test by its words. */
    public enum Verb {
        IS("is", Takes.VALUE, SINGLE),
        IS_NOT("is not", Takes.VALUE, SINGLE),
        IS_IN("is in", Takes.VALUES, LISTED),
        IS_NOT_IN("is not in", Takes.VALUES, LISTED),
        CONTAINS("contains", Takes.TEXT, Set.of(FieldType.TEXT)),
        DOES_NOT_CONTAIN("does not contain", Takes.TEXT, Set.of(FieldType.TEXT)),
        STARTS_WITH("starts with", Takes.TEXT, Set.of(FieldType.TEXT)),
        ENDS_WITH("ends with", Takes.TEXT, Set.of(FieldType.TEXT)),
        IS_LIKE("is like", Takes.TEXT, Set.of(FieldType.TEXT)),
        EQUAL("=", Takes.NUMBER, NUMERIC),
        NOT_EQUAL("!=", Takes.NUMBER, NUMERIC),
        AT_LEAST(">=", Takes.NUMBER, NUMERIC),
        MORE(">", Takes.NUMBER, NUMERIC),
        AT_MOST("<=", Takes.NUMBER, NUMERIC),
        LESS("<", Takes.NUMBER, NUMERIC),
        BETWEEN("between", Takes.TWO_NUMBERS, NUMERIC),
        HAS_ANY_OF("has any of", Takes.VALUES, Set.of(FieldType.TAGS)),
        HAS_ALL_OF("has all of", Takes.VALUES, Set.of(FieldType.TAGS)),
        HAS_NONE_OF("has none of", Takes.VALUES, Set.of(FieldType.TAGS)),
        IN("in", Takes.PERIOD, TEMPORAL),
        NOT_IN("not in", Takes.PERIOD, TEMPORAL),
        BEFORE("before", Takes.PERIOD, TEMPORAL),
        AFTER("after", Takes.PERIOD, TEMPORAL),
        FROM("from", Takes.PERIOD, TEMPORAL),
        UP_TO("up to", Takes.PERIOD, TEMPORAL),
        BETWEEN_DATES("between", Takes.TWO_PERIODS, TEMPORAL),
        MORE_THAN("more than", Takes.DISTANCE, TEMPORAL),
        AT_LEAST_AWAY("at least", Takes.DISTANCE, TEMPORAL),
        LESS_THAN("less than", Takes.DISTANCE, TEMPORAL),
        IS_EMPTY("is empty", Takes.NOTHING, ALL),
        IS_NOT_EMPTY("is not empty", Takes.NOTHING, ALL);

        private final String words;
        private final Takes takes;
        private final Set<FieldType> types;

        Verb(String words, Takes takes, Set<FieldType> types) {
            this.words = words;
            this.takes = takes;
            this.types = types;
        }

        /** The words of the language. */
        public String words() {
            return words;
        }

        /** What follows the words. */
        public Takes takes() {
            return takes;
        }

        /** Whether the verb fits a field of the type. */
        public boolean fits(FieldType type) {
            return types.contains(type);
        }
    }

    private Verbs() {}

    /** The verbs that fit a type, the usual ones first. */
    public static List<Verb> of(FieldType type) {
        return Arrays.stream(Verb.values()).filter(v -> v.fits(type)).toList();
    }

    /** The verb of these words for a type. */
    public static Optional<Verb> named(String words, FieldType type) {
        return of(type).stream().filter(v -> v.words().equals(words)).findFirst();
    }

    /** The words of the verbs that fit a type. */
    static List<String> words(FieldType type) {
        List<String> words = new ArrayList<>();
        of(type).forEach(verb -> words.add(verb.words()));
        return words;
    }

    /** The verb of a criterion. */
    public static Verb of(Condition.Criterion criterion) {
        boolean not = criterion.negated();
        return switch (criterion.test()) {
            case Test.Is(Operand value, boolean exactly) ->
                value instanceof Operand.Number ? (not ? Verb.NOT_EQUAL : Verb.EQUAL) : (not ? Verb.IS_NOT : Verb.IS);
            case Test.In in -> not ? Verb.IS_NOT_IN : Verb.IS_IN;
            case Test.Compare(Test.Order order, Operand value) ->
                switch (order) {
                    case MORE -> Verb.MORE;
                    case AT_LEAST -> Verb.AT_LEAST;
                    case LESS -> Verb.LESS;
                    case AT_MOST -> Verb.AT_MOST;
                };
            case Test.Between between -> Verb.BETWEEN;
            case Test.Find(Test.Search search, String text, boolean exactly) ->
                switch (search) {
                    case CONTAINS -> not ? Verb.DOES_NOT_CONTAIN : Verb.CONTAINS;
                    case STARTS_WITH -> Verb.STARTS_WITH;
                    case ENDS_WITH -> Verb.ENDS_WITH;
                    case LIKE -> Verb.IS_LIKE;
                };
            case Test.Empty() -> not ? Verb.IS_NOT_EMPTY : Verb.IS_EMPTY;
            case Test.Tagged(boolean all, List<Operand> tags) ->
                all ? Verb.HAS_ALL_OF : not ? Verb.HAS_NONE_OF : Verb.HAS_ANY_OF;
            case Test.Dated(Test.Stand stand, var period) ->
                switch (stand) {
                    case IN -> not ? Verb.NOT_IN : Verb.IN;
                    case BEFORE -> Verb.BEFORE;
                    case AFTER -> Verb.AFTER;
                    case FROM -> Verb.FROM;
                    case UP_TO -> Verb.UP_TO;
                };
            case Test.DatedBetween between -> Verb.BETWEEN_DATES;
            case Test.Distance(Test.Far far, var side, int count, var unit) ->
                switch (far) {
                    case MORE_THAN -> Verb.MORE_THAN;
                    case AT_LEAST -> Verb.AT_LEAST_AWAY;
                    case LESS_THAN -> Verb.LESS_THAN;
                };
        };
    }
}
