package deftlens.demo;

import deftlens.server.people.DemoSignIns;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.autoconfigure.AutoConfiguration;
import org.springframework.boot.autoconfigure.condition.ConditionalOnProperty;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Import;

/** Adds the demo world to a server that is started with {@code deft.demo.enabled=true}. */
@AutoConfiguration
@ConditionalOnProperty(name = "deft.demo.enabled", havingValue = "true")
@Import(DemoLoader.class)
public class DemoSettings {

    private final String scale;

    DemoSettings(@Value("${deft.demo.scale:usual}") String scale) {
        this.scale = scale;
    }

    /** How much there is to be: {@code usual} or {@code large}. */
    String scale() {
        return scale;
    }

    /** The six sign-ins that the sign-in page offers. */
    @Bean
    DemoSignIns demoSignIns() {
        return () -> Staff.offered().stream()
                .map(m -> new DemoSignIns.SignIn(m.name(), m.fullName(), m.about(), Staff.PASSWORD))
                .toList();
    }
}
