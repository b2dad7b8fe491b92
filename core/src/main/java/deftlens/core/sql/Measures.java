package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.Measure;
import java.math.BigDecimal;
import java.util.List;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The SQL of several measures, side by side: first one column for each, then, where tables of others may hold what is no number
 * ({@code NaN}, {@code infinity}), the number of such values of each field that is reckoned with; they are left out.
 *
 * @param finite whether what is no number is left out and counted
 * @param source what they are made of
 */
public record Measures(List<Measure> measures, boolean finite, Source source) {

    /** What measures are made of. */
    sealed interface Source {
        /** The records. */
        record Records() implements Source {}

        /** The records, added up in groups before: what all levels of totals then share is done once, and by several processors. */
        record Grouped(AddedUp sums) implements Source {}

        /** Sums that are kept. Those of a group may have come to no record. */
        record Kept(AddedUp sums) implements Source {}
    }

    public Measures {
        measures = List.copyOf(measures);
    }

    /** Measures of records. */
    public Measures(List<Measure> measures, boolean finite) {
        this(measures, finite, new Source.Records());
    }

    /** Measures of kept sums. */
    static Measures kept(List<Measure> measures, AddedUp sums) {
        return new Measures(measures, false, new Source.Kept(sums));
    }

    /**
     * The same of records that are added up in groups before, where that tells them.
     *
     * @param flow a number whose {@link #sides} are wanted besides
     */
    Measures inGroups(Optional<Field> flow) {
        boolean told = source instanceof Source.Records
                && !finite
                && measures.stream().allMatch(m -> switch (m.function()) {
                    case COUNT, SUM, AVERAGE -> true;
                    case DISTINCT, MEDIAN, PERCENTILE, MIN, MAX -> false;
                });
        return told
                ? new Measures(
                        measures,
                        false,
                        new Source.Grouped(new AddedUp(fields(flow).distinct().toList(), flow.isPresent())))
                : this;
    }

    private Stream<Field> fields(Optional<Field> also) {
        return Stream.concat(measures.stream().flatMap(m -> m.field().stream()), also.stream());
    }

    /** What they are made of, where that is not the records themselves. */
    private Optional<AddedUp> sums() {
        return switch (source) {
            case Source.Records r -> Optional.empty();
            case Source.Grouped(AddedUp sums) -> Optional.of(sums);
            case Source.Kept(AddedUp sums) -> Optional.of(sums);
        };
    }

    /** The number of records. */
    String number(Optional<String> only) {
        String filter = filter(only, Optional.empty());
        return sums().map(s -> s.number(filter)).orElse("count(*)" + filter);
    }

    /**
     * Leaves out groups that have come to no record since they were kept; records themselves make no such groups.
     *
     * @param or what groups are left in all the same
     */
    String some(Optional<String> or) {
        return source instanceof Source.Kept(AddedUp sums)
                ? " having " + sums.number("") + " <> 0"
                        + or.map(o -> " or " + o).orElse("")
                : "";
    }

    /**
     * The columns that they are made of, each once, as they are read.
     *
     * @param also a number whose {@link #sides} are wanted besides
     */
    List<String> needed(Optional<Field> also) {
        return source instanceof Source.Kept(AddedUp sums)
                ? sums.needed(fields(also))
                : fields(also).map(Where::column).distinct().toList();
    }

    /** What these columns come to in a group, where measures are made of that. */
    Optional<String> inGroup(Optional<Field> also) {
        return switch (source) {
            case Source.Records r -> Optional.empty();
            case Source.Grouped(AddedUp sums) -> Optional.of(sums.of("", 1));
            case Source.Kept(AddedUp sums) -> Optional.of(AddedUp.again(sums.needed(fields(also))));
        };
    }

    /** The fields of which what is no number is counted, in the order of their columns. */
    public List<Field> countedOut() {
        return finite
                ? measures.stream()
                        .filter(m -> m.function().reckons())
                        .map(m -> m.field().orElseThrow())
                        .filter(f -> f.type().isNumeric())
                        .distinct()
                        .toList()
                : List.of();
    }

    /** The number of its columns. */
    public int width() {
        return measures.size() + countedOut().size();
    }

    /**
     * The columns, each behind a comma.
     *
     * @param from the number that the first column is named by: {@code c2}
     */
    String columns(int from) {
        return columns("c", from);
    }

