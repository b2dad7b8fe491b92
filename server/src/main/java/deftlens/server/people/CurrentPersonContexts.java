package deftlens.server.people;

import deftlens.server.platform.EpochCache;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import java.util.Optional;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.DeferredSecurityContext;
import org.springframework.security.core.context.SecurityContext;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.web.context.HttpRequestResponseHolder;
import org.springframework.security.web.context.SecurityContextRepository;

/**
 * Gives for each request the person of its session as they are now: role and teams may have changed since they signed in, or
 * they may have left. Where an administrator looks as somebody else, that person is put there, restrained. There is no other
 * way from a session to a person, so no path leads around it.
 */
final class CurrentPersonContexts implements SecurityContextRepository {

    private final SecurityContextRepository sessions;
    private final PeopleService people;
    private final EpochCache remembered;

    CurrentPersonContexts(SecurityContextRepository sessions, PeopleService people, EpochCache remembered) {
        this.sessions = sessions;
        this.people = people;
        this.remembered = remembered;
    }

    @Override
    public DeferredSecurityContext loadDeferredContext(HttpServletRequest request) {
        DeferredSecurityContext kept = sessions.loadDeferredContext(request);
        return new DeferredSecurityContext() {
            private SecurityContext current;

            @Override
            public SecurityContext get() {
                if (current == null) {
                    current = current(kept.get(), request);
                }
                return current;
            }

            @Override
            public boolean isGenerated() {
                return kept.isGenerated();
            }
        };
    }

    @Override
    @Deprecated
    public SecurityContext loadContext(HttpRequestResponseHolder holder) {
        return loadDeferredContext(holder.getRequest()).get();
    }

    private SecurityContext current(SecurityContext kept, HttpServletRequest request) {
        Authentication known = kept.getAuthentication();
        if (known == null || !(known.getPrincipal() instanceof SignedIn signedIn)) {
            return kept;
        }
        SecurityContext current = SecurityContextHolder.createEmptyContext();
        HttpSession session = request.getSession(false);
        remembered.begin();
        Optional<PeopleService.Standing> now = people.now(signedIn.id());
        if (now.isPresent()) {
            Gate.note(request, now.get());
            current.setAuthentication(SecuritySettings.authentication(seen(now.get(), session)));
        } else if (session != null) {
            session.invalidate();
        }
        return current;
    }

    private SignedIn seen(PeopleService.Standing now, HttpSession session) {
        Object looking = session == null ? null : session.getAttribute(SessionsService.LOOKING_AS);
        if (looking instanceof Long id && now.who().administers()) {
            return people.now(id)
                    .map(other -> other.who().lookedAt(now.fullName()))
                    .orElse(now.who());
        }
        return now.who();
    }

    @Override
    public void saveContext(SecurityContext context, HttpServletRequest request, HttpServletResponse response) {
        sessions.saveContext(context, request, response);
    }

    @Override
    public boolean containsContext(HttpServletRequest request) {
        return sessions.containsContext(request);
    }
}
