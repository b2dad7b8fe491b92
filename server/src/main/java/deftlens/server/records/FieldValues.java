package deftlens.server.records;

import deftlens.core.field.Field;
import deftlens.core.field.Option;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * The values that a field can hold, wherever they come from: one set of rules for calls, files and corrections. Values are
 * {@code String}, {@code BigDecimal}, {@code Boolean}, {@code LocalDate}, {@code Instant}, {@code LocalTime} and
 * {@code List<String>}; {@code null} is none.
 */
public final class FieldValues {

    private static final int MOST_LETTERS = 100_000;
    private static final int MOST_TAGS = 100;
    private static final int MOST_TAG_LETTERS = 200;
    private static final int MOST_DIGITS = 100;
    private static final BigDecimal MOST_MONEY = new BigDecimal("1e12");
    private static final LocalDate FIRST_DAY = LocalDate.of(-4000, 1, 1);
    private static final LocalDate LAST_DAY = LocalDate.of(9999, 12, 31);

    private FieldValues() {}

    /** A value that a field cannot hold; the message is a sentence about it. */
    public static final class Unfitting extends Exception {
        private static final long serialVersionUID = 1;

        Unfitting(String message) {
            super(message, null, false, false);
        }
    }

    /**
     * The value of a JSON scalar or array as the field holds it: numbers as numbers or text, days as {@code 2026-11-23},
     * moments with their offset, yes/no as booleans, tags as an array of texts; {@code null} and {@code ""} are none.
     */
    public static Object of(Field field, Object json) throws Unfitting {
        if (json == null || json.equals("") || json instanceof List<?> list && list.isEmpty()) {
            return none(field);
        }
        return checked(
                field,
                switch (field.type()) {
                    case TEXT, CHOICE, PERSON -> text(field, json);
                    case NUMBER, MONEY -> number(field, json);
                    case YES_NO -> yesNo(field, json);
                    case DATE -> parsed(field, json, LocalDate::parse, "a day such as 2026-11-23");
                    case MOMENT ->
                        parsed(
                                field,
                                json,
                                t -> OffsetDateTime.parse(t).toInstant(),
                                "a date and time with its offset, such as 2026-11-23T14:30:00Z");
                    case TIME -> parsed(field, json, LocalTime::parse, "a time of day such as 14:30");
                    case TAGS -> tags(field, json);
                    case SPAN -> throw new Unfitting(field.label() + " is a span; write its two ends.");
                });
    }

    /** A typed value held against the rules of its field; it comes back as it is to be kept. */
    public static Object checked(Field field, Object value) throws Unfitting {
        return switch (value) {
            case null -> none(field);
            case String text when field.type().isListed() -> option(field, text);
            case String text -> {
                if (text.length() > MOST_LETTERS) {
                    throw new Unfitting(field.label() + " holds at most 100,000 characters.");
                }
                if (text.indexOf('\0') >= 0) {
                    throw new Unfitting(field.label() + " cannot hold the character NUL.");
                }
                yield text;
            }
            case BigDecimal number -> number(field, number);
            case LocalDate day -> {
                if (day.isBefore(FIRST_DAY) || day.isAfter(LAST_DAY)) {
                    throw new Unfitting(field.label() + " cannot hold a day so far away: " + day + ".");
                }
                yield day;
            }
            case Instant instant -> {
                if (instant.isBefore(Instant.parse("-4000-01-01T00:00:00Z"))
                        || instant.isAfter(Instant.parse("9999-12-31T00:00:00Z"))) {
                    throw new Unfitting(field.label() + " cannot hold a date so far away.");
                }
                yield instant;
            }
            default -> value;
        };
    }

    private static Object none(Field field) throws Unfitting {
        if (field.type() == deftlens.core.field.FieldType.TAGS) {
            return List.of();
        }
        if (field.required()) {
            throw new Unfitting(field.label() + " is needed in every record.");
        }
        return null;
    }

    private static String option(Field field, String text) throws Unfitting {
        Optional<Option> known = field.option(text);
        if (known.isPresent()) {
            return known.get().value();
        }
        if (field.options().isEmpty()) {
            return text;
        }
        throw new Unfitting("“" + text + "” is no value of " + field.label() + "; it has "
                + String.join(
                        ", ",
                        field.options().stream().limit(6).map(Option::label).toList())
                + (field.options().size() > 6 ? ", …" : "") + ".");
    }

    private static BigDecimal number(Field field, BigDecimal number) throws Unfitting {
        if (field.type() == deftlens.core.field.FieldType.MONEY) {
            if (number.abs().compareTo(MOST_MONEY) >= 0) {
                throw new Unfitting(field.label() + " holds less than 1,000,000,000,000.");
            }
            try {
                return number.setScale(2, RoundingMode.UNNECESSARY);
            } catch (ArithmeticException e) {
                throw new Unfitting(field.label() + " has at most two decimals, not " + number.toPlainString() + ".");
            }
        }
        if (number.precision() > MOST_DIGITS || Math.abs(number.scale()) > MOST_DIGITS) {
            throw new Unfitting(field.label() + " holds at most " + MOST_DIGITS + " digits.");
        }
        return number;
    }

    private static Object text(Field field, Object json) throws Unfitting {
        if (json instanceof String text) {
            return text;
        }
        throw new Unfitting(field.label() + " takes a text.");
    }

    private static BigDecimal number(Field field, Object json) throws Unfitting {
        try {
            return json instanceof BigDecimal number ? number : new BigDecimal(((String) json).strip());
        } catch (ClassCastException | NumberFormatException e) {
            throw new Unfitting(field.label() + " takes a number, not “" + json + "”.");
        }
    }

    private static Boolean yesNo(Field field, Object json) throws Unfitting {
        if (json instanceof Boolean yes) {
            return yes;
        }
        throw new Unfitting(field.label() + " takes true or false.");
    }

    private interface Parse<T> {
        T parse(String text);
    }

    private static <T> T parsed(Field field, Object json, Parse<T> parse, String expected) throws Unfitting {
        try {
            return parse.parse(((String) json).strip());
        } catch (ClassCastException | DateTimeException e) {
            throw new Unfitting(field.label() + " takes " + expected + ", not “" + json + "”.");
        }
    }

    private static List<String> tags(Field field, Object json) throws Unfitting {
        if (!(json instanceof List<?> list)) {
            throw new Unfitting(field.label() + " takes a list of texts.");
        }
        List<String> tags = new ArrayList<>();
        for (Object item : list) {
            if (!(item instanceof String tag) || tag.isBlank()) {
                throw new Unfitting("A tag is a text that is not blank.");
            }
            String plain = field.option(tag.strip()).map(Option::value).orElse(tag.strip());
            if (plain.length() > MOST_TAG_LETTERS || plain.indexOf('\0') >= 0) {
                throw new Unfitting("A tag has at most " + MOST_TAG_LETTERS + " characters.");
            }
            if (!tags.contains(plain)) {
                tags.add(plain);
            }
        }
        if (tags.size() > MOST_TAGS) {
            throw new Unfitting("A record has at most " + MOST_TAGS + " tags.");
        }
        return List.copyOf(tags);
    }
}
