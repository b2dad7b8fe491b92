package deftlens.core.interchange;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Fit;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Reads CQL2 expressions as conditions over a register. */
final class Cql2Reader {

    private static final Map<String, String> TURNED =
            Map.of("=", "=", "<>", "<>", "<", ">", "<=", ">=", ">", "<", ">=", "<=");

    private final Register register;
    private final Reading reading;
    private final Set<String> notes = new LinkedHashSet<>();

    Cql2Reader(Register register, Reading reading) {
        this.register = register;
        this.reading = reading;
    }

    Cql2.Read read(Cql2Expression expression) {
        Condition condition = condition(expression).normal();
        if (condition.depth() > Condition.MAX_DEPTH) {
            throw new Cql2.NotCarried("", "The filter is nested more than " + Condition.MAX_DEPTH + " deep.");
        }
        if (condition.criteria().size() > Condition.MAX_CRITERIA) {
            throw new Cql2.NotCarried("", "The filter has more than " + Condition.MAX_CRITERIA + " criteria.");
        }
        return new Cql2.Read(condition, List.copyOf(notes));
    }

    private Condition condition(Cql2Expression expression) {
        return switch (expression) {
            case Cql2Expression.Truth(boolean value, String where) -> value ? Condition.EVERYTHING : nothing(where);
            case Cql2Expression.Op(String name, List<Cql2Expression> arguments, String where) ->
                op(name, arguments, where);
            default ->
                throw new Cql2.NotCarried(
                        expression.where(), "A condition should stand here: a comparison, IS NULL, AND, OR, NOT, …");
        };
    }

    /** FALSE: the opposite of something that every record is in. */
    private Condition nothing(String where) {
        Field field = register.stored().stream()
                .findFirst()
                .orElseThrow(() -> new Cql2.NotCarried(where, "FALSE cannot be said of a register without fields."));
        Condition empty = Condition.Criterion.of(field.key(), new Test.Empty());
        return new Condition.All(List.of(empty, Condition.Criterion.not(field.key(), new Test.Empty())));
    }

    private Condition op(String name, List<Cql2Expression> arguments, String where) {
        return switch (name) {
            case "and" -> new Condition.All(all(arguments));
            case "or" -> {
                List<Condition> parts = all(arguments);
                // TRUE among alternatives lets everything in.
                yield parts.stream().anyMatch(Condition.EVERYTHING::equals)
                        ? Condition.EVERYTHING
                        : new Condition.Any(parts);
            }
            case "not" -> {
                require(arguments, 1, name, where);
                Condition inner = condition(arguments.get(0));
                yield inner.normal().equals(Condition.EVERYTHING) ? nothing(where) : opposite(inner);
            }
            case "=", "<>", "<", "<=", ">", ">=" -> comparison(name, arguments, where);
            case "between" -> between(arguments, where);
            case "in" -> in(arguments, where);
            case "like" -> like(arguments, where);
            case "isNull" -> {
                require(arguments, 1, name, where);
                yield Condition.Criterion.of(field(arguments.get(0)).key(), new Test.Empty());
            }
            case "a_overlaps", "a_contains", "a_equals" -> tags(name, arguments, where);
            default -> {
                if (name.startsWith("t_")) {
                    yield temporal(name, arguments, where);
                }
                throw new Cql2.NotCarried(
                        where,
                        name.startsWith("s_")
                                ? name.toUpperCase(java.util.Locale.ROOT)
                                        + " compares places, and records here have none."
                                : "“" + name + "” is not carried.");
            }
        };
    }

    private static Condition opposite(Condition inner) {
        return inner instanceof Condition.Criterion(String field, Test test, boolean negated) && test.hasOpposite()
                ? new Condition.Criterion(field, test, !negated)
                : new Condition.None(List.of(inner));
    }

    private List<Condition> all(List<Cql2Expression> arguments) {
        return arguments.stream().map(this::condition).toList();
    }

    private static void require(List<Cql2Expression> arguments, int count, String name, String where) {
        if (arguments.size() != count) {
            throw new Cql2.NotCarried(
                    where, "“" + name + "” takes " + count + " arguments, not " + arguments.size() + ".");
        }
    }

