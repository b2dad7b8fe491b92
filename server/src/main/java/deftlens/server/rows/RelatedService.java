package deftlens.server.rows;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.statement.Printer;
import deftlens.server.platform.StoppedQuery;
import deftlens.server.question.ConditionJson;
import deftlens.server.question.Question;
import deftlens.server.question.RelatedRecords;
import deftlens.server.question.ResultRow;
import deftlens.server.registers.RegisterForReader;
import java.math.BigDecimal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;

/** What shares a declared value with one record, or with all of a question, in this register and in others. */
@Service
public class RelatedService {

    /** Records are counted no further than this. */
    static final int MOST_COUNTED = 10_000;

    private static final Duration PATIENCE = Duration.ofSeconds(3);

    private final RelatedRecords related;
    private final RowsService rows;
    private final CountsService counts;

    RelatedService(RelatedRecords related, RowsService rows, CountsService counts) {
        this.related = related;
        this.rows = rows;
        this.counts = counts;
    }

    /**
     * Records that share a value.
     *
     * @param field the key of the field whose values they share
     * @param value the value of the one record; absent for those of many
     * @param register the key of the register that they are in
     * @param label what people call it
     * @param statement what finds them there
     * @param condition the same as a tree
     * @param records how many there are, counted up to 10,000; absent where counting took too long
     * @param exact whether that is all of them
     */
    public record Related(
            String field,
            Optional<String> value,
            String register,
            String label,
            String statement,
            JsonNode condition,
            Optional<Long> records,
            boolean exact) {}

    /**
     * What shares a value with one record; in its own register that record is among them.
     *
     * @param question every record, as it is read
     */
    @Transactional(readOnly = true)
    public List<Related> ofRecord(Question question, long id) {
        ResultRow record = rows.record(question, id);
        List<Related> found = new ArrayList<>();
        for (Field field : question.register().fields()) {
            operand(record.values().get(field.key()))
                    .ifPresent(value -> related.declared(question.registerForReader(), field.key(), question.who())
                            .forEach(there -> found.add(counted(
                                    question,
                                    field,
                                    Optional.of(words(value)),
                                    there.register(),
                                    Condition.Criterion.of(there.field().key(), new Test.Is(value, false))))));
        }
        return found;
    }

    /** What shares a value with any of the records of a question; in its own register these are among them. */
    @Transactional(readOnly = true)
    public List<Related> ofAll(Question question) {
        String own = question.register().key();
        List<Related> found = new ArrayList<>();
        for (Field field : question.register().fields()) {
            related.declared(question.registerForReader(), field.key(), question.who())
                    .forEach(there -> found.add(counted(
                            question,
                            field,
                            Optional.empty(),
                            there.register(),
                            Condition.Criterion.of(there.field().key(), new Test.Related(own, question.condition())))));
        }
        return found;
    }

    private Related counted(
            Question question, Field field, Optional<String> value, RegisterForReader other, Condition condition) {
        Question there = Question.of(other, condition, question.reading(), question.who())
                .asRecordsStood(
                        question.recordsAt().filter(at -> other.pastSince().isPresent()))
                .named(question.name());
        Optional<Long> records = number(there);
        return new Related(
                field.key(),
                value,
                other.key(),
                other.register().label(),
                Printer.print(condition),
                ConditionJson.write(condition),
                records.map(n -> Math.min(n, MOST_COUNTED)),
                records.filter(n -> n <= MOST_COUNTED).isPresent());
    }

    /** Nothing where it took too long: whoever wants to know opens it. */
    private Optional<Long> number(Question there) {
        long began = System.nanoTime();
        try {
            return Optional.of(counts.capped(there, there.condition(), MOST_COUNTED + 1, PATIENCE));
        } catch (RuntimeException e) {
            // Stopped earlier, it was by whoever asked.
            if (StoppedQuery.isBehind(e) && System.nanoTime() - began >= PATIENCE.toNanos() * 9 / 10) {
                return Optional.empty();
            }
            throw e;
        }
    }

    /** What another field is to be for both to share a value; nothing where there is none. */
    private static Optional<Operand> operand(Object value) {
        return switch (value) {
            case String text when !text.isEmpty() -> Optional.of(new Operand.Text(text));
            case BigDecimal number -> Optional.of(new Operand.Number(number));
            case null, default -> Optional.empty();
        };
    }

    private static String words(Operand value) {
        return value instanceof Operand.Text(String text) ? text : Printer.operand(value);
    }
}
