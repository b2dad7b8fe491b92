package deftlens.server.records;

import deftlens.server.jobs.JobKind;
import deftlens.server.jobs.JobRun;
import java.util.function.Consumer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** What of changes of many records is done as jobs. */
@Configuration(proxyBeanMethods = false)
class ManyChangeJobs {

    private record Kind(String name, String label, Consumer<JobRun> work) implements JobKind {
        @Override
        public void run(JobRun run) {
            work.accept(run);
        }
    }

    @Bean
    JobKind changeMany(ManyChangesService changes) {
        return new Kind(ManyChangesService.CHANGE, "Change many records", changes::change);
    }

    @Bean
    JobKind undoChange(MadeChangesService changes) {
        return new Kind(MadeChangesService.UNDO, "Take a change back", changes::undo);
    }
}
