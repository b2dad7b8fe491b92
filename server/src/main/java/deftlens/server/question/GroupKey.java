package deftlens.server.question;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Test;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Histogram;
import deftlens.core.statement.Wording;
import deftlens.core.time.Reading;
import deftlens.server.values.ValueType;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.Month;
import java.time.format.TextStyle;
import java.util.Locale;
import java.util.Optional;

/**
 * What the records of one group have in common.
 *
 * @param value to be given back where the group is asked for; absent for the records without a value
 * @param label the value in words, where that is not the value itself
 * @param from the first day of a period
 * @param to the last day of a period
 */
public record GroupKey(
        Optional<String> value, Optional<String> label, Optional<LocalDate> from, Optional<LocalDate> to) {

    private static final int HOURS_OF_DAY = 24;

    /**
     * What the records of a group have in common, as {@link Groups#of} selects it and {@link Groups#within} takes it; a text where no
     * period of the calendar holds it.
     *
     * @param column of the row, from 1
     */
    public static Optional<Object> read(Groups.Level level, ResultSet row, int column) throws SQLException {
        return switch (level) {
            case Groups.Level.Periods(Field field, Histogram.Step step) ->
                Optional.ofNullable(row.getString(column)).map(text -> isBeyond(text) ? text : start(step, text));
            case Groups.Level.Bands b -> Optional.ofNullable(row.getObject(column, Integer.class));
            case Groups.Level.Parts p -> Optional.ofNullable(row.getObject(column, Integer.class));
            case Groups.Level.Hours h -> Optional.ofNullable(row.getObject(column, Integer.class));
            case Groups.Level.Values(Field field) ->
                Optional.ofNullable(ValueType.of(field).read(row, column));
        };
    }

    private static Object start(Histogram.Step step, String text) {
        LocalDateTime begins = Histogram.begins(text);
        return step == Histogram.Step.HOUR ? begins : begins.toLocalDate();
    }

    /** Whether it names no period of the calendar: {@code infinity}. */
    public static boolean isBeyond(Object value) {
        return value instanceof String text && text.endsWith("infinity");
    }

    /** What has been read, as people and requests have it. */
    public static GroupKey of(Groups.Level level, Optional<Object> value, Reading reading) {
        return switch (level) {
            case Groups.Level.Periods p
            when value.filter(GroupKey::isBeyond).isPresent() ->
                named(value, value.map(v -> v.toString().replace("-", "minus ")));
            case Groups.Level.Periods(Field date, Histogram.Step step)
            when step == Histogram.Step.HOUR ->
                named(
                        value,
                        value.map(v -> (LocalDateTime) v)
                                .map(v -> Wording.day(v.toLocalDate()) + ", " + hour(v.toLocalTime())));
            case Groups.Level.Periods(Field date, Histogram.Step step) -> {
                Optional<LocalDate> from = value.map(v -> (LocalDate) v);
                yield new GroupKey(
                        from.map(LocalDate::toString),
                        from.flatMap(f -> step.fiscal(f, reading)).map(Wording::period),
                        from,
                        from.map(f -> step.next(f.atStartOfDay()).toLocalDate().minusDays(1)));
            }
            case Groups.Level.Parts(Field field, Test.Part part) ->
                named(value, value.map(v -> words(part, (Integer) v)));
            case Groups.Level.Hours h ->
                named(value, value.map(v -> hour(LocalTime.of((Integer) v % HOURS_OF_DAY, 0))));
            case Groups.Level.Bands(Field banded, java.util.List<Bound> bands) ->
                named(value.map(v -> banded.bands().get((Integer) v).name()), Optional.empty());
            case Groups.Level.Values(Field field) ->
                new GroupKey(
                        value.map(ValueType.of(field)::text),
                        value.flatMap(v -> Beyond.words(v)
                                .or(() -> field.type().isListed()
                                        ? field.option(v.toString()).map(o -> o.label())
                                        : Optional.empty())),
                        Optional.empty(),
                        Optional.empty());
        };
    }

    /** A weekday, a month or a day of the month in words. */
    public static String words(Test.Part part, int number) {
        return switch (part) {
            case WEEKDAY -> DayOfWeek.of(number).getDisplayName(TextStyle.FULL, Locale.ENGLISH);
            case MONTH -> Month.of(number).getDisplayName(TextStyle.FULL, Locale.ENGLISH);
            case DAY_OF_MONTH -> String.valueOf(number);
        };
    }

    /** An hour of the clock in words: {@code 14:00 to 15:00}. */
    public static String hour(LocalTime begins) {
        return begins + " to " + begins.plusHours(1);
    }

    private static GroupKey named(Optional<?> value, Optional<String> label) {
        return new GroupKey(value.map(Object::toString), label, Optional.empty(), Optional.empty());
    }
}
