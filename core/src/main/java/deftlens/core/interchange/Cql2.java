package deftlens.core.interchange;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Condition;
import deftlens.core.field.Register;
import deftlens.core.time.Reading;
import java.util.List;

/**
 * Conditions as OGC CQL2 (OGC 21-065r2), in its text and its JSON encoding.
 *
 * <p>Written are comparisons, {@code BETWEEN}, {@code IN}, {@code LIKE}, {@code CASEI}, {@code IS NULL}, {@code AND},
 * {@code OR}, {@code NOT}, dates, timestamps and the array functions for tags. A date phrase is written as the fixed window
 * it stands for, a viewer value and a blank as the reader's own value, each with a note. What CQL2 has no word for is
 * refused by name and never left out.
 *
 * <p>A test here is true or false, also on an empty field; a comparison with NULL in CQL2 is neither. Opposites are
 * therefore written with their null tests, so that both readings give the same records.
 *
 * <p>The JSON encoding is made of {@code Map}, {@code List}, {@code String}, {@code BigDecimal} and {@code Boolean}.
 */
public final class Cql2 {

    private Cql2() {}

    /**
     * A condition in both encodings.
     *
     * @param notes what a reader of the filter should know: which phrases were fixed, whose values were taken
     */
    public record Written(String text, Object json, List<String> notes) {}

    /**
     * A condition that was read.
     *
     * @param notes what was taken in a way that could be doubted
     */
    public record Read(Condition condition, List<String> notes) {}

    /** Something that cannot be carried from one language into the other; the message names it. */
    public static final class NotCarried extends RuntimeException {
        private final String where;

        NotCarried(String where, String message) {
            super(message);
            this.where = where;
        }

        /** The place: a JSON Pointer in the condition or in the JSON filter, or {@code line:column} in a text. */
        public String where() {
            return where;
        }
    }

    /**
     * Writes a condition for one reader at one reading.
     *
     * @throws NotCarried when a part has no counterpart in CQL2
     * @throws Binder.Unfit when the condition does not fit the register
     * @throws deftlens.core.time.Unanswered when a blank is open
     */
    public static Written write(Condition condition, Binder binder) {
        Cql2Writer writer = new Cql2Writer(binder);
        Cql2Expression expression = writer.write(condition);
        return new Written(Cql2Text.print(expression), Cql2Json.print(expression), writer.notes());
    }

    /**
     * Reads a filter in the text encoding.
     *
     * @throws NotCarried when it cannot be read, or says what has no counterpart here
     */
    public static Read read(String text, Register register, Reading reading) {
        return new Cql2Reader(register, reading).read(Cql2Text.read(text));
    }

    /**
     * Reads a filter in the JSON encoding.
     *
     * @throws NotCarried when it cannot be read, or says what has no counterpart here
     */
    public static Read readJson(Object json, Register register, Reading reading) {
        return new Cql2Reader(register, reading).read(Cql2Json.read(json));
    }
}
