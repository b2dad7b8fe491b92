package deftlens.core.interchange;

import static deftlens.core.interchange.Cql2Expression.op;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Operands;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Patterns;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** Writes conditions as CQL2 expressions. */
final class Cql2Writer {

    private final Binder binder;
    private final Set<String> notes = new LinkedHashSet<>();

    Cql2Writer(Binder binder) {
        this.binder = binder;
    }

    List<String> notes() {
        return List.copyOf(notes);
    }

    Cql2Expression write(Condition condition) {
        return write(condition.normal(), "", false);
    }

    private Cql2Expression write(Condition condition, String path, boolean negated) {
        return switch (condition) {
            case Condition.Off off ->
                throw new Cql2.NotCarried(
                        path,
                        "CQL2 knows no part that is switched off: " + Printer.print(off)
                                + ". Take it out, or switch it on, first.");
            case Condition.All(List<Condition> parts) ->
                parts.isEmpty() ? new Cql2Expression.Truth(true, "") : group("and", parts, path + "/all/", negated);
            case Condition.Any(List<Condition> parts) -> group("or", parts, path + "/any/", negated);
            case Condition.None(List<Condition> parts) -> op("not", group("or", parts, path + "/none/", !negated));
            case Condition.Criterion criterion -> criterion(criterion, path, negated);
        };
    }

    private Cql2Expression group(String word, List<Condition> parts, String path, boolean negated) {
        List<Cql2Expression> written = new ArrayList<>();
        for (int i = 0; i < parts.size(); i++) {
            written.add(write(parts.get(i), path + i, negated));
        }
        return written.size() == 1 ? written.get(0) : op(word, written);
    }

    private Cql2Expression criterion(Condition.Criterion criterion, String path, boolean negated) {
        note(criterion);
        try {
            if (criterion.test() instanceof Test.SpannedDaily) {
                // Day by day it could be said, in thousands of words that nobody reads, our own reader included.
                throw new Unsaid("it has no hours of the local day");
            }
            return bound(binder.bind(criterion), negated);
        } catch (Unsaid unsaid) {
            throw new Cql2.NotCarried(
                    path, "CQL2 has no word for “" + Printer.criterion(criterion) + "”: " + unsaid.getMessage() + ".");
        }
    }

    /** A leaf without a counterpart. */
    private static final class Unsaid extends RuntimeException {
        Unsaid(String what) {
            super(what, null, false, false);
        }
    }

    private void note(Condition.Criterion criterion) {
        Operands operands = Operands.of(criterion.test());
        boolean rolls = operands.periods().stream().anyMatch(p -> p.isRolling() || p.isAsked());
        if (rolls) {
            Wording.stands(criterion, binder.register(), binder.reading())
                    .ifPresent(
                            stands -> notes.add("“" + Printer.criterion(criterion) + "” is written as it stands now: "
                                    + stands.words() + " (" + binder.reading().zone() + ")."));
        }
        for (Operand operand : operands.values()) {
            if (operand instanceof Operand.Viewer viewer) {
                List<String> own = binder.viewer().values(viewer.attribute());
                notes.add("“" + viewer.words() + "” is written as "
                        + (own.isEmpty()
                                ? "nobody's, for you have no such attribute"
                                : "yours: " + String.join(", ", own))
                        + ".");
            }
        }
    }

    /** @param negated whether an odd number of opposites stands around it, so that NULL must come out as false here */
    private Cql2Expression bound(Bound bound, boolean negated) {
        return switch (bound) {
            case Bound.Constant(boolean holds) -> new Cql2Expression.Truth(holds, "");
            case Bound.Every(List<Bound> parts) -> all("and", parts, negated);
            case Bound.Some(List<Bound> parts) -> all("or", parts, negated);
            case Bound.Not(Bound part) -> op("not", bound(part, !negated));
            case Bound.IsEmpty(Field field) -> empty(field);
            case Bound.Leaf leaf -> negated ? op("and", leaf(leaf), present(leaf)) : leaf(leaf);
        };
    }

    private Cql2Expression all(String word, List<Bound> parts, boolean negated) {
        List<Cql2Expression> written =
                parts.stream().map(p -> bound(p, negated)).toList();
        return written.size() == 1 ? written.get(0) : op(word, written);
    }

    private static Cql2Expression empty(Field field) {
        Cql2Expression isNull = op("isNull", property(field));
        return switch (field.type()) {
            case TEXT -> op("or", isNull, op("=", property(field), new Cql2Expression.Text("", "")));
            case TAGS -> op("or", isNull, op("a_equals", property(field), new Cql2Expression.Array(List.of(), "")));
            default -> isNull;
        };
    }

    /** That the fields of a leaf have a value at all. */
    private static Cql2Expression present(Bound.Leaf leaf) {
        return leaf instanceof Bound.FieldComparison beside
                ? op("and", some(beside.field()), some(beside.other()))
                : some(leaf.field());
    }

    private static Cql2Expression some(Field field) {
        return op("not", op("isNull", property(field)));
    }

    private static Cql2Expression.Property property(Field field) {
        return new Cql2Expression.Property(field.key(), "");
    }

