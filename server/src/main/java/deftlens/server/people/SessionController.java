package deftlens.server.people;

import deftlens.server.organisation.OrganisationService;
import deftlens.server.platform.Admits;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Signing in and out, and looking as somebody else. */
@RestController
@RequestMapping("/api")
class SessionController {

    private final PeopleService people;
    private final PeopleAdministration administration;
    private final OrganisationService organisation;
    private final SessionsService sessions;
    private final SignInThrottle throttle;
    private final SessionDescriptions descriptions;
    private final Optional<DemoSignIns> demo;
    private final Optional<IdentityOffer> identity;

    SessionController(
            PeopleService people,
            PeopleAdministration administration,
            OrganisationService organisation,
            SessionsService sessions,
            SignInThrottle throttle,
            SessionDescriptions descriptions,
            Optional<DemoSignIns> demo,
            Optional<IdentityOffer> identity) {
        this.people = people;
        this.administration = administration;
        this.organisation = organisation;
        this.sessions = sessions;
        this.throttle = throttle;
        this.descriptions = descriptions;
        this.demo = demo;
        this.identity = identity;
    }

    record Credentials(
            @NotNull @Size(max = 200) String name,
            @NotNull @Size(max = 200) String password) {}

    /**
     * What anybody may know before signing in: the organisation, in demo mode who can be tried, and whether there is an
     * identity provider.
     */
    record Welcome(String organisation, List<DemoSignIns.SignIn> demo, Optional<IdentityOffer> identity) {}

    /** Whom an administrator wants to look as. */
    record LookingAs(@NotNull @AsText Long person) {}

    /** What the sign-in page needs to know, for everybody; it sets the cookie XSRF-TOKEN, as every GET does. */
    @Admits(strangers = true, beforePasswordChange = true)
    @GetMapping("/welcome")
    Welcome welcome() {
        return new Welcome(organisation.name(), demo.map(DemoSignIns::offered).orElse(List.of()), identity);
    }

    /** Who is signed in, and what holds for them. */
    @Admits(strangers = true, beforePasswordChange = true)
    @GetMapping("/session")
    SessionDescriptions.Session session(@AuthenticationPrincipal SignedIn who) {
        if (who == null) {
            throw new Problem(HttpStatus.UNAUTHORIZED, "not-signed-in", "Sign in first.");
        }
        return descriptions.of(who);
    }

    /** Signs in with name and password; sets the session’s cookie. After wrong passwords it takes longer and longer until the next try. */
    @Admits(strangers = true, beforePasswordChange = true, readers = true)
    @PostMapping("/session")
    ResponseEntity<?> signIn(
            @Valid @RequestBody Credentials credentials, HttpServletRequest request, HttpServletResponse response) {
        String address = request.getRemoteAddr();
        Optional<Duration> wait = throttle.reserve(credentials.name(), address);
        if (wait.isPresent()) {
            long seconds = wait.get().toSeconds() + 1;
            return ResponseEntity.status(HttpStatus.TOO_MANY_REQUESTS)
                    .header("Retry-After", String.valueOf(seconds))
                    .body(new Problem(
                                    HttpStatus.TOO_MANY_REQUESTS,
                                    "too-many-tries",
                                    "Too many wrong passwords. Try again in " + seconds + " seconds.")
                            .detail());
        }
        Optional<SignedIn> who = people.check(credentials.name(), credentials.password());
        if (who.isEmpty()) {
            sessions.refused(credentials.name(), "password", request);
            throw new Problem(
                    HttpStatus.UNAUTHORIZED, "wrong-sign-in", "This name and password do not belong together.");
        }
        throttle.succeeded(credentials.name(), address);
        sessions.begin(who.get(), "password", request, response);
        return ResponseEntity.ok(descriptions.of(who.get()));
    }

    /** Signs out here. */
    @Admits(strangers = true, beforePasswordChange = true, readers = true)
    @DeleteMapping("/session")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void signOut(@AuthenticationPrincipal SignedIn who, HttpServletRequest request) {
        sessions.end(Optional.ofNullable(who), request);
    }

    /** Looks as somebody else, changing nothing, until it is stopped. */
    @PostMapping("/session/looking-as")
    SessionDescriptions.Session lookAs(
            @Valid @RequestBody LookingAs wanted, @AuthenticationPrincipal SignedIn who, HttpServletRequest request) {
        if (who.byToken()) {
            throw Problem.forbidden("Looking as somebody else is for a browser, not for a token.");
        }
        SignedIn other = administration.lookAs(who, wanted.person());
        sessions.beginLooking(who, other, request);
        return descriptions.of(other);
    }

    /** Stops looking as somebody else. */
    @Admits(strangers = true, beforePasswordChange = true, readers = true)
    @DeleteMapping("/session/looking-as")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void lookAsOneself(HttpServletRequest request) {
        sessions.endLooking(request);
    }
}
