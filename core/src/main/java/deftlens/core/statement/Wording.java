package deftlens.core.statement;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Elsewhere;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.condition.Verb;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Unanswered;
import deftlens.core.time.Window;
import deftlens.core.time.Windows;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** Puts criteria into plain sentences for reading, with the dates their windows stand for. */
public final class Wording {

    /** What a phrase depends on. */
    public enum Tone {
        PLAIN,
        /** The day it is read on. */
        TIME,
        /** The person who reads it. */
        VIEWER
    }

    /**
     * A criterion in three pieces that read as a sentence: {@code status} – {@code is none of} – {@code Done, Dropped}.
     *
     * @param field the field's label, in running text
     * @param verb the test, in running text
     * @param object what follows, or empty
     */
    public record Phrase(String field, String verb, String object, Tone tone) {}

    /**
     * What a date phrase stands for now.
     *
     * @param window the window of the phrase itself; for {@code between}, from the first to the second
     * @param words the test in words with resolved dates: {@code before Mon 23 Nov 2026, 00:00}
     * @param rolling whether it moves with the day
     * @param length how long it is, such as {@code 7 days}; empty for one day or moment and for open ends
     * @param reach where the values lie that satisfy it
     */
    public record Stands(Window window, String words, boolean rolling, Optional<String> length, Reach reach) {}

    /**
     * A stretch of time, {@code [from, to)}, open where an end is absent.
     *
     * @param outside whether the values that are meant lie outside of it
     */
    public record Reach(Optional<Instant> from, Optional<Instant> to, boolean outside) {}

    private static final int SHOWN_VALUES = 6;
    private static final DateTimeFormatter DAY = DateTimeFormatter.ofPattern("EEE d MMM yyyy", Locale.ENGLISH);
    private static final DateTimeFormatter SHORT_DAY = DateTimeFormatter.ofPattern("d MMM yyyy", Locale.ENGLISH);
    private static final DateTimeFormatter MONTH = DateTimeFormatter.ofPattern("MMMM yyyy", Locale.ENGLISH);
    private static final DateTimeFormatter MINUTES = DateTimeFormatter.ofPattern("HH:mm", Locale.ENGLISH);
    private static final DateTimeFormatter SECONDS = DateTimeFormatter.ofPattern("HH:mm:ss", Locale.ENGLISH);

    private Wording() {}

    /**
     * A condition as a person reads it, with the labels of fields: a line for each part of its outermost <em>all of</em>, none for
     * every record. {@code severity >= 3 and (status is "New" or site is my site)} is {@code severity is at least 3} and
     * {@code status is New or site is my site}.
     */
    public static List<String> lines(Condition condition, Register register) {
        return lines(condition, register, Elsewhere.NOWHERE);
    }

    /** The same with the labels of other registers. */
    public static List<String> lines(Condition condition, Register register, Elsewhere elsewhere) {
        return condition instanceof Condition.All(List<Condition> parts)
                ? parts.stream().map(p -> words(p, register, elsewhere)).toList()
                : List.of(words(condition, register, elsewhere));
    }

    private static String words(Condition condition, Register register, Elsewhere elsewhere) {
        return switch (condition) {
            case Condition.Criterion criterion -> {
                Phrase phrase = phrase(criterion, register, elsewhere);
                yield Stream.of(phrase.field(), phrase.verb(), phrase.object())
                        .filter(w -> !w.isEmpty())
                        .collect(Collectors.joining(" "));
            }
            case Condition.Off(Condition part) -> words(part, register, elsewhere) + " (off)";
            case Condition.All(List<Condition> parts) -> joined(parts, " and ", register, elsewhere);
            case Condition.Any(List<Condition> parts) -> joined(parts, " or ", register, elsewhere);
            case Condition.None(List<Condition> parts) -> "none of: " + joined(parts, " or ", register, elsewhere);
        };
    }

    private static String joined(List<Condition> parts, String by, Register register, Elsewhere elsewhere) {
        return parts.stream()
                .map(p -> p.children().size() > 1
                        ? "(" + words(p, register, elsewhere) + ")"
                        : words(p, register, elsewhere))
                .collect(Collectors.joining(by));
    }

    /** What is put to other records: {@code berth stays whose site is my site}. */
    private static String others(Condition.Criterion criterion, String other, Condition where, Elsewhere elsewhere) {
        Optional<Elsewhere.Place> place = elsewhere.of(criterion.field(), other);
        String label = place.map(p -> running(p.register().label())).orElse(other);
        if (where.equals(Condition.EVERYTHING)) {
            return label;
        }
        String words = place.map(p -> words(where, p.register(), p.elsewhere())).orElseGet(() -> Printer.print(where));
        return label + " whose " + (where.children().size() > 1 ? "(" + words + ")" : words);
    }

