package deftlens.server.totals;

import deftlens.core.condition.Bound;
import deftlens.core.field.Field;
import deftlens.core.field.Measure;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Totals;
import deftlens.core.time.Reading;
import deftlens.server.platform.Problem;
import deftlens.server.question.GroupKey;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Cells as the totals that are given: in their order, with what lies between them, shares, and the lines under all. */
final class TotalsRendering {

    /** The most columns beside one another. */
    private static final int MAX_COLUMNS = 200;

    private final Reading reading;
    private final TotalsPlan plan;
    private final TotalsTable table;
    private final List<Measure> measures;

    TotalsRendering(Reading reading, TotalsPlan plan, TotalsTable table) {
        this.reading = reading;
        this.plan = plan;
        this.table = table;
        this.measures = plan.measures();
    }

    TotalsAnswer answer(Bound asked, boolean empties, List<TotalsAnswer.TotalsFinding> findings) {
        List<Optional<Object>> columns = columns(asked, empties);
        List<TotalsAnswer.TotalsRow> rows = new ArrayList<>();
        // A row without records would not have been kept.
        add(List.of(), columns, empties && plan.keep().isEmpty() ? between(asked) : List.of(), rows);
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
                findings,
                table.whole(Optional.empty()).map(c -> c.figures().leftOut()).orElse(Map.of()));
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
        List<Object> between = empties ? Calendar.between(level, found, asked, reading) : List.of();
        List<Optional<Object>> all =
                found.isEmpty() || between.size() > MAX_COLUMNS ? found : Calendar.filled(found, between);
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

    /** For each level of rows what lies between its values; nothing where that would be more rows than are given. */
    private List<List<Object>> between(Bound asked) {
        List<List<Object>> between = new ArrayList<>();
        for (int i = 0; i < table.rows().size(); i++) {
            List<Object> all = Calendar.between(table.rows().get(i), table.values(i), asked, reading);
            long above = i == 0 ? 1 : table.paths(i).size();
            between.add(above * all.size() > TotalsService.MAX_CELLS ? List.of() : all);
        }
        return between;
    }

    private void add(
            List<Optional<Object>> path,
            List<Optional<Object>> columns,
            List<List<Object>> between,
            List<TotalsAnswer.TotalsRow> rows) {
        if (path.size() == table.rows().size()) {
            return;
        }
        List<Optional<Object>> found = table.inside(path);
        List<Optional<Object>> all =
                found.isEmpty() || between.isEmpty() ? found : Calendar.filled(found, between.get(path.size()));
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
            add(inner, columns, between, rows);
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
            Collections.reverse(arranged);
            if (without) {
                arranged.add(Optional.empty());
            }
        } else if (arrangement == Groups.Arrangement.LARGEST) {
            arranged.sort(Comparator.comparing(
                    v -> -cells.at(v).map(TotalsTable.Cell::records).orElse(0L)));
        }
        Optional<Integer> ordered = rows ? plan.ordered() : Optional.empty();
        ordered.ifPresent(figure -> arranged.sort(byFigure(figure, cells)));
        return arranged;
    }

    @SuppressWarnings({"unchecked", "rawtypes"})
    private Comparator<Optional<Object>> byFigure(int figure, CellOf cells) {
        TotalFigure of = plan.figures().get(figure);
        Comparator<Object> values = (a, b) -> ((Comparable) a).compareTo(b);
        Comparator<Object> directed = plan.descends() ? values.reversed() : values;
        return Comparator.comparing(
                (Optional<Object> v) ->
                        value(of, cells.at(v), table.whole(Optional.empty())).orElse(null),
                Comparator.nullsLast(directed));
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
