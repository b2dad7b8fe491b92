package deftlens.server.imports;

import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;
import org.dhatim.fastexcel.reader.Cell;
import org.dhatim.fastexcel.reader.CellType;
import org.dhatim.fastexcel.reader.ReadableWorkbook;
import org.dhatim.fastexcel.reader.ReadingOptions;
import org.dhatim.fastexcel.reader.Row;
import org.dhatim.fastexcel.reader.Sheet;

/** One sheet of a spreadsheet file (Office Open XML). Days and moments come as ISO 8601, numbers in plain digits. */
record XlsxSource(Path file, String sheet) implements Tabular {

    private static final ReadingOptions WITH_FORMATS = new ReadingOptions(true, false);
    private static final int MOST_COLUMNS = 2_000;

    /** The names of the sheets of a file. */
    static List<String> sheets(Path file) throws IOException {
        try (ReadableWorkbook book = new ReadableWorkbook(file.toFile(), WITH_FORMATS)) {
            return book.getSheets().map(Sheet::getName).toList();
        }
    }

    @Override
    public void each(Each each) throws IOException {
        try (ReadableWorkbook book = new ReadableWorkbook(file.toFile(), WITH_FORMATS)) {
            Sheet found = book.getSheets()
                    .filter(s -> s.getName().equals(sheet))
                    .findFirst()
                    .orElseThrow(() -> new IOException("no sheet “" + sheet + "”"));
            try (Stream<Row> rows = found.openStream()) {
                for (Iterator<Row> all = rows.iterator(); all.hasNext(); ) {
                    Row row = all.next();
                    List<String> cells = new ArrayList<>();
                    for (int i = 0; i < Math.min(row.getCellCount(), MOST_COLUMNS); i++) {
                        cells.add(text(row.getCell(i)));
                    }
                    boolean blank = cells.stream().allMatch(String::isEmpty);
                    if (!blank && !each.row(row.getRowNum(), cells)) {
                        return;
                    }
                }
            }
        }
    }

    private static String text(Cell cell) {
        if (cell == null || cell.getType() == CellType.EMPTY || cell.getType() == CellType.ERROR) {
            return "";
        }
        if (cell.getType() == CellType.BOOLEAN) {
            return cell.asBoolean() ? "yes" : "no";
        }
        if (cell.getType() == CellType.NUMBER) {
            BigDecimal number = cell.asNumber();
            return isDate(cell.getDataFormatString())
                    ? date(cell, number)
                    : number.stripTrailingZeros().toPlainString();
        }
        return cell.getType() == CellType.STRING ? cell.asString() : String.valueOf(cell.getText());
    }

    private static String date(Cell cell, BigDecimal number) {
        LocalDateTime at = cell.asDate().plusNanos(500_000).truncatedTo(java.time.temporal.ChronoUnit.MILLIS);
        if (number.compareTo(BigDecimal.ONE) < 0) {
            return at.toLocalTime().toString();
        }
        return at.toLocalTime().equals(LocalTime.MIDNIGHT) ? at.toLocalDate().toString() : at.toString();
    }

    /** Whether a number format shows days or times: it has one of their letters outside quotes and brackets. */
    private static boolean isDate(String format) {
        if (format == null || format.equals("General")) {
            return false;
        }
        String plain = format.replaceAll("\"[^\"]*\"|\\[[^\\]]*\\]|\\\\.", "").toLowerCase(Locale.ROOT);
        return plain.matches(".*[ymdhs].*");
    }
}
