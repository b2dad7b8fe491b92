package deftlens.server.values;

import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import java.math.BigDecimal;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.ZoneId;
import java.util.Optional;

/** Values that are kept as exact numbers, of whatever unit. */
abstract sealed class NumericValues extends ValueType permits DurationValues, MoneyValues, NumberValues {

    private static final int MAX_DIGITS = 100;
    /** More than any column holds. */
    private static final int MAX_PARSED_DIGITS = 10_000;

    @Override
    public String column() {
        return "numeric";
    }

    @Override
    public final Object read(ResultSet row, int column) throws SQLException {
        // As text: not all that PostgreSQL holds are numbers of Java.
        String written = row.getString(column);
        return written == null ? null : Beyond.number(written);
    }

    @Override
    public final String copied(Object value) {
        return value == null ? null : ((BigDecimal) value).toPlainString();
    }

    @Override
    public final String text(Object value) {
        BigDecimal number = (BigDecimal) value;
        return Beyond.asDouble(number)
                .map(Object::toString)
                .orElseGet(() -> number.stripTrailingZeros().toPlainString());
    }

    @Override
    public final Object parse(String text) {
        BigDecimal number = Beyond.number(text);
        if (Beyond.asDouble(number).isEmpty()
                && Math.abs((long) number.scale()) + number.precision() > MAX_PARSED_DIGITS) {
            throw new IllegalArgumentException("no column holds as many digits");
        }
        return number;
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        try {
            return json instanceof BigDecimal number ? number : new BigDecimal(((String) json).strip());
        } catch (ClassCastException | NumberFormatException e) {
            throw taken(field, json, "a number");
        }
    }

    @Override
    Object cell(Field field, String cell, Notation notation) throws Unfitting {
        return number(cell, notation).orElseThrow(() -> unread(field, cell, "a number"));
    }

    /** A number as a file writes it; nothing where the text is none. */
    static Optional<BigDecimal> number(String cell, Notation notation) {
        return NumberText.number(cell, notation.decimal().orElse(NumberText.Decimal.POINT))
                .map(NumberText.Read::value);
    }

    @Override
    Object kept(Field field, Object value) throws Unfitting {
        BigDecimal number = (BigDecimal) value;
        if (number.precision() > MAX_DIGITS || Math.abs(number.scale()) > MAX_DIGITS) {
            throw new Unfitting(field.label() + " holds at most " + MAX_DIGITS + " digits.");
        }
        return number;
    }

    @Override
    String shown(Field field, Object value, ZoneId zone, boolean offsets) {
        return ((BigDecimal) value).toPlainString();
    }
}
