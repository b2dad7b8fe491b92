package deftlens.server.imports;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Sql;
import deftlens.core.time.LocalTimes;
import deftlens.server.lanes.Lane;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.FieldTypes;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.DateText;
import deftlens.server.values.DurationUnit;
import deftlens.server.values.Notation;
import deftlens.server.values.NumberText;
import deftlens.server.values.Unfitting;
import deftlens.server.values.ValueType;
import jakarta.persistence.EntityManager;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.PositiveOrZero;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.hibernate.Session;
import org.hibernate.jdbc.ReturningWork;
import org.postgresql.PGConnection;
import org.postgresql.copy.PGCopyOutputStream;
import org.springframework.stereotype.Service;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Gives a field another type. Each of its values is written as text and read again, by the rules for the cells of a file; dates and
 * times become one another directly, in the organisation's zone. Each different value is read once, however many records have it.
 */
@Service
class TypeChangeService {

    private static final int FETCH = 10_000;
    private static final int MOST_SHOWN = 8;

    private final RegisterCatalogue registers;
    private final FieldTypes types;
    private final OrganisationService organisation;
    private final ImportStore imports;
    private final EntityManager entities;
    private final TransactionTemplate transactions;

    TypeChangeService(
            RegisterCatalogue registers,
            FieldTypes types,
            OrganisationService organisation,
            ImportStore imports,
            EntityManager entities,
            TransactionTemplate transactions) {
        this.registers = registers;
        this.types = types;
        this.organisation = organisation;
        this.imports = imports;
        this.entities = entities;
        this.transactions = transactions;
    }

    /**
     * The type that is wanted, and how texts are to be read as it.
     *
     * @param type the type in the words of the API
     * @param order which of two short numbers of a date is the day; absent: found from the values
     * @param decimal which sign comes before decimals; absent: found from the values
     * @param unit what a number alone means as a duration; absent: nothing, so that it does not read
     */
    record TypeWanted(
            @NotNull String type,
            Optional<DateText.Order> order,
            Optional<NumberText.Decimal> decimal,
            Optional<DurationUnit> unit) {}

    /**
     * One value and what becomes of it.
     *
     * @param was the value as text
     * @param becomes the value in the new type, in the form of a record's values; absent where it does not read
     * @param reason why it does not read, as a sentence; empty where it does
     * @param records how many records have it
     */
    record ReadValue(String was, Optional<Object> becomes, String reason, long records) {}

    /**
     * What a change of type does to the values.
     *
     * @param values how many records have a value
     * @param unread how many of them have one that does not read as the new type; they would be without one
     * @param different how many different values there are
     * @param read some values that read, the most frequent first
     * @param odd some values that do not, the most frequent first
     * @param order how dates were read, where that matters
     * @param decimal how numbers were read, where that matters
     * @param unit what numbers alone were taken for, where durations are to be made of them
     * @param ask whether the values do not say which, so that a person has to
     * @param needed what has to be done first, each in a sentence; none when the type can be changed
     * @param follows what else becomes otherwise, each in a sentence
     */
    record TypePreview(
            long values,
            long unread,
            long different,
            List<ReadValue> read,
            List<ReadValue> odd,
            Optional<DateText.Order> order,
            Optional<NumberText.Decimal> decimal,
            Optional<DurationUnit> unit,
            boolean ask,
            List<String> needed,
            List<String> follows) {}

    /** What a change of type would do; nothing is changed. */
    TypePreview preview(String key, String field, TypeWanted wanted, SignedIn who) {
        requireAdministrator(who);
        FieldType type = FieldTypes.named(wanted.type());
        List<String> needed = new ArrayList<>(types.needed(key, field, type));
        List<String> follows = new ArrayList<>(types.follows(key, field, type));
        RegisterForReader whole = registers.whole(key).orElseThrow();
        Task task = task(whole, field, type, wanted.unit());
        Guessed guessed = new Guessed();
        // All values are gone through, which may take a while: not on the connections of pages.
        Counts counts = Lane.BACKGROUND.run(() -> transactions.execute(status -> work(connection -> {
            guessed.from(connection, task, wanted);
            return task.reading(guessed).through(connection, value -> {});
        })));
        if (counts.options.size() > FieldTypes.MOST_OPTIONS) {
            needed.add("It has " + many(counts.different) + " different values; a choice has at most "
                    + FieldTypes.MOST_OPTIONS + ". Make it a text instead.");
        }
        boolean unitless = task.needsUnit();
        if (isLost(counts) && !unitless) {
            needed.add(noneReads(type) + " Choose another type, or add a field of this one instead.");
        }
        if (task.was.required() && counts.unread > 0) {
            follows.add("Every record has a value of it today; from then on a record may be without one.");
        }
        if (imports.isRemembered(whole.id())) {
            follows.add("Files that were brought in before can no longer be taken back.");
        }
        return new TypePreview(
                counts.values,
                counts.unread,
                counts.different,
                counts.read,
                counts.odd,
                guessed.order,
                guessed.decimal,
                task.unit,
                guessed.ask || unitless,
                needed,
                follows);
    }

