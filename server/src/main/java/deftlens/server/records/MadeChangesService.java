package deftlens.server.records;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSets;
import deftlens.server.closing.ClosedPeriods;
import deftlens.server.jobs.JobRun;
import deftlens.server.jobs.Jobs;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.trail.Trail;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/** What was changed at once, and how it is taken back: as a whole, without writing over what was changed since. */
@Service
public class MadeChangesService {

    static final String UNDO = "undo-change";

    private static final int MOST_LISTED = 50;

    private final RegisterCatalogue registers;
    private final PeopleService people;
    private final ChangeSets changes;
    private final ClosedPeriods periods;
    private final Jobs jobs;
    private final Trail trail;
    private final TransactionTemplate transactions;
    private final ManyChangeWork work;

    MadeChangesService(
            RegisterCatalogue registers,
            PeopleService people,
            ChangeSets changes,
            ClosedPeriods periods,
            Jobs jobs,
            Trail trail,
            TransactionTemplate transactions,
            ManyChangeWork work) {
        this.registers = registers;
        this.people = people;
        this.changes = changes;
        this.periods = periods;
        this.jobs = jobs;
        this.trail = trail;
        this.transactions = transactions;
        this.work = work;
    }

    /** What the job that takes a change back needs to know. */
    record UndoInput(long set, String reason, long person) {}

    /**
     * A change of many records.
     *
     * @param who the full name of whoever made it
     * @param records how many records it wrote
     * @param undoes the change that it took back
     * @param undone whether it was taken back
     * @param mayUndo whether the reader may take it back
     */
    public record ShownChange(
            @AsText long id,
            String register,
            Instant at,
            Optional<String> who,
            String reason,
            Optional<Long> records,
            @AsText Optional<Long> undoes,
            boolean undone,
            boolean mayUndo) {}

    /** A change, and what taking it back would do. */
    public record UndoPreview(
            ShownChange change, @JsonUnwrapped WayBack.Extent extent) {}

    /** The changes of many records of a register, the latest first: all for who reads everything, one's own for others. */
    @Transactional(readOnly = true)
    public List<ShownChange> latest(String key, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        Optional<Long> person = who.readsEverything() ? Optional.empty() : Optional.of(who.id());
        Map<Long, String> names = names();
        return changes.latest(described.id(), person, MOST_LISTED).stream()
                .map(c -> shown(described, c, names, who))
                .toList();
    }

    private Map<Long, String> names() {
        return people.everyone().stream()
                .collect(Collectors.toMap(PeopleService.Profile::id, PeopleService.Profile::fullName));
    }

    private static ShownChange shown(
            RegisterForReader described, ChangeSets.Listed change, Map<Long, String> names, SignedIn who) {
        return new ShownChange(
                change.id(),
                described.register().key(),
                change.at(),
                change.person().map(names::get),
                change.reason(),
                change.records(),
                change.undoes(),
                change.undoneBy().isPresent(),
                described.mayChangeMany()
                        && change.undoneBy().isEmpty()
                        && (who.administers() || change.person().equals(Optional.of(who.id()))));
    }

    /** A change with what taking it back would do now. */
    @Transactional
    public UndoPreview change(long id, SignedIn who) {
        ChangeSets.Listed found = found(id);
        RegisterForReader described = register(found, who);
        return new UndoPreview(
                shown(described, found, names(), who),
                work.looking(connection -> new WayBack(connection, described, id, found.made()).extent()));
    }

    private ChangeSets.Listed found(long id) {
        return changes.find(id)
                .filter(c -> switch (c.origin()) {
                    case RECORD, BULK, POSTED, TAGS, UNDONE -> true;
                    // Files are taken back under Imports; what somebody wrote into the database is theirs.
                    case FILE, TAKEN_BACK, DATABASE -> false;
                })
                .orElseThrow(() -> Problem.notFound("This change"));
    }

    private RegisterForReader register(ChangeSets.Listed change, SignedIn who) {
        RegisterForReader described = registers.all(who).stream()
                .filter(d -> d.id() == change.registerId())
                .findFirst()
                .orElseThrow(() -> Problem.notFound("This change"));
        if (!who.readsEverything() && !change.person().equals(Optional.of(who.id()))) {
            throw Problem.notFound("This change");
        }
        return described;
    }

    /** Begins to take a change back. */
    @Transactional
    public ManyChangesService.Begun undo(long id, String reason, SignedIn who) {
        ChangeSets.Listed found = found(id);
        RegisterForReader described = undoable(found, who);
        return new ManyChangesService.Begun(jobs.begin(
                UNDO, described.register().label(), new UndoInput(id, ManyChangeWork.reason(reason), who.id()), who));
    }

    private RegisterForReader undoable(ChangeSets.Listed found, SignedIn who) {
        RegisterForReader described = work.mine(register(found, who).register().key(), who);
        if (found.undoneBy().isPresent()) {
            throw new Problem(
                    HttpStatus.CONFLICT,
                    "undone-already",
                    "Somebody took this change back already. Nothing was written.");
        }
        return described;
    }

    /** Takes a change back, as a job. */
    void undo(JobRun job) {
        UndoInput input = job.input(UndoInput.class);
        SignedIn who = work.asker(input.person());
        transactions.executeWithoutResult(status -> {
            ChangeSets.Listed found = changes.locked(input.set()).orElseThrow(() -> Problem.notFound("This change"));
            RegisterForReader described = undoable(found, who);
            job.at("taking back", 0);
            ChangeSet set = changes.begin(
                    described.id(),
                    Optional.of(who.id()),
                    ChangeSet.Origin.UNDONE,
                    Optional.empty(),
                    Optional.of(found.id()));
            RegisterForReader whole =
                    registers.whole(described.register().key()).orElseThrow();
            long written = periods.guarded(
                    described,
                    () -> work.working(
                            job,
                            connection ->
                                    new WayBack(connection, whole, found.id(), found.made()).takeBack(set, changes)));
            changes.describe(set, input.reason(), written, Optional.of(job.id()));
            trail.write(
                    Optional.of(who.id()),
                    "register",
                    described.id(),
                    "change taken back",
                    null,
                    Map.of("records", written, "reason", input.reason()));
            job.done(ManyChangeWork.counted(written) + " as before");
        });
    }

    // ------------------------------------------------------------------ how it goes

    /**
     * How a change goes, or went.
     *
     * @param message what came of it, or why nothing was written
     * @param change what it wrote, once it is done
     */
    public record ManyChangeRun(
            @AsText long job,
            Jobs.State state,
            String phase,
            double share,
            String message,
            Optional<ShownChange> change) {}

    /** How a job of one's own goes; any for administrators. */
    @Transactional(readOnly = true)
    public ManyChangeRun run(String key, long job, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        Jobs.AskedJob found = own(job, who);
        return new ManyChangeRun(
                job,
                found.state(),
                found.phase(),
                found.share(),
                found.message(),
                changes.ofJob(job)
                        .filter(c -> c.registerId() == described.id())
                        .map(c -> shown(described, c, names(), who)));
    }

    /** Stops one's own job; any for administrators. */
    @Transactional
    public void stop(String key, long job, SignedIn who) {
        registers.get(key, who);
        own(job, who);
        jobs.stop(job);
    }

    private Jobs.AskedJob own(long job, SignedIn who) {
        return jobs.find(job)
                .filter(j -> who.administers() || jobs.isAskedBy(job, who))
                .orElseThrow(() -> Problem.notFound("This job"));
    }
}
