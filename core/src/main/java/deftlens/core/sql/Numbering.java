package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.Register;
import java.math.BigInteger;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Numbers that records are given as they are made, such as {@code E-200417}: letters that are always the same, and digits after them.
 *
 * @param register a register with a table of its own
 * @param field a text field
 * @param prefix what stands before the digits; does not end with a digit
 */
public record Numbering(Register register, Field field, String prefix) {

    /** How many of the latest records are looked at for the last number. */
    private static final int LATEST = 2_000;

    /** The values of the latest records. */
    public Sql latest() {
        return new Sql()
                .add("select " + column() + " from " + register.table() + " r order by r."
                        + Sql.identifier(register.idColumn()) + " desc limit " + LATEST);
    }

    /** The highest value of all records that are numbered so; reads the whole table. */
    public Sql highest() {
        String digits = "substr(" + column() + ", " + (prefix.codePointCount(0, prefix.length()) + 1) + ")";
        return new Sql()
                .add("select " + column() + " from " + register.table() + " r where starts_with(" + column() + ", ")
                .bind(prefix)
                .add(") and " + digits + " ~ '^[0-9]{1,100}$' order by cast(" + digits + " as numeric) desc limit 1");
    }

    /** Whether some values are taken by any record: one row, one column. */
    public Sql taken(Collection<String> values) {
        return new Sql()
                .add("select exists (select 1 from " + register.table() + " r where " + column() + " = any(cast(")
                .bind(values.toArray(String[]::new))
                .add(" as text[])))");
    }

    /** How many records have a value of a text field: one row, one number. */
    public static Sql count(Register register, Field field, String value) {
        return new Sql()
                .add("select count(*) from " + register.table() + " r where r." + Sql.identifier(field.column())
                        + " = ")
                .bind(value);
    }

    /**
     * The value that the latest record has of a field which has some value of another; no row where none has any.
     *
     * @param with the other field
     * @param value its value, as it is kept
     */
    public static Sql along(Register register, Field field, Field with, Object value) {
        return new Sql()
                .add("select r." + Sql.identifier(field.column()) + " from " + register.table() + " r where r."
                        + Sql.identifier(with.column()) + " = ")
                .bind(value)
                .add(" and r." + Sql.identifier(field.column()) + " is not null order by r."
                        + Sql.identifier(register.idColumn()) + " desc limit 1");
    }

    private String column() {
        return "r." + Sql.identifier(field.column());
    }

    private Pattern numbered() {
        return Pattern.compile(Pattern.quote(prefix) + "([0-9]{1,100})");
    }

    /** Whether any of some values is numbered so. */
    public boolean isAny(Collection<String> values) {
        return values.stream().anyMatch(v -> v != null && numbered().matcher(v).matches());
    }

    /**
     * The numbers that come after the highest of some values, as wide as that one is: after {@code T-0099} comes {@code T-0100}. The
     * first is 1; values of another kind do not count.
     *
     * @param count how many, at least 1
     */
    public List<String> after(Collection<String> values, int count) {
        Pattern numbered = numbered();
        BigInteger highest = BigInteger.ZERO;
        int width = 1;
        for (String value : values) {
            Matcher matcher = numbered.matcher(value == null ? "" : value);
            if (matcher.matches()) {
                BigInteger number = new BigInteger(matcher.group(1));
                if (number.compareTo(highest) >= 0) {
                    highest = number;
                    width = matcher.group(1).length();
                }
            }
        }
        List<String> next = new ArrayList<>();
        for (int i = 1; i <= count; i++) {
            String digits = highest.add(BigInteger.valueOf(i)).toString();
            next.add(prefix + "0".repeat(Math.max(0, width - digits.length())) + digits);
        }
        return next;
    }
}
