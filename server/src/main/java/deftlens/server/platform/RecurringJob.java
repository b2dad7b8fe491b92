package deftlens.server.platform;

import java.time.Duration;
import java.util.function.Supplier;

/**
 * Work that the clock begins, on one server at a time.
 *
 * @param name a stable name, as the rows have it
 * @param label what it does, in words, for administrators
 * @param every how long after one round the next begins
 * @param work does it, and says what came of it in a few words; nothing where that is not worth a word
 */
public record RecurringJob(String name, String label, Duration every, Supplier<String> work) {

    /** Work that never has anything to say. */
    public static RecurringJob of(String name, String label, Duration every, Runnable work) {
        return new RecurringJob(name, label, every, () -> {
            work.run();
            return "";
        });
    }
}
