package deftlens.core.sql;

import deftlens.core.condition.Test;

/** Writes searches as LIKE patterns. */
public final class Patterns {

    private Patterns() {}

    /** The LIKE pattern (escape character backslash) of a search. */
    public static String sql(Test.Search search, String text) {
        return switch (search) {
            case CONTAINS -> "%" + literal(text) + "%";
            case STARTS_WITH -> literal(text) + "%";
            case ENDS_WITH -> "%" + literal(text);
            case LIKE -> like(text);
        };
    }

    /** Whether the pattern would match a text of no characters. */
    public static boolean takesEmpty(Test.Search search, String text) {
        return search == Test.Search.LIKE && text.chars().allMatch(c -> c == '*');
    }

    private static String literal(String text) {
        return text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_");
    }

    private static String like(String text) {
        StringBuilder pattern = new StringBuilder();
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            switch (c) {
                case '*' -> pattern.append('%');
                case '?' -> pattern.append('_');
                // A backslash at the very end stands for itself.
                case '\\' -> pattern.append(literal(i + 1 < text.length() ? String.valueOf(text.charAt(++i)) : "\\"));
                default -> pattern.append(literal(String.valueOf(c)));
            }
        }
        return pattern.toString();
    }
}
