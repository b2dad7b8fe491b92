package deftlens.server;

import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.security.autoconfigure.UserDetailsServiceAutoConfiguration;
import org.springframework.scheduling.annotation.EnableScheduling;

/** The server of Deft Lens. */
@EnableScheduling
@SpringBootApplication(exclude = UserDetailsServiceAutoConfiguration.class)
public class Application {

    /** Starts the server; its settings are in application.yaml and on the command line. */
    public static void main(String[] arguments) {
        SpringApplication.run(Application.class, arguments);
    }
}
