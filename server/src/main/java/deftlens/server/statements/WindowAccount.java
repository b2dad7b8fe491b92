package deftlens.server.statements;

import java.time.Instant;
import java.time.LocalDate;
import java.util.Optional;

/**
 * What a date phrase in a statement stands for.
 *
 * @param path the criterion, a JSON Pointer in the condition
 * @param words the test with its resolved dates
 * @param rolling whether it moves with the day
 * @param kind days or instants
 * @param from where the values begin that satisfy it; absent where there is no beginning
 * @param to where they end, itself no longer meant; absent where there is no end
 * @param outside whether the values that are meant lie outside of that stretch
 */
public record WindowAccount(
        String path,
        String phrase,
        String words,
        boolean rolling,
        Optional<String> length,
        String kind,
        Optional<LocalDate> firstDay,
        Optional<LocalDate> dayAfterLast,
        Instant start,
        Instant end,
        String zone,
        Optional<Instant> from,
        Optional<Instant> to,
        boolean outside) {}
