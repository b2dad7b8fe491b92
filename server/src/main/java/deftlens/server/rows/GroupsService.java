package deftlens.server.rows;

import deftlens.core.field.Field;
import deftlens.core.field.Measure;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Measures;
import deftlens.core.sql.Sql;
import deftlens.core.time.Reading;
import deftlens.server.platform.Problem;
import deftlens.server.question.Figures;
import deftlens.server.question.GroupKey;
import deftlens.server.question.GroupLevels;
import deftlens.server.question.Orders;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Selections;
import deftlens.server.question.Shape;
import deftlens.server.question.ShownValue;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.IntStream;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.annotation.JsonSerialize;

/** The groups of a question's records, with how many there are in each and the figures of these. */
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
     * @param figures the measures that are asked for, in their order, each as a field of its type has its values; empty where there
     *     is no value to measure
     * @param leftOut how many values of a field are no numbers ({@code NaN}, infinity) and are left out of its figures, by field;
     *     none for a field without such
     */
    public record Group(
            Optional<String> value,
            Optional<String> label,
            Optional<LocalDate> from,
            Optional<LocalDate> to,
            long records,
            @JsonSerialize(contentUsing = ShownValue.class) List<Optional<Object>> figures,
            Map<String, Long> leftOut) {}

    /**
     * The groups of one level.
     *
     * @param more whether there are more than are given
     * @param records all records in them and beyond
     * @param figures the measures over all of them
     * @param leftOut how many values are left out of these, by field
     */
    public record Level(
            List<Group> groups,
            boolean more,
            long records,
            @JsonSerialize(contentUsing = ShownValue.class) List<Optional<Object>> figures,
            Map<String, Long> leftOut) {}

    /**
     * The groups of one level among a question's records, or among the part of them that its shape has.
     *
     * @param limit how many at the most, 1 to {@value #MOST_GROUPS}
     */
    @Transactional(readOnly = true)
    public Level groups(Question question, Shape.Grouping grouping, List<Measure> wanted, int limit) {
        if (limit < 1 || limit > MOST_GROUPS) {
            throw Problem.badRequest("bad-limit", "“limit” runs from 1 to " + MOST_GROUPS + ".");
        }
        Field field = Orders.column(question.registerForReader(), grouping.field());
        Groups.Level level = levels.level(question, field, grouping.by());
        Selections.Selected selected = selections.selected(question);
        Reading reading = question.reading();
        Measures measures = new Measures(wanted, question.mayHoldNoNumbers());
        Sql sql = Groups.of(
                selected.scope(),
                selected.where(),
                level,
                grouping.arranged().orElse(Groups.Arrangement.ASCENDING),
                measures,
                reading,
                limit + 1);
        List<Group> groups = runner.list(
                question,
                sql,
                row -> group(
                        GroupKey.of(level, GroupKey.read(level, row, 1), reading),
                        row.getLong(2),
                        Figures.read(row, 3, measures)));
        boolean more = groups.size() > limit;
        if (more || !wanted.stream().allMatch(m -> m.function().addsUp())) {
            Level whole = whole(question, measures);
            return new Level(
                    groups.subList(0, more ? limit : groups.size()),
                    more,
                    whole.records(),
                    whole.figures(),
                    whole.leftOut());
        }
        return new Level(
                groups,
                false,
                groups.stream().mapToLong(Group::records).sum(),
                added(groups, wanted.size()),
                leftOut(groups));
    }

    /** All of a question's records together, or the part of them that its shape has, without groups. */
    @Transactional(readOnly = true)
    public Level whole(Question question, List<Measure> wanted) {
        return whole(question, new Measures(wanted, question.mayHoldNoNumbers()));
    }

    private Level whole(Question question, Measures measures) {
        Selections.Selected selected = selections.selected(question);
        return runner.single(question, Groups.whole(selected.scope(), selected.where(), measures), row -> {
            Figures figures = Figures.read(row, 2, measures);
            return new Level(List.of(), false, row.getLong(1), figures.values(), figures.leftOut());
        });
    }

    private static Map<String, Long> leftOut(List<Group> groups) {
        Map<String, Long> left = new LinkedHashMap<>();
        groups.forEach(g -> g.leftOut().forEach((field, values) -> left.merge(field, values, Long::sum)));
        return left;
    }

    /** The figures of all groups added up; only for measures that do. */
    private static List<Optional<Object>> added(List<Group> groups, int measures) {
        return IntStream.range(0, measures)
                .mapToObj(i -> groups.stream()
                        .flatMap(g -> g.figures().get(i).stream())
                        .map(BigDecimal.class::cast)
                        .reduce(BigDecimal::add)
                        .map(Object.class::cast))
                .toList();
    }

    private static Group group(GroupKey key, long records, Figures figures) {
        return new Group(key.value(), key.label(), key.from(), key.to(), records, figures.values(), figures.leftOut());
    }
}
