package deftlens.core.sql;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.core.Generate;
import deftlens.core.check.Checker;
import deftlens.core.check.Finding;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Elsewhere;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.condition.Verb;
import deftlens.core.field.Register;
import deftlens.core.interchange.Cql2;
import deftlens.core.match.Matcher;
import deftlens.core.match.Why;
import deftlens.core.statement.Asks;
import deftlens.core.statement.Completion;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.statement.StatementError;
import deftlens.core.statement.Wording;
import java.math.BigDecimal;
import java.sql.SQLException;
import java.util.Arrays;
import java.util.BitSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;

/** Values that are looked for in other records: in words, in SQL, in memory, and in what is said of them. */
class RelatedTest {

    private static final Register REGISTER = Generate.REGISTER;
    /** The same table under another name, as if it were another register. */
    private static final Register OTHERS =
            new Register("others", "Other things", REGISTER.table(), REGISTER.idColumn(), REGISTER.fields());

    private static final int ROWS = 70;
    private static Things things;

    @BeforeAll
    static void fill() throws SQLException {
        things = new Things("deft_core_related", 71, ROWS);
    }

    @AfterAll
    static void close() throws SQLException {
        things.close();
    }

    private static final Map<String, Map<String, String>> PLACES = Map.of(
            "title", Map.of("things", "code", "others", "site"),
            "code", Map.of("things", "code"),
            "site", Map.of("things", "site", "others", "title"),
            "severity", Map.of("others", "rank"),
            "rank", Map.of("things", "severity"),
            "assignee", Map.of("others", "assignee"));

    private static final Elsewhere ELSEWHERE = field -> PLACES.getOrDefault(field, Map.of()).entrySet().stream()
            .sorted(Map.Entry.comparingByKey())
            .map(e -> place(e.getKey().equals("others") ? OTHERS : REGISTER, e.getValue()))
            .toList();

    private static Elsewhere.Place place(Register register, String field) {
        return new Elsewhere.Place(
                register, register.field(field).orElseThrow(), Map.of(), RelatedTest.ELSEWHERE, () -> new InTables() {
                    @Override
                    public Scope scope() {
                        return Scope.all(register);
                    }

                    @Override
                    public Optional<List<Object>> with(Object value, Bound.Related asked) {
                        List<Object[]> having = things.rows().stream()
                                .filter(row -> isSame(value, row[Generate.at(field)], asked.fold()))
                                .toList();
                        return having.stream()
                                .filter(row ->
                                        Matcher.of(register, asked.where()).test(at -> row[at]))
                                .findFirst()
                                .or(() -> having.stream().findFirst())
                                .map(Arrays::asList);
                    }
                });
    }

    private static boolean isSame(Object one, Object other, boolean fold) {
        return one instanceof BigDecimal number
                ? other instanceof BigDecimal second && number.compareTo(second) == 0
                : other != null
                        && !other.equals("")
                        && (fold
                                ? LetterCase.fold((String) one).equals(LetterCase.fold((String) other))
                                : one.equals(other));
    }

    private static Binder binder(Generate generate) {
        Binder binder = Things.binder(generate);
        return new Binder(REGISTER, binder.reading(), binder.viewer(), Map.of(), ELSEWHERE);
    }

    private static Reader reader() {
        return new Reader(REGISTER, Generate.ATTRIBUTES, ELSEWHERE);
    }

    private static Condition related(Generate generate, int depth) {
        String field = generate.pick(PLACES.keySet().stream().sorted().toList());
        String register =
                generate.pick(PLACES.get(field).keySet().stream().sorted().toList());
        Condition where = switch (generate.random().nextInt(6)) {
            case 0 -> Condition.EVERYTHING;
            case 1 -> depth > 1 ? related(generate, depth - 1) : generate.condition(2);
            default -> generate.condition(2);
        };
        return new Condition.Criterion(
                field, new Test.Related(register, where), generate.random().nextInt(3) == 0);
    }

    private static Condition condition(Generate generate) {
        Condition one = related(generate, 3);
        return switch (generate.random().nextInt(4)) {
            case 0 -> one;
            case 1 -> new Condition.All(List.of(one, generate.condition(2)));
            case 2 -> new Condition.Any(List.of(generate.condition(2), one));
            default -> new Condition.None(List.of(one, related(generate, 1)));
        };
    }

