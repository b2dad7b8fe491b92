package deftlens.server.views;

import deftlens.core.condition.Condition;
import deftlens.core.field.Register;
import deftlens.core.statement.Printer;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.question.ConditionJson;
import deftlens.server.question.Shape;
import deftlens.server.registers.AddedFields;
import deftlens.server.registers.AddingFields;
import deftlens.server.registers.AddingFields.FieldToAdd;
import deftlens.server.registers.OrderWord;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.views.ViewsService.Draft;
import deftlens.server.views.ViewsService.Share;
import deftlens.server.views.ViewsService.View;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * Views carried from one installation to another as a JSON file (docs/view-file.md). What does not fit there is told for each
 * view by name; nothing is guessed.
 */
@Service
class ViewFiles {

    static final String FORMAT = "deft-lens-views";
    static final int VERSION = 1;
    private static final int MOST_VIEWS = 1_000;

    private final ViewParts parts;
    private final ViewsService views;
    private final ViewStore store;
    private final RegisterCatalogue registers;
    private final AddedFields added;
    private final AddingFields adding;
    private final PeopleService people;
    private final OrganisationService organisation;
    private final TransactionTemplate transaction;
    private final Clock clock;
    private final ObjectMapper json;

    ViewFiles(
            ViewParts parts,
            ViewsService views,
            ViewStore store,
            RegisterCatalogue registers,
            AddedFields added,
            AddingFields adding,
            PeopleService people,
            OrganisationService organisation,
            TransactionTemplate transaction,
            Clock clock,
            ObjectMapper json) {
        this.parts = parts;
        this.views = views;
        this.store = store;
        this.registers = registers;
        this.added = added;
        this.adding = adding;
        this.people = people;
        this.organisation = organisation;
        this.transaction = transaction;
        this.clock = clock;
        this.json = json;
    }

    /**
     * A file of views.
     *
     * @param format always {@value #FORMAT}
     * @param version of the form; {@value #VERSION}
     * @param organisation whose views they were
     */
    record ViewFile(String format, int version, Instant writtenAt, String organisation, List<Carried> views) {}

    /**
     * A view in a file; people by their sign-in names, teams by their names.
     *
     * @param added the calculated fields that it adds to those of its register
     * @param statement for people to read; what counts is the condition
     */
    record Carried(
            String name,
            String purpose,
            String register,
            Optional<List<FieldToAdd>> added,
            String statement,
            JsonNode condition,
            List<String> columns,
            List<String> order,
            Optional<String> zone,
            Optional<Shape> shape,
            List<String> labels,
            List<Integer> locked,
            String owner,
            List<CarriedShare> shares) {}

    /** A share in a file: a person's sign-in name, or a team's name, or neither for everyone. */
    record CarriedShare(Optional<String> person, Optional<String> team, ViewPermission may) {}

    /** What to do with a view whose owner has one of that name already. */
    enum IfThere {
        /** Leave the one that is there. */
        SKIP,
        /** Bring it in under another name. */
        RENAME,
        /** Change the one that is there into it. */
        REPLACE
    }

    /** What became of a view of a file. */
    enum Outcome {
        ADDED,
        REPLACED,
        SKIPPED,
        REFUSED
    }

    /** What became of one view, with what did not fit. */
    record Fate(String name, Outcome outcome, @AsText Optional<Long> view, List<String> notes) {}

    /**
     * What became of a file.
     *
     * @param written whether it was done, or only looked at
     */
    record ViewFileReport(List<Fate> views, boolean written) {}

