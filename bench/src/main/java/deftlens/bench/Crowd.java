package deftlens.bench;

import java.io.IOException;
import java.net.CookieManager;
import java.net.HttpCookie;
import java.net.Socket;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import tools.jackson.databind.json.JsonMapper;

/**
 * How long sign-in, a week's page and the list of views take while fifty slow questions are asked over and over and fifty
 * files are begun that nobody reads; beside the same without them.
 */
public final class Crowd {

    private static final int SLOW = 50;
    private static final int UNREAD = 50;
    private static final int SECONDS = 60;
    private static final List<String> PEOPLE =
            List.of("ines.marlow", "tomas.rell", "asta.quill", "bram.oake", "wren.halloway", "petra.lind");
    private static final JsonMapper JSON = new JsonMapper();

    private final URI server;
    private final Map<String, Integer> answers = new ConcurrentHashMap<>();
    private volatile boolean going = true;

    private Crowd(URI server) {
        this.server = server;
    }

    /**
     * Measures and prints a table.
     *
     * @param arguments the server's address
     */
    public static void main(String[] arguments) throws Exception {
        Crowd crowd = new Crowd(URI.create(arguments[0]));
        crowd.measure("by themselves", SECONDS / 3);
        List<Somebody> people = new ArrayList<>();
        for (String name : PEOPLE) {
            Somebody one = crowd.new Somebody();
            one.signIn(name);
            people.add(one);
        }
        for (int i = 0; i < SLOW; i++) {
            Somebody asks = people.get(i % people.size());
            int number = i;
            Thread.ofPlatform().daemon().start(() -> crowd.askSlowly(asks, number));
        }
        for (int i = 0; i < UNREAD; i++) {
            Somebody asks = people.get(i % people.size());
            Thread.ofPlatform().daemon().start(() -> crowd.leaveUnread(asks));
        }
        crowd.measure("in the crowd", SECONDS);
        crowd.going = false;
        System.out.printf("the slow questions were answered: %s%n", new TreeMap<>(crowd.answers));
    }

    private void measure(String when, int seconds) throws IOException, InterruptedException {
        Map<String, List<Double>> taken = new TreeMap<>();
        long end = System.nanoTime() + seconds * 1_000_000_000L;
        while (System.nanoTime() < end) {
            Somebody petra = new Somebody();
            petra.send("GET", "/api/welcome", null);
            note(taken, "sign-in", () -> petra.signIn("petra.lind"));
            note(
                    taken,
                    "a week's page",
                    () -> petra.expect(petra.send(
                            "POST", "/api/registers/moves/rows", Map.of("statement", "moved_at in last 7 days"))));
            note(taken, "the list of views", () -> petra.expect(petra.send("GET", "/api/views", null)));
        }
        taken.forEach((what, all) -> {
            double[] sorted = all.stream().mapToDouble(d -> d).sorted().toArray();
            System.out.printf(
                    "%-14s %-18s %5d times  p50 %6.0f ms  p90 %6.0f ms  p99 %6.0f ms  most %6.0f ms%n",
                    when, what, sorted.length, at(sorted, 0.5), at(sorted, 0.9), at(sorted, 0.99), at(sorted, 1));
        });
    }

    private static double at(double[] sorted, double share) {
        return sorted[Math.min(sorted.length - 1, (int) (share * sorted.length))];
    }

    private interface Call {
        void make() throws IOException, InterruptedException;
    }

    private static void note(Map<String, List<Double>> taken, String what, Call call)
            throws IOException, InterruptedException {
        long began = System.nanoTime();
        call.make();
        taken.computeIfAbsent(what, w -> new ArrayList<>()).add((System.nanoTime() - began) / 1e6);
    }

    private void askSlowly(Somebody asks, int number) {
        for (int round = 0; going; round++) {
            try {
                String statement =
                        "item contains \"zq%d-%d\" or for_order contains \"x%d\"".formatted(number, round, round);
                HttpResponse<String> answer =
                        asks.send("POST", "/api/registers/moves/count", Map.of("statement", statement, "exact", true));
                String code = answer.statusCode() == 200
                        ? "200"
                        : answer.statusCode() + " "
                                + JSON.readTree(answer.body()).path("code").stringValue("");
                answers.merge(code, 1, Integer::sum);
                if (answer.statusCode() == 503) {
                    Thread.sleep(1_000);
                }
            } catch (IOException | InterruptedException e) {
                answers.merge(e.getClass().getSimpleName(), 1, Integer::sum);
            }
        }
    }

    private void leaveUnread(Somebody asks) {
        while (going) {
            try (Socket socket = new Socket()) {
                socket.setReceiveBufferSize(4_096);
                socket.connect(new java.net.InetSocketAddress(server.getHost(), server.getPort()));
                socket.getOutputStream()
                        .write(("GET /api/registers/moves/export.csv HTTP/1.1\r\nHost: " + server.getAuthority()
                                        + "\r\nCookie: " + asks.cookie() + "\r\n\r\n")
                                .getBytes(StandardCharsets.US_ASCII));
                Thread.sleep(30_000);
            } catch (IOException e) {
                answers.merge("unread " + e.getClass().getSimpleName(), 1, Integer::sum);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                return;
            }
        }
    }

    /** Somebody with a browser of their own. */
    private final class Somebody {
        private final CookieManager cookies = new CookieManager();
        private final HttpClient http = HttpClient.newBuilder()
                .version(HttpClient.Version.HTTP_1_1)
                .cookieHandler(cookies)
                .build();

        void signIn(String name) throws IOException, InterruptedException {
            if (cookies.getCookieStore().getCookies().isEmpty()) {
                send("GET", "/api/welcome", null);
            }
            expect(send("POST", "/api/session", Map.of("name", name, "password", "demo-only")));
        }

        void expect(HttpResponse<String> answer) {
            if (answer.statusCode() != 200) {
                throw new IllegalStateException(answer.body());
            }
        }

        String cookie() {
            return cookies.getCookieStore().getCookies().stream()
                    .map(HttpCookie::toString)
                    .collect(Collectors.joining("; "));
        }

        HttpResponse<String> send(String method, String path, Object body) throws IOException, InterruptedException {
            HttpRequest.Builder request = HttpRequest.newBuilder(server.resolve(path))
                    .header("Content-Type", "application/json")
                    .method(
                            method,
                            body == null
                                    ? HttpRequest.BodyPublishers.noBody()
                                    : HttpRequest.BodyPublishers.ofString(JSON.writeValueAsString(body)));
            cookies.getCookieStore().getCookies().stream()
                    .filter(c -> c.getName().equals("XSRF-TOKEN"))
                    .findFirst()
                    .ifPresent(c -> request.header("X-XSRF-TOKEN", c.getValue()));
            return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
        }
    }
}
