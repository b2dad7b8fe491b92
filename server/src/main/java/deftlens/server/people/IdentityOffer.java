package deftlens.server.people;

/**
 * Signing in through an identity provider, as the sign-in page offers it.
 *
 * @param label what the organisation calls it
 * @param start the address at which it begins
 */
public record IdentityOffer(String label, String start) {}
