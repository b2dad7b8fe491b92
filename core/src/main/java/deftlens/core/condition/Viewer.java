package deftlens.core.condition;

import java.util.List;
import java.util.Map;

/**
 * What is known of the person who reads: the values behind {@code me}, {@code my site}, {@code my team}.
 *
 * @param facts attribute to values; an attribute may have several values (two teams) or none
 */
public record Viewer(Map<String, List<String>> facts) {

    /** A reader of whom nothing is known; every viewer value is empty. */
    public static final Viewer NOBODY = new Viewer(Map.of());

    public Viewer {
        facts = Map.copyOf(facts);
    }

    /** The values of an attribute, {@code me} included; empty when nothing is known. */
    public List<String> values(String attribute) {
        return facts.getOrDefault(attribute, List.of());
    }
}