    /** The tables of the database, the memory and plain arithmetic over both tables say the same. */
    @org.junit.jupiter.api.Test
    void sqlMemoryAndArithmeticAgree() throws SQLException {
        Generate generate = new Generate(72);
        int some = 0;
        for (int i = 0; i < 400; i++) {
            Condition condition = condition(generate);
            Binder binder = binder(generate);
            if (condition.asks()) {
                condition = Asks.fill(condition, answers(condition), reader());
            }
            if (!Asks.of(condition).stream().allMatch(a -> a.preset().isPresent())) {
                continue;
            }
            Bound bound = binder.bind(condition);
            BitSet found =
                    things.ids(new Sql().add("select id from things where ").add(Where.of(bound)));
            BitSet opposite =
                    things.ids(new Sql().add("select id from things where ").add(Where.of(new Bound.Not(bound))));
            BitSet inMemory = new BitSet();
            for (int row = 0; row < ROWS; row++) {
                Object[] values = things.rows().get(row);
                inMemory.set(row, Matcher.of(REGISTER, bound).test(at -> values[at]));
            }
            assertThat(found).as(Printer.print(condition)).isEqualTo(inMemory);
            BitSet both = (BitSet) found.clone();
            both.and(opposite);
            assertThat(both.isEmpty()).isTrue();
            assertThat(found.cardinality() + opposite.cardinality()).isEqualTo(ROWS);
            some += found.isEmpty() || opposite.isEmpty() ? 0 : 1;
        }
        assertThat(some).isGreaterThan(100);
    }

    private static Map<String, String> answers(Condition condition) {
        return Asks.of(condition).stream()
                .filter(a -> a.kind() == Asks.Kind.COUNT)
                .collect(java.util.stream.Collectors.toMap(Asks.Ask::label, a -> "3"));
    }

    /** The values of the records in the condition, by hand, against the records that have one of them. */
    @org.junit.jupiter.api.Test
    void isTheSetOfTheValuesThatTheOthersHave() throws SQLException {
        Bound bound = binder(new Generate(73)).bind(reader().read("severity in (others where site is \"North Quay\")"));
        Set<BigDecimal> ranks = things.rows().stream()
                .filter(row -> "North Quay".equals(row[Generate.at("site")]))
                .map(row -> ((BigDecimal) row[Generate.at("rank")]).stripTrailingZeros())
                .collect(java.util.stream.Collectors.toSet());
        BitSet expected = new BitSet();
        IntStream.range(0, ROWS)
                .filter(row -> things.rows().get(row)[Generate.at("severity")] instanceof BigDecimal number
                        && ranks.contains(number.stripTrailingZeros()))
                .forEach(expected::set);
        assertThat(expected.cardinality()).isBetween(1, ROWS - 1);
        assertThat(things.ids(new Sql().add("select id from things where ").add(Where.of(bound))))
                .isEqualTo(expected);
    }

    @org.junit.jupiter.api.Test
    void wordsAreReadAsTheyArePrinted() {
        Generate generate = new Generate(74);
        for (int i = 0; i < 600; i++) {
            Condition condition = condition(generate).normal();
            assertThat(reader().read(Printer.print(condition)))
                    .as(Printer.print(condition))
                    .isEqualTo(condition);
        }
        assertThat(Printer.print(reader().read("[Code number] NOT IN ( [Things] )")))
                .isEqualTo("code not in (things)");
        assertThat(
                        Printer.print(
                                reader().read(
                                                "site in (things where (severity > 1 or due before today) and not title is \"in (x\")")))
                .isEqualTo("site in (things where (severity > 1 or due before today) and not title is \"in (x\")");
        assertThat(reader().read("title in (things where closed_at after due + 2 days or code in (things))"))
                .isNotNull();
    }

    @org.junit.jupiter.api.Test
    void whatCannotBeAskedIsRefusedWithWhatCan() {
        refused("title in (thing where rank > 1)", "“thing” is no register that holds values of Title", "things");
        refused("site in (elsewhere)", "There are others, things", "others");
        refused("status in (things)", "No other records are known to hold values of Status");
        refused("due in (things)", "No other records are known");
        refused("severity in (others where rnk > 1)", "“rnk” is no field of Other things", "rank");
        refused("severity in (others where rank wobbles 1)", "a test for “Rank”");
        refused("severity in (others where )", "a field of Other things");
        refused("severity in (others where rank > 1) wobbles", "cannot stand here");
        refused("severity in (others", "ends too early");
        assertThatThrownBy(() -> new Reader(REGISTER, Generate.ATTRIBUTES).read("site in (things)"))
                .isInstanceOf(StatementError.class);
        Condition gone = Condition.Criterion.of("site", new Test.Related("gone", Condition.EVERYTHING));
        assertThatThrownBy(() -> binder(new Generate(75)).bind(gone))
                .isInstanceOf(Binder.Unfit.class)
                .hasMessageContaining("Site is not looked for in “gone”");
        Condition inside = Condition.Criterion.of(
                "site", new Test.Related("things", Condition.Criterion.of("gone", new Test.Empty())));
        assertThatThrownBy(() -> binder(new Generate(75)).bind(inside))
                .isInstanceOf(Binder.Unfit.class)
                .hasMessageContaining("Things has no field “gone”");
    }

    private static void refused(String statement, String sentence, String... suggestions) {
        assertThatThrownBy(() -> reader().read(statement))
                .as(statement)
                .isInstanceOfSatisfying(StatementError.class, e -> {
                    assertThat(e.getMessage()).contains(sentence);
                    assertThat(e.suggestions()).contains(suggestions);
                });
    }

