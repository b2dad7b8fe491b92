package deftlens.demo;

import deftlens.server.people.DemoSignIns;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.autoconfigure.AutoConfiguration;
import org.springframework.boot.autoconfigure.condition.ConditionalOnProperty;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Import;
import org.springframework.core.annotation.Order;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.web.SecurityFilterChain;

/** Adds the demo world to a server that is started with {@code deft.demo.enabled=true}. */
@AutoConfiguration
@ConditionalOnProperty(name = "deft.demo.enabled", havingValue = "true")
@Import({DemoLoader.class, Corrections.class, StandInIdentity.class})
public class DemoSettings {

    private final String scale;

    DemoSettings(@Value("${deft.demo.scale:usual}") String scale) {
        this.scale = scale;
    }

    /** How much there is to be: {@code usual} or {@code large}. */
    String scale() {
        return scale;
    }

    /** The stand-in provider asks nobody for a session: it is where people come from to get one. */
    @Bean
    @Order(0)
    SecurityFilterChain standInIdentity(HttpSecurity http) throws Exception {
        return http.securityMatcher(StandInIdentity.PATH + "/**")
                .authorizeHttpRequests(requests -> requests.anyRequest().permitAll())
                .csrf(csrf -> csrf.disable())
                .requestCache(cache -> cache.disable())
                .build();
    }

    /** The six sign-ins that the sign-in page offers. */
    @Bean
    DemoSignIns demoSignIns() {
        return () -> Staff.offered().stream()
                .map(m -> new DemoSignIns.SignIn(m.name(), m.fullName(), m.about(), Staff.PASSWORD))
                .toList();
    }
}
