package deftlens.server.question;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Relaxed;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.sql.ChangeStage;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.sql.RowSlice;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Where;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** What of the records a question selects, as SQL: those that its person may see, and of these the ones that it asks for. */
@Component
public class Selections {

    private final RecordScopes scopes;
    private final Questions questions;

    Selections(RecordScopes scopes, Questions questions) {
        this.scopes = scopes;
        this.questions = questions;
    }

    /**
     * Records of a question, or a part of them.
     *
     * @param scope what they are read over
     * @param where what they satisfy there
     */
    public record Selected(Scope scope, Sql where) {}

    /** The records of a question; of a part of them where its shape has one. */
    public Selected selected(Question question) {
        return selected(question, question);
    }

    /** The same for a page or a file of records in the question's order, which leaves out by itself what is not in a list that it follows. */
    public Selected ordered(Question question) {
        return selected(question, unlisted(question));
    }

    /** @param untaken the question where no part of its records is taken */
    private Selected selected(Question question, Question untaken) {
        Optional<RowSlice> slice = question.shape().taken();
        if (slice.isEmpty()) {
            return new Selected(scope(question), where(untaken));
        }
        Sql whole = where(unlisted(question.anywhere()));
        return new Selected(
                Page.taken(scope(question), whole, question.order(), slice.get()), Where.of(every(question.inside())));
    }

    /** The records that the person may see, whether or not they match the condition; those of the groups, where it is inside some. */
    public Selected visible(Question question) {
        return new Selected(scope(question), Where.of(every(question.besides())));
    }

    /** The records that the person may see. */
    public Scope scope(Question question) {
        return scopes.scope(question.registerForReader(), question.who(), question.reading(), question.recordsAt());
    }

    /** What of the records that a change of many would write would be in a question afterwards. */
    public Selected supposed(Question question, ChangeStage change) {
        return new Selected(
                scopes.supposed(question.registerForReader(), question.who(), question.reading(), change),
                where(question));
    }

    /**
     * Which records of a question are those that the others share a value with: what is asked of records of its own register, by criteria
     * that every record has to satisfy. Nothing where there is no such criterion, or the records are a part or follow a list.
     */
    public Optional<Sql> origins(Question question) {
        if (question.shape().taken().isPresent() || question.order().listed().isPresent()) {
            return Optional.empty();
        }
        List<Condition> parts = question.condition() instanceof Condition.All(List<Condition> all)
                ? all
                : List.of(question.condition());
        List<Condition> origins = parts.stream()
                .flatMap(part -> part
                                        instanceof
                                        Condition.Criterion(
                                                String field,
                                                Test.Related(String register, Condition where),
                                                boolean negated)
                                && !negated
                                && register.equals(question.register().key())
                                && !where.equals(Condition.EVERYTHING)
                        ? Stream.of(where)
                        : Stream.empty())
                .toList();
        return origins.isEmpty()
                ? Optional.empty()
                : Optional.of(Where.of(questions.bindAlone(question, new Condition.Any(origins).normal())));
    }

    /** What is asked of them. */
    public Sql where(Question question) {
        return Where.of(questions.bind(question));
    }

    /** What is asked of them, but for what is asked of one field. */
    public Bound without(Question question, Field field) {
        return Relaxed.without(questions.bindPlain(question), Set.of(field.key()));
    }

    /** All of these; true where there are none. */
    private static Bound every(List<Bound> bounds) {
        return bounds.isEmpty() ? new Bound.Constant(true) : new Bound.Every(bounds);
    }

    /**
     * The question without the criterion whose list the order follows, where every record has to satisfy it: the order
     * leaves out what is not listed, and the database need not look at thousands of values twice.
     */
    private static Question unlisted(Question question) {
        Order order = question.order();
        if (order.listed().isEmpty()) {
            return question;
        }
        String key = order.listed().get().field().key();
        Optional<Condition.Criterion> followed = question.condition().criteria().stream()
                .filter(c -> isList(c, key))
                .findFirst();
        Condition left = switch (question.condition()) {
            case Condition.Criterion criterion
            when followed.filter(criterion::equals).isPresent() -> Condition.EVERYTHING;
            case Condition.All(List<Condition> parts)
            when followed.filter(parts::contains).isPresent() -> {
                List<Condition> others = new ArrayList<>(parts);
                others.remove(followed.get());
                yield new Condition.All(others).normal();
            }
            default -> question.condition();
        };
        return question.asking(left);
    }

    private static boolean isList(Condition.Criterion criterion, String key) {
        return criterion.field().equals(key) && !criterion.negated() && criterion.test() instanceof Test.In;
    }
}
