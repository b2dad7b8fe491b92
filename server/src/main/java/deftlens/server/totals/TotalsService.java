package deftlens.server.totals;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.Measure;
import deftlens.core.field.Register;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Measures;
import deftlens.core.sql.Totals;
import deftlens.core.time.Reading;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.Figures;
import deftlens.server.question.GroupKey;
import deftlens.server.question.GroupLevels;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Selections;
import deftlens.server.registers.Origin;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Totals of a question's records, and the question that has exactly the records behind one of their figures. */
@Service
public class TotalsService {

    /** The most figures' places, rows times columns, that are given at once. */
    public static final int MAX_CELLS = 20_000;

    /** The most columns beside one another. */
    private static final int MAX_COLUMNS = 200;

    private final QueryRunner runner;
    private final Selections selections;
    private final GroupLevels levels;
    private final Questions questions;

    TotalsService(QueryRunner runner, Selections selections, GroupLevels levels, Questions questions) {
        this.runner = runner;
        this.selections = selections;
        this.levels = levels;
        this.questions = questions;
    }

    /** The totals that a question's shape asks for. */
    @Transactional(readOnly = true)
    public TotalsAnswer totals(Question question) {
        return totals(question, TotalsPlan.of(question.shape(), question.register()));
    }

    /** Totals of a question's records. */
    @Transactional(readOnly = true)
    TotalsAnswer totals(Question question, TotalsPlan plan) {
        TotalsTable table = read(question, plan);
        Bound asked = questions.bind(question);
        return new Rendering(question.reading(), plan, table).answer(asked, plan.empties());
    }

    private TotalsTable read(Question question, TotalsPlan plan) {
        List<Groups.Level> rows = levels.levels(question, plan.rows());
        Optional<Groups.Level> across =
                plan.across().map(a -> levels.levels(question, List.of(a)).getFirst());
        Optional<Bound> keep = plan.keep().map(text -> keep(question, plan, text));
        Totals totals = new Totals(rows, across, new Measures(plan.measures(), holdsOthers(question)), keep);
        Selections.Selected selected = selections.selected(question);
        List<TotalsTable.Cell> cells = runner.list(
                question, totals.select(selected.scope(), selected.where(), question.reading(), MAX_CELLS + 1), row -> {
                    List<Optional<Object>> keys = new ArrayList<>();
                    int column = 3;
                    for (Groups.Level level : totals.levels()) {
                        keys.add(GroupKey.read(level, row, column++));
                    }
                    return new TotalsTable.Cell(
                            row.getBoolean(1),
                            row.getInt(2),
                            keys,
                            row.getLong(column),
                            Figures.read(row, column + 1, totals.measures()));
                });
        if (cells.size() > MAX_CELLS) {
            throw Problem.unprocessable(
                    "too-many-rows",
                    "These are more than " + String.format("%,d", MAX_CELLS)
                            + " rows and columns. Narrow the question, or put it together by something coarser.");
        }
        return new TotalsTable(rows, across, cells);
    }

    private Bound keep(Question question, TotalsPlan plan, String text) {
        Register figures = plan.asRegister();
        Condition condition = questions.condition(figures, Optional.of(text), Optional.empty());
        return questions.bind(figures, condition, question.reading(), question.who());
    }

    /**
     * Reads a statement over figures.
     *
     * @throws Problem where it cannot be read or does not fit them
     */
    Condition keep(TotalsPlan plan, String text, SignedIn who) {
        Register figures = plan.asRegister();
        Condition condition = questions.condition(figures, Optional.of(text), Optional.empty());
        questions.bind(figures, condition, questions.reading(Optional.empty(), Optional.empty()), who);
        return condition;
    }

    /** Only tables of others hold numbers that are none. */
    private static boolean holdsOthers(Question question) {
        return !question.registerForReader().can(Origin.Capability.GUARDED);
    }

    // ------------------------------------------------------------------ the records behind a figure

