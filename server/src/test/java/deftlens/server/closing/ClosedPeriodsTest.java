package deftlens.server.closing;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.CatalogueCalls;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Nothing of a closed period changes, by whatever way. */
@ExtendWith(TestServer.class)
class ClosedPeriodsTest {

    private static final String REGISTER = "/api/registers/sealed";
    private static final String AT = REGISTER + "/records";
    private static final String CLOSED = REGISTER + "/closed-period";
    private static final String OPEN = "2026-10-01";
    private static Caller ada;
    private static Caller dora;

    @BeforeAll
    static void make() {
        for (String key : List.of("sealed", "sealed_moments")) {
            FieldType dated = key.equals("sealed") ? FieldType.DATE : FieldType.MOMENT;
            TestServer.bean(RegisterCatalogue.class)
                    .add(new RegisterDefinition(
                            key,
                            key.equals("sealed") ? "Sealed entries" : "Sealed moments",
                            "sealed entry",
                            "posted",
                            "number",
                            true,
                            List.of(
                                    field("number", FieldType.TEXT, true).identifying(),
                                    field("posted", dated, false),
                                    field("second", FieldType.DATE, false),
                                    field("amount", FieldType.MONEY, false).correctable(),
                                    field("labels", FieldType.TAGS, true).correctable())));
        }
        ada = Caller.signedIn("ada");
        dora = Caller.signedIn("dora");
    }

    @AfterAll
    static void leave() throws SQLException {
        TestServer.sql("update register set closed_up_to = null where key in ('sealed', 'sealed_moments')");
        ada.delete(REGISTER);
        ada.delete("/api/registers/sealed_moments");
    }

    @BeforeEach
    void empty() throws SQLException {
        TestServer.sql("update register set closed_up_to = null where key in ('sealed', 'sealed_moments');"
                + " delete from closed_period; truncate records.sealed restart identity;"
                + " truncate records.sealed_moments restart identity; delete from change_set;"
                + " insert into records.sealed (number, posted, amount, labels) values ('S-1', '2026-09-15', 10, '{}'),"
                + " ('S-2', '2026-10-15', 20, '{}'), ('S-3', null, 30, '{}')");
    }

    private static FieldDefinition field(String key, FieldType type, boolean required) {
        return new FieldDefinition(
                key, key.substring(0, 1).toUpperCase() + key.substring(1), type, required, true, List.of());
    }

    private static Caller.Answer close(String upTo, String was) {
        Map<String, Object> change = new HashMap<>();
        change.put("upTo", upTo);
        change.put("was", was);
        change.put("reason", "The quarter is reported.");
        return ada.put(CLOSED, change);
    }

    private static void closed() {
        Caller.Answer answer = close("2026-09-30", null);
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
    }

    private static void refused(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isEqualTo(409);
        assertThat(answer.json().get("code").stringValue()).isEqualTo("closed-period");
        assertThat(answer.json().get("closedUpTo").stringValue()).isEqualTo("2026-09-30");
        assertThat(answer.json().get("detail").stringValue())
                .contains("up to 30 Sep 2026")
                .contains("Nothing was written.")
                .contains("Ada Admin")
                .contains("can reopen it");
    }

    private static String records() throws SQLException {
        return TestServer.query(
                "select string_agg(concat_ws(' ', number, posted, amount, labels), '|' order by id) from records.sealed");
    }

    private static Caller.Answer correct(Caller caller, int id, String field, Object value) {
        return caller.patch(AT + "/" + id, Map.of("values", Map.of(field, value)));
    }

    @Test
    void aRecordOfAClosedPeriodIsNeitherMadeNorChangedNorMoved() throws SQLException {
        closed();
        String before = records();
        String sets = TestServer.query("select count(*) from change_set");
        refused(ada.post(AT, Map.of("values", Map.of("number", "S-4", "posted", "2026-09-30", "labels", List.of()))));
        refused(correct(ada, 1, "amount", "11"));
        refused(correct(dora, 1, "amount", "11"));
        // Out of it and into it.
        refused(correct(ada, 1, "posted", OPEN));
        refused(correct(ada, 2, "posted", "2026-09-30"));
        refused(correct(ada, 3, "posted", "2026-01-01"));
        refused(dora.put(AT + "/tags", Map.of("records", List.of("1"), "add", List.of("Late"), "remove", List.of())));
        refused(dora.put(
                AT + "/tags", Map.of("records", List.of("2", "1"), "add", List.of("Late"), "remove", List.of())));
        assertThat(records()).isEqualTo(before);
        assertThat(TestServer.query("select count(*) from change_set")).isEqualTo(sets);
        // What stands there already is no change.
        assertThat(correct(ada, 1, "amount", "10").status()).isEqualTo(200);
    }

