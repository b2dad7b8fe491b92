package deftlens.core.sql;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.calculation.Function;
import deftlens.core.calculation.Operator;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.time.Unit;
import deftlens.core.time.Windows;
import deftlens.core.time.WorkingCalendar;
import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Consumer;
import java.util.stream.Collectors;

/**
 * Calculated fields in SQL. A scope is given them as columns of a query around what it reads from; PostgreSQL draws such a query
 * together with the one around it, so that indexes of other columns serve as before; what nobody asks for is not even written.
 */
public final class Calculations {

    private static final String FIRST_DAY = "date '0001-01-01'";
    private static final String LAST_DAY = "date '9999-12-31'";

    private final Binder binder;

    private Calculations(Binder binder) {
        this.binder = binder;
    }

    /**
     * The scope with calculated fields as columns.
     *
     * @param scope whose {@code from} lacks them, while its register may have them
     * @param calculations over the register's fields, in any order
     * @param binder with the register whose fields they are over, and the moment and calendar that they are read at
     * @throws IllegalArgumentException when they need each other in a circle
     */
    public static Scope with(Scope scope, List<Calculation> calculations, Binder binder) {
        Sql from = scope.from();
        String alias = Sql.identifier(scope.register().key());
        for (List<Calculation> layer : Calculation.layers(calculations)) {
            Sql around = new Sql().add("(select c.*");
            layer.forEach(c -> around.columnWhereNamed(Where.column(c.field()), of(c.expression(), binder)));
            // What is read from may have a name of its own, which the columns do not use.
            from = around.add(" from (select * from ").add(from).add(") as c) as " + alias);
        }
        return new Scope(scope.register(), from, scope.limit());
    }

    /** The value of an expression for a record: null where it is empty, and never an empty text. */
    static Sql of(Expression expression, Binder binder) {
        return new Calculations(binder).value(expression);
    }

    private Sql value(Expression expression) {
        return switch (expression) {
            case Expression.Constant(Operand value) -> constant(value);
            case Expression.Day(LocalDate day) -> cast(day, "date");
            case Expression.Now() -> cast(binder.reading().now(), "timestamptz");
            case Expression.Today() -> cast(binder.reading().today(), "date");
            case Expression.Value(Field field) -> Sql.of(field(field));
            case Expression.Arithmetic arithmetic -> arithmetic(arithmetic);
            case Expression.Moved moved -> moved(moved);
            case Expression.Call(Function function, List<Expression> arguments) -> call(function, arguments);
            case Expression.When when -> {
                Sql sql = new Sql().add("case");
                when.branches()
                        .forEach(b -> sql.add(" when ")
                                .add(Where.of(binder.bind(b.condition())))
                                .add(" then ")
                                .add(value(b.value())));
                when.otherwise().ifPresent(o -> sql.add(" else ").add(value(o)));
                yield sql.add(" end");
            }
            case Expression.Holds(var condition) ->
                new Sql().add("coalesce(").add(Where.of(binder.bind(condition))).add(", false)");
        };
    }

    private static Sql cast(Object value, String type) {
        return new Sql().add("cast(").bind(value).add(" as " + type + ")");
    }

    private static Sql constant(Operand value) {
        return switch (value) {
            case Operand.Number(var number) -> cast(number, "numeric");
            case Operand.Duration(var seconds) -> cast(seconds, "numeric");
            case Operand.Text(String text) -> text.isEmpty() ? Sql.of("cast(null as text)") : cast(text, "text");
            case Operand.YesNo(boolean yes) -> Sql.of(yes ? "true" : "false");
            case Operand.Time(var time) -> new Sql().bind(time);
            case Operand.Viewer _, Operand.Ask _ -> throw new IllegalArgumentException("no constant: " + value);
        };
    }

