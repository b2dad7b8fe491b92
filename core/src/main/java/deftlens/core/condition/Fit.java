package deftlens.core.condition;

import deftlens.core.field.FieldType;
import deftlens.core.time.Period;
import java.util.List;

/** Which tests fit which fields. */
public final class Fit {

    private Fit() {}

    /** Whether a field of the type can be put to the test. */
    public static boolean allows(FieldType type, Test test) {
        return switch (test) {
            case Test.Empty() -> true;
            case Test.Is(Operand value, boolean exactly) ->
                operand(type, value) && (!exactly || type == FieldType.TEXT);
            case Test.In(List<Operand> values, boolean exactly) ->
                values.stream().allMatch(v -> operand(type, v)) && (!exactly || type == FieldType.TEXT);
            case Test.Compare(Test.Order order, Operand value) -> type.isNumeric() && operand(type, value);
            case Test.Between(Operand low, Operand high) ->
                type.isNumeric() && operand(type, low) && operand(type, high);
            case Test.Find find -> type == FieldType.TEXT;
            case Test.Tagged(boolean all, List<Operand> tags) ->
                type == FieldType.TAGS && tags.stream().allMatch(t -> t instanceof Operand.Text);
            case Test.Dated(Test.Stand stand, Period period) -> dated(type, period.isClock());
            case Test.DatedBetween(Period from, Period to) -> dated(type, from.isClock() || to.isClock());
            case Test.Distance distance -> dated(type, distance.unit().isClock());
        };
    }

    private static boolean operand(FieldType type, Operand value) {
        return switch (type) {
            case TEXT, CHOICE, PERSON -> value instanceof Operand.Text || value instanceof Operand.Viewer;
            case NUMBER, MONEY -> value instanceof Operand.Number;
            case YES_NO -> value instanceof Operand.YesNo;
            case TAGS, DATE, MOMENT -> false;
        };
    }

    /** A date without time of day takes no hours, minutes or moments. */
    private static boolean dated(FieldType type, boolean clock) {
        return type == FieldType.MOMENT || type == FieldType.DATE && !clock;
    }
}
