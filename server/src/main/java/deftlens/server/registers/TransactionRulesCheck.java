package deftlens.server.registers;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.values.Unfitting;
import deftlens.server.values.ValueType;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** Whether transactions can be posted by their rules at all. */
final class TransactionRulesCheck {

    private static final int MOST_LETTERS = 20;

    private final RegisterForReader whole;
    private final TransactionRules rules;
    private final Map<String, Field> fields = new HashMap<>();

    private TransactionRulesCheck(RegisterForReader whole, TransactionRules rules) {
        this.whole = whole;
        this.rules = rules;
        RecordTables.columns(whole).forEach(f -> fields.put(f.key(), f));
    }

    /**
     * Refuses rules by which nothing could be posted, or not so that it adds up.
     *
     * @param whole the register with all its fields
     */
    static void check(RegisterForReader whole, TransactionRules rules) {
        if (!whole.can(Origin.Capability.RECORDS)) {
            throw refused("Transactions are posted where records are kept here; these come from elsewhere.");
        }
        new TransactionRulesCheck(whole, rules).all();
    }

    private void all() {
        Set<String> named = new HashSet<>();
        for (String key : rules.fields()) {
            if (!fields.containsKey(key)) {
                throw refused("There is no field “" + key + "” that can be written.");
            }
            if (!named.add(key)) {
                throw refused(label(key) + " has two parts to play. Give it one.");
            }
        }
        numbered(rules.number());
        rules.line().ifPresent(this::numbered);
        if (!fields.get(rules.amount()).type().isNumeric()
                || fields.get(rules.amount()).type() == FieldType.DURATION) {
            throw refused(label(rules.amount()) + " is no number or amount, and cannot add up to zero.");
        }
        rules.by().filter(b -> fields.get(b).type() != FieldType.PERSON).ifPresent(b -> {
            throw refused(label(b) + " holds no person. Choose a person field, or none.");
        });
        rules.mark().ifPresent(this::marked);
        for (TransactionRules.Along along : rules.along()) {
            if (!rules.shared().contains(along.with()) && !rules.each().contains(along.with())) {
                throw refused(label(along.field()) + " goes with a field that is asked for. Choose one of those.");
            }
        }
        for (Field field : fields.values()) {
            if (field.required() && field.type() != FieldType.TAGS && !named.contains(field.key())) {
                throw refused("Every record has a " + field.label() + ", so it has to be asked for.");
            }
        }
        whole.main().filter(m -> !asked().contains(m.key())).ifPresent(m -> {
            throw refused(m.label() + " is the main date, so it has to be asked for.");
        });
    }

    private List<String> asked() {
        return java.util.stream.Stream.concat(rules.shared().stream(), rules.each().stream())
                .toList();
    }

    private void numbered(TransactionRules.Numbered numbered) {
        if (fields.get(numbered.field()).type() != FieldType.TEXT) {
            throw refused(label(numbered.field()) + " is numbered, so it has to be a text field.");
        }
        String prefix = numbered.prefix();
        if (!VisibleText.isVisible(prefix)
                || prefix.length() > MOST_LETTERS
                || !prefix.equals(prefix.strip())
                || Character.isDigit(prefix.charAt(prefix.length() - 1))) {
            throw refused("The numbers of " + label(numbered.field()) + " begin with 1 to " + MOST_LETTERS
                    + " characters, such as “T-”; the last one is no digit.");
        }
    }

    private void marked(TransactionRules.Mark mark) {
        Field field = fields.get(mark.field());
        if (field.type() != FieldType.CHOICE && field.type() != FieldType.TEXT) {
            throw refused(
                    label(mark.field()) + " cannot mark what was posted by hand. Choose a text or a choice field.");
        }
        try {
            if (!VisibleText.isVisible(mark.value()) || ValueType.of(field).ofJson(field, mark.value()) == null) {
                throw refused("Say what " + label(mark.field()) + " holds where something was posted by hand.");
            }
        } catch (Unfitting e) {
            throw refused(e.getMessage());
        }
    }

    private String label(String key) {
        return "“" + fields.get(key).label() + "”";
    }

    private static Problem refused(String sentence) {
        return Problem.unprocessable("bad-transactions", sentence).at("transactions");
    }
}