    @Test
    void whatIsOpenOrHasNoDateIsWrittenAsBefore() throws SQLException {
        closed();
        assertThat(correct(ada, 2, "amount", "21").status()).isEqualTo(200);
        assertThat(correct(ada, 2, "posted", OPEN).status()).isEqualTo(200);
        assertThat(correct(dora, 3, "amount", "31").status()).isEqualTo(200);
        assertThat(ada.post(AT, Map.of("values", Map.of("number", "S-4", "posted", OPEN, "labels", List.of())))
                        .status())
                .isEqualTo(201);
        assertThat(dora.put(AT + "/tags", Map.of("records", List.of("2"), "add", List.of("Late"), "remove", List.of()))
                        .status())
                .isEqualTo(200);
        assertThat(records()).contains("S-2 2026-10-01 21.00 {Late}").contains("S-4 2026-10-01");
    }

    @Test
    void ofManyEachThatLiesInTheClosedPeriodIsNamed() throws SQLException {
        closed();
        String before = records();
        Caller.Answer answer = ada.post(
                AT + "/bulk",
                Map.of(
                        "by",
                        List.of("number"),
                        "records",
                        List.of(
                                Map.of("number", "S-2", "amount", "22"),
                                Map.of("number", "S-1", "amount", "12"),
                                Map.of("number", "S-2b", "posted", "2026-09-30", "labels", List.of()),
                                Map.of("number", "S-3", "posted", "2026-09-01"))));
        assertThat(answer.status()).as(answer.text()).isEqualTo(422);
        assertThat(answer.json()
                        .get("refused")
                        .valueStream()
                        .map(r -> r.get("record").intValue()))
                .containsExactly(2, 3, 4);
        assertThat(answer.json().at("/refused/0/reason").stringValue()).contains("up to 30 Sep 2026");
        assertThat(records()).isEqualTo(before);
        // What is there and stays as it is writes nothing.
        Caller.Answer same = ada.post(
                AT + "/bulk",
                Map.of(
                        "by",
                        List.of("number"),
                        "records",
                        List.of(
                                Map.of("number", "S-1", "amount", "10", "posted", "2026-09-15"),
                                Map.of("number", "S-2", "amount", "23"))));
        assertThat(same.status()).as(same.text()).isEqualTo(200);
        assertThat(records()).contains("S-2 2026-10-15 23");
    }

    @Test
    void theDatabaseRefusesWhoeverWrites() throws SQLException {
        closed();
        String before = records();
        for (String sql : List.of(
                "delete from records.sealed where number = 'S-1'",
                "delete from records.sealed",
                "truncate records.sealed",
                "update records.sealed set id = 77 where number = 'S-1'",
                "update records.sealed set amount = amount + 1",
                "insert into records.sealed (number, posted, labels) values ('S-9', '-infinity', '{}')")) {
            assertThatThrownBy(() -> TestServer.sql(sql))
                    .as(sql)
                    .isInstanceOf(SQLException.class)
                    .extracting(e -> ((SQLException) e).getSQLState())
                    .isEqualTo("DL001");
        }
        assertThat(records()).isEqualTo(before);
        TestServer.sql("update records.sealed set amount = amount; delete from records.sealed where number <> 'S-1'");
    }

    /** Random changes against what arithmetic says of them. */
    @Test
    void itRefusesExactlyWhatLiesThereBeforeOrAfter() throws SQLException {
        closed();
        Random random = new Random(7);
        List<String> dates = List.of("2025-12-31", "2026-09-29", "2026-09-30", "2026-10-01", "2026-10-02");
        int written = 0;
        for (int i = 0; i < 60; i++) {
            String from = random.nextInt(6) == 0 ? null : dates.get(random.nextInt(dates.size()));
            String to = random.nextInt(6) == 0 ? null : dates.get(random.nextInt(dates.size()));
            boolean same = random.nextInt(4) == 0;
            TestServer.sql("alter table records.sealed disable trigger user;"
                    + " update records.sealed set posted = " + text(from) + ", amount = 1 where id = 1;"
                    + " alter table records.sealed enable trigger user");
            Map<String, Object> values = new HashMap<>();
            values.put("posted", same ? from : to);
            values.put("amount", same ? "1" : "2");
            boolean in =
                    same ? false : from != null && from.compareTo(OPEN) < 0 || to != null && to.compareTo(OPEN) < 0;
            Caller.Answer answer = ada.patch(AT + "/1", Map.of("values", values));
            assertThat(answer.status())
                    .as("from %s to %s: %s", from, to, answer.text())
                    .isEqualTo(in ? 409 : 200);
            written += in ? 0 : 1;
        }
        assertThat(written).isBetween(10, 50);
    }

