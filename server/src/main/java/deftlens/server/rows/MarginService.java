package deftlens.server.rows;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Parts;
import deftlens.server.lanes.Attempt;
import deftlens.server.platform.Problem;
import deftlens.server.platform.StoppedQuery;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import org.springframework.stereotype.Service;

/**
 * The numbers in the margin: what each part of a condition lets in by itself, and what the whole would be without it. Of a
 * register of usual size one pass over its records counts them all; of a large one each is counted by itself, on the indexes
 * there are, no further than {@value CountsService#COUNT_CAP} and not for long.
 */
@Service
class MarginService {

    private static final int MOST_PARTS = 60;
    private static final Duration FOR_ONE = Duration.ofMillis(1_500);
    private static final Duration FOR_ALL = Duration.ofSeconds(8);

    private final CountsService counts;
    private final QueryRunner runner;
    private final Questions questions;

    MarginService(CountsService counts, QueryRunner runner, Questions questions) {
        this.counts = counts;
        this.runner = runner;
        this.questions = questions;
    }

    /**
     * What one part of the condition does.
     *
     * @param path the part's JSON Pointer in the condition
     * @param alone how many records are in the part by itself
     * @param aloneMore whether it was only counted that far, and there are more
     * @param without how many would match if the part were switched off
     * @param withoutMore whether it was only counted that far, and there are more
     * @param leavesOut how many records the part leaves out of an all-of group, where that was counted by itself
     * @param left how many would match if the statement ended after this part; absent where counting took too long
     * @param leftMore whether it was only counted that far, and there are more
     */
    public record PartCount(
            String path,
            long alone,
            boolean aloneMore,
            long without,
            boolean withoutMore,
            Optional<Long> leavesOut,
            Optional<Long> left,
            boolean leftMore) {}

    /**
     * What each part that is switched on does. Of a large register, parts that take too long to count are not there.
     *
     * @param count how many records the whole question has, where that was counted along with the parts
     * @param later whether nothing was counted, since that takes more than a moment and only what does not was to be
     */
    public record PartCounts(List<PartCount> parts, Optional<CountsService.Count> count, boolean later) {

        PartCounts(List<PartCount> parts) {
            this(parts, Optional.empty(), false);
        }
    }

    /**
     * What each part of the condition does, and how many records the whole of it has, where the register is so small that one pass over
     * it has all of these; nothing of a large one, and where the pass takes longer than a first try. So it never stands in the slow lane
     * before a question of more worth.
     */
    PartCounts ofSmall(Question question) {
        List<Parts.Part> parts = checked(question);
        if (counts.isLarge(question, CountsService.READ_AT_ONCE)) {
            return new PartCounts(List.of(), Optional.empty(), true);
        }
        if (parts.isEmpty()) {
            return new PartCounts(List.of(), Optional.of(counts.count(question, true)), false);
        }
        try {
            return inOnePass(question, parts, true);
        } catch (RuntimeException e) {
            boolean first = Attempt.current()
                    .filter(attempt -> attempt.isFirst() && !attempt.isStopped())
                    .isPresent();
            if (!first || !StoppedQuery.isBehind(e)) {
                throw e;
            }
            return new PartCounts(List.of(), Optional.empty(), true);
        }
    }

    /** What each part of the condition does. */
    PartCounts parts(Question question) {
        List<Parts.Part> parts = checked(question);
        if (parts.isEmpty()) {
            return new PartCounts(List.of());
        }
        return counts.isLarge(question, CountsService.READ_WHOLE)
                ? inOneStatement(question, parts).orElseGet(() -> oneByOne(question, parts))
                : inOnePass(question, parts, false);
    }

    /** The parts that are switched on, once it is known that they can be counted. */
    private List<Parts.Part> checked(Question question) {
        List<Parts.Part> parts = Parts.of(question.condition());
        if (parts.size() > MOST_PARTS) {
            throw Problem.unprocessable(
                    "too-many-parts", "Counts are shown for at most " + MOST_PARTS + " criteria and groups.");
        }
        // What does not fit is found here, before anything is counted.
        questions.bind(question);
        return parts;
    }

