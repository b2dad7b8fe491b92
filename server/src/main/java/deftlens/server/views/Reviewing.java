package deftlens.server.views;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.time.Reading;
import deftlens.server.lanes.Attempt;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.StoppedQuery;
import deftlens.server.question.Question;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.CountsService;
import deftlens.server.views.ViewEffect.Moves;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Counts what comes in and goes when something that views ask for is to have another meaning. */
@Component
class Reviewing {

    private static final Logger LOG = LoggerFactory.getLogger(Reviewing.class);

    /** How long the records of one view are counted. */
    private static final Duration PATIENCE = Duration.ofSeconds(5);

    /** How long those of all views are; what is left then is told without numbers. */
    private static final Duration PATIENCE_FOR_ALL = Duration.ofSeconds(20);

    private final CountsService counts;
    private final Clock clock;

    Reviewing(CountsService counts, Clock clock) {
        this.counts = counts;
        this.clock = clock;
    }

    /** When the counting for a review that begins now is given up. */
    Instant until() {
        return clock.instant().plus(PATIENCE_FOR_ALL);
    }

    /**
     * How many records come in, go and stay, of all that somebody sees of a register.
     *
     * @param until when no more is counted
     * @return nothing where it could not be counted in time
     */
    Optional<Moves> moves(
            RegisterForReader described, Bound before, Bound after, Reading reading, SignedIn who, Instant until) {
        if (clock.instant().isAfter(until)) {
            return Optional.empty();
        }
        try {
            List<Long> numbers = counts.boundInOnePass(
                    Question.of(described, Condition.EVERYTHING, reading, who),
                    List.of(
                            new Bound.Every(List.of(after, new Bound.Not(before))),
                            new Bound.Every(List.of(before, new Bound.Not(after))),
                            new Bound.Every(List.of(before, after))),
                    PATIENCE);
            return Optional.of(new Moves(numbers.get(0), numbers.get(1), numbers.get(2)));
        } catch (RuntimeException slow) {
            if (StoppedQuery.isBehind(slow) && !Attempt.isGivenUp(slow)) {
                throw slow;
            }
            LOG.info("what comes in and goes could not be counted: {}", slow.getMessage());
            return Optional.empty();
        }
    }
}
