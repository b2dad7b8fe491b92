package deftlens.server.registers;

import java.util.ArrayList;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** What PostgreSQL's own catalogue says in its codes, in words; of this database and of linked ones alike. */
public final class SystemCatalogue {

    private static final Pattern QUOTED = Pattern.compile("'((?:[^']|'')*)'");

    private SystemCatalogue() {}

    /** A kind of table, by {@code pg_class.relkind}. */
    public static String kind(String relkind) {
        return switch (relkind) {
            case "v" -> "view";
            case "m" -> "materialised view";
            case "f" -> "foreign table";
            default -> "table";
        };
    }

    /** The values that a check such as {@code CHECK ((kind = ANY (ARRAY['Crane'::text, …])))} allows; none for another. */
    public static List<String> allowedBy(String check) {
        List<String> found = new ArrayList<>();
        for (Matcher m = QUOTED.matcher(check); m.find(); ) {
            found.add(m.group(1).replace("''", "'"));
        }
        return found.stream().distinct().filter(o -> !o.isBlank()).toList();
    }
}
