package deftlens.server.rows;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.core.field.Measure;
import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.GroupLevels;
import deftlens.server.question.Orders;
import deftlens.server.question.Question;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Questions;
import deftlens.server.question.Shape;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.time.LocalDate;
import java.util.List;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Numbers about the records of a question: how many, in which groups, with which values, over which time, near which edges. */
@RestController
@RequestMapping("/api/registers/{key}")
class FiguresController {

    private static final String NAME = RowsController.NAME;
    private static final int DEFAULT_VALUES = 50;
    private static final int DEFAULT_GROUPS = 500;

    private final CountsService counts;
    private final ValuesService values;
    private final GroupsService groups;
    private final GroupLevels levels;
    private final EdgesService edges;
    private final HistogramService histogram;
    private final MarginService margin;
    private final RegisterCatalogue registers;
    private final Questions questions;

    FiguresController(
            CountsService counts,
            ValuesService values,
            GroupsService groups,
            GroupLevels levels,
            EdgesService edges,
            HistogramService histogram,
            MarginService margin,
            RegisterCatalogue registers,
            Questions questions) {
        this.counts = counts;
        this.values = values;
        this.groups = groups;
        this.levels = levels;
        this.edges = edges;
        this.histogram = histogram;
        this.margin = margin;
        this.registers = registers;
        this.questions = questions;
    }

    private Question question(String key, QuestionRequest request, SignedIn who, Optional<String> name) {
        return questions.question(registers.get(key, who), request, who).named(name);
    }

    /**
     * A question whose records are counted.
     *
     * @param exact whether they are counted to the end where there are more than 10,000
     */
    record CountRequest(@JsonUnwrapped QuestionRequest question, Optional<Boolean> exact) {}

    /** How many records a question has, and how many the reader sees in all. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/count")
    CountsService.Count count(
            @PathVariable String key,
            @RequestBody CountRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        return counts.count(
                question(key, request.question(), who, name), request.exact().orElse(false));
    }

    /**
     * A statement whose parts are counted.
     *
     * @param ifSmall whether only what takes no more than a moment is counted, and then with the number of the whole question
     */
    record PartsRequest(@JsonUnwrapped QuestionRequest question, Optional<Boolean> ifSmall) {}

    /** What each part of the condition does: alone, and where it stands. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/parts")
    MarginService.PartCounts parts(
            @PathVariable String key,
            @RequestBody PartsRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        Question question = question(key, request.question(), who, name);
        return request.ifSmall().orElse(false) ? margin.ofSmall(question) : margin.parts(question);
    }

    /**
     * A question to be read at two moments.
     *
     * @param against the other moment, as {@code asOf} is given; now when absent
     */
    record ComparisonRequest(@JsonUnwrapped QuestionRequest question, Optional<String> against) {}

    /** How many records one question has at one moment, at another, and at both. The records are those of now in each. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/comparison")
    CountsService.Comparison comparison(
            @PathVariable String key,
            @Valid @RequestBody ComparisonRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        return counts.comparison(
                question(key, request.question(), who, name),
                questions.reading(request.against(), request.question().zone()));
    }

    /**
     * The groups of one level.
     *
     * @param groups the levels of the grouping, the outermost first; none for all records together, without groups
     * @param inside the groups around the level that is wanted; its number says which one that is
     * @param measures the figures of each group, and of all of them; none when absent
     * @param order of the records, for a part of them
     * @param take the part of the records that is grouped
     * @param limit how many groups, 1 to 1,000; 500 when absent
     */
    record GroupsRequest(
            @JsonUnwrapped QuestionRequest question,
            @NotNull List<Shape.Grouping> groups,
            Optional<List<GroupLevels.InsideGroup>> inside,
            Optional<List<Shape.Figure>> measures,
            Optional<List<String>> order,
            Optional<Shape.Part> take,
            Optional<Integer> limit) {}

