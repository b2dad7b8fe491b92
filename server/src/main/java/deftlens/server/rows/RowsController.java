package deftlens.server.rows;

import deftlens.core.condition.Condition;
import deftlens.core.field.Field;
import deftlens.core.match.Why;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.lanes.AsksRecords;
import deftlens.server.lanes.QuestionLanes;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.statements.Asking;
import deftlens.server.statements.Questions;
import io.swagger.v3.oas.annotations.Parameter;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.io.IOException;
import java.time.LocalDate;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
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
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * The records of a register under a question. A request may carry a header {@code X-Question} with a name of its own; a
 * DELETE of that name stops the question in the database.
 */
@RestController
@RequestMapping("/api")
class RowsController {

    private static final String NAME = "X-Question";
    private static final int USUAL_ROWS = 100;
    private static final int USUAL_VALUES = 50;
    private static final int USUAL_GROUPS = 500;

    private static final Asking NOTHING_ASKED = new CountAsked(
            Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty());

    private final RowsService rows;
    private final ValuesService values;
    private final GroupsService groups;
    private final EdgesService edges;
    private final HistogramService histogram;
    private final MarginService margin;
    private final Questions questions;
    private final CsvFile csv;
    private final QuestionLanes lanes;
    private final ObjectMapper json;

    RowsController(
            RowsService rows,
            ValuesService values,
            GroupsService groups,
            EdgesService edges,
            HistogramService histogram,
            MarginService margin,
            Questions questions,
            CsvFile csv,
            QuestionLanes lanes,
            ObjectMapper json) {
        this.rows = rows;
        this.values = values;
        this.groups = groups;
        this.json = json;
        this.edges = edges;
        this.histogram = histogram;
        this.margin = margin;
        this.questions = questions;
        this.csv = csv;
        this.lanes = lanes;
    }

