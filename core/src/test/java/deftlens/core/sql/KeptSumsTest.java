package deftlens.core.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.core.Generate;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Measure;
import deftlens.core.field.Register;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.core.time.WorkingCalendar;
import deftlens.testing.TestCluster;
import java.math.BigDecimal;
import java.math.MathContext;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.DayOfWeek;
import java.time.Month;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Totals of kept sums beside the same totals of the records, in real PostgreSQL, while records are written. */
class KeptSumsTest {

    private static final long SEED = Long.getLong("deft.seed", 7919);
    private static final String DATABASE = "core_kept_sums";
    private static final Register REGISTER = Generate.REGISTER;
    private static final ZoneId ZONE = ZoneId.of("Europe/London");
    private static final KeptSums.Table TABLE = new KeptSums.Table("public", "things_sums");
    private static final List<Field> KEYS = List.of(field("site"), field("status"), field("paid"), field("code"));
    private static final List<Field> AMOUNTS = List.of(field("cost"), field("severity"), field("spent"));

    private static final AtomicLong NEXT = new AtomicLong(1_000);
    private static Things things;
    private Generate generate;

    private static Field field(String key) {
        return REGISTER.field(key).orElseThrow();
    }

    private static KeptSums by(String date) {
        return new KeptSums(REGISTER, field(date), ZONE, KEYS, AMOUNTS, TABLE);
    }

    @BeforeAll
    static void load() throws SQLException {
        things = new Things(DATABASE, SEED, 300);
    }

    @AfterAll
    static void close() throws SQLException {
        things.close();
    }

    @BeforeEach
    void begin() {
        generate = new Generate(SEED + 29);
    }

    private static void execute(Connection connection, List<String> statements) throws SQLException {
        boolean alone = connection.getAutoCommit();
        connection.setAutoCommit(false);
        try (Statement statement = connection.createStatement()) {
            for (String sql : statements) {
                statement.execute(sql);
            }
        }
        if (alone) {
            connection.commit();
        }
        connection.setAutoCommit(alone);
    }

    @Test
    void totalsOfKeptSumsAreThoseOfTheRecords() throws SQLException {
        int told = 0;
        int narrowed = 0;
        Set<Class<?>> leaves = new HashSet<>();
        for (String date : List.of("reported_at", "due")) {
            KeptSums sums = by(date);
            execute(things.connection(), sums.keep());
            for (int round = 0; round < 120; round++) {
                write(things.connection(), generate);
                if (round % 5 == 0) {
                    things.table(sums.fold(1 + generate.random().nextInt(40)), 1);
                    execute(things.connection(), List.of(sums.tidy()));
                }
                Reading reading = reading(generate.random().nextInt(4) == 0 ? generate.zone() : ZONE);
                Totals totals = totals(sums);
                Bound bound = bound(sums, reading, leaves);
                Optional<Totals> over = sums.over(totals, reading.zone());
                if (over.isEmpty()) {
                    continue;
                }
                told++;
                if (!(bound instanceof Bound.Constant)) {
                    narrowed++;
                }
                assertSame(sums, totals, over.get(), bound, reading);
                assertSameSums(sums, bound);
            }
            execute(things.connection(), sums.drop());
        }
        assertThat(told).isGreaterThan(120);
        assertThat(narrowed).isGreaterThan(60);
        assertThat(leaves)
                .contains(
                        Bound.IsEmpty.class,
                        Bound.OneOf.class,
                        Bound.Truth.class,
                        Bound.DayRange.class,
                        Bound.LocalPart.class,
                        Bound.Finds.class);
    }

    /** Everything, and up to some record. */
    private void assertSameSums(KeptSums sums, Bound bound) throws SQLException {
        List<List<Object>> rows = things.table(
                new Sql()
                        .add("select id, " + Where.column(sums.date()) + " from things where "
                                + Where.column(sums.date()) + " is not null order by (id * 7919) % 1009, id limit 3"),
                2);
        List<Optional<Page.After>> ends = new ArrayList<>(List.of(Optional.empty()));
        rows.forEach(row -> ends.add(
                Optional.of(new Page.After(List.of(Optional.of(row.get(1))), ((Number) row.get(0)).longValue()))));
        for (Optional<Page.After> end : ends) {
            Field amount = generate.pick(AMOUNTS);
            Scope records = Scope.all(REGISTER);
            BigDecimal kept = number(sums.sum(bound, records, amount, end).orElseThrow());
            assertThat(kept)
                    .as("%s up to %s of %s", amount.key(), end, bound)
                    .isEqualByComparingTo(number(Page.sum(records, Where.of(bound), amount, sums.date(), end, false)));
        }
    }

