package deftlens.server.views;

import deftlens.core.condition.Condition;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.registers.AddedFields;
import deftlens.server.registers.AddedFields.AddedField;
import deftlens.server.registers.AddingFields;
import deftlens.server.registers.BandHistory;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.CountsService;
import deftlens.server.trail.Trail;
import deftlens.server.views.ViewParts.Kept;
import deftlens.server.views.ViewsService.Draft;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/** Two states of a view side by side, and an earlier one put back. */
@Service
class ViewVersions {

    private static final Duration PATIENCE = Duration.ofSeconds(10);

    private final ViewRights rights;
    private final ViewParts parts;
    private final ViewsService views;
    private final RegisterCatalogue registers;
    private final AddedFields added;
    private final AddingFields adding;
    private final Questions questions;
    private final CountsService counts;
    private final Trail trail;
    private final ReadersOwn own;
    private final BandHistory bands;
    private final ObjectMapper json;

    ViewVersions(
            ViewRights rights,
            ViewParts parts,
            ViewsService views,
            RegisterCatalogue registers,
            AddedFields added,
            AddingFields adding,
            Questions questions,
            CountsService counts,
            Trail trail,
            ReadersOwn own,
            BandHistory bands,
            ObjectMapper json) {
        this.rights = rights;
        this.parts = parts;
        this.views = views;
        this.registers = registers;
        this.added = added;
        this.adding = adding;
        this.questions = questions;
        this.counts = counts;
        this.trail = trail;
        this.own = own;
        this.bands = bands;
        this.json = json;
    }

    /**
     * What changes for its records when a view asks something else, read now by whoever asks.
     *
     * @param register what the questions are asked of: the key of the register, with the fields that either side adds
     * @param from the statement of the one side
     * @param to the statement of the other
     * @param fromLines the one side as a person reads it, a line for each part of its outermost all-of
     * @param toLines the other in the same way
     * @param enter how many records only the other has
     * @param leave how many only the one has
     * @param both how many are in both
     * @param entering the question for those that enter; absent when none can
     * @param leaving the question for those that leave; absent when none can
     */
    record Difference(
            String register,
            String from,
            String to,
            List<String> fromLines,
            List<String> toLines,
            long enter,
            long leave,
            long both,
            Optional<String> entering,
            Optional<String> leaving) {}

    /**
     * The records that enter and leave between a view as it is kept and another statement.
     *
     * @param register the key of the view's register with the fields that it adds beside that statement; as it is kept when absent
     */
    @Transactional
    public Difference to(
            long id, SignedIn who, String statement, Optional<String> register, Map<String, String> answers) {
        ViewEntity view = rights.find(id, who);
        RegisterForReader described = views.readAs(view, register, who);
        Condition other = parts.read(described, statement, Optional.ofNullable(view.zone()), who);
        return difference(
                view,
                new Side(parts.condition(view), added.fields(view.added())),
                new Side(other, added.fields(AddedFields.handle(described.key()))),
                who,
                answers);
    }

    /** The records that enter and leave between a view as it was after a step of its history, and as it is now. */
    @Transactional
    public Difference since(long id, SignedIn who, long step) {
        ViewEntity view = rights.find(id, who);
        Kept kept = state(id, step);
        List<AddedField> calculated = calculated(view, kept, step, who);
        RegisterForReader described = as(view, calculated, who);
        Condition then =
                parts.fitting(described, asked(described, kept, step, who), Optional.ofNullable(view.zone()), who);
        return difference(
                view,
                new Side(then, calculated),
                new Side(parts.condition(view), added.fields(view.added())),
                who,
                Map.of());
    }

    /** What is asked, and the fields that are added for it. */
    private record Side(Condition condition, List<AddedField> added) {}

    private Difference difference(ViewEntity view, Side before, Side after, SignedIn who, Map<String, String> answers) {
        if (before.added().equals(after.added())) {
            return difference(view, as(view, after.added(), who), before.condition(), after.condition(), who, answers);
        }
        AddingFields.Together both = adding.together(view.registerKey(), before.added(), after.added(), who);
        return difference(view, both.described(), both.before(before.condition()), after.condition(), who, answers);
    }