    /** A property that is a field, with or without CASEI around it. */
    private record Subject(Field field, boolean caseIgnored) {}

    private Optional<Subject> subject(Cql2Expression expression) {
        return switch (expression) {
            case Cql2Expression.Property p -> Optional.of(new Subject(field(p), false));
            case Cql2Expression.Op(String name, var arguments, String where)
            when name.equals("casei")
                    && arguments.size() == 1
                    && arguments.get(0) instanceof Cql2Expression.Property p ->
                Optional.of(new Subject(field(p), true));
            default -> Optional.empty();
        };
    }

    private Field field(Cql2Expression expression) {
        if (expression instanceof Cql2Expression.Property(String name, String where)) {
            return register.named(name)
                    .filter(f -> f.type().isStored())
                    .orElseThrow(() -> new Cql2.NotCarried(
                            where, "“" + name + "” is no field of " + register.label() + " that a filter can name."));
        }
        throw refuse(expression, "A field should stand here");
    }

    private static Cql2.NotCarried refuse(Cql2Expression expression, String expected) {
        return new Cql2.NotCarried(
                expression.where(),
                expression instanceof Cql2Expression.Op(String name, var a, String w)
                        ? "“" + name + "” is not carried here. " + expected + "."
                        : expected + ".");
    }

    private static Cql2Expression uncased(Cql2Expression expression) {
        return expression instanceof Cql2Expression.Op(String name, var arguments, String where)
                        && name.equals("casei")
                        && arguments.size() == 1
                ? arguments.get(0)
                : expression;
    }

    private Condition comparison(String sign, List<Cql2Expression> arguments, String where) {
        require(arguments, 2, sign, where);
        Optional<Subject> left = subject(arguments.get(0));
        Optional<Subject> right = subject(arguments.get(1));
        if (left.isEmpty() && right.isEmpty()) {
            throw refuse(arguments.get(0), "One side of “" + sign + "” is a field");
        }
        if (left.isEmpty()) {
            return comparison(TURNED.get(sign), List.of(arguments.get(1), arguments.get(0)), where);
        }
        if (right.isPresent()) {
            return beside(sign, left.get(), right.get(), where);
        }
        Field field = left.get().field();
        Cql2Expression value = uncased(arguments.get(1));
        if (field.type().isTemporal()) {
            return dated(sign, field, value);
        }
        Test equal = new Test.Is(operand(left.get(), value), exactly(left.get()));
        return switch (sign) {
            case "=" -> fitting(field, equal, where);
            case "<>" -> other(field, equal, where);
            default -> {
                if (!field.type().isNumeric()) {
                    throw new Cql2.NotCarried(
                            where, "“" + sign + "” is carried for numbers and dates, not for " + field.label() + ".");
                }
                yield fitting(field, new Test.Compare(order(sign), operand(left.get(), value)), where);
            }
        };
    }

    private static boolean exactly(Subject subject) {
        return subject.field().type() == FieldType.TEXT && !subject.caseIgnored();
    }

    private static Test.Order order(String sign) {
        return switch (sign) {
            case ">" -> Test.Order.MORE;
            case ">=" -> Test.Order.AT_LEAST;
            case "<" -> Test.Order.LESS;
            default -> Test.Order.AT_MOST;
        };
    }

    /** Not equal in CQL2 is false on an empty field. */
    private Condition other(Field field, Test equal, String where) {
        fitting(field, equal, where);
        Condition differs = Condition.Criterion.not(field.key(), equal);
        return field.required() && field.type() != FieldType.TEXT
                ? differs
                : new Condition.All(List.of(differs, Condition.Criterion.not(field.key(), new Test.Empty())));
    }

    private Condition fitting(Field field, Test test, String where) {
        if (!Fit.allows(register, field, test)) {
            throw new Cql2.NotCarried(
                    where,
                    "This comparison does not fit " + field.label() + ", a "
                            + field.type().words() + " field.");
        }
        return Condition.Criterion.of(field.key(), test);
    }

