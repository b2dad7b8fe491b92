package deftlens.server.lanes;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.io.OutputStream;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Slow questions, made slow by a lock on their table, hold up nobody else. */
@ExtendWith(TestServer.class)
class QuestionLanesTest {

    private static final Map<String, Object> PAGE = Map.of("statement", "level >= 1", "limit", 10);

    /** Nobody reads the jobs until the result is closed. */
    private static AutoCloseable locked() throws SQLException {
        Connection connection = TestServer.connect();
        connection.setAutoCommit(false);
        try (Statement statement = connection.createStatement()) {
            statement.execute("lock table records.jobs in access exclusive mode");
        }
        return () -> {
            connection.rollback();
            connection.close();
        };
    }

    private static void await(String what, Callable<Boolean> holds) throws Exception {
        long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(15);
        while (!holds.call()) {
            assertThat(System.nanoTime()).as(what).isLessThan(end);
            Thread.onSpinWait();
        }
    }

    private static int waitingInTheDatabase() throws SQLException {
        return Integer.parseInt(
                TestServer.query(
                        "select count(*) from pg_stat_activity where wait_event_type = 'Lock' and query like '%\"jobs\"%' and state = 'active'"));
    }

    @Test
    void whatTakesLongerGoesOnInTheSlowLaneAndIsAnswered() throws Exception {
        Caller dora = Caller.signedIn("dora");
        try (ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor()) {
            Future<Caller.Answer> answer;
            try (AutoCloseable lock = locked()) {
                Caller asks = Caller.signedIn("dora").naming("long");
                answer = threads.submit(() -> asks.post("/api/registers/jobs/rows", PAGE));
                await("it runs in the slow lane", () -> {
                    JsonNode progress = dora.get("/api/questions/long").json();
                    return progress.path("place").stringValue("").equals("running");
                });
                assertThat(Caller.signedIn("dan").get("/api/questions/long").status())
                        .isEqualTo(404);
            }
            assertThat(answer.get().status()).isEqualTo(200);
            assertThat(answer.get().json().get("rows")).hasSize(10);
            assertThat(dora.get("/api/questions/long").status()).isEqualTo(404);
        }
    }

    @Test
    void waitingQuestionsSayHowManyAreBeforeThemAndCanBeStopped() throws Exception {
        try (ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor()) {
            List<Future<Caller.Answer>> answers = new ArrayList<>();
            Caller dan = Caller.signedIn("dan");
            try (AutoCloseable lock = locked()) {
                for (int i = 0; i < 4; i++) {
                    Caller asks = Caller.signedIn("dan").naming("q" + i);
                    int level = i;
                    answers.add(threads.submit(() -> asks.post(
                            "/api/registers/jobs/count", Map.of("statement", "level >= " + level, "exact", true))));
                    await(
                            "it waits or runs",
                            () -> List.of("waiting", "running")
                                    .contains(dan.get("/api/questions/q" + level)
                                            .json()
                                            .path("place")
                                            .stringValue("")));
                }
                JsonNode last = dan.get("/api/questions/q3").json();
                assertThat(last.get("place").stringValue()).isEqualTo("waiting");
                assertThat(last.get("before").intValue()).isEqualTo(3);
                assertThat(dan.delete("/api/questions/q2").status()).isEqualTo(204);
                assertThat(answers.get(2).get().json().get("code").stringValue())
                        .isEqualTo("stopped");
                assertThat(dan.get("/api/questions/q3").json().get("before").intValue())
                        .isEqualTo(2);
                assertThat(dan.delete("/api/questions/q0").status()).isEqualTo(204);
                assertThat(answers.get(0).get().status()).isEqualTo(503);
            }
            assertThat(answers.get(1).get().status()).isEqualTo(200);
            assertThat(answers.get(3).get().status()).isEqualTo(200);
        }
    }

    @Test
    void fiftySlowQuestionsAndFiftyFilesHoldUpNobodyElse() throws Exception {
        try (ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor()) {
            List<Future<Integer>> slow = new ArrayList<>();
            try (AutoCloseable lock = locked()) {
                List<Caller> callers = List.of(Caller.signedIn("dan"), Caller.signedIn("nina"));
                for (int i = 0; i < 50; i++) {
                    Caller caller = callers.get(i % 2);
                    int level = i;
                    slow.add(threads.submit(() -> caller.post(
                                    "/api/registers/jobs/count", Map.of("statement", "level > " + level, "exact", true))
                            .status()));
                    slow.add(threads.submit(
                            () -> caller.get("/api/registers/jobs/export.csv").status()));
                }
                await("the lanes are full", () -> waitingInTheDatabase() >= 2);
                // Were the others' connections theirs too, this would wait for the lock, which is held until it is
                // done.
                for (int i = 0; i < 20; i++) {
                    Caller dora = Caller.signedIn("dora");
                    assertThat(dora.post("/api/registers/stays/rows", Map.of("statement", "length > " + i))
                                    .status())
                            .isEqualTo(200);
                    assertThat(dora.get("/api/views").status()).isEqualTo(200);
                }
            }
            int answered = 0;
            for (Future<Integer> each : slow) {
                assertThat(each.get()).isIn(200, 503);
                answered += each.get() == 200 ? 1 : 0;
            }
            assertThat(answered).isPositive();
        }
    }

    @Test
    void whoHangsUpEndsTheQuestionAtOnce() throws Exception {
        String token = Caller.signedIn("nina")
                .post("/api/account/tokens", Map.of("label", "hangs up"))
                .json()
                .get("token")
                .stringValue();
        URI server = URI.create(TestServer.address());
        try (AutoCloseable lock = locked()) {
            for (String call : List.of("POST /api/registers/jobs/count", "GET /api/registers/jobs/export.csv")) {
                Socket socket = new Socket(server.getHost(), server.getPort());
                OutputStream out = socket.getOutputStream();
                String body = call.startsWith("POST") ? "{\"statement\":\"level = 5\"}" : "";
                out.write((call + " HTTP/1.1\r\nHost: localhost\r\nAuthorization: Bearer " + token
                                + "\r\nContent-Type: application/json\r\nContent-Length: " + body.length() + "\r\n\r\n"
                                + body)
                        .getBytes(StandardCharsets.US_ASCII));
                out.flush();
                await("the database works for it: " + call, () -> waitingInTheDatabase() > 0);
                socket.close();
                await("the database works for nobody: " + call, () -> waitingInTheDatabase() == 0);
            }
        }
    }

    @Test
    void aFileIsWholeOrRefused() {
        Caller dora = Caller.signedIn("dora");
        String whole = dora.get("/api/registers/jobs/export.csv").text();
        assertThat(whole.lines()).hasSize(301);
        assertThat(dora.get("/api/registers/jobs/export.csv?statement=level%20%3D%20%22x%22")
                        .status())
                .isEqualTo(422);
    }
}
