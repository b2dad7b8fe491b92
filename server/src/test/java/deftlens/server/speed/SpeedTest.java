package deftlens.server.speed;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

@ExtendWith(TestServer.class)
class SpeedTest {

    private static final String AT = "/api/registers/readings";

    @Test
    void aSlowSharedViewGetsAnIndexThatHelpsIt() throws SQLException, InterruptedException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "readings",
                        "Readings",
                        "reading",
                        "at",
                        "number",
                        true,
                        List.of(
                                new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of()),
                                new FieldDefinition("at", "At", FieldType.MOMENT, true, true, List.of()),
                                new FieldDefinition("level", "Level", FieldType.NUMBER, true, true, List.of()))));
        Caller ada = Caller.signedIn("ada");
        try {
            TestServer.sql("""
                    insert into records.readings (number, at, level)
                    select 'R-' || i, timestamptz '2026-01-01Z' + interval '1 minute' * i, (i::bigint * 7919) % 100003
                    from generate_series(1, 1500000) i; analyze records.readings""");
            share(ada, "Rare level", "level = 777");
            share(ada, "Newest", "at in last 7 days");

            JsonNode speed = ada.post(AT + "/indexes/proposals", null).json();
            assertThat(speed.get("views")).hasSize(2);
            assertThat(speed.get("views").get(0).get("name").stringValue()).isEqualTo("Rare level");
            JsonNode proposal = speed.get("proposals").get(0);
            assertThat(proposal.get("view").stringValue()).isEqualTo("Rare level");
            assertThat(proposal.get("words").stringValue()).startsWith("Level");
            assertThat(proposal.get("before").doubleValue()).isPositive();
            assertThat(proposal.get("after").doubleValue()).isPositive();
            assertThat(proposal.get("sample").longValue()).isBetween(50_000L, 1_500_000L);
            assertThat(TestServer.query("select count(*) from pg_class where relname = 'deft_sample'"))
                    .isEqualTo("0");

            String token = proposal.get("token").stringValue();
            assertThat(ada.post(AT + "/indexes", Map.of("token", token)).status())
                    .isEqualTo(202);
            JsonNode now = ada.get(AT + "/indexes").json();
            while (now.get("builds").get(0).get("state").stringValue().equals("building")) {
                Thread.onSpinWait();
                now = ada.get(AT + "/indexes").json();
            }
            assertThat(now.get("builds").get(0).get("state").stringValue()).isEqualTo("built");
            assertThat(now.get("indexes").toString()).contains(token);
            JsonNode again = ada.post(AT + "/indexes/proposals", null).json();
            assertThat(again.get("proposals")).isEmpty();
            assertThat(
                            TestServer.query(
                                    "explain (format json) select * from records.readings where level = 777 order by at desc, id desc limit 100"))
                    .contains(token);

            assertThat(ada.delete(AT + "/indexes/readings_pkey").status()).isEqualTo(404);
            assertThat(ada.delete(AT + "/indexes/" + token)
                            .json()
                            .get("indexes")
                            .toString())
                    .doesNotContain(token);
        } finally {
            ada.delete(AT);
        }
    }

    private static void share(Caller caller, String name, String statement) {
        JsonNode kept = caller.post(
                        "/api/views",
                        Map.of("register", "readings", "name", name, "statement", statement, "order", List.of("-at")))
                .json();
        caller.put(
                "/api/views/" + kept.get("id").asLong() + "/shares",
                Map.of("version", kept.get("version").intValue(), "shares", List.of(Map.of("mayChange", false))));
    }
}
