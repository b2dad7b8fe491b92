package deftlens.server.values;

import deftlens.core.condition.Operand;
import deftlens.core.field.Field;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.Optional;

/** Texts; free ones as they are. */
sealed class TextValues extends ValueType permits ListedValues {

    static final TextValues TEXT = new TextValues();

    private static final int MAX_LETTERS = 100_000;

    @Override
    public String column() {
        return "text";
    }

    @Override
    public String isFilled(String column) {
        return column + " <> ''";
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
        return Optional.of(new Operand.Text(text));
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        if (json instanceof String text) {
            return text;
        }
        throw new Unfitting(field.label() + " takes a text.");
    }

    @Override
    Object cell(Field field, String cell, Notation notation) {
        return cell;
    }

    @Override
    Object kept(Field field, Object value) throws Unfitting {
        String text = (String) value;
        if (text.length() > MAX_LETTERS) {
            throw new Unfitting(field.label() + " holds at most 100,000 characters.");
        }
        if (text.indexOf('\0') >= 0) {
            throw new Unfitting(field.label() + " cannot hold the character NUL.");
        }
        return text;
    }

    @Override
    public boolean isFreeText() {
        return true;
    }
}
