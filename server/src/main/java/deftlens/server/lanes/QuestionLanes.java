package deftlens.server.lanes;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.StoppedQuery;
import java.time.Duration;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/**
 * The way of every question to the records. It is tried for {@code deft.limits.first-try} on the quick lane, which has
 * connections for many such tries; what takes longer goes on, from its beginning, in the slow lane, where few run at a time
 * and nobody's many questions hold up another's first. Files have a lane of their own. So nothing that is slow takes from what
 * is quick, and sign-in and pages, which are on none of these lanes, wait for nobody's question.
 */
@Component
public class QuestionLanes {

    /** One processor is left for what is quick. */
    private static final int SLOW_PLACES = Math.max(1, Runtime.getRuntime().availableProcessors() - 1);

    /** A large file does not keep a small one waiting; {@link Spool} sees to it that they give way to questions. */
    private static final int EXPORT_PLACES = 2;

    private static final int TRIES_OF_ONE = 6;
    private static final int MOST_WAITING = 100;
    private static final int MOST_WAITING_OF_ONE = 30;
    private static final Duration LONGEST_WAIT = Duration.ofSeconds(60);
    /** Below the five minutes that a browser waits for the beginning of a file. */
    private static final Duration LONGEST_WAIT_FOR_FILE = Duration.ofMinutes(4);

    private static final Duration LONGEST_WAIT_FOR_TRY = Duration.ofSeconds(20);
    /** How long it is remembered that a question was slow, so that it is not tried in vain. */
    private static final Duration REMEMBERED = Duration.ofSeconds(30);

    private static final int MOST_REMEMBERED = 1_000;

    private final WaitingLane slow = new WaitingLane(SLOW_PLACES, MOST_WAITING, MOST_WAITING_OF_ONE, LONGEST_WAIT);
    private final WaitingLane exports =
            new WaitingLane(EXPORT_PLACES, MOST_WAITING, MOST_WAITING_OF_ONE, LONGEST_WAIT_FOR_FILE);
    private final Map<Long, Semaphore> tries = new ConcurrentHashMap<>();
    private final Map<String, Ticket> named = new ConcurrentHashMap<>();
    private final Map<Object, Long> slowUntil = Collections.synchronizedMap(new LinkedHashMap<>() {
        @Override
        protected boolean removeEldestEntry(Map.Entry<Object, Long> eldest) {
            return size() > MOST_REMEMBERED;
        }
    });
    private final AtomicInteger running = new AtomicInteger();
    private final DepartedClients departed;
    private final QuestionsElsewhere elsewhere;
    private final Duration firstTry;
    private final Duration patience;

    QuestionLanes(
            DepartedClients departed,
            QuestionsElsewhere elsewhere,
            @Value("${deft.limits.first-try}") Duration firstTry,
            @Value("${deft.limits.statement-timeout}") Duration patience) {
        this.departed = departed;
        this.elsewhere = elsewhere;
        elsewhere.whenStopped(this::stopHere);
        this.firstTry = firstTry;
        this.patience = patience;
    }

    /** A piece of work that asks the records; it may be done a second time. */
    @FunctionalInterface
    public interface Asking<T> {
        T ask() throws Throwable;
    }

    /**
     * Whoever asks.
     *
     * @param name the name under which the question can be stopped and looked for; of its person only
     * @param client the line that the answer goes back on; whoever hangs it up stops the question
     */
    public record Asker(long person, Optional<String> name, Optional<DepartedClients.Line> client) {}

    /**
     * How far a question is.
     *
     * @param before how many slow questions are before it, those that run included
     */
    public record Progress(String place, int before) {}

    /**
     * Asks a question of the records.
     *
     * @param same what is equal for the same question asked again
     */
    <T> T ask(Asker asker, Object same, Asking<T> asking) throws Throwable {
        Ticket ticket = new Ticket(asker.person());
        try (AutoCloseable known = known(asker, ticket)) {
            if (!isKnownSlow(same)) {
                Attempt first = Attempt.first(firstTry, running.get() == 0);
                try {
                    return tried(ticket, first, asking);
                } catch (RuntimeException e) {
                    if (ticket.isStopped() && StoppedQuery.isBehind(e)) {
                        throw Ticket.stopped();
                    }
                    if (!StoppedQuery.isBehind(e) || !first.isOver()) {
                        throw e;
                    }
                    slowUntil.put(same, System.nanoTime() + REMEMBERED.toNanos());
                }
            }
            try {
                note(asker, new Progress("waiting", slow.length()));
                return slowly(asker, ticket, asking);
            } finally {
                asker.name().ifPresent(n -> elsewhere.forget(asker.person(), n));
            }
        }
    }

    private <T> T slowly(Asker asker, Ticket ticket, Asking<T> asking) throws Throwable {
        slow.enter(ticket);
        try {
            note(asker, new Progress("running", 0));
            return run(ticket, Lane.SLOW, Attempt.within(patience, running.get() == 0), asking);
        } catch (RuntimeException e) {
            throw ticket.isStopped() && StoppedQuery.isBehind(e) ? Ticket.stopped() : e;
        } finally {
            slow.leave(ticket);
        }
    }

