package deftlens.server.views;

import deftlens.core.check.Checker;
import deftlens.core.check.Finding;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Parts;
import deftlens.core.statement.Asks;
import deftlens.server.checking.CheckingService;
import deftlens.server.lanes.Lane;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.Orders;
import deftlens.server.question.Question;
import deftlens.server.registers.OrderWord;
import deftlens.server.registers.RegisterAttention;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterChanged;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.trail.Trail;
import jakarta.persistence.EntityManager;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Service;
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * The nightly look at every kept view: what its owner should see to before anybody is misled. What is found stands on the
 * view until it is seen to; every run begins afresh. What can no longer be asked for is taken out in the same night.
 */
@Service
class Attention {

    private static final Logger LOG = LoggerFactory.getLogger(Attention.class);
    private static final LocalTime NIGHT = LocalTime.of(3, 0);
    private static final Duration UNUSED_AFTER = Duration.ofDays(90);
    private static final int OPENINGS_KEPT_DAYS = 400;

    private final ViewParts parts;
    private final EntityManager entities;
    private final ViewStore store;
    private final RegisterCatalogue registers;
    private final PeopleService people;
    private final CheckingService checking;
    private final OrganisationService organisation;
    private final Trail trail;
    private final RegisterAttention registerAttention;
    private final TransactionTemplate transaction;
    private final Clock clock;

    Attention(
            ViewParts parts,
            EntityManager entities,
            ViewStore store,
            RegisterCatalogue registers,
            PeopleService people,
            CheckingService checking,
            OrganisationService organisation,
            Trail trail,
            RegisterAttention registerAttention,
            TransactionTemplate transaction,
            Clock clock) {
        this.parts = parts;
        this.entities = entities;
        this.store = store;
        this.registers = registers;
        this.people = people;
        this.checking = checking;
        this.organisation = organisation;
        this.trail = trail;
        this.registerAttention = registerAttention;
        this.transaction = transaction;
        this.clock = clock;
    }

    /**
     * Something about a view that its owner should see to.
     *
     * @param code stable name of the kind: a code of the checker's, or unfit, unused, shared-with-gone, owner-gone, fields-gone,
     *     shape-unfit, table-gone, table-changed, unreachable, gaps, uncalculated
     */
    record Note(String code, String message, Instant foundAt) {}

    /** How many views were looked at, how many of them need somebody, and how many registers do. */
    record Run(int views, int needing, int registers) {}

    /** What is known of the tables behind registers within one look, each of which may take a while to be reached. */
    private static final class Tables {
        private final Map<String, Optional<RegisterAttention.Trouble>> known = new HashMap<>();
    }

    /**
     * Once in each night of the organisation's zone, on whatever server.
     *
     * @return what came of it, in words; nothing where it is not time
     */
    Optional<String> nightly() {
        ZonedDateTime now = clock.instant().atZone(organisation.zone());
        LocalDate today = now.toLocalDate();
        if (!now.toLocalTime().isAfter(NIGHT) || !isDue(today)) {
            return Optional.empty();
        }
        Run run = run();
        transaction.executeWithoutResult(s -> entities.createNativeQuery("update nightly_look set day = ?1")
                .setParameter(1, today)
                .executeUpdate());
        return Optional.of(
                run.needing() == 0 && run.registers() == 0
                        ? run.views() + " views looked at; all is well"
                        : run.views() + " views looked at; " + run.needing() + " of them and " + run.registers()
                                + " registers need somebody");
    }

    private boolean isDue(LocalDate today) {
        return transaction.execute(s -> (Boolean)
                entities.createNativeQuery("select exists (select 1 from nightly_look where day <> ?1)", Boolean.class)
                        .setParameter(1, today)
                        .getSingleResult());
    }

