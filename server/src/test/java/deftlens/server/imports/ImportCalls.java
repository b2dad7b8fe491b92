package deftlens.server.imports;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.server.testing.Caller;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import tools.jackson.databind.JsonNode;

/** The calls by which a file comes in, and the registers that were made by them. */
final class ImportCalls {

    private final Caller ada;
    private final List<String> made = new ArrayList<>();

    ImportCalls(Caller ada) {
        this.ada = ada;
    }

    void made(String key) {
        made.add(key);
    }

    void deleteRegisters() {
        made.forEach(key -> ada.delete("/api/registers/" + key));
        made.clear();
    }

    JsonNode look(String name, byte[] content) {
        Caller.Answer answer = ada.upload("/api/files?name=" + name, content);
        assertThat(answer.status()).as(answer.text()).isEqualTo(201);
        return answer.json();
    }

    JsonNode look(String csv) {
        return look("a.csv", csv.getBytes(StandardCharsets.UTF_8));
    }

    static JsonNode column(JsonNode look, String name) {
        for (JsonNode column : look.get("columns")) {
            if (column.get("name").stringValue().equals(name)) {
                return column;
            }
        }
        throw new AssertionError("no column " + name + " in " + look);
    }

    /** Every column as it was found, with what a test wants otherwise. */
    static Map<String, Object> plan(
            JsonNode look, Map<String, Map<String, Object>> otherwise, List<String> by, String known) {
        List<Map<String, Object>> columns = new ArrayList<>();
        for (JsonNode column : look.get("columns")) {
            JsonNode guess = column.get("guess");
            Map<String, Object> taken = new HashMap<>();
            String name = column.get("name").stringValue();
            taken.put("name", name);
            taken.put("label", name);
            taken.put(
                    "type",
                    guess.get("type")
                            .stringValue()
                            .toLowerCase()
                            .replace("yes_no", "yes/no")
                            .replace("time", "time of day"));
            taken.put(
                    "order",
                    guess.get("order").isNull() ? null : guess.get("order").stringValue());
            taken.put(
                    "decimal",
                    guess.get("decimal").isNull() ? null : guess.get("decimal").stringValue());
            taken.put("unfit", "REFUSE");
            taken.put("identifying", column.get("unique").booleanValue());
            taken.put("shown", true);
            taken.putAll(otherwise.getOrDefault(name, Map.of()));
            columns.add(taken);
        }
        return Map.of("columns", columns, "by", by, "known", known);
    }

    JsonNode bringIn(JsonNode look, Map<String, Object> into, Map<String, Object> plan) throws InterruptedException {
        Caller.Answer started = ada.post(
                "/api/files/" + look.get("token").stringValue() + "/import",
                Map.of("reading", Map.of(), "into", into, "plan", plan));
        assertThat(started.status()).as(started.text()).isEqualTo(202);
        JsonNode run = ended(started.json());
        if (!run.get("register").isNull() && into.containsKey("label")) {
            made.add(run.get("register").stringValue());
        }
        return run;
    }

    JsonNode ended(JsonNode started) {
        JsonNode run = started;
        while (run.get("state").stringValue().equals("RUNNING")) {
            Thread.onSpinWait();
            run = ada.get("/api/imports/" + run.get("id").asLong()).json();
        }
        return run;
    }
}
