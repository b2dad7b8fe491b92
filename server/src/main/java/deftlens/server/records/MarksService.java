package deftlens.server.records;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Write;
import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSets;
import deftlens.server.closing.ClosedPeriods;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.RecordScopes;
import deftlens.server.registers.FieldOrigin;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.RowReader;
import deftlens.server.values.Statements;
import deftlens.server.values.Unfitting;
import deftlens.server.values.ValueType;
import jakarta.persistence.EntityManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Clock;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.hibernate.Session;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** What people put on records they see: that they have seen them, and tags. */
@Service
public class MarksService {

    private final EntityManager entities;
    private final RegisterCatalogue registers;
    private final RecordScopes access;
    private final PeopleService people;
    private final ChangeSets changes;
    private final ClosedPeriods periods;
    private final Clock clock;

    MarksService(
            EntityManager entities,
            RegisterCatalogue registers,
            RecordScopes access,
            PeopleService people,
            ChangeSets changes,
            ClosedPeriods periods,
            Clock clock) {
        this.entities = entities;
        this.registers = registers;
        this.access = access;
        this.people = people;
        this.changes = changes;
        this.periods = periods;
        this.clock = clock;
    }

    /** How many records were marked. */
    public record Marked(int records) {}

    /** A record and its tags. */
    private record Tagged(long id, List<String> tags) {}

    /** Marks records that the person sees as seen by them, or takes the marks away. */
    @Transactional
    public Marked mark(String key, List<Long> ids, boolean seen, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        if (described.notes().values().stream().noneMatch(n -> n.origin() == FieldOrigin.SEEN)) {
            throw Problem.unprocessable(
                    "no-marks", described.register().label() + " have no seen marks. An administrator can add them.");
        }
        Scope scope = access.scope(described, who);
        Sql visible = Page.numbers(scope, Write.numbered(described.register(), ids));
        Sql sql = seen
                ? new Sql()
                        .add("insert into record_seen (register_id, person_id, record_id, seen_at) select "
                                + described.id() + ", " + who.id() + ", c0, ")
                        .bind(clock.instant())
                        .add(" from (")
                        .add(visible)
                        .add(") as visible on conflict do nothing")
                : new Sql()
                        .add("delete from record_seen where register_id = " + described.id() + " and person_id = "
                                + who.id() + " and record_id in (")
                        .add(visible)
                        .add(")");
        return new Marked((int) execute(sql));
    }

    /** Puts tags on records that the person sees, and takes tags off them. */
    @Transactional
    public Marked tag(String key, List<Long> ids, List<String> add, List<String> remove, SignedIn who) {
        RecordValues.requireWriter(who);
        RegisterForReader described = registers.get(key, who);
        Field field = described.register().stored().stream()
                .filter(f -> f.type() == FieldType.TAGS)
                .filter(f -> described.notes().get(f.key()).origin() == FieldOrigin.TAGS
                        || described.can(Origin.Capability.RECORDS))
                .findFirst()
                .orElseThrow(() -> Problem.unprocessable(
                        "no-tags", described.register().label() + " have no tags. An administrator can add them."));
        if (described.can(Origin.Capability.RECORDS)
                && !who.administers()
                && !described.notes().get(field.key()).about().isCorrectableBy(people.teamsOf(who))) {
            throw Problem.forbidden(field.label() + " is not open to correction. Ask an administrator.");
        }
        List<String> fresh = tags(field, add);
        Set<String> gone = new LinkedHashSet<>(remove);
        Register register = described.register();
        ChangeSet set = changes.begin(
                described.id(), Optional.of(who.id()), ChangeSet.Origin.TAGS, Optional.empty(), Optional.empty());
        Sql seen = Page.all(
                access.scope(described, who), Write.numbered(register, ids), new Order(List.of()), List.of(field));
        int tagged = 0;
        for (Tagged record : list(seen, row -> new Tagged(row.getLong(1), tags(row, field)))) {
            long id = record.id();
            List<String> before = record.tags();
            List<String> after = Stream.concat(before.stream().filter(t -> !gone.contains(t)), fresh.stream())
                    .distinct()
                    .toList();
            if (!after.equals(before)) {
                if (described.can(Origin.Capability.RECORDS)) {
                    Sql write = Write.update(register, id, Map.of(field, Optional.of(after)), Map.of());
                    periods.guarded(described, () -> list(write, row -> row.getLong(1)));
                } else {
                    execute(beside(described, id, after));
                    changes.note(set, id, Map.of(field.key(), before), Map.of(field.key(), after));
                }
                tagged++;
            }
        }
        if (tagged == 0) {
            changes.drop(set);
        }
        return new Marked(tagged);
    }

    @SuppressWarnings("unchecked")
    private static List<String> tags(Field field, List<String> add) {
        try {
            return (List<String>) ValueType.of(field).ofJson(field, add);
        } catch (Unfitting e) {
            throw Problem.unprocessable("bad-value", e.getMessage());
        }
    }

    private static Sql beside(RegisterForReader described, long id, List<String> tags) {
        return new Sql()
                .add("insert into record_tags (register_id, record_id, tags) values (" + described.id() + ", " + id
                        + ", cast(")
                .bind(tags.toArray(String[]::new))
                .add(" as text[])) on conflict (register_id, record_id) do update set tags = excluded.tags");
    }

    private static List<String> tags(ResultSet row, Field field) throws SQLException {
        return ((List<?>) ValueType.of(field).read(row, 2))
                .stream().map(String.class::cast).toList();
    }

    private long execute(Sql sql) {
        return entities.unwrap(Session.class).doReturningWork(connection -> Statements.update(connection, sql));
    }

    private <T> List<T> list(Sql sql, RowReader<T> reader) {
        return entities.unwrap(Session.class).doReturningWork(connection -> Statements.list(connection, sql, reader));
    }
}