    /**
     * A place among totals.
     *
     * @param keys the row: the {@code value} of each of its keys, the outermost first; {@code null} for one without. Fewer than there are
     *     levels for a row above others, none for the line under all
     * @param across the column; absent for all of them together
     * @param whole for the line under all rows: whether of all records, also those in rows that criteria on figures leave out
     */
    record TotalsPlace(List<Optional<String>> keys, Optional<TotalsColumn> across, Optional<Boolean> whole) {

        /** @param value as the column's key has it; absent for the records without one */
        record TotalsColumn(Optional<String> value) {}
    }

    /** The condition that has exactly the records behind the figures at a place. */
    @Transactional(readOnly = true)
    Condition behind(Question question, TotalsPlan plan, TotalsPlace place) {
        List<Groups.Level> rows = levels.levels(question, plan.rows());
        if (place.keys().size() > rows.size()
                || place.across().isPresent() && plan.across().isEmpty()) {
            throw Problem.unprocessable("no-place", "There is no such row or column.");
        }
        List<Condition> parts = new ArrayList<>(List.of(question.condition()));
        List<Optional<Object>> path = new ArrayList<>();
        for (int i = 0; i < place.keys().size(); i++) {
            Optional<Object> value = levels.value(rows.get(i), place.keys().get(i));
            path.add(TotalsTable.same(value));
            parts.add(criterion(rows.get(i), value, question.reading()));
        }
        place.across().ifPresent(column -> {
            Groups.Level level = levels.levels(question, List.of(plan.across().orElseThrow()))
                    .getFirst();
            parts.add(criterion(level, levels.value(level, column.value()), question.reading()));
        });
        if (plan.keep().isPresent()
                && path.size() < rows.size()
                && !place.whole().orElse(false)) {
            TotalsTable table = read(question, plan);
            parts.add(anyOf(table, path, question.reading()));
        }
        Condition condition = new Condition.All(parts).normal();
        if (condition.criteria().size() > Condition.MAX_CRITERIA) {
            throw Problem.unprocessable(
                    "too-many-rows",
                    "The records behind this figure are those of many rows. Open one of these rows instead.");
        }
        return condition;
    }

    /** The records of the rows inside one that criteria on figures have not left out. */
    private static Condition anyOf(TotalsTable table, List<Optional<Object>> path, Reading reading) {
        List<Groups.Level> rows = table.rows();
        // Values of one field beside one another are a list, which may be long; other rows are criteria of their own.
        Map<List<Condition>, List<Operand>> lists = new LinkedHashMap<>();
        List<Condition> others = new ArrayList<>();
        Groups.Level last = rows.getLast();
        for (List<Optional<Object>> row : table.paths(rows.size())) {
            if (!row.subList(0, path.size()).equals(path)) {
                continue;
            }
            List<Condition> outer = new ArrayList<>();
            for (int i = path.size(); i < rows.size() - 1; i++) {
                outer.add(criterion(rows.get(i), row.get(i), reading));
            }
            Condition inner = criterion(last, row.getLast(), reading);
            if (inner
                    instanceof
                    Condition.Criterion(String field, Test.Is(Operand value, boolean exactly), boolean not)) {
                lists.computeIfAbsent(outer, o -> new ArrayList<>()).add(value);
            } else {
                outer.add(inner);
                others.add(new Condition.All(outer));
            }
        }
        List<Condition> any = new ArrayList<>();
        lists.forEach((outer, values) -> {
            List<Condition> all = new ArrayList<>(outer);
            boolean exactly = last.field().type() == deftlens.core.field.FieldType.TEXT;
            all.add(Condition.Criterion.of(last.field().key(), new Test.In(values, exactly)));
            any.add(new Condition.All(all));
        });
        any.addAll(others);
        // No row is left: no record is behind the figure.
        return any.isEmpty() ? new Condition.None(List.of(everything(last.field()))) : new Condition.Any(any);
    }

    private static Condition everything(Field field) {
        return new Condition.Any(List.of(
                Condition.Criterion.of(field.key(), new Test.Empty()),
                Condition.Criterion.not(field.key(), new Test.Empty())));
    }

