package deftlens.server.rows;

import deftlens.core.condition.Bound;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Where;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Selections;
import deftlens.server.question.Shape;
import deftlens.server.sums.SumsService;
import deftlens.server.values.ValueType;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;
import tools.jackson.databind.ObjectMapper;

/** A balance or quantity that is carried on from record to record, with what it begins with. */
@Component
class RunningTotals {

    private final QueryRunner runner;
    private final Selections selections;
    private final Questions questions;
    private final SumsService sums;
    private final ObjectMapper json;

    RunningTotals(QueryRunner runner, Selections selections, Questions questions, SumsService sums, ObjectMapper json) {
        this.runner = runner;
        this.selections = selections;
        this.questions = questions;
        this.sums = sums;
        this.json = json;
    }

    /**
     * What a record adds.
     *
     * @param amount its amount, where it has one
     * @param dated whether it has a date, and so a place in the order of time
     */
    record Step(Optional<BigDecimal> amount, boolean dated) {}

    /**
     * The running totals of a page.
     *
     * @param totals one for each record, none for those without a date
     * @param carried what the next page goes on from
     */
    record Running(List<Optional<BigDecimal>> totals, Optional<BigDecimal> opening, Optional<BigDecimal> carried) {
        static final Running NONE = new Running(List.of(), Optional.empty(), Optional.empty());

        Optional<BigDecimal> at(int index) {
            return index < totals.size() ? totals.get(index) : Optional.empty();
        }
    }

    /**
     * The totals of a page. In the order of time each record adds to the one before; with the latest first the sum up to the
     * page's first record is read once, and each record takes away what the one above it added.
     */
    Running totals(Question question, Field amount, List<Step> page, Optional<String> after) {
        Order.Key key = question.order().keys().get(0);
        Shape.Opening from = question.shape().running().orElseThrow();
        Optional<BigDecimal> carried = after.flatMap(token -> Cursor.carried(json, token));
        Optional<BigDecimal> opening =
                carried.isPresent() ? Optional.empty() : Optional.of(opening(question, key.field(), amount, from));
        BigDecimal total = carried.orElseGet(() -> key.descending()
                ? opening.get().add(sum(question, questions.bind(question), amount, key.field(), Optional.empty()))
                : opening.get());
        List<Optional<BigDecimal>> totals = new ArrayList<>();
        for (Step step : page) {
            // What is no number adds nothing, as in the sums of the database.
            BigDecimal change =
                    step.amount().filter(a -> Beyond.asDouble(a).isEmpty()).orElse(BigDecimal.ZERO);
            if (!step.dated()) {
                totals.add(Optional.empty());
            } else if (key.descending()) {
                totals.add(Optional.of(total));
                total = total.subtract(change);
            } else {
                total = total.add(change);
                totals.add(Optional.of(total));
            }
        }
        return new Running(totals, opening, Optional.of(total));
    }

    /** What was there before the first record of a question: nothing, or the sum of all that the date alone shuts out before. */
    private BigDecimal opening(Question question, Field date, Field amount, Shape.Opening from) {
        if (from == Shape.Opening.ZERO) {
            return BigDecimal.ZERO;
        }
        Order oldest = new Order(List.of(new Order.Key(date, false)));
        ValueType dates = ValueType.of(date);
        List<Page.After> first = runner.list(
                question,
                Page.rows(
                        selections.scope(question),
                        selections.where(question),
                        oldest,
                        List.of(date),
                        Optional.empty(),
                        1),
                row -> new Page.After(List.of(Optional.ofNullable(dates.read(row, 2))), row.getLong(1)));
        if (first.isEmpty() || first.get(0).values().get(0).isEmpty()) {
            return BigDecimal.ZERO;
        }
        Page.After before = first.get(0);
        return sum(question, selections.without(question, date), amount, date, Optional.of(before));
    }

    /** The sum over the records before one of them, or over all of them: of kept sums where these tell it. */
    private BigDecimal sum(Question question, Bound bound, Field amount, Field date, Optional<Page.After> before) {
        Scope scope = selections.scope(question);
        return sums.of(question)
                .filter(kept -> kept.isDate(date))
                .flatMap(kept -> kept.sum(bound, scope, amount, before))
                .flatMap(sql -> sums.tried(() -> sum(question, sql)))
                .orElseGet(() -> sum(question, Page.sum(scope, Where.of(bound), amount, date, before, false)));
    }

    private BigDecimal sum(Question question, Sql sql) {
        return runner.single(question, sql, row ->
                (BigDecimal) ValueType.of(FieldType.NUMBER).read(row, 1));
    }
}
