package deftlens.server.changes;

import deftlens.core.sql.Sql;
import deftlens.core.sql.Stood;
import deftlens.core.sql.Undo;
import deftlens.server.changes.ChangeSet.Kind;
import deftlens.server.changes.ChangeSet.Origin;
import deftlens.server.values.Statements;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** Who did what to which records, when, from where, from what values to what. Written in the transaction of the change itself. */
@Service
public class ChangeSets {

    /** The most steps of one record that are shown. */
    public static final int MAX_SHOWN = 200;

    private final JdbcClient database;
    private final Clock clock;
    private final ObjectMapper json;

    ChangeSets(JdbcClient database, Clock clock, ObjectMapper json) {
        this.database = database;
        this.clock = clock;
        this.json = json;
    }

    /**
     * What a set of changes did to one record.
     *
     * @param set the number of the set
     * @param before the values that changed, by field, {@code null} for none; absent of a record that was made
     * @param after the same afterwards; absent of one that was taken away, and where only its making is known
     */
    public record Step(
            long set, Kind kind, Optional<Map<String, Object>> before, Optional<Map<String, Object>> after) {}

    /**
     * A set of changes as it is listed.
     *
     * @param records how many records it wrote; absent where that was not counted
     * @param undoneBy the set that took it back, the latest one
     * @param made between which numbers the records are that it made; absent where it made none, or in the database itself
     */
    public record Listed(
            long id,
            long registerId,
            Instant at,
            Optional<Long> person,
            Origin origin,
            String title,
            String reason,
            Optional<Long> records,
            Optional<Long> undoes,
            Optional<Long> undoneBy,
            Optional<Undo.Made> made) {}

    /**
     * Begins a set of changes; inside the transaction that makes them.
     *
     * @param title the name of the file, where one does it
     * @param undoes the set that this one takes back
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public ChangeSet begin(
            long registerId, Optional<Long> person, Origin origin, Optional<String> title, Optional<Long> undoes) {
        long id = database.sql("""
                        insert into change_set (register_id, person_id, at, origin, title, undoes)
                        values (?, cast(? as bigint), ?, ?, ?, cast(? as bigint)) returning id""")
                .params(
                        registerId,
                        person.orElse(null),
                        clock.instant().atOffset(ZoneOffset.UTC),
                        origin.name(),
                        title.orElse(""),
                        undoes.orElse(null))
                .query(Long.class)
                .single();
        write(registerId, Long.toString(id));
        return new ChangeSet(id, registerId);
    }

    /**
     * Says why a set of changes is made, how many records it wrote and which job did it.
     *
     * @param job its number, where one did
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public void describe(ChangeSet set, String reason, long records, Optional<Long> job) {
        database.sql("update change_set set reason = ?, records = ?, job_id = cast(? as bigint) where id = ?")
                .params(reason, records, job.orElse(null), set.id())
                .update();
    }

    /** The changes of many records of a register at once, and what was taken back, the latest first. */
    @Transactional(readOnly = true)
    public List<Listed> latest(long registerId, Optional<Long> person, int most) {
        return listed(
                "s.register_id = :register and s.origin in ('BULK', 'POSTED', 'UNDONE')"
                        + " and (cast(:person as bigint) is null or s.person_id = :person) order by s.id desc limit :most",
                Map.of("register", registerId, "most", most),
                person);
    }

    /** One set of changes. */
    @Transactional(readOnly = true)
    public Optional<Listed> find(long id) {
        return listed("s.id = :id", Map.of("id", id), Optional.empty()).stream().findFirst();
    }

    /** The same; nobody else takes it back until the transaction ends. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Optional<Listed> locked(long id) {
        database.sql("select id from change_set where id = ? for update")
                .param(id)
                .query(Long.class)
                .optional();
        return find(id);
    }

    /** The set of changes that a job wrote. */
    @Transactional(readOnly = true)
    public Optional<Listed> ofJob(long job) {
        return listed("s.job_id = :job", Map.of("job", job), Optional.empty()).stream()
                .findFirst();
    }

    private List<Listed> listed(String which, Map<String, Object> values, Optional<Long> person) {
        return database.sql("select s.*, (select max(u.id) from change_set u where u.undoes = s.id) as undone_by"
                        + " from change_set s where " + which)
                .params(values)
                .param("person", person.orElse(null))
                .query((row, n) -> new Listed(
                        row.getLong("id"),
                        row.getLong("register_id"),
                        row.getObject("at", Timestamp.class).toInstant(),
                        Optional.ofNullable(row.getObject("person_id", Long.class)),
                        Origin.valueOf(row.getString("origin")),
                        row.getString("title"),
                        row.getString("reason"),
                        Optional.ofNullable(row.getObject("records", Long.class)),
                        Optional.ofNullable(row.getObject("undoes", Long.class)),
                        Optional.ofNullable(row.getObject("undone_by", Long.class)),
                        made(row)))
                .list();
    }

    private static Optional<Undo.Made> made(ResultSet row) throws SQLException {
        Long first = row.getObject("made_first", Long.class);
        return first == null ? Optional.empty() : Optional.of(new Undo.Made(first, row.getLong("made_last")));
    }

    /** The last number that a record of a table was given, 0 before the first. */
    public static long lastNumber(Connection connection, String table) throws SQLException {
        return Statements.number(
                connection,
                new Sql()
                        .add("select coalesce(pg_sequence_last_value(cast(pg_get_serial_sequence(")
                        .bind(table)
                        .add(", 'id') as regclass)), 0)"));
    }

