package deftlens.core.check;

import deftlens.core.check.Finding.Code;
import deftlens.core.check.Finding.Level;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Operands;
import deftlens.core.condition.Parts;
import deftlens.core.condition.Test;
import deftlens.core.condition.Verb;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.statement.Nearest;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.core.time.Fixing;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Unanswered;
import deftlens.core.time.Window;
import deftlens.core.time.Windows;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** Notices what would mislead somebody, before it does. */
public final class Checker {

    private static final long MANY = 5;
    private static final int MOST_PARTS = 120;
    private static final Pattern ROLLING = Pattern.compile(
            "\\b(?:(?:this|last|next|past|coming|current|previous)\\s+(?:\\w+\\s+){0,2}(?:days?|weeks?|fortnights?|months?|quarters?|halves|half|years?)|today|yesterday|tomorrow|daily|weekly|monthly|quarterly|overdue|recent|recently|rolling)\\b",
            Pattern.CASE_INSENSITIVE);
    private static final Pattern FIXED = Pattern.compile(
            "\\b(?:(?:19|20)\\d\\d(?:-\\d\\d)?|FY\\s?\\d{2,4}|[QH][1-4]|(?:January|February|March|April|June|July|August|September|October|November|December)(?!\\s+(?:to|through)\\b))\\b");

    private Checker() {}

    /**
     * What the checker knows besides the condition.
     *
     * @param name the view's name, or empty
     * @param purpose what the view is said to be for, or empty
     * @param kept whether it is a view that is kept or about to be, and not a passing question
     * @param hidden the keys of fields that the reader may not use
     */
    public record About(String name, String purpose, boolean kept, Set<String> hidden) {
        /** A passing question by somebody who may use every field. */
        public static final About QUESTION = new About("", "", false, Set.of());
    }

    /**
     * A number of records that a finding depends on.
     *
     * @param condition which records to count
     * @param finding what their number means; nothing for most
     */
    public record Wanted(Condition condition, Told finding) {}

    /** What a number of records means. */
    @FunctionalInterface
    public interface Told {

        /**
         * @param number how many there are, as far as they were counted
         * @param more whether there are more than that
         */
        Optional<Finding> by(long number, boolean more);
    }

    /**
     * A list of values of which some may be in no record.
     *
     * @param values as they are written
     */
    public record Listed(String path, Field field, List<Operand> values, boolean exactly) {}

    /** What can be said without looking at any record, in the order of the tree. */
    public static List<Finding> findings(Condition condition, Binder binder, About about) {
        return new Work(condition, binder, about).findings();
    }

    /** The numbers of records that more findings depend on. Call it for conditions that fit their register. */
    public static List<Wanted> wanted(Condition condition, Binder binder) {
        return new Work(condition, binder, About.QUESTION).wanted();
    }

    /** The lists in a condition whose values may be in no record. */
    public static List<Listed> listed(Condition condition, Register register) {
        List<Listed> found = new ArrayList<>();
        for (Parts.Part part : Parts.of(condition)) {
            if (part.part() instanceof Condition.Criterion(String key, Test test, boolean negated)
                    && test instanceof Test.In(List<Operand> values, boolean exactly)) {
                register.field(key)
                        .filter(f -> f.type() == FieldType.TEXT || f.type().isNumeric())
                        .ifPresent(f -> found.add(new Listed(
                                part.path(),
                                f,
                                values.stream()
                                        .filter(v -> v instanceof Operand.Text || v.isQuantity())
                                        .toList(),
                                exactly)));
            }
        }
        return found;
    }

    /**
     * What is said of criteria on calculated fields that make a question slow which is quick without them.
     *
     * @param slow the fields
     * @param seconds how long the first records were looked for in vain
     */
    public static Finding slow(Condition condition, List<Field> slow, long seconds) {
        Set<String> keys = slow.stream().map(Field::key).collect(Collectors.toSet());
        String path = Parts.of(condition).stream()
                .filter(p -> p.part() instanceof Condition.Criterion c
                        && c.fields().stream().anyMatch(keys::contains))
                .map(Parts.Part::path)
                .findFirst()
                .orElse("");
        String names = slow.stream().map(Field::label).distinct().collect(Collectors.joining("” and “", "“", "”"));
        return Finding.of(
                Code.SLOW_CALCULATION,
                Level.HINT,
                path,
                names + (slow.size() == 1 ? " is" : " are")
                        + " worked out for every record that the other criteria leave,"
                        + " which makes this slow: " + Math.max(1, seconds)
                        + " s did not find the first hundred; without "
                        + (slow.size() == 1 ? "it" : "these")
                        + " the first come at once. A narrower window, or a"
                        + " criterion on a stored field, helps.");
    }

