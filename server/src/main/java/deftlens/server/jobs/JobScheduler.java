package deftlens.server.jobs;

import com.github.kagkarlsson.scheduler.Scheduler;
import com.github.kagkarlsson.scheduler.SchedulerName;
import com.github.kagkarlsson.scheduler.task.DeadExecutionHandler;
import com.github.kagkarlsson.scheduler.task.Task;
import com.github.kagkarlsson.scheduler.task.helper.OneTimeTask;
import com.github.kagkarlsson.scheduler.task.helper.RecurringTask;
import com.github.kagkarlsson.scheduler.task.helper.Tasks;
import com.github.kagkarlsson.scheduler.task.schedule.FixedDelay;
import deftlens.server.lanes.Lane;
import deftlens.server.platform.Problem;
import deftlens.server.platform.RecurringJob;
import deftlens.server.platform.Upkeep;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.locks.LockSupport;
import java.util.stream.Collectors;
import javax.sql.DataSource;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.ObjectProvider;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.SmartLifecycle;
import org.springframework.jdbc.datasource.TransactionAwareDataSourceProxy;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;
import tools.jackson.databind.ObjectMapper;

/** Takes jobs from the database and does them, each on one server; those of a server that is gone are begun again within a minute. */
@Component
class JobScheduler implements SmartLifecycle {

    /** How many servers begin a job before it counts as failed: one that takes its server with it must not take all. */
    static final int MAX_ATTEMPTS = 3;

    private static final Logger LOG = LoggerFactory.getLogger(JobScheduler.class);

    /** How many heartbeats a server may leave out before it counts as gone. */
    private static final int MISSED_HEARTBEATS = 4;

    private static final Duration POLLING = Duration.ofSeconds(2);
    private static final Duration BEAT = Duration.ofSeconds(1);
    /** How long after it stopped here a job that was given back may be begun elsewhere. */
    private static final Duration GIVEN_BACK = Duration.ofSeconds(1);

    private static final Duration GIVEN_BACK_AGAIN = Duration.ofMillis(100);
    private static final String STOPPED = "It was stopped; nothing was written.";
    private static final Duration SHUTDOWN = Duration.ofSeconds(4);
    private static final int THREADS = 4;

    private final JobStore store;
    private final DataSource database;
    private final ObjectMapper json;
    private final ObjectProvider<JobKind> allKinds;
    private final ObjectProvider<RecurringJob> allRecurring;
    private final Duration heartbeat;
    private final Map<Long, JobRun> running = new ConcurrentHashMap<>();
    private final String server = name();
    /** Real time, whatever day the server's own clock stands at: this is about what really passes. */
    private final Clock time = Clock.systemUTC();

    private List<RecurringJob> recurring = List.of();
    private Map<String, OneTimeTask<Void>> tasks = Map.of();
    private Scheduler scheduler;
    private volatile boolean started;

    JobScheduler(
            JobStore store,
            DataSource database,
            ObjectMapper json,
            ObjectProvider<JobKind> kinds,
            ObjectProvider<RecurringJob> recurring,
            Upkeep upkeep,
            @Value("${deft.limits.heartbeat}") Duration heartbeat) {
        this.heartbeat = heartbeat;
        this.store = store;
        this.database = database;
        this.json = json;
        // They need to have jobs done themselves, so they are not looked for before all is there.
        this.allKinds = kinds;
        this.allRecurring = recurring;
        upkeep.every(BEAT, () -> running.values().forEach(JobRun::beat));
    }

    private static String name() {
        String host;
        try {
            host = InetAddress.getLocalHost().getHostName();
        } catch (UnknownHostException e) {
            host = "server";
        }
        return host + " " + ProcessHandle.current().pid();
    }

    /** Has a job begun; part of the transaction that there is. */
    void schedule(String kind, long id) {
        scheduler.schedule(tasks.get(kind).instance(String.valueOf(id)), time.instant());
        TransactionSynchronizationManager.registerSynchronization(new TransactionSynchronization() {
            @Override
            public void afterCommit() {
                scheduler.triggerCheckForDueExecutions();
            }
        });
    }

    List<RecurringJob> recurring() {
        return recurring;
    }

    /** What this server takes jobs as; no other has the name, not in the same process either. */
    String schedulerName() {
        return server + " " + System.identityHashCode(this);
    }

    /** Whether this server is at any job that somebody asked for. */
    boolean isBusy() {
        return !running.isEmpty();
    }