    private Cql2Expression leaf(Bound.Leaf leaf) {
        return switch (leaf) {
            case Bound.IsEmpty(Field field) -> empty(field);
            case Bound.OneOf(Field field, Set<String> values, boolean fold) -> {
                Cql2Expression subject = fold ? op("casei", property(field)) : property(field);
                List<Cql2Expression> texts = values.stream()
                        .<Cql2Expression>map(v -> fold ? op("casei", text(v)) : text(v))
                        .toList();
                yield texts.size() == 1
                        ? op("=", subject, texts.get(0))
                        : op("in", subject, new Cql2Expression.Array(texts, ""));
            }
            case Bound.Finds finds -> like(finds);
            case Bound.Numbers(Field field, var values) when field.type() == FieldType.DURATION -> throw noDurations();
            case Bound.NumberRange range when range.field().type() == FieldType.DURATION -> throw noDurations();
            case Bound.Numbers(Field field, List<BigDecimal> values) ->
                values.size() == 1
                        ? op("=", property(field), number(values.get(0)))
                        : op(
                                "in",
                                property(field),
                                new Cql2Expression.Array(
                                        values.stream()
                                                .<Cql2Expression>map(Cql2Writer::number)
                                                .toList(),
                                        ""));
            case Bound.NumberRange(Field field, var low, boolean lowIn, var high, boolean highIn) ->
                low.isPresent() && high.isPresent() && lowIn && highIn
                        ? op("between", property(field), number(low.get()), number(high.get()))
                        : range(field, low.map(Cql2Writer::number), lowIn, high.map(Cql2Writer::number), highIn);
            case Bound.Truth(Field field, boolean value) ->
                op("=", property(field), new Cql2Expression.Truth(value, ""));
            case Bound.Tags(Field field, boolean all, Set<String> tags) ->
                op(
                        all ? "a_contains" : "a_overlaps",
                        property(field),
                        new Cql2Expression.Array(
                                tags.stream()
                                        .<Cql2Expression>map(Cql2Writer::text)
                                        .toList(),
                                ""));
            case Bound.DayRange(Field field, var from, var to) ->
                range(field, from.map(Cql2Writer::date), true, to.map(Cql2Writer::date), false);
            case Bound.InstantRange(Field field, var from, boolean fromIn, var to, boolean toIn) ->
                range(field, from.map(Cql2Writer::timestamp), fromIn, to.map(Cql2Writer::timestamp), toIn);
            case Bound.FieldComparison beside -> beside(beside);
            case Bound.TimeRange t -> throw new Unsaid("it has no times of day without a date");
            case Bound.ClockRange t -> throw new Unsaid("it has no hours of the local day");
            case Bound.LocalPart t -> throw new Unsaid("it has no weekdays, months or days of the month");
            case Bound.LocalDays t -> throw new Unsaid("it has no working calendar");
            case Bound.Matches t -> throw new Unsaid("it has no regular expressions");
            case Bound.Related t -> throw new Unsaid("it does not ask about records of another register");
        };
    }

    private static Unsaid noDurations() {
        return new Unsaid("it has no durations");
    }

    private static Cql2Expression beside(Bound.FieldComparison beside) {
        if (beside.offset().isPresent()) {
            throw new Unsaid("it adds nothing to fields");
        }
        if (beside.field().type() != beside.other().type()) {
            throw new Unsaid("it compares no date with the local day of a date and time");
        }
        String sign = switch (beside.relation()) {
            case IS, EQUAL, ON -> "=";
            case MORE, AFTER -> ">";
            case AT_LEAST, FROM -> ">=";
            case LESS, BEFORE -> "<";
            case AT_MOST, UP_TO -> "<=";
        };
        Cql2Expression one = property(beside.field());
        Cql2Expression other = property(beside.other());
        Cql2Expression compared = beside.fold() ? op(sign, op("casei", one), op("casei", other)) : op(sign, one, other);
        return beside.field().type() == FieldType.TEXT ? op("and", compared, op("<>", one, text(""))) : compared;
    }

    private static Cql2Expression range(
            Field field,
            Optional<? extends Cql2Expression> low,
            boolean lowIn,
            Optional<? extends Cql2Expression> high,
            boolean highIn) {
        List<Cql2Expression> ends = new ArrayList<>();
        low.ifPresent(v -> ends.add(op(lowIn ? ">=" : ">", property(field), v)));
        high.ifPresent(v -> ends.add(op(highIn ? "<=" : "<", property(field), v)));
        return switch (ends.size()) {
            case 0 -> some(field);
            case 1 -> ends.get(0);
            default -> op("and", ends);
        };
    }

    private static Cql2Expression like(Bound.Finds finds) {
        // CQL2's wildcards and escape are those of SQL.
        String pattern = Patterns.sql(finds.search(), finds.text());
        Cql2Expression subject = property(finds.field());
        Cql2Expression like = finds.fold()
                ? op("like", op("casei", subject), op("casei", text(pattern)))
                : op("like", subject, text(pattern));
        return Patterns.takesEmpty(finds.search(), finds.text()) ? op("and", like, op("<>", subject, text(""))) : like;
    }

    private static Cql2Expression.Text text(String value) {
        return new Cql2Expression.Text(value, "");
    }

    private static Cql2Expression.Number number(BigDecimal value) {
        return new Cql2Expression.Number(value, "");
    }

    private static Cql2Expression.Date date(LocalDate value) {
        return new Cql2Expression.Date(value, "");
    }

    private static Cql2Expression.Timestamp timestamp(Instant value) {
        return new Cql2Expression.Timestamp(value, "");
    }
}
