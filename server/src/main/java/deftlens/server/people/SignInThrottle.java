package deftlens.server.people;

import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.LongSupplier;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.stereotype.Component;

/**
 * Slows down guessing: after five wrong passwords for a name, or thirty from an address, further tries wait, twice as long
 * each time, up to a quarter of an hour. Remembers the latest few thousand names and addresses.
 */
@Component
class SignInThrottle {

    private static final int FREE_FOR_NAME = 5;
    private static final int FREE_FOR_ADDRESS = 30;
    private static final Duration FIRST_WAIT = Duration.ofSeconds(5);
    private static final Duration LONGEST_WAIT = Duration.ofMinutes(15);
    private static final int REMEMBERED = 5_000;

    private record Tries(int failures, long nextAllowed) {}

    private final LongSupplier nanos;
    private final Map<String, Tries> tries = new LinkedHashMap<>(64, 0.75f, true) {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Tries> eldest) {
            return size() > REMEMBERED;
        }
    };

    @Autowired
    SignInThrottle() {
        this(System::nanoTime);
    }

    SignInThrottle(LongSupplier nanos) {
        this.nanos = nanos;
    }

    /** How long to wait before this name may be tried from this address; nothing when it may be tried now. */
    synchronized Optional<Duration> wait(String name, String address) {
        long now = nanos.getAsLong();
        long until = Math.max(until(key(name), now), until("@" + address, now));
        return until > now ? Optional.of(Duration.ofNanos(until - now)) : Optional.empty();
    }

    /** Notes a wrong password. */
    synchronized void failed(String name, String address) {
        count(key(name), FREE_FOR_NAME);
        count("@" + address, FREE_FOR_ADDRESS);
    }

    /** Notes a right password: the name starts afresh. */
    synchronized void succeeded(String name) {
        tries.remove(key(name));
    }

    private long until(String key, long now) {
        Tries known = tries.get(key);
        return known == null ? now : known.nextAllowed();
    }

    private void count(String key, int free) {
        long now = nanos.getAsLong();
        Tries known = tries.get(key);
        int failures = known == null ? 1 : known.failures() + 1;
        long wait = failures < free
                ? 0
                : Math.min(LONGEST_WAIT.toNanos(), FIRST_WAIT.toNanos() << Math.min(20, failures - free));
        tries.put(key, new Tries(failures, now + wait));
    }

    private static String key(String name) {
        return name.strip().toLowerCase(Locale.ROOT);
    }
}
