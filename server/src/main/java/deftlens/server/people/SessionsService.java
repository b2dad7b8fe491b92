package deftlens.server.people;

import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import jakarta.servlet.http.HttpSession;
import java.time.Clock;
import java.time.Instant;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.security.core.context.SecurityContext;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.web.context.SecurityContextRepository;
import org.springframework.session.FindByIndexNameSessionRepository;
import org.springframework.session.Session;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The browsers in which people are signed in: begun, listed, ended; each sign-in and each refusal is in the trail. */
@Service
public class SessionsService {

    /** What a session keeps beside its person. */
    static final String LOOKING_AS = "deft.looking-as";

    /** Who looks, beside it. */
    private static final String LOOKING_BY = "deft.looking-by";

    private static final String AGENT = "deft.agent";
    private static final String ADDRESS = "deft.address";
    private static final String SUBJECT = "sign-in";
    private static final int LONGEST_AGENT = 200;

    private final FindByIndexNameSessionRepository<? extends Session> sessions;
    private final SecurityContextRepository contexts;
    private final Trail trail;
    private final TokenStore tokens;
    private final JdbcTemplate database;
    private final Clock clock;

    SessionsService(
            FindByIndexNameSessionRepository<? extends Session> sessions,
            SecurityContextRepository contexts,
            Trail trail,
            TokenStore tokens,
            JdbcTemplate database,
            Clock clock) {
        this.sessions = sessions;
        this.contexts = contexts;
        this.trail = trail;
        this.tokens = tokens;
        this.database = database;
        this.clock = clock;
    }

    /**
     * A browser in which somebody is signed in.
     *
     * @param id a name for it with which nothing can be done but ending it
     * @param agent what the browser says it is
     * @param here whether it is the one that asks
     */
    record SignedInPlace(
            String id, String agent, String address, Instant signedInAt, Instant lastUsedAt, boolean here) {}

    /** Who came in, how, and from where; what the trail keeps of a sign-in. */
    private record SignIn(String name, String by, String address, String agent) {}

    /** Begins a session for somebody whose word was checked, in the place of one that may be there. */
    @Transactional
    public void begin(SignedIn who, String by, HttpServletRequest request, HttpServletResponse response) {
        HttpSession old = request.getSession(false);
        if (old != null) {
            old.invalidate();
        }
        HttpSession fresh = request.getSession(true);
        fresh.setAttribute(AGENT, agent(request));
        fresh.setAttribute(ADDRESS, request.getRemoteAddr());
        SecurityContext context = SecurityContextHolder.createEmptyContext();
        context.setAuthentication(SecuritySettings.authentication(who));
        SecurityContextHolder.setContext(context);
        contexts.saveContext(context, request, response);
        trail.write(Optional.of(who.id()), SUBJECT, who.id(), "signed in", null, signIn(who.name(), by, request));
    }

    /** What a request came with: a session's number in the database, or a token's hash. */
    public record Key(String session, String token) {}

    /** What a request came with, to be asked about later. */
    public Key key(HttpServletRequest request, SignedIn who) {
        HttpSession session = request.getSession(false);
        return who.byToken()
                ? new Key(
                        "", TokensService.hash(SecuritySettings.bearer(request).orElse("")))
                : new Key(session == null ? "" : session.getId(), "");
    }

    /** Those of some keys that still let their person in. */
    @Transactional(readOnly = true)
    public Set<Key> thatWork(Set<Key> keys) {
        if (keys.isEmpty()) {
            return Set.of();
        }
        Instant now = clock.instant();
        // The time of sessions is the real one, wherever the clock of the records stands.
        Set<String> open = new HashSet<>(database.queryForList(
                "select session_id from spring_session where session_id = any (?) and expiry_time > extract(epoch from clock_timestamp()) * 1000",
                String.class,
                (Object) keys.stream().map(Key::session).toArray(String[]::new)));
        Set<String> tokens = this.tokens
                .findByHashInAndRevokedAtIsNull(keys.stream().map(Key::token).toList())
                .stream()
                .filter(t -> t.worksAt(now) && t.person().active())
                .map(PersonalToken::hash)
                .collect(Collectors.toSet());
        return keys.stream()
                .filter(k -> open.contains(k.session()) || tokens.contains(k.token()))
                .collect(Collectors.toSet());
    }