    /**
     * The columns, each behind a comma.
     *
     * @param prefix what their names begin with
     * @param from the number that the first name ends with
     */
    String columns(String prefix, int from) {
        return columns(prefix, from, Optional.empty());
    }

    /**
     * The columns, each behind a comma.
     *
     * @param prefix what their names begin with
     * @param from the number that the first name ends with
     * @param only what the records satisfy that are measured; all of them when absent
     */
    String columns(String prefix, int from, Optional<String> only) {
        StringBuilder sql = new StringBuilder();
        int at = from;
        for (Measure measure : measures) {
            sql.append(", ").append(sql(measure, only)).append(" as " + prefix).append(at++);
        }
        for (Field field : countedOut()) {
            String column = Where.column(field);
            sql.append(", count(" + column + ")" + filter(only, Optional.of("not (" + Page.bounded(column) + ")"))
                            + " as " + prefix)
                    .append(at++);
        }
        return sql.toString();
    }

    /** What of a number is above zero, and what is below it, added up; each behind a comma. */
    String sides(Field field, String prefix, Optional<String> only) {
        return side(field, "> 0", only) + " as " + prefix + "_in" + side(field, "< 0", only) + " as " + prefix + "_out";
    }

    private String side(Field field, String zero, Optional<String> only) {
        Optional<AddedUp> sums = sums();
        if (sums.isPresent()) {
            String filter = filter(only, Optional.empty());
            return ", "
                    + (zero.startsWith(">")
                            ? sums.get().above(field, filter)
                            : sums.get().below(field, filter));
        }
        String column = Where.column(field);
        String side = column + " " + zero + (finite ? " and " + Page.bounded(column) : "");
        return ", sum(" + column + ")" + filter(only, Optional.of(side));
    }

    private String sql(Measure measure, Optional<String> only) {
        Optional<Field> field = measure.field();
        Optional<AddedUp> sums = sums();
        if (sums.isPresent()) {
            String filter = filter(only, Optional.empty());
            return switch (measure.function()) {
                case COUNT -> number(only);
                case SUM -> sums.get().sum(field.orElseThrow(), filter);
                case AVERAGE ->
                    "trim_scale((" + sums.get().sum(field.orElseThrow(), filter) + ") / "
                            + sums.get().values(field.orElseThrow(), filter) + ")";
                case DISTINCT, MEDIAN, PERCENTILE, MIN, MAX ->
                    throw new IllegalArgumentException("not made of sums: " + measure.words());
            };
        }
        String column = field.map(Where::column).orElse("*");
        boolean reckons = finite
                && measure.function().reckons()
                && field.orElseThrow().type().isNumeric();
        String filter = filter(only, reckons ? Optional.of(Page.bounded(column)) : Optional.empty());
        return switch (measure.function()) {
            case COUNT -> "count(*)" + filter;
            case DISTINCT -> "count(distinct " + Where.value(field.orElseThrow()) + ")" + filter;
            case SUM -> "sum(" + column + ")" + filter;
            case AVERAGE -> "trim_scale(avg(cast(" + column + " as numeric))" + filter + ")";
            // percentile_cont reckons in binary fractions; these two are values of records.
            case MEDIAN ->
                "trim_scale((" + middle(column, "asc") + filter + " + " + middle(column, "desc") + filter + ") / 2)";
            case PERCENTILE -> percentile(column, measure.percent().orElseThrow()) + filter;
            case MIN -> "min(" + column + ")" + filter;
            case MAX -> "max(" + column + ")" + filter;
        };
    }

    private static String filter(Optional<String> only, Optional<String> also) {
        return only.isEmpty() && also.isEmpty()
                ? ""
                : Stream.concat(only.stream(), also.stream())
                        .collect(Collectors.joining(" and ", " filter (where ", ")"));
    }

    /**
     * The value at the rank that is {@code percent} hundredths of the number of values, rounded up. PostgreSQL reckons the rank in binary
     * fractions, where 7 % of 100 is a little more than 7; what is taken off is more than that, and less than a value's share.
     */
    private static String percentile(String column, int percent) {
        String part =
                BigDecimal.valueOf(percent, 2).subtract(new BigDecimal("1e-13")).toPlainString();
        return "percentile_disc(" + part + ") within group (order by cast(" + column + " as numeric))";
    }

    private static String middle(String column, String direction) {
        return "percentile_disc(0.5) within group (order by cast(" + column + " as numeric) " + direction + ")";
    }
}
