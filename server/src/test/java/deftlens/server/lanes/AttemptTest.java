package deftlens.server.lanes;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.server.platform.Problem;
import java.lang.reflect.Proxy;
import java.time.Duration;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;
import org.postgresql.PGConnection;

/** A run of a question, and how it is stopped. */
class AttemptTest {

    private final AtomicInteger cancelled = new AtomicInteger();
    private final PGConnection connection = (PGConnection) Proxy.newProxyInstance(
            AttemptTest.class.getClassLoader(), new Class<?>[] {PGConnection.class}, (proxy, method, given) -> {
                assertThat(method.getName()).isEqualTo("cancelQuery");
                cancelled.incrementAndGet();
                return null;
            });

    @Test
    void whatTheDatabaseIsDoingForItIsCancelled() throws Exception {
        Attempt attempt = Attempt.unbounded();
        try (AutoCloseable working = attempt.track(connection)) {
            attempt.stop();
        }
        assertThat(cancelled).hasValue(1);
        assertThat(attempt.isStopped()).isTrue();
    }

    /** A question of several queries may be stopped while none of them is on its way. */
    @Test
    void nothingIsBegunAfterItWasStopped() throws Exception {
        Attempt attempt = Attempt.first(Duration.ofSeconds(1), true);
        attempt.track(connection).close();
        attempt.stop();
        assertThat(cancelled).hasValue(0);
        assertThatThrownBy(() -> attempt.track(connection))
                .isInstanceOf(Problem.class)
                .hasMessage("The question was stopped.");
    }
}