    private static Condition criterion(Groups.Level level, Optional<Object> value, Reading reading) {
        Optional<Condition> criterion = value.filter(GroupKey::isBeyond).isPresent()
                ? Optional.empty()
                : Groups.criterion(level, value, reading);
        return criterion.orElseThrow(() -> Problem.unprocessable(
                "no-words",
                "The records of this " + level.field().label()
                        + " cannot be asked for in words: it is beyond all dates or numbers that a statement has."));
    }

    /** Totals as they are given. */
    private static final class Rendering {

        private final Reading reading;
        private final TotalsPlan plan;
        private final TotalsTable table;
        private final List<Measure> measures;

        Rendering(Reading reading, TotalsPlan plan, TotalsTable table) {
            this.reading = reading;
            this.plan = plan;
            this.table = table;
            this.measures = plan.measures();
        }

        TotalsAnswer answer(Bound asked, boolean empties) {
            List<Optional<Object>> columns = columns(asked, empties);
            List<TotalsAnswer.TotalsRow> rows = new ArrayList<>();
            add(List.of(), columns, asked, empties, rows);
            return new TotalsAnswer(
                    plan.figures().stream()
                            .map(f -> new TotalsAnswer.TotalsFigure(
                                    f.name(),
                                    f.label(),
                                    f.measure().function(),
                                    f.measure().field().map(Field::key),
                                    f.share(),
                                    f.type().label()))
                            .toList(),
                    columns.stream().map(this::column).toList(),
                    rows,
                    row(List.of(), Optional.empty(), table.whole(Optional.empty())),
                    row(List.of(), Optional.empty(), table.cell(List.of(), Optional.empty())),
                    columns.stream()
                            .map(c -> row(List.of(), Optional.of(c), table.whole(Optional.of(c))))
                            .toList(),
                    columns.stream()
                            .map(c -> row(List.of(), Optional.of(c), table.cell(List.of(), Optional.of(c))))
                            .toList(),
                    windows(asked),
                    table.whole(Optional.empty())
                            .map(c -> c.figures().leftOut())
                            .orElse(Map.of()));
        }

        private GroupKey column(Optional<Object> value) {
            return GroupKey.of(table.across().orElseThrow(), value, reading);
        }

        private List<Optional<Object>> columns(Bound asked, boolean empties) {
            if (table.across().isEmpty()) {
                return List.of();
            }
            Groups.Level level = table.across().get();
            List<Optional<Object>> found = table.columns();
            List<Optional<Object>> all =
                    empties && !found.isEmpty() ? Calendar.filled(level, found, asked, reading) : found;
            if (all.size() > MAX_COLUMNS) {
                throw Problem.unprocessable(
                        "too-many-columns",
                        "These are " + all.size() + " columns; " + MAX_COLUMNS
                                + " are the most. Make rows of them, or put records together by something coarser.");
            }
            return arranged(
                    all,
                    plan.across().orElseThrow().arranged().orElse(Groups.Arrangement.ASCENDING),
                    value -> table.cell(List.of(), Optional.of(value)),
                    false);
        }

        private void add(
                List<Optional<Object>> path,
                List<Optional<Object>> columns,
                Bound asked,
                boolean empties,
                List<TotalsAnswer.TotalsRow> rows) {
            if (path.size() == table.rows().size()) {
                return;
            }
            Groups.Level level = table.rows().get(path.size());
            List<Optional<Object>> found = table.inside(path);
            // A row without records would not have been kept.
            boolean filled = empties && plan.keep().isEmpty() && !found.isEmpty();
            List<Optional<Object>> all =
                    filled ? Calendar.filled(level, found, table.values(path.size()), asked, reading) : found;
            for (Optional<Object> value : arranged(
                    all,
                    plan.rows().get(path.size()).arranged().orElse(Groups.Arrangement.ASCENDING),
                    v -> table.cell(joined(path, v), Optional.empty()),
                    true)) {
                List<Optional<Object>> inner = joined(path, value);
                rows.add(row(inner, Optional.empty(), table.cell(inner, Optional.empty())));
                for (Optional<Object> column : columns) {
                    Optional<TotalsTable.Cell> cell = table.cell(inner, Optional.of(column));
                    cell.ifPresent(c -> rows.add(row(inner, Optional.of(column), cell)));
                }
                add(inner, columns, asked, empties, rows);
            }
        }

