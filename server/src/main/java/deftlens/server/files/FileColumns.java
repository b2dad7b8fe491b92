package deftlens.server.files;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Test;
import deftlens.core.field.Band;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.match.Matcher;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Histogram;
import deftlens.core.statement.Printer;
import deftlens.core.time.Reading;
import deftlens.server.question.GroupKey;
import deftlens.server.question.Question;
import deftlens.server.values.ValueType;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.time.temporal.IsoFields;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;

/**
 * The columns of a file: what the records are grouped by, then the view's own. Values are those of the screen: labels of choices
 * and people, and moments by the clock of the question's zone.
 */
final class FileColumns {

    private record Column(String head, Function<Map<String, Object>, String> cell) {}

    private final List<Column> columns = new ArrayList<>();
    private final Set<Field> fields;

    /**
     * @param levels what the records are grouped by, the outermost first
     * @param offsets whether moments have their offset in each cell, instead of the zone in the head
     */
    FileColumns(Question question, List<Groups.Level> levels, boolean offsets) {
        List<Field> shown = question.columns();
        ZoneId zone = question.reading().zone();
        fields = new LinkedHashSet<>(shown);
        for (Groups.Level level : levels) {
            Field field = level.field();
            if (level instanceof Groups.Level.Values && shown.contains(field)) {
                continue;
            }
            fields.add(field);
            switch (level) {
                case Groups.Level.Values v ->
                    columns.add(new Column(field.label(), row -> cell(field, row.get(field.key()), zone, offsets)));
                case Groups.Level.Periods(Field f, Histogram.Step step) ->
                    columns.add(new Column(
                            field.label() + ", " + step.words(),
                            row -> Optional.ofNullable(row.get(field.key()))
                                    .flatMap(Beyond::words)
                                    .or(() -> local(row.get(field.key()), zone)
                                            .map(at -> period(step, at, question.reading())))
                                    .orElse("")));
                case Groups.Level.Parts(Field f, Test.Part part) ->
                    columns.add(new Column(
                            field.label() + ", " + part.words(),
                            row -> local(row.get(field.key()), zone)
                                    .map(at -> GroupKey.words(part, part.of(at.toLocalDate())))
                                    .orElse("")));
                case Groups.Level.Hours(Field f) ->
                    columns.add(new Column(
                            field.label() + ", hour",
                            row -> (row.get(field.key()) instanceof LocalTime time
                                            ? Optional.of(time)
                                            : local(row.get(field.key()), zone).map(LocalDateTime::toLocalTime))
                                    .map(at -> GroupKey.hour(at.truncatedTo(ChronoUnit.HOURS)))
                                    .orElse("")));
                case Groups.Level.Bands(Field f, List<Bound> bands) -> {
                    int position = question.register().fields().indexOf(field);
                    List<Predicate<deftlens.core.match.Row>> tests = bands.stream()
                            .map(b -> Matcher.of(question.register(), b))
                            .toList();
                    columns.add(new Column(
                            field.label() + ", band",
                            row -> band(field, tests, at -> at == position ? row.get(field.key()) : null)));
                }
            }
        }
        for (Field field : shown) {
            String head = question.shape().titles().getOrDefault(field.key(), field.label());
            columns.add(new Column(
                    field.type() == FieldType.MOMENT && !offsets ? head + " (" + zone.getId() + ")" : head,
                    row -> cell(field, row.get(field.key()), zone, offsets)));
        }
    }

    /** The fields whose values are needed. */
    List<Field> fields() {
        return List.copyOf(fields);
    }

    List<String> heads() {
        return columns.stream().map(Column::head).toList();
    }

    /** The cells of a record. */
    List<String> cells(Map<String, Object> row) {
        return columns.stream().map(c -> c.cell().apply(row)).toList();
    }

    private static String cell(Field field, Object value, ZoneId zone, boolean offsets) {
        ValueType type = ValueType.of(field);
        String words = type.words(field, value, zone, offsets);
        return type.isFreeText() ? CsvResults.safe(words) : words;
    }

    /** A date or moment by the local clock; nothing for what is beyond all dates. */
    private static Optional<LocalDateTime> local(Object value, ZoneId zone) {
        return Optional.ofNullable(value)
                .filter(v -> Beyond.words(v).isEmpty())
                .map(v -> v instanceof LocalDate day ? day.atStartOfDay() : LocalDateTime.ofInstant((Instant) v, zone));
    }

    /** ISO 8601 where it has a form for the period; of weeks that do not begin on Mondays the first day. */
    static String period(Histogram.Step step, LocalDateTime at, Reading reading) {
        LocalDateTime start = step.floor(at, reading);
        LocalDate begins = start.toLocalDate();
        return switch (step) {
            case YEAR -> String.format("%04d", begins.getYear());
            case QUARTER -> String.format("%04d-Q%d", begins.getYear(), (begins.getMonthValue() + 2) / 3);
            case MONTH -> begins.toString().substring(0, begins.toString().length() - 3);
            case WEEK ->
                begins.getDayOfWeek() == java.time.DayOfWeek.MONDAY
                        ? String.format(
                                "%04d-W%02d",
                                begins.get(IsoFields.WEEK_BASED_YEAR), begins.get(IsoFields.WEEK_OF_WEEK_BASED_YEAR))
                        : begins.toString();
            case DAY -> begins.toString();
            case HOUR -> start.toString();
            case FISCAL_QUARTER, FISCAL_YEAR ->
                step.fiscal(begins, reading).map(Printer::period).orElseGet(begins::toString);
        };
    }

    private static String band(
            Field field, List<Predicate<deftlens.core.match.Row>> tests, deftlens.core.match.Row row) {
        for (int i = 0; i < tests.size(); i++) {
            if (tests.get(i).test(row)) {
                return CsvResults.safe(
                        field.bands().stream().map(Band::name).toList().get(i));
            }
        }
        return "";
    }
}
