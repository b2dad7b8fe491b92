package deftlens.testing;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;

/**
 * The PostgreSQL cluster that all tests share, started by the project's own script when it does not run yet and left
 * running for the next test class. Each caller takes a database of its own.
 */
public final class TestCluster {

    private static final Path HOME = root().resolve(".deft/test");
    private static boolean up;

    private TestCluster() {}

    /** The project's root directory. */
    public static Path root() {
        String given = System.getProperty("deft.root");
        Path at = given != null ? Path.of(given) : Path.of("").toAbsolutePath();
        while (!Files.exists(at.resolve("deft"))) {
            at = at.getParent();
        }
        return at;
    }

    /** Makes an empty database of that name, replacing one that is there, and gives its JDBC address. */
    public static synchronized String freshDatabase(String name) {
        start();
        try (Connection connection = DriverManager.getConnection(url("postgres"), user(), password());
                Statement statement = connection.createStatement()) {
            statement.execute("drop database if exists \"" + name + "\" with (force)");
            statement.execute("create database \"" + name + "\"");
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
        return url(name);
    }

    /** The role that tests connect as. */
    public static String user() {
        return "deft";
    }

    /** The role's password. */
    public static String password() {
        return read("password");
    }

    private static String url(String database) {
        return "jdbc:postgresql://127.0.0.1:" + read("port") + "/" + database;
    }

    private static void start() {
        if (up) {
            return;
        }
        try {
            Process process = new ProcessBuilder(root().resolve("deft").toString(), "cluster", "up", HOME.toString())
                    .redirectErrorStream(true)
                    .redirectOutput(ProcessBuilder.Redirect.INHERIT)
                    .start();
            if (process.waitFor() != 0) {
                throw new IllegalStateException("the test cluster did not start");
            }
            up = true;
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    private static String read(String file) {
        try {
            return Files.readString(HOME.resolve(file)).strip();
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }
}
