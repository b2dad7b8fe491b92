package deftlens.server.rows;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Parts;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.sql.Edges;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Where;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Wording;
import deftlens.core.time.DurationText;
import deftlens.server.platform.Problem;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.ResultRow;
import deftlens.server.question.RowValues;
import deftlens.server.question.Selections;
import deftlens.server.question.ShownValue;
import deftlens.server.values.ValueType;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.annotation.JsonSerialize;

/**
 * The records nearest to the boundaries of a question: of those that a criterion decides about, the last ones in and the first
 * ones out.
 */
@Service
public class EdgesService {

    private static final int EACH = 3;
    private static final int MOST_BOUNDARIES = 24;

    private final QueryRunner runner;
    private final Selections selections;
    private final Questions questions;

    EdgesService(QueryRunner runner, Selections selections, Questions questions) {
        this.runner = runner;
        this.selections = selections;
        this.questions = questions;
    }

    /**
     * The boundaries of one criterion. One on a calculated field that stands for a statement has those of that statement, each field's by
     * themselves.
     *
     * @param path the criterion, a JSON Pointer in the condition
     * @param field the key of the field that is compared; of a span, the span's
     * @param statement the criterion in the language
     * @param boundaries its boundaries, in order
     * @param empties the newest records whose field is empty, of those that the criterion decides about
     */
    public record Edge(
            String path, String field, String label, String statement, List<Boundary> boundaries, Near empties) {}

    /**
     * One boundary of what the answer has of the records that the criterion decides about.
     *
     * @param at the day, instant, time or number at which it lies
     * @param words the boundary in words
     * @param begins whether the answer lies above it
     * @param belongs whether a record exactly at it is in the answer
     * @param inside the records nearest to it on the answer's side, the nearest first; for numbers, the nearest values
     * @param outside the same on the other side
     */
    public record Boundary(Object at, String words, boolean begins, boolean belongs, Near inside, Near outside) {}

    /** Records, or for numbers the values with the number of records that have them, nearest first. */
    public record Near(List<NearRow> rows, List<NearValue> values) {}

    /**
     * A record near a boundary.
     *
     * @param value its value of the field
     * @param matches whether it is in the whole question
     */
    public record NearRow(
            ResultRow record,
            @JsonSerialize(using = ShownValue.class) Object value,
            boolean matches) {}

    /**
     * A value near a boundary, and how many of the records that the criterion decides about have it.
     *
     * @param matches whether they are in the whole question
     */
    public record NearValue(
            @JsonSerialize(using = ShownValue.class) Object value, long count, boolean matches) {}

    /** The edges of every criterion that has boundaries and is switched on. */
    @Transactional(readOnly = true)
    public List<Edge> edges(Question question) {
        Register register = question.register();
        // What does not fit is refused with its sentence.
        questions.bindAlone(question, question.condition());
        Binder binder = questions.binder(question);
        Bound whole = binder.bind(question.condition());
        Map<Parts.Part, List<List<Edges.Boundary>>> boundaries = new LinkedHashMap<>();
        int left = MOST_BOUNDARIES;
        for (Parts.Part part : Parts.of(question.condition())) {
            if (part.part() instanceof Condition.Criterion criterion) {
                boolean turned =
                        Parts.decided(question.condition(), part.path()).turned();
                List<Edges.Boundary> own = Edges.of(binder.bind(criterion)).stream()
                        .map(b -> turned ? b.turned() : b)
                        .toList();
                left -= own.size();
                if (left < 0) {
                    throw Problem.unprocessable(
                            "too-many-boundaries",
                            "Edges are shown for at most " + MOST_BOUNDARIES
                                    + " boundaries; switch some criteria off.");
                }
                if (!own.isEmpty()) {
                    boundaries.put(part, byField(own, binder.meaning(criterion).isPresent()));
                }
            }
        }
        List<Edge> edges = new ArrayList<>();
        boundaries.forEach((part, ofFields) -> ofFields.forEach(own -> edges.add(edge(
                question,
                part.path(),
                (Condition.Criterion) part.part(),
                binder.meaning((Condition.Criterion) part.part())
                        .map(m -> own.get(0).field()),
                own,
                Where.of(binder.bind(
                        Parts.decided(question.condition(), part.path()).condition())),
                Where.of(whole)))));
        return edges;
    }

