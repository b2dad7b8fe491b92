package deftlens.server.registers;

import deftlens.core.condition.Fit;
import deftlens.core.condition.Verb;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import deftlens.core.sql.Page;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsTexts;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.rows.GroupsService;
import deftlens.server.rows.Shape;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What registers there are, with their fields and the tests that fit them. */
@RestController
@RequestMapping("/api/registers")
class RegistersController {

    private final RegisterCatalogue catalogue;
    private final CatalogueEditor editor;
    private final FieldRemoval removal;

    RegistersController(RegisterCatalogue catalogue, CatalogueEditor editor, FieldRemoval removal) {
        this.catalogue = catalogue;
        this.editor = editor;
        this.removal = removal;
    }

    /**
     * A register, as one of several.
     *
     * @param deletedAt when it was deleted; absent for one that is there
     */
    record Name(
            String key,
            String label,
            String recordLabel,
            String description,
            Origin origin,
            int fields,
            Optional<Instant> deletedAt) {}

    /**
     * A test of fields of a type.
     *
     * @param words the words of the language, which name it in conditions
     * @param takes what follows them
     * @param label what it is called in a list of tests to choose from
     * @param phrase what stands before a window, as statements say it
     * @param offered whether such a list has it; the others are usually said in another way
     * @param first whether a new criterion begins with it
     * @param opposite the words of its exact opposite, where the language has some
     * @param compares whether another field of the record can stand in the place of a value
     */
    record Test(
            String words,
            Verb.Takes takes,
            String label,
            String phrase,
            boolean offered,
            boolean first,
            Optional<String> opposite,
            boolean compares) {

        static Test of(FieldType type, Verb verb) {
            return new Test(
                    verb.words(),
                    verb.takes(),
                    verb.label(),
                    verb.phrase(),
                    verb.isOffered(type),
                    verb == Verb.first(type),
                    verb.opposite().map(Verb::words),
                    verb.relation().isPresent());
        }
    }

    /**
     * A field as the reader sees it.
     *
     * @param tests the words of the tests that fit it; what they are is said once for its type, in the register's {@code tests}
     * @param others the keys of the fields that can stand in the place of a value, by the words of the test; no others can
     * @param viewerValues what may follow {@code my}, or stand by itself as {@code me}, in the place of its value
     * @param groupings what the records of a group can have in common, the usual one first; none where it makes no groups
     */
    record FieldDescription(
            String key,
            String label,
            String type,
            boolean required,
            boolean orderable,
            List<Option> options,
            List<BandJson> bands,
            Optional<Field.Ends> ends,
            List<String> tests,
            Map<String, List<String>> others,
            List<Shape.By> groupings,
            List<String> viewerValues,
            String description,
            String unit,
            boolean useful,
            boolean identifying,
            boolean correctable,
            FieldOrigin origin,
            List<RegisterDefinition.Relation> relates,
            @AsTexts List<Long> correctors) {}

    record OrderKey(String field, boolean descending, boolean emptiesFirst) {}

    /**
     * A register as the reader sees it.
     *
     * @param recordLabel one record in words: {@code ledger entry}
     * @param recordsLabel several records in words: {@code ledger entries}
     * @param table the table or database view of an attached register
     * @param gaps what a combined register should have of its members and does not get, each in a sentence
     * @param tests the tests of each type that a field of it has, by the type's name
     * @param running the number whose sum so far means something: a balance, a number on hand
     * @param viewerValues what may follow “my” in a statement
     * @param limits the statements that limit which records the reader sees, of which one must hold; none is no limit
     * @param limitsInWords the same as people read them, in the labels of the fields
     * @param hiddenFields how many fields are not shown to the reader
     * @param version the version of the catalogue's entry, to be sent back with a change
     */
    record Description(
            String key,
            String label,
            String recordLabel,
            String recordsLabel,
            String description,
            Origin origin,
            Optional<String> table,
            List<Described.Member> members,
            List<String> gaps,
            List<FieldDescription> fields,
            Map<String, List<Test>> tests,
            List<String> columns,
            List<OrderKey> order,
            Optional<String> mainField,
            Optional<String> running,
            String titleField,
            List<String> viewerValues,
            List<String> limits,
            List<String> limitsInWords,
            int hiddenFields,
            int version) {}