    private static BigDecimal number(Sql sql) throws SQLException {
        return new BigDecimal(things.table(sql, 1).getFirst().getFirst().toString());
    }

    private Totals totals(KeptSums sums) {
        List<Groups.Level> levels = new ArrayList<>();
        for (int n = generate.random().nextInt(Totals.MAX_ROWS + 1); n > 0; n--) {
            levels.add(level(sums));
        }
        Optional<Groups.Level> across = generate.random().nextBoolean() ? Optional.of(level(sums)) : Optional.empty();
        Optional<Field> flow = generate.random().nextBoolean() ? Optional.of(generate.pick(AMOUNTS)) : Optional.empty();
        String column = flow.isPresent() && generate.random().nextBoolean()
                ? generate.pick(List.of(Totals.Balance.values())).column()
                : Totals.figure(0);
        Optional<Bound> keep = levels.isEmpty() || generate.random().nextBoolean()
                ? Optional.empty()
                : Optional.of(new Bound.NumberRange(
                        new Field("figure", "Figure", FieldType.NUMBER, column, false, List.of()),
                        Optional.of(BigDecimal.valueOf(1 + generate.random().nextInt(4))),
                        true,
                        Optional.empty(),
                        true));
        Field amount = generate.pick(AMOUNTS);
        return new Totals(
                levels,
                across,
                new Measures(
                        List.of(
                                new Measure(Measure.Function.COUNT, Optional.empty()),
                                Measure.of(Measure.Function.SUM, amount),
                                Measure.of(Measure.Function.AVERAGE, generate.pick(AMOUNTS))),
                        false),
                keep,
                flow);
    }

    private Groups.Level level(KeptSums sums) {
        return switch (generate.random().nextInt(5)) {
            case 0 ->
                new Groups.Level.Parts(sums.date(), generate.pick(List.of(deftlens.core.condition.Test.Part.values())));
            case 1, 2 ->
                new Groups.Level.Periods(
                        sums.date(),
                        generate.pick(List.of(Histogram.Step.values()).subList(1, Histogram.Step.values().length)));
            default -> new Groups.Level.Values(generate.pick(KEYS));
        };
    }

    /** A condition that days and keys tell, out of very many that may be. */
    private Bound bound(KeptSums sums, Reading reading, Set<Class<?>> leaves) {
        List<Condition> parts = new ArrayList<>();
        Binder binder = new Binder(REGISTER, reading, Viewer.NOBODY);
        for (int tries = 0; tries < 300 && parts.size() < 2; tries++) {
            Condition one = generate.condition(1);
            Optional<Bound> over = sums.over(binder.bind(one));
            if (over.isPresent()) {
                note(over.get(), leaves);
                parts.add(one);
            }
        }
        return switch (generate.random().nextInt(4)) {
            case 0 -> new Bound.Constant(true);
            case 1 -> binder.bind(new Condition.Any(parts));
            case 2 -> new Bound.Not(binder.bind(new Condition.All(parts)));
            default -> binder.bind(new Condition.All(parts));
        };
    }

    private static void note(Bound bound, Set<Class<?>> leaves) {
        switch (bound) {
            case Bound.Every(List<Bound> parts) -> parts.forEach(p -> note(p, leaves));
            case Bound.Some(List<Bound> parts) -> parts.forEach(p -> note(p, leaves));
            case Bound.Not(Bound part) -> note(part, leaves);
            case Bound.Constant _ -> {}
            case Bound.Leaf leaf -> leaves.add(leaf.getClass());
        }
    }

    private Reading reading(ZoneId zone) {
        return new Reading(
                generate.moment(zone),
                zone,
                DayOfWeek.of(1 + generate.random().nextInt(7)),
                Month.of(1 + generate.random().nextInt(12)),
                WorkingCalendar.standard());
    }

    private static void assertSame(KeptSums sums, Totals totals, Totals over, Bound bound, Reading reading)
            throws SQLException {
        int width = 3 + totals.levels().size() + totals.width();
        List<String> records = text(
                things.table(
                        totals.select(Scope.all(REGISTER), Where.of(bound), Optional.empty(), reading, 100_000), width),
                totals);
        List<String> kept = text(
                things.table(
                        over.select(
                                sums.scope(),
                                Where.of(sums.over(bound).orElseThrow()),
                                Optional.empty(),
                                reading,
                                100_000),
                        width),
                totals);
        assertThat(kept).as("%s %s", totals, bound).isEqualTo(records);
    }

