package deftlens.server.rows;

import deftlens.core.condition.Condition;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.question.Question;
import deftlens.server.registers.FieldOrigin;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import jakarta.persistence.EntityManager;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Counts that are kept while records are written, for whole registers: what a reader without limits asks without criteria. The
 * database keeps them, exactly, as a base and the changes since.
 */
@Component
class KeptCounts {

    /** The kept count of all records. */
    private static final String TOTAL = "@total";

    /** The kept counts by the hour or day of the main date. */
    private static final String MAIN = "@main";

    private static final int FOLDED_AT_ONCE = 20_000;

    private final EntityManager entities;
    private final RegisterCatalogue registers;

    KeptCounts(EntityManager entities, RegisterCatalogue registers) {
        this.entities = entities;
        this.registers = registers;
    }

    /** A value, or none, with its records. */
    record Kept(Optional<String> value, long records) {}

    /** How many records there are in a register whose reader sees all of them. */
    Optional<Long> total(Question question) {
        return isWhole(question)
                ? Optional.of(
                        read(question, TOTAL).stream().mapToLong(Kept::records).sum())
                : Optional.empty();
    }

    /** The values of a field in the whole register, where they are kept and that is what is asked. */
    Optional<List<Kept>> values(Question question, Field field) {
        boolean kept = field.type().isListed() || field.type() == FieldType.YES_NO;
        return kept
                        && isWhole(question)
                        && asksEverything(question)
                        && question.registerForReader().notes().get(field.key()).origin() == FieldOrigin.COLUMN
                ? Optional.of(read(question, field.key()))
                : Optional.empty();
    }

    /** The records by the hour (since 1970, UTC) of the main moment, or by the main day, where that is what is asked. */
    Optional<List<Kept>> main(Question question, Field field) {
        return isMain(question, field) ? Optional.of(read(question, MAIN)) : Optional.empty();
    }

    private boolean isMain(Question question, Field field) {
        return question.registerForReader().main().filter(field::equals).isPresent()
                && isWhole(question)
                && asksEverything(question);
    }

    /** The records of a local day. */
    record KeptDay(LocalDate day, long records) {}

    /**
     * The records by the local day of the main moment.
     *
     * @param firstHour the hour of the first record, since 1970 in UTC
     * @param lastHour the hour of the last one
     */
    record KeptDays(List<KeptDay> days, long firstHour, long lastHour) {}

    /** The records by the local day of the main moment, in a zone; where that is what is asked, and there are any. */
    Optional<KeptDays> days(Question question, Field field, ZoneId zone) {
        if (!isMain(question, field) || field.type() != FieldType.MOMENT) {
            return Optional.empty();
        }
        List<?> rows = entities.createNativeQuery("""
                        select cast(to_timestamp(h * 3600) at time zone ?1 as date), cast(sum(n) as bigint), min(h), max(h)
                        from (select cast(value as bigint) as h, n from kept_count
                              where register_id = ?2 and field = '@main' and value is not null
                              union all
                              select cast(value as bigint), n from kept_delta
                              where register_id = ?2 and field = '@main' and value is not null) kept
                        group by 1 having sum(n) <> 0 order by 1""")
                .setParameter(1, zone.getId())
                .setParameter(2, question.registerForReader().id())
                .getResultList();
        List<Object[]> found = rows.stream().map(Object[].class::cast).toList();
        if (found.isEmpty()) {
            return Optional.empty();
        }
        return Optional.of(new KeptDays(
                found.stream()
                        .map(r -> new KeptDay(
                                r[0] instanceof LocalDate day ? day : ((java.sql.Date) r[0]).toLocalDate(),
                                ((Number) r[1]).longValue()))
                        .toList(),
                ((Number) found.get(0)[2]).longValue(),
                ((Number) found.get(found.size() - 1)[3]).longValue()));
    }

    /** Whether nothing is asked that could leave a record out. */
    static boolean asksEverything(Question question) {
        return question.besides().isEmpty() && question.condition().normal().equals(Condition.EVERYTHING);
    }

    private boolean isWhole(Question question) {
        RegisterForReader described = question.registerForReader();
        return described.can(Origin.Capability.COUNTS)
                && question.recordsAt().isEmpty()
                && registers.limits(described.register().key(), question.who()).isEmpty();
    }

    private List<Kept> read(Question question, String field) {
        List<?> rows = entities.createNativeQuery("""
                        select value, cast(sum(n) as bigint) from (
                            select value, n from kept_count where register_id = ?1 and field = ?2
                            union all
                            select value, n from kept_delta where register_id = ?1 and field = ?2) kept
                        group by value having sum(n) <> 0""")
                .setParameter(1, question.registerForReader().id())
                .setParameter(2, field)
                .getResultList();
        return rows.stream()
                .map(Object[].class::cast)
                .map(r -> new Kept(Optional.ofNullable((String) r[0]), ((Number) r[1]).longValue()))
                .toList();
    }

    /** Adds the changes to the base, some at a time, so that reading stays quick however many there are. */
    @Transactional
    void fold() {
        entities.createNativeQuery("select deft_fold(" + FOLDED_AT_ONCE + ")").getSingleResult();
    }
}
