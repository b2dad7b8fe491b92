package deftlens.server.administration;

import deftlens.server.administration.SetupService.SetupStep;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import java.util.List;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** The steps by which an administrator sets a new installation up. */
@RestController
@RequestMapping("/api/setup")
class SetupController {

    private final SetupService setup;

    SetupController(SetupService setup) {
        this.setup = setup;
    }

    /** Whether a step is left for later. */
    record Leaving(boolean later) {}

    /** The steps and how far they are; none where the installation did not begin empty. */
    @GetMapping
    List<SetupStep> steps(@AuthenticationPrincipal SignedIn who) {
        requireAdministrator(who);
        return setup.steps(who);
    }

    /** Leaves a step for later, or takes it up again. */
    @PutMapping("/{step}")
    List<SetupStep> leave(
            @PathVariable SetupService.Step step, @RequestBody Leaving leaving, @AuthenticationPrincipal SignedIn who) {
        requireAdministrator(who);
        return setup.leave(step, leaving.later(), who);
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator sets Deft Lens up.");
        }
    }
}
