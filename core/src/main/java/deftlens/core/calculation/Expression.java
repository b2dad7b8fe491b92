package deftlens.core.calculation;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.time.Unit;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.UnaryOperator;

/**
 * How a calculated field comes to its value. A tree whose types fit: one that does not cannot be made. Immutable.
 *
 * <p>Arithmetic is decimal and exact, but for a quotient ({@link Operator#PLACES}). What is empty makes what it is part of
 * empty, and so does a division by zero. Dates count from the year 1 to 9999; one beyond is empty, and so is what PostgreSQL
 * calls infinite or not a number.
 */
public sealed interface Expression {

    /** The most parts that are read. */
    int MAX_PARTS = 300;

    /** The years that a date is moved by at most, in whichever unit it is written. */
    int MAX_YEARS = 10_000;

    /** The seconds of the longest duration that a date is moved by: a little more than {@link #MAX_YEARS} years. */
    long MAX_SECONDS = 316_000_000_000L;

    /** The type of the value. */
    FieldType type();

    /** A number, a text, a duration, yes or no. */
    record Constant(Operand value) implements Expression {
        public Constant {
            type(value);
        }

        @Override
        public FieldType type() {
            return type(value);
        }

        private static FieldType type(Operand value) {
            return switch (value) {
                case Operand.Number number -> FieldType.NUMBER;
                case Operand.Text text -> FieldType.TEXT;
                case Operand.Duration duration -> FieldType.DURATION;
                case Operand.YesNo yes -> FieldType.YES_NO;
                case Operand.Time time -> FieldType.TIME;
                case Operand.Viewer viewer ->
                    throw new IllegalArgumentException("A calculation is the same for every reader.");
                case Operand.Ask ask -> throw new IllegalArgumentException("A calculation asks nobody for a value.");
            };
        }
    }

    /** A day that is written out. */
    record Day(LocalDate day) implements Expression {
        public Day {
            if (day.getYear() < 1 || day.getYear() > 9_999) {
                throw new IllegalArgumentException("Dates count from the year 1 to 9999.");
            }
        }

        @Override
        public FieldType type() {
            return FieldType.DATE;
        }
    }

    /** The moment of reading. */
    record Now() implements Expression {
        @Override
        public FieldType type() {
            return FieldType.MOMENT;
        }
    }

    /** The local day of the moment of reading. */
    record Today() implements Expression {
        @Override
        public FieldType type() {
            return FieldType.DATE;
        }
    }

    /** The value of a field of the same record. */
    record Value(Field field) implements Expression {
        public Value {
            if (field.type() == FieldType.SPAN || field.type() == FieldType.TAGS) {
                throw new IllegalArgumentException(field.label() + " is a "
                        + field.type().words() + " field: it has no one value to calculate with."
                        + (field.type() == FieldType.SPAN ? " Name its start or its end." : ""));
            }
        }

        @Override
        public FieldType type() {
            return field.type();
        }
    }

    /** Two values with a sign between them. */
    record Arithmetic(Operator operator, Expression left, Expression right) implements Expression {
        public Arithmetic {
            operator.result(left.type(), right.type());
        }

        @Override
        public FieldType type() {
            return operator.result(left.type(), right.type());
        }
    }

    /**
     * A date or moment moved by whole days, weeks, months, quarters or years that are written out, by the local calendar: a month
     * clamps to its last day. Hours and minutes are a duration that is added.
     *
     * @param count how many units later; earlier where it is less than zero
     */
    record Moved(Expression date, int count, Unit unit) implements Expression {
        public Moved {
            if (!date.type().isTemporal()) {
                throw new IllegalArgumentException(unit.plural() + " are added to dates, and this is a "
                        + date.type().words() + ".");
            }
            int years = switch (unit) {
                case DAY -> Math.abs(count) / 366;
                case WEEK -> Math.abs(count) / 53;
                case MONTH -> Math.abs(count) / 12;
                case QUARTER -> Math.abs(count) / 4;
                case YEAR -> Math.abs(count);
                case MINUTE, HOUR, WORKING_DAY, HALF, FISCAL_QUARTER, FISCAL_YEAR ->
                    throw new IllegalArgumentException("Dates are not moved by " + unit.plural()
                            + ". Write days, weeks, months, quarters or years.");
            };
            if (years > MAX_YEARS) {
                throw new IllegalArgumentException("A date is moved by " + MAX_YEARS + " years at most.");
            }
        }