    /**
     * A change of type that somebody looked at before.
     *
     * @param unread how many records may be without a value afterwards, as the preview said; when more would, nothing is changed
     * @param version of the register that was looked at
     */
    record TypeChange(
            @NotNull @Valid TypeWanted wanted,
            @PositiveOrZero long unread,
            int version) {}

    /**
     * Changes the type of a field. Until it is done nobody writes records of the register; they are read as they were.
     *
     * @return what the former values are called, among the removed fields
     */
    String change(String key, String field, TypeChange change, SignedIn who) {
        requireAdministrator(who);
        FieldType type = FieldTypes.named(change.wanted().type());
        // The column comes first and by itself: adding it keeps readers out for a moment, filling it does not.
        String column = types.prepare(key, field, type, change.version(), who);
        try {
            return Lane.BACKGROUND.run(
                    () -> transactions.execute(status -> fill(key, field, type, column, change, who)));
        } catch (RuntimeException e) {
            abandon(key, column, e);
            throw e;
        }
    }

    private String fill(String key, String field, FieldType type, String column, TypeChange change, SignedIn who) {
        RegisterForReader whole = registers.whole(key).orElseThrow();
        types.holdWriters(whole);
        Task task = task(whole, field, type, change.wanted().unit());
        Filling filling = new Filling(task, column);
        Counts counts = work(connection -> {
            Guessed guessed = new Guessed();
            guessed.from(connection, task, change.wanted());
            return filling.read(connection, task.reading(guessed));
        });
        requireAgreed(counts, type, change);
        work(filling::write);
        imports.forget(whole.id());
        return types.settle(
                key,
                field,
                type,
                column,
                type == FieldType.CHOICE ? List.copyOf(counts.options) : List.of(),
                counts.values - counts.unread == counts.records,
                change.version(),
                who);
    }

    /** Refuses, before anything is written, what nobody agreed to. */
    private static void requireAgreed(Counts counts, FieldType type, TypeChange change) {
        if (counts.unread > change.unread()) {
            throw Problem.unprocessable(
                    "more-unread",
                    many(counts.unread) + " records have a value that does not read as " + type.words() + ", not "
                            + many(change.unread()) + ". Nothing was changed; look at it once more.");
        }
        if (counts.options.size() > FieldTypes.MOST_OPTIONS) {
            throw Problem.unprocessable(
                    "too-many-options", "A choice has at most " + FieldTypes.MOST_OPTIONS + " values.");
        }
        if (isLost(counts)) {
            throw Problem.unprocessable("none-reads", noneReads(type) + " Nothing was changed.");
        }
    }

    /** Takes the column away that is not needed; why the change failed is not lost where that fails too. */
    private void abandon(String key, String column, RuntimeException why) {
        try {
            types.abandon(key, column);
        } catch (RuntimeException e) {
            why.addSuppressed(e);
        }
    }

    private <T> T work(ReturningWork<T> work) {
        return entities.unwrap(Session.class).doReturningWork(work);
    }

    private Task task(RegisterForReader whole, String field, FieldType type, Optional<DurationUnit> unit) {
        Field wanted = types.as(whole, field, type);
        return new Task(
                whole.table().name(),
                RecordTables.past(whole),
                whole.register().field(field).orElseThrow(),
                // The values that a choice is to have are those that are found.
                wanted.withOptions(type == FieldType.PERSON ? wanted.options() : List.of()),
                unit,
                organisation.zone());
    }

