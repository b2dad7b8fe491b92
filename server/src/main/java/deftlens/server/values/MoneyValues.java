package deftlens.server.values;

import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.ZoneId;
import java.util.Optional;
import org.hibernate.query.NativeQuery;

/** Exact amounts with two decimals, in the organisation's currency. */
final class MoneyValues extends ValueType {

    static final MoneyValues MONEY = new MoneyValues();

    private static final int DECIMALS = 2;
    private static final BigDecimal LIMIT = new BigDecimal("1e12");

    @Override
    public String column() {
        return "numeric(14, 2)";
    }

    @Override
    public void fetch(NativeQuery<?> query, String column) {
        NumberColumn.fetch(query, column);
    }

    @Override
    public Object read(ResultSet row, int column) throws SQLException {
        return row.getBigDecimal(column);
    }

    @Override
    public String copied(Object value) {
        return value == null ? null : ((BigDecimal) value).toPlainString();
    }

    @Override
    public String text(Object value) {
        return NumberColumn.text(value);
    }

    @Override
    public Object parse(String text) {
        return NumberColumn.parse(text);
    }

    @Override
    public Optional<Operand> pasted(Field field, String text) {
        return Optional.of(new Operand.Number(new BigDecimal(text)));
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        return NumberColumn.json(field, json);
    }

    @Override
    Object cell(Field field, String cell, Notation notation) throws Unfitting {
        return NumberColumn.cell(field, cell, notation);
    }

    @Override
    Object kept(Field field, Object value) throws Unfitting {
        BigDecimal amount = (BigDecimal) value;
        if (amount.abs().compareTo(LIMIT) >= 0) {
            throw new Unfitting(field.label() + " holds less than 1,000,000,000,000.");
        }
        try {
            return amount.setScale(DECIMALS, RoundingMode.UNNECESSARY);
        } catch (ArithmeticException e) {
            throw new Unfitting(field.label() + " has at most two decimals, not " + amount.toPlainString() + ".");
        }
    }

    @Override
    String shown(Field field, Object value, ZoneId zone, boolean offsets) {
        return ((BigDecimal) value).toPlainString();
    }
}
