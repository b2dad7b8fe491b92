package deftlens.server.imports;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.lanes.Lane;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.PrivateDirectory;
import deftlens.server.platform.Problem;
import deftlens.server.platform.StoppedQuery;
import deftlens.server.platform.VisibleText;
import deftlens.server.question.Questions;
import deftlens.server.registers.FieldTypes;
import deftlens.server.registers.Keys;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.trail.Trail;
import deftlens.server.values.Notation;
import jakarta.persistence.EntityManager;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.Charset;
import java.nio.charset.IllegalCharsetNameException;
import java.nio.charset.UnsupportedCharsetException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.postgresql.PGConnection;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Qualifier;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Service;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.ObjectMapper;

/**
 * Brings files into registers: looks at them, makes registers for them, copies their rows in. A file comes in whole or not at
 * all; none is held in memory.
 */
@Service
class ImportService {

    private static final Logger LOG = LoggerFactory.getLogger(ImportService.class);
    private static final Duration KEPT = Duration.ofDays(1);
    private static final int TELL_EVERY = 2_000;
    private static final int MOST_COLUMNS = 300;
    /** How many rows before the names are shown. */
    private static final int MOST_BEFORE = 5;
    /** How long an import can be taken back. */
    private static final Duration WAY_BACK = Duration.ofDays(30);

    private static final List<String> ENCODINGS =
            List.of("UTF-8", "windows-1252", "ISO-8859-15", "windows-1250", "windows-1251", "UTF-16LE", "UTF-16BE");

    private final RegisterCatalogue registers;
    private final OrganisationService organisation;
    private final PeopleService people;
    private final ImportStore store;
    private final Trail trail;
    private final EntityManager entities;
    private final TransactionTemplate transactions;
    private final Clock clock;
    private final ObjectMapper json;
    private final PrivateDirectory directory;
    private final long mostBytes;
    private final Map<String, Upload> uploads = new ConcurrentHashMap<>();
    private final Map<Long, ImportRun> runs = new ConcurrentHashMap<>();
    private final ExecutorService workers = Executors.newVirtualThreadPerTaskExecutor();

    ImportService(
            RegisterCatalogue registers,
            OrganisationService organisation,
            PeopleService people,
            ImportStore store,
            Trail trail,
            EntityManager entities,
            PlatformTransactionManager transactions,
            Clock clock,
            ObjectMapper json,
            @Qualifier("uploads") PrivateDirectory directory,
            @Value("${deft.limits.file-bytes}") long mostBytes) {
        this.registers = registers;
        this.organisation = organisation;
        this.people = people;
        this.store = store;
        this.trail = trail;
        this.entities = entities;
        this.transactions = new TransactionTemplate(transactions);
        this.clock = clock;
        this.json = json;
        this.directory = directory;
        this.mostBytes = mostBytes;
    }

    /**
     * A file that was sent and waits to be brought in.
     *
     * @param highestRow the highest row of a spreadsheet
     */
    private record Upload(
            String token,
            String name,
            Path file,
            boolean spreadsheet,
            long highestRow,
            long person,
            Instant at,
            Map<FileReading, FileLook> looks,
            LookProgress progress) {}

    /** How far the reading of a file is, and whether anybody wants it any more. */
    private static final class LookProgress {
        private volatile long done;
        private volatile long of = 1;
        private volatile boolean stopped;

        void requireWanted() {
            if (stopped) {
                throw Problem.unprocessable("stopped", "Reading the file was stopped. Nothing was written.");
            }
        }
    }

    /**
     * How far the reading of a file is.
     *
     * @param share from 0 to 1
     */
    record FileProgress(double share) {}

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

