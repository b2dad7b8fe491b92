package deftlens.server.totals;

import deftlens.core.condition.Bound;
import deftlens.core.field.Measure;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Totals;
import deftlens.core.time.Reading;
import deftlens.server.platform.Problem;
import deftlens.server.question.GroupKey;
import deftlens.server.question.Shape;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/** Cells as the totals that are given: in their order, with what lies between them, shares, and the lines under all. */
final class TotalsRendering {

    /** The most columns beside one another. */
    private static final int MAX_COLUMNS = 200;

    private final Reading reading;
    private final TotalsPlan plan;
    private final TotalsTable table;
    private final List<Measure> measures;
    /** The column before each, whatever order they stand in. */
    private final Map<Optional<Object>, Optional<Object>> before = new HashMap<>();

    /** What was said of values already, by their levels. */
    private final Map<Groups.Level, Map<Optional<Object>, GroupKey>> keys = new IdentityHashMap<>();

    /** The balances of the rows that are shown, and of all records beside them; absent where none are. */
    private final Optional<Balances> balances;

    private final Optional<Balances> wholeBalances;

    /** @param window the window whose balances are shown */
    TotalsRendering(Reading reading, TotalsPlan plan, TotalsTable table, Optional<BalanceWindow> window) {
        this.reading = reading;
        this.plan = plan;
        this.table = table;
        this.measures = plan.measures();
        this.balances = window.map(w -> new Balances(table, w, sumOfBalance(), false));
        this.wholeBalances =
                table.leavesOut() ? window.map(w -> new Balances(table, w, sumOfBalance(), true)) : balances;
    }

    private int sumOfBalance() {
        return measures.indexOf(new Measure(Measure.Function.SUM, plan.balanced()));
    }

    /**
     * @param compared what is said of the earlier time
     * @param balance what is said of the balances
     * @param outermost how many of the outermost rows are there, where not all are
     */
    TotalsAnswer answer(
            Bound asked,
            Optional<TotalsAnswer.TotalsComparison> compared,
            Optional<TotalsAnswer.TotalsBalance> balance,
            List<TotalsAnswer.TotalsFinding> findings,
            Optional<TotalsAnswer.TotalsOutermost> outermost) {
        List<Optional<Object>> columns = columns(asked);
        if (balances.isPresent()
                && (long) table.paths(table.rows().size()).size() * columns.size() > TotalsService.MAX_CELLS) {
            throw TotalsService.tooMany();
        }
        List<TotalsAnswer.TotalsRow> rows = new ArrayList<>();
        // A row without records would not have been kept.
        add(List.of(), columns, plan.empties() && plan.keep().isEmpty() ? between(asked) : List.of(), rows);
        return new TotalsAnswer(
                plan.figures().stream().map(TotalFigure::described).toList(),
                columns.stream().map(this::column).toList(),
                rows,
                row(List.of(), Optional.empty(), table.whole(Optional.empty()), true),
                row(List.of(), Optional.empty(), table.cell(List.of(), Optional.empty()), false),
                columns.stream()
                        .map(c -> row(List.of(), Optional.of(c), table.whole(Optional.of(c)), true))
                        .toList(),
                columns.stream()
                        .map(c -> row(List.of(), Optional.of(c), table.cell(List.of(), Optional.of(c)), false))
                        .toList(),
                compared,
                balance,
                windows(asked),
                findings,
                outermost,
                table.whole(Optional.empty())
                        .map(c -> c.now().figures().leftOut())
                        .orElse(Map.of()));
    }

    private GroupKey column(Optional<Object> value) {
        return key(table.across().orElseThrow(), value);
    }

    /** What is said of a value of a level; the same one stands in many rows. */
    private GroupKey key(Groups.Level level, Optional<Object> value) {
        return keys.computeIfAbsent(level, l -> new HashMap<>())
                .computeIfAbsent(value, v -> GroupKey.of(level, v, reading));
    }

    private List<Optional<Object>> columns(Bound asked) {
        if (table.across().isEmpty()) {
            return List.of();
        }
        Groups.Level level = table.across().get();
        List<Optional<Object>> found = table.columns();
        List<Object> between = plan.empties() ? Calendar.between(level, found, asked, reading) : List.of();
        List<Optional<Object>> all =
                found.isEmpty() || between.size() > MAX_COLUMNS ? found : Calendar.filled(found, between);
        if (all.size() > MAX_COLUMNS) {
            throw Problem.unprocessable(
                    "too-many-columns",
                    "These are " + all.size() + " columns; " + MAX_COLUMNS
                            + " are the most. Make rows of them, or put records together by something coarser.");
        }
        for (int i = 1; i < all.size(); i++) {
            before.put(all.get(i), all.get(i - 1));
        }
        return arranged(all, plan.across().orElseThrow(), value -> table.cell(List.of(), Optional.of(value)));
    }

