package deftlens.server.registers;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.condition.Condition;
import deftlens.core.field.Field;
import deftlens.core.statement.Printer;
import deftlens.core.time.Reading;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * A register with some of its calculated fields in it twice: as they are, and as they are otherwise; with all that is calculated
 * from them.
 *
 * @param described has both
 * @param later the fields as they are otherwise, by the keys of those in whose place they come
 */
public record CalculatedTwice(RegisterForReader described, Map<String, Field> later) {

    /** How the calculated fields of the members of a combined register are otherwise. */
    public sealed interface Otherwise {

        /** A member's register with its calculated fields as they are, and as they are otherwise. */
        CalculatedTwice of(RegisterForReader member);

        /** What changes as time goes by, at another reading. */
        record At(Reading reading) implements Otherwise {
            @Override
            public CalculatedTwice of(RegisterForReader member) {
                return at(member, Set.of(), reading);
            }
        }

        /**
         * One member's fields with other calculations.
         *
         * @param member its key
         */
        record With(String member, Map<String, Expression> calculations) implements Otherwise {
            @Override
            public CalculatedTwice of(RegisterForReader of) {
                return of.register().key().equals(member)
                        ? CalculatedTwice.of(of, calculations)
                        : new CalculatedTwice(of, Map.of());
            }
        }
    }

    /**
     * The register with other calculations beside those of its fields.
     *
     * @param wanted by the keys of the fields; each gives what its field holds now
     */
    public static CalculatedTwice of(RegisterForReader described, Map<String, Expression> wanted) {
        return new CalculatedTwice(described, Map.of()).and(wanted, Optional.empty());
    }

    /**
     * A combined register with some of the fields of its members read otherwise.
     *
     * @param fields its fields that come out otherwise; those it has not are left out
     */
    static CalculatedTwice of(RegisterForReader combined, Set<String> fields, Otherwise how) {
        return fromMembers(combined, fields, how).and(Map.of(), Optional.empty());
    }

    /**
     * The register with what changes as time goes by as it is at another reading, beside the same as it is.
     *
     * @param fields the fields of a combined register that change so because those of its members do
     */
    static CalculatedTwice at(RegisterForReader described, Set<String> fields, Reading reading) {
        Map<String, Expression> moving = new HashMap<>();
        described.calculations().stream()
                .filter(c -> c.expression().isRolling())
                .forEach(c -> moving.put(c.field().key(), c.expression()));
        return fromMembers(described, fields, new Otherwise.At(reading)).and(moving, Optional.of(reading));
    }

    private static CalculatedTwice fromMembers(RegisterForReader combined, Set<String> fields, Otherwise how) {
        RegisterForReader with = combined;
        Map<String, Field> later = new LinkedHashMap<>();
        for (Field field : combined.register().fields()) {
            if (fields.contains(field.key())) {
                Field otherwise = later(field, with);
                later.put(field.key(), otherwise);
                with = with.with(otherwise, combined.notes().get(field.key()).otherwise(how));
            }
        }
        return new CalculatedTwice(with, later);
    }

    /** With other calculations besides, and all that is calculated from what comes out otherwise. */
    private CalculatedTwice and(Map<String, Expression> wanted, Optional<Reading> reading) {
        Set<String> resting = new HashSet<>();
        wanted.keySet().forEach(key -> resting.addAll(described.restingOn(key)));
        later.keySet().forEach(key -> resting.addAll(described.restingOn(key)));
        List<Calculation> calculations = described.calculations().stream()
                .filter(c -> resting.contains(c.field().key()))
                .map(c ->
                        new Calculation(c.field(), wanted.getOrDefault(c.field().key(), c.expression())))
                .toList();
        RegisterForReader with = described;
        Map<String, Field> all = new LinkedHashMap<>(later);
        for (List<Calculation> layer : Calculation.layers(calculations)) {
            for (Calculation c : layer) {
                Expression expression = c.expression().over(all);
                Field otherwise = later(c.field(), with);
                all.put(c.field().key(), otherwise);
                with = with.with(new Calculation(otherwise, expression), Printer.print(expression), reading);
            }
        }
        return new CalculatedTwice(with, all);
    }

    /** A field like another, under a key that is free in a register. */
    private static Field later(Field field, RegisterForReader free) {
        int number = 0;
        while (free.register().field("_later" + number).isPresent()) {
            number++;
        }
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

    /** A condition with the fields as they are otherwise. */
    public Condition later(Condition condition) {
        return condition.renamed(key -> later.containsKey(key) ? later.get(key).key() : key);
    }
}