        @Override
        public FieldType type() {
            return date.type();
        }
    }

    /** A function of several values. */
    record Call(Function function, List<Expression> arguments) implements Expression {
        public Call {
            arguments = List.copyOf(arguments);
            function.result(arguments);
        }

        @Override
        public FieldType type() {
            return function.result(arguments);
        }
    }

    /**
     * The value of the first branch whose condition holds. Where all values are texts that are written out, the result is one of
     * a known list.
     *
     * @param otherwise the value where none holds; empty without one
     */
    record When(List<Branch> branches, Optional<Expression> otherwise) implements Expression {
        public When {
            branches = List.copyOf(branches);
            if (branches.isEmpty()) {
                throw new IllegalArgumentException("It is written when(condition, value, …, otherwise).");
            }
            branches.forEach(b -> requireCalculable(b.condition()));
            type(branches, otherwise);
        }

        @Override
        public FieldType type() {
            return type(branches, otherwise);
        }

        private static FieldType type(List<Branch> branches, Optional<Expression> otherwise) {
            List<Expression> values = values(branches, otherwise);
            return values.stream().allMatch(When::isText)
                    ? FieldType.CHOICE
                    : common(values.stream().map(Expression::type).toList());
        }

        private static boolean isText(Expression value) {
            return value instanceof Constant(Operand.Text text);
        }

        /** The values of all branches, in their order, and the one otherwise. */
        public List<Expression> values() {
            return values(branches, otherwise);
        }

        private static List<Expression> values(List<Branch> branches, Optional<Expression> otherwise) {
            List<Expression> values = new ArrayList<>();
            branches.forEach(b -> values.add(b.value()));
            otherwise.ifPresent(values::add);
            return values;
        }
    }

    /** One branch of a {@link When}. */
    record Branch(Condition condition, Expression value) {
        public Branch {
            Objects.requireNonNull(condition);
            Objects.requireNonNull(value);
        }
    }

    /** Whether a statement holds: yes or no, for every record. */
    record Holds(Condition condition) implements Expression {
        public Holds {
            requireCalculable(condition);
        }

        @Override
        public FieldType type() {
            return FieldType.YES_NO;
        }
    }

    /** The parts one level below, conditions apart. */
    default List<Expression> parts() {
        return switch (this) {
            case Constant c -> List.of();
            case Day d -> List.of();
            case Now n -> List.of();
            case Today t -> List.of();
            case Value v -> List.of();
            case Arithmetic a -> List.of(a.left(), a.right());
            case Moved m -> List.of(m.date());
            case Call c -> c.arguments();
            case When w -> w.values();
            case Holds h -> List.of();
        };
    }

    /** The conditions that stand in it, at any depth. */
    default List<Condition> conditions() {
        List<Condition> found = new ArrayList<>();
        forEach(part -> {
            switch (part) {
                case When w -> w.branches().forEach(b -> found.add(b.condition()));
                case Holds h -> found.add(h.condition());
                case Constant c -> {}
                case Day d -> {}
                case Now n -> {}
                case Today t -> {}
                case Value v -> {}
                case Arithmetic a -> {}
                case Moved m -> {}
                case Call c -> {}
            }
        });
        return List.copyOf(found);
    }

    /** The keys of the fields that it needs, in the order in which they are named. */
    default Set<String> fields() {
        Set<String> keys = new LinkedHashSet<>();
        forEach(part -> {
            if (part instanceof Value(Field field)) {
                keys.add(field.key());
            }
        });
        conditions().stream().flatMap(c -> c.criteria().stream()).forEach(criterion -> keys.addAll(criterion.fields()));
        return keys;
    }

    /** Whether its value changes as time goes by, while the record stays as it is. */
    default boolean isRolling() {
        boolean[] rolling = {false};
        forEach(part -> rolling[0] |= part instanceof Now || part instanceof Today);
        return rolling[0] || conditions().stream().anyMatch(Condition::isRolling);
    }

