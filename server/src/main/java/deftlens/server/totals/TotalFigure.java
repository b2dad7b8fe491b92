package deftlens.server.totals;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Measure;
import deftlens.core.sql.Totals;
import java.util.List;

/**
 * A figure of each row and column of totals.
 *
 * @param name what statements over figures and the API call it: {@code sum_of_cost}
 * @param label what people read: {@code sum of Cost}
 * @param measure what is told; of a share what it is the share of
 * @param share whether the share of the total is told in the place of the measure itself
 */
record TotalFigure(String name, String label, Measure measure, boolean share) {

    /** What it is; a share is a number from 0 to 1 where all that is added up has one sign. */
    FieldType type() {
        return share ? FieldType.NUMBER : measure.type();
    }

    /**
     * The figure as a field that statements over figures name.
     *
     * @param measures those of the totals, in their order
     */
    Field field(List<Measure> measures) {
        int at = measures.indexOf(measure);
        return new Field(name, label, type(), share ? Totals.share(at) : Totals.figure(at), false, List.of());
    }
}
