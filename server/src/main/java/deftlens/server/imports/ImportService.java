package deftlens.server.imports;

import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSets;
import deftlens.server.closing.ClosedPeriods;
import deftlens.server.jobs.JobKind;
import deftlens.server.jobs.JobRun;
import deftlens.server.jobs.Jobs;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.records.WayBack;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.trail.Trail;
import jakarta.persistence.EntityManager;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.hibernate.Session;
import org.postgresql.PGConnection;
import org.springframework.stereotype.Service;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.ObjectMapper;

/**
 * Brings files into registers: makes registers for them, copies their rows in. A file comes in whole or not at all; none is held in
 * memory. The work is a job, so it goes on whatever becomes of the server that was asked for it.
 */
@Service
class ImportService {

    /** The names of the two kinds of jobs. */
    static final String BRING_IN = "import";

    static final String TAKE_BACK = "import-back";

    /** How long an import can be taken back. */
    private static final Duration WAY_BACK = Duration.ofDays(30);
    /** What a file replaced is dated by its beginning, its way back by its end: the longest run is shorter than this. */
    private final RegisterCatalogue registers;

    private final PeopleService people;
    private final Uploads uploads;
    private final FileLooks looks;
    private final ImportPlans plans;
    private final ImportStore store;
    private final Jobs jobs;
    private final ChangeSets changes;
    private final ClosedPeriods periods;
    private final Trail trail;
    private final EntityManager entities;
    private final TransactionTemplate transactions;
    private final Clock clock;
    private final ObjectMapper json;

    ImportService(
            RegisterCatalogue registers,
            PeopleService people,
            Uploads uploads,
            FileLooks looks,
            ImportPlans plans,
            ImportStore store,
            Jobs jobs,
            ChangeSets changes,
            ClosedPeriods periods,
            Trail trail,
            EntityManager entities,
            PlatformTransactionManager transactions,
            Clock clock,
            ObjectMapper json) {
        this.registers = registers;
        this.people = people;
        this.uploads = uploads;
        this.looks = looks;
        this.plans = plans;
        this.store = store;
        this.jobs = jobs;
        this.changes = changes;
        this.periods = periods;
        this.trail = trail;
        this.entities = entities;
        this.transactions = new TransactionTemplate(transactions);
        this.clock = clock;
        this.json = json;
    }

    // ------------------------------------------------------------------ files that wait

    /**
     * How far the reading of a file is.
     *
     * @param share from 0 to 1
     */
    record FileProgress(double share) {}

    /**
     * Takes a file in, to be looked at and brought in within a day.
     *
     * @param wanted the token that the file is to have, a UUID, so that its sender can ask how far it is and stop it
     */
    FileLooks.FileLook receive(String name, Optional<String> wanted, InputStream content, SignedIn who) {
        requireAdministrator(who);
        Uploads.Upload upload;
        try {
            upload = uploads.receive(name, wanted, content, who);
        } catch (IOException e) {
            throw FileLooks.unreadable(e);
        }
        try {
            return looks.look(
                    upload,
                    new FileLooks.FileReading(Optional.empty(), Optional.empty(), Optional.empty(), Optional.empty()));
        } catch (RuntimeException e) {
            // Nobody is told how to ask for it again.
            uploads.forget(upload);
            throw e;
        }
    }

    /** How far the reading of a file is. */
    FileProgress progress(String token, SignedIn who) {
        return new FileProgress(uploads.looked(upload(token, who)));
    }

    /** Stops the reading of a file; how it was read before stays. */
    void stopLooking(String token, SignedIn who) {
        uploads.stopLook(upload(token, who));
    }

    /** Forgets a file; if it is being read, that stops. */
    void forget(String token, SignedIn who) {
        Uploads.Upload upload = upload(token, who);
        uploads.forget(upload);
        looks.forget(upload);
    }

    /** Looks at a file, all of it, and says what its columns seem to hold. */
    FileLooks.FileLook look(String token, FileLooks.FileReading reading, SignedIn who) {
        return looks.look(upload(token, who), reading);
    }

