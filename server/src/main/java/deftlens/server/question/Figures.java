package deftlens.server.question;

import deftlens.core.field.Field;
import deftlens.core.field.Measure;
import deftlens.core.sql.Measures;
import deftlens.server.values.ValueType;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Measures as they were read, in their order.
 *
 * @param values each as a field of its type has its values; empty where there is no value to measure
 * @param leftOut how many values are no numbers ({@code NaN}, infinity) and are left out, by field
 */
public record Figures(List<Optional<Object>> values, Map<String, Long> leftOut) {

    /** @param first the column of the row with the first measure, from 1 */
    public static Figures read(ResultSet row, int first, Measures measures) throws SQLException {
        List<Optional<Object>> values = new ArrayList<>();
        int at = first;
        for (Measure measure : measures.measures()) {
            values.add(Optional.ofNullable(ValueType.of(measure.type()).read(row, at++)));
        }
        Map<String, Long> leftOut = new LinkedHashMap<>();
        for (Field field : measures.countedOut()) {
            long left = row.getLong(at++);
            if (left > 0) {
                leftOut.put(field.key(), left);
            }
        }
        return new Figures(values, leftOut);
    }
}
