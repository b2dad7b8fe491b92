package deftlens.server.registers;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.testing.Caller;
import deftlens.server.testing.TestServer;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/**
 * Who sees what, tried by every call there is. The register “vault” holds records of two sites; those of the South, and all
 * costs, carry a mark that must never reach the day shift, who see their own site without costs. The night shift may not
 * read it at all.
 */
@ExtendWith(TestServer.class)
class AccessTest {

    /** Stands in every text of a record of the other site. */
    private static final String SECRET = "hush";

    /** The digits of every cost. */
    private static final String COST = "98765";

    private static Caller ada;
    private static Caller dora;
    private static Caller nina;
    private static Caller audrey;
    private static long view;
    private static long secretView;

    @BeforeAll
    static void fill() throws SQLException {
        RegisterCatalogue catalogue = TestServer.bean(RegisterCatalogue.class);
        catalogue.add(new RegisterDefinition(
                        "vault",
                        "Vault",
                        "box",
                        "at",
                        "title",
                        true,
                        List.of(
                                field("number", "Number", FieldType.TEXT, true, List.of())
                                        .identifying(),
                                field("title", "Title", FieldType.TEXT, true, List.of())
                                        .correctable(),
                                field("site", "Site", FieldType.CHOICE, true, List.of("North", "South")),
                                field("at", "At", FieldType.MOMENT, true, List.of()),
                                field("until", "Until", FieldType.MOMENT, false, List.of()),
                                field("due", "Due", FieldType.DATE, false, List.of()),
                                field("cost", "Cost", FieldType.MONEY, false, List.of()),
                                field("tags", "Tags", FieldType.TAGS, true, List.of())
                                        .correctable(),
                                FieldDefinition.calculated("dear", "Dear", FieldType.MONEY, true, "cost + 0"),
                                FieldDefinition.seen(true),
                                FieldDefinition.span("held", "Held", new Field.Ends("at", "until", false))))
                .running("cost")
                .transactions(new TransactionRules(
                        new TransactionRules.Numbered("title", "T-"),
                        Optional.of(new TransactionRules.Numbered("number", "V-")),
                        "cost",
                        List.of("at"),
                        List.of("site"),
                        Optional.empty(),
                        Optional.empty(),
                        List.of())));
        TestServer.sql("""
                insert into records.vault (number, title, site, at, until, due, cost, tags)
                select case when i % 2 = 0 then 'V-' else 'hush-' end || i,
                       case when i % 2 = 0 then 'Box ' else 'hush ' end || i,
                       case when i % 2 = 0 then 'North' else 'South' end,
                       timestamptz '2026-11-20 08:00Z' + interval '1 hour' * i,
                       timestamptz '2026-11-21 08:00Z' + interval '1 hour' * i,
                       date '2026-11-20' + i % 7, 98765.00 + i,
                       case when i % 2 = 0 then '{plain}' else '{hush}' end::text[]
                from generate_series(0, 59) i""");
        TestServer.sql("update register set past_since = '2026-11-20' where key = 'vault'");
        catalogue.combine(
                new RegisterDefinition(
                        "both",
                        "Both",
                        "entry",
                        "at",
                        "title",
                        true,
                        List.of(
                                FieldDefinition.member("source", "Source", List.of("Box", "Job")),
                                field("number", "Number", FieldType.TEXT, true, List.of()),
                                field("title", "Title", FieldType.TEXT, true, List.of()),
                                field("at", "At", FieldType.MOMENT, true, List.of()),
                                field("cost", "Cost", FieldType.MONEY, false, List.of()),
                                FieldDefinition.seen(true))),
                List.of(
                        new RegisterForReader.Member(
                                "vault",
                                "Box",
                                Map.of("number", "number", "title", "title", "at", "at", "cost", "cost")),
                        new RegisterForReader.Member(
                                "jobs", "Job", Map.of("number", "number", "title", "title", "at", "made_at"))));
        ada = Caller.signedIn("ada");
        dora = Caller.signedIn("dora");
        nina = Caller.signedIn("nina");
        audrey = Caller.signedIn("audrey");
        Map<String, Long> teams = new LinkedHashMap<>();
        ada.get("/api/teams")
                .json()
                .forEach(t -> teams.put(t.get("name").stringValue(), t.get("id").asLong()));
        Caller.Answer set = ada.put(
                "/api/registers/vault/access",
                List.of(
                        Map.of(
                                "team",
                                teams.get("Day shift"),
                                "mayRead",
                                true,
                                "statement",
                                "site is my site",
                                "hidden",
                                List.of("cost")),
                        Map.of(
                                "team",
                                teams.get("Night shift"),
                                "mayRead",
                                false,
                                "statement",
                                "",
                                "hidden",
                                List.of())));
        assertThat(set.status()).as(set.text()).isEqualTo(200);
        view = keep("All boxes", "number is not empty", List.of("number", "title", "cost"));
        secretView = keep("Dear boxes", "cost > 5", List.of("number"));
    }

