package deftlens.core.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import deftlens.core.Generate;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Comparison;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Fit;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Relaxed;
import deftlens.core.condition.Verb;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Measure;
import deftlens.core.field.Register;
import deftlens.core.match.Matcher;
import deftlens.core.match.Row;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.core.time.Unit;
import deftlens.core.time.WorkingCalendar;
import java.math.BigDecimal;
import java.math.MathContext;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.Month;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.Collections;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Predicate;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The SQL and the in-memory test are put the same random questions over the same random rows in real PostgreSQL. */
class DifferentialTest {

    /** Another one with {@code -Ddeft.seed=…}, to ask other questions of other rows. */
    private static final long SEED = Long.getLong("deft.seed", 7919);

    private static final int ROWS = 400;
    private static final int TREES = 1_500;
    private static final Register REGISTER = Generate.REGISTER;

    private static Things things;
    private static Connection connection;
    private static List<Object[]> rows;

    @BeforeAll
    static void load() throws SQLException {
        things = new Things("core_differential", SEED, ROWS);
        rows = things.rows();
        connection = things.connection();
    }

    @AfterAll
    static void close() throws SQLException {
        things.close();
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

    /** What the trees are made of: every test on every type it fits, every leaf, every offset by every unit. */
    @Test
    void theTreesReachWhateverTheLanguageHas() {
        Generate generate = new Generate(SEED + 1);
        Set<String> reached = new TreeSet<>();
        for (int tree = 0; tree < TREES; tree++) {
            Condition condition = generate.condition(1 + generate.random().nextInt(5));
            condition.criteria().forEach(c -> {
                FieldType type = REGISTER.field(c.field()).orElseThrow().type();
                reached.add(type.label() + " " + Verb.of(c));
                if (c.test() instanceof deftlens.core.condition.Test.FieldComparison against) {
                    reached.add(type.label() + " beside " + against.relation());
                    against.offset().ifPresent(o -> reached.add(offset(o)));
                }
            });
            leaves(binder(generate).bind(condition), reached);
        }
        assertThat(reached).containsAll(everything());
    }

    private static void leaves(Bound bound, Set<String> found) {
        switch (bound) {
            case Bound.Constant c -> {
                // No leaf.
            }
            case Bound.Not(Bound part) -> leaves(part, found);
            case Bound.Every(List<Bound> parts) -> parts.forEach(p -> leaves(p, found));
            case Bound.Some(List<Bound> parts) -> parts.forEach(p -> leaves(p, found));
            case Bound.Leaf leaf -> found.add(leaf.getClass().getSimpleName());
        }
    }

    private static String offset(deftlens.core.condition.Test.Offset offset) {
        return offset.getClass().getSimpleName()
                + (offset instanceof deftlens.core.condition.Test.Offset.Time(int count, Unit unit) ? " " + unit : "");
    }

    private static Set<String> everything() {
        Set<String> all = new TreeSet<>();
        for (FieldType type : FieldType.values()) {
            Verb.of(type).stream()
                    // What is asked of other records is drawn where there are some, in RelatedTest.
                    .filter(v -> v.takes() != Verb.Takes.RECORDS)
                    .filter(v -> v.takes() != Verb.Takes.BANDS
                            || REGISTER.fields().stream()
                                    .anyMatch(
                                            f -> f.type() == type && !f.bands().isEmpty()))
                    .forEach(v -> {
                        all.add(type.label() + " " + v);
                        boolean meets = REGISTER.fields().stream()
                                .anyMatch(f -> f.type() == type
                                        && !Fit.others(REGISTER, f, v).isEmpty());
                        v.relation().filter(r -> meets).ifPresent(r -> all.add(type.label() + " beside " + r));
                    });
        }
        for (Class<?> leaf : Bound.Leaf.class.getPermittedSubclasses()) {
            all.add(leaf.getSimpleName());
        }
        all.remove(Bound.Related.class.getSimpleName());
        all.add("Amount");
        all.add("Length");
        for (Unit unit : Unit.values()) {
            switch (unit) {
                case MINUTE, HOUR, DAY, WEEK, MONTH, QUARTER, YEAR -> all.add("Time " + unit);
                case WORKING_DAY, HALF, FISCAL_QUARTER, FISCAL_YEAR -> {
                    // Nothing is offset by these.
                }
            }
        }
        return all;
    }

    @Test
    void whatIsRelaxedTakesInTheWholeAndNeverLooksAtTheFields() {
        Generate generate = new Generate(SEED + 9);
        List<Field> fields = REGISTER.stored();
        int wider = 0;
        for (int tree = 0; tree < 3_000; tree++) {
            Bound bound = binder(generate).bind(generate.condition(5));
            int left = generate.random().nextInt(fields.size());
            Predicate<Row> whole = Matcher.of(REGISTER, bound);
            Predicate<Row> relaxed = Matcher.of(
                    REGISTER, Relaxed.without(bound, Set.of(fields.get(left).key())));
            for (int i = 0; i < 40; i++) {
                Object[] row = rows.get(generate.random().nextInt(ROWS));
                Object[] other = rows.get(generate.random().nextInt(ROWS));
                boolean now = relaxed.test(at -> row[at]);
                assertThat(now || !whole.test(at -> row[at])).as("%s", bound).isTrue();
                assertThat(relaxed.test(at -> at == left ? other[at] : row[at]))
                        .as("%s", bound)
                        .isEqualTo(now);
                wider += now && !whole.test(at -> row[at]) ? 1 : 0;
            }
        }
        assertThat(wider).isGreaterThan(1_000);
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
            // One date is walked in another way than other orders; it comes up as often as they do.
            boolean dated = round % 2 == 0;
            fields.removeIf(f -> dated && !f.type().isTemporal());
            for (int n = dated ? 0 : generate.random().nextInt(3); n >= 0; n--) {
                keys.add(new Order.Key(
                        fields.remove(generate.random().nextInt(fields.size())),
                        generate.random().nextBoolean(),
                        generate.random().nextInt(3) == 0));
            }
            Order order = new Order(round == 0 ? List.of() : keys);
            List<Long> whole = list(Page.all(Scope.all(REGISTER), Sql.of("true"), order, List.of()), 0).stream()
                    .map(r -> (Long) r.get(0))
                    .toList();
            List<Long> paged = new ArrayList<>();
            Optional<Page.After> after = Optional.empty();
            do {
                boolean foundFirst = generate.random().nextInt(3) == 0;
                List<List<Object>> page = list(
                        foundFirst
                                ? Page.rowsFoundFirst(
                                        Scope.all(REGISTER),
                                        Sql.of("true"),
                                        Optional.empty(),
                                        order,
                                        List.of(),
                                        after,
                                        37)
                                : Page.rows(Scope.all(REGISTER), Sql.of("true"), order, List.of(), after, 37),
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
    void dayOrderIsTheOrderOfTheDaysWithEmptiesWhereTheyAreWanted() throws SQLException {
        Field due = REGISTER.field("due").orElseThrow();
        int at = REGISTER.fields().indexOf(due);
        for (int way = 0; way < 4; way++) {
            boolean descending = way % 2 == 1;
            boolean emptiesFirst = way > 1;
            Order order = new Order(List.of(new Order.Key(due, descending, emptiesFirst)));
            List<Object> days = list(
                            Page.rows(Scope.all(REGISTER), Sql.of("true"), order, List.of(), Optional.empty(), ROWS), 1)
                    .stream()
                    .map(r -> rows.get(((Long) r.get(0)).intValue())[at])
                    .toList();
            Comparator<java.time.LocalDate> by = descending ? Comparator.reverseOrder() : Comparator.naturalOrder();
            List<Object> expected = days.stream()
                    .sorted(Comparator.comparing(
                            o -> (java.time.LocalDate) o,
                            emptiesFirst ? Comparator.nullsFirst(by) : Comparator.nullsLast(by)))
                    .toList();
            assertThat(days).isEqualTo(expected);
        }
    }

    @Test
    void aPartOfTheRecordsIsAStretchOfTheirOrderOrTheSameSampleAgain() throws SQLException {
        Generate generate = new Generate(SEED + 11);
        Field due = REGISTER.field("due").orElseThrow();
        Set<List<Long>> samples = new java.util.HashSet<>();
        for (int round = 0; round < 60; round++) {
            Sql condition = Where.of(binder(generate).bind(generate.condition(3)));
            Order order = new Order(List.of(new Order.Key(due, generate.random().nextBoolean())));
            List<Long> whole = numbers(Page.all(Scope.all(REGISTER), condition, order, List.of()));
            long from = 1 + generate.random().nextInt(40);
            long to = from + generate.random().nextInt(60);
            Scope stretch = Page.taken(Scope.all(REGISTER), condition, order, new RowSlice.Stretch(from, to));
            assertThat(numbers(Page.all(stretch, Sql.of("true"), order, List.of())))
                    .isEqualTo(whole.subList((int) Math.min(whole.size(), from - 1), (int) Math.min(whole.size(), to)));

            int size = 1 + generate.random().nextInt(30);
            List<Long> sample = numbers(sampled(condition, order, size, round));
            assertThat(sample).hasSize(Math.min(size, whole.size())).isSubsetOf(whole);
            assertThat(whole.stream().filter(sample::contains).toList()).isEqualTo(sample);
            assertThat(numbers(sampled(condition, order, size, round))).isEqualTo(sample);
            // A larger sample of the same seed only adds to it.
            assertThat(numbers(sampled(condition, order, size + 5, round))).containsAll(sample);
            samples.add(numbers(sampled(Sql.of("true"), order, 20, round)));
        }
        assertThat(samples).as("different seeds pick differently").hasSize(60);
    }

    private static Sql sampled(Sql condition, Order order, int size, long seed) {
        Scope taken = Page.taken(Scope.all(REGISTER), condition, order, new RowSlice.Sample(size, seed));
        return Page.all(taken, Sql.of("true"), order, List.of());
    }

    private static List<Long> numbers(Sql sql) throws SQLException {
        return list(sql, 0).stream().map(r -> (Long) r.get(0)).toList();
    }

    @Test
    void theGroupsOfALevelHoldEachMatchingRecordOnce() throws SQLException {
        Generate generate = new Generate(SEED + 12);
        int groupsSeen = 0;
        for (int round = 0; round < 200; round++) {
            Reading reading = anyCalendar(generate, generate.zone());
            Bound bound = binder(generate).bind(generate.condition(3));
            Predicate<Row> matches = Matcher.of(REGISTER, bound);
            Groups.Level level = level(generate);
            Measures measures = new Measures(measures(generate), round % 2 == 0);
            List<List<Object>> groups = table(
                    Groups.of(
                            Scope.all(REGISTER),
                            Where.of(bound),
                            level,
                            Groups.Arrangement.values()[round % 3],
                            measures,
                            reading,
                            10_000),
                    2 + measures.width());
            List<List<Object>> whole =
                    table(Groups.whole(Scope.all(REGISTER), Where.of(bound), measures), 1 + measures.width());
            List<Object[]> matching =
                    rows.stream().filter(row -> matches.test(at -> row[at])).toList();
            assertThat(whole.getFirst().getFirst()).isEqualTo((long) matching.size());
            assertMeasured(measures, whole.getFirst().subList(1, 1 + measures.width()), matching);
            BitSet seen = new BitSet();
            for (int g = 0; g < groups.size(); g++) {
                List<Object> group = groups.get(g);
                assertThat(group.get(0) == null && g < groups.size() - 1)
                        .as("the group without a value comes last")
                        .isFalse();
                Bound within =
                        Groups.within(level, Optional.ofNullable(group.get(0)).map(v -> read(level, v)), reading);
                Predicate<Row> inside = Matcher.of(REGISTER, within);
                List<Object[]> held = new ArrayList<>();
                for (int i = 0; i < ROWS; i++) {
                    Object[] row = rows.get(i);
                    if (!matches.test(at -> row[at]) || !inside.test(at -> row[at])) {
                        continue;
                    }
                    assertThat(seen.get(i)).as("in one group only").isFalse();
                    seen.set(i);
                    held.add(row);
                }
                assertThat(group.get(1)).as("%s of %s", group.get(0), level).isEqualTo((long) held.size());
                assertMeasured(measures, group.subList(2, 2 + measures.width()), held);
                groupsSeen++;
            }
            assertThat(seen.cardinality()).as("%s", level).isEqualTo(matching.size());
        }
        assertThat(groupsSeen).isGreaterThan(1_000);
    }

    /**
     * Each figure of totals is that of the records behind it: those of the condition, under the keys of its row and column; and the
     * statement that a person is given for them finds them and no others.
     */
    @Test
    void everyTotalIsWhatTheRecordsBehindItComeTo() throws SQLException {
        Generate generate = new Generate(SEED + 13);
        Set<Class<?>> levelsSeen = new java.util.HashSet<>();
        int cells = 0;
        int left = 0;
        for (int round = 0; round < 150; round++) {
            ZoneId zone = generate.zone();
            Reading reading = anyCalendar(generate, zone);
            Bound bound = binder(generate).bind(generate.condition(3));
            Predicate<Row> matches = Matcher.of(REGISTER, bound);
            List<Object[]> matching =
                    rows.stream().filter(row -> matches.test(at -> row[at])).toList();
            List<Groups.Level> levels = new ArrayList<>();
            for (int n = generate.random().nextInt(Totals.MAX_ROWS + 1); n > 0; n--) {
                levels.add(level(generate));
            }
            Optional<Groups.Level> across =
                    generate.random().nextBoolean() ? Optional.of(level(generate)) : Optional.empty();
            Measures measures = new Measures(
                    List.of(
                            new Measure(Measure.Function.COUNT, Optional.empty()),
                            measures(generate).get(0),
                            measures(generate).get(1)),
                    round % 2 == 0);
            boolean kept = !levels.isEmpty() && generate.random().nextBoolean();
            long least = 1 + generate.random().nextInt(4);
            Optional<Bound> keep = kept ? Optional.of(atLeast(Totals.figure(0), least)) : Optional.empty();
            Totals totals = new Totals(levels, across, measures, keep, Optional.empty());
            List<Groups.Level> all = totals.levels();
            int first = 2 + all.size();
            List<List<Object>> found = table(
                    totals.select(Scope.all(REGISTER), Where.of(bound), Optional.empty(), reading, 100_000),
                    first + 1 + measures.width());
            // Which rows are large enough is told by the same totals with none left out, whose figures are held against
            // memory.
            List<Predicate<Row>> stay = new ArrayList<>();
            if (kept) {
                Totals plain = new Totals(levels, Optional.empty(), measures, Optional.empty(), Optional.empty());
                for (List<Object> row : table(
                        plain.select(Scope.all(REGISTER), Where.of(bound), Optional.empty(), reading, 100_000),
                        3 + levels.size())) {
                    if (((Number) row.get(1)).intValue() == 0 && (Long) row.get(2 + levels.size()) >= least) {
                        List<Bound> keys = new ArrayList<>();
                        for (int i = 0; i < levels.size(); i++) {
                            Groups.Level level = levels.get(i);
                            keys.add(Groups.within(
                                    level, Optional.ofNullable(row.get(2 + i)).map(v -> read(level, v)), reading));
                        }
                        stay.add(Matcher.of(REGISTER, new Bound.Every(keys)));
                    }
                }
            }
            long innermost = 0;
            for (List<Object> cell : found) {
                boolean whole = (Boolean) cell.get(0);
                int rolledUp = ((Number) cell.get(1)).intValue();
                List<Bound> inside = new ArrayList<>();
                List<Condition> said = new ArrayList<>();
                boolean sayable = true;
                for (int i = 0; i < all.size(); i++) {
                    if ((rolledUp >> (all.size() - 1 - i) & 1) == 0) {
                        Groups.Level level = all.get(i);
                        Optional<Object> value =
                                Optional.ofNullable(cell.get(2 + i)).map(v -> read(level, v));
                        inside.add(Groups.within(level, value, reading));
                        Optional<Condition> criterion = Groups.criterion(level, value, reading);
                        criterion.ifPresent(said::add);
                        sayable &= criterion.isPresent();
                        levelsSeen.add(level.getClass());
                    }
                }
                Predicate<Row> here = Matcher.of(REGISTER, new Bound.Every(inside));
                boolean isRow = !whole
                        && (rolledUp >> (across.isPresent() ? 1 : 0)) == 0
                        && (across.isEmpty() || (rolledUp & 1) == 1);
                List<Object[]> held = matching.stream()
                        .filter(row -> here.test(at -> row[at]))
                        .filter(row -> whole || !kept || stay.stream().anyMatch(p -> p.test(at -> row[at])))
                        .toList();
                assertThat(cell.get(first)).as("%s %s", totals, cell).isEqualTo((long) held.size());
                assertMeasured(measures, cell.subList(first + 1, first + 1 + measures.width()), held);
                if (sayable && (whole || !kept || isRow)) {
                    Bound words = new Binder(REGISTER, reading, Viewer.NOBODY).bind(new Condition.All(said));
                    assertThat(ids(new Sql()
                                            .add("select id from things where ")
                                            .add(Where.of(new Bound.Every(List.of(bound, words)))))
                                    .cardinality())
                            .as("%s of %s", said, cell)
                            .isEqualTo(held.size());
                }
                innermost += isRow ? held.size() : 0;
                cells++;
            }
            left += kept && innermost < matching.size() ? 1 : 0;
            if (!kept) {
                assertThat(innermost).isEqualTo(matching.size());
            }
        }
        assertThat(cells).isGreaterThan(2_000);
        assertThat(left).as("rounds that leave rows out").isGreaterThan(10);
        assertThat(levelsSeen).containsExactlyInAnyOrder(Groups.Level.class.getPermittedSubclasses());
    }

    /** Some of the outermost rows are what they are among all, and the line under them is of their records alone. */
    @Test
    void someOfTheOutermostRowsAreTotalsOfTheirRecords() throws SQLException {
        Generate generate = new Generate(SEED + 31);
        int compared = 0;
        for (int round = 0; round < 80; round++) {
            Reading reading = anyCalendar(generate, generate.zone());
            Bound bound = new Binder(REGISTER, reading, Viewer.NOBODY).bind(generate.condition(2));
            List<Groups.Level> levels = new ArrayList<>();
            for (int n = generate.random().nextInt(Totals.MAX_ROWS); n >= 0; n--) {
                levels.add(level(generate));
            }
            Measures measures = new Measures(
                    List.of(
                            new Measure(Measure.Function.COUNT, Optional.empty()),
                            measures(generate).get(0),
                            measures(generate).get(1)),
                    round % 2 == 0);
            Totals totals = new Totals(
                    levels,
                    generate.random().nextBoolean() ? Optional.of(level(generate)) : Optional.empty(),
                    measures,
                    generate.random().nextInt(3) == 0 ? Optional.of(atLeast(Totals.figure(0), 2)) : Optional.empty(),
                    Optional.empty());
            int width = 3 + totals.levels().size() + totals.width();
            int innermost = (1 << totals.levels().size()) - 1;
            // The outermost rows, each with the text that tells it apart.
            List<List<Object>> outermost = table(
                            totals.select(
                                    Scope.all(REGISTER),
                                    Where.of(bound),
                                    Optional.empty(),
                                    new Totals.Outermost.Told(),
                                    reading,
                                    100_000),
                            width + 1)
                    .stream()
                    .filter(cell -> !(Boolean) cell.get(0) && ((Number) cell.get(1)).intValue() == innermost >> 1)
                    .toList();
            assertThat(outermost.stream().map(List::getLast))
                    .doesNotHaveDuplicates()
                    .doesNotContainNull();
            if (outermost.size() < 2) {
                continue;
            }
            List<String> texts = new ArrayList<>();
            List<Bound> within = new ArrayList<>();
            for (List<Object> row : outermost) {
                if (texts.isEmpty() || generate.random().nextInt(3) == 0) {
                    texts.add((String) row.getLast());
                    within.add(Groups.within(
                            levels.getFirst(),
                            Optional.ofNullable(row.get(2)).map(v -> read(levels.getFirst(), v)),
                            reading));
                }
            }
            List<List<Object>> some = table(
                    totals.select(
                            Scope.all(REGISTER),
                            Where.of(bound),
                            Optional.empty(),
                            new Totals.Outermost.Only(texts),
                            reading,
                            100_000),
                    width);
            List<List<Object>> narrowed = table(
                    totals.select(
                            Scope.all(REGISTER),
                            Where.of(new Bound.Every(List.of(bound, new Bound.Some(within)))),
                            Optional.empty(),
                            reading,
                            100_000),
                    width);
            assertThat(shown(some, false)).as("%s", totals).isEqualTo(shown(narrowed, false));
            List<List<Object>> whole = table(
                    new Totals(List.of(), totals.across(), measures, Optional.empty(), Optional.empty())
                            .select(Scope.all(REGISTER), Where.of(bound), Optional.empty(), reading, 100_000),
                    width - levels.size());
            assertThat(shown(some, true).stream()
                            .map(cell -> cell.subList(2 + levels.size(), width))
                            .toList())
                    .isEqualTo(whole.stream()
                            .map(cell -> cell.subList(2, width - levels.size()))
                            .toList());
            compared++;
        }
        assertThat(compared).isGreaterThan(40);
    }

    private static List<List<Object>> shown(List<List<Object>> cells, boolean whole) {
        return cells.stream().filter(cell -> whole == (Boolean) cell.get(0)).toList();
    }

    /** Figures of an earlier time stand in the rows and columns of now, whatever is moved and however far. */
    @Test
    void everyEarlierFigureIsWhatTheRecordsBehindItComeTo() throws SQLException {
        Generate generate = new Generate(SEED + 14);
        List<String> windows = List.of(
                "in this month",
                "in 2026-Q1",
                "in 2026",
                "in last 30 days",
                "in 2024-02",
                "in this fiscal year",
                "between 2026-03-30 and 2026-10-25",
                "in last 3 years");
        List<Field> dates =
                REGISTER.stored().stream().filter(f -> f.type().isTemporal()).toList();
        int cells = 0;
        int moved = 0;
        for (int round = 0; round < 120; round++) {
            Reading reading = anyCalendar(generate, generate.zone());
            Field date = generate.pick(dates);
            Condition window = new Reader(REGISTER, Set.of()).read("[" + date.label() + "] " + generate.pick(windows));
            Condition condition = round % 3 == 0
                    ? window
                    : new Condition.All(
                            List.of(new Condition.Any(List.of(generate.condition(2), generate.condition(2))), window));
            Comparison comparison = Comparison.of(
                            condition, generate.pick(List.of(Comparison.With.values())), date.key(), REGISTER, reading)
                    .orElseThrow();
            Binder binder = new Binder(REGISTER, reading, Viewer.NOBODY);
            Bound now = binder.bind(condition);
            Bound then = binder.bind(comparison.condition());
            List<Groups.Level> levels = new ArrayList<>();
            for (int n = generate.random().nextInt(3); n > 0; n--) {
                levels.add(level(generate));
            }
            Histogram.Step step = generate.pick(List.of(Histogram.Step.values()));
            levels.add(new Groups.Level.Periods(
                    date, date.type() == FieldType.DATE && step == Histogram.Step.HOUR ? Histogram.Step.DAY : step));
            Optional<Groups.Level> across =
                    generate.random().nextBoolean() ? Optional.of(levels.removeLast()) : Optional.empty();
            boolean kept = !levels.isEmpty() && generate.random().nextInt(3) == 0;
            Measures measures = new Measures(
                    List.of(measures(generate).get(0), measures(generate).get(1)), round % 2 == 0);
            Totals totals = new Totals(
                    levels,
                    across,
                    measures,
                    kept ? Optional.of(atLeast(Totals.figure(0), 1)) : Optional.empty(),
                    Optional.empty());
            if (kept) {
                totals = new Totals(
                        levels,
                        across,
                        new Measures(List.of(new Measure(Measure.Function.COUNT, Optional.empty())), false),
                        Optional.of(atLeast(Totals.figure(0), 1)),
                        Optional.empty());
            }
            List<Groups.Level> all = totals.levels();
            int first = 2 + all.size();
            int width = 1 + totals.measures().width();
            List<Object[]> matching = matching(now);
            List<Object[]> earlier = matching(then);
            List<Predicate<Row>> stay = new ArrayList<>();
            long innermost = 0;
            List<List<Object>> found = table(
                    totals.select(
                            Scope.all(REGISTER),
                            Where.of(now),
                            Optional.of(Totals.Earlier.compared(Where.of(then), date, comparison.shift())),
                            reading,
                            100_000),
                    first + 2 * width);
            for (List<Object> cell : found) {
                boolean isRow =
                        !(Boolean) cell.get(0) && ((Number) cell.get(1)).intValue() == (across.isPresent() ? 1 : 0);
                if (kept && isRow) {
                    stay.add(Matcher.of(REGISTER, binder.bind(behind(all, cell, comparison, reading))));
                }
            }
            for (List<Object> cell : found) {
                List<Bound> inside = new ArrayList<>();
                for (int i = 0; i < all.size(); i++) {
                    if ((((Number) cell.get(1)).intValue() >> (all.size() - 1 - i) & 1) == 0) {
                        Groups.Level level = all.get(i);
                        inside.add(Groups.within(
                                level, Optional.ofNullable(cell.get(2 + i)).map(v -> read(level, v)), reading));
                    }
                }
                Predicate<Row> here = Matcher.of(REGISTER, new Bound.Every(inside));
                Predicate<Row> there = Matcher.of(REGISTER, binder.bind(behind(all, cell, comparison, reading)));
                boolean whole = (Boolean) cell.get(0);
                List<Object[]> heldThen = earlier.stream()
                        .filter(row -> there.test(at -> row[at]))
                        .filter(row -> whole || !kept || stay.stream().anyMatch(p -> p.test(at -> row[at])))
                        .toList();
                assertThat(cell.get(first + width))
                        .as("%s %s %s", totals, comparison, cell)
                        .isEqualTo((long) heldThen.size());
                assertMeasured(totals.measures(), cell.subList(first + width + 1, first + 2 * width), heldThen);
                if (!kept) {
                    List<Object[]> heldNow = matching.stream()
                            .filter(row -> here.test(at -> row[at]))
                            .toList();
                    assertThat(cell.get(first)).as("%s", cell).isEqualTo((long) heldNow.size());
                    assertMeasured(totals.measures(), cell.subList(first + 1, first + width), heldNow);
                }
                innermost += ((Number) cell.get(1)).intValue() == 0 ? heldThen.size() : 0;
                moved += heldThen.size();
                cells++;
            }
            if (!kept && !all.isEmpty()) {
                // Every record of the earlier time stands somewhere.
                assertThat(innermost).isEqualTo(earlier.size());
            }
        }
        assertThat(cells).isGreaterThan(1_000);
        assertThat(moved).isGreaterThan(1_000);
    }

    private static List<Object[]> matching(Bound bound) {
        Predicate<Row> matches = Matcher.of(REGISTER, bound);
        return rows.stream().filter(row -> matches.test(at -> row[at])).toList();
    }

    /** The records of an earlier time that stand in a cell, in the language. */
    private static Condition behind(
            List<Groups.Level> levels, List<Object> cell, Comparison comparison, Reading reading) {
        List<Condition> parts = new ArrayList<>();
        for (int i = 0; i < levels.size(); i++) {
            if ((((Number) cell.get(1)).intValue() >> (levels.size() - 1 - i) & 1) == 0) {
                Groups.Level level = levels.get(i);
                Optional<Object> value = Optional.ofNullable(cell.get(2 + i)).map(v -> read(level, v));
                parts.add(
                        level instanceof Groups.Level.Periods periods
                                        && value.isPresent()
                                        && periods.field().equals(comparison.field())
                                ? Groups.criterion(
                                                periods,
                                                value.get(),
                                                comparison.shift().orElseThrow(),
                                                reading)
                                        .orElseGet(() -> new Condition.None(List.of(Condition.EVERYTHING)))
                                : Groups.criterion(level, value, reading).orElseThrow());
            }
        }
        return new Condition.All(parts);
    }

    /** One moment by any week and any fiscal year. */
    private static Reading anyCalendar(Generate generate, ZoneId zone) {
        return new Reading(
                Instant.parse("2026-11-23T09:30:00Z"),
                zone,
                DayOfWeek.of(1 + generate.random().nextInt(7)),
                Month.of(1 + generate.random().nextInt(12)),
                WorkingCalendar.standard());
    }

    private static Bound atLeast(String column, long least) {
        return new Bound.NumberRange(
                Field.of(column, column, FieldType.NUMBER),
                Optional.of(BigDecimal.valueOf(least)),
                true,
                Optional.empty(),
                true);
    }

    /** A handful of measures, over the rounds each that fits some field of the register. */
    private static List<Measure> measures(Generate generate) {
        List<Measure> all = new ArrayList<>(List.of(new Measure(Measure.Function.COUNT, Optional.empty())));
        for (Field field : REGISTER.stored()) {
            Measure.Function.of(field.type())
                    .forEach(f -> all.add(
                            f == Measure.Function.PERCENTILE
                                    ? Measure.percentile(1 + generate.random().nextInt(99), field)
                                    : Measure.of(f, field)));
        }
        Collections.shuffle(all, generate.random());
        return all.subList(0, 6);
    }

    private static void assertMeasured(Measures measures, List<Object> figures, List<Object[]> held) {
        for (int m = 0; m < measures.measures().size(); m++) {
            Measure measure = measures.measures().get(m);
            Object figure = figures.get(m);
            Optional<Object> expected = measured(measure, held);
            assertThat(Optional.ofNullable(figure).isPresent())
                    .as("%s", measure)
                    .isEqualTo(expected.isPresent());
            if (expected.isEmpty()) {
                continue;
            }
            switch (expected.get()) {
                case BigDecimal number
                when measure.function() == Measure.Function.AVERAGE ->
                    assertThat(new BigDecimal(figure.toString()))
                            .as("%s", measure)
                            .isCloseTo(number, within(new BigDecimal("1e-9")));
                case BigDecimal number ->
                    assertThat(new BigDecimal(figure.toString()))
                            .as("%s", measure)
                            .isEqualByComparingTo(number);
                case Object other -> assertThat(figure).as("%s", measure).isEqualTo(other);
            }
        }
    }

    /** What a measure is, reckoned in memory. */
    private static Optional<Object> measured(Measure measure, List<Object[]> held) {
        if (measure.field().isEmpty()) {
            return Optional.of(BigDecimal.valueOf(held.size()));
        }
        int at = REGISTER.stored().indexOf(measure.field().get());
        List<Object> values = held.stream()
                .map(row -> row[at])
                .filter(v -> v != null && !v.equals(""))
                .toList();
        if (measure.function() == Measure.Function.DISTINCT) {
            // 1.5 and 1.50 are one number.
            return Optional.of(BigDecimal.valueOf(values.stream()
                    .map(v -> v instanceof BigDecimal n ? n.stripTrailingZeros() : v)
                    .distinct()
                    .count()));
        }
        if (values.isEmpty()) {
            return Optional.empty();
        }
        List<Object> sorted = values.stream().sorted().toList();
        return Optional.of(
                switch (measure.function()) {
                    case COUNT, DISTINCT -> throw new IllegalStateException();
                    case SUM -> sum(values);
                    case AVERAGE -> sum(values).divide(BigDecimal.valueOf(values.size()), MathContext.DECIMAL128);
                    case MEDIAN ->
                        ((BigDecimal) sorted.get((sorted.size() - 1) / 2))
                                .add((BigDecimal) sorted.get(sorted.size() / 2))
                                .divide(BigDecimal.TWO);
                    case PERCENTILE -> sorted.get((measure.percent().orElseThrow() * sorted.size() + 99) / 100 - 1);
                    case MIN -> sorted.getFirst();
                    case MAX -> sorted.getLast();
                });
    }

    private static BigDecimal sum(List<Object> values) {
        return values.stream().map(BigDecimal.class::cast).reduce(BigDecimal.ZERO, BigDecimal::add);
    }

    private static Groups.Level level(Generate generate) {
        List<Field> fields = REGISTER.stored().stream()
                .filter(f -> f.type() != deftlens.core.field.FieldType.TAGS)
                .toList();
        Field field = fields.get(generate.random().nextInt(fields.size()));
        if (field.type().isTemporal()) {
            List<Histogram.Step> steps = List.of(Histogram.Step.values());
            boolean clocked = field.type() == FieldType.MOMENT;
            int way = generate.random().nextInt(clocked ? 4 : 3);
            if (way == 1) {
                return new Groups.Level.Parts(
                        field, generate.pick(List.of(deftlens.core.condition.Test.Part.values())));
            }
            if (way == 3) {
                return new Groups.Level.Hours(field);
            }
            int first = clocked ? 0 : 1;
            return new Groups.Level.Periods(
                    field, steps.get(first + generate.random().nextInt(steps.size() - first)));
        }
        if (field.type() == FieldType.TIME && generate.random().nextBoolean()) {
            return new Groups.Level.Hours(field);
        }
        if (!field.bands().isEmpty() && generate.random().nextBoolean()) {
            return new Groups.Level.Bands(
                    field,
                    field.bands().stream()
                            .map(b -> binder(generate)
                                    .bind(Condition.Criterion.of(
                                            field.key(), deftlens.core.condition.Test.Banded.of(b.name()))))
                            .toList());
        }
        return new Groups.Level.Values(field);
    }

    /** The value of a group as it is asked for. */
    private static Object read(Groups.Level level, Object value) {
        return switch (level) {
            case Groups.Level.Periods(Field field, Histogram.Step step) -> {
                LocalDateTime start = LocalDateTime.parse(value.toString().replace(' ', 'T'));
                yield step == Histogram.Step.HOUR ? start : start.toLocalDate();
            }
            case Groups.Level.Bands b -> ((Number) value).intValue();
            case Groups.Level.Parts p -> ((Number) value).intValue();
            case Groups.Level.Hours h -> ((Number) value).intValue();
            case Groups.Level.Values v ->
                switch (value) {
                    case Number n -> new java.math.BigDecimal(n.toString());
                    case java.sql.Time t -> java.time.LocalTime.parse(t.toString());
                    default -> value;
                };
        };
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

    /** Rows that begin with a record's number. */
    private static List<List<Object>> list(Sql sql, int more) throws SQLException {
        return table(sql, 1 + more);
    }

    private static Binder binder(Generate generate) {
        return Things.binder(generate);
    }

    private static BitSet ids(Sql sql) throws SQLException {
        return things.ids(sql);
    }

    private static List<List<Object>> table(Sql sql, int columns) throws SQLException {
        return things.table(sql, columns);
    }

    private static PreparedStatement prepare(Sql sql) throws SQLException {
        return things.prepare(sql);
    }
}
