package deftlens.server.people;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(TestServer.class)
class SessionTest {

    @Test
    void aStrangerSeesOnlyTheWelcome() {
        Caller stranger = Caller.stranger();
        assertThat(stranger.get("/api/welcome").json().get("organisation").stringValue())
                .isEqualTo("Test House");
        for (String path :
                new String[] {"/api/session", "/api/registers", "/api/views", "/api/people", "/api/nothing"}) {
            Caller.Answer answer = stranger.get(path);
            assertThat(answer.status()).as(path).isEqualTo(401);
            assertThat(answer.json().get("code").stringValue()).isEqualTo("not-signed-in");
            assertThat(answer.header("Content-Type")).startsWith("application/problem+json");
        }
    }

    @Test
    void signingInAndOut() {
        Caller dora = Caller.signedIn("dora");
        var session = dora.get("/api/session").json();
        assertThat(session.at("/person/fullName").stringValue()).isEqualTo("Dora Day");
        assertThat(session.at("/person/site").stringValue()).isEqualTo("North");
        assertThat(session.get("now").stringValue()).isEqualTo("2026-11-23T09:30:00Z");
        assertThat(session.get("demo").booleanValue()).isFalse();
        assertThat(dora.delete("/api/session").status()).isEqualTo(204);
        assertThat(dora.get("/api/session").status()).isEqualTo(401);
    }

    @Test
    void aWrongPasswordAndAnUnknownNameAreNotToldApart() {
        Caller stranger = Caller.stranger();
        var wrong = stranger.post("/api/session", Map.of("name", "ada", "password", "not it"));
        var unknown = stranger.post("/api/session", Map.of("name", "nobody", "password", "not it"));
        assertThat(wrong.status()).isEqualTo(401);
        assertThat(wrong.text()).isEqualTo(unknown.text());
    }

    @Test
    void withoutTheCsrfHeaderNothingIsWritten() {
        Caller dora = Caller.signedIn("dora").withoutCsrf();
        var answer = dora.post("/api/views", Map.of("register", "jobs", "name", "Mine"));
        assertThat(answer.status()).isEqualTo(403);
        assertThat(answer.json().get("code").stringValue()).isEqualTo("csrf");
    }

    @Test
    void aTokenWorksEverywhereUntilItIsEnded() {
        Caller dora = Caller.signedIn("dora");
        String token = dora.post("/api/account/tokens", Map.of("label", "nightly"))
                .json()
                .get("token")
                .stringValue();
        Caller program = Caller.withToken(token);
        assertThat(program.get("/api/session").json().at("/person/name").stringValue())
                .isEqualTo("dora");
        assertThat(program.post("/api/registers/jobs/count", Map.of()).status()).isEqualTo(200);
        long id = dora.get("/api/account/tokens").json().get(0).get("id").asLong();
        assertThat(dora.delete("/api/account/tokens/" + id).status()).isEqualTo(204);
        assertThat(program.get("/api/registers").status()).isEqualTo(401);
        assertThat(Caller.withToken("made-up").get("/api/registers").status()).isEqualTo(401);
    }

    @Test
    void aTokenIsNobodyElsesToEnd() {
        Caller dora = Caller.signedIn("dora");
        dora.post("/api/account/tokens", Map.of("label", "hers"));
        long id = dora.get("/api/account/tokens").json().get(0).get("id").asLong();
        assertThat(Caller.signedIn("dan").delete("/api/account/tokens/" + id).status())
                .isEqualTo(404);
    }

