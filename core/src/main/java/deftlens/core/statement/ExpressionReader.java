package deftlens.core.statement;

import static deftlens.core.statement.grammar.StatementParser.*;

import deftlens.core.calculation.Expression;
import deftlens.core.calculation.Function;
import deftlens.core.calculation.Operator;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.FieldType;
import deftlens.core.statement.grammar.StatementParser;
import deftlens.core.time.Unit;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import org.antlr.v4.runtime.ParserRuleContext;
import org.antlr.v4.runtime.Token;
import org.antlr.v4.runtime.tree.ParseTree;
import org.antlr.v4.runtime.tree.TerminalNode;

/** One reading of how a field is calculated. */
final class ExpressionReader {

    /** The longest text that is read, in UTF-16 units. */
    private static final int MAX_LENGTH = 4_000;

    private static final BigInteger DAY = BigInteger.valueOf(86_400);

    private final Reader reader;
    private final String text;
    private final Source source;
    private final Reader.Walk walk;
    private final PeriodReader periods;
    private int parts;

    ExpressionReader(Reader reader, String text) {
        this.reader = reader;
        this.text = text;
        this.source = new Source(text, reader::isField);
        this.walk = reader.new Walk(source);
        this.periods = new PeriodReader(source);
    }

    Expression read() {
        if (text.isBlank()) {
            throw error("A calculation says how the value comes about: amount * 2, or days_between(due, today).");
        }
        if (text.length() > MAX_LENGTH) {
            throw error("A calculation has at most " + MAX_LENGTH
                    + " characters. Make a calculated field of a part of it, and name that here.");
        }
        CalculationContext context = source.parse(StatementParser::calculation, this::expectation);
        return context.sum() != null
                ? sum(context.sum())
                : typed(
                        context,
                        () -> new Expression.Holds(walk.any(context.any()).normal()));
    }

    private StatementError error(String message) {
        return new StatementError(message, StatementError.Place.of(text, 0, 0), "", List.of());
    }

    private Source.Expectation.Hint expectation(Set<Integer> expected, List<Token> before) {
        if (expected.contains(STRING) && expected.contains(BRACKETED) && expected.contains(TODAY)) {
            List<String> words = new ArrayList<>(walk.fieldNames());
            Arrays.stream(Function.values()).forEach(f -> words.add(f.word()));
            words.add("when");
            return new Source.Expectation.Hint(
                    "a field of " + reader.register().label()
                            + ", a number, a text in double quotes, a function or “(”",
                    words,
                    List.of());
        }
        if (expected.contains(STAR) && expected.contains(PLUS)) {
            return new Source.Expectation.Hint(
                    "+, -, *, /"
                            + (expected.contains(CONTAINS) ? ", a test such as “is”" : "")
                            + (expected.contains(COMMA) ? ", “,” or “)”" : " or the end"),
                    List.of(),
                    List.of());
        }
        return walk.expectation(expected, before);
    }

    private Expression sum(SumContext context) {
        Expression value = product(context.product(0));
        Optional<Operator> sign = Optional.empty();
        for (ParseTree child : context.children.subList(1, context.children.size())) {
            if (child instanceof TerminalNode node) {
                sign = Optional.of(node.getSymbol().getType() == PLUS ? Operator.PLUS : Operator.MINUS);
            } else {
                ProductContext right = (ProductContext) child;
                Expression left = value;
                Optional<Operator> written = sign;
                value = typed(right, () -> added(left, written, right));
                sign = Optional.empty();
            }
        }
        return value;
    }

