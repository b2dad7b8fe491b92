package deftlens.core.field;

import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * A named range or set of values of a field. A value is in the band when one of its own extents holds it, or one of the
 * bands inside does. Bands of one field may overlap and may leave gaps between them.
 *
 * @param name what people call it: {@code Short stay}; unique among all bands of its field, letter case ignored
 * @param extents what the band itself holds; may be empty when it is made of other bands
 * @param bands the bands inside
 */
public record Band(String name, List<Extent> extents, List<Band> bands) {

    /** The deepest nesting of bands. */
    public static final int MAX_DEPTH = 8;

    /** One stretch or set of values. */
    public sealed interface Extent {

        /** Whether a field of the type can have it. */
        boolean fits(FieldType type);
    }

    /** Numbers from {@code low} to {@code high}; an absent end is open. */
    public record Numbers(Optional<BigDecimal> low, boolean lowBelongs, Optional<BigDecimal> high, boolean highBelongs)
            implements Extent {
        public Numbers {
            if (low.isPresent() && high.isPresent() && low.get().compareTo(high.get()) > 0) {
                throw new IllegalArgumentException("a band ends at or above where it begins");
            }
        }

        /** From a number, which belongs, up to another, which does not. */
        public static Numbers from(long low, long high) {
            return new Numbers(
                    Optional.of(BigDecimal.valueOf(low)), true, Optional.of(BigDecimal.valueOf(high)), false);
        }

        @Override
        public boolean fits(FieldType type) {
            return type.isNumeric();
        }
    }

    /** Texts, equal letter by letter; for a text field letter case is ignored. */
    public record Texts(Set<String> values) implements Extent {
        public Texts {
            values = Set.copyOf(new LinkedHashSet<>(values));
            if (values.isEmpty() || values.contains("")) {
                throw new IllegalArgumentException("a band of values names at least one, and none of them empty");
            }
        }

        @Override
        public boolean fits(FieldType type) {
            return type == FieldType.TEXT || type.isListed();
        }
    }

    /** Local days from {@code from} up to, not including, {@code to}; an absent end is open. */
    public record Days(Optional<LocalDate> from, Optional<LocalDate> to) implements Extent {
        @Override
        public boolean fits(FieldType type) {
            return type.isTemporal();
        }
    }

    /** Wall-clock times from {@code from} up to, not including, {@code to}; over midnight when it ends before it begins. */
    public record Times(LocalTime from, LocalTime to) implements Extent {
        @Override
        public boolean fits(FieldType type) {
            return type == FieldType.TIME || type == FieldType.MOMENT;
        }
    }

    public Band {
        extents = List.copyOf(extents);
        bands = List.copyOf(bands);
        if (name.isBlank()) {
            throw new IllegalArgumentException("a band needs a name");
        }
        if (extents.isEmpty() && bands.isEmpty()) {
            throw new IllegalArgumentException("the band “" + name + "” holds nothing");
        }
        if (depth(bands) > MAX_DEPTH) {
            throw new IllegalArgumentException("bands are nested more than " + MAX_DEPTH + " deep");
        }
    }

    /** A band of one stretch or set. */
    public static Band of(String name, Extent extent) {
        return new Band(name, List.of(extent), List.of());
    }

    /** Everything the band holds, that of the bands inside included. */
    public List<Extent> all() {
        return Stream.concat(extents.stream(), bands.stream().flatMap(b -> b.all().stream()))
                .toList();
    }

    /** The band and every band inside it, outermost first. */
    public Stream<Band> tree() {
        return Stream.concat(Stream.of(this), bands.stream().flatMap(Band::tree));
    }

    private static int depth(List<Band> bands) {
        return 1 + bands.stream().mapToInt(b -> depth(b.bands())).max().orElse(0);
    }
}
