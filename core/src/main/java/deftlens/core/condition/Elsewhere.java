package deftlens.core.condition;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;

/**
 * Where the values of a register's fields may be looked for besides: in records of other registers, and in other records of the same one,
 * as far as whoever reads may see them. What is not here cannot be asked, and is not told of.
 */
@FunctionalInterface
public interface Elsewhere {

    /** Nothing can be looked for anywhere else. */
    Elsewhere NOWHERE = field -> List.of();

    /**
     * The places of a field, at most one for each register, in the order in which they are offered.
     *
     * @param field the field's key
     */
    List<Place> of(String field);

    /** The place of a field in a register, which is named by its key or its label, letter case ignored. */
    default Optional<Place> of(String field, String register) {
        return of(field).stream()
                .filter(place -> place.register().key().equalsIgnoreCase(register)
                        || place.register().label().equalsIgnoreCase(register))
                .findFirst();
    }

    /** Whether two fields can hold the same values: texts of whatever kind, or numbers. */
    static boolean canShare(FieldType one, FieldType other) {
        return isText(one) ? isText(other) : one == FieldType.NUMBER && other == FieldType.NUMBER;
    }

    private static boolean isText(FieldType type) {
        return switch (type) {
            case TEXT, CHOICE, PERSON -> true;
            case NUMBER, MONEY, DURATION, YES_NO, TAGS, DATE, MOMENT, TIME, SPAN -> false;
        };
    }

    /**
     * A field that holds the same values, with the records it is in.
     *
     * @param register their register, with the fields that whoever reads may see
     * @param field the field there
     * @param meanings what its yes/no fields stand for that are calculated from a statement, by their keys
     * @param elsewhere where the values of its own fields may be looked for
     * @param records the records that whoever reads may see; made when a question is put to them
     */
    record Place(
            Register register,
            Field field,
            Map<String, Condition> meanings,
            Elsewhere elsewhere,
            Supplier<Records> records) {}

    /** The records of a place. */
    @FunctionalInterface
    interface Records {

        /**
         * One of them that has the value: one that is in the condition, where there is such a one, and any other otherwise; nothing where
         * none has it. It is looked for when single records are tested in memory.
         *
         * @return its values in the order of its register's fields, {@code null} where they are empty
         */
        Optional<List<Object>> with(Object value, Bound.Related asked);
    }
}
