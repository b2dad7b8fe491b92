package deftlens.server.views;

/** What somebody may do with a view; each includes those before it. */
public enum ViewPermission {
    /** Read it, and keep answers, refinements and copies of their own. */
    LOOK,
    /** Change what it asks and how it is shown. */
    CHANGE,
    /** Say who may do what with it, hand it over, delete it and bring it back. */
    MANAGE;

    /** Whether this is enough for something that needs the other. */
    public boolean includes(ViewPermission needed) {
        return compareTo(needed) >= 0;
    }
}
