package deftlens.core.sql;

import deftlens.core.Generate;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
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
import java.util.List;
import java.util.Map;

/** Random records of {@link Generate#REGISTER}, in memory and in a table of a real database, numbered from 0. */
final class Things implements AutoCloseable {

    private static final Register REGISTER = Generate.REGISTER;

    private final Connection connection;
    private final List<Object[]> rows = new ArrayList<>();

    Things(String database, long seed, int count) throws SQLException {
        connection = DriverManager.getConnection(
                TestCluster.freshDatabase(database), TestCluster.user(), TestCluster.password());
        Generate generate = new Generate(seed);
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
            for (int i = 0; i < count; i++) {
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

    @Override
    public void close() throws SQLException {
        connection.close();
    }

    Connection connection() {
        return connection;
    }

    List<Object[]> rows() {
        return rows;
    }

    /** Any calendar, any moment, any viewer. */
    static Binder binder(Generate generate) {
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

    BitSet ids(Sql sql) throws SQLException {
        BitSet ids = new BitSet();
        try (PreparedStatement statement = prepare(sql);
                ResultSet result = statement.executeQuery()) {
            while (result.next()) {
                ids.set(result.getInt(1));
            }
        }
        return ids;
    }

    List<List<Object>> table(Sql sql, int columns) throws SQLException {
        List<List<Object>> list = new ArrayList<>();
        try (PreparedStatement statement = prepare(sql);
                ResultSet result = statement.executeQuery()) {
            while (result.next()) {
                List<Object> row = new ArrayList<>();
                for (int i = 1; i <= columns; i++) {
                    Object value = result.getObject(i);
                    row.add(
                            value instanceof java.sql.Timestamp t
                                    ? t.toInstant()
                                    : value instanceof java.sql.Date d
                                            ? d.toLocalDate()
                                            : value instanceof java.sql.Time
                                                    ? result.getObject(i, java.time.LocalTime.class)
                                                    : value);
                }
                list.add(row);
            }
        }
        return list;
    }

    PreparedStatement prepare(Sql sql) throws SQLException {
        PreparedStatement statement = connection.prepareStatement(sql.text());
        for (int i = 0; i < sql.values().size(); i++) {
            bind(statement, i + 1, sql.values().get(i));
        }
        return statement;
    }

    private void bind(PreparedStatement statement, int at, Object value) throws SQLException {
        switch (value) {
            case null -> statement.setObject(at, null);
            case Instant instant -> statement.setObject(at, instant.atOffset(ZoneOffset.UTC));
            case Collection<?> tags -> statement.setArray(at, connection.createArrayOf("text", tags.toArray()));
            case String[] texts -> statement.setArray(at, connection.createArrayOf("text", texts));
            case java.math.BigDecimal[] numbers -> statement.setArray(at, connection.createArrayOf("numeric", numbers));
            case Long[] numbers -> statement.setArray(at, connection.createArrayOf("int8", numbers));
            case java.time.LocalDate[] days -> statement.setArray(at, connection.createArrayOf("date", days));
            default -> statement.setObject(at, value);
        }
    }

    private static String columnType(Field field) {
        return switch (field.type()) {
            case TEXT, CHOICE, PERSON -> "text";
            // One column of whole numbers, as tables of other makers have them.
            case NUMBER, MONEY -> field.key().equals("rank") ? "integer" : "numeric";
            case DURATION -> "numeric";
            case YES_NO -> "boolean";
            case TAGS -> "text[]";
            case DATE -> "date";
            case MOMENT -> "timestamptz";
            case TIME -> "time";
            case SPAN -> throw new IllegalArgumentException("a span has no column");
        };
    }
}