    /** What is said of the values of a list that no record has. */
    public static Finding missing(Condition condition, Listed listed, List<Operand> missing) {
        String names = missing.stream().limit(5).map(Printer::operand).collect(Collectors.joining(", "));
        String more = missing.size() > 5 ? " and " + (missing.size() - 5) + " more" : "";
        String message = missing.size() == 1
                ? "No record has " + names + " as its " + label(listed.field()) + "."
                : "No record has " + names + more + " as its " + label(listed.field()) + ": " + missing.size() + " of "
                        + listed.values().size() + " listed values.";
        Finding finding = Finding.of(Code.VALUE_NOBODY_HAS, Level.WARNING, listed.path(), message)
                .counting(missing.size());
        Set<Operand> gone = new HashSet<>(missing);
        return at(condition, listed.path())
                .filter(c -> c.test() instanceof Test.In in && !gone.containsAll(in.values()))
                .map(c -> finding.mended(
                        "Take " + (missing.size() == 1 ? "it" : "them") + " out of the list",
                        Parts.replaced(
                                condition,
                                listed.path(),
                                new Condition.Criterion(
                                        c.field(),
                                        new Test.In(
                                                ((Test.In) c.test())
                                                        .values().stream()
                                                                .filter(v -> !gone.contains(v))
                                                                .toList(),
                                                listed.exactly()),
                                        c.negated()))))
                .orElse(finding);
    }

    private static Optional<Condition.Criterion> at(Condition condition, String path) {
        return Parts.at(condition, path)
                .filter(Condition.Criterion.class::isInstance)
                .map(Condition.Criterion.class::cast);
    }

    private static String label(Field field) {
        return Wording.running(field.label());
    }

    /** One look at one condition. */
    private static final class Work {
        private final Condition condition;
        private final Binder binder;
        private final About about;
        private final Register register;
        private final Reading reading;
        private final List<Parts.Part> parts;
        private final List<Finding> found = new ArrayList<>();
        private final Set<String> unsound = new HashSet<>();
        private final Map<String, Bound> bound = new HashMap<>();

        Work(Condition condition, Binder binder, About about) {
            this.condition = condition;
            this.binder = standIns(condition, binder);
            this.about = about;
            this.register = binder.register();
            this.reading = binder.reading();
            this.parts = Parts.of(condition);
        }

        /** A part as people read it. */
        private String quoted(Condition part) {
            String printed = String.join(" and ", Wording.lines(part, register, binder.elsewhere()));
            return "“" + (printed.length() > 80 ? printed.substring(0, 79) + "…" : printed) + "”";
        }

        /** A reader who has every viewer value: what one reader lacks is no contradiction. */
        private static Binder standIns(Condition condition, Binder binder) {
            Map<String, List<String>> facts = new HashMap<>(binder.viewer().facts());
            viewerValues(condition)
                    .forEach(v ->
                            facts.merge(v, List.of("\u0001" + v), (own, standIn) -> own.isEmpty() ? standIn : own));
            return binder.as(new Viewer(facts));
        }

        private static Set<String> viewerValues(Condition condition) {
            return condition.criteriaEverywhere().stream()
                    .flatMap(c -> operands(c.test()).stream())
                    .filter(Operand.Viewer.class::isInstance)
                    .map(o -> ((Operand.Viewer) o).attribute())
                    .collect(Collectors.toSet());
        }

        private static List<Operand> operands(Test test) {
            return Operands.of(test).values();
        }

        List<Finding> findings() {
            boolean asksNothing = parts.stream().noneMatch(p -> p.part() instanceof Condition.Criterion);
            if (asksNothing && about.kept()) {
                found.add(Finding.of(
                        Code.EVERYTHING,
                        Level.WARNING,
                        "",
                        "This view has no criteria: it shows every record of " + register.label() + "."));
            }
            for (Parts.Part part : parts) {
                if (part.part() instanceof Condition.Criterion criterion && fits(part.path(), criterion)) {
                    choices(part.path(), criterion);
                    viewer(part.path(), criterion);
                    windows(part.path(), criterion);
                    others(part.path(), criterion);
                }
            }
            if (parts.size() <= MOST_PARTS) {
                reason();
            }
            Map<String, Integer> order = new HashMap<>();
            parts.forEach(p -> order.put(p.path(), order.size()));
            found.sort(
                    java.util.Comparator.comparing(Finding::level).thenComparing(f -> order.getOrDefault(f.path(), 0)));
            return List.copyOf(found);
        }

