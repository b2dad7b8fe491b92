package deftlens.server.records;

import deftlens.server.people.SignedIn;
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
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.ObjectMapper;

/** Many records changed at once: looked at, made, listed, taken back. */
@RestController
@RequestMapping("/api")
class ManyChangesController {

    private final ManyChangesService changes;
    private final MadeChangesService made;
    private final ObjectMapper json;

    ManyChangesController(ManyChangesService changes, MadeChangesService made, ObjectMapper json) {
        this.changes = changes;
        this.made = made;
        this.json = json;
    }

    /**
     * A change that is to be made.
     *
     * @param change as it was looked at
     * @param mark the mark of the preview that it was looked at in
     * @param reason why, in at most 500 characters; it stands in the history of each record
     */
    record WantedChange(
            @NotNull @Valid ManyChange change,
            @NotNull @Size(max = 100) String mark,
            @NotNull @Size(max = 2_000) String reason) {}

    /** Why a change is taken back. */
    record WantedUndo(@NotNull @Size(max = 2_000) String reason) {}

    /**
     * What a change of many records would do: how many records, from what to what, which cannot be, and how many leave the question. Nothing
     * is written.
     */
    @PostMapping("/registers/{key}/changes/preview")
    ManyChangesService.ChangePreview preview(
            @PathVariable String key, @Valid @RequestBody ManyChange asked, @AuthenticationPrincipal SignedIn who) {
        return changes.preview(key, asked, who);
    }

    /**
     * Changes what was looked at, all of it or nothing, as a job. Where any of the records was written since, or others are among them, nothing
     * is ({@code changed-meanwhile}). With an {@code Idempotency-Key}, asking again gives the first answer.
     */
    @PostMapping("/registers/{key}/changes")
    @ResponseStatus(HttpStatus.ACCEPTED)
    ManyChangesService.Begun change(
            @PathVariable String key,
            @Valid @RequestBody WantedChange asked,
            @RequestHeader(name = "Idempotency-Key", required = false) Optional<String> idempotency,
            @AuthenticationPrincipal SignedIn who) {
        return changes.begin(
                key,
                asked.change(),
                asked.mark(),
                asked.reason(),
                idempotency,
                who,
                json.writeValueAsString(asked.change()));
    }

    /** The changes of many records of a register, the latest first: all for administrators and auditors, one's own for others. */
    @GetMapping("/registers/{key}/changes")
    List<MadeChangesService.ShownChange> latestChanges(
            @PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return made.latest(key, who);
    }

    /** How a change goes, or went. */
    @GetMapping("/registers/{key}/changes/jobs/{job}")
    MadeChangesService.ManyChangeRun changeJob(
            @PathVariable String key, @PathVariable long job, @AuthenticationPrincipal SignedIn who) {
        return made.run(key, job, who);
    }

    /** Stops a change; nothing of it is written. */
    @DeleteMapping("/registers/{key}/changes/jobs/{job}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void stopChange(@PathVariable String key, @PathVariable long job, @AuthenticationPrincipal SignedIn who) {
        made.stop(key, job, who);
    }

    /** A change, and what taking it back would do now. */
    @GetMapping("/changes/{id}")
    MadeChangesService.UndoPreview changeToUndo(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return made.change(id, who);
    }

    /** Takes a change back, as a job; what was written since stays as it is. */
    @PostMapping("/changes/{id}/undo")
    @ResponseStatus(HttpStatus.ACCEPTED)
    ManyChangesService.Begun undoChange(
            @PathVariable long id, @Valid @RequestBody WantedUndo asked, @AuthenticationPrincipal SignedIn who) {
        return made.undo(id, asked.reason(), who);
    }
}
