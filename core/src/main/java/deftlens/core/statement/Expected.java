package deftlens.core.statement;

import static deftlens.core.statement.grammar.StatementParser.*;

import deftlens.core.statement.grammar.StatementParser;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;

/** Puts the tokens that the grammar would take into words. */
final class Expected {

    static final String PERIOD_EXAMPLES =
            "a date phrase, such as today, last 7 days, this month, 30 days ago or 2026-11-23";

    private static final Set<Integer> UNITS = Set.of(MINUTE, HOUR, DAY, WEEK, MONTH, QUARTER, HALF, YEAR);

    private Expected() {}

    static Source.Expectation.Hint hint(Set<Integer> expected, String periodWords, List<String> attributes) {
        List<String> words = expected.stream()
                .map(Expected::literal)
                .filter(w -> !w.isEmpty())
                .toList();
        if (PeriodReader.canBegin(expected)) {
            return new Source.Expectation.Hint(periodWords, words, List.of());
        }
        if (expected.contains(STRING) && expected.contains(MY)) {
            return new Source.Expectation.Hint(
                    "a value: text in double quotes, a number, yes, no, me or my site"
                            + (expected.contains(RPAREN) ? ", or “)”" : ""),
                    words,
                    List.of());
        }
        if (expected.contains(STRING) && Set.of(STRING, ASK).containsAll(expected)) {
            return new Source.Expectation.Hint("a text in double quotes", words, List.of());
        }
        if (expected.containsAll(Set.of(DAY, WEEK))) {
            List<String> also = expected.stream()
                    .filter(t -> !UNITS.contains(t) && t != FISCAL && t != WORKING)
                    .map(Expected::shown)
                    .toList();
            return new Source.Expectation.Hint(
                    "a unit (days, weeks, months, quarters, years, …)"
                            + (also.isEmpty() ? "" : " or " + String.join(" or ", also)),
                    words,
                    List.of());
        }
        if (expected.contains(WORD)) {
            return new Source.Expectation.Hint(
                    attributes.isEmpty() ? "a name" : "one of " + String.join(", ", attributes), attributes, List.of());
        }
        List<String> shown = new ArrayList<>(
                expected.stream().map(Expected::shown).distinct().collect(Collectors.toList()));
        String joined = shown.size() <= 1
                ? String.join("", shown)
                : String.join(", ", shown.subList(0, shown.size() - 1)) + " or " + shown.get(shown.size() - 1);
        return new Source.Expectation.Hint(joined, words, List.of());
    }

    private static String shown(int token) {
        if (token == StatementParser.EOF) {
            return "the end";
        }
        String literal = literal(token);
        return literal.isEmpty()
                ? switch (token) {
                    case STRING -> "a text in double quotes";
                    case NUMBER -> "a number";
                    case CLOCK -> "a time such as 14:30";
                    case MATCHING -> "“matches /…/”";
                    case ASK -> "a blank {label}";
                    default -> "a name";
                }
                : "“" + literal + "”";
    }

    /** The fixed spelling of a token, or nothing where it has none. */
    private static String literal(int token) {
        String literal = token < 0 ? null : StatementParser.VOCABULARY.getLiteralName(token);
        if (literal != null) {
            return literal.substring(1, literal.length() - 1);
        }
        if (token >= MONDAY && token <= SUNDAY || token >= JANUARY && token <= DECEMBER || token == BAND) {
            return StatementParser.VOCABULARY.getSymbolicName(token).toLowerCase(java.util.Locale.ROOT);
        }
        return UNITS.contains(token)
                ? StatementParser.VOCABULARY.getSymbolicName(token).toLowerCase(java.util.Locale.ROOT) + "s"
                : "";
    }
}
