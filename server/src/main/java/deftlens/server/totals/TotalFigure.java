package deftlens.server.totals;

import com.fasterxml.jackson.annotation.JsonProperty;
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
 * @param measure what is told, or what that is made of
 * @param kind the measure itself, or what is made of it
 */
record TotalFigure(String name, String label, Measure measure, Kind kind) {

    /** What is made of a measure. */
    public enum Kind {
        /** The measure itself. */
        @JsonProperty("value")
        VALUE,
        /** Its share of the total of its column: a number from 0 to 1 where all that is added up has one sign. */
        @JsonProperty("share")
        SHARE,
        /** What it is in the column before, taken from it. */
        @JsonProperty("change")
        CHANGE,
        /** The measure of the earlier time that is compared with. */
        @JsonProperty("earlier")
        EARLIER,
        /** The measure less that of the earlier time. */
        @JsonProperty("difference")
        DIFFERENCE,
        /** The difference as a part of the measure of the earlier time: 0.25 for a quarter more; empty where that is 0. */
        @JsonProperty("growth")
        GROWTH,
        /** What a sum was before the window, or before the period of the row or column. */
        @JsonProperty("opening")
        OPENING,
        /** What of a sum is above zero: debits, receipts. */
        @JsonProperty("in")
        IN,
        /** What of a sum is below zero: credits, issues. */
        @JsonProperty("out")
        OUT,
        /** What came in and went out together. */
        @JsonProperty("movement")
        MOVEMENT,
        /** What a sum is at the end of the window, or of the period. */
        @JsonProperty("closing")
        CLOSING;

        /** The figures of a balance, in the order that they stand in. */
        static final List<Kind> BALANCE = List.of(OPENING, IN, OUT, MOVEMENT, CLOSING);

        /** Whether it is a part of something, 0.25 for a quarter. */
        boolean isPart() {
            return this == SHARE || this == GROWTH;
        }

        /** Whether it is asked for by a statement over figures. */
        boolean isAsked() {
            return this == VALUE || this == SHARE || BALANCE.contains(this);
        }
    }

    /** What it holds. */
    FieldType type() {
        return kind.isPart() ? FieldType.NUMBER : measure.type();
    }

    /** As answers describe it. */
    TotalsAnswer.TotalsFigure described() {
        return new TotalsAnswer.TotalsFigure(
                name, label, measure.function(), measure.field().map(Field::key), kind, type().label());
    }

    /** Whether one value of it can be taken from another. */
    static boolean subtracts(Measure measure) {
        return measure.type().isNumeric();
    }

    /**
     * The figure as a field that statements over figures name.
     *
     * @param measures those of the totals, in their order
     */
    Field field(List<Measure> measures) {
        int at = measures.indexOf(measure);
        String column = switch (kind) {
            case SHARE -> Totals.share(at);
            case OPENING -> Totals.Balance.OPENING.column();
            case IN -> Totals.Balance.IN.column();
            case OUT -> Totals.Balance.OUT.column();
            case MOVEMENT -> Totals.Balance.MOVEMENT.column();
            case CLOSING -> Totals.Balance.CLOSING.column();
            case VALUE, CHANGE, EARLIER, DIFFERENCE, GROWTH -> Totals.figure(at);
        };
        return new Field(name, label, type(), column, false, List.of());
    }
}
