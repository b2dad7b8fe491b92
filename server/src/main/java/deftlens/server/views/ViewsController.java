package deftlens.server.views;

import deftlens.server.checking.StatementReader;
import deftlens.server.files.FileForm;
import deftlens.server.files.ResultFiles;
import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.SignedIn;
import deftlens.server.question.Question;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Shape;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDescription;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.CountsService;
import deftlens.server.rows.RowsService;
import deftlens.server.statements.Definitions;
import deftlens.server.totals.TotalsAnswer;
import deftlens.server.totals.TotalsService;
import io.swagger.v3.oas.annotations.Parameter;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.io.IOException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PatchMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** Views: kept, found, changed, shared, read. */
@RestController
@RequestMapping("/api/views")
class ViewsController {

    private static final int USUAL_ROWS = 100;

    private final ViewsService views;
    private final RowsService rows;
    private final CountsService counts;
    private final TotalsService totals;
    private final ResultFiles files;
    private final ReadersOwn own;
    private final RegisterCatalogue registers;
    private final Definitions definitions;
    private final StatementReader statements;

    ViewsController(
            ViewsService views,
            RowsService rows,
            CountsService counts,
            TotalsService totals,
            ResultFiles files,
            ReadersOwn own,
            RegisterCatalogue registers,
            Definitions definitions,
            StatementReader statements) {
        this.views = views;
        this.rows = rows;
        this.counts = counts;
        this.totals = totals;
        this.files = files;
        this.own = own;
        this.registers = registers;
        this.definitions = definitions;
        this.statements = statements;
    }

    /**
     * A new view.
     *
     * @param register its register, by the key that it has with the fields that the view adds
     */
    record Keep(
            @NotNull String register,
            @NotNull String name,
            Optional<String> purpose,
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<List<String>> columns,
            Optional<List<String>> order,
            Optional<String> zone,
            Optional<Shape> shape,
            Optional<List<String>> labels,
            Optional<List<Integer>> locked) {}

    /**
     * A change, made from a version; absent parts stay.
     *
     * @param register the view's register, by the key that it has with the fields that the view adds from now on
     */
    record Change(
            @NotNull Integer version,
            Optional<String> register,
            Optional<String> name,
            Optional<String> purpose,
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<List<String>> columns,
            Optional<List<String>> order,
            Optional<String> zone,
            Optional<Shape> shape,
            Optional<List<String>> labels,
            Optional<List<Integer>> locked) {}

    record Sharing(@NotNull Integer version, @NotNull List<ViewsService.Share> shares) {}

    /** The views that are there for one, or those that can be restored. */
    @GetMapping
    List<ViewsService.View> all(
            @RequestParam(defaultValue = "false") boolean deleted, @AuthenticationPrincipal SignedIn who) {
        return deleted ? views.deleted(who) : views.openTo(who);
    }

    /** Saves a view. */
    @PostMapping
    @ResponseStatus(HttpStatus.CREATED)
    ViewsService.View keep(@Valid @RequestBody Keep keep, @AuthenticationPrincipal SignedIn who) {
        return views.keep(
                who,
                keep.register(),
                new ViewsService.Draft(
                        Optional.empty(),
                        Optional.of(keep.name()),
                        keep.purpose(),
                        keep.statement(),
                        keep.condition(),
                        keep.columns(),
                        keep.order(),
                        keep.zone(),
                        keep.shape(),
                        keep.labels(),
                        keep.locked()));
    }

    /**
     * What views ask, as people read it.
     *
     * @param views at most 200 of the views that are open to the reader; others are left out
     */
    @GetMapping("/words")
    List<ViewsService.ViewWords> words(
            @RequestParam @Size(max = 200) List<@NotNull(message = "has a blank where an id should be") Long> views,
            @AuthenticationPrincipal SignedIn who) {
        return this.views.words(views, who);
    }

    /** One view. */
    @GetMapping("/{id}")
    ViewsService.View one(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return views.get(id, who);
    }

    /**
     * What the page of a view begins with.
     *
     * @param own what the reader has of their own about it
     * @param register its register
     * @param definitions what the answers of the register rest on for the reader, as {@code X-Definitions} says it
     * @param read the view's statement as {@code POST /api/registers/{key}/statement} reads it now, with {@code ifSmall} and no
     *     answers; absent where it cannot be read, and of registers whose records are not counted as they are written
     */
    record ViewPage(
            ViewsService.View view,
            ReadersOwn.Own own,
            RegisterDescription register,
            String definitions,
            Optional<StatementReader.Read> read) {}

    /** A view with all that its page begins with, in one answer. */
    @GetMapping("/{id}/page")
    ViewPage page(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        ViewsService.View view = views.get(id, who);
        RegisterForReader register = registers.get(view.reads(), who);
        return new ViewPage(
                view,
                own.of(id, who),
                RegisterDescription.of(register),
                definitions
                        .of(view.reads(), who)
                        .map(Definitions.Stamp::toString)
                        .orElse(""),
                read(view, register, who));
    }

    private Optional<StatementReader.Read> read(ViewsService.View view, RegisterForReader register, SignedIn who) {
        // A page is on no lane: it looks at no records whose number is not known at once.
        if (!register.can(Origin.Capability.COUNTS)) {
            return Optional.empty();
        }
        try {
            return Optional.of(statements.read(
                    register,
                    new QuestionRequest(
                            Optional.of(view.statement()),
                            Optional.empty(),
                            Optional.empty(),
                            view.zone(),
                            Optional.empty(),
                            Optional.empty()),
                    new StatementReader.Kept(Optional.of(view.name()), Optional.of(view.purpose())),
                    StatementReader.Look.IF_SMALL,
                    who,
                    Optional.empty()));
        } catch (RuntimeException unreadable) {
            // The page opens without it, asks for it by itself, and is told what is wrong.
            return Optional.empty();
        }
    }

