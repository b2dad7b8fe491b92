package deftlens.server.lanes;

import deftlens.server.platform.Upkeep;
import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.springframework.stereotype.Component;

/**
 * Notices that whoever asked has hung up while the database still works for them. A servlet hears of that only when it writes;
 * the kernel knows at once, and tells in {@code /proc/net/tcp}: a line that is not established any more has nobody at its other
 * end. Where there is no such file nothing is noticed, and a question ends at its time.
 */
@Component
public class DepartedClients {

    private static final List<Path> TABLES = List.of(Path.of("/proc/net/tcp"), Path.of("/proc/net/tcp6"));
    private static final String ESTABLISHED = "01";

    /** How long a line is watched before it is looked for, in nanoseconds: most questions are answered by then. */
    private static final long WATCHED_AFTER = 200_000_000;

    private static final Duration LOOKED_EVERY = Duration.ofMillis(200);

    private final Map<Watched, Boolean> watched = new ConcurrentHashMap<>();

    /** A line, by the ports of its two ends. */
    public record Line(int local, int remote) {
        /** The line of a request. */
        public static Line of(HttpServletRequest request) {
            return new Line(request.getLocalPort(), request.getRemotePort());
        }
    }

    private record Watched(Line line, Runnable gone, long since) {}

    /** Calls back when a line is hung up, until the result is closed. */
    AutoCloseable watch(Optional<Line> line, Runnable gone) {
        if (line.isEmpty()) {
            return () -> {};
        }
        Watched one = new Watched(line.get(), gone, System.nanoTime());
        watched.put(one, true);
        return () -> watched.remove(one);
    }

    DepartedClients(Upkeep upkeep) {
        upkeep.every(LOOKED_EVERY, this::look);
    }

    void look() {
        long now = System.nanoTime();
        List<Watched> old = watched.keySet().stream()
                .filter(w -> now - w.since() > WATCHED_AFTER)
                .toList();
        if (old.isEmpty()) {
            return;
        }
        Optional<Set<Line>> open = open();
        if (open.isPresent()) {
            old.stream()
                    .filter(w -> !open.get().contains(w.line()) && watched.remove(w) != null)
                    .forEach(w -> w.gone().run());
        }
    }

    private static Optional<Set<Line>> open() {
        Set<Line> found = new HashSet<>();
        boolean any = false;
        for (Path table : TABLES) {
            try {
                for (String row : Files.readAllLines(table)) {
                    String[] columns = row.strip().split("\\s+", 5);
                    if (columns.length > 3 && columns[3].equals(ESTABLISHED)) {
                        found.add(new Line(port(columns[1]), port(columns[2])));
                    }
                }
                any = true;
            } catch (IOException | NumberFormatException e) {
                // Another system, or a table that is not there.
                continue;
            }
        }
        return any ? Optional.of(found) : Optional.empty();
    }

    private static int port(String address) {
        return Integer.parseInt(address.substring(address.lastIndexOf(':') + 1), 16);
    }
}
