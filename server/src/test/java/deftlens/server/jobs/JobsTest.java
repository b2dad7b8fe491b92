package deftlens.server.jobs;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.util.HashSet;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

@ExtendWith(TestServer.class)
class JobsTest {

    @Test
    void administratorsSeeWhatTheClockDoesAndHowItWent() {
        Caller ada = Caller.signedIn("ada");
        Set<String> names = new HashSet<>();
        for (JsonNode job : ada.get("/api/jobs").json().get("recurring")) {
            names.add(job.get("name").stringValue());
            assertThat(job.get("everySeconds").asLong()).isPositive();
            assertThat(job.get("label").stringValue()).isNotBlank();
        }
        assertThat(names)
                .contains(
                        "nightly-look", "fold-counts", "forget-exports", "forget-files", "forget-tries", "forget-jobs");
        // Each has had its first round soon after the server began.
        long end = System.nanoTime() + 30_000_000_000L;
        JsonNode last;
        do {
            last = recurring(ada, "fold-counts").get("last");
            assertThat(System.nanoTime()).isLessThan(end);
        } while (last.isNull());
        assertThat(last.get("failed").booleanValue()).isFalse();
        assertThat(last.get("server").stringValue()).isNotBlank();
    }

    private static JsonNode recurring(Caller ada, String name) {
        for (JsonNode job : ada.get("/api/jobs").json().get("recurring")) {
            if (job.get("name").stringValue().equals(name)) {
                return job;
            }
        }
        throw new AssertionError("no " + name);
    }

    @Test
    void nobodyElseSeesOrStopsThem() {
        for (String name : new String[] {"dora", "audrey"}) {
            Caller caller = Caller.signedIn(name);
            assertThat(caller.get("/api/jobs").status()).as(name).isEqualTo(403);
            assertThat(caller.delete("/api/jobs/1").status()).as(name).isEqualTo(403);
        }
        assertThat(Caller.signedIn("ada").delete("/api/jobs/999999").status()).isEqualTo(404);
    }
}
