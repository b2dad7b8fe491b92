package deftlens.server.registers;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.server.platform.Problem;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiPredicate;
import java.util.stream.Collectors;

/**
 * What becomes of the bands of one field.
 *
 * @param before the field as it is
 * @param after the field as it is to be
 * @param renamed the new names by the old ones, which are in small letters; a band that is not in it has the name it had, or
 *     is gone
 */
public record BandChange(Field before, Field after, Map<String, String> renamed) {

    public BandChange {
        renamed = Map.copyOf(renamed);
    }

    /**
     * The change from a field's bands to those that are wanted.
     *
     * @throws Problem when a band is nameless or holds nothing, when two have one name, or when one was called what no band is
     *     called
     */
    static BandChange of(Field field, List<BandJson> wanted) {
        Map<String, String> renamed = new LinkedHashMap<>();
        for (BandJson band : wanted.stream().flatMap(BandJson::tree).toList()) {
            band.was().ifPresent(was -> {
                if (field.band(was).isEmpty()) {
                    throw Problem.unprocessable(
                            "unknown-band", field.label() + " has no band “" + was + "” that could be renamed.");
                }
                if (renamed.put(small(was), band.name().strip()) != null) {
                    throw Problem.unprocessable(
                            "renamed-twice", "Two bands of " + field.label() + " were “" + was + "”; only one can be.");
                }
            });
        }
        renamed.entrySet()
                .removeIf(e -> field.band(e.getKey()).orElseThrow().name().equals(e.getValue()));
        try {
            return new BandChange(
                    field, field.withBands(wanted.stream().map(BandJson::band).toList()), renamed);
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable(
                    "bad-band",
                    Character.toUpperCase(e.getMessage().charAt(0))
                            + e.getMessage().substring(1) + ".");
        }
    }

    /** The names, in small letters, of the bands of which something is not as it was. */
    private Set<String> unlike(BiPredicate<Band, Band> alike) {
        return before.bands().stream()
                .flatMap(Band::tree)
                .filter(band -> after(band).filter(a -> alike.test(band, a)).isEmpty())
                .map(band -> small(band.name()))
                .collect(Collectors.toSet());
    }

    private static boolean holdTheSame(Band one, Band other) {
        return Set.copyOf(one.all()).equals(Set.copyOf(other.all()));
    }

    /** What has become of a band. */
    private Optional<Band> after(Band band) {
        return after.band(renamed.getOrDefault(small(band.name()), band.name()));
    }

    /** Whether the field is put into other groups than before. */
    public boolean regroups() {
        return !before.bands().equals(after.bands());
    }

    /** The criteria of a condition that rest on a band that is called otherwise, holds something else, or is gone. */
    public List<Condition.Criterion> resting(Condition condition) {
        return on(unlike((was, is) -> was.name().equals(is.name()) && holdTheSame(was, is)), condition);
    }

    /** Whether a condition rests on a band that holds something else, or is gone. */
    public boolean redefines(Condition condition) {
        return !on(unlike(BandChange::holdTheSame), condition).isEmpty();
    }

    private List<Condition.Criterion> on(Set<String> names, Condition condition) {
        return condition.criteria().stream()
                .filter(c -> c.field().equals(before.key())
                        && c.test() instanceof Test.Banded banded
                        && banded.names().stream().anyMatch(b -> names.contains(small(b))))
                .toList();
    }

    /** A condition with the new names in the place of the old ones. */
    public Condition carry(Condition condition) {
        return carry(condition, before.key(), renamed);
    }

    /** A condition with the new names of one field's bands in the place of the old ones. */
    static Condition carry(Condition condition, String field, Map<String, String> renamed) {
        Map<String, String> names = new HashMap<>();
        renamed.forEach((was, is) -> names.put(small(was), is));
        return condition.with(c -> c.field().equals(field) && c.test() instanceof Test.Banded banded
                ? new Condition.Criterion(c.field(), banded.renamed(names), c.negated())
                : c);
    }

    private static String small(String name) {
        return name.toLowerCase(Locale.ROOT);
    }
}
