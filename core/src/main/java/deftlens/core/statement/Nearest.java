package deftlens.core.statement;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;

/** Finds the known words that a mistyped one was probably meant to be. */
public final class Nearest {

    private Nearest() {}

    /** At most three of the candidates within a third of the word's length (at least one edit), nearest first. */
    public static List<String> to(String typed, Collection<String> candidates) {
        String word = typed.toLowerCase(Locale.ROOT);
        if (word.length() > 60) {
            return List.of();
        }
        int most = Math.max(1, word.length() / 3);
        record Near(String candidate, int distance) {}
        List<Near> near = new ArrayList<>();
        for (String candidate : candidates) {
            String other = candidate.toLowerCase(Locale.ROOT);
            if (Math.abs(other.length() - word.length()) <= most) {
                int distance = distance(word, other);
                if (distance <= most) {
                    near.add(new Near(candidate, distance));
                }
            }
        }
        return near.stream()
                .sorted(Comparator.comparingInt(Near::distance))
                .map(Near::candidate)
                .distinct()
                .limit(3)
                .toList();
    }

    /** Edits between two words, a swap of neighbours counting as one (optimal string alignment). */
    static int distance(String a, String b) {
        int[][] d = new int[a.length() + 1][b.length() + 1];
        for (int i = 0; i <= a.length(); i++) {
            d[i][0] = i;
        }
        for (int j = 0; j <= b.length(); j++) {
            d[0][j] = j;
        }
        for (int i = 1; i <= a.length(); i++) {
            for (int j = 1; j <= b.length(); j++) {
                int change = a.charAt(i - 1) == b.charAt(j - 1) ? 0 : 1;
                d[i][j] = Math.min(Math.min(d[i - 1][j], d[i][j - 1]) + 1, d[i - 1][j - 1] + change);
                if (i > 1 && j > 1 && a.charAt(i - 1) == b.charAt(j - 2) && a.charAt(i - 2) == b.charAt(j - 1)) {
                    d[i][j] = Math.min(d[i][j], d[i - 2][j - 2] + 1);
                }
            }
        }
        return d[a.length()][b.length()];
    }
}
