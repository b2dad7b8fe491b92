package deftlens.server.jobs;

import deftlens.server.people.SignedIn;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What goes on without anybody waiting for it; for administrators. */
@RestController
@RequestMapping("/api/jobs")
class JobsController {

    private final Jobs jobs;

    JobsController(Jobs jobs) {
        this.jobs = jobs;
    }

    /** What the clock begins, with its last round, and the latest hundred jobs that somebody asked for, those that go on first. */
    @GetMapping
    Jobs.JobsOverview jobs(@AuthenticationPrincipal SignedIn who) {
        return jobs.overview(who);
    }

    /** Stops a job, on whatever server it runs; nothing of it is written. One that has ended is left alone. */
    @DeleteMapping("/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void stop(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        jobs.stop(id, who);
    }
}