    @Test
    void thePasswordIsChangedWithTheOldOneOnly() throws SQLException {
        String hash = TestServer.query("select password_hash from person where name = 'nina'");
        Caller nina = Caller.signedIn("nina");
        String kept = nina.post("/api/account/tokens", Map.of("label", "kept"))
                .json()
                .get("token")
                .stringValue();
        try {
            assertThat(change(nina, "wrong", "otter mast 72 willow")
                            .json()
                            .get("code")
                            .stringValue())
                    .isEqualTo("wrong-password");
            Map<String, String> refused = Map.of(
                    "short",
                    "weak-password",
                    "ninanight",
                    "guessable-password",
                    "password1234",
                    "guessable-password",
                    "qwertyuiop12",
                    "guessable-password",
                    "x".repeat(73),
                    "long-password");
            refused.forEach((fresh, code) -> assertThat(change(nina, "nina-password", fresh)
                            .json()
                            .get("code")
                            .stringValue())
                    .as(fresh)
                    .isEqualTo(code));
            assertThat(nina.put(
                                    "/api/account/password",
                                    Map.of(
                                            "old", "nina-password",
                                            "fresh", "kelp lantern 49 gravel",
                                            "keepTokens", true))
                            .status())
                    .isEqualTo(204);
            assertThat(Caller.withToken(kept).get("/api/registers").status()).isEqualTo(200);
            assertThat(signIn("nina", "nina-password").status()).isEqualTo(401);
            assertThat(signIn("nina", "kelp lantern 49 gravel").status()).isEqualTo(200);
            assertThat(change(nina, "kelp lantern 49 gravel", "kelp lantern 49 gravel")
                            .json()
                            .get("code")
                            .stringValue())
                    .isEqualTo("same-password");
            assertThat(change(nina, "kelp lantern 49 gravel", "otter mast 72 willow")
                            .status())
                    .isEqualTo(204);
            // Tokens end with the password unless they are kept on purpose.
            assertThat(Caller.withToken(kept).get("/api/registers").status()).isEqualTo(401);
        } finally {
            TestServer.sql("update person set password_hash = '" + hash + "' where name = 'nina'");
        }
    }

    @Test
    void aTokenMakesNoneThatLastsLongerOrMayDoMore() {
        Caller dora = Caller.signedIn("dora");
        Caller writer = token(dora, true, 7);
        assertThat(writer.post("/api/account/tokens", Map.of("label", "longer", "days", 8))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("token-too-long");
        assertThat(writer.post("/api/account/tokens", Map.of("label", "usual")).status())
                .isEqualTo(422);
        assertThat(writer.post("/api/account/tokens", Map.of("label", "shorter", "days", 6))
                        .status())
                .isEqualTo(201);
        assertThat(token(dora, false, 7)
                        .post("/api/account/tokens", Map.of("label", "writes", "days", 1))
                        .status())
                .isEqualTo(403);
        assertThat(token(Caller.signedIn("ada"), true, 7)
                        .post("/api/session/looking-as", Map.of("person", 2))
                        .status())
                .isEqualTo(403);
    }

    @Test
    void underHttpsCookiesAreSecureAndNoAddressIsTold() {
        Caller.Answer plain = new Caller().get("/api/welcome");
        assertThat(plain.header("Referrer-Policy")).isEqualTo("same-origin");
        assertThat(plain.response().headers().allValues("Set-Cookie"))
                .isNotEmpty()
                .noneMatch(c -> c.contains("Secure"));
        Caller.Answer in = Caller.stranger()
                .sending("X-Forwarded-Proto", "https")
                .sending("X-Forwarded-For", "10.1.1.1")
                .post("/api/session", Map.of("name", "dora", "password", "dora-password"));
        assertThat(in.status()).isEqualTo(200);
        assertThat(in.response().headers().allValues("Set-Cookie"))
                .anyMatch(c -> c.startsWith("DEFT_SESSION"))
                .allMatch(c -> c.contains("Secure"));
    }

    private static Caller token(Caller of, boolean mayWrite, int days) {
        return Caller.withToken(
                of.post("/api/account/tokens", Map.of("label", "made", "mayWrite", mayWrite, "days", days))
                        .json()
                        .get("token")
                        .stringValue());
    }

    private static Caller.Answer change(Caller caller, String old, String fresh) {
        return caller.put("/api/account/password", Map.of("old", old, "fresh", fresh));
    }

    private static Caller.Answer signIn(String name, String password) {
        return Caller.stranger().post("/api/session", Map.of("name", name, "password", password));
    }
}