        /** Whether a criterion can be asked of the register at all; says so when it cannot. */
        private boolean fits(String path, Condition.Criterion criterion) {
            if (about.hidden().contains(criterion.field())) {
                unsound.add(path);
                found.add(Finding.of(
                        Code.NOT_YOURS,
                        Level.ERROR,
                        path,
                        "You may not use the field of this criterion, so the view cannot be answered for you."));
                return false;
            }
            try {
                binder.bind(criterion);
                return true;
            } catch (Unanswered open) {
                unsound.add(path);
                return false;
            } catch (Binder.Unfit unfit) {
                unsound.add(path);
                boolean fieldIsThere = register.field(criterion.field()).isPresent();
                boolean band = fieldIsThere && criterion.test() instanceof Test.Banded;
                Finding finding = Finding.of(
                        band ? Code.CHOICE_GONE : Code.FIELD_GONE, Level.ERROR, path, unfit.getMessage() + ".");
                found.add(finding.mended("Take this criterion out", Parts.removed(condition, path)));
                return false;
            }
        }

        /** What is to be said of the condition that is put to other records, about the criterion that puts it. */
        private void others(String path, Condition.Criterion criterion) {
            binder.place(criterion).ifPresent(place -> {
                Condition where = ((Test.Related) criterion.test()).where();
                for (Finding finding : Checker.findings(where, binder.at(place), About.QUESTION)) {
                    found.add(Finding.of(
                            finding.code(),
                            finding.level(),
                            path,
                            "In what is asked of " + place.register().label() + ": " + finding.message()));
                }
            });
        }

        /** Choices and people that do not exist. */
        private void choices(String path, Condition.Criterion criterion) {
            Field field = register.field(criterion.field()).orElseThrow();
            if (!field.type().isListed() && field.type() != FieldType.TAGS
                    || field.options().isEmpty()) {
                return;
            }
            for (Operand operand : operands(criterion.test())) {
                if (operand instanceof Operand.Text(String text)
                        && field.options().stream().noneMatch(o -> o.value().equals(text))) {
                    List<String> near = Nearest.to(
                            text, field.options().stream().map(o -> o.value()).toList());
                    boolean tags = field.type() == FieldType.TAGS;
                    Finding finding = Finding.of(
                            Code.CHOICE_GONE,
                            tags ? Level.HINT : Level.WARNING,
                            path,
                            field.label() + " has no “" + text + "” (any more), so no record can have it.");
                    if (tags) {
                        finding = Finding.of(
                                Code.CHOICE_GONE,
                                Level.HINT,
                                path,
                                "“" + text + "” is not among the usual " + label(field) + ".");
                    }
                    if (!near.isEmpty()) {
                        finding = finding.mended(
                                "Use “" + near.get(0) + "”",
                                Parts.replaced(
                                        condition, path, exchanged(criterion, operand, new Operand.Text(near.get(0)))));
                    }
                    found.add(finding);
                }
            }
        }

        private static Condition exchanged(Condition.Criterion criterion, Operand old, Operand by) {
            return Verb.of(criterion)
                    .criterion(
                            criterion.field(),
                            Operands.of(criterion.test()).with(value -> value.equals(old) ? by : value));
        }

        private void viewer(String path, Condition.Criterion criterion) {
            for (Operand operand : operands(criterion.test())) {
                if (operand instanceof Operand.Viewer value && !binderHas(value)) {
                    found.add(Finding.of(
                            Code.VIEWER_EMPTY,
                            Level.HINT,
                            path,
                            "You have no value of “" + value.words() + "”, so " + quoted(criterion)
                                    + (criterion.negated()
                                            ? " leaves nothing out for you."
                                            : " finds nothing for you.")));
                }
            }
        }

        private boolean binderHas(Operand.Viewer value) {
            return binder.viewer().values(value.attribute()).stream().noneMatch(v -> v.startsWith("\u0001"));
        }