    /** Changes a view, as it was at the version sent; what is absent stays as it is. */
    @PatchMapping("/{id}")
    ViewsService.View change(
            @PathVariable long id, @Valid @RequestBody Change change, @AuthenticationPrincipal SignedIn who) {
        return views.change(
                id,
                who,
                change.version(),
                new ViewsService.Draft(
                        change.register(),
                        change.name(),
                        change.purpose(),
                        change.statement(),
                        change.condition(),
                        change.columns(),
                        change.order(),
                        change.zone(),
                        change.shape(),
                        change.labels(),
                        change.locked()));
    }

    /** Deletes a view; it can be restored for thirty days. */
    @DeleteMapping("/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void delete(@PathVariable long id, @RequestParam int version, @AuthenticationPrincipal SignedIn who) {
        views.delete(id, who, version);
    }

    /** Brings a deleted view back. */
    @PostMapping("/{id}/restore")
    ViewsService.View restore(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return views.restore(id, who);
    }

    /** Says who has a view, and who may change it. */
    @PutMapping("/{id}/shares")
    ViewsService.View share(
            @PathVariable long id, @Valid @RequestBody Sharing sharing, @AuthenticationPrincipal SignedIn who) {
        return views.share(id, who, sharing.version(), sharing.shares());
    }

    /** The steps of a view, the latest first. */
    @GetMapping("/{id}/history")
    List<ViewsService.Step> history(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return views.history(id, who);
    }

    /** The records of a view, a page at a time, as its reader has it. */
    @AsksRecords
    @GetMapping("/{id}/rows")
    RowsService.ResultPage rows(
            @PathVariable long id,
            @RequestParam Optional<String> asOf,
            @RequestParam Optional<String> recordsAt,
            @RequestParam Optional<String> readerZone,
            @RequestParam Optional<Boolean> asShared,
            @Parameter(hidden = true) @RequestParam Map<String, String> all,
            @RequestParam Optional<String> after,
            @RequestParam Optional<Integer> limit,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = "X-Question", required = false) Optional<String> name) {
        ViewsService.View view = views.get(id, who);
        Question question =
                ViewsService.shown(view, views.question(id, who, put(id, who, asOf, recordsAt, readerZone, all)));
        return rows.rows(question.named(name), after, limit.orElse(USUAL_ROWS));
    }

    /** How many records a view has, as its reader has it. */
    @AsksRecords
    @GetMapping("/{id}/count")
    CountsService.Count count(
            @PathVariable long id,
            @RequestParam Optional<String> asOf,
            @RequestParam Optional<String> recordsAt,
            @RequestParam Optional<String> readerZone,
            @RequestParam Optional<Boolean> asShared,
            @Parameter(hidden = true) @RequestParam Map<String, String> all,
            @RequestParam(defaultValue = "false") boolean exact,
            @AuthenticationPrincipal SignedIn who) {
        return counts.count(views.question(id, who, put(id, who, asOf, recordsAt, readerZone, all)), exact);
    }

    /** A figure of a view's totals, as its reader has them: on the line under the rows that are shown. */
    @AsksRecords
    @GetMapping("/{id}/figure")
    TotalsAnswer.TotalsTold figure(
            @PathVariable long id,
            @RequestParam String name,
            @RequestParam Optional<String> asOf,
            @RequestParam Optional<String> recordsAt,
            @RequestParam Optional<String> readerZone,
            @RequestParam Optional<Boolean> asShared,
            @Parameter(hidden = true) @RequestParam Map<String, String> all,
            @AuthenticationPrincipal SignedIn who) {
        ViewsService.View view = views.get(id, who);
        return totals.told(
                ViewsService.shown(view, views.question(id, who, put(id, who, asOf, recordsAt, readerZone, all))),
                name);
    }

    /** The records of a view as a file: CSV (RFC 4180, UTF-8), {@code json}, an array of records, or {@code jsonl}, one on each line. */
    @GetMapping("/{id}/export.{format}")
    void export(
            @PathVariable long id,
            @PathVariable String format,
            @RequestParam Optional<String> asOf,
            @RequestParam Optional<String> recordsAt,
            @RequestParam Optional<String> readerZone,
            @RequestParam Optional<Boolean> asShared,
            @RequestParam Optional<String> times,
            @RequestParam Optional<Boolean> bom,
            @Parameter(hidden = true) @RequestParam Map<String, String> all,
            @AuthenticationPrincipal SignedIn who,
            HttpServletRequest request,
            HttpServletResponse response)
            throws IOException {
        ViewsService.View view = views.get(id, who);
        files.send(
                request,
                response,
                view.name(),
                ViewsService.shown(view, views.question(id, who, put(id, who, asOf, recordsAt, readerZone, all))),
                files.format(Optional.of(format)),
                FileForm.of(times, bom));
    }

    /** As the reader has it: with the answers they gave before, and refined as they refined it, unless it is asked as shared. */
    private ViewsService.ViewParameters put(
            long id,
            SignedIn who,
            Optional<String> asOf,
            Optional<String> recordsAt,
            Optional<String> readerZone,
            Map<String, String> parameters) {
        Map<String, String> answers = new HashMap<>();
        boolean asShared = Boolean.parseBoolean(parameters.get("asShared"));
        Optional<JsonNode> refined = Optional.empty();
        if (!asShared) {
            ReadersOwn.Own theirs = own.of(id, who);
            answers.putAll(theirs.answers());
            refined = theirs.refined().map(ReadersOwn.Refined::condition);
        }
        answers.putAll(QuestionRequest.answers(parameters));
        return new ViewsService.ViewParameters(asOf, recordsAt, readerZone, answers, refined);
    }
}
