package deftlens.server.views;

import deftlens.core.condition.Condition;
import deftlens.core.field.Field;
import deftlens.core.sql.Order;
import deftlens.core.statement.Printer;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.Described;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.rows.RowsService;
import deftlens.server.statements.ConditionJson;
import deftlens.server.statements.Questions;
import deftlens.server.trail.Trail;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/** Keeping, changing and sharing views. */
@Service
public class ViewsService {

    /** How long a deleted view can be brought back. */
    static final Duration RESTORE_PERIOD = Duration.ofDays(30);

    /** In the place of a zone: each reader's own. */
    public static final String READERS_ZONE = "reader";

    private static final String SUBJECT = "view";

    private final ViewStore store;
    private final RegisterCatalogue registers;
    private final PeopleService people;
    private final Questions questions;
    private final RowsService rows;
    private final Trail trail;
    private final Clock clock;
    private final ObjectMapper json;

    ViewsService(
            ViewStore store,
            RegisterCatalogue registers,
            PeopleService people,
            Questions questions,
            RowsService rows,
            Trail trail,
            Clock clock,
            ObjectMapper json) {
        this.store = store;
        this.registers = registers;
        this.people = people;
        this.questions = questions;
        this.rows = rows;
        this.trail = trail;
        this.clock = clock;
        this.json = json;
    }

    /** A person in few words. */
    public record Who(long id, String name, String fullName) {}

    /**
     * One share: with a person, with a team, or with everyone when both are absent.
     *
     * @param label the person's or team's name, or "Everyone"; ignored when sent
     */
    public record Share(Optional<Long> person, Optional<Long> team, boolean mayChange, Optional<String> label) {}

    /**
     * A view as a reader gets it.
     *
     * @param order {@code "due"} or {@code "-due"} for each field
     * @param mine whether the reader owns it
     * @param mayChange whether the reader may change it
     */
    public record View(
            long id,
            String register,
            String registerLabel,
            String name,
            String purpose,
            String statement,
            JsonNode condition,
            List<String> columns,
            List<String> order,
            Optional<String> zone,
            Who owner,
            List<Share> shares,
            boolean mine,
            boolean mayChange,
            int version,
            Instant createdAt,
            Instant changedAt,
            Who changedBy) {}

    /** What may be written of a view; absent parts stay, and take the register's own when a view is made. */
    public record Draft(
            Optional<String> name,
            Optional<String> purpose,
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<List<String>> columns,
            Optional<List<String>> order,
            Optional<String> zone) {

        boolean asks() {
            return statement.isPresent() || Questions.isSent(condition);
        }
    }

    /** One step of a view's history. */
    public record Step(Instant at, Optional<Who> who, String action, JsonNode before, JsonNode after) {}

    /** What the trail keeps of a view. */
    private record Kept(
            String name, String purpose, String statement, List<String> columns, List<String> order, String zone) {}

    /** The views open to a person, by name. */
    @Transactional(readOnly = true)
    public List<View> openTo(SignedIn who) {
        List<ViewEntity> found =
                who.readsEverything() ? store.everyView() : store.openTo(who.id(), people.teamsOf(who));
        Names names = new Names();
        return found.stream()
                .filter(v -> names.canRead(v.registerKey(), who))
                .map(v -> view(v, who, names))
                .toList();
    }

    /** Whether a view tests, shows or is ordered by one of the fields. */
    @Transactional(readOnly = true)
    public boolean uses(View view, Set<String> fields) {
        ViewEntity kept = store.findById(view.id()).orElseThrow();
        return condition(kept).criteria().stream().anyMatch(c -> fields.contains(c.field()))
                || strings(kept.columns()).stream().anyMatch(fields::contains)
                || strings(kept.ordering()).stream()
                        .anyMatch(o -> fields.contains(o.startsWith("-") ? o.substring(1) : o));
    }

    /** The views that a person deleted and can still bring back. */
    @Transactional(readOnly = true)
    public List<View> deleted(SignedIn who) {
        Names names = new Names();
        return store.deletedBy(who.id(), clock.instant().minus(RESTORE_PERIOD)).stream()
                .filter(v -> names.canRead(v.registerKey(), who))
                .map(v -> view(v, who, names))
                .toList();
    }

    /** One view. */
    @Transactional(readOnly = true)
    public View get(long id, SignedIn who) {
        return view(find(id, who), who, new Names());
    }

    /** The question that a view asks of its reader. */
    @Transactional(readOnly = true)
    public RowsService.Question question(long id, SignedIn who, Put put, Optional<String> name) {
        ViewEntity view = find(id, who);
        Described described = registers.get(view.registerKey(), who);
        return new RowsService.Question(
                described,
                questions.answered(described.register(), condition(view), Optional.of(put.answers())),
                questions.reading(put.asOf(), zone(view, put.readerZone())),
                who,
                name);
    }

