package deftlens.server.totals;

import deftlens.core.sql.Groups;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/**
 * Balances of the places of totals. The opening of a period is what was before the window, and what came and went since in the periods
 * before it, of the records that have everything else in common.
 */
final class Balances {

    /** In the place of a period, for all of them. */
    private static final Object PERIOD = new Object();

    /** Stands before what a column has in common. */
    private static final Object COLUMN = new Object();

    private final TotalsTable table;
    private final BalanceWindow window;
    private final int measure;
    /** What came before the window, by all that places have in common but the periods. */
    private final Map<List<Object>, BigDecimal> priors = new HashMap<>();
    /** What came and went up to the end of each period, by the same, and by where the period begins. */
    private final Map<List<Object>, TreeMap<Object, BigDecimal>> carried = new HashMap<>();

    /**
     * @param measure the place of the sum among the measures
     * @param whole whether the places are those of all records, beside the rows that are shown
     */
    Balances(TotalsTable table, BalanceWindow window, int measure, boolean whole) {
        this.table = table;
        this.window = window;
        this.measure = measure;
        for (TotalsTable.Placed placed : table.places(whole)) {
            List<Object> place = place(placed.path(), placed.column());
            placed.cell().earlier().flatMap(this::sum).ifPresent(s -> priors.merge(place, s, BigDecimal::add));
            begins(placed.path(), placed.column())
                    .ifPresent(from -> sum(placed.cell().now())
                            .ifPresent(s -> carried.computeIfAbsent(place, p -> new TreeMap<>())
                                    .merge(from, s, BigDecimal::add)));
        }
        for (TreeMap<Object, BigDecimal> periods : carried.values()) {
            BigDecimal sum = BigDecimal.ZERO;
            for (Map.Entry<Object, BigDecimal> period : periods.entrySet()) {
                sum = sum.add(period.getValue());
                period.setValue(sum);
            }
        }
    }

    private Optional<BigDecimal> sum(TotalsTable.Of of) {
        return of.figures().values().get(measure).map(BigDecimal.class::cast);
    }

    /** What a place's records have in common but the periods. */
    private List<Object> place(List<Optional<Object>> path, Optional<Optional<Object>> column) {
        List<Object> place = new ArrayList<>();
        for (int i = 0; i < path.size(); i++) {
            place.add(isPeriod(table.rows().get(i)) && path.get(i).isPresent() ? PERIOD : path.get(i));
        }
        column.ifPresent(c -> {
            place.add(COLUMN);
            place.add(isPeriod(table.across().orElseThrow()) && c.isPresent() ? PERIOD : c);
        });
        return place;
    }

    private boolean isPeriod(Groups.Level level) {
        return level instanceof Groups.Level.Periods periods && periods.field().equals(window.date());
    }

    private interface Bound {
        Optional<Comparable<?>> of(Groups.Level level, Optional<Object> value);
    }

    private List<Optional<Comparable<?>>> bounds(
            List<Optional<Object>> path, Optional<Optional<Object>> column, Bound bound) {
        List<Optional<Comparable<?>>> bounds = new ArrayList<>();
        for (int i = 0; i < path.size(); i++) {
            bounds.add(bound.of(table.rows().get(i), path.get(i)));
        }
        column.ifPresent(c -> bounds.add(bound.of(table.across().orElseThrow(), c)));
        return bounds;
    }

    private Optional<Comparable<?>> begins(List<Optional<Object>> path, Optional<Optional<Object>> column) {
        return bounds(path, column, (level, value) -> stretch(level, value).flatMap(BalanceWindow.Stretch::from))
                .stream()
                .reduce(Optional.empty(), BalanceWindow::latest);
    }

    private Optional<Comparable<?>> ends(List<Optional<Object>> path, Optional<Optional<Object>> column) {
        return bounds(path, column, (level, value) -> stretch(level, value).flatMap(BalanceWindow.Stretch::to)).stream()
                .reduce(Optional.empty(), BalanceWindow::earliest);
    }

    private Optional<BalanceWindow.Stretch> stretch(Groups.Level level, Optional<Object> value) {
        return isPeriod(level)
                ? value.filter(v -> !(v instanceof String)).map(v -> window.of(level, v))
                : Optional.empty();
    }

    /** Whether a place has no date, so that there is nothing before it. */
    private boolean isUndated(List<Optional<Object>> path, Optional<Optional<Object>> column) {
        for (int i = 0; i < path.size(); i++) {
            if (isPeriod(table.rows().get(i))
                    && stretch(table.rows().get(i), path.get(i)).isEmpty()) {
                return true;
            }
        }
        return column.isPresent()
                && isPeriod(table.across().orElseThrow())
                && stretch(table.across().orElseThrow(), column.get()).isEmpty();
    }

    /** What was there before; nothing for a place that has no date, and for a row and a column that no date is in both of. */
    Optional<BigDecimal> opening(List<Optional<Object>> path, Optional<Optional<Object>> column) {
        if (isUndated(path, column)) {
            return Optional.empty();
        }
        List<Object> place = place(path, column);
        BigDecimal opening = priors.getOrDefault(place, BigDecimal.ZERO);
        Optional<Comparable<?>> from = begins(path, column);
        if (from.isPresent() && BalanceWindow.latest(from, ends(path, column)).equals(from)) {
            return Optional.empty();
        }
        Optional<BigDecimal> since = from.flatMap(f -> Optional.ofNullable(carried.get(place))
                .map(periods -> periods.lowerEntry(f))
                .map(Map.Entry::getValue));
        return Optional.of(since.map(opening::add).orElse(opening));
    }
}
