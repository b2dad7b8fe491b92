package deftlens.core.statement;

import deftlens.core.calculation.Expression;
import deftlens.core.calculation.Function;
import deftlens.core.calculation.Operator;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Operands;
import deftlens.core.condition.Test;
import deftlens.core.condition.Verb;
import deftlens.core.time.DurationText;
import deftlens.core.time.Period;
import deftlens.core.time.Unit;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.Month;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.stream.Collectors;

/**
 * Writes conditions and periods in the language: one canonical spelling for each. Reading the text back gives the normal
 * form of what was printed. Brackets stand wherever {@code and} meets {@code or}, and nowhere else.
 */
public final class Printer {

    private Printer() {}

    /** The statement of a condition; empty for every record. */
    public static String print(Condition condition) {
        Condition normal = condition.normal();
        if (normal.equals(Condition.EVERYTHING)) {
            return "";
        }
        return top(normal);
    }

    private static String top(Condition condition) {
        return switch (condition) {
            case Condition.All(List<Condition> parts) -> join(parts, " and ");
            case Condition.Any(List<Condition> parts) -> join(parts, " or ");
            default -> unit(condition);
        };
    }

    private static String join(List<Condition> parts, String word) {
        return parts.stream().map(Printer::unit).collect(Collectors.joining(word));
    }

    private static String unit(Condition condition) {
        return switch (condition) {
            case Condition.All all -> "(" + top(all) + ")";
            case Condition.Any any -> "(" + top(any) + ")";
            case Condition.Off(Condition part) -> "off(" + top(part) + ")";
            case Condition.Criterion criterion -> criterion(criterion);
            case Condition.None(List<Condition> parts) ->
                parts.size() > 1
                        ? "not (" + join(parts, " or ") + ")"
                        : parts.get(0) instanceof Condition.None none
                                ? "not (" + unit(none) + ")"
                                : "not " + unit(parts.get(0));
        };
    }

    /** One criterion, without regard to its place. */
    public static String criterion(Condition.Criterion criterion) {
        return field(criterion.field()) + " " + test(criterion);
    }

    /** The test of a criterion, without its field. */
    public static String test(Condition.Criterion criterion) {
        Verb verb = Verb.of(criterion);
        String words = verb.words();
        return switch (Operands.of(criterion.test())) {
            case Operands.Nothing() -> words;
            case Operands.One(Operand value, boolean exactly) -> words + " " + operand(value) + exactly(exactly);
            case Operands.Several(List<Operand> values, boolean exactly) ->
                words + " " + list(values) + exactly(exactly);
            case Operands.Piece(Operand text, boolean exactly) -> words + " " + operand(text) + exactly(exactly);
            case Operands.TwoNumbers(Operand low, Operand high) -> words + " " + both(low, high);
            case Operands.Window(Period period) ->
                (isWithin(verb) && isOneDay(period) ? on(criterion) : words) + " " + period(period);
            case Operands.TwoWindows(Period from, Period to) -> words + " " + period(from) + " and " + period(to);
            case Operands.Distance(Period away) -> words + " " + period(away);
            case Operands.Clock(Operand at) -> words + " " + operand(at);
            case Operands.TwoClocks(Operand from, Operand to) -> words + " " + both(from, to);
            case Operands.ClocksOnDays(Operand from, Operand to, Period days) ->
                words + " " + both(from, to) + (isOneDay(days) ? " on " : " in ") + period(days);
            case Operands.CalendarNumbers(Test.Part part, var numbers) ->
                words + " " + numbers.stream().map(n -> calendar(part, n)).collect(Collectors.joining(", ", "(", ")"));
            case Operands.Bands(List<Operand> names) ->
                names.size() == 1 ? words + " " + operand(names.get(0)) : words + "s " + list(names);
            case Operands.Pattern(String pattern, boolean exactly) ->
                words + " /" + slashed(pattern) + "/" + exactly(exactly);
            case Operands.OtherField(String key, var offset, boolean exactly) ->
                (isWithin(verb) ? on(criterion) : words) + " " + reference(key)
                        + offset.map(Printer::offset).orElse("") + exactly(exactly);
            case Operands.Others(String register, Condition where) ->
                words + " (" + reference(register) + (where.equals(Condition.EVERYTHING) ? "" : " where " + top(where))
                        + ")";
        };
    }

