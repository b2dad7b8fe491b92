package deftlens.core.statement;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Pattern;

/**
 * A list of values that somebody pasted, such as numbers out of a mail or cells out of a sheet.
 *
 * @param values trimmed, in their order, each once; letter case is ignored in telling them apart
 * @param repeated how many were left out because they stood there before
 */
public record Pasted(List<String> values, int repeated) {

    /** A word that can only be an identifier: figures with letters or marks, or four figures and more. */
    private static final Pattern IDENTIFIER = Pattern.compile("(?=\\S*\\d)(?:\\S*[^\\d\\s.,]\\S*|\\d{4,})");

    /**
     * Splits a text on lines, commas, semicolons and tabs, and on spaces where all that they separate are identifiers, as in
     * {@code D-17 D-18}. Values in double quotes keep what is inside them.
     */
    public static Pasted split(String text) {
        Map<String, String> values = new LinkedHashMap<>();
        int repeated = 0;
        for (String piece : pieces(text, true)) {
            for (String value : identifiers(piece.strip())) {
                if (!value.isEmpty()) {
                    repeated += values.putIfAbsent(value.toLowerCase(Locale.ROOT), value) == null ? 0 : 1;
                }
            }
        }
        return new Pasted(List.copyOf(values.values()), repeated);
    }

    private static List<String> identifiers(String piece) {
        List<String> words = List.of(piece.split("\\s+"));
        return words.stream().allMatch(w -> IDENTIFIER.matcher(w).matches()) ? words : List.of(piece);
    }

    private static List<String> pieces(String text, boolean quotes) {
        List<String> pieces = new ArrayList<>();
        StringBuilder piece = new StringBuilder();
        boolean quoted = false;
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (quotes && c == '"' && (quoted || piece.isEmpty())) {
                // A doubled quote inside quotes is the character itself (RFC 4180).
                if (quoted && i + 1 < text.length() && text.charAt(i + 1) == '"') {
                    piece.append('"');
                    i++;
                } else {
                    quoted = !quoted;
                }
            } else if (!quoted && (c == '\n' || c == '\r' || c == ',' || c == ';' || c == '\t')) {
                pieces.add(piece.toString());
                piece.setLength(0);
            } else if (!piece.isEmpty() || quoted || !Character.isWhitespace(c)) {
                piece.append(c);
            }
        }
        if (quoted) {
            // A quote that is never closed is a character like any other.
            return pieces(text, false);
        }
        pieces.add(piece.toString());
        return pieces;
    }
}