    /** For each level of rows what lies between its values; nothing where that would be more rows than are given. */
    private List<List<Object>> between(Bound asked) {
        List<List<Object>> between = new ArrayList<>();
        for (int i = 0; i < table.rows().size(); i++) {
            List<Object> all = Calendar.between(table.rows().get(i), table.values(i), asked, reading);
            long above = i == 0 ? 1 : table.paths(i).size();
            // The first ones are those of the rows that have records.
            boolean first = i == 0 && plan.limit().isPresent();
            between.add(first || above * all.size() > TotalsService.MAX_CELLS ? List.of() : all);
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
                // A balance stands in each period, also where nothing moves.
                found.isEmpty() && balances.isEmpty() || between.isEmpty()
                        ? found
                        : Calendar.filled(found, within(path, between.get(path.size())));
        for (Optional<Object> value : inOrder(all, path)) {
            List<Optional<Object>> inner = joined(path, value);
            rows.add(row(inner, Optional.empty(), table.cell(inner, Optional.empty()), false));
            for (Optional<Object> column : columns) {
                Optional<TotalsTable.Cell> cell = table.cell(inner, Optional.of(column));
                // A balance stands where nothing moves.
                if (cell.isPresent()
                        || opening(inner, Optional.of(column), false).isPresent()
                        || changes() && previous(inner, column).isPresent()) {
                    rows.add(row(inner, Optional.of(column), cell, false));
                }
            }
            add(inner, columns, between, rows);
        }
    }

    /** The values of the outermost rows in the order that they stand in. */
    List<Optional<Object>> outermost() {
        return inOrder(table.inside(List.of()), List.of());
    }

    private List<Optional<Object>> inOrder(List<Optional<Object>> found, List<Optional<Object>> path) {
        List<Optional<Object>> values = arranged(
                found, plan.rows().get(path.size()), value -> table.cell(joined(path, value), Optional.empty()));
        plan.ordered().ifPresent(figure -> values.sort(byFigure(plan.figures().get(figure), path)));
        return values;
    }

    /** The periods that begin in those of the same date above them: no month of another year is filled up in a year. */
    private List<Object> within(List<Optional<Object>> path, List<Object> periods) {
        List<Object> inside = periods;
        Groups.Level level = table.rows().get(path.size());
        for (int i = 0; i < path.size(); i++) {
            if (table.rows().get(i) instanceof Groups.Level.Periods outer
                    && level instanceof Groups.Level.Periods inner
                    && outer.field().equals(inner.field())) {
                Optional<Object> above = path.get(i);
                inside = inside.stream()
                        .filter(p -> above.filter(Calendar.begin(outer.step(), p, reading)::equals)
                                .isPresent())
                        .toList();
            }
        }
        return inside;
    }

    private static List<Optional<Object>> joined(List<Optional<Object>> path, Optional<Object> value) {
        List<Optional<Object>> joined = new ArrayList<>(path);
        joined.add(value);
        return joined;
    }

    private Optional<BigDecimal> opening(
            List<Optional<Object>> path, Optional<Optional<Object>> column, boolean whole) {
        return (whole ? wholeBalances : balances).flatMap(b -> b.opening(path, column));
    }

    /** Values as their level arranges them; they come in ascending order, the one without last. */
    private static List<Optional<Object>> arranged(
            List<Optional<Object>> values,
            Shape.Grouping level,
            Function<Optional<Object>, Optional<TotalsTable.Cell>> cells) {
        List<Optional<Object>> arranged = new ArrayList<>(values);
        switch (level.arranged().orElse(Groups.Arrangement.ASCENDING)) {
            case ASCENDING -> {
                // As they come.
            }
            case DESCENDING -> {
                boolean without = arranged.remove(Optional.empty());
                Collections.reverse(arranged);
                if (without) {
                    arranged.add(Optional.empty());
                }
            }
            case LARGEST ->
                arranged.sort(Comparator.comparing(
                        v -> -cells.apply(v).map(TotalsTable.Cell::records).orElse(0L)));
        }
        return arranged;
    }

    /** The rows inside another by a figure, those without last. */
    @SuppressWarnings({"unchecked", "rawtypes"})
    private Comparator<Optional<Object>> byFigure(TotalFigure figure, List<Optional<Object>> path) {
        Comparator<Object> values = (a, b) -> ((Comparable) a).compareTo(b);
        return Comparator.comparing(
                (Optional<Object> v) -> {
                    List<Optional<Object>> row = joined(path, v);
                    return value(
                                    figure,
                                    table.cell(row, Optional.empty()),
                                    table.whole(Optional.empty()),
                                    Optional.empty(),
                                    opening(row, Optional.empty(), false))
                            .orElse(null);
                },
                Comparator.nullsLast(plan.descends() ? values.reversed() : values));
    }

    private boolean changes() {
        return plan.figures().stream().anyMatch(f -> f.kind() == TotalFigure.Kind.CHANGE);
    }

    /** What is told of a row in the column before. */
    private Optional<TotalsTable.Cell> previous(List<Optional<Object>> path, Optional<Object> column) {
        return Optional.ofNullable(before.get(column)).flatMap(b -> table.cell(path, Optional.of(b)));
    }

    private TotalsAnswer.TotalsRow row(
            List<Optional<Object>> path,
            Optional<Optional<Object>> column,
            Optional<TotalsTable.Cell> cell,
            boolean whole) {
        List<GroupKey> said = new ArrayList<>();
        for (int i = 0; i < path.size(); i++) {
            said.add(key(table.rows().get(i), path.get(i)));
        }
        Optional<Optional<TotalsTable.Cell>> previous = column.filter(before::containsKey)
                .map(c -> whole ? table.whole(Optional.of(before.get(c))) : previous(path, c));
        Map<String, Optional<Object>> values = new LinkedHashMap<>();
        plan.figures()
                .forEach(f -> values.put(
                        f.name(), value(f, cell, table.whole(column), previous, opening(path, column, whole))));
        return new TotalsAnswer.TotalsRow(
                said,
                column.map(this::column),
                cell.map(TotalsTable.Cell::records).orElse(0L),
                plan.compare()
                        .map(c -> cell.flatMap(TotalsTable.Cell::earlier)
                                .map(TotalsTable.Of::records)
                                .orElse(0L)),
                values);
    }

    /**
     * A figure of a place; of one without records what measures of none are.
     *
     * @param whole the total of its column
     * @param previous what is told in the column before; absent where there is no such column
     * @param opening the balance before it
     */
    private Optional<Object> value(
            TotalFigure figure,
            Optional<TotalsTable.Cell> cell,
            Optional<TotalsTable.Cell> whole,
            Optional<Optional<TotalsTable.Cell>> previous,
            Optional<BigDecimal> opening) {
        Measure measure = figure.measure();
        Optional<Object> now = measured(measure, cell.map(TotalsTable.Cell::now));
        return switch (figure.kind()) {
            case VALUE -> now;
            case SHARE -> part(now, measured(measure, whole.map(TotalsTable.Cell::now)));
            case CHANGE -> previous.flatMap(p -> less(measure, now, measured(measure, p.map(TotalsTable.Cell::now))));
            case EARLIER -> earlier(measure, cell);
            case DIFFERENCE -> less(measure, now, earlier(measure, cell));
            case OPENING -> opening.map(o -> o);
            case IN -> Optional.of(flow(cell, TotalsTable.Of::in));
            case OUT -> Optional.of(flow(cell, TotalsTable.Of::out));
            case MOVEMENT -> Optional.of(now.orElse(BigDecimal.ZERO));
            case CLOSING -> opening.map(o -> o.add((BigDecimal) now.orElse(BigDecimal.ZERO)));
            case GROWTH -> {
                Optional<Object> then = earlier(measure, cell);
                yield part(
                        less(measure, now, then),
                        then.map(BigDecimal.class::cast).map(BigDecimal::abs));
            }
        };
    }

    private static BigDecimal flow(
            Optional<TotalsTable.Cell> cell, Function<TotalsTable.Of, Optional<BigDecimal>> side) {
        return cell.map(TotalsTable.Cell::now).flatMap(side).orElse(BigDecimal.ZERO);
    }

    private Optional<Object> earlier(Measure measure, Optional<TotalsTable.Cell> cell) {
        return measured(measure, cell.flatMap(TotalsTable.Cell::earlier));
    }

    /** One number less another; the sum of no records is 0 beside that of some. */
    private static Optional<Object> less(Measure measure, Optional<Object> one, Optional<Object> other) {
        Optional<Object> none = measure.function().addsUp() ? Optional.of(BigDecimal.ZERO) : Optional.empty();
        if (one.isEmpty() && other.isEmpty()) {
            return Optional.empty();
        }
        return one.or(() -> none)
                .flatMap(a -> other.or(() -> none).map(b -> ((BigDecimal) a).subtract((BigDecimal) b)));
    }

    /** A number as a part of another; nothing of 0. */
    private static Optional<Object> part(Optional<?> value, Optional<?> of) {
        Optional<BigDecimal> whole = of.map(BigDecimal.class::cast).filter(t -> t.signum() != 0);
        return value.map(BigDecimal.class::cast)
                .flatMap(v -> whole.map(w -> v.divide(w, Totals.SHARE_DIGITS, RoundingMode.HALF_UP)));
    }

    private Optional<Object> measured(Measure measure, Optional<TotalsTable.Of> told) {
        return told.map(t -> t.figures().values().get(measures.indexOf(measure)))
                .orElseGet(() ->
                        measure.function() == Measure.Function.COUNT || measure.function() == Measure.Function.DISTINCT
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
