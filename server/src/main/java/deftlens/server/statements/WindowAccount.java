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
        String zone) {}
