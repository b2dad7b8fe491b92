package deftlens.server.totals;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Comparison;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import deftlens.core.field.Register;
import deftlens.core.sql.Groups;
import deftlens.core.sql.KeptSums;
import deftlens.core.sql.Measures;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Totals;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.core.time.Shift;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.Figures;
import deftlens.server.question.GroupKey;
import deftlens.server.question.GroupLevels;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Selections;
import deftlens.server.question.Shape;
import deftlens.server.sums.SumsService;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Totals of a question's records, and the question that has exactly the records behind one of their figures. */
@Service
public class TotalsService {

    /** The most figures' places, rows times columns, that are given at once. */
    public static final int MAX_CELLS = 20_000;

    private final QueryRunner runner;
    private final Selections selections;
    private final GroupLevels levels;
    private final Questions questions;
    private final SumsService sums;

    TotalsService(
            QueryRunner runner, Selections selections, GroupLevels levels, Questions questions, SumsService sums) {
        this.runner = runner;
        this.selections = selections;
        this.levels = levels;
        this.questions = questions;
        this.sums = sums;
    }

    /** The totals that a question's shape asks for. */
    @Transactional(readOnly = true)
    public TotalsAnswer totals(Question question) {
        return totals(question, TotalsPlan.of(question.shape(), question.registerForReader()));
    }

    /** Totals of a question's records. */
    @Transactional(readOnly = true)
    TotalsAnswer totals(Question question, TotalsPlan asked) {
        Optional<EarlierTime> earlier = earlier(question, asked);
        Optional<Comparison> comparison = earlier.flatMap(EarlierTime::comparison);
        TotalsPlan plan = comparison.isPresent() ? asked : asked.alone();
        Optional<BalanceWindow> window = window(question, plan);
        TotalsRead read = shown(question, plan, comparison, window);
        return new TotalsRendering(question.reading(), plan, read.table(), window)
                .answer(
                        questions.bind(question),
                        earlier.map(e -> e.said(asked.compare().orElseThrow())),
                        window.map(w -> new TotalsAnswer.TotalsBalance(
                                plan.balanced().orElseThrow().key(), w.said(), w.opening())),
                        findings(question, plan),
                        read.outermost());
    }

    /** @param outermost how many of the outermost rows it has, where not all */
    private record TotalsRead(TotalsTable table, Optional<TotalsAnswer.TotalsOutermost> outermost) {}

    /** The cells of the rows that are shown. */
    private TotalsRead shown(
            Question question, TotalsPlan plan, Optional<Comparison> comparison, Optional<BalanceWindow> window) {
        if (plan.limit().isEmpty()) {
            return new TotalsRead(
                    read(question, plan, comparison, window, new Totals.Outermost.All()), Optional.empty());
        }
        TotalsTable all = read(question, plan, comparison, window, new Totals.Outermost.Told());
        List<Optional<Object>> outermost = new TotalsRendering(question.reading(), plan, all, window).outermost();
        if (outermost.size() <= plan.limit().get()) {
            return new TotalsRead(all, Optional.empty());
        }
        // Asked again, since a median of some rows is not told by theirs.
        List<String> texts = outermost.subList(0, plan.limit().get()).stream()
                .map(value -> all.cell(List.of(value), Optional.empty())
                        .flatMap(TotalsTable.Cell::outermost)
                        .orElseThrow())
                .toList();
        return new TotalsRead(
                read(question, plan, comparison, window, new Totals.Outermost.Only(texts)),
                Optional.of(new TotalsAnswer.TotalsOutermost(texts.size(), outermost.size())));
    }

    private Optional<EarlierTime> earlier(Question question, TotalsPlan plan) {
        return plan.compare().map(with -> {
            List<Shape.Grouping> all = new ArrayList<>(plan.rows());
            plan.across().ifPresent(all::add);
            return EarlierTime.of(question, with, levels.levels(question, all));
        });
    }

    private Optional<BalanceWindow> window(Question question, TotalsPlan plan) {
        return plan.balances().map(opening -> BalanceWindow.of(question, opening, questions));
    }

