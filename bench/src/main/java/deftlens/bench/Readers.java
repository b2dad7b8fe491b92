package deftlens.bench;

import java.io.IOException;
import java.net.CookieManager;
import java.net.HttpCookie;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import tools.jackson.databind.json.JsonMapper;

/**
 * What a request costs: the processor time of the server and of the database for one call, with one reader who asks one thing
 * after another; and how many calls of a mix fifty readers get answered in a second.
 *
 * <p>The readers run on the same machine and take some of its processors too, so the calls in a second compare this program
 * with itself only.
 */
public final class Readers {

    private static final int READERS = 50;
    private static final int WARM = 500;
    private static final int CALLS = 2_000;
    private static final Duration LONG = Duration.ofSeconds(20);
    private static final JsonMapper JSON = new JsonMapper();

    private final URI server;
    private final long serverProcess;
    private final long databaseProcess;
    private final HttpClient http =
            HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();

    /** One call of the mix. */
    private record Call(String name, String path, Map<String, Object> body) {}

    private static final List<Call> MIX = List.of(
            page("newest hundred moves", "moves", ""),
            page("hundred moves of the last 7 days", "moves", "moved_at in last 7 days"),
            page("newest hundred defects", "defects", ""),
            page("open defects past their due", "defects", "status is not \"Closed\" and due before today"),
            page("dues of this month", "dues", "posted_at in this month"),
            new Call("a count", "/api/registers/defects/count", Map.of("statement", "status is \"Open\"")),
            new Call("values of a field", "/api/registers/defects/values", Map.of("field", "status")),
            new Call(
                    "a statement checked",
                    "/api/registers/defects/statement",
                    Map.of("statement", "status is \"Open\" and due in last 30 days")));

    private Readers(URI server, long serverProcess, long databaseProcess) {
        this.server = server;
        this.serverProcess = serverProcess;
        this.databaseProcess = databaseProcess;
    }

    /**
     * Measures and prints.
     *
     * @param arguments the server's address, the number of its process, and of the database's first process
     */
    public static void main(String[] arguments) throws Exception {
        Readers readers =
                new Readers(URI.create(arguments[0]), Long.parseLong(arguments[1]), Long.parseLong(arguments[2]));
        String cookie = readers.signIn();
        String token = readers.token(cookie);
        Reader byToken = readers.usable(new Reader(Map.of("Authorization", "Bearer " + token)));
        Reader bySession = readers.usable(new Reader(readers.headers(cookie)));
        // What is compiled while it runs is compiled by then.
        readers.throughput("warming up", byToken);
        readers.throughput("by token", byToken);
        readers.throughput("in a browser", bySession);
        System.out.printf("%n%-42s %9s %9s%n", "processor time of one call, ms", "server", "database");
        for (Call call : MIX) {
            readers.cost(call, byToken);
        }
    }

    /** Somebody who asks: the headers of the requests. */
    private record Reader(Map<String, String> headers) {}

    private Reader usable(Reader reader) throws IOException, InterruptedException {
        for (Call call : MIX) {
            HttpResponse<String> answer = ask(call, reader);
            if (answer.statusCode() != 200) {
                throw new IllegalStateException(call.name() + ": " + answer.body());
            }
        }
        return reader;
    }

    private static Call page(String name, String register, String statement) {
        return new Call(name, "/api/registers/" + register + "/rows", Map.of("statement", statement));
    }

    private void cost(Call call, Reader reader) throws IOException, InterruptedException {
        for (int i = 0; i < WARM; i++) {
            ask(call, reader);
        }
        long serverBefore = serverTime();
        long databaseBefore = databaseTime();
        for (int i = 0; i < CALLS; i++) {
            ask(call, reader);
        }
        System.out.printf(
                "%-42s %9.2f %9.2f%n",
                call.name(),
                millis(serverTime() - serverBefore) / CALLS,
                millis(databaseTime() - databaseBefore) / CALLS);
    }

