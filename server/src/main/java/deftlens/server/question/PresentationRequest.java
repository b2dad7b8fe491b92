package deftlens.server.question;

import deftlens.server.platform.Problem;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.ObjectMapper;

/**
 * How a request wants its records shown. Nothing here changes which records match.
 *
 * @param order {@code "-due"} is descending, {@code "due:empties-first"} has records without a value first,
 *     {@code "as-listed:number"} follows the list that the question holds; as usual when absent
 * @param columns keys of fields; as usual when absent
 * @param shape the part of the records, the marks, the running total and the heads of columns
 */
public record PresentationRequest(Optional<List<String>> order, Optional<List<String>> columns, Optional<Shape> shape) {

    /**
     * The same in the parameters of an address: {@code order} and {@code columns} are lists with commas, {@code shape} is JSON.
     *
     * @throws Problem {@code bad-shape}
     */
    public static PresentationRequest ofParameters(Map<String, String> parameters, ObjectMapper json) {
        return new PresentationRequest(
                Optional.ofNullable(parameters.get("order")).map(PresentationRequest::list),
                Optional.ofNullable(parameters.get("columns")).map(PresentationRequest::list),
                Optional.ofNullable(parameters.get("shape")).map(text -> shape(text, json)));
    }

    private static List<String> list(String text) {
        return Arrays.stream(text.split(",")).filter(s -> !s.isBlank()).toList();
    }

    private static Shape shape(String text, ObjectMapper json) {
        try {
            return json.readValue(text, Shape.class);
        } catch (JacksonException e) {
            throw Problem.badRequest("bad-shape", "“shape” is not the JSON of a shape.");
        }
    }
}