        private static List<Optional<Object>> joined(List<Optional<Object>> path, Optional<Object> value) {
            List<Optional<Object>> joined = new ArrayList<>(path);
            joined.add(value);
            return joined;
        }

        private interface CellOf {
            Optional<TotalsTable.Cell> at(Optional<Object> value);
        }

        /** Values in the order wanted; they come in ascending order, the one without last. */
        private List<Optional<Object>> arranged(
                List<Optional<Object>> values, Groups.Arrangement arrangement, CellOf cells, boolean rows) {
            List<Optional<Object>> arranged = new ArrayList<>(values);
            if (arrangement == Groups.Arrangement.DESCENDING) {
                boolean without = arranged.remove(Optional.empty());
                java.util.Collections.reverse(arranged);
                if (without) {
                    arranged.add(Optional.empty());
                }
            } else if (arrangement == Groups.Arrangement.LARGEST) {
                arranged.sort(java.util.Comparator.comparing(
                        v -> -cells.at(v).map(TotalsTable.Cell::records).orElse(0L)));
            }
            Optional<Integer> ordered = rows ? plan.ordered() : Optional.empty();
            ordered.ifPresent(figure -> arranged.sort(byFigure(figure, cells)));
            return arranged;
        }

        @SuppressWarnings({"unchecked", "rawtypes"})
        private java.util.Comparator<Optional<Object>> byFigure(int figure, CellOf cells) {
            TotalFigure of = plan.figures().get(figure);
            java.util.Comparator<Object> values = (a, b) -> ((Comparable) a).compareTo(b);
            java.util.Comparator<Object> directed = plan.descends() ? values.reversed() : values;
            return java.util.Comparator.comparing(
                    (Optional<Object> v) -> value(of, cells.at(v), table.whole(Optional.empty()))
                            .orElse(null),
                    java.util.Comparator.nullsLast(directed));
        }

        private TotalsAnswer.TotalsRow row(
                List<Optional<Object>> path, Optional<Optional<Object>> column, Optional<TotalsTable.Cell> cell) {
            List<GroupKey> keys = new ArrayList<>();
            for (int i = 0; i < path.size(); i++) {
                keys.add(GroupKey.of(table.rows().get(i), path.get(i), reading));
            }
            Map<String, Optional<Object>> values = new LinkedHashMap<>();
            plan.figures().forEach(f -> values.put(f.name(), value(f, cell, table.whole(column))));
            return new TotalsAnswer.TotalsRow(
                    keys,
                    column.map(this::column),
                    cell.map(TotalsTable.Cell::records).orElse(0L),
                    values);
        }

        /** A figure of a place; of one without records what measures of none are. */
        private Optional<Object> value(
                TotalFigure figure, Optional<TotalsTable.Cell> cell, Optional<TotalsTable.Cell> whole) {
            Optional<Object> value = measured(figure, cell);
            if (!figure.share()) {
                return value;
            }
            Optional<BigDecimal> total =
                    measured(figure, whole).map(BigDecimal.class::cast).filter(t -> t.signum() != 0);
            return value.map(BigDecimal.class::cast)
                    .flatMap(v -> total.map(t -> v.divide(t, Totals.SHARE_DIGITS, RoundingMode.HALF_UP)));
        }

        private Optional<Object> measured(TotalFigure figure, Optional<TotalsTable.Cell> cell) {
            return cell.map(c -> c.figures().values().get(measures.indexOf(figure.measure())))
                    .orElseGet(() -> figure.measure().function() == Measure.Function.COUNT
                                    || figure.measure().function() == Measure.Function.DISTINCT
                            ? Optional.of(BigDecimal.ZERO)
                            : Optional.empty());
        }

        private List<TotalsAnswer.TotalsWindow> windows(Bound asked) {
            return Calendar.windows(asked).entrySet().stream()
                    .map(e -> new TotalsAnswer.TotalsWindow(
                            e.getKey().key(),
                            e.getValue().from().map(Object::toString),
                            e.getValue().to().map(Object::toString)))
                    .toList();
        }
    }
}
