package deftlens.server.imports;

import deftlens.server.people.PeopleService;
import deftlens.server.platform.Problem;
import java.io.IOException;
import java.nio.charset.Charset;
import java.nio.charset.IllegalCharsetNameException;
import java.nio.charset.UnsupportedCharsetException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Looks at files that wait to be brought in: how they are to be read, and what their columns seem to hold. */
@Component
class FileLooks {

    private static final Logger LOG = LoggerFactory.getLogger(FileLooks.class);
    private static final int MOST_COLUMNS = 300;
    /** How many rows before the names are shown. */
    private static final int MOST_BEFORE = 5;
    /** How often others are told how far a reading is, in nanoseconds. */
    private static final long TOLD_EVERY = 400_000_000;
    /** Looks are kept for so many files; any of them can be taken again. */
    private static final int MOST_KEPT = 50;

    private static final List<String> ENCODINGS =
            List.of("UTF-8", "windows-1252", "ISO-8859-15", "windows-1250", "windows-1251", "UTF-16LE", "UTF-16BE");

    private final Uploads uploads;
    private final PeopleService people;
    /** The looks that were taken on this server. */
    private final Map<String, Map<FileReading, FileLook>> kept = new ConcurrentHashMap<>();

    FileLooks(Uploads uploads, PeopleService people) {
        this.uploads = uploads;
        this.people = people;
    }

    /**
     * How a file is to be read; what is absent is found out.
     *
     * @param delimiter the sign between the cells of a CSV file
     * @param namesAt the line of the row that names the columns; 0 for none
     */
    record FileReading(
            Optional<String> encoding, Optional<String> delimiter, Optional<String> sheet, Optional<Long> namesAt) {}

    /**
     * What a file holds.
     *
     * @param encodingSure whether the bytes leave no doubt
     * @param encodings the encodings that can be chosen
     * @param namesAt the line of the row that names the columns; 0 for none
     * @param before the rows before that one, which are left out
     * @param rows how many, those left out and the names not counted
     * @param preview the first rows
     */
    record FileLook(
            String token,
            String name,
            boolean spreadsheet,
            Optional<String> encoding,
            boolean encodingSure,
            List<String> encodings,
            Optional<String> delimiter,
            List<String> sheets,
            Optional<String> sheet,
            long namesAt,
            List<LeftOut> before,
            long rows,
            List<Columns.FileColumn> columns,
            List<List<String>> preview) {}

    /** A row that stands before the names, and is no record. */
    record LeftOut(long line, List<String> cells) {}

    /** Tells others now and then how far the reading of a file is, and hears from them whether it is wanted. */
    private final class Progress {
        private final Uploads.Upload upload;
        private final long of;
        private boolean wanted = true;
        private long toldAt;

        Progress(Uploads.Upload upload, long of) {
            this.upload = upload;
            this.of = of;
            uploads.beginLook(upload);
        }

        void at(long position) {
            long now = System.nanoTime();
            if (now - toldAt > TOLD_EVERY) {
                toldAt = now;
                wanted = uploads.looking(upload, Math.min(1, (double) position / of));
            }
        }

        void requireWanted() {
            if (!wanted) {
                throw Problem.unprocessable("stopped", "Reading the file was stopped. Nothing was written.");
            }
        }
    }

    /** Looks at a file, all of it, and says what its columns seem to hold. */
    FileLook look(Uploads.Upload upload, FileReading reading) {
        if (kept.size() >= MOST_KEPT && !kept.containsKey(upload.token())) {
            kept.clear();
        }
        Map<FileReading, FileLook> looks = kept.computeIfAbsent(upload.token(), t -> new ConcurrentHashMap<>());
        FileLook look = looks.computeIfAbsent(reading, r -> taken(upload, r));
        // Whoever asks again with what was found out is given the same, and nothing is read twice.
        looks.putIfAbsent(
                new FileReading(look.encoding(), look.delimiter(), look.sheet(), Optional.of(look.namesAt())), look);
        return look;
    }

    /** Forgets the looks at a file. */
    void forget(Uploads.Upload upload) {
        kept.remove(upload.token());
    }

