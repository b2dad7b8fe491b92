package deftlens.server.people;

import deftlens.server.organisation.OrganisationService;
import deftlens.server.platform.Problem;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.security.core.context.SecurityContext;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.web.context.SecurityContextRepository;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Signing in and out, and what belongs to the person who is signed in. */
@RestController
@RequestMapping("/api")
class SessionController {

    private final PeopleService people;
    private final OrganisationService organisation;
    private final SignInThrottle throttle;
    private final SecurityContextRepository contexts;
    private final Clock clock;
    private final Optional<DemoSignIns> demo;

    SessionController(
            PeopleService people,
            OrganisationService organisation,
            SignInThrottle throttle,
            SecurityContextRepository contexts,
            Clock clock,
            Optional<DemoSignIns> demo) {
        this.people = people;
        this.organisation = organisation;
        this.throttle = throttle;
        this.contexts = contexts;
        this.clock = clock;
        this.demo = demo;
    }

    record Credentials(
            @NotNull @Size(max = 200) String name,
            @NotNull @Size(max = 200) String password) {}

    record Passwords(
            @NotNull @Size(max = 200) String old,
            @NotNull @Size(max = 200) String fresh) {}

    record TokenLabel(@NotNull @Size(min = 1, max = 100) String label) {}

    record Token(String token) {}

    /** What anybody may know before signing in: the organisation, and in demo mode who can be tried. */
    record Welcome(String organisation, List<DemoSignIns.SignIn> demo) {}

    /** Who is signed in, with the organisation and its clock. */
    record Session(PeopleService.Profile person, String organisation, String zone, Instant now, boolean demo) {}

    @GetMapping("/welcome")
    Welcome welcome() {
        return new Welcome(organisation.name(), demo.map(DemoSignIns::offered).orElse(List.of()));
    }

    @GetMapping("/session")
    Session session(@AuthenticationPrincipal SignedIn who) {
        if (who == null) {
            throw new Problem(HttpStatus.UNAUTHORIZED, "not-signed-in", "Sign in first.");
        }
        return describe(who);
    }

    @PostMapping("/session")
    ResponseEntity<?> signIn(
            @Valid @RequestBody Credentials credentials, HttpServletRequest request, HttpServletResponse response) {
        String address = request.getRemoteAddr();
        Optional<Duration> wait = throttle.wait(credentials.name(), address);
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
            throttle.failed(credentials.name(), address);
            throw new Problem(
                    HttpStatus.UNAUTHORIZED, "wrong-sign-in", "This name and password do not belong together.");
        }
        throttle.succeeded(credentials.name());
        HttpSession old = request.getSession(false);
        if (old != null) {
            old.invalidate();
        }
        SecurityContext context = SecurityContextHolder.createEmptyContext();
        context.setAuthentication(SecuritySettings.authentication(who.get()));
        SecurityContextHolder.setContext(context);
        contexts.saveContext(context, request, response);
        return ResponseEntity.ok(describe(who.get()));
    }

    @DeleteMapping("/session")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void signOut(HttpServletRequest request) {
        HttpSession session = request.getSession(false);
        if (session != null) {
            session.invalidate();
        }
        SecurityContextHolder.clearContext();
    }

    @PutMapping("/account/password")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void changePassword(@AuthenticationPrincipal SignedIn who, @Valid @RequestBody Passwords passwords) {
        people.changePassword(who, passwords.old(), passwords.fresh());
    }

    @GetMapping("/account/tokens")
    List<PeopleService.TokenName> tokens(@AuthenticationPrincipal SignedIn who) {
        return people.tokens(who);
    }

    @PostMapping("/account/tokens")
    @ResponseStatus(HttpStatus.CREATED)
    Token makeToken(@AuthenticationPrincipal SignedIn who, @Valid @RequestBody TokenLabel label) {
        return new Token(people.makeToken(who, label.label()));
    }

    @DeleteMapping("/account/tokens/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void revokeToken(@AuthenticationPrincipal SignedIn who, @PathVariable long id) {
        people.revokeToken(who, id);
    }

    @GetMapping("/people")
    List<PeopleService.Profile> everyone() {
        return people.everyone();
    }

    @GetMapping("/teams")
    List<PeopleService.TeamName> teams() {
        return people.teams();
    }

    private Session describe(SignedIn who) {
        return new Session(
                people.profile(who.id()),
                organisation.name(),
                organisation.zone().getId(),
                clock.instant(),
                demo.isPresent());
    }
}
