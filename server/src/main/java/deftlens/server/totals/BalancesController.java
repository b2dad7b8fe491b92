package deftlens.server.totals;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.statement.Reader;
import deftlens.core.statement.StatementError;
import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.GroupKey;
import deftlens.server.question.Question;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Questions;
import deftlens.server.question.Shape;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import jakarta.validation.Valid;
import jakarta.validation.constraints.Size;
import java.math.BigDecimal;
import java.util.List;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Balances of a register that declares a number which is added up over time: of accounts, of items on hand. */
@RestController
@RequestMapping("/api/registers/{key}/balances")
class BalancesController {

    private static final int LONGEST = 10_000;

    private final TotalsService totals;
    private final RegisterCatalogue registers;
    private final Questions questions;

    BalancesController(TotalsService totals, RegisterCatalogue registers, Questions questions) {
        this.totals = totals;
        this.registers = registers;
        this.questions = questions;
    }

    /**
     * Balances of a question's records.
     *
     * @param window a date phrase for the register's main date, {@code this quarter}; the question's own window when absent
     * @param by what the rows are, the outermost first, at most three; periods of the main date last
     * @param opening what the opening is: everything before the window, which is usual, or nothing
     */
    record BalancesRequest(
            @JsonUnwrapped QuestionRequest question,
            Optional<@Size(max = LONGEST) String> window,
            Optional<List<Shape.Grouping>> by,
            Optional<Shape.Opening> opening) {}

    /**
     * A balance.
     *
     * @param keys what its records have in common, the outermost first; fewer than there are levels for a row above others
     * @param opening what was there before the window, or before the row's period; absent for records without a date
     * @param in what is above zero
     * @param out what is below zero
     * @param movement both together
     * @param closing what is there at the end
     */
    @JsonInclude(JsonInclude.Include.NON_ABSENT)
    record Balance(
            List<GroupKey> keys,
            Optional<BigDecimal> opening,
            BigDecimal in,
            BigDecimal out,
            BigDecimal movement,
            Optional<BigDecimal> closing) {

        private static Balance of(TotalsAnswer.TotalsRow row) {
            return new Balance(
                    row.keys(),
                    value(row, TotalFigure.Kind.OPENING),
                    value(row, TotalFigure.Kind.IN).orElseThrow(),
                    value(row, TotalFigure.Kind.OUT).orElseThrow(),
                    value(row, TotalFigure.Kind.MOVEMENT).orElseThrow(),
                    value(row, TotalFigure.Kind.CLOSING));
        }

        private static Optional<BigDecimal> value(TotalsAnswer.TotalsRow row, TotalFigure.Kind kind) {
            return row.values().get(TotalsPlan.nameOf(kind)).map(BigDecimal.class::cast);
        }
    }

    /**
     * Balances.
     *
     * @param total of all records
     * @param balance what they are of
     */
    record Balances(List<Balance> rows, Balance total, TotalsAnswer.TotalsBalance balance) {}

    /** Opening, in, out, movement and closing for each row, for the rows above it, and for all records. */
    @ReadsOnly
    @AsksRecords
    @PostMapping
    Balances balances(
            @PathVariable String key,
            @Valid @RequestBody BalancesRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = Question.NAME_HEADER, required = false) Optional<String> name) {
        RegisterForReader described = registers.get(key, who);
        Question question =
                questions.question(described, request.question(), who).named(name);
        TotalsAnswer answer = totals.totals(
                request.window().isEmpty()
                        ? question
                        : within(question, request.window().get()),
                TotalsPlan.balances(
                        described,
                        request.by().orElse(List.of()),
                        request.opening().orElse(Shape.Opening.BEGINNING)));
        return new Balances(
                answer.rows().stream().map(Balance::of).toList(),
                Balance.of(answer.total()),
                answer.balance().orElseThrow());
    }

    /** A question whose records lie in a window of the main date besides. */
    private static Question within(Question question, String window) {
        Field date = question.registerForReader()
                .main()
                .orElseThrow(() -> Problem.unprocessable(
                        "no-running", question.register().label() + " has no date that balances go by."));
        try {
            Condition in = Condition.Criterion.of(
                    date.key(), new Test.Dated(Test.DateRelation.IN, Reader.period(window.strip())));
            return question.asking(new Condition.All(List.of(question.condition(), in)).normal());
        } catch (StatementError e) {
            throw Problem.unprocessable("bad-window", "The window cannot be read: " + e.getMessage());
        }
    }
}
