package deftlens.server.trail;

import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.springframework.data.domain.Limit;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/** Who changed what, when, from what to what. Written in the same transaction as the change itself. */
@Service
public class Trail {

    private static final int MOST_SHOWN = 200;
    private static final Instant FIRST = Instant.parse("0001-01-02T00:00:00Z");
    private static final Instant LAST = Instant.parse("9999-12-30T00:00:00Z");

    private final TrailStore store;
    private final Clock clock;
    private final ObjectMapper json;

    Trail(TrailStore store, Clock clock, ObjectMapper json) {
        this.store = store;
        this.clock = clock;
        this.json = json;
    }

    /** One change as it is shown; before or after are absent where there was nothing. */
    public record Change(
            long id,
            Instant at,
            Optional<Long> person,
            String subject,
            long subjectId,
            String action,
            JsonNode before,
            JsonNode after) {}

    /** Writes a change; must be called inside the transaction that makes it. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void write(
            Optional<Long> person, String subject, long subjectId, String action, Object before, Object after) {
        store.save(new TrailEntry(
                clock.instant(), person.orElse(null), subject, subjectId, action, text(before), text(after)));
    }

    /** The latest changes of one thing, newest first, at most {@value #MOST_SHOWN}. */
    @Transactional(readOnly = true)
    public List<Change> of(String subject, long subjectId) {
        return store.findBySubjectAndSubjectIdOrderByIdDesc(subject, subjectId, Limit.of(MOST_SHOWN)).stream()
                .map(this::change)
                .toList();
    }

    /** One change of one thing. */
    @Transactional(readOnly = true)
    public Optional<Change> one(String subject, long subjectId, long id) {
        return store.findById(id)
                .filter(e -> e.subject().equals(subject) && e.subjectId() == subjectId)
                .map(this::change);
    }

    /**
     * Which changes are wanted.
     *
     * @param by only what this person did
     * @param from only what was done then or later
     * @param to only what was done before then
     */
    public record Wanted(List<String> subjects, Optional<Long> by, Optional<Instant> from, Optional<Instant> to) {}

    /**
     * The latest changes of some kinds of things, newest first.
     *
     * @param before only what came before the change of this number
     * @param most at most so many, up to {@value #MOST_SHOWN}
     */
    @Transactional(readOnly = true)
    public List<Change> all(Wanted wanted, Optional<Long> before, int most) {
        return store
                .all(
                        wanted.subjects(),
                        wanted.by().orElse(0L),
                        wanted.from().orElse(FIRST),
                        wanted.to().orElse(LAST),
                        before.orElse(Long.MAX_VALUE),
                        Limit.of(Math.clamp(most, 1, MOST_SHOWN)))
                .stream()
                .map(this::change)
                .toList();
    }

    private Change change(TrailEntry e) {
        return new Change(
                e.id(),
                e.at(),
                Optional.ofNullable(e.personId()),
                e.subject(),
                e.subjectId(),
                e.action(),
                tree(e.before()),
                tree(e.after()));
    }

    private String text(Object value) {
        return value == null ? null : json.writeValueAsString(value);
    }

    private JsonNode tree(String text) {
        return text == null ? null : json.readTree(text);
    }
}
