package deftlens.server.totals;

import com.fasterxml.jackson.annotation.JsonInclude;
import deftlens.core.field.Measure;
import deftlens.server.question.GroupKey;
import deftlens.server.question.ShownValue;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import tools.jackson.databind.annotation.JsonSerialize;

/**
 * Totals of a question's records.
 *
 * @param figures what is told in each row, in their order
 * @param columns what lies across, in its order; empty where nothing does
 * @param rows the rows, each followed by those inside it: first its own figures, then those of each column that has records
 * @param total of all records that match
 * @param shownTotal of the records in the rows that are shown; the same as the total where criteria on figures leave none out
 * @param totals the total of each column, of all records that match
 * @param shownTotals the total of each column, of the rows that are shown
 * @param windows the windows that the question gives to dates which every record satisfies
 * @param findings criteria on records that somebody may have meant to be on figures
 * @param leftOut how many values are no numbers and are left out of the figures, by field; only tables of others have any
 */
public record TotalsAnswer(
        List<TotalsFigure> figures,
        List<GroupKey> columns,
        List<TotalsRow> rows,
        TotalsRow total,
        TotalsRow shownTotal,
        List<TotalsRow> totals,
        List<TotalsRow> shownTotals,
        List<TotalsWindow> windows,
        List<TotalsFinding> findings,
        Map<String, Long> leftOut) {

    /**
     * A figure of each row.
     *
     * @param name what statements over figures call it
     * @param label what people read
     * @param share whether it is the share of the total of its column: 0.25 for a quarter
     * @param type what it holds, as for fields
     */
    public record TotalsFigure(
            String name, String label, Measure.Function function, Optional<String> field, boolean share, String type) {}

    /**
     * The figures of a row, over all columns or in one of them.
     *
     * @param keys what its records have in common, the outermost first; fewer than there are levels for a row above others
     * @param across the column; absent for all of them together
     * @param records how many records are behind the figures
     * @param values the figures by name; {@code null} where there is no value to measure
     */
    @JsonInclude(JsonInclude.Include.NON_ABSENT)
    public record TotalsRow(
            List<GroupKey> keys,
            Optional<GroupKey> across,
            long records,
            @JsonSerialize(contentUsing = ShownValue.class) Map<String, Optional<Object>> values) {}

    /**
     * The window that a question gives to a date.
     *
     * @param from the first day, or the instant that begins it (ISO 8601); absent where it has no beginning
     * @param to the last day, or the instant that ends it and does not belong; absent where it has no end
     */
    @JsonInclude(JsonInclude.Include.NON_ABSENT)
    public record TotalsWindow(String field, Optional<String> from, Optional<String> to) {}

    /**
     * A criterion on records that somebody may have meant to be on figures.
     *
     * @param message a whole sentence for the person who asks
     * @param statement the question without it
     * @param keep the criteria on figures with it
     */
    public record TotalsFinding(String message, String statement, String keep) {}
}
