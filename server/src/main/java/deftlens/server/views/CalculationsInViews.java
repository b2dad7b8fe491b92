package deftlens.server.views;

import deftlens.core.calculation.Expression;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.statement.Reader;
import deftlens.core.statement.Wording;
import deftlens.core.time.Reading;
import deftlens.core.time.Unanswered;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.Questions;
import deftlens.server.registers.CalculatedTwice;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.views.ViewEffect.Moves;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** What becomes of views when calculated fields of their register are calculated otherwise. */
@Component
class CalculationsInViews {

    private final ViewStore store;
    private final ReaderStore readers;
    private final ViewParts parts;
    private final ViewUse use;
    private final ReadersOwn own;
    private final ViewsService views;
    private final RegisterCatalogue registers;
    private final Questions questions;
    private final Reviewing reviewing;
    private final TransactionTemplate transaction;

    CalculationsInViews(
            ViewStore store,
            ReaderStore readers,
            ViewParts parts,
            ViewUse use,
            ReadersOwn own,
            ViewsService views,
            RegisterCatalogue registers,
            Questions questions,
            Reviewing reviewing,
            TransactionTemplate transaction) {
        this.store = store;
        this.readers = readers;
        this.parts = parts;
        this.use = use;
        this.own = own;
        this.views = views;
        this.registers = registers;
        this.questions = questions;
        this.reviewing = reviewing;
        this.transaction = transaction;
    }

    /**
     * What would become of the views over a register, and over those that it is read together in, if its fields were calculated
     * so.
     *
     * @param wanted the calculations, by the keys of the fields
     */
    List<ViewEffect> review(String key, Map<String, String> wanted, SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator changes how fields are calculated.");
        }
        RegisterForReader whole = registers.get(key, who);
        Map<String, Expression> calculations = read(whole, wanted);
        Instant until = reviewing.until();
        List<ViewEffect> found = effects(key, over -> CalculatedTwice.of(over, calculations), who, until);
        for (RegisterForReader combined : registers.all(who)) {
            if (combined.members().stream().anyMatch(m -> m.key().equals(key))) {
                found.addAll(effects(combined.key(), over -> registers.twice(over, whole, calculations), who, until));
            }
        }
        return found;
    }

    /** @param twice what a view reads, as it is and as it is to be */
    private List<ViewEffect> effects(
            String key, Function<RegisterForReader, CalculatedTwice> twice, SignedIn who, Instant until) {
        List<ViewEffect> found = new ArrayList<>();
        for (ViewEntity view : transaction.execute(status -> store.over(key))) {
            if (view.deletedAt() == null) {
                effect(view, twice.apply(registers.get(view.reads(), who)), who, until)
                        .ifPresent(found::add);
            }
        }
        return found;
    }

    private static Map<String, Expression> read(RegisterForReader whole, Map<String, String> wanted) {
        Map<String, Expression> read = new HashMap<>();
        wanted.forEach((key, text) -> {
            if (whole.calculations().stream().noneMatch(c -> c.field().key().equals(key))) {
                throw Problem.unprocessable("unknown-field", "There is no calculated field “" + key + "”.");
            }
            Expression expression = new Reader(whole.without(key), Set.of()).calculation(text);
            // Another type is refused when it is saved, with what to do.
            if (expression.type() == whole.register().field(key).orElseThrow().type()) {
                read.put(key, expression);
            }
        });
        return read;
    }

    private Optional<ViewEffect> effect(ViewEntity view, CalculatedTwice twice, SignedIn who, Instant until) {
        Set<String> changing = twice.later().keySet();
        Condition condition = parts.condition(view);
        List<String> criteria = condition.criteria().stream()
                .filter(c -> c.fields().stream().anyMatch(changing::contains))
                .flatMap(c -> Wording.lines(c, twice.described().register()).stream())
                .distinct()
                .toList();
        boolean shown = parts.shows(view, changing);
        int refinements = (int) transaction.execute(status -> readers.findByViewId(view.id())).stream()
                .filter(r -> own.refinedTo(r)
                        .filter(mine -> mine.criteria().stream()
                                .anyMatch(c -> c.fields().stream().anyMatch(changing::contains)))
                        .isPresent())
                .count();
        if (criteria.isEmpty() && !shown && refinements == 0) {
            return Optional.empty();
        }
        return Optional.of(new ViewEffect(
                view.id(),
                view.name(),
                views.names().who(view.ownerId()),
                use.reliance(view.id(), who),
                criteria,
                shown,
                refinements,
                criteria.isEmpty() ? Optional.empty() : moves(twice, condition, parts.now(view), who, until),
                Optional.empty()));
    }

    /** Nothing where a blank is open, or the view cannot be asked as it is. */
    private Optional<Moves> moves(
            CalculatedTwice twice, Condition condition, Reading reading, SignedIn who, Instant until) {
        try {
            Binder binder = questions.binder(twice.described(), reading, who);
            Bound before = binder.bind(condition);
            Bound after = binder.bind(twice.later(condition));
            return reviewing.moves(twice.described(), before, after, reading, who, until);
        } catch (Binder.Unfit | Unanswered unasked) {
            return Optional.empty();
        }
    }
}
