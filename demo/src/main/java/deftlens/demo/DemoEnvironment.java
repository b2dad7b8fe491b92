package deftlens.demo;

import java.util.Map;
import org.springframework.boot.EnvironmentPostProcessor;
import org.springframework.boot.SpringApplication;
import org.springframework.core.env.ConfigurableEnvironment;
import org.springframework.core.env.MapPropertySource;

/** In demo mode, where no identity provider is set, people sign in through the stand-in. */
public class DemoEnvironment implements EnvironmentPostProcessor {

    @Override
    public void postProcessEnvironment(ConfigurableEnvironment environment, SpringApplication application) {
        boolean demo = environment.getProperty("deft.demo.enabled", Boolean.class, false);
        if (demo && environment.getProperty("deft.identity.issuer", "").isBlank()) {
            environment
                    .getPropertySources()
                    .addFirst(new MapPropertySource(
                            "stand-in identity provider",
                            Map.of(
                                    "deft.identity.issuer", "http://localhost:{port}" + StandInIdentity.PATH,
                                    "deft.identity.client-id", StandInIdentity.CLIENT,
                                    "deft.identity.client-secret", StandInIdentity.SECRET)));
        }
    }
}
