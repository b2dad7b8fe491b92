package deftlens.core.sql;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.GenerateExpression;
import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.check.Checker;
import deftlens.core.check.Finding;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.match.Evaluator;
import deftlens.core.match.Matcher;
import deftlens.core.match.Row;
import deftlens.core.match.Why;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.core.time.WorkingCalendar;
import java.math.BigDecimal;
import java.sql.SQLException;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.Month;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.EnumMap;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Calculated fields in real PostgreSQL beside the same in memory, over random records. */
class CalculationsTest {

    private static final long SEED = Long.getLong("deft.seed", 7919);
    private static final int EXPRESSIONS = 1_200;
    private static final Register REGISTER = Generate.REGISTER;
    private static final Reader READER = new Reader(REGISTER, Generate.ATTRIBUTES);

    private static Things things;

    @BeforeAll
    static void load() throws SQLException {
        things = new Things("core_calculations", SEED, 150);
        // What a database can hold and nobody calculates with.
        things.rows().add(beyond("Infinity", "infinity", "infinity", "title"));
        things.rows().add(beyond("-Infinity", "-infinity", "-infinity", ""));
        things.rows().add(beyond("NaN", "0044-03-15 BC", "10000-01-01 00:00:00+00", "x"));
    }

    private static Object[] beyond(String number, String day, String moment, String title) throws SQLException {
        int id = things.rows().size();
        try (var statement = things.connection().createStatement()) {
            statement.execute("insert into things select * from jsonb_populate_record(null::things, '{\"id\": " + id
                    + ", \"code\": \"c\", \"rank\": 3, \"site\": \"North Quay\", \"paid\": true, \"severity\": \""
                    + number
                    + "\", \"cost\": \"" + number + "\", \"spent\": \"" + number + "\", \"due\": \"" + day
                    + "\", \"reported_at\": \"" + moment + "\", \"closed_at\": \"2026-11-01T10:00:00Z\", \"title\": \""
                    + title + "\"}')");
        }
        Object[] row = new Object[REGISTER.fields().size()];
        row[Generate.at("code")] = "c";
        row[Generate.at("rank")] = BigDecimal.valueOf(3);
        row[Generate.at("site")] = "North Quay";
        row[Generate.at("paid")] = true;
        row[Generate.at("title")] = title;
        for (String key : List.of("severity", "cost", "spent")) {
            row[Generate.at(key)] = deftlens.core.field.Beyond.number(number);
        }
        row[Generate.at("due")] = deftlens.core.field.Beyond.day(day);
        row[Generate.at("reported_at")] = switch (moment) {
            case "infinity" -> Instant.MAX;
            case "-infinity" -> Instant.MIN;
            default -> Instant.parse("+10000-01-01T00:00:00Z");
        };
        row[Generate.at("closed_at")] = Instant.parse("2026-11-01T10:00:00Z");
        return row;
    }

    @AfterAll
    static void close() throws SQLException {
        things.close();
    }

    @Test
    void sqlAndMemoryAgreeOnRandomCalculations() throws SQLException {
        Generate generate = new Generate(SEED + 3);
        GenerateExpression expressions = new GenerateExpression(generate, REGISTER);
        Map<FieldType, Integer> filled = new EnumMap<>(FieldType.class);
        Set<deftlens.core.calculation.Function> functions = EnumSet.noneOf(deftlens.core.calculation.Function.class);
        for (int i = 0; i < EXPRESSIONS; i++) {
            FieldType type = GenerateExpression.TYPES.get(i % GenerateExpression.TYPES.size());
            Expression made = expressions.of(type, 1 + generate.random().nextInt(4));
            String text = Printer.print(made);
            Expression expression = READER.calculation(text);
            assertThat(expression.type()).as(text).isEqualTo(made.type());
            assertThat(Printer.print(expression))
                    .isEqualTo(Printer.print(READER.calculation(Printer.print(expression))));
            assertThat(READER.calculation(Printer.print(expression))).as(text).isEqualTo(expression);
            expression.forEach(part -> {
                if (part instanceof Expression.Call call) {
                    functions.add(call.function());
                }
            });
            Binder binder = Things.binder(generate);
            Evaluator.Worked worked = Evaluator.of(expression, binder);
            List<Object> stored = new ArrayList<>();
            things.table(
                            new Sql()
                                    .add("select ")
                                    .add(Calculations.of(expression, binder))
                                    .add(" from things order by id"),
                            1)
                    .forEach(row -> stored.add(row.get(0)));
            for (int r = 0; r < things.rows().size(); r++) {
                Object[] row = things.rows().get(r);
                Object value = worked.of(at -> row[at]);
                assertThat(same(stored.get(r), value))
                        .as("seed %d, %d, row %d: %s%n%s in SQL, %s in memory", SEED, i, r, text, stored.get(r), value)
                        .isTrue();
                if (value != null) {
                    filled.merge(type, 1, Integer::sum);
                } else {
                    assertThat(expression.isAlways()).as(text).isFalse();
                }
            }
        }
        assertThat(filled.keySet()).containsAll(GenerateExpression.TYPES);
        assertThat(filled.values()).allSatisfy(count -> assertThat(count).isGreaterThan(3_000));
        assertThat(functions).containsExactlyInAnyOrder(deftlens.core.calculation.Function.values());
    }

