package deftlens.server.registers;

/**
 * One field of an order as calls, links and views write it: {@code due}, {@code -due} for the last first, {@code
 * -due:empties-first} where records without a value come before all others.
 */
public record OrderWord(String field, boolean descending, boolean emptiesFirst) {

    private static final String EMPTIES_FIRST = ":empties-first";

    /** The word taken apart; whether the register has such a field is for others to say. */
    public static OrderWord read(String word) {
        boolean descending = word.startsWith("-");
        boolean emptiesFirst = word.endsWith(EMPTIES_FIRST);
        return new OrderWord(
                word.substring(descending ? 1 : 0, word.length() - (emptiesFirst ? EMPTIES_FIRST.length() : 0)),
                descending,
                emptiesFirst);
    }

    @Override
    public String toString() {
        return (descending ? "-" : "") + field + (emptiesFirst ? EMPTIES_FIRST : "");
    }
}
