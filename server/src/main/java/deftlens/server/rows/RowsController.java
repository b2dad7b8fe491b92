package deftlens.server.rows;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.core.condition.Condition;
import deftlens.core.field.Register;
import deftlens.core.match.Why;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.GroupLevels;
import deftlens.server.question.PresentationRequest;
import deftlens.server.question.Question;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Questions;
import deftlens.server.question.ResultRow;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/**
 * The records of a register under a question. A request may carry a header {@code X-Question} with a name of its own; a
 * DELETE of {@code /api/questions/NAME} stops the question in the database.
 */
@RestController
@RequestMapping("/api/registers/{key}")
class RowsController {

    /** Carries the name of a question. */
    static final String NAME = Question.NAME_HEADER;

    private static final int DEFAULT_ROWS = 100;

    private final RowsService rows;
    private final CountsService counts;
    private final WhyService reasons;
    private final GroupLevels levels;
    private final RegisterCatalogue registers;
    private final Questions questions;

    RowsController(
            RowsService rows,
            CountsService counts,
            WhyService reasons,
            GroupLevels levels,
            RegisterCatalogue registers,
            Questions questions) {
        this.rows = rows;
        this.counts = counts;
        this.reasons = reasons;
        this.levels = levels;
        this.registers = registers;
        this.questions = questions;
    }

    /**
     * A page of records.
     *
     * @param limit how many records, 1 to 1,000; 100 when absent
     * @param after where the page before it ended, as it said with {@code next}
     * @param inside the groups whose records are wanted, the outermost first
     * @param compared the records that only one of two readings has
     */
    record PageRequest(
            @JsonUnwrapped QuestionRequest question,
            @JsonUnwrapped PresentationRequest presentation,
            Optional<Integer> limit,
            Optional<String> after,
            Optional<@Valid List<GroupLevels.InsideGroup>> inside,
            Optional<@Valid Compared> compared) {}

    /**
     * The same question read at another moment, held against this one.
     *
     * @param against the other moment, as {@code asOf} is given; now when absent
     * @param side which records are wanted
     */
    record Compared(Optional<String> against, @NotNull CountsService.Side side) {}

    /** The records of a question, a page at a time. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/rows")
    RowsService.ResultPage rows(
            @PathVariable String key,
            @Valid @RequestBody PageRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        Question question = questions
                .question(registers.get(key, who), request.question(), request.presentation(), who)
                .named(name);
        if (request.compared().isPresent()) {
            Compared compared = request.compared().get();
            question = counts.onSide(
                    question,
                    questions.reading(compared.against(), request.question().zone()),
                    compared.side());
        }
        if (request.inside().isPresent()) {
            question = levels.inside(question, request.inside().get());
        }
        return rows.rows(question, request.after(), request.limit().orElse(DEFAULT_ROWS));
    }

    /** One record with all its fields, whatever is asked of the others. */
    @AsksRecords
    @GetMapping("/records/{id}")
    ResultRow record(
            @PathVariable String key,
            @PathVariable long id,
            @RequestParam Optional<String> recordsAt,
            @RequestParam Optional<String> zone,
            @AuthenticationPrincipal SignedIn who) {
        return rows.record(
                questions.everything(registers.get(key, who), who).asRecordsStood(questions.recordsAt(recordsAt, zone)),
                id);
    }

    /**
     * A record and the question that it is held against.
     *
     * @param record the record by its number, or by the exact text of a field that identifies records (of a required text
     *     field where none does)
     */
    record WhyRequest(
            @JsonUnwrapped QuestionRequest question,
            @NotNull @Size(max = 500) String record) {}