    private static boolean same(Object stored, Object value) {
        return stored instanceof BigDecimal number && value instanceof BigDecimal other
                ? number.compareTo(other) == 0
                : stored instanceof Number whole && value instanceof BigDecimal other
                        ? new BigDecimal(whole.toString()).compareTo(other) == 0
                        : Objects.equals(stored, value);
    }

    /** Calculated fields as fields: criteria over them, over calculated fields of calculated fields too. */
    @Test
    void theyAreFieldsLikeAnyOther() throws SQLException {
        Generate generate = new Generate(SEED + 4);
        List<Calculation> calculations = new ArrayList<>();
        Register register = REGISTER;
        for (String[] declared : new String[][] {
            {"late", "Days overdue", "greatest(0, days_between(due, today))"},
            {"finished", "Finished", "status is in band \"Ended\" or closed_at is not empty"},
            {"weight", "Weight", "when(finished, 0, severity * 2 + late)"},
            {"handling", "Time to close", "working_time_between(reported_at, closed_at)"},
            {"kind", "Kind", "when(weight > 10, \"urgent\", weight > 3, \"soon\", \"later\")"},
            {"target", "Target", "first_of(due, until) + 2 weeks"},
            {"name", "Name", "join(code, \" / \", first_of(title, site))"},
        }) {
            Expression expression = new Reader(register, Set.of()).calculation(declared[2]);
            Calculation calculation = Calculation.of(declared[0], declared[1], expression);
            calculations.add(calculation);
            List<Field> fields = new ArrayList<>(register.fields());
            fields.add(calculation.field());
            register = new Register("things", "Things", "things", "id", fields);
        }
        Reader reader = new Reader(register, Set.of());
        for (String statement : List.of(
                "late > 10",
                "late is between 1 and 5 or finished is no",
                "not kind is \"soon\"",
                "handling is at least 3 h and target in last 30 days",
                "target after until",
                "name contains \"fender\"",
                "weight is not empty and kind is in (\"urgent\", \"later\")",
                "weight > severity",
                "kind is empty")) {
            Reading reading = new Reading(
                    Instant.parse("2026-11-23T09:30:00Z"),
                    generate.zone(),
                    DayOfWeek.MONDAY,
                    Month.JANUARY,
                    Generate.WORKING);
            Binder binder = new Binder(register, reading, Viewer.NOBODY);
            Bound bound = binder.bind(reader.read(statement));
            Scope scope = Calculations.with(Scope.all(register), calculations, binder);
            BitSet found = things.ids(
                    new Sql().add("select id").add(scope.source()).add(" and ").add(Where.of(bound)));
            Predicate<Row> matcher = Matcher.of(register, bound);
            int in = 0;
            for (int r = 0; r < things.rows().size(); r++) {
                Row row = Evaluator.with(things.rows().get(r), REGISTER, calculations, binder);
                assertThat(found.get(r)).as("%s, row %d", statement, r).isEqualTo(matcher.test(row));
                in += found.get(r) ? 1 : 0;
            }
            if (!statement.equals("kind is empty")) {
                assertThat(in).as(statement).isBetween(1, things.rows().size() - 1);
            } else {
                assertThat(in).isZero();
            }
        }
    }