    private TotalsTable read(
            Question question,
            TotalsPlan plan,
            Optional<Comparison> comparison,
            Optional<BalanceWindow> window,
            Totals.Outermost outermost) {
        List<Groups.Level> rows = levels.levels(question, plan.rows());
        Optional<Groups.Level> across =
                plan.across().map(a -> levels.levels(question, List.of(a)).getFirst());
        Optional<Bound> keep = plan.keep().map(text -> keep(question, plan, text));
        Totals totals = new Totals(
                rows, across, new Measures(plan.measures(), question.mayHoldNoNumbers()), keep, plan.balanced());
        boolean hasEarlier =
                comparison.isPresent() || window.flatMap(BalanceWindow::prior).isPresent();
        boolean tells = outermost instanceof Totals.Outermost.Told;
        List<TotalsTable.Cell> cells = ofSums(question, totals, outermost, comparison, window)
                .flatMap(sql -> sums.tried(() -> cells(question, totals, sql, hasEarlier, tells)))
                .orElseGet(() -> cells(
                        question,
                        totals,
                        ofRecords(question, totals, outermost, comparison, window),
                        hasEarlier,
                        tells));
        if (cells.size() > MAX_CELLS) {
            throw tooMany();
        }
        return new TotalsTable(
                rows, across, cells, window.filter(w -> w.prior().isPresent()).map(BalanceWindow::date));
    }

    private List<TotalsTable.Cell> cells(Question question, Totals totals, Sql sql, boolean hasEarlier, boolean tells) {
        return runner.list(question, sql, row -> {
            List<Optional<Object>> keys = new ArrayList<>();
            int column = 3;
            for (Groups.Level level : totals.levels()) {
                keys.add(GroupKey.read(level, row, column++));
            }
            return new TotalsTable.Cell(
                    row.getBoolean(1),
                    row.getInt(2),
                    keys,
                    told(row, column, totals),
                    hasEarlier ? Optional.of(told(row, column + 1 + totals.width(), totals)) : Optional.empty(),
                    tells
                            ? Optional.ofNullable(row.getString(column + (hasEarlier ? 2 : 1) * (1 + totals.width())))
                            : Optional.empty());
        });
    }

    private Sql ofRecords(
            Question question,
            Totals totals,
            Totals.Outermost outermost,
            Optional<Comparison> comparison,
            Optional<BalanceWindow> window) {
        Selections.Selected selected = selections.selected(question);
        Optional<Totals.Earlier> compared =
                comparison.map(c -> Totals.Earlier.compared(where(question, c.condition()), c.field(), c.shift()));
        Optional<Totals.Earlier> prior =
                window.flatMap(w -> w.prior().map(p -> Totals.Earlier.before(where(question, p), w.date())));
        return totals.select(
                selected.scope(),
                selected.where(),
                compared.or(() -> prior),
                outermost,
                question.reading(),
                MAX_CELLS + 1);
    }

    /** The same of kept sums; nothing where these do not tell it. */
    private Optional<Sql> ofSums(
            Question question,
            Totals totals,
            Totals.Outermost outermost,
            Optional<Comparison> comparison,
            Optional<BalanceWindow> window) {
        return sums.of(question)
                .filter(kept -> comparison
                        .map(Comparison::field)
                        .or(() -> window.map(BalanceWindow::date))
                        .filter(date -> !kept.isDate(date))
                        .isEmpty())
                .flatMap(kept -> ofSums(
                        question,
                        totals,
                        outermost,
                        kept,
                        comparison.map(Comparison::condition).or(() -> window.flatMap(BalanceWindow::prior)),
                        comparison.flatMap(Comparison::shift),
                        comparison.isPresent()));
    }

    /**
     * @param then what the records of the earlier time satisfy
     * @param compares whether these stand beside, and not before
     */
    private Optional<Sql> ofSums(
            Question question,
            Totals totals,
            Totals.Outermost outermost,
            KeptSums kept,
            Optional<Condition> then,
            Optional<Shift> shift,
            boolean compares) {
        Optional<Totals> told = kept.over(totals, question.reading().zone());
        Optional<Sql> where = kept.where(questions.bind(question));
        Optional<Totals.Earlier> earlier = then.flatMap(c -> kept.where(questions.bind(question.asking(c))))
                .map(sql -> compares
                        ? Totals.Earlier.compared(sql, kept.day(), shift)
                        : Totals.Earlier.before(sql, kept.day()));
        return told.isEmpty() || where.isEmpty() || then.isPresent() && earlier.isEmpty()
                ? Optional.empty()
                : Optional.of(told.get()
                        .select(kept.scope(), where.get(), earlier, outermost, question.reading(), MAX_CELLS + 1));
    }

