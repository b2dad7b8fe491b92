package deftlens.server.values;

import deftlens.core.field.Field;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.DateTimeException;
import java.time.LocalTime;

/** Wall-clock times of no particular day. They come as text, so that no zone moves them. */
final class TimeValues extends ValueType {

    static final TimeValues TIME = new TimeValues();

    @Override
    public String column() {
        return "time";
    }

    @Override
    public Object read(ResultSet row, int column) throws SQLException {
        String written = row.getString(column);
        return written == null ? null : LocalTime.parse(written);
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
