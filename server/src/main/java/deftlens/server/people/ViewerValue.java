package deftlens.server.people;

import jakarta.persistence.Embeddable;

/**
 * One fact about a person.
 *
 * @param attribute what may follow {@code my}
 * @param position from 0, where an attribute has several values
 */
@Embeddable
record ViewerValue(String attribute, int position, String value) {}