    private Uploads.Upload upload(String token, SignedIn who) {
        requireAdministrator(who);
        return uploads.get(token, who);
    }

    // ------------------------------------------------------------------ bringing in

    /** What a job that brings a file in needs to know. */
    record BringIn(
            long run,
            String token,
            FileLooks.FileReading reading,
            ImportPlans.Into into,
            ImportPlan plan,
            Optional<String> keepAs,
            long person) {}

    /** Begins to bring a file in; how it goes is told by {@link #shown}. */
    ImportRun.ShownRun start(
            String token,
            FileLooks.FileReading reading,
            ImportPlans.Into into,
            ImportPlan plan,
            Optional<String> keepAs,
            SignedIn who) {
        Uploads.Upload upload = upload(token, who);
        FileLooks.FileLook look = looks.look(upload, reading);
        // What cannot be is refused at once.
        plans.target(into, plan, look, who);
        return begin(
                BRING_IN,
                upload.name(),
                look.rows(),
                Optional.empty(),
                who,
                run -> new BringIn(run, token, reading, into, plan, keepAs, who.id()));
    }

    @FunctionalInterface
    private interface Input {
        Object of(long run);
    }

    private ImportRun.ShownRun begin(
            String kind, String fileName, long expected, Optional<Long> backOf, SignedIn who, Input input) {
        long id = transactions.execute(s -> {
            long run = store.begin(fileName, expected, backOf, who, clock.instant());
            store.workedBy(run, jobs.begin(kind, fileName, input.of(run), who));
            return run;
        });
        return shown(id, who);
    }

    /** Brings a file in, as a job. */
    void bringIn(JobRun job) {
        BringIn asked = job.input(BringIn.class);
        SignedIn who = whoAsked(asked.person());
        Uploads.Upload upload = uploads.get(asked.token(), who);
        FileLooks.FileLook look = looks.look(upload, asked.reading());
        ImportPlans.Target target = plans.target(asked.into(), asked.plan(), look, who);
        ImportRun run = new ImportRun(asked.run(), job, look.rows());
        work(run, () -> bringIn(run, upload, look, target, asked, who));
        uploads.forget(upload);
        looks.forget(upload);
        asked.keepAs().filter(n -> !n.isBlank()).ifPresent(name -> plans.keep(target.key(), name, asked.plan(), who));
    }

    private SignedIn whoAsked(long person) {
        SignedIn who = people.now(person)
                .map(PeopleService.Standing::who)
                .orElseThrow(() -> Problem.notFound("Whoever asked for this"));
        requireAdministrator(who);
        return who;
    }

    private void bringIn(
            ImportRun run,
            Uploads.Upload upload,
            FileLooks.FileLook look,
            ImportPlans.Target target,
            BringIn asked,
            SignedIn who) {
        if (target.fresh().isPresent()) {
            RegisterForReader made = registers.add(target.fresh().get(), new RegisterCatalogue.Filling() {
                @Override
                public void fill(RegisterForReader described, Connection connection) throws SQLException {
                    ImportService.this.fill(run, upload, look, described, asked.plan(), who, connection);
                }

                @Override
                public void indexing(int done, int of) {
                    run.share(done, of);
                }
            });
            if (!asked.into().open().orElse(false)) {
                registers.closeToMembers(made);
            }
            run.into(made.register().key(), true);
        } else {
            RegisterForReader described = registers.get(target.key(), who);
            run.into(target.key(), false);
            periods.guarded(described, () -> {
                entities.unwrap(Session.class)
                        .doWork(connection -> fill(run, upload, look, described, asked.plan(), who, connection));
                return described;
            });
        }
        RegisterForReader described = registers.whole(target.key()).orElseThrow();
        trail.write(Optional.of(who.id()), "register", described.id(), "imported", null, summary(upload.name(), run));
    }

