package deftlens.core.condition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatIllegalArgumentException;

import deftlens.testing.TestCluster;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.util.List;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class RegexTest {

    @ParameterizedTest
    @ValueSource(
            strings = {
                "(a",
                "a)",
                "[a",
                "a**",
                "a+?",
                "a{2}{3}",
                "*a",
                "a{3,2}",
                "a{256}",
                "(?i)a",
                "(?=a)",
                "\\w",
                "\\b",
                "\\1",
                "[[:alpha:]]",
                "[z-a]",
                "()",
                "a|",
                "[]",
                "a\\",
                "^*",
                "((((a{99}){99}){99}){99})",
                "a\nb",
                "\\p{L}",
                "***:a"
            })
    void whatTheTwoReadersDoNotShareIsRefused(String text) {
        assertThatIllegalArgumentException()
                .isThrownBy(() -> new Regex(text, false))
                .withMessageStartingWith("this regular");
    }

    @Test
    void anExpressionThatMakesOthersHangTakesNoTime() {
        Regex regex = new Regex("(a+)+$", false);
        assertThat(java.util.concurrent.CompletableFuture.supplyAsync(() -> regex.isFoundIn("a".repeat(20_000) + "b")))
                .succeedsWithin(Duration.ofSeconds(20))
                .isEqualTo(false);
    }

    /** Random expressions of the subset over random texts, in PostgreSQL and in memory. */
    @Test
    void bothReadersFindTheSame() throws SQLException {
        Random random = new Random(1_618);
        try (Connection connection = DriverManager.getConnection(
                        TestCluster.freshDatabase("core_regex"), TestCluster.user(), TestCluster.password());
                PreparedStatement query = connection.prepareStatement("select ? ~ ?")) {
            int found = 0;
            int cases = 0;
            while (cases < 6_000) {
                boolean fold = random.nextBoolean();
                Regex regex;
                try {
                    regex = new Regex(expression(random, 3), fold);
                } catch (IllegalArgumentException refused) {
                    continue;
                }
                String text = text(random);
                String held = fold ? LetterCase.fold(text) : text;
                query.setString(1, held);
                query.setString(2, regex.sql());
                try (ResultSet result = query.executeQuery()) {
                    result.next();
                    assertThat(regex.isFoundIn(held))
                            .as("%s in “%s”", regex, held)
                            .isEqualTo(result.getBoolean(1));
                    found += result.getBoolean(1) ? 1 : 0;
                }
                cases++;
            }
            assertThat(found).isBetween(500, 5_500);
        }
    }

    private static final List<String> PIECES = List.of(
            "a",
            "B",
            "é",
            "É",
            "ß",
            "日",
            "😀",
            ".",
            "\\.",
            "[a-c]",
            "[^a-c]",
            "[A-Z]",
            "[à-ÿ]",
            "\\d",
            "\\D",
            "\\s",
            "\\S",
            "\\*",
            "\\\\",
            "-",
            " ",
            "%",
            "_",
            "[\\]\\-x]",
            "^",
            "$",
            "\\t",
            "\\/",
            "7",
            "[0-9\\s]");

    private static String expression(Random random, int depth) {
        StringBuilder text = new StringBuilder();
        for (int n = random.nextInt(3); n >= 0; n--) {
            if (depth > 0 && random.nextInt(4) == 0) {
                text.append(random.nextBoolean() ? "(" : "(?:").append(expression(random, depth - 1));
                text.append(random.nextInt(3) == 0 ? "|" + expression(random, depth - 1) : "")
                        .append(')');
            } else {
                text.append(PIECES.get(random.nextInt(PIECES.size())));
            }
            text.append(
                    List.of("", "", "", "*", "+", "?", "{2}", "{1,3}", "{2,}").get(random.nextInt(9)));
        }
        return text.toString();
    }

    private static String text(Random random) {
        List<String> letters = List.of(
                "a", "b", "c", "A", "B", "é", "É", "ß", "日", "😀", "7", "0", " ", "\t", "\n", "-", "*", ".", "\\", "/",
                "x", "]");
        StringBuilder text = new StringBuilder();
        for (int n = random.nextInt(7); n > 0; n--) {
            text.append(letters.get(random.nextInt(letters.size())));
        }
        return text.toString();
    }
}
