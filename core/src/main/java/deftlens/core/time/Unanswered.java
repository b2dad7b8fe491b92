package deftlens.core.time;

/** A blank without a default that nobody has filled in yet; what it stands in has no meaning until then. */
public final class Unanswered extends RuntimeException {

    private final String label;

    /** The blank of this label is open. */
    public Unanswered(String label) {
        super("“" + label + "” has to be filled in first");
        this.label = label;
    }

    /** What the reader is asked. */
    public String label() {
        return label;
    }
}
