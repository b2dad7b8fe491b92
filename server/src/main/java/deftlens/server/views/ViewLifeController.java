package deftlens.server.views;

import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.registers.BandJson;
import deftlens.server.registers.FieldTypes;
import deftlens.server.views.ViewsService.Share;
import deftlens.server.views.ViewsService.View;
import deftlens.server.views.ViewsService.Who;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.http.ContentDisposition;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
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
import tools.jackson.databind.JsonNode;

/** The life of views beyond what they ask: who uses them, what is each reader's own, what changed, and care for many. */
@RestController
@RequestMapping("/api")
class ViewLifeController {

    private final ViewsService views;
    private final ViewUse use;
    private final ReadersOwn own;
    private final ViewVersions versions;
    private final EffectiveAccess access;
    private final Attention attention;
    private final BulkViewActions care;
    private final ViewFiles files;
    private final Presence presence;
    private final BandsInViews bands;
    private final CalculationsInViews calculations;
    private final FieldsInViews fields;
    private final PeopleService people;

    ViewLifeController(
            ViewsService views,
            ViewUse use,
            ReadersOwn own,
            ViewVersions versions,
            EffectiveAccess access,
            Attention attention,
            BulkViewActions care,
            ViewFiles files,
            Presence presence,
            BandsInViews bands,
            CalculationsInViews calculations,
            FieldsInViews fields,
            PeopleService people) {
        this.views = views;
        this.use = use;
        this.own = own;
        this.versions = versions;
        this.access = access;
        this.attention = attention;
        this.care = care;
        this.files = files;
        this.presence = presence;
        this.bands = bands;
        this.calculations = calculations;
        this.fields = fields;
        this.people = people;
    }

    // ------------------------------------------------------------------ use

    /** How the views open to the reader are used, and what the nightly check found about them. */
    @GetMapping("/view-use")
    List<ViewUse.Use> use(@AuthenticationPrincipal SignedIn who) {
        return use.all(who);
    }

    /** Notes that the reader opened a view. */
    @ReadsOnly
    @PostMapping("/views/{id}/opened")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void opened(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        use.opened(id, who);
    }

    /** Who leans on a view, and where; what to know before it is changed. */
    @GetMapping("/views/{id}/reliance")
    ViewUse.Reliance reliance(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return use.reliance(id, who);
    }

    /** Looks at all views now instead of at night. */
    @PostMapping("/view-attention")
    Attention.Run look(@AuthenticationPrincipal SignedIn who) {
        return attention.runFor(who);
    }

    /**
     * A page on which a view is open.
     *
     * @param page a name that the page gave itself
     * @param changing whether there are changes on it that are not kept
     * @param opened whether the reader opened the view just now, which is noted as a use of it
     */
    record OpenPage(@NotNull @Size(min = 8, max = 64) String page, boolean changing, Optional<Boolean> opened) {}

    /** Somebody else who has the view open. */
    record Other(Who who, boolean changing) {}

    /** Who else has the view open, and which version it has now. */
    record Together(List<Other> others, int version, Who changedBy, Instant changedAt) {}

    /** Says that a page is open on a view; asked every few seconds. */
    @ReadsOnly
    @PutMapping("/views/{id}/presence")
    Together present(@PathVariable long id, @Valid @RequestBody OpenPage page, @AuthenticationPrincipal SignedIn who) {
        View view = views.get(id, who);
        if (page.opened().orElse(false)) {
            use.opened(id, who);
        }
        return new Together(
                presence.open(id, who, page.page(), page.changing()).stream()
                        .map(p -> new Other(who(p.person()), p.changing()))
                        .toList(),
                view.version(),
                view.changedBy(),
                view.changedAt());
    }

    /** Says that a page is left. */
    @ReadsOnly
    @DeleteMapping("/views/{id}/presence/{page}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void leave(@PathVariable long id, @PathVariable String page, @AuthenticationPrincipal SignedIn who) {
        presence.leave(who, page);
    }

