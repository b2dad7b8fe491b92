package deftlens.demo;

import deftlens.server.people.SignedIn;
import deftlens.server.records.RecordsService;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.node.StringNode;

/**
 * What was put right in the dues ledger in the weeks before today, so that there is something to look back at: its past is
 * known from the first day of the month before last.
 */
@Component
class Corrections {

    static final String REGISTER = "dues";

    private static final LocalTime TIME = LocalTime.of(16, 40);
    private static final LocalTime EVENING = LocalTime.of(18, 0);
    private static final LocalTime MORNING = LocalTime.of(9, 0);

    /**
     * One afternoon's work.
     *
     * @param daysAgo how many days before today
     * @param entries which entries, as SQL
     * @param most how many of them, the latest first
     * @param reason why
     */
    private record Correction(int daysAgo, String entries, int most, Map<String, String> values, String reason) {}

    private static final List<Correction> ALL = List.of(
            new Correction(
                    41,
                    "source = 'By hand' and account = '5300 Office'",
                    6,
                    Map.of("account", "5100 Repairs", "memo", "Moved from 5300"),
                    "Repairs were posted to the office account."),
            new Correction(
                    20,
                    "source = 'Payment' and site = 'North Quay'",
                    4,
                    Map.of("site", "Lantern Pier"),
                    "The pier keeps these payments."),
            new Correction(
                    3,
                    "source = 'Stores' and cost_centre = 'Yard'",
                    5,
                    Map.of("cost_centre", "Locks"),
                    "Stores for the locks."));

    private final RecordsService records;
    private final JdbcClient database;
    private final TransactionTemplate inOne;

    Corrections(RecordsService records, JdbcClient database, PlatformTransactionManager transactions) {
        this.records = records;
        this.database = database;
        this.inOne = new TransactionTemplate(transactions);
    }

    /** Makes them in somebody's name. */
    void make(SignedIn who, LocalDate today, ZoneId zone) {
        LocalDate known = today.withDayOfMonth(1).minusMonths(2);
        Timestamp since = Timestamp.from(known.atStartOfDay(zone).toInstant());
        database.sql("update register set past_since = ? where key = '" + REGISTER + "'")
                .param(since)
                .update();
        inOne.executeWithoutResult(_ -> datePostings(today, known, zone));
        for (Correction correction : ALL) {
            Timestamp at = Timestamp.from(today.minusDays(correction.daysAgo())
                    .atTime(TIME)
                    .atZone(zone)
                    .toInstant());
            long before = database.sql("select coalesce(max(id), 0) from change_set")
                    .query(Long.class)
                    .single();
            database.sql("select id from records.dues where posted_at < cast(? as timestamptz) - interval '1 day' and "
                            + correction.entries() + " order by posted_at desc, id desc limit " + correction.most())
                    .param(at)
                    .query(Long.class)
                    .list()
                    .forEach(id -> records.change(
                            REGISTER,
                            id,
                            correction.values().entrySet().stream()
                                    .collect(
                                            Collectors.toMap(Map.Entry::getKey, v -> StringNode.valueOf(v.getValue()))),
                            Optional.empty(),
                            Optional.of(correction.reason()),
                            who));
            // The clock of the server stands at today: they were made then.
            database.sql("update change_set set at = ? where id > ?")
                    .params(at, before)
                    .update();
        }
    }

    /** Has the entries since then come in on the evening of the day that they were posted on; those of today, at the start of work. */
    private void datePostings(LocalDate today, LocalDate known, ZoneId zone) {
        for (LocalDate day = known; !day.isAfter(today); day = day.plusDays(1)) {
            Instant came = (day.equals(today) ? day.atTime(MORNING) : day.atTime(EVENING))
                    .atZone(zone)
                    .toInstant();
            long set = database.sql("insert into change_set (register_id, at, origin)"
                            + " select id, ?, 'DATABASE' from register where key = '" + REGISTER + "' returning id")
                    .param(Timestamp.from(came))
                    .query(Long.class)
                    .single();
            // It is no change of theirs that they are dated.
            database.sql("select set_config('deft.reshaping', 'on', true)")
                    .query(String.class)
                    .single();
            database.sql("update records.dues set \"@since\" = ? where posted_at >= ? and posted_at < ?")
                    .params(
                            set,
                            Timestamp.from(day.atStartOfDay(zone).toInstant()),
                            Timestamp.from(day.plusDays(1).atStartOfDay(zone).toInstant()))
                    .update();
        }
    }
}
