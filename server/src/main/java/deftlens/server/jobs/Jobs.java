package deftlens.server.jobs;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** Has work done later, or by itself, and tells how it goes. */
@Service
public class Jobs {

    private static final int LATEST = 100;

    private final JobStore store;
    private final JobScheduler scheduler;
    private final ObjectMapper json;

    Jobs(JobStore store, JobScheduler scheduler, ObjectMapper json) {
        this.store = store;
        this.scheduler = scheduler;
        this.json = json;
    }

    /** How far a job is. */
    public enum State {
        /** No server has begun it. */
        WAITING,
        RUNNING,
        DONE,
        FAILED,
        /** Somebody stopped it; nothing of it was written. */
        STOPPED;

        /** Whether nothing more comes of it. */
        public boolean isEnded() {
            return this == DONE || this == FAILED || this == STOPPED;
        }
    }

    /**
     * A job that somebody asked for.
     *
     * @param kind what it does, in words
     * @param about what it does that with: a file's name, an index
     * @param by the full name of whoever asked for it
     * @param phase what it is doing
     * @param share how much of the phase is done, from 0 to 1
     * @param message what came of it, or why it failed
     * @param server the process that does it, or did
     * @param attempts how many servers have begun it
     * @param stopping whether somebody asked for it to be stopped, and it is not yet
     */
    public record AskedJob(
            @AsText long id,
            String kind,
            String about,
            Optional<String> by,
            State state,
            String phase,
            double share,
            String message,
            Optional<String> server,
            int attempts,
            Instant askedAt,
            Optional<Instant> startedAt,
            Optional<Instant> endedAt,
            boolean stopping) {}

    /**
     * Work that the clock begins.
     *
     * @param name its stable name
     * @param label what it does, in words
     * @param everySeconds how often it is done
     * @param last its last round; absent before the first one ends
     */
    public record RecurringWork(String name, String label, long everySeconds, Optional<JobRound> last) {}

    /**
     * One round of work that the clock begins.
     *
     * @param failed whether it broke off; the server's log says why
     * @param message what came of it; empty where that is not worth a word
     */
    public record JobRound(boolean failed, String message, String server, Instant startedAt, Instant endedAt) {}

    /** All that goes on, and how it went last. */
    public record JobsOverview(List<RecurringWork> recurring, List<AskedJob> asked) {}

    /**
     * Has a job begun on some server, once the transaction it is asked for in is made.
     *
     * @param kind the name of its {@link JobKind}
     * @param about what it is about, in words
     * @param input what it needs to know; written as JSON
     * @return its number
     */
    @Transactional
    public long begin(String kind, String about, Object input, SignedIn who) {
        long id = store.add(kind, about, json.writeValueAsString(input), Optional.of(who.id()));
        scheduler.schedule(kind, id);
        return id;
    }

    /** Asks for a job to be stopped, on whatever server it runs; one that has ended is left alone. */
    @Transactional
    public void stop(long id) {
        store.askToStop(id);
    }

    /** The same for an administrator. */
    @Transactional
    public void stop(long id, SignedIn who) {
        requireAdministrator(who);
        store.find(id).orElseThrow(() -> Problem.notFound("This job"));
        store.askToStop(id);
    }

    /** How a job goes, or went. */
    @Transactional(readOnly = true)
    public Optional<AskedJob> find(long id) {
        return store.find(id);
    }

    /** Whether somebody asked for a job. */
    @Transactional(readOnly = true)
    public boolean isAskedBy(long id, SignedIn who) {
        return store.askedBy(id).filter(person -> person == who.id()).isPresent();
    }

    /** A job with what it was asked to do. */
    public record JobWithInput<T>(AskedJob job, T input) {}

    /**
     * The latest jobs of a kind about one thing, the newest first.
     *
     * @param ended how long ago those may have ended that are told
     * @param input what they were begun with
     */
    @Transactional(readOnly = true)
    public <T> List<JobWithInput<T>> about(String kind, String about, Duration ended, Class<T> input) {
        return store.ofKind(kind, about, ended).stream()
                .map(found -> new JobWithInput<>(found.job(), json.readValue(found.input(), input)))
                .toList();
    }

    /** All that goes on, and how it went last; for administrators. */
    @Transactional(readOnly = true)
    public JobsOverview overview(SignedIn who) {
        requireAdministrator(who);
        Map<String, JobRound> rounds = store.rounds();
        return new JobsOverview(
                scheduler.recurring().stream()
                        .map(r -> new RecurringWork(
                                r.name(), r.label(), r.every().toSeconds(), Optional.ofNullable(rounds.get(r.name()))))
                        .toList(),
                store.latest(LATEST));
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator sees and stops jobs.");
        }
    }
}
