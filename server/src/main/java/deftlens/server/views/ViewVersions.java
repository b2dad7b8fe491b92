package deftlens.server.views;

import deftlens.core.condition.Condition;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
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
            String from,
            String to,
            List<String> fromLines,
            List<String> toLines,
            long enter,
            long leave,
            long both,
            Optional<String> entering,
            Optional<String> leaving) {}

    /** The records that enter and leave between a view as it is kept and another statement. */
    @Transactional(readOnly = true)
    public Difference to(long id, SignedIn who, String statement, Map<String, String> answers) {
        ViewEntity view = rights.find(id, who);
        RegisterForReader described = registers.get(view.registerKey(), who);
        Condition now = parts.condition(view);
        Condition other = parts.read(described, statement, Optional.ofNullable(view.zone()), who);
        return difference(view, described, now, other, who, answers);
    }

    /** The records that enter and leave between a view as it was after a step of its history, and as it is now. */
    @Transactional(readOnly = true)
    public Difference since(long id, SignedIn who, long step) {
        ViewEntity view = rights.find(id, who);
        RegisterForReader described = registers.get(view.registerKey(), who);
        Condition then = parts.fitting(described, asked(described, id, step), Optional.ofNullable(view.zone()), who);
        return difference(view, described, then, parts.condition(view), who, Map.of());
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
        Condition one = questions.answered(described.register(), from, Optional.of(all));
        Condition other = questions.answered(described.register(), to, Optional.of(all));
        Optional<Condition> enters = without(other, one);
        Optional<Condition> leaves = without(one, other);
        List<Condition> wanted = new ArrayList<>(List.of(new Condition.All(List.of(one, other)).normal()));
        enters.ifPresent(wanted::add);
        leaves.ifPresent(wanted::add);
        List<Long> numbers =
                counts.inOnePass(Question.of(described, Condition.EVERYTHING, parts.now(view), who), wanted, PATIENCE);
        return new Difference(
                Printer.print(from),
                Printer.print(to),
                Wording.lines(from, described.register()),
                Wording.lines(to, described.register()),
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
        RegisterForReader described = registers.get(rights.find(id, who).registerKey(), who);
        return views.change(
                id,
                who,
                version,
                new Draft(
                        Optional.of(then.name()),
                        Optional.of(then.purpose()),
                        Optional.of(Printer.print(asked(described, id, step))),
                        Optional.empty(),
                        Optional.of(then.columns()),
                        Optional.of(then.order()),
                        Optional.of(Optional.ofNullable(then.zone()).orElse("")),
                        Optional.ofNullable(then.shape()),
                        Optional.ofNullable(then.labels()),
                        Optional.ofNullable(then.locked())),
                "put back");
    }

    /** What a view asked after a step of its history, with the names that bands have today. */
    private Condition asked(RegisterForReader described, long id, long step) {
        Condition then = questions.condition(
                bands.withFormerNames(described), Optional.of(state(id, step).statement()), Optional.empty());
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
