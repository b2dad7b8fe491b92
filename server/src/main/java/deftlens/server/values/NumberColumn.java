package deftlens.server.values;

import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import jakarta.persistence.AttributeConverter;
import java.math.BigDecimal;
import org.hibernate.query.NativeQuery;

/** What the types that are kept as exact numbers have in common. */
final class NumberColumn {

    private static final int MAX_DIGITS = 100;
    /** More than any column holds. */
    private static final int MAX_PARSED_DIGITS = 10_000;

    private static final Converter CONVERTER = new Converter();

    private NumberColumn() {}

    /** Numbers come as text: not all that PostgreSQL holds are numbers of Java. */
    static final class Converter implements AttributeConverter<BigDecimal, String> {
        @Override
        public String convertToDatabaseColumn(BigDecimal number) {
            return number == null ? null : number.toPlainString();
        }

        @Override
        public BigDecimal convertToEntityAttribute(String written) {
            return written == null ? null : Beyond.number(written);
        }
    }

    static void fetch(NativeQuery<?> query, String column) {
        query.addScalar(column, BigDecimal.class, String.class, CONVERTER);
    }

    static String text(Object value) {
        BigDecimal number = (BigDecimal) value;
        return Beyond.asDouble(number)
                .map(Object::toString)
                .orElseGet(() -> number.stripTrailingZeros().toPlainString());
    }

    static BigDecimal parse(String text) {
        BigDecimal number = Beyond.number(text);
        if (Beyond.asDouble(number).isEmpty()
                && Math.abs((long) number.scale()) + number.precision() > MAX_PARSED_DIGITS) {
            throw new IllegalArgumentException("no column holds as many digits");
        }
        return number;
    }

    static BigDecimal requireShort(Field field, BigDecimal number) throws Unfitting {
        if (number.precision() > MAX_DIGITS || Math.abs(number.scale()) > MAX_DIGITS) {
            throw new Unfitting(field.label() + " holds at most " + MAX_DIGITS + " digits.");
        }
        return number;
    }

    static BigDecimal json(Field field, Object json) throws Unfitting {
        try {
            return json instanceof BigDecimal number ? number : new BigDecimal(((String) json).strip());
        } catch (ClassCastException | NumberFormatException e) {
            throw ValueType.taken(field, json, "a number");
        }
    }

    static BigDecimal cell(Field field, String cell, Notation notation) throws Unfitting {
        return NumberText.number(cell, notation.decimal().orElse(NumberText.Decimal.POINT))
                .map(NumberText.Read::value)
                .orElseThrow(() -> ValueType.unread(field, cell, "a number"));
    }
}