    /** Of one day it is said that something is <i>on</i> it. */
    private static String on(Condition.Criterion criterion) {
        return criterion.negated() ? "not on" : "on";
    }

    private static boolean isWithin(Verb verb) {
        return verb == Verb.IN || verb == Verb.NOT_IN;
    }

    private static String both(Operand first, Operand second) {
        return operand(first) + " and " + operand(second);
    }

    /** A number of the local calendar as the language spells it: Mon, March, 15. */
    public static String calendar(Test.Part part, int number) {
        return switch (part) {
            case WEEKDAY -> capitalised(DayOfWeek.of(number).name()).substring(0, 3);
            case MONTH -> capitalised(Month.of(number).name());
            case DAY_OF_MONTH -> String.valueOf(number);
        };
    }

    /** How a field is calculated, in its one spelling; {@link Reader#calculation} reads it back. */
    public static String print(Expression expression) {
        return switch (expression) {
            case Expression.Constant(Operand value) -> operand(value);
            case Expression.Day(LocalDate day) -> day.toString();
            case Expression.Now() -> "now";
            case Expression.Today() -> "today";
            case Expression.Value(var field) -> reference(field.key());
            case Expression.Arithmetic(Operator operator, Expression left, Expression right) ->
                part(left, operator.isTight() ? 2 : 1) + " " + operator.sign() + " "
                        + part(right, operator.isTight() ? 3 : 2);
            case Expression.Moved(Expression date, int count, Unit unit) ->
                part(date, 1) + (count < 0 ? " - " : " + ") + unit.counted(Math.abs(count));
            case Expression.Call(Function function, List<Expression> arguments) ->
                function.word() + arguments.stream().map(Printer::print).collect(Collectors.joining(", ", "(", ")"));
            case Expression.When(List<Expression.Branch> branches, var otherwise) ->
                branches.stream()
                                .map(b -> print(b.condition()) + ", " + print(b.value()))
                                .collect(Collectors.joining(", ", "when(", ""))
                        + otherwise.map(o -> ", " + print(o)).orElse("")
                        + ")";
            case Expression.Holds(Condition condition) -> print(condition);
        };
    }

    /** A part of a sum (1), of a product (2), or of nothing that binds (3): in brackets where it binds less. */
    private static String part(Expression expression, int wanted) {
        int binds = switch (expression) {
            case Expression.Arithmetic a -> a.operator().isTight() ? 2 : 1;
            case Expression.Moved m -> 1;
            case Expression.Constant _,
                    Expression.Day _,
                    Expression.Now _,
                    Expression.Today _,
                    Expression.Value _,
                    Expression.Call _,
                    Expression.When _,
                    Expression.Holds _ -> 3;
        };
        return binds < wanted ? "(" + print(expression) + ")" : print(expression);
    }

    /** An offset with its sign: {@code " + 2 days"}. */
    static String offset(Test.Offset offset) {
        return switch (offset) {
            case Test.Offset.Time(int count, Unit unit) -> (count < 0 ? " - " : " + ") + unit.counted(Math.abs(count));
            case Test.Offset.Amount(Operand.Number number) ->
                (number.value().signum() < 0 ? " - " : " + ")
                        + number.value().abs().toPlainString();
            case Test.Offset.Length(Operand.Duration duration) ->
                (duration.seconds().signum() < 0 ? " - " : " + ")
                        + DurationText.words(duration.seconds().abs());
        };
    }

