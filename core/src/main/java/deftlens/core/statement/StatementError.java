package deftlens.core.statement;

import java.util.List;

/**
 * A statement, or a date phrase, that cannot be read: where, why, and what to write instead. The message is a whole
 * sentence for the person who typed it.
 */
public final class StatementError extends RuntimeException {

    private final transient Place place;
    private final String found;
    private final List<String> suggestions;

    /**
     * Where in the text something stands.
     *
     * @param line the line, from 1
     * @param column the character (Unicode code point) in the line, from 1
     * @param offset where it begins in the whole text, in UTF-16 units from 0
     * @param length how long it is, in UTF-16 units; 0 at the end of the text
     */
    public record Place(int line, int column, int offset, int length) {

        /** The place of a stretch of a text. */
        static Place of(String text, int offset, int length) {
            int line = 1;
            int lineStart = 0;
            for (int i = 0; i < offset; i++) {
                if (text.charAt(i) == '\n') {
                    line++;
                    lineStart = i + 1;
                }
            }
            return new Place(line, text.codePointCount(lineStart, offset) + 1, offset, length);
        }
    }

    StatementError(String message, Place place, String found, List<String> suggestions) {
        super(message);
        this.place = place;
        this.found = found;
        this.suggestions = List.copyOf(suggestions);
    }

    /** Where the text stops making sense. */
    public Place place() {
        return place;
    }

    /** The piece of text that stands there; empty at the end of the text. */
    public String found() {
        return found;
    }

    /** Texts that could stand in its place, the likeliest first; often none. */
    public List<String> suggestions() {
        return suggestions;
    }
}
