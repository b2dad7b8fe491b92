package deftlens.server.people;

/** An empty installation got its first administrator. */
public record InstallationBegun() {}
