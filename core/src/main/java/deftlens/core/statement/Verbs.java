package deftlens.core.statement;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
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
        DISTANCE,
        /** A wall-clock time. */
        TIME,
        TWO_TIMES,
        /** Two wall-clock times, {@code in}, and a date phrase. */
        TIMES_ON_DAYS,
        WEEKDAYS,
        MONTHS,
        DAYS_OF_MONTH,
        /** Names of the field's bands. */
        BANDS,
        /** A regular expression between slashes. */
        PATTERN
    }

    private static final Set<FieldType> ALL = EnumSet.allOf(FieldType.class);
    private static final Set<FieldType> WORDED = EnumSet.of(FieldType.TEXT, FieldType.CHOICE, FieldType.PERSON);
    private static final Set<FieldType> SINGLE =
            EnumSet.of(FieldType.TEXT, FieldType.CHOICE, FieldType.PERSON, FieldType.YES_NO);
    private static final Set<FieldType> NUMERIC = EnumSet.of(FieldType.NUMBER, FieldType.MONEY);
    private static final Set<FieldType> LISTED =
            EnumSet.of(FieldType.TEXT, FieldType.CHOICE, FieldType.PERSON, FieldType.NUMBER, FieldType.MONEY);
    private static final Set<FieldType> TEMPORAL = EnumSet.of(FieldType.DATE, FieldType.MOMENT);

    private static final Set<FieldType> BANDED = EnumSet.of(
            FieldType.TEXT,
            FieldType.NUMBER,
            FieldType.MONEY,
            FieldType.CHOICE,
            FieldType.PERSON,
            FieldType.DATE,
            FieldType.MOMENT,
            FieldType.TIME);

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
        MATCHES("matches", Takes.PATTERN, Set.of(FieldType.TEXT)),
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
        WEEKDAY_IN("weekday in", Takes.WEEKDAYS, TEMPORAL),
        WEEKDAY_NOT_IN("weekday not in", Takes.WEEKDAYS, TEMPORAL),
        MONTH_IN("month in", Takes.MONTHS, TEMPORAL),
        MONTH_NOT_IN("month not in", Takes.MONTHS, TEMPORAL),
        DAY_OF_MONTH_IN("day of month in", Takes.DAYS_OF_MONTH, TEMPORAL),
        DAY_OF_MONTH_NOT_IN("day of month not in", Takes.DAYS_OF_MONTH, TEMPORAL),
        TIME_BETWEEN("time between", Takes.TWO_TIMES, Set.of(FieldType.MOMENT)),
        IN_WORKING_HOURS("in working hours", Takes.NOTHING, Set.of(FieldType.MOMENT)),
        OUTSIDE_WORKING_HOURS("outside working hours", Takes.NOTHING, Set.of(FieldType.MOMENT)),
        ON_A_WORKING_DAY("on a working day", Takes.NOTHING, TEMPORAL),
        ON_A_DAY_OFF("on a day off", Takes.NOTHING, TEMPORAL),
        BETWEEN_TIMES("between", Takes.TWO_TIMES, Set.of(FieldType.TIME)),
        BEFORE_TIME("before", Takes.TIME, Set.of(FieldType.TIME)),
        AFTER_TIME("after", Takes.TIME, Set.of(FieldType.TIME)),
        FROM_TIME("from", Takes.TIME, Set.of(FieldType.TIME)),
        UP_TO_TIME("up to", Takes.TIME, Set.of(FieldType.TIME)),
        OVERLAPS("overlaps", Takes.PERIOD, Set.of(FieldType.SPAN)),
        WITHIN("within", Takes.PERIOD, Set.of(FieldType.SPAN)),
        COVERS("covers", Takes.PERIOD, Set.of(FieldType.SPAN)),
        STARTS_IN("starts in", Takes.PERIOD, Set.of(FieldType.SPAN)),
        ENDS_IN("ends in", Takes.PERIOD, Set.of(FieldType.SPAN)),
        OVERLAPS_HOURS("overlaps time between", Takes.TIMES_ON_DAYS, Set.of(FieldType.SPAN)),
        IN_BAND("is in band", Takes.BANDS, BANDED),
        NOT_IN_BAND("is not in band", Takes.BANDS, BANDED),
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

    /** The verbs that fit a field: those of its type, those for bands if it has any, and those for hours if it knows them. */
    public static List<Verb> of(Register register, Field field) {
        return of(field.type()).stream()
                .filter(v -> v.takes() != Takes.BANDS || !field.bands().isEmpty())
                .filter(v -> v.takes() != Takes.TIMES_ON_DAYS
                        || register.start(field).type() == FieldType.MOMENT)
                .toList();
    }

    /** The words of the verbs that fit a field. */
    static List<String> words(Register register, Field field) {
        return of(register, field).stream().map(Verb::words).toList();
    }

    /** The verb of a criterion. */
    public static Verb of(Condition.Criterion criterion) {
        boolean not = criterion.negated();
        return switch (criterion.test()) {
            case Test.Is(Operand value, boolean exactly) ->
                value instanceof Operand.Number
                                || value instanceof Operand.Ask(var label, var preset)
                                        && preset.orElse(null) instanceof Operand.Number
                        ? (not ? Verb.NOT_EQUAL : Verb.EQUAL)
                        : (not ? Verb.IS_NOT : Verb.IS);
            case Test.In in -> not ? Verb.IS_NOT_IN : Verb.IS_IN;
            case Test.Compare(Test.Order order, Operand value) ->
                switch (order) {
                    case MORE -> Verb.MORE;
                    case AT_LEAST -> Verb.AT_LEAST;
                    case LESS -> Verb.LESS;
                    case AT_MOST -> Verb.AT_MOST;
                };
            case Test.Between between -> Verb.BETWEEN;
            case Test.Find(Test.Search search, var text, boolean exactly) ->
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
            case Test.Distance(Test.Far far, var away) ->
                switch (far) {
                    case MORE_THAN -> Verb.MORE_THAN;
                    case AT_LEAST -> Verb.AT_LEAST_AWAY;
                    case LESS_THAN -> Verb.LESS_THAN;
                };
            case Test.OnCalendar(Test.Part part, var numbers) ->
                switch (part) {
                    case WEEKDAY -> not ? Verb.WEEKDAY_NOT_IN : Verb.WEEKDAY_IN;
                    case MONTH -> not ? Verb.MONTH_NOT_IN : Verb.MONTH_IN;
                    case DAY_OF_MONTH -> not ? Verb.DAY_OF_MONTH_NOT_IN : Verb.DAY_OF_MONTH_IN;
                };
            case Test.ClockBetween between -> Verb.TIME_BETWEEN;
            case Test.TimeBetween between -> Verb.BETWEEN_TIMES;
            case Test.Timed(Test.Stand stand, var at) ->
                switch (stand) {
                    case BEFORE -> Verb.BEFORE_TIME;
                    case AFTER -> Verb.AFTER_TIME;
                    case UP_TO -> Verb.UP_TO_TIME;
                    case FROM, IN -> Verb.FROM_TIME;
                };
            case Test.Working(Test.Work work) ->
                switch (work) {
                    case IN_HOURS -> Verb.IN_WORKING_HOURS;
                    case OUTSIDE_HOURS -> Verb.OUTSIDE_WORKING_HOURS;
                    case WORKING_DAY -> Verb.ON_A_WORKING_DAY;
                    case DAY_OFF -> Verb.ON_A_DAY_OFF;
                };
            case Test.Spanned(Test.Extent extent, var period) ->
                switch (extent) {
                    case OVERLAPS -> Verb.OVERLAPS;
                    case WITHIN -> Verb.WITHIN;
                    case COVERS -> Verb.COVERS;
                    case STARTS_IN -> Verb.STARTS_IN;
                    case ENDS_IN -> Verb.ENDS_IN;
                };
            case Test.SpannedDaily daily -> Verb.OVERLAPS_HOURS;
            case Test.Banded banded -> not ? Verb.NOT_IN_BAND : Verb.IN_BAND;
            case Test.Matches matches -> Verb.MATCHES;
            case Test.Against(Test.Relation relation, var other, var offset, var exactly) ->
                switch (relation) {
                    case IS -> not ? Verb.IS_NOT : Verb.IS;
                    case EQUAL -> not ? Verb.NOT_EQUAL : Verb.EQUAL;
                    case MORE -> Verb.MORE;
                    case AT_LEAST -> Verb.AT_LEAST;
                    case LESS -> Verb.LESS;
                    case AT_MOST -> Verb.AT_MOST;
                    case BEFORE -> Verb.BEFORE;
                    case AFTER -> Verb.AFTER;
                    case FROM -> Verb.FROM;
                    case UP_TO -> Verb.UP_TO;
                    case ON -> not ? Verb.NOT_IN : Verb.IN;
                };
        };
    }
}
