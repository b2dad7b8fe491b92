package deftlens.server.registers;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.condition.Condition;
import deftlens.core.field.Field;
import deftlens.core.statement.Printer;
import deftlens.core.time.Reading;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * A register with some of its calculated fields in it twice: as they are, and as they are to be; with all that is calculated from them.
 *
 * @param described has both
 * @param later the fields as they are to be, by the keys of those in whose place they come
 */
public record CalculatedTwice(RegisterForReader described, Map<String, Field> later) {

    /**
     * The register with other calculations beside those of its fields.
     *
     * @param wanted by the keys of the fields; each gives what its field holds now
     */
    public static CalculatedTwice of(RegisterForReader described, Map<String, Expression> wanted) {
        return of(described, wanted, Optional.empty());
    }

    private static CalculatedTwice of(
            RegisterForReader described, Map<String, Expression> wanted, Optional<Reading> reading) {
        Set<String> resting = new HashSet<>();
        wanted.keySet().forEach(key -> resting.addAll(described.restingOn(key)));
        List<Calculation> calculations = described.calculations().stream()
                .filter(c -> resting.contains(c.field().key()))
                .map(c ->
                        new Calculation(c.field(), wanted.getOrDefault(c.field().key(), c.expression())))
                .toList();
        Map<String, Field> later = new HashMap<>();
        calculations.forEach(c -> later.put(c.field().key(), later(c.field(), later.size())));
        RegisterForReader with = described;
        for (List<Calculation> layer : Calculation.layers(calculations)) {
            for (Calculation c : layer) {
                Expression expression = c.expression().over(later);
                with = with.with(
                        new Calculation(later.get(c.field().key()), expression), Printer.print(expression), reading);
            }
        }
        return new CalculatedTwice(with, later);
    }

    /** The register with the calculated fields that change as time goes by as they are at another reading, beside the same as they are. */
    public static CalculatedTwice at(RegisterForReader described, Reading reading) {
        Map<String, Expression> moving = new HashMap<>();
        described.calculations().stream()
                .filter(c -> c.expression().isRolling())
                .forEach(c -> moving.put(c.field().key(), c.expression()));
        return of(described, moving, Optional.of(reading));
    }

    private static Field later(Field field, int number) {
        String key = "_later" + number;
        return new Field(
                key,
                field.label() + " (" + key + ")",
                field.type(),
                Calculation.column(key),
                field.required(),
                field.options(),
                field.bands(),
                field.ends());
    }

    /** A condition with the fields as they are to be. */
    public Condition later(Condition condition) {
        return condition.renamed(key -> later.containsKey(key) ? later.get(key).key() : key);
    }
}
