package deftlens.server.views;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Refinement;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.ConditionJson;
import deftlens.server.question.Questions;
import deftlens.server.question.Shape;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import jakarta.validation.constraints.Size;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.UnaryOperator;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * What readers keep of their own on top of somebody else's view: their answers to its blanks, and a refinement, which is
 * carried along when the view changes.
 */
@Service
class ReadersOwn {

    private static final int MOST_ANSWERS = 50;

    private final ViewRights rights;
    private final ViewParts parts;
    private final ReaderStore store;
    private final RegisterCatalogue registers;
    private final Questions questions;
    private final Clock clock;
    private final ObjectMapper json;

    ReadersOwn(
            ViewRights rights,
            ViewParts parts,
            ReaderStore store,
            RegisterCatalogue registers,
            Questions questions,
            Clock clock,
            ObjectMapper json) {
        this.rights = rights;
        this.parts = parts;
        this.store = store;
        this.registers = registers;
        this.questions = questions;
        this.clock = clock;
        this.json = json;
    }

    /**
     * What a reader has of their own about a view.
     *
     * @param answers to its blanks, by their labels
     * @param refined the view as the reader refined it, carried over to what the view is now
     * @param unsaved what the reader changed and neither saved nor discarded
     */
    record Own(Map<String, String> answers, Optional<Refined> refined, Optional<Unsaved> unsaved) {}

    /** Unsaved changes, and when the last of them was made. */
    record Unsaved(Changes changes, Instant at) {}

    /**
     * What a page asks in the place of what the view does; what is absent is as the view has it.
     *
     * @param register the key of the view's register with other fields added than the view adds
     * @param zone empty for the organisation's
     */
    record Changes(
            Optional<@Size(max = 200_000) String> statement,
            Optional<@Size(max = 200) List<String>> columns,
            Optional<@Size(max = 50) List<String>> order,
            Optional<Shape> shape,
            Optional<@Size(max = 100) String> zone,
            Optional<@Size(max = 100) String> register) {}

    /**
     * A view as a reader refined it.
     *
     * @param lost parts of the refinement, in words, that could not be carried over because the view's own part is gone or is
     *     another now
     * @param columns the reader's columns, where they differ
     * @param order the reader's order, where it differs
     * @param shape the reader's shape, where it differs
     */
    record Refined(
            String statement,
            JsonNode condition,
            List<String> lost,
            Optional<List<String>> columns,
            Optional<List<String>> order,
            Optional<Shape> shape,
            Instant changedAt) {}

    /** A refinement as it is sent. */
    record Refine(
            String statement, Optional<List<String>> columns, Optional<List<String>> order, Optional<Shape> shape) {}

    /** A refinement as it is kept: conditions as documents. */
    private record Kept(
            JsonNode base,
            JsonNode mine,
            Optional<List<String>> columns,
            Optional<List<String>> order,
            Optional<Shape> shape) {}

    /** What a person has of their own about a view. */
    @Transactional(readOnly = true)
    public Own of(long id, SignedIn who) {
        return own(rights.find(id, who), who);
    }

    Own own(ViewEntity view, SignedIn who) {
        Optional<ReaderEntity> reader = store.findById(new ReaderEntity.Key(view.id(), who.id()));
        return new Own(
                reader.map(this::answers).orElse(Map.of()),
                reader.filter(r -> r.refinement() != null).map(r -> refined(view, r)),
                reader.filter(r -> r.draft() != null)
                        .map(r -> new Unsaved(json.readValue(r.draft(), Changes.class), r.draftAt())));
    }

    private Map<String, String> answers(ReaderEntity reader) {
        Map<String, String> found = new TreeMap<>();
        json.readTree(reader.answers())
                .properties()
                .forEach(e -> found.put(e.getKey(), e.getValue().stringValue()));
        return found;
    }

    private Refined refined(ViewEntity view, ReaderEntity reader) {
        Kept kept = json.readValue(reader.refinement(), Kept.class);
        Refinement.Outcome outcome = refinement(kept).on(parts.condition(view));
        return new Refined(
                Printer.print(outcome.condition()),
                ConditionJson.write(outcome.condition()),
                outcome.lost().stream().map(part -> inWords(view, part)).toList(),
                kept.columns(),
                kept.order(),
                kept.shape(),
                reader.changedAt());
    }

    private String inWords(ViewEntity view, Condition part) {
        return registers
                .whole(view.reads())
                .map(whole -> String.join(" and ", Wording.lines(part, whole.register())))
                .orElseGet(() -> Printer.print(part));
    }

    private static Refinement refinement(Kept kept) {
        return Refinement.between(ConditionJson.fromDocument(kept.base()), ConditionJson.fromDocument(kept.mine()));
    }