    /** A field's value where it can be calculated with: not infinite, not beyond the years that count, no empty text. */
    private static String field(Field field) {
        String column = Where.column(field);
        return switch (field.type()) {
            case NUMBER, MONEY, DURATION ->
                "case when cast(" + column + " as numeric) > '-Infinity' and cast(" + column
                        + " as numeric) < 'Infinity' then cast(" + column + " as numeric) end";
            case DATE -> within(column, FieldType.DATE);
            case MOMENT -> within(column, FieldType.MOMENT);
            case TEXT, CHOICE, PERSON -> "nullif(" + column + ", '')";
            case YES_NO, TIME -> column;
            case TAGS, SPAN -> throw new IllegalArgumentException(field.label() + " has no one value");
        };
    }

    private static String within(String value, FieldType type) {
        return type == FieldType.DATE
                ? "case when " + value + " between " + FIRST_DAY + " and " + LAST_DAY + " then " + value + " end"
                // A day less at either end: the local day lies within the years, too.
                : "case when " + value + " >= timestamptz '0001-01-02 00:00:00+00' and " + value
                        + " < timestamptz '9999-12-31 00:00:00+00' then " + value + " end";
    }

    /** A query of one row around values that are used more than once: each is worked out once. */
    private static Sql once(Map<String, Sql> values, String result) {
        Sql sql = new Sql().add("(select " + result + " from (select ");
        List<String> names = new ArrayList<>(values.keySet());
        for (int i = 0; i < names.size(); i++) {
            sql.add(i == 0 ? "" : ", ").add(values.get(names.get(i))).add(" as " + names.get(i));
        }
        return sql.add(" offset 0) v)");
    }

    private Sql arithmetic(Expression.Arithmetic arithmetic) {
        Sql left = value(arithmetic.left());
        Sql right = value(arithmetic.right());
        FieldType of = arithmetic.left().type();
        if (of.isTemporal()) {
            return arithmetic.right().type() == FieldType.DURATION
                    ? later(of, left, right, arithmetic.operator() == Operator.MINUS ? "-" : "")
                    : between(of, right, left);
        }
        return switch (arithmetic.operator()) {
            case PLUS, MINUS, TIMES ->
                new Sql()
                        .add("(")
                        .add(left)
                        .add(" " + arithmetic.operator().sign() + " ")
                        .add(right)
                        .add(")");
            case DIVIDED ->
                new Sql()
                        .add("round(round(")
                        .add(left)
                        .add(", " + Operator.WORKING_PLACES + ") / nullif(")
                        .add(right)
                        .add(", 0), " + Operator.PLACES + ")");
        };
    }

    /** A date that is a duration later: a day by the whole days in it, a moment by its time to the microsecond. */
    private static Sql later(FieldType type, Sql date, Sql duration, String sign) {
        String limit = String.valueOf(Expression.MAX_SECONDS);
        Sql length = new Sql().add("cast(").add(duration).add(" as numeric)");
        String moved = type == FieldType.DATE
                ? "v.d + cast(" + sign + "div(v.n, 86400) as integer)"
                : "v.d + cast(" + sign + "round(v.n, 6) || ' seconds' as interval)";
        Sql sum = once(Map.of("d", date, "n", length), "case when abs(v.n) <= " + limit + " then " + moved + " end");
        return once(Map.of("m", sum), within("v.m", type));
    }

    /** The seconds from one date to another, or from one moment to another. */
    private static Sql between(FieldType type, Sql from, Sql to) {
        return type == FieldType.DATE
                ? new Sql().add("cast(").add(to).add(" - ").add(from).add(" as numeric) * 86400")
                : new Sql()
                        .add("(extract(epoch from ")
                        .add(to)
                        .add(") - extract(epoch from ")
                        .add(from)
                        .add("))");
    }

