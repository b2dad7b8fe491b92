package deftlens.server.live;

import deftlens.server.platform.Notices;
import deftlens.server.platform.Upkeep;
import java.time.Duration;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/**
 * Hears from PostgreSQL which registers' records change, and that people, registers or the organisation do, and tells those who
 * want to know. However many changes there are in a second, each register is told of at most a few times.
 */
@Component
public class Changes {

    private static final Logger LOG = LoggerFactory.getLogger(Changes.class);
    private static final String RECORDS = "deft_records";
    private static final String DEFINITIONS = "deft_definitions";
    /** Changes within this time are told together. */
    private static final Duration GATHERED = Duration.ofMillis(250);

    private final Upkeep upkeep;
    /** When each register's records were last heard to have changed, by {@link System#nanoTime}. */
    private final Map<String, Long> heardAt = new ConcurrentHashMap<>();
    /** Since when nothing can have been missed, by the same clock; none while nothing is heard. */
    private volatile Optional<Long> hearingSince = Optional.empty();

    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    /** What was heard and is not told yet. */
    private Set<String> gathered = new HashSet<>();

    private boolean redefined;
    private boolean telling;

    Changes(Notices notices, Upkeep upkeep) {
        this.upkeep = upkeep;
        notices.listen(RECORDS, key -> {
            heardAt.put(key, System.nanoTime());
            gather(key);
        });
        notices.listen(DEFINITIONS, nothing -> redefine());
        notices.tell(new Notices.Hearing() {
            @Override
            public void begins(boolean again) {
                hearingSince = Optional.of(System.nanoTime());
                if (again) {
                    give(l -> l.records(Set.of()));
                    give(Listener::definitions);
                }
            }

            @Override
            public void breaksOff() {
                hearingSince = Optional.empty();
            }
        });
    }

    /** Somebody who wants to know of changes. */
    interface Listener {

        /** @param keys the registers whose records changed; an empty set when some change may have been missed */
        void records(Set<String> keys);

        /** People, registers or the organisation were changed, or may have been. */
        void definitions();
    }

    /** Tells a listener of changes from now on. */
    void tell(Listener listener) {
        listeners.add(listener);
    }

    /** The registers whose records changed within a time up to now; nothing where some change may have been missed. */
    Optional<Set<String>> within(Duration time) {
        long from = System.nanoTime() - time.toNanos();
        return hearingSince
                .filter(since -> since < from)
                .map(since -> heardAt.entrySet().stream()
                        .filter(one -> one.getValue() >= from)
                        .map(Map.Entry::getKey)
                        .collect(Collectors.toSet()));
    }

    private synchronized void gather(String key) {
        gathered.add(key);
        tellSoon();
    }

    private synchronized void redefine() {
        redefined = true;
        tellSoon();
    }

    private void tellSoon() {
        if (!telling) {
            telling = true;
            upkeep.after(GATHERED, this::tellNow);
        }
    }

    private void tellNow() {
        Set<String> keys;
        boolean definitions;
        synchronized (this) {
            keys = gathered;
            definitions = redefined;
            gathered = new HashSet<>();
            redefined = false;
            telling = false;
        }
        if (!keys.isEmpty()) {
            give(listener -> listener.records(keys));
        }
        if (definitions) {
            give(Listener::definitions);
        }
    }

    private void give(Consumer<Listener> word) {
        for (Listener listener : listeners) {
            try {
                word.accept(listener);
            } catch (RuntimeException e) {
                LOG.warn("a change could not be told", e);
            }
        }
    }
}
