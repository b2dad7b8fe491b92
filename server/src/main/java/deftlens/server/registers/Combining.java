package deftlens.server.registers;

import deftlens.core.field.FieldType;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.Visible;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.trail.Trail;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotBlank;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.event.EventListener;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** Registers in which several others are read together: how they are made, and what their fields are read from. */
@Service
public class Combining {

    private final RegisterStore store;
    private final RegisterCatalogue catalogue;
    private final PeopleService people;
    private final Trail trail;
    private final ApplicationEventPublisher events;
    private final ObjectMapper json;

    Combining(
            RegisterStore store,
            RegisterCatalogue catalogue,
            PeopleService people,
            Trail trail,
            ApplicationEventPublisher events,
            ObjectMapper json) {
        this.store = store;
        this.catalogue = catalogue;
        this.people = people;
        this.trail = trail;
        this.events = events;
        this.json = json;
    }

    /**
     * A field of a combined register.
     *
     * @param key the field that it is, where there is one already; absent for a new one
     * @param from the members' fields that it is read from, by member key
     */
    record CombinedField(
            Optional<String> key,
            @NotBlank @Visible String label,
            boolean shown,
            @NotNull Map<String, String> from) {}

    /** One of the registers that are read together, and what its records are called there. */
    record CombinedMember(
            @NotBlank String register, @NotBlank @Visible String label) {}

    /**
     * Several registers to be read together.
     *
     * @param version of the combined register, where one that is there is changed
     */
    record Combined(
            @NotBlank @Visible String label,
            @NotBlank @Visible String recordLabel,
            @NotNull @Size(min = 2, max = 8) List<@Valid CombinedMember> members,
            @NotNull @Size(min = 1, max = 100) List<@Valid CombinedField> fields,
            Optional<String> mainField,
            @NotBlank String titleField,
            Optional<Integer> version) {}

    /** Makes a register in which several others are read together. */
    @Transactional
    RegisterForReader combine(Combined wanted, SignedIn who) {
        CatalogueEditor.requireAdministrator(who);
        RegisterForReader made = catalogue.combine(
                definition(wanted, Optional.empty(), who), members(wanted, keys(wanted, Optional.empty()), who));
        trail.write(
                Optional.of(who.id()),
                CatalogueEditor.SUBJECT,
                made.id(),
                "combined",
                null,
                RegisterDescription.of(made));
        return made;
    }

