package deftlens.server.organisation;

/** The organisation has another zone; published in the transaction that changes it. */
public record ZoneChanged(String before, String now) {}