    /** A criterion on a yes/no field is bound as the statement that the field stands for, and finds the same records. */
    @Test
    void whatAFieldStandsForIsSeen() throws SQLException {
        Generate generate = new Generate(SEED + 5);
        int both = 0;
        for (int i = 0; i < 400; i++) {
            Condition stands = generate.condition(generate.random().nextInt(4)).normal();
            if (stands.asks() || stands.isPersonal() || stands.equals(Condition.EVERYTHING)) {
                continue;
            }
            Calculation one = Calculation.of("one", "One", new Expression.Holds(stands));
            Register first = with(REGISTER, one.field());
            // Of another, and beside other criteria.
            Calculation two = Calculation.of(
                    "two",
                    "Two",
                    new Reader(first, Set.of()).calculation("one is no or severity > 3 and not one is yes"));
            Register register = with(first, two.field());
            Binder drawn = Things.binder(generate);
            Binder plain = new Binder(register, drawn.reading(), Viewer.NOBODY);
            Binder seeing = new Binder(
                    register,
                    drawn.reading(),
                    Viewer.NOBODY,
                    Map.of("one", stands, "two", ((Expression.Holds) two.expression()).condition()));
            Scope scope = Calculations.with(Scope.all(register), List.of(one, two), plain);
            Condition asked = new Reader(register, Set.of())
                    .read(generate.pick(List.of(
                            "one is yes",
                            "one is no",
                            "not one is yes",
                            "two is yes and rank > 2",
                            "two is no",
                            "one is in (yes, no)",
                            "one is not in (yes) or two is empty")));
            BitSet found = things.ids(
                    new Sql().add("select id").add(scope.source()).add(" and ").add(Where.of(plain.bind(asked))));
            Bound seen = seeing.bind(asked);
            assertThat(things.ids(new Sql()
                            .add("select id")
                            .add(scope.source())
                            .add(" and ")
                            .add(Where.of(seen))))
                    .as("seed %d, %d: %s, where one is %s", SEED, i, Printer.print(asked), Printer.print(stands))
                    .isEqualTo(found);
            Predicate<Row> matcher = Matcher.of(register, seen);
            for (int r = 0; r < things.rows().size(); r++) {
                Row row = Evaluator.with(things.rows().get(r), REGISTER, List.of(one, two), plain);
                assertThat(matcher.test(row))
                        .as("%s, where one is %s, row %d", Printer.print(asked), Printer.print(stands), r)
                        .isEqualTo(found.get(r));
            }
            both += !found.isEmpty() && found.cardinality() < things.rows().size() ? 1 : 0;
        }
        assertThat(both).isGreaterThan(100);
    }

    private static Register with(Register register, Field field) {
        List<Field> fields = new ArrayList<>(register.fields());
        fields.add(field);
        return register.with(fields);
    }

    /** An index on what a field stands for serves a criterion on the field, and is proposed for it; edges and findings see its days. */
    @Test
    void indexesEdgesAndFindingsSeeThrough() throws SQLException {
        Condition stands = new Reader(REGISTER, Set.of()).read("due before 2026-11-01 and closed_at is empty");
        Calculation overdue = Calculation.of("overdue", "Overdue", new Expression.Holds(stands));
        Register register = with(REGISTER, overdue.field());
        Reading reading = new Reading(
                Instant.parse("2026-11-23T09:30:00Z"),
                ZoneId.of("Europe/London"),
                DayOfWeek.MONDAY,
                Month.JANUARY,
                Generate.WORKING);
        Binder binder = new Binder(register, reading, Viewer.NOBODY, Map.of("overdue", stands));
        Reader reader = new Reader(register, Set.of());
        Bound bound = binder.bind(reader.read("overdue is yes"));
        try (var statement = things.connection().createStatement()) {
            statement.execute("create index things_due on things (due)");
            statement.execute("set enable_seqscan = off");
        }
        try {
            Scope scope = Calculations.with(Scope.all(register), List.of(overdue), binder);
            Sql asked =
                    new Sql().add("select id").add(scope.source()).add(" and ").add(Where.of(bound));
            String plan = things.table(new Sql().add("explain ").add(asked), 1).stream()
                    .map(row -> row.get(0).toString())
                    .collect(Collectors.joining("\n"));
            assertThat(plan).contains("things_due");
        } finally {
            try (var statement = things.connection().createStatement()) {
                statement.execute("set enable_seqscan = on");
                statement.execute("drop index things_due");
            }
        }
        assertThat(Indexes.of(register, REGISTER.stored(), bound, Order.NEWEST).stream()
                        .map(Indexes.Candidate::words))
                .anyMatch(label -> label.contains("Due"));
        assertThat(Edges.of(bound)).singleElement().satisfies(edge -> {
            assertThat(edge.field().key()).isEqualTo("due");
            assertThat(edge.at()).isEqualTo(LocalDate.parse("2026-11-01"));
        });
        assertThat(Checker.findings(
                        reader.read("overdue is yes and due after 2026-11-10"), binder, Checker.About.QUESTION))
                .extracting(Finding::level)
                .contains(Finding.Level.ERROR);
        assertThat(Checker.findings(
                        reader.read("overdue is yes and due after 2026-10-10"), binder, Checker.About.QUESTION))
                .extracting(Finding::level)
                .doesNotContain(Finding.Level.ERROR);
        // Why one is not in says what of the statement shuts it out.
        Object[] row = new Object[register.fields().size()];
        row[Generate.at("due")] = LocalDate.parse("2026-11-02");
        Why.Outcome why = Why.of(reader.read("overdue is yes"), binder, at -> row[at]);
        assertThat(why.verdict()).isEqualTo(Why.Verdict.OUT);
        assertThat(why.parts().get(0).path()).isEqualTo("/means");
        assertThat(why.parts().get(0).parts())
                .extracting(o -> o.path() + " " + o.verdict())
                .containsExactly("/means/all/0 OUT", "/means/all/1 IN");
    }

