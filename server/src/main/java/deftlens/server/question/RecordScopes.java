package deftlens.server.question;

import deftlens.core.calculation.Calculation;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.sql.Calculations;
import deftlens.core.sql.ChangeStage;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Stood;
import deftlens.core.sql.Where;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.server.changes.ChangeSets;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.CalculatedTwice;
import deftlens.server.registers.Combining;
import deftlens.server.registers.FieldOrigin;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.ValueType;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;

/**
 * Which records a person may see at all. Every query for rows, counts, values and files is made over the scope that is given
 * here; there is no other way to the records' tables.
 */
@Component
public class RecordScopes {

    private static final DateTimeFormatter MOMENT = DateTimeFormatter.ofPattern("d MMM uuuu, HH:mm", Locale.ENGLISH);

    private final RegisterCatalogue registers;
    private final OrganisationService organisation;
    private final PeopleService people;

    RecordScopes(RegisterCatalogue registers, OrganisationService organisation, PeopleService people) {
        this.registers = registers;
        this.organisation = organisation;
        this.people = people;
    }

    /** The records of a register that a person may see, read now. */
    public Scope scope(RegisterForReader described, SignedIn who) {
        return scope(described, who, now(), Optional.empty());
    }

    /**
     * The records of a register that a person may see. Limits hold now and where the organisation is, whatever day and zone the
     * records are read in.
     *
     * @param reading what calculated fields go by
     * @param recordsAt the moment that they are read as they stood at; limits hold over them as they stood
     */
    public Scope scope(RegisterForReader described, SignedIn who, Reading reading, Optional<Instant> recordsAt) {
        return scopeOver(
                described,
                who,
                reading,
                recordsAt.map(
                        at -> (whole, name) -> RecordTables.stood(whole, stood(whole, at, reading.zone()), name)));
    }

    /**
     * The records of a register of our own that a person would see, as a change of many of them would have them; of those that it
     * changes only.
     *
     * @param change whose table is there
     */
    public Scope supposed(RegisterForReader described, SignedIn who, Reading reading, ChangeStage change) {
        return scopeOver(
                described,
                who,
                reading,
                Optional.of((whole, name) -> change.supposed(RecordTables.columns(whole), name)));
    }

    private Scope scopeOver(
            RegisterForReader described, SignedIn who, Reading reading, Optional<RecordTables.Instead> instead) {
        // A limit may be about a field that is itself hidden, and so may be what is calculated from it.
        RegisterForReader whole = registers.whole(described.key()).orElseThrow();
        RegisterForReader asked = withTried(whole, described);
        List<Condition> limits = limits(whole, who);
        Scope limited = present(asked, limits)
                .map(present -> {
                    List<Condition> held = limits.stream().map(present::later).toList();
                    Scope seen = scope(present.described(), held, who, reading, instead);
                    return apart(calculated(seen, present.described(), reading), asked);
                })
                .orElseGet(() -> scope(asked, limits, who, reading, instead));
        Scope all = calculated(limited, asked, reading);
        return new Scope(described.register(), all.from(), all.limit());
    }

    private Scope scope(
            RegisterForReader whole,
            List<Condition> limits,
            SignedIn who,
            Reading reading,
            Optional<RecordTables.Instead> instead) {
        Sql stored = whole.origin() == Origin.COMBINED
                ? combined(whole, who, reading, instead)
                : RecordTables.from(whole, who.id(), instead);
        return new Scope(whole.register(), stored, limit(whole, limits, who));
    }

    private static Stood stood(RegisterForReader whole, Instant at, ZoneId zone) {
        Optional<Instant> since = whole.pastSince();
        if (since.isEmpty()) {
            throw Problem.unprocessable(
                    "no-past",
                    whole.register().label()
                            + ": its records are kept elsewhere, and can only be read as they are now.");
        }
        if (at.isBefore(since.get())) {
            throw Problem.unprocessable(
                            "no-past",
                            whole.register().label() + ": what its records were is known from "
                                    + MOMENT.format(since.get().atZone(zone)) + " on. Choose a later moment.")
                    .with("since", since.get());
        }
        return ChangeSets.stood(whole.id(), at);
    }

