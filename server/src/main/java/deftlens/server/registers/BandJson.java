package deftlens.server.registers;

import deftlens.core.field.Band;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * A band as JSON.
 *
 * @param extents its own stretches and sets
 * @param bands the bands inside
 */
record BandJson(String name, List<Stretch> extents, List<BandJson> bands) {

    /**
     * One stretch or set; which members are there says of what. Numbers from {@code low} to {@code high}, days from
     * {@code firstDay} up to {@code dayAfterLast}, times from {@code from} up to {@code to}, or {@code values}.
     */
    record Stretch(
            Optional<BigDecimal> low,
            Optional<Boolean> lowBelongs,
            Optional<BigDecimal> high,
            Optional<Boolean> highBelongs,
            Optional<LocalDate> firstDay,
            Optional<LocalDate> dayAfterLast,
            Optional<LocalTime> from,
            Optional<LocalTime> to,
            Optional<Set<String>> values) {}

    static BandJson of(Band band) {
        return new BandJson(
                band.name(),
                band.extents().stream().map(BandJson::stretch).toList(),
                band.bands().stream().map(BandJson::of).toList());
    }

    private static Stretch stretch(Band.Extent extent) {
        Stretch none = new Stretch(
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty());
        return switch (extent) {
            case Band.Numbers(var low, boolean lowBelongs, var high, boolean highBelongs) ->
                new Stretch(
                        low,
                        Optional.of(lowBelongs),
                        high,
                        Optional.of(highBelongs),
                        none.firstDay,
                        none.dayAfterLast,
                        none.from,
                        none.to,
                        none.values);
            case Band.Days(var from, var to) ->
                new Stretch(
                        none.low,
                        none.lowBelongs,
                        none.high,
                        none.highBelongs,
                        from,
                        to,
                        none.from,
                        none.to,
                        none.values);
            case Band.Times(LocalTime from, LocalTime to) ->
                new Stretch(
                        none.low,
                        none.lowBelongs,
                        none.high,
                        none.highBelongs,
                        none.firstDay,
                        none.dayAfterLast,
                        Optional.of(from),
                        Optional.of(to),
                        none.values);
            case Band.Texts(Set<String> values) ->
                new Stretch(
                        none.low,
                        none.lowBelongs,
                        none.high,
                        none.highBelongs,
                        none.firstDay,
                        none.dayAfterLast,
                        none.from,
                        none.to,
                        Optional.of(new LinkedHashSet<>(values.stream().sorted().toList())));
        };
    }

    Band band() {
        List<Band.Extent> own = new ArrayList<>();
        for (Stretch stretch : extents) {
            own.add(
                    stretch.values.isPresent()
                            ? new Band.Texts(stretch.values.get())
                            : stretch.from.isPresent() && stretch.to.isPresent()
                                    ? new Band.Times(stretch.from.get(), stretch.to.get())
                                    : stretch.lowBelongs.isPresent()
                                            ? new Band.Numbers(
                                                    stretch.low,
                                                    stretch.lowBelongs.get(),
                                                    stretch.high,
                                                    stretch.highBelongs.orElse(false))
                                            : new Band.Days(stretch.firstDay, stretch.dayAfterLast));
        }
        return new Band(name, own, bands.stream().map(BandJson::band).toList());
    }
}