        /** Fixed windows that have passed, stop a day short, or are called rolling; and the other way round. */
        private void windows(String path, Condition.Criterion criterion) {
            Optional<Period> period = period(criterion.test());
            if (period.isEmpty()) {
                return;
            }
            Period phrase = period.get();
            Window window = Windows.resolve(phrase, reading);
            boolean fixed = !phrase.isRolling() && !phrase.isAsked();
            boolean speaksOfRolling = ROLLING.matcher(about.name()).find()
                    || ROLLING.matcher(about.purpose()).find();
            boolean bounded = isBounded(criterion.test());
            if (fixed && speaksOfRolling) {
                found.add(mended(
                        Finding.of(
                                Code.FIXED_NOT_ROLLING,
                                Level.WARNING,
                                path,
                                quoted(criterion)
                                        + " stands still, and the view speaks of “"
                                        + firstOf(ROLLING)
                                        + "”: it will show the same days for ever."),
                        path,
                        criterion,
                        phrase));
            } else if (fixed
                    && bounded
                    && !criterion.negated()
                    && !window.isEmpty()
                    && !window.end().isAfter(reading.now())
                    && !FIXED.matcher(about.name() + " " + about.purpose()).find()) {
                found.add(mended(
                        Finding.of(
                                Code.PASSED,
                                Level.HINT,
                                path,
                                "The window of " + quoted(criterion) + " ended " + ended(window)
                                        + "; it stays the same from day to day."),
                        path,
                        criterion,
                        phrase));
            }
            if (fixed) {
                dayShort(path, criterion, phrase, window);
            } else if (about.kept()
                    && isCalendar(phrase)
                    && FIXED.matcher(about.name()).find()
                    && !ROLLING.matcher(about.name()).find()) {
                Period still = Fixing.fix(phrase, reading);
                found.add(Finding.of(
                                Code.ROLLING_NOT_FIXED,
                                Level.WARNING,
                                path,
                                quoted(criterion) + " moves on with the calendar, and the view is called “"
                                        + about.name() + "”.")
                        .mended(
                                "Fix it at " + Wording.period(still),
                                Parts.replaced(condition, path, dated(criterion, still))));
            }
        }

        private String firstOf(Pattern pattern) {
            java.util.regex.Matcher matcher = pattern.matcher(about.name() + " " + about.purpose());
            return matcher.find() ? matcher.group().toLowerCase(Locale.ROOT) : "";
        }

        private static boolean isCalendar(Period period) {
            return period instanceof Period.Calendar || period instanceof Period.Full;
        }

        private static String ended(Window window) {
            return window instanceof Window.Days days
                    ? "on " + Wording.day(days.lastDay())
                    : Wording.moment(window.end(), window.zone());
        }

        private Finding mended(Finding finding, String path, Condition.Criterion criterion, Period phrase) {
            List<Period> rolling = Fixing.loosen(phrase, reading);
            return rolling.isEmpty()
                    ? finding
                    : finding.mended(
                            "Let it roll: " + Wording.period(rolling.get(0)),
                            Parts.replaced(condition, path, dated(criterion, rolling.get(0))));
        }

        /** The phrase that a criterion holds its field against; from the first to the second for between. */
        private static Optional<Period> period(Test test) {
            return switch (test) {
                case Test.Dated(Test.DateRelation stand, Period period) -> Optional.of(period);
                case Test.Spanned(Test.Extent extent, Period period) -> Optional.of(period);
                case Test.SpannedDaily daily -> Optional.of(daily.days());
                case Test.DatedBetween(Period from, Period to) -> Optional.of(new Period.Range(from, to));
                default -> Optional.empty();
            };
        }

        private static boolean isBounded(Test test) {
            return !(test instanceof Test.Dated(Test.DateRelation stand, Period period))
                    || stand == Test.DateRelation.IN;
        }

        private static Condition dated(Condition.Criterion criterion, Period by) {
            Test test = switch (criterion.test()) {
                case Test.Dated dated -> new Test.Dated(dated.stand(), by);
                case Test.Spanned spanned -> new Test.Spanned(spanned.extent(), by);
                case Test.SpannedDaily daily -> new Test.SpannedDaily(daily.from(), daily.to(), by);
                case Test.DatedBetween between
                when by instanceof Period.Range(Period from, Period to) -> new Test.DatedBetween(from, to);
                default -> new Test.Dated(Test.DateRelation.IN, by);
            };
            return new Condition.Criterion(criterion.field(), test, criterion.negated());
        }