    /**
     * Where the rows go.
     *
     * @param register the key of a register that is there; or else
     * @param label what the new register is called
     * @param mainField the label of its main date
     * @param titleField the label of the field that names a record to people
     * @param open whether everybody may see the new register at once; else only administrators and auditors do, until
     *     somebody says who may
     */
    record Into(
            Optional<String> register,
            Optional<String> label,
            Optional<String> recordLabel,
            Optional<String> mainField,
            Optional<String> titleField,
            Optional<Boolean> open) {}

    /**
     * Takes a file in, to be looked at and brought in within a day.
     *
     * @param wanted the token that the file is to have, a UUID, so that its sender can ask how far it is and stop it
     */
    FileLook receive(String name, Optional<String> wanted, InputStream content, SignedIn who) {
        requireAdministrator(who);
        String token = wanted.map(this::free).orElseGet(() -> UUID.randomUUID().toString());
        try {
            Path file = directory.create(token);
            try (InputStream in = content;
                    var out = Files.newOutputStream(file)) {
                byte[] buffer = new byte[1 << 16];
                long total = 0;
                for (int n = in.read(buffer); n >= 0; n = in.read(buffer)) {
                    total += n;
                    if (total > mostBytes) {
                        throw Problem.unprocessable(
                                "file-too-large",
                                "A file may have at most " + mostBytes / 1_000_000
                                        + " MB. Split it, or attach the table.");
                    }
                    out.write(buffer, 0, n);
                }
            } catch (IOException | RuntimeException e) {
                // Also where somebody went away in the middle.
                directory.delete(file);
                throw e;
            }
            boolean spreadsheet = isZip(file);
            uploads.put(
                    token,
                    new Upload(
                            token,
                            name,
                            file,
                            spreadsheet,
                            spreadsheet ? highestRow(file) : 0,
                            who.id(),
                            clock.instant(),
                            new ConcurrentHashMap<>(),
                            new LookProgress()));
            try {
                return look(
                        token,
                        new FileReading(Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty()),
                        who);
            } catch (RuntimeException e) {
                // Nobody is told how to ask for it again.
                uploads.remove(token);
                directory.delete(file);
                throw e;
            }
        } catch (IOException e) {
            throw unreadable(e);
        }
    }

    private String free(String wanted) {
        try {
            String token = UUID.fromString(wanted).toString();
            if (!uploads.containsKey(token)) {
                return token;
            }
        } catch (IllegalArgumentException e) {
            // Said below.
        }
        throw Problem.unprocessable("bad-token", "The token of a file is a UUID that no other file has.");
    }

    /** How far the reading of a file is. */
    FileProgress progress(String token, SignedIn who) {
        LookProgress progress = upload(token, who).progress();
        return new FileProgress(Math.min(1, (double) progress.done / progress.of));
    }

    /** Stops the reading of a file; how it was read before stays. */
    void stopLooking(String token, SignedIn who) {
        upload(token, who).progress().stopped = true;
    }

    /** Forgets a file; if it is being read, that stops. */
    void forget(String token, SignedIn who) {
        Upload upload = upload(token, who);
        upload.progress().stopped = true;
        uploads.remove(token);
        directory.delete(upload.file());
    }

    private long highestRow(Path file) throws IOException {
        try {
            return FileLimits.requireSpreadsheet(file);
        } catch (IOException | RuntimeException e) {
            directory.delete(file);
            throw e;
        }
    }

    private static boolean isZip(Path file) throws IOException {
        try (InputStream in = Files.newInputStream(file)) {
            byte[] head = in.readNBytes(4);
            return head.length == 4 && head[0] == 'P' && head[1] == 'K' && head[2] == 3 && head[3] == 4;
        }
    }

    /** Looks at a file, all of it, and says what its columns seem to hold. */
    FileLook look(String token, FileReading reading, SignedIn who) {
        Upload upload = upload(token, who);
        FileLook look = upload.looks().computeIfAbsent(reading, r -> look(upload, r));
        // Whoever asks again with what was found out is given the same, and nothing is read twice.
        upload.looks()
                .putIfAbsent(
                        new FileReading(look.encoding(), look.delimiter(), look.sheet(), Optional.of(look.namesAt())),
                        look);
        return look;
    }

