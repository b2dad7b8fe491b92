package deftlens.server.question;

import deftlens.core.field.Field;
import deftlens.server.values.ValueType;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.AbstractMap;
import java.util.AbstractSet;
import java.util.HashMap;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.NoSuchElementException;
import java.util.Set;
import tools.jackson.core.JsonGenerator;
import tools.jackson.core.SerializableString;
import tools.jackson.core.io.SerializedString;
import tools.jackson.databind.SerializationContext;
import tools.jackson.databind.ValueSerializer;

/**
 * The values of one record by the keys of its fields, in the order of the columns. All records of a page share what is known of the
 * columns, so that a record is no more than its values.
 */
public final class RowValues extends AbstractMap<String, Object> {

    private final Columns columns;
    private final Object[] values;

    private RowValues(Columns columns, Object[] values) {
        this.columns = columns;
        this.values = values;
    }

    /** The fields of a page's columns. */
    public static final class Columns {
        private final List<Field> fields;
        private final ValueType[] types;
        private final SerializableString[] names;
        private final Map<String, Integer> places = new HashMap<>();

        public Columns(List<Field> fields) {
            this.fields = List.copyOf(fields);
            this.types = fields.stream().map(ValueType::of).toArray(ValueType[]::new);
            this.names = fields.stream().map(f -> new SerializedString(f.key())).toArray(SerializableString[]::new);
            for (int i = 0; i < fields.size(); i++) {
                places.put(fields.get(i).key(), i);
            }
        }

        /** How many there are. */
        public int size() {
            return types.length;
        }

        /**
         * Reads a record.
         *
         * @param first the column of the row that has the first field, from 1
         */
        public RowValues read(ResultSet row, int first) throws SQLException {
            Object[] values = new Object[types.length];
            for (int i = 0; i < types.length; i++) {
                values[i] = types[i].read(row, first + i);
            }
            return new RowValues(this, values);
        }
    }

    @Override
    public Object get(Object key) {
        Integer place = columns.places.get(key);
        return place == null ? null : values[place];
    }

    @Override
    public boolean containsKey(Object key) {
        return columns.places.containsKey(key);
    }

    @Override
    public Set<Entry<String, Object>> entrySet() {
        return new AbstractSet<>() {
            @Override
            public int size() {
                return values.length;
            }

            @Override
            public Iterator<Entry<String, Object>> iterator() {
                return new Iterator<>() {
                    private int at;

                    @Override
                    public boolean hasNext() {
                        return at < values.length;
                    }

                    @Override
                    public Entry<String, Object> next() {
                        if (!hasNext()) {
                            throw new NoSuchElementException();
                        }
                        Object value = values[at];
                        return new SimpleImmutableEntry<>(
                                columns.fields.get(at++).key(), value);
                    }
                };
            }
        };
    }

    /** Writes the values by the names of their columns. */
    public static final class Json extends ValueSerializer<Map<String, Object>> {
        @Override
        public void serialize(Map<String, Object> row, JsonGenerator json, SerializationContext context) {
            json.writeStartObject();
            if (row instanceof RowValues own) {
                for (int i = 0; i < own.values.length; i++) {
                    json.writeName(own.columns.names[i]);
                    ShownValue.write(own.values[i], json, context);
                }
            } else {
                row.forEach((key, value) -> {
                    json.writeName(key);
                    ShownValue.write(value, json, context);
                });
            }
            json.writeEndObject();
        }
    }
}
