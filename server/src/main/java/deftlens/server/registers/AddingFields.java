package deftlens.server.registers;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.condition.Condition;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.statement.StatementError;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.registers.AddedFields.AddedField;
import jakarta.validation.constraints.NotNull;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Adds calculated fields to a register for one question. The register itself stays as it is. */
@Service
public class AddingFields {

    private static final int MOST_FIELDS = 20;
    private static final int LONGEST_LABEL = 80;
    private static final int LONGEST_CALCULATION = 10_000;

    /** What the key of an added field begins with. */
    private static final String SIGN = "_";

    private final RegisterCatalogue registers;
    private final AddedFields added;

    AddingFields(RegisterCatalogue registers, AddedFields added) {
        this.registers = registers;
        this.added = added;
    }

    /**
     * A calculated field to be added.
     *
     * @param key as it was given to the field before; made of the label where it is absent
     */
    public record FieldToAdd(
            Optional<String> key,
            @NotNull String label,
            @NotNull String calculation) {

        /** A field as it is added already. */
        public static FieldToAdd of(AddedField field) {
            return new FieldToAdd(Optional.of(field.key()), field.label(), field.calculation());
        }
    }

    /**
     * The register with these calculated fields, in the place of those that are added to it now.
     *
     * @param key of a register, also of one that has added fields
     * @throws Problem where a calculation cannot be read by whoever asks, or a label cannot be told from another
     */
    @Transactional
    public RegisterForReader with(String key, List<FieldToAdd> wanted, SignedIn who) {
        RegisterForReader plain = registers.get(AddedFields.register(key), who);
        if (wanted.isEmpty()) {
            return plain;
        }
        if (wanted.size() > MOST_FIELDS) {
            throw Problem.unprocessable(
                    "too-many-fields", "At most " + MOST_FIELDS + " fields are calculated beside those of a register.");
        }
        List<FieldToAdd> named = named(wanted, plain.register());
        Map<Integer, AddedField> read = read(named, plain.register());
        AddedFields.Added kept = added.keep(
                plain.id(), IntStream.range(0, named.size()).mapToObj(read::get).toList());
        return registers.get(AddedFields.key(plain.register().key(), Optional.of(kept.handle())), who);
    }

    /**
     * The register with fields as they were added before; a calculation that cannot be read any more leaves its field empty, and a label that
     * something else has by now is told apart.
     */
    @Transactional
    public RegisterForReader as(String register, List<AddedField> fields, SignedIn who) {
        RegisterForReader plain = registers.get(register, who);
        if (fields.isEmpty()) {
            return plain;
        }
        AddedFields.Added kept = added.keep(plain.id(), fields);
        return registers.get(AddedFields.key(plain.register().key(), Optional.of(kept.handle())), who);
    }

    /**
     * Two sets of added fields beside each other.
     *
     * @param described the register with both
     * @param before the fields that those of the first set are here, where the second has another field in their place; by their keys
     */
    public record Together(RegisterForReader described, Map<String, Field> before) {

        /** A condition of a register with the first set, as it is put here. */
        public Condition before(Condition condition) {
            return condition.renamed(
                    key -> before.containsKey(key) ? before.get(key).key() : key);
        }
    }

    /**
     * The register with two sets of added fields. Those of the first that the second has not, or has otherwise, stand under another key
     * and a label that says so.
     */
    @Transactional
    public Together together(String register, List<AddedField> before, List<AddedField> after, SignedIn who) {
        Map<String, Expression> expressions =
                expressions(before, registers.get(register, who).register());
        Set<String> differing = before.stream()
                .filter(f -> !after.contains(f))
                .map(AddedField::key)
                .collect(Collectors.toCollection(HashSet::new));
        // What is calculated from one that differs comes out otherwise too.
        while (before.stream()
                .filter(f -> expressions.containsKey(f.key()))
                .filter(f -> expressions.get(f.key()).fields().stream().anyMatch(differing::contains))
                .anyMatch(f -> differing.add(f.key()))) {}
        List<AddedField> all = new ArrayList<>(after);
        Map<String, Field> instead = new HashMap<>();
        for (AddedField field : before) {
            if (differing.contains(field.key())) {
                String key = SIGN + "before" + (instead.isEmpty() ? "" : instead.size());
                while (isTaken(key, all)) {
                    key += "_";
                }
                String label = field.label() + " (before)";
                while (isTaken(label, all)) {
                    label += "*";
                }
                all.add(new AddedField(key, label, field.type(), field.calculation()));
                instead.put(field.key(), Field.of(key, label, field.type()));
            }
        }
        List<AddedField> carried = all.stream()
                .map(f -> instead.entrySet().stream()
                        .filter(e -> e.getValue().key().equals(f.key()) && expressions.containsKey(e.getKey()))
                        .findFirst()
                        .map(e -> new AddedField(
                                f.key(),
                                f.label(),
                                f.type(),
                                Printer.print(expressions.get(e.getKey()).over(instead))))
                        .orElse(f))
                .toList();
        return new Together(as(register, carried, who), Map.copyOf(instead));
    }

    private static boolean isTaken(String name, List<AddedField> fields) {
        return fields.stream()
                .anyMatch(f -> f.key().equalsIgnoreCase(name) || f.label().equalsIgnoreCase(name));
    }

