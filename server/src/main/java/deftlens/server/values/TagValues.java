package deftlens.server.values;

import deftlens.core.field.Field;
import deftlens.core.field.Option;
import java.sql.Array;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Objects;
import java.util.stream.Collectors;

/** Sets of short texts. No tags at all are an empty array, never null. */
final class TagValues extends ValueType {

    static final TagValues TAGS = new TagValues();

    private static final int MAX_TAGS = 100;
    private static final int MAX_TAG_LETTERS = 200;

    @Override
    public String column() {
        return "text[]";
    }

    @Override
    public String constraint() {
        return " not null default '{}'";
    }

    @Override
    public String none() {
        return "cast('{}' as text[])";
    }

    @Override
    public String isFilled(String column) {
        return "cardinality(" + column + ") > 0";
    }

    @Override
    public Object read(ResultSet row, int column) throws SQLException {
        Array tags = row.getArray(column);
        return tags == null ? null : Arrays.asList((String[]) tags.getArray());
    }

    @Override
    public Object empty() {
        return List.of();
    }

    @Override
    public String copied(Object value) {
        return ((List<?>) value)
                .stream()
                        .map(t -> '"' + t.toString().replace("\\", "\\\\").replace("\"", "\\\"") + '"')
                        .collect(Collectors.joining(",", "{", "}"));
    }

    @Override
    public Object parse(String text) {
        throw new IllegalArgumentException("a set of tags has no order and makes no groups");
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        if (!(json instanceof List<?> list)) {
            throw new Unfitting(field.label() + " takes a list of texts.");
        }
        List<String> tags = new ArrayList<>();
        for (Object item : list) {
            if (!(item instanceof String tag) || tag.isBlank()) {
                throw new Unfitting("A tag is a text that is not blank.");
            }
            String plain = field.option(tag.strip()).map(Option::value).orElse(tag.strip());
            if (plain.length() > MAX_TAG_LETTERS || plain.indexOf('\0') >= 0) {
                throw new Unfitting("A tag has at most " + MAX_TAG_LETTERS + " characters.");
            }
            if (!tags.contains(plain)) {
                tags.add(plain);
            }
        }
        if (tags.size() > MAX_TAGS) {
            throw new Unfitting("A record has at most " + MAX_TAGS + " tags.");
        }
        return List.copyOf(tags);
    }

    @Override
    Object cell(Field field, String cell, Notation notation) throws Unfitting {
        return json(
                field,
                Arrays.stream(cell.split("[,;]"))
                        .map(String::strip)
                        .filter(t -> !t.isEmpty())
                        .toList());
    }

    @Override
    Object absent(Field field) {
        return List.of();
    }

    /** An array of an attached table may hold places with nothing in them. */
    @Override
    String shown(Field field, Object value, ZoneId zone, boolean offsets) {
        return ((List<?>) value)
                .stream().filter(Objects::nonNull).map(Object::toString).collect(Collectors.joining(", "));
    }

    @Override
    public boolean isFreeText() {
        return true;
    }
}
