package deftlens.server.values;

/** A value that a field cannot hold; the message is a sentence about it. */
public final class Unfitting extends Exception {
    private static final long serialVersionUID = 1;

    /** @param message a whole sentence, that says what the field takes */
    public Unfitting(String message) {
        super(message, null, false, false);
    }
}
