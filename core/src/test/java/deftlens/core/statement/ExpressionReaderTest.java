package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import deftlens.core.Generate;
import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ExpressionReaderTest {

    private static final Register REGISTER = with(
            Generate.REGISTER,
            Field.of("now", "Now", FieldType.NUMBER),
            Field.of("m", "Metres", FieldType.NUMBER),
            Field.of("least", "Least", FieldType.NUMBER));
    private static final Reader READER = new Reader(REGISTER, Set.of("site"));

    private static Register with(Register register, Field... more) {
        List<Field> fields = new ArrayList<>(register.fields());
        fields.addAll(List.of(more));
        return new Register(register.key(), register.label(), register.table(), register.idColumn(), fields);
    }

    @ParameterizedTest
    @CsvSource(delimiterString = "|", quoteCharacter = '`', textBlock = """
                    severity+rank*2                   | severity + rank * 2                    | NUMBER
                    (severity + rank) * 2             | (severity + rank) * 2                  | NUMBER
                    severity -5                       | severity - 5                           | NUMBER
                    severity -5 * rank                | severity - 5 * rank                    | NUMBER
                    severity - (rank - 2)             | severity - (rank - 2)                  | NUMBER
                    severity / (rank / 2)             | severity / (rank / 2)                  | NUMBER
                    -severity                         | -1 * severity                          | NUMBER
                    - 5 + rank                        | -5 + rank                              | NUMBER
                    [now] + m + [Metres] + [least]    | [now] + [m] + [m] + [least]            | NUMBER
                    least(severity, RANK)             | least(severity, rank)                  | NUMBER
                    Cost * 2                          | cost * 2                               | MONEY
                    cost + 1                          | cost + 1                               | MONEY
                    cost / allowed                    | cost / allowed                         | NUMBER
                    spent / 1 h                       | spent / 1 h                            | NUMBER
                    severity * 1 day                  | severity * 1 day                       | DURATION
                    closed_at - reported_at           | closed_at - reported_at                | DURATION
                    due - until                       | due - until                            | DURATION
                    due + 3 days                      | due + 3 days                           | DATE
                    due + 2 weeks - 1 day             | due + 14 days - 1 day                  | DATE
                    due -1 month                      | due - 1 month                          | DATE
                    due + 2 quarters                  | due + 2 quarters                       | DATE
                    reported_at + 1 h 30 min          | reported_at + 1 h 30 min               | MOMENT
                    reported_at + 1 day               | reported_at + 1 day                    | MOMENT
                    due + spent                       | due + spent                            | DATE
                    2026-01-31 + 1 month              | 2026-01-31 + 1 month                   | DATE
                    days_between(due, today)          | days_between(due, today)               | NUMBER
                    time_between(reported_at, now)    | time_between(reported_at, now)         | DURATION
                    working_time_between(due, now)    | working_time_between(due, now)         | DURATION
                    round(cost / 3, 2)                | round(cost / 3, 2)                     | MONEY
                    first_of(due, until, today)       | first_of(due, until, today)            | DATE
                    first_of(status, site)            | first_of(status, site)                 | CHOICE
                    first_of(title, site)             | first_of(title, site)                  | TEXT
                    join(code, " ", severity, due)    | join(code, " ", severity, due)         | TEXT
                    when(urgent, 1, 0)                | when(urgent is yes, 1, 0)              | NUMBER
                    when(off(paid is yes), 1)         | when(off(paid is yes), 1)              | NUMBER
                    status is "New" or rank>3         | status is "New" or rank > 3            | YES_NO
                    urgent                            | urgent                                 | YES_NO
                    least(opens, 12:00)               | least(opens, 12:00)                    | TIME
                    """)
    void isReadAndPrintedInOneSpelling(String typed, String printed, FieldType type) {
        Expression expression = READER.calculation(typed);
        assertThat(Printer.print(expression)).isEqualTo(printed);
        assertThat(expression.type()).isEqualTo(type);
        assertThat(READER.calculation(printed)).isEqualTo(expression);
    }

    @Test
    void textsThatAreWrittenOutMakeAChoice() {
        Expression kind = READER.calculation("when(rank > 3, \"high\", rank is in (1, 2), \"low\", \"high\")");
        assertThat(kind.type()).isEqualTo(FieldType.CHOICE);
        assertThat(kind.options()).containsExactly(Option.of("high"), Option.of("low"));
        assertThat(kind.isAlways()).isTrue();
        assertThat(kind.fields()).containsExactly("rank");
        assertThat(READER.calculation("when(rank > 3, \"high\")").isAlways()).isFalse();
        assertThat(READER.calculation("first_of(status, site)").options()).hasSize(6);
    }

    @Test
    void knowsWhetherTimeChangesIt() {
        assertThat(READER.calculation("days_between(due, today)").isRolling()).isTrue();
        assertThat(READER.calculation("when(due in last 7 days, 1, 2)").isRolling())
                .isTrue();
        assertThat(READER.calculation("due in 2026").isRolling()).isFalse();
        assertThat(READER.calculation("closed_at - reported_at").isRolling()).isFalse();
    }

    @ParameterizedTest
    @CsvSource(delimiterString = "|", quoteCharacter = '`', textBlock = """
                    ``                            | says how the value comes about
                    severity +                    | The text ends too early
                    severity rank                 | A sign is missing before “rank”
                    due + 2 weeks -1 day          | Put a space between
                    severity 5                    | A sign is missing before “5”
                    severity + due                | “+” goes with numbers
                    title + code                  | Texts are joined with join(…)
                    due + 3                       | Write 3 days
                    due + 3 h                     | A date has no time of day
                    due + until                   | Two dates cannot be added up
                    due - reported_at             | Write days_between(…)
                    severity + spent              | do not add up
                    cost * allowed                | One of the two has to be a plain number
                    spent / cost                  | cannot be divided by
                    3 months                      | has no one length
                    due + 3 working days          | Dates are not moved by working days
                    due + 20000 years             | 10000 years at most
                    severities * 2                | Did you mean “severity”?
                    rund(cost)                    | Did you mean “round”?
                    round(cost, 2.5)              | The places are a number from 0 to 10
                    round(title)                  | It rounds numbers
                    tags                          | it has no one value
                    open                          | Name its start or its end
                    first_of(due, severity)       | of different kinds
                    first_of(due)                 | two values or more
                    when(severity, 1, 2)          | Here stands a condition
                    when(paid is yes)             | when(condition, value, …, otherwise)
                    when(owner is me, 1, 2)       | the same for every reader
                    title is {which}              | asks nobody
                    2026-02-31 + 1 day            | is no day
                    2026-5                        | put spaces around the sign
                    time_between(due, closed_at)  | days_between counts local days of both
                    """)
    void saysWhatDoesNotFit(String typed, String words) {
        StatementError error =
                catchThrowableOfType(StatementError.class, () -> READER.calculation(typed == null ? "" : typed));
        assertThat(error).as(typed).isNotNull().hasMessageContaining(words);
        assertThat(error.place().offset()).isBetween(0, typed == null ? 0 : typed.length());
    }

    @Test
    void whateverIsTypedIsReadOrRefused() {
        Random random = new Random(11);
        String[] pieces = {
            "severity",
            "due",
            "title",
            "+",
            "-",
            "*",
            "/",
            "(",
            ")",
            ",",
            "3",
            "-3",
            "days",
            "h",
            "\"x\"",
            "when",
            "round",
            "is",
            "and",
            "not",
            "off",
            "today",
            "now",
            "2026-01-02",
            "[Code number]",
            "1/2/3",
            "{",
            "🙂",
            "in",
            "first_of"
        };
        int read = 0;
        for (int i = 0; i < 20_000; i++) {
            StringBuilder text = new StringBuilder();
            for (int n = random.nextInt(8); n >= 0; n--) {
                text.append(pieces[random.nextInt(pieces.length)]).append(random.nextInt(4) == 0 ? "" : " ");
            }
            try {
                Expression expression = READER.calculation(text.toString());
                assertThat(READER.calculation(Printer.print(expression))).isEqualTo(expression);
                read++;
            } catch (StatementError refused) {
                assertThat(refused.getMessage()).isNotBlank();
            }
        }
        assertThat(read).isGreaterThan(300);
    }

    @Test
    void hasItsLimits() {
        assertThatThrownBy(() -> READER.calculation("1" + " + 1".repeat(999)))
                .hasMessageContaining("at most 300 parts");
        assertThatThrownBy(() -> READER.calculation("1" + " + 1".repeat(2_000)))
                .hasMessageContaining("at most 4000 characters");
        assertThatThrownBy(() -> READER.calculation("- ".repeat(1_900) + "severity"))
                .isInstanceOf(StatementError.class)
                .hasMessageContaining("cannot stand here");
        assertThatThrownBy(() -> READER.calculation("(".repeat(60) + "1" + ")".repeat(60)))
                .hasMessageContaining("nested more than 50 deep");
    }

    @Test
    void circlesAreRefused() {
        Calculation one = Calculation.of("one", "One", new Expression.Value(Field.of("two", "Two", FieldType.NUMBER)));
        Calculation two = Calculation.of("two", "Two", new Expression.Value(one.field()));
        Calculation three = Calculation.of("three", "Three", READER.calculation("severity"));
        assertThatThrownBy(() -> Calculation.layers(List.of(one, two, three)))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("One, Two");
        Calculation four = Calculation.of("four", "Four", new Expression.Value(three.field()));
        assertThat(Calculation.layers(List.of(four, three))).containsExactly(List.of(three), List.of(four));
    }

    @ParameterizedTest
    @CsvSource(delimiterString = "|", quoteCharacter = '`', textBlock = """
                    severity + rank * 2                    | _severity + rank * 2
                    when(severity > 3, rank, -severity)    | when(_severity > 3, rank, -1 * _severity)
                    severity > rank or not (rank > severity + 2) | _severity > rank or not rank > _severity + 2
                    first_of(rank, severity, 0)            | first_of(rank, _severity, 0)
                    join(code, " severity ", severity)     | join(code, " severity ", _severity)
                    due + 3 days                           | due + 3 days
                    days_between(due, today) + severity    | days_between(due, today) + _severity
                    round(severity / 3, 2)                 | round(_severity / 3, 2)
                    """)
    void isTheSameOverFieldsOfOtherKeys(String written, String expected) {
        Field other = Field.of("_severity", "Another", FieldType.NUMBER);
        Expression renamed = READER.calculation(written).over(Map.of("severity", other));
        assertThat(Printer.print(renamed)).isEqualTo(expected);
        // What is written so is read so where there is such a field.
        Reader reader = new Reader(with(REGISTER, other), Set.of());
        assertThat(reader.calculation(expected)).isEqualTo(renamed);
        assertThat(renamed.over(Map.of("_severity", REGISTER.field("severity").orElseThrow())))
                .isEqualTo(READER.calculation(written));
    }

    @ParameterizedTest
    @CsvSource(delimiterString = "|", quoteCharacter = '`', textBlock = """
                    sev                      | severity
                    2 * sev                  | severity
                    2 *                      | severity,rank,cost,round(,when(,today
                    ro                       | round(
                    round(co                 | cost,code
                    when(status is           | is,is not in
                    when(status is in ("New", | "In hand"
                    when(status is "New", ra | rank
                    [Co                      | cost,code
                    title contains "x        |
                    join("x                  |
                    """)
    void proposesHowItGoesOn(String typed, String expected) {
        CalculationCompletion completion = new CalculationCompletion(Generate.REGISTER);
        Completion.Answer answer = completion.at(typed, typed.length());
        List<String> proposals =
                answer.proposals().stream().map(Completion.Proposal::insert).toList();
        if (expected != null) {
            assertThat(proposals).as("%s: %s", typed, answer).contains(expected.split(","));
        } else {
            assertThat(proposals).as(typed).isEmpty();
        }
        assertThat(answer.from()).isBetween(0, typed.length());
    }
}
