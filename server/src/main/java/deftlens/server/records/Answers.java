package deftlens.server.records;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import jakarta.persistence.EntityManager;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Clock;
import java.time.Duration;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/**
 * Answers kept by the {@code Idempotency-Key} of their request, for a day, so that a request that is sent again is not done
 * again.
 */
@Component
public class Answers {

    private static final Duration KEPT = Duration.ofDays(1);
    private static final int MOST_LETTERS = 200;

    private final EntityManager entities;
    private final Clock clock;
    private final ObjectMapper json;

    Answers(EntityManager entities, Clock clock, ObjectMapper json) {
        this.entities = entities;
        this.clock = clock;
        this.json = json;
    }

    /**
     * Does the work, unless the same person asked for the same before under the key; then the first answer is given. A
     * second request that comes while the first is at work waits for it.
     *
     * @param asked the request in words; another one under the same key is refused
     */
    @Transactional(propagation = Propagation.MANDATORY)
    public <T> T once(Optional<String> key, SignedIn who, String asked, Class<T> type, Supplier<T> work) {
        if (key.isEmpty()) {
            return work.get();
        }
        if (key.get().isBlank() || key.get().length() > MOST_LETTERS) {
            throw Problem.badRequest(
                    "bad-idempotency-key", "An Idempotency-Key has from 1 to " + MOST_LETTERS + " characters.");
        }
        String digest = digest(asked);
        entities.createNativeQuery("delete from record_request where person_id = ?1 and at < ?2")
                .setParameter(1, who.id())
                .setParameter(2, clock.instant().minus(KEPT))
                .executeUpdate();
        int taken = entities.createNativeQuery("""
                        insert into record_request (person_id, key, asked, answer, at) values (?1, ?2, ?3, '{}', ?4)
                        on conflict do nothing""")
                .setParameter(1, who.id())
                .setParameter(2, key.get())
                .setParameter(3, digest)
                .setParameter(4, clock.instant())
                .executeUpdate();
        if (taken == 0) {
            return earlier(key.get(), who, digest, type);
        }
        T answer = work.get();
        entities.createNativeQuery(
                        "update record_request set answer = cast(?1 as jsonb) where person_id = ?2 and key = ?3")
                .setParameter(1, json.writeValueAsString(answer))
                .setParameter(2, who.id())
                .setParameter(3, key.get())
                .executeUpdate();
        return answer;
    }

    private <T> T earlier(String key, SignedIn who, String digest, Class<T> type) {
        List<?> found = entities.createNativeQuery(
                        "select asked, cast(answer as text) from record_request where person_id = ?1 and key = ?2")
                .setParameter(1, who.id())
                .setParameter(2, key)
                .getResultList();
        Object[] kept = (Object[]) found.get(0);
        if (!kept[0].equals(digest)) {
            throw Problem.unprocessable(
                    "idempotency-mismatch",
                    "Another request was sent under this Idempotency-Key. Give each request a key of its own.");
        }
        return json.readValue((String) kept[1], type);
    }

    private static String digest(String asked) {
        try {
            return HexFormat.of()
                    .formatHex(MessageDigest.getInstance("SHA-256").digest(asked.getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