    private Operand operand(Subject subject, Cql2Expression value) {
        Field field = subject.field();
        try {
            return switch (field.type()) {
                case TEXT, CHOICE, PERSON, TAGS -> {
                    if (value instanceof Cql2Expression.Text(String text, String where)) {
                        yield new Operand.Text(
                                field.type() == FieldType.TEXT || !subject.caseIgnored()
                                        ? text
                                        : field.option(text).map(o -> o.value()).orElse(text));
                    }
                    throw refuse(value, field.label() + " is compared with a text");
                }
                case NUMBER, MONEY -> {
                    if (value instanceof Cql2Expression.Number(BigDecimal number, String where)) {
                        yield new Operand.Number(number);
                    }
                    throw refuse(value, field.label() + " is compared with a number");
                }
                case DURATION -> throw refuse(value, field.label() + " is a duration, and CQL2 has no durations");
                case YES_NO -> {
                    if (value instanceof Cql2Expression.Truth(boolean yes, String where)) {
                        yield new Operand.YesNo(yes);
                    }
                    throw refuse(value, field.label() + " is compared with TRUE or FALSE");
                }
                case DATE, MOMENT, TIME, SPAN ->
                    throw refuse(
                            value, field.label() + " is a " + field.type().words() + " field and takes no such value");
            };
        } catch (IllegalArgumentException e) {
            throw new Cql2.NotCarried(value.where(), "This value cannot be carried: " + e.getMessage() + ".");
        }
    }

    private Condition beside(String sign, Subject left, Subject right, String where) {
        Field field = left.field();
        boolean temporal = field.type().isTemporal() || field.type() == FieldType.TIME;
        boolean numeric = field.type().isNumeric();
        boolean exactly = field.type() == FieldType.TEXT && !(left.caseIgnored() && right.caseIgnored());
        String other = right.field().key();
        if (temporal && (sign.equals("=") || sign.equals("<>"))) {
            Condition same = new Condition.All(List.of(
                    against(field, Test.Relation.FROM, other, false, where),
                    against(field, Test.Relation.UP_TO, other, false, where)));
            return sign.equals("=")
                    ? same
                    : new Condition.All(List.of(
                            new Condition.None(List.of(same)),
                            Condition.Criterion.not(field.key(), new Test.Empty()),
                            Condition.Criterion.not(other, new Test.Empty())));
        }
        if (sign.equals("<>")) {
            Test equal = new Test.FieldComparison(
                    numeric ? Test.Relation.EQUAL : Test.Relation.IS, other, Optional.empty(), exactly);
            return new Condition.All(
                    List.of(other(field, equal, where), Condition.Criterion.not(other, new Test.Empty())));
        }
        Test.Relation relation = switch (sign) {
            case "=" -> numeric ? Test.Relation.EQUAL : Test.Relation.IS;
            case ">" -> temporal ? Test.Relation.AFTER : Test.Relation.MORE;
            case ">=" -> temporal ? Test.Relation.FROM : Test.Relation.AT_LEAST;
            case "<" -> temporal ? Test.Relation.BEFORE : Test.Relation.LESS;
            default -> temporal ? Test.Relation.UP_TO : Test.Relation.AT_MOST;
        };
        return against(field, relation, other, exactly, where);
    }

    private Condition against(Field field, Test.Relation relation, String other, boolean exactly, String where) {
        return fitting(field, new Test.FieldComparison(relation, other, Optional.empty(), exactly), where);
    }

    /** A date or moment held against a literal. */
    private Condition dated(String sign, Field field, Cql2Expression value) {
        Period period = period(field, value);
        String key = field.key();
        Test in = new Test.Dated(Test.DateRelation.IN, period);
        return switch (sign) {
            case "<" -> Condition.Criterion.of(key, new Test.Dated(Test.DateRelation.BEFORE, period));
            case "<=" -> Condition.Criterion.of(key, new Test.Dated(Test.DateRelation.UP_TO, period));
            case ">" -> Condition.Criterion.of(key, new Test.Dated(Test.DateRelation.AFTER, period));
            case ">=" -> Condition.Criterion.of(key, new Test.Dated(Test.DateRelation.FROM, period));
            case "=" -> period.isMoment() ? at(key, period) : Condition.Criterion.of(key, in);
            default ->
                new Condition.All(List.of(
                        period.isMoment()
                                ? new Condition.None(List.of(at(key, period)))
                                : Condition.Criterion.not(key, in),
                        Condition.Criterion.not(key, new Test.Empty())));
        };
    }

