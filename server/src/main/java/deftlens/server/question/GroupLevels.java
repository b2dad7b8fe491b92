package deftlens.server.question;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Histogram;
import deftlens.core.time.Windows;
import deftlens.server.platform.Problem;
import deftlens.server.values.ValueType;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** What the records of a question are grouped by, and the question put to the records of one group. */
@Component
public class GroupLevels {

    private final Questions questions;

    GroupLevels(Questions questions) {
        this.questions = questions;
    }

    /**
     * A group that records are looked for in.
     *
     * @param value as the group's own {@code value} was given; absent for the records without one
     */
    public record InsideGroup(String field, Optional<Groups.Kind> by, Optional<String> value) {}

    /** Whether a field makes such groups. */
    public static boolean fits(Field field, Shape.Grouping grouping) {
        return Groups.Kind.of(field).contains(grouping.by().orElseGet(() -> usual(field)));
    }

    /** Refuses groups that a field does not make. */
    static void check(Field field, Shape.Grouping grouping) {
        if (!fits(field, grouping)) {
            Groups.Kind by = grouping.by().orElseGet(() -> usual(field));
            throw Problem.unprocessable(
                    "bad-group",
                    "There are no groups by the "
                            + by.words() + " of "
                            + field.label()
                            + (field.type() == FieldType.TAGS ? ", since a record has several tags." : "."));
        }
    }

    private static Groups.Kind usual(Field field) {
        return field.type().isTemporal() ? Groups.Kind.MONTH : Groups.Kind.VALUE;
    }

    public Groups.Level level(Question question, Field field, Optional<Groups.Kind> wanted) {
        Groups.Kind by = wanted.orElseGet(() -> usual(field));
        check(field, new Shape.Grouping(field.key(), Optional.of(by), Optional.empty()));
        return switch (by) {
            case VALUE -> new Groups.Level.Values(field);
            case BAND -> {
                Binder binder = questions.binder(question);
                yield new Groups.Level.Bands(
                        field,
                        field.bands().stream()
                                .map(Band::name)
                                .map(name -> binder.bind(Condition.Criterion.of(field.key(), Test.Banded.of(name))))
                                .toList());
            }
            case WEEKDAY -> new Groups.Level.Parts(field, Test.Part.WEEKDAY);
            case MONTH_OF_YEAR -> new Groups.Level.Parts(field, Test.Part.MONTH);
            case HOUR_OF_DAY -> new Groups.Level.Hours(field);
            case HOUR, DAY, WEEK, MONTH, QUARTER, YEAR, FISCAL_QUARTER, FISCAL_YEAR ->
                new Groups.Level.Periods(field, by.step().orElseThrow());
        };
    }

    /** The levels that records are grouped by, the outermost first. */
    public List<Groups.Level> levels(Question question, List<Shape.Grouping> groups) {
        return groups.stream()
                .map(g -> level(question, Orders.column(question.registerForReader(), g.field()), g.by()))
                .toList();
    }

    /** The question put to the records of some groups only, one inside the other. */
    public Question inside(Question question, List<InsideGroup> groups) {
        Question inner = question;
        for (InsideGroup group : groups) {
            Field field = Orders.column(question.registerForReader(), group.field());
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

    /**
     * What the records of a group have in common, as the group's own {@code value} was given.
     *
     * @throws Problem {@code no-group}
     */
    public Optional<Object> value(Groups.Level level, Optional<String> text) {
        try {
            return text.map(t -> level instanceof Groups.Level.Periods && GroupKey.isBeyond(t) ? t : value(level, t));
        } catch (IllegalArgumentException | java.time.DateTimeException e) {
            throw Problem.unprocessable(
                    "no-group", level.field().label() + " makes no group “" + text.orElse("") + "”.");
        }
    }

    private static Object value(Groups.Level level, String text) {
        return switch (level) {
            case Groups.Level.Periods(Field field, Histogram.Step step) ->
                step == Histogram.Step.HOUR ? LocalDateTime.parse(text) : LocalDate.parse(text);
            case Groups.Level.Parts p -> Integer.valueOf(text);
            case Groups.Level.Hours h -> Integer.valueOf(text);
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