    private static long keep(String name, String statement, List<String> columns) {
        Caller.Answer kept = ada.post(
                "/api/views",
                Map.of(
                        "register",
                        "vault",
                        "name",
                        name,
                        "statement",
                        statement,
                        "columns",
                        columns,
                        "order",
                        List.of("-at")));
        assertThat(kept.status()).as(kept.text()).isEqualTo(201);
        long id = kept.json().get("id").asLong();
        ada.put(
                "/api/views/" + id + "/shares",
                Map.of("version", kept.json().get("version").intValue(), "shares", List.of(Map.of("mayChange", true))));
        return id;
    }

    @AfterAll
    static void leave() throws SQLException {
        ada.delete("/api/registers/both");
        ada.delete("/api/registers/vault");
    }

    private static FieldDefinition field(
            String key, String label, FieldType type, boolean required, List<String> options) {
        return new FieldDefinition(key, label, type, required, true, options);
    }

    /** A call: a method, a path and a body. */
    private record Call(String method, String path, Object body) {
        Caller.Answer by(Caller caller) {
            return path.startsWith("/api/files?")
                    ? caller.upload(path, "a,b\n1,2\n".getBytes(java.nio.charset.StandardCharsets.UTF_8))
                    : caller.send(method, path, body);
        }
    }