    private static Condition at(String key, Period moment) {
        return new Condition.All(List.of(
                Condition.Criterion.of(key, new Test.Dated(Test.DateRelation.FROM, moment)),
                Condition.Criterion.of(key, new Test.Dated(Test.DateRelation.UP_TO, moment))));
    }

    private Period period(Field field, Cql2Expression value) {
        return switch (value) {
            case Cql2Expression.Date(LocalDate day, String where) -> {
                if (field.type() == FieldType.MOMENT) {
                    notes.add("The date " + day + " is taken as that whole day in " + reading.zone() + " for "
                            + field.label() + ".");
                }
                yield new Period.Day(day);
            }
            case Cql2Expression.Timestamp(Instant instant, String where) -> {
                if (field.type() == FieldType.DATE) {
                    throw new Cql2.NotCarried(
                            where, field.label() + " is a day without a time of day; compare it with a DATE.");
                }
                LocalDateTime local = LocalDateTime.ofInstant(instant, reading.zone());
                if (local.getYear() < 1 || local.getYear() > 9999) {
                    throw new Cql2.NotCarried(where, "The instant " + instant + " is beyond the years 1 to 9999.");
                }
                yield Period.Moment.of(instant, reading.zone());
            }
            default -> throw refuse(value, field.label() + " is compared with a DATE or a TIMESTAMP");
        };
    }

    private Condition between(List<Cql2Expression> arguments, String where) {
        require(arguments, 3, "between", where);
        Field field = field(arguments.get(0));
        if (field.type().isTemporal()) {
            return new Condition.All(
                    List.of(dated(">=", field, arguments.get(1)), dated("<=", field, arguments.get(2))));
        }
        Subject subject = new Subject(field, false);
        return fitting(
                field, new Test.Between(operand(subject, arguments.get(1)), operand(subject, arguments.get(2))), where);
    }

    private Condition in(List<Cql2Expression> arguments, String where) {
        require(arguments, 2, "in", where);
        Subject subject =
                subject(arguments.get(0)).orElseThrow(() -> refuse(arguments.get(0), "IN begins with a field"));
        if (!(arguments.get(1) instanceof Cql2Expression.Array(List<Cql2Expression> items, String at))
                || items.isEmpty()) {
            throw refuse(arguments.get(1), "IN takes a list of at least one value");
        }
        if (subject.field().type().isTemporal()) {
            return new Condition.Any(
                    items.stream().map(v -> dated("=", subject.field(), v)).toList());
        }
        List<Operand> values = new ArrayList<>();
        items.forEach(v -> values.add(operand(subject, uncased(v))));
        try {
            return fitting(subject.field(), new Test.In(values, exactly(subject)), where);
        } catch (IllegalArgumentException e) {
            throw new Cql2.NotCarried(where, "This list cannot be carried: " + e.getMessage() + ".");
        }
    }

    private Condition like(List<Cql2Expression> arguments, String where) {
        require(arguments, 2, "like", where);
        Subject subject =
                subject(arguments.get(0)).orElseThrow(() -> refuse(arguments.get(0), "LIKE begins with a field"));
        if (!(uncased(arguments.get(1)) instanceof Cql2Expression.Text(String pattern, String at))) {
            throw refuse(arguments.get(1), "LIKE takes a pattern in single quotes");
        }
        if (pattern.isEmpty()) {
            return fitting(subject.field(), new Test.Is(new Operand.Text(""), exactly(subject)), where);
        }
        try {
            return fitting(subject.field(), new Test.Find(Test.Search.LIKE, ours(pattern), exactly(subject)), where);
        } catch (IllegalArgumentException e) {
            throw new Cql2.NotCarried(where, "This pattern cannot be carried: " + e.getMessage() + ".");
        }
    }

