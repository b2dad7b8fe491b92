package deftlens.server.registers;

import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import tools.jackson.databind.ObjectMapper;

/**
 * What a register uses one of its fields for. Each answer is a sentence that says what to do before the field goes, or cannot be used
 * so any more; none where it is not used so.
 */
record FieldUses(RegisterEntity register, String field, ObjectMapper json) {

    List<String> asMainDate() {
        return where(
                register.mainField(), "It is the main date. Choose another one first, or none, under Names and order.");
    }

    List<String> asRunning() {
        return where(
                register.runningField(),
                "It is added up as time goes. Choose another number first, or none, under Names and order.");
    }

    List<String> inTransactions() {
        return where(
                register.transactions().stream()
                        .flatMap(rules -> {
                            TransactionRules read = json.readValue(rules, TransactionRules.class);
                            return read.fields().stream();
                        })
                        .filter(field::equals)
                        .findFirst(),
                "Transactions are posted by it. Say first how they are posted without it, under Transactions.");
    }

    List<String> inOrder() {
        return where(
                Arrays.stream(json.readValue(register.ordering(), String[].class))
                        .map(o -> OrderWord.read(o).field())
                        .filter(field::equals)
                        .findFirst(),
                "The records stand in its order. Choose another order first, under Names and order.");
    }

    List<String> asEnd() {
        return register.fields().stream()
                .filter(f -> f.ends()
                        .filter(e -> e.start().equals(field) || e.end().equals(field))
                        .isPresent())
                .map(f -> "“" + f.label() + "” begins or ends with it. Remove that field first.")
                .toList();
    }

    private List<String> where(Optional<String> used, String reason) {
        return used.filter(field::equals).isPresent() ? List.of(reason) : List.of();
    }
}
