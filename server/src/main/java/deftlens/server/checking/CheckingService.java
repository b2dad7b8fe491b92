package deftlens.server.checking;

import deftlens.core.check.Checker;
import deftlens.core.check.Finding;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import deftlens.server.lanes.Attempt;
import deftlens.server.lanes.ProcessorWork;
import deftlens.server.platform.StoppedQuery;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.registers.FieldOrigin;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.CountsService;
import deftlens.server.rows.ValuesService;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Service;

/** What the checker notices about a question, also among the records. */
@Service
public class CheckingService {

    private static final int MOST_NUMBERS = 60;

    /** As many records as stand on a page, and one. */
    private static final int FIRST_RECORDS = 101;

    /** Criteria that are checked in a moment. */
    private static final int CHECKED_AT_ONCE = 50;

    private final Questions questions;
    private final CountsService counts;
    private final ValuesService values;
    private final ProcessorWork processor;
    private final Duration patience;

    CheckingService(
            Questions questions,
            CountsService counts,
            ValuesService values,
            ProcessorWork processor,
            @Value("${deft.limits.checking-timeout}") Duration patience) {
        this.questions = questions;
        this.counts = counts;
        this.values = values;
        this.processor = processor;
        this.patience = patience;
    }

    /**
     * Findings.
     *
     * @param complete whether the records were looked at too; not where that would have taken too long
     */
    public record Checked(List<Finding> findings, boolean complete) {}

    /** What can be said without looking at records. */
    public List<Finding> check(Question question, Checker.About about) {
        Binder binder = binder(question);
        return question.condition().criteria().size() <= CHECKED_AT_ONCE
                ? Checker.findings(question.condition(), binder, about)
                : processor.run(() -> Checker.findings(question.condition(), binder, about));
    }

    /** What can be said with looking at records, where the register is small and that takes no more than a moment. */
    public Checked checkSmall(Question question, Checker.About about) {
        return counts.isLarge(question, CountsService.READ_AT_ONCE)
                ? new Checked(check(question, about), false)
                : checkRecords(question, about, true);
    }

    /** What can be said with looking at records, as far as that is quick. */
    public Checked checkRecords(Question question, Checker.About about) {
        return checkRecords(question, about, false);
    }

    /** @param once whether a look that takes too long is given up, instead of being taken again in the slow lane */
    private Checked checkRecords(Question question, Checker.About about, boolean once) {
        List<Finding> findings = new ArrayList<>(check(question, about));
        if (findings.stream().anyMatch(f -> f.level() == Finding.Level.ERROR)) {
            // A question that cannot be answered, or only with nothing, has no numbers worth knowing.
            return new Checked(findings, true);
        }
        boolean complete;
        try {
            complete = numbers(question, findings);
            for (Checker.Listed listed : Checker.listed(question.condition(), question.register())) {
                List<Operand> missing =
                        values.missing(question, listed.field(), listed.values(), listed.exactly(), patience);
                if (!missing.isEmpty()) {
                    findings.add(Checker.missing(question.condition(), listed, missing));
                }
            }
        } catch (RuntimeException e) {
            // A first, short try goes on in the slow lane before it is given up.
            if (!isGivenUp(e, once)) {
                throw e;
            }
            complete = false;
        }
        if (!once) {
            slowCalculation(question).ifPresent(findings::add);
        }
        findings.sort(Comparator.comparing(Finding::level));
        return new Checked(findings, complete);
    }

    /** @param once whether a look that takes too long is not taken again in the slow lane */
    private static boolean isGivenUp(RuntimeException e, boolean once) {
        return StoppedQuery.isBehind(e)
                && (once || Attempt.current().filter(Attempt::isFirst).isEmpty())
                && Attempt.current().filter(Attempt::isStopped).isEmpty();
    }

    /** Looks for the first records with criteria on calculated fields and, where that takes too long, without them. */
    private Optional<Finding> slowCalculation(Question question) {
        List<Condition> parts = question.condition() instanceof Condition.All(List<Condition> all)
                ? all
                : List.of(question.condition());
        Map<Boolean, List<Condition>> calculated = parts.stream()
                .collect(Collectors.partitioningBy(p -> !calculated(question, p).isEmpty()));
        if (calculated.get(true).isEmpty()) {
            return Optional.empty();
        }
        long began = System.nanoTime();
        try {
            counts.capped(question, question.condition(), FIRST_RECORDS, patience);
            return Optional.empty();
        } catch (RuntimeException e) {
            if (!isGivenUp(e, false)) {
                throw e;
            }
        }
        long seconds = Duration.ofNanos(System.nanoTime() - began).toSeconds();
        try {
            counts.capped(question, new Condition.All(calculated.get(false)), FIRST_RECORDS, patience);
        } catch (RuntimeException e) {
            if (!isGivenUp(e, false)) {
                throw e;
            }
            // The others are slow as well.
            return Optional.empty();
        }
        List<Field> fields = calculated.get(true).stream()
                .flatMap(p -> calculated(question, p).stream())
                .distinct()
                .toList();
        return Optional.of(Checker.slow(question.condition(), fields, seconds));
    }

    private static List<Field> calculated(Question question, Condition part) {
        RegisterForReader described = question.registerForReader();
        return part.criteria().stream()
                .flatMap(c -> c.fields().stream())
                .filter(key -> Optional.ofNullable(described.notes().get(key))
                        .filter(n -> n.origin() == FieldOrigin.CALCULATED)
                        .isPresent())
                .flatMap(key -> described.register().field(key).stream())
                .toList();
    }

    /** @return whether all numbers were counted */
    private boolean numbers(Question question, List<Finding> into) {
        List<Checker.Wanted> wanted = Checker.wanted(question.condition(), binder(question));
        if (wanted.isEmpty()) {
            return true;
        }
        boolean all = wanted.size() <= MOST_NUMBERS;
        List<Checker.Wanted> some = all ? wanted : wanted.subList(0, MOST_NUMBERS);
        List<Condition> conditions =
                some.stream().map(Checker.Wanted::condition).toList();
        // One pass over a small register has them all; of a large one each is looked for by itself, and no further than
        // is said.
        boolean large = counts.isLarge(question, CountsService.READ_WHOLE);
        List<Long> numbers = large
                ? counts.capped(question, conditions, CountsService.COUNT_CAP + 1, patience)
                : counts.inOnePass(question, conditions, patience);
        for (int i = 0; i < some.size(); i++) {
            boolean more = large && numbers.get(i) > CountsService.COUNT_CAP;
            some.get(i)
                    .finding()
                    .by(more ? CountsService.COUNT_CAP : numbers.get(i), more)
                    .ifPresent(into::add);
        }
        return all;
    }

    private Binder binder(Question question) {
        return questions.binder(question);
    }
}
