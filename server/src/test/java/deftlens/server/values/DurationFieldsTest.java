package deftlens.server.values;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.Band;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.nio.charset.StandardCharsets;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

/** Durations in everything that fields are used for: questions, pages, groups, bands, files, corrections and other types. */
@ExtendWith(TestServer.class)
class DurationFieldsTest {

    private static final String AT = "/api/registers/shifts";
    private final Caller ada = Caller.signedIn("ada");

    @BeforeEach
    void make() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "shifts",
                        "Shifts",
                        "shift",
                        "began",
                        "number",
                        true,
                        List.of(
                                new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of())
                                        .identifying(),
                                new FieldDefinition("began", "Began", FieldType.MOMENT, false, true, List.of()),
                                new FieldDefinition("spent", "Spent", FieldType.DURATION, false, true, List.of())
                                        .correctable()
                                        .withBands(List.of(
                                                Band.of("Short", Band.Numbers.from(0, 3_600)),
                                                Band.of("Long", Band.Numbers.from(3_600, 360_000)))),
                                new FieldDefinition("planned", "Planned", FieldType.DURATION, false, true, List.of()),
                                new FieldDefinition("breaks", "Breaks", FieldType.NUMBER, false, true, List.of()))));
        // 15 minutes to 10 hours in steps of 15 minutes; each fifth has none.
        TestServer.sql("insert into records.shifts (number, began, spent, planned, breaks) select 'S-' || i,"
                + " timestamptz '2026-06-01 06:00+00' + interval '1 day' * i, case when i % 5 > 0 then i * 900 end,"
                + " 7200.5, i from generate_series(1, 40) i");
    }

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql("delete from kept_view where register_key = 'shifts'; delete from register where key = 'shifts';"
                + " drop table if exists records.shifts");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 204);
        return answer.json();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "spent = 2 h|spent = 2 h|spent = 7200",
                "spent is 90 min|spent = 1 h 30 min|spent = 5400",
                "spent != PT2H|spent != 2 h|spent is distinct from 7200",
                "spent is more than 2 h 30 min|spent > 2 h 30 min|spent > 9000",
                "spent between 30 min and 2 hours|spent between 30 min and 2 h|spent between 1800 and 7200",
                "spent is in (900 s, PT1H15M, 1 day)|spent is in (15 min, 1 h 15 min, 1 day)|spent in (900, 4500, 86400)",
                "spent > planned|spent > planned|spent > planned",
                "spent > planned + 2 hours|spent > planned + 2 h|spent > planned + 7200",
                "spent <= planned - 1 h 30 min|spent <= planned - 1 h 30 min|spent <= planned - 5400",
                "spent is in band \"Short\"|spent is in band \"Short\"|spent < 3600",
                "spent is empty|spent is empty|spent is null",
                "spent >= {Least = 1 day}|spent >= {Least = 1 day}|spent >= 86400",
            })
    void areAskedForAndAgreeWithSqlWrittenByHand(String written, String canonical, String sql) throws SQLException {
        JsonNode read = ok(ada.post(AT + "/statement", Map.of("statement", written)));
        assertThat(read.get("statement").stringValue()).isEqualTo(canonical);
        long expected = Long.parseLong(TestServer.query("select count(*) from records.shifts where " + sql));
        assertThat(count(Map.of("statement", written))).isEqualTo(expected);
        // The same by the condition as JSON, and by the statement as it is printed.
        assertThat(count(Map.of("condition", read.get("condition")))).isEqualTo(expected);
        assertThat(ok(ada.post(AT + "/statement", Map.of("condition", read.get("condition"))))
                        .get("statement")
                        .stringValue())
                .isEqualTo(canonical);
        assertThat(count(Map.of("statement", canonical))).isEqualTo(expected);
    }

    private long count(Map<String, Object> question) {
        return ok(ada.post(AT + "/count", question)).get("matching").asLong();
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "spent > 2|Spent is a duration: a unit has to follow the number.|2 h",
                "spent > \"2 h\"|Spent is a duration: write it without quotes, such as 2 h 30 min.|2 h",
                "spent > 30 min 2 h|This duration cannot be read: write each unit once, the longest first: 1 day 2 h 30 min, or PT2H30M.|",
                "spent between 2 and 3|Spent is a duration: a unit has to follow the number.|2 h",
                "breaks > 2 h|“2 h” is a duration, and Breaks is a number field. Write the number without a unit.|2",
                "spent > planned + 2|This offset does not fit Planned.|",
                "spent > planned + 2 months|No months are added to a duration. Write weeks, days, h, min or s.|",
                "spent > breaks|Spent is a duration field and Breaks a number field: only fields of one type are compared, and a date with a date and time.|",
            })
    void whatIsNoDurationIsRefusedWithAWayOut(String written, String message, String suggestion) {
        Caller.Answer answer = ada.post(AT + "/statement", Map.of("statement", written));
        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.json().get("detail").stringValue()).isEqualTo(message);
        if (suggestion != null) {
            assertThat(answer.json().get("suggestions").get(0).stringValue()).isEqualTo(suggestion);
        }
    }

    @Test
    void pagesGoAlongThemEitherWayWithTheEmptiesAtEitherEnd() throws SQLException {
        for (String order : List.of("spent", "-spent", "spent:empties-first", "-spent:empties-first")) {
            List<String> found = new ArrayList<>();
            String after = null;
            do {
                Map<String, Object> asked = new java.util.HashMap<>(Map.of(
                        "statement", "", "order", List.of(order), "columns", List.of("number", "spent"), "limit", 7));
                if (after != null) {
                    asked.put("after", after);
                }
                JsonNode page = ok(ada.post(AT + "/rows", asked));
                page.get("rows").forEach(r -> found.add(r.at("/values/number").stringValue()));
                after = page.get("next").isNull() ? null : page.get("next").stringValue();
            } while (after != null);
            String direction = order.startsWith("-") ? " desc" : "";
            String empties = order.endsWith("first") ? " nulls first" : " nulls last";
            assertThat(String.join(",", found))
                    .as(order)
                    .isEqualTo(TestServer.query("select string_agg(number, ',' order by spent" + direction + empties
                            + ", id" + (order.startsWith("-") ? " desc" : "") + ") from records.shifts"));
        }
    }

    @Test
    void groupsAreSummedAndOpened() throws SQLException {
        JsonNode bands = ok(ada.post(
                AT + "/groups",
                Map.of(
                        "statement",
                        "",
                        "groups",
                        List.of(Map.of("field", "spent", "by", "band")),
                        "measures",
                        List.of(
                                Map.of("function", "sum", "field", "spent"),
                                Map.of("function", "sum", "field", "planned")))));
        assertThat(bands.at("/groups/0/value").stringValue()).isEqualTo("Short");
        assertThat(bands.at("/groups/0/figures/0").asLong())
                .isEqualTo(Long.parseLong(
                        TestServer.query("select sum(spent)::bigint from records.shifts where spent < 3600")));
        assertThat(bands.at("/figures/1").decimalValue()).isEqualByComparingTo("288020.0");
        JsonNode values =
                ok(ada.post(AT + "/groups", Map.of("statement", "", "groups", List.of(Map.of("field", "spent")))));
        assertThat(values.at("/groups/0/value").stringValue()).isEqualTo("900");
        JsonNode inside = ok(ada.post(
                AT + "/rows", Map.of("statement", "", "inside", List.of(Map.of("field", "spent", "value", "900")))));
        assertThat(inside.get("rows")).hasSize(1);
        assertThat(inside.at("/rows/0/values/spent").asLong()).isEqualTo(900);
    }

    @Test
    void recordsAreCorrectedByWordsIsoOrSeconds() throws SQLException {
        String id = TestServer.query("select id from records.shifts where number = 'S-1'");
        for (Object written : List.of("1 h 15 min", "PT1H15M", "1:15", 4_500)) {
            TestServer.sql("update records.shifts set spent = 1 where id = " + id);
            ok(ada.patch(AT + "/records/" + id, Map.of("values", Map.of("spent", written))));
            assertThat(TestServer.query("select spent from records.shifts where id = " + id))
                    .isEqualTo("4500");
        }
        Caller.Answer refused = ada.patch(AT + "/records/" + id, Map.of("values", Map.of("spent", "soon")));
        assertThat(refused.status()).isEqualTo(422);
        assertThat(refused.json().get("detail").stringValue())
                .isEqualTo("Spent takes a duration such as 2 h 30 min, 3 days or PT2H30M, not “soon”.");
    }

    @Test
    void filesHaveThemAsPeopleWriteThem() {
        String csv = ada.get(AT + "/export.csv?statement=spent%20%3D%202%20h&columns=number,spent,planned")
                .text();
        assertThat(csv.lines().toList()).containsExactly("Number,Spent,Planned", "S-8,2 h,2 h 0.5 s");
    }

    @Test
    void pastedListsAreLookedFor() {
        JsonNode pasted = ok(ada.post(AT + "/pasted", Map.of("field", "spent", "text", "15 min\nPT30M\n99 days")));
        assertThat(pasted.get("missing").get(0).stringValue()).isEqualTo("99 days");
        assertThat(pasted.get("statement").stringValue()).isEqualTo("spent is in (15 min, 30 min)");
    }

    @Test
    void otherFilterLanguagesAreToldByName() {
        Caller.Answer out = ada.post(AT + "/cql2/write", Map.of("statement", "spent > 2 h"));
        assertThat(out.status()).as(out.text()).isEqualTo(422);
        assertThat(out.json().get("detail").stringValue())
                .contains("CQL2 has no word for “spent > 2 h”: it has no durations.");
        Caller.Answer in = ada.post(AT + "/cql2/read", Map.of("text", "spent > 7200"));
        assertThat(in.status()).as(in.text()).isEqualTo(422);
        assertThat(in.json().get("detail").stringValue()).contains("Spent is a duration, and CQL2 has no durations");
    }

    @Test
    void numbersBecomeDurationsOnceTheirUnitIsKnown() throws SQLException {
        JsonNode looked = ok(ada.post(AT + "/fields/breaks/type/preview", Map.of("type", "duration")));
        assertThat(looked.get("ask").booleanValue()).isTrue();
        assertThat(looked.get("needed")).isEmpty();
        JsonNode said = ok(ada.post(AT + "/fields/breaks/type/preview", Map.of("type", "duration", "unit", "MINUTES")));
        assertThat(said.get("ask").booleanValue()).isFalse();
        assertThat(said.get("unread").asLong()).isZero();
        assertThat(said.at("/read/0/becomes").asLong()).isEqualTo(60);
        int version = ok(ada.get(AT)).get("version").asInt();
        ok(ada.put(
                AT + "/fields/breaks/type",
                Map.of("wanted", Map.of("type", "duration", "unit", "MINUTES"), "unread", 0, "version", version)));
        assertThat(count(Map.of("statement", "breaks <= 10 min"))).isEqualTo(10);
        // And back: to seconds, since a number has no unit.
        version = ok(ada.get(AT)).get("version").asInt();
        ok(ada.put(
                AT + "/fields/breaks/type",
                Map.of("wanted", Map.of("type", "number"), "unread", 0, "version", version)));
        assertThat(count(Map.of("statement", "breaks <= 600"))).isEqualTo(10);
    }

    @Test
    void aFilesColumnsAreFoundToBeDurations() {
        JsonNode look = ok(ada.upload(
                "/api/files?name=a.csv",
                "Job,Spent,Hours\nA,2 h 30 min,2.5\nB,PT45M,0.75\nC,36:10,36\n".getBytes(StandardCharsets.UTF_8)));
        assertThat(look.at("/columns/1/guess/type").stringValue()).isEqualTo("DURATION");
        assertThat(look.at("/columns/1/guess/evidence").stringValue()).isEqualTo("3 of 3 read as durations");
        assertThat(look.at("/columns/2/guess/type").stringValue()).isEqualTo("NUMBER");
    }
}