    /** The numbers that a set of changes gave to those that it made are between the last one before it and the last one by now. */
    public void made(ChangeSet set, Connection connection, String table, long before) throws SQLException {
        long last = lastNumber(connection, table);
        if (last > before) {
            made(set, new Undo.Made(before + 1, last));
        }
    }

    /** Says between which numbers the records are that a set of changes made, so that they are found where it is taken back. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void made(ChangeSet set, Undo.Made made) {
        database.sql("update change_set set made_first = ?, made_last = ? where id = ?")
                .params(made.first(), made.last(), set.id())
                .update();
    }

    /** Says to the database which set the transaction is writing of a register, so that it keeps the past by it. */
    private void write(long registerId, String set) {
        database.sql("select set_config(?, ?, true)")
                .params("deft.set_" + registerId, set)
                .query(String.class)
                .single();
    }

    /** Which sets of changes of a register had ended at a moment. */
    public static Stood stood(long registerId, Instant at) {
        String of = " from change_set where register_id = " + registerId + " and at ";
        Supplier<Sql> later =
                () -> new Sql().add("(select min(id)" + of + "> ").bind(at).add(")");
        return new Stood(
                new Sql().add("coalesce(").add(later.get()).add(" - 1, " + Long.MAX_VALUE + ")"),
                new Sql()
                        .add("array(select id" + of + "<= ")
                        .bind(at)
                        .add(" and id > ")
                        .add(later.get())
                        .add(")"));
    }

    /** The numbers of the sets of changes of a register that ended after a moment, and at the latest at another, where one is given. */
    public static Sql between(long registerId, Instant after, Optional<Instant> upTo) {
        Sql sql = new Sql()
                .add("select id from change_set where register_id = " + registerId + " and at > ")
                .bind(after);
        upTo.ifPresent(at -> sql.add(" and at <= ").bind(at));
        return sql;
    }

    /** Notes what became of one record whose values are not in a table of our own: tags beside a record. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void note(ChangeSet set, long record, Object before, Object after) {
        database.sql("""
                        insert into record_change (change_set_id, register_id, record_id, kind, before, after)
                        values (?, ?, ?, 'CHANGED', cast(? as jsonb), cast(? as jsonb))""")
                .params(
                        set.id(),
                        set.registerId(),
                        record,
                        json.writeValueAsString(before),
                        json.writeValueAsString(after))
                .update();
    }

    /**
     * What was done to records, by their numbers, the latest first, as far as it was noted by itself: tags beside them, and what was
     * done before records kept their past.
     *
     * @param told the steps of each that are known already and left out
     */
    @Transactional(readOnly = true)
    public Map<Long, List<Step>> noted(long registerId, Collection<Long> records, Map<Long, List<Step>> told) {
        List<Long> toldRecords = new ArrayList<>();
        List<Long> toldSets = new ArrayList<>();
        told.forEach((record, steps) -> steps.forEach(step -> {
            toldRecords.add(record);
            toldSets.add(step.set());
        }));
        Map<Long, List<Step>> noted = new HashMap<>();
        database.sql("""
                        select r.id as record, n.*
                        from unnest(cast(:records as bigint[])) r(id)
                        cross join lateral (
                            select s.id, c.kind, c.before, c.after
                            from (
                                select change_set_id, kind, before, after from record_change
                                where register_id = :register and record_id = r.id
                                union all
                                select change_set_id, kind, null, null from record_range
                                where register_id = :register and first_id <= r.id and last_id >= r.id) c
                            join change_set s on s.id = c.change_set_id
                            where (r.id, s.id) not in (
                                select * from unnest(cast(:toldRecords as bigint[]), cast(:toldSets as bigint[])))
                            order by s.id desc limit :most) n
                        order by r.id, n.id desc""")
                .param("register", registerId)
                .param("records", records.toArray(Long[]::new))
                .param("toldRecords", toldRecords.toArray(Long[]::new))
                .param("toldSets", toldSets.toArray(Long[]::new))
                .param("most", MAX_SHOWN)
                .query(row -> {
                    noted.computeIfAbsent(row.getLong("record"), r -> new ArrayList<>())
                            .add(new Step(
                                    row.getLong("id"),
                                    Kind.valueOf(row.getString("kind")),
                                    values(row.getString("before")),
                                    values(row.getString("after"))));
                });
        return noted;
    }

    /** Sets of changes by their numbers. */
    @Transactional(readOnly = true)
    public Map<Long, Listed> all(Collection<Long> ids) {
        return listed("s.id = any(cast(:ids as bigint[]))", Map.of("ids", ids.toArray(Long[]::new)), Optional.empty())
                .stream()
                .collect(Collectors.toMap(Listed::id, s -> s));
    }

    /** Takes a set away again that changed nothing: a value that was put where it stood already. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void drop(ChangeSet set) {
        database.sql("delete from change_set where id = ?").param(set.id()).update();
        write(set.registerId(), "");
    }

    private Optional<Map<String, Object>> values(String noted) {
        return Optional.ofNullable(noted).map(text -> {
            Map<String, Object> values = new LinkedHashMap<>();
            json.readTree(text).properties().forEach(e -> values.put(e.getKey(), e.getValue()));
            return values;
        });
    }
}
