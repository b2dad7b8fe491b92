package deftlens.demo;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * Walks the OpenAPI document and sends each call many times what nobody should send. Whatever comes, it is answered, and never
 * with a 500. The seed is printed where it is not so; give it with {@code -Ddeft.seed} to see the same again, and the number
 * of calls with {@code -Ddeft.calls}.
 */
@ExtendWith(DemoServer.class)
class HostileInputTest {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final int CALLS = Integer.getInteger("deft.calls", 10_000);

    /** What would end the walk itself, or keep the machine busy with what is not asked here. */
    private static final Set<String> LEFT_OUT =
            Set.of("DELETE /api/session", "DELETE /api/account/sessions", "GET /api/changes");

    /** What means the service could not, for a reason that it says. */
    private static final Set<String> HONEST = Set.of("took-too-long", "linked-server", "busy");

    private static final List<String> REGISTERS = List.of("defects", "dues", "permits", "moves", "stays", "closures");

    private final JsonNode document = Caller.stranger().get("/api/openapi.json").json();
    private final long seed = Long.getLong("deft.seed", new Random().nextLong());
    private final Random random = new Random(seed);

    private record Operation(String method, String path, JsonNode description) {
        @Override
        public String toString() {
            return method + " " + path;
        }
    }

    @Test
    void noCallAnswers500() throws SQLException {
        String restoring = TestServer.query(
                "select string_agg(format('update person set password_hash = %L, role = %L, active = true, left_at = null,"
                        + " must_change_password = false, subject = null where id = %s', password_hash, role, id), ';')"
                        + " || '; truncate sign_in_try' from person");
        List<Operation> operations = operations();
        Caller ines = Caller.demo("ines.marlow");
        Caller tomas = Caller.demo("tomas.rell");
        Caller petra = Caller.demo("petra.lind");
        Map<String, String> failures = new TreeMap<>();
        Map<Integer, Integer> statuses = new TreeMap<>();
        for (int i = 0; i < CALLS; i++) {
            Operation operation = operations.get(i % operations.size());
            Caller caller = List.of(ines, ines, tomas, petra).get(random.nextInt(4));
            String path = path(operation);
            String body = body(operation);
            Caller.Answer answer = caller.send(operation.method(), path, body);
            statuses.merge(answer.status(), 1, Integer::sum);
            if (answer.status() == 401 || code(answer).equals("change-password")) {
                // The walk has taken somebody's rights or password away.
                TestServer.sql(restoring);
                ines = Caller.demo("ines.marlow");
                tomas = Caller.demo("tomas.rell");
                petra = Caller.demo("petra.lind");
            }
            if (answer.status() >= 500 && !HONEST.contains(code(answer))
                    || answer.status() >= 400 && code(answer).isEmpty()) {
                failures.putIfAbsent(
                        operation.toString(),
                        answer.status() + " to " + operation.method() + " " + cut(path) + " " + cut(body));
            }
        }
        assertThat(failures)
                .as("seed " + seed + ", answers " + statuses + "\n" + String.join("\n", failures.values()))
                .isEmpty();
        // The walk comes through to what the calls do, and does not only break at their doors.
        assertThat(statuses.getOrDefault(200, 0)).as(statuses.toString()).isGreaterThan(CALLS / 20);
    }

    @Test
    void textThatIsNoneIsRefusedBySignInToo() {
        Caller stranger = Caller.stranger();
        for (String body : List.of(
                "{\"name\":\"a\\u0000b\",\"password\":\"x\"}",
                "{\"name\":\"\\ud800\",\"password\":\"x\"}",
                "{\"name\":\"\\udc00\\ud800\",\"password\":\"x\"}",
                "{\"name\":\"a\",\"password\":\"\\u0000\"}",
                "{\"name\":null,\"password\":\"x\"}",
                "[]",
                "null",
                "")) {
            assertThat(stranger.send("POST", "/api/session", body).status())
                    .as(body)
                    .isEqualTo(400);
        }
        assertThat(stranger.send("POST", "/api/session", "{\"name\":\"\\ud83d\\ude00 \\\\u0000\",\"password\":\"x\"}")
                        .status())
                .isEqualTo(401);
        assertThat(stranger.get("/error").status()).isEqualTo(404);
    }

    private static String code(Caller.Answer answer) {
        try {
            return answer.json().path("code").stringValue("");
        } catch (RuntimeException notJson) {
            return "";
        }
    }

    private static String cut(String text) {
        return text.length() > 600 ? text.substring(0, 600) + "… (" + text.length() + ")" : text;
    }

