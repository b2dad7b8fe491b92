package deftlens.core.condition;

import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.time.LocalTimes;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Unanswered;
import deftlens.core.time.Window;
import deftlens.core.time.Windows;
import deftlens.core.time.WorkingCalendar;
import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.stream.Collectors;

/**
 * Binds a condition to a register, a reading and a viewer.
 *
 * @param register whose fields are meant
 * @param reading the moment and calendar for windows
 * @param viewer the facts behind viewer values
 * @param meanings what yes/no fields stand for that are calculated from a statement, by their keys: a criterion on one is bound as that
 *     statement is, so that indexes, edges and findings see its dates and values
 * @param elsewhere where values may be looked for besides
 */
public record Binder(
        Register register, Reading reading, Viewer viewer, Map<String, Condition> meanings, Elsewhere elsewhere) {

    public Binder {
        meanings = Map.copyOf(meanings);
    }

    /** A binder for whom there are no other records. */
    public Binder(Register register, Reading reading, Viewer viewer, Map<String, Condition> meanings) {
        this(register, reading, viewer, meanings, Elsewhere.NOWHERE);
    }

    /** The same with what yes/no fields stand for. */
    public Binder meaning(Map<String, Condition> others) {
        return new Binder(register, reading, viewer, others, elsewhere);
    }

    /** The same over a register whose fields are otherwise. */
    public Binder over(Register other) {
        return new Binder(other, reading, viewer, meanings, elsewhere);
    }

    /** The same for another reader. */
    public Binder as(Viewer other) {
        return new Binder(register, reading, other, meanings, elsewhere);
    }

    /** What binds conditions on the records of a place. */
    public Binder at(Elsewhere.Place place) {
        return new Binder(place.register(), reading, viewer, place.meanings(), place.elsewhere());
    }

    /** Where a criterion looks for values, if it looks for them somewhere else, and whoever reads may. */
    public Optional<Elsewhere.Place> place(Condition.Criterion criterion) {
        return criterion.test() instanceof Test.Related(String other, Condition where)
                ? elsewhere.of(criterion.field(), other)
                : Optional.empty();
    }

    /** A binder for which every field has a value of its own. */
    public Binder(Register register, Reading reading, Viewer viewer) {
        this(register, reading, viewer, Map.of());
    }

    /** What a criterion on a yes/no field stands for that is calculated from a statement; nothing for any other. */
    public Optional<Condition> meaning(Condition.Criterion criterion) {
        return criterion.test() instanceof Test.Is || criterion.test() instanceof Test.In
                ? Optional.ofNullable(meanings.get(criterion.field()))
                : Optional.empty();
    }

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
     * @throws Unanswered when it holds an ask without a default
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
        if (criterion.test() instanceof Test.FieldComparison against
                && register.field(against.other()).isEmpty()) {
            throw new Unfit(criterion, register.label() + " has no field “" + against.other() + "” (any more)");
        }
        if (!Fit.allows(register, field, criterion.test())) {
            throw new Unfit(
                    criterion,
                    field.label() + " is a " + field.type().words() + " field, and this test does not fit it");
        }
        Bound positive = positive(field, criterion);
        return criterion.negated() ? new Bound.Not(positive) : positive;
    }

    private Bound positive(Field field, Condition.Criterion criterion) {
        return switch (criterion.test()) {
            case Test.Empty() -> new Bound.IsEmpty(field.type() == FieldType.SPAN ? register.start(field) : field);
            case Test.Is(Operand value, boolean exactly) -> equal(field, List.of(value), exactly);
            case Test.In(List<Operand> values, boolean exactly) -> equal(field, values, exactly);
            case Test.Compare(Test.Order order, Operand value) -> {
                Optional<BigDecimal> number = Optional.of(number(value));
                yield switch (order) {
                    case MORE -> new Bound.NumberRange(field, number, false, Optional.empty(), false);
                    case AT_LEAST -> new Bound.NumberRange(field, number, true, Optional.empty(), false);
                    case LESS -> new Bound.NumberRange(field, Optional.empty(), false, number, false);
                    case AT_MOST -> new Bound.NumberRange(field, Optional.empty(), false, number, true);
                };
            }
            case Test.Between(Operand low, Operand high) ->
                new Bound.NumberRange(field, Optional.of(number(low)), true, Optional.of(number(high)), true);
            case Test.Find(Test.Search search, Operand wanted, boolean exactly) -> {
                String text = text(wanted);
                yield new Bound.Finds(field, search, exactly ? text : LetterCase.fold(text), !exactly);
            }
            case Test.Tagged(boolean all, List<Operand> tags) -> {
                Set<String> texts = texts(tags);
                yield texts.isEmpty() ? new Bound.Constant(false) : new Bound.Tags(field, all, texts);
            }
            case Test.Dated(Test.DateRelation stand, Period period) ->
                dated(field, stand, Windows.resolve(period, reading), period.isMoment());
            case Test.DatedBetween(Period from, Period to) ->
                range(field, Optional.of(Windows.resolve(from, reading)), Optional.of(Windows.resolve(to, reading)));
            case Test.Distance distance -> distance(field, distance);
            case Test.OnCalendar(Test.Part part, var numbers) ->
                new Bound.LocalPart(field, reading.zone(), part, Set.copyOf(numbers));
            case Test.ClockBetween(Operand from, Operand to) -> clock(field, time(from), time(to));
            case Test.TimeBetween(Operand from, Operand to) -> time(field, time(from), time(to));
            case Test.Timed(Test.DateRelation stand, Operand mark) -> {
                LocalTime at = time(mark);
                yield switch (stand) {
                    case BEFORE -> new Bound.TimeRange(field, Optional.empty(), false, Optional.of(at), false);
                    case AFTER -> new Bound.TimeRange(field, Optional.of(at), false, Optional.empty(), false);
                    case UP_TO -> new Bound.TimeRange(field, Optional.empty(), false, Optional.of(at), true);
                    case FROM, IN -> new Bound.TimeRange(field, Optional.of(at), true, Optional.empty(), false);
                };
            }
            case Test.Working(Test.Work work) -> working(field, work);
            case Test.Spanned(Test.Extent extent, Period period) ->
                span(field, extent, Windows.resolve(period, reading), period.isMoment());
            case Test.SpannedDaily(Operand from, Operand to, Period days) ->
                daily(field, time(from), time(to), Windows.resolve(days, reading), criterion);
            case Test.Banded(List<Operand> names) ->
                banded(field, names.stream().map(Binder::text).toList(), criterion);
            case Test.Matches(String pattern, boolean exactly) ->
                new Bound.Matches(field, new Regex(pattern, !exactly), !exactly);
            case Test.FieldComparison(Test.Relation relation, String other, var offset, boolean exactly) ->
                new Bound.FieldComparison(
                        field,
                        relation,
                        register.field(other).orElseThrow(),
                        offset,
                        reading.zone(),
                        field.type() == FieldType.TEXT && !exactly);
            case Test.Related(String other, Condition where) -> related(field, other, where, criterion);
        };
    }

    private Bound related(Field field, String other, Condition where, Condition.Criterion criterion) {
        Elsewhere.Place place = place(criterion)
                .orElseThrow(() -> new Unfit(
                        criterion,
                        field.label() + " is not looked for in “" + other
                                + "”: it holds nothing of the kind (any more), or not for you"));
        try {
            return new Bound.Related(field, place, at(place).bind(where));
        } catch (Unfit unfit) {
            throw new Unfit(criterion, unfit.getMessage());
        }
    }

    private static Operand settled(Operand value) {
        return value instanceof Operand.Ask(String label, Optional<Operand> preset)
                ? preset.orElseThrow(() -> new Unanswered(label))
                : value;
    }

    private static BigDecimal number(Operand value) {
        return settled(value) instanceof Operand.Duration(BigDecimal seconds)
                ? seconds
                : ((Operand.Number) settled(value)).value();
    }

    private static String text(Operand value) {
        return ((Operand.Text) settled(value)).value();
    }

    private static LocalTime time(Operand value) {
        return ((Operand.Time) settled(value)).value();
    }

    private static Bound some(List<Bound> parts) {
        return parts.size() == 1
                ? parts.get(0)
                : parts.isEmpty() ? new Bound.Constant(false) : new Bound.Some(List.copyOf(parts));
    }

    /** The wall clock of a moment in {@code [from, to)}, over midnight when it ends before it begins. */
    private Bound clock(Field field, LocalTime from, LocalTime to) {
        ZoneId zone = reading.zone();
        if (!from.isAfter(to)) {
            return new Bound.ClockRange(field, zone, Optional.of(from), Optional.of(to));
        }
        Bound evening = new Bound.ClockRange(field, zone, Optional.of(from), Optional.empty());
        return to.equals(LocalTime.MIDNIGHT)
                ? evening
                : some(List.of(evening, new Bound.ClockRange(field, zone, Optional.empty(), Optional.of(to))));
    }

    private static Bound time(Field field, LocalTime from, LocalTime to) {
        if (!from.isAfter(to)) {
            return new Bound.TimeRange(field, Optional.of(from), true, Optional.of(to), false);
        }
        Bound evening = new Bound.TimeRange(field, Optional.of(from), true, Optional.empty(), false);
        return to.equals(LocalTime.MIDNIGHT)
                ? evening
                : some(List.of(evening, new Bound.TimeRange(field, Optional.empty(), false, Optional.of(to), false)));
    }

    private Bound working(Field field, Test.Work work) {
        return switch (work) {
            case IN_HOURS ->
                workTime(
                        field,
                        hours -> hours.stream()
                                .map(h -> clock(field, h.from(), h.to()))
                                .toList());
            case WORKING_DAY ->
                workTime(field, hours -> hours.isEmpty() ? List.of() : List.of(new Bound.Constant(true)));
            case OUTSIDE_HOURS -> withValue(field, new Bound.Not(working(field, Test.Work.IN_HOURS)));
            case DAY_OFF -> withValue(field, new Bound.Not(working(field, Test.Work.WORKING_DAY)));
        };
    }

    private static Bound withValue(Field field, Bound negative) {
        return new Bound.Every(List.of(new Bound.Not(new Bound.IsEmpty(field)), negative));
    }

    /**
     * The days of the week with their hours, except on single dates that have hours of their own.
     *
     * @param inside what is asked of a day with these hours; any of it suffices
     */
    private Bound workTime(Field field, Function<List<WorkingCalendar.Hours>, List<Bound>> inside) {
        WorkingCalendar calendar = reading.working();
        Map<List<WorkingCalendar.Hours>, Set<Integer>> weekly = new LinkedHashMap<>();
        for (DayOfWeek day : DayOfWeek.values()) {
            weekly.computeIfAbsent(calendar.weekly().getOrDefault(day, List.of()), h -> new TreeSet<>())
                    .add(day.getValue());
        }
        Map<List<WorkingCalendar.Hours>, Set<LocalDate>> single = new LinkedHashMap<>();
        new TreeMap<>(calendar.exceptions())
                .forEach((day, hours) ->
                        single.computeIfAbsent(hours, h -> new TreeSet<>()).add(day));
        ZoneId zone = reading.zone();
        List<Bound> ways = new ArrayList<>();
        weekly.forEach((hours, days) -> {
            List<Bound> asked = inside.apply(hours);
            if (!asked.isEmpty()) {
                List<Bound> every = new ArrayList<>();
                every.add(new Bound.LocalPart(field, zone, Test.Part.WEEKDAY, Set.copyOf(days)));
                if (!calendar.exceptions().isEmpty()) {
                    every.add(new Bound.Not(new Bound.LocalDays(
                            field, zone, Set.copyOf(calendar.exceptions().keySet()))));
                }
                every.add(some(asked));
                ways.add(new Bound.Every(every));
            }
        });
        single.forEach((hours, days) -> {
            List<Bound> asked = inside.apply(hours);
            if (!asked.isEmpty()) {
                ways.add(new Bound.Every(List.of(new Bound.LocalDays(field, zone, Set.copyOf(days)), some(asked))));
            }
        });
        return some(ways);
    }

    private Bound span(Field span, Test.Extent extent, Window window, boolean moment) {
        if (window.end().isBefore(window.start())) {
            return new Bound.Constant(false);
        }
        Field start = register.start(span);
        Field end = register.end(span);
        boolean lastDayBelongs = span.ends().orElseThrow().lastDayBelongs();
        // An end that is the last day inside stands one day before the end that the window is held against.
        Window endWindow = lastDayBelongs ? earlier((Window.Days) window) : window;
        Bound running = new Bound.IsEmpty(end);
        return switch (extent) {
            case STARTS_IN -> range(start, Optional.of(window), Optional.of(window));
            case ENDS_IN -> withValue(start, range(end, Optional.of(window), Optional.of(window)));
            case WITHIN ->
                new Bound.Every(List.of(range(start, Optional.of(window), Optional.empty()), endsBy(end, endWindow)));
            case COVERS ->
                new Bound.Every(List.of(
                        startsBy(start, window), new Bound.Some(List.of(running, endsAtOrAfter(end, endWindow)))));
            case OVERLAPS -> {
                Optional<Test.Offset> dayAfter = lastDayBelongs
                        ? Optional.of(new Test.Offset.Time(1, deftlens.core.time.Unit.DAY))
                        : Optional.empty();
                Bound noLength = new Bound.Every(List.of(
                        range(start, Optional.of(window), Optional.empty()),
                        new Bound.FieldComparison(
                                start,
                                start.type() == FieldType.DATE ? Test.Relation.ON : Test.Relation.EQUAL,
                                end,
                                dayAfter,
                                reading.zone(),
                                false)));
                Bound begun = moment ? startsBy(start, window) : range(start, Optional.empty(), Optional.of(window));
                yield new Bound.Every(
                        List.of(begun, new Bound.Some(List.of(running, endsAfter(end, endWindow), noLength))));
            }
        };
    }

    /** Under way in the stretch of at least one of the days, each of which is a window of its own. */
    private Bound daily(Field span, LocalTime from, LocalTime to, Window window, Condition.Criterion criterion) {
        Window.Days days = days(window);
        if (days.firstDay().until(days.dayAfterLast(), ChronoUnit.DAYS) > Test.SpannedDaily.MOST_DAYS) {
            throw new Unfit(
                    criterion,
                    "hours are looked through on at most " + Test.SpannedDaily.MOST_DAYS
                            + " days; name a shorter window for " + span.label());
        }
        List<Window> stretches = new ArrayList<>();
        for (LocalDate day = days.firstDay(); day.isBefore(days.dayAfterLast()); day = day.plusDays(1)) {
            LocalDate end = to.isBefore(from) ? day.plusDays(1) : day;
            Window stretch = new Window.Instants(
                    LocalTimes.instant(day.atTime(from), reading.zone()),
                    LocalTimes.instant(end.atTime(to), reading.zone()),
                    reading.zone());
            if (stretch.start().isBefore(stretch.end())) {
                stretches.add(stretch);
            }
        }
        if (stretches.isEmpty()) {
            return new Bound.Constant(false);
        }
        Bound some = some(stretches.stream()
                .map(stretch -> span(span, Test.Extent.OVERLAPS, stretch, false))
                .toList());
        // What is never there in the whole time is passed over at once, and found by an index.
        Window whole = new Window.Instants(
                stretches.getFirst().start(), stretches.getLast().end(), reading.zone());
        return stretches.size() == 1
                ? some
                : new Bound.Every(List.of(span(span, Test.Extent.OVERLAPS, whole, false), some));
    }

    private static Window.Days earlier(Window.Days days) {
        return new Window.Days(days.firstDay().minusDays(1), days.dayAfterLast().minusDays(1), days.zone());
    }

    /** At or before the window's start. */
    private static Bound startsBy(Field field, Window window) {
        return field.type() == FieldType.DATE
                ? new Bound.DayRange(
                        field,
                        Optional.empty(),
                        Optional.of(days(window).firstDay().plusDays(1)))
                : upToMoment(field, window.start());
    }

    /** At or before the window's end. */
    private static Bound endsBy(Field field, Window window) {
        return field.type() == FieldType.DATE
                ? new Bound.DayRange(
                        field,
                        Optional.empty(),
                        Optional.of(days(window).dayAfterLast().plusDays(1)))
                : upToMoment(field, window.end());
    }

    /** At or after the window's end. */
    private static Bound endsAtOrAfter(Field field, Window window) {
        return fromEnd(field, window);
    }

    /** After the window's start. */
    private static Bound endsAfter(Field field, Window window) {
        return field.type() == FieldType.DATE
                ? new Bound.DayRange(field, Optional.of(days(window).firstDay().plusDays(1)), Optional.empty())
                : afterMoment(field, window.start());
    }

    private Bound banded(Field field, List<String> names, Condition.Criterion criterion) {
        List<Bound> parts = new ArrayList<>();
        Set<String> texts = new LinkedHashSet<>();
        for (String name : names) {
            Band band = field.band(name)
                    .orElseThrow(() -> new Unfit(criterion, field.label() + " has no band “" + name + "” (any more)"));
            for (Band.Extent extent : band.all()) {
                switch (extent) {
                    case Band.Numbers(var low, boolean lowBelongs, var high, boolean highBelongs) ->
                        parts.add(
                                low.isEmpty() && high.isEmpty()
                                        ? new Bound.Not(new Bound.IsEmpty(field))
                                        : new Bound.NumberRange(field, low, lowBelongs, high, highBelongs));
                    case Band.Texts(Set<String> values) ->
                        values.forEach(v -> texts.add(field.type() == FieldType.TEXT ? LetterCase.fold(v) : v));
                    case Band.Days(var from, var to) ->
                        parts.add(
                                field.type() == FieldType.DATE
                                        ? new Bound.DayRange(field, from, to)
                                        : instants(
                                                field,
                                                from.map(this::firstInstant),
                                                true,
                                                to.map(this::firstInstant),
                                                false));
                    case Band.Times(LocalTime from, LocalTime to) ->
                        parts.add(field.type() == FieldType.TIME ? time(field, from, to) : clock(field, from, to));
                }
            }
        }
        if (!texts.isEmpty()) {
            parts.add(new Bound.OneOf(field, texts, field.type() == FieldType.TEXT));
        }
        return some(parts);
    }

    private Bound truth(Field field, boolean value) {
        Condition meaning = meanings.get(field.key());
        if (meaning == null) {
            return new Bound.Truth(field, value);
        }
        Bound holds = bind(meaning);
        return value ? holds : new Bound.Not(holds);
    }

    private Instant firstInstant(LocalDate day) {
        return day.atStartOfDay(reading.zone()).toInstant();
    }

    private Bound equal(Field field, List<Operand> values, boolean exactly) {
        return switch (field.type()) {
            case NUMBER, MONEY, DURATION ->
                new Bound.Numbers(field, values.stream().map(Binder::number).toList());
            case YES_NO -> {
                Set<Boolean> wanted = values.stream()
                        .map(v -> ((Operand.YesNo) settled(v)).value())
                        .collect(Collectors.toSet());
                yield wanted.size() == 2
                        ? new Bound.Not(new Bound.IsEmpty(field))
                        : truth(field, wanted.contains(true));
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
            switch (settled(value)) {
                case Operand.Text(String text) -> texts.add(text);
                case Operand.Viewer(String attribute) -> texts.addAll(viewer.values(attribute));
                case Operand.Number n -> throw new IllegalArgumentException("a number among texts");
                case Operand.Duration d -> throw new IllegalArgumentException("a duration among texts");
                case Operand.Time t -> throw new IllegalArgumentException("a time of day among texts");
                case Operand.YesNo b -> throw new IllegalArgumentException("yes or no among texts");
                case Operand.Ask a -> throw new IllegalStateException("an ask is settled before it is bound");
            }
        }
        return texts;
    }

    private Bound dated(Field field, Test.DateRelation stand, Window window, boolean moment) {
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
        Period.Away mark = (Period.Away) distance.away().settled();
        Window window = Windows.resolve(mark, reading);
        boolean past = mark.side() == Period.Side.LAST;
        return switch (distance.far()) {
            case MORE_THAN ->
                dated(field, past ? Test.DateRelation.BEFORE : Test.DateRelation.AFTER, window, mark.isMoment());
            case AT_LEAST ->
                dated(field, past ? Test.DateRelation.UP_TO : Test.DateRelation.FROM, window, mark.isMoment());
            case LESS_THAN -> {
                Bound beyond = dated(
                        field, past ? Test.DateRelation.AFTER : Test.DateRelation.BEFORE, window, mark.isMoment());
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
