package deftlens.server.records;

import deftlens.core.field.Field;
import deftlens.core.sql.Merge;
import deftlens.core.sql.Sql;
import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSets;
import deftlens.server.closing.ClosedPeriods;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.Orders;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.CopyIn;
import deftlens.server.values.Statements;
import deftlens.server.values.Unfitting;
import deftlens.server.values.ValueType;
import jakarta.persistence.EntityManager;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * Makes and changes many records at once, told apart by their keys: all of them, or none. They are copied into a table that goes with the
 * transaction, and merged from there, so that ten thousand cost a few statements.
 */
@Service
public class BulkService {

    /** The most refusals that are told one by one. */
    private static final int MAX_TOLD = 200;

    private static final String STAGE = "deft_stage";
    /** Tells our lock from others; the second part is the register. */
    private static final int BULK_LOCK = 0x62756c6b;

    private final EntityManager entities;
    private final RegisterCatalogue registers;
    private final ChangeSets changes;
    private final ClosedPeriods periods;
    private final Answers answers;
    private final ObjectMapper json;

    BulkService(
            EntityManager entities,
            RegisterCatalogue registers,
            ChangeSets changes,
            ClosedPeriods periods,
            Answers answers,
            ObjectMapper json) {
        this.entities = entities;
        this.registers = registers;
        this.changes = changes;
        this.periods = periods;
        this.answers = answers;
        this.json = json;
    }

    /**
     * What became of many records.
     *
     * @param unchanged those that were there, and as they were sent
     */
    public record Bulk(int added, int updated, int unchanged) {}

    /** One record of many that cannot be kept; the first is 1. */
    public record Refusal(int record, String reason) {}

    private record Sent(int line, Map<Field, Optional<Object>> values) {}

    /**
     * Makes or changes many records; all of them, or none.
     *
     * @param by the keys of the fields that tell records apart
     */
    @Transactional
    public Bulk bulk(
            String key, List<String> by, List<Map<String, JsonNode>> sent, Optional<String> idempotency, SignedIn who) {
        RecordValues.requireAdministrator(who);
        RegisterForReader described = registers.get(key, who);
        RecordValues.requireOwn(described);
        return answers.once(
                idempotency,
                who,
                "bulk " + key + " " + by + " " + json.writeValueAsString(sent),
                Bulk.class,
                () -> periods.guarded(described, () -> write(described, by, sent, who)));
    }

    private Bulk write(RegisterForReader described, List<String> by, List<Map<String, JsonNode>> sent, SignedIn who) {
        List<Field> keys =
                by.stream().map(k -> Orders.column(described, k)).distinct().toList();
        if (keys.isEmpty()) {
            throw Problem.unprocessable("no-key", "“by” names the fields that tell records apart.");
        }
        List<Sent> records = read(described, keys, sent);
        List<Field> fields = RecordTables.columns(described);
        if (!fields.containsAll(keys)) {
            throw Problem.unprocessable("no-key", "Records are told apart by fields that are kept with them.");
        }
        Merge merge = new Merge(described.register(), STAGE, fields, keys);
        return entities.unwrap(Session.class).doReturningWork(connection -> {
            // Two requests that make the same record go one after the other, or it would be there twice.
            Statements.list(
                    connection,
                    new Sql()
                            .add("select pg_advisory_xact_lock(" + BULK_LOCK + ", cast(")
                            .bind(described.id())
                            .add(" as integer))"),
                    row -> true);
            Statements.update(connection, Merge.stage(described.register(), STAGE, fields));
            copy(connection, fields, records);
            Statements.update(connection, merge.index());
            Statements.update(connection, Sql.of("analyze " + STAGE));
            refuse(unclear(connection, described, merge, records));
            refuse(closed(connection, described, merge, records));
            ChangeSet set = changes.begin(
                    described.id(), Optional.of(who.id()), ChangeSet.Origin.BULK, Optional.empty(), Optional.empty());
            long updated = 0;
            for (Map.Entry<Set<Field>, List<Sent>> alike : alike(records).entrySet()) {
                List<Field> written = written(alike.getKey(), keys);
                if (!written.isEmpty()) {
                    updated += Statements.update(connection, merge.changes(written, lines(alike.getValue())));
                }
            }
            String table = described.table().name();
            long before = ChangeSets.lastNumber(connection, table);
            long added = Statements.update(connection, merge.additions(Sql.of("true")));
            changes.made(set, connection, table, before);
            if (updated + added == 0) {
                changes.drop(set);
            }
            return new Bulk((int) added, (int) updated, (int) (records.size() - added - updated));
        });
    }

