package deftlens.core.interchange;

import deftlens.core.interchange.grammar.Cql2Lexer;
import deftlens.core.interchange.grammar.Cql2Parser;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.antlr.v4.runtime.BaseErrorListener;
import org.antlr.v4.runtime.CharStreams;
import org.antlr.v4.runtime.CommonTokenStream;
import org.antlr.v4.runtime.ParserRuleContext;
import org.antlr.v4.runtime.RecognitionException;
import org.antlr.v4.runtime.Recognizer;
import org.antlr.v4.runtime.Token;

/** The text encoding. */
final class Cql2Text {

    private static final int MAX_LENGTH = 1_000_000;
    private static final int MAX_DEPTH = 100;
    private static final int MAX_JOINED = 1_000;
    private static final Set<String> INFIX = Set.of("=", "<>", "<", "<=", ">", ">=", "like");
    private static final Pattern PLAIN = Pattern.compile("[\\p{L}_:][\\p{L}\\p{M}\\p{N}_.:]*");
    private static final Set<String> RESERVED = Set.of(
            "and",
            "or",
            "not",
            "like",
            "between",
            "in",
            "is",
            "null",
            "true",
            "false",
            "date",
            "timestamp",
            "interval");

    private Cql2Text() {}

    static String print(Cql2Expression expression) {
        return switch (expression) {
            case Cql2Expression.Op(String name, List<Cql2Expression> arguments, String where) -> op(name, arguments);
            case Cql2Expression.Property(String name, String where) ->
                PLAIN.matcher(name).matches() && !RESERVED.contains(name.toLowerCase(Locale.ROOT))
                        ? name
                        : "\"" + name + "\"";
            case Cql2Expression.Text(String value, String where) -> quoted(value);
            case Cql2Expression.Number(BigDecimal value, String where) -> value.toPlainString();
            case Cql2Expression.Truth(boolean value, String where) -> value ? "TRUE" : "FALSE";
            case Cql2Expression.Date(var value, String where) -> "DATE('" + value + "')";
            case Cql2Expression.Timestamp(var value, String where) -> "TIMESTAMP('" + value + "')";
            case Cql2Expression.Interval(var from, var to, String where) ->
                "INTERVAL(" + end(from) + ", " + end(to) + ")";
            case Cql2Expression.Array(List<Cql2Expression> items, String where) -> list(items);
        };
    }

    /** A backslash before a quote makes the quote part of the text, and nothing makes the backslash part of it there. */
    private static String quoted(String value) {
        if (value.endsWith("\\") || value.contains("\\'")) {
            throw new Cql2.NotCarried(
                    "",
                    "A text with a backslash at its end or before a quote, as in “" + value + "”, cannot be written.");
        }
        return "'" + value.replace("'", "''") + "'";
    }

    private static String end(Optional<Cql2Expression> end) {
        return end.map(e -> switch (e) {
                    case Cql2Expression.Date(var value, String where) -> "'" + value + "'";
                    case Cql2Expression.Timestamp(var value, String where) -> "'" + value + "'";
                    default -> print(e);
                })
                .orElse("'" + Cql2Json.OPEN + "'");
    }

    private static String list(List<Cql2Expression> items) {
        return items.stream().map(Cql2Text::print).collect(Collectors.joining(", ", "(", ")"));
    }

    private static String op(String name, List<Cql2Expression> arguments) {
        if (name.equals("and") || name.equals("or")) {
            return arguments.stream()
                    .map(Cql2Text::operand)
                    .collect(Collectors.joining(" " + name.toUpperCase(Locale.ROOT) + " "));
        }
        if (INFIX.contains(name)) {
            return print(arguments.get(0)) + " " + name.toUpperCase(Locale.ROOT) + " " + print(arguments.get(1));
        }
        return switch (name) {
            case "not" ->
                arguments.get(0) instanceof Cql2Expression.Op(String inner, var of, String where)
                                && inner.equals("isNull")
                        ? print(of.get(0)) + " IS NOT NULL"
                        : "NOT (" + print(arguments.get(0)) + ")";
            case "isNull" -> print(arguments.get(0)) + " IS NULL";
            case "between" ->
                print(arguments.get(0)) + " BETWEEN " + print(arguments.get(1)) + " AND " + print(arguments.get(2));
            case "in" -> print(arguments.get(0)) + " IN " + print(arguments.get(1));
            default -> name.toUpperCase(Locale.ROOT) + list(arguments);
        };
    }

