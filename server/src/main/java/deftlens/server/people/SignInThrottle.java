package deftlens.server.people;

import java.sql.Timestamp;
import java.time.Duration;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * Slows down guessing. After five wrong passwords for one name from one address, further tries of that name from there wait,
 * twice as long each time, up to a quarter of an hour; nobody elsewhere waits for them. Many names tried from one address make
 * the address wait, a minute at the most, but not for names that have signed in from there before. Failures count half a
 * quarter of an hour later, and so on.
 *
 * <p>A try is counted before its password is checked and taken back when it was right, so that tries made at once cannot all
 * pass; it is counted in the database, so that servers and restarts make no difference. The time is the database's own, since
 * this is about how much of it really passes.
 */
@Component
class SignInThrottle {

    private static final int FREE_FOR_NAME = 5;
    private static final int FREE_FOR_ADDRESS = 30;
    private static final Duration FIRST_WAIT = Duration.ofSeconds(5);
    private static final Duration LONGEST_WAIT = Duration.ofMinutes(15);
    private static final Duration FIRST_WAIT_OF_ADDRESS = Duration.ofSeconds(1);
    private static final Duration LONGEST_WAIT_OF_ADDRESS = Duration.ofMinutes(1);
    private static final Duration HALVED_AFTER = Duration.ofMinutes(15);
    private static final int FORGOTTEN_AFTER_HOURS = 24;
    private static final int KNOWN_FOR_DAYS = 90;
    private static final String WHOLE_ADDRESS = "";

    /** Counts one more try, unless the last one left a wait that is not over. */
    private static final String RESERVE = """
            insert into sign_in_try as t (name, address, failures, tried_at, wait_until)
            values (?, ?, 1, clock_timestamp(), clock_timestamp())
            on conflict (name, address) do update set
                failures = %1$s + 1,
                tried_at = clock_timestamp(),
                wait_until = clock_timestamp() + case when round(%1$s + 1) < ? then interval '0'
                    else least(?, ? * power(2, least(round(%1$s + 1) - ?, 20))) * interval '1 second' end
            where t.wait_until <= clock_timestamp()
            """.formatted(
                    "t.failures * power(0.5, greatest(extract(epoch from clock_timestamp() - t.tried_at), 0) / "
                            + HALVED_AFTER.toSeconds() + ")");

    private final JdbcTemplate database;

    SignInThrottle(JdbcTemplate database) {
        this.database = database;
    }

    /** Counts a try that is about to be made; how long to wait instead, when it may not be made yet. */
    @Transactional(propagation = Propagation.NOT_SUPPORTED)
    public Optional<Duration> reserve(String name, String address) {
        String key = key(name);
        boolean known = isKnown(key, address);
        if (!known
                && !reserved(
                        WHOLE_ADDRESS, address, FREE_FOR_ADDRESS, FIRST_WAIT_OF_ADDRESS, LONGEST_WAIT_OF_ADDRESS)) {
            return Optional.of(waitOf(WHOLE_ADDRESS, address));
        }
        if (!reserved(key, address, FREE_FOR_NAME, FIRST_WAIT, LONGEST_WAIT)) {
            if (!known) {
                takeBack(WHOLE_ADDRESS, address);
            }
            return Optional.of(waitOf(key, address));
        }
        return Optional.empty();
    }

    /** Notes that the password was right: the name starts afresh there, and is known there from now on. */
    @Transactional(propagation = Propagation.NOT_SUPPORTED)
    public void succeeded(String name, String address) {
        String key = key(name);
        if (!isKnown(key, address)) {
            takeBack(WHOLE_ADDRESS, address);
        }
        database.update(
                "update sign_in_try set failures = 0, wait_until = clock_timestamp(), known_at = clock_timestamp() where name = ? and address = ?",
                key,
                address);
    }

    /** Forgets what no longer counts. */
    void forget() {
        database.update(
                "delete from sign_in_try where tried_at < clock_timestamp() - ? * interval '1 hour' and (known_at is null or known_at < clock_timestamp() - ? * interval '1 day')",
                FORGOTTEN_AFTER_HOURS,
                KNOWN_FOR_DAYS);
    }

    private boolean isKnown(String name, String address) {
        return Boolean.TRUE.equals(database.queryForObject(
                "select exists (select from sign_in_try where name = ? and address = ? and known_at > clock_timestamp() - ? * interval '1 day')",
                Boolean.class,
                name,
                address,
                KNOWN_FOR_DAYS));
    }

    private boolean reserved(String name, String address, int free, Duration first, Duration longest) {
        return database.update(RESERVE, name, address, free, longest.toSeconds(), first.toSeconds(), free) == 1;
    }

    private void takeBack(String name, String address) {
        database.update(
                "update sign_in_try set failures = greatest(failures - 1, 0), wait_until = clock_timestamp() where name = ? and address = ?",
                name,
                address);
    }

    private Duration waitOf(String name, String address) {
        List<Map<String, Object>> found = database.queryForList(
                "select wait_until, clock_timestamp() as now from sign_in_try where name = ? and address = ?",
                name,
                address);
        if (found.isEmpty()) {
            return Duration.ZERO;
        }
        Duration left = Duration.between(
                ((Timestamp) found.get(0).get("now")).toInstant(),
                ((Timestamp) found.get(0).get("wait_until")).toInstant());
        return left.isNegative() ? Duration.ZERO : left;
    }

    private static String key(String name) {
        return name.strip().toLowerCase(Locale.ROOT);
    }
}
