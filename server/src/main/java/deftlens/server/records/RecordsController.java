package deftlens.server.records;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsTexts;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PatchMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** Records written over the API: made, changed, sent in bulk, tagged, marked as seen. */
@RestController
@RequestMapping("/api/registers/{key}/records")
class RecordsController {

    private static final String IDEMPOTENCY = "Idempotency-Key";

    private final RecordsService records;
    private final BulkService bulk;
    private final MarksService marks;

    RecordsController(RecordsService records, BulkService bulk, MarksService marks) {
        this.records = records;
        this.bulk = bulk;
        this.marks = marks;
    }

    /** The values of a record by field key; fields that are left out are empty in a new record. */
    record NewRecord(@NotNull Map<String, JsonNode> values) {}

    /**
     * A change.
     *
     * @param values the new values of the fields that change
     * @param was the values that the writer saw there; when given, others there by now are a conflict
     * @param reason why; it stands in the history of the record
     */
    record ChangedRecord(
            @NotNull Map<String, JsonNode> values,
            Optional<Map<String, JsonNode>> was,
            Optional<@Size(max = 500) String> reason) {}

    /**
     * Many records.
     *
     * @param by the keys of the fields that tell records apart; a record that has them already is changed
     */
    record ManyRecords(
            @NotNull List<String> by,
            @NotNull @Size(min = 1, max = 10_000) List<Map<String, JsonNode>> records) {}

    /** Which records are marked, and how. */
    record Marks(
            @NotNull @Size(min = 1, max = 10_000) @AsTexts List<Long> records, boolean seen) {}

    /** The tags that are put on records and taken off them. */
    record Tagging(
            @NotNull @Size(min = 1, max = 10_000) @AsTexts List<Long> records,
            @NotNull List<String> add,
            @NotNull List<String> remove) {}

    /** Makes a record. With an {@code Idempotency-Key}, asking again gives the first answer. */
    @PostMapping
    @ResponseStatus(HttpStatus.CREATED)
    RecordsService.Written create(
            @PathVariable String key,
            @Valid @RequestBody NewRecord asked,
            @RequestHeader(name = IDEMPOTENCY, required = false) Optional<String> idempotency,
            @AuthenticationPrincipal SignedIn who) {
        return records.create(key, asked.values(), idempotency, who);
    }

    /** Changes some values of a record. */
    @PatchMapping("/{id}")
    RecordsService.Written change(
            @PathVariable String key,
            @PathVariable long id,
            @Valid @RequestBody ChangedRecord asked,
            @AuthenticationPrincipal SignedIn who) {
        return records.change(key, id, asked.values(), asked.was(), asked.reason(), who);
    }

    /** Makes or changes up to 10,000 records; all of them, or none. */
    @PostMapping("/bulk")
    BulkService.Bulk bulk(
            @PathVariable String key,
            @Valid @RequestBody ManyRecords asked,
            @RequestHeader(name = IDEMPOTENCY, required = false) Optional<String> idempotency,
            @AuthenticationPrincipal SignedIn who) {
        return bulk.bulk(key, asked.by(), asked.records(), idempotency, who);
    }

    /** Marks records as seen by whoever asks, or takes the marks away; says how many were marked. */
    @PutMapping("/seen")
    MarksService.Marked seen(
            @PathVariable String key, @Valid @RequestBody Marks asked, @AuthenticationPrincipal SignedIn who) {
        return marks.mark(key, asked.records(), asked.seen(), who);
    }

    /** Puts tags on records and takes tags off; says how many records were tagged. */
    @PutMapping("/tags")
    MarksService.Marked tags(
            @PathVariable String key, @Valid @RequestBody Tagging asked, @AuthenticationPrincipal SignedIn who) {
        return marks.tag(key, asked.records(), asked.add(), asked.remove(), who);
    }

    /** Who changed a record, when, from what to what; newest first. */
    @GetMapping("/{id}/history")
    List<RecordHistory.RecordChange> history(
            @PathVariable String key, @PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return records.history(key, id, who);
    }
}
