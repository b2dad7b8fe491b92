package deftlens.server.testing;

import java.io.IOException;
import java.net.CookieManager;
import java.net.HttpCookie;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.HashMap;
import java.util.Map;
import java.util.stream.Collectors;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/** Somebody who speaks HTTP to the test server, with cookies and the CSRF header like a browser. */
public final class Caller {

    private static final ObjectMapper JSON = new ObjectMapper();

    private final CookieManager cookies = new CookieManager();
    private final HttpClient http =
            HttpClient.newBuilder().cookieHandler(cookies).build();
    private String address = TestServer.address();
    private String bearer = "";
    private String question = "";
    private boolean sendsCsrf = true;
    private final Map<String, String> headers = new HashMap<>();

    /** An answer: its status, its body as text and, where it is JSON, as a tree. */
    public record Answer(int status, String text, HttpResponse<String> response) {
        /** The body as a tree. */
        public JsonNode json() {
            return JSON.readTree(text);
        }

        /** A header's first value, or an empty text. */
        public String header(String name) {
            return response.headers().firstValue(name).orElse("");
        }
    }

    /** Somebody who is not signed in. */
    public static Caller stranger() {
        Caller caller = new Caller();
        caller.get("/api/welcome");
        return caller;
    }

    /** Somebody signed in; test people have their name and "-password" as password. */
    public static Caller signedIn(String name) {
        return signedIn(name, name + "-password");
    }

    /** Somebody of the demo world, signed in. */
    public static Caller demo(String name) {
        return signedIn(name, "demo-only");
    }

    private static Caller signedIn(String name, String password) {
        Caller caller = stranger();
        Answer answer = caller.post("/api/session", Map.of("name", name, "password", password));
        if (answer.status() != 200) {
            throw new IllegalStateException("sign-in as " + name + " was refused: " + answer.text());
        }
        return caller;
    }

    /** Somebody with a personal token and no cookies. */
    public static Caller withToken(String token) {
        Caller caller = new Caller();
        caller.bearer = token;
        caller.sendsCsrf = false;
        return caller;
    }

    /** The same caller, speaking to another server from now on. */
    public Caller at(String server) {
        address = server;
        return this;
    }

    /** The same caller, naming their questions from now on. */
    public Caller naming(String name) {
        question = name;
        return this;
    }

    /** The same caller, sending a header with everything from now on. */
    public Caller sending(String header, String value) {
        headers.put(header, value);
        return this;
    }

    /** The same caller without the CSRF header from now on. */
    public Caller withoutCsrf() {
        sendsCsrf = false;
        return this;
    }

    public Answer get(String path) {
        return send("GET", path, null);
    }

    /** Asks for a page as a browser does when somebody opens an address. */
    public Answer page(String path) {
        return send(HttpRequest.newBuilder(URI.create(address + path))
                .header("Accept", "text/html,application/xhtml+xml")
                .GET());
    }

    public Answer post(String path, Object body) {
        return send("POST", path, body);
    }

    public Answer put(String path, Object body) {
        return send("PUT", path, body);
    }

    public Answer patch(String path, Object body) {
        return send("PATCH", path, body);
    }

    public Answer delete(String path) {
        return send("DELETE", path, null);
    }

    /** Sends a file as it is. */
    public Answer upload(String path, byte[] content) {
        return send(HttpRequest.newBuilder(URI.create(address + path))
                .header("Content-Type", "application/octet-stream")
                .POST(HttpRequest.BodyPublishers.ofByteArray(content)));
    }

    /** Sends a form as a browser does. */
    public Answer form(String path, Map<String, String> fields) {
        String content = fields.entrySet().stream()
                .map(f -> URLEncoder.encode(f.getKey(), StandardCharsets.UTF_8) + "="
                        + URLEncoder.encode(f.getValue(), StandardCharsets.UTF_8))
                .collect(Collectors.joining("&"));
        return send(HttpRequest.newBuilder(URI.create(address + path))
                .header("Content-Type", "application/x-www-form-urlencoded")
                .POST(HttpRequest.BodyPublishers.ofString(content)));
    }

    /** Sends a body under an idempotency key. */
    public Answer post(String path, Object body, String idempotencyKey) {
        return send(HttpRequest.newBuilder(URI.create(address + path))
                .header("Content-Type", "application/json")
                .header("Idempotency-Key", idempotencyKey)
                .POST(HttpRequest.BodyPublishers.ofString(JSON.writeValueAsString(body))));
    }

    /** Sends a body: a text as it is, anything else as JSON. */
    public Answer send(String method, String path, Object body) {
        String content = body == null ? "" : body instanceof String s ? s : JSON.writeValueAsString(body);
        return send(HttpRequest.newBuilder(URI.create(address + path))
                .header("Content-Type", "application/json")
                .method(method, HttpRequest.BodyPublishers.ofString(content)));
    }

    /** Opens a stream of server-sent events and hands out its lines as they come; the caller closes it. */
    public java.util.stream.Stream<String> lines(String path) {
        HttpRequest.Builder request =
                HttpRequest.newBuilder(URI.create(address + path)).header("Accept", "text/event-stream");
        if (!bearer.isEmpty()) {
            request.header("Authorization", "Bearer " + bearer);
        }
        try {
            return http.send(request.build(), HttpResponse.BodyHandlers.ofLines())
                    .body();
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    private Answer send(HttpRequest.Builder request) {
        if (sendsCsrf) {
            cookies.getCookieStore().getCookies().stream()
                    .filter(c -> c.getName().equals("XSRF-TOKEN"))
                    .map(HttpCookie::getValue)
                    .findFirst()
                    .ifPresent(token -> request.header("X-XSRF-TOKEN", token));
        }
        headers.forEach(request::header);
        if (!question.isEmpty()) {
            request.header("X-Question", question);
        }
        if (!bearer.isEmpty()) {
            request.header("Authorization", "Bearer " + bearer);
        }
        try {
            HttpResponse<String> response = http.send(request.build(), HttpResponse.BodyHandlers.ofString());
            return new Answer(response.statusCode(), response.body(), response);
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }
}
