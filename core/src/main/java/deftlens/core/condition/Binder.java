package deftlens.core.condition;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Window;
import deftlens.core.time.Windows;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Binds a condition to a register, a reading and a viewer.
 *
 * @param register whose fields are meant
 * @param reading the moment and calendar for windows
 * @param viewer the facts behind viewer values
 */
public record Binder(Register register, Reading reading, Viewer viewer) {

    /** A condition that does not fit the register: a field it lacks, or a test that the field's type does not have. */
    public static final class Unfit extends RuntimeException {
        private final transient Condition.Criterion criterion;

        Unfit(Condition.Criterion criterion, String message) {
            super(message);
            this.criterion = criterion;
        }

        /** The criterion that does not fit. */
        public Condition.Criterion criterion() {
            return criterion;
        }
    }

    /**
     * The bound form of a condition.
     *
     * @throws Unfit when a criterion names a field the register lacks or a test its type does not have
     */
    public Bound bind(Condition condition) {
        return part(condition).orElse(new Bound.Constant(true));
    }

    /** The bound form of a part, or nothing when the part asks nothing. */
    private Optional<Bound> part(Condition condition) {
        return switch (condition) {
            case Condition.Off off -> Optional.empty();
            case Condition.Criterion criterion -> Optional.of(criterion(criterion));
            case Condition.All(List<Condition> parts) ->
                group(parts).map(bound -> bound.size() == 1 ? bound.get(0) : new Bound.Every(bound));
            case Condition.Any(List<Condition> parts) ->
                group(parts).map(bound -> bound.size() == 1 ? bound.get(0) : new Bound.Some(bound));
            case Condition.None(List<Condition> parts) ->
                group(parts).map(bound -> new Bound.Not(bound.size() == 1 ? bound.get(0) : new Bound.Some(bound)));
        };
    }

    private Optional<List<Bound>> group(List<Condition> parts) {
        List<Bound> bound = new ArrayList<>();
        parts.forEach(part -> part(part).ifPresent(bound::add));
        return bound.isEmpty() ? Optional.empty() : Optional.of(List.copyOf(bound));
    }

    private Bound criterion(Condition.Criterion criterion) {
        Field field = register.field(criterion.field())
                .orElseThrow(() -> new Unfit(
                        criterion, register.label() + " has no field “" + criterion.field() + "” (any more)"));
        if (!Fit.allows(field.type(), criterion.test())) {
            throw new Unfit(
                    criterion,
                    field.label() + " is a " + field.type().label() + " field, and this test does not fit it");
        }
        Bound positive = positive(field, criterion.test());
        return criterion.negated() ? new Bound.Not(positive) : positive;
    }

    private Bound positive(Field field, Test test) {
        return switch (test) {
            case Test.Empty() -> new Bound.IsEmpty(field);
            case Test.Is(Operand value, boolean exactly) -> equal(field, List.of(value), exactly);
            case Test.In(List<Operand> values, boolean exactly) -> equal(field, values, exactly);
            case Test.Compare(Test.Order order, Operand value) -> {
                Optional<BigDecimal> number = Optional.of(((Operand.Number) value).value());
                yield switch (order) {
                    case MORE -> new Bound.NumberRange(field, number, false, Optional.empty(), false);
                    case AT_LEAST -> new Bound.NumberRange(field, number, true, Optional.empty(), false);
                    case LESS -> new Bound.NumberRange(field, Optional.empty(), false, number, false);
                    case AT_MOST -> new Bound.NumberRange(field, Optional.empty(), false, number, true);
                };
            }
            case Test.Between(Operand low, Operand high) ->
                new Bound.NumberRange(
                        field,
                        Optional.of(((Operand.Number) low).value()),
                        true,
                        Optional.of(((Operand.Number) high).value()),
                        true);
            case Test.Find(Test.Search search, String text, boolean exactly) ->
                new Bound.Finds(field, search, exactly ? text : LetterCase.fold(text), !exactly);
            case Test.Tagged(boolean all, List<Operand> tags) -> {
                Set<String> texts = texts(tags);
                yield texts.isEmpty() ? new Bound.Constant(false) : new Bound.Tags(field, all, texts);
            }
            case Test.Dated(Test.Stand stand, Period period) ->
                dated(field, stand, Windows.resolve(period, reading), period.isMoment());
            case Test.DatedBetween(Period from, Period to) ->
                range(field, Optional.of(Windows.resolve(from, reading)), Optional.of(Windows.resolve(to, reading)));
            case Test.Distance distance -> distance(field, distance);
        };
    }

