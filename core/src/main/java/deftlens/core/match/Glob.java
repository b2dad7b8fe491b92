package deftlens.core.match;

import java.util.function.IntUnaryOperator;

/**
 * The pattern of {@code is like}: {@code *} is any run of characters, {@code ?} one character (code point), a backslash
 * takes the next character as it is. Matches in at most length × stars steps, without recursion.
 */
final class Glob {

    private static final int RUN = -1;
    private static final int ONE = -2;

    private final int[] pattern;

    private Glob(int[] pattern) {
        this.pattern = pattern;
    }

    static Glob of(String text) {
        int[] codes = text.codePoints().toArray();
        int[] pattern = new int[codes.length];
        int length = 0;
        for (int i = 0; i < codes.length; i++) {
            pattern[length++] = switch (codes[i]) {
                case '*' -> RUN;
                case '?' -> ONE;
                case '\\' -> i + 1 < codes.length ? codes[++i] : '\\';
                default -> codes[i];
            };
        }
        return new Glob(java.util.Arrays.copyOf(pattern, length));
    }

    boolean matches(String value) {
        int length = value.length();
        for (int i = 0; i < length; i++) {
            if (Character.isSurrogate(value.charAt(i))) {
                int[] codes = value.codePoints().toArray();
                return matches(codes.length, at -> codes[at]);
            }
        }
        return matches(length, value::charAt);
    }

    private boolean matches(int length, IntUnaryOperator text) {
        int p = 0;
        int t = 0;
        int star = -1;
        int mark = 0;
        while (t < length) {
            if (p < pattern.length && pattern[p] == RUN) {
                star = p++;
                mark = t;
            } else if (p < pattern.length && (pattern[p] == ONE || pattern[p] == text.applyAsInt(t))) {
                p++;
                t++;
            } else if (star >= 0) {
                p = star + 1;
                t = ++mark;
            } else {
                return false;
            }
        }
        while (p < pattern.length && pattern[p] == RUN) {
            p++;
        }
        return p == pattern.length;
    }
}