    /** A criterion as a person reads it. The field may be one that the register no longer has. */
    public static Phrase phrase(Condition.Criterion criterion, Register register) {
        return phrase(criterion, register, Elsewhere.NOWHERE);
    }

    /** The same with the labels of other registers. */
    public static Phrase phrase(Condition.Criterion criterion, Register register, Elsewhere elsewhere) {
        Optional<Field> field = register.field(criterion.field());
        String name = field.map(f -> running(f.label())).orElse(criterion.field());
        boolean not = criterion.negated();
        return switch (criterion.test()) {
            case Test.Is(Operand value, boolean exactly) ->
                new Phrase(name, not ? "is not" : "is", shown(value, field) + exactly(exactly), tone(List.of(value)));
            case Test.In(List<Operand> values, boolean exactly) ->
                new Phrase(
                        name, not ? "is none of" : "is one of", shown(values, field) + exactly(exactly), tone(values));
            case Test.Compare(Test.Order order, Operand value) ->
                new Phrase(
                        name,
                        "is",
                        switch (order) {
                                    case MORE -> "more than ";
                                    case AT_LEAST -> "at least ";
                                    case LESS -> "less than ";
                                    case AT_MOST -> "at most ";
                                }
                                + shown(value, field),
                        tone(List.of(value)));
            case Test.Between(Operand low, Operand high) ->
                new Phrase(
                        name,
                        "is",
                        "between " + shown(low, field) + " and " + shown(high, field),
                        tone(List.of(low, high)));
            case Test.Find(Test.Search search, Operand text, boolean exactly) ->
                new Phrase(
                        name, Verb.of(criterion).words(), shown(text, field) + exactly(exactly), tone(List.of(text)));
            case Test.Empty() -> new Phrase(name, not ? "is not empty" : "is empty", "", Tone.PLAIN);
            case Test.Tagged(boolean all, List<Operand> tags) ->
                new Phrase(name, Verb.of(criterion).words(), shown(tags, field), Tone.PLAIN);
            case Test.Dated(Test.DateRelation stand, Period period) -> {
                String word = stand == Test.DateRelation.IN && Printer.isOneDay(period) ? "on" : stand.words();
                boolean nearDay = period instanceof Period.NearDay && stand == Test.DateRelation.IN;
                yield new Phrase(
                        name, not ? "is not" : "is", (nearDay ? "" : word + " ") + period(period), tone(period));
            }
            case Test.DatedBetween(Period from, Period to) ->
                new Phrase(
                        name,
                        "is",
                        "between " + period(from) + " and " + period(to),
                        tone(from) == Tone.PLAIN || tone(to) == Tone.VIEWER ? tone(to) : tone(from));
            case Test.Distance(Test.DistanceRelation far, Period away) ->
                new Phrase(name, "is", far.words() + " " + period(away), tone(away));
            case Test.OnCalendar(Test.Part part, var numbers) ->
                new Phrase(
                        name,
                        (not ? "does not fall " : "falls ") + (part == Test.Part.MONTH ? "in" : "on"),
                        alternatives(numbers.stream()
                                        .map(n -> Printer.calendar(part, n))
                                        .toList())
                                + (part == Test.Part.DAY_OF_MONTH ? " of the month" : ""),
                        Tone.PLAIN);
            case Test.ClockBetween(Operand from, Operand to) ->
                new Phrase(
                        name,
                        "is",
                        "between " + shown(from, field) + " and " + shown(to, field) + " on any day",
                        tone(List.of(from, to)));
            case Test.TimeBetween(Operand from, Operand to) ->
                new Phrase(
                        name,
                        "is",
                        "between " + shown(from, field) + " and " + shown(to, field),
                        tone(List.of(from, to)));
            case Test.Timed(Test.DateRelation stand, Operand at) ->
                new Phrase(name, "is", stand.words() + " " + shown(at, field), tone(List.of(at)));
            case Test.Working(Test.Work work) -> new Phrase(name, "is", work.words(), Tone.PLAIN);
            case Test.Spanned(Test.Extent extent, Period period) ->
                new Phrase(
                        name,
                        Printer.isOneDay(period)
                                ? Verb.of(criterion).phrase().replaceFirst(" in$", " on")
                                : Verb.of(criterion).phrase(),
                        period(period),
                        tone(period));
            case Test.SpannedDaily(Operand from, Operand to, Period days) ->
                new Phrase(
                        name,
                        "overlaps",
                        shown(from, field) + " to " + shown(to, field)
                                + (Printer.isOneDay(days) ? " on " : " on any day of ") + period(days),
                        tone(List.of(from, to)) == Tone.PLAIN ? tone(days) : Tone.VIEWER);
            case Test.Banded(List<Operand> bands) ->
                new Phrase(
                        name,
                        not ? "is not in" : "is in",
                        "the " + (bands.size() == 1 ? "band " : "bands ")
                                + alternatives(bands.stream().map(Wording::band).toList()),
                        tone(bands));
            case Test.Matches(String pattern, boolean exactly) ->
                new Phrase(name, "matches", "/" + pattern + "/" + exactly(exactly), Tone.PLAIN);
            case Test.FieldComparison(Test.Relation relation, String other, var offset, boolean exactly) ->
                new Phrase(
                        name,
                        not ? "is not" : "is",
                        switch (relation) {
                                    case IS -> "";
                                    case EQUAL -> "equal to ";
                                    case MORE -> "more than ";
                                    case AT_LEAST -> "at least ";
                                    case LESS -> "less than ";
                                    case AT_MOST -> "at most ";
                                    case BEFORE, AFTER, FROM, UP_TO -> relation.words() + " ";
                                    case ON -> "on the day of ";
                                }
                                + register.field(other)
                                        .map(f -> running(f.label()))
                                        .orElse(other)
                                + offset.map(Printer::offset).orElse("")
                                + exactly(exactly),
                        Tone.PLAIN);
            case Test.Related(String other, Condition where) ->
                new Phrase(
                        name,
                        Verb.of(criterion).label(),
                        others(criterion, other, where, elsewhere),
                        where.isPersonal() ? Tone.VIEWER : where.isRolling() ? Tone.TIME : Tone.PLAIN);
        };
    }