    private Expression added(Expression left, Optional<Operator> written, ProductContext context) {
        if (written.isEmpty() && !context.getStart().getText().startsWith("-")) {
            throw source.error(
                    "A sign is missing before “"
                            + Source.shortened(context.getStart().getText()) + "”: write +, -, * or /.",
                    context,
                    List.of());
        }
        Operator operator = written.orElse(Operator.MINUS);
        if (context.factor().size() == 1
                && context.factor(0).MINUS() == null
                && context.factor(0).operand() instanceof UnitFactorContext length) {
            int count = PeriodReader.small(length.NUMBER().getText().replaceFirst("^-", ""));
            if (count < 0) {
                throw new IllegalArgumentException(
                        "A date is moved by a whole number of units, of at most six digits.");
            }
            boolean back = (operator == Operator.MINUS)
                    != (written.isPresent() && length.NUMBER().getText().startsWith("-"));
            return counted(new Expression.Moved(left, back ? -count : count, periods.unit(length.unitName())));
        }
        Expression right = product(context);
        if (written.isEmpty()) {
            right = opposite(right);
        }
        if (left.type().isTemporal() && right instanceof Expression.Constant(Operand.Duration(var seconds))) {
            return counted(moved(left, operator == Operator.MINUS ? seconds.negate() : seconds)
                    .orElse(new Expression.Arithmetic(operator, left, right)));
        }
        return counted(new Expression.Arithmetic(operator, left, right));
    }

    /** A date moved by whole days that are written out: by the calendar, not by so many hours. */
    private static Optional<Expression> moved(Expression date, BigDecimal seconds) {
        BigInteger[] days = seconds.scale() > 0
                ? new BigInteger[] {BigInteger.ZERO, BigInteger.ONE}
                : seconds.toBigInteger().divideAndRemainder(DAY);
        if (days[1].signum() != 0) {
            if (date.type() == FieldType.DATE) {
                throw new IllegalArgumentException(
                        "A date has no time of day: hours do not fit it. Say it in whole days.");
            }
            return Optional.empty();
        }
        if (days[0].bitLength() > 31) {
            throw new IllegalArgumentException("A date is moved by " + Expression.MAX_YEARS + " years at most.");
        }
        return Optional.of(new Expression.Moved(date, days[0].intValue(), Unit.DAY));
    }

    /** The same value with the other sign: of what begins with a number that has its own. */
    private static Expression opposite(Expression value) {
        return switch (value) {
            case Expression.Constant(Operand.Number(var number)) ->
                new Expression.Constant(new Operand.Number(number.negate()));
            case Expression.Constant(Operand.Duration(var seconds)) ->
                new Expression.Constant(new Operand.Duration(seconds.negate()));
            case Expression.Arithmetic(Operator operator, Expression left, Expression right) ->
                new Expression.Arithmetic(operator, opposite(left), right);
            default -> throw new IllegalStateException("nothing else begins with a signed number");
        };
    }

    private Expression product(ProductContext context) {
        Expression value = factor(context.factor(0));
        for (int i = 1; i < context.factor().size(); i++) {
            int sign = ((TerminalNode) context.getChild(2 * i - 1)).getSymbol().getType();
            Expression left = value;
            FactorContext right = context.factor(i);
            value = typed(
                    right,
                    () -> counted(new Expression.Arithmetic(
                            sign == STAR ? Operator.TIMES : Operator.DIVIDED, left, factor(right))));
        }
        return value;
    }

    private Expression factor(FactorContext context) {
        Expression value = operand(context.operand());
        return context.MINUS() == null ? value : typed(context, () -> negative(value));
    }

    private Expression operand(OperandContext context) {
        return switch (context) {
            case LengthFactorContext c -> constant(length(c.length()));
            case UnitFactorContext c ->
                throw source.error(
                        "“" + PeriodReader.words(c) + "” has no one length: it can only be added to a date.",
                        c,
                        List.of());
            case NumberFactorContext c -> constant(walk.number(c.NUMBER().getSymbol()));
            case TextFactorContext c -> constant(walk.text(c.STRING().getSymbol()));
            case TruthFactorContext c -> constant(new Operand.YesNo(c.YES() != null));
            case NowFactorContext c -> counted(new Expression.Now());
            case TodayFactorContext c -> counted(new Expression.Today());
            case DayFactorContext c -> typed(c, () -> counted(new Expression.Day(day(c))));
            case ClockFactorContext c ->
                typed(c, () -> constant(new Operand.Time(Reader.clock(c.CLOCK().getText()))));
            case CallContext c -> typed(c, () -> counted(call(c)));
            case BracketFactorContext c -> sum(c.sum());
            case FieldFactorContext c -> typed(c, () -> counted(new Expression.Value(walk.field(c.field()))));
            default -> throw new IllegalStateException("a factor without a reading");
        };
    }

