package deftlens.server.files;

import deftlens.server.platform.Problem;
import java.util.List;
import java.util.Optional;

/**
 * How a file is written, of those formats that leave it open.
 *
 * @param offsets whether moments have their offset from UTC in each cell; else the zone stands in the head
 * @param mark whether it begins with a byte order mark
 */
public record FileForm(boolean offsets, boolean mark) {

    /** As asked for: {@code times} is {@code local}, which is usual, or {@code offset}. */
    public static FileForm of(Optional<String> times, Optional<Boolean> mark) {
        if (times.isPresent() && !List.of("local", "offset").contains(times.get())) {
            throw Problem.badRequest("bad-times", "“times” is local or offset, not “" + times.get() + "”.");
        }
        return new FileForm(times.equals(Optional.of("offset")), mark.orElse(false));
    }
}
