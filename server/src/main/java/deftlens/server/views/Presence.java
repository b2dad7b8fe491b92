package deftlens.server.views;

import deftlens.server.people.SignedIn;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.LongSupplier;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.stereotype.Component;

/** Who has a view open just now. Pages say so every few seconds; one that falls silent is forgotten. */
@Component
class Presence {

    private static final Duration SILENCE = Duration.ofSeconds(25);
    private static final int MOST_PAGES = 10_000;

    /** A page: which view it shows, to whom, whether something on it is changed and not kept, and when it last said so. */
    private record Page(long view, long person, boolean changing, long at) {}

    /** Somebody who has the view open; {@code changing} when they have changes that are not kept. */
    record Present(long person, boolean changing) {}

    private final LongSupplier nanos;
    private final Map<String, Page> pages = new ConcurrentHashMap<>();

    @Autowired
    Presence() {
        this(System::nanoTime);
    }

    Presence(LongSupplier nanos) {
        this.nanos = nanos;
    }

    /** Notes that a page is open, and tells who else has the view open. */
    List<Present> open(long view, SignedIn who, String page, boolean changing) {
        long now = nanos.getAsLong();
        pages.values().removeIf(p -> now - p.at() > SILENCE.toNanos());
        if (who.watcher().isEmpty() && pages.size() < MOST_PAGES) {
            pages.put(key(who, page), new Page(view, who.id(), changing, now));
        }
        Map<Long, Boolean> others = new java.util.TreeMap<>();
        pages.values().stream()
                .filter(p -> p.view() == view && p.person() != who.id())
                .forEach(p -> others.merge(p.person(), p.changing(), Boolean::logicalOr));
        List<Present> found = new ArrayList<>();
        others.forEach((person, changes) -> found.add(new Present(person, changes)));
        return found;
    }

    /** Notes that a page is left. */
    void leave(SignedIn who, String page) {
        pages.remove(key(who, page));
    }

    private static String key(SignedIn who, String page) {
        return who.id() + "/" + page;
    }
}
