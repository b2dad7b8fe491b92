package deftlens.core.statement;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Fit;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Operands;
import deftlens.core.condition.Test;
import deftlens.core.condition.Verb;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.time.Period;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Collectors;

/** The blanks that a condition leaves for its reader, and the filling in of them. */
public final class Asks {

    private Asks() {}

    /** What is asked for. */
    public enum Kind {
        /** A value of the field. */
        VALUE,
        /** A date phrase. */
        DATE,
        /** A whole number of days, weeks, … */
        COUNT,
        /** A time of day. */
        TIME,
        /** The name of one of the field's bands. */
        BAND
    }

    /**
     * One blank; the same label in several places is one blank.
     *
     * @param register the key of the register whose field it is asked of, where that is another than the one that is asked about
     * @param field the key of the first field that it is asked of
     * @param preset what holds until the reader answers, as the reader would type it
     */
    public record Ask(Optional<String> register, String label, Kind kind, String field, Optional<String> preset) {

        Ask(String label, Kind kind, String field, Optional<String> preset) {
            this(Optional.empty(), label, kind, field, preset);
        }

        private Ask in(String other) {
            return new Ask(Optional.of(register.orElse(other)), label, kind, field, preset);
        }
    }

    /** An answer that does not fit its blank. */
    public static final class Unfitting extends RuntimeException {
        private final String label;

        Unfitting(String label, String message) {
            super(message);
            this.label = label;
        }

        /** The label of the blank. */
        public String label() {
            return label;
        }
    }

    /** The blanks of a condition in the order of the tree, those of parts that are switched off included. */
    public static List<Ask> of(Condition condition) {
        Map<String, Ask> found = new LinkedHashMap<>();
        for (Condition.Criterion criterion : condition.criteria()) {
            for (Ask ask : of(criterion)) {
                found.putIfAbsent(ask.label(), ask);
            }
        }
        return List.copyOf(found.values());
    }

    private static List<Ask> of(Condition.Criterion criterion) {
        String field = criterion.field();
        List<Ask> found = new ArrayList<>();
        switch (Operands.of(criterion.test())) {
            case Operands.One(Operand value, boolean exactly) -> add(List.of(value), Kind.VALUE, field, found);
            case Operands.Several(List<Operand> values, boolean exactly) -> add(values, Kind.VALUE, field, found);
            case Operands.Piece(Operand text, boolean exactly) -> add(List.of(text), Kind.VALUE, field, found);
            case Operands.TwoNumbers(Operand low, Operand high) -> add(List.of(low, high), Kind.VALUE, field, found);
            case Operands.Clock(Operand at) -> add(List.of(at), Kind.TIME, field, found);
            case Operands.TwoClocks(Operand from, Operand to) -> add(List.of(from, to), Kind.TIME, field, found);
            case Operands.ClocksOnDays(Operand from, Operand to, Period days) -> {
                add(List.of(from, to), Kind.TIME, field, found);
                add(days, field, found);
            }
            case Operands.Bands(List<Operand> names) -> add(names, Kind.BAND, field, found);
            case Operands.Window(Period period) -> add(period, field, found);
            case Operands.TwoWindows(Period from, Period to) -> {
                add(from, field, found);
                add(to, field, found);
            }
            case Operands.Distance(Period away) -> add(away, field, found);
            case Operands.Others(String register, Condition where) ->
                of(where).forEach(ask -> found.add(ask.in(register)));
            case Operands.Nothing _, Operands.CalendarNumbers _, Operands.Pattern _, Operands.OtherField _ -> {
                // Nothing there can be left blank.
            }
        }
        return found;
    }

    private static void add(List<Operand> values, Kind kind, String field, List<Ask> into) {
        for (Operand value : values) {
            if (value instanceof Operand.Ask(String label, Optional<Operand> preset)) {
                into.add(new Ask(
                        label,
                        kind,
                        field,
                        preset.map(p -> p instanceof Operand.Text(String text) ? text : Printer.operand(p))));
            }
        }
    }

    private static void add(Period period, String field, List<Ask> into) {
        switch (period) {
            case Period.Asked(String label, Optional<Period> preset) ->
                into.add(new Ask(label, Kind.DATE, field, preset.map(Printer::period)));
            case Period.AskedCount(String label, boolean hasPreset, Period shape) ->
                into.add(new Ask(
                        label,
                        Kind.COUNT,
                        field,
                        hasPreset
                                ? Optional.of(Printer.period(shape).replaceFirst("^(?:last |next )?(\\d+) .*$", "$1"))
                                : Optional.empty()));
            case Period.Range(Period from, Period to) -> {
                add(from, field, into);
                add(to, field, into);
            }
            default -> {
                // No other phrase holds a blank.
            }
        }
    }

    /**
     * The condition with answers in the place of its blanks. A blank without an answer, or with a blank one, stays.
     *
     * @param answers by label, as the reader typed them
     * @throws Unfitting when an answer does not fit its blank
     */
    public static Condition fill(Condition condition, Map<String, String> answers, Reader reader) {
        return answers.isEmpty() ? condition : condition.with(criterion -> fill(criterion, answers, reader));
    }

