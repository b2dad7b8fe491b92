package deftlens.server.records;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.core.sql.Undo;
import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSet.Kind;
import deftlens.server.changes.ChangeSets;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.ToLongFunction;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.springframework.transaction.support.TransactionTemplate;

/** Changes are taken back, and records tell what was done to them: held against a diary in memory over random changes. */
@ExtendWith(TestServer.class)
class WayBackTest {

    private static final long SEED = Long.getLong("deft.seed", 4711);
    private static RegisterForReader register;

    @BeforeAll
    static void make() {
        RegisterCatalogue catalogue = TestServer.bean(RegisterCatalogue.class);
        catalogue.add(new RegisterDefinition(
                "barrels",
                "Barrels",
                "barrel",
                "filled",
                "number",
                true,
                List.of(
                        new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()).identifying(),
                        new FieldDefinition("filled", "Filled", FieldType.DATE, false, true, List.of()),
                        new FieldDefinition("amount", "Amount", FieldType.MONEY, false, true, List.of()),
                        new FieldDefinition("labels", "Labels", FieldType.TAGS, false, true, List.of()))));
        register = catalogue.whole("barrels").orElseThrow();
    }

    @AfterAll
    static void leave() {
        Caller.signedIn("ada").delete("/api/registers/barrels");
    }

    @BeforeEach
    void empty() throws SQLException {
        TestServer.sql("delete from records.barrels");
    }

    /** What a set of changes made of the records: what each was, and what it is; empty where it was, or is, not there. */
    private record Entry(long set, Map<Long, Optional<String>> before, Map<Long, Optional<String>> after) {}

    private final List<Entry> diary = new ArrayList<>();
    private Map<Long, String> now = new TreeMap<>();

    private static Map<Long, String> records(Connection connection) throws SQLException {
        Map<Long, String> records = new TreeMap<>();
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(
                        "select id, concat_ws(' ', number, amount, labels::text) from records.barrels")) {
            while (row.next()) {
                records.put(row.getLong(1), row.getString(2));
            }
        }
        return records;
    }

    private static long number(Connection connection, String sql) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet row = statement.executeQuery(sql)) {
            row.next();
            return row.getLong(1);
        }
    }

    private static void execute(Connection connection, String sql) throws SQLException {
        try (Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    /** Ends a set of changes, and writes it into the diary. */
    private void ended(Connection connection) throws SQLException {
        connection.commit();
        Map<Long, String> after = records(connection);
        Set<Long> ids = new TreeSet<>(now.keySet());
        ids.addAll(after.keySet());
        ids.removeIf(id -> Objects.equals(now.get(id), after.get(id)));
        if (!ids.isEmpty()) {
            Entry entry =
                    new Entry(number(connection, "select max(id) from change_set"), new TreeMap<>(), new TreeMap<>());
            ids.forEach(id -> {
                entry.before().put(id, Optional.ofNullable(now.get(id)));
                entry.after().put(id, Optional.ofNullable(after.get(id)));
            });
            diary.add(entry);
        }
        now = after;
    }

    private static String some(Random random) {
        return " where id % " + (2 + random.nextInt(4)) + " = " + random.nextInt(3);
    }

    private void change(Connection connection, Random random, int step) throws SQLException {
        switch (now.size() < 3 ? 0 : random.nextInt(6)) {
            case 0, 1 ->
                execute(
                        connection,
                        "insert into records.barrels (number, amount, labels) select 'B-" + step
                                + "-' || i, i, '{}' from generate_series(1, " + (1 + random.nextInt(5)) + ") i");
            case 2 -> execute(connection, "update records.barrels set amount = amount + 1" + some(random));
            case 3 ->
                execute(
                        connection,
                        "update records.barrels set labels = labels || array['l" + random.nextInt(3) + "']"
                                + some(random));
            case 4 -> execute(connection, "delete from records.barrels" + some(random));
            case 5 -> {
                // All kinds in one set.
                execute(connection, "update records.barrels set amount = 7 where id % 3 = 0");
                execute(connection, "delete from records.barrels where id % 3 = 1");
                execute(connection, "insert into records.barrels (number, labels) values ('B-" + step + "', '{a}')");
            }
            default -> throw new AssertionError();
        }
        ended(connection);
    }

    /** The set that wrote a record last. */
    private Optional<Entry> last(long id) {
        return diary.stream().filter(e -> e.before().containsKey(id)).reduce((one, later) -> later);
    }

    /** Takes an earlier set back, and holds what it does against the diary. */
    private void takeBack(Connection connection, Random random) throws SQLException {
        Entry entry = diary.get(diary.size() - 1 - random.nextInt(Math.min(6, diary.size())));
        String as = "seed " + SEED + ", set " + entry.set();
        Map<Long, String> expected = new TreeMap<>(now);
        Map<String, Long> extent = new HashMap<>();
        entry.before().forEach((id, was) -> {
            Optional<String> became = entry.after().get(id);
            String what;
            if (last(id).orElseThrow() != entry) {
                what = "since";
            } else if (was.isEmpty()) {
                what = "removed";
            } else {
                what = became.isEmpty() ? "returned" : "restored";
            }
            extent.merge(what, 1L, Long::sum);
            if (!what.equals("since")) {
                was.ifPresentOrElse(w -> expected.put(id, w), () -> expected.remove(id));
            }
        });
        List<Long> made = entry.before().entrySet().stream()
                .filter(e -> e.getValue().isEmpty())
                .map(Map.Entry::getKey)
                .sorted()
                .toList();
        WayBack back = new WayBack(
                connection,
                register,
                entry.set(),
                made.isEmpty() ? Optional.empty() : Optional.of(new Undo.Made(made.getFirst(), made.getLast())));
        WayBack.Extent told = back.extent();
        Map<String, ToLongFunction<WayBack.Extent>> kinds = Map.of(
                "removed", WayBack.Extent::removed,
                "restored", WayBack.Extent::restored,
                "returned", WayBack.Extent::returned,
                "since", WayBack.Extent::changedSince);
        kinds.forEach((kind, of) ->
                assertThat(of.applyAsLong(told)).as(as + ", " + kind).isEqualTo(extent.getOrDefault(kind, 0L)));
        assertThat(takenBack(back))
                .as(as)
                .isEqualTo(extent.entrySet().stream()
                        .filter(e -> !e.getKey().equals("since"))
                        .mapToLong(Map.Entry::getValue)
                        .sum());
        ended(connection);
        assertThat(now).as(as).isEqualTo(expected);
    }

    private static long takenBack(WayBack back) {
        return TestServer.bean(TransactionTemplate.class).execute(status -> {
            try {
                return back.takeBack(new ChangeSet(0, register.id()), TestServer.bean(ChangeSets.class));
            } catch (SQLException e) {
                throw new IllegalStateException(e);
            }
        });
    }

    @Test
    void whatASetDidIsTakenBackUnlessItWasWrittenSince() throws SQLException {
        Random random = new Random(SEED);
        try (Connection connection = TestServer.connect()) {
            connection.setAutoCommit(false);
            for (int step = 0; step < 120; step++) {
                if (diary.isEmpty() || random.nextInt(3) > 0) {
                    change(connection, random, step);
                } else {
                    takeBack(connection, random);
                }
            }
            tellTheirStories(connection);
        }
    }

    /** Each record tells what the diary says, the latest first. */
    private void tellTheirStories(Connection connection) throws SQLException {
        assertThat(now).isNotEmpty();
        int longest = 0;
        Set<Long> ids = new TreeSet<>();
        diary.forEach(e -> ids.addAll(e.before().keySet()));
        assertThat(ids.size()).as("some are not there any more").isGreaterThan(now.size());
        Map<Long, List<ChangeSets.Step>> stories = RecordStory.steps(connection, register, ids);
        for (long id : ids) {
            List<ChangeSets.Step> steps = stories.get(id);
            List<Entry> known = diary.stream()
                    .filter(e -> e.before().containsKey(id))
                    .sorted(Comparator.comparingLong(Entry::set).reversed())
                    .toList();
            assertThat(steps.stream().map(ChangeSets.Step::set))
                    .as("record " + id)
                    .containsExactlyElementsOf(known.stream().map(Entry::set).toList());
            for (int i = 0; i < known.size(); i++) {
                Entry entry = known.get(i);
                boolean made = entry.before().get(id).isEmpty();
                assertThat(steps.get(i).kind())
                        .isEqualTo(made ? Kind.MADE : entry.after().get(id).isEmpty() ? Kind.REMOVED : Kind.CHANGED);
                assertThat(steps.get(i).before().isEmpty()).isEqualTo(made);
            }
            longest = Math.max(longest, steps.size());
        }
        assertThat(longest).isGreaterThan(4);
    }

    /** Sets are numbered when they begin: one that began earlier can come later to a record. */
    @Test
    void theStoryIsToldInTheOrderInWhichARecordWasWritten() throws SQLException {
        try (Connection one = TestServer.connect();
                Connection other = TestServer.connect()) {
            execute(one, "insert into records.barrels (id, number, amount, labels) values (900, 'B', 1, '{}')");
            one.setAutoCommit(false);
            other.setAutoCommit(false);
            long earlier = number(one, "select deft_set(" + register.id() + ")");
            execute(other, "update records.barrels set amount = 2 where id = 900");
            long later = number(other, "select \"@since\" from records.barrels where id = 900");
            other.commit();
            execute(one, "update records.barrels set amount = 3 where id = 900");
            one.commit();
            assertThat(earlier).isLessThan(later);
            List<ChangeSets.Step> steps =
                    RecordStory.steps(one, register, List.of(900L)).get(900L);
            assertThat(steps.stream().map(ChangeSets.Step::set).toList().subList(0, 2))
                    .containsExactly(earlier, later);
            assertThat(steps.get(0).before().orElseThrow()).isEqualTo(Map.of("amount", new BigDecimal("2.00")));
            assertThat(steps.get(1).after().orElseThrow()).isEqualTo(Map.of("amount", new BigDecimal("2.00")));
            assertThat(steps.get(2).kind()).isEqualTo(Kind.MADE);
        }
    }
}
