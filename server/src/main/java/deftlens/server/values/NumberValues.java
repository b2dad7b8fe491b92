package deftlens.server.values;

import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import java.math.BigDecimal;
import java.util.Optional;

/** Exact decimal numbers. */
final class NumberValues extends NumericValues {

    static final NumberValues NUMBER = new NumberValues();

    @Override
    public Optional<Operand> pasted(Field field, String text) {
        return Optional.of(new Operand.Number(new BigDecimal(text)));
    }
}