    /** A field as it is and as it is to be. */
    private record Task(String table, String past, Field was, Field becomes, Optional<DurationUnit> unit, ZoneId zone) {

        ValueReading reading(Guessed guessed) {
            return new ValueReading(
                    this,
                    new Conversion(
                            becomes,
                            0,
                            new Notation(guessed.order, guessed.decimal, unit, zone),
                            ImportPlan.Unfit.REFUSE));
        }

        /** Whether numbers are to become durations, and nobody said of what unit. */
        boolean needsUnit() {
            return was.type().countsAs(FieldType.NUMBER) && becomes.type() == FieldType.DURATION && unit.isEmpty();
        }

        String column() {
            return Sql.identifier(was.column());
        }

        /** What holds for the records that have a value. */
        String filled() {
            return ValueType.of(was).isFilled(column());
        }
    }

    /** How texts are read, where a person did not say. */
    private static final class Guessed {
        private Optional<DateText.Order> order = Optional.empty();
        private Optional<NumberText.Decimal> decimal = Optional.empty();
        private boolean ask;

        void from(Connection connection, Task task, TypeWanted wanted) throws SQLException {
            boolean texts = task.was.type() == FieldType.TEXT || task.was.type().isListed();
            boolean dates = texts && task.becomes.type().isTemporal();
            boolean numbers = texts && task.becomes.type().isNumeric();
            if (!dates && !numbers) {
                return;
            }
            order = dates ? wanted.order() : Optional.empty();
            decimal = numbers ? wanted.decimal() : Optional.empty();
            if (order.isPresent() || decimal.isPresent()) {
                return;
            }
            Columns columns = new Columns(0, Set.of());
            long[] line = {0};
            each(connection, task, (value, text, records) -> columns.row(++line[0], List.of(text)));
            if (line[0] == 0) {
                return;
            }
            Columns.Guess guess = columns.columns().getFirst().guess();
            ask = guess.ask();
            order = dates ? guess.order().or(() -> Optional.of(DateText.Order.DAY_FIRST)) : Optional.empty();
            decimal = numbers ? guess.decimal().or(() -> Optional.of(NumberText.Decimal.POINT)) : Optional.empty();
        }
    }

    private interface EachValue {
        void value(Object value, String text, long records) throws SQLException;
    }

