package deftlens.server.views;

import deftlens.core.calculation.Calculation;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.statement.Wording;
import deftlens.server.lanes.Attempt;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.platform.StoppedQuery;
import deftlens.server.question.Question;
import deftlens.server.registers.FieldRemoval;
import deftlens.server.registers.FieldTypes;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.CountsService;
import deftlens.server.views.ViewsService.Who;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiFunction;
import java.util.function.BooleanSupplier;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/** What rests on a field of a register: what to know before it is removed. */
@Component
class FieldsInViews {

    private static final Logger LOG = LoggerFactory.getLogger(FieldsInViews.class);
    private static final Duration PATIENCE = Duration.ofSeconds(3);

    private final ViewStore store;
    private final ViewParts parts;
    private final ViewUse use;
    private final ViewsService views;
    private final RegisterCatalogue registers;
    private final FieldRemoval removal;
    private final FieldTypes types;
    private final CountsService counts;
    private final TransactionTemplate transaction;

    FieldsInViews(
            ViewStore store,
            ViewParts parts,
            ViewUse use,
            ViewsService views,
            RegisterCatalogue registers,
            FieldRemoval removal,
            FieldTypes types,
            CountsService counts,
            TransactionTemplate transaction) {
        this.store = store;
        this.parts = parts;
        this.use = use;
        this.views = views;
        this.registers = registers;
        this.removal = removal;
        this.types = types;
        this.counts = counts;
        this.transaction = transaction;
    }

    /**
     * A view that tests, shows or is ordered by a field.
     *
     * @param criteria its criteria on the field, and what it calculates from it, in words; without the field the view shows nothing
     */
    record UsingView(@AsText long view, String name, Who owner, ViewUse.Reliance reliance, List<String> criteria) {}

    /**
     * What rests on a field, or on what is calculated from it.
     *
     * @param values how many records have a value of it, as whoever asks reads them; absent where it could not be counted in time
     * @param needed why it cannot be removed, each in a sentence that says what to do first; none when it can be
     */
    record FieldUse(Optional<Long> values, List<String> needed, List<UsingView> views) {}

    /** What rests on a field, for administrators. */
    FieldUse use(String key, String field, SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator removes fields.");
        }
        RegisterForReader described = registers.get(key, who);
        // First of all this: it says when there is no such field.
        List<String> needed = removal.needed(key, field);
        return new FieldUse(values(described, field, who), needed, using(described, who, (view, over) -> {
            Set<String> resting = over.restingOn(field);
            return new Concern(
                    c -> c.fields().stream().anyMatch(resting::contains),
                    c -> c.expression().fields().stream().anyMatch(resting::contains),
                    () -> parts.uses(view, resting));
        }));
    }

    /**
     * The views over a register that could not be asked, or not be shown as they are, if a field were of another type.
     *
     * @return each with its criteria that would not fit, in words; without criteria its order or shape would not
     */
    List<UsingView> withoutFit(String key, String field, FieldType type, SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator changes the type of a field.");
        }
        RegisterForReader whole = registers.get(key, who);
        Field wanted = types.as(whole, field, type);
        return using(whole, who, (view, over) -> {
            Register after = FieldTypes.with(over.register(), wanted);
            return new Concern(
                    c -> c.names(field) && !FieldTypes.fits(after, c),
                    c -> c.expression().fields().contains(field) && !FieldTypes.isCalculatedAlike(after, c),
                    () -> !parts.isShownWith(view, wanted));
        });
    }

    /**
     * What of a view is concerned.
     *
     * @param added of the fields that it adds to those of its register
     * @param besides whether it is concerned without any criterion
     */
    private record Concern(
            Predicate<Condition.Criterion> criteria, Predicate<Calculation> added, BooleanSupplier besides) {}

    /** The views over a register that are concerned, and those over others that ask about its records. */
    private List<UsingView> using(
            RegisterForReader described, SignedIn who, BiFunction<ViewEntity, RegisterForReader, Concern> concern) {
        ViewNames names = views.names();
        List<UsingView> using = new ArrayList<>();
        for (ViewEntity view :
                transaction.execute(status -> store.over(described.register().key()))) {
            if (view.deletedAt() != null) {
                continue;
            }
            RegisterForReader over = registers.get(view.reads(), who);
            Concern concerned = concern.apply(view, over);
            List<String> words = Stream.of(
                            parts.condition(view).criteria().stream()
                                    .filter(concerned.criteria())
                                    .flatMap(c -> Wording.lines(c, over.register()).stream()),
                            asked(view, described, concerned),
                            over.addedCalculations().stream()
                                    .filter(concerned.added())
                                    .map(c -> "calculates “" + c.field().label() + "”"))
                    .flatMap(s -> s)
                    .distinct()
                    .toList();
            if (!words.isEmpty() || concerned.besides().getAsBoolean()) {
                using.add(using(view, names, who, words));
            }
        }
        for (ViewEntity view :
                transaction.execute(status -> store.besides(described.register().key()))) {
            List<String> words = asked(view, described, concern.apply(view, described))
                    .distinct()
                    .toList();
            if (view.deletedAt() == null && !words.isEmpty()) {
                using.add(using(view, names, who, words));
            }
        }
        return using;
    }

    private UsingView using(ViewEntity view, ViewNames names, SignedIn who, List<String> words) {
        return new UsingView(view.id(), view.name(), names.who(view.ownerId()), use.reliance(view.id(), who), words);
    }

    /** What a view puts to the records of a register, as far as it is concerned. */
    private Stream<String> asked(ViewEntity view, RegisterForReader described, Concern concern) {
        Register register = described.register();
        return parts.condition(view).criteriaPutTo(register.key()).stream()
                .filter(concern.criteria())
                .flatMap(c -> Wording.lines(c, register).stream())
                .map(words -> register.label() + ": " + words);
    }

    private Optional<Long> values(RegisterForReader described, String field, SignedIn who) {
        try {
            return Optional.of(counts.inOnePass(
                            Question.of(described, Condition.EVERYTHING, parts.now(Optional.empty()), who),
                            List.of(new Condition.Criterion(field, new Test.Empty(), true)),
                            PATIENCE)
                    .get(0));
        } catch (Problem
                | org.springframework.dao.DataAccessException
                | jakarta.persistence.PersistenceException slow) {
            if (StoppedQuery.isBehind(slow) && !Attempt.isGivenUp(slow)) {
                throw slow;
            }
            LOG.info("the values of a field could not be counted: {}", slow.getMessage());
            return Optional.empty();
        }
    }
}
