package deftlens.server.registers;

import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import java.util.List;
import java.util.Optional;

/**
 * What a new register is made from.
 *
 * @param key the stable name, also the table's: a small letter, then small letters, digits or underscores
 * @param label the plural that people read: {@code Defects}
 * @param recordLabel one record: {@code defect}
 * @param description what the register holds and for whom
 * @param mainField the date or moment that the register is ordered by at rest, if it has one
 * @param titleField the field that names a record to people
 * @param newestFirst whether the latest main date comes first at rest
 * @param running the key of a signed number whose sum so far means something: a balance, a number on hand
 * @param transactions how its records are posted together, in lines that add up to zero
 */
public record RegisterDefinition(
        String key,
        String label,
        String recordLabel,
        String description,
        Optional<String> mainField,
        String titleField,
        boolean newestFirst,
        List<FieldDefinition> fields,
        Optional<String> running,
        Optional<TransactionRules> transactions) {

    /** A field of another register that holds the same values. */
    public record Relation(String register, String field) {}

    /**
     * One field of a new register.
     *
     * @param shown whether the column is shown at rest
     * @param options the known values of a choice or tags field
     * @param bands the named ranges or sets of its values
     * @param ends the two fields of a span; absent for any other
     * @param origin where its values come from
     * @param about what people should know of it, and which way it is to be used
     * @param calculation how a calculated field comes to its value, in the language; absent for any other
     */
    public record FieldDefinition(
            String key,
            String label,
            FieldType type,
            boolean required,
            boolean shown,
            List<String> options,
            List<Band> bands,
            Optional<Field.Ends> ends,
            FieldOrigin origin,
            About about,
            Optional<String> calculation) {

        /**
         * What a catalogue says of a field beyond its type.
         *
         * @param description a sentence or two
         * @param unit what its numbers count: {@code m}, {@code h}; empty for none
         * @param useful whether it is offered first
         * @param identifying whether its value names one record
         * @param correctable whether people may correct it in a record
         * @param relates the fields of other registers that hold the same values
         * @param correctors the numbers of the teams whose members may correct it; none for everybody who sees it
         */
        public record About(
                String description,
                String unit,
                boolean useful,
                boolean identifying,
                boolean correctable,
                List<Relation> relates,
                List<Long> correctors) {

            public About {
                relates = List.copyOf(relates);
                correctors = List.copyOf(correctors);
            }

            /** Whether somebody who is in these teams may correct it. */
            public boolean isCorrectableBy(List<Long> teams) {
                return correctable
                        && (correctors.isEmpty() || correctors.stream().anyMatch(teams::contains));
            }

            /** Nothing in particular. */
            public static final About NOTHING = new About("", "", false, false, false, List.of(), List.of());
        }

        /** A field that is not calculated. */
        public FieldDefinition(
                String key,
                String label,
                FieldType type,
                boolean required,
                boolean shown,
                List<String> options,
                List<Band> bands,
                Optional<Field.Ends> ends,
                FieldOrigin origin,
                About about) {
            this(key, label, type, required, shown, options, bands, ends, origin, about, Optional.empty());
        }

        /**
         * A calculated field.
         *
         * @param type what comes out of the calculation
         */
        public static FieldDefinition calculated(
                String key, String label, FieldType type, boolean shown, String calculation) {
            return new FieldDefinition(
                    key,
                    label,
                    type,
                    false,
                    shown,
                    List.of(),
                    List.of(),
                    Optional.empty(),
                    FieldOrigin.CALCULATED,
                    About.NOTHING,
                    Optional.of(calculation));
        }

        /** A field without bands that is no span. */
        public FieldDefinition(
                String key, String label, FieldType type, boolean required, boolean shown, List<String> options) {
            this(
                    key,
                    label,
                    type,
                    required,
                    shown,
                    options,
                    List.of(),
                    Optional.empty(),
                    FieldOrigin.COLUMN,
                    About.NOTHING);
        }

        /** A span from one field to another. */
        public static FieldDefinition span(String key, String label, Field.Ends ends) {
            return new FieldDefinition(
                    key,
                    label,
                    FieldType.SPAN,
                    false,
                    false,
                    List.of(),
                    List.of(),
                    Optional.of(ends),
                    FieldOrigin.SPAN,
                    About.NOTHING);
        }

        /** Whether the reader has seen the record; kept beside the records, for each reader. */
        public static FieldDefinition seen(boolean shown) {
            return new FieldDefinition("seen", "Seen", FieldType.YES_NO, true, shown, List.of())
                    .from(FieldOrigin.SEEN)
                    .described("Whether you have marked the record as seen; everybody has marks of their own.");
        }

        /** Where a record of a combined register comes from; its options are the members' labels. */
        public static FieldDefinition member(String key, String label, List<String> labels) {
            return new FieldDefinition(key, label, FieldType.CHOICE, true, true, labels)
                    .from(FieldOrigin.MEMBER)
                    .useful();
        }

        /** The same field, its values coming from there. */
        public FieldDefinition from(FieldOrigin other) {
            return new FieldDefinition(
                    key, label, type, required, shown, options, bands, ends, other, about, calculation);
        }

        /** The same field with these bands. */
        public FieldDefinition withBands(List<Band> named) {
            return new FieldDefinition(
                    key, label, type, required, shown, options, named, ends, origin, about, calculation);
        }

        /** The same field with a description. */
        public FieldDefinition described(String description) {
            return with(new About(
                    description,
                    about.unit,
                    about.useful,
                    about.identifying,
                    about.correctable,
                    about.relates,
                    about.correctors));
        }

        /** The same field, its numbers counted in a unit. */
        public FieldDefinition in(String unit) {
            return with(new About(
                    about.description,
                    unit,
                    about.useful,
                    about.identifying,
                    about.correctable,
                    about.relates,
                    about.correctors));
        }

        /** The same field, offered first. */
        public FieldDefinition useful() {
            return with(new About(
                    about.description,
                    about.unit,
                    true,
                    about.identifying,
                    about.correctable,
                    about.relates,
                    about.correctors));
        }

        /** The same field, whose value names one record. */
        public FieldDefinition identifying() {
            return with(new About(
                    about.description, about.unit, true, true, about.correctable, about.relates, about.correctors));
        }

        /** The same field, open to correction. */
        public FieldDefinition correctable() {
            return with(new About(
                    about.description,
                    about.unit,
                    about.useful,
                    about.identifying,
                    true,
                    about.relates,
                    about.correctors));
        }

        /** The same field, its values also found in a field of another register. */
        public FieldDefinition alsoIn(String register, String field) {
            return with(new About(
                    about.description,
                    about.unit,
                    about.useful,
                    about.identifying,
                    about.correctable,
                    java.util.stream.Stream.concat(
                                    about.relates.stream(), java.util.stream.Stream.of(new Relation(register, field)))
                            .toList(),
                    about.correctors));
        }

        private FieldDefinition with(About other) {
            return new FieldDefinition(
                    key, label, type, required, shown, options, bands, ends, origin, other, calculation);
        }
    }

    public RegisterDefinition {
        if (!key.matches("[a-z][a-z0-9_]{0,40}")) {
            throw new IllegalArgumentException("not a register key: " + key);
        }
        fields = List.copyOf(fields);
    }

    /** A register without transactions. */
    public RegisterDefinition(
            String key,
            String label,
            String recordLabel,
            String description,
            Optional<String> mainField,
            String titleField,
            boolean newestFirst,
            List<FieldDefinition> fields,
            Optional<String> running) {
        this(
                key,
                label,
                recordLabel,
                description,
                mainField,
                titleField,
                newestFirst,
                fields,
                running,
                Optional.empty());
    }

    /** A register that adds nothing up. */
    public RegisterDefinition(
            String key,
            String label,
            String recordLabel,
            String description,
            Optional<String> mainField,
            String titleField,
            boolean newestFirst,
            List<FieldDefinition> fields) {
        this(key, label, recordLabel, description, mainField, titleField, newestFirst, fields, Optional.empty());
    }

    /** A register with a main date and without a description. */
    public RegisterDefinition(
            String key,
            String label,
            String recordLabel,
            String mainField,
            String titleField,
            boolean newestFirst,
            List<FieldDefinition> fields) {
        this(key, label, recordLabel, "", Optional.of(mainField), titleField, newestFirst, fields);
    }

    /** The same register with a description. */
    public RegisterDefinition described(String words) {
        return new RegisterDefinition(
                key, label, recordLabel, words, mainField, titleField, newestFirst, fields, running, transactions);
    }

    /** The same register, a number of it added up as time goes. */
    public RegisterDefinition running(String field) {
        return new RegisterDefinition(
                key,
                label,
                recordLabel,
                description,
                mainField,
                titleField,
                newestFirst,
                fields,
                Optional.of(field),
                transactions);
    }

    /** The same register, its records posted together. */
    public RegisterDefinition transactions(TransactionRules rules) {
        return new RegisterDefinition(
                key,
                label,
                recordLabel,
                description,
                mainField,
                titleField,
                newestFirst,
                fields,
                running,
                Optional.of(rules));
    }
}
