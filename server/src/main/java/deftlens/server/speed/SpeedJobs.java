package deftlens.server.speed;

import deftlens.server.jobs.JobKind;
import deftlens.server.jobs.JobRun;
import org.springframework.stereotype.Component;

/** Indexes are built as jobs. */
@Component
class SpeedJobs implements JobKind {

    private final SpeedService speed;

    SpeedJobs(SpeedService speed) {
        this.speed = speed;
    }

    @Override
    public String name() {
        return SpeedService.BUILD;
    }

    @Override
    public String label() {
        return "Build an index";
    }

    @Override
    public void run(JobRun job) {
        speed.build(job);
    }
}
