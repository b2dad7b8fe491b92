package deftlens.server.registers;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.statement.Reader;
import deftlens.core.statement.StatementError;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * The fields of a register with their calculations read. A calculation that cannot be read any more leaves its field empty and says
 * why; everything else goes on.
 */
final class CalculatedFields {

    private final Map<String, Field> fields = new LinkedHashMap<>();
    private final Map<String, RegisterForReader.Calculated> calculated = new LinkedHashMap<>();

    private CalculatedFields() {}

    /**
     * Reads the calculations of a register.
     *
     * @param entries its fields in the catalogue
     * @param known the same as fields
     */
    static CalculatedFields of(Register register, List<FieldEntity> entries, List<Field> known) {
        CalculatedFields read = new CalculatedFields();
        known.forEach(f -> read.fields.put(f.key(), f));
        List<FieldEntity> calculations =
                entries.stream().filter(f -> f.calculation().isPresent()).toList();
        if (!calculations.isEmpty()) {
            Register over = register.with(known);
            calculations.forEach(f -> read.read(over, f));
            read.refuseCircles();
        }
        return read;
    }

    private void read(Register register, FieldEntity entity) {
        String words = entity.calculation().orElseThrow();
        try {
            Expression expression = new Reader(register, Set.of()).calculation(words);
            if (expression.type() != entity.type()) {
                trouble(
                        entity.key(),
                        words,
                        "What comes out is " + expression.type().words() + " now, and no longer "
                                + entity.type().words() + ".");
                return;
            }
            calculated.put(
                    entity.key(), new RegisterForReader.Calculated(words, Optional.of(expression), Optional.empty()));
            fields.computeIfPresent(entity.key(), (key, field) -> {
                Field with = field.withOptions(expression.options());
                return expression.isAlways() ? with.always() : with;
            });
        } catch (StatementError error) {
            trouble(entity.key(), words, error.getMessage());
        }
    }

    private void trouble(String key, String words, String why) {
        calculated.put(key, new RegisterForReader.Calculated(words, Optional.empty(), Optional.of(why)));
    }

    /** Nothing makes a circle here, but a definition that came about elsewhere. */
    private void refuseCircles() {
        List<Calculation> all = new ArrayList<>();
        calculated.forEach((key, c) -> c.expression().ifPresent(e -> all.add(new Calculation(fields.get(key), e))));
        try {
            Calculation.layers(all);
        } catch (IllegalArgumentException circle) {
            List.copyOf(calculated.keySet()).forEach(key -> {
                if (below(key).contains(key) && calculated.get(key).expression().isPresent()) {
                    trouble(key, calculated.get(key).words(), "It needs itself, by way of others.");
                }
            });
        }
    }

    /** A field as it is with its calculation: with the known values that come out. */
    Field field(String key) {
        return fields.get(key);
    }

    /** How a field is calculated; absent where it is not. */
    Optional<RegisterForReader.Calculated> of(String key) {
        return Optional.ofNullable(calculated.get(key));
    }

    /** All fields that the value of a field rests on: itself, its ends, and those of its calculation, at any depth. */
    Set<String> needs(String key) {
        Set<String> found = below(key);
        found.add(key);
        return found;
    }

    private Set<String> below(String key) {
        Set<String> found = new LinkedHashSet<>();
        List<String> open = new ArrayList<>(List.of(key));
        while (!open.isEmpty()) {
            for (String next : directly(open.removeLast())) {
                if (found.add(next)) {
                    open.add(next);
                }
            }
        }
        return found;
    }

    private Set<String> directly(String key) {
        Set<String> found = new LinkedHashSet<>();
        Optional.ofNullable(fields.get(key)).flatMap(Field::ends).ifPresent(ends -> {
            found.add(ends.start());
            found.add(ends.end());
        });
        of(key).flatMap(RegisterForReader.Calculated::expression).ifPresent(e -> found.addAll(e.fields()));
        return found;
    }
}
