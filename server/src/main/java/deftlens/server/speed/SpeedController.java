package deftlens.server.speed;

import deftlens.server.lanes.Lane;
import deftlens.server.people.SignedIn;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** How quick the shared views of a register are, and the indexes that help them. */
@RestController
@RequestMapping("/api/registers/{key}/indexes")
class SpeedController {

    private final SpeedService speed;

    SpeedController(SpeedService speed) {
        this.speed = speed;
    }

    /** A proposal that was accepted. */
    record AcceptedIndex(@NotNull String token) {}

    /** The indexes there are, and those on their way. */
    @GetMapping
    SpeedService.Speed indexes(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return Lane.BACKGROUND.run(() -> speed.indexes(key, who));
    }

    /** Times the shared views and proposes indexes for the slow ones, with the gain measured on a sample. */
    @PostMapping("/proposals")
    SpeedService.Speed propose(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        return Lane.BACKGROUND.run(() -> speed.propose(key, who));
    }

    /** Builds a proposed index without holding up those who write. */
    @PostMapping
    @ResponseStatus(HttpStatus.ACCEPTED)
    SpeedService.Speed build(
            @PathVariable String key,
            @Valid @RequestBody AcceptedIndex accepted,
            @AuthenticationPrincipal SignedIn who) {
        return Lane.BACKGROUND.run(() -> speed.build(key, accepted.token(), who));
    }

    /** Drops an index that was built here. */
    @DeleteMapping("/{name}")
    SpeedService.Speed drop(
            @PathVariable String key, @PathVariable String name, @AuthenticationPrincipal SignedIn who) {
        return Lane.BACKGROUND.run(() -> speed.drop(key, name, who));
    }
}
