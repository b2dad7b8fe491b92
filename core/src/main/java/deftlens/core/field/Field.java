package deftlens.core.field;

import java.util.List;
import java.util.Objects;
import java.util.Optional;

/**
 * One described field of a register.
 *
 * @param key the stable name used in statements, links and files: a letter, then letters, digits or underscores
 * @param label what people read; may hold spaces
 * @param type what it holds
 * @param column the column of the register's table; never taken from a reader
 * @param required whether every record has a value
 * @param options the known values of a choice or person field, in their declared order; empty for other types
 */
public record Field(String key, String label, FieldType type, String column, boolean required, List<Option> options) {

    private static final java.util.regex.Pattern KEY = java.util.regex.Pattern.compile("[A-Za-z][A-Za-z0-9_]{0,62}");

    public Field {
        if (!KEY.matcher(key).matches()) {
            throw new IllegalArgumentException("not a field key: " + key);
        }
        Objects.requireNonNull(label);
        Objects.requireNonNull(type);
        Objects.requireNonNull(column);
        options = List.copyOf(options);
    }

    /** A field that may be empty, without options, in a column of its own name. */
    public static Field of(String key, String label, FieldType type) {
        return new Field(key, label, type, key, false, List.of());
    }

    /** The same field with these known values. */
    public Field withOptions(List<Option> known) {
        return new Field(key, label, type, column, required, known);
    }

    /** The same field, never empty. */
    public Field always() {
        return new Field(key, label, type, column, true, options);
    }

    /** The known value that a text names, by value or by label, ignoring letter case. */
    public Optional<Option> option(String text) {
        return options.stream()
                .filter(o -> o.value().equalsIgnoreCase(text) || o.label().equalsIgnoreCase(text))
                .findFirst();
    }
}
