package deftlens.server.values;

import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalTime;

/** Local days. */
final class DateValues extends ValueType {

    static final DateValues DATE = new DateValues();

    private static final LocalDate FIRST = LocalDate.of(-4000, 1, 1);
    private static final LocalDate LAST = LocalDate.of(9999, 12, 31);

    @Override
    public String column() {
        return "date";
    }

    @Override
    public Object read(ResultSet row, int column) throws SQLException {
        // As text: the driver's own dates know neither infinity nor the years before the year 1.
        String written = row.getString(column);
        return written == null ? null : Beyond.day(written);
    }

    @Override
    public Object parse(String text) {
        return LocalDate.parse(text);
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        try {
            return LocalDate.parse(((String) json).strip());
        } catch (ClassCastException | DateTimeException e) {
            throw taken(field, json, "a day such as 2026-11-23");
        }
    }

    @Override
    Object cell(Field field, String cell, Notation notation) throws Unfitting {
        DateText.Read read = MomentValues.date(field, cell, notation);
        if (read.time().filter(t -> !t.equals(LocalTime.MIDNIGHT)).isPresent()) {
            throw new Unfitting(field.label() + " is a date; “" + cell + "” has a time of day.");
        }
        return read.day();
    }

    @Override
    Object kept(Field field, Object value) throws Unfitting {
        LocalDate day = (LocalDate) value;
        if (day.isBefore(FIRST) || day.isAfter(LAST)) {
            throw new Unfitting(field.label() + " cannot hold a day so far away: " + day + ".");
        }
        return day;
    }
}
