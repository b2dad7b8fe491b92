package deftlens.server.people;

import static deftlens.server.people.Administering.requireAdministrator;
import static deftlens.server.people.Administering.requireUnused;
import static deftlens.server.people.Administering.required;

import deftlens.server.people.PeopleService.Attribute;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** What administrators do with the facts that may be known about people: the attributes that follow {@code my}. */
@Service
class AttributesAdministration {

    private static final Pattern KEY = Pattern.compile("[a-z][a-z0-9_]{0,39}");
    private static final Set<String> RESERVED = Set.of("me", "team", "my", "and", "or", "not", "off", "is", "in");

    private final AttributeStore attributes;
    private final Trail trail;
    private final List<PeopleUse> uses;

    AttributesAdministration(AttributeStore attributes, Trail trail, List<PeopleUse> uses) {
        this.attributes = attributes;
        this.trail = trail;
        this.uses = uses;
    }

    /** Says anew what is known of people: what may follow {@code my}. One that something leans on cannot go. */
    @Transactional
    public List<Attribute> settle(SignedIn who, List<Attribute> wanted) {
        requireAdministrator(who);
        Map<String, ViewerAttribute> there = new LinkedHashMap<>();
        attributes.findAllByOrderByPosition().forEach(a -> there.put(a.key(), a));
        List<Attribute> before = known(there);
        Set<String> named = new HashSet<>();
        int position = 0;
        for (Attribute attribute : wanted) {
            if (!KEY.matcher(attribute.key()).matches() || RESERVED.contains(attribute.key())) {
                throw Problem.unprocessable(
                        "bad-attribute",
                        "What may follow “my” is one word of small letters, digits and _, such as site or cost_centre; not “"
                                + attribute.key() + "”.");
            }
            if (!named.add(attribute.key())) {
                throw Problem.unprocessable("attribute-twice", "“my " + attribute.key() + "” is there twice.");
            }
            String label = required("label", "The label of “my " + attribute.key() + "”", attribute.label());
            ViewerAttribute known = there.get(attribute.key());
            if (known == null) {
                attributes.save(new ViewerAttribute(attribute.key(), label, attribute.description(), position));
            } else {
                known.describe(label, attribute.description(), position);
            }
            position++;
        }
        for (ViewerAttribute old : there.values()) {
            if (!named.contains(old.key())) {
                requireUnused(
                        "“my " + old.key() + "” is still used",
                        uses.stream()
                                .flatMap(u -> u.ofAttribute(old.key()).stream())
                                .toList());
                attributes.delete(old);
            }
        }
        attributes.flush();
        List<Attribute> after = attributes.findAllByOrderByPosition().stream()
                .map(a -> new Attribute(a.key(), a.label(), a.description()))
                .toList();
        trail.write(Optional.of(who.id()), "viewer-attributes", 0, "changed", before, after);
        return after;
    }

    private static List<Attribute> known(Map<String, ViewerAttribute> there) {
        return there.values().stream()
                .map(a -> new Attribute(a.key(), a.label(), a.description()))
                .toList();
    }
}
