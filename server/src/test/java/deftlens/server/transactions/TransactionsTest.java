package deftlens.server.transactions;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.registers.TransactionRules;
import deftlens.server.testing.Caller;
import deftlens.server.testing.CatalogueCalls;
import deftlens.server.testing.TestServer;
import java.math.BigDecimal;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.node.ObjectNode;

/** What is posted adds up to zero, to the last unit, whoever posts it and by whatever way. */
@ExtendWith(TestServer.class)
class TransactionsTest {

    private static final String REGISTER = "/api/registers/journal";
    private static final String AT = REGISTER + "/transactions";
    private static final TransactionRules RULES = new TransactionRules(
            new TransactionRules.Numbered("transaction", "T-"),
            Optional.of(new TransactionRules.Numbered("entry", "E-")),
            "amount",
            List.of("posted", "reference"),
            List.of("account", "site", "memo"),
            Optional.of(new TransactionRules.Mark("source", "By hand")),
            Optional.of("entered_by"),
            List.of(new TransactionRules.Along("account_class", "account")));
    private static Caller ada;
    private static Caller dora;
    private static Caller audrey;

    @BeforeAll
    static void make() {
        TestServer.bean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                                "journal",
                                "Journal",
                                "posting",
                                "posted",
                                "entry",
                                true,
                                List.of(
                                        text("entry", true).identifying(),
                                        field("posted", FieldType.MOMENT, true),
                                        choice("account", true, "1100 Debtors", "1200 Bank", "5300 Office"),
                                        choice("account_class", true, "Assets", "Costs"),
                                        field("amount", FieldType.MONEY, true).correctable(),
                                        choice("site", false, "North", "South"),
                                        choice("source", true, "Stay", "By hand"),
                                        text("reference", false),
                                        text("transaction", true),
                                        field("entered_by", FieldType.PERSON, true),
                                        text("memo", false),
                                        field("settled", FieldType.DATE, false)))
                        .running("amount")
                        .transactions(RULES));
        ada = Caller.signedIn("ada");
        dora = Caller.signedIn("dora");
        audrey = Caller.signedIn("audrey");
    }

    private static FieldDefinition field(String key, FieldType type, boolean required) {
        return new FieldDefinition(key, label(key), type, required, true, List.of());
    }

    private static FieldDefinition text(String key, boolean required) {
        return field(key, FieldType.TEXT, required);
    }

    private static FieldDefinition choice(String key, boolean required, String... options) {
        return new FieldDefinition(key, label(key), FieldType.CHOICE, required, true, List.of(options));
    }

    private static String label(String key) {
        return key.substring(0, 1).toUpperCase() + key.substring(1).replace('_', ' ');
    }

    @AfterAll
    static void leave() throws SQLException {
        TestServer.sql("update register set closed_up_to = null where key = 'journal'");
        ada.delete(REGISTER);
    }

    /** One bill of three lines, T-0099, and one half of another that does not add up, T-0007. */
    @BeforeEach
    void fill() throws SQLException {
        TestServer.sql("delete from register_access; delete from transaction_template;"
                + " update register set closed_up_to = null where key = 'journal'");
        TestServer.sql(
                "select deft_guard_closed('records.journal'::regclass, (select id from register where key = 'journal'), false)");
        TestServer.sql("delete from records.journal; truncate past.journal; delete from posted_transaction;"
                + " delete from change_set where register_id = (select id from register where key = 'journal')");
        TestServer.sql("select setval(pg_get_serial_sequence('records.journal', 'id'), 5000)");
        TestServer.sql(
                "insert into records.journal (id, entry, posted, account, account_class, amount, site, source,"
                        + " reference, transaction, entered_by, memo) values"
                        + " (11, 'E-7', '2026-09-02T08:00Z', '5300 Office', 'Costs', 1, 'North', 'Stay', null, 'T-0007', 'dan', 'half'),"
                        + " (12, 'E-8', '2026-10-02T08:00Z', '1100 Debtors', 'Assets', 120.30, 'North', 'Stay', 'S-1', 'T-0099', 'dan', null),"
                        + " (13, 'E-9', '2026-10-02T08:00Z', '5300 Office', 'Costs', -100.25, 'South', 'Stay', 'S-1', 'T-0099', 'dan', 'net'),"
                        + " (14, 'x', '2026-10-02T08:00Z', '1100 Debtors', 'Assets', -20.05, 'North', 'Stay', 'S-1', 'T-0099', 'dan', 'tax')");
    }

    private static Map<String, Object> line(String account, Object amount) {
        return new HashMap<>(Map.of("account", account, "amount", amount, "site", "North"));
    }

    private static Map<String, Object> transaction(List<Map<String, Object>> lines) {
        return new HashMap<>(
                Map.of("values", Map.of("posted", "2026-11-20T10:00:00Z", "reference", "S-4"), "lines", lines));
    }

    private static Map<String, Object> moved(String amount) {
        return transaction(List.of(line("5300 Office", amount), line("1100 Debtors", "-" + amount)));
    }

    private static JsonNode ok(Caller.Answer answer) {
        assertThat(answer.status()).as(answer.text()).isBetween(200, 299);
        return answer.json();
    }

    private static String refused(Caller.Answer answer, int status, String code) {
        assertThat(answer.status()).as(answer.text()).isEqualTo(status);
        assertThat(answer.json().get("code").stringValue()).isEqualTo(code);
        return answer.json().get("detail").stringValue();
    }

    private static String journal(String where) throws SQLException {
        return TestServer.query("select string_agg(concat_ws(' ', entry, account, account_class, amount, site, source,"
                + " reference, transaction, entered_by, memo), '|' order by id) from records.journal where " + where);
    }

    private static String count() throws SQLException {
        return TestServer.query("select count(*) || ' ' || (select count(*) from change_set s join register r"
                + " on r.id = s.register_id where r.key = 'journal') from records.journal");
    }

    private static void allow(String statement, List<String> hidden) {
        ok(ada.put(
                REGISTER + "/access",
                List.of(Map.of("mayRead", true, "mayChangeMany", true, "statement", statement, "hidden", hidden))));
    }

    @Test
    void aTransactionIsNumberedMarkedAndPostedAsAWhole() throws SQLException {
        JsonNode posted = ok(ada.post(AT, moved("12.50")));
        assertThat(posted.get("number").stringValue()).isEqualTo("T-0100");
        assertThat(posted.get("records")).hasSize(2);
        assertThat(journal("transaction = 'T-0100'"))
                .isEqualTo("E-10 5300 Office Costs 12.50 North By hand S-4 T-0100 ada"
                        + "|E-11 1100 Debtors Assets -12.50 North By hand S-4 T-0100 ada");
        assertThat(ok(ada.post(AT, moved("1"))).get("number").stringValue()).isEqualTo("T-0101");
        JsonNode story =
                ok(ada.get(REGISTER + "/records/" + posted.get("records").get(0).stringValue() + "/history"));
        assertThat(story.get(0).get("action").stringValue()).isEqualTo("posted");
    }

    @Test
    void nothingIsPostedUntilTheDifferenceIsZero() throws SQLException {
        String before = count();
        Caller.Answer answer =
                ada.post(AT, transaction(List.of(line("5300 Office", "100.10"), line("1100 Debtors", "-100.09"))));
        assertThat(refused(answer, 422, "not-balanced")).contains("0.01").contains("Nothing was posted.");
        assertThat(answer.json().get("difference").decimalValue()).isEqualByComparingTo("0.01");
        // More decimals than the ledger keeps would be rounded away, and the rest with them.
        assertThat(refused(
                        ada.post(
                                AT,
                                transaction(List.of(
                                        line("5300 Office", "0.005"),
                                        line("5300 Office", "0.005"),
                                        line("1100 Debtors", "-0.01")))),
                        422,
                        "lines-refused"))
                .contains("Line 1")
                .contains("decimals");
        refused(ada.post(AT, transaction(List.of())), 422, "bad-lines");
        refused(ada.post(AT, transaction(List.of(line("5300 Office", "0")))), 422, "bad-lines");
        assertThat(count()).isEqualTo(before);
    }

    @Test
    void whatEverLinesAreSentOnlyThoseThatAddUpAreKept() throws SQLException {
        Random random = new Random(20_261_123);
        for (int i = 0; i < 40; i++) {
            List<Map<String, Object>> lines = new ArrayList<>();
            long sum = 0;
            for (int l = 1 + random.nextInt(6); l >= 0; l--) {
                long pence = random.nextLong(-1_000_000_000_00L, 1_000_000_000_00L);
                sum += pence;
                lines.add(line("5300 Office", BigDecimal.valueOf(pence, 2).toPlainString()));
            }
            boolean balanced = random.nextBoolean();
            long last = -sum + (balanced ? 0 : random.nextBoolean() ? 1 : -1);
            lines.add(line("1200 Bank", BigDecimal.valueOf(last, 2).toPlainString()));
            lines.getLast().put("account", "1100 Debtors");
            Caller.Answer answer = ada.post(AT, transaction(lines));
            assertThat(answer.status()).as(answer.text()).isEqualTo(balanced ? 201 : 422);
        }
        assertThat(TestServer.query("select coalesce(sum(amount), 0) from records.journal where source = 'By hand'"))
                .isIn("0", "0.00");
        assertThat(TestServer.query("select count(*) from (select transaction from records.journal"
                        + " where source = 'By hand' group by 1 having sum(amount) <> 0) t"))
                .isEqualTo("0");
    }

    @Test
    void everyLineIsLookedAtAndEachSaysWhatIsWrong() throws SQLException {
        String before = count();
        Map<String, Object> other = line("9999 Nowhere", "1");
        Map<String, Object> empty = line("5300 Office", "1");
        empty.remove("amount");
        Map<String, Object> own = line("5300 Office", "1");
        own.put("source", "Stay");
        JsonNode refused = ada.post(AT, transaction(List.of(other, line("5300 Office", "-1"), empty, own)))
                .json()
                .get("refused");
        assertThat(refused.valueStream().map(r -> r.get("line").intValue())).containsExactly(1, 3, 4);
        assertThat(refused.get(1).get("reason").stringValue()).isEqualTo("Say the Amount.");
        assertThat(refused.get(2).get("reason").stringValue()).isEqualTo("Source is not what is said for each line.");
        // No posting says yet which class the bank has, and somebody has to say so first.
        assertThat(refused(
                        ada.post(AT, transaction(List.of(line("1200 Bank", "1"), line("5300 Office", "-1")))),
                        422,
                        "lines-refused"))
                .contains("Line 1")
                .contains("Account class");
        Map<String, Object> undated = moved("1");
        undated.put("values", Map.of("reference", "S-4"));
        assertThat(refused(ada.post(AT, undated), 422, "lines-refused")).contains("Posted is needed");
        assertThat(count()).isEqualTo(before);
    }

    @Test
    void theOppositeOfAWholeIsPostedOnceAndLinked() throws SQLException {
        JsonNode shown = ok(ada.get(AT + "/13"));
        assertThat(shown.get("number").stringValue()).isEqualTo("T-0099");
        assertThat(shown.get("records")).hasSize(3);
        assertThat(shown.get("difference").decimalValue()).isEqualByComparingTo("0");
        assertThat(shown.get("mayPost").booleanValue()).isTrue();
        JsonNode back = ok(
                ada.post(AT + "/13/reverse", Map.of("values", Map.of("reference", "R-1"), "reason", "Billed twice.")));
        String number = back.get("number").stringValue();
        assertThat(journal("transaction = '" + number + "'"))
                .isEqualTo("E-10 1100 Debtors Assets -120.30 North By hand R-1 T-0100 ada"
                        + "|E-11 5300 Office Costs 100.25 South By hand R-1 T-0100 ada net"
                        + "|E-12 1100 Debtors Assets 20.05 North By hand R-1 T-0100 ada tax");
        assertThat(TestServer.query("select distinct posted from records.journal where transaction = 'T-0100'"))
                .startsWith("2026-11-23");
        assertThat(ok(ada.get(AT + "/12")).get("reversedBy").stringValue()).isEqualTo(number);
        long made = Long.parseLong(back.get("records").get(0).stringValue());
        assertThat(ok(ada.get(AT + "/" + made)).get("reverses").stringValue()).isEqualTo("T-0099");
        assertThat(refused(
                        ada.post(AT + "/14/reverse", Map.of("values", Map.of(), "reason", "Again.")),
                        409,
                        "reversed-already"))
                .contains(number);
        // Taken back, it is there to be reversed again.
        ok(ada.post("/api/changes/" + change() + "/undo", Map.of("reason", "The wrong one.")));
        awaitCount("4");
        assertThat(ok(ada.get(AT + "/12")).has("reversedBy")
                        && !ok(ada.get(AT + "/12")).get("reversedBy").isNull())
                .isFalse();
        ok(ada.post(AT + "/12/reverse", Map.of("values", Map.of(), "reason", "Now.")));
    }

    private static String change() throws SQLException {
        return TestServer.query("select max(id) from change_set where origin = 'POSTED'");
    }

    private static void awaitCount(String records) throws SQLException {
        for (int i = 0; i < 300; i++) {
            if (TestServer.query("select count(*) from records.journal").equals(records)) {
                return;
            }
            try {
                Thread.sleep(50);
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
        }
        throw new AssertionError("there are not " + records + " records after 15 s");
    }

    @Test
    void whatDoesNotAddUpHasNoOpposite() throws SQLException {
        String before = count();
        refused(ada.post(AT + "/11/reverse", Map.of("values", Map.of(), "reason", "Odd.")), 422, "not-balanced");
        refused(ada.post(AT + "/12/reverse", Map.of("values", Map.of(), "reason", " ")), 422, "bad-value");
        refused(
                ada.post(AT + "/12/reverse", Map.of("values", Map.of("account", "1200 Bank"), "reason", "x")),
                422,
                "bad-value");
        refused(ada.get(AT + "/99999"), 404, "not-found");
        assertThat(count()).isEqualTo(before);
    }

    @Test
    void aRequestThatIsSentAgainPostsNothingMore() throws SQLException {
        JsonNode first = ok(ada.post(AT, moved("3"), "post-once"));
        assertThat(ok(ada.post(AT, moved("3"), "post-once"))).isEqualTo(first);
        refused(ada.post(AT, moved("4"), "post-once"), 422, "idempotency-mismatch");
        assertThat(TestServer.query("select count(*) from records.journal")).isEqualTo("6");
    }

    @Test
    void manyAtOnceAreNumberedOneAfterTheOther() throws SQLException {
        List<CompletableFuture<String>> posting = new ArrayList<>();
        for (int i = 0; i < 12; i++) {
            Caller caller = Caller.signedIn("ada");
            posting.add(CompletableFuture.supplyAsync(
                    () -> ok(caller.post(AT, moved("7"))).get("number").stringValue()));
        }
        Set<String> numbers = new HashSet<>();
        posting.forEach(p -> numbers.add(p.join()));
        assertThat(numbers).hasSize(12);
        assertThat(TestServer.query("select count(distinct entry) from records.journal"))
                .isEqualTo("28");
    }

    @Test
    void numbersThatCameInMeanwhileAreNotGivenAgain() throws SQLException {
        // Far behind the latest records, where the last number is looked for first.
        TestServer.sql("insert into records.journal (id, entry, posted, account, account_class, amount, source,"
                + " transaction, entered_by) select -i, 'E-' || (9 + i), '2020-01-01', '5300 Office', 'Costs', 0, 'Stay',"
                + " 'T-' || lpad((99 + i)::text, 4, '0'), 'dan' from generate_series(1, 3000) i");
        TestServer.sql("insert into records.journal (id, entry, posted, account, account_class, amount, source,"
                + " transaction, entered_by) select 100 + i, 'y', '2020-01-01', '5300 Office', 'Costs', 0, 'Stay',"
                + " 'z', 'dan' from generate_series(1, 2100) i");
        JsonNode posted = ok(ada.post(AT, moved("7")));
        assertThat(posted.get("number").stringValue()).isEqualTo("T-3100");
        assertThat(journal("transaction = 'T-3100'")).startsWith("E-3010 ").contains("|E-3011 ");
    }

    @Test
    void aClosedPeriodIsNotPostedInto() throws SQLException {
        ok(ada.put(REGISTER + "/closed-period", Map.of("upTo", "2026-10-31", "reason", "The month is reported.")));
        String before = count();
        Map<String, Object> late = moved("5");
        late.put("values", Map.of("posted", "2026-10-20T10:00:00Z"));
        assertThat(refused(ada.post(AT, late), 409, "closed-period")).contains("up to 31 Oct 2026");
        refused(
                ada.post(
                        AT + "/12/reverse",
                        Map.of("values", Map.of("posted", "2026-10-20T10:00:00Z"), "reason", "Late.")),
                409,
                "closed-period");
        assertThat(count()).isEqualTo(before);
        // Its opposite belongs to today.
        ok(ada.post(AT + "/12/reverse", Map.of("values", Map.of(), "reason", "Late.")));
    }

    @Test
    void postingIsARightAndReachesNoFurtherThanWhatOneSees() throws SQLException {
        refused(dora.post(AT, moved("1")), 403, "not-allowed");
        refused(audrey.post(AT, moved("1")), 403, "not-allowed");
        refused(audrey.get(REGISTER + "/transaction-templates"), 403, "not-allowed");
        assertThat(ok(dora.get(AT + "/12")).get("mayPost").booleanValue()).isFalse();
        allow("", List.of());
        assertThat(ok(dora.post(AT, moved("1"))).get("number").stringValue()).isEqualTo("T-0100");
        allow("site is \"North\"", List.of());
        String before = count();
        assertThat(refused(
                        dora.post(AT + "/12/reverse", Map.of("values", Map.of(), "reason", "Whole?")),
                        403,
                        "not-allowed"))
                .contains("You do not see all lines");
        assertThat(ok(dora.get(AT + "/12")).get("records")).hasSize(2);
        Map<String, Object> south = line("5300 Office", "-1");
        south.put("site", "South");
        assertThat(refused(dora.post(AT, transaction(List.of(line("5300 Office", "1"), south))), 403, "not-allowed"))
                .contains("You would not see all of these lines");
        refused(dora.get(AT + "/13"), 404, "not-found");
        assertThat(count()).isEqualTo(before);
        allow("", List.of("memo"));
        refused(dora.post(AT, moved("1")), 422, "no-transactions");
        assertThat(ok(dora.get(REGISTER)).get("transactions").isNull()).isTrue();
    }

    @Test
    void templatesAreForAllWhoPostAndChangedByTheirMaker() {
        allow("", List.of());
        Map<String, Object> template = new HashMap<>(moved("9"));
        template.put("name", "Stamps of the month");
        JsonNode kept = ok(ada.post(REGISTER + "/transaction-templates", template));
        String at = REGISTER + "/transaction-templates/" + kept.get("id").stringValue();
        JsonNode seen = ok(dora.get(REGISTER + "/transaction-templates")).get(0);
        assertThat(seen.get("name").stringValue()).isEqualTo("Stamps of the month");
        assertThat(seen.get("lines")).hasSize(2);
        assertThat(seen.get("mayChange").booleanValue()).isFalse();
        refused(dora.delete(at), 403, "not-allowed");
        refused(dora.put(at + "?version=0", template), 403, "not-allowed");
        refused(dora.post(REGISTER + "/transaction-templates", template), 422, "name-taken");
        template.put("name", "Stamps");
        assertThat(ok(ada.put(at + "?version=0", template)).get("version").intValue())
                .isEqualTo(1);
        refused(ada.put(at + "?version=0", template), 409, "changed-meanwhile");
        template.put("values", Map.of("source", "Stay"));
        refused(ada.put(at + "?version=1", template), 422, "bad-value");
        ok(ada.delete(at));
        assertThat(ok(dora.get(REGISTER + "/transaction-templates"))).isEmpty();
    }

    @Test
    void rulesByWhichNothingCouldBePostedAreRefused() {
        JsonNode register = ok(ada.get(REGISTER));
        JsonNode rules = register.get("transactions");
        for (Map.Entry<String, Object> wrong : Map.<String, Object>of(
                        "amount", "memo",
                        "by", "site",
                        "shared", List.of("reference"),
                        "each", List.of("site", "memo"),
                        "number", Map.of("field", "transaction", "prefix", "T-1"),
                        "line", Map.of("field", "amount", "prefix", "E-"),
                        "mark", Map.of("field", "source", "value", "Nobody knows"),
                        "along", List.of(Map.of("field", "account_class", "with", "settled")))
                .entrySet()) {
            ObjectNode changed = (ObjectNode) rules.deepCopy();
            changed.set(wrong.getKey(), new ObjectMapper().valueToTree(wrong.getValue()));
            Caller.Answer answer = ada.put(REGISTER, CatalogueCalls.written(register, Map.of("transactions", changed)));
            refused(answer, 422, "bad-transactions");
        }
        assertThat(ok(ada.get(REGISTER)).get("transactions")).isEqualTo(rules);
        // What is posted by cannot go.
        assertThat(ada.delete(REGISTER + "/fields/site?version="
                                + register.get("version").intValue())
                        .text())
                .contains("Transactions are posted by it.");
        JsonNode without = ok(ada.put(REGISTER, without(register)));
        assertThat(without.get("transactions").isNull()).isTrue();
        refused(ada.post(AT, moved("1")), 422, "no-transactions");
        ok(ada.put(REGISTER, CatalogueCalls.written(without, Map.of("transactions", rules))));
    }

    private static JsonNode without(JsonNode register) {
        ObjectNode written = CatalogueCalls.written(register);
        written.remove("transactions");
        return written;
    }
}
