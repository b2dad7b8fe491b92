package deftlens.server.lanes;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.ReadsOnly;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Questions that are on their way, by the names that their askers gave them. */
@RestController
@RequestMapping("/api/questions/{name}")
class RunningQuestionsController {

    private final QuestionLanes lanes;

    RunningQuestionsController(QuestionLanes lanes) {
        this.lanes = lanes;
    }

    /** Stops a question of one's own in the database; one that is answered already is left alone. */
    @ReadsOnly
    @DeleteMapping
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void stop(@PathVariable String name, @AuthenticationPrincipal SignedIn who) {
        lanes.stop(who, name);
    }

    /**
     * How far a question is that was asked under a name: tried, waiting (with how many slow questions are before it) or
     * running. 404 once it is answered.
     */
    @GetMapping
    QuestionLanes.Progress progress(@PathVariable String name, @AuthenticationPrincipal SignedIn who) {
        return lanes.progress(who, name).orElseThrow(() -> Problem.notFound("This question"));
    }
}
