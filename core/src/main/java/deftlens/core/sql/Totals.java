package deftlens.core.sql;

import deftlens.core.condition.Bound;
import deftlens.core.field.Field;
import deftlens.core.time.Reading;
import deftlens.core.time.Shift;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;

/**
 * The SQL of totals: figures of the matching records for each row of up to three levels, for the rows above them, and for all records;
 * where a level lies across, each of these for each column of it too. One pass over the records makes them all (grouping sets).
 *
 * <p>A second condition, over the figures, leaves out rows of the innermost level afterwards. The rows above these, and the line under
 * them, are then made of what is left; the figures of all records come besides.
 *
 * <p>The same figures of the records of an {@link Earlier earlier} time can stand beside them, put into the rows and columns that they
 * are compared in, or all of them before the first period. Which rows are kept is asked of the figures of now.
 *
 * <p>Worked example: rows by site and kind, months across, the sum of a cost. {@code 1 site, 1 kind, no month} is the sum of a kind at
 * a site; {@code 1 site, no kind, month} is the sum of a site in a month; without any of them it is the sum of everything.
 *
 * @param rows the levels of the rows, the outermost first; at most {@value #MAX_ROWS}
 * @param across the level of the columns
 * @param measures what is told of the records of a row and column
 * @param keep what the rows of the innermost level satisfy: over fields whose columns are {@link #figure}, {@link #share} and, where
 *     there is a flow, those of {@link Balance}
 * @param flow a number of which what is above zero and what is below it are added up apart
 */