    private RegisterForReader as(ViewEntity view, List<AddedField> fields, SignedIn who) {
        return adding.as(view.registerKey(), fields, who);
    }

    private Difference difference(
            ViewEntity view,
            RegisterForReader described,
            Condition from,
            Condition to,
            SignedIn who,
            Map<String, String> answers) {
        Map<String, String> all = new HashMap<>(own.own(view, who).answers());
        all.putAll(answers);
        Condition one = questions.answered(described, from, Optional.of(all), who);
        Condition other = questions.answered(described, to, Optional.of(all), who);
        Optional<Condition> enters = without(other, one);
        Optional<Condition> leaves = without(one, other);
        List<Condition> wanted = new ArrayList<>(List.of(new Condition.All(List.of(one, other)).normal()));
        enters.ifPresent(wanted::add);
        leaves.ifPresent(wanted::add);
        List<Long> numbers =
                counts.inOnePass(Question.of(described, Condition.EVERYTHING, parts.now(view), who), wanted, PATIENCE);
        return new Difference(
                described.key(),
                Printer.print(from),
                Printer.print(to),
                Wording.lines(from, described.register(), questions.elsewhere(described, who)),
                Wording.lines(to, described.register(), questions.elsewhere(described, who)),
                enters.map(c -> numbers.get(1)).orElse(0L),
                leaves.map(c -> numbers.getLast()).orElse(0L),
                numbers.get(0),
                enters.map(Printer::print),
                leaves.map(Printer::print));
    }

    /** The records of one condition that are not in another; absent where the other lets everything in. */
    private static Optional<Condition> without(Condition in, Condition out) {
        return asksNothing(out)
                ? Optional.empty()
                : Optional.of(new Condition.All(List.of(in, new Condition.None(List.of(out)))).normal());
    }

    private static boolean asksNothing(Condition condition) {
        return switch (condition) {
            case Condition.Off off -> true;
            case Condition.Criterion criterion -> false;
            default -> condition.children().stream().allMatch(ViewVersions::asksNothing);
        };
    }

    /** Puts back what a view asked, showed and was called after a step of its history, as a change of its own. */
    @Transactional
    public ViewsService.View putBack(long id, SignedIn who, int version, long step) {
        Kept then = state(id, step);
        ViewEntity view = rights.find(id, who);
        RegisterForReader described = as(view, calculated(view, then, step, who), who);
        return views.change(
                id,
                who,
                version,
                new Draft(
                        Optional.of(described.key()),
                        Optional.of(then.name()),
                        Optional.of(then.purpose()),
                        Optional.of(Printer.print(asked(described, then, step, who))),
                        Optional.empty(),
                        Optional.of(then.columns()),
                        Optional.of(then.order()),
                        Optional.of(Optional.ofNullable(then.zone()).orElse("")),
                        Optional.ofNullable(then.shape()),
                        Optional.ofNullable(then.labels()),
                        Optional.ofNullable(then.locked())),
                "put back");
    }

    /** The fields that a view calculated after a step of its history, with the names that bands have today. */
    private List<AddedField> calculated(ViewEntity view, Kept kept, long step, SignedIn who) {
        RegisterForReader plain = registers.get(view.registerKey(), who);
        return AddingFields.carried(
                kept.added(), bands.withFormerNames(plain), condition -> bands.today(plain, condition, step));
    }

    /** What a view asked after a step of its history, with the names that bands have today. */
    private Condition asked(RegisterForReader described, Kept kept, long step, SignedIn who) {
        Condition then = questions.condition(described, bands.withFormerNames(described), kept.statement(), who);
        return bands.today(described, then, step);
    }

    private Kept state(long id, long step) {
        JsonNode after = trail.one(ViewsService.SUBJECT, id, step)
                .map(Trail.Change::after)
                .filter(a -> a.has("statement"))
                .orElseThrow(() -> Problem.notFound("This step of the history"));
        return json.treeToValue(after, Kept.class);
    }
}