    private static String text(String date) {
        return date == null ? "null" : "'" + date + "'";
    }

    /** The organisation of the tests is in London: its first of October begins an hour before UTC's. */
    @Test
    void momentsAreDatedByTheOrganisationsClock() throws SQLException {
        String zone = TestServer.query("select zone from organisation");
        String last = TestServer.query("select to_char((timestamp '2026-10-01' at time zone '" + zone
                + "' - interval '1 second') at time zone 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')");
        String first = TestServer.query("select to_char(timestamp '2026-10-01' at time zone '" + zone
                + "' at time zone 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')");
        Caller.Answer answer = ada.put(
                "/api/registers/sealed_moments/closed-period", Map.of("upTo", "2026-09-30", "reason", "Reported."));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        String at = "/api/registers/sealed_moments/records";
        refused(ada.post(at, Map.of("values", Map.of("number", "M-1", "posted", last, "labels", List.of()))));
        assertThat(ada.post(at, Map.of("values", Map.of("number", "M-2", "posted", first, "labels", List.of())))
                        .status())
                .isEqualTo(201);
        Caller.Answer many = ada.post(
                at + "/bulk",
                Map.of(
                        "by",
                        List.of("number"),
                        "records",
                        List.of(
                                Map.of("number", "M-3", "posted", first, "labels", List.of()),
                                Map.of("number", "M-4", "posted", last, "labels", List.of()))));
        assertThat(many.json().at("/refused/0/record").intValue()).isEqualTo(2);
    }

    @Test
    void itIsReopenedWithAReasonAndAllOfItIsTold() throws SQLException {
        closed();
        Caller.Answer answer = close("2026-08-31", "2026-09-30");
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        assertThat(correct(ada, 1, "amount", "11").status()).isEqualTo(200);
        assertThat(close(null, "2026-08-31").status()).isEqualTo(200);
        JsonNode told = audrey().get(CLOSED).json();
        assertThat(told.get("upTo").isNull()).isTrue();
        assertThat(told.get("history")
                        .valueStream()
                        .map(h -> h.get("upTo") + " " + h.get("who") + " " + h.get("reason")))
                .containsExactly(
                        "null \"Ada Admin\" \"The quarter is reported.\"",
                        "\"2026-08-31\" \"Ada Admin\" \"The quarter is reported.\"",
                        "\"2026-09-30\" \"Ada Admin\" \"The quarter is reported.\"");
        assertThat(told.get("mayReopen").valueStream().map(JsonNode::stringValue))
                .contains("Ada Admin");
        assertThat(ada.get(REGISTER).json().get("closedUpTo").isNull()).isTrue();
        assertThat(TestServer.query("select count(*) from pg_trigger where tgrelid = 'records.sealed'::regclass"
                        + " and tgname like 'deft_closed%'"))
                .isEqualTo("0");
        assertThat(TestServer.query("select string_agg(action, ', ' order by id) from trail where action like 'period%'"
                        + " and subject_id = (select id from register where key = 'sealed')"))
                .endsWith("period closed, period reopened, period reopened");
    }

    private static Caller audrey() {
        return Caller.signedIn("audrey");
    }

    @Test
    void whoeverSawAnotherDayIsTold() {
        closed();
        Caller.Answer late = close("2026-08-31", null);
        assertThat(late.status()).isEqualTo(409);
        assertThat(late.json().get("code").stringValue()).isEqualTo("changed-meanwhile");
        assertThat(late.json().get("upTo").stringValue()).isEqualTo("2026-09-30");
        assertThat(ada.get(REGISTER).json().get("closedUpTo").stringValue()).isEqualTo("2026-09-30");
    }

    @Test
    void twoWhoCloseAtOnceComeOneAfterTheOther() {
        List<CompletableFuture<Integer>> both = new ArrayList<>();
        for (String upTo : List.of("2026-09-30", "2026-08-31")) {
            both.add(CompletableFuture.supplyAsync(() -> close(upTo, null).status()));
        }
        assertThat(both.stream().map(CompletableFuture::join)).containsExactlyInAnyOrder(200, 409);
    }