    /** Boundaries of several fields one field after the other; a span's, which are of its two ends, stay together. */
    private static List<List<Edges.Boundary>> byField(List<Edges.Boundary> boundaries, boolean apart) {
        return apart
                ? List.copyOf(boundaries.stream()
                        .collect(Collectors.groupingBy(b -> b.field().key(), LinkedHashMap::new, Collectors.toList()))
                        .values())
                : List.of(boundaries);
    }

    private Edge edge(
            Question question,
            String path,
            Condition.Criterion criterion,
            Optional<Field> seen,
            List<Edges.Boundary> boundaries,
            Sql decided,
            Sql whole) {
        Register register = question.register();
        Field field = seen.orElseGet(() -> register.field(criterion.field()).orElseThrow());
        List<Boundary> found = new ArrayList<>();
        for (Edges.Boundary boundary : boundaries) {
            found.add(new Boundary(
                    boundary.at(),
                    words(boundary, question.reading().zone()),
                    boundary.begins(),
                    boundary.belongs(),
                    near(question, boundary, true, decided, whole),
                    near(question, boundary, false, decided, whole)));
        }
        Field held = boundaries.get(0).field();
        boolean canBeEmpty = !held.required();
        List<Field> columns = columns(question, held);
        return new Edge(
                path,
                field.key(),
                field.label(),
                Printer.criterion(criterion),
                found,
                canBeEmpty
                        ? new Near(
                                records(
                                        question,
                                        Edges.empties(selections.scope(question), decided, whole, held, columns, EACH),
                                        held,
                                        columns),
                                List.of())
                        : new Near(List.of(), List.of()));
    }

    private static String words(Edges.Boundary boundary, ZoneId zone) {
        return switch (boundary.at()) {
            case LocalDate day -> Wording.moment(day.atStartOfDay(zone).toInstant(), zone);
            case Instant instant -> Wording.moment(instant, zone);
            case BigDecimal seconds when boundary.field().type() == FieldType.DURATION -> DurationText.words(seconds);
            default -> boundary.at().toString();
        };
    }

    private Near near(Question question, Edges.Boundary boundary, boolean inside, Sql decided, Sql whole) {
        Register register = question.register();
        if (boundary.field().type().isNumeric()) {
            ValueType type = ValueType.of(boundary.field());
            return new Near(
                    List.of(),
                    runner.list(
                            question,
                            Edges.values(selections.scope(question), decided, whole, boundary, inside, EACH),
                            row -> new NearValue(type.read(row, 1), row.getLong(2), row.getBoolean(3))));
        }
        List<Field> columns = columns(question, boundary.field());
        return new Near(
                records(
                        question,
                        Edges.nearest(selections.scope(question), decided, whole, boundary, inside, columns, EACH),
                        boundary.field(),
                        columns),
                List.of());
    }

    /** What names a record to people: its required texts. */
    private static List<Field> columns(Question question, Field held) {
        Set<Field> columns = new LinkedHashSet<>();
        question.register().stored().stream()
                .filter(f -> f.type() == FieldType.TEXT && f.required())
                .limit(2)
                .forEach(columns::add);
        columns.add(question.registerForReader().title());
        columns.add(held);
        return List.copyOf(columns);
    }

    private List<NearRow> records(Question question, Sql sql, Field held, List<Field> columns) {
        RowValues.Columns shown = new RowValues.Columns(columns);
        ValueType type = ValueType.of(held);
        return runner.list(
                question,
                sql,
                row -> new NearRow(
                        new ResultRow(row.getLong(1), shown.read(row, 4)), type.read(row, 3), row.getBoolean(2)));
    }
}
