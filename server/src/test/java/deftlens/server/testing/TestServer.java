package deftlens.server.testing;

import deftlens.server.Application;
import deftlens.testing.TestCluster;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Map;
import java.util.TreeMap;
import org.junit.jupiter.api.extension.BeforeAllCallback;
import org.junit.jupiter.api.extension.ExtensionContext;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.web.server.context.WebServerApplicationContext;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.ConfigurableApplicationContext;

/**
 * The one server that all test classes of a module speak HTTP to, on a fresh database in the shared cluster. Before each
 * class everything that people write (views, trail, tokens) is taken out again; records and people stay.
 */
public class TestServer implements BeforeAllCallback {

    /** The day the server's clock stands at, at 09:30 in London. */
    public static final String TODAY = "2026-11-23";

    private static ConfigurableApplicationContext context;
    private static String database;
    private static String[] arguments;

    @Override
    public void beforeAll(ExtensionContext extension) throws SQLException {
        start();
        sql(cleaning());
    }

    /** What is taken out before each class. */
    protected String cleaning() {
        return "truncate trail, view_share, kept_view, personal_token, sign_in_try, spring_session cascade";
    }

    /** Settings beyond the usual ones. */
    protected Map<String, String> settings() {
        return Map.of();
    }

    /** Runs once, when the server answers for the first time. */
    protected void prepare(ConfigurableApplicationContext started) {
        TestWorld.load(started);
    }

    /** The server's address, without a slash at the end. */
    public static String address() {
        return address(context);
    }

    /** The address of another server, without a slash at the end. */
    public static String address(ConfigurableApplicationContext server) {
        return "http://localhost:"
                + ((WebServerApplicationContext) server).getWebServer().getPort();
    }

    /** Another server on the same database; whoever starts it closes it. */
    public static ConfigurableApplicationContext another() {
        return SpringApplication.run(Application.class, arguments);
    }

    /** A bean of the server, for what cannot be reached by HTTP. */
    public static <T> T bean(Class<T> type) {
        return context.getBean(type);
    }

    /** Where the server's events are published. */
    public static ApplicationEventPublisher events() {
        return context;
    }

    /** A bean of the server, where there are several of its kind. */
    public static <T> T bean(String name, Class<T> type) {
        return context.getBean(name, type);
    }

    /** The first column of the first row of a query of one's own, as text. */
    public static String query(String sql) throws SQLException {
        try (Connection connection = connect();
                Statement statement = connection.createStatement();
                var result = statement.executeQuery(sql)) {
            result.next();
            return result.getString(1);
        }
    }

    /** Runs SQL of one's own. */
    public static void sql(String sql) throws SQLException {
        try (Connection connection = connect();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        }
    }

    /** A connection of one's own to the server's database. */
    public static Connection connect() throws SQLException {
        return DriverManager.getConnection(database, TestCluster.user(), TestCluster.password());
    }

    private synchronized void start() {
        if (context != null) {
            return;
        }
        database =
                TestCluster.freshDatabase("deft_" + getClass().getSimpleName().toLowerCase(java.util.Locale.ROOT));
        Map<String, String> all = new TreeMap<>(Map.of(
                "server.port",
                "0",
                "spring.datasource.url",
                database,
                "spring.datasource.username",
                TestCluster.user(),
                "spring.datasource.password",
                TestCluster.password(),
                "deft.clock.on",
                TODAY,
                // Tests that come from elsewhere say so as a proxy does.
                "deft.proxies",
                "127.0.0.1",
                // So little that a test can come to it.
                "deft.limits.files-of-one",
                "100MB",
                // Tests beat themselves: a beat between two words would come at any time.
                "deft.limits.beat",
                "1h",
                // A server that is gone is missed sooner.
                "deft.limits.heartbeat",
                "2s",
                "spring.main.banner-mode",
                "off"));
        all.putAll(settings());
        arguments = all.entrySet().stream()
                .map(e -> "--" + e.getKey() + "=" + e.getValue())
                .toArray(String[]::new);
        context = SpringApplication.run(Application.class, arguments);
        prepare(context);
    }
}
