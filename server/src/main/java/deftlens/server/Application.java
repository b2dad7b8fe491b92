package deftlens.server;

import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.security.autoconfigure.UserDetailsServiceAutoConfiguration;

/** The server of Deft Lens. */
@SpringBootApplication(exclude = UserDetailsServiceAutoConfiguration.class)
public class Application {

    /**
     * How many threads of the machine the virtual ones take turns on. They give way to each other only when they wait; with as
     * few as there are processors, two requests that compute (a password's hash, a long answer's text) would stop all others.
     * With more, the machine itself lets them take turns.
     */
    private static final String CARRIERS = "jdk.virtualThreadScheduler.parallelism";

    private static final int LEAST_CARRIERS = 16;

    /** Starts the server; its settings are in application.yaml and on the command line. */
    public static void main(String[] arguments) {
        if (System.getProperty(CARRIERS) == null) {
            int processors = Runtime.getRuntime().availableProcessors();
            System.setProperty(CARRIERS, String.valueOf(Math.max(LEAST_CARRIERS, 4 * processors)));
        }
        SpringApplication.run(Application.class, arguments);
    }
}