    /** Notes a sign-in that was refused. */
    @Transactional
    public void refused(String name, String by, HttpServletRequest request) {
        String shown = name.strip();
        trail.write(
                Optional.empty(),
                SUBJECT,
                0,
                "refused",
                null,
                signIn(shown.substring(0, Math.min(shown.length(), 60)), by, request));
    }

    /** Notes on the session of an administrator whom they look as from now on. */
    void beginLooking(SignedIn administrator, SignedIn other, HttpServletRequest request) {
        HttpSession session = request.getSession();
        session.setAttribute(LOOKING_AS, other.id());
        session.setAttribute(LOOKING_BY, administrator.id());
    }

    /** Ends looking as somebody else, if the session of a request is at that; noted in the trail. */
    @Transactional
    public void endLooking(HttpServletRequest request) {
        HttpSession session = request.getSession(false);
        if (session != null && session.getAttribute(LOOKING_AS) instanceof Long other) {
            Optional<Long> by = Optional.ofNullable((Long) session.getAttribute(LOOKING_BY));
            session.removeAttribute(LOOKING_AS);
            session.removeAttribute(LOOKING_BY);
            trail.write(by, "person", other, "stopped looking as", null, null);
        }
    }

    /** Ends the session of a request. */
    @Transactional
    public void end(Optional<SignedIn> who, HttpServletRequest request) {
        HttpSession session = request.getSession(false);
        Object looking = session == null ? null : session.getAttribute(LOOKING_BY);
        endLooking(request);
        if (session != null) {
            session.invalidate();
        }
        SecurityContextHolder.clearContext();
        // Who looks as somebody else signs out themselves, and not them.
        who.map(w -> looking instanceof Long by ? by : w.id())
                .ifPresent(id -> trail.write(Optional.of(id), SUBJECT, id, "signed out", null, null));
    }

    /** The sessions of a person, the latest first. */
    List<SignedInPlace> of(String name, Optional<String> here) {
        return sessions.findByPrincipalName(name).values().stream()
                .filter(s -> !s.isExpired())
                .map(s -> new SignedInPlace(
                        TokensService.hash(s.getId()),
                        text(s, AGENT),
                        text(s, ADDRESS),
                        s.getCreationTime(),
                        s.getLastAccessedTime(),
                        here.filter(s.getId()::equals).isPresent()))
                .sorted(Comparator.comparing(SignedInPlace::lastUsedAt).reversed())
                .toList();
    }

    /** Ends one session of a person. */
    @Transactional
    public void end(SignedIn who, String place) {
        String id = sessions.findByPrincipalName(who.name()).keySet().stream()
                .filter(i -> TokensService.hash(i).equals(place))
                .findFirst()
                .orElseThrow(() -> Problem.notFound("This session"));
        sessions.deleteById(id);
        trail.write(Optional.of(who.id()), SUBJECT, who.id(), "session ended", null, null);
    }

    /** Ends the sessions of a person everywhere but here, and says how many. */
    @Transactional
    public int endAll(SignedIn by, long person, String name, Optional<String> butThis) {
        Map<String, ? extends Session> found = sessions.findByPrincipalName(name);
        List<String> ended = found.keySet().stream()
                .filter(id -> butThis.filter(id::equals).isEmpty())
                .toList();
        ended.forEach(sessions::deleteById);
        if (!ended.isEmpty()) {
            trail.write(Optional.of(by.id()), SUBJECT, person, "sessions ended", null, ended.size());
        }
        return ended.size();
    }

    private static SignIn signIn(String name, String by, HttpServletRequest request) {
        return new SignIn(name, by, request.getRemoteAddr(), agent(request));
    }

    private static String agent(HttpServletRequest request) {
        String agent = Optional.ofNullable(request.getHeader("User-Agent")).orElse("");
        return agent.substring(0, Math.min(agent.length(), LONGEST_AGENT));
    }

    private static String text(Session session, String name) {
        String found = session.getAttribute(name);
        return found == null ? "" : found;
    }
}