    /** Every call that reads or writes records, as it stands in the document, with bodies that reach for everything. */
    private static Map<String, List<Call>> calls(String register) throws SQLException {
        String at = "/api/registers/" + register;
        String secret = TestServer.query("select id from records.vault where number = 'hush-1'");
        Map<String, List<Call>> calls = new LinkedHashMap<>();
        calls.put("GET /api/registers", List.of(new Call("GET", "/api/registers", null)));
        calls.put("GET /api/desk", List.of(new Call("GET", "/api/desk", null)));
        calls.put(
                "POST /api/counts",
                List.of(new Call("POST", "/api/counts", Map.of("registers", List.of(register, "jobs")))));
        calls.put("GET /api/registers/{key}", List.of(new Call("GET", at, null)));
        for (String reading :
                List.of("rows", "count", "parts", "edges", "histogram", "statement", "comparison", "cql2/write")) {
            List<Call> variants = new ArrayList<>();
            for (String statement : List.of(
                    "",
                    "at in this year or not at in this year",
                    "title contains \"hush\"",
                    "not title contains \"Box\"",
                    "number is not empty and at before next year",
                    "cost > 5",
                    "not cost > 5")) {
                variants.add(new Call("POST", at + "/" + reading, Map.of("statement", statement)));
            }
            calls.put("POST /api/registers/{key}/" + reading, variants);
        }
        calls.get("POST /api/registers/{key}/rows")
                .addAll(List.of(
                        new Call("POST", at + "/rows", Map.of("columns", List.of("cost"))),
                        new Call("POST", at + "/rows", Map.of("columns", List.of("dear"))),
                        new Call("POST", at + "/rows", Map.of("statement", "dear > 5", "order", List.of("-dear"))),
                        new Call("POST", at + "/rows", Map.of("order", List.of("-cost"), "limit", 1000)),
                        new Call("POST", at + "/rows", Map.of("condition", tree("cost"), "limit", 1000))));
        calls.get("POST /api/registers/{key}/rows")
                .addAll(List.of(
                        new Call(
                                "POST",
                                at + "/rows",
                                Map.of("statement", "site is \"North\"", "shape", Map.of("marked", true))),
                        new Call("POST", at + "/rows", Map.of("shape", Map.of("take", Map.of("sample", 500)))),
                        new Call(
                                "POST",
                                at + "/rows",
                                Map.of("inside", List.of(Map.of("field", "site", "value", "South")))),
                        new Call(
                                "POST",
                                at + "/rows",
                                Map.of("inside", List.of(Map.of("field", "cost", "value", "98766")))),
                        new Call(
                                "POST",
                                at + "/rows",
                                Map.of(
                                        "statement",
                                        "site is \"North\"",
                                        "compared",
                                        Map.of("against", "2020-01-01", "side", "both")))));
        List<Call> groups = new ArrayList<>();
        for (String field : List.of("number", "title", "site", "at", "cost", "dear", "seen", "source")) {
            groups.add(new Call("POST", at + "/groups", Map.of("groups", List.of(Map.of("field", field)))));
            groups.add(new Call(
                    "POST",
                    at + "/groups",
                    Map.of(
                            "groups",
                            List.of(Map.of("field", field)),
                            "measures",
                            List.of(Map.of("function", "sum", "field", "cost")))));
            groups.add(new Call(
                    "POST",
                    at + "/groups",
                    Map.of("groups", List.of(Map.of("field", field)), "take", Map.of("first", 900))));
        }
        calls.put("POST /api/registers/{key}/groups", groups);
        List<Call> totals = new ArrayList<>();
        List<Call> balances = new ArrayList<>();
        List<Call> behind = new ArrayList<>();
        List<Call> started = new ArrayList<>();
        List<Call> read = new ArrayList<>();
        for (String field : List.of("number", "title", "site", "at", "cost", "seen", "source")) {
            Map<String, Object> rows = Map.of(
                    "rows",
                    List.of(Map.of("field", field)),
                    "measures",
                    List.of(Map.of("function", "count"), Map.of("function", "sum", "field", "cost")));
            Map<String, Object> across = Map.of("across", Map.of("field", field), "keep", "number > 0");
            totals.add(new Call("POST", at + "/totals", rows));
            totals.add(new Call("POST", at + "/totals", across));
            totals.add(new Call(
                    "POST",
                    at + "/totals",
                    Map.of("statement", "site is \"South\"", "across", Map.of("field", field))));
            Map<String, Object> earlier = new HashMap<>(rows);
            earlier.putAll(Map.of("statement", "at in 2026-11", "compare", "before"));
            totals.add(new Call("POST", at + "/totals", earlier));
            Map<String, Object> carried = Map.of("by", List.of(Map.of("field", field)), "window", "2026-11");
            balances.add(new Call("POST", at + "/balances", carried));
            Map<String, Object> place = new HashMap<>(rows);
            place.put("at", Map.of("keys", List.of("South")));
            behind.add(new Call("POST", at + "/totals/records", place));
            Map<String, Object> text = new HashMap<>(rows);
            text.put("text", "number > 1");
            read.add(new Call("POST", at + "/totals/statement", new HashMap<>(text)));
            text.putAll(Map.of("text", "", "position", 0));
            started.add(new Call("POST", at + "/totals/complete", text));
        }
        calls.put("POST /api/registers/{key}/totals", totals);
        calls.put(
                "POST /api/registers/{key}/calculations/try",
                List.of(
                        new Call("POST", at + "/calculations/try", Map.of("calculation", "join(number, title)")),
                        new Call("POST", at + "/calculations/try", Map.of("calculation", "cost + 0")),
                        new Call("POST", at + "/calculations/try", Map.of("calculation", "dear", "field", "title"))));
        List<Call> adding = new ArrayList<>();
        for (String calculation : List.of("join(number, title)", "cost + 0", "when(dear > 5, title)")) {
            adding.add(new Call(
                    "POST",
                    at + "/added-fields",
                    Map.of("fields", List.of(Map.of("label", "Added", "calculation", calculation)))));
        }
        calls.put("POST /api/registers/{key}/added-fields", adding);
        calls.put(
                "POST /api/registers/{key}/calculations/read",
                List.of(
                        new Call("POST", at + "/calculations/read", Map.of("calculation", "cost + 0")),
                        new Call("POST", at + "/calculations/read", Map.of("calculation", "dear", "field", "title"))));
        calls.put(
                "POST /api/registers/{key}/calculations/complete",
                List.of(new Call("POST", at + "/calculations/complete", Map.of("text", "", "position", 0))));
        calls.put("POST /api/registers/{key}/balances", balances);
        calls.put("POST /api/registers/{key}/totals/records", behind);
        calls.put("POST /api/registers/{key}/totals/complete", started);
        calls.put("POST /api/registers/{key}/totals/statement", read);
        List<Call> values = new ArrayList<>();
        for (String field : List.of("number", "title", "site", "tags", "cost", "seen", "source")) {
            values.add(new Call("POST", at + "/values", Map.of("field", field, "limit", 500)));
        }
        calls.put("POST /api/registers/{key}/values", values);
        calls.put(
                "POST /api/registers/{key}/distribution",
                List.of(new Call("POST", at + "/distribution", Map.of("field", "cost"))));
        calls.put(
                "POST /api/registers/{key}/pasted",
                List.of(
                        new Call("POST", at + "/pasted", Map.of("field", "number", "text", "V-0")),
                        new Call("POST", at + "/pasted", Map.of("field", "cost", "text", "5"))));
        calls.put(
                "POST /api/registers/{key}/why",
                List.of(
                        new Call("POST", at + "/why", Map.of("statement", "", "record", secret)),
                        new Call("POST", at + "/why", Map.of("statement", "", "record", "V-0"))));
        List<Map<String, Object>> dear = List.of(Map.of("field", "cost", "act", "ADD", "value", 1));
        calls.put(
                "POST /api/registers/{key}/changes/preview",
                List.of(
                        new Call(
                                "POST", at + "/changes/preview", Map.of("statement", "", "set", dear, "delete", false)),
                        new Call(
                                "POST",
                                at + "/changes/preview",
                                Map.of("records", List.of(secret), "set", List.of(), "delete", true))));
        calls.put(
                "POST /api/registers/{key}/changes",
                List.of(new Call(
                        "POST",
                        at + "/changes",
                        Map.of(
                                "change",
                                Map.of("statement", "", "set", dear, "delete", false),
                                "mark",
                                "1.a",
                                "reason",
                                "mine"))));
        Map<String, Object> line = Map.of("site", "South", "cost", 0);
        Map<String, Object> posting =
                Map.of("values", Map.of("at", "2026-11-20T08:00:00Z"), "lines", List.of(line, line));
        calls.put("POST /api/registers/{key}/transactions", List.of(new Call("POST", at + "/transactions", posting)));
        calls.put(
                "GET /api/registers/{key}/transactions/{id}",
                List.of(new Call("GET", at + "/transactions/" + secret, null)));
        calls.put(
                "POST /api/registers/{key}/transactions/{id}/reverse",
                List.of(new Call(
                        "POST",
                        at + "/transactions/" + secret + "/reverse",
                        Map.of("values", Map.of(), "reason", "mine"))));
        calls.put(
                "GET /api/registers/{key}/transaction-templates",
                List.of(new Call("GET", at + "/transaction-templates", null)));
        Map<String, Object> template = Map.of("name", "T", "values", Map.of(), "lines", List.of(line));
        calls.put(
                "POST /api/registers/{key}/transaction-templates",
                List.of(new Call("POST", at + "/transaction-templates", template)));
        calls.put(
                "PUT /api/registers/{key}/transaction-templates/{template}",
                List.of(new Call("PUT", at + "/transaction-templates/1?version=0", template)));
        calls.put(
                "DELETE /api/registers/{key}/transaction-templates/{template}",
                List.of(new Call("DELETE", at + "/transaction-templates/1", null)));
        calls.put("GET /api/registers/{key}/changes", List.of(new Call("GET", at + "/changes", null)));
        calls.put(
                "GET /api/registers/{key}/changes/jobs/{job}", List.of(new Call("GET", at + "/changes/jobs/1", null)));
        calls.put(
                "DELETE /api/registers/{key}/changes/jobs/{job}",
                List.of(new Call("DELETE", at + "/changes/jobs/1", null)));
        calls.put(
                "POST /api/registers/{key}/changed-since",
                List.of(
                        new Call("POST", at + "/changed-since", Map.of("statement", "", "since", "2026-11-22")),
                        new Call(
                                "POST",
                                at + "/changed-since",
                                Map.of("statement", "cost > 5", "since", "2026-11-22"))));
        calls.put(
                "POST /api/registers/{key}/numbers-at",
                List.of(
                        new Call(
                                "POST",
                                at + "/numbers-at",
                                Map.of("statement", "", "moments", List.of("2026-11-22", "2026-11-23"))),
                        new Call(
                                "POST",
                                at + "/numbers-at",
                                Map.of("statement", "cost > 5", "moments", List.of("2026-11-22")))));
        calls.put(
                "POST /api/registers/{key}/related",
                List.of(
                        new Call("POST", at + "/related", Map.of("statement", "")),
                        new Call("POST", at + "/related", Map.of("statement", "cost > 5"))));
        calls.put("GET /api/registers/{key}/places", List.of(new Call("GET", at + "/places", null)));
        calls.put(
                "GET /api/registers/{key}/records/{id}/related",
                List.of(new Call("GET", at + "/records/" + secret + "/related", null)));
        calls.put("GET /api/registers/{key}/closed-period", List.of(new Call("GET", at + "/closed-period", null)));
        calls.put("GET /api/registers/{key}/records/{id}", List.of(new Call("GET", at + "/records/" + secret, null)));
        calls.put(
                "GET /api/registers/{key}/records/{id}/history",
                List.of(new Call("GET", at + "/records/" + secret + "/history", null)));
        calls.put(
                "PATCH /api/registers/{key}/records/{id}",
                List.of(new Call("PATCH", at + "/records/" + secret, Map.of("values", Map.of("title", "mine")))));
        calls.put(
                "PUT /api/registers/{key}/records/seen",
                List.of(new Call(
                        "PUT", at + "/records/seen", Map.of("records", List.of(Long.valueOf(secret)), "seen", true))));
        calls.put(
                "PUT /api/registers/{key}/records/tags",
                List.of(new Call(
                        "PUT",
                        at + "/records/tags",
                        Map.of("records", List.of(Long.valueOf(secret)), "add", List.of("x"), "remove", List.of()))));
        calls.put(
                "GET /api/registers/{key}/export.{format}",
                List.of(
                        new Call("GET", at + "/export.csv", null),
                        new Call("GET", at + "/export.json", null),
                        new Call("GET", at + "/export.jsonl?columns=cost", null),
                        new Call("GET", at + "/export.csv?columns=cost", null),
                        new Call("GET", at + "/export.csv?columns=number&order=cost", null)));
        calls.put(
                "POST /api/registers/{key}/export",
                List.of(
                        new Call("POST", at + "/export", Map.of()),
                        new Call("POST", at + "/export", Map.of("columns", List.of("cost")))));
        String prepared = java.util
                .UUID
                .nameUUIDFromBytes(register.getBytes(java.nio.charset.StandardCharsets.UTF_8))
                .toString();
        TestServer.sql(
                "insert into prepared_export values ('" + prepared + "', (select id from person where name = 'dora'), '"
                        + register + "', '{}', now()) on conflict do nothing");
        calls.put("GET /api/exports/{token}", List.of(new Call("GET", "/api/exports/" + prepared, null)));
        calls.put(
                "POST /api/registers/{key}/complete",
                List.of(new Call("POST", at + "/complete", Map.of("text", "c", "position", 1))));
        calls.put(
                "POST /api/registers/{key}/proposals",
                List.of(
                        new Call("POST", at + "/proposals", Map.of("text", "cost over 5")),
                        new Call("POST", at + "/proposals", Map.of("text", "hush last month"))));
        calls.put(
                "POST /api/registers/{key}/cql2/read",
                List.of(new Call("POST", at + "/cql2/read", Map.of("text", "cost > 5"))));
        calls.put("GET /api/registers/{key}/start", List.of(new Call("GET", at + "/start", null)));
        calls.put("GET /api/registers/{key}/starts", List.of(new Call("GET", at + "/starts", null)));
        return calls;
    }

