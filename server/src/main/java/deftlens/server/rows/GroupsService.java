package deftlens.server.rows;

import deftlens.core.condition.Bound;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Histogram;
import deftlens.core.sql.Sql;
import deftlens.core.statement.Wording;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Windows;
import deftlens.server.platform.Problem;
import deftlens.server.question.GroupLevels;
import deftlens.server.question.Orders;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Selections;
import deftlens.server.question.Shape;
import deftlens.server.values.ValueType;
import java.math.BigDecimal;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.LocalDate;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The groups of a question's records, with how many there are in each and what their numbers add up to. */
@Service
public class GroupsService {

    /** The most groups of one level that are shown. */
    public static final int MOST_GROUPS = 1_000;

    private final QueryRunner runner;
    private final Selections selections;
    private final GroupLevels levels;

    GroupsService(QueryRunner runner, Selections selections, GroupLevels levels) {
        this.runner = runner;
        this.selections = selections;
        this.levels = levels;
    }

    /**
     * One group.
     *
     * @param value what its records have in common, to be given back in {@link GroupLevels.InsideGroup}; absent for those without a value
     * @param label the value in words, where that is not the value itself
     * @param from the first day of a period
     * @param to the last day of a period
     * @param totals the sums of the fields asked for, by field; none for a field without any value
     * @param leftOut how many values of a field are no numbers ({@code NaN}, infinity) and are left out of its sum, by field;
     *     none for a field without such
     */
    public record Group(
            Optional<String> value,
            Optional<String> label,
            Optional<LocalDate> from,
            Optional<LocalDate> to,
            long records,
            Map<String, BigDecimal> totals,
            Map<String, Long> leftOut) {}

    /**
     * The groups of one level.
     *
     * @param more whether there are more than are given
     * @param records all records in them and beyond
     * @param totals the sums over all of them
     * @param leftOut how many values are left out of these, by field
     */
    public record Level(
            List<Group> groups,
            boolean more,
            long records,
            Map<String, BigDecimal> totals,
            Map<String, Long> leftOut) {}

    /**
     * The groups of one level among a question's records, or among the part of them that its shape has.
     *
     * @param limit how many at the most, 1 to {@value #MOST_GROUPS}
     */
    @Transactional(readOnly = true)
    public Level groups(Question question, Shape.Grouping grouping, List<Field> totals, int limit) {
        if (limit < 1 || limit > MOST_GROUPS) {
            throw Problem.badRequest("bad-limit", "“limit” runs from 1 to " + MOST_GROUPS + ".");
        }
        Field field = Orders.column(question.registerForReader(), grouping.field());
        Groups.Level level = levels.level(question, field, grouping.by());
        Selections.Selected selected = selections.selected(question);
        Reading reading = question.reading();
        boolean finite = holdsOthers(question);
        Sql sql = Groups.of(
                selected.scope(),
                selected.where(),
                level,
                switch (grouping.arranged().orElse(Shape.Arranged.ASCENDING)) {
                    case ASCENDING -> Groups.Arrangement.ASCENDING;
                    case DESCENDING -> Groups.Arrangement.DESCENDING;
                    case LARGEST -> Groups.Arrangement.LARGEST;
                },
                totals,
                finite,
                reading,
                limit + 1);
        List<Group> groups = runner.list(
                question,
                sql,
                row -> group(level, common(level, row), row.getLong(2), Sums.read(row, 3, totals, finite), reading));
        boolean more = groups.size() > limit;
        if (!more) {
            return new Level(
                    groups,
                    false,
                    groups.stream().mapToLong(Group::records).sum(),
                    added(groups, totals),
                    leftOut(groups));
        }
        Level whole = whole(question, totals);
        return new Level(groups.subList(0, limit), true, whole.records(), whole.totals(), whole.leftOut());
    }

    /** All of a question's records together, or the part of them that its shape has, without groups. */
    @Transactional(readOnly = true)
    public Level whole(Question question, List<Field> totals) {
        Selections.Selected selected = selections.selected(question);
        boolean finite = holdsOthers(question);
        return runner.single(question, Groups.whole(selected.scope(), selected.where(), totals, finite), row -> {
            Sums sums = Sums.read(row, 2, totals, finite);
            return new Level(List.of(), false, row.getLong(1), sums.totals(), sums.leftOut());
        });
    }

    /** Only tables of others hold numbers that are none. */
    private static boolean holdsOthers(Question question) {
        return !question.registerForReader().isOwn();
    }

