package deftlens.server.imports;

import deftlens.core.field.Field;
import deftlens.server.values.Notation;
import deftlens.server.values.Unfitting;
import deftlens.server.values.ValueType;
import java.util.List;

/**
 * Makes the values of one field from the cells of one column.
 *
 * @param index the place of the column in the file, from 0
 * @param unfit what becomes of a value that does not fit
 */
record Conversion(Field field, int index, Notation notation, ImportPlan.Unfit unfit) {

    /** The value of a cell; {@code null} for none. */
    Object value(List<String> cells) throws Unfitting {
        try {
            return read(index < cells.size() ? cells.get(index) : "");
        } catch (Unfitting e) {
            if (unfit == ImportPlan.Unfit.EMPTY && !field.required()) {
                return null;
            }
            throw e;
        }
    }

    /** The value that a text is read as; {@code null} for none. */
    Object read(String text) throws Unfitting {
        return ValueType.of(field).ofCell(field, text.strip(), notation);
    }

    /** A value held against the rules of the field. */
    Object checked(Object value) throws Unfitting {
        return ValueType.of(field).checked(field, value);
    }

    /** A value as the database's copy reads it. */
    String text(Object value) {
        return ValueType.of(field).copied(value);
    }
}
