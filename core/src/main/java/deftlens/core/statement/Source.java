package deftlens.core.statement;

import deftlens.core.condition.Condition;
import deftlens.core.statement.grammar.StatementLexer;
import deftlens.core.statement.grammar.StatementParser;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;
import org.antlr.v4.runtime.BailErrorStrategy;
import org.antlr.v4.runtime.CharStreams;
import org.antlr.v4.runtime.CommonToken;
import org.antlr.v4.runtime.CommonTokenStream;
import org.antlr.v4.runtime.NoViableAltException;
import org.antlr.v4.runtime.ParserRuleContext;
import org.antlr.v4.runtime.RecognitionException;
import org.antlr.v4.runtime.Token;
import org.antlr.v4.runtime.atn.ATNConfig;
import org.antlr.v4.runtime.atn.PredictionMode;
import org.antlr.v4.runtime.misc.IntervalSet;
import org.antlr.v4.runtime.misc.ParseCancellationException;

/** A text with its tokens: runs the grammar over it and turns what the grammar refuses into errors for people. */
final class Source {

    /** The longest text that is read, in UTF-16 units: 10,000 pasted values of some length fit. */
    static final int MAX_LENGTH = 1_000_000;

    private static final int MAX_BRACKETS = 50;

    private final String text;
    private final CommonTokenStream tokens;
    private final boolean plain;

    Source(String text) {
        this(text, name -> false);
    }

    /** A text in which the words that are names of fields are told apart. */
    Source(String text, Predicate<String> isField) {
        this.text = text;
        if (text.length() > MAX_LENGTH) {
            throw new StatementError(
                    "This is longer than the " + MAX_LENGTH + " characters that are read. Shorten it.",
                    new StatementError.Place(1, 1, 0, 0),
                    "",
                    List.of());
        }
        this.plain = text.codePoints().allMatch(c -> c < 0x10000);
        StatementLexer lexer = new StatementLexer(CharStreams.fromString(text));
        lexer.removeErrorListeners();
        tokens = new CommonTokenStream(lexer);
        tokens.fill();
        int before = Token.EOF;
        for (Token token : tokens.getTokens()) {
            boolean name = switch (token.getType()) {
                case StatementLexer.WORD, StatementLexer.ISO_LENGTH -> true;
                // After a number it is a unit, whatever fields there are.
                case StatementLexer.LENGTH_UNIT -> before != StatementLexer.NUMBER;
                default -> false;
            };
            before = token.getType();
            if (name && isField.test(token.getText())) {
                ((CommonToken) token).setType(StatementParser.KNOWN);
            }
        }
        refuseWhatCannotBe();
    }

    /** Runs a rule of the grammar over the whole text. */
    <C extends ParserRuleContext> C parse(Function<StatementParser, C> rule, Expectation expectation) {
        StatementParser parser = new StatementParser(tokens);
        parser.removeErrorListeners();
        parser.setErrorHandler(new BailErrorStrategy());
        parser.getInterpreter().setPredictionMode(PredictionMode.SLL);
        try {
            return rule.apply(parser);
        } catch (ParseCancellationException quick) {
            // The quick mode can refuse what the full one reads, and says less about what it expected.
            tokens.seek(0);
            parser.reset();
            parser.getInterpreter().setPredictionMode(PredictionMode.LL);
            try {
                return rule.apply(parser);
            } catch (ParseCancellationException refused) {
                throw refused.getCause() instanceof RecognitionException recognition
                        ? explain(recognition, expectation)
                        : error("This cannot be read.", tokens.get(tokens.size() - 1), List.of());
            }
        }
    }

    /** Says in words what may stand at a place, given the tokens the grammar would take and those before it. */
    interface Expectation {
        /** What is expected, as the end of "expected …"; and known words that a mistyped one could be meant for. */
        Hint at(Set<Integer> expected, List<Token> before);

        /** What was expected, and words to compare a mistyped one with. */
        record Hint(String expected, List<String> words, List<String> replacements) {}
    }

