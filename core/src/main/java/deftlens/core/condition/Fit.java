package deftlens.core.condition;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
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
                type == FieldType.TAGS
                        && tags.stream()
                                .allMatch(t -> t instanceof Operand.Text
                                        || t instanceof Operand.Ask(String label, var preset)
                                                && preset.map(p -> p instanceof Operand.Text)
                                                        .orElse(true));
            case Test.Dated(Test.Stand stand, Period period) -> dated(type, period.isClock());
            case Test.DatedBetween(Period from, Period to) -> dated(type, from.isClock() || to.isClock());
            case Test.Distance distance -> dated(type, distance.away().isClock());
            case Test.OnCalendar part -> type.isTemporal();
            case Test.ClockBetween between -> type == FieldType.MOMENT;
            case Test.Timed timed -> type == FieldType.TIME;
            case Test.TimeBetween between -> type == FieldType.TIME;
            case Test.Working(Test.Work work) ->
                type == FieldType.MOMENT
                        || type == FieldType.DATE && (work == Test.Work.WORKING_DAY || work == Test.Work.DAY_OFF);
            case Test.Spanned spanned -> type == FieldType.SPAN;
            case Test.SpannedDaily daily ->
                type == FieldType.SPAN && !daily.days().isClock();
            case Test.Banded banded -> type != FieldType.SPAN && type != FieldType.TAGS && type != FieldType.YES_NO;
            case Test.Matches matches -> type == FieldType.TEXT;
            case Test.Against against -> relation(type, against.relation());
        };
    }

    /** Whether a field of a register can be put to the test: its type allows it, and so does the other field, if any. */
    public static boolean allows(Register register, Field field, Test test) {
        return allows(field.type(), test)
                && switch (test) {
                    case Test.Against against ->
                        register.field(against.other())
                                .filter(other -> !other.key().equals(field.key()))
                                .map(other -> beside(field.type(), against, other.type()))
                                .orElse(false);
                    case Test.Spanned(Test.Extent extent, Period period) ->
                        dated(register.start(field).type(), period.isClock());
                    case Test.SpannedDaily daily -> register.start(field).type() == FieldType.MOMENT;
                    default -> true;
                };
    }

    private static boolean relation(FieldType type, Test.Relation relation) {
        return switch (relation) {
            case IS -> type == FieldType.TEXT || type.isListed() || type == FieldType.YES_NO;
            case EQUAL, MORE, AT_LEAST, LESS, AT_MOST -> type.isNumeric();
            case BEFORE, AFTER, FROM, UP_TO -> type.isTemporal() || type == FieldType.TIME;
            case ON -> type.isTemporal();
        };
    }

    /** Whether two fields can be held against each other in this way. */
    private static boolean beside(FieldType type, Test.Against against, FieldType other) {
        if (against.exactly() && type != FieldType.TEXT) {
            return false;
        }
        if (type.isTemporal()) {
            boolean moments = type == FieldType.MOMENT && other == FieldType.MOMENT;
            return other.isTemporal()
                    && !(moments && against.relation() == Test.Relation.ON)
                    && against.offset()
                            .map(o ->
                                    o instanceof Test.Offset.Time(int count, var unit) && (moments || !unit.isClock()))
                            .orElse(true);
        }
        return type == other
                && against.offset()
                        .map(o -> type.isNumeric() && o instanceof Test.Offset.Amount)
                        .orElse(true);
    }

    private static boolean operand(FieldType type, Operand value) {
        if (value instanceof Operand.Ask(String label, var preset)) {
            return switch (type) {
                case TAGS, DATE, MOMENT, TIME, SPAN -> false;
                default -> preset.map(p -> operand(type, p)).orElse(true);
            };
        }
        return switch (type) {
            case TEXT, CHOICE, PERSON -> value instanceof Operand.Text || value instanceof Operand.Viewer;
            case NUMBER, MONEY -> value instanceof Operand.Number;
            case YES_NO -> value instanceof Operand.YesNo;
            case TAGS, DATE, MOMENT, TIME, SPAN -> false;
        };
    }

    /** A date without time of day takes no hours, minutes or moments. */
    private static boolean dated(FieldType type, boolean clock) {
        return type == FieldType.MOMENT || type == FieldType.DATE && !clock;
    }
}
