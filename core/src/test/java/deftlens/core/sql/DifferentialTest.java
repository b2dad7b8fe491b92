package deftlens.core.sql;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.match.Matcher;
import deftlens.core.match.Row;
import deftlens.core.statement.Printer;
import deftlens.core.time.Reading;
import deftlens.core.time.WorkingCalendar;
import deftlens.testing.TestCluster;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.Month;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The SQL and the in-memory test are put the same random questions over the same random rows in real PostgreSQL. */
class DifferentialTest {

    private static final long SEED = 7919;
    private static final int ROWS = 400;
    private static final int TREES = 1_500;
    private static final Register REGISTER = Generate.REGISTER;

    private static Connection connection;
    private static final List<Object[]> rows = new ArrayList<>();

    @BeforeAll
    static void load() throws SQLException {
        connection = DriverManager.getConnection(
                TestCluster.freshDatabase("core_differential"), TestCluster.user(), TestCluster.password());
        Generate generate = new Generate(SEED);
        try (Statement statement = connection.createStatement()) {
            StringBuilder ddl = new StringBuilder("create table things (id bigint primary key");
            for (Field field : REGISTER.stored()) {
                ddl.append(", ").append(Where.column(field)).append(' ').append(columnType(field));
                ddl.append(field.required() ? " not null" : "");
            }
            statement.execute(ddl.append(')').toString());
        }
        String marks = ", ?".repeat(REGISTER.stored().size());
        try (PreparedStatement insert = connection.prepareStatement("insert into things values (?" + marks + ")")) {
            for (int i = 0; i < ROWS; i++) {
                Object[] row = generate.row(generate.zone());
                rows.add(row);
                insert.setLong(1, i);
                for (int c = 0; c < REGISTER.stored().size(); c++) {
                    bind(insert, c + 2, row[c]);
                }
                insert.addBatch();
            }
            insert.executeBatch();
        }
    }

    @AfterAll
    static void close() throws SQLException {
        connection.close();
    }

    @Test
    void sqlAndMemoryAgreeOnRandomTreesAndRows() throws SQLException {
        Generate generate = new Generate(SEED + 1);
        int compared = 0;
        int decided = 0;
        for (int tree = 0; tree < TREES; tree++) {
            Condition condition = generate.condition(1 + generate.random().nextInt(5));
            Binder binder = binder(generate);
            Bound bound = binder.bind(condition);
            Predicate<Row> matcher = Matcher.of(REGISTER, bound);
            BitSet found = ids(new Sql().add("select id from things where ").add(Where.of(bound)));
            BitSet opposite = ids(new Sql().add("select id from things where ").add(Where.of(new Bound.Not(bound))));
            for (int i = 0; i < ROWS; i++) {
                Object[] row = rows.get(i);
                boolean matched = matcher.test(at -> row[at]);
                assertThat(found.get(i))
                        .as(
                                "seed %d, tree %d, row %d: %s%n%s%n%s",
                                SEED, tree, i, Printer.print(condition), bound, List.of(java.util.Arrays.toString(row)))
                        .isEqualTo(matched);
                assertThat(opposite.get(i)).as("the opposite of %s", bound).isNotEqualTo(matched);
                compared++;
            }
            decided += found.cardinality() > 0 && found.cardinality() < ROWS ? 1 : 0;
        }
        assertThat(compared).isGreaterThanOrEqualTo(100_000);
        assertThat(decided)
                .as("trees that let some rows in and kept others out")
                .isGreaterThan(TREES / 2);
    }

    @Test
    void theNormalFormAsksTheSame() {
        Generate generate = new Generate(SEED + 2);
        for (int tree = 0; tree < 3_000; tree++) {
            Condition condition = generate.condition(5);
            Binder binder = binder(generate);
            Predicate<Row> as = Matcher.of(REGISTER, binder.bind(condition));
            Predicate<Row> normal = Matcher.of(REGISTER, binder.bind(condition.normal()));
            for (int i = 0; i < 60; i++) {
                Object[] row = rows.get(generate.random().nextInt(ROWS));
                assertThat(normal.test(at -> row[at])).as("%s", condition).isEqualTo(as.test(at -> row[at]));
            }
        }
    }

    @Test
    void pagesFollowOneAnotherWithoutGapOrRepeat() throws SQLException {
        Generate generate = new Generate(SEED + 3);
        for (int round = 0; round < 120; round++) {
            List<Order.Key> keys = new ArrayList<>();
            List<Field> fields = new ArrayList<>(REGISTER.fields().stream()
                    .filter(f -> Page.isOrderable(f.type()))
                    .toList());
            for (int n = generate.random().nextInt(3); n >= 0; n--) {
                keys.add(new Order.Key(
                        fields.remove(generate.random().nextInt(fields.size())),
                        generate.random().nextBoolean()));
            }
            Order order = new Order(round == 0 ? List.of() : keys);
            List<Long> whole = list(Page.all(Scope.all(REGISTER), Sql.of("true"), order, List.of()), 0).stream()
                    .map(r -> (Long) r.get(0))
                    .toList();
            List<Long> paged = new ArrayList<>();
            Optional<Page.After> after = Optional.empty();
            do {
                List<List<Object>> page = list(
                        Page.rows(Scope.all(REGISTER), Sql.of("true"), order, List.of(), after, 37),
                        order.keys().size());
                page.forEach(r -> paged.add((Long) r.get(0)));
                after = page.size() < 37
                        ? Optional.empty()
                        : Optional.of(new Page.After(
                                page.get(36).subList(1, 1 + order.keys().size()).stream()
                                        .map(Optional::ofNullable)
                                        .toList(),
                                (Long) page.get(36).get(0)));
            } while (after.isPresent());
            assertThat(whole).hasSize(ROWS).doesNotHaveDuplicates();
            assertThat(paged).as("%s", order).isEqualTo(whole);
        }
    }