        /** From the first of a month to the day before the last one of a month. */
        private void dayShort(String path, Condition.Criterion criterion, Period phrase, Window window) {
            if (!(phrase instanceof Period.Range(Period from, Period to)) || window.isEmpty()) {
                return;
            }
            Optional<LocalDate> first = firstDay(from);
            Optional<LocalDate> lastDay = to instanceof Period.Day(LocalDate day)
                    ? Optional.of(day)
                    : to instanceof Period.Moment(var at, var offset)
                                    && offset.isEmpty()
                                    && at.toLocalTime().equals(LocalTime.MIDNIGHT)
                            ? Optional.of(at.toLocalDate().minusDays(1))
                            : Optional.empty();
            if (first.isEmpty() || lastDay.isEmpty() || first.get().getDayOfMonth() != 1) {
                return;
            }
            LocalDate next = lastDay.get().plusDays(1);
            if (next.getDayOfMonth() != next.lengthOfMonth() || !next.isBefore(Windows.LAST_DAY)) {
                return;
            }
            String what = next.getMonthValue() == 12 && first.get().getDayOfYear() == 1
                    ? "the year"
                    : next.getMonthValue() % 3 == 0
                                    && first.get().getMonthValue() % 3 == 1
                                    && first.get().isAfter(next.minusMonths(3))
                            ? "the quarter"
                            : "the month";
            Period end = to instanceof Period.Day
                    ? new Period.Day(next)
                    : new Period.Moment(next.plusDays(1).atStartOfDay());
            found.add(Finding.of(
                            Code.DAY_SHORT,
                            Level.WARNING,
                            path,
                            quoted(criterion) + " stops a day before " + what + " does: " + Wording.day(next)
                                    + " is not in it.")
                    .mended(
                            "Count " + Wording.day(next) + " too",
                            Parts.replaced(condition, path, dated(criterion, new Period.Range(from, end)))));
        }

        private static Optional<LocalDate> firstDay(Period period) {
            return switch (period) {
                case Period.Day(LocalDate day) -> Optional.of(day);
                case Period.Month(var month) -> Optional.of(month.atDay(1));
                case Period.Moment(var at, var offset)
                when offset.isEmpty() && at.toLocalTime().equals(LocalTime.MIDNIGHT) -> Optional.of(at.toLocalDate());
                default -> Optional.empty();
            };
        }

        /** Parts that can never, or must always, hold: by themselves and where they stand. */
        private void reason() {
            for (Parts.Part part : parts) {
                bind(part.path(), part.part()).ifPresent(b -> bound.put(part.path(), b));
            }
            Set<String> told = new HashSet<>();
            // Innermost parts first, so that a group is not blamed for what one of its parts does.
            for (Parts.Part part : parts.reversed()) {
                Bound own = bound.get(part.path());
                if (own == null || told.stream().anyMatch(t -> t.startsWith(part.path() + "/"))) {
                    continue;
                }
                if (Reasoning.isNever(own)) {
                    told.add(part.path());
                    found.add(never(part));
                } else if (Reasoning.isAlways(own)) {
                    told.add(part.path());
                    found.add(always(part));
                }
            }
            inContext(told);
        }

        private Finding never(Parts.Part part) {
            if (part.part() instanceof Condition.Criterion criterion) {
                boolean backwards = criterion.test() instanceof Test.Between
                        || criterion.test() instanceof Test.DatedBetween
                        || criterion.test() instanceof Test.Dated(Test.DateRelation stand, Period period)
                                && period instanceof Period.Range;
                Finding finding = Finding.of(
                        Code.NEVER,
                        Level.ERROR,
                        part.path(),
                        backwards
                                ? quoted(criterion) + " runs backwards, so no record can ever be in it."
                                : "No record can ever be in " + quoted(criterion) + reasonOf(criterion));
                return turned(criterion)
                        .map(t -> finding.mended("Turn it round", Parts.replaced(condition, part.path(), t)))
                        .orElse(finding);
            }
            return contradiction(part)
                    .map(pair -> Finding.of(
                                    Code.NEVER,
                                    Level.ERROR,
                                    part.path(),
                                    quoted(pair.get(0).part()) + " and "
                                            + quoted(pair.get(1).part())
                                            + " can never both be true, so nothing is found.")
                            .mended("Ask for either of the two", either(part, pair.get(0), pair.get(1))))
                    .orElseGet(() -> Finding.of(
                            Code.NEVER,
                            Level.ERROR,
                            part.path(),
                            part.path().isEmpty()
                                    ? "These criteria contradict each other: no record can ever be in all of them."
                                    : "No record can ever be in " + quoted(part.part()) + "."));
        }

        private static String reasonOf(Condition.Criterion criterion) {
            return criterion.test() instanceof Test.Dated(Test.DateRelation stand, Period period)
                            && stand == Test.DateRelation.IN
                            && period.isMoment()
                    ? ": a single moment has no length. Write before, after, from or up to."
                    : ".";
        }

