package deftlens.server.registers;

import com.fasterxml.jackson.annotation.JsonInclude;
import deftlens.core.field.Band;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * A band as JSON.
 *
 * @param extents its own stretches and sets
 * @param bands the bands inside
 * @param was the name that a band had before it was given this one; sent with a change, so that what rests on it is carried
 *     along
 */
@JsonInclude(JsonInclude.Include.NON_ABSENT)
public record BandJson(String name, List<BandExtent> extents, List<BandJson> bands, Optional<String> was) {

    private static final int MOST_LETTERS = 60;

    public BandJson {
        extents = extents == null ? List.of() : extents;
        bands = bands == null ? List.of() : bands;
        was = was == null ? Optional.empty() : was.filter(w -> !w.isBlank());
    }

    /**
     * One stretch or set; which members are there says of what. Numbers from {@code low} to {@code high}, days from
     * {@code firstDay} up to {@code dayAfterLast}, times from {@code from} up to {@code to}, or {@code values}.
     */
    public record BandExtent(
            Optional<BigDecimal> low,
            Optional<Boolean> lowBelongs,
            Optional<BigDecimal> high,
            Optional<Boolean> highBelongs,
            Optional<LocalDate> firstDay,
            Optional<LocalDate> dayAfterLast,
            Optional<LocalTime> from,
            Optional<LocalTime> to,
            Optional<Set<String>> values) {

        private BandExtent(Optional<LocalDate> firstDay, Optional<LocalDate> dayAfterLast) {
            this(
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    firstDay,
                    dayAfterLast,
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty());
        }

        private BandExtent(LocalTime from, LocalTime to) {
            this(
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.of(from),
                    Optional.of(to),
                    Optional.empty());
        }

        private BandExtent(
                Optional<BigDecimal> low, boolean lowBelongs, Optional<BigDecimal> high, boolean highBelongs) {
            this(
                    low,
                    Optional.of(lowBelongs),
                    high,
                    Optional.of(highBelongs),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty());
        }

        private BandExtent(Set<String> values) {
            this(
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.empty(),
                    Optional.of(values));
        }

        static BandExtent of(Band.Extent extent) {
            return switch (extent) {
                case Band.Numbers(var low, boolean lowBelongs, var high, boolean highBelongs) ->
                    new BandExtent(low, lowBelongs, high, highBelongs);
                case Band.Days(var from, var to) -> new BandExtent(from, to);
                case Band.Times(LocalTime from, LocalTime to) -> new BandExtent(from, to);
                case Band.Texts(Set<String> values) ->
                    new BandExtent(new LinkedHashSet<>(values.stream().sorted().toList()));
            };
        }

        Band.Extent extent() {
            if (values.isPresent()) {
                return new Band.Texts(values.get());
            }
            if (from.isPresent() || to.isPresent()) {
                return new Band.Times(from.orElseThrow(), to.orElseThrow());
            }
            return low.isPresent() || high.isPresent() || lowBelongs.isPresent()
                    ? new Band.Numbers(low, lowBelongs.orElse(true), high, highBelongs.orElse(false))
                    : new Band.Days(firstDay, dayAfterLast);
        }
    }

    static BandJson of(Band band) {
        return new BandJson(
                band.name(),
                band.extents().stream().map(BandExtent::of).toList(),
                band.bands().stream().map(BandJson::of).toList(),
                Optional.empty());
    }

    /** The band and every band inside it. */
    Stream<BandJson> tree() {
        return Stream.concat(Stream.of(this), bands.stream().flatMap(BandJson::tree));
    }

    /** The band; a nameless one, or one whose ends do not fit together, is refused with a sentence. */
    Band band() {
        if (name == null || !VisibleText.isVisible(name) || name.length() > MOST_LETTERS) {
            throw Problem.unprocessable("bad-band", "A band needs a name of at most " + MOST_LETTERS + " characters.");
        }
        try {
            return new Band(
                    name.strip(),
                    extents.stream().map(BandExtent::extent).toList(),
                    bands.stream().map(BandJson::band).toList());
        } catch (IllegalArgumentException | java.util.NoSuchElementException e) {
            throw Problem.unprocessable(
                    "bad-band", "The band “" + name.strip() + "” needs two ends, the lower one first, or some values.");
        }
    }
}