    @Override
    public void start() {
        recurring = allRecurring.stream()
                .sorted(Comparator.comparing(RecurringJob::label))
                .toList();
        tasks = allKinds.stream().collect(Collectors.toMap(JobKind::name, this::task));
        scheduler = Scheduler.create(
                        new TransactionAwareDataSourceProxy(database), List.<Task<?>>copyOf(tasks.values()))
                .startTasks(recurring.stream().map(this::round).toList())
                .schedulerName(new SchedulerName.Fixed(schedulerName()))
                .threads(THREADS)
                .pollingInterval(POLLING)
                .pollUsingLockAndFetch(0.5, 1.0)
                .heartbeatInterval(heartbeat)
                .missedHeartbeatsLimit(MISSED_HEARTBEATS)
                .alwaysPersistTimestampInUTC()
                .shutdownMaxWait(SHUTDOWN)
                .build();
        scheduler.start();
        started = true;
    }

    /** Gives back what is running, so that another server, or this one after its restart, begins it again. */
    @Override
    public void stop() {
        started = false;
        long end = System.nanoTime() + SHUTDOWN.toNanos();
        // What was between two queries at that moment hears of it with the next.
        while (!running.isEmpty() && System.nanoTime() < end) {
            running.values().forEach(JobRun::giveBack);
            LockSupport.parkNanos(GIVEN_BACK_AGAIN.toNanos());
        }
        scheduler.stop();
    }

    @Override
    public boolean isRunning() {
        return started;
    }

    private OneTimeTask<Void> task(JobKind kind) {
        return Tasks.oneTime(kind.name())
                .onFailure((complete, operations) ->
                        // Only what is given back ends so.
                        operations.reschedule(complete, time.instant().plus(GIVEN_BACK)))
                .onDeadExecution(begunAgain())
                .execute((instance, context) -> Lane.BACKGROUND.run(() -> {
                    run(kind, Long.parseLong(instance.getId()));
                    return null;
                }));
    }

    /** What becomes of a job whose server is gone. */
    private DeadExecutionHandler<Void> begunAgain() {
        return (complete, operations) -> {
            long id = Long.parseLong(complete.getExecution().taskInstance.getId());
            LOG.warn("the server of job {} is gone; it is begun again", id);
            store.giveBack(id, true);
            operations.reschedule(complete, time.instant());
        };
    }

    private void run(JobKind kind, long id) {
        Optional<JobStore.Taken> taken = store.take(id, server);
        if (taken.isEmpty()) {
            // Done by a server that went away in the moment after; or stopped before it was begun.
            if (store.find(id).filter(j -> j.state() != Jobs.State.DONE).isPresent()) {
                end(kind, id, Jobs.State.STOPPED, STOPPED);
            }
            return;
        }
        if (taken.get().attempt() > MAX_ATTEMPTS) {
            end(
                    kind,
                    id,
                    Jobs.State.FAILED,
                    "The server stopped each of the " + MAX_ATTEMPTS + " times this was begun. Nothing was written.");
            return;
        }
        JobRun run = new JobRun(id, taken.get().input(), store, json);
        running.put(id, run);
        try {
            kind.run(run);
            // Work that writes says itself that it is done, with what it writes; this is for what does not.
            store.finish(id);
        } catch (RuntimeException e) {
            ended(kind, run, e);
        } finally {
            running.remove(id);
        }
    }

    private void ended(JobKind kind, JobRun run, RuntimeException e) {
        if (run.isGivenBack()) {
            store.giveBack(run.id(), false);
            throw e;
        }
        // Whatever work that is not wanted any more breaks off with.
        if (e instanceof JobRun.Stopped || run.isStopped()) {
            end(kind, run.id(), Jobs.State.STOPPED, STOPPED);
        } else if (e instanceof Problem problem) {
            end(kind, run.id(), Jobs.State.FAILED, problem.getMessage());
        } else {
            LOG.error("the job {} ({}) failed", run.id(), kind.name(), e);
            end(kind, run.id(), Jobs.State.FAILED, "It failed, and nothing was written. The log says why.");
        }
    }

    private void end(JobKind kind, long id, Jobs.State state, String message) {
        store.end(id, state, message);
        kind.notDone(id, state, message);
    }

    private RecurringTask<Void> round(RecurringJob job) {
        return Tasks.recurring(job.name(), FixedDelay.of(job.interval()))
                .onDeadExecutionRevive()
                .execute((instance, context) -> Lane.BACKGROUND.run(() -> {
                    round(job, time.instant());
                    return null;
                }));
    }

    private void round(RecurringJob job, Instant began) {
        try {
            // Where it was not time, the round before stands.
            job.work().get().ifPresent(words -> store.round(job.name(), false, words, server, began, time.instant()));
        } catch (RuntimeException e) {
            if (started) {
                LOG.error("“{}” failed", job.label(), e);
                store.round(job.name(), true, "", server, began, time.instant());
            }
        }
    }
}
