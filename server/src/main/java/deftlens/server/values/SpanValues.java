package deftlens.server.values;

import deftlens.core.field.Field;
import java.sql.ResultSet;

/** Spans have no values of their own: they are their two ends. */
final class SpanValues extends ValueType {

    static final SpanValues SPAN = new SpanValues();

    private static IllegalArgumentException noColumn() {
        return new IllegalArgumentException("a span has no column");
    }

    @Override
    public String column() {
        throw noColumn();
    }

    @Override
    public Object read(ResultSet row, int column) {
        throw noColumn();
    }

    @Override
    public Object parse(String text) {
        throw noColumn();
    }

    @Override
    Object json(Field field, Object json) throws Unfitting {
        throw new Unfitting(field.label() + " is a span; write its two ends.");
    }

    @Override
    Object cell(Field field, String cell, Notation notation) throws Unfitting {
        throw new Unfitting(field.label() + " is a span; take its two ends.");
    }
}