    /** The whole register with the fields that a question has beside its own. */
    private static RegisterForReader withTried(RegisterForReader whole, RegisterForReader described) {
        RegisterForReader with = whole;
        for (Field field : described.register().fields()) {
            RegisterForReader.Notes notes = described.notes().get(field.key());
            if (notes.otherwise().isPresent()) {
                with = with.with(field, notes);
            }
        }
        for (Calculation calculation : described.calculations()) {
            if (whole.register().field(calculation.field().key()).isEmpty()) {
                with = with.with(
                        calculation,
                        Printer.print(calculation.expression()),
                        described
                                .notes()
                                .get(calculation.field().key())
                                .calculated()
                                .flatMap(RegisterForReader.Calculated::reading));
            }
        }
        return with;
    }

    private Reading now() {
        return organisation.reading(Optional.empty(), Optional.empty());
    }

    private List<Condition> limits(RegisterForReader whole, SignedIn who) {
        Reader reader = new Reader(whole.register(), people.attributes());
        return registers.limits(whole.register().key(), who).stream()
                .map(limit -> reader.read(limit).normal())
                .toList();
    }

    /** A limit that rests on what cannot be calculated any more opens nothing, however it is put. */
    private Sql limit(RegisterForReader whole, List<Condition> limits, SignedIn who) {
        if (limits.isEmpty()) {
            return Sql.of("true");
        }
        Set<String> lost = whole.uncalculated().stream()
                .flatMap(f -> whole.restingOn(f.key()).stream())
                .collect(Collectors.toSet());
        List<Bound> open = limits.stream()
                .filter(l ->
                        l.criteria().stream().flatMap(c -> c.fields().stream()).noneMatch(lost::contains))
                .map(l -> Questions.bind(new Binder(whole.register(), now(), people.viewer(who)), l))
                .toList();
        return Where.of(open.isEmpty() ? new Bound.Constant(false) : new Bound.Some(open));
    }

    /** The register with its calculated fields as they are now beside those of a question, where limits name some, here or in a member. */
    private Optional<CalculatedTwice> present(RegisterForReader asked, List<Condition> limits) {
        Set<String> named = limits.stream()
                .flatMap(l -> l.criteria().stream())
                .flatMap(c -> c.fields().stream())
                .collect(Collectors.toSet());
        boolean calculated =
                named.stream().anyMatch(key -> asked.notes().get(key).origin() == FieldOrigin.CALCULATED);
        if (named.isEmpty() || !calculated && asked.members().isEmpty()) {
            return Optional.empty();
        }
        CalculatedTwice twice = registers.twice(asked, now());
        return Optional.of(twice).filter(t -> calculated || named.stream().anyMatch(t.later()::containsKey));
    }

    /** The scope with the calculated fields of its register; those that cannot be calculated any more are empty. */
    private static Scope calculated(Scope scope, RegisterForReader whole, Reading reading) {
        List<Field> empty = whole.uncalculated();
        Scope with = scope;
        if (!empty.isEmpty()) {
            Sql from = new Sql().add("(select e.*");
            empty.forEach(f -> from.add(", " + ValueType.of(f).none() + " as " + Sql.identifier(f.column())));
            from.add(" from (select * from ").add(scope.from()).add(") e) as " + name(whole));
            with = new Scope(scope.register(), from, scope.limit());
        }
        with = calculated(with, whole, whole.calculations(Optional.empty()), reading);
        for (Reading other : whole.readings()) {
            with = calculated(with, whole, whole.calculations(Optional.of(other)), other);
        }
        return with;
    }

    private static Scope calculated(
            Scope scope, RegisterForReader whole, List<Calculation> calculations, Reading reading) {
        return calculations.isEmpty()
                ? scope
                : Calculations.with(scope, calculations, new Binder(whole.register(), reading, Viewer.NOBODY));
    }

