package deftlens.server.registers;

import java.text.Normalizer;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;

/** Keys made from what people call things. */
public final class Keys {

    private static final int MOST_LETTERS = 40;

    private Keys() {}

    /**
     * A key for a label: {@code Reported at} gives {@code reported_at}. Letters lose their accents; what has no Latin letters
     * gives {@code field}.
     */
    public static String of(String label) {
        String plain = Normalizer.normalize(label, Normalizer.Form.NFD)
                .replaceAll("\\p{M}", "")
                .toLowerCase(Locale.ROOT)
                .replaceAll("[^a-z0-9]+", "_")
                .replaceAll("^[_0-9]+|_+$", "");
        String key = plain.isEmpty() ? "field" : plain;
        return key.length() > MOST_LETTERS ? key.substring(0, MOST_LETTERS) : key;
    }

    /** Keys for several labels, each of them different: {@code date}, {@code date_2}. */
    public static List<String> of(List<String> labels) {
        Set<String> taken = new HashSet<>();
        return labels.stream()
                .map(label -> {
                    String key = of(label);
                    for (int i = 2; !taken.add(key); i++) {
                        key = of(label) + "_" + i;
                    }
                    return key;
                })
                .toList();
    }
}
