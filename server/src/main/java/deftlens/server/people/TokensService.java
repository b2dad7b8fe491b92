package deftlens.server.people;

import deftlens.server.platform.AsText;
import deftlens.server.platform.EpochCache;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Personal tokens: keys with which a person's programs come in. Only their SHA-256 is kept. */
@Service
class TokensService {

    static final int USUAL_DAYS = 90;
    static final int MOST_DAYS = 366;
    private static final int MOST_TOKENS = 50;
    private static final int MOST_NOTED = 10_000;
    private static final Duration USE_NOTED_EVERY = Duration.ofMinutes(1);

    private final PeopleStore people;
    private final TokenStore tokens;
    private final Trail trail;
    private final Clock clock;
    private final EpochCache remembered;
    /** When this process last noted a use of a token, by its hash; so that the database is not asked at every call. */
    private final Map<String, Instant> used = new ConcurrentHashMap<>();

    TokensService(PeopleStore people, TokenStore tokens, Trail trail, Clock clock, EpochCache remembered) {
        this.remembered = remembered;
        this.people = people;
        this.tokens = tokens;
        this.trail = trail;
        this.clock = clock;
    }

    /**
     * A token without the token itself, which is shown once, when it is made.
     *
     * @param mayWrite whether it does what its person may do, or only reads
     * @param expiresAt absent for tokens from before tokens had an end
     * @param lastUsedAt to the minute
     */
    record TokenName(
            @AsText long id,
            String label,
            boolean mayWrite,
            Instant createdAt,
            Optional<Instant> expiresAt,
            Optional<Instant> lastUsedAt,
            boolean expired) {}

    /** What is remembered of a token, by its hash. */
    private record TokenKey(String hash) {}

    /** A token that was not ended, and whom it stands for. */
    private record Known(long id, PeopleService.Standing standing, boolean reads, Optional<Instant> expiresAt) {}

    /** The person that a bearer token stands for, while it works. */
    public Optional<PeopleService.Standing> byToken(String token) {
        Instant now = clock.instant();
        String hash = hash(token);
        return remembered
                .find(
                        new TokenKey(hash),
                        () -> tokens.findByHashAndRevokedAtIsNull(hash)
                                .filter(t -> t.person().active())
                                .map(t -> new Known(
                                        t.id(),
                                        PeopleService.standing(t.person()),
                                        t.scope() == PersonalToken.Scope.READ,
                                        Optional.ofNullable(t.expiresAt()))))
                .filter(t -> t.expiresAt().map(now::isBefore).orElse(true))
                .map(t -> {
                    noteUse(hash, t.id(), now);
                    // Tokens from before tokens had an end count as ending now, so that they make none that lasts
                    // longer.
                    SignedIn who = t.standing().who().byTokenUntil(t.expiresAt().orElse(now));
                    return t.standing().as(t.reads() ? who.restrain() : who);
                });
    }

    /** Notes a use; at most once in a minute, so that a busy program does not write at every call. */
    private void noteUse(String hash, long id, Instant now) {
        Instant noted = used.get(hash);
        if (noted == null || noted.plus(USE_NOTED_EVERY).isBefore(now)) {
            if (used.size() >= MOST_NOTED) {
                used.clear();
            }
            used.put(hash, now);
            tokens.noteUse(id, now, now.minus(USE_NOTED_EVERY));
        }
    }

    /**
     * Makes a token for a person and tells it, once.
     *
     * @param days how long it works, 1 to {@value #MOST_DAYS}
     */
    @Transactional
    public String make(SignedIn who, String label, boolean mayWrite, int days) {
        if (days < 1 || days > MOST_DAYS) {
            throw Problem.unprocessable("bad-expiry", "A token works for 1 to " + MOST_DAYS + " days.")
                    .at("days");
        }
        Instant now = clock.instant();
        Instant until = now.plus(Duration.ofDays(days));
        if (who.byToken() && until.isAfter(who.until())) {
            throw Problem.unprocessable(
                            "token-too-long",
                            "A token makes none that works longer than itself. Ask for fewer days, or make it on your account page.")
                    .at("days");
        }
        if (tokens.findByPersonIdAndRevokedAtIsNullOrderById(who.id()).size() >= MOST_TOKENS) {
            throw Problem.unprocessable("too-many-tokens", "There are " + MOST_TOKENS + " tokens already; end some.");
        }
        byte[] random = new byte[32];
        new SecureRandom().nextBytes(random);
        String token = "deft_" + Base64.getUrlEncoder().withoutPadding().encodeToString(random);
        PersonalToken kept = tokens.save(new PersonalToken(
                people.findById(who.id()).orElseThrow(),
                label.strip(),
                hash(token),
                mayWrite ? PersonalToken.Scope.WRITE : PersonalToken.Scope.READ,
                now,
                until));
        trail.write(Optional.of(who.id()), "token", kept.id(), "made", null, name(kept, now));
        return token;
    }

    /** The tokens of a person that were not ended. */
    @Transactional(readOnly = true)
    public List<TokenName> of(long person) {
        Instant now = clock.instant();
        return tokens.findByPersonIdAndRevokedAtIsNullOrderById(person).stream()
                .map(t -> name(t, now))
                .toList();
    }

    /** Ends a token. */
    @Transactional
    public void revoke(SignedIn who, long id) {
        PersonalToken token =
                tokens.findByIdAndPersonId(id, who.id()).orElseThrow(() -> Problem.notFound("This token"));
        token.revoke(clock.instant());
        trail.write(Optional.of(who.id()), "token", id, "revoked", token.label(), null);
    }

    /** Ends all tokens of somebody, in the transaction of whatever is the reason. */
    void revokeAll(long person, SignedIn by) {
        for (PersonalToken token : tokens.findByPersonIdAndRevokedAtIsNullOrderById(person)) {
            token.revoke(clock.instant());
            trail.write(Optional.of(by.id()), "token", token.id(), "revoked", token.label(), null);
        }
    }

    private static TokenName name(PersonalToken t, Instant now) {
        return new TokenName(
                t.id(),
                t.label(),
                t.scope() == PersonalToken.Scope.WRITE,
                t.createdAt(),
                Optional.ofNullable(t.expiresAt()),
                Optional.ofNullable(t.lastUsedAt()),
                !t.worksAt(now));
    }

    /** The form in which a token, or a session, is known without being usable. */
    static String hash(String secret) {
        try {
            return HexFormat.of()
                    .formatHex(MessageDigest.getInstance("SHA-256").digest(secret.getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
