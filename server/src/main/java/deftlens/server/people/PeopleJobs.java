package deftlens.server.people;

import deftlens.server.platform.RecurringJob;
import java.time.Duration;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** What the clock does for people. */
@Configuration(proxyBeanMethods = false)
class PeopleJobs {

    @Bean
    RecurringJob forgetTries(SignInThrottle throttle) {
        return RecurringJob.of(
                "forget-tries", "Forget wrong passwords that no longer count", Duration.ofHours(1), throttle::forget);
    }
}
