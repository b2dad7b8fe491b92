package deftlens.server.administration;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

@ExtendWith(TestServer.class)
class OrganisationTest {

    private static final String PATH = "/api/organisation";

    @AfterEach
    void asItWas() throws Exception {
        TestServer.sql("delete from working_exception");
        TestServer.sql("delete from working_hours");
        TestServer.sql("insert into working_hours (weekday, from_time, to_time)"
                + " select weekday, '09:00', '17:00' from generate_series(1, 5) weekday");
        TestServer.sql("update organisation set version = version + 1");
    }

    @Test
    void holidaysAndHoursCountFromTheNextQuestionOn() {
        Caller ada = Caller.signedIn("ada");
        ObjectNode settings = (ObjectNode) ada.get(PATH).json();
        assertThat(settings.at("/weekly/0/hours/0/from").stringValue()).isEqualTo("09:00:00");
        assertThat(settings.at("/weekly/6/hours")).isEmpty();
        assertThat(day(ada, "1 working day ago")).isEqualTo("2026-11-20");
        ArrayNode exceptions = settings.putArray("exceptions");
        exceptions
                .addObject()
                .put("day", "2026-11-20")
                .put("label", "Founders' day")
                .putArray("hours");
        ObjectNode half = exceptions.addObject().put("day", "2026-11-19").put("label", "Half day");
        half.putArray("hours").addObject().put("from", "09:00").put("to", "12:00");
        Caller.Answer answer = ada.put(PATH, settings);
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        assertThat(answer.json().at("/exceptions/1/label").stringValue()).isEqualTo("Founders' day");
        assertThat(day(ada, "1 working day ago")).isEqualTo("2026-11-19");
        assertThat(matching(ada, "made_at on 2026-11-20 and made_at in working hours"))
                .isZero();
        assertThat(matching(ada, "made_at on 2026-11-19 and made_at in working hours"))
                .isEqualTo(3);
        assertThat(matching(ada, "made_at on a day off and made_at on 2026-11-20"))
                .isEqualTo(24);
    }

    @Test
    void timesWithoutAZoneFollowTheOrganisations() throws SQLException {
        Caller ada = Caller.signedIn("ada");
        TestServer.sql("create schema if not exists yard; drop table if exists yard.visits;"
                + " create table yard.visits (id bigint primary key, name text not null, seen timestamp not null);"
                + " insert into yard.visits values (1, 'One', '2026-07-01 12:00')");
        try {
            Caller.Answer attached = ada.post(
                    "/api/attached",
                    Map.of(
                            "schema", "yard",
                            "table", "visits",
                            "label", "Visits",
                            "recordLabel", "visit",
                            "keyColumns", List.of("id"),
                            "titleField", "name",
                            "mainField", "seen",
                            "fields", List.of(attachedField("name", "text"), attachedField("seen", "moment"))));
            assertThat(attached.status()).as(attached.text()).isEqualTo(201);
            String key = attached.json().get("key").stringValue();
            String rows = "/api/registers/" + key + "/rows";
            assertThat(ada.post(rows, Map.of()).json().at("/rows/0/values/seen").stringValue())
                    .isEqualTo("2026-07-01T11:00:00Z");
            ObjectNode settings = (ObjectNode) ada.get(PATH).json();
            settings.put("zone", "America/New_York");
            Caller.Answer changed = ada.put(PATH, settings);
            assertThat(changed.status()).as(changed.text()).isEqualTo(200);
            assertThat(ada.post(rows, Map.of()).json().at("/rows/0/values/seen").stringValue())
                    .isEqualTo("2026-07-01T16:00:00Z");
            settings.put("zone", "Europe/London")
                    .put("version", changed.json().get("version").intValue());
            assertThat(ada.put(PATH, settings).status()).isEqualTo(200);
            assertThat(ada.post(rows, Map.of()).json().at("/rows/0/values/seen").stringValue())
                    .isEqualTo("2026-07-01T11:00:00Z");
            ada.delete("/api/registers/" + key);
        } finally {
            TestServer.sql("drop table yard.visits");
        }
    }

    private static Map<String, Object> attachedField(String key, String type) {
        return Map.of("key", key, "label", key, "type", type, "shown", true, "description", "");
    }

    @Test
    void aSecondAdministratorIsNotWrittenOver() {
        Caller ada = Caller.signedIn("ada");
        JsonNode before = ada.get(PATH).json();
        ObjectNode mine = (ObjectNode) before.deepCopy();
        ((ObjectNode) mine.at("/weekly/5"))
                .putArray("hours")
                .addObject()
                .put("from", "10:00")
                .put("to", "00:00");
        assertThat(ada.put(PATH, mine).status()).isEqualTo(200);
        Caller.Answer late = ada.put(PATH, before);
        assertThat(late.status()).isEqualTo(409);
        assertThat(late.json().at("/current/weekly/5/hours/0/to").stringValue()).isEqualTo("00:00:00");
    }

    @Test
    void whatMakesNoCalendarIsRefusedAndOnlyAdministratorsChangeIt() {
        Caller ada = Caller.signedIn("ada");
        ObjectNode settings = (ObjectNode) ada.get(PATH).json();
        assertThat(Caller.signedIn("dora").put(PATH, settings).status()).isEqualTo(403);
        ArrayNode hours = ((ObjectNode) settings.at("/weekly/0")).putArray("hours");
        hours.addObject().put("from", "09:00").put("to", "13:00");
        hours.addObject().put("from", "12:00").put("to", "17:00");
        Caller.Answer overlapping = ada.put(PATH, settings);
        assertThat(overlapping.status()).isEqualTo(422);
        assertThat(overlapping.json().get("detail").stringValue()).contains("overlap");
        for (int day = 0; day < 7; day++) {
            ((ObjectNode) settings.at("/weekly/" + day)).putArray("hours");
        }
        assertThat(ada.put(PATH, settings).json().get("detail").stringValue()).contains("at least one day");
        ObjectNode zone = (ObjectNode) ada.get(PATH).json();
        assertThat(ada.put(PATH, zone.put("zone", "Harbour/Office")).status()).isEqualTo(422);
    }

    private static String day(Caller caller, String phrase) {
        return caller.post("/api/windows/resolve", Map.of("phrase", phrase))
                .json()
                .get("firstDay")
                .stringValue();
    }

    private static long matching(Caller caller, String statement) {
        return caller.post("/api/registers/jobs/count", Map.of("statement", statement))
                .json()
                .get("matching")
                .longValue();
    }
}
