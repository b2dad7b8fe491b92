package deftlens.server.platform;

import java.time.Duration;
import java.util.Optional;
import java.util.function.Supplier;

/**
 * Work that the clock begins, on one server at a time.
 *
 * @param name a stable name, as the rows have it
 * @param label what it does, in words, for administrators
 * @param every how often it is done, as administrators are told
 * @param interval how long after one round the next begins; less than {@code every} where a round first looks whether it is time
 * @param work does it, and says what came of it in a few words; nothing where it was not time
 */
public record RecurringJob(
        String name, String label, Duration every, Duration interval, Supplier<Optional<String>> work) {

    /** Work that is done at every round, and has nothing to say. */
    public static RecurringJob of(String name, String label, Duration every, Runnable work) {
        return new RecurringJob(name, label, every, every, () -> {
            work.run();
            return Optional.of("");
        });
    }
}
