package deftlens.server.registers;

import deftlens.core.calculation.Calculation;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Fit;
import deftlens.core.condition.Test;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.sql.Page;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.statement.StatementError;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.trail.Trail;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/**
 * Fields of our own registers get another type: they are read from another column from then on, which whoever changes the type
 * has filled. The column that was is kept beside it, as a removed field, so that nothing is lost.
 */
@Service
public class FieldTypes {

    /** A choice has at most so many values. */
    public static final int MOST_OPTIONS = CatalogueEditor.MOST_OPTIONS;

    /** A key has at most 40 characters; a number behind it needs some. */
    private static final int MOST_LETTERS = 36;

    private final RegisterStore store;
    private final AccessStore access;
    private final RegisterCatalogue catalogue;
    private final RecordTables tables;
    private final PeopleService people;
    private final BandChanges limits;
    private final Trail trail;
    private final ApplicationEventPublisher events;
    private final ObjectMapper json;

    FieldTypes(
            RegisterStore store,
            AccessStore access,
            RegisterCatalogue catalogue,
            RecordTables tables,
            PeopleService people,
            BandChanges limits,
            Trail trail,
            ApplicationEventPublisher events,
            ObjectMapper json) {
        this.store = store;
        this.access = access;
        this.catalogue = catalogue;
        this.tables = tables;
        this.people = people;
        this.limits = limits;
        this.trail = trail;
        this.events = events;
        this.json = json;
    }

    /** The type that a word of the API names; a field that holds values can have it. */
    public static FieldType named(String type) {
        return Arrays.stream(FieldType.values())
                .filter(t -> t.isStored() && t.label().equals(type))
                .findFirst()
                .orElseThrow(() -> Problem.unprocessable("bad-type", "“" + type + "” is no type that a field has."));
    }

    /**
     * A field as it would be with another type: optional, with the bands that fit, and the known values of people where it is
     * to name one.
     *
     * @throws Problem when there is no such field, it is of that type already, or its values are not in a column of ours
     */
    @Transactional(readOnly = true)
    public Field as(RegisterForReader whole, String field, FieldType type) {
        Field known = whole.register().field(field).orElseThrow(() -> Problem.notFound("The field “" + field + "”"));
        if (known.type() == type) {
            throw Problem.unprocessable("same-type", "“" + known.label() + "” is of this type already.");
        }
        if (!whole.can(Origin.Capability.FIELDS) || whole.notes().get(field).origin() != FieldOrigin.COLUMN) {
            throw Problem.unprocessable(
                    "not-ours",
                    "“" + known.label() + "” is read from elsewhere. Its type follows what it is read from.");
        }
        return new Field(
                known.key(),
                known.label(),
                type,
                known.column(),
                false,
                type == FieldType.PERSON ? people.options() : List.of(),
                fitting(known.bands(), type),
                Optional.empty());
    }

    private static List<Band> fitting(List<Band> bands, FieldType type) {
        return bands.stream()
                .filter(b -> b.all().stream().allMatch(e -> e.fits(type)))
                .toList();
    }

    /** A register with one of its fields as it is to be. */
    public static Register with(Register register, Field field) {
        return register.with(register.fields().stream()
                .map(f -> f.key().equals(field.key()) ? field : f)
                .toList());
    }

    /** Whether a criterion can be asked of a register as it is to be. */
    public static boolean fits(Register register, Condition.Criterion criterion) {
        return register.field(criterion.field())
                .filter(f -> Fit.allows(register, f, criterion.test())
                        && (!(criterion.test() instanceof Test.Banded banded)
                                || banded.names().stream()
                                        .allMatch(name -> f.band(name).isPresent())))
                .isPresent();
    }