    /**
     * The registers that the reader may see.
     *
     * @param deleted those that were deleted instead and can be brought back, for administrators; latest first
     */
    @GetMapping
    List<Name> all(@RequestParam(defaultValue = "false") boolean deleted, @AuthenticationPrincipal SignedIn who) {
        if (deleted) {
            return editor.deleted(who).stream()
                    .map(r -> new Name(
                            r.key(),
                            r.label(),
                            r.recordLabel(),
                            r.description(),
                            r.origin(),
                            r.fields().size(),
                            Optional.of(r.deletedAt())))
                    .toList();
        }
        return catalogue.all(who).stream()
                .map(d -> new Name(
                        d.register().key(),
                        d.register().label(),
                        d.recordLabel(),
                        d.description(),
                        d.origin(),
                        d.register().fields().size(),
                        Optional.empty()))
                .toList();
    }

    @GetMapping("/{key}")
    Description one(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return describe(catalogue.get(key, who));
    }

    /** Changes what the catalogue says of a register. */
    @PutMapping("/{key}")
    Description change(
            @PathVariable String key,
            @RequestBody CatalogueEditor.RegisterChange wanted,
            @AuthenticationPrincipal SignedIn who) {
        return describe(editor.change(key, wanted, who));
    }

    /**
     * A field to be added.
     *
     * @param type {@code seen} for marks that each reader makes, {@code tags} for tags beside the records, else the type of
     *     a new column
     */
    record FieldAdded(@NotNull String type, Optional<String> key, Optional<String> label) {}

    /** Gives a register another field. */
    @PostMapping("/{key}/fields")
    @ResponseStatus(HttpStatus.CREATED)
    Description addField(
            @PathVariable String key, @Valid @RequestBody FieldAdded added, @AuthenticationPrincipal SignedIn who) {
        return describe(editor.addField(key, definition(added, catalogue.get(key, who)), who));
    }

    private static FieldDefinition definition(FieldAdded added, Described described) {
        if (added.type().equals("seen")) {
            return FieldDefinition.seen(false);
        }
        FieldType type = FieldTypes.named(added.type());
        String label =
                added.label().orElse(type == FieldType.TAGS ? "Tags" : "").strip();
        String key = added.key().orElseGet(() -> Keys.of(label));
        if (!VisibleText.isVisible(label) || !key.matches("[a-z][a-z0-9_]{0,40}")) {
            throw Problem.unprocessable(
                            "bad-field",
                            "A new field needs a name, and a key of small letters, digits and underscores.")
                    .at("label");
        }
        FieldDefinition field = new FieldDefinition(key, label, type, type == FieldType.TAGS, false, List.of());
        // Tags are there for people to give; anything else is for administrators until they say otherwise.
        return (type == FieldType.TAGS ? field.correctable() : field)
                .from(type == FieldType.TAGS && !described.isOwn() ? FieldOrigin.TAGS : FieldOrigin.COLUMN);
    }

    /**
     * Removes a field; what records have in it is kept, and it can be brought back.
     *
     * @param version of the register that it is removed from
     */
    @DeleteMapping("/{key}/fields/{field}")
    Description removeField(
            @PathVariable String key,
            @PathVariable String field,
            @RequestParam int version,
            @AuthenticationPrincipal SignedIn who) {
        removal.remove(key, field, version, who);
        return describe(catalogue.get(key, who));
    }

    /** The fields that were removed and can be brought back. */
    @GetMapping("/{key}/removed-fields")
    List<FieldRemoval.RemovedField> removedFields(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return removal.removed(key, who);
    }

