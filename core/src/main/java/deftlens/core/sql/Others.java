package deftlens.core.sql;

import deftlens.core.condition.Bound;
import deftlens.core.condition.LetterCase;
import deftlens.core.field.Field;
import java.util.List;
import java.util.stream.Collectors;

/** The SQL of values that are looked for in other records, of the same register or another one. */
public final class Others {

    private Others() {}

    /**
     * Whether a record's value is also that of one of the others. Nothing is equal to what is empty, so that a value stands on both sides;
     * the others do not depend on the record, and are read once.
     */
    static Sql have(Bound.Related related) {
        Field there = related.place().field();
        Scope scope = ((InTables) related.place().records().get()).scope();
        return Sql.of(folded(Where.column(related.field()), related) + " in (select "
                        + folded(Where.value(there), related))
                .add(scope.source())
                .add(" and ")
                .add(Where.of(related.where()))
                .add(" and " + Where.value(there) + " is not null)");
    }

    /**
     * Selects one of the others that has a value: one that is in the condition, where there is such a one.
     *
     * @param columns the fields whose values are read, each with a column
     */
    public static Sql one(Scope scope, Bound.Related related, Object value, List<Field> columns) {
        String read = columns.stream().map(Where::column).collect(Collectors.joining(", "));
        Sql sql = new Sql()
                .add("select " + (read.isEmpty() ? "1" : read))
                .add(scope.source())
                .add(" and " + folded(Where.column(related.place().field()), related) + " = ");
        Sql same = value instanceof String text
                ? sql.bind(related.fold() ? LetterCase.fold(text) : text)
                : sql.compare(value);
        return same.add(" order by ")
                .add(Where.of(related.where()))
                .add(" desc, " + Sql.identifier(scope.register().idColumn()) + " limit 1");
    }

    private static String folded(String value, Bound.Related related) {
        return related.fold() ? "lower(" + value + ")" : value;
    }
}