    /** What the records of a group have in common, in a row's first column. */
    private static Optional<Object> common(Groups.Level level, ResultSet row) throws SQLException {
        return Optional.ofNullable(
                switch (level) {
                    case Groups.Level.Periods p -> row.getString(1);
                    case Groups.Level.Bands b -> row.getObject(1, Integer.class);
                    case Groups.Level.Values(Field field) -> ValueType.of(field).read(row, 1);
                });
    }

    /** Sums by field, and how many values are left out of each. */
    private record Sums(Map<String, BigDecimal> totals, Map<String, Long> leftOut) {

        /** @param first the column of the row with the first sum, from 1 */
        static Sums read(ResultSet row, int first, List<Field> fields, boolean finite) throws SQLException {
            Map<String, BigDecimal> totals = new LinkedHashMap<>();
            Map<String, Long> leftOut = new LinkedHashMap<>();
            for (int i = 0; i < fields.size(); i++) {
                String key = fields.get(i).key();
                if (ValueType.of(FieldType.NUMBER).read(row, first + i) instanceof BigDecimal sum) {
                    totals.put(key, sum);
                }
                long left = finite ? row.getLong(first + fields.size() + i) : 0;
                if (left > 0) {
                    leftOut.put(key, left);
                }
            }
            return new Sums(totals, leftOut);
        }
    }

    private static Map<String, Long> leftOut(List<Group> groups) {
        Map<String, Long> left = new LinkedHashMap<>();
        groups.forEach(g -> g.leftOut().forEach((field, values) -> left.merge(field, values, Long::sum)));
        return left;
    }

    private static Map<String, BigDecimal> added(List<Group> groups, List<Field> totals) {
        Map<String, BigDecimal> sums = new LinkedHashMap<>();
        for (Field total : totals) {
            groups.stream()
                    .filter(g -> g.totals().containsKey(total.key()))
                    .map(g -> g.totals().get(total.key()))
                    .reduce(BigDecimal::add)
                    .ifPresent(sum -> sums.put(total.key(), sum));
        }
        return sums;
    }

    private static Group group(Groups.Level level, Optional<Object> value, long records, Sums all, Reading reading) {
        Map<String, BigDecimal> sums = all.totals();
        Map<String, Long> left = all.leftOut();
        return switch (level) {
            case Groups.Level.Periods(Field date, Histogram.Step step) -> {
                if (value.filter(v -> v.toString().endsWith("infinity")).isPresent()) {
                    yield new Group(
                            value.map(Object::toString),
                            value.map(v -> v.toString().replace("-", "minus ")),
                            Optional.empty(),
                            Optional.empty(),
                            records,
                            sums,
                            left);
                }
                Optional<LocalDate> from =
                        value.map(v -> HistogramService.localTime(v.toString()).toLocalDate());
                yield new Group(
                        from.map(LocalDate::toString),
                        from.flatMap(f -> fiscal(step, f, reading)).map(Wording::period),
                        from,
                        from.map(f -> step.next(f.atStartOfDay()).toLocalDate().minusDays(1)),
                        records,
                        sums,
                        left);
            }
            case Groups.Level.Bands(Field banded, List<Bound> bands) ->
                new Group(
                        value.map(v -> banded.bands().get((Integer) v).name()),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        records,
                        sums,
                        left);
            case Groups.Level.Values(Field field) ->
                new Group(
                        value.map(ValueType.of(field)::text),
                        value.flatMap(v -> Beyond.words(v)
                                .or(() -> field.type().isListed()
                                        ? field.option(v.toString()).map(o -> o.label())
                                        : Optional.empty())),
                        Optional.empty(),
                        Optional.empty(),
                        records,
                        sums,
                        left);
        };
    }

    /** The name of a period of the fiscal year; nothing for the others, and where years have no four digits. */
    static Optional<Period> fiscal(Histogram.Step step, LocalDate begins, Reading reading) {
        if (begins.getYear() < 1 || begins.getYear() > 9998) {
            return Optional.empty();
        }
        return switch (step) {
            case FISCAL_YEAR -> Optional.of(Windows.fiscalYear(begins, reading));
            case FISCAL_QUARTER -> Optional.of(Windows.fiscalQuarter(begins, reading));
            case HOUR, DAY, WEEK, MONTH, QUARTER, YEAR -> Optional.empty();
        };
    }
}
