package deftlens.server.records;

import deftlens.core.field.Field;
import deftlens.core.sql.Story;
import deftlens.server.changes.ChangeSet.Kind;
import deftlens.server.changes.ChangeSets;
import deftlens.server.changes.ChangeSets.Step;
import deftlens.server.question.RowValues;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.Statements;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;

/** What was done to a record, told from what it was before each change. */
final class RecordStory {

    /** The record as it was from one set of changes to another; {@code null} of none that is known. */
    private record Version(long id, RowValues values, Long since, Long until) {}

    private final List<Field> fields;
    private final List<Version> left;
    private final Map<Long, Version> byEnd = new HashMap<>();

    private RecordStory(List<Field> fields, List<Version> versions) {
        this.fields = fields;
        this.left = new ArrayList<>(versions);
        versions.stream().filter(v -> v.until() != null).forEach(v -> byEnd.put(v.until(), v));
    }

    /**
     * The steps of records in a table of our own, by their numbers, the latest first; of the fields that the reader has. A record that
     * never was has none.
     */
    static Map<Long, List<Step>> steps(Connection connection, RegisterForReader described, Collection<Long> ids)
            throws SQLException {
        List<Field> fields = RecordTables.columns(described);
        RowValues.Columns columns = new RowValues.Columns(fields);
        int after = fields.size();
        List<Version> versions = Statements.list(
                connection,
                new Story(described.register(), RecordTables.past(described))
                        .versions(fields, ids, ChangeSets.MAX_SHOWN + 1),
                row -> new Version(
                        row.getLong(1),
                        columns.read(row, 2),
                        row.getObject(after + 2, Long.class),
                        row.getObject(after + 3, Long.class)));
        return versions.stream()
                .collect(Collectors.groupingBy(
                        Version::id,
                        Collectors.collectingAndThen(Collectors.toList(), v -> new RecordStory(fields, v).steps())));
    }

    /**
     * Goes back from version to version by the sets that ended them: their numbers alone would mislead, as sets are numbered when they
     * begin, and one that began earlier can come later to a record.
     */
    private List<Step> steps() {
        List<Step> steps = new ArrayList<>();
        boolean isThere = !left.isEmpty() && left.getFirst().until() == null;
        Version at = isThere ? left.getFirst() : removed(steps);
        while (at != null && steps.size() < ChangeSets.MAX_SHOWN) {
            left.remove(at);
            Version before = at.since() == null ? null : byEnd.get(at.since());
            if (before != null) {
                steps.add(changed(at.since(), before.values(), at.values()));
                at = before;
            } else {
                if (at.since() != null) {
                    steps.add(new Step(at.since(), Kind.MADE, Optional.empty(), Optional.of(filled(at.values()))));
                }
                at = removed(steps);
            }
        }
        return steps;
    }

    /**
     * The latest of the versions that are left which no change made into another, {@code null} where there is none: the record was
     * taken away then.
     */
    private Version removed(List<Step> steps) {
        Set<Long> begun = new HashSet<>();
        left.forEach(v -> begun.add(v.since()));
        Version last = left.stream()
                .filter(v -> v.until() != null && !begun.contains(v.until()))
                .findFirst()
                .orElse(null);
        if (last != null) {
            steps.add(new Step(last.until(), Kind.REMOVED, Optional.of(filled(last.values())), Optional.empty()));
        }
        return last;
    }

    private Step changed(long set, RowValues was, RowValues is) {
        Map<String, Object> before = new LinkedHashMap<>();
        Map<String, Object> after = new LinkedHashMap<>();
        for (Field field : fields) {
            Object old = was.get(field.key());
            Object now = is.get(field.key());
            if (!isSame(old, now)) {
                before.put(field.key(), old);
                after.put(field.key(), now);
            }
        }
        return new Step(set, Kind.CHANGED, Optional.of(before), Optional.of(after));
    }

    private static boolean isSame(Object one, Object other) {
        return one instanceof BigDecimal a && other instanceof BigDecimal b
                ? a.compareTo(b) == 0
                : Objects.equals(one, other);
    }

    private Map<String, Object> filled(RowValues values) {
        Map<String, Object> filled = new LinkedHashMap<>();
        for (Field field : fields) {
            Object value = values.get(field.key());
            if (value != null && !(value instanceof List<?> tags && tags.isEmpty())) {
                filled.put(field.key(), value);
            }
        }
        return filled;
    }
}
