package deftlens.core.condition;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import deftlens.core.time.Period;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** Which tests fit which fields. */
public final class Fit {

    private Fit() {}

    /** Whether a field of the type can be put to the test. */
    public static boolean allows(FieldType type, Test test) {
        return Verb.of(test, type).isPresent() && Operands.of(test).fit(type);
    }

    /** Whether a field of a register can be put to the test: its type allows it, and so does the other field, if any. */
    public static boolean allows(Register register, Field field, Test test) {
        return allows(field.type(), test)
                && (!(test instanceof Test.FieldComparison against)
                        || register.field(against.other())
                                .filter(other -> !other.key().equals(field.key()))
                                .filter(other -> beside(field.type(), against, other.type()))
                                .isPresent())
                && (field.type() != FieldType.SPAN || knowsHours(register, field) || !asksHours(test));
    }

    /**
     * The other fields of a register that can stand in the place of what follows a verb, and mean something there: a choice goes with one
     * that has a value in common with it, a site with another site, never with a status.
     */
    public static List<Field> others(Register register, Field field, Verb verb) {
        if (verb.relation().isEmpty() || !verb.fits(field.type())) {
            return List.of();
        }
        Test.FieldComparison against =
                new Test.FieldComparison(verb.relation().get(), field.key(), Optional.empty(), false);
        Set<String> values = field.options().stream().map(Option::value).collect(Collectors.toSet());
        return register.fields().stream()
                .filter(other -> !other.key().equals(field.key())
                        && beside(field.type(), against, other.type())
                        && mayBeAlike(field, values, other))
                .toList();
    }

    private static boolean mayBeAlike(Field one, Set<String> values, Field other) {
        if (one.type() != FieldType.CHOICE
                || values.isEmpty()
                || other.options().isEmpty()) {
            return true;
        }
        return other.options().stream().map(Option::value).anyMatch(values::contains);
    }

    /** Whether a span begins at a time of day, so that hours mean something to it. */
    private static boolean knowsHours(Register register, Field span) {
        return register.start(span).type() == FieldType.MOMENT;
    }

    private static boolean asksHours(Test test) {
        return test instanceof Test.SpannedDaily
                || test instanceof Test.Spanned(Test.Extent extent, Period period) && period.isClock();
    }

    /** Whether two fields can be held against each other in this way. */
    private static boolean beside(FieldType type, Test.FieldComparison against, FieldType other) {
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
                        .map(o -> switch (o) {
                            case Test.Offset.Amount a -> type.isNumeric() && type != FieldType.DURATION;
                            case Test.Offset.Length l -> type == FieldType.DURATION;
                            case Test.Offset.Time t -> false;
                        })
                        .orElse(true);
    }
}
