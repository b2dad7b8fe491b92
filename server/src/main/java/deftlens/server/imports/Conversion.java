package deftlens.server.imports;

import deftlens.core.field.Field;
import deftlens.core.time.LocalTimes;
import deftlens.server.records.FieldValues;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;

/** Makes the values of one field from the cells of one column. */
record Conversion(Field field, int index, ImportPlan.Taken taken, ZoneId zone) {

    /** A value that does not fit, with its reason as a sentence. */
    static final class Refused extends Exception {
        private static final long serialVersionUID = 1;

        Refused(String message) {
            super(message, null, false, false);
        }
    }

    /** The value of a cell as the database's copy reads it; {@code null} for none. */
    String copied(List<String> cells) throws Refused {
        try {
            return text(read(index < cells.size() ? cells.get(index) : ""));
        } catch (Refused e) {
            if (taken.unfit() == ImportPlan.Unfit.EMPTY && !field.required()) {
                return null;
            }
            throw e;
        }
    }

    /** The value that a text is read as, in the form of {@link FieldValues}; {@code null} for none. */
    Object read(String text) throws Refused {
        String cell = text.strip();
        return checked(cell.isEmpty() ? null : value(cell));
    }

    /** A value held against the rules of the field. */
    Object checked(Object value) throws Refused {
        try {
            return FieldValues.checked(field, value);
        } catch (FieldValues.Unfitting e) {
            throw new Refused(e.getMessage());
        }
    }

    private Object value(String cell) throws Refused {
        return switch (field.type()) {
            case TEXT, CHOICE, PERSON -> cell;
            case NUMBER -> number(cell);
            case MONEY -> {
                BigDecimal amount = number(cell);
                yield amount.stripTrailingZeros().scale() > 2 ? amount : amount.setScale(2, RoundingMode.UNNECESSARY);
            }
            case YES_NO -> Columns.yesNo(cell).orElseThrow(() -> unread(cell, "yes or no"));
            case TAGS ->
                Arrays.stream(cell.split("[,;]"))
                        .map(String::strip)
                        .filter(t -> !t.isEmpty())
                        .distinct()
                        .toList();
            case DATE -> {
                DateText.Read read = date(cell);
                if (read.time().filter(t -> !t.equals(LocalTime.MIDNIGHT)).isPresent()) {
                    throw new Refused(field.label() + " is a date; “" + cell + "” has a time of day.");
                }
                yield read.day();
            }
            case MOMENT -> instant(date(cell));
            case TIME -> DateText.time(cell).orElseThrow(() -> unread(cell, "a time of day"));
            case SPAN -> throw new Refused(field.label() + " is a span; take its two ends.");
        };
    }

    private BigDecimal number(String cell) throws Refused {
        return NumberText.number(cell, taken.decimal().orElse(NumberText.Decimal.POINT))
                .map(NumberText.Read::value)
                .orElseThrow(() -> unread(cell, "a number"));
    }

    private DateText.Read date(String cell) throws Refused {
        return DateText.date(cell, taken.order().orElse(DateText.Order.DAY_FIRST))
                .orElseThrow(() -> unread(cell, "a date"));
    }

    /** A local time that a clock change skipped is taken an hour later, one that came twice the second time. */
    private Instant instant(DateText.Read read) {
        return read.offset()
                .map(offset -> read.local().toInstant(offset))
                .orElseGet(() -> LocalTimes.instant(read.local(), zone));
    }

    private Refused unread(String cell, String as) {
        String shown = cell.length() > 60 ? cell.substring(0, 60) + "…" : cell;
        return new Refused(field.label() + ": “" + shown + "” does not read as " + as + ".");
    }

    /** A value as the database's copy reads it. */
    static String text(Object value) {
        return switch (value) {
            case null -> null;
            case BigDecimal number -> number.toPlainString();
            case List<?> tags ->
                tags.stream()
                        .map(t -> '"' + t.toString().replace("\\", "\\\\").replace("\"", "\\\"") + '"')
                        .collect(Collectors.joining(",", "{", "}"));
            default -> value.toString();
        };
    }
}
