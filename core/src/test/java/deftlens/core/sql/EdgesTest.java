package deftlens.core.sql;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Parts;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.testing.TestCluster;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class EdgesTest {

    private static final Register MOVES = new Register(
            "moves",
            "Moves",
            "moves",
            "id",
            List.of(
                    Field.of("moved_at", "Moved at", FieldType.MOMENT).always(),
                    Field.of("due", "Due", FieldType.DATE),
                    Field.of("quantity", "Quantity", FieldType.NUMBER).always(),
                    Field.of("until", "Until", FieldType.DATE),
                    Field.span("hold", "Hold", new Field.Ends("due", "until", true))));
    private static final Binder BINDER = new Binder(
            MOVES, Reading.at(Instant.parse("2026-11-23T09:30:00Z"), ZoneId.of("Europe/London")), Viewer.NOBODY);
    private static final Reader READER = new Reader(MOVES, Set.of());

    private static Connection connection;

    @BeforeAll
    static void load() throws SQLException {
        connection = DriverManager.getConnection(
                TestCluster.freshDatabase("core_edges"), TestCluster.user(), TestCluster.password());
        try (Statement statement = connection.createStatement()) {
            statement.execute("""
                    create table moves (id bigint primary key, moved_at timestamptz not null, due date,
                                        quantity numeric not null, until date)""");
            statement.execute("""
                    insert into moves
                    select i, timestamptz '2026-11-23 00:00 Europe/London' - interval '7 minutes' * (i - 6000),
                           case when i % 9 = 0 then null else date '2026-11-23' - (i - 6000) / 200 end,
                           i % 12, null
                    from generate_series(1, 60000) i""");
            statement.execute("create index on moves (moved_at, id)");
            statement.execute("create index on moves (due, id)");
            statement.execute("analyze moves");
        }
    }

    @AfterAll
    static void close() throws SQLException {
        connection.close();
    }

    private static List<Edges.Boundary> boundaries(String statement) {
        return Edges.of(BINDER.bind(READER.read(statement)));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "due before today|due 2026-11-23 ends without",
                "due up to today|due 2026-11-24 ends without",
                "due in last 7 days|due 2026-11-17 begins with, due 2026-11-24 ends without",
                "moved_at after 2026-11-23T09:00|moved_at 2026-11-23T09:00:00Z begins without",
                "quantity between 3 and 5|quantity 3 begins with, quantity 5 ends with",
                "due less than 3 days ago|due 2026-11-21 begins with, due 2026-11-24 ends without",
                "not quantity > 4|quantity 4 ends with",
                "not quantity between 3 and 5|quantity 3 ends without, quantity 5 begins without",
                "due not in last 7 days|due 2026-11-17 ends without, due 2026-11-24 begins with",
                "due weekday in (Mon)|''",
                "hold within 2026-11-10 to 2026-11-12|due 2026-11-10 begins with, until 2026-11-13 ends without",
            })
    void everyRangeHasItsBoundaries(String statement, String expected) {
        assertThat(String.join(
                        ", ",
                        boundaries(statement).stream()
                                .map(b -> b.field().key() + " " + b.at() + (b.begins() ? " begins " : " ends ")
                                        + (b.belongs() ? "with" : "without"))
                                .toList()))
                .isEqualTo(expected);
    }

    @Test
    void theNearestRecordsAreFoundAlongAnIndex() throws SQLException {
        for (String statement :
                List.of("moved_at in last 7 days", "due before today", "due in 2026-11-01 to 2026-11-10")) {
            for (Edges.Boundary boundary : boundaries(statement)) {
                for (boolean inside : new boolean[] {true, false}) {
                    Sql sql = Edges.nearest(
                            Scope.all(MOVES), Sql.of("quantity > 2"), Sql.of("true"), boundary, inside, List.of(), 3);
                    String plan = explain(sql);
                    assertThat(plan)
                            .as(statement)
                            .contains("Index")
                            .doesNotContain("Seq Scan")
                            .doesNotContain("Sort");
                }
            }
        }
    }

    @Test
    void theyAreTheNearestOnes() throws SQLException {
        Condition condition = READER.read("due in 2026-11-01 to 2026-11-10");
        Edges.Boundary start = Edges.of(BINDER.bind(condition)).get(0);
        Sql whole = Where.of(BINDER.bind(condition));
        assertThat(days(Edges.nearest(Scope.all(MOVES), Sql.of("true"), whole, start, true, List.of(), 3)))
                .containsOnly(LocalDate.of(2026, 11, 1))
                .hasSize(3);
        assertThat(days(Edges.nearest(Scope.all(MOVES), Sql.of("true"), whole, start, false, List.of(), 3)))
                .containsOnly(LocalDate.of(2026, 10, 31))
                .hasSize(3);
        assertThat(days(Edges.empties(Scope.all(MOVES), Sql.of("true"), whole, start.field(), List.of(), 3)))
                .hasSize(3)
                .containsOnlyNulls();
    }

    /** Computed another way: with the criterion held to be true and to be false, in plain SQL over all records. */
    @ParameterizedTest
    @ValueSource(
            strings = {
                "quantity > 4",
                "not quantity > 4",
                "quantity > 4 or due before today",
                "not (quantity > 4 or due before today)",
                "not (quantity > 4 and due before today)",
                "quantity <= 7 and (due in last 7 days or moved_at in last 7 days)",
                "quantity >= 3 and not (due in last 7 days or moved_at in last 14 days)",
                "not (quantity between 3 and 5 or not (due before today and moved_at after 2026-11-01))",
                "due not in last 7 days and moved_at up to today",
                "(quantity = 2 or quantity >= 9) and (due is empty or due from 2026-11-10)",
                "off(quantity = 2) and (off(due is empty) or due from 2026-11-10) and quantity < 9",
            })
    void edgesAreOfWhatTheCriterionDecides(String statement) throws SQLException {
        Condition condition = READER.read(statement);
        Sql whole = Where.of(BINDER.bind(condition));
        for (Parts.Part part : Parts.of(condition)) {
            if (!(part.part() instanceof Condition.Criterion criterion)) {
                continue;
            }
            Condition never = new Condition.None(List.of(criterion));
            Sql held = Where.of(
                    BINDER.bind(Parts.replaced(condition, part.path(), new Condition.Any(List.of(criterion, never)))));
            Sql denied = Where.of(
                    BINDER.bind(Parts.replaced(condition, part.path(), new Condition.All(List.of(criterion, never)))));
            Parts.Decided decided = Parts.decided(condition, part.path());
            Sql deciding = Where.of(BINDER.bind(decided.condition()));
            assertThat(number(new Sql()
                            .add("select count(*) from moves where (((")
                            .add(held)
                            .add(") is true) <> ((")
                            .add(denied)
                            .add(") is true)) <> ((")
                            .add(deciding)
                            .add(") is true)")))
                    .as(part.path())
                    .isZero();
            for (Edges.Boundary found : Edges.of(BINDER.bind(criterion))) {
                Edges.Boundary boundary = decided.turned() ? found.turned() : found;
                for (boolean inside : new boolean[] {true, false}) {
                    boolean above = boundary.begins() == inside;
                    String column = boundary.field().column();
                    Sql byHand = new Sql()
                            .add("select " + (above ? "min(" : "max(") + column + ") from moves where ((")
                            .add(held)
                            .add(") is true) <> ((")
                            .add(denied)
                            .add(") is true) and ((")
                            .add(whole)
                            .add(") is true) = " + inside + " and " + column + (above ? " >= " : " <= "))
                            .compare(boundary.at());
                    Sql nearest = Edges.nearest(Scope.all(MOVES), deciding, whole, boundary, inside, List.of(), 3);
                    assertThat(first(nearest, "c2"))
                            .as(part.path() + " " + boundary + " " + inside)
                            .isEqualTo(first(byHand, null));
                    assertThat(first(nearest, "c1"))
                            .isIn(null, String.valueOf(inside).substring(0, 1));
                }
            }
        }
    }

    private static long number(Sql sql) throws SQLException {
        return Long.parseLong(first(sql, null));
    }

    /** A column of the first row as text; the first column where none is named, nothing where there is no row. */
    private static String first(Sql sql, String column) throws SQLException {
        try (PreparedStatement statement = prepared(sql, "");
                ResultSet result = statement.executeQuery()) {
            return !result.next() ? null : column == null ? result.getString(1) : result.getString(column);
        }
    }

    private static List<LocalDate> days(Sql sql) throws SQLException {
        List<LocalDate> days = new ArrayList<>();
        try (PreparedStatement statement = prepared(sql, "");
                ResultSet result = statement.executeQuery()) {
            while (result.next()) {
                days.add(result.getObject("c2", LocalDate.class));
            }
        }
        return days;
    }

    private static String explain(Sql sql) throws SQLException {
        StringBuilder plan = new StringBuilder();
        try (PreparedStatement statement = prepared(sql, "explain ");
                ResultSet result = statement.executeQuery()) {
            while (result.next()) {
                plan.append(result.getString(1)).append('\n');
            }
        }
        return plan.toString();
    }

    private static PreparedStatement prepared(Sql sql, String before) throws SQLException {
        PreparedStatement statement = connection.prepareStatement(before + sql.text());
        for (int i = 0; i < sql.values().size(); i++) {
            Object value = sql.values().get(i);
            statement.setObject(i + 1, value instanceof Instant instant ? instant.atOffset(ZoneOffset.UTC) : value);
        }
        return statement;
    }
}
