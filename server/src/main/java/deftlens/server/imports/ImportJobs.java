package deftlens.server.imports;

import deftlens.server.jobs.JobKind;
import deftlens.server.platform.RecurringJob;
import java.time.Duration;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** What of imports is done as jobs. */
@Configuration(proxyBeanMethods = false)
class ImportJobs {

    @Bean
    JobKind bringIn(ImportService imports) {
        return new ImportService.Kind(ImportService.BRING_IN, "Import a file", imports::bringIn, imports);
    }

    @Bean
    JobKind takeBack(ImportService imports) {
        return new ImportService.Kind(ImportService.TAKE_BACK, "Take an import back", imports::takeBack, imports);
    }

    @Bean
    RecurringJob forgetFiles(ImportService imports) {
        return RecurringJob.of(
                "forget-files",
                "Forget files that were sent and not imported",
                Duration.ofMinutes(10),
                imports::forgetOld);
    }
}
