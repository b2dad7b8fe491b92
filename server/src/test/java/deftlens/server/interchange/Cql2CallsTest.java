package deftlens.server.interchange;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

@ExtendWith(TestServer.class)
class Cql2CallsTest {

    private static final String CQL2 = "/api/registers/jobs/cql2/";

    @Test
    void aQuestionGoesOutAndComesBack() {
        Caller dora = Caller.signedIn("dora");
        String statement = "due before today and (level >= 3 or site is my site) and title contains \"O'\"";
        JsonNode written =
                dora.post(CQL2 + "write", Map.of("statement", statement)).json();
        assertThat(written.get("text").stringValue())
                .isEqualTo(
                        "due < DATE('2026-11-23') AND (level >= 3 OR site = 'North') AND CASEI(title) LIKE CASEI('%o''%')");
        assertThat(written.at("/json/op").stringValue()).isEqualTo("and");
        assertThat(written.at("/json/args/0/args/1/date").stringValue()).isEqualTo("2026-11-23");
        assertThat(written.get("notes")).hasSize(2);
        JsonNode read = dora.post(
                        CQL2 + "read", Map.of("text", written.get("text").stringValue()))
                .json();
        assertThat(read.get("statement").stringValue())
                .isEqualTo("due before 2026-11-23 and (level >= 3 or site is \"North\") and title is like \"*o'*\"");
        assertThat(dora.post(CQL2 + "read", Map.of("json", written.get("json"))).json())
                .isEqualTo(read);
    }

    @Test
    void whatCannotBeCarriedIsNamedWithItsPlace() {
        Caller dora = Caller.signedIn("dora");
        Caller.Answer out = dora.post(CQL2 + "write", Map.of("statement", "level = 1 and due weekday in (Mon)"));
        assertThat(out.status()).isEqualTo(422);
        assertThat(out.json().get("where").stringValue()).isEqualTo("/all/1");
        Caller.Answer in = dora.post(CQL2 + "read", Map.of("text", "level = 1 AND mast = 2"));
        assertThat(in.status()).isEqualTo(422);
        assertThat(in.json().get("code").stringValue()).isEqualTo("cql2-not-carried");
        assertThat(in.json().get("where").stringValue()).isEqualTo("1:15");
        assertThat(dora.post(CQL2 + "read", "{\"json\":{\"op\":\"and\"}}").status())
                .isEqualTo(422);
        assertThat(dora.post(CQL2 + "read", "{\"json\":{\"op\":\"=\",\"args\":[{\"property\":\"level\"},null]}}")
                        .status())
                .isEqualTo(422);
        assertThat(dora.post(CQL2 + "read", "{}").status()).isEqualTo(400);
    }
}
