package deftlens.server.platform;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** A refusal says what in the request it is about, so that a form can point at its field. */
@ExtendWith(TestServer.class)
class RefusedFieldsTest {

    private static final String UNSEEN = "\u200b\u2060";

    private final Caller ada = Caller.signedIn("ada");

    @Test
    void aRefusalSaysWhatItIsAbout() {
        assertAbout(ada.post("/api/views", Map.of("register", "jobs", "name", UNSEEN)), "name");
        assertAbout(
                ada.post("/api/views", Map.of("register", "jobs", "name", "Fine", "purpose", "p".repeat(2_001))),
                "purpose");
        Map<String, Object> person =
                Map.of("name", "with spaces", "password", "four unlike words here", "fullName", "A", "role", "MEMBER");
        assertAbout(ada.post("/api/people", person), "name");
        assertAbout(ada.post("/api/people", with(person, "name", "ada")), "name");
        assertAbout(ada.post("/api/people", with(with(person, "name", "fresh.one"), "password", "short")), "password");
        assertAbout(ada.post("/api/people", with(with(person, "name", "fresh.one"), "fullName", UNSEEN)), "fullName");
        assertAbout(ada.put("/api/account/password", Map.of("old", "not it", "fresh", "four unlike words")), "old");
        assertAbout(ada.post("/api/teams", Map.of("name", UNSEEN)), "name");
    }

    @Test
    void whatBreaksABoundIsSaidToo() {
        assertAbout(ada.post("/api/account/tokens", Map.of("label", "l".repeat(101))), "label");
        assertAbout(ada.post("/api/account/tokens", Map.of("label", UNSEEN)), "label");
        assertAbout(ada.post("/api/account/tokens", Map.of("label", "Fine", "days", 0)), "days");
    }

    @Test
    void aRegisterAndItsFieldsNeedNamesThatAreSeen() {
        Map<String, Object> combined = Map.of(
                "label",
                UNSEEN,
                "recordLabel",
                "entry",
                "members",
                List.of(Map.of("register", "jobs", "label", "One"), Map.of("register", "jobs", "label", "Two")),
                "fields",
                List.of(Map.of("label", "Number", "from", Map.of("jobs", "number"), "shown", true)),
                "titleField",
                "Number");
        assertAbout(ada.post("/api/combined", combined), "label");
        assertAbout(
                ada.post(
                        "/api/combined",
                        with(
                                with(combined, "label", "Both"),
                                "fields",
                                List.of(Map.of("label", UNSEEN, "from", Map.of("jobs", "number"), "shown", true)))),
                "fields[0].label");
        assertAbout(ada.post("/api/registers/jobs/fields", Map.of("type", "text", "label", UNSEEN)), "label");
    }

    private static void assertAbout(Caller.Answer answer, String at) {
        assertThat(answer.status()).as(answer.text()).isBetween(400, 422);
        assertThat(answer.json().path("at").asString()).as(answer.text()).isEqualTo(at);
    }

    private static Map<String, Object> with(Map<String, Object> body, String name, Object value) {
        Map<String, Object> changed = new java.util.HashMap<>(body);
        changed.put(name, value);
        return changed;
    }
}
