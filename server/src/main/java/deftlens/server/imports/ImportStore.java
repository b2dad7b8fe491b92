package deftlens.server.imports;

import deftlens.server.people.SignedIn;
import jakarta.persistence.EntityManager;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** What is kept of imports: how each run went, and the plans to use again. */
@Repository
class ImportStore {

    private static final String COLUMNS = """
            select i.id, r.key, i.file_name, i.state, i.rows_read, i.added, i.updated, i.skipped, i.refused, i.message,
                   cast(i.refusals as text), i.started_at, i.ended_at, i.made_register, p.full_name, i.back_of,
                   i.change_set_id is not null and i.ended_at > ?1 and i.state = 'DONE' and r.deleted_at is null
                       and not exists (select 1 from import_run b where b.back_of = i.id and b.state = 'DONE') as way_back,
                   i.rows_expected, i.job_id
            from import_run i join person p on p.id = i.person_id left join register r on r.id = i.register_id\
            """;

    private final EntityManager entities;
    private final ObjectMapper json;

    ImportStore(EntityManager entities, ObjectMapper json) {
        this.entities = entities;
        this.json = json;
    }

    /** A plan with its name. */
    record NamedPlan(String name, String plan) {}

    /**
     * A run as it is kept.
     *
     * @param job the job that does it; none of one from before there were jobs
     */
    record Stored(ImportRun.ShownRun run, Optional<Long> job) {}

    /** Notes that a run begins. */
    @Transactional
    public long begin(String fileName, long expected, Optional<Long> backOf, SignedIn who, Instant at) {
        return ((Number) entities.createNativeQuery("""
                                insert into import_run (person_id, file_name, rows_expected, state, started_at, back_of)
                                values (?1, ?2, ?5, 'RUNNING', ?3, cast(?4 as bigint)) returning id""")
                        .setParameter(1, who.id())
                        .setParameter(2, fileName)
                        .setParameter(3, at)
                        .setParameter(4, backOf.map(String::valueOf).orElse(null))
                        .setParameter(5, expected)
                        .getSingleResult())
                .longValue();
    }

    /** Notes the job that does a run. */
    @Transactional
    public void workedBy(long run, long job) {
        entities.createNativeQuery("update import_run set job_id = ?1 where id = ?2")
                .setParameter(1, job)
                .setParameter(2, run)
                .executeUpdate();
    }

    /** Notes how far a run is. */
    @Transactional
    public void progress(long run, ImportRun.Counts counts) {
        entities.createNativeQuery("""
                        update import_run set rows_read = ?1, added = ?2, updated = ?3, skipped = ?4, refused = ?5
                        where id = ?6 and state = 'RUNNING'""")
                .setParameter(1, counts.read())
                .setParameter(2, counts.added())
                .setParameter(3, counts.updated())
                .setParameter(4, counts.skipped())
                .setParameter(5, counts.refused())
                .setParameter(6, run)
                .executeUpdate();
    }

    /** Notes how a run ended, in the transaction that there is. */
    @Transactional
    public void end(ImportRun run, ImportRun.State state, String message, Instant at, String refusals) {
        ImportRun.Counts counts = run.counts();
        entities.createNativeQuery("""
                        update import_run set register_id = (select id from register where key = cast(?1 as text)), state = ?2,
                            rows_read = ?3, added = ?4, updated = ?5, skipped = ?6, refused = ?7, message = ?8,
                            refusals = cast(?9 as jsonb), ended_at = ?10, made_register = ?12,
                            change_set_id = cast(?13 as bigint)
                        where id = ?11""")
                .setParameter(1, run.register().orElse(""))
                .setParameter(2, state.name())
                .setParameter(3, counts.read())
                .setParameter(4, counts.added())
                .setParameter(5, counts.updated())
                .setParameter(6, counts.skipped())
                .setParameter(7, counts.refused())
                .setParameter(8, message)
                .setParameter(9, refusals)
                .setParameter(10, at)
                .setParameter(11, run.id)
                .setParameter(12, run.isMade())
                .setParameter(13, run.changes().map(String::valueOf).orElse(null))
                .executeUpdate();
    }

