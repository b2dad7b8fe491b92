package deftlens.server.question;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.sql.Order;
import deftlens.core.time.Reading;
import deftlens.server.people.SignedIn;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RegisterForReader;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * One question over one register, by one person, at one reading, with what is shown of its answer. A list, a number, groups and
 * a file are all answers to one of these.
 *
 * @param registerForReader the register as the person sees it
 * @param recordsAt the moment that the records are read as they stood at; as they are now, where it is absent
 * @param name the name under which the person may stop it
 * @param also what the records satisfy besides: another reading
 * @param inside the groups that they are looked for in; of a part of the records, those of the part
 * @param columns the fields that are shown, each of which has a column
 * @param shape of which the part, the marks, the groups and the running total count here
 */
public record Question(
        RegisterForReader registerForReader,
        Condition condition,
        Reading reading,
        SignedIn who,
        Optional<Instant> recordsAt,
        Optional<String> name,
        List<Bound> also,
        List<Bound> inside,
        Order order,
        List<Field> columns,
        Shape shape) {

    /** The header of a request that gives its question a name, under which it can be stopped. */
    public static final String NAME_HEADER = "X-Question";

    public Question {
        also = List.copyOf(also);
        inside = List.copyOf(inside);
        columns = List.copyOf(columns);
    }

    /** A question whose records are shown as usual, without a name. */
    public static Question of(RegisterForReader register, Condition condition, Reading reading, SignedIn who) {
        return new Question(
                register,
                condition,
                reading,
                who,
                Optional.empty(),
                Optional.empty(),
                List.of(),
                List.of(),
                register.defaultOrder(),
                register.shown(),
                Shape.USUAL);
    }

    /** The register as the core knows it. */
    public Register register() {
        return registerForReader.register();
    }

    /** Whether its numbers may be none ({@code NaN}, infinity), as only tables of others hold them. */
    public boolean mayHoldNoNumbers() {
        return !registerForReader.can(Origin.Capability.GUARDED);
    }

    /** The same question under a name. */
    public Question named(Optional<String> as) {
        return new Question(
                registerForReader, condition, reading, who, recordsAt, as, also, inside, order, columns, shape);
    }

    /** The same question to the records as they stood at a moment. */
    public Question asRecordsStood(Optional<Instant> at) {
        return new Question(registerForReader, condition, reading, who, at, name, also, inside, order, columns, shape);
    }

    /** The same question at another reading. */
    public Question at(Reading other) {
        return new Question(
                registerForReader, condition, other, who, recordsAt, name, also, inside, order, columns, shape);
    }

    /** The same question over its register with more fields in it. */
    public Question over(RegisterForReader with) {
        return new Question(with, condition, reading, who, recordsAt, name, also, inside, order, columns, shape);
    }

    /** Another condition in the place of this one. */
    public Question asking(Condition other) {
        return new Question(
                registerForReader, other, reading, who, recordsAt, name, also, inside, order, columns, shape);
    }

    /** The same question to the records that satisfy something besides. */
    public Question with(Bound more) {
        return new Question(
                registerForReader,
                condition,
                reading,
                who,
                recordsAt,
                name,
                joined(also, more),
                inside,
                order,
                columns,
                shape);
    }

    /** The same question to the records of a group. */
    public Question inside(Bound group) {
        return new Question(
                registerForReader,
                condition,
                reading,
                who,
                recordsAt,
                name,
                also,
                joined(inside, group),
                order,
                columns,
                shape);
    }

    /** The same question to the records of all groups. */
    public Question anywhere() {
        return new Question(
                registerForReader, condition, reading, who, recordsAt, name, also, List.of(), order, columns, shape);
    }

    /** The same records shown in another way. */
    public Question shown(Order by, List<Field> fields, Shape as) {
        return new Question(registerForReader, condition, reading, who, recordsAt, name, also, inside, by, fields, as);
    }

    /** All that the records satisfy beside the condition. */
    public List<Bound> besides() {
        return Stream.concat(also.stream(), inside.stream()).toList();
    }

    private static List<Bound> joined(List<Bound> bounds, Bound more) {
        return Stream.concat(bounds.stream(), Stream.of(more)).toList();
    }
}
