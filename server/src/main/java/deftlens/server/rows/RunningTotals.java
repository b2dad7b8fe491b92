package deftlens.server.rows;

import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Where;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.RowsService.Question;
import deftlens.server.values.ValueType;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.hibernate.query.NativeQuery;
import tools.jackson.databind.ObjectMapper;

/** A balance or quantity that is carried on from record to record, with what it begins with. */
final class RunningTotals {

    private final RowsService rows;
    private final ObjectMapper json;

    RunningTotals(RowsService rows, ObjectMapper json) {
        this.rows = rows;
        this.json = json;
    }

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

    /** The number that a register adds up; refused where the records do not stand in the order of time. */
    static Field amount(RegisterForReader described, Order order) {
        Field amount = described
                .running()
                .orElseThrow(() -> Problem.unprocessable(
                        "no-running",
                        described.register().label() + " declares no number that is added up as it goes."));
        Optional<Field> date = described.main();
        boolean byTime = order.keys().size() == 1
                && date.filter(order.keys().get(0).field()::equals).isPresent()
                && !order.keys().get(0).emptiesFirst();
        if (!byTime) {
            throw Problem.unprocessable(
                    "running-order",
                    "A running total needs the records in the order of "
                            + date.map(Field::label).orElse("time") + " alone.");
        }
        return amount;
    }

    /**
     * The totals of a page. In the order of time each record adds to the one before; with the latest first the sum up to the
     * page's first record is read once, and each record takes away what the one above it added.
     */
    Running totals(
            Question question,
            Order order,
            Field amount,
            Shape.Opening from,
            List<Field> columns,
            List<Object[]> page,
            Optional<String> after) {
        Order.Key key = order.keys().get(0);
        int value = 1 + columns.indexOf(amount);
        int date = 1 + columns.size();
        Optional<BigDecimal> carried = after.flatMap(token -> Cursor.carried(json, token));
        Optional<BigDecimal> opening =
                carried.isPresent() ? Optional.empty() : Optional.of(opening(question, key.field(), amount, from));
        BigDecimal total = carried.orElseGet(() -> key.descending()
                ? opening.get()
                        .add(sum(
                                question,
                                Page.sum(
                                        rows.scope(question),
                                        rows.where(question),
                                        amount,
                                        key.field(),
                                        Optional.empty(),
                                        true)))
                : opening.get());
        List<Optional<BigDecimal>> totals = new ArrayList<>();
        for (Object[] record : page) {
            BigDecimal here = (BigDecimal) record[value];
            // What is no number adds nothing, as in the sums of the database.
            BigDecimal change = here == null || Beyond.asDouble(here).isPresent() ? BigDecimal.ZERO : here;
            if (record[date] == null) {
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
        List<Object[]> first = rows.run(
                question,
                Page.rows(rows.scope(question), rows.where(question), oldest, List.of(date), Optional.empty(), 1),
                List.of(date, date));
        if (first.isEmpty() || first.get(0)[1] == null) {
            return BigDecimal.ZERO;
        }
        Page.After before = new Page.After(List.of(Optional.of(first.get(0)[1])), (Long) first.get(0)[0]);
        Sql wide = Where.of(rows.besides(question, date));
        return sum(question, Page.sum(rows.scope(question), wide, amount, date, Optional.of(before), false));
    }

    private BigDecimal sum(Question question, Sql sql) {
        NativeQuery<Object[]> query = rows.query(question, sql);
        ValueType.of(FieldType.NUMBER).fetch(query, "c0");
        return rows.tracked(question, () -> (BigDecimal) (Object) query.getSingleResult());
    }
}