    private Sql moved(Expression.Moved moved) {
        Unit unit = moved.unit() == Unit.QUARTER ? Unit.MONTH : moved.unit();
        int count = moved.unit() == Unit.QUARTER ? 3 * moved.count() : moved.count();
        Sql interval = cast(count + " " + unit.singular(), "interval");
        Sql date = value(moved.date());
        Sql sum = moved.type() == FieldType.DATE
                ? new Sql().add("cast(").add(date).add(" + ").add(interval).add(" as date)")
                : new Sql()
                        .add("((")
                        .add(local(date))
                        .add(" + ")
                        .add(interval)
                        .add(") at time zone ")
                        .bind(binder.reading().zone().getId())
                        .add(")");
        return once(Map.of("m", sum), within("v.m", moved.type()));
    }

    /** A moment by the local clock. */
    private Sql local(Sql moment) {
        return new Sql()
                .add("(")
                .add(moment)
                .add(" at time zone ")
                .bind(binder.reading().zone().getId())
                .add(")");
    }

    /** A date as it is, a moment by the local clock. */
    private Sql local(Expression date) {
        return date.type() == FieldType.DATE ? value(date) : local(value(date));
    }

    private Sql day(Expression date) {
        return new Sql().add("cast(").add(local(date)).add(" as date)");
    }

    private Sql call(Function function, List<Expression> arguments) {
        return switch (function) {
            case ROUND ->
                new Sql()
                        .add("round(")
                        .add(value(arguments.get(0)))
                        .add(", " + (arguments.size() == 1 ? "0" : places(arguments.get(1))) + ")");
            case ABS -> new Sql().add("abs(").add(value(arguments.get(0))).add(")");
            case LEAST -> extreme("min", arguments);
            case GREATEST -> extreme("max", arguments);
            case FIRST_OF -> {
                Sql sql = new Sql();
                list(arguments, ", ", a -> sql.add(value(a)), sql);
                yield new Sql().add("coalesce(").add(sql).add(")");
            }
            case JOIN -> {
                Sql sql = new Sql();
                list(arguments, " || ", a -> sql.add(written(a)), sql);
                yield new Sql().add("(").add(sql).add(")");
            }
            case DAYS_BETWEEN ->
                new Sql()
                        .add("cast(")
                        .add(day(arguments.get(1)))
                        .add(" - ")
                        .add(day(arguments.get(0)))
                        .add(" as numeric)");
            case TIME_BETWEEN -> between(arguments.get(0).type(), value(arguments.get(0)), value(arguments.get(1)));
            case WORKING_TIME_BETWEEN ->
                new Sql()
                        .add("(")
                        .add(worked(local(arguments.get(1))))
                        .add(" - ")
                        .add(worked(local(arguments.get(0))))
                        .add(")");
            case YEAR -> part("year", arguments.get(0));
            case MONTH -> part("month", arguments.get(0));
            case WEEKDAY -> part("isodow", arguments.get(0));
        };
    }

    private static String places(Expression places) {
        return ((Operand.Number) ((Expression.Constant) places).value()).value().toPlainString();
    }

    private static void list(List<Expression> arguments, String between, Consumer<Expression> add, Sql sql) {
        for (int i = 0; i < arguments.size(); i++) {
            sql.add(i == 0 ? "" : between);
            add.accept(arguments.get(i));
        }
    }

    /** The least or the greatest of values that are all there. */
    private Sql extreme(String aggregate, List<Expression> arguments) {
        Sql rows = new Sql();
        list(arguments, ", ", a -> rows.add("(").add(value(a)).add(")"), rows);
        return new Sql()
                .add("(select case when count(v.x) = " + arguments.size() + " then " + aggregate
                        + "(v.x) end from (values ")
                .add(rows)
                .add(") v (x))");
    }

    private Sql written(Expression value) {
        return switch (value.type()) {
            case NUMBER, MONEY ->
                new Sql().add("cast(trim_scale(").add(value(value)).add(") as text)");
            case DATE -> new Sql().add("to_char(").add(value(value)).add(", 'YYYY-MM-DD')");
            case TEXT, CHOICE, PERSON -> value(value);
            case DURATION, YES_NO, TAGS, MOMENT, TIME, SPAN ->
                throw new IllegalArgumentException("no text: " + value.type());
        };
    }

