package deftlens.server.values;

import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import deftlens.core.time.DurationText;
import java.math.BigDecimal;
import java.time.ZoneId;
import java.util.Optional;

/** Durations, as exact seconds. They are written {@code 2 h 30 min} and read in any way that {@link DurationText} knows. */
final class DurationValues extends NumericValues {

    static final DurationValues DURATION = new DurationValues();

    private static final String EXAMPLES = "a duration such as 2 h 30 min, 3 days or PT2H30M";
    /** Some 31,000 years. */
    private static final BigDecimal LIMIT = new BigDecimal("1e12");

    @Override
    public Optional<Operand> pasted(Field field, String text) {
        return Optional.of(new Operand.Duration(
                DurationText.seconds(text).orElseThrow(() -> new IllegalArgumentException("no duration"))));
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        if (json instanceof BigDecimal seconds) {
            return seconds;
        }
        return Optional.of(json)
                .filter(String.class::isInstance)
                .flatMap(text -> DurationText.seconds((String) text))
                .orElseThrow(() -> taken(field, json, EXAMPLES));
    }

    @Override
    Object cell(Field field, String cell, Notation notation) throws Unfitting {
        Optional<BigDecimal> number =
                notation.unit().flatMap(unit -> number(cell, notation).map(unit::seconds));
        return number.or(() -> DurationText.seconds(cell)).orElseThrow(() -> unread(field, cell, EXAMPLES));
    }

    @Override
    Object kept(Field field, Object value) throws Unfitting {
        BigDecimal seconds = (BigDecimal) value;
        if (seconds.abs().compareTo(LIMIT) >= 0) {
            throw new Unfitting(field.label() + " cannot hold a duration so long.");
        }
        return super.kept(field, seconds);
    }

    @Override
    String shown(Field field, Object value, ZoneId zone, boolean offsets) {
        return DurationText.words((BigDecimal) value);
    }
}