    /**
     * Reads the fields of a combined register from other fields of its members. A field that is there keeps its key, and with it
     * the views over it; its bands stay where it holds what it held.
     *
     * @throws Problem when other members are wanted, since records are known by their place among them
     */
    @Transactional
    RegisterForReader change(String key, Combined wanted, SignedIn who) {
        CatalogueEditor.requireAdministrator(who);
        RegisterEntity entity = store.findByKey(key)
                .filter(e -> e.origin() == Origin.COMBINED && e.deletedAt() == null)
                .orElseThrow(() -> Problem.notFound("The combined register “" + key + "”"));
        RegisterForReader before = catalogue.get(key, who);
        if (wanted.version().filter(v -> v == entity.version()).isEmpty()) {
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "changed-meanwhile",
                            "Somebody changed this register after you opened it. Nothing of yours was written.")
                    .with("current", RegisterDescription.of(before));
        }
        if (!wanted.members().stream()
                .map(CombinedMember::register)
                .toList()
                .equals(entity.members().stream().map(MemberEntity::memberKey).toList())) {
            throw Problem.unprocessable(
                    "members-stay",
                    "The registers that are read together stay the same ones. To read others together, make another register.");
        }
        List<RegisterForReader.Member> members = members(wanted, keys(wanted, Optional.of(entity)), who);
        RegisterDefinition definition = definition(wanted, Optional.of(entity), who);
        entity.describe(new RegisterDefinition(
                key,
                definition.label(),
                definition.recordLabel(),
                entity.description(),
                definition.mainField(),
                definition.titleField(),
                entity.newestFirst(),
                List.of(),
                entity.runningField()
                        .filter(r -> definition.fields().stream()
                                .anyMatch(f -> f.key().equals(r) && f.type().isNumeric()))));
        List<FieldEntity> fields = new ArrayList<>();
        for (FieldDefinition field : definition.fields()) {
            fields.add(catalogue.entity(field, field.key(), ""));
        }
        Set<String> kept = new HashSet<>();
        fields.forEach(f -> kept.add(f.key()));
        // Marks, tags beside the records and calculated fields stay, and a span where it still has both of its ends.
        entity.fields().stream()
                .filter(f -> switch (f.origin()) {
                    case SEEN, TAGS, CALCULATED -> true;
                    case SPAN ->
                        f.ends()
                                .filter(e -> kept.containsAll(Set.of(e.start(), e.end())))
                                .isPresent();
                    case COLUMN, MEMBER -> false;
                })
                .forEach(fields::add);
        entity.fields().clear();
        entity.fields().addAll(fields);
        entity.combine(members.stream()
                .map(m -> new MemberEntity(m.key(), m.label(), json.writeValueAsString(m.mapping())))
                .toList());
        RegisterForReader after = described(store.saveAndFlush(entity));
        trail.write(
                Optional.of(who.id()),
                CatalogueEditor.SUBJECT,
                entity.id(),
                "combined anew",
                RegisterDescription.of(before),
                RegisterDescription.of(after));
        events.publishEvent(new RegisterChanged(key));
        return after;
    }

    private RegisterForReader described(RegisterEntity entity) {
        try {
            return catalogue.describe(entity, people.options(), Set.of());
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable("bad-register", "These fields make no register: " + e.getMessage() + ".");
        }
    }

    /** The keys of the fields that are wanted: those that there are, and free ones for the others. */
    private static List<String> keys(Combined wanted, Optional<RegisterEntity> there) {
        Set<String> known = new HashSet<>();
        there.ifPresent(e -> e.fields().forEach(f -> known.add(f.key())));
        Set<String> taken = new HashSet<>(known);
        taken.add("source");
        List<String> keys = new ArrayList<>();
        Set<String> once = new HashSet<>();
        for (CombinedField field : wanted.fields()) {
            String key =
                    field.key().filter(known::contains).orElseGet(() -> Attaching.free(Keys.of(field.label()), taken));
            if (!once.add(key)) {
                throw Problem.unprocessable("field-twice", "The field “" + field.label() + "” stands twice.");
            }
            keys.add(key);
        }
        return keys;
    }

    private RegisterDefinition definition(Combined wanted, Optional<RegisterEntity> there, SignedIn who) {
        List<String> keys = keys(wanted, there);
        Map<String, FieldEntity> known = new LinkedHashMap<>();
        there.ifPresent(e -> e.fields().forEach(f -> known.put(f.key(), f)));
        List<FieldDefinition> fields = new ArrayList<>();
        fields.add(FieldDefinition.member(
                known.values().stream()
                        .filter(f -> f.origin() == FieldOrigin.MEMBER)
                        .map(FieldEntity::key)
                        .findFirst()
                        .orElse("source"),
                known.values().stream()
                        .filter(f -> f.origin() == FieldOrigin.MEMBER)
                        .map(FieldEntity::label)
                        .findFirst()
                        .orElse("Record"),
                wanted.members().stream().map(CombinedMember::label).toList()));
        Optional<String> main = Optional.empty();
        String title = keys.get(0);
        for (int i = 0; i < keys.size(); i++) {
            CombinedField field = wanted.fields().get(i);
            fields.add(field(keys.get(i), field, wanted, Optional.ofNullable(known.get(keys.get(i))), who));
            if (wanted.mainField().filter(field.label()::equals).isPresent()) {
                main = Optional.of(keys.get(i));
            }
            if (wanted.titleField().equals(field.label())) {
                title = keys.get(i);
            }
        }
        return new RegisterDefinition(
                there.map(RegisterEntity::key).orElseGet(() -> catalogue.freeKey(wanted.label())),
                wanted.label().strip(),
                wanted.recordLabel().strip(),
                "",
                main,
                title,
                true,
                fields);
    }

    /** One type, and the choices of all members one after the other. */
    private FieldDefinition field(
            String key, CombinedField wanted, Combined whole, Optional<FieldEntity> known, SignedIn who) {
        Set<FieldType> types = new HashSet<>();
        Set<String> options = new LinkedHashSet<>();
        boolean required = wanted.from().size() == whole.members().size();
        boolean identifying = required;
        for (CombinedMember member : whole.members()) {
            String from = wanted.from().get(member.register());
            if (from == null) {
                continue;
            }
            RegisterForReader described = catalogue.get(member.register(), who);
            var field = described
                    .register()
                    .field(from)
                    .filter(f -> f.type().isStored())
                    .orElseThrow(() -> Problem.unprocessable(
                            "unknown-field", described.register().label() + " have no field “" + from + "”."));
            types.add(field.type());
            field.options().forEach(o -> options.add(o.value()));
            required &= field.required();
            identifying &= described.identifying().contains(from);
        }
        if (types.isEmpty()) {
            throw Problem.unprocessable(
                    "no-source", "“" + wanted.label() + "” is read from no field; choose at least one.");
        }
        FieldType type = type(wanted, types);
        FieldDefinition made = new FieldDefinition(
                key,
                wanted.label().strip(),
                type,
                required || type == FieldType.TAGS,
                wanted.shown(),
                type == FieldType.CHOICE || type == FieldType.TAGS ? List.copyOf(options) : List.of());
        FieldDefinition asItWas = known.filter(f -> f.type() == type)
                .map(f -> catalogue.like(made, f))
                .orElse(made);
        return identifying ? asItWas.identifying() : asItWas;
    }

    private static FieldType type(CombinedField wanted, Set<FieldType> types) {
        if (types.size() == 1) {
            return types.iterator().next();
        }
        if (types.stream().allMatch(t -> t == FieldType.TEXT || t.isListed())) {
            return FieldType.TEXT;
        }
        if (types.stream().allMatch(t -> t.countsAs(FieldType.NUMBER))) {
            return FieldType.NUMBER;
        }
        throw Problem.unprocessable(
                "types-differ",
                "“" + wanted.label() + "” would hold "
                        + String.join(
                                " and ",
                                types.stream().map(FieldType::label).sorted().toList())
                        + "; choose fields of one type.");
    }

    /** Whether what one field holds can be read as what another holds. */
    public static boolean fits(FieldType source, FieldType field) {
        return source == field
                || source.countsAs(field)
                || field == FieldType.TEXT && source.isListed()
                || source == FieldType.TEXT && field.isListed() && field != FieldType.TAGS;
    }

    private List<RegisterForReader.Member> members(Combined wanted, List<String> keys, SignedIn who) {
        return wanted.members().stream()
                .map(member -> {
                    if (catalogue.get(member.register(), who).origin() == Origin.COMBINED) {
                        throw Problem.unprocessable(
                                "nested", "A register that is itself read together cannot be read together again.");
                    }
                    Map<String, String> mapping = new LinkedHashMap<>();
                    for (int i = 0; i < keys.size(); i++) {
                        String from = wanted.fields().get(i).from().get(member.register());
                        if (from != null) {
                            mapping.put(keys.get(i), from);
                        }
                    }
                    return new RegisterForReader.Member(
                            member.register(), member.label().strip(), mapping);
                })
                .toList();
    }

    /** A member may hold more values now: the combined registers know them too. */
    @EventListener
    void changed(RegisterChanged change) {
        Optional<RegisterEntity> member = store.findByKey(change.register());
        for (RegisterEntity combined : store.findAllByOrderByPosition()) {
            for (MemberEntity place : List.copyOf(combined.members())) {
                if (place.memberKey().equals(change.register())) {
                    member.ifPresent(m -> takeValues(combined, mapping(place), m));
                }
            }
        }
    }

    private void takeValues(RegisterEntity combined, Map<String, String> mapping, RegisterEntity member) {
        boolean took = false;
        for (FieldEntity field : combined.fields()) {
            Optional<FieldEntity> source = member.fields().stream()
                    .filter(f -> f.key().equals(mapping.get(field.key())))
                    .findFirst();
            if (source.isEmpty() || field.type() != FieldType.CHOICE && field.type() != FieldType.TAGS) {
                continue;
            }
            Set<String> all = new LinkedHashSet<>(strings(field.options()));
            if (all.addAll(strings(source.get().options()))) {
                field.choose(json.writeValueAsString(all));
                took = true;
            }
        }
        if (took) {
            store.saveAndFlush(combined);
            trail.write(
                    Optional.empty(),
                    CatalogueEditor.SUBJECT,
                    combined.id(),
                    "values taken",
                    null,
                    "new values of " + member.label());
            events.publishEvent(new RegisterChanged(combined.key()));
        }
    }

    @SuppressWarnings("unchecked")
    private Map<String, String> mapping(MemberEntity member) {
        return json.readValue(member.mapping(), LinkedHashMap.class);
    }

    private List<String> strings(String array) {
        return Arrays.asList(json.readValue(array, String[].class));
    }
}
