package deftlens.server.values;

import deftlens.core.field.Field;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.ZoneId;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;

/** Yes or no. */
public final class YesNoValues extends ValueType {

    static final YesNoValues YES_NO = new YesNoValues();

    /** The words for yes, in small letters. */
    public static final Set<String> YES = Set.of("yes", "y", "true", "t", "on", "1");

    /** The words for no, in small letters. */
    public static final Set<String> NO = Set.of("no", "n", "false", "f", "off", "0");

    private YesNoValues() {}

    @Override
    public String column() {
        return "boolean";
    }

    @Override
    public Object read(ResultSet row, int column) throws SQLException {
        boolean yes = row.getBoolean(column);
        return row.wasNull() ? null : yes;
    }

    @Override
    public Object parse(String text) {
        return Boolean.valueOf(text);
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        if (json instanceof Boolean) {
            return json;
        }
        throw new Unfitting(field.label() + " takes true or false.");
    }

    @Override
    Object cell(Field field, String cell, Notation notation) throws Unfitting {
        return yesNo(cell).orElseThrow(() -> unread(field, cell, "yes or no"));
    }

    private static Optional<Boolean> yesNo(String text) {
        String small = text.toLowerCase(Locale.ROOT);
        return YES.contains(small) ? Optional.of(true) : NO.contains(small) ? Optional.of(false) : Optional.empty();
    }

    @Override
    String shown(Field field, Object value, ZoneId zone, boolean offsets) {
        return (Boolean) value ? "yes" : "no";
    }
}
