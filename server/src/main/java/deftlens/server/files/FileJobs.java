package deftlens.server.files;

import deftlens.server.platform.RecurringJob;
import java.time.Duration;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** What the clock does for files. */
@Configuration(proxyBeanMethods = false)
class FileJobs {

    @Bean
    RecurringJob forgetExports(ExportsController exports) {
        return RecurringJob.of(
                "forget-exports", "Forget exports that were not fetched", Duration.ofMinutes(10), exports::forget);
    }
}