    private static JsonNode tree(String field) {
        return ada.post("/api/registers/vault/statement", Map.of("statement", field + " > 5"))
                .json()
                .get("condition");
    }

    /** Calls that only administrators make; others are refused, whatever is in them. */
    private static Map<String, Call> kept(String register) {
        String at = "/api/registers/" + register;
        Map<String, Call> calls = new LinkedHashMap<>();
        calls.put("PUT /api/registers/{key}/access", new Call("PUT", at + "/access", List.of()));
        calls.put(
                "POST /api/registers/{key}/calculations/review",
                new Call("POST", at + "/calculations/review", Map.of("calculations", Map.of("dear", "cost * 3"))));
        calls.put(
                "POST /api/registers/{key}/bands/review",
                new Call("POST", at + "/bands/review", Map.of("fields", Map.of("cost", List.of()))));
        calls.put("GET /api/register-attention", new Call("GET", "/api/register-attention", null));
        calls.put(
                "PUT /api/combined/{key}",
                new Call(
                        "PUT",
                        "/api/combined/both",
                        Map.of(
                                "label",
                                "L",
                                "recordLabel",
                                "r",
                                "members",
                                List.of(
                                        Map.of("register", "jobs", "label", "J"),
                                        Map.of("register", register, "label", "V")),
                                "fields",
                                List.of(Map.of("label", "T", "shown", true, "from", Map.of(register, "title"))),
                                "titleField",
                                "T",
                                "version",
                                0)));
        calls.put("GET /api/registers/{key}/access", new Call("GET", at + "/access", null));
        calls.put(
                "PUT /api/registers/{key}",
                new Call(
                        "PUT",
                        at,
                        Map.of(
                                "label",
                                "L",
                                "recordLabel",
                                "r",
                                "description",
                                "",
                                "titleField",
                                "title",
                                "order",
                                List.of(),
                                "fields",
                                List.of(),
                                "version",
                                0)));
        calls.put("DELETE /api/registers/{key}", new Call("DELETE", at, null));
        calls.put("POST /api/registers/{key}/restore", new Call("POST", at + "/restore", null));
        calls.put(
                "POST /api/registers/{key}/fields",
                new Call("POST", at + "/fields", Map.of("type", "text", "label", "X")));
        calls.put("GET /api/registers/{key}/fields/{field}/use", new Call("GET", at + "/fields/cost/use", null));
        calls.put(
                "DELETE /api/registers/{key}/fields/{field}", new Call("DELETE", at + "/fields/cost?version=0", null));
        calls.put(
                "GET /api/registers/{key}/fields/{field}/type/views",
                new Call("GET", at + "/fields/cost/type/views?type=text", null));
        calls.put(
                "POST /api/registers/{key}/fields/{field}/type/preview",
                new Call("POST", at + "/fields/cost/type/preview", Map.of("type", "text")));
        calls.put(
                "PUT /api/registers/{key}/fields/{field}/type",
                new Call(
                        "PUT",
                        at + "/fields/cost/type",
                        Map.of("wanted", Map.of("type", "text"), "unread", 0, "version", 0)));
        calls.put("GET /api/registers/{key}/removed-fields", new Call("GET", at + "/removed-fields", null));
        calls.put(
                "POST /api/registers/{key}/removed-fields/{field}",
                new Call("POST", at + "/removed-fields/cost", null));
        calls.put("POST /api/registers/{key}/records", new Call("POST", at + "/records", Map.of("values", Map.of())));
        calls.put(
                "POST /api/registers/{key}/records/bulk",
                new Call("POST", at + "/records/bulk", Map.of("by", List.of("number"), "records", List.of(Map.of()))));
        calls.put("GET /api/registers/{key}/indexes", new Call("GET", at + "/indexes", null));
        calls.put("POST /api/registers/{key}/indexes/proposals", new Call("POST", at + "/indexes/proposals", null));
        calls.put("POST /api/registers/{key}/indexes", new Call("POST", at + "/indexes", Map.of("token", "x")));
        calls.put("DELETE /api/registers/{key}/indexes/{name}", new Call("DELETE", at + "/indexes/x", null));
        calls.put("GET /api/registers/{key}/sums", new Call("GET", at + "/sums", null));
        calls.put(
                "PUT /api/registers/{key}/sums",
                new Call("PUT", at + "/sums", Map.of("keys", List.of("title"), "amounts", List.of("cost"))));
        calls.put("DELETE /api/registers/{key}/sums", new Call("DELETE", at + "/sums", null));
        calls.put(
                "PUT /api/registers/{key}/closed-period",
                new Call("PUT", at + "/closed-period", Map.of("upTo", "2020-01-01", "reason", "x")));
        calls.put("GET /api/registers/{key}/shape", new Call("GET", at + "/shape", null));
        calls.put("POST /api/registers/{key}/shape", new Call("POST", at + "/shape", null));
        calls.put("PUT /api/registers/{key}/starts", new Call("PUT", at + "/starts", List.of()));
        calls.put("GET /api/registers/{key}/import-plans", new Call("GET", at + "/import-plans", null));
        calls.put(
                "PUT /api/registers/{key}/import-plans/{name}",
                new Call("PUT", at + "/import-plans/x", Map.of("columns", List.of(), "by", List.of(), "known", "ADD")));
        calls.put("GET /api/attachable", new Call("GET", "/api/attachable", null));
        calls.put("GET /api/attachable/{schema}/{table}", new Call("GET", "/api/attachable/records/vault", null));
        calls.put(
                "POST /api/attached",
                new Call(
                        "POST",
                        "/api/attached",
                        Map.of(
                                "schema",
                                "records",
                                "table",
                                "vault",
                                "label",
                                "L",
                                "recordLabel",
                                "r",
                                "keyColumns",
                                List.of(),
                                "titleField",
                                "title",
                                "fields",
                                List.of())));
        calls.put(
                "POST /api/combined",
                new Call(
                        "POST",
                        "/api/combined",
                        Map.of(
                                "label",
                                "L",
                                "recordLabel",
                                "r",
                                "members",
                                List.of(
                                        Map.of("register", "jobs", "label", "J"),
                                        Map.of("register", register, "label", "V")),
                                "fields",
                                List.of(Map.of(
                                        "label",
                                        "T",
                                        "shown",
                                        true,
                                        "from",
                                        Map.of("jobs", "title", register, "title"))),
                                "titleField",
                                "T")));
        calls.put("POST /api/files", new Call("POST", "/api/files?name=a.csv", null));
        calls.put("GET /api/files/{token}", new Call("GET", "/api/files/x", null));
        calls.put("DELETE /api/files/{token}", new Call("DELETE", "/api/files/x", null));
        calls.put("DELETE /api/files/{token}/look", new Call("DELETE", "/api/files/x/look", null));
        calls.put("GET /api/imports/{id}/back", new Call("GET", "/api/imports/1/back", null));
        calls.put("POST /api/imports/{id}/back", new Call("POST", "/api/imports/1/back", null));
        calls.put("POST /api/files/{token}/look", new Call("POST", "/api/files/x/look", Map.of()));
        calls.put(
                "POST /api/files/{token}/import",
                new Call(
                        "POST",
                        "/api/files/x/import",
                        Map.of(
                                "reading",
                                Map.of(),
                                "into",
                                Map.of(),
                                "plan",
                                Map.of("columns", List.of(), "by", List.of(), "known", "ADD"))));
        calls.put("GET /api/setup", new Call("GET", "/api/setup", null));
        calls.put("PUT /api/setup/{step}", new Call("PUT", "/api/setup/RECORDS", Map.of("later", true)));
        calls.put("GET /api/imports", new Call("GET", "/api/imports", null));
        calls.put("GET /api/imports/{id}", new Call("GET", "/api/imports/1", null));
        calls.put("DELETE /api/imports/{id}", new Call("DELETE", "/api/imports/1", null));
        calls.put("GET /api/jobs", new Call("GET", "/api/jobs", null));
        calls.put("DELETE /api/jobs/{id}", new Call("DELETE", "/api/jobs/1", null));
        return calls;
    }

