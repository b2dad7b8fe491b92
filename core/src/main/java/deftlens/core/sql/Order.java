package deftlens.core.sql;

import deftlens.core.field.Field;
import java.util.HashSet;
import java.util.List;
import java.util.Set;

/**
 * The order of a page: by some fields, then by the record's own number, so that no two records are equal. Records with an
 * empty field come last in either direction. Texts follow the Unicode collation, not the bytes.
 *
 * @param keys the fields, the first deciding; none twice; the record's number alone when there are none
 */
public record Order(List<Key> keys) {

    /** One field of the order. */
    public record Key(Field field, boolean descending) {}

    /** The order of the records' numbers, the newest first. */
    public static final Order NEWEST = new Order(List.of());

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
        return keys.isEmpty() || keys.get(keys.size() - 1).descending();
    }
}
