package deftlens.server.checking;

import deftlens.core.check.Checker;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Parts;
import deftlens.core.field.Register;
import deftlens.core.statement.Asks;
import deftlens.core.statement.Printer;
import deftlens.core.time.Reading;
import deftlens.core.time.Unanswered;
import deftlens.server.people.SignedIn;
import deftlens.server.question.ConditionJson;
import deftlens.server.question.Question;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Questions;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.statements.Outline;
import deftlens.server.statements.WindowAccount;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/** Reads a question for people: its one spelling, its tree, its windows, its blanks, its words, and what the checker notices. */
@Component
public class StatementReader {

    private static final int MAX_FINDINGS = 100;

    private final Questions questions;
    private final CheckingService checking;

    StatementReader(Questions questions, CheckingService checking) {
        this.questions = questions;
        this.checking = checking;
    }

    /** How far the records are looked at for findings: not at all, only where the register is small, or in any. */
    public enum Look {
        NONE,
        IF_SMALL,
        ANY
    }

    /**
     * The view that a statement is kept in, or is about to be.
     *
     * @param purpose what it is for
     */
    public record Kept(Optional<String> name, Optional<String> purpose) {}

    /** One step that mends a finding: what it does, and the whole question after it. */
    public record Mend(String label, String statement, JsonNode condition) {}

    /**
     * Something the checker noticed.
     *
     * @param code stable name of the kind of finding
     * @param level error, warning or hint
     * @param message a whole sentence
     * @param path the part it is about, a JSON Pointer in the condition; empty for the whole
     * @param count the number of records it is about
     */
    public record Finding(
            String code, String level, String message, String path, Optional<Long> count, Optional<Mend> mend) {}

    /**
     * A blank for the reader to fill in; {@code preset} holds until then.
     *
     * @param register the key of the register that its field is in, where that is another one
     */
    public record Ask(
            Optional<String> register,
            String label,
            Asks.Kind kind,
            String field,
            Optional<String> preset,
            boolean answered) {}

    /**
     * A statement that was read.
     *
     * @param statement the question in its one spelling, its blanks open
     * @param answered the same with the reader's answers filled in, where there are any
     * @param asks its blanks
     * @param checked whether the findings are all there are; not where looking at the records took too long
     */
    public record Read(
            String statement,
            JsonNode condition,
            Optional<String> answered,
            List<WindowAccount> windows,
            List<Ask> asks,
            List<Finding> findings,
            boolean checked,
            Outline outline,
            Instant asOf) {}

    /**
     * Reads a question.
     *
     * @param running the name that the question can be stopped by
     * @throws deftlens.server.platform.Problem where it cannot be read
     */
    public Read read(
            RegisterForReader described,
            QuestionRequest asked,
            Kept kept,
            Look look,
            SignedIn who,
            Optional<String> running) {
        Register register = described.register();
        Condition open = questions.condition(described, asked.statement(), asked.condition(), who);
        Condition condition = questions.answered(described, open, asked.answers(), who);
        Reading reading = questions.reading(asked.asOf(), asked.zone());
        Question question = Question.of(described, condition, reading, who)
                .asRecordsStood(questions.recordsAt(asked.recordsAt(), asked.zone()))
                .named(running);
        Checker.About about = new Checker.About(
                kept.name().orElse(""),
                kept.purpose().orElse(""),
                kept.name().isPresent(),
                described.hidden().keySet());
        CheckingService.Checked checked;
        if (look == Look.NONE || !isAnswered(question)) {
            checked = new CheckingService.Checked(checking.check(question, about), false);
        } else {
            checked = look == Look.IF_SMALL
                    ? checking.checkSmall(question, about)
                    : checking.checkRecords(question, about);
        }
        Outline outline =
                Outline.of(open, condition, described.register(), questions.elsewhere(described, who), reading);
        Set<String> blanks = blanks(open);
        Map<String, String> answers = asked.answers().orElse(Map.of());
        return new Read(
                Printer.print(open),
                ConditionJson.write(open),
                condition.equals(open) ? Optional.empty() : Optional.of(Printer.print(condition)),
                outline.windows(),
                Asks.of(open).stream()
                        .map(a -> new Ask(
                                a.register(),
                                a.label(),
                                a.kind(),
                                a.field(),
                                a.preset(),
                                !answers.getOrDefault(a.label(), "").isBlank()))
                        .toList(),
                checked.findings().stream()
                        // What a reader filled in may well lie in the past, and is not the view's to mend.
                        .filter(f -> f.code() != deftlens.core.check.Finding.Code.PASSED || !blanks.contains(f.path()))
                        // The gravest come first; nobody reads hundreds, and each mend holds the whole question.
                        .limit(MAX_FINDINGS)
                        .map(f -> finding(f, condition.equals(open)))
                        .toList(),
                checked.complete(),
                outline,
                reading.now());
    }

    /** Whether every blank has an answer or a default, and every criterion fits, so that records can be counted. */
    private boolean isAnswered(Question question) {
        try {
            questions.binder(question).bind(question.condition());
            return true;
        } catch (Unanswered | Binder.Unfit open) {
            return false;
        }
    }

    /** The paths of the criteria that hold blanks. */
    private static Set<String> blanks(Condition open) {
        return Parts.of(open).stream()
                .filter(p -> p.part() instanceof Condition.Criterion
                        && !Asks.of(p.part()).isEmpty())
                .map(Parts.Part::path)
                .collect(Collectors.toSet());
    }

    private static Finding finding(deftlens.core.check.Finding finding, boolean mendable) {
        return new Finding(
                finding.code().code(),
                finding.level().name().toLowerCase(Locale.ROOT),
                finding.message(),
                finding.path(),
                finding.count().isPresent() ? Optional.of(finding.count().getAsLong()) : Optional.empty(),
                finding.mend()
                        .filter(m -> mendable)
                        .map(m ->
                                new Mend(m.label(), Printer.print(m.condition()), ConditionJson.write(m.condition()))));
    }
}