    /**
     * What the window of a date criterion stands for at a reading; nothing for other criteria, for a field that the
     * register lacks, and for a blank that is still open.
     */
    public static Optional<Stands> stands(Condition.Criterion criterion, Register register, Reading reading) {
        try {
            return register.field(criterion.field()).flatMap(field -> stands(criterion, field, register, reading));
        } catch (Unanswered open) {
            return Optional.empty();
        }
    }

    private static Optional<Stands> stands(
            Condition.Criterion criterion, Field field, Register register, Reading reading) {
        boolean day = (field.type() == FieldType.SPAN ? register.start(field) : field).type() == FieldType.DATE;
        return switch (criterion.test()) {
            case Test.Dated(Test.DateRelation stand, Period period) -> {
                Window window = Windows.resolve(period, reading);
                String words = switch (stand) {
                    case IN -> inside(window, day, criterion.negated());
                    case BEFORE -> "before " + start(window, day);
                    case FROM -> "from " + start(window, day) + " on";
                    case AFTER ->
                        period.isMoment()
                                ? "after " + start(window, day)
                                : day ? "after " + lastDay(window) : "from " + end(window) + " on";
                    case UP_TO ->
                        period.isMoment()
                                ? "up to and including " + start(window, day)
                                : day
                                        ? "up to and including " + lastDay(window)
                                        : "up to, not including, " + end(window);
                };
                Reach reach = switch (stand) {
                    case IN -> reach(window);
                    case BEFORE -> until(window.start());
                    case FROM -> since(window.start());
                    case AFTER -> since(period.isMoment() ? next(window.start()) : window.end());
                    case UP_TO -> until(period.isMoment() ? next(window.start()) : window.end());
                };
                yield Optional.of(new Stands(
                        window,
                        words,
                        period.isRolling(),
                        stand == Test.DateRelation.IN ? length(window) : Optional.empty(),
                        criterion.negated() ? outside(reach) : reach));
            }
            case Test.DatedBetween(Period from, Period to) -> {
                Window window = Windows.resolve(new Period.Range(from, to), reading);
                yield Optional.of(new Stands(
                        window,
                        inside(window, day, false),
                        from.isRolling() || to.isRolling(),
                        length(window),
                        criterion.negated() ? outside(reach(window)) : reach(window)));
            }
            case Test.Distance distance -> {
                Period.Away away = (Period.Away) distance.away().settled();
                Window mark = Windows.resolve(away, reading);
                boolean past = away.side() == Period.Side.LAST;
                boolean moment = away.isMoment();
                String at = moment || !day ? start(mark, day) : start(mark, true);
                String words = switch (distance.far()) {
                    case MORE_THAN -> past ? "before " + at : moment ? "after " + at : beyond(mark, day);
                    case AT_LEAST ->
                        past
                                ? moment || day ? "up to and including " + at : "up to, not including, " + end(mark)
                                : "from " + at + " on";
                    case LESS_THAN ->
                        past
                                ? (moment ? "after " + at : beyond(mark, day))
                                        + (moment ? ", not later than now" : ", not later than today")
                                : "before " + at + (moment ? ", not earlier than now" : ", not earlier than today");
                };
                Instant after = moment ? next(mark.start()) : mark.end();
                Window today = Windows.resolve(new Period.NearDay(0), reading);
                Reach reach = switch (distance.far()) {
                    case MORE_THAN -> past ? until(mark.start()) : since(after);
                    case AT_LEAST -> past ? until(after) : since(mark.start());
                    case LESS_THAN ->
                        past
                                ? new Reach(
                                        Optional.of(after),
                                        Optional.of(moment ? next(reading.now()) : today.end()),
                                        false)
                                : new Reach(
                                        Optional.of(moment ? reading.now() : today.start()),
                                        Optional.of(mark.start()),
                                        false);
                };
                yield Optional.of(
                        new Stands(mark, words, true, Optional.empty(), criterion.negated() ? outside(reach) : reach));
            }
            case Test.Spanned(Test.Extent extent, Period period) -> {
                Window window = Windows.resolve(period, reading);
                String words = switch (extent) {
                    case OVERLAPS ->
                        window.isEmpty() && !period.isMoment()
                                ? inside(window, day, false)
                                : period.isMoment()
                                        ? "running at " + start(window, day)
                                        : "for any time " + inside(window, day, false);
                    case WITHIN -> "starts and ends " + inside(window, day, false);
                    case COVERS -> "for the whole time " + inside(window, day, false);
                    case STARTS_IN -> "starts " + inside(window, day, false);
                    case ENDS_IN -> "ends " + inside(window, day, false);
                };
                yield Optional.of(new Stands(window, words, period.isRolling(), length(window), reach(window)));
            }
            case Test.SpannedDaily(Operand from, Operand to, Period days) -> {
                Window window = Windows.resolve(days, reading);
                yield Optional.of(new Stands(
                        window,
                        "at any of these times " + inside(window, true, false),
                        days.isRolling(),
                        length(window),
                        reach(window)));
            }
            default -> Optional.empty();
        };
    }

