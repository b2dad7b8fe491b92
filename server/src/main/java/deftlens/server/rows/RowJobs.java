package deftlens.server.rows;

import deftlens.server.platform.RecurringJob;
import java.time.Duration;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** What the clock does for the reading of records. */
@Configuration(proxyBeanMethods = false)
class RowJobs {

    @Bean
    RecurringJob foldCounts(KeptCounts counts) {
        return RecurringJob.of(
                "fold-counts", "Add up the counts that are kept of records", Duration.ofSeconds(20), counts::fold);
    }
}
