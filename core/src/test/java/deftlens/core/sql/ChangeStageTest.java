package deftlens.core.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.core.Generate;
import deftlens.core.change.Assignment;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.time.LocalTimes;
import deftlens.core.time.Unit;
import java.math.BigDecimal;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Collection;
import java.util.EnumSet;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Changes of many records in real PostgreSQL beside the same in memory, over random records. */
class ChangeStageTest {

    private static final long SEED = Long.getLong("deft.seed", 7919);
    private static final int ROWS = 120;
    private static final Register REGISTER = Generate.REGISTER;
    private static final List<Unit> UNITS =
            List.of(Unit.MINUTE, Unit.HOUR, Unit.DAY, Unit.WEEK, Unit.MONTH, Unit.QUARTER, Unit.YEAR);
    private static Things things;

    @BeforeAll
    static void load() throws SQLException {
        things = new Things("core_change_stage", SEED, ROWS);
        things.connection().setAutoCommit(false);
        execute("alter table things add \"@since\" bigint");
        // As in tables of our own, where tags are never null.
        execute("update things set tags = '{}' where tags is null");
        things.connection().commit();
    }

    @AfterEach
    void forget() throws SQLException {
        things.connection().rollback();
    }

    @AfterAll
    static void close() throws SQLException {
        things.close();
    }

    private static void execute(String sql) throws SQLException {
        try (Statement statement = things.connection().createStatement()) {
            statement.execute(sql);
        }
    }

    private static void run(Sql sql) throws SQLException {
        try (PreparedStatement statement = things.prepare(sql)) {
            statement.execute();
        }
    }

    /** How many records a statement wrote. */
    private static long written(Sql sql) throws SQLException {
        try (PreparedStatement statement = things.prepare(sql)) {
            return statement.executeUpdate();
        }
    }

    private static List<Long> numbers(Sql sql) throws SQLException {
        try (PreparedStatement statement = things.prepare(sql);
                ResultSet row = statement.executeQuery()) {
            row.next();
            List<Long> numbers = new ArrayList<>();
            for (int i = 1; i <= row.getMetaData().getColumnCount(); i++) {
                numbers.add(row.getLong(i));
            }
            return numbers;
        }
    }

    /** A random assignment, with the type it is about. */
    private static Assignment assignment(Generate generate, Field field) {
        List<Assignment.Act> fitting = java.util.Arrays.stream(Assignment.Act.values())
                .filter(a -> a.fits(field.type()))
                .toList();
        Object[] row = generate.row(generate.zone());
        return switch (generate.pick(fitting)) {
            case SET -> {
                Optional<Object> value =
                        Optional.ofNullable(row[Generate.at(field.key())]).filter(v -> !v.equals(""));
                yield new Assignment.Set(field, value.isEmpty() && field.required() ? Optional.of("something") : value);
            }
            case ADD ->
                new Assignment.Add(field, BigDecimal.valueOf(generate.random().nextInt(41) - 20));
            case MOVE -> {
                Unit unit = generate.pick(field.type() == FieldType.DATE ? UNITS.subList(2, UNITS.size()) : UNITS);
                yield new Assignment.Move(field, generate.random().nextInt(81) - 40, unit);
            }
            case TAG -> new Assignment.Tag(field, generate.pick(List.of("Safety", "a,b", "new")), true);
            case UNTAG -> new Assignment.Tag(field, generate.pick(List.of("Safety", "a,b", "new")), false);
            case TAKE ->
                new Assignment.Take(
                        field,
                        generate.pick(REGISTER.stored().stream()
                                .filter(f -> f.type() == field.type())
                                .toList()));
        };
    }

    private static Object becomes(Assignment assignment, Object[] row, ZoneId zone) {
        Object value = row[Generate.at(assignment.field().key())];
        return switch (assignment) {
            case Assignment.Set(Field _, Optional<Object> set) -> set.orElse(null);
            case Assignment.Add(Field _, BigDecimal amount) -> value == null ? null : ((BigDecimal) value).add(amount);
            case Assignment.Move(Field _, int count, Unit unit) ->
                value == null ? null : moved(value, count, unit, zone);
            case Assignment.Tag(Field _, String tag, boolean on) -> {
                List<Object> tags = new ArrayList<>(value == null ? List.of() : (Collection<?>) value);
                if (!on) {
                    tags.removeIf(tag::equals);
                } else if (!tags.contains(tag)) {
                    tags.add(tag);
                }
                yield tags;
            }
            case Assignment.Take(Field _, Field other) -> row[Generate.at(other.key())];
        };
    }