    @Test
    void everyCallOfTheDocumentAboutRecordsIsTriedHere() throws SQLException {
        List<String> tried = new ArrayList<>(calls("vault").keySet());
        tried.addAll(kept("vault").keySet());
        List<String> missing = new ArrayList<>();
        ada.get("/api/openapi.json")
                .json()
                .get("paths")
                .properties()
                .forEach(path -> path.getValue().properties().forEach(method -> {
                    String call = method.getKey().toUpperCase(java.util.Locale.ROOT) + " " + path.getKey();
                    boolean elsewhere = path.getKey()
                            .matches(
                                    "/api/(account|organisation|people|teams|team-lists|trail|viewer-attributes|view-use|view-attention|session|welcome|windows|questions|views|pins|changes|linked-servers).*");
                    if (!elsewhere && !tried.contains(call)) {
                        missing.add(call);
                    }
                }));
        assertThat(missing).isEmpty();
    }

    @Test
    void nothingOfTheOtherSiteAndNoCostReachesTheDayShift() throws SQLException {
        for (String register : List.of("vault", "both")) {
            for (Map.Entry<String, List<Call>> entry : calls(register).entrySet()) {
                for (Call call : entry.getValue()) {
                    Caller.Answer answer = call.by(dora);
                    String told = answer.text();
                    assertThat(answer.status()).as("%s %s", call, told).isLessThan(500);
                    // What the caller wrote comes back in words; what was found must not.
                    String own = call.body() == null ? "" : call.body().toString();
                    if (!own.contains(SECRET)) {
                        assertThat(told).as("%s", call).doesNotContain(SECRET);
                    }
                    assertThat(told).as("%s", call).doesNotContain(COST);
                }
            }
        }
        assertThat(count(dora, "vault")).isEqualTo(30);
        assertThat(count(dora, "both")).isEqualTo(330);
        assertThat(count(ada, "vault")).isEqualTo(60);
        assertThat(TestServer.query("select title from records.vault where number = 'hush-1'"))
                .isEqualTo("hush 1");
        assertThat(
                        TestServer.query(
                                "select count(*) from record_seen s join register r on r.id = s.register_id where r.key = 'vault'"))
                .isEqualTo("0");
    }

