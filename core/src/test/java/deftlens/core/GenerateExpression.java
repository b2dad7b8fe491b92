package deftlens.core;

import deftlens.core.calculation.Expression;
import deftlens.core.calculation.Function;
import deftlens.core.calculation.Operator;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.time.Unit;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.function.Supplier;

/** Random calculations over the fields of a register. */
public final class GenerateExpression {

    /** The types that a calculation can have. */
    public static final List<FieldType> TYPES = List.of(
            FieldType.NUMBER,
            FieldType.MONEY,
            FieldType.DURATION,
            FieldType.TEXT,
            FieldType.CHOICE,
            FieldType.YES_NO,
            FieldType.DATE,
            FieldType.MOMENT,
            FieldType.TIME);

    private final Generate generate;
    private final Random random;
    private final Register register;

    public GenerateExpression(Generate generate, Register register) {
        this.generate = generate;
        this.random = generate.random();
        this.register = register;
    }

    /** An expression of a type, of at most so many levels; whatever fits at each place. */
    public Expression of(FieldType type, int depth) {
        if (depth <= 1 || random.nextInt(5) == 0) {
            return leaf(type);
        }
        int less = depth - 1;
        if (random.nextInt(6) == 0) {
            return when(type, less);
        }
        if (random.nextInt(8) == 0 && type != FieldType.CHOICE) {
            return new Expression.Call(Function.FIRST_OF, several(() -> of(type, less)));
        }
        return switch (type) {
            case NUMBER -> number(less);
            case MONEY -> money(less);
            case DURATION -> duration(less);
            case TEXT ->
                new Expression.Call(
                        Function.JOIN,
                        several(() -> of(
                                generate.pick(List.of(
                                        FieldType.TEXT,
                                        FieldType.CHOICE,
                                        FieldType.NUMBER,
                                        FieldType.MONEY,
                                        FieldType.DATE)),
                                less)));
            case CHOICE -> new Expression.Call(Function.FIRST_OF, several(() -> field(FieldType.CHOICE)));
            case YES_NO -> new Expression.Holds(condition());
            case DATE, MOMENT -> date(type, less);
            case TIME -> extreme(type, less);
            case PERSON, TAGS, SPAN -> throw new IllegalArgumentException("not generated: " + type);
        };
    }

    private Expression leaf(FieldType type) {
        if (random.nextInt(3) > 0) {
            return field(type);
        }
        return switch (type) {
            case NUMBER -> new Expression.Constant(new Operand.Number(decimal()));
            case DURATION ->
                new Expression.Constant(new Operand.Duration(
                        random.nextBoolean()
                                ? BigDecimal.valueOf(86_400L * (random.nextInt(9) - 3))
                                : BigDecimal.valueOf(random.nextInt(100_000) - 20_000, random.nextInt(3))));
            case TEXT ->
                new Expression.Constant(new Operand.Text(generate.pick(List.of("", "a", "é\"\\", "late ", " - "))));
            case YES_NO -> new Expression.Constant(new Operand.YesNo(random.nextBoolean()));
            case DATE -> random.nextBoolean() ? new Expression.Today() : new Expression.Day(generate.day());
            case MOMENT -> new Expression.Now();
            case TIME -> new Expression.Constant(new Operand.Time(generate.time()));
            case MONEY, CHOICE, PERSON, TAGS, SPAN -> field(type);
        };
    }

    private Expression field(FieldType type) {
        return new Expression.Value(generate.pick(
                register.fields().stream().filter(f -> f.type() == type).toList()));
    }

    private BigDecimal decimal() {
        return switch (random.nextInt(4)) {
            case 0 -> BigDecimal.ZERO;
            case 1 -> BigDecimal.valueOf(random.nextInt(100_000) - 20_000, 1 + random.nextInt(6));
            default -> BigDecimal.valueOf(random.nextInt(12) - 3);
        };
    }

    private Expression number(int depth) {
        return switch (random.nextInt(9)) {
            case 0 -> arithmetic(FieldType.NUMBER, generate.pick(List.of(Operator.values())), FieldType.NUMBER, depth);
            case 1 -> arithmetic(FieldType.NUMBER, generate.pick(List.of(Operator.values())), FieldType.NUMBER, depth);
            case 2 -> arithmetic(FieldType.MONEY, Operator.DIVIDED, FieldType.MONEY, depth);
            case 3 -> arithmetic(FieldType.DURATION, Operator.DIVIDED, FieldType.DURATION, depth);
            case 4 -> new Expression.Call(Function.DAYS_BETWEEN, List.of(anyDate(depth), anyDate(depth)));
            case 5 ->
                new Expression.Call(
                        generate.pick(List.of(Function.YEAR, Function.MONTH, Function.WEEKDAY)),
                        List.of(anyDate(depth)));
            default -> alike(FieldType.NUMBER, depth);
        };
    }

