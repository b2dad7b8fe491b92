package deftlens.server.people;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.time.Duration;
import java.util.Map;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(TestServer.class)
class SessionTest {

    @Test
    void aStrangerSeesOnlyTheWelcome() {
        Caller stranger = Caller.stranger();
        assertThat(stranger.get("/api/welcome").json().get("organisation").stringValue())
                .isEqualTo("Test House");
        for (String path :
                new String[] {"/api/session", "/api/registers", "/api/views", "/api/people", "/api/nothing"}) {
            Caller.Answer answer = stranger.get(path);
            assertThat(answer.status()).as(path).isEqualTo(401);
            assertThat(answer.json().get("code").stringValue()).isEqualTo("not-signed-in");
            assertThat(answer.header("Content-Type")).startsWith("application/problem+json");
        }
    }

    @Test
    void signingInAndOut() {
        Caller dora = Caller.signedIn("dora");
        var session = dora.get("/api/session").json();
        assertThat(session.at("/person/fullName").stringValue()).isEqualTo("Dora Day");
        assertThat(session.at("/person/site").stringValue()).isEqualTo("North");
        assertThat(session.get("now").stringValue()).isEqualTo("2026-11-23T09:30:00Z");
        assertThat(session.get("demo").booleanValue()).isFalse();
        assertThat(dora.delete("/api/session").status()).isEqualTo(204);
        assertThat(dora.get("/api/session").status()).isEqualTo(401);
    }

    @Test
    void aWrongPasswordAndAnUnknownNameAreNotToldApart() {
        Caller stranger = Caller.stranger();
        var wrong = stranger.post("/api/session", Map.of("name", "ada", "password", "not it"));
        var unknown = stranger.post("/api/session", Map.of("name", "nobody", "password", "not it"));
        assertThat(wrong.status()).isEqualTo(401);
        assertThat(wrong.text()).isEqualTo(unknown.text());
    }

    @Test
    void withoutTheCsrfHeaderNothingIsWritten() {
        Caller dora = Caller.signedIn("dora").withoutCsrf();
        var answer = dora.post("/api/views", Map.of("register", "jobs", "name", "Mine"));
        assertThat(answer.status()).isEqualTo(403);
        assertThat(answer.json().get("code").stringValue()).isEqualTo("csrf");
    }

    @Test
    void guessingIsSlowedDown() {
        Caller stranger = Caller.stranger();
        for (int i = 0; i < 5; i++) {
            assertThat(stranger.post("/api/session", Map.of("name", "guessed", "password", "p" + i))
                            .status())
                    .isEqualTo(401);
        }
        var answer = stranger.post("/api/session", Map.of("name", "GUESSED ", "password", "p"));
        assertThat(answer.status()).isEqualTo(429);
        assertThat(Integer.parseInt(answer.header("Retry-After"))).isBetween(1, 6);
        assertThat(answer.json().get("code").stringValue()).isEqualTo("too-many-tries");
    }

    @Test
    void theWaitDoublesAndEnds() {
        AtomicLong now = new AtomicLong(7);
        SignInThrottle throttle = new SignInThrottle(now::get);
        for (int i = 0; i < 5; i++) {
            assertThat(throttle.wait("a", "here")).isEmpty();
            throttle.failed("a", "here");
        }
        assertThat(throttle.wait("a", "elsewhere")).contains(Duration.ofSeconds(5));
        now.addAndGet(Duration.ofSeconds(5).toNanos());
        assertThat(throttle.wait("a", "here")).isEmpty();
        throttle.failed("a", "here");
        assertThat(throttle.wait("a", "here")).contains(Duration.ofSeconds(10));
        assertThat(throttle.wait("b", "here")).isEmpty();
        throttle.succeeded("a");
        assertThat(throttle.wait("a", "here")).isEmpty();
    }

    @Test
    void aTokenWorksEverywhereUntilItIsEnded() {
        Caller dora = Caller.signedIn("dora");
        String token = dora.post("/api/account/tokens", Map.of("label", "nightly"))
                .json()
                .get("token")
                .stringValue();
        Caller program = Caller.withToken(token);
        assertThat(program.get("/api/session").json().at("/person/name").stringValue())
                .isEqualTo("dora");
        assertThat(program.post("/api/registers/jobs/count", Map.of()).status()).isEqualTo(200);
        long id = dora.get("/api/account/tokens").json().get(0).get("id").longValue();
        assertThat(dora.delete("/api/account/tokens/" + id).status()).isEqualTo(204);
        assertThat(program.get("/api/registers").status()).isEqualTo(401);
        assertThat(Caller.withToken("made-up").get("/api/registers").status()).isEqualTo(401);
    }

    @Test
    void aTokenIsNobodyElsesToEnd() {
        Caller dora = Caller.signedIn("dora");
        dora.post("/api/account/tokens", Map.of("label", "hers"));
        long id = dora.get("/api/account/tokens").json().get(0).get("id").longValue();
        assertThat(Caller.signedIn("dan").delete("/api/account/tokens/" + id).status())
                .isEqualTo(404);
    }

    @Test
    void thePasswordIsChangedWithTheOldOneOnly() {
        Caller nina = Caller.signedIn("nina");
        assertThat(nina.put("/api/account/password", Map.of("old", "wrong", "fresh", "long enough"))
                        .status())
                .isEqualTo(422);
        assertThat(nina.put("/api/account/password", Map.of("old", "nina-password", "fresh", "short"))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("weak-password");
        assertThat(nina.put("/api/account/password", Map.of("old", "nina-password", "fresh", "a longer one"))
                        .status())
                .isEqualTo(204);
        assertThat(Caller.stranger()
                        .post("/api/session", Map.of("name", "nina", "password", "nina-password"))
                        .status())
                .isEqualTo(401);
        assertThat(Caller.stranger()
                        .post("/api/session", Map.of("name", "nina", "password", "a longer one"))
                        .status())
                .isEqualTo(200);
        assertThat(nina.put("/api/account/password", Map.of("old", "a longer one", "fresh", "nina-password"))
                        .status())
                .isEqualTo(204);
    }
}
