package deftlens.server.values;

import deftlens.core.field.Beyond;
import java.math.BigDecimal;
import java.sql.Date;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.List;
import org.postgresql.PGStatement;

/** Values bound to a statement, each as the database's driver takes it without moving it from zone to zone. */
public final class Parameters {

    private Parameters() {}

    /**
     * Binds the values of a piece of SQL.
     *
     * @param first the place of the first of them, from 1
     */
    public static void bind(PreparedStatement statement, int first, List<Object> values) throws SQLException {
        for (int i = 0; i < values.size(); i++) {
            bind(statement, first + i, values.get(i));
        }
    }

    private static void bind(PreparedStatement statement, int at, Object value) throws SQLException {
        String beyond = Beyond.words(value).orElse(null);
        if (beyond != null) {
            bindBeyond(statement, at, value, beyond.equals("infinity"));
            return;
        }
        switch (value) {
            case Instant instant -> statement.setObject(at, instant.atOffset(ZoneOffset.UTC));
            case String[] texts ->
                statement.setArray(at, statement.getConnection().createArrayOf("text", texts));
            case BigDecimal[] numbers ->
                statement.setArray(at, statement.getConnection().createArrayOf("numeric", numbers));
            case Long[] numbers ->
                statement.setArray(at, statement.getConnection().createArrayOf("int8", numbers));
            case LocalDate[] days ->
                statement.setArray(at, statement.getConnection().createArrayOf("date", days));
            // Days and times of java.time reach the driver as they are; as dates of JDBC they would pass through the
            // Julian
            // calendar.
            case Object other -> statement.setObject(at, other);
        }
    }

    /** What is beyond numbers and dates. */
    private static void bindBeyond(PreparedStatement statement, int at, Object value, boolean positive)
            throws SQLException {
        long end = positive ? PGStatement.DATE_POSITIVE_INFINITY : PGStatement.DATE_NEGATIVE_INFINITY;
        switch (value) {
            case BigDecimal number ->
                statement.setDouble(at, Beyond.asDouble(number).orElseThrow());
            case LocalDate day -> statement.setDate(at, new Date(end));
            default -> statement.setTimestamp(at, new Timestamp(end));
        }
    }
}