    private List<Operation> operations() {
        List<Operation> found = new ArrayList<>();
        document.get("paths")
                .propertyStream()
                .forEach(path -> path.getValue()
                        .propertyStream()
                        .map(m -> new Operation(m.getKey().toUpperCase(Locale.ROOT), path.getKey(), m.getValue()))
                        .filter(o -> !LEFT_OUT.contains(o.toString()))
                        .forEach(found::add));
        return found;
    }

    // ------------------------------------------------------------------ what is sent

    private String path(Operation operation) {
        String path = operation.path();
        List<String> query = new ArrayList<>();
        for (JsonNode parameter : operation.description().path("parameters")) {
            String name = parameter.get("name").stringValue();
            switch (parameter.get("in").stringValue()) {
                case "path" -> path = path.replace("{" + name + "}", encoded(segment(operation, name)));
                case "query" -> {
                    if (parameter.path("required").booleanValue(false) || random.nextInt(3) == 0) {
                        query.add(name + "=" + encoded(parameter(name)));
                    }
                }
                default -> {}
            }
        }
        return query.isEmpty() ? path : path + "?" + String.join("&", query);
    }

    private String segment(Operation operation, String name) {
        boolean harmless = !operation.method().equals("DELETE");
        if (harmless && random.nextInt(10) < 8) {
            return name.equals("key") || name.equals("register")
                    ? pick(REGISTERS)
                    : String.valueOf(1 + random.nextInt(40));
        }
        return pick(List.of(
                "0",
                "-1",
                "99999999999999999999",
                "nothing",
                "\u0000",
                "a\u0000b",
                "é",
                "1.5",
                "9223372036854775807",
                "x".repeat(300)));
    }

    private String parameter(String name) {
        return random.nextInt(3) == 0
                ? text(name)
                : pick(List.of("1", "10", "1,,2", "title", "2026-11-23", "Europe/London", "true"));
    }

    private static String encoded(String text) {
        StringBuilder encoded = new StringBuilder();
        // Halves of pairs cannot be sent in an address at all.
        for (byte b : text.getBytes(StandardCharsets.UTF_8)) {
            char c = (char) (b & 0xff);
            boolean plain = c < 0x80 && (Character.isLetterOrDigit(c) || "-._~".indexOf(c) >= 0);
            encoded.append(
                    plain ? String.valueOf(c) : URLEncoder.encode(String.valueOf(c), StandardCharsets.ISO_8859_1));
        }
        return encoded.toString().replace("+", "%20");
    }

    private String body(Operation operation) {
        JsonNode schema = operation.description().at("/requestBody/content/application~1json/schema");
        if (schema.isMissingNode()) {
            return "";
        }
        return switch (random.nextInt(25)) {
            case 0 ->
                pick(List.of(
                        "",
                        "null",
                        "[]",
                        "{",
                        "\"x\"",
                        "{\"a\":1}",
                        "[".repeat(5_000),
                        "{}{}",
                        "{\"statement\":\"\\ud800\"}"));
            default ->
                JSON.writeValueAsString(value("", schema, 0))
                        .replace("«nul»", "\\u0000")
                        .replace("«half»", "\\udead");
        };
    }

    private Object value(String name, JsonNode schema, int depth) {
        JsonNode resolved = schema;
        if (schema.has("$ref")) {
            resolved = document.at(schema.get("$ref").stringValue().substring(1));
        }
        if (resolved.has("anyOf")) {
            return random.nextInt(4) == 0
                    ? null
                    : value(name, resolved.get("anyOf").get(0), depth);
        }
        if (random.nextInt(12) == 0) {
            return wrong(name, depth);
        }
        if (resolved.has("enum")) {
            JsonNode all = resolved.get("enum");
            return all.get(random.nextInt(all.size())).stringValue();
        }
        String type = resolved.path("type").isArray()
                ? resolved.get("type").get(0).stringValue()
                : resolved.path("type").stringValue("");
        return switch (type) {
            case "object" -> object(resolved, depth);
            case "array" -> {
                List<Object> items = new ArrayList<>();
                int size = random.nextInt(4);
                for (int i = 0; i < size; i++) {
                    items.add(random.nextInt(15) == 0 ? null : value(name, resolved.path("items"), depth + 1));
                }
                yield items;
            }
            case "boolean" -> random.nextBoolean();
            case "integer" -> pick(List.of(0, 1, 2, 5, 100, -1, Integer.MAX_VALUE, Long.MAX_VALUE, Long.MIN_VALUE));
            case "number" ->
                pick(List.of(
                        0,
                        1.5,
                        -1e308,
                        1e-300,
                        new java.math.BigDecimal("1e999999"),
                        new java.math.BigDecimal("9".repeat(400))));
            case "string" -> text(name);
            default -> name.equals("condition") ? tree(0) : wrong(name, depth);
        };
    }

