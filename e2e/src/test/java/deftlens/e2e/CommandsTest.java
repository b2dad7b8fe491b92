package deftlens.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.CookieManager;
import java.net.HttpCookie;
import java.net.ServerSocket;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The one command, on places that are empty: as whoever has just fetched the program uses it. */
class CommandsTest {

    private static final Path ROOT = Path.of("..").toAbsolutePath().normalize();
    private static final long MOST_MINUTES = 10;

    @TempDir
    Path places;

    private final List<Path> begun = new ArrayList<>();

    private record Ended(int code, String said) {}

    private Ended deft(String... words) throws IOException, InterruptedException {
        List<String> command = new ArrayList<>(List.of(ROOT.resolve("deft").toString()));
        command.addAll(List.of(words));
        Path output = Files.createTempFile(places, "output", ".txt");
        Process process = new ProcessBuilder(command)
                .directory(ROOT.toFile())
                .redirectErrorStream(true)
                .redirectOutput(output.toFile())
                .start();
        assertThat(process.waitFor(MOST_MINUTES, TimeUnit.MINUTES))
                .as("%s", command)
                .isTrue();
        return new Ended(process.exitValue(), Files.readString(output));
    }

    private Ended done(String... words) throws IOException, InterruptedException {
        Ended ended = deft(words);
        assertThat(ended.code()).as(ended.said()).isZero();
        return ended;
    }

    private Path place(String name) throws IOException {
        Path place = Files.createDirectory(places.resolve(name));
        begun.add(place);
        return place;
    }

    @AfterEach
    void stop() throws IOException, InterruptedException {
        for (Path place : begun) {
            deft("stop", "--data", place.toString());
        }
    }

    private static String freePort() throws IOException {
        try (ServerSocket socket = new ServerSocket(0)) {
            return String.valueOf(socket.getLocalPort());
        }
    }

    /** Somebody who asks a server that a command started. */
    private static final class Asker {
        private final CookieManager cookies = new CookieManager();
        private final HttpClient client =
                HttpClient.newBuilder().cookieHandler(cookies).build();
        private final String address;

        Asker(String port) {
            this.address = "http://localhost:" + port;
        }

        HttpResponse<String> send(String method, String path, String body) throws IOException, InterruptedException {
            String token = cookies.getCookieStore().getCookies().stream()
                    .filter(c -> c.getName().equals("XSRF-TOKEN"))
                    .map(HttpCookie::getValue)
                    .findFirst()
                    .orElse("");
            return client.send(
                    HttpRequest.newBuilder(URI.create(address + path))
                            .method(method, HttpRequest.BodyPublishers.ofString(body))
                            .header("Content-Type", "application/json")
                            .header("X-XSRF-TOKEN", token)
                            .build(),
                    HttpResponse.BodyHandlers.ofString());
        }

        Asker signedIn(String name, String password) throws IOException, InterruptedException {
            send("GET", "/api/welcome", "");
            HttpResponse<String> answer =
                    send("POST", "/api/session", "{\"name\": \"" + name + "\", \"password\": \"" + password + "\"}");
            assertThat(answer.statusCode()).as(answer.body()).isEqualTo(200);
            return this;
        }

        String keep(String name) throws IOException, InterruptedException {
            HttpResponse<String> kept = send(
                    "POST",
                    "/api/views",
                    "{\"register\": \"defects\", \"name\": \"" + name + "\", \"statement\": \"\"}");
            assertThat(kept.statusCode()).as(kept.body()).isEqualTo(201);
            return kept.body();
        }

        String views() throws IOException, InterruptedException {
            return send("GET", "/api/views", "").body();
        }
    }

    @Test
    void theDemoIsKeptPutBackAndStopped() throws IOException, InterruptedException {
        String data = place("demo").toString();
        String port = freePort();
        Ended first = done("demo", "--data", data, "--port", port, "--on", "2026-11-23");
        assertThat(first.said())
                .contains("Deft Lens is at  http://localhost:" + port + "/", "demo-only", "./deft stop --data " + data);
        Asker ines = new Asker(port).signedIn("ines.marlow", "demo-only");
        assertThat(ines.send("POST", "/api/registers/defects/count", "{\"statement\": \"\"}")
                        .body())
                .contains("24000");
        ines.keep("Before the copy");

        assertThat(done("demo", "--data", data).said()).contains("already running");
        assertThat(deft("demo", "--data", data, "--port", freePort()).code()).isNotZero();

        String copy = places.resolve("copy").toString();
        done("backup", copy, "--data", data);
        assertThat(PosixFilePermissions.toString(Files.getPosixFilePermissions(Path.of(copy))))
                .isEqualTo("rw-------");
        Ended again = deft("backup", copy, "--data", data);
        assertThat(again.code()).isNotZero();
        assertThat(again.said()).contains("is there already and is left as it is");
        ines.keep("After the copy");
        Ended running = deft("restore", copy, "--data", data);
        assertThat(running.code()).isNotZero();
        assertThat(running.said()).contains("Stop it first");

        assertThat(done("stop", "--data", data).said()).contains("server stopped");
        assertThat(done("stop", "--data", data).said()).contains("no server is running");
        done("restore", copy, "--data", data);
        done("start", "--data", data, "--port", port);
        assertThat(new Asker(port).signedIn("ines.marlow", "demo-only").views())
                .contains("Before the copy")
                .doesNotContain("After the copy");
    }

    @Test
    void anEmptyPlaceHasAFirstAdministratorAndTakesACopyFromElsewhere() throws IOException, InterruptedException {
        String data = place("own").toString();
        String port = freePort();
        String said = done("start", "--data", data, "--port", port).said();
        Matcher first = Pattern.compile("(?m)^\\s*(\\S+)\\s+(\\S+)\\s*$")
                .matcher(said.substring(said.indexOf("First sign-in"))
                        .lines()
                        .skip(1)
                        .findFirst()
                        .orElseThrow());
        assertThat(first.find()).as(said).isTrue();
        new Asker(port).signedIn(first.group(1), first.group(2));
        Ended demo = deft("demo", "--data", data, "--port", port, "--on", "2026-11-23");
        assertThat(demo.code()).as(demo.said()).isNotZero();

        String copy = places.resolve("own copy").toString();
        done("backup", copy, "--data", data);
        String other = place("other").toString();
        String otherPort = freePort();
        done("restore", copy, "--data", other);
        done("start", "--data", other, "--port", otherPort);
        new Asker(otherPort).signedIn(first.group(1), first.group(2));
    }

    @Test
    void whatIsNoCommandIsSaidToBeNone() throws IOException, InterruptedException {
        Ended ended = deft("begin");
        assertThat(ended.code()).isNotZero();
        assertThat(ended.said()).contains("There is no command “begin”");
        assertThat(deft(
                                "backup",
                                places.resolve("copy").toString(),
                                "--data",
                                place("none").toString())
                        .said())
                .contains("There is no database in");
    }
}
