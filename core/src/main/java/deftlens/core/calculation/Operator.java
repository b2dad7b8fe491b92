package deftlens.core.calculation;

import deftlens.core.field.FieldType;

/** The four kinds of arithmetic. A result that needs a division has {@value #PLACES} decimal places at most. */
public enum Operator {
    PLUS("+"),
    MINUS("-"),
    TIMES("*"),
    DIVIDED("/");

    /** The decimal places that a quotient is rounded to, half away from zero. */
    public static final int PLACES = 10;

    /** The decimal places that a quotient is worked out to before it is rounded; a dividend with more is rounded first. */
    public static final int WORKING_PLACES = 30;

    private final String sign;

    Operator(String sign) {
        this.sign = sign;
    }

    /** The sign as the language writes it. */
    public String sign() {
        return sign;
    }

    /** Whether the operator binds tighter than plus and minus. */
    public boolean isTight() {
        return this == TIMES || this == DIVIDED;
    }

    /**
     * What comes out of two values of these types: amounts of money less money are money, money times a number is money, money
     * divided by money is a number; the same for durations. A date less a date, and a moment less a moment, is a duration; a
     * duration is added to both.
     *
     * @throws IllegalArgumentException with a sentence that says what would do
     */
    FieldType result(FieldType left, FieldType right) {
        return switch (this) {
            case PLUS, MINUS -> sum(left, right);
            case TIMES -> {
                requireNumbers(left, right);
                if (left != FieldType.NUMBER && right != FieldType.NUMBER) {
                    throw new IllegalArgumentException(
                            "A " + left.words() + " cannot be multiplied by a " + right.words()
                                    + ". One of the two has to be a plain number"
                                    + (left == FieldType.DURATION || right == FieldType.DURATION
                                            ? ": divide the duration by 1 h to have its hours."
                                            : "."));
                }
                yield left == FieldType.NUMBER ? right : left;
            }
            case DIVIDED -> {
                requireNumbers(left, right);
                if (right == FieldType.NUMBER) {
                    yield left;
                }
                if (left != right) {
                    throw new IllegalArgumentException("A " + left.words() + " cannot be divided by a " + right.words()
                            + ". Divide by a plain number, or by a " + left.words() + ".");
                }
                yield FieldType.NUMBER;
            }
        };
    }

    private FieldType sum(FieldType left, FieldType right) {
        if (left.isTemporal()) {
            if (right == FieldType.DURATION) {
                return left;
            }
            if (this == MINUS && left == right) {
                return FieldType.DURATION;
            }
            throw new IllegalArgumentException(
                    right.isTemporal()
                            ? this == PLUS
                                    ? "Two dates cannot be added up. What lies between them is days_between(…) or time_between(…)."
                                    : "A " + left.words() + " and a " + right.words()
                                            + " are not alike. Write days_between(…), which counts local days."
                            : right == FieldType.NUMBER
                                    ? "A plain number is no length of time. Write 3 days, or multiply: number * 1 day."
                                    : "A " + right.words() + " cannot be added to a " + left.words() + ".");
        }
        requireNumbers(left, right);
        if (!left.countsAs(right)) {
            throw new IllegalArgumentException("A " + left.words() + " and a " + right.words() + " do not add up."
                    + " A duration is written with its unit: 2 h 30 min.");
        }
        return left == right ? left : FieldType.MONEY;
    }

    private void requireNumbers(FieldType left, FieldType right) {
        for (FieldType type : new FieldType[] {left, right}) {
            if (!type.isNumeric()) {
                throw new IllegalArgumentException("“" + sign + "” goes with numbers, and one side is "
                        + (type == FieldType.YES_NO ? "yes or no" : "a " + type.words()) + "."
                        + (type == FieldType.TEXT || type.isListed() ? " Texts are joined with join(…)." : ""));
            }
        }
    }
}
