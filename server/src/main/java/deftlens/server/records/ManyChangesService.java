package deftlens.server.records;

import deftlens.core.change.Assignment;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.ChangeStage;
import deftlens.core.sql.Page;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Write;
import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSets;
import deftlens.server.closing.ClosedPeriods;
import deftlens.server.jobs.JobRun;
import deftlens.server.jobs.Jobs;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Selections;
import deftlens.server.question.ShownValue;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.trail.Trail;
import deftlens.server.values.Statements;
import deftlens.server.values.ValueType;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.annotation.JsonSerialize;

/**
 * Changes many records at once by a question: looked at first, made with a reason, all of them or none, and taken back as a whole.
 * What was looked at has a mark; where any of the records is another one by then, nothing is written.
 */
@Service
public class ManyChangesService {

    static final String CHANGE = "change-many";

    /** The most steps from one value to another that are told of a field. */
    private static final int MOST_STEPS = 20;

    private final RegisterCatalogue registers;
    private final Questions questions;
    private final Selections selections;
    private final PeopleService people;
    private final ChangeSets changes;
    private final ClosedPeriods periods;
    private final Answers answers;
    private final Jobs jobs;
    private final Trail trail;
    private final TransactionTemplate transactions;
    private final ManyChangeWork work;

    ManyChangesService(
            RegisterCatalogue registers,
            Questions questions,
            Selections selections,
            PeopleService people,
            ChangeSets changes,
            ClosedPeriods periods,
            Answers answers,
            Jobs jobs,
            Trail trail,
            TransactionTemplate transactions,
            ManyChangeWork work) {
        this.registers = registers;
        this.questions = questions;
        this.selections = selections;
        this.people = people;
        this.changes = changes;
        this.periods = periods;
        this.answers = answers;
        this.jobs = jobs;
        this.trail = trail;
        this.transactions = transactions;
        this.work = work;
    }

    // ------------------------------------------------------------------ looking

    /**
     * What a change would do.
     *
     * @param records how many records it is about
     * @param changed how many of them it would change
     * @param leaving how many of those would not be in the question any more
     * @param fields what becomes of which values
     * @param refused why some cannot be as they would be; where there are any, none is changed
     * @param mark stands for the records as they are; to be sent with the change
     */
    public record ChangePreview(
            long records,
            long changed,
            long leaving,
            List<ChangedField> fields,
            List<RefusedRecords> refused,
            String mark) {}

    /**
     * What becomes of the values of a field.
     *
     * @param steps from what to what, the most frequent first, at most {@value ManyChangesService#MOST_STEPS}
     * @param more how many different steps there are beside those
     * @param changed in how many records the field changes
     */
    public record ChangedField(String field, List<ValueStep> steps, long more, long changed) {}

    /** A value that becomes another in so many records; {@code null} is none. */
    public record ValueStep(
            @JsonSerialize(using = ShownValue.class) Object before,
            @JsonSerialize(using = ShownValue.class) Object after,
            long records) {}

    /**
     * Why records cannot be as they would be.
     *
     * @param field the field that it comes from
     * @param message in a sentence
     */
    public record RefusedRecords(ChangeStage.Reason reason, String field, String message, long records) {}

    /** Looks at what a change would do, and writes nothing. */
    @Transactional
    public ChangePreview preview(String key, ManyChange asked, SignedIn who) {
        Plan plan = plan(key, asked, who);
        return work.looking(connection -> plan.look(connection));
    }

    private Plan plan(String key, ManyChange asked, SignedIn who) {
        RegisterForReader described = work.mine(key, who);
        if (asked.question().recordsAt().isPresent()) {
            throw Problem.unprocessable(
                    "bad-value", "Records are changed as they are now. Leave out “records as they were kept”.");
        }
        List<Assignment> assignments = asked.assignments(described);
        asked.requireOpen(described, people.teamsOf(who), who);
        Question question = questions.question(described, asked.question(), who);
        return new Plan(
                described,
                question,
                new ChangeStage(
                        described.register(), assignments, question.reading().zone()),
                asked.chosen(),
                asked.left(),
                periods.until(described));
    }

