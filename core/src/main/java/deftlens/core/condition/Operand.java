package deftlens.core.condition;

import deftlens.core.time.Period;
import java.math.BigDecimal;
import java.time.LocalTime;
import java.util.Objects;
import java.util.Optional;

/** What a criterion compares a field with, apart from dates. */
public sealed interface Operand {

    /** The viewer value {@code me}: the reader's own sign-in name. */
    Viewer ME = new Viewer("me");

    /** A text, a choice, a person's sign-in name or a tag. Holds no NUL and no half of a surrogate pair. */
    record Text(String value) implements Operand {
        public Text {
            for (int i = 0; i < value.length(); i++) {
                char c = value.charAt(i);
                boolean pair = Character.isHighSurrogate(c)
                        && i + 1 < value.length()
                        && Character.isLowSurrogate(value.charAt(i + 1));
                if (c == 0 || Character.isSurrogate(c) && !pair) {
                    throw new IllegalArgumentException("a text holds a character that no record can have");
                }
                if (pair) {
                    i++;
                }
            }
        }
    }

    /** An exact decimal number of at most {@value #MAX_DIGITS} digits on either side of the point, kept without trailing zeros. */
    record Number(BigDecimal value) implements Operand {
        /** The most digits before, and after, the decimal point. */
        public static final int MAX_DIGITS = 60;

        public Number {
            value = value.signum() == 0 ? BigDecimal.ZERO : value.stripTrailingZeros();
            if (value.scale() > MAX_DIGITS || value.precision() - value.scale() > MAX_DIGITS) {
                throw new IllegalArgumentException("a number here has at most " + MAX_DIGITS + " digits");
            }
            if (value.scale() < 0) {
                value = value.setScale(0);
            }
        }

        /** A whole number. */
        public static Number of(long value) {
            return new Number(BigDecimal.valueOf(value));
        }
    }

    /** A length of time in seconds, exact; as many digits as a {@link Number}. */
    record Duration(BigDecimal seconds) implements Operand {
        public Duration {
            seconds = new Number(seconds).value();
        }
    }

    /** A time of day, kept to the microsecond. */
    record Time(LocalTime value) implements Operand {
        public Time {
            if (value.getNano() % 1_000 != 0) {
                throw new IllegalArgumentException("a time of day is kept to the microsecond");
            }
        }
    }

    /** Yes or no. */
    record YesNo(boolean value) implements Operand {}

    /** A fact about the reader, filled in when the question is put: {@code me}, {@code my site}. */
    record Viewer(String attribute) implements Operand {
        public Viewer {
            Objects.requireNonNull(attribute);
        }

        /** The words of the language. */
        public String words() {
            return attribute.equals("me") ? "me" : "my " + attribute;
        }
    }

    /**
     * A blank that the view leaves for its reader.
     *
     * @param label what the reader is asked
     * @param preset the value until the reader gives another; itself no ask
     */
    record Ask(String label, Optional<Operand> preset) implements Operand {
        public Ask {
            Period.requireAskLabel(label);
            if (preset.isPresent() && preset.get() instanceof Ask) {
                throw new IllegalArgumentException("the default of an ask is a value");
            }
        }
    }

    /** Whether it is a number of whatever unit. */
    default boolean isQuantity() {
        return this instanceof Number || this instanceof Duration;
    }

    /** The value itself, or the default of a blank; nothing for a blank without one. */
    default Optional<Operand> known() {
        return this instanceof Ask(String label, Optional<Operand> preset) ? preset : Optional.of(this);
    }
}
