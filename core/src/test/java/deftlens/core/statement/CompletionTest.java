package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.condition.Condition;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class CompletionTest {

    private static final Completion COMPLETION = new Completion(Generate.REGISTER, Generate.ATTRIBUTES);
    private static final Reader READER = new Reader(Generate.REGISTER, Generate.ATTRIBUTES);

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "`sev`|0|severity",
                "`[Rep`|0|reported_at",
                "`severity >= 3 and du`|18|due",
                "`not `|4|title",
                "`(severity = 1 or `|17|title",
                "`due is`|4|is empty",
                "`due `|4|before",
                "`due in las`|7|last 7 days",
                "`due in last 3`|7|last 3 days",
                "`due before 5 `|11|5 days ago",
                "`status is `|10|`\"New\"`",
                "`status is in (\"New\", \"d`|21|`\"Done\"`",
                "`assignee is a`|12|`\"asta.quill\"`",
                "`assignee is `|12|me",
                "`urgent is `|10|yes",
                "`tags has any of (`|17|`\"Safety\"`",
                "`due between today and la`|22|last week",
                "`title contains \"and due\" `|25|and",
                "`rank is in band `|16|`\"Low\"`",
                "`due weekday in (Mon, T`|21|Tue",
                "`due month in (`|14|March",
                "`closed_at after `|16|due",
                "`cost > `|7|allowed",
                "`open `|5|overlaps",
                "`open overlaps th`|14|this week",
                "`opens `|6|between",
                "`reported_at on a `|12|on a day off",
                "`rank is in band \"Low\" `|22|and",
            })
    void proposesWhatFitsFromTheRightPlace(String text, int from, String expected) {
        Completion.Answer answer = COMPLETION.at(text, text.length());
        assertThat(answer.from()).isEqualTo(from);
        assertThat(answer.proposals()).extracting(Completion.Proposal::insert).contains(expected);
    }

    @Test
    void nothingIsProposedThatTheReaderWouldNotTakeThere() {
        // Whatever is proposed for a test of a field can be completed to a criterion that reads.
        for (var field : Generate.REGISTER.fields()) {
            for (Completion.Proposal proposal :
                    COMPLETION.at(field.key() + " ", field.key().length() + 1).proposals()) {
                String begun = field.key() + " " + proposal.insert();
                try {
                    READER.read(begun);
                } catch (StatementError e) {
                    assertThat(e.place().offset() + e.place().length())
                            .as("“%s” is refused at its end only: %s", begun, e.getMessage())
                            .isEqualTo(begun.length());
                    assertThat(e).message().doesNotContain("Text goes in double quotes");
                }
            }
        }
    }

    @Test
    void anyPlaceInAnyStatementHasAnAnswer() {
        Generate generate = new Generate(11);
        Random random = generate.random();
        for (int i = 0; i < 3_000; i++) {
            Condition condition = generate.condition(4);
            String text = Printer.print(condition);
            int position = random.nextInt(text.length() + 1);
            Completion.Answer answer = COMPLETION.at(text, position);
            assertThat(answer.from()).as(text).isBetween(0, position);
        }
        for (String text : List.of("", "(", ")", "\"", "\\", "[", "due between", "due in (", "\ud83d\ude00 is")) {
            assertThat(COMPLETION.at(text, text.length()).from()).isBetween(0, text.length());
        }
    }
}