    /** What nobody asks for is not worked out, and the indexes of other columns serve as before. */
    @Test
    void indexesServeBelowCalculatedFields() throws SQLException {
        try (var statement = things.connection().createStatement()) {
            statement.execute("create index on things (reported_at)");
            statement.execute("set enable_seqscan = off");
        }
        Binder binder = new Binder(
                REGISTER,
                new Reading(
                        Instant.parse("2026-11-23T09:30:00Z"),
                        ZoneId.of("Europe/London"),
                        DayOfWeek.MONDAY,
                        Month.JANUARY,
                        WorkingCalendar.standard()),
                Viewer.NOBODY);
        Scope scope = Calculations.with(
                Scope.all(REGISTER),
                List.of(
                        Calculation.of("late", "Late", READER.calculation("days_between(due, today)")),
                        Calculation.of(
                                "worked",
                                "Worked",
                                READER.calculation("working_time_between(reported_at, closed_at)"))),
                binder);
        String plan = String.join(
                "\n",
                things
                        .table(
                                new Sql()
                                        .add("explain verbose select id, \"=late\"")
                                        .add(scope.source())
                                        .add(" and ")
                                        .add(Where.of(binder.bind(READER.read("reported_at in last 7 days"))))
                                        .add(" order by reported_at limit 10"),
                                1)
                        .stream()
                        .map(row -> row.get(0).toString())
                        .toList());
        assertThat(plan).contains("Index Scan using things_reported_at_idx").contains("Index Cond");
        assertThat(plan).doesNotContain("isodow").doesNotContain("SubPlan").doesNotContain("Sort");
    }

    /** Of a hundred values the 7th percentile is the 7th, though 0.07 times 100 is more than 7 in binary fractions. */
    @Test
    void percentilesHaveWholeRanks() throws SQLException {
        var value = deftlens.core.field.Field.of("n", "N", FieldType.NUMBER);
        for (int percent = 1; percent < 100; percent++) {
            Measures measures = new Measures(List.of(deftlens.core.field.Measure.percentile(percent, value)), false);
            Sql sql = Sql.of("select 1" + measures.columns(0) + " from generate_series(1, 100) as s (n)");
            assertThat(new BigDecimal(things.table(sql, 2).getFirst().get(1).toString()))
                    .isEqualByComparingTo(BigDecimal.valueOf(percent));
        }
    }

    /** What a statement does not name is not in it, and what it names by way of another calculation is. */
    @Test
    void whatNobodyAsksForIsNotWritten() throws SQLException {
        Binder binder = Things.binder(new Generate(SEED));
        Calculation twice = Calculation.of("twice", "Twice", READER.calculation("severity * 2"));
        Register with = REGISTER.with(List.of(twice.field()));
        Scope scope = Calculations.with(
                Scope.all(with),
                List.of(
                        twice,
                        Calculation.of(
                                "more", "More", new Reader(with, Generate.ATTRIBUTES).calculation("twice + 654321")),
                        Calculation.of("other", "Other", READER.calculation("severity + 123456"))),
                binder);
        Sql plain = new Sql().add("select id").add(scope.source());
        assertThat(plain.text()).doesNotContain("=").doesNotContain("123456");
        assertThat(plain.values()).isEmpty();
        Sql named = new Sql()
                .add("select id, \"=more\"")
                .add(scope.source())
                .add(" and severity = ")
                .bind(BigDecimal.valueOf(3))
                .add(" order by id");
        assertThat(named.text()).contains("\"=twice\"").doesNotContain("\"=other\"");
        assertThat(named.values()).last().isEqualTo(BigDecimal.valueOf(3));
        assertThat(named.values()).contains(BigDecimal.valueOf(654321)).doesNotContain(BigDecimal.valueOf(123456));
        List<List<Object>> rows = things.table(named, 2);
        assertThat(rows)
                .isNotEmpty()
                .allSatisfy(row -> assertThat(((Number) row.get(1)).intValue()).isEqualTo(654327));
        // The same piece may stand in a greater one.
        assertThat(new Sql().add("select count(*) from (").add(named).add(") t").text())
                .contains("\"=twice\"");
    }
}
