package deftlens.server.people;

/** Somebody's password was changed, by themselves or by an administrator. */
record PasswordChanged(String name) {}