    /** All counts at once, each on its own index; nothing where that takes too long. */
    Optional<PartCounts> inOneStatement(Question question, List<Parts.Part> parts) {
        List<Condition> conditions = new ArrayList<>();
        for (Parts.Part part : parts) {
            conditions.add(part.part());
            conditions.add(part.without());
            conditions.add(Parts.upTo(question.condition(), part.path()));
            if (isInAll(part)) {
                conditions.add(leftOut(part));
            }
        }
        long started = System.nanoTime();
        List<Long> numbers;
        try {
            numbers = counts.capped(question, conditions, CountsService.COUNT_CAP + 1, FOR_ONE);
        } catch (RuntimeException e) {
            if (isTooLong(e, started)) {
                return Optional.empty();
            }
            throw e;
        }
        List<PartCount> found = new ArrayList<>();
        int at = 0;
        for (Parts.Part part : parts) {
            long alone = numbers.get(at++);
            long without = numbers.get(at++);
            long left = numbers.get(at++);
            OptionalLong leavesOut = isInAll(part) ? OptionalLong.of(numbers.get(at++)) : OptionalLong.empty();
            found.add(count(part, alone, OptionalLong.of(without), leavesOut, OptionalLong.of(left)));
        }
        return Optional.of(new PartCounts(found));
    }

    private static boolean isInAll(Parts.Part part) {
        return part.path().matches("/all/\\d+");
    }

    private static Condition leftOut(Parts.Part part) {
        return new Condition.All(List.of(part.without(), new Condition.None(List.of(part.part()))));
    }

    private static PartCount count(
            Parts.Part part, long alone, OptionalLong without, OptionalLong leavesOut, OptionalLong left) {
        boolean more = without.isEmpty() || without.getAsLong() > CountsService.COUNT_CAP;
        return new PartCount(
                part.path(),
                capped(alone),
                alone > CountsService.COUNT_CAP,
                capped(without.orElse(0)),
                more,
                // Where the rest alone is too many to be counted, what the part takes from it may still be few.
                more && leavesOut.isPresent() && leavesOut.getAsLong() <= CountsService.COUNT_CAP
                        ? Optional.of(leavesOut.getAsLong())
                        : Optional.empty(),
                left.isPresent() ? Optional.of(capped(left.getAsLong())) : Optional.empty(),
                left.isPresent() && left.getAsLong() > CountsService.COUNT_CAP);
    }

    /** @param whole whether the whole question is counted along */
    PartCounts inOnePass(Question question, List<Parts.Part> parts, boolean whole) {
        List<Condition> conditions = new ArrayList<>();
        for (Parts.Part part : parts) {
            conditions.add(part.part());
            conditions.add(part.without());
            conditions.add(Parts.upTo(question.condition(), part.path()));
        }
        if (whole) {
            conditions.add(question.condition());
            conditions.add(Condition.EVERYTHING);
        }
        List<Long> numbers = counts.inOnePass(question, conditions, runner.patience());
        List<PartCount> found = new ArrayList<>();
        for (int i = 0; i < parts.size(); i++) {
            found.add(new PartCount(
                    parts.get(i).path(),
                    numbers.get(3 * i),
                    false,
                    numbers.get(3 * i + 1),
                    false,
                    Optional.empty(),
                    Optional.of(numbers.get(3 * i + 2)),
                    false));
        }
        int last = numbers.size() - 1;
        return whole
                ? new PartCounts(
                        found,
                        Optional.of(new CountsService.Count(numbers.get(last - 1), true, numbers.get(last))),
                        false)
                : new PartCounts(found);
    }

    PartCounts oneByOne(Question question, List<Parts.Part> parts) {
        long until = System.nanoTime() + FOR_ALL.toNanos();
        List<PartCount> found = new ArrayList<>();
        for (Parts.Part part : parts) {
            OptionalLong alone = counted(question, part.part(), until);
            if (alone.isEmpty()) {
                continue;
            }
            OptionalLong without = counted(question, part.without(), until);
            boolean more = without.isEmpty() || without.getAsLong() > CountsService.COUNT_CAP;
            OptionalLong leavesOut =
                    more && isInAll(part) ? counted(question, leftOut(part), until) : OptionalLong.empty();
            OptionalLong left = counted(question, Parts.upTo(question.condition(), part.path()), until);
            found.add(count(part, alone.getAsLong(), without, leavesOut, left));
        }
        return new PartCounts(found);
    }

    private static long capped(long counted) {
        return Math.min(counted, CountsService.COUNT_CAP);
    }

    /** A number, or nothing where it takes too long; a reader who moves on ends it all. */
    private OptionalLong counted(Question question, Condition condition, long until) {
        long started = System.nanoTime();
        if (started > until) {
            return OptionalLong.empty();
        }
        try {
            return OptionalLong.of(counts.capped(question, condition, CountsService.COUNT_CAP + 1, FOR_ONE));
        } catch (RuntimeException e) {
            if (isTooLong(e, started)) {
                return OptionalLong.empty();
            }
            throw e;
        }
    }

    private static boolean isTooLong(RuntimeException e, long started) {
        return StoppedQuery.isBehind(e) && System.nanoTime() - started >= FOR_ONE.toNanos() * 9 / 10;
    }
}
