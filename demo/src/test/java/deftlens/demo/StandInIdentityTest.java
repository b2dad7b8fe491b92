package deftlens.demo;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.net.URI;
import java.net.URLDecoder;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.Arrays;
import java.util.HashMap;
import java.util.Map;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** Signing in through the stand-in provider, step by step as a browser does it. */
@ExtendWith(DemoServer.class)
class StandInIdentityTest {

    @AfterEach
    void forget() throws SQLException {
        TestServer.sql("update person set subject = null");
    }

    @Test
    void whoIsKnownByNameComesInAndIsTiedToTheProvider() throws SQLException {
        Caller asta = Caller.stranger();
        assertThat(asta.get("/api/welcome").json().at("/identity/start").stringValue())
                .isEqualTo("/api/welcome/identity");
        Caller.Answer back = come(asta, "asta.quill", "/views");
        assertThat(back.status()).isEqualTo(302);
        assertThat(back.header("Location")).endsWith("/views");
        assertThat(asta.get("/api/session").json().at("/person/fullName").stringValue())
                .isEqualTo("Asta Quill");
        assertThat(TestServer.query("select subject from person where name = 'asta.quill'"))
                .contains("/stand-in/identity stand-in-");
        assertThat(TestServer.query(
                        "select after ->> 'by' from trail where subject = 'sign-in' order by id desc limit 1"))
                .isEqualTo("identity provider");
        // Once tied, the subject counts and no longer the name.
        TestServer.sql("update person set subject = 'somebody else' where name = 'asta.quill'");
        Caller again = Caller.stranger();
        assertThat(come(again, "asta.quill", "/").header("Location")).contains("/sign-in?refused=");
        assertThat(again.get("/api/session").status()).isEqualTo(401);
    }

    @Test
    void whoIsNotKnownIsTurnedAwayWithASentence() throws SQLException {
        Caller stranger = Caller.stranger();
        String location = come(stranger, "nobody.here", "/").header("Location");
        assertThat(URLDecoder.decode(location, StandardCharsets.UTF_8)).contains("Nobody here is “nobody.here”");
        assertThat(stranger.get("/api/session").status()).isEqualTo(401);
        assertThat(TestServer.query("select action from trail where subject = 'sign-in' order by id desc limit 1"))
                .isEqualTo("refused");
    }

    @Test
    void nobodyIsSentElsewhereAndNoCodeWorksTwice() {
        for (String to : new String[] {"//elsewhere.example", "https://elsewhere.example/", "/\\elsewhere"}) {
            Caller dan = Caller.stranger();
            assertThat(come(dan, "bram.oake", to).header("Location")).isEqualTo(TestServer.address() + "/");
        }
        Caller dan = Caller.stranger();
        String callback = callback(dan, "bram.oake", "/");
        assertThat(dan.get(callback).header("Location")).isEqualTo(TestServer.address() + "/");
        Caller thief = Caller.stranger();
        assertThat(thief.get(callback).header("Location")).contains("refused");
        assertThat(thief.get("/api/session").status()).isEqualTo(401);
    }

    @Test
    void isAskedAtTheAddressThatTheBrowserIsAt() {
        String at = TestServer.address();
        String other =
                at.contains("localhost") ? at.replace("localhost", "127.0.0.1") : at.replace("127.0.0.1", "localhost");
        assertThat(ask(other).status()).isEqualTo(302);
        assertThat(ask(other).header("Location"))
                .startsWith(other + "/stand-in/identity/authorize?redirect_uri=")
                .endsWith("&state=a%20b");
        for (String elsewhere : new String[] {at, "http://elsewhere.example", "http://localhost:1", "nowhere"}) {
            assertThat(ask(elsewhere).status()).as(elsewhere).isEqualTo(200);
        }
    }

    private static Caller.Answer ask(String redirect) {
        return Caller.stranger()
                .get("/stand-in/identity/authorize?redirect_uri="
                        + URLEncoder.encode(redirect + "/identity/return", StandardCharsets.UTF_8)
                        + "&state=a%20b");
    }

    @Test
    void theStandInGivesNothingWithoutTheClientsSecretAndProof() {
        Caller anybody = Caller.stranger();
        Caller.Answer answer =
                anybody.form("/stand-in/identity/token", Map.of("code", "x", "redirect_uri", "http://localhost/"));
        assertThat(answer.status()).isEqualTo(401);
        assertThat(answer.json().get("error").stringValue()).isEqualTo("invalid_client");
    }

    private static Caller.Answer come(Caller caller, String name, String to) {
        return caller.get(callback(caller, name, to));
    }

    /** Goes as far as the provider's answer, and gives the address that it sends the browser back to. */
    private static String callback(Caller caller, String name, String to) {
        Caller.Answer start = caller.get("/api/welcome/identity?to=" + URLEncoder.encode(to, StandardCharsets.UTF_8));
        assertThat(start.status()).as(start.text()).isEqualTo(302);
        Caller.Answer asked = caller.get(path(start.header("Location")));
        assertThat(asked.status()).as(asked.text()).isEqualTo(302);
        String authorize = path(asked.header("Location"));
        assertThat(caller.get(authorize).text()).contains("Who are you?");
        Map<String, String> fields = new HashMap<>(query(authorize));
        fields.put("name", name);
        Caller.Answer granted = caller.form("/stand-in/identity/authorize", fields);
        assertThat(granted.status()).as(granted.text()).isEqualTo(303);
        return path(granted.header("Location"));
    }

    private static String path(String location) {
        URI uri = URI.create(location);
        return uri.getRawPath() + (uri.getRawQuery() == null ? "" : "?" + uri.getRawQuery());
    }

    private static Map<String, String> query(String path) {
        return Arrays.stream(path.substring(path.indexOf('?') + 1).split("&"))
                .map(p -> p.split("=", 2))
                .collect(Collectors.toMap(p -> p[0], p -> URLDecoder.decode(p[1], StandardCharsets.UTF_8)));
    }
}
