package deftlens.server.closing;

import deftlens.server.closing.ClosedPeriods.Closing;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.function.LongFunction;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;

/** What was closed and reopened, and the guards of the tables. */
@Component
class ClosedPeriodStore {

    private static final int MAX_SHOWN = 100;

    private final JdbcClient database;

    ClosedPeriodStore(JdbcClient database) {
        this.database = database;
    }

    /**
     * Has the table of a register refuse what would write its closed records, or no more; others that write end first.
     *
     * @throws org.springframework.dao.DataAccessException with SQLSTATE 55P03 where they have not ended after five seconds
     */
    void guard(String table, long register, boolean guard) {
        // Whoever wants to write meanwhile waits behind this.
        database.sql("set local lock_timeout = '5s'").update();
        database.sql("lock table " + table + " in share row exclusive mode").update();
        database.sql("select cast(deft_guard_closed(cast(? as regclass), ?, ?) as text)")
                .params(table, register, guard)
                .query(String.class)
                .optional();
    }

    void note(long register, Optional<LocalDate> upTo, long person, Instant at, String reason) {
        database.sql("""
                        insert into closed_period (register_id, up_to, person_id, at, reason)
                        values (?, cast(? as date), ?, ?, ?)""")
                .params(
                        register,
                        upTo.map(LocalDate::toString).orElse(null),
                        person,
                        at.atOffset(ZoneOffset.UTC),
                        reason)
                .update();
    }

    /** What was closed and reopened, the latest first, at most {@value #MAX_SHOWN}. */
    List<Closing> of(long register, LongFunction<String> names) {
        return database.sql("""
                        select up_to, person_id, at, reason from closed_period
                        where register_id = ? order by id desc limit ?""")
                .params(register, MAX_SHOWN)
                .query((row, n) -> new Closing(
                        Optional.ofNullable(row.getObject("up_to", LocalDate.class)),
                        names.apply(row.getLong("person_id")),
                        row.getObject("at", Timestamp.class).toInstant(),
                        row.getString("reason")))
                .list();
    }
}
