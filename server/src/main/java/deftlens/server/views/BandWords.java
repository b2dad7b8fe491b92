package deftlens.server.views;

import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.time.DurationText;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** The bands of a field in words, as a history tells them: {@code Short: 0 up to 5; Long: 5 or more}. */
final class BandWords {

    private static final int MOST_VALUES = 6;

    private BandWords() {}

    static String of(Field field) {
        String words = field.bands().stream().map(b -> band(field, b)).collect(Collectors.joining("; "));
        return words.isEmpty() ? "none" : words;
    }

    private static String band(Field field, Band band) {
        String inside = band.bands().stream().map(b -> band(field, b)).collect(Collectors.joining("; ", "(", ")"));
        return band.name() + ": "
                + Stream.concat(
                                band.extents().stream().map(e -> extent(field, e)),
                                band.bands().isEmpty() ? Stream.empty() : Stream.of(inside))
                        .collect(Collectors.joining(" and "));
    }

    private static String extent(Field field, Band.Extent extent) {
        return switch (extent) {
            case Band.Numbers(var low, boolean lowBelongs, var high, boolean highBelongs) ->
                ends(
                        low.map(n -> number(field, n)).map(l -> lowBelongs ? "from " + l : "above " + l),
                        high.map(n -> number(field, n)).map(h -> highBelongs ? "up to and with " + h : "up to " + h));
            case Band.Days(var from, var to) ->
                ends(
                        from.map(LocalDate::toString).map(f -> "from " + f),
                        // Its end is the day after the last one that is in it.
                        to.map(t -> "up to and with " + t.minusDays(1)));
            case Band.Times(var from, var to) -> "from " + from + " up to " + to;
            case Band.Texts(var values) -> {
                List<String> sorted = values.stream().sorted().toList();
                yield String.join(", ", sorted.subList(0, Math.min(MOST_VALUES, sorted.size())))
                        + (sorted.size() > MOST_VALUES ? " and " + (sorted.size() - MOST_VALUES) + " more" : "");
            }
        };
    }

    private static String number(Field field, BigDecimal number) {
        return field.type() == FieldType.DURATION ? DurationText.words(number) : number.toPlainString();
    }

    private static String ends(Optional<String> low, Optional<String> high) {
        return low.isEmpty() && high.isEmpty()
                ? "everything"
                : Stream.of(low, high).flatMap(Optional::stream).collect(Collectors.joining(" "));
    }
}