    @Test
    void dayOrderIsTheOrderOfTheDaysWithEmptiesLast() throws SQLException {
        Field due = REGISTER.field("due").orElseThrow();
        int at = REGISTER.fields().indexOf(due);
        for (boolean descending : new boolean[] {false, true}) {
            Order order = new Order(List.of(new Order.Key(due, descending)));
            List<Object> days = list(
                            Page.rows(Scope.all(REGISTER), Sql.of("true"), order, List.of(), Optional.empty(), ROWS), 1)
                    .stream()
                    .map(r -> rows.get(((Long) r.get(0)).intValue())[at])
                    .toList();
            Comparator<java.time.LocalDate> by = descending ? Comparator.reverseOrder() : Comparator.naturalOrder();
            List<Object> expected = days.stream()
                    .sorted(Comparator.comparing(o -> (java.time.LocalDate) o, Comparator.nullsLast(by)))
                    .toList();
            assertThat(days).isEqualTo(expected);
        }
    }

    @Test
    void letterCaseIsFoldedAsTheDatabaseFoldsIt() throws SQLException {
        List<String> differences = new ArrayList<>();
        try (PreparedStatement lower = connection.prepareStatement(
                "select c, lower(chr(c)) from generate_series(1, 1114111) c where c < 55296 or c > 57343")) {
            lower.setFetchSize(50_000);
            try (ResultSet result = lower.executeQuery()) {
                while (result.next()) {
                    String letter = new String(Character.toChars(result.getInt(1)));
                    if (!LetterCase.fold(letter).equals(result.getString(2))) {
                        differences.add(Integer.toHexString(result.getInt(1)));
                    }
                }
            }
        }
        assertThat(differences).isEmpty();
    }

    private static Binder binder(Generate generate) {
        ZoneId zone = generate.zone();
        Reading reading = new Reading(
                generate.moment(zone),
                zone,
                generate.pick(List.of(DayOfWeek.MONDAY, DayOfWeek.SATURDAY, DayOfWeek.SUNDAY)),
                Month.of(1 + generate.random().nextInt(12)),
                generate.random().nextBoolean() ? WorkingCalendar.standard() : Generate.WORKING);
        Viewer viewer = generate.random().nextInt(4) == 0
                ? Viewer.NOBODY
                : new Viewer(Map.of(
                        "me", List.of("asta.quill"), "site", List.of("North Quay"), "team", List.of("fender", "a")));
        return new Binder(REGISTER, reading, viewer);
    }

    private static BitSet ids(Sql sql) throws SQLException {
        BitSet ids = new BitSet();
        try (PreparedStatement statement = prepare(sql);
                ResultSet result = statement.executeQuery()) {
            while (result.next()) {
                ids.set(result.getInt(1));
            }
        }
        return ids;
    }

    private static List<List<Object>> list(Sql sql, int more) throws SQLException {
        List<List<Object>> list = new ArrayList<>();
        try (PreparedStatement statement = prepare(sql);
                ResultSet result = statement.executeQuery()) {
            while (result.next()) {
                List<Object> row = new ArrayList<>();
                row.add(result.getLong(1));
                for (int i = 0; i < more; i++) {
                    Object value = result.getObject(i + 2);
                    row.add(
                            value instanceof java.sql.Timestamp t
                                    ? t.toInstant()
                                    : value instanceof java.sql.Date d
                                            ? d.toLocalDate()
                                            : value instanceof java.sql.Time
                                                    ? result.getObject(i + 2, java.time.LocalTime.class)
                                                    : value);
                }
                list.add(row);
            }
        }
        return list;
    }

    private static PreparedStatement prepare(Sql sql) throws SQLException {
        PreparedStatement statement = connection.prepareStatement(sql.text());
        for (int i = 0; i < sql.values().size(); i++) {
            bind(statement, i + 1, sql.values().get(i));
        }
        return statement;
    }

    private static void bind(PreparedStatement statement, int at, Object value) throws SQLException {
        switch (value) {
            case null -> statement.setObject(at, null);
            case Instant instant -> statement.setObject(at, instant.atOffset(ZoneOffset.UTC));
            case Collection<?> tags -> statement.setArray(at, connection.createArrayOf("text", tags.toArray()));
            case String[] texts -> statement.setArray(at, connection.createArrayOf("text", texts));
            case java.math.BigDecimal[] numbers -> statement.setArray(at, connection.createArrayOf("numeric", numbers));
            default -> statement.setObject(at, value);
        }
    }

    private static String columnType(Field field) {
        return switch (field.type()) {
            case TEXT, CHOICE, PERSON -> "text";
            case NUMBER, MONEY -> "numeric";
            case YES_NO -> "boolean";
            case TAGS -> "text[]";
            case DATE -> "date";
            case MOMENT -> "timestamptz";
            case TIME -> "time";
            case SPAN -> throw new IllegalArgumentException("a span has no column");
        };
    }
}
