package deftlens.server.imports;

import deftlens.server.values.DateText;
import deftlens.server.values.NumberText;
import java.io.IOException;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;

/**
 * Finds the row of a file that names its columns. It need not be the first: a title, a date of printing or blank rows may come
 * before it. Worked example: of the rows
 *
 * <pre>
 * Harbour dues
 * Printed on;23 Nov 2026
 * Account;Due;Amount
 * A-1;2026-11-30;12.50
 * </pre>
 *
 * the third one does: it is as wide as those below it, all its cells are different words, and no row before it is as wide.
 */
final class NamesRow {

    /** How far down it is looked for, in rows that have something in them. */
    private static final int MAX_BEFORE = 30;

    /** How many rows are looked at, for how wide the table is. */
    private static final int LOOKED_AT = 200;

    private record Row(long line, List<String> cells) {
        /** How many cells up to the last one with something in it. */
        int width() {
            int width = cells.size();
            while (width > 0 && cells.get(width - 1).isBlank()) {
                width--;
            }
            return width;
        }
    }

    private NamesRow() {}

    /** The line of the row that names the columns; absent where none does. */
    static Optional<Long> in(Tabular source) throws IOException {
        List<Row> rows = new ArrayList<>();
        source.each((line, cells) -> {
            rows.add(new Row(line, cells));
            return rows.size() < LOOKED_AT;
        });
        int width = usualWidth(rows);
        Optional<Long> incomplete = Optional.empty();
        for (int i = 0; i < Math.min(rows.size(), MAX_BEFORE); i++) {
            Row row = rows.get(i);
            int nameless = nameless(row, width);
            if (nameless == 0) {
                return Optional.of(row.line());
            }
            boolean useful = nameless * 4 <= width && hasValues(rows.subList(i + 1, rows.size()));
            if (useful && incomplete.isEmpty()) {
                incomplete = Optional.of(row.line());
            }
            // What is as wide as the table is the table.
            if (row.width() >= width) {
                return incomplete;
            }
        }
        return incomplete;
    }

    /** The width that most rows have; of several, the largest. */
    private static int usualWidth(List<Row> rows) {
        int[] counts = new int[FileLimits.MAX_COLUMNS + 1];
        int usual = 0;
        for (Row row : rows) {
            int width = Math.min(row.width(), FileLimits.MAX_COLUMNS);
            counts[width]++;
        }
        for (int width = 1; width < counts.length; width++) {
            if (counts[width] > 0 && counts[width] >= counts[usual]) {
                usual = width;
            }
        }
        return usual;
    }

    /**
     * How many columns a row would leave without a name; all of them where it cannot be a row of names, since a cell is a
     * number or a date, or stands twice.
     */
    private static int nameless(Row row, int width) {
        Set<String> different = new HashSet<>();
        int named = 0;
        for (String cell : row.cells()) {
            String text = cell.strip();
            if (text.isEmpty()) {
                continue;
            }
            if (!isWord(text) || !different.add(text.toLowerCase(Locale.ROOT))) {
                return Math.max(width, 1);
            }
            named++;
        }
        return named == 0 ? Math.max(width, 1) : Math.max(width, row.width()) - named;
    }

    private static boolean hasValues(List<Row> rows) {
        return rows.stream()
                .anyMatch(r -> r.cells().stream().map(String::strip).anyMatch(c -> !c.isEmpty() && !isWord(c)));
    }

    private static boolean isWord(String cell) {
        return NumberText.number(cell, NumberText.Decimal.POINT).isEmpty()
                && DateText.date(cell, DateText.Order.DAY_FIRST).isEmpty();
    }
}