    /** With fields that are added to it, it is the same register. */
    @Test
    void itIsClosedByEitherOfItsKeys() throws SQLException {
        String key = ada.post(
                        REGISTER + "/added-fields",
                        Map.of("fields", List.of(Map.of("label", "Twice", "calculation", "amount * 2"))))
                .json()
                .get("key")
                .stringValue();
        assertThat(key).startsWith("sealed~");
        Caller.Answer answer = ada.put(
                "/api/registers/" + key + "/closed-period", Map.of("upTo", "2026-09-30", "reason", "Reported."));
        assertThat(answer.status()).as(answer.text()).isEqualTo(200);
        assertThat(ada.get(REGISTER).json().get("closedUpTo").stringValue()).isEqualTo("2026-09-30");
        refused(correct(ada, 1, "amount", "11"));
    }

    @Test
    void whatCannotBeClosedIsRefused() {
        for (Caller caller : List.of(dora, audrey())) {
            assertThat(caller.put(CLOSED, Map.of("upTo", "2026-09-30", "reason", "Why not"))
                            .status())
                    .isEqualTo(403);
        }
        assertThat(ada.put(CLOSED, Map.of("upTo", "2999-01-01", "reason", "Soon"))
                        .text())
                .contains("up to today at the latest");
        assertThat(ada.put(CLOSED, Map.of("upTo", "2026-09-30", "reason", "  ")).text())
                .contains("Say why");
        assertThat(ada.put(CLOSED, Map.of("reason", "Nothing to do"))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("nothing-changed");
        assertThat(ada.put("/api/registers/nowhere/closed-period", Map.of("upTo", "2026-09-30", "reason", "x"))
                        .status())
                .isEqualTo(404);
    }

    /** What would let its records change by another way waits until it is reopened. */
    @Test
    void theRegisterKeepsItsDateAndItsTypesWhileItIsClosed() {
        closed();
        assertThat(ada.delete(REGISTER).json().get("code").stringValue()).isEqualTo("closed-period");
        JsonNode now = ada.get(REGISTER).json();
        Caller.Answer dated = ada.put(REGISTER, CatalogueCalls.written(now, Map.of("mainField", "second")));
        assertThat(dated.status()).as(dated.text()).isEqualTo(422);
        assertThat(dated.text()).contains("Reopen it before you choose another");
        assertThat(ada.put(REGISTER, CatalogueCalls.written(now, Map.of("description", "Closed by quarters")))
                        .status())
                .isEqualTo(200);
        now = ada.get(REGISTER).json();
        Caller.Answer preview = ada.post(REGISTER + "/fields/number/type/preview", Map.of("type", "number"));
        assertThat(preview.status()).as(preview.text()).isEqualTo(200);
        assertThat(preview.json().get("needed").toString()).contains("Reopen it first");
        Caller.Answer changed = ada.put(
                REGISTER + "/fields/number/type",
                Map.of(
                        "wanted",
                        Map.of("type", "number"),
                        "unread",
                        3,
                        "version",
                        now.get("version").intValue()));
        assertThat(changed.status()).as(changed.text()).isEqualTo(422);
        assertThat(changed.text()).contains("Reopen it first");
    }

    @Test
    void itIsNotClosedWhileALongWritingGoesOn() throws Exception {
        try (var connection = TestServer.connect()) {
            connection.setAutoCommit(false);
            try (var statement = connection.createStatement()) {
                statement.execute("update records.sealed set amount = 99 where number = 'S-1'");
                Caller.Answer answer = close("2026-09-30", null);
                assertThat(answer.status()).as(answer.text()).isEqualTo(409);
                assertThat(answer.json().get("code").stringValue()).isEqualTo("being-written");
            }
            connection.rollback();
        }
        closed();
    }

    @Test
    void somebodyWhoIsWritingEndsBeforeItIsClosed() throws Exception {
        CompletableFuture<Integer> closing;
        try (var connection = TestServer.connect()) {
            connection.setAutoCommit(false);
            try (var statement = connection.createStatement()) {
                statement.execute("update records.sealed set amount = 99 where number = 'S-1'");
                closing = CompletableFuture.supplyAsync(
                        () -> close("2026-09-30", null).status());
                String waiting =
                        "select count(*) from pg_locks where not granted and relation = 'records.sealed'::regclass";
                while (!TestServer.query(waiting).equals("1")) {
                    Thread.onSpinWait();
                }
                assertThat(closing).isNotDone();
            }
            connection.commit();
        }
        assertThat(closing.join()).isEqualTo(200);
        assertThat(records()).contains("S-1 2026-09-15 99");
        refused(correct(ada, 1, "amount", "1"));
    }
}
