package deftlens.server.live;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(TestServer.class)
class ChangesTest {

    private static final String TOUCH = "update records.jobs set cost = cost where number = 'J-000'";

    private static BlockingQueue<String> listen(Stream<String> lines) throws InterruptedException {
        BlockingQueue<String> told = new LinkedBlockingQueue<>();
        // A bare colon only keeps the line open; it comes every quarter of a minute, whatever else is told.
        Thread.ofVirtual()
                .start(() -> lines.filter(l -> !l.isBlank() && !l.equals(":")).forEach(told::add));
        assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo(":open");
        return told;
    }

    @Test
    void aChangeIsToldWithinASecond() throws SQLException, InterruptedException {
        try (Stream<String> lines = Caller.signedIn("dora").lines("/api/changes?registers=jobs")) {
            BlockingQueue<String> told = listen(lines);
            long began = System.nanoTime();
            TestServer.sql(TOUCH);
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":[\"jobs\"]}");
            assertThat(TimeUnit.NANOSECONDS.toMillis(System.nanoTime() - began)).isLessThan(1_000);
        }
    }

    @Test
    void aChangeOfAnotherRegisterIsNotTold() throws SQLException, InterruptedException {
        try (Stream<String> lines = Caller.signedIn("dora").lines("/api/changes?registers=stays")) {
            BlockingQueue<String> told = listen(lines);
            TestServer.sql(TOUCH);
            TestServer.sql("update records.stays set length = length where number = 'S-0'");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("event:changed");
            assertThat(told.poll(5, TimeUnit.SECONDS)).isEqualTo("data:{\"registers\":[\"stays\"]}");
            assertThat(told.poll(600, TimeUnit.MILLISECONDS)).isNull();
        }
    }

    @Test
    void thousandsOfChangesAreToldOnlyAFewTimes() throws SQLException, InterruptedException {
        try (Stream<String> lines = Caller.signedIn("dora").lines("/api/changes?registers=jobs");
                Connection connection = TestServer.connect();
                Statement statement = connection.createStatement()) {
            BlockingQueue<String> told = listen(lines);
            long began = System.nanoTime();
            for (int i = 0; i < 3_000; i++) {
                statement.executeUpdate(TOUCH);
            }
            double seconds = (System.nanoTime() - began) / 1e9;
            int events = 0;
            for (String line = told.poll(2, TimeUnit.SECONDS); line != null; line = told.poll(1, TimeUnit.SECONDS)) {
                events += line.startsWith("event:") ? 1 : 0;
            }
            assertThat(events).isBetween(1, (int) Math.ceil(seconds * 4) + 2);
        }
    }

    @Test
    void whoIsNotSignedInHearsNothing() {
        assertThat(Caller.stranger().get("/api/changes?registers=jobs").status())
                .isEqualTo(401);
        assertThat(Caller.signedIn("dora").get("/api/changes?registers=nothing").status())
                .isEqualTo(404);
    }
}
