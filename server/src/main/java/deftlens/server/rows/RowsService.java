package deftlens.server.rows;

import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.sql.Sql;
import deftlens.server.lanes.Attempt;
import deftlens.server.platform.Problem;
import deftlens.server.question.Orders;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.ResultRow;
import deftlens.server.question.RowValues;
import deftlens.server.question.Selections;
import deftlens.server.question.Shape;
import deftlens.server.values.ValueType;
import java.math.BigDecimal;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** Reads the records of questions: pages, single ones, whole results. */
@Service
public class RowsService {

    /** The most rows of one page. */
    public static final int MOST_ROWS = 1_000;

    private final QueryRunner runner;
    private final Selections selections;
    private final Questions questions;
    private final RunningTotals runningTotals;
    private final ObjectMapper json;

    RowsService(
            QueryRunner runner,
            Selections selections,
            Questions questions,
            RunningTotals runningTotals,
            ObjectMapper json) {
        this.runner = runner;
        this.selections = selections;
        this.questions = questions;
        this.runningTotals = runningTotals;
        this.json = json;
    }

    /**
     * A page of records.
     *
     * @param next what the next page is asked for with, as {@code after}; absent on the last one
     * @param asOf the moment that the records were read at
     * @param opening what the running total begins with, on a first page
     */
    public record ResultPage(List<ResultRow> rows, Optional<String> next, Instant asOf, Optional<BigDecimal> opening) {}

    /**
     * A record as it was found.
     *
     * @param end its values in the order of the page, which say where a page that ends with it ends
     */
    private record Found(long id, RowValues values, Optional<Boolean> matches, List<Object> end) {}

    /**
     * A page of a question's records, in its order and as its shape shows them. Where it asks for everything that shares a value with some
     * of its own register, such as all of their transactions, those are marked as matching.
     *
     * @param after where the page before it ended; absent for the first one
     * @param limit how many records, 1 to {@value #MOST_ROWS}
     */
    @Transactional(readOnly = true)
    public ResultPage rows(Question question, Optional<String> after, int limit) {
        if (limit < 1 || limit > MOST_ROWS) {
            throw Problem.badRequest("bad-limit", "“limit” runs from 1 to " + MOST_ROWS + ".");
        }
        Order order = question.order();
        boolean marked = question.shape().marked().orElse(false);
        if (marked && order.listed().isPresent()) {
            throw Problem.unprocessable(
                    "marks-alone", "Records in the order of a list are those of the list; no others can be shown.");
        }
        List<Field> fields = new ArrayList<>(question.columns());
        Optional<Shape.Opening> opening = question.shape().running();
        Optional<Field> amount = opening.map(o -> Orders.amount(question.registerForReader(), order));
        amount.filter(a -> !fields.contains(a)).ifPresent(fields::add);
        Selections.Selected selected = marked ? selections.visible(question) : selections.ordered(question);
        Optional<Sql> marks = marked ? Optional.of(selections.where(question)) : selections.origins(question);
        Optional<Page.After> end = after.map(token -> Cursor.read(json, order, token));
        // What the first, short try along the order did not find is found before it is ordered.
        boolean walks = Attempt.current().map(Attempt::isFirst).orElse(true);
        Sql sql = walks
                ? Page.rows(selected.scope(), selected.where(), marks, order, fields, end, limit + 1)
                : Page.rowsFoundFirst(selected.scope(), selected.where(), marks, order, fields, end, limit + 1);
        RowValues.Columns columns = new RowValues.Columns(fields);
        List<Found> found = runner.list(question, sql, row -> found(row, columns, order, marks.isPresent()));
        List<Found> page = found.subList(0, Math.min(limit, found.size()));
        RunningTotals.Running running = opening.map(from -> runningTotals.totals(
                        question,
                        amount.orElseThrow(),
                        page.stream()
                                .map(f -> new RunningTotals.Step(
                                        Optional.ofNullable((BigDecimal)
                                                f.values().get(amount.get().key())),
                                        f.end().get(0) != null))
                                .toList(),
                        after))
                .orElse(RunningTotals.Running.NONE);
        List<ResultRow> rows = new ArrayList<>(page.size());
        for (int i = 0; i < page.size(); i++) {
            Found one = page.get(i);
            rows.add(new ResultRow(one.id(), one.values(), one.matches(), running.at(i)));
        }
        Optional<String> next = Optional.empty();
        if (found.size() > limit) {
            Found last = found.get(limit - 1);
            next = Optional.of(Cursor.write(json, order, last.end(), last.id(), running.carried()));
        }
        return new ResultPage(rows, next, question.reading().now(), running.opening());
    }

    /** A row is the record's number, its values, those of the order, its place in a list that is followed, and whether it matches. */
    private static Found found(ResultSet row, RowValues.Columns columns, Order order, boolean marked)
            throws SQLException {
        RowValues values = columns.read(row, 2);
        int at = 2 + columns.size();
        List<Object> end = new ArrayList<>(order.keys().size() + 1);
        for (Order.Key key : order.keys()) {
            end.add(ValueType.of(key.field()).read(row, at++));
        }
        if (order.listed().isPresent()) {
            end.add(row.getLong(at++));
        }
        return new Found(row.getLong(1), values, marked ? Optional.of(row.getBoolean(at)) : Optional.empty(), end);
    }

    /** The SQL of a question's first page. */
    @Transactional(readOnly = true)
    public Sql page(Question question, int limit) {
        return Page.rows(
                selections.scope(question),
                selections.where(question),
                question.order(),
                question.columns(),
                Optional.empty(),
                limit);
    }

    /**
     * One record with all its fields.
     *
     * @throws Problem {@code not-found} where the question has no such record, or the person may not see it
     */
    @Transactional(readOnly = true)
    public ResultRow record(Question question, long id) {
        Register register = question.register();
        Sql condition = new Sql()
                .add(selections.where(question))
                .add(" and " + Sql.identifier(register.idColumn()) + " = ")
                .bind(id);
        RowValues.Columns columns = new RowValues.Columns(register.stored());
        return runner
                .list(
                        question,
                        Page.rows(
                                selections.scope(question),
                                condition,
                                Order.NEWEST,
                                register.stored(),
                                Optional.empty(),
                                1),
                        row -> new ResultRow(row.getLong(1), columns.read(row, 2)))
                .stream()
                .findFirst()
                .orElseThrow(() ->
                        Problem.notFound("This " + question.registerForReader().recordLabel()));
    }

    /** Hands every record of a question to the consumer, in its order, with the fields named, without keeping them. */
    @Transactional(readOnly = true)
    public void stream(Question question, List<Field> fields, Consumer<ResultRow> each) {
        Selections.Selected selected = selections.ordered(question);
        RowValues.Columns columns = new RowValues.Columns(fields);
        runner.stream(
                question,
                Page.all(selected.scope(), selected.where(), question.order(), fields),
                row -> new ResultRow(row.getLong(1), columns.read(row, 2)),
                each);
    }
}
