package deftlens.core.sql;

import deftlens.core.field.Field;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The columns of what some records were added up to, and what sums of these columns tell: the same as the records themselves would.
 *
 * <p>{@code "@n"} is the number of records; of each amount, {@code "@c0"} is the number of its values, {@code "@p0"} what is above zero and
 * {@code "@m0"} what is below it, or both together in {@code "@s0"} where nobody asks for the sides.
 *
 * @param amounts the numbers that are added up, each once
 * @param sides whether what is above zero and what is below it are apart
 */
record AddedUp(List<Field> amounts, boolean sides) {

    private static final String NUMBER = "\"@n\"";

    AddedUp {
        amounts = List.copyOf(amounts);
    }

    /** The columns. */
    List<String> columns() {
        return needed(amounts.stream());
    }

    /** The columns that measures of some of the amounts are made of. */
    List<String> needed(Stream<Field> fields) {
        return Stream.concat(
                        Stream.of(NUMBER),
                        fields.map(this::at)
                                .distinct()
                                .flatMap(i -> sides
                                        ? Stream.of(values(i), above(i), below(i))
                                        : Stream.of(values(i), sum(i))))
                .toList();
    }

    /**
     * The columns, made of records.
     *
     * @param prefix what the columns of the records begin with: {@code r.}
     * @param sign {@code 1}, or {@code -1} for the opposite
     */
    String of(String prefix, int sign) {
        List<String> made = new ArrayList<>(List.of("cast(" + sign + " * count(*) as bigint) as " + NUMBER));
        for (int i = 0; i < amounts.size(); i++) {
            String amount = "cast(" + prefix + Where.column(amounts.get(i)) + " as numeric)";
            made.add("cast(" + sign + " * count(" + amount + ") as bigint) as " + values(i));
            if (sides) {
                made.add(side(sign, amount, ">") + " as " + above(i));
                made.add(side(sign, amount, "<") + " as " + below(i));
            } else {
                made.add(sign + " * sum(" + amount + ") as " + sum(i));
            }
        }
        return String.join(", ", made);
    }

    private static String side(int sign, String amount, String of) {
        return sign + " * coalesce(sum(" + amount + ") filter (where " + amount + " " + of + " 0), 0)";
    }

    /** Columns of these, each added up under its own name. */
    static String again(List<String> columns) {
        return columns.stream()
                .map(c -> c.startsWith("\"@n") || c.startsWith("\"@c")
                        ? "cast(sum(" + c + ") as bigint) as " + c
                        : "sum(" + c + ") as " + c)
                .collect(Collectors.joining(", "));
    }

    /** The number of records. */
    String number(String filter) {
        return "coalesce(cast(sum(" + NUMBER + ")" + filter + " as bigint), 0)";
    }

    /** The number of values of an amount. */
    String values(Field amount, String filter) {
        return "sum(" + values(at(amount)) + ")" + filter;
    }

    /** What of an amount is above zero; none where nothing is. */
    String above(Field amount, String filter) {
        return "nullif(sum(" + above(at(amount)) + ")" + filter + ", 0)";
    }

    /** What of an amount is below zero; none where nothing is. */
    String below(Field amount, String filter) {
        return "nullif(sum(" + below(at(amount)) + ")" + filter + ", 0)";
    }

    /** The sum of an amount; none where there is no value. */
    String sum(Field amount, String filter) {
        int at = at(amount);
        return sides
                ? "case when " + values(amount, filter) + " > 0 then sum(" + above(at) + ")" + filter + " + sum("
                        + below(at) + ")" + filter + " end"
                : "sum(" + sum(at) + ")" + filter;
    }

    private int at(Field amount) {
        return amounts.stream().map(Field::key).toList().indexOf(amount.key());
    }

    private static String values(int amount) {
        return "\"@c" + amount + "\"";
    }

    private static String above(int amount) {
        return "\"@p" + amount + "\"";
    }

    private static String below(int amount) {
        return "\"@m" + amount + "\"";
    }

    private static String sum(int amount) {
        return "\"@s" + amount + "\"";
    }
}