    /** Numbers as numbers, the average as far as people read it. */
    private static List<String> text(List<List<Object>> rows, Totals totals) {
        int average = 2 + totals.levels().size() + 3;
        List<String> lines = new ArrayList<>();
        for (List<Object> row : rows) {
            List<String> cells = new ArrayList<>();
            for (int i = 0; i < row.size(); i++) {
                Object value = row.get(i);
                cells.add(
                        value instanceof BigDecimal number
                                ? (i == average ? number.round(MathContext.DECIMAL32) : number)
                                        .stripTrailingZeros()
                                        .toPlainString()
                                : String.valueOf(value));
            }
            lines.add(String.join("|", cells));
        }
        return lines;
    }

    /** Some records come, change or go. */
    private static void write(Connection connection, Generate generate) throws SQLException {
        int some = 2 + generate.random().nextInt(9);
        int at = generate.random().nextInt(some);
        String sql = switch (generate.random().nextInt(8)) {
            case 0, 1 -> "delete from things where id % " + (some * 3) + " = " + at;
            case 2, 3, 4 ->
                "update things t set (reported_at, due, site, status, paid, cost, severity, spent) = (select o.reported_at,"
                        + " o.due, o.site, o.status, o.paid, o.cost, o.severity, o.spent from things o order by (o.id * 31 + "
                        + at + ") % 97, o.id limit 1) where t.id % " + some + " = " + at;
            case 5 -> "update things set title = 'the same' where id % " + some + " = " + at;
            default ->
                "insert into things select (jsonb_populate_record(null::things, to_jsonb(t) || jsonb_build_object('id', "
                        + NEXT.getAndAdd(1_000) + " + row_number() over ()))).* from things t where id % " + some
                        + " = "
                        + at + " limit 60";
        };
        execute(connection, List.of(sql));
    }

    /** Many write at once, and somebody folds; whoever looks sees what the records are at that moment. */
    @Test
    void areExactWhileManyWrite() throws Exception {
        KeptSums sums = by("reported_at");
        execute(things.connection(), sums.keep());
        AtomicBoolean writing = new AtomicBoolean(true);
        try (ExecutorService threads = Executors.newFixedThreadPool(6)) {
            List<Future<Integer>> writers = new ArrayList<>();
            for (int w = 0; w < 4; w++) {
                long seed = SEED + 100 + w;
                writers.add(threads.submit(connected(connection -> {
                    Generate own = new Generate(seed);
                    int refused = 0;
                    for (int i = 0; i < 40; i++) {
                        connection.setAutoCommit(false);
                        try {
                            write(connection, own);
                            if (own.random().nextInt(5) == 0) {
                                connection.rollback();
                            } else {
                                connection.commit();
                            }
                        } catch (SQLException e) {
                            // Two that change the same records in another order: one of them gives way, and changes
                            // nothing.
                            assertThat(e.getSQLState()).isIn("40P01", "23505");
                            connection.rollback();
                            refused++;
                        }
                    }
                    return refused;
                })));
            }
            Future<Integer> folder = threads.submit(connected(connection -> {
                int folded = 0;
                while (writing.get()) {
                    folded += folded(connection, sums, 25);
                    execute(connection, List.of(sums.tidy()));
                }
                return folded;
            }));
            Future<Integer> reader = threads.submit(connected(connection -> {
                connection.setAutoCommit(false);
                connection.setTransactionIsolation(Connection.TRANSACTION_REPEATABLE_READ);
                int looks = 0;
                while (writing.get()) {
                    assertThat(whole(
                                    connection,
                                    sums.scope().from().text(),
                                    "coalesce(sum(\"@n\"), 0)",
                                    "sum(\"@p0\" + \"@m0\")"))
                            .isEqualTo(whole(connection, "things", "count(*)", "sum(cost)"));
                    connection.commit();
                    looks++;
                }
                return looks;
            }));
            int refused = 0;
            for (Future<Integer> writer : writers) {
                refused += writer.get();
            }
            writing.set(false);
            assertThat(refused).isLessThan(120);
            assertThat(folder.get()).isPositive();
            assertThat(reader.get()).isPositive();
        }
        Totals totals = new Totals(
                List.of(
                        new Groups.Level.Values(field("site")),
                        new Groups.Level.Periods(field("reported_at"), Histogram.Step.MONTH)),
                Optional.empty(),
                new Measures(
                        List.of(
                                new Measure(Measure.Function.COUNT, Optional.empty()),
                                Measure.of(Measure.Function.SUM, field("cost")),
                                Measure.of(Measure.Function.AVERAGE, field("severity"))),
                        false),
                Optional.empty(),
                Optional.empty());
        Reading reading = reading(ZONE);
        assertSame(sums, totals, sums.over(totals, ZONE).orElseThrow(), new Bound.Constant(true), reading);
        // All that was told one by one is in the base after a while, and nothing is left of what has gone.
        while (folded(things.connection(), sums, 10_000) > 0) {}
        execute(things.connection(), List.of(sums.tidy()));
        assertSame(sums, totals, sums.over(totals, ZONE).orElseThrow(), new Bound.Constant(true), reading);
        execute(things.connection(), List.of("truncate things"));
        assertThat(things.table(
                        new Sql().add("select count(*) from ").add(sums.scope().from()), 1))
                .isEqualTo(List.of(List.of(0L)));
        execute(things.connection(), sums.drop());
        things.close();
        things = new Things(DATABASE, SEED, 300);
    }

