package deftlens.server.values;

import java.math.BigDecimal;
import java.util.Optional;

/** Numbers as people's files write them. */
public final class NumberText {

    /** Which sign comes before the decimals; the other groups the thousands. */
    public enum Decimal {
        POINT,
        COMMA
    }

    /**
     * A number that was read.
     *
     * @param either whether the other sign would give another number
     * @param currency whether a currency sign stood with it
     */
    public record Read(BigDecimal value, boolean either, boolean currency) {}

    private static final int MOST_LETTERS = 60;

    private NumberText() {}

    /** Reads a number: digits, groups of three, a currency sign, a minus before or behind, or brackets for one below zero. */
    public static Optional<Read> number(String text, Decimal decimal) {
        if (text.isEmpty() || text.length() > MOST_LETTERS) {
            return Optional.empty();
        }
        StringBuilder plain = new StringBuilder();
        boolean negative = false;
        boolean currency = false;
        boolean opened = false;
        int point = -1;
        int lastGroup = -1;
        int digits = 0;
        int points = 0;
        int groups = 0;
        char groupSign = 0;
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c >= '0' && c <= '9') {
                plain.append(c);
                digits++;
            } else if (c == '-' || c == '−') {
                if (negative || digits > 0 && i < text.length() - 1) {
                    return Optional.empty();
                }
                negative = true;
            } else if (c == '+' && digits == 0) {
                continue;
            } else if (c == '(' && i == 0) {
                opened = true;
            } else if (c == ')' && opened && i == text.length() - 1) {
                negative = true;
            } else if ("£$€¥".indexOf(c) >= 0) {
                currency = true;
            } else if (c == (decimal == Decimal.POINT ? '.' : ',')) {
                if (++points > 1) {
                    return Optional.empty();
                }
                point = digits;
                plain.append('.');
            } else if (c == (decimal == Decimal.POINT ? ',' : '.')
                    || c == '\''
                    || c == ' '
                    || c == '\u00a0'
                    || c == '\u202f') {
                if ((c == ' ' || c == '\u00a0' || c == '\u202f') && (digits == 0 || i == text.length() - 1)) {
                    continue;
                }
                if (point >= 0
                        || digits == 0
                        || groupSign != 0 && groupSign != c
                        || digits > lastGroup + 3 && lastGroup >= 0
                        || lastGroup >= 0 && digits != lastGroup + 3
                        || lastGroup < 0 && digits > 3) {
                    return Optional.empty();
                }
                groupSign = c;
                lastGroup = digits;
                groups++;
            } else {
                return Optional.empty();
            }
        }
        int whole = point >= 0 ? point : digits;
        if (digits == 0
                || opened && text.charAt(text.length() - 1) != ')'
                || lastGroup >= 0 && whole != lastGroup + 3) {
            return Optional.empty();
        }
        BigDecimal value = new BigDecimal(plain.charAt(plain.length() - 1) == '.' ? plain + "0" : plain.toString());
        boolean either = groups == 1 && points == 0 && (groupSign == ',' || groupSign == '.')
                || points == 1 && groups == 0 && digits - point == 3 && point >= 1 && point <= 3;
        return Optional.of(new Read(negative ? value.negate() : value, either, currency));
    }

    /** Whether a text of digits has a zero in front that a number would lose. */
    public static boolean losesZero(String text) {
        return text.length() > 1 && text.charAt(0) == '0' && text.chars().allMatch(c -> c >= '0' && c <= '9');
    }
}
