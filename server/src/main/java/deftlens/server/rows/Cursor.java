package deftlens.server.rows;

import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.server.platform.Problem;
import deftlens.server.values.ValueType;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** The opaque token that a page ends with: where the next one goes on. */
final class Cursor {

    /** More digits than any running total has. */
    private static final int MAX_DIGITS = 10_000;

    private Cursor() {}

    /** @param carried the running total that the next page goes on from */
    static String write(ObjectMapper json, Order order, List<Object> values, long id, Optional<BigDecimal> carried) {
        ObjectNode node = json.createObjectNode();
        node.put("o", signature(order));
        ArrayNode array = node.putArray("v");
        int places = order.listed().isPresent() ? 1 : 0;
        for (int i = 0; i < values.size(); i++) {
            Object value = values.get(i);
            if (value == null) {
                array.addNull();
            } else if (i < places) {
                array.add(value.toString());
            } else {
                array.add(ValueType.of(order.keys().get(i - places).field()).text(value));
            }
        }
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
                                : Optional.of(ValueType.of(order.keys().get(i).field())
                                        .parse(value.stringValue())));
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
}
