package deftlens.core.field;

import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

/**
 * One kind of record: a table with described fields.
 *
 * @param key the stable name used in links and calls
 * @param label what people read: {@code Defects}
 * @param table the table that holds the records, quoted and schema-qualified as SQL needs it
 * @param idColumn the column of the record's unique, ordered number (bigint)
 * @param fields the fields in their usual order; keys and labels are unique, letter case ignored
 */
public record Register(String key, String label, String table, String idColumn, List<Field> fields) {

    public Register {
        Objects.requireNonNull(key);
        Objects.requireNonNull(label);
        Objects.requireNonNull(table);
        Objects.requireNonNull(idColumn);
        fields = List.copyOf(fields);
        Set<String> names = new HashSet<>();
        for (Field field : fields) {
            Set<String> own = new HashSet<>(
                    List.of(field.key().toLowerCase(Locale.ROOT), field.label().toLowerCase(Locale.ROOT)));
            for (String name : own) {
                if (!names.add(name)) {
                    throw new IllegalArgumentException("two fields of " + label + " answer to " + name);
                }
            }
        }
        List<Field> all = fields;
        fields.stream().filter(f -> f.type() == FieldType.SPAN).forEach(span -> requireEnds(span, all));
    }

    private static void requireEnds(Field span, List<Field> fields) {
        Field.Ends ends = span.ends().orElseThrow();
        Optional<FieldType> start = field(fields, ends.start()).map(Field::type);
        Optional<FieldType> end = field(fields, ends.end()).map(Field::type);
        if (start.isEmpty() || !start.equals(end) || !start.get().isTemporal()) {
            throw new IllegalArgumentException(
                    "the span " + span.label() + " needs two date fields or two date and time fields of its register");
        }
        if (ends.lastDayBelongs() && start.get() != FieldType.DATE) {
            throw new IllegalArgumentException("only a span of days has a last day: " + span.label());
        }
    }

    /** The same register with other fields. */
    public Register with(List<Field> others) {
        return new Register(key, label, table, idColumn, others);
    }

    /** The field that a span starts with. */
    public Field start(Field span) {
        return field(span.ends().orElseThrow().start()).orElseThrow();
    }

    /** The field that a span ends with. */
    public Field end(Field span) {
        return field(span.ends().orElseThrow().end()).orElseThrow();
    }

    /** The fields that hold values, in their order: all but the spans. */
    public List<Field> stored() {
        return fields.stream().filter(f -> f.type().isStored()).toList();
    }

    /** The field with exactly this key. */
    public Optional<Field> field(String fieldKey) {
        return field(fields, fieldKey);
    }

    private static Optional<Field> field(List<Field> fields, String fieldKey) {
        for (Field field : fields) {
            if (field.key().equals(fieldKey)) {
                return Optional.of(field);
            }
        }
        return Optional.empty();
    }

    /** The field that a name means: its key or its label, letter case ignored. */
    public Optional<Field> named(String name) {
        return fields.stream()
                .filter(f -> f.key().equalsIgnoreCase(name) || f.label().equalsIgnoreCase(name))
                .findFirst();
    }
}