public record Totals(
        List<Groups.Level> rows,
        Optional<Groups.Level> across,
        Measures measures,
        Optional<Bound> keep,
        Optional<Field> flow) {

    /** The most levels of rows. */
    public static final int MAX_ROWS = 3;

    /** Digits behind the point of a share of the total. */
    public static final int SHARE_DIGITS = 6;

    /** The column that tells which levels are rolled up: bit 0 for the last of {@link #levels()}, bit 1 for the one before it, … */
    public static final String ROLLED_UP = "deft_rolled_up";

    private static final String KEY = "deft_k";
    private static final String NUMBER = "deft_n";
    private static final String FIGURE = "deft_m";
    private static final String SHARE = "deft_s";
    private static final String THEN = "deft_then";
    private static final String EARLIER = "deft_e";
    private static final String ROW = "deft_row";
    private static final String NOW_SIDE = "deft_now";
    private static final String THEN_SIDE = "deft_before";

    /** The columns of {@link #flow}. */
    private static final int FLOW = 2;

    /**
     * Totals of records.
     *
     * @throws IllegalArgumentException when there are too many levels, or rows are to be kept where there are none
     */
    public Totals {
        rows = List.copyOf(rows);
        if (rows.size() > MAX_ROWS) {
            throw new IllegalArgumentException("there are at most " + MAX_ROWS + " levels of rows");
        }
        if (keep.isPresent() && rows.isEmpty()) {
            throw new IllegalArgumentException("there are no rows to leave out");
        }
    }

    /** The column of a measure in the rows that {@link #keep} is asked of. */
    public static String figure(int measure) {
        return FIGURE + measure;
    }

    /** The column of the share of the total that a measure which adds up has there: 0.25 for a quarter; empty where the total is 0. */
    public static String share(int measure) {
        return SHARE + measure;
    }

    /** What of {@link #flow} a balance is made of, in the rows that {@link #keep} is asked of. */
    public enum Balance {
        /** The sum of the earlier time; 0 where there is none. */
        OPENING,
        /** What is above zero. */
        IN,
        /** What is below zero. */
        OUT,
        /** Both together. */
        MOVEMENT,
        /** The opening and the movement. */
        CLOSING;

        /** Its column. */
        public String column() {
            return "deft_b_" + name().toLowerCase(Locale.ROOT);
        }
    }

    /** All levels in the order of their columns: those of the rows, then that of the columns. */
    public List<Groups.Level> levels() {
        List<Groups.Level> levels = new ArrayList<>(rows);
        across.ifPresent(levels::add);
        return List.copyOf(levels);
    }

    /**
     * Records of an earlier time.
     *
     * @param condition what they satisfy
     * @param field the date or moment that lies earlier
     * @param place where its periods stand
     */
    public record Earlier(Sql condition, Field field, Place place) {

        /** Records that are compared with: each period stands where it is moved to; as it is, where nothing is to be moved. */
        public static Earlier compared(Sql condition, Field field, Optional<Shift> shift) {
            return new Earlier(
                    condition, field, shift.<Place>map(Place.Moved::new).orElseGet(Place.Same::new));
        }

        /** Records that came before all others: they stand before the first period, at {@code -infinity}. */
        public static Earlier before(Sql condition, Field field) {
            return new Earlier(condition, field, new Place.Before());
        }

        /** Where the periods of an earlier time stand. */
        sealed interface Place {
            /** As they are. */
            record Same() implements Place {}

            /** Among those of now. */
            record Moved(Shift shift) implements Place {}

            /** Before the first one. */
            record Before() implements Place {}
        }

        private Sql key(Groups.Level level, Reading reading) {
            boolean own = level instanceof Groups.Level.Periods periods
                    && periods.field().equals(field);
            return switch (place) {
                case Place.Moved(Shift shift) when own -> Groups.key(level, field, shift, reading);
                case Place.Before b when own -> Sql.of("cast('-infinity' as timestamp)");
                case Place.Same s -> Groups.key(level, reading);
                case Place.Moved m -> Groups.key(level, reading);
                case Place.Before b -> Groups.key(level, reading);
            };
        }
    }

    /**
     * Which of the outermost rows are there. Somebody who wants the first ten of them has all rows told first, orders them, and asks again
     * for the ten alone: then the line under them is of these, also where its figures do not add up.
     */
    public sealed interface Outermost {
        /** All. */
        record All() implements Outermost {}

        /** All; each cell has a text in its last column that tells its outermost row from others, none where that is rolled up. */
        record Told() implements Outermost {}

        /** Those of such texts. */
        record Only(List<String> texts) implements Outermost {}
    }

    /** The number of columns of figures: the measures, and what is above and below zero. */
    public int width() {
        return measures.width() + (flow.isPresent() ? FLOW : 0);
    }

    /**
     * Selects the cells: {@code whole}, whether it is a figure of all records beside those that are kept; {@value #ROLLED_UP}; then for each
     * of {@link #levels()} what the records have in common, as {@link Groups#of} selects it; the number of records; the measures; and of
     * {@link #flow} what is above zero and what is below it. With an earlier time the same of its records follow. The rows come in the ascending order of their values, those
     * without one last; the innermost first.
     *
     * @param limit the most cells
     */
    public Sql select(Scope scope, Sql condition, Optional<Earlier> earlier, Reading reading, int limit) {
        return select(scope, condition, earlier, new Outermost.All(), reading, limit);
    }

    /**
     * The same of some of the outermost rows.
     *
     * @throws IllegalArgumentException where these are to be told apart and there are none
     */
    public Sql select(
            Scope scope, Sql condition, Optional<Earlier> earlier, Outermost outermost, Reading reading, int limit) {
        if (!(outermost instanceof Outermost.All) && rows.isEmpty()) {
            throw new IllegalArgumentException("there are no rows");
        }
        int levels = levels().size();
        Measures grouped = measures.inGroups(flow);
        if (!grouped.equals(measures) && levels > 0) {
            return new Totals(rows, across, grouped, keep, flow)
                    .select(scope, condition, earlier, outermost, reading, limit);
        }
        Optional<String> inGroup = measures.inGroup(flow).filter(g -> levels > 0);
        String read = inGroup.isPresent() ? "deft_read" : "deft_keyed";
        Sql sql = new Sql()
                .add("with " + read + " as (select ")
                .add(keys(Optional.empty(), reading))
                .add(columns());
        if (earlier.isPresent()) {
            sql.add(", false as " + THEN);
        }
        sql.add(scope.source()).add(" and ").add(condition);
        earlier.ifPresent(e -> sql.add(" union all select ")
                .add(keys(earlier, reading))
                .add(columns())
                .add(", true")
                .add(scope.source())
                .add(" and ")
                .add(e.condition()));
        sql.add(")");
        inGroup.ifPresent(sums -> {
            String common = keyed(levels) + (earlier.isPresent() ? ", " + THEN : "");
            sql.add(", deft_keyed as (select " + common + ", " + sums + " from " + read + " group by " + common + ")");
        });
        Optional<String> now = earlier.map(e -> "not " + THEN);
        keep.ifPresent(bound ->
                sql.add(rowsToKeep(earlier.isPresent())).add(Where.of(bound)).add(")"));
        String figures = told(now, NUMBER, FIGURE)
                + (earlier.isPresent() ? ", " + told(Optional.of(THEN), EARLIER + "n", EARLIER) : "");
        String from = " from deft_keyed";
        boolean tells = outermost instanceof Outermost.Told;
        sql.add(" select * from (select false as whole, " + rolledUp(levels) + " as " + ROLLED_UP + ", "
                + IntStream.range(0, levels).mapToObj(i -> told(i) + ", ").collect(Collectors.joining()) + figures
                + (tells ? ", case when grouping(" + KEY + "0) = 0 then " + path(1) + " end as " + ROW : "") + from);
        List<Sql> shown = new ArrayList<>();
        if (keep.isPresent()) {
            shown.add(Sql.of(path(rows.size()) + " in (select path from deft_kept)"));
        }
        if (outermost instanceof Outermost.Only(List<String> texts)) {
            shown.add(new Sql()
                    .add(path(1) + " = any(cast(")
                    .bind(texts.toArray(String[]::new))
                    .add(" as text[]))"));
        }
        for (int i = 0; i < shown.size(); i++) {
            sql.add(i == 0 ? " where " : " and ").add(shown.get(i));
        }
        sql.add(sets() + someRows(levels));
        if (!shown.isEmpty()) {
            sql.add(" union all select true, " + allRolledUp() + ", " + "null, ".repeat(rows.size())
                    + (across.isPresent() ? told(rows.size()) + ", " : "") + figures + (tells ? ", null" : "") + from
                    + allSets()
                    + (across.isPresent()
                            ? measures.some(Optional.of("grouping(" + KEY + rows.size() + ") = 1"))
                            : ""));
        }
        sql.add(") deft_cells order by whole, " + ROLLED_UP);
        for (int i = 0; i < levels; i++) {
            sql.add(", " + KEY + i + " is null, ").add(Groups.order(levels().get(i), KEY + i, false, reading));
        }
        return sql.add(" limit ").bind((long) limit);
    }

    /** What is told of a level's key. */
    private String told(int level) {
        return Groups.value(levels().get(level), KEY + level) + " as " + KEY + level;
    }

    /** Leaves out rows that have come to no record; the line of all of them stays. */
    private String someRows(int levels) {
        return levels == 0 ? "" : measures.some(Optional.of(rolledUp(levels) + " = " + ((1 << levels) - 1)));
    }

    private Sql keys(Optional<Earlier> earlier, Reading reading) {
        Sql sql = new Sql();
        for (int i = 0; i < levels().size(); i++) {
            Groups.Level level = levels().get(i);
            sql.add(i == 0 ? "" : ", ")
                    .add(earlier.map(e -> e.key(level, reading)).orElseGet(() -> Groups.key(level, reading)))
                    .add(" as " + KEY + i);
        }
        return sql;
    }

    /** The columns that measures need. */
    private String columns() {
        List<String> needed = measures.needed(flow);
        String first = levels().isEmpty() ? "" : ", ";
        return needed.isEmpty() ? levels().isEmpty() ? "1 as deft_one" : "" : first + String.join(", ", needed);
    }

    /** The number of records and the measures. */
    private String told(Optional<String> only, String number, String prefix) {
        return measures.number(only) + " as " + number
                + measures.columns(prefix, 0, only)
                + flow.map(f -> measures.sides(f, prefix, only)).orElse("");
    }

    /**
     * The rows that {@link #keep} is asked of, up to its condition: those of now, or, where balances are, also those of which there was
     * something before.
     */
    private String rowsToKeep(boolean hasEarlier) {
        Optional<String> now = hasEarlier ? Optional.of("not " + THEN) : Optional.empty();
        String rows = flow.map(f -> measures.columns(FIGURE, 0, now) + measures.sides(f, NOW_SIDE, now)
                        + (hasEarlier ? measures.sides(f, THEN_SIDE, Optional.of(THEN)) : "") + " from deft_keyed")
                .orElseGet(() -> measures.columns(FIGURE, 0) + " from deft_keyed"
                        + now.map(n -> " where " + n).orElse(""));
        return ", deft_rows as (select " + keyed(rows().size()) + rows + " group by " + keyed(rows().size())
                + measures.some(Optional.empty()) + "), deft_kept as (select " + path(rows().size())
                + " as path from (select deft_rows.*" + shares()
                + flow.map(f -> balance(hasEarlier)).orElse("")
                + " from deft_rows) deft_rows where ";
    }

    private static String balance(boolean hasEarlier) {
        String in = "coalesce(" + NOW_SIDE + "_in, 0)";
        String out = "coalesce(" + NOW_SIDE + "_out, 0)";
        String opening = hasEarlier
                ? "coalesce(" + THEN_SIDE + "_in, 0) + coalesce(" + THEN_SIDE + "_out, 0)"
                : "cast(0 as numeric)";
        return Stream.of(Balance.values())
                .map(figure -> ", "
                        + switch (figure) {
                            case OPENING -> opening;
                            case IN -> in;
                            case OUT -> out;
                            case MOVEMENT -> in + " + " + out;
                            case CLOSING -> opening + " + " + in + " + " + out;
                        }
                        + " as " + figure.column())
                .collect(Collectors.joining());
    }

    /** The share of the total that each measure has which adds up, among the innermost rows. */
    private String shares() {
        return IntStream.range(0, measures.measures().size())
                .filter(i -> measures.measures().get(i).function().addsUp())
                .mapToObj(i -> ", round(" + figure(i) + " / nullif(sum(" + figure(i) + ") over (), 0), " + SHARE_DIGITS
                        + ") as " + share(i))
                .collect(Collectors.joining());
    }

    /** What rows have in common as a text that tells them apart, whether or not they have a value; 1.5 and 1.50 are one number. */
    private String path(int levels) {
        return IntStream.range(0, levels)
                .mapToObj(i -> rows.get(i) instanceof Groups.Level.Values(Field field)
                                && field.type().isNumeric()
                        ? "trim_scale(cast(" + KEY + i + " as numeric))"
                        : KEY + i)
                .collect(Collectors.joining(", ", "cast(row(", ") as text)"));
    }

    private static String keyed(int levels) {
        return IntStream.range(0, levels).mapToObj(i -> KEY + i).collect(Collectors.joining(", "));
    }

    private static String rolledUp(int levels) {
        return levels == 0 ? "0" : "grouping(" + keyed(levels) + ")";
    }

    /** What {@link #ROLLED_UP} is of figures of all records: rows are, columns may be. */
    private String allRolledUp() {
        int all = (1 << rows.size()) - 1;
        return across.isPresent() ? (all << 1) + " + grouping(" + KEY + rows.size() + ")" : String.valueOf(all);
    }

    /** Every row, every row above it, all together; each for each column too. */
    private String sets() {
        List<String> sets = new ArrayList<>();
        for (int depth = rows.size(); depth >= 0; depth--) {
            String keys = keyed(depth);
            across.ifPresent(a -> sets.add((keys.isEmpty() ? "" : keys + ", ") + KEY + rows.size()));
            sets.add(keys);
        }
        return groupingSets(sets);
    }

    private String allSets() {
        List<String> sets = new ArrayList<>(List.of(""));
        across.ifPresent(a -> sets.add(KEY + rows.size()));
        return groupingSets(sets);
    }

    private static String groupingSets(List<String> sets) {
        return sets.stream().collect(Collectors.joining("), (", " group by grouping sets ((", "))"));
    }
}
