package deftlens.server.registers;

import deftlens.core.field.FieldType;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.platform.VisibleText;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
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
    private final AddingFields adding;

    RegistersController(
            RegisterCatalogue catalogue, CatalogueEditor editor, FieldRemoval removal, AddingFields adding) {
        this.catalogue = catalogue;
        this.editor = editor;
        this.removal = removal;
        this.adding = adding;
    }

    /**
     * The registers that the reader may see.
     *
     * @param deleted those that were deleted instead and can be brought back, for administrators; latest first
     */
    @GetMapping
    List<RegisterName> all(
            @RequestParam(defaultValue = "false") boolean deleted, @AuthenticationPrincipal SignedIn who) {
        if (deleted) {
            return editor.deleted(who).stream()
                    .map(r -> new RegisterName(
                            r.key(),
                            r.label(),
                            r.recordLabel(),
                            r.description(),
                            r.origin(),
                            r.origin().capabilities(),
                            r.fields().size(),
                            Optional.of(r.deletedAt())))
                    .toList();
        }
        return catalogue.all(who).stream().map(RegisterName::of).toList();
    }

    /** A register as one sees it: its fields, what can be asked of each, what groups they make, and what limits its records. */
    @GetMapping("/{key}")
    RegisterDescription one(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return RegisterDescription.of(catalogue.get(key, who));
    }

    /** Changes what the catalogue says of a register. */
    @PutMapping("/{key}")
    RegisterDescription change(
            @PathVariable String key,
            @RequestBody CatalogueEditor.RegisterChange wanted,
            @AuthenticationPrincipal SignedIn who) {
        return RegisterDescription.of(editor.change(key, wanted, who));
    }

    /**
     * A field to be added.
     *
     * @param type {@code seen} for marks that each reader makes, {@code tags} for tags beside the records, {@code calculated}
     *     for what comes about from other fields, else the type of a new column
     * @param calculation how a calculated field comes to its value
     */
    record FieldAdded(
            @NotNull String type, Optional<String> key, Optional<String> label, Optional<String> calculation) {}

    /** Gives a register another field. */
    @PostMapping("/{key}/fields")
    @ResponseStatus(HttpStatus.CREATED)
    RegisterDescription addField(
            @PathVariable String key, @Valid @RequestBody FieldAdded added, @AuthenticationPrincipal SignedIn who) {
        return RegisterDescription.of(
                added.type().equals("calculated")
                        ? editor.addCalculated(
                                key,
                                name(added),
                                label(added),
                                added.calculation().orElse(""),
                                who)
                        : editor.addField(key, definition(added, catalogue.get(key, who)), who));
    }

    private static FieldDefinition definition(FieldAdded added, RegisterForReader described) {
        if (added.type().equals("seen")) {
            return FieldDefinition.seen(false);
        }
        FieldType type = FieldTypes.named(added.type());
        FieldDefinition field =
                new FieldDefinition(name(added), label(added), type, type == FieldType.TAGS, false, List.of());
        // Tags are there for people to give; anything else is for administrators until they say otherwise.
        return (type == FieldType.TAGS ? field.correctable() : field)
                .from(
                        type == FieldType.TAGS && !described.can(Origin.Capability.FIELDS)
                                ? FieldOrigin.TAGS
                                : FieldOrigin.COLUMN);
    }

    private static String label(FieldAdded added) {
        return added.label()
                .orElse(added.type().equals(FieldType.TAGS.label()) ? "Tags" : "")
                .strip();
    }

    private static String name(FieldAdded added) {
        String label = label(added);
        String key = added.key().orElseGet(() -> Keys.of(label));
        if (!VisibleText.isVisible(label) || !key.matches("[a-z][a-z0-9_]{0,40}")) {
            throw Problem.unprocessable(
                            "bad-field",
                            "A new field needs a name, and a key of small letters, digits and underscores.")
                    .at("label");
        }
        return key;
    }

    /**
     * The calculated fields that are added to those of a register.
     *
     * @param fields all of them, in their order; none for the register as it is
     */
    record FieldsAdded(@NotNull @Size(max = 100) List<AddingFields.@NotNull @Valid FieldToAdd> fields) {}

    /**
     * Adds calculated fields to a register for one question, or for one view, in the place of those that its key has. The register stays as it
     * is. The {@code key} that is answered stands for it with these fields, in every call about its records and in a new view;
     * the same fields always have the same key.
     */
    @ReadsOnly
    @PostMapping("/{key}/added-fields")
    RegisterDescription with(
            @PathVariable String key, @Valid @RequestBody FieldsAdded wanted, @AuthenticationPrincipal SignedIn who) {
        return RegisterDescription.of(adding.with(key, wanted.fields(), who));
    }

    /**
     * Removes a field; what records have in it is kept, and it can be brought back.
     *
     * @param version of the register that it is removed from
     */
    @DeleteMapping("/{key}/fields/{field}")
    RegisterDescription removeField(
            @PathVariable String key,
            @PathVariable String field,
            @RequestParam int version,
            @AuthenticationPrincipal SignedIn who) {
        removal.remove(key, field, version, who);
        return RegisterDescription.of(catalogue.get(key, who));
    }

    /** The fields that were removed and can be brought back. */
    @GetMapping("/{key}/removed-fields")
    List<FieldRemoval.RemovedField> removedFields(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return removal.removed(key, who);
    }

    /** Brings a field back that was removed. */
    @PostMapping("/{key}/removed-fields/{field}")
    RegisterDescription restoreField(
            @PathVariable String key, @PathVariable String field, @AuthenticationPrincipal SignedIn who) {
        removal.restore(key, field, who);
        return RegisterDescription.of(catalogue.get(key, who));
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

    /** Deletes a register; administrators only. It can be restored for thirty days. */
    @DeleteMapping("/{key}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void delete(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        editor.delete(key, who);
    }

    /** Brings a deleted register back. */
    @PostMapping("/{key}/restore")
    RegisterDescription restore(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        editor.restore(key, who);
        return RegisterDescription.of(catalogue.get(key, who));
    }
}
