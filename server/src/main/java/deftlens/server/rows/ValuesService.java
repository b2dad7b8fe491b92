package deftlens.server.rows;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Where;
import deftlens.core.statement.Pasted;
import deftlens.core.statement.Printer;
import deftlens.server.platform.Problem;
import deftlens.server.question.Orders;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Selections;
import deftlens.server.question.ShownValue;
import deftlens.server.values.ValueType;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.annotation.JsonSerialize;

/** The values that a field has: how many records each of them, and which of a list none. */
@Service
public class ValuesService {

    private static final int MOST_VALUES = 500;

    private final QueryRunner runner;
    private final Selections selections;
    private final Questions questions;
    private final KeptCounts kept;

    ValuesService(QueryRunner runner, Selections selections, Questions questions, KeptCounts kept) {
        this.runner = runner;
        this.selections = selections;
        this.questions = questions;
        this.kept = kept;
    }

    /** One value of a field with the number of records that have it; no value for the empty ones. */
    public record ValueCount(
            @JsonSerialize(contentUsing = ShownValue.class) Optional<Object> value,
            Optional<String> label,
            long count) {}

    /** The most frequent values of a field. */
    public record Values(List<ValueCount> values, boolean more) {}

    /**
     * The values of a field among the matching records, the most frequent first.
     *
     * @param beside whether what the question asks of this very field is left out
     * @param search a piece of text that the values hold; only texts and choices are searched
     */
    @Transactional(readOnly = true)
    public Values values(Question asked, Field field, boolean beside, Optional<String> search, int limit) {
        Question question = beside ? unasked(asked, field) : asked;
        if (limit < 1 || limit > MOST_VALUES) {
            throw Problem.badRequest("bad-limit", "“limit” runs from 1 to " + MOST_VALUES + ".");
        }
        Optional<Bound> held = search.filter(s -> !s.isBlank())
                .filter(s -> field.type() == FieldType.TEXT || field.type() == FieldType.CHOICE)
                .map(s -> new Bound.Finds(field, Test.Search.CONTAINS, LetterCase.fold(s.strip()), true));
        Optional<List<KeptCounts.Kept>> known = held.isPresent() ? Optional.empty() : kept.values(question, field);
        if (known.isPresent()) {
            return values(known.get(), field, limit);
        }
        Bound wide = beside ? selections.without(question, field) : questions.bind(question);
        Sql sql = Page.values(
                selections.scope(question),
                Where.of(held.<Bound>map(h -> new Bound.Every(List.of(wide, h))).orElse(wide)),
                field,
                limit + 1);
        // Of tags each is counted by itself, as a text.
        ValueType type = ValueType.of(field.type() == FieldType.TAGS ? FieldType.TEXT : field.type());
        List<ValueCount> values = runner.list(question, sql, row -> {
            Optional<Object> value = Optional.ofNullable(type.read(row, 1));
            return new ValueCount(
                    value,
                    value.filter(v -> field.type().isListed())
                            .flatMap(v -> field.option(v.toString()))
                            .map(o -> o.label()),
                    row.getLong(2));
        });
        boolean more = values.size() > limit;
        return new Values(more ? values.subList(0, limit) : values, more);
    }

    private static Values values(List<KeptCounts.Kept> known, Field field, int limit) {
        List<ValueCount> values = known.stream()
                .sorted(Comparator.comparingLong(KeptCounts.Kept::records)
                        .reversed()
                        .thenComparing(k -> k.value().orElse("\uffff")))
                .limit(limit)
                .map(k -> new ValueCount(
                        k.value().map(ValueType.of(field)::parse),
                        k.value()
                                .filter(v -> field.type().isListed())
                                .flatMap(field::option)
                                .map(o -> o.label()),
                        k.records()))
                .toList();
        return new Values(values, known.size() > limit);
    }

    /**
     * A pasted list.
     *
     * @param values what it holds, each once, in its order
     * @param repeated how many stood there more than once
     * @param missing the values that no record has
     * @param statement the criterion that asks for the values that some record has, in the language
     */
    public record PastedList(List<String> values, int repeated, List<String> missing, Optional<String> statement) {}

    /** What a pasted list holds, and which of it no record has. */
    @Transactional(readOnly = true)
    public PastedList pasted(Question question, Field field, String text) {
        Pasted pasted = Pasted.split(text);
        if (pasted.values().isEmpty()) {
            throw Problem.unprocessable("nothing-pasted", "There are no values in this text.");
        }
        if (pasted.values().size() > Test.MAX_VALUES) {
            throw Problem.unprocessable(
                    "too-many-values",
                    "A list holds at most " + Test.MAX_VALUES + " values; this one has "
                            + pasted.values().size() + ".");
        }
        List<Operand> operands = new ArrayList<>();
        for (String value : pasted.values()) {
            operands.add(operand(field, value));
        }
        List<Operand> missing = missing(question, field, operands, false, runner.patience());
        Set<Operand> gone = new HashSet<>(missing);
        List<Operand> there = operands.stream().filter(o -> !gone.contains(o)).toList();
        return new PastedList(
                pasted.values(),
                pasted.repeated(),
                missing.stream().map(ValuesService::written).toList(),
                there.isEmpty()
                        ? Optional.empty()
                        : Optional.of(
                                Printer.criterion(Condition.Criterion.of(field.key(), new Test.In(there, false)))));
    }

    private static Operand operand(Field field, String value) {
        try {
            return ValueType.of(field)
                    .pasted(field, value)
                    .orElseThrow(
                            () -> Problem.unprocessable(
                                    "no-list",
                                    field.label() + " is a " + field.type().words()
                                            + " field; lists are looked for in texts, numbers, durations, choices and people."));
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable("bad-value", "“" + value + "” is nothing that " + field.label() + " can hold.");
        }
    }

    /** The values of a list that no record has which the person may see; within a time of its own. */
    @Transactional(readOnly = true)
    public List<Operand> missing(
            Question question, Field field, List<Operand> values, boolean exactly, Duration within) {
        Map<String, Operand> byText = new LinkedHashMap<>();
        boolean fold = field.type() == FieldType.TEXT && !exactly;
        for (Operand value : values) {
            byText.putIfAbsent(fold ? LetterCase.fold(Orders.plain(value)) : Orders.plain(value), value);
        }
        return runner.list(
                question,
                Page.missing(selections.scope(question), new Order.Listed(field, List.copyOf(byText.keySet()), fold)),
                within,
                row -> byText.get(row.getString(1)));
    }

    /** A value as it is written in a list. */
    private static String written(Operand value) {
        return value instanceof Operand.Text(String text) ? text : Printer.operand(value);
    }

    /** The question without its condition where that asks of one field only; what is kept counted may then answer. */
    private static Question unasked(Question question, Field field) {
        boolean only =
                question.condition().criteria().stream().allMatch(c -> c.field().equals(field.key()));
        return only ? question.asking(Condition.EVERYTHING) : question;
    }
}
