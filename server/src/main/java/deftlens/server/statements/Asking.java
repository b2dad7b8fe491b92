package deftlens.server.statements;

import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import tools.jackson.databind.JsonNode;

/** What every request that asks something of a register carries. */
public interface Asking {

    /** The question in words; not beside {@link #condition()}. */
    Optional<String> statement();

    /** The question as a tree; not beside {@link #statement()}. */
    Optional<JsonNode> condition();

    /** The moment to read at, now when absent. */
    Optional<String> asOf();

    /** The zone whose days count, the organisation's when absent. */
    Optional<String> zone();

    /** What the reader fills into the blanks, by their labels. */
    Optional<Map<String, String>> answers();

    /** The answers among the parameters of a link: {@code ask.days overdue=30}. */
    static Map<String, String> answers(Map<String, String> parameters) {
        return parameters.entrySet().stream()
                .filter(e -> e.getKey().startsWith("ask."))
                .collect(Collectors.toMap(e -> e.getKey().substring("ask.".length()), Map.Entry::getValue));
    }
}
