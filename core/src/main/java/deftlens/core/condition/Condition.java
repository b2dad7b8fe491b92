package deftlens.core.condition;

import deftlens.core.time.Period;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;

/**
 * What a view asks of its records: a tree of criteria in groups. Immutable. Every record is in a condition or in its
 * opposite; there is no third outcome.
 *
 * <p>A part that is switched off, and a group in which nothing is switched on, ask nothing: they leave their group as if
 * they were not there. A condition in which nothing is asked holds for every record.
 */
public sealed interface Condition {

    /** The condition of a view without criteria: every record. */
    Condition EVERYTHING = new All(List.of());

    /** The deepest nesting that is read, stored or evaluated. */
    int MAX_DEPTH = 50;

    /** The most criteria that are read, stored or evaluated, those switched off included. */
    int MAX_CRITERIA = 1_000;

    /** Every part holds. */
    record All(List<Condition> parts) implements Condition {
        public All {
            parts = List.copyOf(parts);
        }
    }

    /** At least one part holds. */
    record Any(List<Condition> parts) implements Condition {
        public Any {
            parts = List.copyOf(parts);
        }
    }

    /** No part holds. */
    record None(List<Condition> parts) implements Condition {
        public None {
            parts = List.copyOf(parts);
        }
    }

    /** A part that is kept in its place and asks nothing. */
    record Off(Condition part) implements Condition {
        public Off {
            Objects.requireNonNull(part);
        }
    }

    /**
     * One test of one field.
     *
     * @param field the field's key
     * @param test what is asked
     * @param negated whether the exact opposite is asked, where the language has a spelling for it
     */
    record Criterion(String field, Test test, boolean negated) implements Condition {
        public Criterion {
            Objects.requireNonNull(field);
            if (negated && !test.hasOpposite()) {
                throw new IllegalArgumentException("this test has no opposite of its own; use a none-of group");
            }
        }

        /** A test as it stands. */
        public static Criterion of(String field, Test test) {
            return new Criterion(field, test, false);
        }

        /** Whether it is about a field, or holds another one against it. */
        public boolean names(String key) {
            return field.equals(key)
                    || test instanceof Test.FieldComparison against
                            && against.other().equals(key);
        }

        /** The keys of the fields that it is about: its own and one that it holds against that. */
        public List<String> fields() {
            return test instanceof Test.FieldComparison against ? List.of(field, against.other()) : List.of(field);
        }

        /** The same test of fields of other keys. */
        private Criterion over(UnaryOperator<String> keys) {
            Test asked = test instanceof Test.FieldComparison(var relation, String other, var offset, boolean exactly)
                    ? new Test.FieldComparison(relation, keys.apply(other), offset, exactly)
                    : test;
            return new Criterion(keys.apply(field), asked, negated);
        }

        /** The exact opposite of a test. */
        public static Criterion not(String field, Test test) {
            return new Criterion(field, test, true);
        }
    }

    /** The parts one level below; none for a criterion. */
    default List<Condition> children() {
        return switch (this) {
            case All(List<Condition> parts) -> parts;
            case Any(List<Condition> parts) -> parts;
            case None(List<Condition> parts) -> parts;
            case Off(Condition part) -> List.of(part);
            case Criterion c -> List.of();
        };
    }

    /** All criteria of the tree, left to right, those switched off included. */
    default List<Criterion> criteria() {
        List<Criterion> found = new ArrayList<>();
        collect(this, found);
        return List.copyOf(found);
    }

    /** All criteria of the tree and of the conditions that some of them put to other records. */
    default List<Criterion> criteriaEverywhere() {
        return criteria().stream()
                .flatMap(c -> c.test() instanceof Test.Related(String register, Condition where)
                        ? Stream.concat(Stream.of(c), where.criteriaEverywhere().stream())
                        : Stream.of(c))
                .toList();
    }

    /** The criteria that it puts to the records of a register, at whatever depth, in conditions of their own. */
    default List<Criterion> criteriaPutTo(String register) {
        return criteria().stream()
                .flatMap(c -> c.test() instanceof Test.Related(String other, Condition where)
                        ? Stream.concat(
                                other.equals(register) ? where.criteria().stream() : Stream.empty(),
                                where.criteriaPutTo(register).stream())
                        : Stream.empty())
                .toList();
    }

