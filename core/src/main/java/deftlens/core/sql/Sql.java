package deftlens.core.sql;

import java.math.BigDecimal;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.function.IntFunction;

/**
 * A piece of SQL with its bound values. Values are {@code String}, {@code BigDecimal}, {@code Boolean}, {@code Long},
 * {@code LocalDate}, {@code Instant}, {@code String[]}, {@code BigDecimal[]} or {@code Long[]}; identifiers in the text come
 * from the catalogue only.
 */
public final class Sql {

    private final List<String> pieces = new ArrayList<>();
    private final List<Object> values = new ArrayList<>();
    private final StringBuilder open = new StringBuilder();

    /** An empty piece. */
    public Sql() {}

    /** A piece without values. */
    public static Sql of(String text) {
        return new Sql().add(text);
    }

    /** Appends text; it must not come from a reader. */
    public Sql add(String text) {
        open.append(text);
        return this;
    }

    /** Appends a place for a value. */
    public Sql bind(Object value) {
        if (value instanceof LocalTime time) {
            // Drivers and mappers like to move a time of day from zone to zone; a text stays where it is.
            return add("cast(").bind(time.toString()).add(" as time)");
        }
        pieces.add(open.toString());
        open.setLength(0);
        values.add(value);
        return this;
    }

    /**
     * Appends a place for a value that a column is compared with. A whole number is bound as one, so that the index of a
     * column of whole numbers serves it; a numeric column takes it just as well.
     */
    public Sql compare(Object value) {
        return switch (value) {
            case BigDecimal number when isLong(number) -> bind(number.longValue());
            case BigDecimal[] numbers
            when Arrays.stream(numbers).allMatch(Sql::isLong) ->
                add("cast(")
                        .bind(Arrays.stream(numbers).map(BigDecimal::longValue).toArray(Long[]::new))
                        .add(" as bigint[])");
            case BigDecimal[] numbers -> add("cast(").bind(numbers).add(" as numeric[])");
            default -> bind(value);
        };
    }

    private static boolean isLong(BigDecimal number) {
        return number.precision() - number.scale() <= 18
                && number.stripTrailingZeros().scale() <= 0;
    }

    /** Appends another piece with its values. */
    public Sql add(Sql other) {
        for (int i = 0; i < other.values.size(); i++) {
            add(other.pieces.get(i)).bind(other.values.get(i));
        }
        return add(other.open.toString());
    }

    /** The text with a marker in each value's place; the marker is given the value's index from 0. */
    public String text(IntFunction<String> marker) {
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < values.size(); i++) {
            text.append(pieces.get(i)).append(marker.apply(i));
        }
        return text.append(open).toString();
    }

    /** The text as JDBC takes it, with {@code ?} for each value. */
    public String text() {
        return text(i -> "?");
    }

    /** The bound values in order. */
    public List<Object> values() {
        return java.util.Collections.unmodifiableList(values);
    }

    /** An identifier in quotes, as PostgreSQL wants it. */
    public static String identifier(String name) {
        if (name.indexOf('\0') >= 0 || name.isEmpty()) {
            throw new IllegalArgumentException("not an identifier");
        }
        return "\"" + name.replace("\"", "\"\"") + "\"";
    }

    @Override
    public String toString() {
        return text() + " "
                + values.stream()
                        .map(v -> v instanceof Object[] a ? List.of(a).toString() : String.valueOf(v))
                        .toList();
    }
}
