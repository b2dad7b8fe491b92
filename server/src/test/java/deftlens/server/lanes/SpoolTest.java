package deftlens.server.lanes;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.io.IOException;
import java.io.InputStream;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** Files of 80 MB that are taken slowly, or not at all; one person's may take 100 MB here. */
@ExtendWith(TestServer.class)
class SpoolTest {

    private static final String LARGE = "/api/registers/jobs/export.csv?statement=number%20starts%20with%20%22wide-%22";
    private static final int MEGABYTES = 80;

    @BeforeAll
    static void makeMuch() throws SQLException {
        TestServer.sql("insert into records.jobs (number, title, level, state, made_at, tags)"
                + " select 'wide-' || n, repeat('x', 20000), 1, 'open', now(), '{}' from generate_series(1, 4000) n");
    }

    @AfterAll
    static void takeItOut() throws SQLException {
        TestServer.sql("delete from records.jobs where number like 'wide-%'");
    }

    private static String token(String name) {
        return Caller.signedIn(name)
                .post("/api/account/tokens", Map.of("label", "files"))
                .json()
                .get("token")
                .stringValue();
    }

    /** A reader who has read the beginning of the head, and nothing else so far. */
    private static Socket begun(String token) throws IOException {
        URI server = URI.create(TestServer.address());
        Socket socket = new Socket();
        socket.setReceiveBufferSize(4_096);
        socket.connect(new InetSocketAddress(server.getHost(), server.getPort()));
        socket.getOutputStream()
                .write(("GET " + LARGE + " HTTP/1.1\r\nHost: localhost\r\nAuthorization: Bearer " + token + "\r\n\r\n")
                        .getBytes(StandardCharsets.US_ASCII));
        String head = new String(socket.getInputStream().readNBytes(12), StandardCharsets.US_ASCII);
        assertThat(head).isEqualTo("HTTP/1.1 200");
        return socket;
    }

    private static long take(String token) throws IOException, InterruptedException {
        try (HttpClient http = HttpClient.newHttpClient();
                InputStream body = http.send(
                                HttpRequest.newBuilder(URI.create(TestServer.address() + LARGE))
                                        .header("Authorization", "Bearer " + token)
                                        .build(),
                                HttpResponse.BodyHandlers.ofInputStream())
                        .body()) {
            return body.transferTo(java.io.OutputStream.nullOutputStream());
        }
    }

    @Test
    void whoTricklesThroughALargeFileHoldsUpNobodyElses() throws Exception {
        try (Socket trickling = begun(token("nina"))) {
            for (int i = 0; i < 3; i++) {
                assertThat(Caller.signedIn("dora")
                                .get("/api/registers/jobs/export.csv?statement=level%20%3D%20" + i)
                                .status())
                        .isEqualTo(200);
                assertThat(trickling.getInputStream().read()).isNotNegative();
            }
        }
    }

    @Test
    void moreThanOnePersonMayHaveLyingBreaksOffAndNobodyElseIsTouched() throws Exception {
        String nina = token("nina");
        Caller again = Caller.withToken(nina);
        try (Socket first = begun(nina)) {
            try (Socket second = begun(nina)) {
                await503(again);
                assertThat(Caller.signedIn("dora")
                                .get("/api/registers/jobs/export.csv")
                                .status())
                        .isEqualTo(200);
                assertThat(first.getInputStream().read()).isNotNegative();
                assertThat(second.getInputStream().read()).isNotNegative();
            }
            // The second of them can never become whole, and must not look whole.
            assertThatThrownBy(() -> take(nina)).isInstanceOf(IOException.class);
        }
        long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(30);
        long taken = 0;
        while (taken == 0) {
            try {
                taken = take(nina);
            } catch (IOException e) {
                // What was hung up a moment ago may still lie there.
                assertThat(System.nanoTime()).as("nothing lies there any more").isLessThan(end);
            }
        }
        assertThat(taken).isGreaterThan(MEGABYTES * 1_000_000L);
    }

    private static void await503(Caller nina) {
        long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(30);
        Caller.Answer answer = nina.get("/api/registers/jobs/export.csv?statement=level%20%3D%205");
        while (answer.status() == 200) {
            assertThat(System.nanoTime())
                    .as("the second file comes to the limit")
                    .isLessThan(end);
            answer = nina.get("/api/registers/jobs/export.csv?statement=level%20%3D%205");
        }
        assertThat(answer.status()).isEqualTo(503);
        assertThat(answer.json().get("code").stringValue()).isEqualTo("too-many-files");
    }
}
