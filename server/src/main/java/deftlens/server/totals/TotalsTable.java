package deftlens.server.totals;

import deftlens.core.field.Field;
import deftlens.core.sql.Groups;
import deftlens.server.question.Figures;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** The cells of totals by their places. A place is the values of a row's levels, the outermost first, and maybe that of a column. */
final class TotalsTable {

    /**
     * What is told at one place.
     *
     * @param whole whether of all records, also those in rows that are left out
     * @param rolledUp which levels it goes over, as {@link deftlens.core.sql.Totals#ROLLED_UP} has it
     * @param keys a value for each level; of no meaning where it is rolled up
     * @param now of the records of the question
     * @param earlier of those of the time that is compared with, or that came before
     * @param outermost what tells its outermost row from others, where that is wanted
     */
    record Cell(
            boolean whole,
            int rolledUp,
            List<Optional<Object>> keys,
            Of now,
            Optional<Of> earlier,
            Optional<String> outermost) {

        long records() {
            return now.records();
        }
    }

    /**
     * What is told of records: how many they are, and their measures.
     *
     * @param in what of a balance is above zero; absent where there is nothing
     * @param out what of it is below zero
     */
    record Of(long records, Figures figures, Optional<BigDecimal> in, Optional<BigDecimal> out) {}

    /** A place and what is told there. */
    record Placed(List<Optional<Object>> path, Optional<Optional<Object>> column, Cell cell) {}

    private record Place(List<Optional<Object>> path, Optional<Optional<Object>> column) {}

    private final List<Groups.Level> rows;
    private final Optional<Groups.Level> across;
    private final Map<Place, Cell> cells = new HashMap<>();
    private final Map<Place, Cell> wholes = new HashMap<>();
    private final Map<List<Optional<Object>>, Set<Optional<Object>>> inside = new LinkedHashMap<>();
    private final Set<Optional<Object>> columns = new LinkedHashSet<>();

    /**
     * @param found in the order that {@link deftlens.core.sql.Totals#select} has them in
     * @param before the date whose periods have what came before them all in a place of its own, which is no row and no column
     */
    TotalsTable(List<Groups.Level> rows, Optional<Groups.Level> across, List<Cell> found, Optional<Field> before) {
        this.rows = rows;
        this.across = across;
        int aside = across.isPresent() ? 1 : 0;
        for (Cell cell : found) {
            boolean inColumn = across.isPresent() && (cell.rolledUp() & 1) == 0;
            int depth = rows.size() - Integer.bitCount(cell.rolledUp() >> aside);
            List<Optional<Object>> path = cell.keys().subList(0, depth).stream()
                    .map(TotalsTable::same)
                    .toList();
            Optional<Optional<Object>> column =
                    inColumn ? Optional.of(same(cell.keys().getLast())) : Optional.empty();
            (cell.whole() ? wholes : cells).put(new Place(path, column), cell);
            if (isBefore(path, column, before)) {
                continue;
            }
            if (!cell.whole() && !inColumn && depth > 0) {
                inside.computeIfAbsent(path.subList(0, depth - 1), p -> new LinkedHashSet<>())
                        .add(path.getLast());
            }
            if (!cell.whole() && inColumn && depth == 0) {
                columns.add(column.get());
            }
        }
    }

    private boolean isBefore(List<Optional<Object>> path, Optional<Optional<Object>> column, Optional<Field> before) {
        for (int i = 0; i < path.size(); i++) {
            if (isBefore(rows.get(i), path.get(i), before)) {
                return true;
            }
        }
        return column.isPresent() && isBefore(across.orElseThrow(), column.get(), before);
    }

    /** Whether a value stands for what came before all periods of a date. */
    static boolean isBefore(Groups.Level level, Optional<Object> value, Optional<Field> date) {
        return level instanceof Groups.Level.Periods periods
                && date.filter(periods.field()::equals).isPresent()
                && value.filter("-infinity"::equals).isPresent();
    }

    /** All places of the rows that are shown, or those of all records beside them. */
    List<Placed> places(boolean whole) {
        return (whole && !wholes.isEmpty() ? wholes : cells)
                .entrySet().stream()
                        .map(e -> new Placed(e.getKey().path(), e.getKey().column(), e.getValue()))
                        .toList();
    }

    /** Whether some rows are left out. */
    boolean leavesOut() {
        return !wholes.isEmpty();
    }

    /** 1.5 and 1.50 are one number. */
    static Optional<Object> same(Optional<Object> value) {
        return value.map(v -> v instanceof BigDecimal number ? number.stripTrailingZeros() : v);
    }

    List<Groups.Level> rows() {
        return rows;
    }

    Optional<Groups.Level> across() {
        return across;
    }

    /** What is told at a place; of the rows that are shown. */
    Optional<Cell> cell(List<Optional<Object>> path, Optional<Optional<Object>> column) {
        return Optional.ofNullable(cells.get(new Place(path, column)));
    }

    /** What is told of all records, or of those of a column. */
    Optional<Cell> whole(Optional<Optional<Object>> column) {
        Place place = new Place(List.of(), column);
        return Optional.ofNullable(wholes.isEmpty() ? cells.get(place) : wholes.get(place));
    }

    /** The values of the columns in ascending order. */
    List<Optional<Object>> columns() {
        return List.copyOf(columns);
    }

    /** The values of the rows right inside another, in ascending order. */
    List<Optional<Object>> inside(List<Optional<Object>> path) {
        return List.copyOf(inside.getOrDefault(path, Set.of()));
    }

    /** All values of one level of rows. */
    Set<Optional<Object>> values(int level) {
        Set<Optional<Object>> values = new LinkedHashSet<>();
        inside.forEach((path, in) -> {
            if (path.size() == level) {
                values.addAll(in);
            }
        });
        return values;
    }

    /** The places of the rows with so many keys. */
    List<List<Optional<Object>>> paths(int depth) {
        List<List<Optional<Object>>> paths = new ArrayList<>();
        inside.forEach((path, in) -> {
            if (path.size() == depth - 1) {
                in.forEach(value -> {
                    List<Optional<Object>> whole = new ArrayList<>(path);
                    whole.add(value);
                    paths.add(whole);
                });
            }
        });
        return paths;
    }
}
