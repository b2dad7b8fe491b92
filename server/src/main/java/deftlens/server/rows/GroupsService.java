package deftlens.server.rows;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import deftlens.core.field.Band;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Histogram;
import deftlens.core.sql.Order;
import deftlens.core.sql.RowSlice;
import deftlens.core.statement.Wording;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Windows;
import deftlens.server.platform.Problem;
import deftlens.server.rows.RowsService.Question;
import deftlens.server.statements.Questions;
import deftlens.server.values.ValueType;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.hibernate.query.NativeQuery;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The groups of a question's records, with how many there are in each and what their numbers add up to. */
@Service
public class GroupsService {

    /** The most groups of one level that are shown. */
    public static final int MOST_GROUPS = 1_000;

    private final RowsService rows;
    private final Questions questions;

    GroupsService(RowsService rows, Questions questions) {
        this.rows = rows;
        this.questions = questions;
    }

    /**
     * A group that records are looked for in.
     *
     * @param value as the group's own {@code value} was given; absent for the records without one
     */
    public record Inside(String field, Optional<Shape.By> by, Optional<String> value) {}

    /**
     * One group.
     *
     * @param value what its records have in common, to be given back in {@link Inside}; absent for those without a value
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

    /** The groups of one level among a question's records. */
    @Transactional(readOnly = true)
    public Level groups(
            Question question,
            Shape.Grouping grouping,
            List<Field> totals,
            Order order,
            Optional<RowSlice> take,
            int limit) {
        if (limit < 1 || limit > MOST_GROUPS) {
            throw Problem.badRequest("bad-limit", "“limit” runs from 1 to " + MOST_GROUPS + ".");
        }
        Field field = Orders.column(question.described(), grouping.field());
        Groups.Level level = level(question, field, grouping.by());
        RowsService.Base base = rows.base(question, order, take);
        Reading reading = question.reading();
        // Only tables of others hold numbers that are none.
        boolean finite = !question.described().isOwn();
        NativeQuery<Object[]> query = rows.query(
                question,
                Groups.of(
                        base.scope(),
                        base.where(),
                        level,
                        switch (grouping.arranged().orElse(Shape.Arranged.ASCENDING)) {
                            case ASCENDING -> Groups.Arrangement.ASCENDING;
                            case DESCENDING -> Groups.Arrangement.DESCENDING;
                            case LARGEST -> Groups.Arrangement.LARGEST;
                        },
                        totals,
                        finite,
                        reading,
                        limit + 1));
        switch (level) {
            case Groups.Level.Periods p -> query.addScalar("c0", String.class);
            case Groups.Level.Bands b -> query.addScalar("c0", Integer.class);
            case Groups.Level.Values v -> ValueType.of(field).fetch(query, "c0");
        }
        query.addScalar("c1", Long.class);
        sumsFetched(query, totals, finite, 2);
        List<Group> groups = new ArrayList<>();
        for (Object[] row : rows.tracked(question, query::getResultList)) {
            groups.add(group(level, row, totals, reading));
        }
        boolean more = groups.size() > limit;
        if (!more) {
            return new Level(
                    groups,
                    false,
                    groups.stream().mapToLong(Group::records).sum(),
                    added(groups, totals),
                    leftOut(groups));
        }
        Level whole = whole(question, base, totals, finite);
        return new Level(groups.subList(0, limit), true, whole.records(), whole.totals(), whole.leftOut());
    }

    /** All of a question's records together, without groups. */
    @Transactional(readOnly = true)
    public Level whole(Question question, List<Field> totals, Order order, Optional<RowSlice> take) {
        return whole(
                question,
                rows.base(question, order, take),
                totals,
                !question.described().isOwn());
    }

    private Level whole(Question question, RowsService.Base base, List<Field> totals, boolean finite) {
        NativeQuery<Object[]> query = rows.query(question, Groups.whole(base.scope(), base.where(), totals, finite));
        query.addScalar("c0", Long.class);
        sumsFetched(query, totals, finite, 1);
        Object found = rows.tracked(question, () -> (Object) query.getSingleResult());
        Object[] sums = found instanceof Object[] several ? several : new Object[] {found};
        return new Level(List.of(), false, (Long) sums[0], sums(totals, sums, 1), leftOut(totals, sums, 1));
    }

    /** Has the sums fetched, and how many values are left out of them. */
    private static void sumsFetched(NativeQuery<Object[]> query, List<Field> totals, boolean finite, int from) {
        for (int i = 0; i < totals.size(); i++) {
            ValueType.of(FieldType.NUMBER).fetch(query, "c" + (from + i));
        }
        for (int i = 0; finite && i < totals.size(); i++) {
            query.addScalar("c" + (from + totals.size() + i), Long.class);
        }
    }