    /** Tells other servers where a question is that turned out slow. */
    private void note(Asker asker, Progress progress) {
        asker.name().ifPresent(n -> elsewhere.note(asker.person(), n, progress));
    }

    /**
     * Asks a question of the records on the quick lane only.
     *
     * @param same what is equal for the same question asked again
     * @return nothing where the first, short try is not enough, or is known not to be
     */
    public <T> Optional<T> ifQuick(Asker asker, Object same, Asking<T> asking) {
        if (isKnownSlow(same)) {
            return Optional.empty();
        }
        Ticket ticket = new Ticket(asker.person());
        Attempt first = Attempt.first(firstTry, running.get() == 0);
        try (AutoCloseable known = known(asker, ticket)) {
            return Optional.of(tried(ticket, first, asking));
        } catch (RuntimeException e) {
            if (!StoppedQuery.isBehind(e) || !first.isOver() || ticket.isStopped()) {
                throw e;
            }
            slowUntil.put(same, System.nanoTime() + REMEMBERED.toNanos());
            return Optional.empty();
        } catch (Throwable e) {
            throw new IllegalStateException(e);
        }
    }

    /** Does what makes a file, when its turn has come. */
    public void export(SignedIn who, Optional<DepartedClients.Line> client, Asking<Void> asking) throws Throwable {
        Ticket ticket = new Ticket(who.id());
        try (AutoCloseable known = known(new Asker(who.id(), Optional.empty(), client), ticket)) {
            exports.enter(ticket);
            try {
                run(ticket, Lane.EXPORT, Attempt.unbounded(), asking);
            } finally {
                exports.leave(ticket);
            }
        }
    }

    /** How many questions and files are being worked on at this moment. */
    int running() {
        return running.get();
    }

    private <T> T tried(Ticket ticket, Attempt attempt, Asking<T> asking) throws Throwable {
        Semaphore own = tries.computeIfAbsent(ticket.person, p -> new Semaphore(TRIES_OF_ONE, true));
        if (!own.tryAcquire(LONGEST_WAIT_FOR_TRY.toMillis(), TimeUnit.MILLISECONDS)) {
            throw new Problem(
                            HttpStatus.SERVICE_UNAVAILABLE,
                            "busy",
                            "You have asked more at once than is answered at once. Try again in a moment.")
                    .retryAfter(Duration.ofSeconds(5));
        }
        try {
            return run(ticket, Lane.QUICK, attempt, asking);
        } finally {
            own.release();
        }
    }

    private <T> T run(Ticket ticket, Lane lane, Attempt attempt, Asking<T> asking) throws Throwable {
        ticket.begin(attempt);
        running.incrementAndGet();
        try (AutoCloseable here = attempt.onThisThread()) {
            return lane.run(() -> {
                try {
                    return asking.ask();
                } catch (RuntimeException | Error e) {
                    throw e;
                } catch (Throwable e) {
                    throw new Checked(e);
                }
            });
        } catch (Checked e) {
            throw e.getCause();
        } finally {
            running.decrementAndGet();
        }
    }

    /** Carries what a supplier cannot throw. */
    private static final class Checked extends RuntimeException {
        private static final long serialVersionUID = 1;

        Checked(Throwable cause) {
            super(cause);
        }
    }

    private boolean isKnownSlow(Object same) {
        Long until = slowUntil.get(same);
        if (until == null) {
            return false;
        }
        if (until < System.nanoTime()) {
            slowUntil.remove(same);
            return false;
        }
        return true;
    }

    private AutoCloseable known(Asker asker, Ticket ticket) {
        Optional<String> key = asker.name().map(n -> key(asker.person(), n));
        key.ifPresent(k -> named.put(k, ticket));
        AutoCloseable watched = departed.watch(asker.client(), ticket::stop);
        return () -> {
            key.ifPresent(k -> named.remove(k, ticket));
            watched.close();
        };
    }

    /** Stops a question of this person's, if it is on its way. */
    public void stop(SignedIn who, String name) {
        String key = key(who.id(), name);
        if (!stopHere(key)) {
            elsewhere.stop(key);
        }
    }

    private boolean stopHere(String key) {
        Ticket ticket = named.get(key);
        if (ticket == null) {
            return false;
        }
        ticket.stop();
        return true;
    }

    /** How far a question of this person's is; none when it is answered or unknown. */
    public Optional<Progress> progress(SignedIn who, String name) {
        return Optional.ofNullable(named.get(key(who.id(), name)))
                .map(t -> new Progress(
                        t.place().name().toLowerCase(java.util.Locale.ROOT),
                        t.place() == Ticket.Place.WAITING ? slow.before(t) : 0))
                .or(() -> elsewhere.progress(who.id(), name));
    }

    private static String key(long person, String name) {
        return person + "/" + name;
    }
}