    @Test
    void theSameCallsDoShowTheAdministratorAndTheAuditorEverything() throws SQLException {
        for (Caller caller : List.of(ada, audrey)) {
            String all = "";
            for (Call call : calls("vault").get("POST /api/registers/{key}/rows")) {
                all += call.by(caller).text();
            }
            assertThat(all).contains(SECRET).contains(COST);
        }
    }

    @Test
    void theNightShiftDoesNotKnowOfIt() throws SQLException {
        for (Map.Entry<String, List<Call>> entry : calls("vault").entrySet()) {
            for (Call call : entry.getValue()) {
                Caller.Answer answer = call.by(nina);
                if (Set.of("GET /api/registers", "GET /api/desk", "POST /api/counts")
                        .contains(entry.getKey())) {
                    assertThat(answer.text()).doesNotContain("vault").contains("jobs");
                } else {
                    assertThat(answer.status()).as("%s %s", call, answer.text()).isEqualTo(404);
                }
            }
        }
        assertThat(count(nina, "both")).isEqualTo(300);
        assertThat(nina.get("/api/views").text()).doesNotContain("boxes");
        assertThat(nina.get("/api/views/" + view + "/rows").status()).isEqualTo(404);
        assertThat(nina.get("/api/changes?registers=vault").status()).isEqualTo(404);
    }

