package deftlens.server.people;

import java.io.Serializable;
import java.security.Principal;

/**
 * Who puts a request.
 *
 * @param id the person's number
 * @param name the sign-in name
 */
public record SignedIn(long id, String name, Role role) implements Principal, Serializable {

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
        return role == Role.AUDITOR;
    }
}
