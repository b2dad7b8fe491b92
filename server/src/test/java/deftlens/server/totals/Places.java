package deftlens.server.totals;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import tools.jackson.databind.JsonNode;

/** The places of rows and columns as their records are asked for. */
final class Places {

    private Places() {}

    /** Where a row of an answer stands. */
    static Map<String, Object> of(JsonNode row) {
        Map<String, Object> at = new HashMap<>();
        List<String> keys = new ArrayList<>();
        row.get("keys").forEach(k -> keys.add(k.path("value").stringValue(null)));
        at.put("keys", keys);
        if (row.hasNonNull("across")) {
            Map<String, Object> column = new HashMap<>();
            column.put("value", row.at("/across/value").stringValue(null));
            at.put("across", column);
        }
        return at;
    }
}
