package deftlens.core.calculation;

import deftlens.core.field.Field;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * A calculated field and how it comes to its value.
 *
 * @param field the field as criteria, columns, groups and measures know it
 * @param expression over fields of the same register, other calculated ones among them
 */
public record Calculation(Field field, Expression expression) {

    /** The longest key of a calculated field: its column has a sign before it, and PostgreSQL cuts names at 63 letters. */
    private static final int MAX_KEY = 62;

    public Calculation {
        if (field.type() != expression.type()) {
            throw new IllegalArgumentException(field.label() + " does not have the type of its expression");
        }
    }

    /** The calculated field of a key and label, in a column that no table has. */
    public static Calculation of(String key, String label, Expression expression) {
        return new Calculation(
                new Field(
                        key,
                        label,
                        expression.type(),
                        column(key),
                        expression.isAlways(),
                        expression.options(),
                        List.of(),
                        Optional.empty()),
                expression);
    }

    /**
     * The column that a query has a calculated field in; no table has one of such a name.
     *
     * @throws IllegalArgumentException for a key of more than 62 letters
     */
    public static String column(String key) {
        if (key.length() > MAX_KEY) {
            throw new IllegalArgumentException("the key of a calculated field is too long: " + key);
        }
        return "=" + key;
    }

    /**
     * The calculations in layers: each needs only those of the layers before it.
     *
     * @throws IllegalArgumentException when some need each other in a circle
     */
    public static List<List<Calculation>> layers(List<Calculation> all) {
        Map<String, Calculation> left = new LinkedHashMap<>();
        all.forEach(c -> left.put(c.field().key(), c));
        List<List<Calculation>> layers = new ArrayList<>();
        while (!left.isEmpty()) {
            Set<String> open = new HashSet<>(left.keySet());
            List<Calculation> layer = left.values().stream()
                    .filter(c -> c.expression().fields().stream().noneMatch(open::contains))
                    .toList();
            if (layer.isEmpty()) {
                throw new IllegalArgumentException("these calculated fields need each other in a circle: "
                        + String.join(
                                ", ",
                                left.values().stream()
                                        .map(c -> c.field().label())
                                        .toList()));
            }
            layer.forEach(c -> left.remove(c.field().key()));
            layers.add(layer);
        }
        return layers;
    }
}
