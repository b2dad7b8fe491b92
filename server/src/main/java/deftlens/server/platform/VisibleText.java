package deftlens.server.platform;

/** Text that people are to see. */
public final class VisibleText {

    /** Signs that count as letters or symbols and are drawn as nothing: Hangul fillers, the blank of Braille. */
    private static final String DRAWN_AS_NOTHING = "\u115f\u1160\u2800\u3164\uffa0";

    private VisibleText() {}

    /**
     * Whether somebody sees anything of a text: {@code false} for one that is empty or has nothing but blanks, controls, and signs of no
     * width such as U+200B.
     */
    public static boolean isVisible(String text) {
        return text.codePoints().anyMatch(VisibleText::isVisible);
    }

    private static boolean isVisible(int sign) {
        return switch (Character.getType(sign)) {
            case Character.SPACE_SEPARATOR,
                    Character.LINE_SEPARATOR,
                    Character.PARAGRAPH_SEPARATOR,
                    Character.CONTROL,
                    Character.FORMAT,
                    Character.SURROGATE,
                    Character.UNASSIGNED,
                    Character.NON_SPACING_MARK,
                    Character.ENCLOSING_MARK -> false;
            default -> DRAWN_AS_NOTHING.indexOf(sign) < 0;
        };
    }
}
