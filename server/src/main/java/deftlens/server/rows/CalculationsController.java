package deftlens.server.rows;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.statement.CalculationCompletion;
import deftlens.core.statement.Completion;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.ResultRow;
import deftlens.server.question.Shape;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import jakarta.validation.Valid;
import jakarta.validation.constraints.Min;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Tries a calculation before it becomes a field. */
@RestController
@RequestMapping("/api/registers/{key}/calculations")
class CalculationsController {

    private static final int LONGEST = 10_000;
    private static final int SAMPLES = 5;
    private static final String KEY = "calculation_on_trial";

    private final RegisterCatalogue registers;
    private final Questions questions;
    private final RowsService rows;

    CalculationsController(RegisterCatalogue registers, Questions questions, RowsService rows) {
        this.registers = registers;
        this.questions = questions;
        this.rows = rows;
    }

    /**
     * A calculation as it was typed.
     *
     * @param field the key of the field that it is to be the calculation of, where there is one: it cannot name that
     */
    record CalculationTyped(@NotNull @Size(max = LONGEST) String calculation, Optional<String> field) {}

    /**
     * A calculation that can be read.
     *
     * @param calculation as it is kept
     * @param type what comes out
     * @param changes whether the value changes as time goes by, while the record stays as it is
     * @param fields the keys of the fields that it names and that have values of their own
     */
    record CalculationRead(String calculation, String type, boolean changes, List<String> fields) {}

    /**
     * A calculation that can be read, and what comes out for some records.
     *
     * @param calculation as it is kept
     * @param type what comes out
     * @param changes whether the value changes as time goes by, while the record stays as it is
     * @param fields the keys of the fields that it names and that have values of their own
     * @param column under which key the samples have what comes out
     * @param samples the first records in the order at rest that have a value, with the field that names them and those that the
     *     calculation names
     * @param empty whether no record has a value; the samples are the first of all then
     */
    record CalculationTried(
            String calculation,
            String type,
            boolean changes,
            List<String> fields,
            String column,
            List<ResultRow> samples,
            boolean empty) {}

    /**
     * A calculation under way.
     *
     * @param position where it goes on, in UTF-16 units
     * @param field the key of the field that it is to be the calculation of, where there is one
     */
    record CalculationStarted(
            @NotNull @Size(max = LONGEST) String text,
            @Min(0) int position,
            Optional<String> field) {}

    /** What may stand at a place of a calculation. */
    @PostMapping("/complete")
    @ReadsOnly
    Completion.Answer complete(
            @PathVariable String key,
            @Valid @RequestBody CalculationStarted started,
            @AuthenticationPrincipal SignedIn who) {
        return new CalculationCompletion(over(registers.get(key, who), started.field()))
                .at(started.text(), started.position());
    }

    /** The fields that a calculation can name. */
    private static Register over(RegisterForReader described, Optional<String> field) {
        return field.map(described::without).orElse(described.register());
    }

    /** Reads a calculation as far as to what comes out, without any record. */
    @PostMapping("/read")
    @ReadsOnly
    CalculationRead read(
            @PathVariable String key,
            @Valid @RequestBody CalculationTyped typed,
            @AuthenticationPrincipal SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        return read(described, expression(described, typed));
    }

    private static Expression expression(RegisterForReader described, CalculationTyped typed) {
        return new Reader(over(described, typed.field()), Set.of()).calculation(typed.calculation());
    }

    private static CalculationRead read(RegisterForReader described, Expression expression) {
        return new CalculationRead(
                Printer.print(expression),
                expression.type().label(),
                expression.isRolling(),
                expression.fields().stream()
                        .filter(f -> described
                                .register()
                                .field(f)
                                .filter(one -> one.type().isStored())
                                .isPresent())
                        .toList());
    }

    /** Reads a calculation and works it out for some records, which it leaves as they are. */
    @PostMapping("/try")
    @AsksRecords
    @ReadsOnly
    CalculationTried tryOut(
            @PathVariable String key,
            @Valid @RequestBody CalculationTyped typed,
            @AuthenticationPrincipal SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        Expression expression = expression(described, typed);
        CalculationRead read = read(described, expression);
        Calculation calculation = Calculation.of(KEY, "Calculation on trial", expression);
        RegisterForReader tried = described.with(calculation, read.calculation());
        List<Field> columns = new ArrayList<>();
        columns.add(described.title());
        read.fields().forEach(f -> columns.add(described.register().field(f).orElseThrow()));
        columns.add(calculation.field());
        Question question = questions
                .everything(tried, who)
                .shown(described.defaultOrder(), columns.stream().distinct().toList(), Shape.USUAL);
        List<ResultRow> filled = rows.rows(
                        question.asking(new Condition.Criterion(KEY, new Test.Empty(), true)),
                        Optional.empty(),
                        SAMPLES)
                .rows();
        return new CalculationTried(
                read.calculation(),
                read.type(),
                read.changes(),
                read.fields(),
                KEY,
                filled.isEmpty()
                        ? rows.rows(question, Optional.empty(), SAMPLES).rows()
                        : filled,
                filled.isEmpty());
    }
}
