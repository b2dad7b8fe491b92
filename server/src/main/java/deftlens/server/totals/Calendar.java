package deftlens.server.totals;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Histogram;
import deftlens.core.time.Reading;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.IntStream;

/** The periods, weekdays and hours that lie between those which have records, and the windows that a question gives to dates. */
final class Calendar {

    /** More periods than these are not filled up. */
    private static final int MOST_PERIODS = 400;

    private static final int DAYS_OF_WEEK = 7;
    private static final int HOURS_OF_DAY = 24;

    private Calendar() {}

    /**
     * The bounds that every record satisfies on a date.
     *
     * @param from a day or an instant; it belongs
     * @param to the last day, which belongs, or an instant, which does not
     */
    record Window(Optional<Object> from, Optional<Object> to) {

        private static Window of(Optional<?> from, Optional<?> to) {
            return new Window(from.map(v -> v), to.map(v -> v));
        }

        private Window and(Window other) {
            return new Window(later(from, other.from, 1), later(to, other.to, -1));
        }

        @SuppressWarnings({"unchecked", "rawtypes"})
        private static Optional<Object> later(Optional<Object> one, Optional<Object> other, int sign) {
            if (one.isEmpty() || other.isEmpty()) {
                return one.or(() -> other);
            }
            int compared = ((Comparable) one.get()).compareTo(other.get()) * sign;
            return compared >= 0 ? one : other;
        }
    }

    /** The windows on dates and moments that every record of a question lies in. */
    static Map<Field, Window> windows(Bound asked) {
        Map<Field, Window> found = new LinkedHashMap<>();
        collect(asked, found);
        return found;
    }

    private static void collect(Bound bound, Map<Field, Window> found) {
        switch (bound) {
            case Bound.Every(List<Bound> parts) -> parts.forEach(p -> collect(p, found));
            case Bound.DayRange(Field field, Optional<LocalDate> from, Optional<LocalDate> to) ->
                found.merge(field, Window.of(from, to.map(d -> d.minusDays(1))), Window::and);
            case Bound.InstantRange(Field field, Optional<Instant> from, boolean f, Optional<Instant> to, boolean t) ->
                found.merge(field, Window.of(from, to), Window::and);
            case Bound.Constant c -> none();
            case Bound.Some s -> none();
            case Bound.Not n -> none();
            case Bound.Leaf leaf -> none();
        }
    }

    /** Nothing is said of every record's date. */
    private static void none() {}

    /**
     * The periods, weekdays or hours of a level from the first that has records, or that the question's window begins with, to the last,
     * in ascending order; none where nothing lies between values.
     *
     * @param found the values that have records
     */
    static List<Object> between(Groups.Level level, Collection<Optional<Object>> found, Bound asked, Reading reading) {
        return switch (level) {
            case Groups.Level.Periods(Field field, Histogram.Step step) -> periods(field, step, found, asked, reading);
            case Groups.Level.Parts(Field field, Test.Part part) ->
                switch (part) {
                    case WEEKDAY ->
                        IntStream.range(0, DAYS_OF_WEEK)
                                .<Object>mapToObj(
                                        i -> reading.weekStarts().plus(i).getValue())
                                .toList();
                    case MONTH, DAY_OF_MONTH ->
                        IntStream.rangeClosed(1, part.most())
                                .<Object>mapToObj(i -> i)
                                .toList();
                };
            case Groups.Level.Hours h ->
                IntStream.range(0, HOURS_OF_DAY).<Object>mapToObj(i -> i).toList();
            case Groups.Level.Values v -> List.of();
            case Groups.Level.Bands b -> List.of();
        };
    }

    /**
     * Values with those between them.
     *
     * @param found in ascending order
     */
    static List<Optional<Object>> filled(List<Optional<Object>> found, List<Object> between) {
        if (between.isEmpty()) {
            return found;
        }
        // What is beyond the calendar, and what has no value, keeps its place before or after it.
        Set<Object> inside = new HashSet<>(between);
        List<Optional<Object>> filled = new ArrayList<>();
        found.stream().filter(Calendar::first).forEach(filled::add);
        between.forEach(v -> filled.add(Optional.of(v)));
        found.stream()
                .filter(v -> !first(v) && !v.filter(inside::contains).isPresent())
                .forEach(filled::add);
        return filled;
    }

    /** Whether it comes before all dates. */
    private static boolean first(Optional<Object> value) {
        return value.filter(v -> v.equals("-infinity")).isPresent();
    }

    /** The beginning of the period, of another step, in which one begins. */
    static Object begin(Histogram.Step step, Object period, Reading reading) {
        LocalDateTime at = period instanceof LocalDate day ? day.atStartOfDay() : (LocalDateTime) period;
        LocalDateTime begins = step.floor(at, reading);
        return step == Histogram.Step.HOUR ? begins : begins.toLocalDate();
    }

    private static List<Object> periods(
            Field field, Histogram.Step step, Collection<Optional<Object>> found, Bound asked, Reading reading) {
        TreeSet<LocalDateTime> begins = new TreeSet<>();
        for (Optional<Object> value : found) {
            switch (value.orElse(null)) {
                case LocalDate day -> begins.add(day.atStartOfDay());
                case LocalDateTime hour -> begins.add(hour);
                case null, default -> {
                    // No period of the calendar.
                }
            }
        }
        if (begins.isEmpty()) {
            return List.of();
        }
        Optional<Window> window = Optional.ofNullable(windows(asked).get(field));
        window.flatMap(Window::from)
                .map(v -> local(v, false, reading))
                .filter(at -> at.getYear() > 0)
                .ifPresent(at -> begins.add(step.floor(at, reading)));
        // What has not come yet is not empty.
        LocalDateTime now = LocalDateTime.ofInstant(reading.now(), reading.zone());
        window.flatMap(Window::to)
                .map(v -> local(v, true, reading))
                .map(at -> at.isAfter(now) ? now : at)
                .filter(at -> at.isAfter(begins.last()))
                .ifPresent(at -> begins.add(step.floor(at, reading)));
        List<Object> all = new ArrayList<>();
        for (LocalDateTime at = begins.first(); !at.isAfter(begins.last()); at = step.next(at)) {
            all.add(step == Histogram.Step.HOUR ? at : at.toLocalDate());
            if (all.size() > MOST_PERIODS) {
                return List.of();
            }
        }
        return all;
    }

    /** The local time of a bound; of an end the last one inside. */
    private static LocalDateTime local(Object bound, boolean end, Reading reading) {
        return switch (bound) {
            case LocalDate day -> end ? day.atTime(LocalTime.MAX) : day.atStartOfDay();
            case Instant instant -> {
                LocalDateTime at = LocalDateTime.ofInstant(instant, reading.zone());
                yield end ? at.minusNanos(1) : at;
            }
            default -> throw new IllegalArgumentException("no date: " + bound);
        };
    }
}
