package deftlens.server.question;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Elsewhere;
import deftlens.core.field.Field;
import deftlens.core.sql.InTables;
import deftlens.core.sql.Others;
import deftlens.core.sql.Scope;
import deftlens.core.time.Reading;
import deftlens.server.people.SignedIn;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition.Relation;
import deftlens.server.registers.RegisterForReader;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Component;

/**
 * In which other records the values of a field may be looked for: those that a register says hold the same, in whichever of the two it says
 * so, and the other records of the register itself. All of it as far as the person may see it, and nothing is seen through it that is
 * not seen directly: the records are those of {@link RecordScopes}.
 */
@Component
public class RelatedRecords {

    private final RegisterCatalogue registers;
    private final RecordScopes scopes;
    private final QueryRunner runner;

    RelatedRecords(RegisterCatalogue registers, RecordScopes scopes, QueryRunner runner) {
        this.registers = registers;
        this.scopes = scopes;
        this.runner = runner;
    }

    /**
     * Where the values of a register's fields may be looked for.
     *
     * @param reading what calculated fields go by there
     * @param recordsAt the moment that those records are read as they stood at, too
     */
    public Elsewhere of(RegisterForReader described, SignedIn who, Reading reading, Optional<Instant> recordsAt) {
        Map<String, List<Elsewhere.Place>> known = new HashMap<>();
        return field -> {
            List<Elsewhere.Place> places = known.get(field);
            if (places == null) {
                places = places(described, field, who).stream()
                        .map(found -> place(found.register(), found.field(), who, reading, recordsAt))
                        .toList();
                known.put(field, places);
            }
            return places;
        };
    }

    /** A field of a register that holds the values of another one. */
    public record FieldThere(RegisterForReader register, Field field) {}

    private List<FieldThere> places(RegisterForReader described, String key, SignedIn who) {
        List<FieldThere> found = declared(described, key, who);
        // Any other record may have the same value, whether somebody said so or not.
        described.register().field(key).ifPresent(field -> add(described, key, field, found));
        return found;
    }

    /** The fields that are said to hold the values of one, in whichever of the two registers it is said; at most one of each register. */
    public List<FieldThere> declared(RegisterForReader described, String key, SignedIn who) {
        List<FieldThere> found = new ArrayList<>();
        Optional<Field> known = described.register().field(key);
        if (known.isEmpty()) {
            return found;
        }
        Field field = known.get();
        String own = described.register().key();
        for (Relation relation : described.notes().get(key).about().relates()) {
            if (!relation.register().equals(own)) {
                registers.find(relation.register(), who).ifPresent(other -> add(other, relation.field(), field, found));
            }
        }
        for (RegisterForReader other : registers.all(who)) {
            if (!other.register().key().equals(own)) {
                other.register().fields().stream()
                        .filter(f ->
                                other.notes().get(f.key()).about().relates().contains(new Relation(own, key)))
                        .forEach(f -> add(other, f.key(), field, found));
            }
        }
        if (described.notes().get(key).about().relates().contains(new Relation(own, key))) {
            add(described, key, field, found);
        }
        return found;
    }

    private static void add(RegisterForReader register, String key, Field field, List<FieldThere> found) {
        boolean isThere = found.stream().anyMatch(f -> f.register().id() == register.id());
        register.register()
                .field(key)
                .filter(f -> !isThere && Elsewhere.canShare(field.type(), f.type()))
                .ifPresent(f -> found.add(new FieldThere(register, f)));
    }

    private Elsewhere.Place place(
            RegisterForReader register, Field field, SignedIn who, Reading reading, Optional<Instant> recordsAt) {
        return new Elsewhere.Place(
                register.register(),
                field,
                register.meanings(),
                of(register, who, reading, recordsAt),
                () -> records(register, who, reading, recordsAt));
    }

    private InTables records(RegisterForReader register, SignedIn who, Reading reading, Optional<Instant> recordsAt) {
        Scope seen = scopes.scope(register, who, reading, recordsAt);
        return new InTables() {
            @Override
            public Scope scope() {
                return seen;
            }

            @Override
            public Optional<List<Object>> with(Object value, Bound.Related asked) {
                Question question = Question.of(register, Condition.EVERYTHING, reading, who)
                        .asRecordsStood(recordsAt);
                List<Field> fields = register.register().stored();
                RowValues.Columns columns = new RowValues.Columns(fields);
                return runner
                        .list(question, Others.one(seen, asked, value, fields), row -> columns.read(row, 1))
                        .stream()
                        .findFirst()
                        .map(values -> Arrays.asList(register.register().fields().stream()
                                .map(f -> values.get(f.key()))
                                .toArray()));
            }
        };
    }
}