    /**
     * What stands against a field being of another type, each in a sentence that says what to do first; none when nothing does.
     *
     * @throws Problem as {@link #as} does
     */
    @Transactional(readOnly = true)
    public List<String> needed(String key, String field, FieldType type) {
        RegisterEntity register = store.there(key);
        RegisterForReader whole = catalogue.whole(key).orElseThrow();
        Field wanted = as(whole, field, type);
        List<String> reasons = new ArrayList<>();
        if (whole.closedUpTo().isPresent()) {
            reasons.add("A period of the register is closed, and its records would change, too. Reopen it first, under"
                    + " Closed period.");
        }
        FieldUses uses = new FieldUses(register, field, json);
        if (!type.isTemporal()) {
            reasons.addAll(uses.asMainDate());
        }
        if (!type.isNumeric()) {
            reasons.addAll(uses.asRunning());
        }
        reasons.addAll(uses.inTransactions());
        if (!Page.isOrderable(type)) {
            reasons.addAll(uses.inOrder());
        }
        for (Calculation calculation : whole.calculatedFrom(field)) {
            if (!isCalculatedAlike(with(whole.register(), wanted), calculation)) {
                reasons.add("“" + calculation.field().label() + "” is calculated from it, in a way that does not fit a "
                        + type.words() + " field. Change or remove that field first.");
            }
        }
        // A span has two ends of one type.
        List<String> ends = uses.asEnd();
        reasons.addAll(ends);
        if (ends.isEmpty()) {
            Register after = with(whole.register(), wanted);
            if (limits.limits(whole).stream()
                    .flatMap(limit -> limit.condition().criteria().stream())
                    .anyMatch(c -> c.names(field) && !fits(after, c))) {
                reasons.add("Who sees which records is limited by it in a way that does not fit a " + type.words()
                        + " field. Change that first, under Access.");
            }
        }
        return reasons;
    }

    /** Whether a calculation comes out as it does now when the register is this one. */
    public static boolean isCalculatedAlike(Register after, Calculation calculation) {
        try {
            return new Reader(after, Set.of())
                            .calculation(Printer.print(calculation.expression()))
                            .type()
                    == calculation.field().type();
        } catch (StatementError unfit) {
            return false;
        }
    }

    /** What else becomes otherwise when a field gets another type, each in a sentence; whoever reads it cannot mend it here. */
    @Transactional(readOnly = true)
    public List<String> follows(String key, String field, FieldType type) {
        RegisterForReader whole = catalogue.whole(key).orElseThrow();
        Field known = whole.register().field(field).orElseThrow();
        List<String> follows = new ArrayList<>();
        List<Band> staying = fitting(known.bands(), type);
        String going = known.bands().stream()
                .filter(b -> !staying.contains(b))
                .map(Band::name)
                .collect(Collectors.joining(", "));
        if (!going.isEmpty()) {
            follows.add("Its bands do not fit a " + type.words() + " field and go: " + going + ".");
        }
        for (RegisterEntity other : store.findAllByOrderByPosition()) {
            boolean lost = other.deletedAt() == null
                    && other.members().stream()
                            .filter(m -> m.memberKey().equals(key))
                            .anyMatch(m -> other.fields().stream()
                                    .anyMatch(f -> field.equals(mapping(m).get(f.key()))
                                            && Combining.fits(known.type(), f.type())
                                            && !Combining.fits(type, f.type())));
            if (lost) {
                follows.add("“" + other.label() + "” is read from this register too, and has it empty from then on.");
            }
        }
        return follows;
    }

    private Map<?, ?> mapping(MemberEntity member) {
        return json.readValue(member.mapping(), Map.class);
    }

    /**
     * Gives the table an empty column for the values of a field that is to have another type.
     *
     * @return the column's name
     */
    @Transactional
    public String prepare(String key, String field, FieldType type, int version, SignedIn who) {
        CatalogueEditor.requireAdministrator(who);
        store.there(key, version);
        requireFree(key, field, type);
        RegisterForReader whole = catalogue.whole(key).orElseThrow();
        return tables.addColumn(
                whole, whole.register().field(field).orElseThrow().column(), type);
    }

    /** Takes the column away again that was prepared and is not needed. */
    @Transactional
    public void abandon(String key, String column) {
        tables.dropColumn(catalogue.whole(key).orElseThrow(), column);
    }

    /** Lets nobody write records of a register until the transaction ends, so that all of them are read as they are. */
    @Transactional
    public void holdWriters(RegisterForReader described) {
        tables.holdWriters(described);
    }

