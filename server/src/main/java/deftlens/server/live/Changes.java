package deftlens.server.live;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.postgresql.PGConnection;
import org.postgresql.PGNotification;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.SmartLifecycle;
import org.springframework.stereotype.Component;

/**
 * Hears from PostgreSQL which registers' records change, and that people, registers or the organisation do, and tells those who
 * want to know. However many changes there are in a second, each register is told of at most a few times.
 */
@Component
public class Changes implements SmartLifecycle {

    private static final Logger LOG = LoggerFactory.getLogger(Changes.class);
    private static final String RECORDS = "deft_records";
    private static final String DEFINITIONS = "deft_definitions";
    /** Changes within this time are told together. */
    private static final Duration GATHERED = Duration.ofMillis(250);

    private static final Duration PATIENCE = Duration.ofSeconds(2);

    private final String url;
    private final String user;
    private final String password;
    /** When each register's records were last heard to have changed, by {@link System#nanoTime}. */
    private final Map<String, Long> heardAt = new ConcurrentHashMap<>();
    /** Since when nothing can have been missed, by the same clock; none while nothing is heard. */
    private volatile Optional<Long> hearingSince = Optional.empty();

    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    private volatile boolean running;
    private volatile Thread thread;

    Changes(
            @Value("${spring.datasource.url}") String url,
            @Value("${spring.datasource.username}") String user,
            @Value("${spring.datasource.password}") String password) {
        this.url = url;
        this.user = user;
        this.password = password;
    }

    /** Somebody who wants to know of changes. */
    interface Listener {

        /** @param keys the registers whose records changed; an empty set when some change may have been missed */
        void records(Set<String> keys);

        /** People, registers or the organisation were changed, or may have been. */
        void definitions();
    }

    /** Tells a listener of changes from now on. */
    void tell(Listener listener) {
        listeners.add(listener);
    }

    /** The registers whose records changed within a time up to now; nothing where some change may have been missed. */
    Optional<Set<String>> within(Duration time) {
        long from = System.nanoTime() - time.toNanos();
        return hearingSince
                .filter(since -> since < from)
                .map(since -> heardAt.entrySet().stream()
                        .filter(one -> one.getValue() >= from)
                        .map(Map.Entry::getKey)
                        .collect(Collectors.toSet()));
    }

    @Override
    public void start() {
        // Said before the thread begins, which would otherwise find that it is not wanted and end.
        running = true;
        thread = Thread.ofVirtual().name("changes").start(this::listen);
    }

    @Override
    public void stop() {
        running = false;
        Thread stopped = thread;
        thread = null;
        if (stopped != null) {
            stopped.interrupt();
        }
    }

    @Override
    public boolean isRunning() {
        return running;
    }

    private void listen() {
        boolean again = false;
        while (isRunning()) {
            try (Connection connection = DriverManager.getConnection(url, user, password);
                    Statement statement = connection.createStatement()) {
                statement.execute("listen " + RECORDS);
                statement.execute("listen " + DEFINITIONS);
                hearingSince = Optional.of(System.nanoTime());
                if (again) {
                    give(l -> l.records(Set.of()));
                    give(Listener::definitions);
                }
                PGConnection own = connection.unwrap(PGConnection.class);
                while (isRunning()) {
                    PGNotification[] heard = own.getNotifications((int) PATIENCE.toMillis());
                    if (heard == null || heard.length == 0) {
                        continue;
                    }
                    Thread.sleep(GATHERED);
                    PGNotification[] more = own.getNotifications();
                    tell(Stream.concat(Stream.of(heard), Stream.of(more == null ? new PGNotification[0] : more))
                            .toList());
                }
            } catch (SQLException e) {
                hearingSince = Optional.empty();
                if (isRunning()) {
                    LOG.warn("changes are not heard for a moment: {}", e.getMessage());
                    again = true;
                    rest();
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                return;
            }
        }
    }

    private static void rest() {
        try {
            Thread.sleep(PATIENCE);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private void tell(List<PGNotification> heard) {
        Set<String> keys = heard.stream()
                .filter(one -> one.getName().equals(RECORDS))
                .map(PGNotification::getParameter)
                .collect(Collectors.toSet());
        long now = System.nanoTime();
        keys.forEach(key -> heardAt.put(key, now));
        if (!keys.isEmpty()) {
            give(listener -> listener.records(keys));
        }
        if (heard.stream().anyMatch(one -> one.getName().equals(DEFINITIONS))) {
            give(Listener::definitions);
        }
    }

    private void give(Consumer<Listener> word) {
        for (Listener listener : listeners) {
            try {
                word.accept(listener);
            } catch (RuntimeException e) {
                LOG.warn("a change could not be told", e);
            }
        }
    }
}
