package deftlens.server.rows;

import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.server.platform.Problem;
import jakarta.persistence.AttributeConverter;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import org.hibernate.query.NativeQuery;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** The opaque token that a page ends with: where the next one goes on. */
final class Cursor {

    /** More than any column holds. */
    private static final int MAX_DIGITS = 10_000;

    private Cursor() {}

    /** @param carried the running total that the next page goes on from */
    static String write(ObjectMapper json, Order order, List<Object> values, long id, Optional<BigDecimal> carried) {
        ObjectNode node = json.createObjectNode();
        node.put("o", signature(order));
        ArrayNode array = node.putArray("v");
        values.forEach(v -> {
            if (v == null) {
                array.addNull();
            } else {
                array.add(
                        v instanceof BigDecimal number
                                ? Beyond.asDouble(number).map(Object::toString).orElseGet(number::toString)
                                : v.toString());
            }
        });
        node.put("id", id);
        carried.ifPresent(c -> node.put("r", c.toPlainString()));
        return Base64.getUrlEncoder()
                .withoutPadding()
                .encodeToString(json.writeValueAsString(node).getBytes(StandardCharsets.UTF_8));
    }

    /** The running total that a token carries. */
    static Optional<BigDecimal> carried(ObjectMapper json, String token) {
        try {
            JsonNode total = json.readTree(new String(Base64.getUrlDecoder().decode(token), StandardCharsets.UTF_8))
                    .get("r");
            return Optional.ofNullable(total).map(t -> bounded(new BigDecimal(t.stringValue())));
        } catch (RuntimeException broken) {
            throw broken();
        }
    }

    static Page.After read(ObjectMapper json, Order order, String token) {
        try {
            JsonNode node = json.readTree(new String(Base64.getUrlDecoder().decode(token), StandardCharsets.UTF_8));
            if (!node.get("o").stringValue().equals(signature(order))) {
                throw Problem.badRequest(
                        "page-mismatch", "“after” belongs to another order. Start again from the first page.");
            }
            List<Optional<Object>> values = new ArrayList<>();
            if (order.listed().isPresent()) {
                values.add(Optional.of(Long.valueOf(node.get("v").get(0).stringValue())));
            }
            for (int i = 0; i < order.keys().size(); i++) {
                JsonNode value = node.get("v").get(i);
                values.add(
                        value.isNull()
                                ? Optional.empty()
                                : Optional.of(value(order.keys().get(i).field(), value.stringValue())));
            }
            return new Page.After(values, node.get("id").longValue());
        } catch (Problem mismatch) {
            throw mismatch;
        } catch (RuntimeException broken) {
            throw broken();
        }
    }

    private static Problem broken() {
        return Problem.badRequest(
                "bad-after", "“after” is not what a page gave as “next”. Start again from the first page.");
    }

    private static BigDecimal bounded(BigDecimal number) {
        if (Math.abs((long) number.scale()) + number.precision() > MAX_DIGITS) {
            throw broken();
        }
        return number;
    }

    private static Object value(Field field, String text) {
        return switch (field.type()) {
            case TEXT, CHOICE, PERSON -> text;
            case NUMBER, MONEY -> {
                BigDecimal number = Beyond.number(text);
                yield Beyond.asDouble(number).isPresent() ? number : bounded(number);
            }
            case YES_NO -> Boolean.valueOf(text);
            case DATE -> LocalDate.parse(text);
            case MOMENT -> Instant.parse(text);
            case TIME -> LocalTime.parse(text);
            case TAGS, SPAN ->
                throw new IllegalArgumentException("a " + field.type().words() + " has no order");
        };
    }

    private static String signature(Order order) {
        StringBuilder signature = new StringBuilder();
        order.listed()
                .ifPresent(l -> signature
                        .append(l.field().key())
                        .append('#')
                        .append(l.values().hashCode()));
        order.keys()
                .forEach(k -> signature
                        .append(k.field().key())
                        .append(k.descending() ? '-' : '+')
                        .append(k.emptiesFirst() ? "^" : ""));
        return signature.toString();
    }

    /** A fetched value as the rest of the server knows it: times of day come as text, so that no zone moves them. */
    static Object value(FieldType type, Object fetched) {
        return type == FieldType.TIME && fetched instanceof String text ? LocalTime.parse(text) : fetched;
    }

    /** Numbers come as text: not all that PostgreSQL holds are numbers of Java. */
    static final class Numbers implements AttributeConverter<BigDecimal, String> {
        @Override
        public String convertToDatabaseColumn(BigDecimal number) {
            return number == null ? null : number.toPlainString();
        }

        @Override
        public BigDecimal convertToEntityAttribute(String written) {
            return written == null ? null : Beyond.number(written);
        }
    }

    /** Days come as text: the driver's own dates know neither infinity nor the years before the year 1. */
    static final class Days implements AttributeConverter<LocalDate, String> {
        @Override
        public String convertToDatabaseColumn(LocalDate day) {
            return day == null ? null : day.toString();
        }

        @Override
        public LocalDate convertToEntityAttribute(String written) {
            return written == null ? null : Beyond.day(written);
        }
    }

    private static final Numbers NUMBERS = new Numbers();
    private static final Days DAYS = new Days();

    /** Has a column of a field's values fetched. */
    static void scalar(NativeQuery<?> query, String column, FieldType type) {
        if (type.isNumeric()) {
            query.addScalar(column, BigDecimal.class, String.class, NUMBERS);
        } else if (type == FieldType.DATE) {
            query.addScalar(column, LocalDate.class, String.class, DAYS);
        } else {
            query.addScalar(column, fetched(type));
        }
    }

    private static Class<?> fetched(FieldType type) {
        return switch (type) {
            case TEXT, CHOICE, PERSON -> String.class;
            case NUMBER, MONEY -> throw new IllegalArgumentException("numbers are converted");
            case YES_NO -> Boolean.class;
            case TAGS -> String[].class;
            case DATE -> throw new IllegalArgumentException("days are converted");
            case MOMENT -> Instant.class;
            case TIME -> String.class;
            case SPAN -> throw new IllegalArgumentException("a span has no column");
        };
    }
}
