package deftlens.core.condition;

import static deftlens.core.field.FieldType.CHOICE;
import static deftlens.core.field.FieldType.DATE;
import static deftlens.core.field.FieldType.DURATION;
import static deftlens.core.field.FieldType.MOMENT;
import static deftlens.core.field.FieldType.MONEY;
import static deftlens.core.field.FieldType.NUMBER;
import static deftlens.core.field.FieldType.PERSON;
import static deftlens.core.field.FieldType.SPAN;
import static deftlens.core.field.FieldType.TAGS;
import static deftlens.core.field.FieldType.TEXT;
import static deftlens.core.field.FieldType.TIME;
import static deftlens.core.field.FieldType.YES_NO;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * The table of tests: every test of the language by its words, the types of field it fits, what follows it, its opposite, and what it
 * is called where tests are chosen from a list. What fits what, completion, the JSON form of a criterion and the lists of editors are
 * read from here.
 *
 * <p>The words name one test of a field's type; across types they may name several: {@code before} is {@link #BEFORE} of a date and
 * {@link #BEFORE_TIME} of a time of day.
 *
 * <pre>{@code
 * Verb.named("before", FieldType.TIME)                          // BEFORE_TIME
 * Verb.NOT_IN.criterion("due", new Operands.Window(period))     // due not in last month
 * }</pre>
 */
public enum Verb {
    IS("is", "is", Takes.VALUE, Types.SINGLE, Operands.One.class, o -> new Test.Is(o.value(), o.exactly())),
    IS_NOT("is not", "is not", IS),
    IS_IN(
            "is in",
            "is one of",
            Takes.VALUES,
            Types.LISTED,
            Operands.Several.class,
            o -> new Test.In(o.values(), o.exactly())),
    IS_NOT_IN("is not in", "is none of", IS_IN),
    CONTAINS(Test.Search.CONTAINS),
    DOES_NOT_CONTAIN("does not contain", "does not contain", CONTAINS),
    STARTS_WITH(Test.Search.STARTS_WITH),
    ENDS_WITH(Test.Search.ENDS_WITH),
    IS_LIKE(Test.Search.LIKE),
    MATCHES(
            "matches",
            "matches a pattern",
            Takes.PATTERN,
            Types.TEXTS,
            Operands.Pattern.class,
            o -> new Test.Matches(o.pattern(), o.exactly())),
    EQUAL("=", "is", Takes.NUMBER, Types.NUMERIC, Operands.One.class, o -> new Test.Is(o.value(), o.exactly())),
    NOT_EQUAL("!=", "is not", EQUAL),
    AT_LEAST(Test.Order.AT_LEAST, "is at least"),
    MORE(Test.Order.MORE, "is more than"),
    AT_MOST(Test.Order.AT_MOST, "is at most"),
    LESS(Test.Order.LESS, "is less than"),
    BETWEEN(
            "between",
            "between",
            Takes.TWO_NUMBERS,
            Types.NUMERIC,
            Operands.TwoNumbers.class,
            o -> new Test.Between(o.low(), o.high())),
    HAS_ANY_OF("has any of", false),
    HAS_ALL_OF("has all of", true),
    HAS_NONE_OF("has none of", "has none of", HAS_ANY_OF),
    IN(Test.DateRelation.IN, "in the window"),
    NOT_IN("not in", "outside it", IN),
    BEFORE(Test.DateRelation.BEFORE, "before it"),
    AFTER(Test.DateRelation.AFTER, "after it"),
    FROM(Test.DateRelation.FROM, "from it on"),
    UP_TO(Test.DateRelation.UP_TO, "up to its end"),
    BETWEEN_DATES(
            "between",
            "between two",
            Takes.TWO_PERIODS,
            Types.TEMPORAL,
            Operands.TwoWindows.class,
            o -> new Test.DatedBetween(o.from(), o.to())),
    MORE_THAN(Test.DistanceRelation.MORE_THAN),
    AT_LEAST_AWAY(Test.DistanceRelation.AT_LEAST),
    LESS_THAN(Test.DistanceRelation.LESS_THAN),
    WEEKDAY_IN(Test.Part.WEEKDAY, "on weekdays", Takes.WEEKDAYS),
    WEEKDAY_NOT_IN("weekday not in", "not on weekdays", WEEKDAY_IN),
    MONTH_IN(Test.Part.MONTH, "in months of any year", Takes.MONTHS),
    MONTH_NOT_IN("month not in", "not in months", MONTH_IN),
    DAY_OF_MONTH_IN(Test.Part.DAY_OF_MONTH, "on days of the month", Takes.DAYS_OF_MONTH),
    DAY_OF_MONTH_NOT_IN("day of month not in", "not on days of the month", DAY_OF_MONTH_IN),
    TIME_BETWEEN(
            "time between",
            "between hours of the day",
            Takes.TWO_TIMES,
            Types.MOMENTS,
            Operands.TwoClocks.class,
            o -> new Test.ClockBetween(o.from(), o.to())),
    IN_WORKING_HOURS(Test.Work.IN_HOURS, Types.MOMENTS),
    OUTSIDE_WORKING_HOURS(Test.Work.OUTSIDE_HOURS, Types.MOMENTS),
    ON_A_WORKING_DAY(Test.Work.WORKING_DAY, Types.TEMPORAL),
    ON_A_DAY_OFF(Test.Work.DAY_OFF, Types.TEMPORAL),
    BETWEEN_TIMES(
            "between",
            "between",
            Takes.TWO_TIMES,
            Types.TIMES,
            Operands.TwoClocks.class,
            o -> new Test.TimeBetween(o.from(), o.to())),
    BEFORE_TIME(Test.DateRelation.BEFORE),
    AFTER_TIME(Test.DateRelation.AFTER),
    FROM_TIME(Test.DateRelation.FROM),
    UP_TO_TIME(Test.DateRelation.UP_TO),
    OVERLAPS(Test.Extent.OVERLAPS, "overlaps it"),
    WITHIN(Test.Extent.WITHIN, "lies within it"),
    COVERS(Test.Extent.COVERS, "covers all of it"),
    STARTS_IN(Test.Extent.STARTS_IN, "starts in it"),
    ENDS_IN(Test.Extent.ENDS_IN, "ends in it"),
    OVERLAPS_HOURS(
            "overlaps time between",
            "overlaps hours of the day",
            Takes.TIMES_ON_DAYS,
            Types.SPANS,
            Operands.ClocksOnDays.class,
            o -> new Test.SpannedDaily(o.from(), o.to(), o.days())),
    IN_BAND(
            "is in band",
            "is in a band",
            Takes.BANDS,
            Types.BANDED,
            Operands.Bands.class,
            o -> new Test.Banded(o.names())),
    NOT_IN_BAND("is not in band", "is in no such band", IN_BAND),
    IN_RECORDS(
            "in",
            "is that of",
            Takes.RECORDS,
            Types.SHARED,
            Operands.Others.class,
            o -> new Test.Related(o.register(), o.where())),
    NOT_IN_RECORDS("not in", "is not that of", IN_RECORDS),
    IS_EMPTY("is empty", "is empty", Takes.NOTHING, Types.ALL, Operands.Nothing.class, o -> new Test.Empty()),
    IS_NOT_EMPTY("is not empty", "is not empty", IS_EMPTY);

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
        PATTERN,
        /** A register and what is asked of its records. */
        RECORDS
    }

    /** Types of field that tests have in common; in a class of its own, since a verb is made before its own constants are. */
    private static final class Types {
        static final Set<FieldType> ALL = EnumSet.allOf(FieldType.class);
        static final Set<FieldType> TEXTS = EnumSet.of(TEXT);
        static final Set<FieldType> SINGLE = EnumSet.of(TEXT, CHOICE, PERSON, YES_NO);
        static final Set<FieldType> NUMERIC = EnumSet.of(NUMBER, MONEY, DURATION);
        static final Set<FieldType> LISTED = EnumSet.of(TEXT, CHOICE, PERSON, NUMBER, MONEY, DURATION);
        static final Set<FieldType> TAGGED = EnumSet.of(TAGS);
        static final Set<FieldType> TEMPORAL = EnumSet.of(DATE, MOMENT);
        static final Set<FieldType> MOMENTS = EnumSet.of(MOMENT);
        static final Set<FieldType> TIMES = EnumSet.of(TIME);
        static final Set<FieldType> SPANS = EnumSet.of(SPAN);
        static final Set<FieldType> SHARED = EnumSet.of(TEXT, CHOICE, PERSON, NUMBER);
        static final Set<FieldType> BANDED =
                EnumSet.of(TEXT, NUMBER, MONEY, DURATION, CHOICE, PERSON, DATE, MOMENT, TIME);
    }

    /** What is looked for often; in a class of its own, since it is made of all verbs. */
    private static final class ByWords {
        static final Map<String, List<Verb>> ALL =
                Arrays.stream(values()).collect(Collectors.groupingBy(Verb::words, Collectors.toUnmodifiableList()));
        static final Map<Verb, Verb> OPPOSED = Arrays.stream(values())
                .filter(Verb::isNegated)
                .collect(Collectors.toUnmodifiableMap(v -> v.opposed.orElseThrow(), v -> v));
    }

    private final String words;
    private final String label;
    private final Takes takes;
    private final Set<FieldType> types;
    private final Class<? extends Operands> operands;
    private final Function<Operands, Test> make;
    private final Optional<Verb> opposed;

    <O extends Operands> Verb(
            String words, String label, Takes takes, Set<FieldType> types, Class<O> operands, Function<O, Test> make) {
        this.words = words;
        this.label = label;
        this.takes = takes;
        this.types = types;
        this.operands = operands;
        this.make = given -> make.apply(operands.cast(given));
        this.opposed = Optional.empty();
    }

    /** The exact opposite of another. */
    Verb(String words, String label, Verb opposed) {
        this.words = words;
        this.label = label;
        this.takes = opposed.takes;
        this.types = opposed.types;
        this.operands = opposed.operands;
        this.make = opposed.make;
        this.opposed = Optional.of(opposed);
    }

    Verb(Test.Search search) {
        this(
                search.words(),
                search.words(),
                Takes.TEXT,
                Types.TEXTS,
                Operands.Piece.class,
                o -> new Test.Find(search, o.text(), o.exactly()));
    }

    Verb(Test.Order order, String label) {
        this(
                order.sign(),
                label,
                Takes.NUMBER,
                Types.NUMERIC,
                Operands.One.class,
                o -> new Test.Compare(order, o.value()));
    }

    Verb(String words, boolean all) {
        this(words, words, Takes.VALUES, Types.TAGGED, Operands.Several.class, o -> new Test.Tagged(all, o.values()));
    }

    /** Of a date. */
    Verb(Test.DateRelation stand, String label) {
        this(
                stand.words(),
                label,
                Takes.PERIOD,
                Types.TEMPORAL,
                Operands.Window.class,
                o -> new Test.Dated(stand, o.period()));
    }

    /** Of a time of day. */
    Verb(Test.DateRelation stand) {
        this(
                stand.words(),
                stand.words(),
                Takes.TIME,
                Types.TIMES,
                Operands.Clock.class,
                o -> new Test.Timed(stand, o.at()));
    }

    Verb(Test.DistanceRelation far) {
        this(
                far.words(),
                far.words() + " … ago",
                Takes.DISTANCE,
                Types.TEMPORAL,
                Operands.Distance.class,
                o -> new Test.Distance(far, o.away()));
    }

    Verb(Test.Part part, String label, Takes takes) {
        this(
                part.words() + " in",
                label,
                takes,
                Types.TEMPORAL,
                Operands.CalendarNumbers.class,
                o -> new Test.OnCalendar(part, o.numbers()));
    }

    Verb(Test.Work work, Set<FieldType> types) {
        this(work.words(), work.words(), Takes.NOTHING, types, Operands.Nothing.class, o -> new Test.Working(work));
    }

    Verb(Test.Extent extent, String label) {
        this(
                extent.words(),
                label,
                Takes.PERIOD,
                Types.SPANS,
                Operands.Window.class,
                o -> new Test.Spanned(extent, o.period()));
    }

    /** The words of the language. */
    public String words() {
        return words;
    }

    /** What it is called in a list of tests to choose from, where the field stands above and what follows beside it. */
    public String label() {
        return label;
    }

    /** What stands before a window in a statement that is said to people: <i>is before</i>, <i>lies within</i>. */
    public String phrase() {
        return this == WITHIN ? "lies within" : takes == Takes.PERIOD && types.contains(DATE) ? "is " + words : words;
    }

    /** What follows the words. */
    public Takes takes() {
        return takes;
    }

    /** Whether it is spelled as the exact opposite of another test. */
    public boolean isNegated() {
        return opposed.isPresent();
    }

    /** The exact opposite, where the language has words for it. */
    public Optional<Verb> opposite() {
        return opposed.or(() -> Optional.ofNullable(ByWords.OPPOSED.get(this)));
    }

    /** How another field of the record stands to this one where it takes the place of the value; nothing where none can. */
    public Optional<Test.Relation> relation() {
        Verb positive = opposed.orElse(this);
        return switch (takes) {
            case VALUE, NUMBER, PERIOD, TIME ->
                Arrays.stream(Test.Relation.values())
                        .filter(r -> r.words().equals(positive == IN ? Test.Relation.ON.words() : positive.words))
                        .findFirst();
            case NOTHING,
                    VALUES,
                    TEXT,
                    TWO_NUMBERS,
                    TWO_PERIODS,
                    DISTANCE,
                    TWO_TIMES,
                    TIMES_ON_DAYS,
                    WEEKDAYS,
                    MONTHS,
                    DAYS_OF_MONTH,
                    BANDS,
                    PATTERN,
                    RECORDS -> Optional.empty();
        };
    }

    /** Whether a field of the type can be put to it. */
    public boolean fits(FieldType type) {
        // A list of yes and no can be written, though nobody needs it.
        return types.contains(type) || type == YES_NO && opposed.orElse(this) == IS_IN;
    }

    /**
     * Whether a list of tests to choose from has it for fields of the type. What is usually said in another way would only make the list
     * long: values that are chosen from a list are one or several under one test, and calendar tests have their opposite in <i>none of</i>.
     */
    public boolean isOffered(FieldType type) {
        return switch (takes) {
            case VALUE -> types.contains(type) && !type.isListed();
            case WEEKDAYS, MONTHS, DAYS_OF_MONTH -> types.contains(type) && !isNegated();
            // Which fields have records elsewhere is not a matter of their type.
            case RECORDS -> false;
            case NOTHING,
                    VALUES,
                    TEXT,
                    NUMBER,
                    TWO_NUMBERS,
                    PERIOD,
                    TWO_PERIODS,
                    DISTANCE,
                    TIME,
                    TWO_TIMES,
                    TIMES_ON_DAYS,
                    BANDS,
                    PATTERN -> types.contains(type);
        };
    }

    /** Whether what follows the words of a test can follow these. */
    public boolean accepts(Operands given) {
        return given instanceof Operands.OtherField ? relation().isPresent() : operands.isInstance(given);
    }

    /**
     * The test that it makes of what follows it, without its negation.
     *
     * @throws IllegalArgumentException when that cannot follow it, or is none of the values it may have
     */
    public Test test(Operands given) {
        if (!accepts(given)) {
            throw new IllegalArgumentException("“" + words + "” is followed by something else");
        }
        return given instanceof Operands.OtherField(String key, var offset, boolean exactly)
                ? new Test.FieldComparison(relation().orElseThrow(), key, offset, exactly)
                : make.apply(given);
    }

    /** The same about a field, with its negation. */
    public Condition.Criterion criterion(String field, Operands given) {
        return new Condition.Criterion(field, test(given), isNegated());
    }

    /** The verb that a new criterion about a field of the type begins with. */
    public static Verb first(FieldType type) {
        return switch (type) {
            case TEXT -> CONTAINS;
            case NUMBER, MONEY, DURATION -> AT_LEAST;
            case CHOICE, PERSON -> IS_IN;
            case YES_NO -> IS;
            case TAGS -> HAS_ANY_OF;
            case DATE -> BEFORE;
            case MOMENT -> IN;
            case TIME -> BETWEEN_TIMES;
            case SPAN -> OVERLAPS;
        };
    }

    /** The verbs that are usual for a type, those that are wanted most first. */
    public static List<Verb> of(FieldType type) {
        return Arrays.stream(values()).filter(v -> v.types.contains(type)).toList();
    }

    /** The verbs that are usual for a field: those of its type, those for bands if it has any, and those for hours if it knows them. */
    public static List<Verb> of(Register register, Field field) {
        return of(field.type()).stream()
                .filter(v -> v.takes != Takes.BANDS || !field.bands().isEmpty())
                .filter(v -> v.takes != Takes.RECORDS)
                .filter(v ->
                        v.takes != Takes.TIMES_ON_DAYS || register.start(field).type() == MOMENT)
                .toList();
    }

    /** The words of the verbs that are usual for a field. */
    public static List<String> words(Register register, Field field) {
        return of(register, field).stream().map(Verb::words).toList();
    }

    /** The verb of these words for a type. */
    public static Optional<Verb> named(String words, FieldType type) {
        return named(words).stream().filter(v -> v.fits(type)).findFirst();
    }

    /** The verbs of these words, for whatever type; none where the language has no such words. */
    public static List<Verb> named(String words) {
        return ByWords.ALL.getOrDefault(words, List.of());
    }

    /** The verb of a criterion. A value that is yet to be asked for is taken for none in figures. */
    public static Verb of(Condition.Criterion criterion) {
        Verb positive = of(criterion.test());
        return criterion.negated() ? positive.opposite().orElseThrow() : positive;
    }

    /** The verb of a test that is not negated. */
    static Verb of(Test test) {
        return switch (test) {
            case Test.Is(Operand value, boolean exactly) ->
                value.known().filter(Operand::isQuantity).isPresent() ? EQUAL : IS;
            case Test.In in -> IS_IN;
            case Test.Compare(Test.Order order, Operand value) ->
                switch (order) {
                    case MORE -> MORE;
                    case AT_LEAST -> AT_LEAST;
                    case LESS -> LESS;
                    case AT_MOST -> AT_MOST;
                };
            case Test.Between between -> BETWEEN;
            case Test.Find(Test.Search search, Operand text, boolean exactly) ->
                switch (search) {
                    case CONTAINS -> CONTAINS;
                    case STARTS_WITH -> STARTS_WITH;
                    case ENDS_WITH -> ENDS_WITH;
                    case LIKE -> IS_LIKE;
                };
            case Test.Empty() -> IS_EMPTY;
            case Test.Tagged(boolean all, List<Operand> tags) -> all ? HAS_ALL_OF : HAS_ANY_OF;
            case Test.Dated(Test.DateRelation stand, var period) ->
                switch (stand) {
                    case IN -> IN;
                    case BEFORE -> BEFORE;
                    case AFTER -> AFTER;
                    case FROM -> FROM;
                    case UP_TO -> UP_TO;
                };
            case Test.DatedBetween between -> BETWEEN_DATES;
            case Test.Distance(Test.DistanceRelation far, var away) ->
                switch (far) {
                    case MORE_THAN -> MORE_THAN;
                    case AT_LEAST -> AT_LEAST_AWAY;
                    case LESS_THAN -> LESS_THAN;
                };
            case Test.OnCalendar(Test.Part part, var numbers) ->
                switch (part) {
                    case WEEKDAY -> WEEKDAY_IN;
                    case MONTH -> MONTH_IN;
                    case DAY_OF_MONTH -> DAY_OF_MONTH_IN;
                };
            case Test.ClockBetween between -> TIME_BETWEEN;
            case Test.TimeBetween between -> BETWEEN_TIMES;
            case Test.Timed(Test.DateRelation stand, Operand at) ->
                switch (stand) {
                    case BEFORE -> BEFORE_TIME;
                    case AFTER -> AFTER_TIME;
                    case UP_TO -> UP_TO_TIME;
                    case FROM, IN -> FROM_TIME;
                };
            case Test.Working(Test.Work work) ->
                switch (work) {
                    case IN_HOURS -> IN_WORKING_HOURS;
                    case OUTSIDE_HOURS -> OUTSIDE_WORKING_HOURS;
                    case WORKING_DAY -> ON_A_WORKING_DAY;
                    case DAY_OFF -> ON_A_DAY_OFF;
                };
            case Test.Spanned(Test.Extent extent, var period) ->
                switch (extent) {
                    case OVERLAPS -> OVERLAPS;
                    case WITHIN -> WITHIN;
                    case COVERS -> COVERS;
                    case STARTS_IN -> STARTS_IN;
                    case ENDS_IN -> ENDS_IN;
                };
            case Test.SpannedDaily daily -> OVERLAPS_HOURS;
            case Test.Banded banded -> IN_BAND;
            case Test.Matches matches -> MATCHES;
            case Test.FieldComparison(Test.Relation relation, var other, var offset, boolean exactly) ->
                switch (relation) {
                    case IS -> IS;
                    case EQUAL -> EQUAL;
                    case MORE -> MORE;
                    case AT_LEAST -> AT_LEAST;
                    case LESS -> LESS;
                    case AT_MOST -> AT_MOST;
                    case BEFORE -> BEFORE;
                    case AFTER -> AFTER;
                    case FROM -> FROM;
                    case UP_TO -> UP_TO;
                    case ON -> IN;
                };
            case Test.Related related -> IN_RECORDS;
        };
    }

    /** The verb under which a test is put to a field of a type, if it fits it. */
    static Optional<Verb> of(Test test, FieldType type) {
        Verb verb = of(test);
        // A blank without a default is text or number, as its field has it.
        return (verb == IS && test instanceof Test.Is && type.isNumeric()
                        ? Optional.of(EQUAL)
                        : named(verb.words, type))
                .filter(v -> v.accepts(Operands.of(test)));
    }
}
