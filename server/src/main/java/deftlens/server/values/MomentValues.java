package deftlens.server.values;

import deftlens.core.field.Field;
import deftlens.core.time.LocalTimes;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;

/** Instants, kept to the microsecond. */
final class MomentValues extends ValueType {

    static final MomentValues MOMENT = new MomentValues();

    private static final Instant FIRST = Instant.parse("-4000-01-01T00:00:00Z");
    private static final Instant LAST = Instant.parse("9999-12-31T00:00:00Z");
    private static final DateTimeFormatter WITH_OFFSET = DateTimeFormatter.ISO_OFFSET_DATE_TIME;
    private static final DateTimeFormatter LOCAL = DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss");
    private static final DateTimeFormatter LOCAL_EXACT = DateTimeFormatter.ofPattern("uuuu-MM-dd HH:mm:ss.SSSSSS");

    @Override
    public String column() {
        return "timestamptz";
    }

    @Override
    public Object read(ResultSet row, int column) throws SQLException {
        OffsetDateTime moment = row.getObject(column, OffsetDateTime.class);
        return moment == null ? null : moment.toInstant();
    }

    @Override
    public Object parse(String text) {
        return Instant.parse(text);
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        try {
            return OffsetDateTime.parse(((String) json).strip()).toInstant();
        } catch (ClassCastException | DateTimeException e) {
            throw taken(field, json, "a date and time with its offset, such as 2026-11-23T14:30:00Z");
        }
    }

    /** A local time that a clock change skipped is taken an hour later, one that came twice the second time. */
    @Override
    Object cell(Field field, String cell, Notation notation) throws Unfitting {
        DateText.Read read = date(field, cell, notation);
        return read.offset()
                .map(offset -> read.local().toInstant(offset))
                .orElseGet(() -> LocalTimes.instant(read.local(), notation.zone()));
    }

    static DateText.Read date(Field field, String cell, Notation notation) throws Unfitting {
        return DateText.date(cell, notation.order().orElse(DateText.Order.DAY_FIRST))
                .orElseThrow(() -> unread(field, cell, "a date"));
    }

    @Override
    Object kept(Field field, Object value) throws Unfitting {
        Instant instant = (Instant) value;
        if (instant.isBefore(FIRST) || instant.isAfter(LAST)) {
            throw new Unfitting(field.label() + " cannot hold a date so far away.");
        }
        return instant;
    }

    /** By the local clock; with the offset where that is wanted, and where the clock shows that time twice. */
    @Override
    String shown(Field field, Object value, ZoneId zone, boolean offsets) {
        Instant instant = (Instant) value;
        if (offsets) {
            return WITH_OFFSET.format(instant.atZone(zone));
        }
        DateTimeFormatter format = instant.getNano() == 0 ? LOCAL : LOCAL_EXACT;
        return format.format(instant.atZone(zone))
                + LocalTimes.offset(instant, zone).map(o -> o.getId()).orElse("");
    }
}
