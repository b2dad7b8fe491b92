package deftlens.core.field;

/**
 * One value of a listed field.
 *
 * @param value what records hold and statements compare with
 * @param label what people read; for a choice the same as the value, for a person the full name
 */
public record Option(String value, String label) {

    /** A value that is its own label. */
    public static Option of(String value) {
        return new Option(value, value);
    }
}
