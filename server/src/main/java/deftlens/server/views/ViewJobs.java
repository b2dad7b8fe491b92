package deftlens.server.views;

import deftlens.server.platform.RecurringJob;
import java.time.Duration;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** What the clock does for views. */
@Configuration(proxyBeanMethods = false)
class ViewJobs {

    @Bean
    RecurringJob nightlyLook(Attention attention) {
        return new RecurringJob(
                "nightly-look",
                "Look at all views and registers, at night",
                Duration.ofDays(1),
                Duration.ofMinutes(10),
                attention::nightly);
    }

    @Bean
    RecurringJob forgetPages(Presence presence) {
        return RecurringJob.of(
                "forget-pages", "Forget pages that fell silent", Duration.ofMinutes(10), presence::forget);
    }
}