    /** Brings a field back that was removed. */
    @PostMapping("/{key}/removed-fields/{field}")
    Description restoreField(
            @PathVariable String key, @PathVariable String field, @AuthenticationPrincipal SignedIn who) {
        removal.restore(key, field, who);
        return describe(catalogue.get(key, who));
    }

    /** Who sees what of a register. */
    @GetMapping("/{key}/access")
    List<CatalogueEditor.AccessLine> access(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return editor.access(key, who);
    }

    /** Says anew who sees what of a register. */
    @PutMapping("/{key}/access")
    List<CatalogueEditor.AccessLine> setAccess(
            @PathVariable String key,
            @RequestBody List<CatalogueEditor.AccessLine> wanted,
            @AuthenticationPrincipal SignedIn who) {
        return editor.setAccess(key, wanted, who);
    }

    @DeleteMapping("/{key}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void delete(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        editor.delete(key, who);
    }

    /** Brings a deleted register back. */
    @PostMapping("/{key}/restore")
    Description restore(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        editor.restore(key, who);
        return describe(catalogue.get(key, who));
    }

    static Description describe(Described described) {
        return new Description(
                described.register().key(),
                described.register().label(),
                described.recordLabel(),
                described.recordsLabel(),
                described.description(),
                described.origin(),
                described.origin() == Origin.ATTACHED
                        ? Optional.of(described.table().name())
                        : Optional.empty(),
                described.members(),
                described.gaps().stream().map(Described.Gap::words).toList(),
                described.register().fields().stream()
                        .map(f -> field(described, f, described.notes().get(f.key())))
                        .toList(),
                tests(described.register()),
                described.shown().stream().map(Field::key).toList(),
                described.atRest().keys().stream()
                        .map(k -> new OrderKey(k.field().key(), k.descending(), k.emptiesFirst()))
                        .toList(),
                described.main().map(Field::key),
                described.running().map(Field::key),
                described.title().key(),
                described.viewerValues(),
                described.limits(),
                described.limitsInWords(),
                described.hidden().size(),
                described.version());
    }

    private static Map<String, List<Test>> tests(Register register) {
        Map<String, List<Test>> tests = new LinkedHashMap<>();
        register.fields()
                .forEach(field -> tests.computeIfAbsent(
                        field.type().label(),
                        label -> Verb.of(field.type()).stream()
                                .map(verb -> Test.of(field.type(), verb))
                                .toList()));
        return tests;
    }

    private static Map<String, List<String>> others(Register register, Field field) {
        Map<String, List<String>> others = new LinkedHashMap<>();
        for (Verb verb : Verb.of(register, field)) {
            List<Field> found = Fit.others(register, field, verb);
            if (!found.isEmpty()) {
                others.put(verb.words(), found.stream().map(Field::key).toList());
            }
        }
        return others;
    }

    /** Of a choice only the fact of that name makes sense: {@code site is my site}, {@code to_site is my site}. */
    private static List<String> viewerValues(Described described, Field field) {
        return switch (field.type()) {
            case PERSON -> List.of("me");
            case CHOICE ->
                described.viewerValues().stream()
                        .filter(v -> field.key().equals(v) || field.key().endsWith("_" + v))
                        .toList();
            case TEXT -> described.viewerValues();
            case NUMBER, MONEY, DURATION, YES_NO, TAGS, DATE, MOMENT, TIME, SPAN -> List.of();
        };
    }

    private static FieldDescription field(Described described, Field field, Described.Notes notes) {
        Register register = described.register();
        return new FieldDescription(
                field.key(),
                field.label(),
                field.type().label(),
                field.required(),
                Page.isOrderable(field.type()),
                field.options(),
                field.bands().stream().map(BandJson::of).toList(),
                field.ends(),
                Verb.words(register, field),
                others(register, field),
                GroupsService.groupings(field),
                viewerValues(described, field),
                notes.about().description(),
                notes.about().unit(),
                notes.about().useful(),
                notes.about().identifying(),
                notes.about().correctable(),
                notes.origin(),
                notes.about().relates(),
                notes.about().correctors());
    }
}
