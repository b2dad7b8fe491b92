package deftlens.server.rows;

import com.fasterxml.jackson.annotation.JsonProperty;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.sql.Page;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Where;
import deftlens.core.time.Reading;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Selections;
import deftlens.server.registers.CalculatedTwice;
import deftlens.server.registers.RegisterCatalogue;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Counts the records of questions. */
@Service
public class CountsService {

    /** A count stops here unless the exact one is asked for. */
    public static final int COUNT_CAP = 10_000;

    /** Up to so many records, several counts are one pass over all; above, each is looked for by itself. */
    public static final int READ_WHOLE = 200_000;

    /** Up to so many records, counting several things at once takes no longer than a reader notices. */
    public static final int READ_AT_ONCE = 100_000;

    private final QueryRunner runner;
    private final Selections selections;
    private final Questions questions;
    private final KeptCounts kept;
    private final RegisterCatalogue registers;

    CountsService(
            QueryRunner runner,
            Selections selections,
            Questions questions,
            KeptCounts kept,
            RegisterCatalogue registers) {
        this.runner = runner;
        this.selections = selections;
        this.questions = questions;
        this.kept = kept;
        this.registers = registers;
    }

    /**
     * How many records match.
     *
     * @param exact whether that is all of them, or {@value #COUNT_CAP} of more
     * @param total how many records the person may see
     */
    public record Count(long matching, boolean exact, long total) {}

    /** How many records match; beyond the cap only when the exact number is asked for. */
    @Transactional(readOnly = true)
    public Count count(Question question, boolean exact) {
        Scope scope = selections.scope(question);
        long total = kept.total(question)
                .orElseGet(() -> runner.number(question, Page.count(scope, Sql.of("true"), Optional.empty())));
        if (KeptCounts.asksEverything(question)) {
            return new Count(total, true, total);
        }
        long matching = runner.number(
                question,
                Page.count(scope, selections.where(question), exact ? Optional.empty() : Optional.of(COUNT_CAP + 1)));
        boolean all = exact || matching <= COUNT_CAP;
        return new Count(all ? matching : COUNT_CAP, all, total);
    }

    /** Whether a register has more than so many records. */
    @Transactional(readOnly = true)
    public boolean isLarge(Question question, int records) {
        return kept.total(question)
                        .orElseGet(() -> runner.number(
                                question,
                                Page.count(selections.scope(question), Sql.of("true"), Optional.of(records + 1))))
                > records;
    }

    // ------------------------------------------------------------------ several conditions over one register

    /**
     * How many records are in a condition, counted no further than a cap; in a transaction of its own, since a count that
     * takes too long ends it.
     */
    public long capped(Question question, Condition condition, int cap, Duration within) {
        return runner.apart(() -> runner.number(
                question,
                Page.count(
                        selections.scope(question),
                        Where.of(questions.binder(question).bind(condition)),
                        Optional.of(cap)),
                within));
    }

    /** How many records are in each of the conditions, each counted by itself and no further than a cap; in one statement. */
    public List<Long> capped(Question question, List<Condition> conditions, int cap, Duration within) {
        return runner.apart(() -> runner.numbers(
                question, Page.cappedCounts(selections.scope(question), where(question, conditions), cap), within));
    }

    /** How many records are in each of the conditions, in one pass; within a time of its own. */
    @Transactional(readOnly = true)
    public List<Long> inOnePass(Question question, List<Condition> conditions, Duration within) {
        return runner.numbers(question, Page.counts(selections.scope(question), where(question, conditions)), within);
    }

    /** The same of conditions that are bound already; in a transaction of its own. */
    public List<Long> boundInOnePass(Question question, List<Bound> conditions, Duration within) {
        return runner.apart(() -> runner.numbers(
                question,
                Page.counts(
                        selections.scope(question),
                        conditions.stream().map(Where::of).toList()),
                within));
    }

    private List<Sql> where(Question question, List<Condition> conditions) {
        Binder binder = questions.binder(question);
        return conditions.stream().map(c -> Where.of(binder.bind(c))).toList();
    }

    // ------------------------------------------------------------------ two readings of one question

    /** Which of two readings has a record. */
    public enum Side {
        /** This one and not the other. */
        @JsonProperty("here")
        HERE,
        /** The other one and not this. */
        @JsonProperty("there")
        THERE,
        /** Both. */
        @JsonProperty("both")
        BOTH
    }

    /**
     * One question read at two moments.
     *
     * @param here the records that only the first reading has
     * @param there those that only the other one has
     * @param both those of both
     * @param asOf the moment of the first reading
     * @param against the moment of the other
     */
    public record Comparison(long here, long there, long both, Instant asOf, Instant against) {}

    /** The question put to the records of one side only. */
    public Question onSide(Question question, Reading other, Side side) {
        // What changes as time goes by has a value at each of the two.
        CalculatedTwice twice = registers.twice(question.registerForReader(), other);
        Question both = question.over(twice.described());
        Bound here = questions.bind(both);
        Bound there = questions.bind(both.at(other).asking(twice.later(question.condition())));
        return switch (side) {
            case HERE -> both.with(new Bound.Not(there));
            case BOTH -> both.with(there);
            // What is kept is the reading of the first, so that a page says the moment it was asked for.
            case THERE -> both.asking(Condition.EVERYTHING).with(there).with(new Bound.Not(here));
        };
    }

    /** How many records two readings have each, in one pass. */
    @Transactional(readOnly = true)
    public Comparison comparison(Question question, Reading other) {
        List<Question> asked = Arrays.stream(Side.values())
                .map(side -> onSide(question, other, side))
                .toList();
        List<Long> counts = runner.numbers(
                question,
                Page.counts(
                        selections.scope(asked.get(0)),
                        asked.stream().map(selections::where).toList()),
                runner.patience());
        return new Comparison(
                counts.get(0), counts.get(1), counts.get(2), question.reading().now(), other.now());
    }
}
