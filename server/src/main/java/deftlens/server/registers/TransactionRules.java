package deftlens.server.registers;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * How records of a register are posted together: several lines whose amounts add up to zero. Every field is named by its key, and stands in
 * one place only.
 *
 * @param number the text field that the lines of a transaction have in common and no other has; it is numbered as they are posted
 * @param line the text field that tells the lines apart, numbered as they are posted, where there is one
 * @param amount the number or amount that adds up to zero
 * @param shared the fields that are said once for the whole transaction: its dates, its reference
 * @param each the fields that are said for each line: account, site, memo
 * @param mark what a line says that was posted by hand, where it says so
 * @param by the person field that holds whoever posted it, where there is one
 * @param along the fields that are not asked for, since they go with another
 */
public record TransactionRules(
        Numbered number,
        Optional<Numbered> line,
        String amount,
        List<String> shared,
        List<String> each,
        Optional<Mark> mark,
        Optional<String> by,
        List<Along> along) {

    public TransactionRules {
        shared = List.copyOf(shared);
        each = List.copyOf(each);
        along = List.copyOf(along);
    }

    /**
     * A text field that is numbered.
     *
     * @param prefix what stands before the digits, such as {@code T-}
     */
    public record Numbered(String field, String prefix) {}

    /** What stands in a field of what was posted by hand. */
    public record Mark(String field, String value) {}

    /**
     * A field that goes with another: its value is that of the latest record that has the same value there.
     *
     * @param with the key of a shared field or of one of the lines
     */
    public record Along(String field, String with) {}

    /** The keys of all fields that are written, each as often as it is named. */
    public List<String> fields() {
        List<String> fields = new ArrayList<>();
        fields.add(number.field());
        line.map(Numbered::field).ifPresent(fields::add);
        fields.add(amount);
        fields.addAll(shared);
        fields.addAll(each);
        mark.map(Mark::field).ifPresent(fields::add);
        by.ifPresent(fields::add);
        along.forEach(a -> fields.add(a.field()));
        return fields;
    }
}
