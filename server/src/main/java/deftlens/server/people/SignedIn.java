package deftlens.server.people;

import java.io.Serializable;
import java.security.Principal;
import java.time.Instant;
import java.util.Optional;

/**
 * Who puts a request.
 *
 * @param id the person's number
 * @param name the sign-in name
 * @param restrained whether nothing may be changed, whatever the person may do otherwise: a token that only reads, or an
 *     administrator who looks as somebody else
 * @param lookedAtBy the full name of the administrator who looks as this person; empty when it is the person
 * @param until when what the request came with stops working: a token's end, {@link Instant#MAX} for a session
 */
public record SignedIn(long id, String name, Role role, boolean restrained, String lookedAtBy, Instant until)
        implements Principal, Serializable {

    /** A person with all that their role allows. */
    public SignedIn(long id, String name, Role role) {
        this(id, name, role, false, "", Instant.MAX);
    }

    /** The same person, who changes nothing. */
    public SignedIn restrain() {
        return new SignedIn(id, name, role, true, lookedAtBy, until);
    }

    /** The same person, who came with a token that works until then. */
    SignedIn byTokenUntil(Instant end) {
        return new SignedIn(id, name, role, restrained, lookedAtBy, end);
    }

    /** Whether the request came with a token. */
    public boolean byToken() {
        return !until.equals(Instant.MAX);
    }

    /** The same person as an administrator sees them. */
    public SignedIn lookedAt(String administrator) {
        return new SignedIn(id, name, role, true, administrator, until);
    }

    @Override
    public String getName() {
        return name;
    }

    /** Whether the person may look at everything, shared or not. */
    public boolean readsEverything() {
        return role != Role.MEMBER;
    }

    /** Whether the person may change anything at all. */
    public boolean changesNothing() {
        return role == Role.AUDITOR || restrained;
    }

    /** Whether the person keeps people, registers and everybody's views. */
    public boolean administers() {
        return role == Role.ADMINISTRATOR;
    }

    /** Who looks as this person, when it is not the person. */
    public Optional<String> watcher() {
        return lookedAtBy.isEmpty() ? Optional.empty() : Optional.of(lookedAtBy);
    }
}