        private static Optional<Condition> turned(Condition.Criterion criterion) {
            Optional<Test> test = switch (criterion.test()) {
                case Test.Between(Operand low, Operand high) -> Optional.of(new Test.Between(high, low));
                case Test.DatedBetween(Period from, Period to) -> Optional.of(new Test.DatedBetween(to, from));
                case Test.Dated(Test.DateRelation stand, Period period)
                when period instanceof Period.Range(Period from, Period to) ->
                    Optional.of(new Test.Dated(stand, new Period.Range(to, from)));
                default -> Optional.empty();
            };
            return test.map(t -> new Condition.Criterion(criterion.field(), t, criterion.negated()));
        }

        /** Two parts of an all-of group that exclude each other. */
        private Optional<List<Parts.Part>> contradiction(Parts.Part group) {
            if (!(group.part() instanceof Condition.All)) {
                return Optional.empty();
            }
            List<Parts.Part> children = children(group);
            for (int i = 0; i < children.size(); i++) {
                for (int j = i + 1; j < children.size(); j++) {
                    Bound a = bound.get(children.get(i).path());
                    Bound b = bound.get(children.get(j).path());
                    if (a != null && b != null && !Reasoning.canHold(List.of(a, b))) {
                        return Optional.of(List.of(children.get(i), children.get(j)));
                    }
                }
            }
            return Optional.empty();
        }

        private Condition either(Parts.Part group, Parts.Part one, Parts.Part other) {
            List<Condition> rest = new ArrayList<>();
            rest.add(new Condition.Any(List.of(one.part(), other.part())));
            children(group).stream()
                    .filter(c -> c != one && c != other)
                    .map(Parts.Part::part)
                    .forEach(rest::add);
            return Parts.replaced(condition, group.path(), new Condition.All(rest));
        }

        private List<Parts.Part> children(Parts.Part group) {
            int depth = group.path().length();
            return parts.stream()
                    .filter(p -> p.path().startsWith(group.path() + "/")
                            && p.path().indexOf('/', p.path().indexOf('/', depth + 1) + 1) < 0)
                    .toList();
        }

        private Finding always(Parts.Part part) {
            String message = part.path().isEmpty()
                    ? "Every record is in this: it leaves nothing out."
                    : "Every record is in " + quoted(part.part()) + ": it leaves nothing out.";
            Finding finding = Finding.of(Code.ALWAYS, Level.WARNING, part.path(), message);
            return part.path().isEmpty()
                    ? finding
                    : finding.mended("Take it out", Parts.removed(condition, part.path()));
        }

        /** Parts that add nothing to the others around them, the later of two that say the same. */
        private void inContext(Set<String> told) {
            Set<String> without = new HashSet<>(told);
            for (Parts.Part part : parts.reversed()) {
                String path = part.path();
                Bound own = bound.get(path);
                boolean spoken = without.stream()
                        .anyMatch(t -> t.startsWith(path + "/") || path.startsWith(t + "/") || t.equals(path));
                // The one part of a none-of group is judged with its "not".
                boolean lone = path.endsWith("/none/0")
                        && parts.stream().noneMatch(p -> p.path().equals(path.replaceAll("0$", "1")));
                if (path.isEmpty() || own == null || spoken || lone) {
                    continue;
                }
                Map<String, Bound> context = context(path, without);
                if (context.isEmpty() || !Reasoning.canHold(List.copyOf(context.values()))) {
                    continue;
                }
                boolean neverHere = !Reasoning.canHold(with(context, own));
                boolean alwaysHere = !Reasoning.canHold(with(context, new Bound.Not(own)));
                if (neverHere || alwaysHere) {
                    without.add(path);
                    found.add(redundant(part, context, neverHere, own));
                }
            }
        }

        private static List<Bound> with(Map<String, Bound> context, Bound own) {
            List<Bound> all = new ArrayList<>(context.values());
            all.add(own);
            return all;
        }

        private Finding redundant(Parts.Part part, Map<String, Bound> context, boolean neverHere, Bound own) {
            Bound asked = neverHere ? own : new Bound.Not(own);
            Optional<String> because = context.entrySet().stream()
                    .filter(e -> !Reasoning.canHold(List.of(e.getValue(), asked)))
                    .map(Map.Entry::getKey)
                    .findFirst();
            Condition removed = Parts.removed(condition, part.path());
            Optional<Condition> other = because.flatMap(p ->
                    parts.stream().filter(q -> q.path().equals(p)).findFirst().map(Parts.Part::part));
            boolean same =
                    other.map(o -> o.normal().equals(part.part().normal())).orElse(false);
            String parent = part.path().replaceAll("/\\d+$", "");
            if (same) {
                return Finding.of(
                                Code.REPEATS,
                                Level.WARNING,
                                part.path(),
                                quoted(part.part()) + " is asked twice; once is enough.")
                        .mended("Take this one out", removed);
            }
            String reason = other.map(this::quoted).orElse("what stands around it");
            String cause = because.map(p -> p.replaceAll("/\\d+$", "")).orElse(parent);
            boolean beside = cause.equals(parent);
            boolean alternatives = beside && !parent.endsWith("all");
            String message = quoted(part.part())
                    + (neverHere
                            ? alternatives
                                    ? " adds nothing: every record in it is in " + reason + " already."
                                    : " can never be true here, because of " + reason + "."
                            : beside && !alternatives
                                    ? " leaves nothing out: " + reason + " does so already."
                                    : " is always true here, because of " + reason + ".");
            return Finding.of(Code.CONTAINED, Level.WARNING, part.path(), message)
                    .mended("Take it out", removed);
        }

