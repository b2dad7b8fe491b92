package deftlens.server.values;

import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.Optional;

/** Exact amounts with two decimals, in the organisation's currency. */
final class MoneyValues extends NumericValues {

    static final MoneyValues MONEY = new MoneyValues();

    private static final int DECIMALS = 2;
    private static final BigDecimal LIMIT = new BigDecimal("1e12");

    @Override
    public String column() {
        return "numeric(14, 2)";
    }

    @Override
    public Optional<Operand> pasted(Field field, String text) {
        return Optional.of(new Operand.Number(new BigDecimal(text)));
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
}
