package deftlens.server.views;

import deftlens.server.lanes.DepartedClients;
import deftlens.server.lanes.QuestionLanes;
import deftlens.server.people.SignedIn;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.rows.CountsService;
import deftlens.server.totals.TotalsAnswer;
import deftlens.server.totals.TotalsService;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Service;

/**
 * The numbers that stand on the list beside views and registers, many in one answer. Each is a question of its own, tried on the quick
 * lane only: one that takes long is left for a call of its own, so that it keeps no other waiting.
 */
@Service
public class SideCounts {

    private static final Logger LOG = LoggerFactory.getLogger(SideCounts.class);
    /** How long the counts of one answer may take together. */
    private static final Duration TOGETHER = Duration.ofSeconds(2);

    private final ViewsService views;
    private final ReadersOwn own;
    private final CountsService counts;
    private final TotalsService totals;
    private final PinsService pins;
    private final RegisterCatalogue registers;
    private final Questions questions;
    private final QuestionLanes lanes;

    SideCounts(
            ViewsService views,
            ReadersOwn own,
            CountsService counts,
            TotalsService totals,
            PinsService pins,
            RegisterCatalogue registers,
            Questions questions,
            QuestionLanes lanes) {
        this.views = views;
        this.own = own;
        this.counts = counts;
        this.totals = totals;
        this.pins = pins;
        this.registers = registers;
        this.questions = questions;
        this.lanes = lanes;
    }

    /**
     * Numbers of records.
     *
     * @param views how many match each view, as its reader has it, by its number
     * @param figures the figures that stand beside pinned views in the place of their numbers, by the view
     * @param registers how many records each register has for the reader, by its key
     * @param later the views and registers that were not counted, since it takes longer
     * @param failed the views that cannot be counted any more, as they are
     */
    public record Counts(
            Map<String, CountsService.Count> views,
            Map<String, TotalsAnswer.TotalsTold> figures,
            Map<String, Long> registers,
            Later later,
            List<String> failed) {}

    /** Views and registers that are to be counted each by itself. */
    public record Later(List<String> views, List<String> registers) {}

    /** Counts views and registers, those that are there for the reader, in the order in which they are wanted. */
    Counts counts(List<Long> wantedViews, List<String> wantedRegisters, SignedIn who, DepartedClients.Line line) {
        Map<String, CountsService.Count> byView = new LinkedHashMap<>();
        Map<String, Long> byRegister = new LinkedHashMap<>();
        List<String> laterViews = new ArrayList<>();
        List<String> laterRegisters = new ArrayList<>();
        List<String> failed = new ArrayList<>();
        long end = System.nanoTime() + TOGETHER.toNanos();
        for (String key : wantedRegisters) {
            try {
                Optional<CountsService.Count> count = System.nanoTime() < end
                        ? quickly(() -> counts.count(everything(key, who), false), List.of(key, who.id()), who, line)
                        : Optional.empty();
                count.ifPresentOrElse(c -> byRegister.put(key, c.total()), () -> laterRegisters.add(key));
            } catch (RuntimeException e) {
                // It is not there for the reader (any more), or its server is away: the others are counted all the
                // same.
                LOG.debug("register {} was not counted", key, e);
            }
        }
        Map<String, TotalsAnswer.TotalsTold> figures = new LinkedHashMap<>();
        Map<Long, String> figureOf = wantedViews.isEmpty() ? Map.of() : pins.figures(who);
        for (long id : wantedViews) {
            String name = String.valueOf(id);
            try {
                Optional<String> figure = Optional.ofNullable(figureOf.get(id));
                if (figure.isPresent()) {
                    Question shown = ViewsService.shown(views.get(id, who), asRead(id, who));
                    // A view that is read otherwise by now has its number there.
                    if (totals.hasFigure(shown, figure.get())) {
                        Optional<TotalsAnswer.TotalsTold> told = System.nanoTime() < end
                                ? quickly(
                                        () -> totals.told(shown, figure.get()),
                                        List.of(id, who.id(), figure.get()),
                                        who,
                                        line)
                                : Optional.empty();
                        told.ifPresentOrElse(t -> figures.put(name, t), () -> laterViews.add(name));
                        continue;
                    }
                }
                Optional<CountsService.Count> count = System.nanoTime() < end
                        ? quickly(() -> counts.count(asRead(id, who), false), List.of(id, who.id()), who, line)
                        : Optional.empty();
                count.ifPresentOrElse(c -> byView.put(name, c), () -> laterViews.add(name));
            } catch (RuntimeException e) {
                LOG.debug("view {} was not counted", id, e);
                failed.add(name);
            }
        }
        return new Counts(byView, figures, byRegister, new Later(laterViews, laterRegisters), failed);
    }

    private <T> Optional<T> quickly(
            QuestionLanes.Asking<T> asking, Object same, SignedIn who, DepartedClients.Line line) {
        return lanes.ifQuick(new QuestionLanes.Asker(who.id(), Optional.empty(), Optional.of(line)), same, asking);
    }

    private Question everything(String key, SignedIn who) {
        return questions.everything(registers.get(key, who), who);
    }

    /** As the reader has it: with the answers they gave before, and refined as they refined it. */
    private Question asRead(long id, SignedIn who) {
        ReadersOwn.Own theirs = own.of(id, who);
        return views.question(
                id,
                who,
                new ViewsService.ViewParameters(
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty(),
                        theirs.answers(),
                        theirs.refined().map(ReadersOwn.Refined::condition)));
    }
}