    private StatementError explain(RecognitionException recognition, Expectation expectation) {
        Token at = recognition.getOffendingToken();
        Set<Integer> expected = new LinkedHashSet<>();
        if (recognition instanceof NoViableAltException dead && dead.getDeadEndConfigs() != null) {
            for (ATNConfig config : dead.getDeadEndConfigs()) {
                expected.addAll(StatementParser._ATN.nextTokens(config.state).toList());
            }
        } else {
            IntervalSet set = recognition.getExpectedTokens();
            if (set != null) {
                expected.addAll(set.toList());
            }
        }
        Expectation.Hint hint = expectation.at(
                expected,
                tokens.getTokens(0, Math.max(0, at.getTokenIndex() - 1)).stream()
                        .filter(t -> t.getTokenIndex() < at.getTokenIndex())
                        .toList());
        List<String> near = new ArrayList<>(hint.replacements());
        if (near.isEmpty() && at.getType() != Token.EOF) {
            near.addAll(Nearest.to(at.getText(), hint.words()));
        }
        String expectedWords = "I expected " + hint.expected();
        String message = at.getType() == Token.EOF
                ? "The text ends too early: here " + expectedWords + "."
                : "“" + shortened(at.getText()) + "” cannot stand here. " + expectedWords + ".";
        return error(message + didYouMean(near), at, near);
    }

    static String didYouMean(List<String> suggestions) {
        return suggestions.isEmpty()
                ? ""
                : " Did you mean "
                        + String.join(
                                " or ",
                                suggestions.stream().map(s -> "“" + s + "”").toList()) + "?";
    }

    static String shortened(String text) {
        return text.codePointCount(0, text.length()) <= 40
                ? text
                : text.substring(0, text.offsetByCodePoints(0, 39)) + "…";
    }

    private void refuseWhatCannotBe() {
        int open = 0;
        // Each criterion but the first has an “and” or “or” before it; that of a “between” parts its two ends.
        int criteria = 1;
        for (Token token : tokens.getTokens()) {
            switch (token.getType()) {
                case StatementLexer.OPEN_STRING ->
                    throw error("This quote is never closed. Write \" at the end of the text.", token, List.of());
                case StatementLexer.OPEN_MATCHING ->
                    throw error(
                            "This regular expression is never closed. Write / at its end; inside it, \\/ is the character.",
                            token,
                            List.of());
                case StatementLexer.OPEN_ASK ->
                    throw error(
                            "This ask is never closed. It is written {label} or {label = default}.", token, List.of());
                case StatementLexer.STRAY ->
                    throw error(
                            "“" + token.getText() + "” has no meaning here. Text goes in double quotes: \"…\".",
                            token,
                            List.of());
                case StatementLexer.LPAREN -> {
                    if (++open > MAX_BRACKETS) {
                        throw error("Brackets are nested more than " + MAX_BRACKETS + " deep.", token, List.of());
                    }
                }
                case StatementLexer.RPAREN -> open--;
                case StatementLexer.BETWEEN -> criteria--;
                case StatementLexer.AND, StatementLexer.OR -> {
                    if (++criteria > Condition.MAX_CRITERIA) {
                        throw error(
                                "A statement has at most " + Condition.MAX_CRITERIA
                                        + " criteria. Values of one field are listed in one: is in (…).",
                                token,
                                List.of());
                    }
                }
                default -> {
                    // Everything else is for the grammar.
                }
            }
        }
    }

    StatementError error(String message, Token token, List<String> suggestions) {
        int start = offset(token.getStartIndex());
        if (token.getType() == Token.EOF) {
            int end = text.stripTrailing().length();
            return new StatementError(message, StatementError.Place.of(text, end, 0), "", suggestions);
        }
        int end = offset(token.getStopIndex() + 1);
        return new StatementError(
                message, StatementError.Place.of(text, start, end - start), text.substring(start, end), suggestions);
    }

    StatementError error(String message, ParserRuleContext context, List<String> suggestions) {
        int start = offset(context.getStart().getStartIndex());
        Token last = context.getStop() == null ? context.getStart() : context.getStop();
        int end = offset(last.getStopIndex() + 1);
        return new StatementError(
                message,
                StatementError.Place.of(text, start, Math.max(0, end - start)),
                text.substring(start, Math.max(start, end)),
                suggestions);
    }

    /** The grammar counts in code points; editors and Java count in UTF-16 units. */
    private int offset(int codePoints) {
        int bounded = Math.max(0, codePoints);
        return plain ? Math.min(bounded, text.length()) : text.offsetByCodePoints(0, bounded);
    }
}
