package deftlens.server.imports;

import deftlens.server.values.DateText;
import deftlens.server.values.DurationUnit;
import deftlens.server.values.NumberText;
import java.util.List;
import java.util.Optional;

/**
 * How the columns of a file become records.
 *
 * @param zone the zone of times that name none; the organisation's when absent
 * @param columns the columns that are taken, each into a field
 * @param by the keys of the fields that tell records apart; none: every row is added
 * @param known what becomes of a row whose record is there already
 */
record ImportPlan(Optional<String> zone, List<Taken> columns, List<String> by, Known known) {

    /** What becomes of a row whose record is there already. */
    enum Known {
        /** It is added all the same. */
        ADD,
        /** Its record gets the row's values. */
        UPDATE,
        /** It is left as it is. */
        SKIP,
        /** All records that are there go, whatever the file says of them, and its rows are the records from then on. */
        REPLACE
    }

    /** Whether rows may be of records that are there, so that they have to be looked for. */
    boolean recognises() {
        return known == Known.UPDATE || known == Known.SKIP;
    }

    /**
     * One column that is taken.
     *
     * @param name what the file calls it
     * @param place where it stands in the file, from 0; of columns of one name it says which. When absent, or where another
     *     column stands there now, it is the next one of the name
     * @param field the key of its field; made from the label for a new register
     * @param label what people read
     * @param type the field's type in the words of the product
     * @param order which of two short numbers of a date is the day
     * @param decimal which sign comes before decimals
     * @param unit what a number alone means as a duration; when absent it means none
     * @param unfit what becomes of a value that does not fit
     * @param identifying whether the value names one record
     * @param shown whether the column is shown at rest
     */
    record Taken(
            String name,
            Optional<Integer> place,
            Optional<String> field,
            String label,
            String type,
            Optional<DateText.Order> order,
            Optional<NumberText.Decimal> decimal,
            Optional<DurationUnit> unit,
            Unfit unfit,
            boolean identifying,
            boolean shown) {}

    /** What becomes of a value that does not fit its field. */
    enum Unfit {
        /** Its row is refused, and with it the file. */
        REFUSE,
        /** It is left out; the field stays empty. */
        EMPTY
    }
}
