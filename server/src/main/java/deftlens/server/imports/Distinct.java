package deftlens.server.imports;

import java.util.Arrays;
import java.util.HashSet;
import java.util.Set;

/**
 * Whether no text of a long row of them comes twice. Repetitions are mostly noticed among the first; for the others 64 bits
 * of each text are kept, eight bytes, and put in order at the end.
 */
final class Distinct {

    private static final int FIRST = 5_000;
    private static final int MOST = 5_000_000;

    private Set<Long> first = new HashSet<>();
    private long[] digests = new long[FIRST];
    private int size;
    private boolean given;

    /** Adds a text. */
    void add(String text) {
        if (given) {
            return;
        }
        long digest = digest(text);
        if (size < FIRST && !first.add(digest) || size == MOST) {
            give();
            return;
        }
        if (size == FIRST) {
            first = Set.of();
        }
        if (size == digests.length) {
            digests = Arrays.copyOf(digests, size * 2);
        }
        digests[size++] = digest;
    }

    private void give() {
        given = true;
        first = Set.of();
        digests = new long[0];
    }

    /** Whether all texts differ; no for more than {@value #MOST} of them. Nothing can be added after. */
    boolean areAll() {
        if (given) {
            return false;
        }
        Arrays.sort(digests, 0, size);
        for (int i = 1; i < size; i++) {
            if (digests[i] == digests[i - 1]) {
                return false;
            }
        }
        return true;
    }

    private static long digest(String text) {
        long hash = 1125899906842597L;
        for (int i = 0; i < text.length(); i++) {
            hash = (hash ^ text.charAt(i)) * 0x9E3779B97F4A7C15L;
            hash ^= hash >>> 29;
        }
        return hash * 0xBF58476D1CE4E5B9L;
    }
}