    private Expression money(int depth) {
        return switch (random.nextInt(5)) {
            case 0 ->
                arithmetic(
                        FieldType.MONEY,
                        random.nextBoolean() ? Operator.PLUS : Operator.MINUS,
                        random.nextBoolean() ? FieldType.MONEY : FieldType.NUMBER,
                        depth);
            case 1 ->
                arithmetic(
                        FieldType.MONEY,
                        random.nextBoolean() ? Operator.TIMES : Operator.DIVIDED,
                        FieldType.NUMBER,
                        depth);
            case 2 -> arithmetic(FieldType.NUMBER, Operator.TIMES, FieldType.MONEY, depth);
            default -> alike(FieldType.MONEY, depth);
        };
    }

    private Expression duration(int depth) {
        return switch (random.nextInt(8)) {
            case 0 ->
                arithmetic(
                        FieldType.DURATION,
                        random.nextBoolean() ? Operator.PLUS : Operator.MINUS,
                        FieldType.DURATION,
                        depth);
            case 1 ->
                arithmetic(
                        FieldType.DURATION,
                        random.nextBoolean() ? Operator.TIMES : Operator.DIVIDED,
                        FieldType.NUMBER,
                        depth);
            case 2 -> arithmetic(FieldType.MOMENT, Operator.MINUS, FieldType.MOMENT, depth);
            case 3 -> arithmetic(FieldType.DATE, Operator.MINUS, FieldType.DATE, depth);
            case 4, 5 -> new Expression.Call(Function.WORKING_TIME_BETWEEN, List.of(anyDate(depth), anyDate(depth)));
            case 6 -> {
                FieldType type = random.nextBoolean() ? FieldType.DATE : FieldType.MOMENT;
                yield new Expression.Call(Function.TIME_BETWEEN, List.of(of(type, depth), of(type, depth)));
            }
            default -> alike(FieldType.DURATION, depth);
        };
    }

    private Expression date(FieldType type, int depth) {
        return switch (random.nextInt(4)) {
            case 0 ->
                new Expression.Moved(
                        of(type, depth),
                        random.nextInt(20) == 0 ? 8_000 : random.nextInt(80) - 30,
                        generate.pick(List.of(Unit.DAY, Unit.WEEK, Unit.MONTH, Unit.QUARTER, Unit.YEAR)));
            case 1, 2 ->
                arithmetic(type, random.nextBoolean() ? Operator.PLUS : Operator.MINUS, FieldType.DURATION, depth);
            default -> extreme(type, depth);
        };
    }

    private Expression anyDate(int depth) {
        return of(random.nextBoolean() ? FieldType.DATE : FieldType.MOMENT, depth);
    }

    private Expression arithmetic(FieldType left, Operator operator, FieldType right, int depth) {
        Expression first = of(left, depth);
        Expression second = of(right, depth);
        boolean written = left == FieldType.DATE && second instanceof Expression.Constant;
        // Hours that are written out are refused after a date.
        return new Expression.Arithmetic(operator, first, written ? field(FieldType.DURATION) : second);
    }

    private Expression alike(FieldType type, int depth) {
        return switch (random.nextInt(3)) {
            case 0 ->
                random.nextBoolean()
                        ? new Expression.Call(Function.ROUND, List.of(of(type, depth)))
                        : new Expression.Call(
                                Function.ROUND,
                                List.of(
                                        of(type, depth),
                                        new Expression.Constant(Operand.Number.of(random.nextInt(5)))));
            case 1 -> new Expression.Call(Function.ABS, List.of(of(type, depth)));
            default -> extreme(type, depth);
        };
    }

    private Expression extreme(FieldType type, int depth) {
        return new Expression.Call(
                random.nextBoolean() ? Function.LEAST : Function.GREATEST, several(() -> of(type, depth)));
    }

    private Expression when(FieldType type, int depth) {
        List<Expression.Branch> branches = new ArrayList<>();
        for (int i = random.nextInt(3); i >= 0; i--) {
            branches.add(new Expression.Branch(condition(), branch(type, depth)));
        }
        Optional<Expression> otherwise = random.nextBoolean() ? Optional.of(branch(type, depth)) : Optional.empty();
        return new Expression.When(branches, otherwise);
    }

    private Expression branch(FieldType type, int depth) {
        return switch (type) {
            case CHOICE -> field(FieldType.CHOICE);
            // Texts alone that are written out would make a choice of it.
            case TEXT ->
                random.nextBoolean() ? field(type) : new Expression.Call(Function.JOIN, several(() -> of(type, 1)));
            default -> of(type, depth);
        };
    }

    /** A condition that asks nobody and is the same for everyone. */
    private Condition condition() {
        Condition condition;
        do {
            condition = generate.condition(1 + random.nextInt(2)).normal();
        } while (condition.asks() || condition.isPersonal() || condition.equals(Condition.EVERYTHING));
        return condition;
    }

    private static List<Expression> severalOf(int count, Supplier<Expression> one) {
        List<Expression> list = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            list.add(one.get());
        }
        return list;
    }

    private List<Expression> several(Supplier<Expression> one) {
        return severalOf(2 + random.nextInt(2), one);
    }
}
