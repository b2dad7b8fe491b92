package deftlens.server.values;

import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import deftlens.core.field.Option;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.ZoneId;
import java.util.Optional;
import org.hibernate.query.NativeQuery;

/** Values of a list that is known: choices, and people by their sign-in names. */
final class ListedValues extends ValueType {

    static final ListedValues LISTED = new ListedValues();

    private static final int SHOWN_OPTIONS = 6;

    @Override
    public String column() {
        return "text";
    }

    @Override
    public String isFilled(String column) {
        return column + " <> ''";
    }

    @Override
    public void fetch(NativeQuery<?> query, String column) {
        query.addScalar(column, String.class);
    }

    @Override
    public Object read(ResultSet row, int column) throws SQLException {
        return row.getString(column);
    }

    @Override
    public Object parse(String text) {
        return text;
    }

    @Override
    public Optional<Operand> pasted(Field field, String text) {
        return Optional.of(
                new Operand.Text(field.option(text).map(Option::value).orElse(text)));
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        return TextValues.string(field, json);
    }

    @Override
    Object cell(Field field, String cell, Notation notation) {
        return cell;
    }

    @Override
    Object kept(Field field, Object value) throws Unfitting {
        String text = (String) value;
        Optional<Option> known = field.option(text);
        if (known.isPresent()) {
            return known.get().value();
        }
        if (field.options().isEmpty()) {
            return TextValues.requireShort(field, text);
        }
        throw new Unfitting("“" + text + "” is no value of " + field.label() + "; it has "
                + String.join(
                        ", ",
                        field.options().stream()
                                .limit(SHOWN_OPTIONS)
                                .map(Option::label)
                                .toList())
                + (field.options().size() > SHOWN_OPTIONS ? ", …" : "") + ".");
    }

    @Override
    String shown(Field field, Object value, ZoneId zone, boolean offsets) {
        return field.option((String) value).map(Option::label).orElse((String) value);
    }

    @Override
    public boolean isFreeText() {
        return true;
    }
}