        /**
         * What is known to hold wherever the part at a path decides anything: beside it in an all-of group, the others; in
         * an any-of or none-of group, the opposites of the others; and the same for the groups around.
         */
        private Map<String, Bound> context(String path, Set<String> without) {
            Map<String, Bound> context = new java.util.LinkedHashMap<>();
            String at = path;
            while (!at.isEmpty()) {
                String group = at.replaceAll("/(?:(?:all|any|none)/\\d+|off)$", "");
                String kind = at.substring(group.length() + 1).replaceAll("/.*", "");
                String self = at;
                parts.stream()
                        .filter(p -> p.path().equals(group))
                        .findFirst()
                        .ifPresent(g -> children(g).stream()
                                .filter(c -> !c.path().equals(self) && !without.contains(c.path()))
                                .forEach(c -> {
                                    Bound b = bound.get(c.path());
                                    if (b != null) {
                                        context.put(c.path(), kind.equals("all") ? b : new Bound.Not(b));
                                    }
                                }));
                at = group;
            }
            return context;
        }

        /** The bound form of a part in which everything can be asked; nothing for one that holds an open or unfit criterion. */
        private Optional<Bound> bind(String path, Condition part) {
            boolean broken = unsound.stream().anyMatch(u -> u.equals(path) || u.startsWith(path + "/"));
            if (broken || part.criteria().isEmpty() || part instanceof Condition.Off) {
                return Optional.empty();
            }
            Bound own = binder.bind(part);
            // A group whose criteria are all switched off asks nothing and says nothing.
            boolean asks = Parts.of(part).stream().anyMatch(p -> p.part() instanceof Condition.Criterion);
            return asks ? Optional.of(own) : Optional.empty();
        }

        List<Wanted> wanted() {
            List<Wanted> wanted = new ArrayList<>();
            Set<String> mindful = condition.criteria().stream()
                    .filter(c -> c.test() instanceof Test.Empty)
                    .map(Condition.Criterion::field)
                    .collect(Collectors.toSet());
            for (Parts.Part part : parts) {
                if (part.part() instanceof Condition.Criterion criterion) {
                    register.field(criterion.field()).ifPresent(field -> {
                        if (!mindful.contains(field.key())) {
                            empties(part, criterion, field).ifPresent(wanted::add);
                        }
                        boundary(part, criterion, field).ifPresent(wanted::add);
                        spaces(part, criterion, field).ifPresent(wanted::add);
                    });
                }
            }
            return wanted;
        }

        /** Records that an empty field alone keeps out, or lets in. */
        private Optional<Wanted> empties(Parts.Part part, Condition.Criterion criterion, Field field) {
            boolean canBeEmpty = !field.required() || field.type() == FieldType.TEXT;
            if (!canBeEmpty || criterion.test() instanceof Test.Empty || field.type() == FieldType.TAGS) {
                return Optional.empty();
            }
            boolean turned = part.path().split("/none/", -1).length % 2 == 0;
            boolean in = criterion.negated() != turned;
            Condition empty = Condition.Criterion.of(field.key(), new Test.Empty());
            Condition filled = Parts.replaced(
                    condition,
                    part.path(),
                    criterion.negated()
                            ? new Condition.All(
                                    List.of(criterion, Condition.Criterion.not(field.key(), new Test.Empty())))
                            : new Condition.Any(List.of(criterion, empty)));
            // Whether such a record is in the answer depends on this criterion, and it is empty.
            Condition counted = new Condition.All(
                    List.of(Parts.decided(condition, part.path()).condition(), empty));
            return Optional.of(new Wanted(counted, (n, more) -> {
                if (n == 0) {
                    return Optional.empty();
                }
                String message = records(n, more) + " without " + label(field) + (n == 1 && !more ? " is " : " are ")
                        + (in ? "let in." : "left out.");
                return Optional.of(
                        Finding.of(in ? Code.EMPTY_LET_IN : Code.EMPTY_LEFT_OUT, Level.HINT, part.path(), message)
                                .counting(n)
                                .mended(in ? "Leave them out" : "Let them in", filled));
            }));
        }

