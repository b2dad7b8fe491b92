package deftlens.server.platform;

import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Supplier;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.support.TransactionSynchronizationManager;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * What was read of people, registers and the organisation, for requests that only read. Every change of these raises a number
 * in the database as it commits, by whatever way it is made. A request asks for the number once, and takes what was read
 * under the same one; so it never sees anything older than its own beginning, on any number of servers.
 *
 * <p>Only values that nobody can change are kept, and never those that the organisation's records are made of.
 */
@Component
public class EpochCache {

    /** More than there are people and registers in most organisations; beyond it everything is read anew. */
    private static final int MOST = 5_000;

    private final JdbcTemplate database;
    private final TransactionTemplate transaction;
    private final ThreadLocal<Long> reading = new ThreadLocal<>();
    private final AtomicReference<Kept> kept = new AtomicReference<>(new Kept(-1, Map.of()));

    EpochCache(JdbcTemplate database, PlatformTransactionManager transactions) {
        this.database = database;
        this.transaction = new TransactionTemplate(transactions);
        transaction.setReadOnly(true);
    }

    private record Kept(long epoch, Map<Object, Object> values) {}

    /** A request begins that reads, as far as is known; from here on it may be answered from what is remembered. */
    public void begin() {
        reading.set(epoch());
    }

    /** The request ends, or it turns out that it changes something: nothing is taken from memory any more. */
    public void end() {
        reading.remove();
    }

    /**
     * A value as it is remembered, or as it is read now.
     *
     * @param key tells it apart from every other value that is remembered; a record of the class that asks is a good one
     * @param read reads it from the database, in a transaction; must not give null
     */
    public <T> T get(Object key, Supplier<T> read) {
        return find(key, () -> Optional.of(read.get())).orElseThrow();
    }

    /**
     * A value as it is remembered, or as it is read now. That there is none is not remembered: for keys that a stranger chooses, who could
     * fill everything up with what is not there.
     *
     * @param key tells it apart from every other value that is remembered
     * @param read reads it from the database, in a transaction
     */
    @SuppressWarnings("unchecked")
    public <T> Optional<T> find(Object key, Supplier<Optional<T>> read) {
        Long at = reading.get();
        if (at == null || isChanging()) {
            return inTransaction(read);
        }
        Map<Object, Object> values = at(at);
        Object known = values.get(key);
        if (known != null) {
            return Optional.of((T) known);
        }
        Optional<T> fresh = inTransaction(read);
        // What was read while something changed may be of either side of it.
        if (fresh.isPresent() && epoch() == at && values.size() < MOST) {
            values.put(key, fresh.get());
        }
        return fresh;
    }

    private <T> T inTransaction(Supplier<T> read) {
        return transaction.execute(s -> read.get());
    }

    /**
     * How often people, registers and the organisation have been changed, as the request that reads sees it; now, for whoever
     * else asks.
     */
    public long number() {
        Long at = reading.get();
        return at == null ? epoch() : at;
    }

    /** What is remembered under a number; nothing for a request that began before the latest change. */
    private Map<Object, Object> at(long epoch) {
        Kept now = kept.updateAndGet(k -> k.epoch < epoch ? new Kept(epoch, new ConcurrentHashMap<>()) : k);
        return now.epoch == epoch ? now.values : new ConcurrentHashMap<>();
    }

    private static boolean isChanging() {
        return TransactionSynchronizationManager.isActualTransactionActive()
                && !TransactionSynchronizationManager.isCurrentTransactionReadOnly();
    }

    private long epoch() {
        Long epoch = database.queryForObject("select epoch from change_count", Long.class);
        return epoch == null ? -1 : epoch;
    }
}