    /**
     * How a reader puts a view's question.
     *
     * @param asOf the moment to read at
     * @param readerZone the reader's own zone, for a view that is read in it
     * @param answers what is filled into the view's blanks
     */
    public record Put(Optional<String> asOf, Optional<String> readerZone, Map<String, String> answers) {}

    private static Optional<String> zone(ViewEntity view, Optional<String> readerZone) {
        return READERS_ZONE.equals(view.zone()) ? readerZone : Optional.ofNullable(view.zone());
    }

    private static String zone(String given) {
        return given.isEmpty()
                ? null
                : given.equals(READERS_ZONE) ? given : Questions.zone(given).getId();
    }

    /** Keeps a new view, owned by whoever asks. */
    @Transactional
    public View keep(SignedIn who, String registerKey, Draft draft) {
        requireWriter(who);
        Described described = registers.get(registerKey, who);
        ViewEntity view = new ViewEntity(registerKey, who.id(), clock.instant());
        Condition condition = draft.asks() ? checked(described, draft, who) : Condition.EVERYTHING;
        view.write(
                name(draft.name().orElse("")),
                purpose(draft.purpose().orElse("")),
                document(condition),
                json.writeValueAsString(columns(described, draft.columns())),
                json.writeValueAsString(order(described, draft.order(), condition)),
                draft.zone().map(ViewsService::zone).orElse(null));
        view.touch(who.id(), clock.instant());
        ViewEntity kept = store.saveAndFlush(view);
        trail.write(Optional.of(who.id()), SUBJECT, kept.id(), "kept", null, kept(kept, described));
        return view(kept, who, new Names());
    }

    /**
     * Changes a view.
     *
     * @param version the version that the change was made from; another one is refused with what the view says now
     */
    @Transactional
    public View change(long id, SignedIn who, int version, Draft draft) {
        ViewEntity view = changeable(id, who);
        requireVersion(view, version, who);
        Described described = registers.get(view.registerKey(), who);
        Kept before = kept(view, described);
        Condition asks = draft.asks() ? checked(described, draft, who) : condition(view);
        view.write(
                draft.name().map(ViewsService::name).orElse(view.name()),
                draft.purpose().map(ViewsService::purpose).orElse(view.purpose()),
                draft.asks() ? document(asks) : view.condition(),
                draft.columns().isPresent()
                        ? json.writeValueAsString(columns(described, draft.columns()))
                        : view.columns(),
                draft.order().isPresent()
                        ? json.writeValueAsString(order(described, draft.order(), asks))
                        : view.ordering(),
                draft.zone().isPresent() ? zone(draft.zone().get()) : view.zone());
        view.touch(who.id(), clock.instant());
        ViewEntity written = store.saveAndFlush(view);
        trail.write(Optional.of(who.id()), SUBJECT, id, "changed", before, kept(written, described));
        return view(written, who, new Names());
    }

    /** Replaces the shares of a view; its owner and administrators may. */
    @Transactional
    public View share(long id, SignedIn who, int version, List<Share> shares) {
        ViewEntity view = find(id, who);
        requireWriter(who);
        if (view.ownerId() != who.id() && who.role() != deftlens.server.people.Role.ADMINISTRATOR) {
            throw Problem.forbidden("Only the owner of a view, or an administrator, decides with whom it is shared.");
        }
        requireVersion(view, version, who);
        Names names = new Names();
        List<Share> before = shares(view, names);
        Set<List<Optional<Long>>> seen = new HashSet<>();
        List<ShareEntity> fresh = new ArrayList<>();
        for (Share share : shares) {
            if (share.person().isPresent() && share.team().isPresent()) {
                throw Problem.unprocessable("bad-share", "A share names a person or a team, not both.");
            }
            if (!seen.add(List.of(share.person(), share.team()))) {
                throw Problem.unprocessable(
                        "shared-twice", "The view is shared with somebody twice; keep one of the two.");
            }
            names.require(share);
            fresh.add(new ShareEntity(share.person().orElse(null), share.team().orElse(null), share.mayChange()));
        }
        view.shares().clear();
        store.saveAndFlush(view);
        view.shares().addAll(fresh);
        view.touch(who.id(), clock.instant());
        ViewEntity written = store.saveAndFlush(view);
        trail.write(Optional.of(who.id()), SUBJECT, id, "shared", before, shares(written, names));
        return view(written, who, names);
    }