    @Test
    void onlyAdministratorsKeepTheCatalogue() {
        kept("vault").forEach((name, call) -> {
            assertThat(call.by(dora).status()).as("%s by a member", name).isIn(403, 404);
            boolean looks = call.method().equals("GET")
                    && (name.contains("access") || name.contains("shape") || name.contains("attention"));
            assertThat(call.by(audrey).status())
                    .as("%s by an auditor", name)
                    .isIn(looks ? List.of(200) : List.of(403, 404));
        });
        assertThat(count(ada, "vault")).isEqualTo(60);
    }

    @Test
    void anAuditorChangesNoRecord() throws SQLException {
        String id = TestServer.query("select min(id) from records.vault");
        for (Call call : List.of(
                new Call("PATCH", "/api/registers/vault/records/" + id, Map.of("values", Map.of("title", "x"))),
                new Call(
                        "PUT",
                        "/api/registers/vault/records/tags",
                        Map.of("records", List.of(Long.valueOf(id)), "add", List.of("x"), "remove", List.of())))) {
            assertThat(call.by(audrey).status()).isEqualTo(403);
        }
    }

    @Test
    void aSharedViewShowsEachReaderTheirOwnRowsAndColumns() {
        String mine = dora.get("/api/views/" + view).text();
        assertThat(mine).doesNotContain("\"cost\"").doesNotContain("\"dear\"");
        String rows = dora.get("/api/views/" + view + "/rows").text();
        assertThat(rows).contains("V-0").doesNotContain(SECRET).doesNotContain(COST);
        assertThat(dora.get("/api/views/" + view + "/count").json().get("total").longValue())
                .isEqualTo(30);
        assertThat(dora.get("/api/views/" + view + "/export.csv").text())
                .doesNotContain(SECRET)
                .doesNotContain(COST);
        assertThat(ada.get("/api/views/" + view + "/rows").text())
                .contains(SECRET)
                .contains(COST);
    }