    /**
     * One figure on the line under the totals of a question's shape: of the rows that are shown.
     *
     * @param name the figure's name
     * @throws Problem where the shape is not read as totals ({@code no-totals}) or has no such figure ({@code unknown-figure})
     */
    @Transactional(readOnly = true)
    public TotalsAnswer.TotalsTold told(Question question, String name) {
        TotalsPlan whole = plan(question);
        TotalFigure figure = alone(whole, name);
        // Which rows there are matters only where some of them are left out.
        TotalsPlan plan = whole.keep().isPresent() || whole.limit().isPresent() ? whole : whole.underneath();
        TotalsAnswer answer = totals(question, plan);
        return answer.figures().stream()
                .filter(f -> f.name().equals(name))
                .findFirst()
                .map(f -> new TotalsAnswer.TotalsTold(
                        f, answer.shownTotal().values().getOrDefault(name, Optional.empty())))
                // What is compared with is not there for every question.
                .orElseGet(() -> new TotalsAnswer.TotalsTold(figure.described(), Optional.empty()));
    }

    /**
     * Requires that a question's shape has a figure of a name.
     *
     * @throws Problem as {@link #told} does
     */
    public void requireFigure(Question question, String name) {
        alone(plan(question), name);
    }

    /** A figure that the line under all rows has. */
    private static TotalFigure alone(TotalsPlan plan, String name) {
        TotalFigure figure = plan.named(name);
        if (figure.kind() == TotalFigure.Kind.CHANGE) {
            throw Problem.unprocessable(
                    "no-place", "A change is against the column before; all columns together have none.");
        }
        return figure;
    }

    /** Whether a question's shape has a figure of a name, as its reader has it. */
    public boolean hasFigure(Question question, String name) {
        return question.shape().totals().isPresent()
                && plan(question).figures().stream().anyMatch(f -> f.name().equals(name));
    }

    private static TotalsPlan plan(Question question) {
        if (question.shape().totals().isEmpty()) {
            throw Problem.unprocessable("no-totals", "This view is read as records, not as totals.");
        }
        return TotalsPlan.of(question.shape(), question.registerForReader());
    }

    static Problem tooMany() {
        return Problem.unprocessable(
                "too-many-rows",
                "These are more than " + String.format("%,d", MAX_CELLS)
                        + " rows and columns. Narrow the question, or put it together by something coarser.");
    }

    private Sql where(Question question, Condition condition) {
        return selections.where(question.asking(condition));
    }

    /** @param column the place of the number of records, from 1 */
    private static TotalsTable.Of told(ResultSet row, int column, Totals totals) throws SQLException {
        int flow = column + 1 + totals.measures().width();
        boolean flows = totals.flow().isPresent();
        return new TotalsTable.Of(
                row.getLong(column),
                Figures.read(row, column + 1, totals.measures()),
                flows ? Optional.ofNullable(row.getBigDecimal(flow)) : Optional.empty(),
                flows ? Optional.ofNullable(row.getBigDecimal(flow + 1)) : Optional.empty());
    }

    private Bound keep(Question question, TotalsPlan plan, String text) {
        Register figures = plan.asRegister();
        Condition condition = questions.condition(figures, Optional.of(text), Optional.empty());
        return questions.bind(figures, condition, question.reading(), question.who());
    }

