package deftlens.core.condition;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * A condition bound to one register, reading and viewer: windows are dates and instants, viewer values are values, fields
 * are columns. The SQL and the in-memory test are both made from this and so cannot disagree about what was asked.
 * Positive leaves are false on an empty field; {@link Not} is the exact opposite.
 */
public sealed interface Bound {

    /** True or false whatever the record. */
    record Constant(boolean holds) implements Bound {}

    /** All of the parts. */
    record Every(List<Bound> parts) implements Bound {}

    /** At least one of the parts. */
    record Some(List<Bound> parts) implements Bound {}

    /** The exact opposite. */
    record Not(Bound part) implements Bound {}

    /** One test of one field. */
    sealed interface Leaf extends Bound {

        /** The field that is tested. */
        Field field();
    }

    /** No value; for text also no characters, for tags also none. */
    record IsEmpty(Field field) implements Leaf {}

    /** Text equal to one of the values. With {@code fold} the values are folded already and the field's are to be. */
    record OneOf(Field field, Set<String> values, boolean fold) implements Leaf {}

    /** A piece of text found in the field. With {@code fold} the piece is folded already. */
    record Finds(Field field, Test.Search search, String text, boolean fold) implements Leaf {}

    /** A number equal to one of the values. */
    record Numbers(Field field, List<BigDecimal> values) implements Leaf {}

    /** A number in an interval, each end open, included or excluded. */
    record NumberRange(
            Field field, Optional<BigDecimal> low, boolean lowBelongs, Optional<BigDecimal> high, boolean highBelongs)
            implements Leaf {}

    /** Yes, or no. */
    record Truth(Field field, boolean value) implements Leaf {}

    /** At least one, or all, of the tags. */
    record Tags(Field field, boolean all, Set<String> tags) implements Leaf {}

    /** A local day in {@code [from, to)}; an absent end is open. */
    record DayRange(Field field, Optional<LocalDate> from, Optional<LocalDate> to) implements Leaf {}

    /** An instant in an interval, each end open, included or excluded. */
    record InstantRange(
            Field field, Optional<Instant> from, boolean fromBelongs, Optional<Instant> to, boolean toBelongs)
            implements Leaf {}

    /** A time of day in an interval, each end open, included or excluded. */
    record TimeRange(
            Field field, Optional<LocalTime> from, boolean fromBelongs, Optional<LocalTime> to, boolean toBelongs)
            implements Leaf {}

    /** The wall clock of a moment, in a zone, in {@code [from, to)}; an absent end is open. */
    record ClockRange(Field field, ZoneId zone, Optional<LocalTime> from, Optional<LocalTime> to) implements Leaf {}

    /** The local day, of a date as it is and of a moment in the zone, in one part of the calendar. */
    record LocalPart(Field field, ZoneId zone, Test.Part part, Set<Integer> numbers) implements Leaf {}

    /** The local day, of a date as it is and of a moment in the zone, among these. */
    record LocalDays(Field field, ZoneId zone, Set<LocalDate> days) implements Leaf {}

    /** A regular expression found in the field; folded where letter case is ignored. */
    record Matches(Field field, Regex regex, boolean fold) implements Leaf {}

    /** One field beside another; both have a value. {@code fold} ignores letter case. */
    record FieldComparison(
            Field field, Test.Relation relation, Field other, Optional<Test.Offset> offset, ZoneId zone, boolean fold)
            implements Leaf {}

    /**
     * The field's value is also that of a record somewhere else; both have a value.
     *
     * @param place the field there, and its records
     * @param where what is asked of them, bound to their register
     */
    record Related(Field field, Elsewhere.Place place, Bound where) implements Leaf {

        /** Whether letter case is ignored: choices and people are written alike everywhere, texts are not. */
        public boolean fold() {
            return field.type() == FieldType.TEXT || place.field().type() == FieldType.TEXT;
        }
    }
}
