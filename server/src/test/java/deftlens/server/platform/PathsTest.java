package deftlens.server.platform;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;
import org.junit.jupiter.api.extension.ExtendWith;
import org.springframework.core.annotation.AnnotatedElementUtils;
import org.springframework.web.servlet.mvc.method.annotation.RequestMappingHandlerMapping;
import tools.jackson.databind.JsonNode;

/** However a path is spelled, it leads to the same door or to none. */
@ExtendWith(TestServer.class)
class PathsTest {

    /** What anybody may call. */
    private static final Set<String> OPEN = Set.of(
            "GET /api/welcome",
            "GET /api/session",
            "POST /api/session",
            "DELETE /api/session",
            "DELETE /api/session/looking-as");

    private record Call(String method, String path) {
        boolean isOpen() {
            return OPEN.contains(method + " " + path);
        }
    }

    private static List<Call> calls() {
        List<Call> calls = new ArrayList<>();
        JsonNode paths = Caller.stranger().get("/api/openapi.json").json().get("paths");
        paths.propertyStream()
                .forEach(path -> path.getValue()
                        .propertyNames()
                        .forEach(method -> calls.add(new Call(
                                method.toUpperCase(java.util.Locale.ROOT),
                                path.getKey()
                                        .replaceAll("\\{[^}]*key[^}]*\\}", "jobs")
                                        .replaceAll("\\{[^}]*\\}", "1")))));
        return calls;
    }

    private static List<String> spellings(String path) {
        String rest = path.substring(1);
        int last = path.length() - 1;
        String hex = "%" + Integer.toHexString(path.charAt(last));
        return List.of(
                "/%61pi" + path.substring(4),
                "/ap%69" + path.substring(4),
                "/%2561pi" + path.substring(4),
                path.substring(0, last) + hex,
                "//" + rest,
                "/./" + rest,
                "/assets/%2e%2e/" + rest,
                "/api;x=1" + path.substring(4),
                path + "/",
                "/API" + path.substring(4),
                "/assets%2f..%2f" + rest);
    }

    @TestFactory
    Stream<DynamicTest> noSpellingOfACallLetsAnybodyInWhoWouldBeKeptOut() throws SQLException {
        Caller stranger = Caller.stranger();
        Caller looking = Caller.signedIn("ada");
        assertThat(looking.post("/api/session/looking-as", Map.of("person", 3)).status())
                .isEqualTo(200);
        List<Call> calls = calls();
        assertThat(calls).hasSizeGreaterThan(100);
        return calls.stream()
                .map(call -> DynamicTest.dynamicTest(call.method() + " " + call.path(), () -> {
                    if (!call.isOpen()) {
                        assertThat(stranger.send(call.method(), call.path(), "{}")
                                        .status())
                                .isEqualTo(401);
                    }
                    for (String spelling : spellings(call.path())) {
                        for (Caller caller : List.of(stranger, looking)) {
                            Caller.Answer answer = caller.send(call.method(), spelling, "{}");
                            assertThat(answer.status())
                                    .as(call.method() + " " + spelling + ": " + answer.text())
                                    .isIn(400, 401, 403, 404, 405);
                        }
                    }
                }));
    }

    @Test
    void nothingElseIsOpen() {
        Set<String> open = new TreeSet<>();
        TestServer.bean("requestMappingHandlerMapping", RequestMappingHandlerMapping.class)
                .getHandlerMethods()
                .forEach((mapping, handler) -> {
                    Admits admits = AnnotatedElementUtils.findMergedAnnotation(handler.getMethod(), Admits.class);
                    if (admits != null && admits.strangers()) {
                        mapping.getMethodsCondition()
                                .getMethods()
                                .forEach(m -> mapping.getPatternValues().forEach(p -> open.add(m + " " + p)));
                    }
                });
        assertThat(open).containsExactlyInAnyOrderElementsOf(OPEN);
    }

    @Test
    void whatIsNotKnownIsClosed() {
        Caller stranger = Caller.stranger();
        for (String path :
                new String[] {"/nothing", "/api/nothing", "/actuator", "/actuator/env", "/stand-in/identity/keys"}) {
            assertThat(stranger.get(path).status()).as(path).isEqualTo(401);
        }
        assertThat(stranger.get("/views/%41").json().get("code").stringValue()).isEqualTo("bad-path");
        assertThat(stranger.get("/views/1").status()).isEqualTo(200);
    }

    @Test
    void aChangeOfRoleOrActivityIsInForceAtTheNextCall() throws SQLException {
        Caller session = Caller.signedIn("ada");
        Caller token = Caller.withToken(session.post("/api/account/tokens", Map.of("label", "writes"))
                .json()
                .get("token")
                .stringValue());
        TestServer.sql(
                "insert into person (name, full_name, password_hash, role)"
                        + " select 'other.admin', 'Other Admin', password_hash, 'ADMINISTRATOR' from person where name = 'ada'");
        try {
            for (Caller caller : List.of(session, token)) {
                assertThat(caller.get("/api/trail").status()).isEqualTo(200);
            }
            TestServer.sql("update person set role = 'MEMBER' where name = 'ada'");
            for (Caller caller : List.of(session, token)) {
                assertThat(caller.get("/api/trail").status()).isEqualTo(403);
                assertThat(caller.get("/%61pi/trail").status()).isEqualTo(400);
                assertThat(caller.put(
                                        "/api/people/1",
                                        Map.of(
                                                "version",
                                                0,
                                                "fullName",
                                                "Ada Admin",
                                                "role",
                                                "ADMINISTRATOR",
                                                "teams",
                                                List.of(),
                                                "values",
                                                Map.of()))
                                .status())
                        .isEqualTo(403);
            }
            TestServer.sql("update person set must_change_password = true where name = 'ada'");
            for (Caller caller : List.of(session, token)) {
                assertThat(caller.get("/api/registers").json().get("code").stringValue())
                        .isEqualTo("change-password");
            }
            TestServer.sql("update person set active = false where name = 'ada'");
            for (Caller caller : List.of(session, token)) {
                assertThat(caller.get("/api/registers").status()).isEqualTo(401);
            }
        } finally {
            TestServer.sql(
                    "update person set role = 'ADMINISTRATOR', must_change_password = false, active = true where name = 'ada'");
            TestServer.sql("delete from person where name = 'other.admin'");
        }
    }

    @Test
    void aBrowserAtAnAddressWhereNothingIsGetsThePage() {
        Caller ada = Caller.signedIn("ada");
        Caller.Answer nowhere = ada.page("/nowhere/at-all");
        assertThat(nowhere.status()).isEqualTo(404);
        assertThat(nowhere.text()).contains("<div id=\"app\">");
        assertThat(ada.page("/setup").status()).isEqualTo(200);
        assertThat(ada.page("/api/nowhere").json().get("code").stringValue()).isEqualTo("not-found");
        assertThat(ada.get("/nowhere").json().get("code").stringValue()).isEqualTo("not-found");
        // A stranger signs in first, and comes back.
        Caller.Answer stranger = Caller.stranger().page("/nowhere");
        assertThat(stranger.status()).isEqualTo(302);
        assertThat(stranger.header("Location")).endsWith("/sign-in?to=%2Fnowhere");
        assertThat(Caller.stranger().page("/api/registers").status()).isEqualTo(401);
    }
}