    /** Deletes a view; it can be brought back for a while. */
    @Transactional
    public void delete(long id, SignedIn who, int version) {
        ViewEntity view = find(id, who);
        requireOwner(view, who);
        requireVersion(view, version, who);
        view.delete(clock.instant());
        view.touch(who.id(), clock.instant());
        store.saveAndFlush(view);
        trail.write(Optional.of(who.id()), SUBJECT, id, "deleted", null, null);
    }

    /** Brings a deleted view back. */
    @Transactional
    public View restore(long id, SignedIn who) {
        ViewEntity view = store.findById(id)
                .filter(v -> v.deletedAt() != null
                        && v.deletedAt().isAfter(clock.instant().minus(RESTORE_PERIOD)))
                .orElseThrow(() -> Problem.notFound("This deleted view"));
        requireOwner(view, who);
        view.delete(null);
        view.touch(who.id(), clock.instant());
        ViewEntity written = store.saveAndFlush(view);
        trail.write(Optional.of(who.id()), SUBJECT, id, "restored", null, null);
        return view(written, who, new Names());
    }

    /** The history of a view, newest first. */
    @Transactional(readOnly = true)
    public List<Step> history(long id, SignedIn who) {
        find(id, who);
        Names names = new Names();
        return trail.of(SUBJECT, id).stream()
                .map(c -> new Step(c.at(), c.person().map(names::who), c.action(), c.before(), c.after()))
                .toList();
    }

    /** A view that is there and open to the person. */
    private ViewEntity find(long id, SignedIn who) {
        return store.findById(id)
                .filter(v -> v.deletedAt() == null
                        && isOpen(v, who)
                        && registers.find(v.registerKey(), who).isPresent())
                .orElseThrow(() -> Problem.notFound("This view"));
    }

    private ViewEntity changeable(long id, SignedIn who) {
        requireWriter(who);
        ViewEntity view = find(id, who);
        if (!mayChange(view, who)) {
            throw Problem.forbidden("This view is shared with you to look at. Keep a copy to change it.");
        }
        return view;
    }

    private static void requireWriter(SignedIn who) {
        if (who.changesNothing()) {
            throw Problem.forbidden("An auditor reads everything and changes nothing.");
        }
    }

    private static void requireOwner(ViewEntity view, SignedIn who) {
        requireWriter(who);
        if (view.ownerId() != who.id() && who.role() != deftlens.server.people.Role.ADMINISTRATOR) {
            throw Problem.forbidden("Only the owner of a view, or an administrator, may delete or restore it.");
        }
    }