    private static Reach reach(Window window) {
        return new Reach(Optional.of(window.start()), Optional.of(window.end()), false);
    }

    private static Reach until(Instant end) {
        return new Reach(Optional.empty(), Optional.of(end), false);
    }

    private static Reach since(Instant start) {
        return new Reach(Optional.of(start), Optional.empty(), false);
    }

    private static Reach outside(Reach reach) {
        return new Reach(reach.from, reach.to, true);
    }

    /** The first instant after a moment, as finely as the database knows time. */
    private static Instant next(Instant moment) {
        return moment.plus(1, ChronoUnit.MICROS);
    }

    private static String beyond(Window mark, boolean day) {
        return day ? "after " + lastDay(mark) : "from " + end(mark) + " on";
    }

    private static String inside(Window window, boolean day, boolean negated) {
        if (window.isEmpty()) {
            return negated ? "any day: nothing lies in this window" : "never: nothing lies in this window";
        }
        String words;
        if (window instanceof Window.Days days) {
            if (days.length() == 1) {
                words = "on " + DAY.format(days.firstDay()) + (day ? "" : ", the whole day");
            } else if (day) {
                words = "from " + DAY.format(days.firstDay()) + " up to and including " + DAY.format(days.lastDay());
            } else {
                words = "from " + start(window, false) + " up to, not including, " + end(window);
            }
        } else {
            words = "from " + start(window, false) + " up to, not including, " + end(window);
        }
        return negated ? "not " + words : words;
    }

    private static Optional<String> length(Window window) {
        return window instanceof Window.Days days && days.length() > 1
                ? Optional.of(days.length() + " days")
                : Optional.empty();
    }

    private static String start(Window window, boolean day) {
        return day && window instanceof Window.Days days
                ? DAY.format(days.firstDay())
                : moment(window.start(), window.zone());
    }

    private static String lastDay(Window window) {
        return DAY.format(((Window.Days) window).dayAfterLast().minusDays(1));
    }

    private static String end(Window window) {
        return moment(window.end(), window.zone());
    }

