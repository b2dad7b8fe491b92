package deftlens.server.question;

import deftlens.core.condition.Bound;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Where;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.server.people.SignedIn;
import deftlens.server.registers.Combining;
import deftlens.server.registers.FieldOrigin;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.ValueType;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Component;

/**
 * Which records a person may see at all. Every query for rows, counts, values and files is made over the scope that is given
 * here; there is no other way to the records' tables.
 */
@Component
public class RecordScopes {

    private final RegisterCatalogue registers;
    private final Questions questions;

    RecordScopes(RegisterCatalogue registers, Questions questions) {
        this.registers = registers;
        this.questions = questions;
    }

    /** The records of a register that a person may see. Limits hold now, whatever day the records are read as of. */
    public Scope scope(RegisterForReader described, SignedIn who) {
        return described.origin() == Origin.COMBINED
                ? combined(described, who)
                : new Scope(described.register(), RecordTables.from(described, who.id()), limit(described, who));
    }

    private Sql limit(RegisterForReader described, SignedIn who) {
        List<String> limits = registers.limits(described.register().key(), who);
        if (limits.isEmpty()) {
            return Sql.of("true");
        }
        // A limit may be about a field that is itself hidden.
        Register whole =
                registers.whole(described.register().key()).orElseThrow().register();
        Reading now = questions.reading(Optional.empty(), Optional.empty());
        Reader reader = new Reader(whole, questions.attributes());
        List<Bound> open = limits.stream()
                .map(l -> questions.bind(whole, reader.read(l).normal(), now, who))
                .toList();
        return Where.of(new Bound.Some(open));
    }

    /** The members' scopes, one under the other, each with the fields that the combined register gives them. */
    private Scope combined(RegisterForReader described, SignedIn who) {
        List<RegisterForReader.Member> members = described.members();
        Sql union = new Sql();
        int parts = 0;
        for (int i = 0; i < members.size(); i++) {
            Optional<RegisterForReader> member = registers.find(members.get(i).key(), who);
            if (member.isPresent()) {
                union.add(parts++ == 0 ? "" : " union all ").add(part(described, members.get(i), i, member.get(), who));
            }
        }
        if (parts == 0) {
            union.add(nothing(described));
        }
        return new Scope(
                described.register(), RecordTables.withMarks(described, union, who.id()), limit(described, who));
    }

    private Sql part(
            RegisterForReader described,
            RegisterForReader.Member place,
            int index,
            RegisterForReader member,
            SignedIn who) {
        Scope scope = scope(member, who);
        Register own = member.register();
        int count = described.members().size();
        Sql sql = new Sql()
                .add("select " + Sql.identifier(own.idColumn()) + " * " + count + " + " + index + " as "
                        + Sql.identifier(described.register().idColumn()));
        Map<String, String> mapping = place.mapping();
        for (Field field : unmarked(described)) {
            Optional<Field> source = Optional.ofNullable(mapping.get(field.key()))
                    .flatMap(own::field)
                    // What does not fit any more is empty, and the register says so.
                    .filter(s -> Combining.fits(s.type(), field.type()));
            FieldOrigin origin = described.notes().get(field.key()).origin();
            String value = origin == FieldOrigin.MEMBER
                    ? "cast('" + place.label().replace("'", "''") + "' as text)"
                    : source.map(s -> cast(s, field))
                            .orElseGet(() -> ValueType.of(field).none());
            sql.add(", " + value + " as " + Sql.identifier(field.column()));
        }
        return sql.add(" from ").add(scope.from()).add(" where ").add(scope.limit());
    }

    /** The fields that come from the members. */
    private static List<Field> unmarked(RegisterForReader described) {
        return described.register().stored().stream()
                .filter(f -> switch (described.notes().get(f.key()).origin()) {
                    case COLUMN, MEMBER -> true;
                    case SPAN, SEEN, TAGS -> false;
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
