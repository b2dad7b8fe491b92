package deftlens.server.imports;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.ReadsOnly;
import jakarta.validation.Valid;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Another type for a field: looked at first, then changed. */
@RestController
@RequestMapping("/api/registers/{key}/fields/{field}/type")
class FieldTypesController {

    private final TypeChangeService changes;

    FieldTypesController(TypeChangeService changes) {
        this.changes = changes;
    }

    /**
     * A type that was changed.
     *
     * @param former what the values as they were are called, among the fields that were removed and can be restored
     */
    record TypeChanged(String former) {}

    /** What becomes of the values of a field if it gets another type, and what stands against it; nothing is changed. */
    @ReadsOnly
    @PostMapping("/preview")
    TypeChangeService.TypePreview previewType(
            @PathVariable String key,
            @PathVariable String field,
            @Valid @RequestBody TypeChangeService.TypeWanted wanted,
            @AuthenticationPrincipal SignedIn who) {
        return changes.preview(key, field, wanted, who);
    }

    /** Gives a field another type. The values as they were are kept, as a removed field. */
    @PutMapping
    TypeChanged changeType(
            @PathVariable String key,
            @PathVariable String field,
            @Valid @RequestBody TypeChangeService.TypeChange change,
            @AuthenticationPrincipal SignedIn who) {
        return new TypeChanged(changes.change(key, field, change, who));
    }
}