    /** Goes through the different values of a field, the most frequent first. */
    private static void each(Connection connection, Task task, EachValue each) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.setFetchSize(FETCH);
            try (ResultSet found = statement.executeQuery(
                    "select " + task.column() + ", cast(" + task.column() + " as text), count(*) from " + task.table()
                            + " where " + task.filled() + " group by 1 order by 3 desc, 1")) {
                while (found.next()) {
                    each.value(ValueType.of(task.was).read(found, 1), found.getString(2), found.getLong(3));
                }
            }
        }
    }

    /** What was counted while values were read. */
    private static final class Counts {
        private long records;
        private long values;
        private long unread;
        private long different;
        private final List<ReadValue> read = new ArrayList<>();
        private final List<ReadValue> odd = new ArrayList<>();
        private final Set<String> options = new TreeSet<>(String.CASE_INSENSITIVE_ORDER.thenComparing(s -> s));
    }

    /** A value that was read: as the database writes what it was, and what it becomes. */
    private record Pair(String was, String becomes) {}

    private interface Pairs {
        void take(Pair pair) throws SQLException;
    }

    private record ValueReading(Task task, Conversion conversion) {

        Counts through(Connection connection, Pairs pairs) throws SQLException {
            Counts counts = new Counts();
            try (Statement statement = connection.createStatement();
                    ResultSet all = statement.executeQuery("select count(*) from " + task.table())) {
                all.next();
                counts.records = all.getLong(1);
            }
            each(connection, task, (value, text, records) -> {
                counts.values += records;
                counts.different++;
                String words = words(value);
                try {
                    Object becomes = becomes(value);
                    if (task.becomes.type() == FieldType.CHOICE && counts.options.size() <= FieldTypes.MOST_OPTIONS) {
                        counts.options.add((String) becomes);
                    }
                    if (counts.read.size() < MOST_SHOWN) {
                        counts.read.add(new ReadValue(words, Optional.of(shown(becomes)), "", records));
                    }
                    pairs.take(new Pair(text, conversion.text(becomes)));
                } catch (Unfitting e) {
                    counts.unread += records;
                    if (counts.odd.size() < MOST_SHOWN) {
                        counts.odd.add(new ReadValue(words, Optional.empty(), e.getMessage(), records));
                    }
                }
            });
            return counts;
        }

        private Object becomes(Object value) throws Unfitting {
            if (value instanceof Instant instant && task.becomes.type() == FieldType.DATE) {
                return conversion.checked(LocalDate.ofInstant(instant, task.zone));
            }
            if (value instanceof Instant instant && task.becomes.type() == FieldType.TIME) {
                return conversion.checked(LocalTime.ofInstant(instant, task.zone));
            }
            if (value instanceof LocalDate day && task.becomes.type() == FieldType.MOMENT) {
                return conversion.checked(LocalTimes.instant(day.atStartOfDay(), task.zone));
            }
            boolean fromDuration = task.was.type() == FieldType.DURATION;
            if (value instanceof BigDecimal number && task.becomes.type().isNumeric() && fromDuration) {
                return conversion.checked(number);
            }
            Object read = conversion.read(words(value));
            if (read == null) {
                throw new Unfitting("Nothing but blanks is no value.");
            }
            return read;
        }

        /** A value as a text of it is written; the same form as in files. */
        private String words(Object value) {
            return task.was.type().isListed()
                    ? value.toString()
                    : ValueType.of(task.was).words(task.was, value, task.zone, true);
        }

        /** A value in the form that records are answered in. */
        private static Object shown(Object value) {
            return value instanceof BigDecimal || value instanceof Boolean || value instanceof List<?>
                    ? value
                    : value.toString();
        }
    }

    /** Fills the new column by way of a table that has each different value once. */
    private record Filling(Task task, String column) {

        /** Reads all values. They are read and written down by turns, on the one connection of the transaction. */
        Counts read(Connection connection, ValueReading reading) throws SQLException {
            try (Statement statement = connection.createStatement()) {
                statement.execute("create temporary table deft_converted (was "
                        + ValueType.of(task.was).column() + ", becomes "
                        + ValueType.of(task.becomes).column() + ") on commit drop");
            }
            List<Pair> pairs = new ArrayList<>();
            Counts counts = reading.through(connection, pair -> {
                pairs.add(pair);
                if (pairs.size() >= FETCH) {
                    note(connection, pairs);
                }
            });
            note(connection, pairs);
            return counts;
        }

        /**
         * Gives each record what its value becomes; how many there were. What records were gets it too, where it had a value that some
         * have now. That is no change of the records, and no past is kept of it.
         */
        int write(Connection connection) throws SQLException {
            try (Statement statement = connection.createStatement()) {
                statement.execute("analyze deft_converted");
                statement.execute("select set_config('deft.reshaping', 'on', true)");
                fill(statement, task.past);
                int records = fill(statement, task.table);
                statement.execute("select set_config('deft.reshaping', '', true)");
                return records;
            }
        }

        private int fill(Statement statement, String table) throws SQLException {
            return statement.executeUpdate("update " + table + " r set " + Sql.identifier(column)
                    + " = m.becomes from deft_converted m where r." + task.column() + " = m.was");
        }

        private static void note(Connection connection, List<Pair> pairs) throws SQLException {
            PGCopyOutputStream copy = new PGCopyOutputStream(
                    connection.unwrap(PGConnection.class),
                    "copy deft_converted (was, becomes) from stdin (format csv)",
                    1 << 16);
            try (Writer writer = new OutputStreamWriter(copy, StandardCharsets.UTF_8);
                    CSVPrinter csv = new CSVPrinter(writer, CSVFormat.POSTGRESQL_CSV)) {
                for (Pair pair : pairs) {
                    csv.printRecord(pair.was(), pair.becomes());
                }
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
            pairs.clear();
        }
    }

    private static boolean isLost(Counts counts) {
        return counts.values > 0 && counts.unread == counts.values;
    }

    private static String noneReads(FieldType type) {
        return "None of its values reads as " + type.words() + ".";
    }

    private static String many(long number) {
        return String.format(Locale.ROOT, "%,d", number);
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator changes the type of a field.");
        }
    }
}