    private void throughput(String how, Reader reader) throws InterruptedException {
        AtomicInteger answered = new AtomicInteger();
        AtomicInteger refused = new AtomicInteger();
        List<Double> taken = new ArrayList<>();
        CountDownLatch done = new CountDownLatch(READERS);
        long began = System.nanoTime();
        long end = began + LONG.toNanos();
        for (int r = 0; r < READERS; r++) {
            int first = r;
            Thread.ofVirtual().start(() -> {
                try {
                    for (int i = first; System.nanoTime() < end; i++) {
                        long asked = System.nanoTime();
                        HttpResponse<String> answer = ask(MIX.get(i % MIX.size()), reader);
                        (answer.statusCode() == 200 ? answered : refused).incrementAndGet();
                        synchronized (taken) {
                            taken.add((System.nanoTime() - asked) / 1e6);
                        }
                    }
                } catch (IOException | InterruptedException e) {
                    refused.incrementAndGet();
                } finally {
                    done.countDown();
                }
            });
        }
        done.await();
        double seconds = (System.nanoTime() - began) / 1e9;
        double[] sorted = taken.stream().mapToDouble(d -> d).sorted().toArray();
        System.out.printf(
                "%d readers %s: %.0f calls a second, p50 %.0f ms, p99 %.0f ms%s%n",
                READERS,
                how,
                answered.get() / seconds,
                sorted[sorted.length / 2],
                sorted[(int) (sorted.length * 0.99)],
                refused.get() == 0 ? "" : ", " + refused + " not answered");
    }

    private HttpResponse<String> ask(Call call, Reader reader) throws IOException, InterruptedException {
        return send(call.path(), call.body(), reader.headers());
    }

    private HttpResponse<String> send(String path, Map<String, Object> body, Map<String, String> headers)
            throws IOException, InterruptedException {
        HttpRequest.Builder request = HttpRequest.newBuilder(server.resolve(path))
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofString(JSON.writeValueAsString(body)));
        headers.forEach(request::header);
        return http.send(request.build(), HttpResponse.BodyHandlers.ofString());
    }

    private String signIn() throws IOException, InterruptedException {
        CookieManager cookies = new CookieManager();
        try (HttpClient browser = HttpClient.newBuilder().cookieHandler(cookies).build()) {
            browser.send(
                    HttpRequest.newBuilder(server.resolve("/api/welcome")).build(),
                    HttpResponse.BodyHandlers.discarding());
            HttpResponse<String> answer = browser.send(
                    HttpRequest.newBuilder(server.resolve("/api/session"))
                            .header("Content-Type", "application/json")
                            .header("X-XSRF-TOKEN", value(cookies, "XSRF-TOKEN"))
                            .POST(HttpRequest.BodyPublishers.ofString(
                                    JSON.writeValueAsString(Map.of("name", "ines.marlow", "password", "demo-only"))))
                            .build(),
                    HttpResponse.BodyHandlers.ofString());
            if (answer.statusCode() != 200) {
                throw new IllegalStateException(answer.body());
            }
            browser.send(
                    HttpRequest.newBuilder(server.resolve("/api/welcome")).build(),
                    HttpResponse.BodyHandlers.discarding());
            return "DEFT_SESSION=" + value(cookies, "DEFT_SESSION") + "; XSRF-TOKEN=" + value(cookies, "XSRF-TOKEN");
        }
    }

    private static String value(CookieManager cookies, String name) {
        return cookies.getCookieStore().getCookies().stream()
                .filter(c -> c.getName().equals(name))
                .map(HttpCookie::getValue)
                .findFirst()
                .orElseThrow();
    }

    private Map<String, String> headers(String cookie) {
        return Map.of("Cookie", cookie, "X-XSRF-TOKEN", cookie.substring(cookie.indexOf("XSRF-TOKEN=") + 11));
    }

    private String token(String cookie) throws IOException, InterruptedException {
        HttpResponse<String> made =
                send("/api/account/tokens", Map.of("label", "Measuring", "days", 1), headers(cookie));
        if (made.statusCode() >= 300) {
            throw new IllegalStateException(made.body());
        }
        return JSON.readTree(made.body()).get("token").stringValue();
    }

    private long serverTime() throws IOException {
        return ticks(serverProcess);
    }

    /** Of the database's first process and all its children, those that have ended included. */
    private long databaseTime() throws IOException {
        long all = ticks(databaseProcess);
        for (long child : ProcessHandle.of(databaseProcess)
                .orElseThrow()
                .children()
                .mapToLong(ProcessHandle::pid)
                .toArray()) {
            all += ticks(child);
        }
        return all;
    }

    /** Processor time of a process and of its children that have ended, from {@code /proc}; in hundredths of a second. */
    private static long ticks(long process) throws IOException {
        Path stat = Path.of("/proc/" + process + "/stat");
        Optional<String> line = Files.exists(stat) ? Optional.of(Files.readString(stat)) : Optional.empty();
        return line.map(l -> l.substring(l.lastIndexOf(')') + 2).split(" "))
                .map(fields ->
                        Arrays.stream(fields, 11, 15).mapToLong(Long::parseLong).sum())
                .orElse(0L);
    }

    private static double millis(long ticks) {
        return ticks * 10.0;
    }
}
