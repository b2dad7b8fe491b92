package deftlens.server.records;

import deftlens.core.field.Field;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Undo;
import deftlens.core.sql.Write;
import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSets;
import deftlens.server.closing.ClosedPeriods;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.question.Questions;
import deftlens.server.question.ResultRow;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.RowsService;
import deftlens.server.values.Statements;
import jakarta.persistence.EntityManager;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * Makes and changes single records. Administrators make and change any; other people correct the fields that the catalogue says may be
 * corrected, in the records they see. Every change of a record is part of a {@link ChangeSet}.
 */
@Service
public class RecordsService {

    private final EntityManager entities;
    private final RegisterCatalogue registers;
    private final RowsService rows;
    private final Questions questions;
    private final PeopleService people;
    private final Answers answers;
    private final ChangeSets changes;
    private final ClosedPeriods periods;
    private final RecordHistory history;
    private final ObjectMapper json;

    RecordsService(
            EntityManager entities,
            RegisterCatalogue registers,
            RowsService rows,
            Questions questions,
            PeopleService people,
            Answers answers,
            ChangeSets changes,
            ClosedPeriods periods,
            RecordHistory history,
            ObjectMapper json) {
        this.entities = entities;
        this.registers = registers;
        this.rows = rows;
        this.questions = questions;
        this.people = people;
        this.answers = answers;
        this.changes = changes;
        this.periods = periods;
        this.history = history;
        this.json = json;
    }

    /** A record that was written. */
    public record Written(@AsText long id) {}

    /** Makes a record. */
    @Transactional
    public Written create(String key, Map<String, JsonNode> values, Optional<String> idempotency, SignedIn who) {
        RecordValues.requireAdministrator(who);
        RegisterForReader described = own(key, who);
        return answers.once(
                idempotency, who, "create " + key + " " + json.writeValueAsString(values), Written.class, () -> {
                    Map<Field, Optional<Object>> read = RecordValues.read(described, values);
                    RecordValues.missing(described, read).ifPresent(message -> {
                        throw Problem.unprocessable("bad-value", message);
                    });
                    List<Field> fields = RecordTables.columns(described);
                    List<Optional<Object>> row = fields.stream()
                            .map(f -> read.getOrDefault(f, Optional.empty()))
                            .toList();
                    ChangeSet set = begin(described, who);
                    long id = periods.guarded(
                            described,
                            () -> numbers(Write.insert(described.register(), fields, row))
                                    .getFirst());
                    changes.made(set, new Undo.Made(id, id));
                    return new Written(id);
                });
    }

    /** Changes some values of a record that the person sees. */
    @Transactional
    public Written change(
            String key,
            long id,
            Map<String, JsonNode> values,
            Optional<Map<String, JsonNode>> was,
            Optional<String> reason,
            SignedIn who) {
        RecordValues.requireWriter(who);
        RegisterForReader described = own(key, who);
        ResultRow now = rows.record(questions.everything(described, who), id);
        Map<Field, Optional<Object>> read = RecordValues.read(described, values);
        if (read.isEmpty()) {
            throw Problem.unprocessable("nothing-changed", "Name at least one field and its new value.");
        }
        for (Field field : read.keySet()) {
            if (!who.administers()
                    && !described.notes().get(field.key()).about().isCorrectableBy(people.teamsOf(who))) {
                throw Problem.forbidden(field.label() + " is not open to correction. Ask an administrator.");
            }
        }
        Map<Field, Optional<Object>> seen = was.isEmpty() ? Map.of() : RecordValues.read(described, was.get());
        ChangeSet set = begin(described, who);
        List<Long> last = periods.guarded(described, () -> numbers(Write.update(described.register(), id, read, seen)));
        if (last.isEmpty()) {
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "changed-meanwhile",
                            "Somebody changed this record after you opened it. Nothing of yours was written.")
                    .with("current", now);
        }
        if (last.getFirst() != set.id()) {
            changes.drop(set);
        } else if (reason.isPresent()) {
            changes.describe(set, ManyChangeWork.reason(reason.get()), 1, Optional.empty());
        }
        return new Written(id);
    }

    private ChangeSet begin(RegisterForReader described, SignedIn who) {
        return changes.begin(
                described.id(), Optional.of(who.id()), ChangeSet.Origin.RECORD, Optional.empty(), Optional.empty());
    }

    /** Who changed a record, from what to what; fields that the person may not see are left out. */
    @Transactional(readOnly = true)
    public List<RecordHistory.RecordChange> history(String key, long id, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        rows.record(questions.everything(described, who), id);
        return history.of(described, id);
    }

    private RegisterForReader own(String key, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        RecordValues.requireOwn(described);
        return described;
    }

    private List<Long> numbers(Sql sql) {
        return entities.unwrap(Session.class)
                .doReturningWork(connection -> Statements.list(connection, sql, row -> row.getLong(1)));
    }
}