    private static String operand(Cql2Expression expression) {
        boolean group = expression instanceof Cql2Expression.Op(String name, var arguments, String where)
                && (name.equals("and") || name.equals("or"));
        return group ? "(" + print(expression) + ")" : print(expression);
    }

    static Cql2Expression read(String text) {
        if (text.length() > MAX_LENGTH) {
            throw new Cql2.NotCarried("1:1", "This is longer than the " + MAX_LENGTH + " characters that are read.");
        }
        Cql2Lexer lexer = new Cql2Lexer(CharStreams.fromString(text));
        lexer.removeErrorListeners();
        CommonTokenStream tokens = new CommonTokenStream(lexer);
        tokens.fill();
        int open = 0;
        int nots = 0;
        int joined = 0;
        for (Token token : tokens.getTokens()) {
            nots = token.getType() == Cql2Lexer.NOT ? nots + 1 : 0;
            open += token.getType() == Cql2Lexer.LPAREN ? 1 : token.getType() == Cql2Lexer.RPAREN ? -1 : 0;
            if (open > MAX_DEPTH || nots > MAX_DEPTH) {
                throw new Cql2.NotCarried(where(token), "The filter is nested more than " + MAX_DEPTH + " deep.");
            }
            if (token.getType() == Cql2Lexer.AND || token.getType() == Cql2Lexer.OR) {
                if (++joined > MAX_JOINED) {
                    throw new Cql2.NotCarried(
                            where(token), "The filter joins more than " + MAX_JOINED + " conditions.");
                }
            }
            if (token.getType() == Cql2Lexer.STRAY) {
                throw new Cql2.NotCarried(
                        where(token),
                        "“" + token.getText() + "” has no meaning here"
                                + ("+-*/%^".contains(token.getText())
                                        ? ": arithmetic is not carried."
                                        : "; text goes in single quotes."));
            }
        }
        Cql2Parser parser = new Cql2Parser(tokens);
        parser.removeErrorListeners();
        parser.addErrorListener(new BaseErrorListener() {
            @Override
            public void syntaxError(
                    Recognizer<?, ?> recognizer,
                    Object symbol,
                    int line,
                    int column,
                    String message,
                    RecognitionException e) {
                Token at = (Token) symbol;
                throw new Cql2.NotCarried(
                        line + ":" + (column + 1),
                        at.getType() == Token.EOF
                                ? "The filter ends too early."
                                : "“" + at.getText() + "” cannot stand here in CQL2.");
            }
        });
        return expression(parser.filter().expression());
    }

    private static String where(Token token) {
        return token.getLine() + ":" + (token.getCharPositionInLine() + 1);
    }

    private static String where(ParserRuleContext context) {
        return where(context.getStart());
    }

    private static Cql2Expression expression(Cql2Parser.ExpressionContext context) {
        String where = where(context);
        return switch (context) {
            case Cql2Parser.NotContext c -> op("not", where, expression(c.expression()));
            case Cql2Parser.AndContext c -> op("and", where, expression(c.expression(0)), expression(c.expression(1)));
            case Cql2Parser.OrContext c -> op("or", where, expression(c.expression(0)), expression(c.expression(1)));
            case Cql2Parser.BracketContext c -> expression(c.expression());
            case Cql2Parser.ComparisonContext c -> op(c.op.getText(), where, scalar(c.scalar(0)), scalar(c.scalar(1)));
            case Cql2Parser.BetweenContext c ->
                not(
                        c.NOT() != null,
                        where,
                        op("between", where, scalar(c.scalar(0)), scalar(c.scalar(1)), scalar(c.scalar(2))));
            case Cql2Parser.LikeContext c ->
                not(c.NOT() != null, where, op("like", where, scalar(c.scalar(0)), scalar(c.scalar(1))));
            case Cql2Parser.InContext c ->
                not(
                        c.NOT() != null,
                        where,
                        op(
                                "in",
                                where,
                                scalar(c.scalar(0)),
                                new Cql2Expression.Array(
                                        c.scalar().subList(1, c.scalar().size()).stream()
                                                .map(Cql2Text::scalar)
                                                .toList(),
                                        where)));
            case Cql2Parser.IsNullContext c -> not(c.NOT() != null, where, op("isNull", where, scalar(c.scalar())));
            case Cql2Parser.CallContext c -> call(c.name(), c.argument(), where);
            case Cql2Parser.TruthContext c -> new Cql2Expression.Truth(c.TRUE() != null, where);
            default -> throw new IllegalStateException("an expression without a reading");
        };
    }

