package deftlens.server.question;

import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import tools.jackson.databind.JsonNode;

/**
 * What a request asks of a register. Every call over records carries these members beside its own.
 *
 * @param statement the question in words; not beside {@code condition}
 * @param condition the question as a tree; not beside {@code statement}; every record when neither is there
 * @param asOf the moment to read at: a day, a local time or an instant with its offset (ISO 8601); now when absent
 * @param zone the zone whose days count, of the IANA database; the organisation's when absent
 * @param recordsAt the moment that the records are read as they were kept at: a day, which is read at its end, a local time or an
 *     instant; as they are kept now when absent. {@code asOf} only moves the windows
 * @param answers what the reader fills into the blanks, by their labels
 */
public record QuestionRequest(
        Optional<String> statement,
        Optional<JsonNode> condition,
        Optional<String> asOf,
        Optional<String> zone,
        Optional<String> recordsAt,
        Optional<Map<String, String>> answers) {

    private static final String ANSWER = "ask.";

    /** The question in the parameters of an address: {@code statement}, {@code asOf}, {@code zone} and the answers. */
    public static QuestionRequest ofParameters(Map<String, String> parameters) {
        return new QuestionRequest(
                Optional.ofNullable(parameters.get("statement")),
                Optional.empty(),
                Optional.ofNullable(parameters.get("asOf")),
                Optional.ofNullable(parameters.get("zone")),
                Optional.ofNullable(parameters.get("recordsAt")),
                Optional.of(answers(parameters)));
    }

    /** The answers among the parameters of an address: {@code ask.days overdue=30}. */
    public static Map<String, String> answers(Map<String, String> parameters) {
        return parameters.entrySet().stream()
                .filter(e -> e.getKey().startsWith(ANSWER))
                .collect(Collectors.toMap(e -> e.getKey().substring(ANSWER.length()), Map.Entry::getValue));
    }
}