    /** The views of these numbers, or all that are open to the person, as a file. */
    @Transactional(readOnly = true)
    public ViewFile write(SignedIn who, List<Long> ids) {
        Map<Long, String> names = new HashMap<>();
        people.everyone().forEach(p -> names.put(p.id(), p.name()));
        Map<Long, String> teams = new HashMap<>();
        people.teams().forEach(t -> teams.put(t.id(), t.name()));
        List<View> chosen = ids.isEmpty()
                ? views.openTo(who)
                : ids.stream().map(id -> views.get(id, who)).toList();
        return new ViewFile(
                FORMAT,
                VERSION,
                clock.instant(),
                organisation.name(),
                chosen.stream()
                        .map(v -> new Carried(
                                v.name(),
                                v.purpose(),
                                v.register(),
                                Optional.of(added.fields(AddedFields.handle(v.reads())))
                                        .filter(f -> !f.isEmpty())
                                        .map(f -> f.stream().map(FieldToAdd::of).toList()),
                                v.statement(),
                                ConditionJson.document(ConditionJson.read(v.condition())),
                                v.columns(),
                                v.order(),
                                v.zone(),
                                Optional.of(v.shape()),
                                v.labels(),
                                v.locked(),
                                v.owner().name(),
                                v.shares().stream()
                                        .map(s -> new CarriedShare(
                                                s.person().map(names::get),
                                                s.team().map(teams::get),
                                                s.granted()))
                                        .toList()))
                        .toList());
    }

    /**
     * Brings a file's views in. Administrators give each view to its owner where that person is here; everybody else keeps
     * them as their own, shared with nobody.
     *
     * @param write false only tells what would become of them
     */
    ViewFileReport read(SignedIn who, JsonNode file, IfThere ifThere, boolean write) {
        ViewRights.requireWriter(who);
        List<Fate> fates = new ArrayList<>();
        for (Carried view : parsed(file).views()) {
            // Each in a transaction of its own: what does not fit keeps nothing else out.
            Fate fate = transaction.execute(status -> {
                Fate found = bringIn(who, view, ifThere);
                if (!write || found.outcome() == Outcome.REFUSED) {
                    status.setRollbackOnly();
                }
                return found;
            });
            fates.add(write ? fate : new Fate(fate.name(), fate.outcome(), Optional.empty(), fate.notes()));
        }
        return new ViewFileReport(fates, write);
    }

    private ViewFile parsed(JsonNode file) {
        if (!file.path("format").asString("").equals(FORMAT)) {
            throw Problem.unprocessable(
                    "not-a-view-file", "This is no file of views: its “format” is not “" + FORMAT + "”.");
        }
        if (file.path("version").asInt(0) != VERSION) {
            throw Problem.unprocessable(
                    "newer-view-file",
                    "This file of views has version " + file.path("version").asString("?") + "; version " + VERSION
                            + " can be read here.");
        }
        try {
            ViewFile read = json.treeToValue(file, ViewFile.class);
            if (read.views() == null || read.views().size() > MOST_VIEWS) {
                throw Problem.unprocessable("too-many-views", "A file has 1 to " + MOST_VIEWS + " views.");
            }
            return read;
        } catch (tools.jackson.core.JacksonException e) {
            throw Problem.unprocessable(
                    "broken-view-file", "The file cannot be read as views: " + e.getOriginalMessage());
        }
    }

    private Fate bringIn(SignedIn who, Carried view, IfThere ifThere) {
        List<String> notes = new ArrayList<>();
        try {
            SignedIn owner = owner(who, view, notes);
            if (registers.find(view.register(), owner).isEmpty()) {
                throw Problem.unprocessable(
                        "register-gone",
                        "There is no register “" + view.register() + "” here that " + owner.name() + " may read.");
            }
            RegisterForReader described =
                    adding.with(view.register(), view.added().orElse(List.of()), owner);
            Condition condition = ConditionJson.fromDocument(view.condition());
            parts.read(described, Printer.print(condition), view.zone(), owner);
            Optional<ViewEntity> there = store.named(owner.id(), view.name().strip());
            if (there.isPresent() && ifThere == IfThere.SKIP) {
                notes.add("There is a view of this name already.");
                return new Fate(view.name(), Outcome.SKIPPED, there.map(ViewEntity::id), notes);
            }
            Draft draft = draft(view, condition, described, notes);
            View made;
            Outcome outcome;
            if (there.isPresent() && ifThere == IfThere.REPLACE) {
                if (!there.get().registerKey().equals(view.register())) {
                    throw Problem.unprocessable(
                            "other-register", "The view of this name here is over another register.");
                }
                made = views.change(there.get().id(), who, there.get().version(), draft, "imported");
                outcome = Outcome.REPLACED;
            } else {
                String free = views.freeNameLike(owner.id(), view.name().strip(), Optional.empty());
                if (there.isPresent()) {
                    notes.add("It is called “" + free + "” here.");
                }
                made = views.keep(owner, described.key(), draft.withName(free));
                outcome = Outcome.ADDED;
            }
            List<Share> shares = who.administers() ? shares(view, owner, notes) : List.of();
            if (!shares.isEmpty()) {
                made = views.share(made.id(), who, made.version(), shares);
            }
            return new Fate(view.name(), outcome, Optional.of(made.id()), notes);
        } catch (Problem problem) {
            notes.add(problem.getMessage());
            return new Fate(Optional.ofNullable(view.name()).orElse("?"), Outcome.REFUSED, Optional.empty(), notes);
        } catch (deftlens.core.statement.StatementError error) {
            notes.add(error.getMessage());
            return new Fate(view.name(), Outcome.REFUSED, Optional.empty(), notes);
        }
    }