    /** The calculations of added fields, by their keys; those that cannot be read any more are left out. */
    private static Map<String, Expression> expressions(List<AddedField> fields, Register plain) {
        Map<String, Expression> read = new HashMap<>();
        Register register = AddedFields.among(plain, fields);
        for (AddedField field : fields) {
            attempt(FieldToAdd.of(field), register).ifPresent(e -> read.put(field.key(), e));
        }
        return read;
    }

    /** Fields whose calculations name something that has another name from now on, as it is called then. */
    public static List<AddedField> carried(List<AddedField> fields, Register before, UnaryOperator<Condition> change) {
        Map<String, Expression> read = expressions(fields, before);
        return fields.stream()
                .map(f -> Optional.ofNullable(read.get(f.key()))
                        .map(e -> new AddedField(f.key(), f.label(), f.type(), Printer.print(e.with(change))))
                        .orElse(f))
                .toList();
    }

    /** The fields under visible labels that nothing else has, and each with a key. */
    private static List<FieldToAdd> named(List<FieldToAdd> wanted, Register register) {
        List<FieldToAdd> named = new ArrayList<>();
        Set<String> keys = given(wanted);
        for (int i = 0; i < wanted.size(); i++) {
            FieldToAdd one = wanted.get(i);
            String label = one.label().strip();
            String at = "fields/" + i + "/label";
            if (!VisibleText.isVisible(label) || label.codePointCount(0, label.length()) > LONGEST_LABEL) {
                throw Problem.unprocessable("bad-label", "A field has a name of 1 to " + LONGEST_LABEL + " characters.")
                        .at(at);
            }
            if (register.named(label).isPresent()
                    || keys.stream().anyMatch(label::equalsIgnoreCase)
                    || named.stream().anyMatch(n -> n.label().equalsIgnoreCase(label))) {
                throw Problem.unprocessable(
                                "label-taken", "There is a field “" + label + "” already. Choose another name.")
                        .at(at);
            }
            String key = one.key().orElseGet(() -> free(label, keys, named));
            named.add(new FieldToAdd(Optional.of(key), label, one.calculation().strip()));
        }
        return named;
    }

    /** The keys that fields were given before. */
    private static Set<String> given(List<FieldToAdd> wanted) {
        Set<String> keys = new HashSet<>();
        for (int i = 0; i < wanted.size(); i++) {
            String key = wanted.get(i).key().orElse(null);
            if (key != null && !(key.matches(SIGN + "[a-z][a-z0-9_]{0,58}") && keys.add(key))) {
                throw Problem.unprocessable(
                                "bad-key",
                                "The key of an added field begins with an underscore and a small letter, goes on with small letters, digits and underscores, and stands once.")
                        .at("fields/" + i + "/key");
            }
        }
        return keys;
    }

    /** A key made of a label, which is neither the key nor the label of another. */
    private static String free(String label, Set<String> taken, List<FieldToAdd> named) {
        String key = SIGN + Keys.of(label);
        String free = key;
        for (int i = 2; isLabel(free, named) || !taken.add(free); i++) {
            free = key + "_" + i;
        }
        return free;
    }

    private static boolean isLabel(String key, List<FieldToAdd> named) {
        return named.stream().anyMatch(n -> n.label().equalsIgnoreCase(key));
    }

    /** The fields with their calculations read, in whatever order they need each other. */
    private static Map<Integer, AddedField> read(List<FieldToAdd> wanted, Register plain) {
        Map<Integer, AddedField> read = new HashMap<>();
        Register register = plain;
        boolean more = true;
        while (more) {
            more = false;
            for (int i = 0; i < wanted.size(); i++) {
                Optional<Expression> expression =
                        read.containsKey(i) ? Optional.empty() : attempt(wanted.get(i), register);
                if (expression.isPresent()) {
                    FieldToAdd field = wanted.get(i);
                    String key = field.key().orElseThrow();
                    read.put(
                            i,
                            new AddedField(
                                    key, field.label(), expression.get().type(), Printer.print(expression.get())));
                    register = with(
                            register,
                            Calculation.of(key, field.label(), expression.get()).field());
                    more = true;
                }
            }
        }
        for (int i = 0; i < wanted.size(); i++) {
            if (!read.containsKey(i)) {
                throw unread(wanted.get(i), i, register);
            }
        }
        return read;
    }

    private static Register with(Register register, Field field) {
        List<Field> fields = new ArrayList<>(register.fields());
        fields.add(field);
        return register.with(fields);
    }

    private static Optional<Expression> attempt(FieldToAdd field, Register register) {
        try {
            return Optional.of(calculation(field, register));
        } catch (StatementError notYet) {
            return Optional.empty();
        }
    }

    private static Expression calculation(FieldToAdd field, Register register) {
        if (field.calculation().length() > LONGEST_CALCULATION) {
            throw Problem.unprocessable("long-calculation", "A calculation has at most 10,000 characters.");
        }
        return new Reader(register, Set.of()).calculation(field.calculation());
    }

    private static Problem unread(FieldToAdd field, int place, Register register) {
        try {
            calculation(field, register);
            throw new IllegalStateException("“" + field.label() + "” can be read");
        } catch (StatementError error) {
            return Problem.unprocessable("bad-calculation", "“" + field.label() + "”: " + error.getMessage())
                    .at("fields/" + place + "/calculation")
                    .with("offset", error.place().offset())
                    .with("length", error.place().length())
                    .with("suggestions", error.suggestions());
        }
    }
}
