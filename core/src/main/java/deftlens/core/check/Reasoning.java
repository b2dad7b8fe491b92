package deftlens.core.check;

import com.google.common.collect.ImmutableRangeSet;
import com.google.common.collect.Range;
import com.google.common.collect.RangeSet;
import com.google.common.collect.TreeRangeSet;
import deftlens.core.condition.Bound;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.match.Matcher;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * Finds out whether any record at all could be in a bound condition, by following every way through its alternatives with
 * the set of values that each field could still have: intervals of numbers, days, instants and times, sets of texts, of
 * weekdays, months and days of the month, tags that must and must not be there, and how two fields can stand to each
 * other.
 *
 * <p>The answer "nothing" is a proof. The answer "something" may be wrong where the sets are wider than the truth, or where
 * the alternatives multiply beyond {@value #MOST_STEPS} steps.
 */
final class Reasoning {

    private static final int MOST_STEPS = 20_000;
    private static final int MOST_DAYS = 800;

    private int steps;

    private Reasoning() {}

    /** Whether a record could be in all of the parts; false only when none ever can. */
    static boolean canHold(List<Bound> parts) {
        Deque<Claim> claims = new ArrayDeque<>();
        parts.forEach(p -> claims.add(new Claim(p, true)));
        return new Reasoning().isOpen(claims, List.of(), new State());
    }

    /** Whether no record can ever be in the condition. */
    static boolean isNever(Bound bound) {
        return !canHold(List.of(bound));
    }

    /** Whether every record is always in the condition. */
    static boolean isAlways(Bound bound) {
        return !canHold(List.of(new Bound.Not(bound)));
    }

    private record Claim(Bound bound, boolean holds) {}

    /** Whether a way is open through the claims; alternatives are put off until everything plain is taken in. */
    private boolean isOpen(Deque<Claim> claims, List<List<Claim>> putOff, State state) {
        List<List<Claim>> choices = new ArrayList<>(putOff);
        while (!claims.isEmpty()) {
            if (++steps > MOST_STEPS) {
                return true;
            }
            Claim claim = claims.poll();
            switch (claim.bound) {
                case Bound.Constant(boolean holds) -> {
                    if (holds != claim.holds) {
                        return false;
                    }
                }
                case Bound.Not(Bound part) -> claims.add(new Claim(part, !claim.holds));
                case Bound.Every(List<Bound> parts) -> split(parts, claim.holds, claim.holds, claims, choices);
                case Bound.Some(List<Bound> parts) -> split(parts, claim.holds, !claim.holds, claims, choices);
                case Bound.Leaf leaf -> {
                    if (!state.take(leaf, claim.holds)) {
                        return false;
                    }
                }
            }
        }
        if (choices.isEmpty()) {
            return state.isPossible();
        }
        List<Claim> choice = choices.get(0);
        List<List<Claim>> others = choices.subList(1, choices.size());
        for (Claim way : choice) {
            if (isOpen(new ArrayDeque<>(List.of(way)), others, state.copy())) {
                return true;
            }
        }
        return false;
    }

    private static void split(
            List<Bound> parts, boolean holds, boolean together, Deque<Claim> claims, List<List<Claim>> choices) {
        List<Claim> inner = parts.stream().map(p -> new Claim(p, holds)).toList();
        if (together) {
            claims.addAll(inner);
        } else {
            choices.add(inner);
        }
    }

    /** What is known of one record's fields on one way. */
    private static final class State {
        private final Map<String, Domain> domains;
        private final Map<Pair, Stand> pairs;

        State() {
            this(new HashMap<>(), new HashMap<>());
        }

        private State(Map<String, Domain> domains, Map<Pair, Stand> pairs) {
            this.domains = domains;
            this.pairs = pairs;
        }

        State copy() {
            Map<String, Domain> copied = new HashMap<>();
            domains.forEach((key, domain) -> copied.put(key, domain.copy()));
            return new State(copied, new HashMap<>(pairs));
        }

        Domain of(Field field) {
            return domains.computeIfAbsent(field.key(), k -> new Domain(field));
        }

        boolean take(Bound.Leaf leaf, boolean holds) {
            if (leaf instanceof Bound.FieldComparison beside) {
                return beside(beside, holds);
            }
            Domain domain = of(leaf.field());
            domain.take(leaf, holds);
            return domain.isPossible();
        }

        private boolean beside(Bound.FieldComparison beside, boolean holds) {
            Pair pair = new Pair(beside.field().key(), beside.other().key(), beside.offset(), beside.fold());
            int signs = 0;
            for (int sign = -1; sign <= 1; sign++) {
                if (beside.relation().holds(sign) == holds) {
                    signs |= 1 << (sign + 1);
                }
            }
            Stand before = pairs.getOrDefault(pair, new Stand(7, true));
            pairs.put(pair, new Stand(before.signs & signs, before.mayLack && !holds));
            for (Field field : List.of(beside.field(), beside.other())) {
                Domain domain = of(field);
                domain.mayBeEmpty &= !holds;
                if (!domain.isPossible()) {
                    return false;
                }
            }
            return isPossible(pair);
        }

        private boolean isPossible(Pair pair) {
            Stand stand = pairs.get(pair);
            for (int sign = -1; sign <= 1; sign++) {
                if ((stand.signs & 1 << (sign + 1)) != 0 && canStand(pair, sign)) {
                    return true;
                }
            }
            // Neither smaller, equal nor larger: one of the two must be empty.
            return stand.mayLack && (domains.get(pair.field).mayBeEmpty || domains.get(pair.other).mayBeEmpty);
        }

        /** Whether the values that two fields still have leave room for one to be smaller, equal or larger. */
        private boolean canStand(Pair pair, int sign) {
            Domain one = domains.get(pair.field);
            Domain other = domains.get(pair.other);
            if (pair.offset.isPresent()
                    || one.field.type() != other.field.type()
                    || one.ranges.isEmpty()
                    || other.ranges.isEmpty()) {
                return true;
            }
            Range<BigDecimal> a = one.ranges.span();
            Range<BigDecimal> b = other.ranges.span();
            return switch (sign) {
                case -1 -> !a.hasLowerBound() || !b.hasUpperBound() || isBelow(a.lowerEndpoint(), b.upperEndpoint());
                case 1 -> !a.hasUpperBound() || !b.hasLowerBound() || isBelow(b.lowerEndpoint(), a.upperEndpoint());
                default -> a.isConnected(b) && !a.intersection(b).isEmpty();
            };
        }

        private static boolean isBelow(BigDecimal low, BigDecimal high) {
            return low.compareTo(high) < 0;
        }

        boolean isPossible() {
            return domains.values().stream().allMatch(Domain::isPossibleInDetail)
                    && pairs.keySet().stream().allMatch(this::isPossible);
        }
    }

    private record Pair(String field, String other, Optional<Test.Offset> offset, boolean fold) {}

    /** Which signs of the comparison are left, and whether a value may be lacking. */
    private record Stand(int signs, boolean mayLack) {}

    /** What is asked of other records: nothing is known of their values, but that the same is not true and false. */
    private record Others(String register, Bound where) {
        static Others of(Bound.Related related) {
            return new Others(related.place().register().key(), related.where());
        }
    }

    /** The values that one field could still have. */
    private static final class Domain {
        private final Field field;
        private boolean mayBeEmpty;
        private boolean mayHaveValue = true;
        /** Numbers as they are; days, microseconds of instants and of times as whole numbers. */
        private RangeSet<BigDecimal> ranges = all();

        private RangeSet<BigDecimal> clock = all();
        private final Map<Test.Part, Set<Integer>> parts = new HashMap<>();
        private RangeSet<BigDecimal> localDays = all();
        private ZoneId zone = ZoneOffset.UTC;
        private Optional<Set<String>> exactly = Optional.empty();
        private final Set<String> notExactly = new HashSet<>();
        private Optional<Set<String>> folded = Optional.empty();
        private final Set<String> notFolded = new HashSet<>();
        private final Set<Bound> found = new HashSet<>();
        private final Set<Bound> notFound = new HashSet<>();
        private final Set<Others> inOthers = new HashSet<>();
        private final Set<Others> notInOthers = new HashSet<>();
        private final Set<String> withTags = new HashSet<>();
        private final Set<String> withoutTags = new HashSet<>();
        private final Set<Set<String>> someTagOf = new HashSet<>();
        private final Set<Set<String>> notAllTagsOf = new HashSet<>();

        Domain(Field field) {
            this.field = field;
            // An empty text or list counts as empty, also where the column itself is never null.
            this.mayBeEmpty = !field.required() || field.type() == FieldType.TEXT || field.type() == FieldType.TAGS;
        }

        Domain copy() {
            Domain copy = new Domain(field);
            copy.mayBeEmpty = mayBeEmpty;
            copy.mayHaveValue = mayHaveValue;
            copy.ranges = ranges;
            copy.clock = clock;
            copy.parts.putAll(parts);
            copy.localDays = localDays;
            copy.zone = zone;
            copy.exactly = exactly;
            copy.notExactly.addAll(notExactly);
            copy.folded = folded;
            copy.notFolded.addAll(notFolded);
            copy.found.addAll(found);
            copy.notFound.addAll(notFound);
            copy.inOthers.addAll(inOthers);
            copy.notInOthers.addAll(notInOthers);
            copy.withTags.addAll(withTags);
            copy.withoutTags.addAll(withoutTags);
            copy.someTagOf.addAll(someTagOf);
            copy.notAllTagsOf.addAll(notAllTagsOf);
            return copy;
        }

        private static RangeSet<BigDecimal> all() {
            return ImmutableRangeSet.of(Range.all());
        }

        void take(Bound.Leaf leaf, boolean holds) {
            if (leaf instanceof Bound.IsEmpty) {
                if (holds) {
                    mayHaveValue = false;
                } else {
                    mayBeEmpty = false;
                }
                return;
            }
            if (holds) {
                mayBeEmpty = false;
            }
            switch (leaf) {
                case Bound.OneOf(Field f, Set<String> values, boolean fold) -> texts(values, fold, holds);
                case Bound.Finds b -> (holds ? found : notFound).add(b);
                case Bound.Matches b -> (holds ? found : notFound).add(b);
                case Bound.Related b -> (holds ? inOthers : notInOthers).add(Others.of(b));
                case Bound.Numbers(Field f, List<BigDecimal> values) -> {
                    TreeRangeSet<BigDecimal> points = TreeRangeSet.create();
                    values.forEach(v -> points.add(Range.singleton(v)));
                    ranges = narrowed(ranges, points, holds);
                }
                case Bound.NumberRange(Field f, var low, boolean lowIn, var high, boolean highIn) ->
                    ranges = narrowed(ranges, range(low, lowIn, high, highIn), holds);
                case Bound.Truth(Field f, boolean value) ->
                    ranges = narrowed(
                            ranges,
                            ImmutableRangeSet.of(Range.singleton(value ? BigDecimal.ONE : BigDecimal.ZERO)),
                            holds);
                case Bound.Tags(Field f, boolean all, Set<String> tags) -> tags(all, tags, holds);
                case Bound.DayRange(Field f, var from, var to) ->
                    ranges = narrowed(
                            ranges,
                            whole(from.map(LocalDate::toEpochDay), true, to.map(LocalDate::toEpochDay), false),
                            holds);
                case Bound.InstantRange(Field f, var from, boolean fromIn, var to, boolean toIn) ->
                    ranges = narrowed(
                            ranges, whole(from.map(Domain::micros), fromIn, to.map(Domain::micros), toIn), holds);
                case Bound.TimeRange(Field f, var from, boolean fromIn, var to, boolean toIn) ->
                    ranges = narrowed(
                            ranges, whole(from.map(Domain::micros), fromIn, to.map(Domain::micros), toIn), holds);
                case Bound.ClockRange(Field f, ZoneId z, var from, var to) ->
                    clock = narrowed(
                            clock, whole(from.map(Domain::micros), true, to.map(Domain::micros), false), holds);
                case Bound.LocalPart(Field f, ZoneId z, Test.Part part, Set<Integer> numbers) -> {
                    zone = z;
                    Set<Integer> left = new HashSet<>(parts.getOrDefault(part, everything(part)));
                    if (holds) {
                        left.retainAll(numbers);
                    } else {
                        left.removeAll(numbers);
                    }
                    parts.put(part, left);
                }
                case Bound.LocalDays(Field f, ZoneId z, Set<LocalDate> days) -> {
                    zone = z;
                    TreeRangeSet<BigDecimal> points = TreeRangeSet.create();
                    days.forEach(d ->
                            points.addAll(whole(Optional.of(d.toEpochDay()), true, Optional.of(d.toEpochDay()), true)));
                    if (field.type() == FieldType.DATE) {
                        ranges = narrowed(ranges, points, holds);
                    } else {
                        localDays = narrowed(localDays, points, holds);
                    }
                }
                case Bound.IsEmpty empty -> throw new IllegalStateException("taken in above");
                case Bound.FieldComparison beside -> throw new IllegalStateException("a claim about two fields");
            }
        }

        private static Set<Integer> everything(Test.Part part) {
            Set<Integer> all = new HashSet<>();
            for (int i = 1; i <= part.most(); i++) {
                all.add(i);
            }
            return all;
        }

        private static long micros(Instant instant) {
            return ChronoUnit.MICROS.between(Instant.EPOCH, instant);
        }

        private static long micros(LocalTime time) {
            return time.toNanoOfDay() / 1_000;
        }

        /** Whole numbers, written half-open so that what is empty looks empty. */
        private static RangeSet<BigDecimal> whole(
                Optional<Long> from, boolean fromIn, Optional<Long> to, boolean toIn) {
            return range(
                    from.map(v -> BigDecimal.valueOf(fromIn ? v : v + 1)),
                    true,
                    to.map(v -> BigDecimal.valueOf(toIn ? v + 1 : v)),
                    false);
        }

        private static RangeSet<BigDecimal> range(
                Optional<BigDecimal> low, boolean lowIn, Optional<BigDecimal> high, boolean highIn) {
            if (low.isPresent() && high.isPresent()) {
                int sign = low.get().compareTo(high.get());
                if (sign > 0 || sign == 0 && !(lowIn && highIn)) {
                    return ImmutableRangeSet.of();
                }
            }
            Range<BigDecimal> range = Range.all();
            if (low.isPresent()) {
                range = range.intersection(lowIn ? Range.atLeast(low.get()) : Range.greaterThan(low.get()));
            }
            if (high.isPresent()) {
                range = range.intersection(highIn ? Range.atMost(high.get()) : Range.lessThan(high.get()));
            }
            return ImmutableRangeSet.of(range);
        }

        private static RangeSet<BigDecimal> narrowed(
                RangeSet<BigDecimal> before, RangeSet<BigDecimal> by, boolean holds) {
            TreeRangeSet<BigDecimal> left = TreeRangeSet.create(before);
            left.removeAll(holds ? by.complement() : by);
            return left;
        }

        private void texts(Set<String> values, boolean fold, boolean holds) {
            if (!holds) {
                (fold ? notFolded : notExactly).addAll(values);
            } else if (fold) {
                folded = Optional.of(common(folded, values));
            } else {
                exactly = Optional.of(common(exactly, values));
            }
        }

        private static Set<String> common(Optional<Set<String>> before, Set<String> values) {
            Set<String> left = new HashSet<>(values);
            before.ifPresent(left::retainAll);
            return left;
        }

        private void tags(boolean all, Set<String> tags, boolean holds) {
            if (holds) {
                if (all || tags.size() == 1) {
                    withTags.addAll(tags);
                } else {
                    someTagOf.add(tags);
                }
            } else if (all && tags.size() > 1) {
                notAllTagsOf.add(tags);
            } else {
                withoutTags.addAll(tags);
            }
        }

        boolean isPossible() {
            return mayBeEmpty || mayHaveValue && hasValue();
        }

        private boolean hasValue() {
            return !ranges.isEmpty()
                    && !clock.isEmpty()
                    && !localDays.isEmpty()
                    && parts.values().stream().noneMatch(Set::isEmpty)
                    && (field.type() != FieldType.YES_NO
                            || ranges.contains(BigDecimal.ZERO)
                            || ranges.contains(BigDecimal.ONE))
                    && inOthers.stream().noneMatch(notInOthers::contains)
                    && hasTimeOfDay()
                    && hasText()
                    && hasTags();
        }

        private boolean hasTimeOfDay() {
            RangeSet<BigDecimal> times = field.type() == FieldType.TIME ? ranges : clock;
            return field.type() != FieldType.TIME && field.type() != FieldType.MOMENT
                    || !narrowed(times, ImmutableRangeSet.of(DAY), true).isEmpty();
        }

        private static final Range<BigDecimal> DAY =
                Range.closedOpen(BigDecimal.ZERO, BigDecimal.valueOf(86_400_000_000L));

        private boolean hasTags() {
            return withTags.stream().noneMatch(withoutTags::contains)
                    && someTagOf.stream().noneMatch(withoutTags::containsAll)
                    && notAllTagsOf.stream().noneMatch(withTags::containsAll);
        }

        private boolean hasText() {
            if (exactly.isPresent()) {
                return exactly.get().stream().anyMatch(this::isOpenTo);
            }
            if (folded.isPresent()) {
                return folded.get().stream()
                        .anyMatch(v -> !notFolded.contains(v)
                                && found.stream().allMatch(f -> !isFolding(f) || finds(f, v))
                                && notFound.stream().allMatch(f -> !isFolding(f) || !finds(f, v)));
            }
            return found.stream().noneMatch(notFound::contains)
                    && found.stream().noneMatch(f -> notFound.stream().anyMatch(n -> implies(f, n)))
                    && found.stream().noneMatch(f -> found.stream().anyMatch(g -> excludes(f, g)));
        }

        /** Whether one text of known letters meets everything that is asked. */
        private boolean isOpenTo(String value) {
            String fold = LetterCase.fold(value);
            return !notExactly.contains(value)
                    && !notFolded.contains(fold)
                    && folded.map(f -> f.contains(fold)).orElse(true)
                    && found.stream().allMatch(f -> finds(f, isFolding(f) ? fold : value))
                    && notFound.stream().noneMatch(f -> finds(f, isFolding(f) ? fold : value));
        }

        private static boolean isFolding(Bound search) {
            return search instanceof Bound.Finds f ? f.fold() : ((Bound.Matches) search).fold();
        }

        private static boolean finds(Bound search, String value) {
            if (search instanceof Bound.Matches matches) {
                return matches.regex().isFoundIn(value);
            }
            Bound.Finds finds = (Bound.Finds) search;
            return Matcher.finder(finds.search(), finds.text()).test(value);
        }

        /** Whether a text in which the first is found always has the second found in it. */
        private static boolean implies(Bound first, Bound second) {
            if (!(first instanceof Bound.Finds a)
                    || !(second instanceof Bound.Finds b)
                    || a.search() == Test.Search.LIKE) {
                return false;
            }
            if (a.fold() && !b.fold()) {
                return false;
            }
            String text = b.fold() && !a.fold() ? LetterCase.fold(a.text()) : a.text();
            return switch (b.search()) {
                case CONTAINS -> text.contains(b.text());
                case STARTS_WITH -> a.search() == Test.Search.STARTS_WITH && text.startsWith(b.text());
                case ENDS_WITH -> a.search() == Test.Search.ENDS_WITH && text.endsWith(b.text());
                case LIKE -> false;
            };
        }

        /** Whether no text can begin, or end, both ways. */
        private static boolean excludes(Bound first, Bound second) {
            return first instanceof Bound.Finds a
                    && second instanceof Bound.Finds b
                    && a.search() == b.search()
                    && a.fold() == b.fold()
                    && switch (a.search()) {
                        case STARTS_WITH ->
                            !a.text().startsWith(b.text()) && !b.text().startsWith(a.text());
                        case ENDS_WITH ->
                            !a.text().endsWith(b.text()) && !b.text().endsWith(a.text());
                        default -> false;
                    };
        }

        /** Also looks at every single day of a short stretch, where weekdays and the like are asked for. */
        boolean isPossibleInDetail() {
            if (!isPossible()) {
                return false;
            }
            boolean local = !parts.isEmpty() || !localDays.encloses(Range.all());
            if (mayBeEmpty || !local || !field.type().isTemporal()) {
                return true;
            }
            Optional<Collection<LocalDate>> days = days();
            return days.isEmpty() || days.get().stream().anyMatch(this::isOpenOn);
        }

        private boolean isOpenOn(LocalDate day) {
            return parts.entrySet().stream()
                            .allMatch(e -> e.getValue().contains(e.getKey().of(day)))
                    && localDays.contains(BigDecimal.valueOf(day.toEpochDay()));
        }

        /** The days that are left, unless they are many. */
        private Optional<Collection<LocalDate>> days() {
            Set<LocalDate> days = new HashSet<>();
            for (Range<BigDecimal> range : ranges.asRanges()) {
                if (!range.hasLowerBound() || !range.hasUpperBound()) {
                    return Optional.empty();
                }
                LocalDate first = day(range.lowerEndpoint());
                LocalDate last = day(range.upperEndpoint().subtract(BigDecimal.ONE));
                if (ChronoUnit.DAYS.between(first, last) + days.size() > MOST_DAYS) {
                    return Optional.empty();
                }
                first.datesUntil(last.plusDays(1)).forEach(days::add);
            }
            return Optional.of(days);
        }

        private LocalDate day(BigDecimal value) {
            return field.type() == FieldType.DATE
                    ? LocalDate.ofEpochDay(value.longValueExact())
                    : Instant.EPOCH
                            .plus(value.longValueExact(), ChronoUnit.MICROS)
                            .atZone(zone)
                            .toLocalDate();
        }
    }
}
