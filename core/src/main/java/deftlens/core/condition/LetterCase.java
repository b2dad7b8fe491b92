package deftlens.core.condition;

/**
 * Letter case, folded as PostgreSQL's {@code lower()} folds it in our databases (locale C.UTF-8): one character at a
 * time, without the special cases of any language. A test compares the two over every character.
 */
public final class LetterCase {

    private LetterCase() {}

    /** The text with each character in lower case. */
    public static String fold(String text) {
        int length = text.length();
        for (int i = 0; i < length; i++) {
            char c = text.charAt(i);
            if (c >= 0x80 || c >= 'A' && c <= 'Z') {
                return foldFrom(text, i);
            }
        }
        return text;
    }

    private static String foldFrom(String text, int first) {
        char[] plain = text.toCharArray();
        for (int i = first; i < plain.length; i++) {
            char c = plain[i];
            if (c >= 0x80) {
                return foldEach(text, first);
            }
            if (c >= 'A' && c <= 'Z') {
                plain[i] = (char) (c + ('a' - 'A'));
            }
        }
        return new String(plain);
    }

    private static String foldEach(String text, int first) {
        StringBuilder folded = new StringBuilder(text.length()).append(text, 0, first);
        for (int i = first; i < text.length(); ) {
            int c = text.codePointAt(i);
            folded.appendCodePoint(foldOne(c));
            i += Character.charCount(c);
        }
        return folded.toString();
    }

    private static int foldOne(int c) {
        return isNewerThanTheDatabase(c) ? c : Character.toLowerCase(c);
    }

    /** Capitals that Unicode 16 added, which Debian's C library does not know as such yet. */
    private static boolean isNewerThanTheDatabase(int c) {
        return c >= 0x1C89
                && (c == 0x1C89
                        || c == 0xA7CB
                        || c == 0xA7CC
                        || c == 0xA7DA
                        || c == 0xA7DC
                        || c >= 0x10D50 && c <= 0x10D65);
    }
}
