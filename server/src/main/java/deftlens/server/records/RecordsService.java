package deftlens.server.records;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.sql.Page;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Write;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.question.Orders;
import deftlens.server.question.Questions;
import deftlens.server.question.RecordScopes;
import deftlens.server.question.ResultRow;
import deftlens.server.question.RowReader;
import deftlens.server.registers.FieldOrigin;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.RowsService;
import deftlens.server.trail.Trail;
import deftlens.server.values.Parameters;
import deftlens.server.values.Unfitting;
import deftlens.server.values.ValueType;
import jakarta.persistence.EntityManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * Writes records. Administrators make and change any; other people correct the fields that the catalogue says may be
 * corrected, in the records they see. Every change of a record stands in the trail.
 */
@Service
public class RecordsService {

    private static final int AT_ONCE = 200;

    private final EntityManager entities;
    private final RegisterCatalogue registers;
    private final RowsService rows;
    private final RecordScopes access;
    private final Questions questions;
    private final PeopleService people;
    private final Answers answers;
    private final Trail trail;
    private final Clock clock;
    private final ObjectMapper json;

    RecordsService(
            EntityManager entities,
            RegisterCatalogue registers,
            RowsService rows,
            RecordScopes access,
            Questions questions,
            PeopleService people,
            Answers answers,
            Trail trail,
            Clock clock,
            ObjectMapper json) {
        this.entities = entities;
        this.registers = registers;
        this.rows = rows;
        this.access = access;
        this.questions = questions;
        this.people = people;
        this.answers = answers;
        this.trail = trail;
        this.clock = clock;
        this.json = json;
    }

    /** A record that was written. */
    public record Written(@AsText long id) {}

    /** What became of many records. */
    public record Bulk(int added, int updated) {}

    /** How many records were marked. */
    public record Marked(int records) {}

    /** One change of a record; the values of the fields that changed. */
    public record RecordChange(Instant at, Optional<String> who, String action, JsonNode before, JsonNode after) {}

    /** One record of many that cannot be kept. */
    public record Refusal(int record, String reason) {}

    /** Makes a record. */
    @Transactional
    public Written create(String key, Map<String, JsonNode> values, Optional<String> idempotency, SignedIn who) {
        requireAdministrator(who);
        RegisterForReader described = own(key, who);
        return answers.once(
                idempotency, who, "create " + key + " " + json.writeValueAsString(values), Written.class, () -> {
                    Map<Field, Optional<Object>> read = read(described, values);
                    requireAll(described, read);
                    long id = insert(described, List.of(read)).get(0);
                    trail.write(Optional.of(who.id()), subject(key), id, "made", null, words(read));
                    return new Written(id);
                });
    }