    private static Cql2Expression op(String name, String where, Cql2Expression... arguments) {
        return new Cql2Expression.Op(name, List.of(arguments), where);
    }

    private static Cql2Expression not(boolean negated, String where, Cql2Expression expression) {
        return negated ? op("not", where, expression) : expression;
    }

    private static Cql2Expression call(
            Cql2Parser.NameContext name, List<Cql2Parser.ArgumentContext> arguments, String where) {
        List<Cql2Expression> read = new ArrayList<>();
        arguments.forEach(a -> read.add(argument(a)));
        return new Cql2Expression.Op(Cql2Json.canonical(plain(name)), List.copyOf(read), where);
    }

    private static String plain(Cql2Parser.NameContext name) {
        String text = name.getText();
        return text.startsWith("\"") ? text.substring(1, text.length() - 1) : text;
    }

    private static Cql2Expression argument(Cql2Parser.ArgumentContext context) {
        return switch (context) {
            case Cql2Parser.IntervalContext c ->
                new Cql2Expression.Interval(end(scalar(c.scalar(0))), end(scalar(c.scalar(1))), where(context));
            case Cql2Parser.ArrayContext c ->
                new Cql2Expression.Array(
                        c.scalar().stream().map(Cql2Text::scalar).toList(), where(context));
            case Cql2Parser.PlainContext c -> scalar(c.scalar());
            default -> throw new IllegalStateException("an argument without a reading");
        };
    }

    private static Optional<Cql2Expression> end(Cql2Expression end) {
        return end instanceof Cql2Expression.Text(String value, String where)
                ? value.equals(Cql2Json.OPEN) ? Optional.empty() : Optional.of(Cql2Json.instant(value, where))
                : Optional.of(end);
    }

    private static Cql2Expression scalar(Cql2Parser.ScalarContext context) {
        String where = where(context);
        return switch (context) {
            case Cql2Parser.TextContext c ->
                new Cql2Expression.Text(unquoted(c.STRING().getText()), where);
            case Cql2Parser.NumberContext c -> {
                String digits = c.NUMBER().getText();
                if (digits.length() > 200 || digits.toLowerCase(Locale.ROOT).matches(".*e[+-]?\\d{4,}")) {
                    throw new Cql2.NotCarried(where, "This number is too long.");
                }
                BigDecimal value = new BigDecimal(digits);
                yield new Cql2Expression.Number(c.MINUS() != null ? value.negate() : value, where);
            }
            case Cql2Parser.YesNoContext c -> new Cql2Expression.Truth(c.TRUE() != null, where);
            case Cql2Parser.DateContext c -> Cql2Json.date(unquoted(c.STRING().getText()), where);
            case Cql2Parser.TimestampContext c ->
                Cql2Json.timestamp(unquoted(c.STRING().getText()), where);
            case Cql2Parser.FunctionContext c -> call(c.name(), c.argument(), where);
            case Cql2Parser.PropertyContext c -> new Cql2Expression.Property(plain(c.name()), where);
            default -> throw new IllegalStateException("a value without a reading");
        };
    }

    private static String unquoted(String token) {
        return token.substring(1, token.length() - 1).replace("''", "'").replace("\\'", "'");
    }
}
