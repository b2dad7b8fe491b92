package deftlens.server.question;

import deftlens.core.condition.Condition;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.statement.Printer;
import deftlens.server.platform.Problem;
import deftlens.server.registers.OrderWord;
import deftlens.server.registers.RegisterForReader;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** The columns and the order that a request names, as those of a register. */
public final class Orders {

    /** What an order that follows a list begins with. */
    public static final String AS_LISTED = "as-listed:";

    private Orders() {}

    /** The columns of a request by their keys, or those shown at rest. */
    public static List<Field> columns(RegisterForReader described, Optional<List<String>> keys) {
        return keys.map(k ->
                        k.stream().map(key -> column(described, key)).distinct().toList())
                .orElse(described.shown());
    }

    /**
     * The order of a request: an {@link OrderWord} for each field, or {@code "as-listed:number"} for the order of
     * the list that the condition holds the field against; or the order at rest.
     */
    public static Order order(RegisterForReader described, Optional<List<String>> keys, Condition condition) {
        if (keys.isEmpty()) {
            return described.defaultOrder();
        }
        if (keys.get().size() == 1 && keys.get().get(0).startsWith(AS_LISTED)) {
            return asListed(described, keys.get().get(0).substring(AS_LISTED.length()), condition);
        }
        List<Order.Key> order = new ArrayList<>();
        for (String key : keys.get()) {
            OrderWord word = OrderWord.read(key);
            Field field = field(described, word.field());
            if (!Page.isOrderable(field.type())) {
                throw Problem.unprocessable("not-orderable", "Records cannot be ordered by " + field.label() + ".");
            }
            order.add(new Order.Key(field, word.descending(), word.emptiesFirst()));
        }
        try {
            return new Order(order);
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable("bad-order", "The records are " + e.getMessage() + "; name each field once.");
        }
    }

    private static Order asListed(RegisterForReader described, String key, Condition condition) {
        Field field = column(described, key);
        return condition.criteria().stream()
                .filter(c -> c.field().equals(key) && !c.negated() && c.test() instanceof Test.In)
                .map(c -> (Test.In) c.test())
                .findFirst()
                .map(in -> {
                    boolean fold = field.type() == FieldType.TEXT && !in.exactly();
                    return Order.as(new Order.Listed(
                            field,
                            in.values().stream()
                                    .filter(v -> v instanceof Operand.Text || v.isQuantity())
                                    .map(v -> fold ? LetterCase.fold(plain(v)) : plain(v))
                                    .distinct()
                                    .toList(),
                            fold));
                })
                .orElseThrow(() -> Problem.unprocessable(
                        "no-list-to-follow",
                        "The records can follow a list only where the statement holds one: " + key + " is in (…)."));
    }

    /** A value as the database compares it, as text. */
    public static String plain(Operand value) {
        return switch (value) {
            case Operand.Text(String text) -> text;
            case Operand.Duration(BigDecimal seconds) -> seconds.toPlainString();
            default -> Printer.operand(value);
        };
    }

    /** The number that a register adds up; refused where the records do not stand in the order of time. */
    public static Field amount(RegisterForReader described, Order order) {
        Field amount = described
                .running()
                .orElseThrow(() -> Problem.unprocessable(
                        "no-running",
                        described.register().label() + " declares no number that is added up as it goes."));
        Optional<Field> date = described.main();
        boolean byTime = order.keys().size() == 1
                && date.filter(order.keys().get(0).field()::equals).isPresent()
                && !order.keys().get(0).emptiesFirst();
        if (!byTime) {
            throw Problem.unprocessable(
                    "running-order",
                    "A running total needs the records in the order of "
                            + date.map(Field::label).orElse("time") + " alone.");
        }
        return amount;
    }

    /** A field that can be shown, by its key. */
    public static Field column(RegisterForReader described, String key) {
        Field field = field(described, key);
        if (!field.type().isStored()) {
            Field.Ends ends = field.ends().orElseThrow();
            throw Problem.unprocessable(
                    "no-column",
                    field.label() + " is the span from " + ends.start() + " to " + ends.end()
                            + "; name those two as columns.");
        }
        return field;
    }

    /** A field by its key. */
    private static Field field(RegisterForReader described, String key) {
        return described
                .register()
                .field(key)
                .orElseThrow(() -> Problem.unprocessable(
                        "unknown-field", described.register().label() + " has no field “" + key + "”."));
    }
}