    private FileLook look(Upload upload, FileReading reading) {
        try {
            Opened opened = open(upload, reading);
            long namesAt = reading.namesAt().isPresent()
                    ? reading.namesAt().get()
                    : NamesRow.in(opened.source()).orElse(0L);
            Columns columns = new Columns(namesAt, personNames());
            List<LeftOut> before = new ArrayList<>();
            upload.progress().stopped = false;
            upload.progress().of = Math.max(1, opened.source().size());
            opened.source().each(new Tabular.Each() {
                @Override
                public boolean row(long line, List<String> cells) {
                    upload.progress().requireWanted();
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
                    upload.progress().done = position;
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

    private static Opened open(Upload upload, FileReading reading) throws IOException {
        if (upload.spreadsheet()) {
            List<String> sheets = XlsxSource.sheets(upload.file());
            String sheet = reading.sheet().isPresent() ? reading.sheet().get() : firstFilled(upload.file(), sheets);
            if (!sheets.contains(sheet)) {
                throw Problem.unprocessable("no-sheet", "There is no sheet “" + sheet + "” in this file.");
            }
            return new Opened(
                    new XlsxSource(upload.file(), sheet, upload.highestRow()),
                    Optional.empty(),
                    true,
                    Optional.empty(),
                    sheets,
                    Optional.of(sheet));
        }
        CsvSource.Encoding encoding = reading.encoding().isPresent()
                ? new CsvSource.Encoding(charset(reading.encoding().get()), true)
                : CsvSource.encoding(upload.file());
        char delimiter = reading.delimiter()
                .map(ImportService::delimiter)
                .orElse(CsvSource.delimiter(upload.file(), encoding.charset()));
        return new Opened(
                new CsvSource(upload.file(), encoding.charset(), delimiter),
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

    private static Problem unreadable(IOException e) {
        // What went wrong may name places on the server, which are nobody's business.
        LOG.info("a file could not be read: {}", e.toString());
        return Problem.unprocessable(
                "file-unreadable", "This file cannot be read as a table. Send CSV text or an XLSX spreadsheet.");
    }

    /** Begins to bring a file in; how it goes is told by {@link #shown}. */
    ImportRun.ShownRun start(
            String token, FileReading reading, Into into, ImportPlan plan, Optional<String> keepAs, SignedIn who) {
        Upload upload = upload(token, who);
        FileLook look = look(token, reading, who);
        Target target = target(into, plan, look, who);
        ImportRun run = begin(upload.name(), look.rows(), Optional.empty(), who);
        workers.submit(() -> Lane.BACKGROUND.run(() -> {
            work(run, () -> bringIn(run, upload, look, target, plan, into.open().orElse(false), who));
            if (run.shown().state() == ImportRun.State.DONE) {
                uploads.remove(token);
                directory.delete(upload.file());
                if (keepAs.filter(n -> !n.isBlank()).isPresent()) {
                    keep(target.key(), keepAs.get(), plan, who);
                }
            }
            return null;
        }));
        return run.shown();
    }

    private ImportRun begin(String fileName, long expected, Optional<Long> backOf, SignedIn who) {
        long id = store.begin(fileName, backOf, who, clock.instant());
        ImportRun run =
                new ImportRun(id, people.profile(who.id()).fullName(), fileName, expected, backOf, clock.instant());
        runs.put(id, run);
        return run;
    }

    /** Where rows go: into a register that is there, or one that is made for them. */
    private record Target(Optional<RegisterDefinition> fresh, String key) {}

    private Target target(Into into, ImportPlan plan, FileLook look, SignedIn who) {
        if (plan.columns().isEmpty()) {
            throw Problem.unprocessable("nothing-taken", "Take at least one column.");
        }
        columns(plan, look);
        if (into.register().isPresent()) {
            RegisterForReader described = registers.get(into.register().get(), who);
            if (!described.isOwn()) {
                throw Problem.unprocessable(
                        "not-ours", described.register().label() + " are only read here; no file can be imported.");
            }
            conversions(described, plan, look, organisation.zone());
            return new Target(Optional.empty(), described.register().key());
        }
        RegisterDefinition definition = definition(into, plan, look);
        return new Target(Optional.of(definition), definition.key());
    }

    /** The file's columns that a plan takes, in the order of the plan. Columns of one name are told apart by their place. */
    private static List<Columns.FileColumn> columns(ImportPlan plan, FileLook look) {
        List<Columns.FileColumn> left = new ArrayList<>(look.columns());
        List<Optional<Columns.FileColumn>> found = new ArrayList<>();
        // Those whose place is known first, so that none of them goes to another of the name.
        for (ImportPlan.Taken taken : plan.columns()) {
            Optional<Columns.FileColumn> column = left.stream()
                    .filter(c -> c.name().equals(taken.name())
                            && taken.place().filter(p -> p == c.index()).isPresent())
                    .findFirst();
            column.ifPresent(left::remove);
            found.add(column);
        }
        List<Columns.FileColumn> columns = new ArrayList<>();
        for (int i = 0; i < found.size(); i++) {
            String name = plan.columns().get(i).name();
            Columns.FileColumn column = found.get(i)
                    .or(() -> left.stream().filter(c -> c.name().equals(name)).findFirst())
                    .orElseThrow(() -> Problem.unprocessable(
                            "column-missing",
                            "The file has no column “" + name
                                    + "” (any more than are taken). Leave it out, or choose another."));
            left.remove(column);
            columns.add(column);
        }
        return columns;
    }

    private RegisterDefinition definition(Into into, ImportPlan plan, FileLook look) {
        String label = into.label()
                .map(String::strip)
                .filter(VisibleText::isVisible)
                .orElseThrow(() -> Problem.unprocessable("no-name", "Give the new register a name.")
                        .at("label"));
        List<Columns.FileColumn> columns = columns(plan, look);
        List<String> keys =
                Keys.of(plan.columns().stream().map(ImportPlan.Taken::label).toList());
        List<FieldDefinition> fields = new ArrayList<>();
        Optional<String> main = Optional.empty();
        String title = keys.get(0);
        Set<String> labels = new HashSet<>();
        for (int i = 0; i < keys.size(); i++) {
            ImportPlan.Taken taken = plan.columns().get(i);
            if (!labels.add(taken.label().strip().toLowerCase(Locale.ROOT)) || !VisibleText.isVisible(taken.label())) {
                throw Problem.unprocessable(
                        "name-twice", "Each field needs a name of its own; “" + taken.label() + "” stands twice.");
            }
            FieldType type = FieldTypes.named(taken.type());
            Columns.FileColumn column = columns.get(i);
            boolean isMain = into.mainField().filter(taken.label()::equals).isPresent();
            if (isMain && !type.isTemporal()) {
                throw Problem.unprocessable("bad-main-field", "The main date must be a date or a date and time.");
            }
            // What has a value in every row, and is walked along or names the record, is to have one always.
            boolean full = column.filled() == column.rows() && taken.unfit() == ImportPlan.Unfit.REFUSE;
            FieldDefinition field = new FieldDefinition(
                    keys.get(i),
                    taken.label().strip(),
                    type,
                    full && (isMain || taken.identifying()) || type == FieldType.TAGS,
                    taken.shown(),
                    type == FieldType.CHOICE ? column.known() : List.of());
            // Nobody but an administrator corrects anything of it until it is said who does.
            fields.add(taken.identifying() ? field.identifying() : field);
            if (isMain) {
                main = Optional.of(keys.get(i));
            }
            if (into.titleField().filter(taken.label()::equals).isPresent()) {
                title = keys.get(i);
            }
        }
        return new RegisterDefinition(
                registers.freeKey(label),
                label,
                into.recordLabel().map(String::strip).filter(l -> !l.isEmpty()).orElse("record"),
                "Imported from " + look.name() + ".",
                main,
                title,
                true,
                fields);
    }

    private List<Conversion> conversions(RegisterForReader described, ImportPlan plan, FileLook look, ZoneId zone) {
        List<Columns.FileColumn> taking = columns(plan, look);
        ZoneId own = plan.zone().map(Questions::zone).orElse(zone);
        Map<String, Field> columns =
                RecordTables.columns(described).stream().collect(Collectors.toMap(Field::key, f -> f));
        List<String> keys =
                Keys.of(plan.columns().stream().map(ImportPlan.Taken::label).toList());
        List<Conversion> conversions = new ArrayList<>();
        Set<Field> given = new HashSet<>();
        for (int i = 0; i < plan.columns().size(); i++) {
            ImportPlan.Taken taken = plan.columns().get(i);
            Field field = columns.get(taken.field().orElse(keys.get(i)));
            if (field == null) {
                throw Problem.unprocessable(
                        "unknown-field",
                        described.register().label() + " have no field for the column “" + taken.name() + "”.");
            }
            if (!given.add(field)) {
                throw Problem.unprocessable("field-twice", "Two columns go into " + field.label() + "; leave one out.");
            }
            conversions.add(new Conversion(
                    field,
                    taking.get(i).index(),
                    new Notation(taken.order(), taken.decimal(), taken.unit(), own),
                    taken.unfit()));
        }
        for (Field field : columns.values()) {
            boolean updates = plan.known() == ImportPlan.Known.UPDATE;
            if (field.required() && field.type() != FieldType.TAGS && !given.contains(field) && !updates) {
                throw Problem.unprocessable(
                        "field-missing", field.label() + " is needed in every record; choose its column.");
            }
        }
        for (String key : plan.by()) {
            if (given.stream().noneMatch(f -> f.key().equals(key))) {
                throw Problem.unprocessable("bad-key", "Records are told apart by a field that the file gives.");
            }
        }
        if (plan.by().isEmpty() && plan.recognises()) {
            throw Problem.unprocessable("no-key", "Choose the fields that tell records apart.");
        }
        return conversions;
    }

    private void bringIn(
            ImportRun run, Upload upload, FileLook look, Target target, ImportPlan plan, boolean open, SignedIn who) {
        if (target.fresh().isPresent()) {
            RegisterForReader made = registers.add(target.fresh().get(), new RegisterCatalogue.Filling() {
                @Override
                public void fill(RegisterForReader described, Connection connection) throws SQLException {
                    ImportService.this.fill(run, upload, look, described, plan, Optional.empty(), connection);
                }

                @Override
                public void indexing(int done, int of) {
                    run.share(done, of);
                }
            });
            if (!open) {
                registers.closeToMembers(made);
            }
            run.into(made.register().key(), true);
        } else {
            RegisterForReader described = registers.get(target.key(), who);
            run.into(target.key(), false);
            entities.unwrap(Session.class).doWork(connection -> {
                WayBack back = new WayBack(connection, described.table().name(), run.id);
                fill(run, upload, look, described, plan, Optional.of(back), connection);
            });
        }
        RegisterForReader described = registers.whole(target.key()).orElseThrow();
        trail.write(Optional.of(who.id()), "register", described.id(), "imported", null, summary(run.shown()));
    }

    /** Does what a run is for, in one transaction, and notes how it ended. */
    private void work(ImportRun run, Runnable writing) {
        try {
            transactions.executeWithoutResult(status -> writing.run());
            run.end(ImportRun.State.DONE, "", clock.instant());
        } catch (Loading.Refused e) {
            run.count(0, 0, 0);
            run.end(ImportRun.State.REFUSED, "", clock.instant());
        } catch (RuntimeException e) {
            run.count(0, 0, 0);
            if (run.isCancelled() || StoppedQuery.isBehind(e)) {
                run.end(ImportRun.State.CANCELLED, "It was stopped; nothing was written.", clock.instant());
            } else if (e instanceof Problem problem) {
                run.end(ImportRun.State.FAILED, problem.getMessage(), clock.instant());
            } else if (isMissing(e)) {
                run.end(
                        ImportRun.State.FAILED,
                        "Some rows are new, and the file lacks a field that every record needs. Nothing was written.",
                        clock.instant());
            } else {
                LOG.error("an import failed", e);
                run.end(
                        ImportRun.State.FAILED,
                        "It failed, and nothing was written. The log says why.",
                        clock.instant());
            }
        }
        ImportRun.ShownRun ended = run.shown();
        if (ended.madeRegister() && ended.state() != ImportRun.State.DONE) {
            run.into(null, false);
        }
        store.end(run.shown(), run.mark(), json.writeValueAsString(run.shown().refusals()));
        runs.remove(run.id);
    }

    /** Whether a value was missing that the table needs (SQLSTATE 23502). */
    private static boolean isMissing(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql && "23502".equals(sql.getSQLState())) {
                return true;
            }
        }
        return false;
    }

    private void fill(
            ImportRun run,
            Upload upload,
            FileLook look,
            RegisterForReader described,
            ImportPlan plan,
            Optional<WayBack> back,
            Connection connection)
            throws SQLException {
        List<Conversion> conversions = conversions(described, plan, look, organisation.zone());
        try {
            Tabular source = open(
                            upload,
                            new FileReading(
                                    look.encoding(), look.delimiter(), look.sheet(), Optional.of(look.namesAt())))
                    .source();
            new Loading(
                            run,
                            source,
                            look.namesAt(),
                            look.columns().size(),
                            described.table().name(),
                            plan,
                            conversions,
                            back,
                            connection)
                    .load();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static Map<String, Object> summary(ImportRun.ShownRun shown) {
        return Map.of(
                "file", shown.fileName(),
                "rows", shown.read(),
                "added", shown.added(),
                "updated", shown.updated(),
                "skipped", shown.skipped());
    }

    /** Says of the runs of this server that they go on, so that those of one that is gone are known. */
    @Scheduled(fixedDelay = 5_000)
    void beat() {
        List<Long> going = runs.values().stream()
                .filter(r -> r.shown().state() == ImportRun.State.RUNNING)
                .map(r -> r.id)
                .toList();
        if (!going.isEmpty()) {
            store.beat(going);
        }
    }

    /** How a run goes, or went. */
    ImportRun.ShownRun shown(long id, SignedIn who) {
        requireAdministrator(who);
        ImportRun run = runs.get(id);
        return run != null && run.shown().state() == ImportRun.State.RUNNING ? run.shown() : ended(id);
    }

    private ImportRun.ShownRun ended(long id) {
        return store.find(id, keptSince()).orElseThrow(() -> Problem.notFound("This import"));
    }

    private Instant keptSince() {
        return clock.instant().minus(WAY_BACK);
    }

    /** What taking an import back would do now. */
    WayBack.Extent extent(long id, SignedIn who) {
        requireAdministrator(who);
        ImportRun.ShownRun run = wayBackOf(id);
        RegisterForReader described = registers.get(run.register().orElseThrow(), who);
        WayBack.Mark mark = store.mark(id).orElseThrow();
        return transactions.execute(status -> entities.unwrap(Session.class)
                .doReturningWork(
                        connection -> new WayBack(connection, described.table().name(), id)
                                .extent(mark, run.added(), run.updated())));
    }

    /** Begins to take an import back; that is a run of its own. */
    ImportRun.ShownRun takeBack(long id, SignedIn who) {
        requireAdministrator(who);
        ImportRun.ShownRun done = wayBackOf(id);
        RegisterForReader described = registers.get(done.register().orElseThrow(), who);
        WayBack.Mark mark = store.mark(id).orElseThrow();
        ImportRun run = begin(done.fileName(), done.added() + done.updated(), Optional.of(id), who);
        workers.submit(() -> Lane.BACKGROUND.run(() -> {
            work(run, () -> takeBack(run, done, mark, described, who));
            return null;
        }));
        return run.shown();
    }

    private void takeBack(
            ImportRun run, ImportRun.ShownRun done, WayBack.Mark mark, RegisterForReader described, SignedIn who) {
        run.phase("taking back");
        run.into(described.register().key(), false);
        entities.unwrap(Session.class).doWork(connection -> {
            run.working(connection.unwrap(PGConnection.class));
            new WayBack(connection, described.table().name(), done.id())
                    .takeBack(
                            mark,
                            RecordTables.columns(described).stream()
                                    .map(Field::column)
                                    .toList());
        });
        trail.write(Optional.of(who.id()), "register", described.id(), "import taken back", summary(done), null);
    }

    private ImportRun.ShownRun wayBackOf(long id) {
        ImportRun.ShownRun run = ended(id);
        if (!run.hasWayBack()) {
            throw Problem.unprocessable(
                    "no-way-back",
                    "“" + run.fileName() + "” cannot be taken back: it was taken back already, it is older than "
                            + WAY_BACK.toDays()
                            + " days, the type of a field was changed after it, or it made its register."
                            + " Delete the register instead, if it is not needed.");
        }
        return run;
    }

    /** Stops a run; nothing of it is written. */
    void cancel(long id, SignedIn who) {
        requireAdministrator(who);
        ImportRun run = runs.get(id);
        if (run != null) {
            try {
                run.cancel();
            } catch (SQLException e) {
                LOG.warn("an import could not be stopped at once", e);
            }
        }
    }

    /** The latest runs, of one register or of all. */
    List<ImportRun.ShownRun> latest(Optional<String> register, SignedIn who) {
        requireAdministrator(who);
        return store.latest(register, keptSince());
    }

    /** A plan that was kept with a name. */
    record KeptPlan(String name, ImportPlan plan) {}

    /** Keeps a plan, so that the next file of this kind comes in the same way. */
    void keep(String register, String name, ImportPlan plan, SignedIn who) {
        requireAdministrator(who);
        if (!VisibleText.isVisible(name) || name.length() > 120) {
            throw Problem.unprocessable("no-name", "Give the plan a name of at most 120 characters.")
                    .at("keepAs");
        }
        store.keep(
                registers.get(register, who).id(), name.strip(), json.writeValueAsString(plan), who, clock.instant());
    }

    /** The plans kept for a register. */
    List<KeptPlan> plans(String register, SignedIn who) {
        requireAdministrator(who);
        return store.plans(registers.get(register, who).id()).stream()
                .map(p -> new KeptPlan(p.name(), json.readValue(p.plan(), ImportPlan.class)))
                .toList();
    }

    private Upload upload(String token, SignedIn who) {
        requireAdministrator(who);
        return Optional.ofNullable(uploads.get(token))
                .filter(u -> u.person() == who.id() && Files.exists(u.file()))
                .orElseThrow(() -> Problem.notFound("This file (files are kept for a day)"));
    }

    /** Takes out what waited too long, and what a server that is gone was at. */
    @Scheduled(fixedDelay = 60_000, initialDelay = 60_000)
    void forgetOld() {
        uploads.values().removeIf(u -> u.at().isBefore(clock.instant().minus(KEPT)));
        directory.deleteBut(uploads.values().stream().map(Upload::file).collect(Collectors.toSet()));
        store.endAbandoned();
        store.forgetBefore(keptSince());
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator imports records.");
        }
    }
}