    private static Object moved(Object value, int count, Unit unit, ZoneId zone) {
        if (value instanceof LocalDate day) {
            return later(day.atStartOfDay(), count, unit).toLocalDate();
        }
        Instant moment = (Instant) value;
        return switch (unit) {
            case MINUTE -> moment.plusSeconds(60L * count);
            case HOUR -> moment.plusSeconds(3_600L * count);
            default -> LocalTimes.instant(later(LocalDateTime.ofInstant(moment, zone), count, unit), zone);
        };
    }

    private static LocalDateTime later(LocalDateTime from, int count, Unit unit) {
        return switch (unit) {
            case DAY -> from.plusDays(count);
            case WEEK -> from.plusWeeks(count);
            case MONTH -> from.plusMonths(count);
            case QUARTER -> from.plusMonths(3L * count);
            case YEAR -> from.plusYears(count);
            default -> throw new IllegalArgumentException(unit.name());
        };
    }

    /** A value as it is compared: no empty text, numbers by their value, tags as a list. */
    private static Object plain(Object value) throws SQLException {
        return switch (value) {
            case null -> null;
            case String text when text.isEmpty() -> null;
            case BigDecimal number -> number.stripTrailingZeros();
            case Integer number -> BigDecimal.valueOf(number).stripTrailingZeros();
            case java.sql.Array array -> plain(List.of((Object[]) array.getArray()));
            case Collection<?> tags -> tags.isEmpty() ? null : List.copyOf(tags);
            default -> value;
        };
    }

    @Test
    void sqlAndMemoryAgreeOnRandomChanges() throws SQLException {
        Generate generate = new Generate(SEED + 5);
        Set<Assignment.Act> acts = EnumSet.noneOf(Assignment.Act.class);
        long changedAtAll = 0;
        long refusedAtAll = 0;
        for (int round = 0; round < 250; round++) {
            ZoneId zone = generate.zone();
            List<Assignment> assignments = new ArrayList<>();
            List<Field> fields = new ArrayList<>(REGISTER.stored());
            java.util.Collections.shuffle(fields, generate.random());
            for (Field field : fields.subList(0, 1 + generate.random().nextInt(3))) {
                assignments.add(assignment(generate, field));
            }
            assignments.forEach(a -> acts.add(a.act()));
            ChangeStage stage = new ChangeStage(REGISTER, assignments, zone);
            int from = generate.random().nextInt(ROWS);
            run(stage.make(Sql.of("select id as c0 from things where id >= " + from), Optional.empty()));
            for (Sql sql : stage.prepare()) {
                run(sql);
            }
            String as = round + " " + assignments;
            long changes = 0;
            List<List<Object>> staged = things.table(
                    Sql.of("select id, changed" + columns(assignments.size()) + " from deft_changes order by id"),
                    2 + 2 * assignments.size());
            assertThat(staged).as(as).hasSize(ROWS - from);
            for (List<Object> row : staged) {
                Object[] values = things.rows().get(((Long) row.get(0)).intValue());
                boolean changed = false;
                for (int i = 0; i < assignments.size(); i++) {
                    Object was =
                            plain(values[Generate.at(assignments.get(i).field().key())]);
                    Object is = plain(becomes(assignments.get(i), values, zone));
                    assertThat(plain(row.get(2 + 2 * i))).as(as).isEqualTo(was);
                    assertThat(plain(row.get(3 + 2 * i))).as(as).isEqualTo(is);
                    changed |= !Objects.equals(was, is);
                }
                assertThat(row.get(1)).as(as).isEqualTo(changed);
                changes += changed ? 1 : 0;
            }
            List<Long> total = numbers(ChangeStage.total());
            assertThat(total.subList(0, 2)).as(as).containsExactly((long) ROWS - from, changes);
            for (int i = 0; i < assignments.size(); i++) {
                long steps = 0;
                List<List<Object>> told = things.table(stage.steps(i, 10_000), 3);
                for (List<Object> step : told) {
                    steps += (Long) step.get(2);
                }
                assertThat(numbers(stage.extent(i))).as(as).containsExactly((long) told.size(), steps);
            }
            long refused = 0;
            for (ChangeStage.Refusal refusal : stage.refusals(Optional.empty())) {
                refused += numbers(new Sql()
                                .add("select count(*) from deft_changes where ")
                                .add(refusal.where()))
                        .getFirst();
            }
            refusedAtAll += refused;
            if (refused == 0) {
                assertThat(written(stage.write())).as(as).isEqualTo(changes);
                // Written again nothing is left to do.
                assertThat(numbers(Sql.of(
                                "select count(*) from (select t.* from things t join deft_changes s on s.id = t.id"
                                        + " where s.changed and row(" + written(assignments) + ") is distinct from row("
                                        + becoming(assignments.size()) + ")) x")))
                        .as(as)
                        .containsExactly(0L);
            }
            changedAtAll += changes;
            things.connection().rollback();
        }
        assertThat(acts).containsExactlyInAnyOrder(Assignment.Act.values());
        assertThat(changedAtAll).isGreaterThan(5_000);
        assertThat(refusedAtAll).isPositive();
    }