    /** A change that is understood. */
    private final class Plan {

        private final RegisterForReader described;
        private final Question question;
        private final ChangeStage stage;
        private final Optional<List<Long>> chosen;
        private final List<Long> left;
        private final Optional<ClosedPeriods.Until> until;

        Plan(
                RegisterForReader described,
                Question question,
                ChangeStage stage,
                Optional<List<Long>> chosen,
                List<Long> left,
                Optional<ClosedPeriods.Until> until) {
            this.described = described;
            this.question = question;
            this.stage = stage;
            this.chosen = chosen;
            this.left = left;
            this.until = until;
        }

        /** Fills the table of what there is and what there would be, and counts. */
        ChangePreview look(Connection connection) throws SQLException {
            Statements.update(connection, stage.make(ids(), until.map(ClosedPeriods.Until::main)));
            for (Sql sql : stage.prepare()) {
                Statements.update(connection, sql);
            }
            List<Long> total = ManyChangeWork.numbers(connection, ChangeStage.total(), 3);
            List<ChangedField> fields = new ArrayList<>();
            for (int i = 0; i < stage.assignments().size(); i++) {
                fields.add(field(connection, i));
            }
            List<RefusedRecords> refused = new ArrayList<>();
            for (ChangeStage.Refusal refusal :
                    stage.refusals(until.map(u -> new ChangeStage.Closed(u.main(), u.open())))) {
                long records = Statements.number(
                        connection,
                        new Sql()
                                .add("select count(*) from " + ChangeStage.TABLE + " where ")
                                .add(refusal.where()));
                if (records > 0) {
                    refused.add(
                            new RefusedRecords(refusal.reason(), refusal.field().key(), words(refusal), records));
                }
            }
            return new ChangePreview(
                    total.get(0),
                    total.get(1),
                    leaving(connection, total.get(1)),
                    fields,
                    refused,
                    total.get(0) + "." + Long.toHexString(total.get(2)));
        }

        /** The numbers of the records: those that are chosen of all that the person sees, or those that match. */
        private Sql ids() {
            Selections.Selected selected =
                    chosen.isPresent() ? selections.visible(question) : selections.selected(question);
            Sql where =
                    chosen.map(ids -> Write.numbered(described.register(), ids)).orElseGet(selected::where);
            if (!left.isEmpty()) {
                where = both(where, new Sql().add("not ").add(Write.numbered(described.register(), left)));
            }
            return Page.numbers(selected.scope(), where);
        }

        private ChangedField field(Connection connection, int index) throws SQLException {
            Field field = stage.assignments().get(index).field();
            ValueType type = ValueType.of(field);
            List<ValueStep> steps = Statements.list(
                    connection,
                    stage.steps(index, MOST_STEPS),
                    row -> new ValueStep(type.read(row, 1), type.read(row, 2), row.getLong(3)));
            List<Long> extent = ManyChangeWork.numbers(connection, stage.extent(index), 2);
            return new ChangedField(field.key(), steps, extent.get(0) - steps.size(), extent.get(1));
        }

        private long leaving(Connection connection, long changed) throws SQLException {
            if (stage.assignments().isEmpty()) {
                return changed;
            }
            Selections.Selected before = selections.selected(question);
            Selections.Selected after = selections.supposed(question, stage);
            Sql ids = Sql.of(Sql.identifier(described.register().idColumn()) + " in (select id from "
                    + ChangeStage.TABLE + " where changed)");
            long in = chosen.isEmpty()
                    ? changed
                    : Statements.number(
                            connection, Page.count(before.scope(), both(before.where(), ids), Optional.empty()));
            long still = Statements.number(
                    connection,
                    Page.count(
                            after.scope(),
                            chosen.isEmpty() ? after.where() : both(after.where(), matching(before, ids)),
                            Optional.empty()));
            return in - still;
        }

