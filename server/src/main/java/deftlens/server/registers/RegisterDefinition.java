package deftlens.server.registers;

import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import java.util.List;
import java.util.Optional;

/**
 * What a new register is made from.
 *
 * @param key the stable name, also the table's
 * @param label the plural that people read: {@code Defects}
 * @param recordLabel one record: {@code defect}
 * @param mainField the date or moment that the register is ordered by at rest
 * @param titleField the text that names a record to people
 * @param newestFirst whether the latest main date comes first at rest
 */
public record RegisterDefinition(
        String key,
        String label,
        String recordLabel,
        String mainField,
        String titleField,
        boolean newestFirst,
        List<FieldDefinition> fields) {

    /**
     * One field of a new register.
     *
     * @param shown whether the column is shown at rest
     * @param options the known values of a choice or tags field
     * @param bands the named ranges or sets of its values
     * @param ends the two fields of a span; absent for any other
     */
    public record FieldDefinition(
            String key,
            String label,
            FieldType type,
            boolean required,
            boolean shown,
            List<String> options,
            List<Band> bands,
            Optional<Field.Ends> ends) {

        /** A field without bands that is no span. */
        public FieldDefinition(
                String key, String label, FieldType type, boolean required, boolean shown, List<String> options) {
            this(key, label, type, required, shown, options, List.of(), Optional.empty());
        }

        /** A span from one field to another. */
        public static FieldDefinition span(String key, String label, Field.Ends ends) {
            return new FieldDefinition(
                    key, label, FieldType.SPAN, false, false, List.of(), List.of(), Optional.of(ends));
        }

        /** The same field with these bands. */
        public FieldDefinition withBands(List<Band> named) {
            return new FieldDefinition(key, label, type, required, shown, options, named, ends);
        }
    }

    public RegisterDefinition {
        if (!key.matches("[a-z][a-z0-9_]{0,40}")) {
            throw new IllegalArgumentException("not a register key: " + key);
        }
        fields = List.copyOf(fields);
    }
}