    /** Changes some values of a record that the person sees. */
    @Transactional
    public Written change(
            String key, long id, Map<String, JsonNode> values, Optional<Map<String, JsonNode>> was, SignedIn who) {
        requireWriter(who);
        RegisterForReader described = own(key, who);
        ResultRow now = rows.record(questions.everything(described, who), id);
        Map<Field, Optional<Object>> read = read(described, values);
        if (read.isEmpty()) {
            throw Problem.unprocessable("nothing-changed", "Name at least one field and its new value.");
        }
        for (Field field : read.keySet()) {
            if (!who.administers()
                    && !described.notes().get(field.key()).about().isCorrectableBy(people.teamsOf(who))) {
                throw Problem.forbidden(field.label() + " is not open to correction. Ask an administrator.");
            }
        }
        Map<Field, Optional<Object>> seen = was.isEmpty() ? Map.of() : read(described, was.get());
        int changed = execute(Write.update(described.register(), id, read, seen));
        if (changed == 0) {
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "changed-meanwhile",
                            "Somebody changed this record after you opened it. Nothing of yours was written.")
                    .with("current", now);
        }
        Map<String, Object> before = new LinkedHashMap<>();
        read.keySet().forEach(f -> before.put(f.key(), now.values().get(f.key())));
        trail.write(Optional.of(who.id()), subject(key), id, "changed", before, words(read));
        return new Written(id);
    }

    /** Makes or changes many records; all of them, or none. */
    @Transactional
    public Bulk bulk(
            String key, List<String> by, List<Map<String, JsonNode>> sent, Optional<String> idempotency, SignedIn who) {
        requireAdministrator(who);
        RegisterForReader described = own(key, who);
        return answers.once(
                idempotency,
                who,
                "bulk " + key + " " + by + " " + json.writeValueAsString(sent),
                Bulk.class,
                () -> write(described, by, sent, who));
    }

    private Bulk write(RegisterForReader described, List<String> by, List<Map<String, JsonNode>> sent, SignedIn who) {
        List<Field> keys = by.stream().map(k -> Orders.column(described, k)).toList();
        if (keys.isEmpty()) {
            throw Problem.unprocessable("no-key", "“by” names the fields that tell records apart.");
        }
        List<Map<Field, Optional<Object>>> read = new ArrayList<>();
        List<Refusal> refused = new ArrayList<>();
        Map<List<Object>, Integer> first = new HashMap<>();
        for (int i = 0; i < sent.size(); i++) {
            try {
                Map<Field, Optional<Object>> record = values(described, sent.get(i));
                List<Object> named = exact(key(keys, record));
                Integer earlier = first.putIfAbsent(named, i);
                if (named.contains(Optional.empty())) {
                    throw new Unfitting(
                            "Each record needs a value of " + keys.get(0).label() + ".");
                }
                if (earlier != null) {
                    throw new Unfitting("It repeats record " + (earlier + 1) + ".");
                }
                read.add(record);
            } catch (Unfitting e) {
                refused.add(new Refusal(i + 1, e.getMessage()));
            }
        }
        refuse(refused);
        Map<List<Object>, List<Long>> there = existing(described, keys, read);
        List<Map<Field, Optional<Object>>> fresh = new ArrayList<>();
        int updated = 0;
        for (int i = 0; i < read.size(); i++) {
            Map<Field, Optional<Object>> record = read.get(i);
            List<Long> known = there.getOrDefault(exact(key(keys, record)), List.of());
            if (known.size() > 1) {
                // Which of them is meant cannot be known.
                refused.add(new Refusal(
                        i + 1,
                        known.size() + " records have this "
                                + keys.stream().map(Field::label).collect(Collectors.joining(" and "))
                                + ". Tell them apart by another field, or correct them one by one."));
            } else if (known.isEmpty()) {
                Optional<String> missing = missing(described, record);
                if (missing.isPresent()) {
                    refused.add(new Refusal(i + 1, missing.get()));
                }
                fresh.add(record);
            } else {
                long id = known.get(0);
                execute(Write.update(described.register(), id, record, Map.of()));
                trail.write(
                        Optional.of(who.id()),
                        subject(described.register().key()),
                        id,
                        "changed in bulk",
                        null,
                        words(record));
                updated++;
            }
        }
        refuse(refused);
        List<Long> ids = insert(described, fresh);
        for (int i = 0; i < ids.size(); i++) {
            trail.write(
                    Optional.of(who.id()),
                    subject(described.register().key()),
                    ids.get(i),
                    "made in bulk",
                    null,
                    words(fresh.get(i)));
        }
        return new Bulk(fresh.size(), updated);
    }

    private static void refuse(List<Refusal> refused) {
        if (!refused.isEmpty()) {
            throw Problem.unprocessable(
                            "records-refused",
                            refused.size() == 1
                                    ? "Record " + refused.get(0).record() + ": "
                                            + refused.get(0).reason() + " Nothing was written."
                                    : refused.size() + " records cannot be saved. Nothing was written.")
                    .with("refused", refused.subList(0, Math.min(AT_ONCE, refused.size())));
        }
    }

    private static List<Object> key(List<Field> keys, Map<Field, Optional<Object>> record) {
        return keys.stream()
                .<Object>map(k -> record.getOrDefault(k, Optional.empty()))
                .toList();
    }

    /** The ids of the records that have these keys already. */
    private Map<List<Object>, List<Long>> existing(
            RegisterForReader described, List<Field> keys, List<Map<Field, Optional<Object>>> read) {
        Field first = keys.get(0);
        Scope everywhere = Scope.all(described.register());
        Map<List<Object>, List<Long>> there = new HashMap<>();
        for (int from = 0; from < read.size(); from += AT_ONCE) {
            List<Map<Field, Optional<Object>>> some = read.subList(from, Math.min(read.size(), from + AT_ONCE));
            Sql condition = new Sql().add("(");
            for (int i = 0; i < some.size(); i++) {
                Object value = some.get(i).get(first).orElseThrow();
                condition
                        .add(i == 0 ? "" : " or ")
                        .add("(" + Sql.identifier(first.column()) + " = ")
                        .bind(value);
                if (first.type() == FieldType.TEXT) {
                    // Texts are indexed with their letter case folded.
                    condition
                            .add(" and lower(" + Sql.identifier(first.column()) + ") = lower(")
                            .bind(value)
                            .add(")");
                }
                condition.add(")");
            }
            Sql found = Page.all(everywhere, condition.add(")"), new deftlens.core.sql.Order(List.of()), keys);
            record Named(List<Object> key, long id) {}
            List<Named> all = list(found, row -> {
                List<Object> key = new ArrayList<>();
                for (int i = 0; i < keys.size(); i++) {
                    key.add(Optional.ofNullable(ValueType.of(keys.get(i)).read(row, i + 2)));
                }
                return new Named(exact(key), row.getLong(1));
            });
            all.forEach(
                    n -> there.computeIfAbsent(n.key(), k -> new ArrayList<>()).add(n.id()));
        }
        return there;
    }

    /** Keys as they are compared: texts letter by letter, numbers by their value. */
    private static List<Object> exact(List<Object> key) {
        return key.stream()
                .<Object>map(o -> ((Optional<?>) o)
                        .map(v -> v instanceof java.math.BigDecimal number ? number.stripTrailingZeros() : v))
                .toList();
    }

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
        return new Marked(execute(sql));
    }

    /** Puts tags on records that the person sees, and takes tags off them. */
    @Transactional
    public Marked tag(String key, List<Long> ids, List<String> add, List<String> remove, SignedIn who) {
        requireWriter(who);
        RegisterForReader described = registers.get(key, who);
        Field field = described.register().stored().stream()
                .filter(f -> f.type() == FieldType.TAGS)
                .filter(f -> described.notes().get(f.key()).origin() == FieldOrigin.TAGS || described.isOwn())
                .findFirst()
                .orElseThrow(() -> Problem.unprocessable(
                        "no-tags", described.register().label() + " have no tags. An administrator can add them."));
        if (described.isOwn()
                && !who.administers()
                && !described.notes().get(field.key()).about().isCorrectableBy(people.teamsOf(who))) {
            throw Problem.forbidden(field.label() + " is not open to correction. Ask an administrator.");
        }
        List<String> fresh = tags(field, add);
        Set<String> gone = new LinkedHashSet<>(remove);
        Register register = described.register();
        Sql seen = Page.all(
                access.scope(described, who),
                Write.numbered(register, ids),
                new deftlens.core.sql.Order(List.of()),
                List.of(field));
        int tagged = 0;
        for (Tagged record : list(seen, row -> new Tagged(row.getLong(1), tags(row, field)))) {
            long id = record.id();
            List<String> before = record.tags();
            List<String> after = java.util.stream.Stream.concat(
                            before.stream().filter(t -> !gone.contains(t)), fresh.stream())
                    .distinct()
                    .toList();
            if (!after.equals(before)) {
                execute(
                        described.isOwn()
                                ? Write.update(register, id, Map.of(field, Optional.of(after)), Map.of())
                                : beside(described, id, after));
                trail.write(
                        Optional.of(who.id()),
                        subject(key),
                        id,
                        "tagged",
                        Map.of(field.key(), before),
                        Map.of(field.key(), after));
                tagged++;
            }
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

    /** Who changed a record, from what to what; fields that the person may not see are left out. */
    @Transactional(readOnly = true)
    public List<RecordChange> history(String key, long id, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        rows.record(questions.everything(described, who), id);
        Map<Long, String> names = people.everyone().stream()
                .collect(Collectors.toMap(PeopleService.Profile::id, PeopleService.Profile::fullName));
        return trail.of(subject(key), id).stream()
                .map(c -> new RecordChange(
                        c.at(),
                        c.person().map(names::get),
                        c.action(),
                        seen(described, c.before()),
                        seen(described, c.after())))
                .toList();
    }

    private JsonNode seen(RegisterForReader described, JsonNode values) {
        if (values == null || !values.isObject()) {
            return values;
        }
        var left = json.createObjectNode();
        values.properties().stream()
                .filter(e -> described.register().field(e.getKey()).isPresent())
                .forEach(e -> left.set(e.getKey(), e.getValue()));
        return left;
    }

    private RegisterForReader own(String key, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        if (!described.isOwn()) {
            throw Problem.unprocessable(
                    "not-ours",
                    described.register().label() + " are only read here; change them where they come from.");
        }
        return described;
    }

    private Map<Field, Optional<Object>> read(RegisterForReader described, Map<String, JsonNode> sent) {
        try {
            return values(described, sent);
        } catch (Unfitting e) {
            throw Problem.unprocessable("bad-value", e.getMessage());
        }
    }

    private Map<Field, Optional<Object>> values(RegisterForReader described, Map<String, JsonNode> sent)
            throws Unfitting {
        Map<String, Field> columns = new HashMap<>();
        RecordTables.columns(described).forEach(f -> columns.put(f.key(), f));
        Map<Field, Optional<Object>> values = new LinkedHashMap<>();
        for (Map.Entry<String, JsonNode> entry : sent.entrySet()) {
            Field field = columns.get(entry.getKey());
            if (field == null) {
                throw new Unfitting(
                        described.register().label() + " have no field “" + entry.getKey() + "” that can be written.");
            }
            values.put(field, Optional.ofNullable(ValueType.of(field).ofJson(field, plain(entry.getValue()))));
        }
        return values;
    }

    private static Object plain(JsonNode node) {
        if (node == null || node.isNull()) {
            return null;
        }
        if (node.isArray()) {
            List<Object> list = new ArrayList<>();
            node.forEach(item -> list.add(plain(item)));
            return list;
        }
        return node.isString()
                ? node.stringValue()
                : node.isNumber()
                        ? node.decimalValue()
                        : node.isBoolean() ? (Object) node.booleanValue() : node.toString();
    }

    private static void requireAll(RegisterForReader described, Map<Field, Optional<Object>> read) {
        missing(described, read).ifPresent(message -> {
            throw Problem.unprocessable("bad-value", message);
        });
    }

    private static Optional<String> missing(RegisterForReader described, Map<Field, Optional<Object>> read) {
        return RecordTables.columns(described).stream()
                .filter(f -> f.required() && f.type() != FieldType.TAGS)
                .filter(f -> read.getOrDefault(f, Optional.empty()).isEmpty())
                .findFirst()
                .map(f -> f.label() + " is needed in every record.");
    }

    private List<Long> insert(RegisterForReader described, List<Map<Field, Optional<Object>>> records) {
        List<Field> fields = RecordTables.columns(described);
        List<Long> ids = new ArrayList<>();
        for (int from = 0; from < records.size(); from += AT_ONCE) {
            List<List<Optional<Object>>> some = records.subList(from, Math.min(records.size(), from + AT_ONCE)).stream()
                    .map(r -> fields.stream()
                            .map(f -> r.getOrDefault(f, Optional.empty()))
                            .toList())
                    .toList();
            Sql sql = Write.insert(described.register(), fields, some);
            ids.addAll(list(sql, row -> row.getLong(1)));
        }
        return ids;
    }

    private static Map<String, Object> words(Map<Field, Optional<Object>> values) {
        Map<String, Object> words = new LinkedHashMap<>();
        values.forEach((field, value) -> words.put(field.key(), value.orElse(null)));
        return words;
    }

    private int execute(Sql sql) {
        return onConnection(sql, PreparedStatement::executeUpdate);
    }

    @FunctionalInterface
    private interface OnStatement<T> {
        T run(PreparedStatement statement) throws SQLException;
    }

    private <T> List<T> list(Sql sql, RowReader<T> reader) {
        return onConnection(sql, statement -> {
            List<T> found = new ArrayList<>();
            try (ResultSet row = statement.executeQuery()) {
                while (row.next()) {
                    found.add(reader.read(row));
                }
            }
            return found;
        });
    }

    /** A record and its tags. */
    private record Tagged(long id, List<String> tags) {}

    private static List<String> tags(ResultSet row, Field field) throws SQLException {
        return ((List<?>) ValueType.of(field).read(row, 2))
                .stream().map(String.class::cast).toList();
    }

    private <T> T onConnection(Sql sql, OnStatement<T> work) {
        return entities.unwrap(Session.class).doReturningWork(connection -> {
            try (PreparedStatement statement = connection.prepareStatement(sql.text())) {
                Parameters.bind(statement, 1, sql.values());
                return work.run(statement);
            }
        });
    }

    private static String subject(String key) {
        return "record of " + key;
    }

    private static void requireWriter(SignedIn who) {
        if (who.changesNothing()) {
            throw Problem.forbidden("An auditor reads everything and changes nothing.");
        }
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator makes records; others correct what they see.");
        }
    }
}
