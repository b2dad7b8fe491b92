package deftlens.server.trail;

import java.util.Map;
import java.util.Set;

/** A feature's things that the trail is about, told by the names that people know them by. */
public interface Named {

    /** What the feature writes as the subject of its entries. */
    String subject();

    /** The names of things by their numbers, those that are deleted included; what is gone for good has none. */
    Map<Long, String> names(Set<Long> ids);
}
