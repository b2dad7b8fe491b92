package deftlens.core.match;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.calculation.Function;
import deftlens.core.calculation.Operator;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Operand;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.time.LocalTimes;
import deftlens.core.time.Reading;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Predicate;

/** Works out calculated values of single records in memory, with the same outcome as the SQL of the same expression. */
public final class Evaluator {

    private static final LocalDate FIRST_DAY = LocalDate.of(1, 1, 1);
    private static final LocalDate LAST_DAY = LocalDate.of(9999, 12, 31);
    private static final Instant FIRST =
            FIRST_DAY.plusDays(1).atStartOfDay(ZoneOffset.UTC).toInstant();
    private static final Instant LAST = LAST_DAY.atStartOfDay(ZoneOffset.UTC).toInstant();
    private static final BigDecimal DAY = BigDecimal.valueOf(86_400);

    private final Binder binder;
    private final Reading reading;

    private Evaluator(Binder binder) {
        this.binder = binder;
        this.reading = binder.reading();
    }

    /** The value of one record; {@code null} where it is empty. It keeps no state and may be shared by threads. */
    public interface Worked {
        /** The value for a record, of the types that {@link Row#value} gives. */
        Object of(Row row);
    }

    /**
     * What works out an expression.
     *
     * @param binder with the register whose records are given, the moment and the calendar
     */
    public static Worked of(Expression expression, Binder binder) {
        return new Evaluator(binder).value(expression);
    }

    /**
     * A record with its calculated values after its own.
     *
     * @param values by position in the register of the fields that are not calculated
     * @param stored that register
     * @param calculations over the binder's register, each after those that it needs
     * @param binder whose register has all fields
     */
    public static Row with(Object[] values, Register stored, List<Calculation> calculations, Binder binder) {
        Object[] all = new Object[binder.register().fields().size()];
        Row row = at -> all[at];
        for (int i = 0; i < values.length; i++) {
            all[binder.register().fields().indexOf(stored.fields().get(i))] = values[i];
        }
        for (Calculation calculation : calculations) {
            all[binder.register().fields().indexOf(calculation.field())] =
                    of(calculation.expression(), binder).of(row);
        }
        return row;
    }

    private Worked value(Expression expression) {
        return switch (expression) {
            case Expression.Constant(Operand value) -> {
                Object constant = constant(value);
                yield row -> constant;
            }
            case Expression.Day(LocalDate day) -> row -> day;
            case Expression.Now() -> row -> reading.now();
            case Expression.Today() -> row -> reading.today();
            case Expression.Value(Field field) -> {
                int at = at(field);
                yield row -> calculable(row.value(at));
            }
            case Expression.Arithmetic arithmetic -> arithmetic(arithmetic);
            case Expression.Moved moved -> {
                Worked date = value(moved.date());
                yield row -> moved(date.of(row), moved);
            }
            case Expression.Call(Function function, List<Expression> arguments) -> call(function, arguments);
            case Expression.When when -> when(when);
            case Expression.Holds(var condition) -> {
                Predicate<Row> holds = Matcher.of(binder.register(), binder.bind(condition));
                yield holds::test;
            }
        };
    }

    /** The position of a field; of a calculated one the register may know more than the expression does. */
    private int at(Field field) {
        return binder.register()
                .field(field.key())
                .map(f -> binder.register().fields().indexOf(f))
                .orElseThrow(
                        () -> new IllegalArgumentException(binder.register().label() + " has no field " + field.key()));
    }

    private static Object constant(Operand value) {
        return switch (value) {
            case Operand.Number(var number) -> number;
            case Operand.Duration(var seconds) -> seconds;
            case Operand.Text(String text) -> text.isEmpty() ? null : text;
            case Operand.YesNo(boolean yes) -> yes;
            case Operand.Time(var time) -> time;
            case Operand.Viewer _, Operand.Ask _ -> throw new IllegalArgumentException("no constant: " + value);
        };
    }

    /** The value, or nothing where it cannot be calculated with. */
    private static Object calculable(Object value) {
        return switch (value) {
            case null -> null;
            case String text -> text.isEmpty() ? null : text;
            case BigDecimal number -> Beyond.asDouble(number).isPresent() ? null : number;
            case LocalDate day -> day.isBefore(FIRST_DAY) || day.isAfter(LAST_DAY) ? null : day;
            case Instant instant -> instant.isBefore(FIRST) || !instant.isBefore(LAST) ? null : instant;
            default -> value;
        };
    }

    private Worked arithmetic(Expression.Arithmetic arithmetic) {
        Worked left = value(arithmetic.left());
        Worked right = value(arithmetic.right());
        Operator operator = arithmetic.operator();
        boolean temporal = arithmetic.left().type().isTemporal();
        boolean moved = arithmetic.right().type() == FieldType.DURATION;
        return row -> {
            Object a = left.of(row);
            Object b = right.of(row);
            if (a == null || b == null) {
                return null;
            }
            if (temporal) {
                return moved ? later(a, (BigDecimal) b, operator == Operator.MINUS) : between(b, a);
            }
            BigDecimal first = (BigDecimal) a;
            BigDecimal second = (BigDecimal) b;
            return switch (operator) {
                case PLUS -> first.add(second);
                case MINUS -> first.subtract(second);
                case TIMES -> first.multiply(second);
                case DIVIDED ->
                    second.signum() == 0
                            ? null
                            : first.setScale(Operator.WORKING_PLACES, RoundingMode.HALF_UP)
                                    .divide(second, Operator.WORKING_PLACES, RoundingMode.HALF_UP)
                                    .setScale(Operator.PLACES, RoundingMode.HALF_UP);
            };
        };
    }

