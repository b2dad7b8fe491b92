package deftlens.server.people;

import deftlens.server.platform.Admits;
import deftlens.server.platform.Visible;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpSession;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PatchMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What belongs to the person who is signed in: profile, password, sessions, tokens. */
@RestController
@Admits(watchers = false)
@RequestMapping("/api/account")
class AccountController {

    private final PeopleService people;
    private final PeopleAdministration administration;
    private final SessionsService sessions;
    private final TokensService tokens;

    AccountController(
            PeopleService people, PeopleAdministration administration, SessionsService sessions, TokensService tokens) {
        this.people = people;
        this.administration = administration;
        this.sessions = sessions;
        this.tokens = tokens;
    }

    /**
     * The old password and the new one.
     *
     * @param keepTokens whether the person's tokens go on working; they end when absent
     */
    record Passwords(
            @NotNull @Size(max = 200) String old,
            @NotNull @Size(max = 200) String fresh,
            Optional<Boolean> keepTokens) {}

    /**
     * A token to be made.
     *
     * @param mayWrite whether it may do what its person may do; when false it only reads
     * @param days how long it works; 90 when absent
     */
    record TokenWanted(
            @NotNull @Visible @Size(min = 1, max = 100) String label,
            Optional<Boolean> mayWrite,
            Optional<Integer> days) {}

    record Token(String token) {}

    /** What a person says of themselves. */
    record OwnName(@NotNull @Size(min = 1, max = 120) String fullName) {}

    /** How many sessions were ended. */
    record Ended(int sessions) {}

    /** Changes one's own full name. */
    @PatchMapping
    PeopleService.Profile rename(@AuthenticationPrincipal SignedIn who, @Valid @RequestBody OwnName name) {
        return administration.rename(who, name.fullName());
    }

    /** Whether keys of one letter do something. */
    record LetterKeys(@NotNull Boolean on) {}

    /** Switches one's own keys of one letter on or off (WCAG 2.1.4). */
    @PutMapping("/letter-keys")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void useLetterKeys(@AuthenticationPrincipal SignedIn who, @Valid @RequestBody LetterKeys keys) {
        administration.useLetterKeys(who, keys.on());
    }

    /** Arranges one's own list of views and registers; it is the same wherever one signs in. */
    @PutMapping("/list")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void arrangeList(@AuthenticationPrincipal SignedIn who, @Valid @RequestBody ListArrangement arrangement) {
        administration.arrangeList(who, arrangement);
    }

    /** Changes one's own password and ends one's other sessions and, unless they are kept on purpose, tokens. */
    @Admits(watchers = false, beforePasswordChange = true)
    @PutMapping("/password")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void changePassword(
            @AuthenticationPrincipal SignedIn who,
            @Valid @RequestBody Passwords passwords,
            HttpServletRequest request) {
        people.changePassword(
                who, passwords.old(), passwords.fresh(), passwords.keepTokens().orElse(false));
        sessions.endAll(who, who.id(), who.name(), here(request));
    }

    /** The places where one is signed in. */
    @GetMapping("/sessions")
    List<SessionsService.SignedInPlace> sessions(@AuthenticationPrincipal SignedIn who, HttpServletRequest request) {
        return sessions.of(who.name(), here(request));
    }

    /** Signs one of them out. */
    @DeleteMapping("/sessions/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void endSession(@AuthenticationPrincipal SignedIn who, @PathVariable String id) {
        sessions.end(who, id);
    }

    /** Signs out everywhere but here. */
    @DeleteMapping("/sessions")
    Ended endOtherSessions(@AuthenticationPrincipal SignedIn who, HttpServletRequest request) {
        return new Ended(sessions.endAll(who, who.id(), who.name(), here(request)));
    }

    /** One’s personal tokens that were not ended; the tokens themselves are never told again. */
    @GetMapping("/tokens")
    List<TokensService.TokenName> tokens(@AuthenticationPrincipal SignedIn who) {
        return tokens.of(who.id());
    }

    /** Makes a personal token and tells it, this once. */
    @PostMapping("/tokens")
    @ResponseStatus(HttpStatus.CREATED)
    Token makeToken(@AuthenticationPrincipal SignedIn who, @Valid @RequestBody TokenWanted wanted) {
        return new Token(tokens.make(
                who,
                wanted.label(),
                wanted.mayWrite().orElse(true),
                wanted.days().orElse(TokensService.USUAL_DAYS)));
    }

    /** Ends a token. */
    @DeleteMapping("/tokens/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void revokeToken(@AuthenticationPrincipal SignedIn who, @PathVariable long id) {
        tokens.revoke(who, id);
    }

    private static Optional<String> here(HttpServletRequest request) {
        return Optional.ofNullable(request.getSession(false)).map(HttpSession::getId);
    }
}
