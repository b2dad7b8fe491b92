package deftlens.core.condition;

import deftlens.core.field.FieldType;
import deftlens.core.time.Period;
import java.util.List;
import java.util.Optional;
import java.util.SortedSet;
import java.util.function.UnaryOperator;

/**
 * What follows the words of a test: taken from a {@link Test} by {@link #of}, and put to the words again by {@link Verb#test}. Whoever
 * prints, reads or writes criteria handles these few shapes, and no single test.
 *
 * <pre>{@code
 * Operands after = Operands.of(new Test.Compare(Test.Order.MORE, Operand.Number.of(3)));   // One[3]
 * Verb.AT_LEAST.test(after)                                                                 // Compare[AT_LEAST, 3]
 * }</pre>
 */
public sealed interface Operands {

    /** Nothing: the words say it all. */
    record Nothing() implements Operands {}

    /** One value. */
    record One(Operand value, boolean exactly) implements Operands {}

    /** A list of values. */
    record Several(List<Operand> values, boolean exactly) implements Operands {}

    /** A piece of text, or a blank for one. */
    record Piece(Operand text, boolean exactly) implements Operands {}

    /** Two numbers; both belong. */
    record TwoNumbers(Operand low, Operand high) implements Operands {}

    /** A date phrase. */
    record Window(Period period) implements Operands {}

    /** Two date phrases: from the start of the first to the end of the second. */
    record TwoWindows(Period from, Period to) implements Operands {}

    /** A count of units before or after now: {@link Period.Away}, or a blank for the count of one. */
    record Distance(Period away) implements Operands {

        /** The day or moment it is measured to; a blank's default where it has one, else a count of 1. */
        public Period.Away mark() {
            return (Period.Away) (away instanceof Period.AskedCount asked ? asked.shape() : away);
        }
    }

    /** A time of day. */
    record Clock(Operand at) implements Operands {}

    /** Two times of day; over midnight when the second is before the first. */
    record TwoClocks(Operand from, Operand to) implements Operands {}

    /** Two times of day, on any of the days of a date phrase. */
    record ClocksOnDays(Operand from, Operand to, Period days) implements Operands {}

    /** Weekdays, months, or days of the month. */
    record CalendarNumbers(Test.Part part, SortedSet<Integer> numbers) implements Operands {}

    /** Names of bands, or blanks for them. */
    record Bands(List<Operand> names) implements Operands {}

    /** A regular expression. */
    record Pattern(String pattern, boolean exactly) implements Operands {}

    /** Another field of the record in the place of a value, by its key, with something added or not. */
    record OtherField(String key, Optional<Test.Offset> offset, boolean exactly) implements Operands {}

    /** Records of a register, by its key, that are in a condition. */
    record Others(String register, Condition where) implements Operands {}

    /** What follows the words of a test. */
    static Operands of(Test test) {
        return switch (test) {
            case Test.Empty() -> new Nothing();
            case Test.Is(Operand value, boolean exactly) -> new One(value, exactly);
            case Test.In(List<Operand> values, boolean exactly) -> new Several(values, exactly);
            case Test.Compare(Test.Order order, Operand value) -> new One(value, false);
            case Test.Between(Operand low, Operand high) -> new TwoNumbers(low, high);
            case Test.Find(Test.Search search, Operand text, boolean exactly) -> new Piece(text, exactly);
            case Test.Tagged(boolean all, List<Operand> tags) -> new Several(tags, false);
            case Test.Dated(Test.DateRelation stand, Period period) -> new Window(period);
            case Test.DatedBetween(Period from, Period to) -> new TwoWindows(from, to);
            case Test.Distance(Test.DistanceRelation far, Period away) -> new Distance(away);
            case Test.OnCalendar(Test.Part part, SortedSet<Integer> numbers) -> new CalendarNumbers(part, numbers);
            case Test.ClockBetween(Operand from, Operand to) -> new TwoClocks(from, to);
            case Test.TimeBetween(Operand from, Operand to) -> new TwoClocks(from, to);
            case Test.Timed(Test.DateRelation stand, Operand at) -> new Clock(at);
            case Test.Working(Test.Work work) -> new Nothing();
            case Test.Spanned(Test.Extent extent, Period period) -> new Window(period);
            case Test.SpannedDaily(Operand from, Operand to, Period days) -> new ClocksOnDays(from, to, days);
            case Test.Banded(List<Operand> bands) -> new Bands(bands);
            case Test.Matches(String pattern, boolean exactly) -> new Pattern(pattern, exactly);
            case Test.FieldComparison(
                    Test.Relation relation,
                    String other,
                    Optional<Test.Offset> offset,
                    boolean exactly) -> new OtherField(other, offset, exactly);
            case Test.Related(String register, Condition where) -> new Others(register, where);
        };
    }

    /** The values that the field's own is to be, or is compared with; the ends of ranges, pieces of text and bands are none. */
    default List<Operand> values() {
        return switch (this) {
            case One(Operand value, boolean exactly) -> List.of(value);
            case Several(List<Operand> values, boolean exactly) -> values;
            case Nothing _,
                    Piece _,
                    TwoNumbers _,
                    Window _,
                    TwoWindows _,
                    Distance _,
                    Clock _,
                    TwoClocks _,
                    ClocksOnDays _,
                    CalendarNumbers _,
                    Bands _,
                    Pattern _,
                    OtherField _,
                    Others _ -> List.of();
        };
    }

