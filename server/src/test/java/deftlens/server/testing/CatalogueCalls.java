package deftlens.server.testing;

import java.util.List;
import java.util.Map;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** The catalogue's entry of a register as it is written back, for tests that change something of it. */
public final class CatalogueCalls {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final List<String> OF_REGISTER = List.of(
            "label",
            "recordLabel",
            "recordsLabel",
            "description",
            "mainField",
            "titleField",
            "running",
            "transactions",
            "version");
    private static final List<String> OF_FIELD = List.of(
            "key",
            "label",
            "description",
            "unit",
            "useful",
            "identifying",
            "correctable",
            "bands",
            "relates",
            "correctors");

    private CatalogueCalls() {}

    /**
     * What changes nothing of a register when it is written, but that its order is the usual one.
     *
     * @param register as it is read
     */
    public static ObjectNode written(JsonNode register) {
        ObjectNode written = taken(register, OF_REGISTER);
        ArrayNode fields = written.putArray("fields");
        for (JsonNode field : register.get("fields")) {
            ObjectNode one = taken(field, OF_FIELD);
            one.put("shown", register.get("columns").valueStream().anyMatch(c -> c.equals(field.get("key"))));
            ArrayNode options = one.putArray("options");
            if (List.of("choice", "tags").contains(field.get("type").stringValue())) {
                field.get("options").forEach(o -> options.add(o.get("value")));
            }
            fields.add(one);
        }
        written.putArray("order");
        return written;
    }

    /** The same with something else in the place of some of it. */
    public static ObjectNode written(JsonNode register, Map<String, Object> otherwise) {
        ObjectNode written = written(register);
        otherwise.forEach((key, value) -> written.set(key, JSON.valueToTree(value)));
        return written;
    }

    private static ObjectNode taken(JsonNode from, List<String> names) {
        ObjectNode taken = JSON.createObjectNode();
        names.stream().filter(from::has).forEach(name -> taken.set(name, from.get(name)));
        return taken;
    }
}
