package deftlens.server.totals;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonUnwrapped;
import deftlens.core.condition.Comparison;
import deftlens.core.field.Measure;
import deftlens.server.question.GroupKey;
import deftlens.server.question.Shape;
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
 * @param shownTotal of the records in the rows that are shown; the same as the total where no row is left out
 * @param totals the total of each column, of all records that match
 * @param shownTotals the total of each column, of the rows that are shown
 * @param compared what the figures of an earlier time are of; absent where none stand beside
 * @param balance what the balances are of; absent where none are shown
 * @param windows the windows that the question gives to dates which every record satisfies
 * @param findings criteria on records that somebody may have meant to be on figures
 * @param outermost how many of the outermost rows are shown and how many there are; absent where all are
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
        Optional<TotalsComparison> compared,
        Optional<TotalsBalance> balance,
        List<TotalsWindow> windows,
        List<TotalsFinding> findings,
        Optional<TotalsOutermost> outermost,
        Map<String, Long> leftOut) {

    /**
     * The first of the outermost rows.
     *
     * @param shown how many are shown
     * @param all how many there are
     */
    public record TotalsOutermost(int shown, int all) {}

    /**
     * A figure of each row.
     *
     * @param name what statements over figures call it
     * @param label what people read
     * @param kind the measure itself or what is made of it; a {@code share} and {@code growth} are 0.25 for a quarter
     * @param type what it holds, as for fields
     */
    public record TotalsFigure(
            String name,
            String label,
            Measure.Function function,
            Optional<String> field,
            TotalFigure.Kind kind,
            String type) {

        /** Whether it is a part of something, 0.25 for a quarter. */
        @JsonIgnore
        public boolean isPart() {
            return kind.isPart();
        }
    }

    /**
     * One figure by itself.
     *
     * @param figure what it is
     * @param value {@code null} where there is no value to measure
     */
    public record TotalsTold(
            @JsonUnwrapped TotalsFigure figure,
            @JsonSerialize(contentUsing = ShownValue.class) Optional<Object> value) {}

    /**
     * The figures of a row, over all columns or in one of them.
     *
     * @param keys what its records have in common, the outermost first; fewer than there are levels for a row above others
     * @param across the column; absent for all of them together
     * @param records how many records are behind the figures
     * @param earlier how many of the earlier time are behind its figures; absent where none is compared with
     * @param values the figures by name; {@code null} where there is no value to measure
     */
    @JsonInclude(JsonInclude.Include.NON_ABSENT)
    public record TotalsRow(
            List<GroupKey> keys,
            Optional<GroupKey> across,
            long records,
            Optional<Long> earlier,
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
     * The earlier time that is compared with.
     *
     * @param window the question's window
     * @param earlier the earlier one; absent where the question has no window that there is one before
     * @param notes what is to be known about the comparison, in whole sentences: that a window is not over, that one is longer
     */
    @JsonInclude(JsonInclude.Include.NON_ABSENT)
    public record TotalsComparison(
            Comparison.With with, Optional<TotalsWindow> window, Optional<TotalsWindow> earlier, List<String> notes) {}

    /**
     * What balances are of.
     *
     * @param field the number that is added up
     * @param window the window of the date that goes with it: what was before it is the opening, what is at its end the closing
     * @param opening what the opening is: everything before, or nothing
     */
    public record TotalsBalance(String field, TotalsWindow window, Shape.Opening opening) {}

    /**
     * A criterion on records that somebody may have meant to be on figures.
     *
     * @param message a whole sentence for the person who asks
     * @param statement the question without it
     * @param keep the criteria on figures with it
     */
    public record TotalsFinding(String message, String statement, String keep) {}
}
