package deftlens.server.totals;

import deftlens.core.condition.Comparison;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Groups;
import deftlens.core.time.Reading;
import deftlens.server.platform.Problem;
import deftlens.server.question.GroupKey;
import deftlens.server.question.Question;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The question that has exactly the records behind a figure: that of the totals, in its own window or another, and what the place has in
 * common.
 */
final class RecordsBehind {

    private final Question question;
    private final TotalFigure.Kind kind;
    private final Optional<Comparison> comparison;
    private final Optional<BalanceWindow> window;
    private final Optional<Field> amount;
    private final List<Condition> parts = new ArrayList<>();
    /** The periods that a balance is before or at the end of. */
    private Optional<Comparable<?>> from = Optional.empty();

    private Optional<Comparable<?>> to = Optional.empty();

    private RecordsBehind(
            Question question,
            TotalFigure.Kind kind,
            Optional<Comparison> comparison,
            Optional<BalanceWindow> window,
            Optional<Field> amount) {
        this.question = question;
        this.kind = kind;
        this.comparison = comparison;
        this.window = window;
        this.amount = amount;
    }

    /**
     * @param comparison the earlier time that is compared with; absent where none is
     * @param window the window whose balances are shown; absent where none are
     * @param amount the number of which they are
     * @throws Problem {@code no-place}, where a figure has no records of its own
     */
    static RecordsBehind of(
            Question question,
            TotalFigure.Kind kind,
            Optional<Comparison> comparison,
            Optional<BalanceWindow> window,
            Optional<Field> amount) {
        boolean has = switch (kind) {
            case VALUE, SHARE -> true;
            case EARLIER -> comparison.isPresent();
            case OPENING, IN, OUT, MOVEMENT, CLOSING -> window.isPresent();
            case CHANGE, DIFFERENCE, GROWTH ->
                throw Problem.unprocessable("no-place", "This is made of two figures. Open one of these instead.");
        };
        if (!has) {
            throw Problem.unprocessable("no-place", "There is no earlier time that these totals are compared with.");
        }
        return new RecordsBehind(
                question, kind, comparison.filter(c -> kind == TotalFigure.Kind.EARLIER), window, amount);
    }

    private boolean isBalance() {
        return kind == TotalFigure.Kind.OPENING || kind == TotalFigure.Kind.CLOSING;
    }

    /** Goes into a row or column. */
    void at(Groups.Level level, Optional<Object> value) {
        if (isBalance()
                && level instanceof Groups.Level.Periods periods
                && periods.field().equals(window.orElseThrow().date())) {
            BalanceWindow.Stretch stretch = window.get()
                    .of(
                            level,
                            value.filter(v -> !GroupKey.isBeyond(v))
                                    .orElseThrow(() -> Problem.unprocessable(
                                            "no-place", "What has no date of its own has no balance.")));
            from = BalanceWindow.latest(from, stretch.from());
            to = BalanceWindow.earliest(to, stretch.to());
            return;
        }
        parts.add(criterion(level, value, comparison, question.reading()));
    }

    /** Goes into the rows inside one that criteria on figures have not left out. */
    void anyOf(TotalsTable table, List<Optional<Object>> path) {
        parts.add(anyOf(table, path, comparison, question.reading()));
    }

    Condition condition() {
        List<Condition> all = new ArrayList<>();
        switch (kind) {
            case OPENING -> {
                return balance(window.orElseThrow().upToBeginning(from));
            }
            case CLOSING -> {
                return balance(window.orElseThrow().upTo(to));
            }
            case IN -> all.add(side(Test.Order.MORE));
            case OUT -> all.add(side(Test.Order.LESS));
            case VALUE, SHARE, EARLIER, MOVEMENT, CHANGE, DIFFERENCE, GROWTH -> {
                // The records of the place.
            }
        }
        all.addFirst(comparison.map(Comparison::condition).orElse(question.condition()));
        all.addAll(parts);
        return new Condition.All(all).normal();
    }

    private Condition balance(Optional<List<Condition>> criteria) {
        List<Condition> more = new ArrayList<>(
                criteria.orElseGet(() -> List.of(none(window.orElseThrow().date()))));
        more.addAll(parts);
        return window.orElseThrow().all(more);
    }

    private Condition side(Test.Order order) {
        return Condition.Criterion.of(
                amount.orElseThrow().key(), new Test.Compare(order, new Operand.Number(BigDecimal.ZERO)));
    }

    /** The records of the rows inside one that criteria on figures have not left out. */
    private static Condition anyOf(
            TotalsTable table, List<Optional<Object>> path, Optional<Comparison> earlier, Reading reading) {
        List<Groups.Level> rows = table.rows();
        // Values of one field beside one another are a list, which may be long; other rows are criteria of their own.
        Map<List<Condition>, List<Operand>> lists = new LinkedHashMap<>();
        List<Condition> others = new ArrayList<>();
        Groups.Level last = rows.getLast();
        for (List<Optional<Object>> row : table.paths(rows.size())) {
            if (!row.subList(0, path.size()).equals(path)) {
                continue;
            }
            List<Condition> outer = new ArrayList<>();
            for (int i = path.size(); i < rows.size() - 1; i++) {
                outer.add(criterion(rows.get(i), row.get(i), earlier, reading));
            }
            Condition inner = criterion(last, row.getLast(), earlier, reading);
            if (inner
                    instanceof
                    Condition.Criterion(String field, Test.Is(Operand value, boolean exactly), boolean not)) {
                lists.computeIfAbsent(outer, o -> new ArrayList<>()).add(value);
            } else {
                outer.add(inner);
                others.add(new Condition.All(outer));
            }
        }
        List<Condition> any = new ArrayList<>();
        lists.forEach((outer, values) -> {
            if (values.size() > Test.MAX_VALUES) {
                throw tooMany();
            }
            List<Condition> all = new ArrayList<>(outer);
            boolean exactly = last.field().type() == FieldType.TEXT;
            all.add(Condition.Criterion.of(last.field().key(), new Test.In(values, exactly)));
            any.add(new Condition.All(all));
        });
        any.addAll(others);
        return any.isEmpty() ? none(last.field()) : new Condition.Any(any);
    }

    /** What no record satisfies, since no row is left. */
    private static Condition none(Field field) {
        return new Condition.All(List.of(
                Condition.Criterion.of(field.key(), new Test.Empty()),
                Condition.Criterion.not(field.key(), new Test.Empty())));
    }

    /** More rows than one statement can ask for. */
    static Problem tooMany() {
        return Problem.unprocessable(
                "too-many-rows",
                "The records behind this figure are those of many rows. Open one of these rows instead.");
    }

    /**
     * The criterion for the records of one row or column.
     *
     * @param earlier the comparison where those of the earlier time are wanted
     * @throws Problem {@code no-words}
     */
    private static Condition criterion(
            Groups.Level level, Optional<Object> value, Optional<Comparison> earlier, Reading reading) {
        if (earlier.isPresent()
                && value.filter(v -> !GroupKey.isBeyond(v)).isPresent()
                && level instanceof Groups.Level.Periods periods
                && periods.field().equals(earlier.get().field())) {
            return Groups.criterion(periods, value.get(), earlier.get().shift().orElseThrow(), reading)
                    .orElseGet(() -> none(level.field()));
        }
        Optional<Condition> criterion = value.filter(GroupKey::isBeyond).isPresent()
                ? Optional.empty()
                : Groups.criterion(level, value, reading);
        return criterion.orElseThrow(() -> Problem.unprocessable(
                "no-words",
                "The records of this " + level.field().label()
                        + " cannot be asked for in words: it is beyond all dates or numbers that a statement has."));
    }
}
