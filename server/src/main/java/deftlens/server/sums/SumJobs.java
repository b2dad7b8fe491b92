package deftlens.server.sums;

import deftlens.server.platform.RecurringJob;
import java.time.Duration;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** What the clock does for kept sums. */
@Configuration(proxyBeanMethods = false)
class SumJobs {

    @Bean
    RecurringJob foldSums(SumsService sums) {
        return RecurringJob.of(
                "fold-sums", "Add up the sums that are kept of records", Duration.ofSeconds(20), sums::fold);
    }
}