    private static Object later(Object date, BigDecimal seconds, boolean earlier) {
        if (seconds.abs().compareTo(BigDecimal.valueOf(Expression.MAX_SECONDS)) > 0) {
            return null;
        }
        BigDecimal length = earlier ? seconds.negate() : seconds;
        return calculable(
                switch (date) {
                    case LocalDate day ->
                        day.plusDays(length.divideToIntegralValue(DAY).longValueExact());
                    case Instant instant ->
                        instant.plus(
                                length.setScale(6, RoundingMode.HALF_UP)
                                        .movePointRight(6)
                                        .longValueExact(),
                                ChronoUnit.MICROS);
                    default -> throw new IllegalArgumentException("no date");
                });
    }

    private static BigDecimal between(Object from, Object to) {
        return from instanceof LocalDate day
                ? BigDecimal.valueOf(ChronoUnit.DAYS.between(day, (LocalDate) to))
                        .multiply(DAY)
                : seconds((Instant) to).subtract(seconds((Instant) from));
    }

    private static BigDecimal seconds(Instant instant) {
        return BigDecimal.valueOf(instant.getEpochSecond()).add(BigDecimal.valueOf(instant.getNano(), 9));
    }

    private Object moved(Object date, Expression.Moved by) {
        if (date == null) {
            return null;
        }
        LocalDateTime local = local(date);
        LocalDateTime moved = switch (by.unit()) {
            case DAY -> local.plusDays(by.count());
            case WEEK -> local.plusWeeks(by.count());
            case MONTH -> local.plusMonths(by.count());
            case QUARTER -> local.plusMonths(3L * by.count());
            case YEAR -> local.plusYears(by.count());
            case MINUTE, HOUR, WORKING_DAY, HALF, FISCAL_QUARTER, FISCAL_YEAR ->
                throw new IllegalArgumentException(
                        "no date is moved by " + by.unit().plural());
        };
        return calculable(date instanceof LocalDate ? moved.toLocalDate() : LocalTimes.instant(moved, reading.zone()));
    }

    /** A day at its beginning, a moment by the local clock. */
    private LocalDateTime local(Object date) {
        return date instanceof LocalDate day
                ? day.atStartOfDay()
                : LocalDateTime.ofInstant((Instant) date, reading.zone());
    }

    private Worked when(Expression.When when) {
        List<Predicate<Row>> tests = new ArrayList<>();
        List<Worked> values = new ArrayList<>();
        when.branches().forEach(b -> {
            tests.add(Matcher.of(binder.register(), binder.bind(b.condition())));
            values.add(value(b.value()));
        });
        Optional<Worked> otherwise = when.otherwise().map(this::value);
        return row -> {
            for (int i = 0; i < tests.size(); i++) {
                if (tests.get(i).test(row)) {
                    return values.get(i).of(row);
                }
            }
            return otherwise.isPresent() ? otherwise.get().of(row) : null;
        };
    }

    private Worked call(Function function, List<Expression> arguments) {
        List<Worked> worked = arguments.stream().map(this::value).toList();
        if (function == Function.FIRST_OF) {
            return row -> {
                for (Worked argument : worked) {
                    Object value = argument.of(row);
                    if (value != null) {
                        return value;
                    }
                }
                return null;
            };
        }
        return row -> {
            List<Object> values = new ArrayList<>();
            for (Worked argument : worked) {
                Object value = argument.of(row);
                if (value == null) {
                    return null;
                }
                values.add(value);
            }
            return result(function, values);
        };
    }

    private Object result(Function function, List<Object> values) {
        Object first = values.get(0);
        return switch (function) {
            case ROUND ->
                ((BigDecimal) first)
                        .setScale(
                                values.size() == 1 ? 0 : ((BigDecimal) values.get(1)).intValueExact(),
                                RoundingMode.HALF_UP);
            case ABS -> ((BigDecimal) first).abs();
            case LEAST -> extreme(values, -1);
            case GREATEST -> extreme(values, 1);
            case JOIN -> {
                StringBuilder text = new StringBuilder();
                values.forEach(value -> text.append(
                        value instanceof BigDecimal number
                                ? number.stripTrailingZeros().toPlainString()
                                : value));
                yield text.toString();
            }
            case DAYS_BETWEEN ->
                BigDecimal.valueOf(ChronoUnit.DAYS.between(
                        local(first).toLocalDate(), local(values.get(1)).toLocalDate()));
            case TIME_BETWEEN -> between(first, values.get(1));
            case WORKING_TIME_BETWEEN -> reading.working().worked(local(first), local(values.get(1)));
            case YEAR -> BigDecimal.valueOf(local(first).getYear());
            case MONTH -> BigDecimal.valueOf(local(first).getMonthValue());
            case WEEKDAY -> BigDecimal.valueOf(local(first).getDayOfWeek().getValue());
            case FIRST_OF -> throw new IllegalStateException("first_of takes what is empty");
        };
    }

    @SuppressWarnings("unchecked")
    private static Object extreme(List<Object> values, int sign) {
        return values.stream()
                .reduce((a, b) -> sign * ((Comparable<Object>) a).compareTo(b) >= 0 ? a : b)
                .orElseThrow();
    }
}
