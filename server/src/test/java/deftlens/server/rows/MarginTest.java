package deftlens.server.rows;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Parts;
import deftlens.server.people.Role;
import deftlens.server.people.SignedIn;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.MarginService.PartCount;
import deftlens.server.testing.TestServer;
import java.util.Optional;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The margin of a large register is counted part by part; the numbers are those of one pass over all. */
@ExtendWith(TestServer.class)
class MarginTest {

    private static final SignedIn DORA = new SignedIn(2, "dora", Role.MEMBER);

    @ParameterizedTest
    @ValueSource(
            strings = {
                "level >= 3",
                "level >= 3 and state is \"Open\" and due before today",
                "level >= 3 and (state is \"Open\" or site is my site or not cost > 10)",
                "level = 1 or level = 2 or due in this month",
                "not (level = 1 or state is \"Done\") and tags has any of (\"Safety\")",
                "off(level = 1) and level <= 4 and (off(state is \"Open\") or site is empty)",
                ""
            })
    void bothWaysOfCountingAgree(String statement) {
        RegisterForReader jobs = TestServer.bean(RegisterCatalogue.class).get("jobs", DORA);
        Questions questions = TestServer.bean(Questions.class);
        Condition condition = questions.condition(jobs.register(), Optional.of(statement), Optional.empty());
        Question question = Question.of(jobs, condition, questions.reading(Optional.empty(), Optional.empty()), DORA);
        MarginService margin = TestServer.bean(MarginService.class);
        assertThat(margin.oneByOne(question, Parts.of(condition)))
                .isEqualTo(margin.inOnePass(question, Parts.of(condition), false));
        if (!Parts.of(condition).isEmpty()) {
            assertThat(margin.inOneStatement(question, Parts.of(condition)))
                    .contains(margin.inOnePass(question, Parts.of(condition), false));
        }
        // Of a small register the number of the whole question comes along, as it is counted by itself.
        MarginService.PartCounts small = margin.ofSmall(question);
        assertThat(small.parts()).isEqualTo(margin.parts(question).parts());
        assertThat(small.count()).contains(TestServer.bean(CountsService.class).count(question, true));
        assertThat(small.later()).isFalse();
        assertThat(margin.parts(question).parts())
                .extracting(PartCount::aloneMore)
                .containsOnly(false);
    }
}