    /** {@code %}, {@code _} and {@code \} as our {@code *}, {@code ?} and {@code \}. */
    private static String ours(String pattern) {
        StringBuilder ours = new StringBuilder();
        for (int i = 0; i < pattern.length(); i++) {
            char c = pattern.charAt(i);
            switch (c) {
                case '%' -> ours.append('*');
                case '_' -> ours.append('?');
                case '\\' -> ours.append(literal(i + 1 < pattern.length() ? pattern.charAt(++i) : '\\'));
                default -> ours.append(literal(c));
            }
        }
        return ours.toString();
    }

    private static String literal(char c) {
        return c == '*' || c == '?' || c == '\\' ? "\\" + c : String.valueOf(c);
    }

    private Condition tags(String name, List<Cql2Expression> arguments, String where) {
        require(arguments, 2, name, where);
        Field field = field(arguments.get(0));
        if (field.type() != FieldType.TAGS
                || !(arguments.get(1) instanceof Cql2Expression.Array(List<Cql2Expression> items, String at))) {
            throw refuse(arguments.get(1), "“" + name + "” takes a tags field and a list of texts");
        }
        if (name.equals("a_equals")) {
            if (!items.isEmpty()) {
                throw new Cql2.NotCarried(where, "A_EQUALS is carried for the empty list alone.");
            }
            return Condition.Criterion.of(field.key(), new Test.Empty());
        }
        List<Operand> values =
                items.stream().map(v -> operand(new Subject(field, false), v)).toList();
        try {
            return fitting(field, new Test.Tagged(name.equals("a_contains"), values), where);
        } catch (IllegalArgumentException e) {
            throw new Cql2.NotCarried(where, "This list cannot be carried: " + e.getMessage() + ".");
        }
    }

    /** The temporal operators that say something of a single date or instant. */
    private Condition temporal(String name, List<Cql2Expression> arguments, String where) {
        require(arguments, 2, name, where);
        Field field = field(arguments.get(0));
        if (!field.type().isTemporal()) {
            throw refuse(arguments.get(0), "“" + name + "” begins with a date, or date and time field");
        }
        Optional<Cql2Expression> from;
        Optional<Cql2Expression> to;
        if (arguments.get(1) instanceof Cql2Expression.Interval(var start, var end, String at)) {
            from = start;
            to = end;
        } else {
            from = Optional.of(arguments.get(1));
            to = from;
        }
        return switch (name) {
            case "t_before" -> from.map(v -> dated("<", field, v)).orElseGet(() -> nothing(where));
            case "t_after" -> to.map(v -> dated(">", field, v)).orElseGet(() -> nothing(where));
            case "t_equals" -> {
                if (arguments.get(1) instanceof Cql2Expression.Interval) {
                    throw new Cql2.NotCarried(where, "A single date or time never equals an interval.");
                }
                yield dated("=", field, arguments.get(1));
            }
            case "t_during" -> within(field, ">", from, "<", to);
            case "t_intersects" -> within(field, ">=", from, "<=", to);
            case "t_disjoint" ->
                new Condition.All(List.of(
                        new Condition.None(List.of(within(field, ">=", from, "<=", to))),
                        Condition.Criterion.not(field.key(), new Test.Empty())));
            default ->
                throw new Cql2.NotCarried(
                        where,
                        name.toUpperCase(java.util.Locale.ROOT)
                                + " compares two intervals; a single date or time is not one, and it is not carried.");
        };
    }

    private Condition within(
            Field field, String low, Optional<Cql2Expression> from, String high, Optional<Cql2Expression> to) {
        List<Condition> ends = new ArrayList<>();
        from.ifPresent(v -> ends.add(dated(low, field, v)));
        to.ifPresent(v -> ends.add(dated(high, field, v)));
        if (ends.isEmpty()) {
            ends.add(Condition.Criterion.not(field.key(), new Test.Empty()));
        }
        return new Condition.All(ends);
    }
}