    private Expression negative(Expression value) {
        return value instanceof Expression.Constant(Operand.Number n)
                        || value instanceof Expression.Constant(Operand.Duration d)
                ? opposite(value)
                : counted(new Expression.Arithmetic(
                        Operator.TIMES, new Expression.Constant(Operand.Number.of(-1)), value));
    }

    private Operand.Duration length(LengthContext context) {
        context.NUMBER().stream()
                .skip(1)
                .filter(number -> number.getText().startsWith("-"))
                .findFirst()
                .ifPresent(number -> {
                    throw source.error(
                            "Put a space between the sign and the number: 2 weeks - 1 day.",
                            number.getSymbol(),
                            List.of("- " + number.getText().substring(1)));
                });
        return walk.length(context);
    }

    private LocalDate day(DayFactorContext context) {
        try {
            return LocalDate.parse(context.getText());
        } catch (DateTimeException e) {
            throw source.error(
                    "“" + Source.shortened(context.getText()) + "” is no day. Write one as 2026-11-23, or, where you"
                            + " meant a subtraction, put spaces around the sign.",
                    context,
                    List.of());
        }
    }

    private Expression call(CallContext context) {
        String name = context.name().getText();
        List<ArgumentContext> arguments = context.argument();
        if (name.equalsIgnoreCase("when")) {
            return when(arguments);
        }
        Function function = Function.named(name).orElseThrow(() -> {
            List<String> words = new ArrayList<>(
                    Arrays.stream(Function.values()).map(Function::word).toList());
            words.add("when");
            List<String> near = Nearest.to(name, words);
            return source.error(
                    "There is no function “" + Source.shortened(name) + "”."
                            + (near.isEmpty()
                                    ? " There are " + String.join(", ", words) + "."
                                    : Source.didYouMean(near)),
                    context.name(),
                    near);
        });
        return new Expression.Call(function, arguments.stream().map(this::value).toList());
    }

    private Expression when(List<ArgumentContext> arguments) {
        if (arguments.size() < 2) {
            throw new IllegalArgumentException("It is written when(condition, value, …, otherwise).");
        }
        List<Expression.Branch> branches = new ArrayList<>();
        for (int i = 0; i + 1 < arguments.size(); i += 2) {
            branches.add(new Expression.Branch(condition(arguments.get(i)), value(arguments.get(i + 1))));
        }
        return new Expression.When(
                branches, arguments.size() % 2 == 1 ? Optional.of(value(arguments.getLast())) : Optional.empty());
    }

    /** A condition; a yes/no field alone is one. */
    private Condition condition(ArgumentContext context) {
        if (context.any() != null) {
            return walk.any(context.any()).normal();
        }
        if (sum(context.sum()) instanceof Expression.Value(var field) && field.type() == FieldType.YES_NO) {
            return Condition.Criterion.of(field.key(), new Test.Is(new Operand.YesNo(true), false));
        }
        throw source.error(
                "Here stands a condition, such as status is \"Open\": when(condition, value, …, otherwise).",
                context,
                List.of());
    }

    private Expression value(ArgumentContext context) {
        return context.sum() != null
                ? sum(context.sum())
                : typed(
                        context,
                        () -> counted(
                                new Expression.Holds(walk.any(context.any()).normal())));
    }

    private Expression constant(Operand value) {
        return counted(new Expression.Constant(value));
    }

    private Expression counted(Expression made) {
        if (++parts > Expression.MAX_PARTS) {
            throw error("A calculation has at most " + Expression.MAX_PARTS
                    + " parts. Make a calculated field of some of it, and name that here.");
        }
        return made;
    }

    /** What does not fit is said where it stands. */
    private Expression typed(ParserRuleContext context, Supplier<Expression> make) {
        try {
            return make.get();
        } catch (IllegalArgumentException e) {
            throw source.error(e.getMessage(), context, List.of());
        }
    }
}
