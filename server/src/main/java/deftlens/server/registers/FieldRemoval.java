package deftlens.server.registers;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** Fields are removed from a register, and restored: what records have in them stays in their table meanwhile. */
@Service
public class FieldRemoval {

    private final RegisterStore store;
    private final RegisterCatalogue catalogue;
    private final RecordTables tables;
    private final BandChanges limits;
    private final Trail trail;
    private final ApplicationEventPublisher events;
    private final ObjectMapper json;

    FieldRemoval(
            RegisterStore store,
            RegisterCatalogue catalogue,
            RecordTables tables,
            BandChanges limits,
            Trail trail,
            ApplicationEventPublisher events,
            ObjectMapper json) {
        this.store = store;
        this.catalogue = catalogue;
        this.tables = tables;
        this.limits = limits;
        this.trail = trail;
        this.events = events;
        this.json = json;
    }

    /** A field that was removed. */
    record RemovedField(String key, String label, String type) {}

    /**
     * Why a field cannot be removed, each in a sentence that says what to do first; none when it can be.
     *
     * @throws Problem (404) when there is no such field
     */
    @Transactional(readOnly = true)
    public List<String> needed(String key, String field) {
        return needed(store.there(key), field);
    }

    private List<String> needed(RegisterEntity register, String field) {
        FieldEntity removed = field(register.fields(), field);
        List<String> reasons = new ArrayList<>();
        if (removed.origin() == FieldOrigin.MEMBER) {
            reasons.add("It says which register a record is from.");
        }
        if (register.titleField().equals(field)) {
            reasons.add("It names a record to people. Choose another field for that first, under Names and order.");
        }
        FieldUses uses = new FieldUses(register, field, json);
        reasons.addAll(uses.asMainDate());
        reasons.addAll(uses.asRunning());
        reasons.addAll(uses.inTransactions());
        reasons.addAll(uses.inOrder());
        reasons.addAll(uses.asEnd());
        RegisterForReader whole = catalogue.whole(register.key()).orElseThrow();
        whole.calculatedFrom(field)
                .forEach(c -> reasons.add(
                        "“" + c.field().label() + "” is calculated from it. Change or remove that field first."));
        // Whoever it is hidden from stays without it: the line of access keeps its key, also for when it comes back.
        if (limits.limits(whole).stream()
                .flatMap(limit -> limit.condition().criteria().stream())
                .anyMatch(c -> c.names(field))) {
            reasons.add("Who sees which records is limited by it. Change that first, under Access.");
        }
        return reasons;
    }

    /**
     * Removes a field: nobody sees it, asks for it or changes it any more. Its values stay in the table.
     *
     * @param version of the register that it is removed from
     * @throws Problem when something rests on it, or somebody changed the register meanwhile
     */
    @Transactional
    void remove(String key, String field, int version, SignedIn who) {
        requireAdministrator(who);
        RegisterEntity register = store.there(key, version);
        List<String> reasons = needed(register, field);
        if (!reasons.isEmpty()) {
            throw Problem.unprocessable("field-needed", String.join(" ", reasons));
        }
        FieldEntity removed = field(register.fields(), field);
        if (register.origin().can(Origin.Capability.FIELDS)
                && removed.origin() == FieldOrigin.COLUMN
                && removed.required()) {
            // Records that are added from now on have no value of it.
            tables.mayBeEmpty(catalogue.whole(key).orElseThrow(), removed.columnName());
            removed.mayLack();
        }
        register.fields().remove(removed);
        register.removedFields().add(removed);
        written(register, "field removed", removed.label(), null, who);
    }

    /** The fields that were removed from a register, in the order of their removal. */
    @Transactional(readOnly = true)
    List<RemovedField> removed(String key, SignedIn who) {
        requireAdministrator(who);
        return store.there(key).removedFields().stream()
                .map(f -> new RemovedField(f.key(), f.label(), f.type().label()))
                .toList();
    }

    /** Restores a field, as the last one of its register; records that were added meanwhile have it empty. */
    @Transactional
    void restore(String key, String field, SignedIn who) {
        requireAdministrator(who);
        RegisterEntity register = store.there(key);
        FieldEntity removed = field(register.removedFields(), field);
        List<String> keys = register.fields().stream().map(FieldEntity::key).toList();
        removed.ends()
                .filter(e -> !keys.contains(e.start()) || !keys.contains(e.end()))
                .ifPresent(e -> {
                    throw Problem.unprocessable(
                            "field-lacks-ends",
                            "Restore the fields first that “" + removed.label() + "” begins and ends with.");
                });
        register.removedFields().remove(removed);
        register.fields().add(removed);
        catalogue.describe(register, List.of(), Set.of()).notes().get(field).calculated().stream()
                .flatMap(c -> c.trouble().stream())
                .forEach(trouble -> {
                    throw Problem.unprocessable(
                            "field-lacks-fields",
                            "“" + removed.label() + "” cannot be calculated as it was. Restore the fields first that it"
                                    + " is calculated from. " + trouble);
                });
        written(register, "field restored", null, removed.label(), who);
    }

    private void written(RegisterEntity register, String action, String before, String after, SignedIn who) {
        store.saveAndFlush(register);
        trail.write(Optional.of(who.id()), CatalogueEditor.SUBJECT, register.id(), action, before, after);
        events.publishEvent(new RegisterChanged(register.key()));
    }

    private static FieldEntity field(List<FieldEntity> fields, String key) {
        return fields.stream()
                .filter(f -> f.key().equals(key))
                .findFirst()
                .orElseThrow(() -> Problem.notFound("The field “" + key + "”"));
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator removes fields.");
        }
    }
}
