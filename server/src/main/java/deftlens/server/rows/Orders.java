package deftlens.server.rows;

import deftlens.core.condition.Condition;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.registers.OrderWord;
import deftlens.server.rows.RowsService.Question;
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

    /**
     * The question without the criterion whose list the order follows, where every record has to satisfy it: the order
     * leaves out what is not listed, and the database need not look at thousands of values twice.
     */
    static Question unlisted(Question question, Order order) {
        if (order.listed().isEmpty()) {
            return question;
        }
        String key = order.listed().get().field().key();
        Optional<Condition.Criterion> followed = question.condition().criteria().stream()
                .filter(c -> isList(c, key))
                .findFirst();
        Condition left = switch (question.condition()) {
            case Condition.Criterion criterion
            when followed.filter(criterion::equals).isPresent() -> Condition.EVERYTHING;
            case Condition.All(List<Condition> parts)
            when followed.filter(parts::contains).isPresent() -> {
                List<Condition> others = new ArrayList<>(parts);
                others.remove(followed.get());
                yield new Condition.All(others).normal();
            }
            default -> question.condition();
        };
        return question.asking(left);
    }

    private static boolean isList(Condition.Criterion criterion, String key) {
        return criterion.field().equals(key) && !criterion.negated() && criterion.test() instanceof Test.In;
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
                                    .map(v -> fold ? LetterCase.fold(ValuesService.plain(v)) : ValuesService.plain(v))
                                    .distinct()
                                    .toList(),
                            fold));
                })
                .orElseThrow(() -> Problem.unprocessable(
                        "no-list-to-follow",
                        "The records can follow a list only where the statement holds one: " + key + " is in (…)."));
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
