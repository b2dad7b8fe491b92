package deftlens.server.records;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.Unfitting;
import deftlens.server.values.ValueType;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import tools.jackson.databind.JsonNode;

/** The values that a request sends for a record, as those of its fields. */
public final class RecordValues {

    private RecordValues() {}

    /** Refuses registers whose records are written elsewhere. */
    public static void requireOwn(RegisterForReader described) {
        if (!described.can(Origin.Capability.RECORDS)) {
            throw Problem.unprocessable(
                    "not-ours",
                    described.register().label() + " are only read here; change them where they come from.");
        }
    }

    /** Refuses people who change nothing. */
    public static void requireWriter(SignedIn who) {
        if (who.changesNothing()) {
            throw Problem.forbidden("An auditor reads everything and changes nothing.");
        }
    }

    /** Refuses people who make no records. */
    static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator makes records; others correct what they see.");
        }
    }

    /** The values of a record, by field, in the order in which they were sent; refused where one does not fit. */
    static Map<Field, Optional<Object>> read(RegisterForReader described, Map<String, JsonNode> sent) {
        try {
            return values(described, sent);
        } catch (Unfitting e) {
            throw Problem.unprocessable("bad-value", e.getMessage());
        }
    }

    /** The same, for whoever gathers what does not fit. */
    public static Map<Field, Optional<Object>> values(RegisterForReader described, Map<String, JsonNode> sent)
            throws Unfitting {
        Map<String, Field> columns = new HashMap<>();
        RecordTables.columns(described).forEach(f -> columns.put(f.key(), f));
        Map<Field, Optional<Object>> values = new LinkedHashMap<>();
        for (Map.Entry<String, JsonNode> entry : sent.entrySet()) {
            Field field = columns.get(entry.getKey());
            if (field == null) {
                throw new Unfitting(
                        described.register().label() + " have no field “" + entry.getKey() + "” that can be written.");
            }
            values.put(field, Optional.ofNullable(ValueType.of(field).ofJson(field, plain(entry.getValue()))));
        }
        return values;
    }

    private static Object plain(JsonNode node) {
        if (node == null || node.isNull()) {
            return null;
        }
        if (node.isArray()) {
            List<Object> list = new ArrayList<>();
            node.forEach(item -> list.add(plain(item)));
            return list;
        }
        return node.isString()
                ? node.stringValue()
                : node.isNumber()
                        ? node.decimalValue()
                        : node.isBoolean() ? (Object) node.booleanValue() : node.toString();
    }

    /** What a new record lacks, as a sentence. */
    public static Optional<String> missing(RegisterForReader described, Map<Field, Optional<Object>> read) {
        return RecordTables.columns(described).stream()
                .filter(f -> f.required() && f.type() != FieldType.TAGS)
                .filter(f -> read.getOrDefault(f, Optional.empty()).isEmpty())
                .findFirst()
                .map(f -> f.label() + " is needed in every record.");
    }
}