    private Sql part(String part, Expression date) {
        return new Sql().add("extract(" + part + " from ").add(local(date)).add(")");
    }

    /**
     * The working seconds from the first Monday of the year 1 to a local time: those of whole weeks, of the days of the week
     * before its own, and of its own up to the time, with single dates put right. Two of them differ by the working time between.
     */
    private Sql worked(Sql local) {
        WorkingCalendar calendar = binder.reading().working();
        List<String> before = new ArrayList<>();
        StringBuilder within = new StringBuilder("case v.n % 7");
        BigDecimal week = BigDecimal.ZERO;
        for (DayOfWeek day : DayOfWeek.values()) {
            before.add(week.toPlainString());
            List<WorkingCalendar.Hours> hours = calendar.weekly().getOrDefault(day, List.of());
            for (WorkingCalendar.Hours stretch : hours) {
                week = week.add(stretch.seconds());
            }
            within.append(" when ")
                    .append(day.getValue() - 1)
                    .append(" then ")
                    .append(
                            hours.isEmpty()
                                    ? "0"
                                    : hours.stream().map(Calculations::upTo).collect(Collectors.joining(" + ")));
        }
        within.append(" end");
        List<Long> days = new ArrayList<>();
        List<BigDecimal> more = new ArrayList<>(List.of(BigDecimal.ZERO));
        List<Long> ofDays = new ArrayList<>();
        List<BigDecimal> froms = new ArrayList<>();
        List<BigDecimal> tos = new ArrayList<>();
        new TreeMap<>(calendar.exceptions()).forEach((day, hours) -> {
            long number = ChronoUnit.DAYS.between(Windows.FIRST_DAY, day);
            days.add(number);
            more.add(more.getLast()
                    .add(WorkingCalendar.seconds(hours))
                    .subtract(WorkingCalendar.seconds(calendar.weekly().getOrDefault(day.getDayOfWeek(), List.of()))));
            hours.forEach(h -> {
                ofDays.add(number);
                froms.add(h.start());
                tos.add(h.end());
            });
        });
        Sql sql = new Sql()
                .add("(select (v.n / 7) * cast(" + week.toPlainString() + " as numeric) + (array["
                        + String.join(", ", before) + "])[v.n % 7 + 1] + ");
        if (days.isEmpty()) {
            sql.add(within.toString());
        } else {
            // What all single dates before a day are more is found by halving, not added up for each record.
            sql.add("(")
                    .add(numbers(more))
                    .add(")[width_bucket(v.n - 1, ")
                    .add(whole(days))
                    .add(") + 1] + case when v.n = any(")
                    .add(whole(days))
                    .add(") then coalesce((select sum(greatest(0, least(v.s, e.upto) - e.since)) from unnest(")
                    .add(whole(ofDays))
                    .add(", ")
                    .add(numbers(froms))
                    .add(", ")
                    .add(numbers(tos))
                    .add(") e (day, since, upto) where e.day = v.n), 0) else " + within + " end");
        }
        return sql.add(" from (select w.d, w.d - " + FIRST_DAY
                        + " as n, w.s from (select cast(u.l as date) as d, extract(epoch from cast(u.l as time)) as s"
                        + " from (select cast(")
                .add(local)
                .add(" as timestamp) as l offset 0) u offset 0) w where w.d is not null offset 0) v)");
    }

    private static String upTo(WorkingCalendar.Hours hours) {
        return "greatest(0, least(v.s, " + hours.end().toPlainString() + ") - "
                + hours.start().toPlainString() + ")";
    }

    private static Sql whole(List<Long> numbers) {
        return new Sql().add("cast(").bind(numbers.toArray(Long[]::new)).add(" as bigint[])");
    }

    private static Sql numbers(List<BigDecimal> numbers) {
        return new Sql().add("cast(").bind(numbers.toArray(BigDecimal[]::new)).add(" as numeric[])");
    }
}