    private FileLook taken(Uploads.Upload upload, FileReading reading) {
        try {
            Opened opened = open(upload, reading);
            long namesAt = reading.namesAt().isPresent()
                    ? reading.namesAt().get()
                    : NamesRow.in(opened.source()).orElse(0L);
            Columns columns = new Columns(namesAt, personNames());
            List<LeftOut> before = new ArrayList<>();
            Progress progress = new Progress(upload, Math.max(1, opened.source().size()));
            opened.source().each(new Tabular.Each() {
                @Override
                public boolean row(long line, List<String> cells) {
                    progress.requireWanted();
                    if (cells.size() > MOST_COLUMNS) {
                        throw Problem.unprocessable(
                                "too-many-columns", "A file may have at most " + MOST_COLUMNS + " columns.");
                    }
                    if (line < namesAt && before.size() < MOST_BEFORE) {
                        before.add(new LeftOut(line, cells));
                    }
                    columns.row(line, cells);
                    return true;
                }

                @Override
                public void formulaWithoutValue(long line, int column) {
                    columns.formula(line, column);
                }

                @Override
                public void at(long position) {
                    progress.at(position);
                }
            });
            if (columns.rows() == 0) {
                throw Problem.unprocessable(
                        "no-rows",
                        "“" + upload.name() + "” has no rows" + (namesAt > 1 ? " after line " + namesAt : "") + ".");
            }
            return new FileLook(
                    upload.token(),
                    upload.name(),
                    upload.spreadsheet(),
                    opened.encoding(),
                    opened.encodingSure(),
                    upload.spreadsheet() ? List.of() : ENCODINGS,
                    opened.delimiter(),
                    opened.sheets(),
                    opened.sheet(),
                    namesAt,
                    before,
                    columns.rows(),
                    columns.columns(),
                    columns.preview());
        } catch (IOException e) {
            throw unreadable(e);
        }
    }

    /** The rows of a file, as a look at it found that it is to be read. */
    Tabular rows(Uploads.Upload upload, FileLook look) throws IOException {
        return open(
                        upload,
                        new FileReading(look.encoding(), look.delimiter(), look.sheet(), Optional.of(look.namesAt())))
                .source();
    }

    private Set<String> personNames() {
        Set<String> names = new HashSet<>();
        people.everyone().forEach(p -> {
            names.add(p.name().toLowerCase(Locale.ROOT));
            names.add(p.fullName().toLowerCase(Locale.ROOT));
        });
        return names;
    }

    private record Opened(
            Tabular source,
            Optional<String> encoding,
            boolean encodingSure,
            Optional<String> delimiter,
            List<String> sheets,
            Optional<String> sheet) {}

    private Opened open(Uploads.Upload upload, FileReading reading) throws IOException {
        Path file = uploads.file(upload);
        if (upload.spreadsheet()) {
            List<String> sheets = XlsxSource.sheets(file);
            String sheet = reading.sheet().isPresent() ? reading.sheet().get() : firstFilled(file, sheets);
            if (!sheets.contains(sheet)) {
                throw Problem.unprocessable("no-sheet", "There is no sheet “" + sheet + "” in this file.");
            }
            return new Opened(
                    new XlsxSource(file, sheet, upload.highestRow()),
                    Optional.empty(),
                    true,
                    Optional.empty(),
                    sheets,
                    Optional.of(sheet));
        }
        CsvSource.Encoding encoding = reading.encoding().isPresent()
                ? new CsvSource.Encoding(charset(reading.encoding().get()), true)
                : CsvSource.encoding(file);
        char delimiter =
                reading.delimiter().map(FileLooks::delimiter).orElse(CsvSource.delimiter(file, encoding.charset()));
        return new Opened(
                new CsvSource(file, encoding.charset(), delimiter),
                Optional.of(encoding.charset().name()),
                encoding.sure(),
                Optional.of(String.valueOf(delimiter)),
                List.of(),
                Optional.empty());
    }

    /** The first sheet that has more than one row. */
    private static String firstFilled(Path file, List<String> sheets) throws IOException {
        for (String sheet : sheets) {
            int[] rows = {0};
            new XlsxSource(file, sheet, 0).each((line, cells) -> ++rows[0] < 2);
            if (rows[0] > 1) {
                return sheet;
            }
        }
        return sheets.get(0);
    }

    private static Charset charset(String name) {
        try {
            return Charset.forName(name);
        } catch (IllegalCharsetNameException | UnsupportedCharsetException e) {
            throw Problem.unprocessable("bad-encoding", "“" + name + "” is no encoding that is known here.");
        }
    }

    private static char delimiter(String given) {
        if (given.length() != 1 || given.charAt(0) == '"' || given.charAt(0) == '\n' || given.charAt(0) == '\r') {
            throw Problem.unprocessable("bad-delimiter", "The sign between cells is one character, such as a comma.");
        }
        return given.charAt(0);
    }

    static Problem unreadable(IOException e) {
        // What went wrong may name places on the server, which are nobody's business.
        LOG.info("a file could not be read: {}", e.toString());
        return Problem.unprocessable(
                "file-unreadable", "This file cannot be read as a table. Send CSV text or an XLSX spreadsheet.");
    }
}