    private static Map<String, Long> leftOut(List<Field> totals, Object[] row, int from) {
        Map<String, Long> left = new LinkedHashMap<>();
        for (int i = 0; i < totals.size() && from + totals.size() + i < row.length; i++) {
            long values = (Long) row[from + totals.size() + i];
            if (values > 0) {
                left.put(totals.get(i).key(), values);
            }
        }
        return left;
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

    private static Map<String, BigDecimal> sums(List<Field> totals, Object[] row, int from) {
        Map<String, BigDecimal> sums = new LinkedHashMap<>();
        for (int i = 0; i < totals.size(); i++) {
            if (row[from + i] != null) {
                sums.put(totals.get(i).key(), (BigDecimal) row[from + i]);
            }
        }
        return sums;
    }

    private static Group group(Groups.Level level, Object[] row, List<Field> totals, Reading reading) {
        Optional<Object> value = Optional.ofNullable(row[0]);
        long records = (Long) row[1];
        Map<String, BigDecimal> sums = sums(totals, row, 2);
        Map<String, Long> left = leftOut(totals, row, 2);
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

    /** Whether a field makes such groups. */
    static boolean fits(Field field, Shape.Grouping grouping) {
        return Groups.Kind.of(field).contains(kind(grouping.by().orElseGet(() -> usual(field))));
    }

    private static Groups.Kind kind(Shape.By by) {
        return Groups.Kind.valueOf(by.name());
    }

    /** Refuses groups that a field does not make. */
    static void check(Field field, Shape.Grouping grouping) {
        if (!fits(field, grouping)) {
            Shape.By by = grouping.by().orElseGet(() -> usual(field));
            throw Problem.unprocessable(
                    "bad-group",
                    "There are no groups by the "
                            + kind(by).words() + " of "
                            + field.label()
                            + (field.type() == FieldType.TAGS ? ", since a record has several tags." : "."));
        }
    }

    private static Shape.By usual(Field field) {
        return field.type().isTemporal() ? Shape.By.MONTH : Shape.By.VALUE;
    }

    private Groups.Level level(Question question, Field field, Optional<Shape.By> wanted) {
        Shape.By by = wanted.orElseGet(() -> usual(field));
        check(field, new Shape.Grouping(field.key(), Optional.of(by), Optional.empty()));
        return switch (by) {
            case VALUE -> new Groups.Level.Values(field);
            case BAND -> {
                Binder binder = questions.binder(question.described().register(), question.reading(), question.who());
                yield new Groups.Level.Bands(
                        field,
                        field.bands().stream()
                                .map(Band::name)
                                .map(name -> binder.bind(Condition.Criterion.of(field.key(), Test.Banded.of(name))))
                                .toList());
            }
            case DAY -> new Groups.Level.Periods(field, Histogram.Step.DAY);
            case WEEK -> new Groups.Level.Periods(field, Histogram.Step.WEEK);
            case MONTH -> new Groups.Level.Periods(field, Histogram.Step.MONTH);
            case QUARTER -> new Groups.Level.Periods(field, Histogram.Step.QUARTER);
            case YEAR -> new Groups.Level.Periods(field, Histogram.Step.YEAR);
            case FISCAL_QUARTER -> new Groups.Level.Periods(field, Histogram.Step.FISCAL_QUARTER);
            case FISCAL_YEAR -> new Groups.Level.Periods(field, Histogram.Step.FISCAL_YEAR);
        };
    }

    /** The levels that records are grouped by, the outermost first. */
    List<Groups.Level> levels(Question question, List<Shape.Grouping> groups) {
        return groups.stream()
                .map(g -> level(question, Orders.column(question.described(), g.field()), g.by()))
                .toList();
    }

    /** The question put to the records of some groups only, one inside the other. */
    public Question inside(Question question, List<Inside> groups) {
        Question inner = question;
        for (Inside group : groups) {
            Field field = Orders.column(question.described(), group.field());
            Groups.Level level = level(question, field, group.by());
            Optional<Bound> beyond = group.value()
                    .filter(v -> level instanceof Groups.Level.Periods && v.endsWith("infinity"))
                    .map(v -> beyond(field, !v.startsWith("-")));
            if (beyond.isPresent()) {
                inner = inner.inside(beyond.get());
                continue;
            }
            try {
                inner = inner.inside(Groups.within(level, group.value().map(v -> value(level, v)), question.reading()));
            } catch (IllegalArgumentException | java.time.DateTimeException e) {
                throw Problem.unprocessable(
                        "no-group",
                        field.label() + " makes no group “" + group.value().orElse("") + "”.");
            }
        }
        return inner;
    }

    /** The dates beyond all dates, or before all of them: no period of the calendar holds them. */
    private static Bound beyond(Field field, boolean after) {
        Optional<LocalDate> from = after ? Optional.of(LocalDate.MAX) : Optional.empty();
        Optional<LocalDate> to = after ? Optional.empty() : Optional.of(Windows.FIRST_DAY);
        return field.type() == FieldType.DATE
                ? new Bound.DayRange(field, from, to)
                : new Bound.InstantRange(
                        field,
                        from.map(d -> Instant.MAX),
                        true,
                        to.map(d -> d.atStartOfDay(ZoneOffset.UTC).toInstant()),
                        false);
    }

    private static Object value(Groups.Level level, String text) {
        return switch (level) {
            case Groups.Level.Periods p -> LocalDate.parse(text);
            case Groups.Level.Bands(Field field, List<Bound> bands) -> {
                List<String> names = field.bands().stream().map(Band::name).toList();
                if (!names.contains(text)) {
                    throw new IllegalArgumentException(text);
                }
                yield names.indexOf(text);
            }
            case Groups.Level.Values(Field field) -> ValueType.of(field).parse(text);
        };
    }
}