    /** Everything in it that could be a blank or the reader's own, dates apart: values, ends of ranges, pieces, times and bands. */
    default List<Operand> all() {
        return switch (this) {
            case One(Operand value, boolean exactly) -> List.of(value);
            case Several(List<Operand> values, boolean exactly) -> values;
            case Piece(Operand text, boolean exactly) -> List.of(text);
            case TwoNumbers(Operand low, Operand high) -> List.of(low, high);
            case Clock(Operand at) -> List.of(at);
            case TwoClocks(Operand from, Operand to) -> List.of(from, to);
            case ClocksOnDays(Operand from, Operand to, Period days) -> List.of(from, to);
            case Bands(List<Operand> names) -> names;
            case Nothing _, Window _, TwoWindows _, Distance _, CalendarNumbers _, Pattern _, OtherField _, Others _ ->
                List.of();
        };
    }

    /** The date phrases in it. */
    default List<Period> periods() {
        return switch (this) {
            case Window(Period period) -> List.of(period);
            case TwoWindows(Period from, Period to) -> List.of(from, to);
            case Distance(Period away) -> List.of(away);
            case ClocksOnDays(Operand from, Operand to, Period days) -> List.of(days);
            case Nothing _,
                    One _,
                    Several _,
                    Piece _,
                    TwoNumbers _,
                    Clock _,
                    TwoClocks _,
                    CalendarNumbers _,
                    Bands _,
                    Pattern _,
                    OtherField _,
                    Others _ -> List.of();
        };
    }

    /** The same with each of its {@link #values} changed in its place. */
    default Operands with(UnaryOperator<Operand> change) {
        return switch (this) {
            case One(Operand value, boolean exactly) -> new One(change.apply(value), exactly);
            case Several(List<Operand> values, boolean exactly) ->
                new Several(values.stream().map(change).toList(), exactly);
            case Nothing _,
                    Piece _,
                    TwoNumbers _,
                    Window _,
                    TwoWindows _,
                    Distance _,
                    Clock _,
                    TwoClocks _,
                    ClocksOnDays _,
                    CalendarNumbers _,
                    Bands _,
                    Pattern _,
                    OtherField _,
                    Others _ -> this;
        };
    }

    /** Whether values of these kinds can be held against a field of the type; the words have to fit it, too. */
    default boolean fit(FieldType type) {
        return switch (this) {
            case Nothing() -> true;
            case One(Operand value, boolean exactly) -> fits(type, value) && mayBeExact(type, exactly);
            case Several(List<Operand> values, boolean exactly) ->
                values.stream().allMatch(value -> fits(type, value)) && mayBeExact(type, exactly);
            case Piece(Operand text, boolean exactly) -> mayBeExact(type, exactly);
            case TwoNumbers(Operand low, Operand high) -> fits(type, low) && fits(type, high);
            case Window(Period period) -> takesWindow(type, period.isClock());
            case TwoWindows(Period from, Period to) -> takesWindow(type, from.isClock() || to.isClock());
            case Distance(Period away) -> takesWindow(type, away.isClock());
            case Clock(Operand at) -> type == FieldType.TIME;
            case TwoClocks(Operand from, Operand to) -> type == FieldType.TIME || type == FieldType.MOMENT;
            case ClocksOnDays(Operand from, Operand to, Period days) -> type == FieldType.SPAN && !days.isClock();
            case CalendarNumbers(Test.Part part, SortedSet<Integer> numbers) -> type.isTemporal();
            case Bands(List<Operand> names) -> true;
            case Pattern(String pattern, boolean exactly) -> mayBeExact(type, exactly);
            // Whether the two fields go together is a matter of both.
            case OtherField _, Others _ -> true;
        };
    }

    private static boolean mayBeExact(FieldType type, boolean exactly) {
        return !exactly || type == FieldType.TEXT;
    }

    private static boolean fits(FieldType type, Operand value) {
        if (value instanceof Operand.Ask(String label, Optional<Operand> preset)) {
            return switch (type) {
                case DATE, MOMENT, TIME, SPAN -> false;
                case TEXT, NUMBER, MONEY, DURATION, CHOICE, PERSON, YES_NO, TAGS ->
                    preset.map(p -> fits(type, p)).orElse(true);
            };
        }
        return switch (type) {
            case TEXT, CHOICE, PERSON -> value instanceof Operand.Text || value instanceof Operand.Viewer;
            case NUMBER, MONEY -> value instanceof Operand.Number;
            case DURATION -> value instanceof Operand.Duration;
            case YES_NO -> value instanceof Operand.YesNo;
            case TAGS -> value instanceof Operand.Text;
            case DATE, MOMENT, TIME, SPAN -> false;
        };
    }

    /** A date without time of day takes no hours, minutes or moments; what a span takes is a matter of its beginning. */
    private static boolean takesWindow(FieldType type, boolean clock) {
        return type == FieldType.MOMENT || type == FieldType.SPAN || type == FieldType.DATE && !clock;
    }
}
