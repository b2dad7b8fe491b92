package deftlens.server.imports;

import deftlens.server.platform.Problem;
import java.io.IOException;
import java.io.InputStream;
import java.io.Reader;
import java.nio.file.Path;
import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.zip.ZipEntry;
import java.util.zip.ZipException;
import java.util.zip.ZipFile;

/**
 * How large the parts of a file may be, found out while it is read and before anything of it is held: a few bytes of a
 * compressed file can stand for more than there is memory.
 */
final class FileLimits {

    /** The most characters of one cell. A spreadsheet's own limit is 32,767. */
    static final int MAX_CELL = 100_000;

    /** The most characters of one row. */
    static final int MAX_ROW = 2_000_000;

    /** The most columns that are looked at. */
    static final int MAX_COLUMNS = 2_000;

    /** The most bytes of a spreadsheet's table of texts, which is held while the sheet is read. */
    private static final long MAX_TEXTS = 100_000_000;

    /** The most bytes of a spreadsheet when it is unpacked. */
    private static final long MAX_UNPACKED = 4_000_000_000L;

    /** The most bytes without a beginning tag: a cell's text with each of its characters spelled as a reference. */
    private static final int MAX_RUN = MAX_CELL * 10;

    /** Columns beyond the third letter, and rows beyond the seventh digit, are in no spreadsheet. */
    private static final int MAX_LETTERS = 3;

    private static final int MAX_DIGITS = 7;
    private static final String TEXTS = "sharedstrings.xml";
    private static final String SHEETS = "xl/worksheets/";

    private FileLimits() {}

    /** Refuses a row with too much in it. */
    static void require(long line, List<String> cells) {
        long total = 0;
        for (int i = 0; i < cells.size(); i++) {
            if (cells.get(i).length() > MAX_CELL) {
                throw tooLarge("Row " + line + ", column " + (i + 1) + ": a cell has more than " + words(MAX_CELL)
                                + " characters. Shorten it, or leave the column out.")
                        .with("line", line)
                        .with("column", i + 1);
            }
            total += cells.get(i).length();
        }
        if (total > MAX_ROW) {
            throw tooLarge("Row " + line + " has more than " + words(MAX_ROW) + " characters.")
                    .with("line", line);
        }
    }

    private static Problem tooLarge(String sentence) {
        return Problem.unprocessable("file-limits", sentence);
    }

    private static String words(long number) {
        return String.format(Locale.ROOT, "%,d", number);
    }

    /** A text whose rows are bounded: whoever reads it says at each row where it is. */
    static final class BoundedRows extends Reader {
        private final Reader text;
        private long read;
        private long rowAt;
        private long line = 1;

        BoundedRows(Reader text) {
            this.text = text;
        }

        /** A row was read whole; the next one begins on this line. */
        void next(long atLine) {
            line = atLine;
            rowAt = read;
        }

        @Override
        public int read(char[] buffer, int offset, int length) throws IOException {
            if (read - rowAt > MAX_ROW) {
                throw tooLarge("Row " + line + " has more than " + words(MAX_ROW)
                                + " characters. A quote that is never closed, or another delimiter, may be why.")
                        .with("line", line);
            }
            int n = text.read(buffer, offset, length);
            read += Math.max(n, 0);
            return n;
        }

        @Override
        public void close() throws IOException {
            text.close();
        }
    }

    /**
     * Looks through a spreadsheet once, as bytes.
     *
     * @return the highest row that any of its sheets names
     * @throws Problem where something in it is larger than it may be, or the file is no spreadsheet
     */
    static long requireSpreadsheet(Path file) throws IOException {
        long rows = 0;
        try (ZipFile zip = new ZipFile(file.toFile())) {
            boolean book = false;
            long unpacked = 0;
            for (ZipEntry entry : Collections.list(zip.entries())) {
                String name = entry.getName().toLowerCase(Locale.ROOT);
                book |= name.equals("xl/workbook.xml");
                if (!entry.isDirectory() && (name.endsWith(".xml") || name.endsWith(".rels"))) {
                    try (InputStream in = zip.getInputStream(entry)) {
                        Scan scan =
                                new Scan(entry.getName(), name.endsWith(TEXTS) ? MAX_TEXTS : MAX_UNPACKED - unpacked);
                        unpacked += scan.through(in);
                        rows = name.startsWith(SHEETS) ? Math.max(rows, scan.highest) : rows;
                    }
                }
            }
            if (!book) {
                throw Problem.unprocessable(
                        "file-unreadable",
                        "This is a ZIP file and no XLSX spreadsheet: it has no workbook in it. Send CSV text or an XLSX spreadsheet.");
            }
            return rows;
        } catch (ZipException e) {
            throw Problem.unprocessable(
                    "file-unreadable",
                    "This spreadsheet is damaged: what it is packed in cannot be read. Save it again and send it anew.");
        }
    }

    /** One XML part, byte by byte; UTF-8, as the standard's files are. */
    private static final class Scan {
        private static final byte[] DOCTYPE = "<!DOCTYPE".getBytes(java.nio.charset.StandardCharsets.US_ASCII);

        private final String part;
        private final long most;
        private long total;
        private long run;
        private long row;
        private long highest;
        private int doctype;
        private int letters = -1;
        private int digits;
        private int before;

        Scan(String part, long most) {
            this.part = part;
            this.most = most;
        }

        long through(InputStream in) throws IOException {
            byte[] buffer = new byte[1 << 16];
            for (int n = in.read(buffer); n >= 0; n = in.read(buffer)) {
                total += n;
                if (total > most) {
                    throw tooLarge("Unpacked, the spreadsheet's " + part + " is larger than " + words(most / 1_000_000)
                            + " MB. Split the spreadsheet, or save it as CSV.");
                }
                for (int i = 0; i < n; i++) {
                    next(buffer[i]);
                }
            }
            return total;
        }

        private void next(byte b) {
            if (b == '<') {
                run = 0;
                doctype = 1;
                letters = -1;
            } else {
                if (++run > MAX_RUN) {
                    throw tooLarge("A cell of the spreadsheet, in " + part + place() + ", has more than "
                            + words(MAX_CELL) + " characters. Shorten it, or leave the column out.");
                }
                if (doctype > 0 && doctype < DOCTYPE.length) {
                    doctype = b == DOCTYPE[doctype] ? doctype + 1 : 0;
                    if (doctype == DOCTYPE.length) {
                        throw Problem.unprocessable(
                                "file-unreadable",
                                "This spreadsheet holds a document type declaration, which none does. Save it again as XLSX and send it anew.");
                    }
                }
                cell(b);
            }
            before = b;
        }

        /** Follows the reference of a cell or row: {@code r="AB12"}. */
        private void cell(byte b) {
            if (letters == -1) {
                letters = b == '=' && before == 'r' ? -2 : -1;
            } else if (letters == -2) {
                letters = b == '"' || b == '\'' ? 0 : -1;
                digits = 0;
                row = 0;
            } else if (b >= 'A' && b <= 'Z') {
                letters++;
            } else if (b >= '0' && b <= '9') {
                digits++;
                row = Math.min(row * 10 + b - '0', Integer.MAX_VALUE);
            } else {
                if (letters >= 0 && digits > 0) {
                    highest = Math.max(highest, row);
                }
                letters = -1;
            }
            if (letters > MAX_LETTERS || letters >= 0 && digits > MAX_DIGITS) {
                throw tooLarge("The spreadsheet names a cell, in " + part + place()
                        + ", that is beyond what a sheet can hold. Save it again as XLSX and send it anew.");
            }
        }

        private String place() {
            return row > 0 ? " at row " + row : "";
        }
    }
}
