package deftlens.server.imports;

import deftlens.server.platform.Problem;
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
import java.util.zip.ZipFile;
import org.dhatim.fastexcel.reader.Cell;
import org.dhatim.fastexcel.reader.CellType;
import org.dhatim.fastexcel.reader.ReadableWorkbook;
import org.dhatim.fastexcel.reader.ReadingOptions;
import org.dhatim.fastexcel.reader.Row;
import org.dhatim.fastexcel.reader.Sheet;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * One sheet of a spreadsheet file (Office Open XML). Days and moments come as ISO 8601, numbers in plain digits; a formula is
 * the value that the file has for it.
 *
 * @param size the highest row that any sheet of the file names
 */
record XlsxSource(Path file, String sheet, long size) implements Tabular {

    private static final Logger LOG = LoggerFactory.getLogger(XlsxSource.class);
    /** The most digits before or behind the point that a number of a double has. */
    private static final int MAX_PLACES = 400;

    /** The names of the sheets of a file. */
    static List<String> sheets(Path file) throws IOException {
        try (ReadableWorkbook book = new ReadableWorkbook(file.toFile(), options(file))) {
            List<String> names = book.getSheets().map(Sheet::getName).toList();
            if (names.isEmpty()) {
                throw damaged();
            }
            return names;
        } catch (RuntimeException e) {
            throw problem(e);
        }
    }

    /** Without a table of styles, which the standard allows, every number is a plain one. */
    private static ReadingOptions options(Path file) throws IOException {
        try (ZipFile zip = new ZipFile(file.toFile())) {
            return new ReadingOptions(zip.getEntry("xl/styles.xml") != null, false);
        }
    }

    /** What the library throws where parts are missing or broken comes as many kinds of exceptions. */
    private static Problem problem(RuntimeException e) {
        if (e instanceof Problem problem) {
            return problem;
        }
        LOG.info("a spreadsheet could not be read", e);
        return damaged();
    }

    private static Problem damaged() {
        return Problem.unprocessable(
                "file-unreadable",
                "This spreadsheet is damaged: parts of it are missing or cannot be read. Open it, save it again as XLSX and send it anew.");
    }

    @Override
    public void each(Each each) throws IOException {
        // What goes wrong where the rows are taken is not the file's fault.
        RuntimeException[] ours = {null};
        try (ReadableWorkbook book = new ReadableWorkbook(file.toFile(), options(file))) {
            Sheet found = book.getSheets()
                    .filter(s -> s.getName().equals(sheet))
                    .findFirst()
                    .orElseThrow(XlsxSource::damaged);
            try (Stream<Row> rows = found.openStream()) {
                for (Iterator<Row> all = rows.iterator(); all.hasNext(); ) {
                    Row row = all.next();
                    List<String> cells = new ArrayList<>();
                    for (int i = 0; i < Math.min(row.getCellCount(), FileLimits.MAX_COLUMNS); i++) {
                        Cell cell = row.getCell(i);
                        cells.add(text(cell));
                        if (cell != null && cell.getType() == CellType.FORMULA && cell.getValue() == null) {
                            each.formulaWithoutValue(row.getRowNum(), i);
                        }
                    }
                    each.at(row.getRowNum());
                    FileLimits.require(row.getRowNum(), cells);
                    boolean blank = cells.stream().allMatch(String::isEmpty);
                    if (!blank && !given(each, row.getRowNum(), cells, ours)) {
                        return;
                    }
                }
            }
        } catch (RuntimeException e) {
            throw ours[0] == null ? problem(e) : ours[0];
        }
    }

    private static boolean given(Each each, long line, List<String> cells, RuntimeException[] ours) throws IOException {
        try {
            return each.row(line, cells);
        } catch (RuntimeException e) {
            ours[0] = e;
            throw e;
        }
    }

    private static String text(Cell cell) {
        if (cell == null || cell.getType() == CellType.ERROR) {
            return "";
        }
        // Of a formula too, this is what the file says it comes to.
        return switch (cell.getValue()) {
            case null -> "";
            case Boolean yes -> yes ? "yes" : "no";
            case BigDecimal number -> number(cell, number);
            case Object other -> other.toString();
        };
    }

    private static String number(Cell cell, BigDecimal number) {
        if (Math.abs((long) number.scale() - number.precision()) > MAX_PLACES) {
            // No cell shows so many zeros; whoever looks sees that it is no number for a table.
            return number.toString();
        }
        return isDate(cell.getDataFormatString())
                ? date(cell, number)
                : number.stripTrailingZeros().toPlainString();
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