    private Object object(JsonNode schema, int depth) {
        Map<String, Object> object = new LinkedHashMap<>();
        if (depth < 6) {
            schema.path("properties").propertyStream().forEach(p -> {
                boolean required = schema.path("required")
                        .valueStream()
                        .anyMatch(r -> r.stringValue().equals(p.getKey()));
                // A question comes in words or as a tree; both at once are refused at the door.
                boolean twice = p.getKey().equals("condition") && object.containsKey("statement");
                if (!twice && (required ? random.nextInt(20) > 0 : random.nextInt(3) == 0)) {
                    object.put(p.getKey(), value(p.getKey(), p.getValue(), depth + 1));
                }
            });
            if (schema.has("additionalProperties")
                    && schema.get("additionalProperties").isObject()) {
                for (int i = random.nextInt(3); i > 0; i--) {
                    object.put(text(""), value("", schema.get("additionalProperties"), depth + 1));
                }
            }
        }
        return object;
    }

    private Object wrong(String name, int depth) {
        return switch (random.nextInt(9)) {
            case 0 -> null;
            case 1 -> List.of();
            case 2 -> Map.of();
            case 3 -> random.nextLong();
            case 4 -> new java.math.BigDecimal("1e400");
            case 5 -> true;
            case 6 -> java.util.Arrays.asList(null, "x", null);
            case 7 -> Map.of(text(name), text(name));
            default -> text(name);
        };
    }

    private static final List<String> STATEMENTS = List.of(
            "severity >= 3",
            "reported_at in last 7 days",
            "due before today and status is not \"Done\"",
            "title contains \"pump\" or tags has any of (Safety)",
            "amount > 1e9999999",
            "amount between 1 and " + "9".repeat(2_000),
            "cost = 1e-99999",
            "due in last 999999999 days",
            "due in next 99999999999999999999 years",
            "reported_at in last 9999999999 minutes",
            "due on 9999-12-31",
            "due on 0001-01-01",
            "due in +999999999-01-01",
            "reported_at before 9999-12-31T23:59:59-18:00",
            "due between 0001-01-01 and 9999-12-31",
            "due in FY9999",
            "due in 9999-Q4",
            "due in 9999-W53",
            "due more than 99999999 years ago",
            "title matches /(a+)+$/",
            "title matches /[/",
            "title like \"%\\\\\"",
            "title is like \"\\\\\"",
            "due after closed_at + 999999999 days",
            "closed_at after reported_at + 99999999999 minutes",
            "stay overlaps 0001",
            "stay within last 99999 years",
            "length is in band \"Long\"",
            "severity is in (1, 2, 3)",
            "(".repeat(200) + "severity = 1" + ")".repeat(200),
            "not ".repeat(500) + "severity = 1",
            "severity = {a = 1}",
            "due in {when}",
            "assignee is me",
            "site is my nothing",
            "\"",
            "«nul»",
            "«half»",
            "title is \"«nul»\"",
            "",
            "   ",
            "severity = 1 and ".repeat(1_200) + "severity = 1");

    private static final List<String> TEXTS = List.of(
            "",
            " ",
            "title",
            "severity",
            "due",
            "amount",
            "stay",
            "tags",
            "2026-11-23",
            "2026-11-23T09:30:00Z",
            "2026-02-30",
            "+999999999-12-31T23:59:59Z",
            "-999999999-01-01",
            "0000-00-00",
            "last 7 days",
            "Europe/London",
            "Nowhere/Land",
            "+18:00",
            "«nul»",
            "a«nul»b",
            "«half»",
            "'; drop table person; --",
            "\"",
            "../../etc/passwd",
            "%s%n{}",
            "name",
            "-1",
            "1e999999999",
            "NaN",
            "\u202e\u0000".substring(0, 1),
            "x".repeat(300),
            "x".repeat(70_000));

    private String text(String name) {
        if (name.equals("statement") && random.nextInt(10) > 0) {
            return pick(STATEMENTS);
        }
        return pick(TEXTS);
    }

    /** A condition as a tree, mostly of the right form. */
    private Object tree(int depth) {
        return switch (random.nextInt(depth > 4 ? 2 : 5)) {
            case 0 ->
                Map.of(
                        "field",
                        pick(TEXTS),
                        "test",
                        pick(List.of("is", "contains", "in", "between", "empty")),
                        "value",
                        wrong("", 0) == null ? 1 : "x");
            case 1 -> wrong("", 0);
            case 2 -> Map.of("all", List.of(tree(depth + 1) == null ? Map.of() : Map.of("any", List.of())));
            case 3 -> Map.of("none", java.util.Arrays.asList(tree(depth + 1), null));
            default -> Map.of("off", Map.of());
        };
    }

    private <T> T pick(List<T> from) {
        return from.get(random.nextInt(from.size()));
    }
}