    /** Notes how a run ended whose job wrote nothing; of one that has ended already nothing is changed. */
    @Transactional
    public void endOfJob(long job, ImportRun.State state, String message, Instant at) {
        entities.createNativeQuery("""
                        update import_run set state = ?1, message = ?2, ended_at = ?3, added = 0, updated = 0, skipped = 0
                        where job_id = ?4 and state = 'RUNNING'""")
                .setParameter(1, state.name())
                .setParameter(2, message)
                .setParameter(3, at)
                .setParameter(4, job)
                .executeUpdate();
    }

    @Transactional(readOnly = true)
    public Optional<Stored> find(long id, Instant keptSince) {
        List<?> found = entities.createNativeQuery(COLUMNS + " where i.id = ?2")
                .setParameter(1, keptSince)
                .setParameter(2, id)
                .getResultList();
        return found.stream().findFirst().map(this::shown);
    }

    @Transactional(readOnly = true)
    public List<Stored> latest(Optional<String> register, Instant keptSince) {
        List<?> found = entities.createNativeQuery(COLUMNS + " where ?2 = '' or r.key = ?2 order by i.id desc limit 50")
                .setParameter(1, keptSince)
                .setParameter(2, register.orElse(""))
                .getResultList();
        return found.stream().map(this::shown).toList();
    }

    /** The set of changes by which an import can be taken back. */
    @Transactional(readOnly = true)
    public Optional<Long> changes(long id) {
        List<?> found = entities.createNativeQuery(
                        "select change_set_id from import_run where id = ?1 and change_set_id is not null")
                .setParameter(1, id)
                .getResultList();
        return found.stream().map(ImportStore::number).findFirst();
    }

    /** Whether an import into a register could be taken back, as far as is known of it. */
    @Transactional(readOnly = true)
    public boolean isRemembered(long registerId) {
        return (Boolean) entities.createNativeQuery(
                        "select exists (select 1 from import_run where register_id = ?1 and change_set_id is not null)")
                .setParameter(1, registerId)
                .getSingleResult();
    }

    /** Makes the imports into a register such as can no longer be taken back. */
    @Transactional
    public void forget(long registerId) {
        entities.createNativeQuery("update import_run set change_set_id = null where register_id = ?1")
                .setParameter(1, registerId)
                .executeUpdate();
    }

    private Stored shown(Object row) {
        Object[] c = (Object[]) row;
        ImportRun.State state = ImportRun.State.valueOf((String) c[3]);
        ImportRun.ShownRun run = new ImportRun.ShownRun(
                number(c[0]),
                Optional.ofNullable((String) c[1]),
                (Boolean) c[13],
                (String) c[2],
                (String) c[14],
                state,
                "",
                state == ImportRun.State.RUNNING ? 0 : 1,
                number(c[4]),
                state == ImportRun.State.RUNNING ? number(c[17]) : number(c[4]),
                number(c[5]),
                number(c[6]),
                number(c[7]),
                number(c[8]),
                (String) c[9],
                Arrays.asList(json.readValue((String) c[10], ImportRun.Refusal[].class)),
                Optional.ofNullable((Number) c[15]).map(Number::longValue),
                (Boolean) c[16],
                (Instant) c[11],
                Optional.ofNullable((Instant) c[12]));
        return new Stored(run, Optional.ofNullable((Number) c[18]).map(Number::longValue));
    }

    private static long number(Object value) {
        return ((Number) value).longValue();
    }

    @Transactional
    public void keep(long registerId, String name, String plan, SignedIn who, Instant at) {
        entities.createNativeQuery("""
                        insert into import_plan (register_id, name, plan, changed_by, changed_at)
                        values (?1, ?2, cast(?3 as jsonb), ?4, ?5)
                        on conflict (register_id, name) do update
                        set plan = excluded.plan, changed_by = excluded.changed_by, changed_at = excluded.changed_at""")
                .setParameter(1, registerId)
                .setParameter(2, name)
                .setParameter(3, plan)
                .setParameter(4, who.id())
                .setParameter(5, at)
                .executeUpdate();
    }

    @Transactional(readOnly = true)
    public List<NamedPlan> plans(long registerId) {
        List<?> found = entities.createNativeQuery(
                        "select name, cast(plan as text) from import_plan where register_id = ?1 order by lower(name)")
                .setParameter(1, registerId)
                .getResultList();
        return found.stream()
                .map(row -> new NamedPlan((String) ((Object[]) row)[0], (String) ((Object[]) row)[1]))
                .toList();
    }
}