    /** Looks at all views now; administrators may ask for it. */
    Run runFor(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator has all views looked at.");
        }
        return run();
    }

    Run run() {
        return Lane.BACKGROUND.run(this::lookAtAll);
    }

    private Run lookAtAll() {
        int registersNeeding = registerAttention.look();
        Tables tables = new Tables();
        List<Long> ids = transaction.execute(status ->
                store.everyView().stream().map(ViewEntity::id).distinct().toList());
        int needing = 0;
        for (Long id : ids) {
            // Each in a transaction of its own, so that one that fails leaves the others told.
            try {
                Integer found = transaction.execute(status -> look(id, tables));
                needing += found != null && found > 0 ? 1 : 0;
            } catch (RuntimeException e) {
                LOG.error("the view {} could not be looked at", id, e);
                needing += 1;
            }
        }
        transaction.executeWithoutResult(status -> forget());
        return new Run(ids.size(), needing, registersNeeding);
    }

    /** Takes out what nobody can ask for any more: old openings, and views that were deleted too long ago to be restored. */
    private void forget() {
        Instant now = clock.instant();
        entities.createNativeQuery("delete from view_opening where day < ?1")
                .setParameter(1, LocalDate.ofInstant(now, organisation.zone()).minusDays(OPENINGS_KEPT_DAYS))
                .executeUpdate();
        for (ViewEntity view : store.deletedUntil(now.minus(ViewsService.RESTORE_PERIOD))) {
            trail.write(Optional.empty(), ViewsService.SUBJECT, view.id(), "taken out", parts.kept(view), null);
            store.delete(view);
        }
    }

    /** What was to be seen to may be done with. */
    @EventListener
    void changed(ViewChanged change) {
        look(change.view());
    }

    /** The views over a register, once what the catalogue says of it is changed. */
    @EventListener
    void changed(RegisterChanged change) {
        lookAfterwards(
                store.over(change.register()).stream().map(ViewEntity::id).toList());
    }

    /** Looks at views once the transaction is made; that may take long, and nobody waits for it. */
    void lookAfterwards(List<Long> views) {
        if (views.isEmpty()) {
            return;
        }
        TransactionSynchronizationManager.registerSynchronization(new TransactionSynchronization() {
            @Override
            public void afterCommit() {
                Thread.ofVirtual()
                        .name("look at views")
                        .start(() -> Lane.BACKGROUND.run(() -> {
                            Tables tables = new Tables();
                            views.forEach(view -> lookAlone(view, tables));
                            return views.size();
                        }));
            }
        });
    }

    private void lookAlone(long view, Tables tables) {
        try {
            transaction.executeWithoutResult(status -> look(view, tables));
        } catch (RuntimeException e) {
            LOG.warn("the view {} could not be looked at; it will be at night", view, e);
        }
    }

    /** Looks at one view, in the transaction that changed it or in one of its own. */
    int look(long id) {
        return look(id, new Tables());
    }

    private int look(long id, Tables tables) {
        entities.createNativeQuery("delete from view_attention where view_id = ?1")
                .setParameter(1, id)
                .executeUpdate();
        Optional<ViewEntity> view = store.findById(id).filter(v -> v.deletedAt() == null);
        if (view.isEmpty()) {
            return 0;
        }
        List<Note> notes = notes(view.get(), tables);
        for (Note note : notes) {
            entities.createNativeQuery(
                            "insert into view_attention (view_id, code, message, found_at) values (?1, ?2, ?3, ?4) on conflict do nothing")
                    .setParameter(1, id)
                    .setParameter(2, note.code())
                    .setParameter(3, note.message())
                    .setParameter(4, note.foundAt())
                    .executeUpdate();
        }
        return notes.size();
    }

    private List<Note> notes(ViewEntity view, Tables tables) {
        Instant now = clock.instant();
        Map<Long, PeopleService.Profile> persons =
                people.everyone().stream().collect(Collectors.toMap(PeopleService.Profile::id, Function.identity()));
        List<Note> notes = new ArrayList<>();
        PeopleService.Profile owner = persons.get(view.ownerId());
        if (owner == null || !owner.active()) {
            notes.add(new Note(
                    "owner-gone",
                    (owner == null ? "Its owner" : owner.fullName()) + " has left; hand it over to somebody.",
                    now));
        }
        List<String> gone = view.shares().stream()
                .filter(s -> s.personId() != null)
                .map(s -> persons.get(s.personId()))
                .filter(p -> p != null && !p.active())
                .map(PeopleService.Profile::fullName)
                .toList();
        if (!gone.isEmpty()) {
            notes.add(new Note(
                    "shared-with-gone", "It is shared with " + String.join(", ", gone) + ", who has left.", now));
        }
        if (isUnused(view, now)) {
            notes.add(new Note("unused", "Nobody has opened it for 90 days.", now));
        }
        if (owner != null) {
            notes.addAll(checked(view, new SignedIn(owner.id(), owner.name(), owner.role()), tables, now));
        }
        return notes;
    }

    private boolean isUnused(ViewEntity view, Instant now) {
        Instant limit = now.minus(UNUSED_AFTER);
        return view.createdAt().isBefore(limit)
                && view.changedAt().isBefore(limit)
                && ((Number) entities.createNativeQuery(
                                                "select count(*) from view_opening where view_id = ?1 and last_at > ?2")
                                        .setParameter(1, view.id())
                                        .setParameter(2, limit)
                                        .getSingleResult())
                                .longValue()
                        == 0;
    }

    private List<Note> checked(ViewEntity view, SignedIn owner, Tables tables, Instant now) {
        Optional<RegisterForReader> described = registers.find(view.reads(), owner);
        if (described.isEmpty()) {
            return List.of(new Note("unfit", "Its register is gone, or not for its owner any more.", now));
        }
        List<Note> notes = new ArrayList<>(shown(view, described.get(), now));
        for (String key : sources(described.get())) {
            tables.known
                    .computeIfAbsent(key, k -> registers.whole(k).flatMap(registerAttention::trouble))
                    .ifPresent(t -> notes.add(new Note(t.code(), t.message(), now)));
        }
        described.get().gaps().stream()
                .filter(gap -> gap.field().isEmpty() || uses(view, gap.field().get()))
                .forEach(gap -> notes.add(new Note("gaps", gap.words(), now)));
        described.get().uncalculated().stream()
                .filter(f -> uses(view, f.key()))
                .forEach(f -> notes.add(new Note(
                        "uncalculated",
                        "“" + f.label() + "” cannot be calculated any more, and is empty in all records.",
                        now)));
        Condition condition = parts.condition(view);
        Set<String> blanks = Parts.of(condition).stream()
                .filter(p -> p.part() instanceof Condition.Criterion
                        && !Asks.of(p.part()).isEmpty())
                .map(Parts.Part::path)
                .collect(Collectors.toSet());
        Checker.About about = new Checker.About(
                view.name(), view.purpose(), true, described.get().hidden().keySet());
        checking.check(Question.of(described.get(), condition, parts.now(view), owner), about).stream()
                // A viewer value that the owner lacks is each reader's matter.
                .filter(f -> f.level() != Finding.Level.HINT || f.code() == Finding.Code.PASSED)
                .filter(f -> f.code() != Finding.Code.VIEWER_EMPTY)
                .filter(f -> f.code() != Finding.Code.PASSED || !blanks.contains(f.path()))
                .map(f -> new Note(f.code().code(), f.message(), now))
                .forEach(notes::add);
        return notes.stream().distinct().toList();
    }

    private boolean uses(ViewEntity view, String field) {
        return parts.uses(view, Set.of(field));
    }

    /** A register and what it is read from. */
    private static List<String> sources(RegisterForReader described) {
        List<String> sources = new ArrayList<>(List.of(described.register().key()));
        described.members().forEach(m -> sources.add(m.key()));
        return sources;
    }

    /** What a view shows, is ordered or grouped by and measures, and what of that is gone. */
    private List<Note> shown(ViewEntity view, RegisterForReader described, Instant now) {
        Map<String, String> gone = new TreeMap<>();
        parts.strings(view.columns()).forEach(key -> gone.merge(key, "shown", Attention::both));
        parts.strings(view.ordering()).forEach(order -> gone.merge(ordered(order), "ordered by", Attention::both));
        parts.shape(view).levels().forEach(g -> gone.merge(g.field(), "grouped by", Attention::both));
        parts.shape(view)
                .measures()
                .forEach(m -> m.field().ifPresent(key -> gone.merge(key, "measured", Attention::both)));
        gone.keySet().removeIf(key -> described.register().field(key).isPresent());
        List<Note> notes = new ArrayList<>();
        gone.forEach((key, use) -> notes.add(new Note(
                "fields-gone",
                described.hidden().containsKey(key)
                        ? "“" + described.hidden().get(key) + "” is " + use
                                + ", and its owner does not see it any more."
                        : "The field “" + key + "” was " + use + " and is gone.",
                now)));
        try {
            parts.requireShown(view, described);
        } catch (Problem unfit) {
            notes.add(new Note("shape-unfit", "It cannot be shown as it was saved: " + unfit.getMessage(), now));
        }
        return notes;
    }

    private static String both(String one, String other) {
        return one.contains(other) ? one : one + " and " + other;
    }

    private static String ordered(String order) {
        return order.startsWith(Orders.AS_LISTED)
                ? order.substring(Orders.AS_LISTED.length())
                : OrderWord.read(order).field();
    }
}
