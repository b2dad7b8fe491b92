package deftlens.server.registers;

/** What several of something are called, by the rules of English for words that follow them. */
final class Plurals {

    private Plurals() {}

    /**
     * The plural of one record's name, such as {@code ledger entries} for {@code ledger entry}, {@code boxes} for {@code box}.
     * A word that follows no rule is put right by whoever describes the register.
     */
    static String of(String one) {
        if (one.matches("(?s).*[^aeiouAEIOU]y")) {
            return one.substring(0, one.length() - 1) + "ies";
        }
        return one + (one.matches("(?s).*(s|x|z|ch|sh)") ? "es" : "s");
    }
}