    private Bound equal(Field field, List<Operand> values, boolean exactly) {
        return switch (field.type()) {
            case NUMBER, MONEY ->
                new Bound.Numbers(
                        field,
                        values.stream().map(v -> ((Operand.Number) v).value()).toList());
            case YES_NO -> {
                Set<Boolean> wanted =
                        values.stream().map(v -> ((Operand.YesNo) v).value()).collect(Collectors.toSet());
                yield wanted.size() == 2
                        ? new Bound.Not(new Bound.IsEmpty(field))
                        : new Bound.Truth(field, wanted.contains(true));
            }
            default -> {
                boolean fold = field.type() == FieldType.TEXT && !exactly;
                Set<String> texts = new LinkedHashSet<>();
                // An empty text is no value: a positive test is false on an empty field.
                texts(values).stream().filter(t -> !t.isEmpty()).forEach(t -> texts.add(fold ? LetterCase.fold(t) : t));
                yield texts.isEmpty() ? new Bound.Constant(false) : new Bound.OneOf(field, texts, fold);
            }
        };
    }

    private Set<String> texts(List<Operand> values) {
        Set<String> texts = new LinkedHashSet<>();
        for (Operand value : values) {
            switch (value) {
                case Operand.Text(String text) -> texts.add(text);
                case Operand.Viewer(String attribute) -> texts.addAll(viewer.values(attribute));
                case Operand.Number n -> throw new IllegalArgumentException("a number among texts");
                case Operand.YesNo b -> throw new IllegalArgumentException("yes or no among texts");
            }
        }
        return texts;
    }

    private Bound dated(Field field, Test.Stand stand, Window window, boolean moment) {
        return switch (stand) {
            case IN -> range(field, Optional.of(window), Optional.of(window));
            case BEFORE -> before(field, window);
            case AFTER -> moment ? afterMoment(field, window.start()) : fromEnd(field, window);
            case UP_TO ->
                moment ? upToMoment(field, window.start()) : range(field, Optional.empty(), Optional.of(window));
            case FROM -> range(field, Optional.of(window), Optional.empty());
        };
    }

    private Bound distance(Field field, Test.Distance distance) {
        Period.Away mark = distance.mark();
        Window window = Windows.resolve(mark, reading);
        boolean past = distance.side() == Period.Side.LAST;
        return switch (distance.far()) {
            case MORE_THAN -> dated(field, past ? Test.Stand.BEFORE : Test.Stand.AFTER, window, mark.isMoment());
            case AT_LEAST -> dated(field, past ? Test.Stand.UP_TO : Test.Stand.FROM, window, mark.isMoment());
            case LESS_THAN -> {
                Bound beyond = dated(field, past ? Test.Stand.AFTER : Test.Stand.BEFORE, window, mark.isMoment());
                Bound here;
                if (mark.isMoment()) {
                    here = past
                            ? upToMoment(field, reading.now())
                            : instants(field, Optional.of(reading.now()), true, Optional.empty(), false);
                } else {
                    Window today = Windows.resolve(new Period.NearDay(0), reading);
                    here = past
                            ? range(field, Optional.empty(), Optional.of(today))
                            : range(field, Optional.of(today), Optional.empty());
                }
                yield new Bound.Every(List.of(beyond, here));
            }
        };
    }

    /** From the start of one window to the end of another. */
    private static Bound range(Field field, Optional<Window> from, Optional<Window> to) {
        if (field.type() == FieldType.DATE) {
            return new Bound.DayRange(field, from.map(w -> days(w).firstDay()), to.map(w -> days(w).dayAfterLast()));
        }
        return instants(field, from.map(Window::start), true, to.map(Window::end), false);
    }

    private static Bound before(Field field, Window window) {
        if (field.type() == FieldType.DATE) {
            return new Bound.DayRange(
                    field, Optional.empty(), Optional.of(days(window).firstDay()));
        }
        return instants(field, Optional.empty(), false, Optional.of(window.start()), false);
    }

    private static Bound fromEnd(Field field, Window window) {
        if (field.type() == FieldType.DATE) {
            LocalDate from = days(window).dayAfterLast();
            return new Bound.DayRange(field, Optional.of(from), Optional.empty());
        }
        return instants(field, Optional.of(window.end()), true, Optional.empty(), false);
    }

    private static Bound afterMoment(Field field, Instant moment) {
        return instants(field, Optional.of(moment), false, Optional.empty(), false);
    }

    private static Bound upToMoment(Field field, Instant moment) {
        return instants(field, Optional.empty(), false, Optional.of(moment), true);
    }

    private static Bound instants(
            Field field, Optional<Instant> from, boolean fromBelongs, Optional<Instant> to, boolean toBelongs) {
        return new Bound.InstantRange(field, from, fromBelongs, to, toBelongs);
    }

    private static Window.Days days(Window window) {
        return (Window.Days) window;
    }
}
