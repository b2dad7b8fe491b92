package deftlens.server.views;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.sql.Groups;
import deftlens.core.statement.Wording;
import deftlens.core.time.Reading;
import deftlens.core.time.Unanswered;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.Questions;
import deftlens.server.registers.AddedFields;
import deftlens.server.registers.AddedFields.AddedField;
import deftlens.server.registers.AddingFields;
import deftlens.server.registers.BandChange;
import deftlens.server.registers.BandChanges;
import deftlens.server.registers.BandJson;
import deftlens.server.registers.BandsChanged;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.trail.Trail;
import deftlens.server.views.ViewEffect.Moves;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.UnaryOperator;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Service;
import org.springframework.transaction.support.TransactionTemplate;

/** What a change of bands does to the views that rest on them: looked at before, carried along when it is made. */
@Service
class BandsInViews {

    private final ViewStore store;
    private final ReaderStore readers;
    private final ViewParts parts;
    private final ViewUse use;
    private final ReadersOwn own;
    private final ViewsService views;
    private final RegisterCatalogue registers;
    private final AddedFields added;
    private final BandChanges bands;
    private final Questions questions;
    private final Reviewing reviewing;
    private final Trail trail;
    private final TransactionTemplate transaction;
    private final Clock clock;

    BandsInViews(
            ViewStore store,
            ReaderStore readers,
            ViewParts parts,
            ViewUse use,
            ReadersOwn own,
            ViewsService views,
            RegisterCatalogue registers,
            AddedFields added,
            BandChanges bands,
            Questions questions,
            Reviewing reviewing,
            Trail trail,
            TransactionTemplate transaction,
            Clock clock) {
        this.store = store;
        this.readers = readers;
        this.parts = parts;
        this.use = use;
        this.own = own;
        this.views = views;
        this.registers = registers;
        this.added = added;
        this.bands = bands;
        this.questions = questions;
        this.reviewing = reviewing;
        this.trail = trail;
        this.transaction = transaction;
        this.clock = clock;
    }

    /**
     * What a change of bands does to what a team may see.
     *
     * @param team absent for everybody whom no other line is about
     * @param criteria the criteria on bands that change, in words
     */
    record LimitEffect(Optional<String> team, List<String> criteria, Optional<Moves> moves, Optional<String> breaks) {}

    /** What a change of bands does; empty lists where nothing rests on them. */
    record BandReview(List<ViewEffect> views, List<LimitEffect> limits) {}