    /** A pattern between slashes: a slash of its own is escaped, if it is not already. */
    private static String slashed(String pattern) {
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < pattern.length(); i++) {
            char c = pattern.charAt(i);
            if (c == '\\' && i + 1 < pattern.length()) {
                text.append(c).append(pattern.charAt(++i));
            } else {
                text.append(c == '/' ? "\\/" : String.valueOf(c));
            }
        }
        return text.toString();
    }

    /** Another field's key, in brackets where it would be taken for a word of the language. */
    private static String reference(String key) {
        return Words.isWord(key) ? "[" + key + "]" : key;
    }

    /** A field's key, in brackets where the grammar would take it for something else. */
    static String field(String key) {
        return key.equalsIgnoreCase("not") ? "[" + key + "]" : key;
    }

    private static String list(List<Operand> values) {
        return values.stream().map(Printer::operand).collect(Collectors.joining(", ", "(", ")"));
    }

    private static String exactly(boolean exactly) {
        return exactly ? " exactly" : "";
    }

    /** One value in the language. */
    public static String operand(Operand operand) {
        return switch (operand) {
            case Operand.Text(String text) -> quoted(text);
            case Operand.Number(var number) -> number.toPlainString();
            case Operand.Duration(var seconds) -> DurationText.words(seconds);
            case Operand.Time(LocalTime time) -> time.toString();
            case Operand.YesNo(boolean yes) -> yes ? "yes" : "no";
            case Operand.Viewer viewer -> viewer.words();
            case Operand.Ask(String label, var preset) -> ask(label, preset.map(Printer::operand));
        };
    }

    private static String ask(String label, Optional<String> preset) {
        return "{" + label + preset.map(p -> " = " + p).orElse("") + "}";
    }

    static String quoted(String text) {
        return "\"" + text.replace("\\", "\\\\").replace("\"", "\\\"") + "\"";
    }

    /** Whether a period names a single day or moment, so that "on" reads better than "in". */
    public static boolean isOneDay(Period period) {
        return switch (period) {
            case Period.NearDay p -> true;
            case Period.Away p -> true;
            case Period.WeekdayOf p -> true;
            case Period.StartOf p -> true;
            case Period.EndOf p -> true;
            case Period.Day p -> true;
            case Period.Moment p -> true;
            case Period.Asked(String label, var preset) ->
                preset.map(Printer::isOneDay).orElse(false);
            case Period.AskedCount(String label, boolean preset, Period shape) -> isOneDay(shape);
            default -> false;
        };
    }

    /** The phrase of a period. */
    public static String period(Period period) {
        return switch (period) {
            case Period.NearDay(int offset) -> offset < 0 ? "yesterday" : offset == 0 ? "today" : "tomorrow";
            case Period.Calendar(Period.Which which, Unit unit) -> lower(which) + " " + unit.singular();
            case Period.Running(Period.Side side, int count, Unit unit) -> lower(side) + " " + unit.counted(count);
            case Period.Full(Period.Side side, int count, Unit unit) ->
                lower(side) + " " + count + " full " + (count == 1 ? unit.singular() : unit.plural());
            case Period.Away(Period.Side side, int count, Unit unit) ->
                unit.counted(count) + (side == Period.Side.LAST ? " ago" : " from now");
            case Period.WeekdayOf(DayOfWeek day, Period.Which which) ->
                capitalised(day.name()) + " of " + lower(which) + " week";
            case Period.StartOf(Period of) -> "start of " + period(of);
            case Period.EndOf(Period of) -> "end of " + period(of);
            case Period.Day(var day) -> day.toString();
            case Period.Month(var month) -> month.toString();
            case Period.Quarter(int year, int quarter) -> year(year) + "-Q" + quarter;
            case Period.Half(int year, int half) -> year(year) + "-H" + half;
            case Period.Week(int year, int week) -> year(year) + "-W" + (week < 10 ? "0" : "") + week;
            case Period.Year(int year) -> year(year);
            case Period.FiscalYear(int year) -> "FY" + year(year);
            case Period.FiscalQuarter(int year, int quarter) -> "FY" + year(year) + "-Q" + quarter;
            case Period.Moment(var at, var offset) ->
                at + offset.map(ZoneOffset::getId).orElse("");
            case Period.Range(Period from, Period to) -> period(from) + " to " + period(to);
            case Period.Asked(String label, var preset) -> ask(label, preset.map(Printer::period));
            case Period.AskedCount(String label, boolean hasPreset, Period shape) -> {
                // The phrase is printed with a count of many, so that the unit reads as one of several.
                String phrase = period(new Period.AskedCount(label, true, shape).with(2));
                String count = period(shape).replaceFirst("^(?:last |next )?(\\d+) .*$", "$1");
                yield phrase.replaceFirst(
                        "2", Matcher.quoteReplacement(ask(label, hasPreset ? Optional.of(count) : Optional.empty())));
            }
        };
    }

    private static String year(int year) {
        return String.format(Locale.ROOT, "%04d", year);
    }

    private static String lower(Enum<?> word) {
        return word.name().toLowerCase(Locale.ROOT);
    }

    private static String capitalised(String word) {
        return word.charAt(0) + word.substring(1).toLowerCase(Locale.ROOT);
    }
}