    /**
     * A page: the question, its order ({@code "-due"} is descending, {@code "due:empties-first"} has records without a value
     * first), its columns, where to go on.
     *
     * @param shape of which the part, the marks and the running total count here
     * @param inside the groups whose records are wanted, the outermost first
     * @param compared the records that only one of two readings has
     */
    record PageAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<List<String>> order,
            Optional<List<String>> columns,
            Optional<Integer> limit,
            Optional<String> after,
            Optional<Map<String, String>> answers,
            Optional<Shape> shape,
            Optional<@Valid List<GroupsService.Inside>> inside,
            Optional<@Valid Compared> compared)
            implements Asking {}

    /**
     * The same question read at another moment, held against this one.
     *
     * @param against the other moment, as {@code asOf} is given; now when absent
     * @param side which records are wanted
     */
    record Compared(Optional<String> against, @NotNull RowsService.Side side) {}

    record CountAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Boolean> exact,
            Optional<Map<String, String>> answers)
            implements Asking {}

    /**
     * A statement whose parts are counted.
     *
     * @param ifSmall whether only what takes no more than a moment is counted, and then with the number of the whole question
     */
    record PartsAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Map<String, String>> answers,
            Optional<Boolean> ifSmall)
            implements Asking {}

    /** The record by its number, or by the exact text of one of its required text fields. */
    record WhyAsked(
            @NotNull @Size(max = 500) String record,
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Map<String, String>> answers)
            implements Asking {}

    /**
     * The verdict on one part.
     *
     * @param words the part in the language
     * @param value the record's value of the tested field
     * @param window what a date phrase stands for, in words
     */
    record Verdict(
            String path,
            String kind,
            String words,
            Why.Verdict verdict,
            Optional<String> field,
            Optional<Object> value,
            Optional<String> window,
            List<Verdict> parts) {}

    /** Why a record is in, or is not. */
    record WhyAnswer(RowsService.Row record, boolean matches, Verdict outcome) {}

    /**
     * The values of a field.
     *
     * @param beside whether what the question asks of this very field is left out, so that its other values are there too
     * @param search a piece of text that the values hold, for text and choices
     */
    record ValuesAsked(
            @NotNull String field,
            Optional<Boolean> beside,
            Optional<@Size(max = 500) String> search,
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Integer> limit,
            Optional<Map<String, String>> answers)
            implements Asking {}

    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/rows")
    RowsService.Rows rows(
            @PathVariable String key,
            @RequestBody PageAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader described = rows.register(key, who);
        RowsService.Question question = question(described, asked, who, name);
        if (asked.compared().isPresent()) {
            Compared compared = asked.compared().get();
            question = rows.onSide(question, questions.reading(compared.against(), asked.zone()), compared.side());
        }
        if (asked.inside().isPresent()) {
            question = groups.inside(question, asked.inside().get());
        }
        return rows.rows(
                question,
                rows.shown(
                        described,
                        Orders.order(described, asked.order(), question.condition()),
                        Orders.columns(described, asked.columns()),
                        asked.shape().orElse(Shape.USUAL)),
                asked.after(),
                asked.limit().orElse(USUAL_ROWS));
    }

    /**
     * The groups of one level.
     *
     * @param groups the levels of the grouping, the outermost first; none for all records together, without groups
     * @param inside the groups around the level that is wanted; its number says which one that is
     * @param totals the number and amount fields to add up
     * @param order of the records, for a part of them
     * @param take the part of the records that is grouped
     */
    record GroupsAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Map<String, String>> answers,
            @NotNull List<Shape.Grouping> groups,
            Optional<List<GroupsService.Inside>> inside,
            Optional<List<String>> totals,
            Optional<List<String>> order,
            Optional<Shape.Part> take,
            Optional<Integer> limit)
            implements Asking {}

    /** How many of a question's records there are in each group of one level, and what their numbers add up to. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/groups")
    GroupsService.Level groups(
            @PathVariable String key,
            @Valid @RequestBody GroupsAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader described = rows.register(key, who);
        Shape shape = new Shape(
                        Map.of(),
                        Optional.empty(),
                        Optional.empty(),
                        asked.groups(),
                        asked.totals().orElse(List.of()),
                        asked.take(),
                        Optional.empty(),
                        Optional.empty())
                .checked(described);
        List<GroupsService.Inside> inside = asked.inside().orElse(List.of());
        List<Field> totals = Orders.columns(described, Optional.of(shape.totals()));
        if (asked.groups().isEmpty() && inside.isEmpty()) {
            RowsService.Question question = question(described, asked, who, name);
            return groups.whole(
                    question, totals, Orders.order(described, asked.order(), question.condition()), shape.taken());
        }
        if (inside.size() >= asked.groups().size()) {
            throw Problem.unprocessable("no-level", "There is no further level of groups inside these.");
        }
        RowsService.Question question = question(described, asked, who, name);
        return groups.groups(
                groups.inside(question, inside),
                asked.groups().get(inside.size()),
                totals,
                Orders.order(described, asked.order(), question.condition()),
                shape.taken(),
                asked.limit().orElse(USUAL_GROUPS));
    }

    /**
     * A question to be read at two moments.
     *
     * @param against the other moment, as {@code asOf} is given; now when absent
     */
    record ComparisonAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Map<String, String>> answers,
            Optional<String> against)
            implements Asking {}

    /** How many records one question has at one moment, at another, and at both. The records are those of now in each. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/comparison")
    RowsService.Comparison comparison(
            @PathVariable String key,
            @Valid @RequestBody ComparisonAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader described = rows.register(key, who);
        return rows.comparison(question(described, asked, who, name), questions.reading(asked.against(), asked.zone()));
    }

    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/count")
    RowsService.Count count(
            @PathVariable String key,
            @RequestBody CountAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader described = rows.register(key, who);
        return rows.count(question(described, asked, who, name), asked.exact().orElse(false));
    }

    /** What each part of the condition does: alone, and where it stands. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/parts")
    RowsService.PartCounts parts(
            @PathVariable String key,
            @RequestBody PartsAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RowsService.Question question = question(rows.register(key, who), asked, who, name);
        return asked.ifSmall().orElse(false) ? margin.ofSmall(question) : margin.parts(question);
    }

    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/values")
    ValuesService.Values values(
            @PathVariable String key,
            @Valid @RequestBody ValuesAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader described = rows.register(key, who);
        return values.values(
                question(described, asked, who, name),
                Orders.column(described, asked.field()),
                asked.beside().orElse(false),
                asked.search(),
                asked.limit().orElse(USUAL_VALUES));
    }

    record EdgesAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<Map<String, String>> answers)
            implements Asking {}

    /** The records nearest to each boundary of each criterion, inside and outside, and those without a value. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/edges")
    List<EdgesService.Edge> edges(
            @PathVariable String key,
            @RequestBody EdgesAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        return edges.edges(question(rows.register(key, who), asked, who, name));
    }

    /**
     * Records over time.
     *
     * @param field the date or moment; the register's main one when absent
     * @param step hour, day, week, month, quarter or year; fitting when absent
     * @param from the first day to show, all when absent
     * @param to the last day to show
     */
    record HistogramAsked(
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<String> asOf,
            Optional<String> zone,
            Optional<String> field,
            Optional<String> step,
            Optional<LocalDate> from,
            Optional<LocalDate> to,
            Optional<Map<String, String>> answers)
            implements Asking {}

    /** Records over time under the criteria on other fields, and how many of them are in the whole question. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/histogram")
    HistogramService.OverTime histogram(
            @PathVariable String key,
            @RequestBody HistogramAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        return histogram.histogram(
                question(rows.register(key, who), asked, who, name),
                asked.field(),
                asked.step(),
                asked.from(),
                asked.to());
    }

    /** Records by a number field, in stretches of one width; for drawing bands over them. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/distribution")
    HistogramService.Distribution distribution(
            @PathVariable String key,
            @Valid @RequestBody ValuesAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader described = rows.register(key, who);
        return histogram.distribution(
                question(described, asked, who, name),
                Orders.column(described, asked.field()),
                asked.beside().orElse(false));
    }

    /** A list that somebody pasted, to be looked for in a field. */
    record PastedAsked(
            @NotNull String field,
            @NotNull @Size(max = 1_000_000) String text) {}

    /** What a pasted list holds, what of it no record has, and the criterion that asks for it. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/pasted")
    ValuesService.PastedList pasted(
            @PathVariable String key,
            @Valid @RequestBody PastedAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader described = rows.register(key, who);
        return values.pasted(
                question(described, NOTHING_ASKED, who, name), Orders.column(described, asked.field()), asked.text());
    }

    /** Each part's verdict on one record, whether or not it matches. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/registers/{key}/why")
    WhyAnswer why(
            @PathVariable String key,
            @Valid @RequestBody WhyAsked asked,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RowsService.Question question = question(rows.register(key, who), asked, who, name);
        RowsService.Reasons reasons = rows.why(question, asked.record());
        return new WhyAnswer(
                reasons.record(),
                reasons.outcome().verdict() != Why.Verdict.OUT,
                verdict(reasons.outcome(), reasons.record(), question));
    }

    private static Verdict verdict(Why.Outcome outcome, RowsService.Row record, RowsService.Question question) {
        Optional<Condition.Criterion> criterion =
                outcome.part() instanceof Condition.Criterion c ? Optional.of(c) : Optional.empty();
        return new Verdict(
                outcome.path(),
                switch (outcome.part()) {
                    case Condition.All p -> "all";
                    case Condition.Any p -> "any";
                    case Condition.None p -> "none";
                    case Condition.Off p -> "off";
                    case Condition.Criterion p -> "criterion";
                },
                Printer.print(outcome.part()),
                outcome.verdict(),
                criterion.map(Condition.Criterion::field),
                criterion.map(c -> record.values().get(c.field())),
                criterion
                        .flatMap(c -> Wording.stands(c, question.described().register(), question.reading()))
                        .map(Wording.Stands::words),
                outcome.parts().stream()
                        .map(part -> verdict(part, record, question))
                        .toList());
    }

    @AsksRecords
    @GetMapping("/registers/{key}/records/{id}")
    RowsService.Row record(@PathVariable String key, @PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        RegisterForReader described = rows.register(key, who);
        return rows.record(question(described, NOTHING_ASKED, who, Optional.empty()), id);
    }

    /**
     * The result as a file; {@code order} and {@code columns} are lists with commas, {@code shape} is JSON, of which the groups,
     * the part and the heads of columns count here. {@code times} is {@code local}, by the clock of the question's zone, which
     * stands in the head, or {@code offset}, with the offset in each cell; {@code bom} asks for a byte order mark.
     */
    @GetMapping(path = "/registers/{key}/export.csv", produces = "text/csv")
    void export(
            @PathVariable String key,
            @RequestParam Optional<String> statement,
            @RequestParam Optional<String> asOf,
            @RequestParam Optional<String> zone,
            @RequestParam Optional<String> order,
            @RequestParam Optional<String> columns,
            @RequestParam Optional<String> shape,
            @RequestParam Optional<String> name,
            @RequestParam Optional<String> times,
            @RequestParam Optional<Boolean> bom,
            @Parameter(hidden = true) @RequestParam Map<String, String> all,
            @AuthenticationPrincipal SignedIn who,
            HttpServletRequest request,
            HttpServletResponse response)
            throws IOException {
        RegisterForReader described = rows.register(key, who);
        RowsService.Question question = question(
                described,
                new CountAsked(
                        statement, Optional.empty(), asOf, zone, Optional.empty(), Optional.of(Asking.answers(all))),
                who,
                Optional.empty());
        csv.send(
                request,
                response,
                name.orElse(described.register().label()),
                question,
                Orders.order(described, order.map(RowsController::list), question.condition()),
                Orders.columns(described, columns.map(RowsController::list)),
                shape.map(this::shape).orElse(Shape.USUAL).checked(described),
                CsvFile.Form.of(times, bom));
    }

    private Shape shape(String text) {
        try {
            return json.readValue(text, Shape.class);
        } catch (JacksonException e) {
            throw Problem.badRequest("bad-shape", "“shape” is not the JSON of a shape.");
        }
    }

    @ReadsOnly
    @DeleteMapping("/questions/{name}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void stop(@PathVariable String name, @AuthenticationPrincipal SignedIn who) {
        lanes.stop(who, name);
    }

    /**
     * How far a question is that was asked under a name: tried, waiting (with how many slow questions are before it) or
     * running. 404 once it is answered.
     */
    @GetMapping("/questions/{name}")
    QuestionLanes.Progress progress(@PathVariable String name, @AuthenticationPrincipal SignedIn who) {
        return lanes.progress(who, name).orElseThrow(() -> Problem.notFound("This question"));
    }

    private RowsService.Question question(RegisterForReader described, Asking asked, SignedIn who, Optional<String> name) {
        return new RowsService.Question(
                described,
                questions.condition(described.register(), asked),
                questions.reading(asked.asOf(), asked.zone()),
                who,
                name);
    }

    private static List<String> list(String text) {
        return Arrays.stream(text.split(",")).filter(s -> !s.isBlank()).toList();
    }
}