    /** Whether it holds a blank that the reader fills in. */
    default boolean asks() {
        return operands()
                .anyMatch(o -> o.all().stream().anyMatch(Operand.Ask.class::isInstance)
                        || o.periods().stream().anyMatch(Period::isAsked));
    }

    /** Whether it holds a value of whoever reads: {@code me}, {@code my site}. */
    default boolean isPersonal() {
        return operands().flatMap(o -> o.all().stream()).anyMatch(Operand.Viewer.class::isInstance);
    }

    /** Whether one of its date phrases moves with the day it is read on. */
    default boolean isRolling() {
        return operands().flatMap(o -> o.periods().stream()).anyMatch(Period::isRolling);
    }

    private Stream<Operands> operands() {
        return criteriaEverywhere().stream().map(c -> Operands.of(c.test()));
    }

    /** The same tree with each criterion changed in its place. */
    default Condition with(UnaryOperator<Criterion> change) {
        return switch (this) {
            case All(List<Condition> parts) -> new All(with(parts, change));
            case Any(List<Condition> parts) -> new Any(with(parts, change));
            case None(List<Condition> parts) -> new None(with(parts, change));
            case Off(Condition part) -> new Off(part.with(change));
            case Criterion criterion -> change.apply(criterion);
        };
    }

    /** The same tree, with what it puts to the records of a register changed wherever it does, inside of what it puts to others, too. */
    default Condition withAsked(String register, UnaryOperator<Condition> change) {
        return with(c -> {
            if (!(c.test() instanceof Test.Related(String other, Condition where))) {
                return c;
            }
            Condition inside = where.withAsked(register, change);
            return new Criterion(
                    c.field(),
                    new Test.Related(other, other.equals(register) ? change.apply(inside) : inside),
                    c.negated());
        });
    }

    /** The same question of fields of other keys. */
    default Condition renamed(UnaryOperator<String> keys) {
        return with(criterion -> criterion.over(keys));
    }

    private static List<Condition> with(List<Condition> parts, UnaryOperator<Criterion> change) {
        return parts.stream().map(part -> part.with(change)).toList();
    }

    /** The levels of the tree: 1 for a criterion alone, one more for each level of what it puts to other records. */
    default int depth() {
        Stream<Condition> below =
                this instanceof Criterion(String field, Test.Related(String register, Condition where), boolean negated)
                        ? Stream.of(where)
                        : children().stream();
        return 1 + below.mapToInt(Condition::depth).max().orElse(0);
    }

    /**
     * The same question in its one printed form: groups of one and groups inside a group of the same kind are dissolved,
     * empty groups dropped, {@code none of (any of …)} drawn together, {@code off} not doubled. Printing and reading back
     * gives the normal form exactly.
     */
    default Condition normal() {
        return normalised(this).orElse(EVERYTHING);
    }

    private static Optional<Condition> normalised(Condition condition) {
        return switch (condition) {
            case Criterion c -> Optional.of(c);
            case Off(Condition part) -> normalised(part).map(p -> p instanceof Off ? p : new Off(p));
            case All(List<Condition> parts) -> {
                List<Condition> flat = new ArrayList<>();
                for (Condition part : parts) {
                    normalised(part).ifPresent(p -> {
                        if (p instanceof All(List<Condition> inner)) {
                            flat.addAll(inner);
                        } else {
                            flat.add(p);
                        }
                    });
                }
                yield flat.isEmpty() ? Optional.empty() : Optional.of(flat.size() == 1 ? flat.get(0) : new All(flat));
            }
            case Any(List<Condition> parts) -> {
                List<Condition> flat = alternatives(parts);
                yield flat.isEmpty() ? Optional.empty() : Optional.of(flat.size() == 1 ? flat.get(0) : new Any(flat));
            }
            case None(List<Condition> parts) -> {
                List<Condition> flat = alternatives(parts);
                yield flat.isEmpty() ? Optional.empty() : Optional.of(new None(flat));
            }
        };
    }

    private static List<Condition> alternatives(List<Condition> parts) {
        List<Condition> flat = new ArrayList<>();
        for (Condition part : parts) {
            normalised(part).ifPresent(p -> {
                if (p instanceof Any(List<Condition> inner)) {
                    flat.addAll(inner);
                } else {
                    flat.add(p);
                }
            });
        }
        return flat;
    }

    private static void collect(Condition condition, List<Criterion> into) {
        if (condition instanceof Criterion criterion) {
            into.add(criterion);
        }
        condition.children().forEach(child -> collect(child, into));
    }
}
