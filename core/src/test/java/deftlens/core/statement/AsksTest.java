package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import deftlens.core.Generate;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Viewer;
import deftlens.core.time.Reading;
import deftlens.core.time.Unanswered;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class AsksTest {

    private static final Reader READER = new Reader(Generate.REGISTER, Generate.ATTRIBUTES);

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "severity >= {n}|7|severity >= 7",
                "severity between {n = 1} and 5|2.5|severity between 2.5 and 5",
                "site is {n}|north quay|site is \"North Quay\"",
                "site is {n}|my site|site is my site",
                "title is {n}|say \"ho\"|title is \"say \\\"ho\\\"\"",
                "assignee is in ({n}, \"bram.oake\")|me|assignee is in (me, \"bram.oake\")",
                "urgent is {n}|no|urgent is no",
                "due before {n = today}|30 days ago|due before 30 days ago",
                "due in {n = today} to tomorrow|start of this month|due in start of this month to tomorrow",
                "open overlaps {n}|2026-Q4|open overlaps 2026-Q4",
                "due more than {n = 30} days ago|1|due more than 1 day ago",
                "due in last {n} full months|3|due in last 3 full months",
                "due in last {n = 2} weeks|`  `|due in last {n = 2} weeks",
                "title contains {n}|me|title contains \"me\"",
                "title does not contain {n = \"x\"} exactly|\"a b\"|title does not contain \"a b\" exactly",
                "title starts with {n}|D-1|title starts with \"D-1\"",
                "title is like {n}|*quay?|title is like \"*quay?\"",
                "opens before {n}|9:30|opens before 09:30",
                "opens between {n = 08:00} and {other}|22:00:15|opens between 22:00:15 and 12:00",
                "opens between {n} and 06:00|22:00|opens between 22:00 and 06:00",
                "reported_at time between 22:00 and {n}|6:00|reported_at time between 22:00 and 06:00",
                "reported_at between {n} and tomorrow|today|reported_at between today and tomorrow",
                "rank is in band {n}|low|rank is in band \"Low\"",
                "off(severity >= {n}) and rank = 1|4|off(severity >= 4) and rank = 1",
            })
    void anAnswerTakesItsPlace(String statement, String answer, String filled) {
        Condition condition = Asks.fill(READER.read(statement), Map.of("n", answer, "other", "12:00"), READER);
        assertThat(Printer.print(condition)).isEqualTo(filled);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "severity >= {n}|many",
                "urgent is {n}|perhaps",
                "opens before {n}|soon",
                "opens before {n}|24:00",
                "title contains {n}|\"\"",
                "rank is not in band {n}|No such band",
                "due before {n}|soon",
                "due before {n}|2 hours ago",
                "due more than {n} days ago|-3",
                "due in {n} to today|2026-01-01 to 2026-02-01",
            })
    void anAnswerThatDoesNotFitIsRefused(String statement, String answer) {
        Asks.Unfitting refused = catchThrowableOfType(
                Asks.Unfitting.class, () -> Asks.fill(READER.read(statement), Map.of("n", answer), READER));
        assertThat(refused).as(statement).isNotNull();
        assertThat(refused.label()).isEqualTo("n");
    }

    @Test
    void aBlankWithoutDefaultIsOpenUntilItIsFilled() {
        Condition condition = READER.read("severity >= {least} and due before {when = today} and rank = {least}");
        assertThat(Asks.of(condition))
                .extracting(Asks.Ask::label, Asks.Ask::kind, a -> a.preset().orElse("none"))
                .containsExactly(
                        org.assertj.core.groups.Tuple.tuple("least", Asks.Kind.VALUE, "none"),
                        org.assertj.core.groups.Tuple.tuple("when", Asks.Kind.DATE, "today"));
        Binder binder = new Binder(
                Generate.REGISTER, Reading.at(Instant.parse("2026-11-23T09:30:00Z"), ZoneId.of("UTC")), Viewer.NOBODY);
        assertThat(catchThrowableOfType(Unanswered.class, () -> binder.bind(condition))
                        .label())
                .isEqualTo("least");
        binder.bind(Asks.fill(condition, Map.of("least", "3"), READER));
    }
}
