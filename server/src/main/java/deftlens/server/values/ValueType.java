package deftlens.server.values;

import deftlens.core.condition.Operand;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.ZoneId;
import java.util.Optional;

/**
 * What the server does with the values of a type of field: the column they are kept in, how they are fetched, and how they are read and
 * written as JSON, in files and in short texts. What they mean in a question is the core's business.
 *
 * <p>In memory a value is a {@code String}, {@code BigDecimal} (of durations the seconds), {@code Boolean}, {@code LocalDate},
 * {@code Instant}, {@code LocalTime} or {@code List<String>}; {@code null} is none.
 */
public abstract sealed class ValueType
        permits DateValues, MomentValues, NumericValues, SpanValues, TagValues, TextValues, TimeValues, YesNoValues {

    ValueType() {}

    /** The values of a type of field. */
    public static ValueType of(FieldType type) {
        return switch (type) {
            case TEXT -> TextValues.TEXT;
            case NUMBER -> NumberValues.NUMBER;
            case MONEY -> MoneyValues.MONEY;
            case DURATION -> DurationValues.DURATION;
            case CHOICE, PERSON -> ListedValues.LISTED;
            case YES_NO -> YesNoValues.YES_NO;
            case TAGS -> TagValues.TAGS;
            case DATE -> DateValues.DATE;
            case MOMENT -> MomentValues.MOMENT;
            case TIME -> TimeValues.TIME;
            case SPAN -> SpanValues.SPAN;
        };
    }

    /** The values of a field. */
    public static ValueType of(Field field) {
        return of(field.type());
    }

    // ------------------------------------------------------------------ the database

    /** The SQL type of a column of our own. */
    public abstract String column();

    /** What follows the type in a column's declaration. */
    public String constraint() {
        return "";
    }

    /** No value, as SQL of the column's type. */
    public String none() {
        return "cast(null as " + column() + ")";
    }

    /** What holds in SQL for the records that have a value. */
    public String isFilled(String column) {
        return column + " is not null";
    }

    /** A value of a row; {@code null} for none. Tables of others may hold what is beyond numbers and dates. */
    public abstract Object read(ResultSet row, int column) throws SQLException;

    /** What a record has that has no value. */
    public Object empty() {
        return null;
    }

    /** A value as PostgreSQL's copy reads it; {@code null} for none. */
    public String copied(Object value) {
        return value == null ? null : value.toString();
    }

    // ------------------------------------------------------------------ short texts

    /** A value as a text from which {@link #parse} makes the same again; where a page ends, and what a group has in common. */
    public String text(Object value) {
        return value.toString();
    }

    /**
     * The value that such a text stands for.
     *
     * @throws IllegalArgumentException where it is none; {@link java.time.DateTimeException} of dates and times
     */
    public abstract Object parse(String text);

    /**
     * A value of a pasted list, for a test; nothing where lists are not looked for in such fields.
     *
     * @throws IllegalArgumentException where the text is no value
     */
    public Optional<Operand> pasted(Field field, String text) {
        return Optional.empty();
    }

    // ------------------------------------------------------------------ JSON and files

    /**
     * The value of a JSON scalar or array as the field holds it: numbers as numbers or text, durations in seconds or as text, days as
     * {@code 2026-11-23}, moments with their offset, yes/no as booleans, tags as an array of texts; {@code null} and {@code ""} are none.
     */
    public final Object ofJson(Field field, Object json) throws Unfitting {
        return json == null || json.equals("") || json instanceof java.util.List<?> list && list.isEmpty()
                ? absent(field)
                : checked(field, json(field, json));
    }

    abstract Object json(Field field, Object json) throws Unfitting;

    /**
     * The value that a text of a file is read as.
     *
     * @param cell without blanks around it; no characters at all are none
     */
    public final Object ofCell(Field field, String cell, Notation notation) throws Unfitting {
        return checked(field, cell.isEmpty() ? null : cell(field, cell, notation));
    }

    abstract Object cell(Field field, String cell, Notation notation) throws Unfitting;

    /** A value held against the rules of its field; it comes back as it is to be kept. */
    public final Object checked(Field field, Object value) throws Unfitting {
        return value == null ? absent(field) : kept(field, value);
    }

    Object kept(Field field, Object value) throws Unfitting {
        return value;
    }

    /** What a record is without a value. */
    Object absent(Field field) throws Unfitting {
        if (field.required()) {
            throw new Unfitting(field.label() + " is needed in every record.");
        }
        return null;
    }

    /**
     * A value in a file, as people read it.
     *
     * @param zone whose clock moments are shown by
     * @param offsets whether moments have their offset with them
     */
    public final String words(Field field, Object value, ZoneId zone, boolean offsets) {
        return value == null ? "" : Beyond.words(value).orElseGet(() -> shown(field, value, zone, offsets));
    }

    String shown(Field field, Object value, ZoneId zone, boolean offsets) {
        return value.toString();
    }

    /** Whether what is shown is free text, that a spreadsheet could take for a formula. */
    public boolean isFreeText() {
        return false;
    }

    static Unfitting unread(Field field, String cell, String as) {
        String shown = cell.length() > 60 ? cell.substring(0, 60) + "…" : cell;
        return new Unfitting(field.label() + ": “" + shown + "” does not read as " + as + ".");
    }

    static Unfitting taken(Field field, Object json, String expected) {
        return new Unfitting(field.label() + " takes " + expected + ", not “" + json + "”.");
    }
}