    private SignedIn owner(SignedIn who, Carried view, List<String> notes) {
        if (!who.administers()) {
            return who;
        }
        return people.everyone().stream()
                .filter(p -> p.active() && p.name().equalsIgnoreCase(view.owner()))
                .findFirst()
                .map(p -> new SignedIn(p.id(), p.name(), p.role()))
                .filter(p -> !p.changesNothing())
                .orElseGet(() -> {
                    notes.add("There is no “" + view.owner() + "” here; it is yours.");
                    return who;
                });
    }

    private Draft draft(Carried view, Condition condition, RegisterForReader described, List<String> notes) {
        Register register = described.register();
        List<String> columns = view.columns().stream()
                .filter(c -> register.field(c).isPresent())
                .toList();
        List<String> order = view.order().stream()
                .filter(o -> register.field(OrderWord.read(o).field()).isPresent())
                .toList();
        Set<String> lost = new java.util.TreeSet<>(view.columns());
        view.order().forEach(o -> lost.add(OrderWord.read(o).field()));
        lost.removeIf(f -> register.field(f).isPresent());
        if (!lost.isEmpty()) {
            notes.add("Left out, since the register has no such field: " + String.join(", ", lost) + ".");
        }
        return new Draft(
                Optional.of(described.key()),
                Optional.of(view.name()),
                Optional.of(view.purpose()),
                Optional.of(Printer.print(condition)),
                Optional.empty(),
                columns.isEmpty() ? Optional.empty() : Optional.of(columns),
                Optional.of(order),
                view.zone(),
                view.shape().map(s -> s.fitting(described)),
                Optional.of(view.labels()),
                Optional.of(view.locked()));
    }

    private List<Share> shares(Carried view, SignedIn owner, List<String> notes) {
        Map<String, Long> persons = new HashMap<>();
        people.everyone().stream()
                .filter(PeopleService.Profile::active)
                .forEach(p -> persons.put(p.name().toLowerCase(Locale.ROOT), p.id()));
        Map<String, Long> teams = new HashMap<>();
        people.teams().forEach(t -> teams.put(t.name().toLowerCase(Locale.ROOT), t.id()));
        List<Share> found = new ArrayList<>();
        for (CarriedShare share : view.shares()) {
            Optional<Long> person = share.person().map(n -> persons.get(n.toLowerCase(Locale.ROOT)));
            Optional<Long> team = share.team().map(n -> teams.get(n.toLowerCase(Locale.ROOT)));
            if (share.person().isPresent() && person.isEmpty()) {
                notes.add("Not shared with “" + share.person().get() + "”, who is not here.");
            } else if (share.team().isPresent() && team.isEmpty()) {
                notes.add("Not shared with the team “" + share.team().get() + "”, which is not here.");
            } else if (person.filter(p -> p == owner.id()).isEmpty()) {
                found.add(Share.with(person, team, share.may()));
            }
        }
        return found;
    }
}