    /** What would become of the views over a register, and of who sees what, if its bands were these. */
    BandReview review(String key, Map<String, List<BandJson>> wanted, SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator changes bands.");
        }
        RegisterForReader before = registers.get(key, who);
        List<BandChange> changes = bands.changes(before, wanted);
        Instant until = reviewing.until();
        List<ViewEffect> found = new ArrayList<>();
        for (ViewEntity view : transaction.execute(status -> store.over(key))) {
            if (view.deletedAt() == null) {
                effect(view, registers.get(view.reads(), who), changes, who, until)
                        .ifPresent(found::add);
            }
        }
        List<LimitEffect> limits = new ArrayList<>();
        for (BandChanges.Limit limit : bands.limits(before)) {
            List<String> criteria = words(limit.condition(), before, changes);
            if (!criteria.isEmpty()) {
                Outcome outcome = outcome(before, changes, limit.condition(), parts.now(Optional.empty()), who, until);
                limits.add(new LimitEffect(limit.team(), criteria, outcome.moves(), outcome.breaks()));
            }
        }
        return new BandReview(found, limits);
    }

    private Optional<ViewEffect> effect(
            ViewEntity view, RegisterForReader before, List<BandChange> changes, SignedIn who, Instant until) {
        Condition condition = parts.condition(view);
        List<String> criteria = words(condition, before, changes);
        boolean groups = groups(view, changes);
        int refinements = (int) transaction.execute(status -> readers.findByViewId(view.id())).stream()
                .filter(r ->
                        own.refinedTo(r).filter(mine -> rests(mine, changes)).isPresent())
                .count();
        if (criteria.isEmpty() && !groups && refinements == 0) {
            return Optional.empty();
        }
        Outcome outcome = criteria.isEmpty()
                ? new Outcome(Optional.empty(), Optional.empty())
                : outcome(before, changes, condition, parts.now(view), who, until);
        return Optional.of(new ViewEffect(
                view.id(),
                view.name(),
                views.names().who(view.ownerId()),
                use.reliance(view.id(), who),
                criteria,
                groups,
                refinements,
                outcome.moves(),
                outcome.breaks()));
    }

    private record Outcome(Optional<Moves> moves, Optional<String> breaks) {}

    /** The two meanings of one condition held against each other; each bound to the bands that it is written for. */
    private Outcome outcome(
            RegisterForReader before,
            List<BandChange> changes,
            Condition condition,
            Reading reading,
            SignedIn who,
            Instant until) {
        Condition carried = BandChanges.carried(condition, changes);
        Bound then;
        Bound now;
        try {
            now = questions
                    .binder(before, reading, who)
                    .over(after(before.register(), changes))
                    .bind(carried);
        } catch (Binder.Unfit unfit) {
            return new Outcome(Optional.empty(), Optional.of(unfit.getMessage() + "."));
        } catch (Unanswered blank) {
            return new Outcome(Optional.empty(), Optional.empty());
        }
        try {
            then = questions.binder(before, reading, who).bind(condition);
        } catch (Binder.Unfit unfit) {
            // It asks for nothing today.
            then = new Bound.Constant(false);
        }
        return new Outcome(reviewing.moves(before, then, now, reading, who, until), Optional.empty());
    }

    private static Register after(Register before, List<BandChange> changes) {
        Map<String, Field> changed = new TreeMap<>();
        changes.forEach(c -> changed.put(c.after().key(), c.after()));
        return new Register(
                before.key(),
                before.label(),
                before.table(),
                before.idColumn(),
                before.fields().stream()
                        .map(f -> changed.getOrDefault(f.key(), f))
                        .toList());
    }

    private static List<String> words(Condition condition, RegisterForReader register, List<BandChange> changes) {
        return changes.stream()
                .flatMap(change -> change.resting(condition).stream())
                .flatMap(criterion -> Wording.lines(criterion, register.register()).stream())
                .distinct()
                .toList();
    }

    private static boolean rests(Condition condition, List<BandChange> changes) {
        return changes.stream().anyMatch(change -> !change.resting(condition).isEmpty());
    }

    private boolean groups(ViewEntity view, List<BandChange> changes) {
        return parts.shape(view).levels().stream()
                .filter(g -> g.by().filter(by -> by == Groups.Kind.BAND).isPresent())
                .anyMatch(g -> changes.stream().anyMatch(c -> c.before().key().equals(g.field())));
    }

    // ------------------------------------------------------------------ carrying along

    /**
     * Carries new names to views and refinements, those of other registers that ask about the records of this one included, and tells the
     * history of each view that rests on what changed.
     */
    @EventListener
    void carry(BandsChanged event) {
        String register = event.before().register().key();
        for (ViewEntity view : store.over(register)) {
            carry(view, event);
            carryToReaders(view, condition -> BandChanges.carried(asked(condition, event), event.changes()));
        }
        for (ViewEntity view : store.besides(register)) {
            carry(view, asked(parts.condition(view), event), added.fields(view.added()), event);
            carryToReaders(view, condition -> asked(condition, event));
        }
    }

    private void carryToReaders(ViewEntity view, UnaryOperator<Condition> names) {
        readers.findByViewId(view.id()).forEach(reader -> own.carry(reader, names));
    }

    /** A condition with the new names in what it puts to the records of the register whose bands changed. */
    private static Condition asked(Condition condition, BandsChanged event) {
        return condition.withAsked(
                event.before().register().key(), where -> BandChanges.carried(where, event.changes()));
    }

    private void carry(ViewEntity view, BandsChanged event) {
        Condition condition = parts.condition(view);
        List<AddedField> fields = added.fields(view.added());
        carry(
                view,
                BandChanges.carried(asked(condition, event), event.changes()),
                AddingFields.carried(fields, event.before().register(), c -> BandChanges.carried(c, event.changes())),
                event);
        Map<String, String> was = new TreeMap<>();
        Map<String, String> is = new TreeMap<>();
        for (BandChange change : event.changes()) {
            if (change.redefines(condition) || groups(view, List.of(change))) {
                was.put(change.before().label(), BandWords.of(change.before()));
                is.put(change.before().label(), BandWords.of(change.after()));
            }
        }
        if (!was.isEmpty()) {
            write(view, event, "bands changed", Map.of("bands", was), Map.of("bands", is));
        }
    }

    /** @param calculated the fields that it adds to those of its register, as they are called from now on */
    private void carry(ViewEntity view, Condition carried, List<AddedField> calculated, BandsChanged event) {
        List<AddedField> fields = added.fields(view.added());
        if (!carried.equals(parts.condition(view)) || !calculated.equals(fields)) {
            ViewParts.Kept before = parts.kept(view);
            if (!calculated.equals(fields)) {
                view.add(Optional.of(added.keep(event.before().id(), calculated).handle()));
            }
            view.ask(parts.document(carried), view.locked());
            view.touch(event.by().id(), clock.instant());
            ViewEntity written = store.saveAndFlush(view);
            write(view, event, "bands renamed", before, parts.kept(written));
        }
    }

    private void write(ViewEntity view, BandsChanged event, String action, Object before, Object after) {
        trail.write(Optional.of(event.by().id()), ViewsService.SUBJECT, view.id(), action, before, after);
    }
}