    /** The records as they were sent, each with its number; refused together where some do not fit. */
    private static List<Sent> read(RegisterForReader described, List<Field> keys, List<Map<String, JsonNode>> sent) {
        List<Sent> records = new ArrayList<>();
        List<Refusal> refused = new ArrayList<>();
        Map<List<Object>, Integer> first = new HashMap<>();
        for (int i = 0; i < sent.size(); i++) {
            try {
                Map<Field, Optional<Object>> values = RecordValues.values(described, sent.get(i));
                List<Object> named = key(keys, values);
                Integer earlier = first.putIfAbsent(named, i);
                if (named.contains(Optional.empty())) {
                    throw new Unfitting(
                            "Each record needs a value of " + keys.get(0).label() + ".");
                }
                if (earlier != null) {
                    throw new Unfitting("It repeats record " + (earlier + 1) + ".");
                }
                records.add(new Sent(i + 1, values));
            } catch (Unfitting e) {
                refused.add(new Refusal(i + 1, e.getMessage()));
            }
        }
        refuse(refused);
        return records;
    }

    /** A key as it is compared: texts letter by letter, numbers by their value. */
    private static List<Object> key(List<Field> keys, Map<Field, Optional<Object>> record) {
        return keys.stream()
                .<Object>map(k -> record.getOrDefault(k, Optional.empty())
                        .map(v -> v instanceof BigDecimal number ? number.stripTrailingZeros() : v))
                .toList();
    }

    private static void copy(Connection connection, List<Field> fields, List<Sent> records) throws SQLException {
        String columns = fields.stream().map(f -> Sql.identifier(f.column())).collect(Collectors.joining(", "));
        try (CopyIn copy = new CopyIn(connection, STAGE + " (" + Merge.LINE + ", " + columns + ")")) {
            Object[] row = new Object[fields.size() + 1];
            for (Sent record : records) {
                row[0] = record.line();
                for (int i = 0; i < fields.size(); i++) {
                    Field field = fields.get(i);
                    row[i + 1] = ValueType.of(field)
                            .copied(record.values()
                                    .getOrDefault(field, Optional.empty())
                                    .orElse(ValueType.of(field).empty()));
                }
                copy.row(row);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** What cannot be merged: records whose keys several have, and new ones that lack what every record needs. */
    private static List<Refusal> unclear(
            Connection connection, RegisterForReader described, Merge merge, List<Sent> records) throws SQLException {
        Map<Integer, Sent> byLine = records.stream().collect(Collectors.toMap(Sent::line, r -> r));
        String labels = merge.keys().stream().map(Field::label).collect(Collectors.joining(" and "));
        List<Refusal> refused = new ArrayList<>(Statements.list(
                connection,
                merge.ambiguities(),
                row -> new Refusal(
                        row.getInt(1),
                        row.getLong(2) + " records have this " + labels
                                + ". Tell them apart by another field, or correct them one by one.")));
        for (int line : Statements.list(connection, merge.missing(), row -> row.getInt(1))) {
            RecordValues.missing(described, byLine.get(line).values())
                    .ifPresent(message -> refused.add(new Refusal(line, message)));
        }
        refused.sort(Comparator.comparingInt(Refusal::record));
        return refused;
    }

    /** Those that would write a record of a closed period, or make one. */
    private List<Refusal> closed(Connection connection, RegisterForReader described, Merge merge, List<Sent> records)
            throws SQLException {
        List<Refusal> refused = new ArrayList<>();
        Optional<ClosedPeriods.Until> until = periods.until(described);
        if (until.isPresent()) {
            for (Map.Entry<Set<Field>, List<Sent>> alike : alike(records).entrySet()) {
                refused.addAll(Statements.list(
                        connection,
                        merge.before(
                                written(alike.getKey(), merge.keys()),
                                lines(alike.getValue()),
                                until.get().main(),
                                until.get().open()),
                        row -> new Refusal(row.getInt(1), until.get().reason())));
            }
        }
        refused.sort(Comparator.comparingInt(Refusal::record));
        return refused;
    }

    /** The fields that are written of a record that is there. */
    private static List<Field> written(Set<Field> sent, List<Field> keys) {
        return sent.stream().filter(f -> !keys.contains(f)).toList();
    }

    /** Records by the fields that they have values of: what is not sent stays as it is. */
    private static Map<Set<Field>, List<Sent>> alike(Collection<Sent> records) {
        return records.stream()
                .collect(Collectors.groupingBy(r -> r.values().keySet(), LinkedHashMap::new, Collectors.toList()));
    }

    private static Sql lines(List<Sent> records) {
        return new Sql()
                .add("s." + Merge.LINE + " = any(cast(")
                .bind(records.stream().map(r -> (long) r.line()).toArray(Long[]::new))
                .add(" as bigint[]))");
    }

    private static void refuse(List<Refusal> refused) {
        if (!refused.isEmpty()) {
            throw Problem.unprocessable(
                            "records-refused",
                            refused.size() == 1
                                    ? "Record " + refused.get(0).record() + ": "
                                            + refused.get(0).reason() + " Nothing was written."
                                    : refused.size() + " records cannot be saved. Nothing was written.")
                    .with("refused", refused.subList(0, Math.min(MAX_TOLD, refused.size())));
        }
    }
}