    private void fill(
            ImportRun run,
            Uploads.Upload upload,
            FileLooks.FileLook look,
            RegisterForReader described,
            ImportPlan plan,
            SignedIn who,
            Connection connection)
            throws SQLException {
        List<Conversion> conversions = plans.conversions(described, plan, look);
        ChangeSet set = changes.begin(
                described.id(),
                Optional.of(who.id()),
                ChangeSet.Origin.FILE,
                Optional.of(upload.name()),
                Optional.empty());
        String table = described.table().name();
        long before = ChangeSets.lastNumber(connection, table);
        try {
            new Loading(
                            run,
                            looks.rows(upload, look),
                            look.namesAt(),
                            look.columns().size(),
                            described,
                            plan,
                            conversions,
                            set,
                            periods.until(described),
                            connection)
                    .load();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        changes.made(set, connection, table, before);
    }

    /** Does what a run is for, and notes that it is done, in one transaction; or notes how else it ended. */
    private void work(ImportRun run, Runnable writing) {
        run.onBeat(() -> store.progress(run.id, run.counts()));
        try {
            transactions.executeWithoutResult(status -> {
                writing.run();
                run.requireWanted();
                store.end(run, ImportRun.State.DONE, "", clock.instant(), refusals(run));
                run.done();
            });
        } catch (Loading.Refused e) {
            run.count(0, 0, 0);
            store.end(run.without(), ImportRun.State.REFUSED, "", clock.instant(), refusals(run));
            throw Problem.unprocessable(
                    "rows-refused", run.counts().refused() + " rows were refused, so nothing was written.");
        } catch (RuntimeException e) {
            if (isMissing(e)) {
                throw Problem.unprocessable(
                        "field-missing",
                        "Some rows are new, and the file lacks a field that every record needs. Nothing was written.");
            }
            throw e;
        }
    }

    private String refusals(ImportRun run) {
        return json.writeValueAsString(run.refusals());
    }

    /** Whether a value was missing that the table needs (SQLSTATE 23502). */
    private static boolean isMissing(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql && "23502".equals(sql.getSQLState())) {
                return true;
            }
        }
        return false;
    }

    /** Notes how a job ended that did not write what it was for. */
    void notDone(long job, Jobs.State state, String message) {
        store.endOfJob(
                job,
                state == Jobs.State.STOPPED ? ImportRun.State.CANCELLED : ImportRun.State.FAILED,
                message,
                clock.instant());
    }

    private static Map<String, Object> summary(String fileName, ImportRun run) {
        ImportRun.Counts counts = run.counts();
        return summary(fileName, counts.read(), counts.added(), counts.updated(), counts.skipped());
    }

    private static Map<String, Object> summary(String fileName, long read, long added, long updated, long skipped) {
        return Map.of("file", fileName, "rows", read, "added", added, "updated", updated, "skipped", skipped);
    }

    // ------------------------------------------------------------------ how it goes

    /** How a run goes, or went. */
    ImportRun.ShownRun shown(long id, SignedIn who) {
        requireAdministrator(who);
        return stored(id);
    }

    private ImportRun.ShownRun stored(long id) {
        return store.find(id, keptSince()).map(this::withProgress).orElseThrow(() -> Problem.notFound("This import"));
    }

    private ImportRun.ShownRun withProgress(ImportStore.Stored stored) {
        return stored.job()
                .filter(j -> stored.run().state() == ImportRun.State.RUNNING)
                .flatMap(jobs::find)
                .map(job -> stored.run().at(job.phase(), job.share()))
                .orElse(stored.run());
    }

    private Instant keptSince() {
        return clock.instant().minus(WAY_BACK);
    }

    /** Stops a run, on whatever server it is; nothing of it is written. */
    void cancel(long id, SignedIn who) {
        requireAdministrator(who);
        store.find(id, keptSince()).flatMap(ImportStore.Stored::job).ifPresent(jobs::stop);
    }

    /** The latest runs, of one register or of all. */
    List<ImportRun.ShownRun> latest(Optional<String> register, SignedIn who) {
        requireAdministrator(who);
        return store.latest(register, keptSince()).stream()
                .map(this::withProgress)
                .toList();
    }

    // ------------------------------------------------------------------ taking back

    /** What a job that takes an import back needs to know. */
    record TakeBack(long run, long back, long person) {}

    /** What taking an import back would do now. */
    WayBack.Extent extent(long id, SignedIn who) {
        requireAdministrator(who);
        ImportRun.ShownRun run = wayBackOf(id);
        RegisterForReader described = registers.get(run.register().orElseThrow(), who);
        ChangeSets.Listed made = changesOf(id);
        return transactions.execute(status -> entities.unwrap(Session.class)
                .doReturningWork(connection -> new WayBack(connection, described, made.id(), made.made()).extent()));
    }

    /** Begins to take an import back; that is a run of its own. */
    ImportRun.ShownRun takeBack(long id, SignedIn who) {
        requireAdministrator(who);
        ImportRun.ShownRun done = wayBackOf(id);
        return begin(
                TAKE_BACK,
                done.fileName(),
                done.added() + done.updated(),
                Optional.of(id),
                who,
                run -> new TakeBack(run, id, who.id()));
    }

    /** Takes an import back, as a job. */
    void takeBack(JobRun job) {
        TakeBack asked = job.input(TakeBack.class);
        SignedIn who = whoAsked(asked.person());
        ImportRun.ShownRun done = wayBackOf(asked.back());
        RegisterForReader described = registers.get(done.register().orElseThrow(), who);
        ChangeSets.Listed made = changesOf(asked.back());
        ImportRun run = new ImportRun(asked.run(), job, done.added() + done.updated());
        work(run, () -> takeBack(run, done, made, described, who));
    }

    private void takeBack(
            ImportRun run, ImportRun.ShownRun done, ChangeSets.Listed made, RegisterForReader described, SignedIn who) {
        run.phase("taking back");
        run.into(described.register().key(), false);
        ChangeSet set = changes.begin(
                described.id(),
                Optional.of(who.id()),
                ChangeSet.Origin.TAKEN_BACK,
                Optional.of(done.fileName()),
                Optional.of(made.id()));
        periods.guarded(described, () -> {
            entities.unwrap(Session.class).doWork(connection -> {
                run.working(connection.unwrap(PGConnection.class));
                new WayBack(connection, described, made.id(), made.made()).takeBack(set, changes);
            });
            return set;
        });
        trail.write(
                Optional.of(who.id()),
                "register",
                described.id(),
                "import taken back",
                summary(done.fileName(), done.read(), done.added(), done.updated(), done.skipped()),
                null);
    }

    private ChangeSets.Listed changesOf(long run) {
        return store.changes(run).flatMap(changes::find).orElseThrow();
    }

    private ImportRun.ShownRun wayBackOf(long id) {
        ImportRun.ShownRun run = stored(id);
        if (!run.hasWayBack()) {
            throw Problem.unprocessable(
                    "no-way-back",
                    "“" + run.fileName() + "” cannot be taken back: it was taken back already, it is older than "
                            + WAY_BACK.toDays()
                            + " days, the type of a field was changed after it, or it made its register."
                            + " Delete the register instead, if it is not needed.");
        }
        return run;
    }

    // ------------------------------------------------------------------ plans, and what is old

    /** Keeps a plan, so that the next file of this kind comes in the same way. */
    void keep(String register, String name, ImportPlan plan, SignedIn who) {
        requireAdministrator(who);
        plans.keep(register, name, plan, who);
    }

    /** The plans kept for a register. */
    List<ImportPlans.KeptPlan> plans(String register, SignedIn who) {
        requireAdministrator(who);
        return plans.plans(register, who);
    }

    /** Takes out what waited too long. */
    void forgetOld() {
        uploads.forgetOld();
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator imports records.");
        }
    }

    /** A kind of job that this does. */
    record Kind(String name, String label, Consumer<JobRun> work, ImportService imports) implements JobKind {

        @Override
        public void run(JobRun job) {
            work.accept(job);
        }

        @Override
        public void notDone(long job, Jobs.State state, String message) {
            imports.notDone(job, state, message);
        }
    }
}
