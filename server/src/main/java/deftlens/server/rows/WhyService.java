package deftlens.server.rows;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.match.Why;
import deftlens.core.sql.Page;
import deftlens.server.platform.Problem;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.ResultRow;
import deftlens.server.question.Selections;
import java.util.List;
import java.util.Set;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Why a record is in a question, or is not. */
@Service
public class WhyService {

    private final RowsService rows;
    private final QueryRunner runner;
    private final Selections selections;
    private final Questions questions;

    WhyService(RowsService rows, QueryRunner runner, Selections selections, Questions questions) {
        this.rows = rows;
        this.runner = runner;
        this.selections = selections;
        this.questions = questions;
    }

    /** A record and the verdicts on it. */
    public record Reasons(ResultRow record, Why.Outcome outcome) {}

    /**
     * Why one record is in the question, or is not: the verdict of each part.
     *
     * @param named the record's number, or the exact text (letter case ignored) of a field that identifies records, or of a
     *     required text field where none does
     * @throws Problem {@code not-found}, or {@code several-records} where the text does not tell them apart
     */
    @Transactional(readOnly = true)
    public Reasons why(Question question, String named) {
        Register register = question.register();
        ResultRow found = identified(question.asking(Condition.EVERYTHING), named.strip());
        // What does not fit is refused with its sentence.
        questions.bind(question);
        Object[] values =
                register.fields().stream().map(f -> found.values().get(f.key())).toArray();
        return new Reasons(found, Why.of(question.condition(), questions.binder(question), at -> values[at]));
    }

    /**
     * The record of a name. Fields that identify records have an index, and are asked each by itself: asked together, and in an
     * order, all records would be walked along until some have it. Only where no field identifies them are required texts
     * asked, which may be a walk along all records.
     */
    private ResultRow identified(Question everything, String named) {
        String recordLabel = everything.registerForReader().recordLabel();
        Set<String> identifying = everything.registerForReader().identifying();
        List<Field> texts = everything.register().fields().stream()
                .filter(f -> f.type() == FieldType.TEXT)
                .toList();
        List<Field> ways =
                texts.stream().filter(f -> identifying.contains(f.key())).toList();
        if (ways.isEmpty()) {
            ways = texts.stream()
                    .filter(f -> f.required()
                            && everything
                                    .registerForReader()
                                    .notes()
                                    .get(f.key())
                                    .calculated()
                                    .isEmpty())
                    .toList();
        }
        for (Field way : named.isEmpty() ? List.<Field>of() : ways) {
            Question byText =
                    everything.asking(Condition.Criterion.of(way.key(), new Test.Is(new Operand.Text(named), false)));
            List<Long> found = runner.list(
                    byText, Page.some(selections.scope(byText), selections.where(byText), 2), row -> row.getLong(1));
            if (found.size() == 1) {
                return rows.record(everything, found.get(0));
            }
            if (found.size() > 1) {
                throw Problem.unprocessable(
                        "several-records",
                        "More than one " + recordLabel + " is called “" + named + "”. Use its number.");
            }
        }
        if (named.matches("-?\\d{1,19}")) {
            try {
                return rows.record(everything, Long.parseLong(named));
            } catch (NumberFormatException tooLong) {
                // No id is as long as that.
            }
        }
        throw Problem.notFound("A " + recordLabel + " called “" + named + "”");
    }
}