    private static int folded(Connection connection, KeptSums sums, int most) throws SQLException {
        try (var statement = connection.prepareStatement(sums.fold(most).text())) {
            statement.setLong(1, most);
            try (var result = statement.executeQuery()) {
                result.next();
                return result.getInt(1);
            }
        }
    }

    private static String whole(Connection connection, String from, String number, String sum) throws SQLException {
        try (Statement statement = connection.createStatement();
                var result = statement.executeQuery(
                        "select concat(" + number + ", ' ', trim_scale(coalesce(" + sum + ", 0))) from " + from)) {
            result.next();
            return result.getString(1);
        }
    }

    private interface Work {
        int with(Connection connection) throws SQLException;
    }

    private static Callable<Integer> connected(Work work) {
        return () -> {
            try (Connection connection = DriverManager.getConnection(
                    things.connection().getMetaData().getURL(), TestCluster.user(), TestCluster.password())) {
                return work.with(connection);
            }
        };
    }

    /** What needs more than days and keys is told by the records. */
    @Test
    void moreThanDaysAndKeysIsNotTold() {
        KeptSums sums = by("reported_at");
        Reader reader = new Reader(REGISTER, Generate.ATTRIBUTES);
        Binder binder = new Binder(REGISTER, reading(ZONE), Viewer.NOBODY);
        for (String told : List.of(
                "reported_at in last 7 days",
                "reported_at before today and status is \"New\"",
                "reported_at is empty or site is \"North Quay\"",
                "code contains \"a\" and not paid is yes")) {
            assertThat(sums.over(binder.bind(reader.read(told)))).as(told).isPresent();
        }
        for (String not : List.of(
                "reported_at in last 7 hours",
                "reported_at after 2026-11-01T12:00",
                "cost > 3",
                "due before today",
                "status is \"New\" or cost > 3",
                "reported_at after closed_at")) {
            assertThat(sums.over(binder.bind(reader.read(not)))).as(not).isEmpty();
        }
        Binder elsewhere = new Binder(REGISTER, reading(ZoneId.of("Asia/Kolkata")), Viewer.NOBODY);
        assertThat(sums.over(elsewhere.bind(reader.read("reported_at in last 7 days"))))
                .isEmpty();
        Measures median = new Measures(List.of(Measure.of(Measure.Function.MEDIAN, field("cost"))), false);
        assertThat(sums.over(new Totals(List.of(), Optional.empty(), median, Optional.empty(), Optional.empty()), ZONE))
                .isEmpty();
        Measures count = new Measures(List.of(new Measure(Measure.Function.COUNT, Optional.empty())), false);
        Totals whole = new Totals(List.of(), Optional.empty(), count, Optional.empty(), Optional.empty());
        assertThat(sums.over(whole, ZONE)).isPresent();
        assertThat(sums.over(whole, ZoneId.of("Asia/Kolkata"))).isEmpty();
        Totals hours = new Totals(
                List.of(new Groups.Level.Hours(field("reported_at"))),
                Optional.empty(),
                count,
                Optional.empty(),
                Optional.empty());
        assertThat(sums.over(hours, ZONE)).isEmpty();
    }

    @Test
    void notEveryFieldIsAKey() {
        assertThatThrownBy(() -> new KeptSums(REGISTER, field("due"), ZONE, List.of(field("cost")), List.of(), TABLE))
                .hasMessage("Cost cannot tell sums apart");
        assertThatThrownBy(() -> new KeptSums(REGISTER, field("due"), ZONE, List.of(), List.of(field("site")), TABLE))
                .hasMessage("Site is no number");
        assertThatThrownBy(() -> new KeptSums(REGISTER, field("site"), ZONE, List.of(), List.of(), TABLE))
                .hasMessage("Site has no days");
    }
}
