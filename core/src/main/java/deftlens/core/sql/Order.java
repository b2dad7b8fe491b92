package deftlens.core.sql;

import deftlens.core.field.Field;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * The order of a page: by some fields, then by the record's own number, so that no two records are equal. Records with an
 * empty field come last in either direction, unless a key says that they come first. Texts follow the Unicode collation,
 * not the bytes.
 *
 * @param keys the fields, the first deciding; none twice; the record's number alone when there are none
 * @param listed a list whose order counts instead; then there are no keys
 */
public record Order(List<Key> keys, Optional<Listed> listed) {

    /**
     * The order of a list that somebody pasted: each record where its value stands in the list, then by its number.
     * Records whose value is not listed are left out.
     *
     * @param values as the field's SQL compares them: folded where {@code fold} ignores letter case; none twice
     */
    public record Listed(Field field, List<String> values, boolean fold) {
        public Listed {
            values = List.copyOf(values);
        }
    }

    /**
     * One field of the order.
     *
     * @param emptiesFirst whether records without a value come before all others, whatever the direction
     */
    public record Key(Field field, boolean descending, boolean emptiesFirst) {

        /** A field whose empty records come last. */
        public Key(Field field, boolean descending) {
            this(field, descending, false);
        }
    }

    /** The order of the records' numbers, the newest first. */
    public static final Order NEWEST = new Order(List.of());

    /** An order by fields. */
    public Order(List<Key> keys) {
        this(keys, Optional.empty());
    }

    /** The order of a list. */
    public static Order as(Listed listed) {
        return new Order(List.of(), Optional.of(listed));
    }

    public Order {
        keys = List.copyOf(keys);
        Set<String> seen = new HashSet<>();
        for (Key key : keys) {
            if (!seen.add(key.field().key())) {
                throw new IllegalArgumentException("ordered by " + key.field().key() + " twice");
            }
        }
    }

    /** Whether ties are broken by the highest record number first. */
    boolean numbersDescend() {
        return listed.isEmpty() && keys.isEmpty()
                || !keys.isEmpty() && keys.get(keys.size() - 1).descending();
    }
}