    /** A moment in the product's one date form, with the weekday: {@code Mon 23 Nov 2026, 14:30}. */
    public static String moment(Instant instant, ZoneId zone) {
        ZonedDateTime at = instant.atZone(zone);
        String time = (at.getSecond() == 0 && at.getNano() == 0 ? MINUTES : SECONDS).format(at);
        return DAY.format(at) + ", " + time;
    }

    /** A day in the product's one date form: {@code 23 Nov 2026}. */
    public static String day(LocalDate day) {
        return SHORT_DAY.format(day);
    }

    /** A period in running text: {@code the last 7 days}, {@code Q3 2026}. */
    public static String period(Period period) {
        return switch (period) {
            case Period.Running p -> "the " + Printer.period(p);
            case Period.Full p -> "the " + Printer.period(p);
            case Period.StartOf(Period of) -> "the first day of " + period(of);
            case Period.EndOf(Period of) -> "the last day of " + period(of);
            case Period.Day(LocalDate day) -> day(day);
            case Period.Month(var month) -> MONTH.format(month);
            case Period.Quarter(int year, int quarter) -> "Q" + quarter + " " + year;
            case Period.Half(int year, int half) -> "H" + half + " " + year;
            case Period.Week(int year, int week) -> "week " + week + " of " + year;
            case Period.FiscalYear(int year) -> "fiscal year " + year;
            case Period.FiscalQuarter(int year, int quarter) -> "Q" + quarter + " of fiscal year " + year;
            case Period.Moment(var at, var offset) ->
                SHORT_DAY.format(at) + ", " + (at.getSecond() == 0 && at.getNano() == 0 ? MINUTES : SECONDS).format(at)
                        + offset.map(o -> " " + o.getId()).orElse("");
            case Period.Range(Period from, Period to) -> period(from) + " to " + period(to);
            case Period.Asked(String label, var preset) ->
                blank(label) + preset.map(p -> " (" + period(p) + ")").orElse("");
            case Period.AskedCount asked ->
                (asked.hasPreset()
                                ? period(asked.shape())
                                : period(asked.with(2)).replaceFirst("2", "…")) + " " + blank(asked.label());
            default -> Printer.period(period);
        };
    }

    /** How a blank is shown in running text. */
    private static String blank(String label) {
        return "‹" + label + "›";
    }

    private static String alternatives(List<String> words) {
        return words.size() == 1
                ? words.get(0)
                : String.join(", ", words.subList(0, words.size() - 1)) + " or " + words.get(words.size() - 1);
    }

    private static Tone tone(Period period) {
        return period.isAsked() ? Tone.VIEWER : period.isRolling() ? Tone.TIME : Tone.PLAIN;
    }

    private static Tone tone(List<Operand> values) {
        return values.stream().anyMatch(v -> v instanceof Operand.Viewer || v instanceof Operand.Ask)
                ? Tone.VIEWER
                : Tone.PLAIN;
    }

    private static String exactly(boolean exactly) {
        return exactly ? ", letter case counting" : "";
    }

    private static String shown(List<Operand> values, Optional<Field> field) {
        String first =
                values.stream().limit(SHOWN_VALUES).map(v -> shown(v, field)).collect(Collectors.joining(", "));
        int rest = values.size() - SHOWN_VALUES;
        return rest > 0 ? first + " and " + rest + " more" : first;
    }

    private static String shown(Operand value, Optional<Field> field) {
        return switch (value) {
            case Operand.Text(String text) ->
                field.filter(f -> f.type() != FieldType.TEXT)
                        .map(f -> f.option(text).map(o -> o.label()).orElse(text))
                        .orElse("“" + text + "”");
            case Operand.Ask(String label, Optional<Operand> preset) ->
                blank(label) + preset.map(p -> " (" + shown(p, field) + ")").orElse("");
            default -> Printer.operand(value);
        };
    }

    private static String band(Operand name) {
        return switch (name) {
            case Operand.Text(String text) -> "“" + text + "”";
            case Operand.Ask(String label, Optional<Operand> preset) ->
                blank(label) + preset.map(p -> " (" + band(p) + ")").orElse("");
            default -> Printer.operand(name);
        };
    }

    /** A label inside a sentence: without its capital, unless the whole first word is one. */
    public static String running(String label) {
        return label.length() > 1 && Character.isUpperCase(label.charAt(0)) && Character.isLowerCase(label.charAt(1))
                ? Character.toLowerCase(label.charAt(0)) + label.substring(1)
                : label;
    }
}