        /** Of those that are chosen only the ones that match now can leave. */
        private Sql matching(Selections.Selected before, Sql ids) {
            return new Sql()
                    .add(Sql.identifier(described.register().idColumn()) + " in (")
                    .add(Page.numbers(before.scope(), both(before.where(), ids)))
                    .add(")");
        }

        private static Sql both(Sql one, Sql other) {
            return new Sql().add("(").add(one).add(") and ").add(other);
        }

        private String words(ChangeStage.Refusal refusal) {
            String label = refusal.field().label();
            return switch (refusal.reason()) {
                case CLOSED -> until.map(ClosedPeriods.Until::reason).orElseThrow();
                case EMPTY -> label + " would be empty, and is needed in every record.";
                case UNKNOWN -> label + " would be none of the values that it can have.";
                case BEYOND ->
                    refusal.field().type() == FieldType.MONEY || refusal.field().type() == FieldType.DURATION
                            ? label + " would be more than it holds."
                            : label + " would be beyond the years 1 to 9999.";
            };
        }

        /** Writes it, where the records are those that were looked at. */
        long write(Connection connection, String mark, ChangeSet set) throws SQLException {
            ChangePreview now = look(connection);
            if (!now.mark().equals(mark)) {
                throw changedMeanwhile();
            }
            if (!now.refused().isEmpty()) {
                throw refusal(now.refused());
            }
            long written = Statements.update(connection, stage.write());
            if (written < now.changed()) {
                throw changedMeanwhile();
            }
            return written;
        }

        private Problem changedMeanwhile() {
            return new Problem(
                    HttpStatus.CONFLICT,
                    "changed-meanwhile",
                    "Some of these " + described.recordsLabel()
                            + " were written after you looked, or others are among them. Nothing was written; look again.");
        }
    }

    private static Problem refusal(List<RefusedRecords> refused) {
        return Problem.unprocessable(
                        "records-refused",
                        refused.stream()
                                        .map(r -> ManyChangeWork.counted(r.records()) + ": " + r.message())
                                        .collect(Collectors.joining(" "))
                                + " Nothing was written.")
                .with("refused", refused);
    }

    // ------------------------------------------------------------------ changing

    /** A change that was begun, as a job. */
    public record Begun(@AsText long job) {}

    /** What the job of a change needs to know. */
    record ChangeInput(String register, ManyChange change, String mark, String reason, long person) {}

    /** Begins to change what was looked at. */
    @Transactional
    public Begun begin(
            String key,
            ManyChange asked,
            String mark,
            String reason,
            Optional<String> idempotency,
            SignedIn who,
            String words) {
        Plan plan = plan(key, asked, who);
        String why = ManyChangeWork.reason(reason);
        return answers.once(
                idempotency,
                who,
                "change " + key + " " + mark + " " + why + " " + words,
                Begun.class,
                () -> new Begun(jobs.begin(
                        CHANGE,
                        plan.described.register().label(),
                        new ChangeInput(key, asked, mark, why, who.id()),
                        who)));
    }

    /** Changes them, as a job. */
    void change(JobRun job) {
        ChangeInput input = job.input(ChangeInput.class);
        SignedIn who = work.asker(input.person());
        transactions.executeWithoutResult(status -> {
            Plan plan = plan(input.register(), input.change(), who);
            job.at("changing", 0);
            ChangeSet set = changes.begin(
                    plan.described.id(),
                    Optional.of(who.id()),
                    ChangeSet.Origin.BULK,
                    Optional.empty(),
                    Optional.empty());
            long written = periods.guarded(
                    plan.described, () -> work.working(job, connection -> plan.write(connection, input.mark(), set)));
            changes.describe(set, input.reason(), written, Optional.of(job.id()));
            trail.write(
                    Optional.of(who.id()),
                    "register",
                    plan.described.id(),
                    input.change().delete() ? "many deleted" : "many changed",
                    null,
                    Map.of("records", written, "reason", input.reason()));
            job.done(ManyChangeWork.counted(written) + (input.change().delete() ? " deleted" : " changed"));
        });
    }
}
