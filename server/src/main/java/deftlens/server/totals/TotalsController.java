package deftlens.server.totals;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.core.condition.Comparison;
import deftlens.core.condition.Condition;
import deftlens.core.statement.Completion;
import deftlens.core.statement.Printer;
import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.ConditionJson;
import deftlens.server.question.Question;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Questions;
import deftlens.server.question.Shape;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import jakarta.validation.Valid;
import jakarta.validation.constraints.Max;
import jakarta.validation.constraints.Min;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** Totals: from many records to figures, and from each figure back to its records. */
@RestController
@RequestMapping("/api/registers/{key}/totals")
class TotalsController {

    private static final String NAME = Question.NAME_HEADER;
    private static final int LONGEST = 10_000;

    private final TotalsService totals;
    private final RegisterCatalogue registers;
    private final Questions questions;

    TotalsController(TotalsService totals, RegisterCatalogue registers, Questions questions) {
        this.totals = totals;
        this.registers = registers;
        this.questions = questions;
    }

    /**
     * How totals are made of records. A view's {@code shape} stands for all of it: its groups are the rows, its measures the figures.
     *
     * @param shape as a view keeps it, with {@code totals}; not beside the others
     * @param rows what the rows are, the outermost first, at most three levels; none for the line of all records alone
     * @param across what the columns are
     * @param measures the figures, at most 20; the number of records when absent
     * @param keep what the innermost rows satisfy to be shown: a statement over the names of the figures,
     *     {@code sum_of_cost > 1000 and number >= 3}. Records are left out by the question before anything is added up; rows by this
     *     afterwards.
     * @param order the name of the figure that rows are ordered by; {@code "-sum_of_cost"} is descending; as the rows are arranged
     *     when absent
     * @param empties whether periods, weekdays and hours without records are there; they are when absent
     * @param compare the earlier time whose figures stand beside: {@code before}, the window of the same length right before;
     *     {@code year}, the same window a year before. It is the window, with two ends, that the question gives to a date which every
     *     record satisfies; that of the register's main date where it gives several. Each figure is followed by that of the earlier time,
     *     by the difference and by the growth: {@code sum_of_cost}, {@code earlier_of_sum_of_cost}, {@code difference_of_sum_of_cost},
     *     {@code growth_of_sum_of_cost}
     * @param changes whether each figure that is a number is followed by its change against the column before,
     *     {@code change_of_sum_of_cost}
     * @param balances where balances of the register's own number begin: {@code beginning} with everything before the window that the
     *     question gives to the register's main date, {@code zero} with nothing. Five figures come first: {@code opening}, {@code in},
     *     {@code out}, {@code movement}, {@code closing}. Periods of that date are the innermost rows, or across
     * @param limit how many of the outermost rows are shown, the first ones in their order; 1 to 1,000, all when absent. The totals of the
     *     rows shown are of their records alone; periods without records are then no outermost rows
     */
    record TotalsForm(
            Optional<Shape> shape,
            Optional<List<Shape.Grouping>> rows,
            Optional<Shape.Grouping> across,
            Optional<List<TotalsPlan.FigureRequest>> measures,
            Optional<@Size(max = LONGEST) String> keep,
            Optional<String> order,
            Optional<Boolean> empties,
            Optional<Comparison.With> compare,
            Optional<Boolean> changes,
            Optional<Shape.Opening> balances,
            Optional<@Min(1) @Max(Shape.Totals.MAX_ROWS_SHOWN) Integer> limit) {

        private TotalsPlan plan(RegisterForReader described) {
            if (shape.isPresent()) {
                Shape checked = shape.get().checked(described);
                if (checked.totals().isEmpty()) {
                    throw Problem.unprocessable("no-totals", "This shape shows records, not totals.");
                }
                return TotalsPlan.of(checked, described);
            }
            return TotalsPlan.of(
                    described,
                    rows.orElse(List.of()),
                    across,
                    measures.orElseGet(
                            () -> balances.isPresent() ? List.of() : List.of(TotalsPlan.FigureRequest.NUMBER)),
                    keep,
                    order,
                    empties.orElse(true),
                    compare,
                    changes.orElse(false),
                    balances,
                    limit);
        }
    }

    /** A question whose records are put together. */
    record TotalsRequest(
            @JsonUnwrapped QuestionRequest question,
            @JsonUnwrapped TotalsForm form) {}

    /** Figures of a question's records for each row, for the rows above it, and for all of them; in columns where these are wanted. */
    @ReadsOnly
    @AsksRecords
    @PostMapping
    TotalsAnswer totals(
            @PathVariable String key,
            @Valid @RequestBody TotalsRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader described = registers.get(key, who);
        return totals.totals(
                questions.question(described, request.question(), who).named(name),
                request.form().plan(described));
    }

    /** A figure whose records are wanted. */
    record BehindRequest(
            @JsonUnwrapped QuestionRequest question,
            @JsonUnwrapped TotalsForm form,
            @NotNull TotalsService.TotalsPlace at) {}

    /**
     * The question that has exactly the records behind a figure.
     *
     * @param condition as a tree
     * @param statement the same in words
     */
    record FigureRecords(JsonNode condition, String statement) {}

    /** The question that has exactly the records behind a figure: that of the totals, and what the row and the column have in common. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/records")
    FigureRecords behind(
            @PathVariable String key,
            @Valid @RequestBody BehindRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        RegisterForReader described = registers.get(key, who);
        Question question =
                questions.question(described, request.question(), who).named(name);
        Condition condition = totals.behind(question, request.form().plan(described), request.at());
        return new FigureRecords(ConditionJson.write(condition), Printer.print(condition));
    }

    /** A statement over figures. */
    record KeepRequest(
            @JsonUnwrapped TotalsForm form,
            @NotNull @Size(max = LONGEST) String text) {}

    /** A statement over figures as it is printed. */
    record KeepAnswer(String statement) {}

    /** Reads a statement over the figures. */
    @ReadsOnly
    @PostMapping("/statement")
    KeepAnswer statement(
            @PathVariable String key, @Valid @RequestBody KeepRequest request, @AuthenticationPrincipal SignedIn who) {
        return new KeepAnswer(
                Printer.print(totals.keep(request.form().plan(registers.get(key, who)), request.text(), who)));
    }

    /**
     * A statement over figures that somebody writes.
     *
     * @param position the place in it, from 0
     */
    record StartedKeep(
            @JsonUnwrapped TotalsForm form,
            @NotNull @Size(max = LONGEST) String text,
            @Min(0) int position) {}

    /** What may stand at a place of a statement over the figures. */
    @ReadsOnly
    @PostMapping("/complete")
    Completion.Answer complete(
            @PathVariable String key, @Valid @RequestBody StartedKeep started, @AuthenticationPrincipal SignedIn who) {
        return new Completion(started.form().plan(registers.get(key, who)).asRegister(), questions.attributes())
                .at(started.text(), started.position());
    }
}