    private Who who(long id) {
        PeopleService.Profile person = people.profile(id);
        return new Who(person.id(), person.name(), person.fullName());
    }

    // ------------------------------------------------------------------ the reader's own

    /** What the reader has of their own about a view. */
    @GetMapping("/views/{id}/own")
    ReadersOwn.Own own(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return own.of(id, who);
    }

    /** Keeps the reader's refinement of a view. */
    @PutMapping("/views/{id}/own")
    ReadersOwn.Own refine(
            @PathVariable long id,
            @Valid @RequestBody ReadersOwn.Refine wanted,
            @AuthenticationPrincipal SignedIn who) {
        return own.refine(id, who, wanted);
    }

    /** Takes the reader's refinement away. */
    @DeleteMapping("/views/{id}/own")
    ReadersOwn.Own unrefine(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return own.unrefine(id, who);
    }

    /** Remembers the reader's answers to a view's blanks; an empty one is forgotten. */
    @PutMapping("/views/{id}/own/answers")
    ReadersOwn.Own answer(
            @PathVariable long id, @RequestBody Map<String, String> answers, @AuthenticationPrincipal SignedIn who) {
        return own.answer(id, who, answers);
    }

    /** Remembers what the reader has changed on a view and not saved, to be offered when they come back. */
    @PutMapping("/views/{id}/own/unsaved")
    ReadersOwn.Own remember(
            @PathVariable long id,
            @Valid @RequestBody ReadersOwn.Changes changes,
            @AuthenticationPrincipal SignedIn who) {
        return own.remember(id, who, changes);
    }

    /** Forgets the reader's unsaved changes. */
    @DeleteMapping("/views/{id}/own/unsaved")
    ReadersOwn.Own forget(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return own.forget(id, who);
    }

    // ------------------------------------------------------------------ versions

    /**
     * Another statement beside the one that is kept.
     *
     * @param register the key of the view's register with the fields that are added beside that statement; as the view adds
     *     them when absent
     */
    record Beside(@NotNull String statement, Optional<String> register, Optional<Map<String, String>> answers) {}

    /** The version that a view is put back from. */
    record PutBack(@NotNull Integer version) {}

    /** What enters and leaves when the view asks this instead. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/views/{id}/difference")
    ViewVersions.Difference difference(
            @PathVariable long id, @Valid @RequestBody Beside beside, @AuthenticationPrincipal SignedIn who) {
        return versions.to(
                id, who, beside.statement(), beside.register(), beside.answers().orElse(Map.of()));
    }

    /** What entered and left between a step of the history and now. */
    @AsksRecords
    @GetMapping("/views/{id}/history/{step}/difference")
    ViewVersions.Difference since(
            @PathVariable long id, @PathVariable long step, @AuthenticationPrincipal SignedIn who) {
        return versions.since(id, who, step);
    }

    /** Puts back what the view was after a step of its history. */
    @PostMapping("/views/{id}/history/{step}/restore")
    View putBack(
            @PathVariable long id,
            @PathVariable long step,
            @Valid @RequestBody PutBack from,
            @AuthenticationPrincipal SignedIn who) {
        return versions.putBack(id, who, from.version(), step);
    }

    // ------------------------------------------------------------------ who sees what

    /** What a person may do with a view, why, and how much of it they see. */
    @GetMapping("/views/{id}/access")
    EffectiveAccess.ViewAccess access(
            @PathVariable long id, @RequestParam long person, @AuthenticationPrincipal SignedIn who) {
        return access.of(id, person, who);
    }

    /** Whom a view would reach with these shares, and who of them would see less than all of its records. */
    @ReadsOnly
    @PostMapping("/views/{id}/audience")
    EffectiveAccess.Audience audience(
            @PathVariable long id, @RequestBody List<Share> shares, @AuthenticationPrincipal SignedIn who) {
        return access.audience(id, who, shares);
    }