    private static Condition.Criterion fill(Condition.Criterion criterion, Map<String, String> answers, Reader reader) {
        List<Ask> asks = of(criterion).stream()
                .filter(a -> !answers.getOrDefault(a.label(), "").isBlank())
                .toList();
        Optional<Field> field = reader.register().field(criterion.field());
        if (asks.isEmpty() || field.isEmpty()) {
            return criterion;
        }
        String label = asks.get(0).label();
        try {
            Test test = Verb.of(criterion).test(fill(Operands.of(criterion.test()), field.get(), answers, reader));
            if (!Fit.allows(reader.register(), field.get(), test)) {
                throw new Unfitting(
                        label,
                        "This answer to “" + label + "” does not fit "
                                + field.get().label() + ".");
            }
            return new Condition.Criterion(criterion.field(), test, criterion.negated());
        } catch (StatementError | IllegalArgumentException e) {
            throw new Unfitting(label, "The answer to “" + label + "” cannot be read: " + e.getMessage());
        }
    }

    private static Operands fill(Operands given, Field field, Map<String, String> answers, Reader reader) {
        return switch (given) {
            case Operands.One _, Operands.Several _ -> given.with(value -> fill(value, field, answers, reader));
            case Operands.TwoNumbers(Operand low, Operand high) ->
                new Operands.TwoNumbers(fill(low, field, answers, reader), fill(high, field, answers, reader));
            case Operands.Window(Period period) -> new Operands.Window(fill(period, answers));
            case Operands.TwoWindows(Period from, Period to) ->
                new Operands.TwoWindows(fill(from, answers), fill(to, answers));
            case Operands.Distance(Period away) -> new Operands.Distance(fill(away, answers));
            case Operands.Piece(Operand text, boolean exactly) ->
                new Operands.Piece(fill(text, answers, Asks::text), exactly);
            case Operands.Clock(Operand at) -> new Operands.Clock(fill(at, answers, Asks::time));
            case Operands.TwoClocks(Operand from, Operand to) ->
                new Operands.TwoClocks(fill(from, answers, Asks::time), fill(to, answers, Asks::time));
            case Operands.ClocksOnDays(Operand from, Operand to, Period days) ->
                new Operands.ClocksOnDays(
                        fill(from, answers, Asks::time), fill(to, answers, Asks::time), fill(days, answers));
            case Operands.Bands(List<Operand> names) ->
                new Operands.Bands(names.stream()
                        .map(b -> fill(b, answers, name -> band(field, name)))
                        .toList());
            case Operands.Others(String register, Condition where) ->
                new Operands.Others(
                        register,
                        reader.elsewhere()
                                .of(field.key(), register)
                                .map(place -> fill(where, answers, reader.at(place)))
                                .orElse(where));
            case Operands.Nothing _, Operands.CalendarNumbers _, Operands.Pattern _, Operands.OtherField _ -> given;
        };
    }

    /** What is looked for is looked for as it is typed; whoever puts it in quotes need not know better. */
    private static Operand text(String typed) {
        boolean quoted = typed.length() > 1 && typed.startsWith("\"") && typed.endsWith("\"");
        return new Operand.Text(quoted ? Reader.unquoted(typed) : typed);
    }

    private static Operand time(String typed) {
        return new Operand.Time(Reader.clock(typed));
    }

    private static Operand band(Field field, String typed) {
        String name = ((Operand.Text) text(typed)).value();
        return field.band(name)
                .<Operand>map(band -> new Operand.Text(band.name()))
                .orElseThrow(() -> new IllegalArgumentException(
                        field.label() + " has no band “" + Source.shortened(name) + "”. Its bands are "
                                + field.bands().stream()
                                        .flatMap(Band::tree)
                                        .map(Band::name)
                                        .collect(Collectors.joining(", "))
                                + "."));
    }

    private static Operand fill(Operand value, Field field, Map<String, String> answers, Reader reader) {
        return fill(value, answers, text -> reader.answer(field, text));
    }

    private static Operand fill(Operand value, Map<String, String> answers, Function<String, Operand> read) {
        return value instanceof Operand.Ask(String label, Optional<Operand> preset)
                ? answer(label, answers).map(read).orElse(value)
                : value;
    }

    private static Period fill(Period period, Map<String, String> answers) {
        return switch (period) {
            case Period.Asked(String label, Optional<Period> preset) ->
                answer(label, answers).map(Reader::period).orElse(period);
            case Period.AskedCount asked ->
                answer(asked.label(), answers)
                        .map(text -> asked.with(count(text)))
                        .orElse(period);
            case Period.Range(Period from, Period to) -> new Period.Range(fill(from, answers), fill(to, answers));
            default -> period;
        };
    }

    private static Optional<String> answer(String label, Map<String, String> answers) {
        return Optional.ofNullable(answers.get(label)).map(String::strip).filter(a -> !a.isEmpty());
    }

    private static int count(String text) {
        int count = PeriodReader.small(text);
        if (count < 0) {
            throw new IllegalArgumentException("“" + Source.shortened(text) + "” is no whole number.");
        }
        return count;
    }
}
