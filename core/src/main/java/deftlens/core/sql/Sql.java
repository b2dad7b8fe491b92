package deftlens.core.sql;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.function.IntFunction;

/**
 * A piece of SQL with its bound values. Values are {@code String}, {@code BigDecimal}, {@code Boolean}, {@code Long},
 * {@code LocalDate}, {@code LocalTime}, {@code Instant}, {@code String[]}, {@code BigDecimal[]}, {@code Long[]} or
 * {@code LocalDate[]}; identifiers in the text come from the catalogue only. Whoever binds them says their type: of a text
 * that is cast to a date or a time the database would make one again for each record.
 */
public final class Sql {

    /** What a piece is made of, in order. */
    private sealed interface Part {

        /** Text as it stands. */
        record Text(String text) implements Part {}

        /** A place for a value. */
        record Value(Object value) implements Part {}

        /** A column of a query that is written where something else in the statement names it. */
        record Column(String identifier, Sql value) implements Part {}
    }

    private final List<Part> parts = new ArrayList<>();
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
        return add(new Part.Value(value));
    }

    /**
     * Appends {@code , value as identifier} to the columns of a query, which is written where something else in the whole statement
     * names the column, and left out where nothing does: what nobody asks for costs nothing to read and to plan. The identifier must be
     * one that stands for nothing else.
     */
    Sql columnWhereNamed(String identifier, Sql value) {
        return add(new Part.Column(identifier, value));
    }

    private Sql add(Part part) {
        close();
        parts.add(part);
        return this;
    }

    private void close() {
        if (!open.isEmpty()) {
            parts.add(new Part.Text(open.toString()));
            open.setLength(0);
        }
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
        for (Part part : other.parts) {
            if (part instanceof Part.Text(String text)) {
                add(text);
            } else {
                add(part);
            }
        }
        return add(other.open.toString());
    }

    /** The text with a marker in each value's place; the marker is given the value's index from 0. */
    public String text(IntFunction<String> marker) {
        StringBuilder text = new StringBuilder();
        int index = 0;
        for (Part part : written()) {
            switch (part) {
                case Part.Text(String words) -> text.append(words);
                case Part.Value _ -> text.append(marker.apply(index++));
                case Part.Column _ -> throw new IllegalStateException("a column that is not written");
            }
        }
        return text.toString();
    }

    /** Everything that is written: each column where it is named, as text and values. */
    private List<Part> written() {
        close();
        if (parts.stream().noneMatch(Part.Column.class::isInstance)) {
            return parts;
        }
        Set<String> named = named();
        Sql whole = new Sql();
        for (Part part : parts) {
            switch (part) {
                case Part.Text(String text) -> whole.add(text);
                case Part.Value value -> whole.add(value);
                case Part.Column(String identifier, Sql value) -> {
                    if (named.contains(identifier)) {
                        whole.add(", ").add(value).add(" as " + identifier);
                    }
                }
            }
        }
        return whole.written();
    }

    /** The columns that something names: the text itself, or a column that is named. */
    private Set<String> named() {
        StringBuilder text = new StringBuilder();
        List<Part.Column> open = new ArrayList<>();
        for (Part part : parts) {
            switch (part) {
                case Part.Text(String words) -> text.append(words);
                case Part.Value _ -> text.append('?');
                case Part.Column column -> open.add(column);
            }
        }
        Set<String> named = new HashSet<>();
        boolean more = true;
        while (more) {
            List<Part.Column> found =
                    open.stream().filter(c -> text.indexOf(c.identifier()) >= 0).toList();
            found.forEach(c -> {
                named.add(c.identifier());
                text.append(c.value().text());
            });
            more = open.removeAll(found);
        }
        return named;
    }

    /** The text as JDBC takes it, with {@code ?} for each value. */
    public String text() {
        return text(i -> "?");
    }

    /** The bound values in order. */
    public List<Object> values() {
        List<Object> values = new ArrayList<>();
        for (Part part : written()) {
            if (part instanceof Part.Value(Object value)) {
                values.add(value);
            }
        }
        return Collections.unmodifiableList(values);
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
                + values().stream()
                        .map(v -> v instanceof Object[] a ? List.of(a).toString() : String.valueOf(v))
                        .toList();
    }
}