    // ------------------------------------------------------------------ fields and bands

    /** What rests on a field of a register: views, access, values. To be looked at before it is removed. */
    @AsksRecords
    @GetMapping("/registers/{key}/fields/{field}/use")
    FieldsInViews.FieldUse field(
            @PathVariable String key, @PathVariable String field, @AuthenticationPrincipal SignedIn who) {
        return fields.use(key, field, who);
    }

    /** The views that could not be asked or shown as they are if a field were of another type. */
    @GetMapping("/registers/{key}/fields/{field}/type/views")
    List<FieldsInViews.UsingView> viewsWithoutFit(
            @PathVariable String key,
            @PathVariable String field,
            @RequestParam String type,
            @AuthenticationPrincipal SignedIn who) {
        return fields.withoutFit(key, field, FieldTypes.named(type), who);
    }

    /** The bands of some fields as they are to be. */
    record BandsWanted(@NotNull Map<String, List<BandJson>> fields) {}

    /** What a change of a register's bands would do to the views over it, and to who sees what. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/bands/review")
    BandsInViews.BandReview bands(
            @PathVariable String key, @Valid @RequestBody BandsWanted wanted, @AuthenticationPrincipal SignedIn who) {
        return bands.review(key, wanted.fields(), who);
    }

    /**
     * Calculations that fields are to have.
     *
     * @param calculations in the language, by the keys of the fields
     */
    record CalculationsWanted(
            @NotNull @Size(max = 200) Map<String, @NotNull @Size(max = 10_000) String> calculations) {}

    /** What would become of the views that rest on calculated fields if these were calculated so. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/calculations/review")
    List<ViewEffect> calculations(
            @PathVariable String key,
            @Valid @RequestBody CalculationsWanted wanted,
            @AuthenticationPrincipal SignedIn who) {
        return calculations.review(key, wanted.calculations(), who);
    }

    // ------------------------------------------------------------------ many at once

    /** Many views, and what is to be done with all of them. */
    record CareWanted(
            @NotNull List<BulkViewActions.Chosen> views,
            @NotNull BulkViewActions.Wanted wanted) {}

    /** Who takes over. */
    record Heir(@NotNull @AsText Long to) {}

    /** Does the same to many views; all or none. */
    @PostMapping("/views/care")
    BulkViewActions.Done care(@Valid @RequestBody CareWanted wanted, @AuthenticationPrincipal SignedIn who) {
        return care.care(who, wanted.views(), wanted.wanted());
    }

    /** Hands all views of somebody over to somebody else. */
    @PostMapping("/people/{id}/hand-over")
    BulkViewActions.Done handOver(
            @PathVariable long id, @Valid @RequestBody Heir heir, @AuthenticationPrincipal SignedIn who) {
        return care.handOverAll(who, id, heir.to());
    }

    /** Views as a file for another installation: these, or all that are open to the reader. */
    @GetMapping("/views/file")
    ResponseEntity<ViewFiles.ViewFile> file(
            @RequestParam(defaultValue = "") List<@NotNull(message = "has a blank where an id should be") Long> ids,
            @AuthenticationPrincipal SignedIn who) {
        return ResponseEntity.ok()
                .header(
                        HttpHeaders.CONTENT_DISPOSITION,
                        ContentDisposition.attachment()
                                .filename("views.json")
                                .build()
                                .toString())
                .body(files.write(who, ids));
    }

    /** A file of views that comes in. */
    record FileOfViews(@NotNull JsonNode file, @NotNull ViewFiles.IfThere ifThere, boolean write) {}

    /** Looks at a file of views, or brings it in. */
    @PostMapping("/views/file")
    ViewFiles.ViewFileReport bringIn(@Valid @RequestBody FileOfViews wanted, @AuthenticationPrincipal SignedIn who) {
        return files.read(who, wanted.file(), wanted.ifThere(), wanted.write());
    }
}
