package deftlens.server.registers;

import deftlens.core.field.FieldType;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotBlank;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Registers made from what is there already: tables attached in place, and registers read together. */
@RestController
@RequestMapping("/api")
class AttachingController {

    private final Attaching attaching;
    private final RegisterCatalogue catalogue;

    AttachingController(Attaching attaching, RegisterCatalogue catalogue) {
        this.attaching = attaching;
        this.catalogue = catalogue;
    }

    /** The tables and database views that can be attached. */
    @GetMapping("/attachable")
    List<Attaching.Attachable> attachable(@AuthenticationPrincipal SignedIn who) {
        return attaching.attachable(who);
    }

    /** What a table can be attached as: fields, types, choices, keys and comments from the database. */
    @GetMapping("/attachable/{schema}/{table}")
    Attaching.TableProposal propose(
            @PathVariable String schema, @PathVariable String table, @AuthenticationPrincipal SignedIn who) {
        return attaching.propose(schema, table, who);
    }

    /** Attaches a table; nothing is written to it. */
    @PostMapping("/attached")
    @ResponseStatus(HttpStatus.CREATED)
    RegistersController.Description attach(
            @RequestBody Attaching.Attached wanted, @AuthenticationPrincipal SignedIn who) {
        return RegistersController.describe(attaching.attach(wanted, who));
    }

    /** Takes the table behind a register as it is now. */
    @PostMapping("/registers/{key}/shape")
    RegistersController.Description accept(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return RegistersController.describe(attaching.accept(key, who));
    }

    /** A field of a combined register, and the members' fields that it is read from, by member key. */
    record CombinedField(
            @NotBlank String label, boolean shown, @NotNull Map<String, String> from) {}

    /** One of the registers that are read together, and what its records are called there. */
    record CombinedMember(
            @NotBlank String register, @NotBlank String label) {}

    /** Several registers to be read together. */
    record Combined(
            @NotBlank String label,
            @NotBlank String recordLabel,
            @NotNull @Size(min = 2, max = 8) List<@Valid CombinedMember> members,
            @NotNull @Size(min = 1, max = 100) List<@Valid CombinedField> fields,
            Optional<String> mainField,
            @NotBlank String titleField) {}

    /** Makes a register in which several others are read together. */
    @PostMapping("/combined")
    @ResponseStatus(HttpStatus.CREATED)
    RegistersController.Description combine(
            @Valid @RequestBody Combined wanted, @AuthenticationPrincipal SignedIn who) {
        CatalogueEditor.requireAdministrator(who);
        return RegistersController.describe(catalogue.combine(definition(wanted, who), members(wanted, who)));
    }

    private List<String> keys(Combined wanted) {
        List<String> labels = new ArrayList<>(List.of("source"));
        wanted.fields().forEach(f -> labels.add(f.label()));
        List<String> keys = Keys.of(labels);
        return keys.subList(1, keys.size());
    }

    private RegisterDefinition definition(Combined wanted, SignedIn who) {
        List<String> keys = keys(wanted);
        List<FieldDefinition> fields = new ArrayList<>();
        fields.add(FieldDefinition.member(
                "source",
                "Record",
                wanted.members().stream().map(CombinedMember::label).toList()));
        Optional<String> main = Optional.empty();
        String title = keys.get(0);
        for (int i = 0; i < keys.size(); i++) {
            CombinedField field = wanted.fields().get(i);
            FieldDefinition made = field(keys.get(i), field, wanted, who);
            fields.add(made);
            if (wanted.mainField().filter(field.label()::equals).isPresent()) {
                main = Optional.of(keys.get(i));
            }
            if (wanted.titleField().equals(field.label())) {
                title = keys.get(i);
            }
        }
        return new RegisterDefinition(
                catalogue.freeKey(wanted.label()),
                wanted.label().strip(),
                wanted.recordLabel().strip(),
                "",
                main,
                title,
                true,
                fields);
    }

    /** One type, and the choices of all members one after the other. */
    private FieldDefinition field(String key, CombinedField wanted, Combined whole, SignedIn who) {
        Set<FieldType> types = new HashSet<>();
        List<String> options = new ArrayList<>();
        boolean required = wanted.from().size() == whole.members().size();
        boolean identifying = required;
        for (CombinedMember member : whole.members()) {
            String from = wanted.from().get(member.register());
            if (from == null) {
                continue;
            }
            Described described = catalogue.get(member.register(), who);
            var field = described
                    .register()
                    .field(from)
                    .filter(f -> f.type().isStored())
                    .orElseThrow(() -> Problem.unprocessable(
                            "unknown-field", described.register().label() + " have no field “" + from + "”."));
            types.add(field.type());
            field.options().stream()
                    .map(o -> o.value())
                    .filter(o -> !options.contains(o))
                    .forEach(options::add);
            required &= field.required();
            identifying &= described.identifying().contains(from);
        }
        if (types.isEmpty()) {
            throw Problem.unprocessable(
                    "no-source", "“" + wanted.label() + "” is read from no field; choose at least one.");
        }
        FieldType type = types.size() == 1
                ? types.iterator().next()
                : types.stream().allMatch(t -> t == FieldType.TEXT || t.isListed())
                        ? FieldType.TEXT
                        : types.stream().allMatch(FieldType::isNumeric) ? FieldType.NUMBER : null;
        if (type == null) {
            throw Problem.unprocessable(
                    "types-differ",
                    "“" + wanted.label() + "” would hold "
                            + String.join(
                                    " and ",
                                    types.stream()
                                            .map(FieldType::label)
                                            .sorted()
                                            .toList())
                            + "; choose fields of one type.");
        }
        FieldDefinition made = new FieldDefinition(
                key,
                wanted.label().strip(),
                type,
                required || type == FieldType.TAGS,
                wanted.shown(),
                type == FieldType.CHOICE || type == FieldType.TAGS ? options : List.of());
        return identifying ? made.identifying() : made;
    }

    private List<Described.Member> members(Combined wanted, SignedIn who) {
        List<String> keys = keys(wanted);
        return wanted.members().stream()
                .map(member -> {
                    if (catalogue.get(member.register(), who).origin() == Origin.COMBINED) {
                        throw Problem.unprocessable(
                                "nested", "A register that is itself read together cannot be read together again.");
                    }
                    Map<String, String> mapping = new java.util.LinkedHashMap<>();
                    for (int i = 0; i < keys.size(); i++) {
                        String from = wanted.fields().get(i).from().get(member.register());
                        if (from != null) {
                            mapping.put(keys.get(i), from);
                        }
                    }
                    return new Described.Member(
                            member.register(), member.label().strip(), mapping);
                })
                .toList();
    }
}
