package deftlens.server.views;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Refinement;
import deftlens.core.field.Register;
import deftlens.core.statement.Printer;
import deftlens.core.statement.StatementError;
import deftlens.core.statement.Wording;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.question.ConditionJson;
import deftlens.server.question.Orders;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Shape;
import deftlens.server.registers.AddedFields;
import deftlens.server.registers.BandHistory;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
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
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.context.ApplicationEventPublisher;
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

    static final String SUBJECT = "view";

    private final ViewStore store;
    private final RegisterCatalogue registers;
    private final PeopleService people;
    private final Questions questions;
    private final ViewRights rights;
    private final ViewParts parts;
    private final BandHistory bands;
    private final Trail trail;
    private final ApplicationEventPublisher events;
    private final Clock clock;
    private final ObjectMapper json;

    ViewsService(
            ViewStore store,
            RegisterCatalogue registers,
            PeopleService people,
            Questions questions,
            ViewRights rights,
            ViewParts parts,
            BandHistory bands,
            Trail trail,
            ApplicationEventPublisher events,
            Clock clock,
            ObjectMapper json) {
        this.store = store;
        this.registers = registers;
        this.people = people;
        this.questions = questions;
        this.rights = rights;
        this.parts = parts;
        this.bands = bands;
        this.trail = trail;
        this.events = events;
        this.clock = clock;
        this.json = json;
    }

    /** A person in few words. */
    public record Who(@AsText long id, String name, String fullName) {}

    /**
     * One share: with a person, with a team, or with everyone when both are absent.
     *
     * @param may what they may do
     * @param mayChange the same in the form it had before {@code may}; heeded only without it
     * @param label the person's or team's name, or "Everyone"; ignored when sent
     */
    public record Share(
            @AsText Optional<Long> person,
            @AsText Optional<Long> team,
            Optional<ViewPermission> may,
            Optional<Boolean> mayChange,
            Optional<String> label) {

        /** A share to be made. */
        public static Share with(Optional<Long> person, Optional<Long> team, ViewPermission may) {
            return new Share(person, team, Optional.of(may), Optional.empty(), Optional.empty());
        }

        ViewPermission granted() {
            return may.orElse(mayChange.orElse(false) ? ViewPermission.CHANGE : ViewPermission.LOOK);
        }
    }

    /**
     * A view as a reader gets it.
     *
     * @param reads what its records are asked for by: the key of its register, with the fields that the view adds to it
     * @param order {@code "due"} or {@code "-due"} for each field
     * @param shape how the records are shown beyond that
     * @param labels words of the organisation's own by which views are found
     * @param locked the parts of the outermost all-of group, counted from 0, that readers may not change
     * @param mine whether the reader owns it
     * @param may what the reader may do with it
     * @param mayChange whether that includes changing it
     */
    public record View(
            @AsText long id,
            String register,
            String reads,
            String registerLabel,
            String name,
            String purpose,
            String statement,
            JsonNode condition,
            List<String> columns,
            List<String> order,
            Optional<String> zone,
            Shape shape,
            List<String> labels,
            List<Integer> locked,
            Who owner,
            List<Share> shares,
            boolean mine,
            ViewPermission may,
            boolean mayChange,
            int version,
            Instant createdAt,
            Instant changedAt,
            Who changedBy) {}

    /**
     * What may be written of a view; absent parts stay, and take the register's own when a view is made.
     *
     * @param register its register with the fields that it adds
     */
    public record Draft(
            Optional<String> register,
            Optional<String> name,
            Optional<String> purpose,
            Optional<String> statement,
            Optional<JsonNode> condition,
            Optional<List<String>> columns,
            Optional<List<String>> order,
            Optional<String> zone,
            Optional<Shape> shape,
            Optional<List<String>> labels,
            Optional<List<Integer>> locked) {

        /** Changes nothing. */
        static final Draft NOTHING = new Draft(
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty());

        /** What a view asks and in which order, under a name and labels. */
        public static Draft of(String name, String purpose, String statement, List<String> order, List<String> labels) {
            return new Draft(
                            Optional.empty(),
                            Optional.of(name),
                            Optional.of(purpose),
                            Optional.of(statement),
                            Optional.empty(),
                            Optional.empty(),
                            Optional.of(order),
                            Optional.empty(),
                            Optional.empty(),
                            Optional.empty(),
                            Optional.empty())
                    .withLabels(labels);
        }

        Draft withName(String to) {
            return new Draft(
                    register,
                    Optional.of(to),
                    purpose,
                    statement,
                    condition,
                    columns,
                    order,
                    zone,
                    shape,
                    labels,
                    locked);
        }

        Draft withLabels(List<String> to) {
            return new Draft(
                    register,
                    name,
                    purpose,
                    statement,
                    condition,
                    columns,
                    order,
                    zone,
                    shape,
                    Optional.of(to),
                    locked);
        }

        boolean asks() {
            return statement.isPresent() || Questions.isSent(condition);
        }
    }

    /**
     * One step of a view's history.
     *
     * @param id its number in the trail
     */
    public record Step(
            @AsText long id,
            Instant at,
            Optional<Who> who,
            String action,
            JsonNode before,
            JsonNode after,
            Optional<List<String>> beforeLines,
            Optional<List<String>> afterLines) {}

    ViewNames names() {
        return new ViewNames(people, registers);
    }

    /** The views open to a person, by name. */
    @Transactional(readOnly = true)
    public List<View> openTo(SignedIn who) {
        ViewNames names = names();
        return open(who, names).map(v -> view(v, who, names)).toList();
    }

    /** The numbers of the views open to a person. */
    @Transactional(readOnly = true)
    public Set<Long> numbersOpenTo(SignedIn who) {
        return open(who, names()).map(ViewEntity::id).collect(Collectors.toCollection(TreeSet::new));
    }

    private Stream<ViewEntity> open(SignedIn who, ViewNames names) {
        return (who.readsEverything() ? store.everyView() : store.openTo(who.id(), people.teamsOf(who)))
                .stream().filter(v -> names.canRead(v.registerKey(), who));
    }

    /** Whether a view tests, shows or is ordered by one of the fields. */
    @Transactional(readOnly = true)
    public boolean uses(View view, Set<String> fields) {
        return parts.uses(store.findById(view.id()).orElseThrow(), fields);
    }

    /** The views that can still be brought back by a person: their own, and everybody's for administrators. */
    @Transactional(readOnly = true)
    public List<View> deleted(SignedIn who) {
        ViewNames names = names();
        Instant since = clock.instant().minus(RESTORE_PERIOD);
        return (who.administers() ? store.deleted(since) : store.deletedBy(who.id(), since))
                .stream()
                        .filter(v -> names.canRead(v.registerKey(), who))
                        .map(v -> view(v, who, names))
                        .toList();
    }

    /** One view. */
    @Transactional(readOnly = true)
    public View get(long id, SignedIn who) {
        return view(rights.find(id, who), who, names());
    }

    /** The question that a view asks of its reader. */
    @Transactional(readOnly = true)
    public Question question(long id, SignedIn who, ViewParameters put) {
        ViewEntity view = rights.find(id, who);
        RegisterForReader described = registers.get(view.reads(), who);
        return Question.of(
                        described,
                        questions.answered(
                                described,
                                put.refined().map(ConditionJson::read).orElseGet(() -> parts.condition(view)),
                                Optional.of(put.answers()),
                                who),
                        questions.reading(put.asOf(), zone(view, put.readerZone())),
                        who)
                .asRecordsStood(questions.recordsAt(put.recordsAt(), zone(view, put.readerZone())));
    }

    /** A view's question in its order, with its columns and its shape. */
    static Question shown(View view, Question question) {
        RegisterForReader register = question.registerForReader();
        return question.shown(
                Orders.order(register, Optional.of(view.order()), question.condition()),
                Orders.columns(register, Optional.of(view.columns())),
                view.shape().checked(register));
    }

    /**
     * How a reader puts a view's question.
     *
     * @param asOf the moment to read at
     * @param recordsAt the moment that the records are read as they were kept at
     * @param readerZone the reader's own zone, for a view that is read in it
     * @param answers what is filled into the view's blanks
     * @param refined the condition as the reader refined it, in the place of the view's own
     */
    public record ViewParameters(
            Optional<String> asOf,
            Optional<String> recordsAt,
            Optional<String> readerZone,
            Map<String, String> answers,
            Optional<JsonNode> refined) {

        /** As it is shared, now, with every blank at its default. */
        public static final ViewParameters AS_SHARED =
                new ViewParameters(Optional.empty(), Optional.empty(), Optional.empty(), Map.of(), Optional.empty());
    }

    private static Optional<String> zone(ViewEntity view, Optional<String> readerZone) {
        return READERS_ZONE.equals(view.zone()) ? readerZone : Optional.ofNullable(view.zone());
    }

    /**
     * Keeps a new view, owned by whoever asks.
     *
     * @param registerKey of its register, with the fields that it adds
     */
    @Transactional
    public View keep(SignedIn who, String registerKey, Draft draft) {
        ViewRights.requireWriter(who);
        RegisterForReader described = registers.get(registerKey, who);
        ViewEntity view = new ViewEntity(described.register().key(), who.id(), clock.instant());
        view.add(AddedFields.handle(described.key()));
        Condition condition = draft.asks() ? parts.checked(described, draft, who) : Condition.EVERYTHING;
        view.call(
                freeName(view, draft.name().orElse("")),
                ViewParts.purpose(draft.purpose().orElse("")),
                json.writeValueAsString(ViewParts.labels(draft.labels().orElse(List.of()))));
        view.ask(
                parts.document(condition),
                json.writeValueAsString(ViewParts.locked(draft.locked().orElse(List.of()), condition)));
        view.show(
                json.writeValueAsString(parts.columns(described, draft.columns())),
                json.writeValueAsString(parts.order(described, draft.order(), condition)),
                draft.zone().map(ViewParts::zone).orElse(null),
                json.writeValueAsString(draft.shape().orElse(Shape.USUAL).checked(described)));
        parts.requireShown(view, described);
        view.touch(who.id(), clock.instant());
        ViewEntity kept = store.saveAndFlush(view);
        trail.write(Optional.of(who.id()), SUBJECT, kept.id(), "saved", null, parts.kept(kept));
        return view(kept, who, names());
    }

    /**
     * Changes a view.
     *
     * @param version the version that the change was made from; another one is refused with what the view says now
     */
    @Transactional
    public View change(long id, SignedIn who, int version, Draft draft) {
        return change(id, who, version, draft, "changed");
    }

    /** Changes a view; the trail calls it by a word of its own. */
    View change(long id, SignedIn who, int version, Draft draft, String action) {
        ViewEntity view = rights.changeable(id, who);
        requireVersion(view, version, who);
        RegisterForReader described = readAs(view, draft.register(), who);
        ViewParts.Kept before = parts.kept(view);
        write(view, described, draft, who);
        ViewEntity written = store.saveAndFlush(view);
        trail.write(Optional.of(who.id()), SUBJECT, id, action, before, parts.kept(written));
        events.publishEvent(new ViewChanged(id));
        return view(written, who, names());
    }

    /**
     * The register of a view with the fields that are to be added to it, or that it adds now.
     *
     * @param register its key with those fields
     */
    RegisterForReader readAs(ViewEntity view, Optional<String> register, SignedIn who) {
        RegisterForReader described = registers.get(register.orElse(view.reads()), who);
        if (!described.register().key().equals(view.registerKey())) {
            throw Problem.unprocessable("other-register", "A view stays over the register that it was made for.");
        }
        return described;
    }

    /** Writes what a draft says into a view; what it does not say stays. */
    private void write(ViewEntity view, RegisterForReader described, Draft draft, SignedIn who) {
        Condition asked = parts.condition(view);
        view.add(AddedFields.handle(described.key()));
        Condition asks = draft.asks() ? parts.checked(described, draft, who) : asked;
        if (draft.register().isPresent() && !draft.asks()) {
            parts.fitting(described, asks, Optional.ofNullable(view.zone()), who);
        }
        view.call(
                draft.name().map(n -> freeName(view, n)).orElse(view.name()),
                draft.purpose().map(ViewParts::purpose).orElse(view.purpose()),
                draft.labels()
                        .map(l -> json.writeValueAsString(ViewParts.labels(l)))
                        .orElse(view.labels()));
        view.ask(
                draft.asks() ? parts.document(asks) : view.condition(),
                json.writeValueAsString(draft.locked()
                        .map(l -> ViewParts.locked(l, asks))
                        // A lock stays on its part when the statement is changed around it.
                        .orElseGet(() ->
                                List.copyOf(Refinement.between(asked, asks).carry(Set.copyOf(parts.locked(view)))))));
        view.show(
                draft.columns().isPresent()
                        ? json.writeValueAsString(parts.columns(described, draft.columns()))
                        : view.columns(),
                draft.order().isPresent()
                        ? json.writeValueAsString(parts.order(described, draft.order(), asks))
                        : view.ordering(),
                draft.zone().isPresent() ? ViewParts.zone(draft.zone().get()) : view.zone(),
                draft.shape()
                        .map(s -> json.writeValueAsString(s.checked(described)))
                        .orElse(view.shape()));
        if (draft.shape().isPresent() || draft.order().isPresent()) {
            parts.requireShown(view, described);
        }
        view.touch(who.id(), clock.instant());
    }

    /** Replaces the shares of a view; whoever manages it may. */
    @Transactional
    public View share(long id, SignedIn who, int version, List<Share> shares) {
        ViewEntity view = rights.find(id, who);
        rights.requireManager(view, who);
        requireVersion(view, version, who);
        ViewNames names = names();
        List<Share> before = shares(view, names);
        setShares(view, shares, names);
        view.touch(who.id(), clock.instant());
        ViewEntity written = store.saveAndFlush(view);
        trail.write(Optional.of(who.id()), SUBJECT, id, "shared", before, shares(written, names));
        events.publishEvent(new ViewChanged(id));
        return view(written, who, names);
    }

    void setShares(ViewEntity view, List<Share> shares, ViewNames names) {
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
            fresh.add(new ShareEntity(share.person().orElse(null), share.team().orElse(null), share.granted()));
        }
        view.shares().clear();
        store.saveAndFlush(view);
        view.shares().addAll(fresh);
    }

    /** Sets the labels of a view; whoever may change it may. */
    View relabel(long id, SignedIn who, int version, List<String> labels) {
        return change(id, who, version, Draft.NOTHING.withLabels(labels));
    }

    /** Gives a view to somebody else, under a name that they have not used yet. An owner who stays may still change it. */
    View handOver(long id, SignedIn who, int version, long to) {
        ViewEntity view = rights.find(id, who);
        rights.requireManager(view, who);
        requireVersion(view, version, who);
        PeopleService.Profile heir = people.profile(to);
        if (!heir.active()) {
            throw Problem.unprocessable("not-active", heir.fullName() + " has left. Choose somebody who is here.");
        }
        if (new SignedIn(heir.id(), heir.name(), heir.role()).changesNothing()) {
            throw Problem.unprocessable(
                    "auditor", heir.fullName() + " is an auditor and changes nothing. Choose somebody else.");
        }
        if (registers
                .find(view.registerKey(), new SignedIn(heir.id(), heir.name(), heir.role()))
                .isEmpty()) {
            throw Problem.unprocessable(
                    "register-closed", heir.fullName() + " may not read the register that this view is over.");
        }
        ViewNames names = names();
        if (view.ownerId() != to) {
            Who before = names.who(view.ownerId());
            boolean stays = people.profile(view.ownerId()).active();
            List<Share> shares = new ArrayList<>(shares(view, names).stream()
                    .filter(s ->
                            s.person().filter(p -> p == to || p == before.id()).isEmpty())
                    .toList());
            if (stays) {
                shares.add(Share.with(Optional.of(before.id()), Optional.empty(), ViewPermission.CHANGE));
            }
            setShares(view, shares, names);
            view.call(freeNameLike(to, view.name(), Optional.of(id)), view.purpose(), view.labels());
            view.handOverTo(to);
            view.touch(who.id(), clock.instant());
            store.saveAndFlush(view);
            trail.write(
                    Optional.of(who.id()),
                    SUBJECT,
                    id,
                    "handed over",
                    Map.of("owner", before.fullName()),
                    Map.of("owner", heir.fullName()));
            events.publishEvent(new ViewChanged(id));
        }
        return view(view, who, names);
    }

    /** Deletes a view; it can be brought back for a while. */
    @Transactional
    public void delete(long id, SignedIn who, int version) {
        ViewEntity view = rights.find(id, who);
        rights.requireManager(view, who);
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
        rights.requireManager(view, who);
        // Asked while it is still deleted: the database holds to one name for each owner at every moment.
        String free = freeNameLike(view.ownerId(), view.name(), Optional.of(view.id()));
        view.call(free, view.purpose(), view.labels());
        view.delete(null);
        view.touch(who.id(), clock.instant());
        ViewEntity written = store.saveAndFlush(view);
        trail.write(Optional.of(who.id()), SUBJECT, id, "restored", null, null);
        return view(written, who, names());
    }

    /** The history of a view, newest first. */
    @Transactional(readOnly = true)
    public List<Step> history(long id, SignedIn who) {
        RegisterForReader described = registers.get(rights.find(id, who).registerKey(), who);
        ViewNames names = names();
        Register readable = bands.withFormerNames(described);
        return trail.of(SUBJECT, id).stream()
                .map(c -> new Step(
                        c.id(),
                        c.at(),
                        c.person().map(names::who),
                        c.action(),
                        c.before(),
                        c.after(),
                        lines(described, readable, c.before(), who),
                        lines(described, readable, c.after(), who)))
                .toList();
    }

    /**
     * What a view asks, a line for each part, in the labels of its fields.
     *
     * @param lines none for every record; absent where the view cannot be read today
     */
    public record ViewWords(@AsText long view, Optional<List<String>> lines) {}

    /** What some views ask, as people read it; views that are not open to the person are left out. */
    @Transactional(readOnly = true)
    public List<ViewWords> words(List<Long> ids, SignedIn who) {
        Set<Long> wanted = new HashSet<>(ids);
        Map<String, Optional<RegisterForReader>> known = new HashMap<>();
        return openTo(who).stream()
                .filter(v -> wanted.contains(v.id()))
                .map(v -> new ViewWords(
                        v.id(),
                        known.computeIfAbsent(v.reads(), key -> registers.find(key, who))
                                .flatMap(described -> read(described, v.statement(), described.register(), who))))
                .toList();
    }

    private Optional<List<String>> read(
            RegisterForReader described, String statement, Register register, SignedIn who) {
        try {
            return Optional.of(Wording.lines(
                    questions.condition(described, register, statement, who),
                    register,
                    questions.elsewhere(described, who)));
        } catch (Problem | StatementError unreadable) {
            return Optional.empty();
        }
    }

    /** What one side of a step asks, as a person reads it today; in the language where it cannot be read any more. */
    private Optional<List<String>> lines(RegisterForReader described, Register plain, JsonNode side, SignedIn who) {
        if (side == null || !side.has("statement")) {
            return Optional.empty();
        }
        Register register = AddedFields.among(
                plain, json.treeToValue(side, ViewParts.Kept.class).added());
        String statement = side.get("statement").stringValue("");
        return Optional.of(read(described, statement, register, who).orElseGet(() -> List.of(statement)));
    }

    void requireVersion(ViewEntity view, int version, SignedIn who) {
        if (view.version() != version) {
            View now = view(view, who, names());
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "changed-meanwhile",
                            now.changedBy().fullName()
                                    + " changed this view after you opened it. Nothing of yours was written: look at theirs, overwrite it with yours, or save yours as a new view.")
                    .with("current", now);
        }
    }

    /** A name that no other view of the same owner has. */
    private String freeName(ViewEntity view, String wanted) {
        String name = ViewParts.name(wanted);
        store.named(view.ownerId(), name).filter(v -> !v.id().equals(view.id())).ifPresent(other -> {
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "name-taken",
                            "There is a view “" + other.name()
                                    + "” of the same owner already. Choose another name, or change that one.")
                    .at("name")
                    .with("view", other.id());
        });
        return name;
    }

    /** The name, or the name with the first number that makes it the owner's only one. */
    String freeNameLike(long owner, String name, Optional<Long> own) {
        String free = name;
        for (int i = 2; taken(owner, free, own); i++) {
            free = name + " (" + i + ")";
        }
        return free;
    }

    private boolean taken(long owner, String name, Optional<Long> own) {
        return store.named(owner, name)
                .filter(v -> own.filter(v.id()::equals).isEmpty())
                .isPresent();
    }

    View view(ViewEntity view, SignedIn who, ViewNames names) {
        Condition condition = parts.condition(view);
        RegisterForReader described = names.register(view.reads(), who);
        ViewPermission may = rights.may(view, who).orElse(ViewPermission.LOOK);
        return new View(
                view.id(),
                view.registerKey(),
                view.reads(),
                described.register().label(),
                view.name(),
                view.purpose(),
                Printer.print(condition),
                ConditionJson.write(condition),
                ViewParts.columnsFor(described, parts.strings(view.columns())),
                ViewParts.orderFor(described, parts.strings(view.ordering())),
                Optional.ofNullable(view.zone()),
                parts.shape(view).fitting(described),
                parts.strings(view.labels()),
                parts.locked(view),
                names.who(view.ownerId()),
                shares(view, names),
                view.ownerId() == who.id(),
                may,
                may.includes(ViewPermission.CHANGE),
                view.version(),
                view.createdAt(),
                view.changedAt(),
                names.who(view.changedBy()));
    }

    static List<Share> shares(ViewEntity view, ViewNames names) {
        return view.shares().stream()
                .map(s -> new Share(
                        Optional.ofNullable(s.personId()),
                        Optional.ofNullable(s.teamId()),
                        Optional.of(s.may()),
                        Optional.of(s.may().includes(ViewPermission.CHANGE)),
                        Optional.of(names.label(s))))
                .toList();
    }
}