    @Test
    void aViewThatTestsAHiddenFieldIsRefusedWithASentenceAndAFinding() {
        Caller.Answer rows = dora.get("/api/views/" + secretView + "/rows");
        assertThat(rows.status()).as(rows.text()).isEqualTo(422);
        JsonNode findings = dora.post("/api/registers/vault/statement", Map.of("condition", tree("cost")))
                .json()
                .get("findings");
        assertThat(findings.get(0).get("code").stringValue()).isEqualTo("not-yours");
    }

    @Test
    void aLimitHoldsNowWhateverDayIsAskedFor() {
        ada.put(
                "/api/registers/jobs/access",
                List.of(Map.of("mayRead", true, "statement", "made_at in last 3 days", "hidden", List.of())));
        try {
            long now = count(dora, "jobs");
            assertThat(now).isBetween(1L, 299L);
            assertThat(dora.post("/api/registers/jobs/count", Map.of("statement", "", "asOf", "2026-11-13"))
                            .json()
                            .get("matching")
                            .longValue())
                    .isEqualTo(now);
        } finally {
            ada.put("/api/registers/jobs/access", List.of());
        }
    }

    @Test
    void aLimitMustBeReadableAndMayNotAsk() {
        for (String statement : List.of("nothing is here", "site is {which}", "cost >")) {
            Caller.Answer answer = ada.put(
                    "/api/registers/vault/access",
                    List.of(Map.of("mayRead", true, "statement", statement, "hidden", List.of())));
            assertThat(answer.status()).as(statement).isEqualTo(422);
        }
        assertThat(ada.put(
                                "/api/registers/vault/access",
                                List.of(Map.of("mayRead", true, "statement", "", "hidden", List.of("title"))))
                        .json()
                        .get("code")
                        .stringValue())
                .isEqualTo("field-needed");
        assertThat(count(dora, "vault")).isEqualTo(30);
    }

    private static long count(Caller caller, String register) {
        return caller.post("/api/registers/" + register + "/count", Map.of("statement", "", "exact", true))
                .json()
                .get("matching")
                .longValue();
    }
}
