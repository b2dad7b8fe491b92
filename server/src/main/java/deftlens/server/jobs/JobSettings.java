package deftlens.server.jobs;

import deftlens.server.platform.RecurringJob;
import java.time.Duration;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

@Configuration(proxyBeanMethods = false)
class JobSettings {

    private static final Duration KEPT = Duration.ofDays(60);

    @Bean
    RecurringJob forgetJobs(JobStore store) {
        return RecurringJob.of("forget-jobs", "Forget old jobs", Duration.ofHours(6), () -> store.forget(KEPT));
    }
}
