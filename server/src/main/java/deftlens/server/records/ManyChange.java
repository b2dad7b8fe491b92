package deftlens.server.records;

import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.core.change.Assignment;
import deftlens.core.field.Field;
import deftlens.core.time.Unit;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.QuestionRequest;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterForReader;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Pattern;
import jakarta.validation.constraints.Size;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.JsonNodeFactory;

/**
 * A change of many records, as a request asks for it.
 *
 * @param records the numbers of the records that are chosen, which need not match; all that match where it is absent
 * @param except the numbers of those that match and are left as they are; not beside {@code records}
 * @param set what becomes of which field; nothing where the records are deleted
 * @param delete whether the records are deleted
 */
record ManyChange(
        @JsonUnwrapped QuestionRequest question,
        Optional<@Size(min = 1, max = 10_000) List<@Pattern(regexp = "\\d{1,18}") String>> records,
        Optional<@Size(max = 10_000) List<@Pattern(regexp = "\\d{1,18}") String>> except,
        @NotNull @Size(max = 20) @Valid List<ValueChange> set,
        boolean delete) {

    /**
     * What becomes of one field.
     *
     * @param field its key
     * @param value of SET the new value, {@code null} for none; of ADD what is added; of TAG and UNTAG the tag
     * @param count of MOVE, by how many units later, or earlier
     * @param unit of MOVE
     * @param from of TAKE, the key of the field that the value is taken from
     */
    record ValueChange(
            @NotNull String field,
            Assignment.@NotNull Act act,
            Optional<JsonNode> value,
            Optional<Integer> count,
            Optional<Unit> unit,
            Optional<String> from) {}

    /** The numbers of the records that are chosen. */
    Optional<List<Long>> chosen() {
        return records.map(ids -> ids.stream().map(Long::valueOf).toList());
    }

    /** The numbers of those that match and are left as they are. */
    List<Long> left() {
        if (records.isPresent() && except.isPresent()) {
            throw Problem.unprocessable(
                    "bad-value", "Records are chosen one by one, or all but some that match, and not both.");
        }
        return except.orElse(List.of()).stream().map(Long::valueOf).toList();
    }

    /** What becomes of the fields of a register. */
    List<Assignment> assignments(RegisterForReader described) {
        if (delete != set.isEmpty()) {
            throw Problem.unprocessable(
                    "nothing-changed",
                    delete
                            ? "Records are deleted, or fields of them changed, but not both."
                            : "Name at least one field and what becomes of it.");
        }
        List<Assignment> assignments = new ArrayList<>();
        for (ValueChange change : set) {
            Field field = column(described, change.field());
            if (assignments.stream().anyMatch(a -> a.field().equals(field))) {
                throw unfitting(field, field.label() + " stands there twice. Say once what becomes of it.");
            }
            try {
                assignments.add(assignment(described, field, change));
            } catch (IllegalArgumentException e) {
                throw unfitting(field, "That does not do for " + field.label() + ": " + e.getMessage() + ".");
            }
        }
        return assignments;
    }

    private static Assignment assignment(RegisterForReader described, Field field, ValueChange change) {
        return switch (change.act()) {
            case SET -> new Assignment.Set(field, value(described, field, change));
            case ADD -> {
                if (!change.act().fits(field.type())) {
                    throw new IllegalArgumentException(
                            "nothing is added to a " + field.type().label());
                }
                yield new Assignment.Add(field, (BigDecimal) value(described, field, change)
                        .orElseThrow(() -> new IllegalArgumentException("say how much is added")));
            }
            case MOVE ->
                new Assignment.Move(
                        field,
                        change.count().orElseThrow(() -> new IllegalArgumentException("say by how many")),
                        change.unit().orElseThrow(() -> new IllegalArgumentException("say by which unit")));
            case TAG, UNTAG ->
                new Assignment.Tag(field, tag(described, field, change), change.act() == Assignment.Act.TAG);
            case TAKE ->
                new Assignment.Take(
                        field,
                        column(
                                described,
                                change.from().orElseThrow(() -> new IllegalArgumentException("say from which field"))));
        };
    }

    private static Optional<Object> value(RegisterForReader described, Field field, ValueChange change) {
        return RecordValues.read(
                        described,
                        Collections.singletonMap(field.key(), change.value().orElse(null)))
                .get(field);
    }

    private static String tag(RegisterForReader described, Field field, ValueChange change) {
        if (!change.act().fits(field.type())) {
            throw new IllegalArgumentException("it has no tags");
        }
        JsonNode said = change.value()
                .filter(JsonNode::isString)
                .orElseThrow(() -> new IllegalArgumentException("say which tag"));
        Map<String, JsonNode> one =
                Map.of(field.key(), JsonNodeFactory.instance.arrayNode().add(said));
        return (String) ((List<?>) RecordValues.read(described, one)
                        .get(field)
                        .orElseThrow(() -> new IllegalArgumentException("say which tag")))
                .getFirst();
    }

    private static Field column(RegisterForReader described, String key) {
        return RecordTables.columns(described).stream()
                .filter(f -> f.key().equals(key))
                .findFirst()
                .orElseThrow(() -> Problem.unprocessable(
                                "bad-value",
                                described.register().label() + " have no field “" + key + "” that can be written.")
                        .at(key));
    }

    private static Problem unfitting(Field field, String message) {
        return Problem.unprocessable("bad-value", message).at(field.key());
    }

    /** Refuses fields that are not open to correction by somebody. */
    void requireOpen(RegisterForReader described, List<Long> teams, SignedIn who) {
        for (ValueChange change : set) {
            Field field = column(described, change.field());
            if (!who.administers()
                    && !described.notes().get(field.key()).about().isCorrectableBy(teams)) {
                throw Problem.forbidden(field.label() + " is not open to correction. Ask an administrator.");
            }
        }
    }
}