    /** Whether every record has a value. */
    default boolean isAlways() {
        return switch (this) {
            case Holds h -> true;
            case Constant c -> !(c.value() instanceof Operand.Text(String text) && text.isEmpty());
            case Day d -> true;
            case Now n -> true;
            case Today t -> true;
            // A number that is always there may still be infinite, and a date beyond all years.
            case Value v -> v.field().required() && v.type() == FieldType.YES_NO;
            case Arithmetic a -> false;
            case Moved m -> false;
            case Call c ->
                c.function() == Function.FIRST_OF && c.arguments().stream().anyMatch(Expression::isAlways);
            case When w -> w.otherwise().isPresent() && w.values().stream().allMatch(Expression::isAlways);
        };
    }

    /** The values that are known to come out, in their order; none where they are not known. */
    default List<Option> options() {
        Set<Option> known = new LinkedHashSet<>();
        switch (this) {
            case Value v -> known.addAll(v.field().options());
            case When w
            when w.type() == FieldType.CHOICE ->
                w.values().forEach(value -> {
                    if (value instanceof Constant(Operand.Text(String text)) && !text.isEmpty()) {
                        known.add(Option.of(text));
                    } else {
                        known.addAll(value.options());
                    }
                });
            case When w -> w.values().forEach(value -> known.addAll(value.options()));
            case Call c
            when c.function() == Function.FIRST_OF -> c.arguments().forEach(value -> known.addAll(value.options()));
            case Call c -> {}
            case Constant c -> {}
            case Day d -> {}
            case Now n -> {}
            case Today t -> {}
            case Arithmetic a -> {}
            case Moved m -> {}
            case Holds h -> {}
        }
        return type().isListed() ? List.copyOf(known) : List.of();
    }

    /** The same with each of its conditions changed in its place. */
    default Expression with(UnaryOperator<Condition> change) {
        return with(change, UnaryOperator.identity());
    }

    /** The same over other fields, each in the place of the one of a key. */
    default Expression over(Map<String, Field> others) {
        return with(
                condition -> condition.renamed(
                        key -> others.containsKey(key) ? others.get(key).key() : key),
                field -> others.getOrDefault(field.key(), field));
    }

    private Expression with(UnaryOperator<Condition> change, UnaryOperator<Field> fields) {
        return switch (this) {
            case Value(Field field) -> new Value(fields.apply(field));
            case Arithmetic(Operator operator, Expression left, Expression right) ->
                new Arithmetic(operator, left.with(change, fields), right.with(change, fields));
            case Moved(Expression date, int count, Unit unit) -> new Moved(date.with(change, fields), count, unit);
            case Call(Function function, List<Expression> arguments) ->
                new Call(
                        function,
                        arguments.stream().map(a -> a.with(change, fields)).toList());
            case When(List<Branch> branches, Optional<Expression> otherwise) ->
                new When(
                        branches.stream()
                                .map(b -> new Branch(
                                        change.apply(b.condition()), b.value().with(change, fields)))
                                .toList(),
                        otherwise.map(o -> o.with(change, fields)));
            case Holds(Condition condition) -> new Holds(change.apply(condition));
            case Constant _, Day _, Now _, Today _ -> this;
        };
    }

    /** Visits this and every part below it. */
    default void forEach(Consumer<Expression> visit) {
        visit.accept(this);
        parts().forEach(part -> part.forEach(visit));
    }

    /**
     * The one type that stands for all of these.
     *
     * @throws IllegalArgumentException with a sentence, when there is none
     */
    static FieldType common(List<FieldType> types) {
        FieldType common = types.get(0);
        for (FieldType type : types) {
            if (type == common) {
                continue;
            }
            if (type.countsAs(common)) {
                common = FieldType.MONEY;
            } else if (isWritten(type) && isWritten(common)) {
                common = FieldType.TEXT;
            } else {
                throw new IllegalArgumentException("These values are of different kinds: a " + common.words()
                        + " and a " + type.words() + ". All have to be of one.");
            }
        }
        return common;
    }

    private static boolean isWritten(FieldType type) {
        return type == FieldType.TEXT || type.isListed();
    }

    private static void requireCalculable(Condition condition) {
        if (condition.asks()) {
            throw new IllegalArgumentException("A calculation asks nobody for a value: a blank cannot stand in it.");
        }
        if (condition.isPersonal()) {
            throw new IllegalArgumentException(
                    "A calculation is the same for every reader: “me” and “my …” cannot stand in it.");
        }
    }
}