    private static String columns(int assignments) {
        return IntStream.range(0, assignments)
                .mapToObj(i -> ", v" + i + ", n" + i)
                .collect(Collectors.joining());
    }

    private static String written(List<Assignment> assignments) {
        return assignments.stream().map(a -> "t." + Where.column(a.field())).collect(Collectors.joining(", "));
    }

    private static String becoming(int assignments) {
        return IntStream.range(0, assignments).mapToObj(i -> "s.n" + i).collect(Collectors.joining(", "));
    }

    @Test
    void whatAnybodyWritesMeanwhileGivesAnotherMark() throws SQLException {
        ChangeStage stage = new ChangeStage(
                REGISTER,
                List.of(new Assignment.Set(field("severity"), Optional.of(BigDecimal.ONE))),
                ZoneId.of("UTC"));
        Sql all = Sql.of("select id as c0 from things where id < 10");
        long first = mark(stage, all);
        assertThat(mark(stage, all)).isEqualTo(first);
        assertThat(mark(stage, Sql.of("select id as c0 from things where id < 11")))
                .isNotEqualTo(first);
        execute("update things set \"@since\" = 7 where id = 3");
        assertThat(mark(stage, all)).isNotEqualTo(first);
    }

    private static long mark(ChangeStage stage, Sql numbers) throws SQLException {
        run(stage.make(numbers, Optional.empty()));
        long mark = numbers(ChangeStage.total()).get(2);
        execute("drop table deft_changes");
        return mark;
    }

    /** Closed is what lies before a day, and what would. */
    @Test
    void recordsOfAClosedPeriodAreRefused() throws SQLException {
        Field due = field("due");
        LocalDate open = LocalDate.of(2026, 11, 20);
        ChangeStage moving =
                new ChangeStage(REGISTER, List.of(new Assignment.Move(due, -30, Unit.DAY)), ZoneId.of("UTC"));
        run(moving.make(Sql.of("select id as c0 from things"), Optional.of(due)));
        ChangeStage.Refusal closed =
                moving.refusals(Optional.of(new ChangeStage.Closed(due, open))).getFirst();
        assertThat(closed.reason()).isEqualTo(ChangeStage.Reason.CLOSED);
        long refused = numbers(new Sql()
                        .add("select count(*) from deft_changes where ")
                        .add(closed.where()))
                .getFirst();
        assertThat(refused)
                .isPositive()
                .isEqualTo(things.rows().stream()
                        .map(r -> (LocalDate) r[Generate.at("due")])
                        .filter(d -> d != null && d.minusDays(30).isBefore(open))
                        .count());
    }

    @Test
    void recordsAreTakenAway() throws SQLException {
        ChangeStage stage = new ChangeStage(REGISTER, List.of(), ZoneId.of("UTC"));
        run(stage.make(Sql.of("select id as c0 from things where id < 7"), Optional.empty()));
        assertThat(numbers(ChangeStage.total()).subList(0, 2)).containsExactly(7L, 7L);
        assertThat(written(stage.write())).isEqualTo(7);
        assertThat(numbers(Sql.of("select count(*) from things"))).containsExactly(ROWS - 7L);
    }

    @Test
    void whatDoesNotFitIsNoAssignment() {
        assertThatThrownBy(() -> new Assignment.Add(field("title"), BigDecimal.ONE))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new Assignment.Set(field("code"), Optional.empty()))
                .hasMessageContaining("needed in every record");
        assertThatThrownBy(() -> new Assignment.Move(field("due"), 1, Unit.HOUR))
                .hasMessageContaining("time of day");
        assertThatThrownBy(() -> new Assignment.Move(field("due"), 1, Unit.WORKING_DAY))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new Assignment.Move(field("due"), 10_000, Unit.DAY))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new Assignment.Take(field("due"), field("title")))
                .isInstanceOf(IllegalArgumentException.class);
        Assignment twice = new Assignment.Add(field("severity"), BigDecimal.ONE);
        assertThatThrownBy(() -> new ChangeStage(REGISTER, List.of(twice, twice), ZoneId.of("UTC")))
                .hasMessageContaining("once");
    }

    private static Field field(String key) {
        return REGISTER.field(key).orElseThrow();
    }
}
