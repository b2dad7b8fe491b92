package deftlens.core.calculation;

import deftlens.core.condition.Operand;
import deftlens.core.field.FieldType;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * The functions of the language, apart from {@code when}. A value that is empty makes the result empty; only
 * {@link #FIRST_OF} passes it over.
 */
public enum Function {
    /** A number rounded half away from zero, to whole ones or to a number of decimal places from 0 to 10. */
    ROUND("round(number) or round(number, places)"),
    /** A number without its sign. */
    ABS("abs(number)"),
    /** The least of several numbers, or the earliest of several dates, times or moments. */
    LEAST("least(value, value, …)"),
    /** The greatest of several numbers, or the latest of several dates, times or moments. */
    GREATEST("greatest(value, value, …)"),
    /** The first that has a value. */
    FIRST_OF("first_of(value, value, …)"),
    /**
     * Values written one after the other: texts as they are, numbers without zeros at the end, dates as 2026-11-23; of a choice
     * or a person what is kept, not its label.
     */
    JOIN("join(text, text, …)"),
    /** The local days from one date or moment to another; less than zero where the second is the earlier one. */
    DAYS_BETWEEN("days_between(from, to)"),
    /** The time that passes from one moment to another, or from the beginning of one date to that of another. */
    TIME_BETWEEN("time_between(from, to)"),
    /** The working hours from one date or moment to another, by the local clock; a date stands for its beginning. */
    WORKING_TIME_BETWEEN("working_time_between(from, to)"),
    /** The local year of a date or moment. */
    YEAR("year(date)"),
    /** The local month of a date or moment, 1 to 12. */
    MONTH("month(date)"),
    /** The local weekday of a date or moment: 1 is Monday, 7 is Sunday (ISO 8601). */
    WEEKDAY("weekday(date)");

    private final String usage;

    Function(String usage) {
        this.usage = usage;
    }

    /** The name in the language: {@code first_of}. */
    public String word() {
        return name().toLowerCase(Locale.ROOT);
    }

    /** How it is written: {@code round(number) or round(number, places)}. */
    public String usage() {
        return usage;
    }

    /** The function of a name, letter case ignored. */
    public static Optional<Function> named(String word) {
        return Arrays.stream(values())
                .filter(f -> f.word().equalsIgnoreCase(word))
                .findFirst();
    }

    /**
     * The type of what comes out.
     *
     * @throws IllegalArgumentException with a sentence, when these are no arguments of the function
     */
    FieldType result(List<Expression> arguments) {
        List<FieldType> types = arguments.stream().map(Expression::type).toList();
        return switch (this) {
            case ROUND -> {
                boolean places = arguments.size() == 2
                        && arguments.get(1) instanceof Expression.Constant(Operand.Number(var number))
                        && number.scale() <= 0
                        && number.signum() >= 0
                        && number.intValue() <= Operator.PLACES;
                require(arguments.size() == 1 || places, " The places are a number from 0 to " + Operator.PLACES + ".");
                require(types.get(0).isNumeric(), " It rounds numbers, money and durations.");
                yield types.get(0);
            }
            case ABS -> {
                require(arguments.size() == 1 && types.get(0).isNumeric(), " It takes one number.");
                yield types.get(0);
            }
            case LEAST, GREATEST -> {
                require(arguments.size() >= 2, " It takes two values or more.");
                FieldType common = Expression.common(types);
                require(
                        common.isNumeric() || common.isTemporal() || common == FieldType.TIME,
                        " It takes numbers, dates or times.");
                yield common;
            }
            case FIRST_OF -> {
                require(arguments.size() >= 2, " It takes two values or more.");
                yield Expression.common(types);
            }
            case JOIN -> {
                require(arguments.size() >= 2, " It takes two texts or more.");
                for (FieldType type : types) {
                    require(
                            type == FieldType.TEXT
                                    || type.isListed()
                                    || type == FieldType.NUMBER
                                    || type == FieldType.MONEY
                                    || type == FieldType.DATE,
                            " It joins texts, numbers and dates; a " + type.words() + " is none of these.");
                }
                yield FieldType.TEXT;
            }
            case DAYS_BETWEEN -> {
                requireDates(types, 2);
                yield FieldType.NUMBER;
            }
            case TIME_BETWEEN -> {
                requireDates(types, 2);
                require(
                        types.get(0) == types.get(1),
                        " It takes two dates, or two dates with their times. days_between counts local days of both.");
                yield FieldType.DURATION;
            }
            case WORKING_TIME_BETWEEN -> {
                requireDates(types, 2);
                yield FieldType.DURATION;
            }
            case YEAR, MONTH, WEEKDAY -> {
                requireDates(types, 1);
                yield FieldType.NUMBER;
            }
        };
    }

    private void requireDates(List<FieldType> types, int count) {
        require(
                types.size() == count && types.stream().allMatch(FieldType::isTemporal),
                " It takes " + (count == 1 ? "a date" : "two dates") + ", with or without a time.");
    }

    private void require(boolean fits, String why) {
        if (!fits) {
            throw new IllegalArgumentException("This does not fit: it is written " + usage + "." + why);
        }
    }
}