    private void requireVersion(ViewEntity view, int version, SignedIn who) {
        if (view.version() != version) {
            View now = view(view, who, new Names());
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "changed-meanwhile",
                            now.changedBy().fullName()
                                    + " changed this view after you opened it. Nothing of yours was written: look at theirs, write yours over it, or keep yours as a copy.")
                    .with("current", now);
        }
    }

    private boolean isOpen(ViewEntity view, SignedIn who) {
        return view.ownerId() == who.id()
                || who.readsEverything()
                || matchingShares(view, who).findAny().isPresent();
    }

    private boolean mayChange(ViewEntity view, SignedIn who) {
        return !who.changesNothing()
                && (view.ownerId() == who.id()
                        || who.role() == deftlens.server.people.Role.ADMINISTRATOR
                        || matchingShares(view, who).anyMatch(ShareEntity::mayChange));
    }

    private java.util.stream.Stream<ShareEntity> matchingShares(ViewEntity view, SignedIn who) {
        List<Long> teams = people.teamsOf(who);
        return view.shares().stream()
                .filter(s -> s.personId() == null && s.teamId() == null
                        || s.personId() != null && s.personId() == who.id()
                        || s.teamId() != null && teams.contains(s.teamId()));
    }

    private Condition checked(Described described, Draft draft, SignedIn who) {
        Condition condition = questions.condition(described.register(), draft.statement(), draft.condition());
        questions.requireFit(
                described.register(),
                condition,
                questions.reading(Optional.empty(), draft.zone().filter(z -> !z.isEmpty() && !z.equals(READERS_ZONE))),
                who);
        return condition;
    }

    private String document(Condition condition) {
        return json.writeValueAsString(ConditionJson.document(condition));
    }

    private Condition condition(ViewEntity view) {
        return ConditionJson.fromDocument(json.readTree(view.condition()));
    }

    private List<String> columns(Described described, Optional<List<String>> keys) {
        List<String> columns =
                rows.columns(described, keys).stream().map(Field::key).toList();
        if (columns.isEmpty()) {
            throw Problem.unprocessable("no-columns", "A view shows at least one column.");
        }
        return columns;
    }

    private List<String> order(Described described, Optional<List<String>> keys, Condition condition) {
        return orderWords(rows.order(described, keys, condition));
    }

    private static List<String> orderWords(Order order) {
        return order.listed().isPresent()
                ? List.of(RowsService.AS_LISTED + order.listed().get().field().key())
                : order.keys().stream()
                        .map(k -> (k.descending() ? "-" : "") + k.field().key())
                        .toList();
    }

    private static String name(String name) {
        String plain = name.strip();
        if (plain.isEmpty()) {
            throw Problem.unprocessable("no-name", "Give the view a name, so that it can be found again.");
        }
        if (plain.codePointCount(0, plain.length()) > 120) {
            throw Problem.unprocessable("long-name", "A view's name has at most 120 characters.");
        }
        return plain;
    }

    private static String purpose(String purpose) {
        String plain = purpose.strip();
        if (plain.codePointCount(0, plain.length()) > 2_000) {
            throw Problem.unprocessable("long-purpose", "What a view is for is said in at most 2,000 characters.");
        }
        return plain;
    }

    private Kept kept(ViewEntity view, Described described) {
        return new Kept(
                view.name(),
                view.purpose(),
                Printer.print(condition(view)),
                strings(view.columns()),
                strings(view.ordering()),
                view.zone());
    }

    private View view(ViewEntity view, SignedIn who, Names names) {
        Condition condition = condition(view);
        Described described = names.register(view.registerKey(), who);
        return new View(
                view.id(),
                view.registerKey(),
                described.register().label(),
                view.name(),
                view.purpose(),
                Printer.print(condition),
                ConditionJson.write(condition),
                columnsFor(described, strings(view.columns())),
                orderFor(described, strings(view.ordering())),
                Optional.ofNullable(view.zone()),
                names.who(view.ownerId()),
                shares(view, names),
                view.ownerId() == who.id(),
                mayChange(view, who),
                view.version(),
                view.createdAt(),
                view.changedAt(),
                names.who(view.changedBy()));
    }

    private static List<Share> shares(ViewEntity view, Names names) {
        return view.shares().stream()
                .map(s -> new Share(
                        Optional.ofNullable(s.personId()),
                        Optional.ofNullable(s.teamId()),
                        s.mayChange(),
                        Optional.of(names.label(s))))
                .toList();
    }

    /** The columns that are there for a reader. */
    private static List<String> columnsFor(Described described, List<String> columns) {
        List<String> there = columns.stream()
                .filter(c -> described.register().field(c).isPresent())
                .toList();
        return there.isEmpty() ? List.of(described.title().key()) : there;
    }

    private static List<String> orderFor(Described described, List<String> order) {
        return order.stream()
                .filter(o -> described
                        .register()
                        .field(
                                o.startsWith(RowsService.AS_LISTED)
                                        ? o.substring(RowsService.AS_LISTED.length())
                                        : o.startsWith("-") ? o.substring(1) : o)
                        .isPresent())
                .toList();
    }

    private List<String> strings(String array) {
        return List.of(json.readValue(array, String[].class));
    }

    /** The names of people and teams, and the registers, each looked up once for a request. */
    private final class Names {
        private final Map<Long, Who> persons = new HashMap<>();
        private final Map<Long, String> teams = new HashMap<>();
        private final Map<String, Optional<Described>> described = new HashMap<>();

        Names() {
            people.everyone().forEach(p -> persons.put(p.id(), new Who(p.id(), p.name(), p.fullName())));
            people.teams().forEach(t -> teams.put(t.id(), t.name()));
        }

        Who who(long id) {
            return persons.getOrDefault(id, new Who(id, "", "Somebody who is gone"));
        }

        boolean canRead(String key, SignedIn who) {
            if (!described.containsKey(key)) {
                described.put(key, registers.find(key, who));
            }
            return described.get(key).isPresent();
        }

        Described register(String key, SignedIn who) {
            canRead(key, who);
            return described.get(key).orElseThrow(() -> Problem.notFound("The register “" + key + "”"));
        }

        String label(ShareEntity share) {
            return share.personId() != null
                    ? who(share.personId()).fullName()
                    : share.teamId() != null ? teams.getOrDefault(share.teamId(), "A team that is gone") : "Everyone";
        }

        void require(Share share) {
            if (share.person().isPresent()
                    && !persons.containsKey(share.person().get())) {
                throw Problem.unprocessable(
                        "unknown-person",
                        "There is no person with the number " + share.person().get() + ".");
            }
            if (share.team().isPresent() && !teams.containsKey(share.team().get())) {
                throw Problem.unprocessable(
                        "unknown-team",
                        "There is no team with the number " + share.team().get() + ".");
            }
        }
    }
}
