package deftlens.server.people;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** Guessing is slowed down, and nobody else waits for it. */
@ExtendWith(TestServer.class)
class SignInThrottleTest {

    @BeforeEach
    void forget() throws SQLException {
        TestServer.sql("truncate sign_in_try");
    }

    private static Caller from(String address) {
        Caller caller = new Caller().sending("X-Forwarded-For", address);
        caller.get("/api/welcome");
        return caller;
    }

    private static Caller.Answer signIn(Caller caller, String name, String password) {
        return caller.post("/api/session", Map.of("name", name, "password", password));
    }

    private static void fail(String address, String name, int times) {
        Caller caller = from(address);
        for (int i = 0; i < times; i++) {
            signIn(caller, name, "wrong " + i);
        }
    }

    /** Lets time pass for what is counted. */
    private static void later(String interval) throws SQLException {
        TestServer.sql("update sign_in_try set tried_at = tried_at - interval '" + interval
                + "', wait_until = wait_until - interval '" + interval + "', known_at = known_at - interval '"
                + interval
                + "'");
    }

    @Test
    void theSixthTryOfANameWaitsAndTheWaitDoubles() throws SQLException {
        fail("10.0.0.1", "dora", 5);
        Caller.Answer held = signIn(from("10.0.0.1"), "DORA ", "dora-password");
        assertThat(held.status()).isEqualTo(429);
        assertThat(held.json().get("code").stringValue()).isEqualTo("too-many-tries");
        assertThat(Integer.parseInt(held.header("Retry-After"))).isBetween(1, 6);
        later("6 seconds");
        assertThat(signIn(from("10.0.0.1"), "dora", "wrong").status()).isEqualTo(401);
        assertThat(Integer.parseInt(signIn(from("10.0.0.1"), "dora", "wrong").header("Retry-After")))
                .isBetween(7, 11);
        later("11 seconds");
        assertThat(signIn(from("10.0.0.1"), "dora", "dora-password").status()).isEqualTo(200);
        assertThat(signIn(from("10.0.0.1"), "dora", "wrong").status()).isEqualTo(401);
    }

    @Test
    void nobodyIsLockedOutByGuessesFromElsewhere() {
        for (int i = 0; i < 12; i++) {
            fail("10.0.1." + i, "dora", 6);
        }
        assertThat(signIn(from("10.0.0.2"), "dora", "dora-password").status()).isEqualTo(200);
    }

    @Test
    void anAddressThatTriesManyNamesWaitsButWhoIsKnownThereDoesNot() {
        assertThat(signIn(from("10.0.0.3"), "dan", "dan-password").status()).isEqualTo(200);
        for (int i = 0; i < 31; i++) {
            fail("10.0.0.3", "name-" + i, 1);
        }
        Caller.Answer held = signIn(from("10.0.0.3"), "dora", "dora-password");
        assertThat(held.status()).isEqualTo(429);
        assertThat(Integer.parseInt(held.header("Retry-After"))).isBetween(1, 61);
        assertThat(signIn(from("10.0.0.3"), "dan", "dan-password").status()).isEqualTo(200);
        assertThat(signIn(from("10.0.0.4"), "dora", "dora-password").status()).isEqualTo(200);
    }

    @Test
    void failuresDecayAndAreForgotten() throws SQLException {
        fail("10.0.0.5", "dora", 5);
        later("30 minutes");
        // Five failures count a little more than one after two quarters of an hour.
        for (int i = 0; i < 3; i++) {
            assertThat(signIn(from("10.0.0.5"), "dora", "wrong").status()).isEqualTo(401);
        }
        later("25 hours");
        TestServer.bean(SignInThrottle.class).forget();
        assertThat(TestServer.query("select count(*) from sign_in_try")).isEqualTo("0");
    }

    @Test
    void guessesMadeAtOnceDoNotPass() throws InterruptedException, ExecutionException {
        List<Caller> callers = new ArrayList<>();
        for (int i = 0; i < 20; i++) {
            callers.add(from("10.0.0.6"));
        }
        int checked = 0;
        try (var threads = Executors.newVirtualThreadPerTaskExecutor()) {
            List<Future<Integer>> answers = callers.stream()
                    .map(c -> threads.submit(() -> signIn(c, "nina", "guess").status()))
                    .toList();
            for (Future<Integer> answer : answers) {
                checked += answer.get() == 401 ? 1 : 0;
            }
        }
        assertThat(checked).isEqualTo(5);
    }
}