    /** Keeps a person's answers to a view's blanks; an empty answer is taken away. */
    @Transactional
    public Own answer(long id, SignedIn who, Map<String, String> answers) {
        ViewEntity view = rights.find(id, who);
        if (answers.size() > MOST_ANSWERS
                || answers.entrySet().stream()
                        .anyMatch(a -> a.getKey().length() > 200 || a.getValue().length() > 2_000)) {
            throw Problem.unprocessable("long-answers", "At most " + MOST_ANSWERS + " answers are remembered.");
        }
        ReaderEntity reader = reader(view, who);
        Map<String, String> all = new TreeMap<>(answers(reader));
        answers.forEach((label, answer) -> {
            if (answer.isBlank()) {
                all.remove(label);
            } else {
                all.put(label, answer);
            }
        });
        reader.answer(json.writeValueAsString(all), clock.instant());
        store.save(reader);
        return own(view, who);
    }

    /** Keeps a person's refinement of a view. Parts that are locked stay as they are. */
    @Transactional
    public Own refine(long id, SignedIn who, Refine wanted) {
        ViewEntity view = rights.find(id, who);
        RegisterForReader described = registers.get(view.reads(), who);
        Condition base = parts.condition(view);
        Condition mine = parts.read(described, wanted.statement(), Optional.ofNullable(view.zone()), who);
        Refinement refinement = Refinement.between(base, mine);
        requireUnlocked(view, refinement, base);
        Kept kept = new Kept(
                ConditionJson.document(base),
                ConditionJson.document(mine),
                wanted.columns().map(c -> parts.columns(described, Optional.of(c))),
                wanted.order().map(o -> parts.order(described, Optional.of(o), mine)),
                wanted.shape().map(s -> s.checked(described)));
        ReaderEntity reader = reader(view, who);
        boolean nothing = refinement.isNothing()
                && wanted.columns().isEmpty()
                && wanted.order().isEmpty()
                && wanted.shape().isEmpty();
        reader.refine(nothing ? null : json.writeValueAsString(kept), clock.instant());
        store.save(reader);
        return own(view, who);
    }

    private void requireUnlocked(ViewEntity view, Refinement refinement, Condition base) {
        List<Condition> asked = Refinement.parts(base);
        Set<Integer> touched = refinement.touched();
        List<String> locked = parts.locked(view).stream()
                .filter(touched::contains)
                .map(i -> "“" + inWords(view, asked.get(i)) + "”")
                .toList();
        if (!locked.isEmpty()) {
            throw Problem.unprocessable(
                    "locked",
                    "Whoever manages this view has locked " + String.join(" and ", locked)
                            + ". Add to it, or save it as a new view of yours.");
        }
    }

    /** What a reader's refinement asks; absent where they have none. */
    Optional<Condition> refinedTo(ReaderEntity reader) {
        return Optional.ofNullable(reader.refinement())
                .map(kept -> ConditionJson.fromDocument(
                        json.readValue(kept, Kept.class).mine()));
    }

    /** Writes both sides of a refinement anew, since what they are written in has other names now. */
    void carry(ReaderEntity reader, UnaryOperator<Condition> carrying) {
        if (reader.refinement() == null) {
            return;
        }
        Kept kept = json.readValue(reader.refinement(), Kept.class);
        Condition base = ConditionJson.fromDocument(kept.base());
        Condition mine = ConditionJson.fromDocument(kept.mine());
        Condition newBase = carrying.apply(base);
        Condition newMine = carrying.apply(mine);
        if (!newBase.equals(base) || !newMine.equals(mine)) {
            Kept carried = new Kept(
                    ConditionJson.document(newBase),
                    ConditionJson.document(newMine),
                    kept.columns(),
                    kept.order(),
                    kept.shape());
            reader.refine(json.writeValueAsString(carried), reader.changedAt());
            store.save(reader);
        }
    }

    /** Remembers what a person has changed on a view and not saved. It is theirs alone and asks nothing of the view. */
    @Transactional
    public Own remember(long id, SignedIn who, Changes changes) {
        ViewEntity view = rights.find(id, who);
        ReaderEntity reader = reader(view, who);
        reader.draft(json.writeValueAsString(changes), clock.instant());
        store.save(reader);
        return own(view, who);
    }

    /** Forgets a person's unsaved changes. */
    @Transactional
    public Own forget(long id, SignedIn who) {
        ViewEntity view = rights.find(id, who);
        store.findToWrite(view.id(), who.id()).ifPresent(reader -> reader.draft(null, null));
        return own(view, who);
    }

    /** Takes a person's refinement away; the view is as its owner keeps it. */
    @Transactional
    public Own unrefine(long id, SignedIn who) {
        ViewEntity view = rights.find(id, who);
        ReaderEntity reader = reader(view, who);
        reader.refine(null, clock.instant());
        store.save(reader);
        return own(view, who);
    }

    /** What is a reader's own, to be written: a page remembers unsaved changes while its reader saves them. */
    private ReaderEntity reader(ViewEntity view, SignedIn who) {
        store.ensure(view.id(), who.id(), clock.instant());
        return store.findToWrite(view.id(), who.id()).orElseThrow();
    }
}
