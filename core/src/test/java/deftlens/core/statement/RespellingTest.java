package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import deftlens.core.Generate;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class RespellingTest {

    private static final Reader READER = new Reader(Generate.REGISTER, Generate.ATTRIBUTES);

    private static StatementError refused(String statement) {
        return catchThrowableOfType(StatementError.class, () -> READER.read(statement));
    }

    /** The statement with the first proposal in the place that it is for. */
    private static String mended(String statement, StatementError error) {
        StatementError.Place place = error.place();
        return statement.substring(0, place.offset())
                + error.suggestions().getFirst()
                + statement.substring(place.offset() + place.length());
    }

    /** What people write, and what it comes to once each proposal is taken. */
    @ParameterizedTest
    @CsvSource(
            delimiterString = " -> ",
            quoteCharacter = '`',
            value = {
                "severity == 3 -> severity = 3",
                "severity <> 3 -> severity != 3",
                "severity => 3 -> severity >= 3",
                "severity =< 3 -> severity <= 3",
                "severity ≥ 3 -> severity >= 3",
                "severity >= 3 && rank = 1 -> severity >= 3 and rank = 1",
                "severity >= 3 || rank = 1 -> severity >= 3 or rank = 1",
                "severity in (1, 2) -> severity is in (1, 2)",
                "status in (\"New\", \"Done\") -> status is in (\"New\", \"Done\")",
                "status not in (\"Done\", \"Dropped\") -> status is not in (\"Done\", \"Dropped\")",
                "status is none of (\"Done\", \"Dropped\") -> status is not in (\"Done\", \"Dropped\")",
                "status is one of (\"Done\", \"Dropped\") -> status is in (\"Done\", \"Dropped\")",
                "due is 2026-11-23 -> due in 2026-11-23",
                "due = 2026-11-23 -> due in 2026-11-23",
                "due is today -> due in today",
                "due is not today -> due not in today",
                "due > 2026-11-23 -> due after 2026-11-23",
                "due >= 2026-11-23 -> due from 2026-11-23",
                "due <= today -> due up to today",
                "due < today -> due before today",
                "due since 2026-11-01 -> due from 2026-11-01",
                "due until 2026-11-01 -> due up to 2026-11-01",
                "due weekday is Monday -> due weekday in (Monday)",
                "due is Monday -> due weekday in (Monday)",
                "due on Mondays -> due weekday in (Monday)",
                "due month is March -> due month in (March)",
                "severity more than 3 -> severity > 3",
                "severity is greater than 3 -> severity > 3",
                "severity at least 3 -> severity >= 3",
                "severity is over 3 -> severity > 3",
                "severity below 3 -> severity < 3",
                "severity equals 3 -> severity = 3",
                "severity is greater than or equal to 3 -> severity >= 3",
                "due is null -> due is empty",
                "due is not null -> due is not empty",
                "due empty -> due is empty",
                "due not empty -> due is not empty",
                "urgent is true -> urgent is yes",
                "status is 'Done' -> status is \"Done\"",
                "status is “Done” -> status is \"Done\"",
                "title begins with \"a\" -> title starts with \"a\"",
                "title doesn't contain \"a\" -> title does not contain \"a\"",
                "title includes \"a\" -> title contains \"a\"",
                "rank = 1 and severity == 3 && status <> 'Done' -> rank = 1 and severity = 3 and status is not \"Done\"",
            })
    void otherSpellingsAreAnsweredWithTheirOwn(String written, String meant) {
        String statement = written;
        for (int i = 0; i < 6; i++) {
            StatementError error = refused(statement);
            if (error == null) {
                break;
            }
            assertThat(error.suggestions())
                    .as("%s: %s", statement, error.getMessage())
                    .isNotEmpty();
            assertThat(error.getMessage()).contains("is written “").doesNotContain("did you mean");
            assertThat(error.suggestions().getFirst()).isNotEqualTo(error.found());
            statement = mended(statement, error);
        }
        assertThat(READER.read(statement)).as(statement).isEqualTo(READER.read(meant));
    }

    /** What reads is never answered, and what does not is only answered with what reads, or gets further. */
    @Test
    void aProposalAlwaysGetsFurther() {
        Generate generate = new Generate(77);
        Random random = new Random(78);
        String[][] slips = {
            {" = ", " == "},
            {" is in (", " in ("},
            {" and ", " && "},
            {" >= ", " => "},
            {"is empty", "is null"},
            {"\"", "'"}
        };
        int proposed = 0;
        for (int i = 0; i < 1_500; i++) {
            String printed = Printer.print(generate.condition(3));
            String[] slip = slips[random.nextInt(slips.length)];
            String slipped = printed.replace(slip[0], slip[1]);
            StatementError error = refused(slipped);
            if (error == null
                    || error.suggestions().isEmpty()
                    || !error.getMessage().contains("is written “")) {
                continue;
            }
            proposed++;
            String mended = mended(slipped, error);
            StatementError next = refused(mended);
            int moved = error.suggestions().getFirst().length() - error.place().length();
            assertThat(next == null
                            || next.place().offset()
                                    >= error.place().offset() + error.place().length() + moved
                            || next.place().offset() < error.place().offset())
                    .as("%s -> %s", slipped, mended)
                    .isTrue();
        }
        assertThat(proposed).isGreaterThan(300);
    }
}
