package deftlens.core.interchange;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import deftlens.core.Generate;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Viewer;
import deftlens.core.match.Matcher;
import deftlens.core.match.Row;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.core.time.WorkingCalendar;
import deftlens.testing.TestCluster;
import java.math.BigDecimal;
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
import java.util.Random;
import java.util.function.Predicate;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class Cql2Test {

    private static final Reading READING = new Reading(
            Instant.parse("2026-11-23T09:30:00Z"),
            ZoneId.of("Europe/London"),
            DayOfWeek.MONDAY,
            Month.APRIL,
            WorkingCalendar.standard());
    private static final Binder BINDER = new Binder(
            Generate.REGISTER,
            READING,
            new Viewer(Map.of("me", List.of("asta.quill"), "site", List.of("North Quay"), "team", List.of("fender"))));
    private static final Reader READER = new Reader(Generate.REGISTER, Generate.ATTRIBUTES);

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "``|TRUE",
                "severity >= 3 and cost < 12.50|severity >= 3 AND cost < 12.5",
                "severity between 1 and 3 or rank is in (1, 2)|severity BETWEEN 1 AND 3 OR rank IN (1, 2)",
                "title is \"O'Neil\"|CASEI(title) = CASEI('o''neil')",
                "title is \"Fender\" exactly|title = 'Fender'",
                "title contains \"100%\"|CASEI(title) LIKE CASEI('%100\\%%')",
                "title is like \"N?rth*\" exactly|title LIKE 'N_rth%'",
                "status is \"Done\" and site is my site|status = 'Done' AND site = 'North Quay'",
                "status is not \"Done\"|NOT (status = 'Done' AND status IS NOT NULL)",
                "due before today|due < DATE('2026-11-23')",
                "due in last 7 days|due >= DATE('2026-11-17') AND due < DATE('2026-11-24')",
                "reported_at in 2026-10-25|reported_at >= TIMESTAMP('2026-10-24T23:00:00Z') AND reported_at < TIMESTAMP('2026-10-26T00:00:00Z')",
                "due is empty or due is not empty|due IS NULL OR due IS NOT NULL",
                "urgent is yes|urgent = TRUE",
                "tags has any of (\"Safety\")|A_OVERLAPS(tags, ('Safety'))",
                "cost > allowed|cost > allowed",
                "not (severity = 1 or rank = 2)|NOT ((severity = 1 AND severity IS NOT NULL) OR (rank = 2 AND rank IS NOT NULL))",
            })
    void writes(String statement, String text) {
        assertThat(Cql2.write(READER.read(statement), BINDER).text()).isEqualTo(text);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "severity>=3 AND (cost<12.5 or NOT urgent = true)|severity >= 3 and (cost < 12.5 or urgent is not yes)",
                "3 < severity|severity > 3",
                "casei(title) = casei('Fender')|title is \"Fender\"",
                "title like 'N_rth%'|title is like \"N?rth*\" exactly",
                "casei(title) NOT LIKE casei('%x%')|not title is like \"*x*\"",
                "severity <> 3|severity != 3 and severity is not empty",
                "rank <> 3|rank != 3",
                "severity NOT BETWEEN 1 AND 2|not severity between 1 and 2",
                "status IN ('New', 'Done')|status is in (\"New\", \"Done\")",
                "due IS NOT NULL|due is not empty",
                "due = DATE('2026-11-23')|due on 2026-11-23",
                "reported_at > TIMESTAMP('2026-11-23T09:30:00Z')|reported_at after 2026-11-23T09:30",
                "reported_at > TIMESTAMP('2026-10-25T01:30:00Z')|reported_at after 2026-10-25T01:30Z",
                "T_BEFORE(due, DATE('2026-11-23'))|due before 2026-11-23",
                "T_DURING(due, INTERVAL('2026-01-01', '2026-02-01'))|due after 2026-01-01 and due before 2026-02-01",
                "T_INTERSECTS(due, INTERVAL('2026-01-01', '..'))|due from 2026-01-01",
                "T_AFTER(reported_at, INTERVAL('..', '2026-01-01T00:00:00Z'))|reported_at after 2026-01-01T00:00",
                "a_contains(tags, ('Safety', 'winter'))|tags has all of (\"Safety\", \"winter\")",
                "cost > allowed|cost > allowed",
                "\"due\" < until|due before until",
                "TRUE|``",
                "TRUE AND severity = 1|severity = 1",
            })
    void reads(String text, String statement) {
        assertThat(Printer.print(Cql2.read(text, Generate.REGISTER, READING).condition()))
                .isEqualTo(statement);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "S_INTERSECTS(severity, 3)|S_INTERSECTS compares places|1:1",
                "T_MEETS(due, DATE('2026-01-01'))|T_MEETS compares two intervals|1:1",
                "severity + 1 > 3|arithmetic is not carried|1:10",
                "avg(severity) > 3|One side of “>” is a field|1:1",
                "mast = 3|“mast” is no field of Things|1:1",
                "severity = 'x'|compared with a number|1:12",
                "title > 'a'|carried for numbers and dates|1:1",
                "due = TIMESTAMP('2026-11-23T09:30:00Z')|compare it with a DATE|1:7",
                "due = DATE('23.11.2026')|is no date|1:7",
                "severity = |ends too early|1:11",
                "severity = 3 severity|cannot stand here|1:14",
                "open = 3|that a filter can name|1:1",
            })
    void whatCannotBeReadIsRefusedByName(String text, String message, String where) {
        Cql2.NotCarried refused =
                catchThrowableOfType(Cql2.NotCarried.class, () -> Cql2.read(text, Generate.REGISTER, READING));
        assertThat(refused).as(text).isNotNull().hasMessageContaining(message);
        assertThat(refused.where()).isEqualTo(where);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "title matches /a/|regular expressions|``",
                "rank = 1 and reported_at weekday in (Mon)|weekdays|/all/1",
                "reported_at time between 09:00 and 10:00|hours of the local day|``",
                "opens before 09:00|times of day|``",
                "due in this month or off(rank = 1)|switched off|/any/1",
                "closed_at after due|local day of a date and time|``",
                "until after due + 2 days|adds nothing|``",
            })
    void whatCannotBeWrittenIsRefusedByName(String statement, String message, String where) {
        Cql2.NotCarried refused =
                catchThrowableOfType(Cql2.NotCarried.class, () -> Cql2.write(READER.read(statement), BINDER));
        assertThat(refused).as(statement).isNotNull().hasMessageContaining(message);
        assertThat(refused.where()).isEqualTo(where);
    }

    @Test
    void fixedPhrasesAndTakenValuesAreNoted() {
        Cql2.Written written =
                Cql2.write(READER.read("due in last 7 days and site is my site and due in 2026"), BINDER);
        assertThat(written.notes())
                .containsExactly(
                        "“due in last 7 days” is written as it stands now: from Tue 17 Nov 2026 up to and including Mon 23 Nov 2026 (Europe/London).",
                        "“my site” is written as yours: North Quay.");
        assertThat(Cql2.read("reported_at < DATE('2026-01-01')", Generate.REGISTER, READING)
                        .notes())
                .hasSize(1);
    }

    /** Written and read back, in either encoding, a condition lets the same records in; and so does PostgreSQL's reading. */
    @Test
    void theWayThereAndBackChangesNoAnswer() throws SQLException {
        long seed = 90_210;
        Generate generate = new Generate(seed);
        List<Object[]> rows = new ArrayList<>();
        for (int i = 0; i < 150; i++) {
            rows.add(generate.row(READING.zone()));
        }
        int carried = 0;
        try (Connection connection = loaded(rows)) {
            for (int tree = 0; tree < 2_500; tree++) {
                Condition condition = generate.condition(1 + tree % 4);
                Cql2.Written written;
                try {
                    written = Cql2.write(condition, BINDER);
                } catch (Cql2.NotCarried refused) {
                    continue;
                }
                BitSet wanted = matching(condition, rows);
                Cql2.Read fromText;
                Cql2.Read fromJson;
                try {
                    fromText = Cql2.read(written.text(), Generate.REGISTER, READING);
                    fromJson = Cql2.readJson(written.json(), Generate.REGISTER, READING);
                } catch (Cql2.NotCarried refused) {
                    throw new AssertionError(written.text(), refused);
                }
                assertThat(matching(fromText.condition(), rows))
                        .as("seed %d, tree %d: %s%n%s", seed, tree, Printer.print(condition), written.text())
                        .isEqualTo(wanted);
                assertThat(fromJson.condition()).isEqualTo(fromText.condition());
                assertThat(inPostgres(connection, written.text()))
                        .as("seed %d, tree %d: %s", seed, tree, written.text())
                        .isEqualTo(wanted);
                carried++;
            }
        }
        assertThat(carried).isGreaterThan(500);
    }

    @ParameterizedTest
    @ValueSource(strings = {"a\\", "a\\'b"})
    void aTextThatCannotBeQuotedIsRefusedByName(String text) {
        Condition condition = READER.read("title is \"" + text.replace("\\", "\\\\") + "\" exactly");
        assertThatThrownBy(() -> Cql2.write(condition, BINDER))
                .isInstanceOf(Cql2.NotCarried.class)
                .hasMessageContaining("backslash");
    }

    @Test
    void noTextMakesItThrowAnythingElse() {
        Random random = new Random(5);
        List<String> words = List.of(
                "severity",
                "title",
                "due",
                "=",
                "<>",
                "<",
                "(",
                ")",
                ",",
                "AND",
                "OR",
                "NOT",
                "'a'",
                "3",
                "-",
                "DATE(",
                "'2026-01-01'",
                "IN",
                "LIKE",
                "BETWEEN",
                "IS NULL",
                "CASEI(",
                "T_DURING(",
                "INTERVAL(",
                "TRUE",
                "'",
                "\"x\"",
                "1e9",
                "1e999999",
                "tags",
                "A_OVERLAPS(",
                "..",
                "é",
                "😀",
                "TIMESTAMP('2026-01-01T00:00:00Z')");
        for (int i = 0; i < 20_000; i++) {
            StringBuilder text = new StringBuilder();
            for (int n = random.nextInt(12); n >= 0; n--) {
                text.append(words.get(random.nextInt(words.size()))).append(' ');
            }
            try {
                Cql2.read(text.toString(), Generate.REGISTER, READING);
            } catch (Cql2.NotCarried refused) {
                assertThat(refused.getMessage()).isNotBlank();
            }
        }
        for (Object json : List.of(
                Map.of("op", "and"),
                Map.of("op", "and", "args", List.of(Map.of("op", "=", "args", List.of()))),
                List.of(),
                "x",
                BigDecimal.ONE,
                Map.of("op", 3, "args", List.of()),
                Map.of("op", "in", "args", List.of(Map.of("property", "severity"), List.of())))) {
            assertThat(catchThrowableOfType(
                            Cql2.NotCarried.class, () -> Cql2.readJson(json, Generate.REGISTER, READING)))
                    .as("%s", json)
                    .isNotNull();
        }
        String deep = "(".repeat(20_000) + "severity = 1" + ")".repeat(20_000);
        assertThat(catchThrowableOfType(Cql2.NotCarried.class, () -> Cql2.read(deep, Generate.REGISTER, READING)))
                .isNotNull();
        String wide = "severity = 1" + " AND severity = 1".repeat(20_000);
        assertThat(catchThrowableOfType(Cql2.NotCarried.class, () -> Cql2.read(wide, Generate.REGISTER, READING)))
                .isNotNull();
    }

    private static BitSet matching(Condition condition, List<Object[]> rows) {
        Predicate<Row> test = Matcher.of(Generate.REGISTER, BINDER.bind(condition));
        BitSet matching = new BitSet();
        for (int i = 0; i < rows.size(); i++) {
            Object[] row = rows.get(i);
            matching.set(i, test.test(at -> row[at]));
        }
        return matching;
    }

    private static Connection loaded(List<Object[]> rows) throws SQLException {
        Connection connection = DriverManager.getConnection(
                TestCluster.freshDatabase("core_cql2"), TestCluster.user(), TestCluster.password());
        try (Statement statement = connection.createStatement()) {
            StringBuilder ddl = new StringBuilder("create table things (id int primary key");
            Generate.REGISTER
                    .stored()
                    .forEach(f -> ddl.append(", ")
                            .append(f.column())
                            .append(' ')
                            .append(
                                    switch (f.type()) {
                                        case TEXT, CHOICE, PERSON -> "text";
                                        case NUMBER, MONEY, DURATION -> "numeric";
                                        case YES_NO -> "boolean";
                                        case TAGS -> "text[]";
                                        case DATE -> "date";
                                        case MOMENT -> "timestamptz";
                                        case TIME -> "time";
                                        case SPAN -> throw new IllegalStateException();
                                    }));
            statement.execute(ddl.append(')').toString());
            statement.execute("create function casei(text) returns text language sql immutable as 'select lower($1)'");
        }
        String marks = ", ?".repeat(Generate.REGISTER.stored().size());
        try (PreparedStatement insert = connection.prepareStatement("insert into things values (?" + marks + ")")) {
            for (int i = 0; i < rows.size(); i++) {
                insert.setInt(1, i);
                for (int c = 0; c < Generate.REGISTER.stored().size(); c++) {
                    Object value = rows.get(i)[c];
                    insert.setObject(
                            c + 2,
                            value instanceof Instant instant
                                    ? instant.atOffset(ZoneOffset.UTC)
                                    : value instanceof Collection<?> tags
                                            ? connection.createArrayOf("text", tags.toArray())
                                            : value);
                }
                insert.addBatch();
            }
            insert.executeBatch();
        }
        return connection;
    }

    /** The text as PostgreSQL reads it, with three-valued logic; only spellings of literals and arrays are turned into its own. */
    private static BitSet inPostgres(Connection connection, String text) throws SQLException {
        String sql = text.replaceAll("TIMESTAMP\\('([^']*)'\\)", "timestamptz '$1'")
                .replaceAll("A_OVERLAPS\\((\\w+), \\(((?:'[^']*'(?:, )?)+)\\)\\)", "($1 && array[$2])")
                .replaceAll("A_CONTAINS\\((\\w+), \\(((?:'[^']*'(?:, )?)+)\\)\\)", "($1 @> array[$2])")
                .replaceAll("A_EQUALS\\((\\w+), \\(\\)\\)", "($1 = '{}')");
        BitSet ids = new BitSet();
        try (Statement statement = connection.createStatement();
                ResultSet result = statement.executeQuery("select id from things where " + sql)) {
            while (result.next()) {
                ids.set(result.getInt(1));
            }
        }
        return ids;
    }
}