    /** Criteria on records that somebody may have meant to be on figures, each with both statements as they would be then. */
    private List<TotalsAnswer.TotalsFinding> findings(Question question, TotalsPlan plan) {
        if (plan.rows().isEmpty()) {
            return List.of();
        }
        List<Condition> parts = question.condition() instanceof Condition.All(List<Condition> all)
                ? all
                : List.of(question.condition());
        List<TotalsAnswer.TotalsFinding> found = new ArrayList<>();
        for (Condition part : parts) {
            if (part instanceof Condition.Criterion(String field, Test test, boolean negated)
                    && (test instanceof Test.Compare || test instanceof Test.Between)) {
                plan.sumOf(field).ifPresent(sum -> {
                    List<Condition> keep = new ArrayList<>();
                    plan.keep().ifPresent(k -> keep.add(keep(plan, k, question.who())));
                    keep.add(new Condition.Criterion(sum, test, negated));
                    List<Condition> others = new ArrayList<>(parts);
                    others.remove(part);
                    found.add(new TotalsAnswer.TotalsFinding(
                            "“" + Wording.lines(part, question.register()).getFirst()
                                    + "” leaves records out before they are added up. Did you mean their sum?",
                            Printer.print(new Condition.All(others).normal()),
                            Printer.print(new Condition.All(keep).normal())));
                });
            }
        }
        return found;
    }

    /**
     * Reads a statement over figures.
     *
     * @throws Problem where it cannot be read or does not fit them
     */
    Condition keep(TotalsPlan plan, String text, SignedIn who) {
        Register figures = plan.asRegister();
        Condition condition = questions.condition(figures, Optional.of(text), Optional.empty());
        questions.bind(figures, condition, questions.reading(Optional.empty(), Optional.empty()), who);
        return condition;
    }

    /** The rows that are shown; where no inner row is left out, the outermost alone. */
    private TotalsTable shownRows(Question question, TotalsPlan plan) {
        TotalsPlan some = plan.keep().isPresent() ? plan : plan.outermost();
        Optional<Comparison> comparison = earlier(question, some).flatMap(EarlierTime::comparison);
        TotalsPlan asked = comparison.isPresent() ? some : some.alone();
        return shown(question, asked, comparison, window(question, asked)).table();
    }

    // ------------------------------------------------------------------ the records behind a figure

    /**
     * A place among totals.
     *
     * @param keys the row: the {@code value} of each of its keys, the outermost first; {@code null} for one without. Fewer than there are
     *     levels for a row above others, none for the line under all
     * @param across the column; absent for all of them together
     * @param whole for the line under all rows: whether of all records, also those in rows that criteria on figures leave out
     * @param figure the name of the figure whose records are wanted; the records of the place when absent
     */
    record TotalsPlace(
            List<Optional<String>> keys,
            Optional<TotalsColumn> across,
            Optional<Boolean> whole,
            Optional<String> figure) {

        /** @param value as the column's key has it; absent for the records without one */
        record TotalsColumn(Optional<String> value) {}
    }

    /** The condition that has exactly the records behind a figure at a place. */
    @Transactional(readOnly = true)
    Condition behind(Question question, TotalsPlan plan, TotalsPlace place) {
        List<Groups.Level> rows = levels.levels(question, plan.rows());
        if (place.keys().size() > rows.size()
                || place.across().isPresent() && plan.across().isEmpty()) {
            throw Problem.unprocessable("no-place", "There is no such row or column.");
        }
        RecordsBehind behind = RecordsBehind.of(
                question,
                place.figure().map(plan::named).map(TotalFigure::kind).orElse(TotalFigure.Kind.VALUE),
                earlier(question, plan).flatMap(EarlierTime::comparison),
                window(question, plan),
                plan.balanced());
        List<Optional<Object>> path = new ArrayList<>();
        for (int i = 0; i < place.keys().size(); i++) {
            Optional<Object> value = levels.value(rows.get(i), place.keys().get(i));
            path.add(TotalsTable.same(value));
            behind.at(rows.get(i), value);
        }
        place.across().ifPresent(column -> {
            Groups.Level level = levels.levels(question, List.of(plan.across().orElseThrow()))
                    .getFirst();
            behind.at(level, levels.value(level, column.value()));
        });
        if (!place.whole().orElse(false)) {
            if (plan.limit().isPresent() && path.isEmpty()) {
                behind.anyOf(shownRows(question, plan), path);
            } else if (plan.keep().isPresent() && path.size() < rows.size()) {
                behind.anyOf(
                        read(
                                question,
                                plan.alone(),
                                Optional.empty(),
                                window(question, plan),
                                new Totals.Outermost.All()),
                        path);
            }
        }
        Condition condition = behind.condition();
        if (condition.criteria().size() > Condition.MAX_CRITERIA) {
            throw RecordsBehind.tooMany();
        }
        return condition;
    }
}