    /**
     * Reads a field from the column that was filled, in the transaction that filled it.
     *
     * @param options the known values that it has from now on
     * @param full whether every record has a value
     * @param version of the register that the change was made from
     * @return the label under which the former values are found among the removed fields
     * @throws Problem when something stands against it, or somebody changed the register meanwhile
     */
    @Transactional
    public String settle(
            String key,
            String field,
            FieldType type,
            String column,
            List<String> options,
            boolean full,
            int version,
            SignedIn who) {
        RegisterEntity register = store.there(key, version);
        requireFree(key, field, type);
        RegisterForReader whole = catalogue.whole(key).orElseThrow();
        Field wanted = as(whole, field, type);
        FieldEntity known = register.fields().stream()
                .filter(f -> f.key().equals(field))
                .findFirst()
                .orElseThrow();
        boolean required = known.required() && full || type == FieldType.TAGS;
        FieldEntity fresh = catalogue.entity(
                catalogue
                        .like(new FieldDefinition(field, known.label(), type, required, known.shown(), options), known)
                        .withBands(wanted.bands()),
                column,
                "");
        FieldEntity former = former(register, known, whole);
        if (known.required() && known.type() != FieldType.TAGS) {
            // Records that are added from now on have no value there.
            tables.mayBeEmpty(whole, known.columnName());
        }
        if (required && type != FieldType.TAGS) {
            tables.mayNotBeEmpty(whole, column);
        }
        tables.rename(whole, known.columnName(), former.columnName());
        register.fields().set(register.fields().indexOf(known), fresh);
        register.removedFields().add(former);
        hideAlike(register, field, former.key());
        store.saveAndFlush(register);
        RegisterForReader after = catalogue.describe(register, people.options(), Set.of());
        tables.index(after, column);
        tables.keep(after);
        trail.write(
                Optional.of(who.id()),
                CatalogueEditor.SUBJECT,
                register.id(),
                "type changed",
                known.label() + ": " + known.type().words(),
                known.label() + ": " + type.words());
        events.publishEvent(new RegisterChanged(key));
        return former.label();
    }

    /** The field as it was, under a key and a label that no other has, in a column of that name. */
    private FieldEntity former(RegisterEntity register, FieldEntity known, RegisterForReader whole) {
        Set<String> taken = Stream.concat(register.fields().stream(), register.removedFields().stream())
                .flatMap(f -> Stream.of(f.key(), f.label()))
                .map(name -> name.toLowerCase(Locale.ROOT))
                .collect(Collectors.toSet());
        String words = "as " + known.type().words();
        String stem = Keys.of(known.key() + " " + words);
        String key = stem;
        String label = known.label() + " (" + words + ")";
        for (int i = 2;
                taken.contains(key) || taken.contains(label.toLowerCase(Locale.ROOT)) || tables.isColumn(whole, key);
                i++) {
            key = (stem.length() > MOST_LETTERS ? stem.substring(0, MOST_LETTERS) : stem) + "_" + i;
            label = known.label() + " (" + words + ", " + i + ")";
        }
        FieldDefinition was = catalogue.like(
                new FieldDefinition(
                        key,
                        label,
                        known.type(),
                        known.type() == FieldType.TAGS,
                        false,
                        List.of(json.readValue(known.options(), String[].class))),
                known);
        return catalogue.entity(was, key, "");
    }

    /** Whoever does not see a field does not see what it was either, also when that is restored. */
    private void hideAlike(RegisterEntity register, String field, String former) {
        for (AccessEntity line : access.findByRegisterIdOrderById(register.id())) {
            List<String> hidden = new ArrayList<>(List.of(json.readValue(line.hidden(), String[].class)));
            if (hidden.contains(field)) {
                hidden.add(former);
                line.hide(json.writeValueAsString(hidden));
                access.save(line);
            }
        }
    }

    private void requireFree(String key, String field, FieldType type) {
        List<String> reasons = needed(key, field, type);
        if (!reasons.isEmpty()) {
            throw Problem.unprocessable("field-needed", String.join(" ", reasons));
        }
    }
}