    /** The records inside a limit as something to read from that has no calculated fields yet, and no limit any more. */
    private static Scope apart(Scope limited, RegisterForReader whole) {
        Sql from = new Sql().add("(select " + Sql.identifier(whole.register().idColumn()));
        whole.register().stored().stream()
                .filter(f -> whole.notes().get(f.key()).origin() != FieldOrigin.CALCULATED)
                .forEach(f -> from.add(", " + Sql.identifier(f.column())));
        from.add(" from ")
                .add(limited.from())
                .add(" where ")
                .add(limited.limit())
                .add(") as " + name(whole));
        return new Scope(limited.register(), from, Sql.of("true"));
    }

    private static String name(RegisterForReader described) {
        return Sql.identifier(described.register().key());
    }

    /** The members' scopes, one under the other, each with the fields that the combined register gives them. */
    private Sql combined(
            RegisterForReader described, SignedIn who, Reading reading, Optional<RecordTables.Instead> instead) {
        List<RegisterForReader.Member> members = described.members();
        Sql union = new Sql();
        int parts = 0;
        for (int i = 0; i < members.size(); i++) {
            Optional<RegisterForReader> member = registers.find(members.get(i).key(), who);
            if (member.isPresent()) {
                union.add(parts++ == 0 ? "" : " union all ")
                        .add(part(described, members.get(i), i, member.get(), who, reading, instead));
            }
        }
        if (parts == 0) {
            union.add(nothing(described));
        }
        return RecordTables.withMarks(described, union, who.id());
    }

    private Sql part(
            RegisterForReader described,
            RegisterForReader.Member place,
            int index,
            RegisterForReader member,
            SignedIn who,
            Reading reading,
            Optional<RecordTables.Instead> instead) {
        Register own = member.register();
        RegisterForReader read = member;
        Map<CalculatedTwice.Otherwise, Map<String, Field>> otherwise = new HashMap<>();
        for (CalculatedTwice.Otherwise how : described.otherwise()) {
            CalculatedTwice twice = how.of(read);
            otherwise.put(how, twice.later());
            read = twice.described();
        }
        Scope scope = scopeOver(read, who, reading, instead);
        int count = described.members().size();
        Sql sql = new Sql()
                .add("select " + Sql.identifier(own.idColumn()) + " * " + count + " + " + index + " as "
                        + Sql.identifier(described.register().idColumn()));
        Map<String, String> mapping = place.mapping();
        for (Field field : unmarked(described)) {
            RegisterForReader.Notes notes = described.notes().get(field.key());
            Optional<Field> source = Optional.ofNullable(mapping.get(notes.source()))
                    .flatMap(own::field)
                    .map(s -> notes.otherwise()
                            .map(how -> otherwise.get(how).getOrDefault(s.key(), s))
                            .orElse(s))
                    // What does not fit any more is empty, and the register says so.
                    .filter(s -> Combining.fits(s.type(), field.type()));
            Sql value = notes.origin() == FieldOrigin.MEMBER
                    ? new Sql().add("cast(").bind(place.label()).add(" as text)")
                    : Sql.of(source.map(s -> cast(s, field))
                            .orElseGet(() -> ValueType.of(field).none()));
            sql.add(", ").add(value).add(" as " + Sql.identifier(field.column()));
        }
        return sql.add(" from ").add(scope.from()).add(" where ").add(scope.limit());
    }

    /** The fields that come from the members. */
    private static List<Field> unmarked(RegisterForReader described) {
        return described.register().stored().stream()
                .filter(f -> switch (described.notes().get(f.key()).origin()) {
                    case COLUMN, MEMBER -> true;
                    case SPAN, SEEN, TAGS, CALCULATED -> false;
                })
                .toList();
    }

    private static String cast(Field source, Field field) {
        String column = Sql.identifier(source.column());
        return source.type() == field.type()
                ? column
                : "cast(" + column + " as " + ValueType.of(field).column() + ")";
    }

    private static Sql nothing(RegisterForReader described) {
        List<String> columns = new ArrayList<>();
        columns.add(
                "cast(0 as bigint) as " + Sql.identifier(described.register().idColumn()));
        unmarked(described).forEach(f -> columns.add(ValueType.of(f).none() + " as " + Sql.identifier(f.column())));
        return Sql.of("select " + String.join(", ", columns) + " where false");
    }
}
