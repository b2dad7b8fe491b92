package deftlens.server.views;

/** Said inside of the transaction that changed a view. */
record ViewChanged(long view) {}
