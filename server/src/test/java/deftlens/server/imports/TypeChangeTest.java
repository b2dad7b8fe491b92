package deftlens.server.imports;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.CatalogueCalls;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/** Fields get another type: what becomes of their values, and of all that rests on them. */
@ExtendWith(TestServer.class)
class TypeChangeTest {

    private static final String AT = "/api/registers/casks";
    private final Caller ada = Caller.signedIn("ada");

    @BeforeEach
    void make() throws SQLException {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                                "casks",
                                "Casks",
                                "cask",
                                "came",
                                "number",
                                true,
                                List.of(
                                        new FieldDefinition("number", "Number", FieldType.TEXT, true, true, List.of())
                                                .identifying(),
                                        new FieldDefinition("came", "Came", FieldType.MOMENT, false, true, List.of()),
                                        new FieldDefinition(
                                                "left_at", "Left", FieldType.MOMENT, false, true, List.of()),
                                        FieldDefinition.span(
                                                "there", "There", new Field.Ends("came", "left_at", false)),
                                        new FieldDefinition("load", "Load", FieldType.TEXT, true, true, List.of()),
                                        new FieldDefinition("price", "Price", FieldType.MONEY, false, true, List.of()),
                                        new FieldDefinition(
                                                        "weight", "Weight", FieldType.NUMBER, false, true, List.of())
                                                .withBands(List.of(Band.of("Heavy", Band.Numbers.from(10, 100)))),
                                        new FieldDefinition("packed", "Packed", FieldType.TEXT, false, true, List.of()),
                                        new FieldDefinition(
                                                "checked", "Checked", FieldType.DATE, false, true, List.of()),
                                        new FieldDefinition("safe", "Safe", FieldType.YES_NO, false, true, List.of()),
                                        new FieldDefinition("marks", "Marks", FieldType.TAGS, true, true, List.of()),
                                        new FieldDefinition("at", "At", FieldType.TIME, false, true, List.of()),
                                        new FieldDefinition("who", "Who", FieldType.TEXT, false, true, List.of()),
                                        new FieldDefinition("yard", "Yard", FieldType.TEXT, false, true, List.of())))
                        .running("price"));
        TestServer.sql(
                "insert into records.casks (number, came, load, price, weight, packed, checked, safe, marks, at, who,"
                        + " yard) select 'C-' || i, timestamptz '2026-06-01 00:30+00' + interval '1 day' * i,"
                        + " case when i = 7 then 'about 7' when i = 9 then '' else i || '.50' end, i * 1.25, i,"
                        + " to_char(date '2026-01-10' + i, 'DD/MM/YYYY'), date '2026-03-28' + i, i % 2 = 0,"
                        + " case when i % 3 = 0 then '{}' else array['wet', 'm' || i % 2] end, time '07:15' + interval '1 hour' * (i % 5),"
                        + " case i % 3 when 0 then 'ada' when 1 then 'DORA' end, case when i % 3 = 0 then null else 'North' end"
                        + " from generate_series(1, 30) i");
    }

    @AfterEach
    void leave() throws SQLException {
        TestServer.sql("delete from kept_view where register_key in ('casks', 'all_casks');"
                + " delete from register where key in ('all_casks', 'casks'); drop table if exists records.casks");
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 204);
        return answer.json();
    }

    private static String code(Caller.Answer answer) {
        return answer.json().get("code").stringValue();
    }

    private JsonNode preview(String field, String type) {
        return ok(ada.post(AT + "/fields/" + field + "/type/preview", Map.of("type", type)));
    }

    private Caller.Answer change(String field, Map<String, Object> wanted, long unread) {
        int version = ok(ada.get(AT)).get("version").asInt();
        return ada.put(
                AT + "/fields/" + field + "/type", Map.of("wanted", wanted, "unread", unread, "version", version));
    }

    private String change(String field, String type, long unread) {
        return ok(change(field, Map.of("type", type), unread)).get("former").stringValue();
    }

    private long count(String statement) {
        return ok(ada.post(AT + "/count", Map.of("statement", statement)))
                .get("matching")
                .asLong();
    }

    private JsonNode field(String key) {
        for (JsonNode f : ok(ada.get(AT)).get("fields")) {
            if (f.get("key").stringValue().equals(key)) {
                return f;
            }
        }
        throw new AssertionError("no field " + key);
    }

    private String column(String field) throws SQLException {
        return TestServer.query("select column_name from register_field f join register r on r.id = f.register_id"
                + " where r.key = 'casks' and f.key = '" + field + "'");
    }

    @Test
    void aTextBecomesANumberAndWhatDoesNotReadIsFoundAgain() throws SQLException {
        JsonNode looked = preview("load", "number");
        assertThat(looked.get("values").asLong()).isEqualTo(29);
        assertThat(looked.get("unread").asLong()).isEqualTo(1);
        assertThat(looked.at("/odd/0/was").stringValue()).isEqualTo("about 7");
        assertThat(looked.at("/odd/0/reason").stringValue()).isEqualTo("Load: “about 7” does not read as a number.");
        assertThat(looked.at("/read/0/becomes").asDouble()).isEqualTo(1.5);
        assertThat(looked.get("needed")).isEmpty();
        assertThat(looked.get("follows").toString()).contains("from then on a record may be without one");
        assertThat(field("load").get("type").stringValue()).isEqualTo("text");

        // Whoever agreed to lose none is asked again, and nothing is changed.
        assertThat(code(change("load", Map.of("type", "number"), 0))).isEqualTo("more-unread");
        assertThat(field("load").get("type").stringValue()).isEqualTo("text");
        assertThat(TestServer.query("select count(*) from pg_attribute where attrelid = 'records.casks'::regclass"
                        + " and attname like 'load%'"))
                .isEqualTo("1");

        assertThat(change("load", "number", 1)).isEqualTo("Load (as text)");
        assertThat(field("load").get("type").stringValue()).isEqualTo("number");
        assertThat(field("load").get("required").asBoolean()).isFalse();
        assertThat(count("load > 10")).isEqualTo(21);
        assertThat(count("load is empty")).isEqualTo(2);
        ok(ada.post(AT + "/removed-fields/load_as_text", Map.of()));
        assertThat(count("load_as_text is not empty and load is empty")).isEqualTo(1);
        ok(ada.post(AT + "/records", Map.of("values", Map.of("number", "C-31", "load", 12))));
        assertThat(count("load is 12 and load_as_text is empty")).isEqualTo(1);
        assertThat(TestServer.query("select action || ': ' || (before #>> '{}') || ' → ' || (after #>> '{}') from trail"
                        + " where subject = 'register' and action = 'type changed'"
                        + " and subject_id = (select id from register where key = 'casks')"))
                .isEqualTo("type changed: Load: text → Load: number");
    }

    /** Each value as the database would make it of the value that was. */
    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "packed  | date        | to_date(nullif(w, ''), 'DD/MM/YYYY') = n",
                "packed  | moment      | to_date(nullif(w, ''), 'DD/MM/YYYY')::timestamp at time zone 'Europe/London' = n",
                "came    | text        | to_char(w at time zone 'Europe/London', 'YYYY-MM-DD\"T\"HH24:MI:SS+01:00') = n",
                "checked | moment      | w::timestamp at time zone 'Europe/London' = n",
                "checked | text        | to_char(w, 'YYYY-MM-DD') = n",
                "checked | choice      | to_char(w, 'YYYY-MM-DD') = n",
                "weight  | money       | w = n",
                "weight  | text        | w::text = n",
                "weight  | tags        | array[w::text] = n",
                "weight  | choice      | w::text = n",
                "price   | number      | w = n",
                "price   | text        | w::text = n",
                "safe    | text        | case when w then 'yes' else 'no' end = n",
                "safe    | choice      | case when w then 'yes' else 'no' end = n",
                "at      | text        | to_char(w, 'HH24:MI') = n",
                "marks   | text        | array_to_string(w, ', ') = coalesce(n, '')",
                "who     | person      | lower(w) = n",
                "who     | choice      | w = n",
                "yard    | choice      | w = n",
                "yard    | tags        | array_remove(array[w], null) = n",
            })
    void everyValueIsWhatItShouldBe(String field, String type, String same) throws SQLException {
        if (field.equals("came") || field.equals("price")) {
            rest();
        }
        String was = column(field);
        change(field, type, 0);
        String former = field + "_as_"
                + switch (field) {
                    case "came" -> "date_and_time";
                    case "checked" -> "date";
                    case "weight" -> "number";
                    case "price" -> "money";
                    case "safe" -> "yes_no";
                    case "at" -> "time_of_day";
                    case "marks" -> "tags";
                    default -> "text";
                };
        assertThat(column(field)).isNotEqualTo(was);
        assertThat(TestServer.query("select count(*) from (select " + former + " as w, " + column(field)
                        + " as n from records.casks) t where (" + same + ") or w is null and n is null"))
                .as("%s as %s", field, type)
                .isEqualTo("30");
        // What can be read back comes back, and is the same.
        JsonNode back = preview(field, field("number").get("type").stringValue().equals(type) ? "choice" : "text");
        assertThat(back.get("unread").asLong()).isZero();
    }

    /** Leaves the register without a main date, a span and a running total. */
    private void rest() {
        ok(ada.delete(
                AT + "/fields/there?version=" + ok(ada.get(AT)).get("version").asInt()));
        ObjectNode plain = CatalogueCalls.written(ok(ada.get(AT)), Map.of("order", List.of("number")));
        plain.remove(List.of("mainField", "running"));
        ok(ada.put(AT, plain));
    }

    @Test
    void datesAndTimesGoByTheZoneOfTheOrganisation() throws SQLException {
        rest();
        change("came", "date", 0);
        // 00:30 in UTC is 01:30 in London in summer; the same day. 23:30 would be the next.
        assertThat(count("came in 2026-06-02")).isEqualTo(1);
        assertThat(ok(ada.get(AT + "/removed-fields")).at("/1/label").stringValue())
                .isEqualTo("Came (as date and time)");
        ok(ada.post(AT + "/removed-fields/came_as_date_and_time", Map.of()));
        change("came_as_date_and_time", "time of day", 0);
        assertThat(count("came_as_date_and_time between 01:30 and 01:31")).isEqualTo(30);
    }

    @Test
    void aDateThatCanBeReadTwoWaysIsAskedAbout() throws SQLException {
        TestServer.sql("update records.casks set packed = '0' || 1 + id % 9 || '/05/2026'");
        JsonNode looked = preview("packed", "date");
        assertThat(looked.get("ask").asBoolean()).isTrue();
        assertThat(looked.get("order").stringValue()).isEqualTo("DAY_FIRST");
        JsonNode other =
                ok(ada.post(AT + "/fields/packed/type/preview", Map.of("type", "date", "order", "MONTH_FIRST")));
        assertThat(other.get("ask").asBoolean()).isFalse();
        assertThat(other.get("unread").asLong()).isZero();
        ok(change("packed", Map.of("type", "date", "order", "MONTH_FIRST"), 0));
        assertThat(count("packed month in (May)")).isLessThan(30);
        assertThat(TestServer.query(
                        "select count(*) from records.casks where extract(day from " + column("packed") + ") = 5"))
                .isEqualTo("30");
    }

    @Test
    void whatStandsAgainstItIsSaidFirst() {
        assertThat(preview("came", "text").get("needed").toString())
                .contains("It is the main date.", "“There” begins or ends with it.");
        assertThat(preview("price", "text").get("needed").toString()).contains("It is added up as time goes.");
        assertThat(preview("price", "number").get("needed")).isEmpty();
        assertThat(code(change("came", Map.of("type", "text"), 0))).isEqualTo("field-needed");
        assertThat(code(change("there", Map.of("type", "text"), 0))).isEqualTo("not-ours");
        assertThat(code(change("load", Map.of("type", "text"), 0))).isEqualTo("same-type");
        assertThat(code(change("load", Map.of("type", "span"), 0))).isEqualTo("bad-type");
        assertThat(change("nothing", Map.of("type", "text"), 0).status()).isEqualTo(404);
        ok(ada.put(AT + "/access", List.of(Map.of("mayRead", true, "statement", "weight > 3", "hidden", List.of()))));
        assertThat(preview("weight", "text").at("/needed/0").stringValue())
                .startsWith("Who sees which records is limited by it in a way that does not fit a text field.");
        assertThat(preview("weight", "money").get("needed")).isEmpty();
        assertThat(preview("weight", "text").get("follows").toString())
                .contains("Its bands do not fit a text field and go: Heavy.");
        Caller dora = Caller.signedIn("dora");
        assertThat(dora.post(AT + "/fields/load/type/preview", Map.of("type", "number"))
                        .status())
                .isEqualTo(403);
        int version = ok(ada.get(AT)).get("version").asInt();
        assertThat(dora.put(
                                AT + "/fields/load/type",
                                Map.of("wanted", Map.of("type", "number"), "unread", 5, "version", version))
                        .status())
                .isEqualTo(403);
        assertThat(dora.get(AT + "/fields/load/type/views?type=number").status())
                .isEqualTo(403);
        change("load", "number", 1);
        assertThat(code(ada.put(
                        AT + "/fields/yard/type",
                        Map.of("wanted", Map.of("type", "choice"), "unread", 0, "version", version))))
                .isEqualTo("changed-meanwhile");
        ok(ada.put(AT + "/access", List.of()));
    }

    @Test
    void aChoiceHasNotThousandsOfValues() throws SQLException {
        TestServer.sql(
                "insert into records.casks (number, load, marks) select 'D-' || i, 'v' || i, '{}' from generate_series(1, 600) i");
        assertThat(preview("load", "choice").get("needed").toString()).contains("a choice has at most 500");
        assertThat(code(change("load", Map.of("type", "choice"), 0))).isEqualTo("too-many-options");
        assertThat(preview("yard", "date").get("needed").toString()).contains("None of its values reads as date.");
        assertThat(code(change("yard", Map.of("type", "date"), 1000))).isEqualTo("none-reads");
        change("yard", "choice", 0);
        assertThat(field("yard").at("/options/0/value").stringValue()).isEqualTo("North");
    }

    @Test
    void whoDoesNotSeeAFieldDoesNotSeeWhatItWas() {
        ok(ada.put(
                AT + "/access", List.of(Map.of("mayRead", true, "statement", "", "hidden", List.of("load", "yard")))));
        change("load", "number", 1);
        ok(ada.post(AT + "/removed-fields/load_as_text", Map.of()));
        Caller dora = Caller.signedIn("dora");
        assertThat(ok(dora.get(AT)).get("fields").toString()).doesNotContain("\"load\"", "load_as_text");
        assertThat(dora.post(AT + "/count", Map.of("statement", "load_as_text is not empty"))
                        .status())
                .isEqualTo(422);
        ok(ada.put(AT + "/access", List.of()));
    }

    @Test
    void viewsThatDoNotFitAreNamedAndTheOthersGoOn() {
        String asks = view("Light", "weight < 5", Map.of(), List.of());
        String shows = view(
                "Sums",
                "number is not empty",
                Map.of("groups", List.of(Map.of("field", "checked", "by", "month")), "totals", List.of("weight")),
                List.of("-weight"));
        String empty = view("Without", "weight is empty", Map.of(), List.of());
        JsonNode found = ok(ada.get(AT + "/fields/weight/type/views?type=text"));
        assertThat(found).hasSize(2);
        assertThat(found.at("/0/name").stringValue() + ": "
                        + found.at("/0/criteria/0").stringValue())
                .isEqualTo("Light: weight is less than 5");
        assertThat(found.at("/1/name").stringValue()).isEqualTo("Sums");
        assertThat(found.at("/1/criteria")).isEmpty();
        assertThat(ok(ada.get(AT + "/fields/weight/type/views?type=money"))).isEmpty();
        assertThat(ok(ada.get(AT + "/fields/checked/type/views?type=text"))).hasSize(1);

        change("weight", "text", 0);
        change("checked", "text", 0);
        assertThat(ada.get("/api/views/" + asks + "/count").status()).isEqualTo(422);
        assertThat(ok(ada.get("/api/views/" + empty + "/count")).get("matching").asLong())
                .isZero();
        assertThat(ok(ada.get("/api/views/" + shows + "/rows")).get("rows")).hasSize(30);
        JsonNode shape = ok(ada.get("/api/views/" + shows)).get("shape");
        assertThat(shape.has("groups") || shape.has("measures")).isFalse();
    }

    private String view(String name, String statement, Map<String, Object> shape, List<String> order) {
        return ok(ada.post(
                        "/api/views",
                        Map.of(
                                "register",
                                "casks",
                                "name",
                                name,
                                "statement",
                                statement,
                                "columns",
                                List.of("number", "weight"),
                                "order",
                                order,
                                "shape",
                                shape)))
                .get("id")
                .stringValue();
    }

    /** Whoever writes while it goes on either waits and is refused, or has written what is there afterwards. */
    @Test
    void nothingThatIsWrittenMeanwhileIsLost() throws Exception {
        TestServer.sql(
                "insert into records.casks (number, load, marks) select 'E-' || i, i, '{}' from generate_series(1, 20000) i");
        AtomicBoolean ended = new AtomicBoolean();
        CompletableFuture<List<String>> writing = CompletableFuture.supplyAsync(() -> {
            List<String> written = new ArrayList<>();
            for (int i = 0; !ended.get(); i++) {
                String number = "F-" + i;
                if (ada.post(AT + "/records", Map.of("values", Map.of("number", number, "load", "77")))
                                .status()
                        == 201) {
                    written.add(number);
                }
            }
            return written;
        });
        TimeUnit.MILLISECONDS.sleep(200);
        change("load", "number", 2);
        TimeUnit.MILLISECONDS.sleep(200);
        ended.set(true);
        List<String> written = writing.get(30, TimeUnit.SECONDS);
        assertThat(written).isNotEmpty();
        assertThat(count("number starts with \"F-\" and load is 77")).isEqualTo(written.size());
        assertThat(count("load is 15000")).isEqualTo(1);
    }

    @Test
    void aTypeIsChangedTimeAndAgain() throws SQLException {
        for (String type : List.of("number", "money", "number", "money")) {
            change("price", type, 0);
        }
        assertThat(TestServer.query("select count(*) from records.casks where " + column("price") + " = id * 1.25"))
                .isEqualTo("30");
        change("weight", "text", 0);
        change("weight", "number", 0);
        change("weight", "text", 0);
        assertThat(column("weight")).isEqualTo("weight_4");
        assertThat(ok(ada.get(AT + "/removed-fields")).toString())
                .contains("Weight (as number)", "Weight (as text)", "Weight (as number, 2)");
        // A new field of the name that a column has got meanwhile has a column of its own.
        ok(ada.post(AT + "/fields", Map.of("type", "text", "label", "Weight 4")));
        assertThat(column("weight_4")).isEqualTo("weight_5");
        assertThat(count("weight_4 is empty")).isEqualTo(30);
    }
}