        /** {@code 1 record}, {@code 1,204 records}, {@code More than 10,000 records}. */
        private static String records(long number, boolean more) {
            return (more ? "More than " : "")
                    + (number == 1 ? "1 record" : String.format(Locale.ROOT, "%,d records", number));
        }

        /** Records that have a text without a space too many. */
        private Optional<Wanted> spaces(Parts.Part part, Condition.Criterion criterion, Field field) {
            Map<Operand, Operand> plain = new LinkedHashMap<>();
            if (field.type() == FieldType.TEXT) {
                for (Operand operand : operands(criterion.test())) {
                    if (operand instanceof Operand.Text(String text)) {
                        String without = text.strip().replaceAll("\\s+", " ");
                        if (!without.equals(text) && !without.isEmpty()) {
                            plain.put(operand, new Operand.Text(without));
                        }
                    }
                }
            }
            if (plain.isEmpty()) {
                return Optional.empty();
            }
            Condition mended = criterion;
            for (Map.Entry<Operand, Operand> one : plain.entrySet()) {
                mended = exchanged((Condition.Criterion) mended, one.getKey(), one.getValue());
            }
            Condition whole = Parts.replaced(condition, part.path(), mended);
            boolean exactly = criterion.test() instanceof Test.Is is && is.exactly()
                    || criterion.test() instanceof Test.In in && in.exactly();
            Condition counted = Condition.Criterion.of(
                    field.key(), new Test.In(List.copyOf(new LinkedHashSet<>(plain.values())), exactly));
            String shown = Printer.operand(plain.values().iterator().next());
            return Optional.of(new Wanted(
                    counted,
                    (n, more) -> n == 0
                            ? Optional.empty()
                            : Optional.of(Finding.of(
                                            Code.EXTRA_SPACE,
                                            Level.WARNING,
                                            part.path(),
                                            records(n, more) + (n == 1 && !more ? " has " : " have ")
                                                    + label(field)
                                                    + (plain.size() == 1 ? " " + shown : "")
                                                    + " without the extra space.")
                                    .counting(n)
                                    .mended("Take the space out", whole))));
        }

        /** Records that stand exactly where "more than" or "less than" begins. */
        private Optional<Wanted> boundary(Parts.Part part, Condition.Criterion criterion, Field field) {
            return switch (criterion.test()) {
                case Test.Compare(Test.Order order, Operand value)
                when (order == Test.Order.MORE || order == Test.Order.LESS) && value.isQuantity() ->
                    Optional.of(boundary(
                            part,
                            Condition.Criterion.of(field.key(), new Test.Is(value, false)),
                            Condition.Criterion.of(
                                    field.key(),
                                    new Test.Compare(
                                            order == Test.Order.MORE ? Test.Order.AT_LEAST : Test.Order.AT_MOST,
                                            value)),
                            label(field) + " of exactly " + Printer.operand(value),
                            order == Test.Order.MORE
                                    ? "At least " + Printer.operand(value)
                                    : "At most " + Printer.operand(value)));
                case Test.Distance(Test.DistanceRelation far, Period away)
                when far == Test.DistanceRelation.MORE_THAN && field.type() == FieldType.DATE && !away.isAsked() ->
                    Optional.of(boundary(
                            part,
                            Condition.Criterion.of(field.key(), new Test.Dated(Test.DateRelation.IN, away)),
                            Condition.Criterion.of(
                                    field.key(), new Test.Distance(Test.DistanceRelation.AT_LEAST, away)),
                            label(field) + " exactly " + Printer.period(away),
                            "At least " + Printer.period(away)));
                default -> Optional.empty();
            };
        }

        private Wanted boundary(
                Parts.Part part, Condition exactly, Condition.Criterion wider, String there, String label) {
            Condition others = part.without();
            Condition widened = Parts.replaced(condition, part.path(), wider);
            Condition counted = new Condition.All(List.of(others, exactly));
            return new Wanted(
                    counted,
                    (n, more) -> n < MANY
                            ? Optional.empty()
                            : Optional.of(Finding.of(
                                            Code.AT_BOUNDARY,
                                            Level.HINT,
                                            part.path(),
                                            records(n, more) + " have " + there + ", which does not count.")
                                    .counting(n)
                                    .mended(label, widened)));
        }
    }
}
