package deftlens.server.changes;

import deftlens.core.sql.Sql;
import deftlens.core.sql.Stood;
import deftlens.server.changes.ChangeSet.Kind;
import deftlens.server.changes.ChangeSet.Origin;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/** Who did what to which records, when, from where, from what values to what. Written in the transaction of the change itself. */
@Service
public class ChangeSets {

    private static final int MAX_SHOWN = 200;

    private final JdbcClient database;
    private final Clock clock;
    private final ObjectMapper json;

    ChangeSets(JdbcClient database, Clock clock, ObjectMapper json) {
        this.database = database;
        this.clock = clock;
        this.json = json;
    }

    /**
     * What was done to one record.
     *
     * @param title the name of the file that did it; empty for others
     * @param reason why, where somebody said so
     * @param before the values that changed, by field; {@code null} of a record that was made
     * @param after the same afterwards; {@code null} where only its making is known, as of files
     */
    public record Step(
            Instant at,
            Optional<Long> person,
            Origin origin,
            String title,
            Kind kind,
            String reason,
            JsonNode before,
            JsonNode after) {}

    /**
     * A set of changes as it is listed.
     *
     * @param records how many records it wrote; absent where that was not counted
     * @param undoneBy the set that took it back, the latest one
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
            Optional<Long> undoneBy) {}

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
                "s.register_id = :register and s.origin in ('BULK', 'UNDONE')"
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
                        Optional.ofNullable(row.getObject("undone_by", Long.class))))
                .list();
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

    /** What was done to a record, the latest first, at most {@value #MAX_SHOWN}. */
    @Transactional(readOnly = true)
    public List<Step> of(long registerId, long record) {
        return database.sql("""
                        select s.at, s.person_id, s.origin, s.title, s.reason, c.kind, c.before, c.after
                        from (
                            select change_set_id, kind, before, after from record_change
                            where register_id = :register and record_id = :record
                            union all
                            select change_set_id, kind, null, null from record_range
                            where register_id = :register and first_id <= :record and last_id >= :record) c
                        join change_set s on s.id = c.change_set_id
                        order by s.id desc limit :most""")
                .param("register", registerId)
                .param("record", record)
                .param("most", MAX_SHOWN)
                .query((row, n) -> new Step(
                        row.getObject("at", Timestamp.class).toInstant(),
                        Optional.ofNullable(row.getObject("person_id", Long.class)),
                        Origin.valueOf(row.getString("origin")),
                        row.getString("title"),
                        Kind.valueOf(row.getString("kind")),
                        row.getString("reason"),
                        tree(row.getString("before")),
                        tree(row.getString("after"))))
                .list();
    }

    /** Takes a set away again that changed nothing: a value that was put where it stood already. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void dropIfEmpty(ChangeSet set) {
        int dropped = database.sql("""
                        delete from change_set s where s.id = ?
                        and not exists (select from record_change c where c.change_set_id = s.id)
                        and not exists (select from record_range r where r.change_set_id = s.id)""").param(set.id()).update();
        if (dropped > 0) {
            write(set.registerId(), "");
        }
    }

    /** Lets go what was kept only so that a file could be taken back: the records that it replaced. */
    @Transactional
    public void forgetRemovedBefore(Instant at) {
        database.sql("""
                        delete from record_change where kind = 'REMOVED' and change_set_id in
                            (select id from change_set where origin = 'FILE' and at < ?)""").param(at.atOffset(ZoneOffset.UTC)).update();
    }

    private JsonNode tree(String text) {
        return text == null ? null : json.readTree(text);
    }
}