    /**
     * The verdict on one part.
     *
     * @param words the part in the language
     * @param other of what is asked of other records, the one that has the value and that it is held against; of a criterion that looks for
     *     a value in other records, of which none has it, where it was looked for
     * @param value the record's value of the tested field
     * @param window what a date phrase stands for, in words
     * @param from where the tested field is calculated, what it is calculated from; of one that stands for a statement, the verdict on that
     *     statement is among {@code parts} instead
     */
    record Verdict(
            String path,
            String kind,
            String words,
            Optional<OtherRecord> other,
            Why.Verdict verdict,
            Optional<String> field,
            Optional<Object> value,
            Optional<String> window,
            List<FromField> from,
            List<Verdict> parts) {}

    /**
     * A record of whatever register.
     *
     * @param register the register's key
     * @param label the register's name
     * @param title what names the record; absent where none that the reader sees has the value
     */
    record OtherRecord(String register, String label, Optional<String> title) {}

    /**
     * A field that another one is calculated from.
     *
     * @param value the record's value of it
     */
    record FromField(String field, Optional<Object> value) {}

    /** Why a record is in, or is not. */
    record WhyAnswer(ResultRow record, boolean matches, Verdict outcome) {}

    /** Each part's verdict on one record, whether or not it matches. */
    @ReadsOnly
    @AsksRecords
    @PostMapping("/why")
    WhyAnswer why(
            @PathVariable String key,
            @Valid @RequestBody WhyRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = NAME, required = false) Optional<String> name) {
        Question question = questions
                .question(registers.get(key, who), request.question(), who)
                .named(name);
        WhyService.Reasons found = reasons.why(question, request.record());
        return new WhyAnswer(
                found.record(),
                found.outcome().verdict() != Why.Verdict.OUT,
                verdict(found.outcome(), found.record(), question));
    }

    private Verdict verdict(Why.Outcome outcome, ResultRow record, Question question) {
        Register register = outcome.binder().register();
        boolean elsewhere = outcome.path().contains(Why.WHERE);
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
                // What a calculated field stands for, and what is asked of others, is no part of the statement that
                // people see.
                elsewhere || outcome.path().contains(Why.MEANS)
                        ? String.join(
                                " and ",
                                Wording.lines(
                                        outcome.part(),
                                        register,
                                        outcome.binder().elsewhere()))
                        : Printer.print(outcome.part()),
                other(outcome, question.who()),
                outcome.verdict(),
                criterion.map(Condition.Criterion::field),
                criterion.map(c -> value(outcome, c.field())),
                criterion
                        .flatMap(c -> Wording.stands(c, register, question.reading()))
                        .map(Wording.Stands::words),
                outcome.parts().isEmpty() && !elsewhere
                        ? criterion
                                .map(c -> from(c.field(), record, question.registerForReader()))
                                .orElse(List.of())
                        : List.of(),
                outcome.parts().stream()
                        .map(part -> verdict(part, record, question))
                        .toList());
    }

    private static Object value(Why.Outcome outcome, String key) {
        Register register = outcome.binder().register();
        return outcome.row().value(register.fields().indexOf(register.field(key).orElseThrow()));
    }

    private Optional<OtherRecord> other(Why.Outcome outcome, SignedIn who) {
        if (outcome.path().endsWith(Why.WHERE)) {
            String key = outcome.binder().register().key();
            return registers
                    .find(key, who)
                    .map(described -> new OtherRecord(
                            key,
                            described.register().label(),
                            Optional.of(String.valueOf(
                                    value(outcome, described.title().key())))));
        }
        return outcome.part() instanceof Condition.Criterion criterion
                        && outcome.verdict() != Why.Verdict.OFF
                        && outcome.parts().isEmpty()
                ? outcome.binder()
                        .place(criterion)
                        .map(place -> new OtherRecord(
                                place.register().key(), place.register().label(), Optional.empty()))
                : Optional.empty();
    }

    private static List<FromField> from(String key, ResultRow record, RegisterForReader register) {
        return register.calculations().stream()
                .filter(c -> c.field().key().equals(key))
                .flatMap(c -> c.expression().fields().stream())
                .filter(record.values()::containsKey)
                .map(f -> new FromField(f, Optional.ofNullable(record.values().get(f))))
                .toList();
    }
}
