package deftlens.core.field;

import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

/**
 * One described field of a register.
 *
 * @param key the stable name used in statements, links and files: a letter, then letters, digits or underscores; with
 *     an underscore before them where a question adds it to the fields of a register
 * @param label what people read; may hold spaces
 * @param type what it holds
 * @param column the column of the register's table; never taken from a reader; a span has none of its own
 * @param required whether every record has a value
 * @param options the known values of a choice or person field, in their declared order; empty for other types
 * @param bands the named ranges or sets of its values; no two of one name, those inside others included
 * @param ends the two fields that a span is made of; present for spans only
 */
public record Field(
        String key,
        String label,
        FieldType type,
        String column,
        boolean required,
        List<Option> options,
        List<Band> bands,
        Optional<Ends> ends) {

    private static final java.util.regex.Pattern KEY = java.util.regex.Pattern.compile("_?[A-Za-z][A-Za-z0-9_]{0,62}");

    /**
     * The two fields of a span, both dates or both moments. A record whose start is empty has no span; an empty end is one
     * that still runs.
     *
     * @param start the key of the field that holds the start, which belongs to the span
     * @param end the key of the field that holds the end
     * @param lastDayBelongs whether the end is the last day inside (dates only); otherwise it is the first day or instant
     *     outside
     */
    public record Ends(String start, String end, boolean lastDayBelongs) {}

    public Field {
        if (!KEY.matcher(key).matches()) {
            throw new IllegalArgumentException("not a field key: " + key);
        }
        Objects.requireNonNull(label);
        Objects.requireNonNull(type);
        Objects.requireNonNull(column);
        options = List.copyOf(options);
        bands = List.copyOf(bands);
        if (ends.isPresent() != (type == FieldType.SPAN)) {
            throw new IllegalArgumentException("a span, and nothing else, has two ends: " + label);
        }
        Set<String> names = new HashSet<>();
        bands.stream().flatMap(Band::tree).forEach(band -> {
            if (!names.add(band.name().toLowerCase(Locale.ROOT))) {
                throw new IllegalArgumentException("two bands of " + label + " are called " + band.name());
            }
            if (!band.extents().stream().allMatch(e -> e.fits(type))) {
                throw new IllegalArgumentException(
                        "the band “" + band.name() + "” does not fit a " + type.label() + " field");
            }
        });
    }

    /** A field without bands that is no span. */
    public Field(String key, String label, FieldType type, String column, boolean required, List<Option> options) {
        this(key, label, type, column, required, options, List.of(), Optional.empty());
    }

    /** A field that may be empty, without options, in a column of its own name. */
    public static Field of(String key, String label, FieldType type) {
        return new Field(key, label, type, key, false, List.of());
    }

    /** A span from one field to another. */
    public static Field span(String key, String label, Ends ends) {
        return new Field(key, label, FieldType.SPAN, "", false, List.of(), List.of(), Optional.of(ends));
    }

    /** The same field with these known values. */
    public Field withOptions(List<Option> known) {
        return new Field(key, label, type, column, required, known, bands, ends);
    }

    /** The same field with these bands. */
    public Field withBands(List<Band> named) {
        return new Field(key, label, type, column, required, options, named, ends);
    }

    /** The same field, never empty. */
    public Field always() {
        return new Field(key, label, type, column, true, options, bands, ends);
    }

    /** The known value that a text names, by value or by label, ignoring letter case. */
    public Optional<Option> option(String text) {
        return options.stream()
                .filter(o -> o.value().equalsIgnoreCase(text) || o.label().equalsIgnoreCase(text))
                .findFirst();
    }

    /** The band of that name at any depth, ignoring letter case. */
    public Optional<Band> band(String name) {
        return bands.stream()
                .flatMap(Band::tree)
                .filter(b -> b.name().equalsIgnoreCase(name))
                .findFirst();
    }
}
