package deftlens.server.records;

import deftlens.core.field.Field;
import deftlens.core.sql.Differences;
import deftlens.core.sql.Differences.Became;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Stood;
import deftlens.core.sql.Write;
import deftlens.server.changes.ChangeSets;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Selections;
import deftlens.server.question.ShownValue;
import deftlens.server.records.RecordHistory.RecordChange;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.ValueType;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.annotation.JsonSerialize;

/**
 * What became of a question since a moment: its records as they were kept then, with the windows of that moment, are held against those of
 * now. And how many there were at several moments, though nobody counted then.
 */
@Service
public class ChangedSinceService {

    /** The most records of each kind that are told one by one. */
    static final int MOST = 100;

    private final QueryRunner runner;
    private final Questions questions;
    private final Selections selections;
    private final RecordHistory history;

    ChangedSinceService(QueryRunner runner, Questions questions, Selections selections, RecordHistory history) {
        this.runner = runner;
        this.questions = questions;
        this.selections = selections;
        this.history = history;
    }

    /**
     * What became of a question.
     *
     * @param since the moment that it is held against
     * @param now how many records are in it
     * @param entered how many are in it that were not
     * @param left how many were in it that are not
     * @param changed how many were and are in it, and were written in between
     * @param records those one by one, at most {@value ChangedSinceService#MOST} of each kind
     */
    public record ChangedSince(
            Instant since, long now, long entered, long left, long changed, List<MovedRecord> records) {}

    /**
     * What became of one record.
     *
     * @param title the value that it is called by; of one that left, the value then
     * @param changes what was done to it since, the latest first; none where only time went by. Of a record that the reader does not see
     *     any more, without values
     */
    public record MovedRecord(
            @AsText long id,
            Became became,
            @JsonSerialize(using = ShownValue.class) Object title,
            List<RecordChange> changes) {}

    /** What became of a question since a moment. */
    @Transactional(readOnly = true)
    public ChangedSince since(Question question, Instant since) {
        RegisterForReader described = question.registerForReader();
        requireOwn(described);
        if (!since.isBefore(question.recordsAt().orElse(question.reading().now()))) {
            throw Problem.unprocessable(
                    "bad-as-of", "“Since” is a moment before the one that the records are read at.");
        }
        Question then = at(question, since);
        Selections.Selected was = selections.selected(then);
        Selections.Selected is = selections.selected(question);
        Differences differences = new Differences(
                Page.numbers(was.scope(), was.where()),
                Page.numbers(is.scope(), is.where()),
                written(described, since, question.recordsAt()),
                last(described));
        Map<Became, Long> counts = new HashMap<>();
        Map<Long, Became> became = new HashMap<>();
        List<Long> ids = runner.list(question, differences.records(MOST), row -> {
            Became kind = Became.valueOf(row.getString(2));
            became.put(row.getLong(1), kind);
            counts.put(kind, row.getLong(3));
            return row.getLong(1);
        });
        Map<Long, Object> titles = titles(then, ids);
        Map<Long, Object> seen = titles(question, ids);
        Map<Long, List<RecordChange>> changes = history.of(described, ids);
        List<MovedRecord> records = new ArrayList<>();
        for (long id : ids) {
            List<RecordChange> done = changes.get(id).stream()
                    .filter(c -> c.at().isAfter(since)
                            && question.recordsAt()
                                    .map(end -> !c.at().isAfter(end))
                                    .orElse(true))
                    .map(c -> seen.containsKey(id) ? c : c.withoutValues())
                    .toList();
            records.add(
                    new MovedRecord(id, became.get(id), seen.containsKey(id) ? seen.get(id) : titles.get(id), done));
        }
        return new ChangedSince(
                since,
                runner.number(question, Page.count(is.scope(), is.where(), Optional.empty())),
                counts.getOrDefault(Became.ENTERED, 0L),
                counts.getOrDefault(Became.LEFT, 0L),
                counts.getOrDefault(Became.CHANGED, 0L),
                records);
    }

    /**
     * How many records a question had at a moment.
     *
     * @param at the moment, of which are both the windows and the records
     */
    public record NumberAt(Instant at, long records) {}

    /** How many records a question had at each of several moments. */
    @Transactional(readOnly = true)
    public List<NumberAt> numbers(Question question, List<Instant> moments) {
        requireOwn(question.registerForReader());
        return moments.stream()
                .map(at -> {
                    Selections.Selected then = selections.selected(at(question, at));
                    return new NumberAt(
                            at, runner.number(question, Page.count(then.scope(), then.where(), Optional.empty())));
                })
                .toList();
    }

    /** The question as it was answered at a moment: the windows and the records are those of then. */
    private Question at(Question question, Instant moment) {
        ZoneId zone = question.reading().zone();
        return question.at(questions.reading(Optional.of(moment.toString()), Optional.of(zone.getId())))
                .asRecordsStood(Optional.of(moment));
    }

    private static void requireOwn(RegisterForReader described) {
        if (!described.can(Origin.Capability.RECORDS)) {
            throw Problem.unprocessable(
                    "no-past",
                    described.register().label()
                            + ": what became of records is told of registers that are kept here, each by itself.");
        }
    }

    /** The numbers of the records that were written after a moment, and up to another; those that are new are found by being new. */
    private static Sql written(RegisterForReader described, Instant after, Optional<Instant> upTo) {
        Sql sets = ChangeSets.between(described.id(), after, upTo);
        return new Sql()
                .add("select id as c0 from " + RecordTables.past(described) + " where " + Sql.identifier(Stood.UNTIL)
                        + " = any(array(")
                .add(sets)
                .add("))");
    }

    private static Sql last(RegisterForReader described) {
        return Sql.of("coalesce((select r." + Sql.identifier(Stood.SINCE) + " from "
                + described.table().name() + " r where r.id = b.id), (select max(p." + Sql.identifier(Stood.UNTIL)
                + ") from " + RecordTables.past(described) + " p where p.id = b.id))");
    }

    /** What the records are called that a question's reader sees. */
    private Map<Long, Object> titles(Question question, List<Long> ids) {
        RegisterForReader described = question.registerForReader();
        Field title = described.title();
        Selections.Selected visible = selections.visible(question);
        Sql sql = Page.all(
                visible.scope(), Write.numbered(described.register(), ids), new Order(List.of()), List.of(title));
        Map<Long, Object> titles = new HashMap<>();
        runner.list(question, sql, row -> {
            titles.put(row.getLong(1), ValueType.of(title).read(row, 2));
            return true;
        });
        return titles;
    }
}
