package deftlens.server.platform;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Consumer;
import org.postgresql.PGConnection;
import org.postgresql.PGNotification;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.SmartLifecycle;
import org.springframework.stereotype.Component;

/** Hears what PostgreSQL tells all servers ({@code NOTIFY}), on one connection for all who want to know. */
@Component
public class Notices implements SmartLifecycle {

    private static final Logger LOG = LoggerFactory.getLogger(Notices.class);
    private static final Duration PATIENCE = Duration.ofSeconds(2);

    private final String url;
    private final String user;
    private final String password;
    private final Map<String, Consumer<String>> listeners = new ConcurrentHashMap<>();
    private final List<Hearing> hearing = new CopyOnWriteArrayList<>();
    private volatile boolean running;
    private volatile Thread thread;

    Notices(
            @Value("${spring.datasource.url}") String url,
            @Value("${spring.datasource.username}") String user,
            @Value("${spring.datasource.password}") String password) {
        this.url = url;
        this.user = user;
        this.password = password;
    }

    /** Somebody who wants to know whether anything can be missed. */
    public interface Hearing {

        /**
         * From now on nothing is missed.
         *
         * @param again whether something may have been missed before
         */
        void begins(boolean again);

        /** Nothing is heard until further notice. */
        void breaksOff();
    }

    /** Does something with the payload of each notice of a channel; before the server starts. It must not take long. */
    public void listen(String channel, Consumer<String> notice) {
        listeners.put(channel, notice);
    }

    /** Tells somebody when notices are heard and when they are not; before the server starts. */
    public void tell(Hearing whoever) {
        hearing.add(whoever);
    }

    @Override
    public void start() {
        // Said before the thread begins, which would otherwise find that it is not wanted and end.
        running = true;
        thread = Thread.ofVirtual().name("notices").start(this::listen);
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
                for (String channel : listeners.keySet()) {
                    statement.execute("listen " + channel);
                }
                boolean after = again;
                hearing.forEach(h -> h.begins(after));
                PGConnection own = connection.unwrap(PGConnection.class);
                while (isRunning()) {
                    PGNotification[] heard = own.getNotifications((int) PATIENCE.toMillis());
                    if (heard != null) {
                        List.of(heard).forEach(this::give);
                    }
                }
            } catch (SQLException e) {
                hearing.forEach(Hearing::breaksOff);
                if (isRunning()) {
                    LOG.warn("changes are not heard for a moment: {}", e.getMessage());
                    again = true;
                    rest();
                }
            }
        }
    }

    private void give(PGNotification one) {
        try {
            listeners.get(one.getName()).accept(one.getParameter());
        } catch (RuntimeException e) {
            LOG.warn("a notice could not be passed on", e);
        }
    }

    private static void rest() {
        try {
            Thread.sleep(PATIENCE);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