    /** How many of a question's records there are in each group of one level, and the figures asked for. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/groups")
    GroupsService.Level groups(
            @PathVariable String key,
            @Valid @RequestBody GroupsRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader register = registers.get(key, who);
        Shape shape = Shape.USUAL
                .with(request.groups(), request.measures().orElse(List.of()), request.take())
                .checked(register);
        List<GroupLevels.InsideGroup> inside = request.inside().orElse(List.of());
        List<Measure> measures = shape.measures(register);
        boolean whole = request.groups().isEmpty() && inside.isEmpty();
        if (!whole && inside.size() >= request.groups().size()) {
            throw Problem.unprocessable("no-level", "There is no further level of groups inside these.");
        }
        Question asked = questions.question(register, request.question(), who).named(name);
        Question question =
                asked.shown(Orders.order(register, request.order(), asked.condition()), asked.columns(), shape);
        return whole
                ? groups.whole(question, measures)
                : groups.groups(
                        levels.inside(question, inside),
                        request.groups().get(inside.size()),
                        measures,
                        request.limit().orElse(DEFAULT_GROUPS));
    }

    /**
     * The values of a field.
     *
     * @param beside whether what the question asks of this very field is left out, so that its other values are there too
     * @param search a piece of text that the values hold, for text and choices
     * @param limit how many values, 1 to 500; 50 when absent
     */
    record ValuesRequest(
            @JsonUnwrapped QuestionRequest question,
            @NotNull String field,
            Optional<Boolean> beside,
            Optional<@Size(max = 500) String> search,
            Optional<Integer> limit) {}

    /** The values of a field among a question's records, the most frequent first. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/values")
    ValuesService.Values values(
            @PathVariable String key,
            @Valid @RequestBody ValuesRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        Question question = question(key, request.question(), who, name);
        return values.values(
                question,
                Orders.column(question.registerForReader(), request.field()),
                request.beside().orElse(false),
                request.search(),
                request.limit().orElse(DEFAULT_VALUES));
    }

    /**
     * A number field whose values are laid out.
     *
     * @param beside whether what the question asks of this very field is left out
     */
    record DistributionRequest(
            @JsonUnwrapped QuestionRequest question,
            @NotNull String field,
            Optional<Boolean> beside) {}

    /** Records by a number field, in stretches of one width; for drawing bands over them. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/distribution")
    HistogramService.Distribution distribution(
            @PathVariable String key,
            @Valid @RequestBody DistributionRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        Question question = question(key, request.question(), who, name);
        return histogram.distribution(
                question,
                Orders.column(question.registerForReader(), request.field()),
                request.beside().orElse(false));
    }

    /** A question whose boundaries are looked at. */
    record EdgesRequest(@JsonUnwrapped QuestionRequest question) {}

    /** The records nearest to each boundary of each criterion, inside and outside, and those without a value. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/edges")
    List<EdgesService.Edge> edges(
            @PathVariable String key,
            @RequestBody EdgesRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        return edges.edges(question(key, request.question(), who, name));
    }

    /**
     * Records over time.
     *
     * @param field the date or moment; the register's main one when absent
     * @param step hour, day, week, month, quarter or year; fitting when absent
     * @param from the first day to show, all when absent
     * @param to the last day to show
     */
    record HistogramRequest(
            @JsonUnwrapped QuestionRequest question,
            Optional<String> field,
            Optional<String> step,
            Optional<LocalDate> from,
            Optional<LocalDate> to) {}

    /** Records over time under the criteria on other fields, and how many of them are in the whole question. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/histogram")
    HistogramService.OverTime histogram(
            @PathVariable String key,
            @RequestBody HistogramRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        return histogram.histogram(
                question(key, request.question(), who, name),
                request.field(),
                request.step(),
                request.from(),
                request.to());
    }

    /** A list that somebody pasted, to be looked for in a field. */
    record PastedRequest(
            @NotNull String field,
            @NotNull @Size(max = 1_000_000) String text) {}

    /** What a pasted list holds, what of it no record has, and the criterion that asks for it. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/pasted")
    ValuesService.PastedList pasted(
            @PathVariable String key,
            @Valid @RequestBody PastedRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader register = registers.get(key, who);
        return values.pasted(
                questions.everything(register, who).named(name),
                Orders.column(register, request.field()),
                request.text());
    }
}