    @org.junit.jupiter.api.Test
    void goesOnWithTheFieldsOfTheOthers() {
        assertThat(proposed("site in")).contains("in (");
        assertThat(proposed("status in")).doesNotContain("in (");
        assertThat(proposed("site not in (")).containsExactly("others where ", "things where ");
        assertThat(proposed("site in (oth")).containsExactly("others where ");
        assertThat(proposed("site in (others where sever")).containsExactly("severity");
        assertThat(proposed("site in (others where status is \"Done\" and (site in (things where co"))
                .contains("code", "cost");
        assertThat(proposed("severity in (others where rank > 1 ")).contains("and", "or", ")");
        assertThat(proposed("severity in (others where rank > 1) and sta")).containsExactly("status");
        assertThat(new Completion(REGISTER, Generate.ATTRIBUTES, ELSEWHERE)
                        .at("site in (others where sever", 27)
                        .from())
                .isEqualTo(22);
    }

    private static List<String> proposed(String text) {
        return new Completion(REGISTER, Generate.ATTRIBUTES, ELSEWHERE)
                .at(text, text.length()).proposals().stream()
                        .map(Completion.Proposal::insert)
                        .toList();
    }

    @org.junit.jupiter.api.Test
    void isSaidWithTheLabelsOfTheOthers() {
        Condition condition = reader().read(
                        "site in (others where assignee is me and rank in band \"High\") and code not in (things)");
        assertThat(Wording.lines(condition, REGISTER, ELSEWHERE))
                .containsExactly(
                        "site is that of other things whose (assignee is me and rank is in the band “High”)",
                        "code number is not that of things");
        assertThat(Wording.lines(condition, REGISTER).getFirst())
                .startsWith("site is that of others whose (assignee is me");
        assertThat(condition.isPersonal()).isTrue();
        assertThat(reader().read("site in (others where due before today)").isRolling())
                .isTrue();
    }

    @org.junit.jupiter.api.Test
    void blanksAreThoseOfTheirField() {
        Condition condition = reader().read("site in (others where status is {which = \"Done\"} and rank > {least})");
        assertThat(Asks.of(condition))
                .extracting(Asks.Ask::register, Asks.Ask::field)
                .containsExactly(
                        org.assertj.core.groups.Tuple.tuple(Optional.of("others"), "status"),
                        org.assertj.core.groups.Tuple.tuple(Optional.of("others"), "rank"));
        assertThat(Printer.print(Asks.fill(condition, Map.of("least", "3", "which", "New"), reader())))
                .isEqualTo("site in (others where status is \"New\" and rank > 3)");
    }

    @org.junit.jupiter.api.Test
    void saysOfOneThatHasTheValueWhyItIsOut() {
        Condition condition = reader().read("site in (things where rank > 1000 and code is not empty)");
        Object[] row = things.rows().getFirst();
        Why.Outcome why = Why.of(condition, binder(new Generate(76)), at -> row[at]);
        assertThat(why.verdict()).isEqualTo(Why.Verdict.OUT);
        Why.Outcome there = why.parts().getFirst();
        assertThat(there.path()).isEqualTo("/where");
        assertThat(there.parts().getFirst().path()).isEqualTo("/where/all/0");
        assertThat(there.parts().getFirst().verdict()).isEqualTo(Why.Verdict.OUT);
        Object[] nowhere = row.clone();
        nowhere[Generate.at("code")] = "that nobody has";
        assertThat(Why.of(reader().read("code in (things)"), binder(new Generate(76)), at -> nowhere[at])
                        .parts())
                .isEmpty();
    }

    @org.junit.jupiter.api.Test
    void whatIsWrongThereIsSaidHere() {
        assertThat(said("site in (things where rank > 4 and rank < 2)"))
                .anySatisfy(f -> assertThat(f.message()).startsWith("In what is asked of Things: "));
        assertThat(said("site in (things where rank > 4) and site not in (things where rank > 4)"))
                .extracting(Finding::code)
                .contains(Finding.Code.NEVER);
        assertThat(said("site in (things where rank > 4) and site not in (things where rank > 5)"))
                .extracting(Finding::code)
                .doesNotContain(Finding.Code.NEVER);
        assertThatThrownBy(() -> Cql2.write(reader().read("site in (things)"), binder(new Generate(77))))
                .isInstanceOf(Cql2.NotCarried.class)
                .hasMessageContaining("records of another register");
    }

    private static List<Finding> said(String statement) {
        return Checker.findings(reader().read(statement), binder(new Generate(77)), Checker.About.QUESTION);
    }

    @org.junit.jupiter.api.Test
    void isCountedWithWhatItHolds() {
        Condition condition = reader().read("site in (things where rank > 4 and (code is \"a\" or title is \"b\"))");
        assertThat(condition.depth()).isEqualTo(4);
        assertThat(condition.criteriaEverywhere()).hasSize(4);
        assertThat(condition.criteria()).hasSize(1);
        assertThat(Verb.of(condition.criteria().getFirst())).isEqualTo(Verb.IN_RECORDS);
        assertThat(Verb.IN_RECORDS.opposite()).contains(Verb.NOT_IN_RECORDS);
        assertThat(new Test.Is(new Operand.Text("x"), false).hasOpposite()).isTrue();
    }
}
