package deftlens.server.values;

import deftlens.core.field.Field;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.DateTimeException;
import java.time.LocalTime;
import org.hibernate.query.NativeQuery;

/** Wall-clock times of no particular day. They come as text, so that no zone moves them. */
final class TimeValues extends ValueType {

    static final TimeValues TIME = new TimeValues();

    @Override
    public String column() {
        return "time";
    }

    @Override
    public void fetch(NativeQuery<?> query, String column) {
        query.addScalar(column, String.class);
    }

    @Override
    public Object fetched(Object value) {
        return value instanceof String text ? LocalTime.parse(text) : value;
    }

    @Override
    public Object read(ResultSet row, int column) throws SQLException {
        return row.getObject(column, LocalTime.class);
    }

    @Override
    public Object parse(String text) {
        return LocalTime.parse(text);
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        try {
            return LocalTime.parse(((String) json).strip());
        } catch (ClassCastException | DateTimeException e) {
            throw taken(field, json, "a time of day such as 14:30");
        }
    }

    @Override
    Object cell(Field field, String cell, Notation notation) throws Unfitting {
        return DateText.time(cell).orElseThrow(() -> unread(field, cell, "a time of day"));
    }
}
