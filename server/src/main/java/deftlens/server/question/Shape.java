package deftlens.server.question;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonProperty;
import deftlens.core.condition.Comparison;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Measure;
import deftlens.core.field.Register;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Order;
import deftlens.core.sql.RowSlice;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterForReader;
import jakarta.validation.constraints.Max;
import jakarta.validation.constraints.Min;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * How the records of a question are shown beyond their columns and order. Nothing here changes which records match. What
 * is absent is as usual.
 *
 * @param columns what is particular about some columns, by field
 * @param density how high a line is
 * @param wrap whether long texts are shown in full, over several lines
 * @param groups what the records are grouped by, the outermost first; at most three
 * @param measures the figures of each group and of all records together; at most ten
 * @param take the part of the records that is shown
 * @param marked whether all records are shown and those that match are marked
 * @param running where the running total of the register's own number begins, when it is shown
 * @param totals how the view is read as totals; absent where it is read as records. Its rows are the groups, its figures the
 *     measures.
 */
@JsonInclude(JsonInclude.Include.NON_EMPTY)
public record Shape(
        Map<String, Column> columns,
        Optional<Density> density,
        Optional<Boolean> wrap,
        List<Grouping> groups,
        List<Figure> measures,
        Optional<Part> take,
        Optional<Boolean> marked,
        Optional<Opening> running,
        Optional<Totals> totals) {

    /**
     * The version that is written. Older ones are read and brought up to it, wherever they come from: the database, links, files and
     * requests. See {@link ShapeVersions}.
     */
    public static final int VERSION = 2;

    /** Everything as usual. */
    public static final Shape USUAL = new Shape(
            Map.of(),
            Optional.empty(),
            Optional.empty(),
            List.of(),
            List.of(),
            Optional.empty(),
            Optional.empty(),
            Optional.empty(),
            Optional.empty());

    private static final int MOST_GROUPS = deftlens.core.sql.Totals.MAX_ROWS;
    private static final int MAX_MEASURES = 10;
    private static final int MOST_LETTERS = 80;
    private static final int NARROWEST = 40;
    private static final int WIDEST = 1_200;

    public Shape {
        columns = columns == null ? Map.of() : java.util.Collections.unmodifiableMap(new LinkedHashMap<>(columns));
        groups = groups == null ? List.of() : List.copyOf(groups);
        measures = measures == null ? List.of() : List.copyOf(measures);
    }

    /**
     * What is particular about a column.
     *
     * @param width in CSS pixels, 40 to 1,200
     * @param title its head in this view, at most 80 characters
     * @param pinned whether it stays in sight when the others are scrolled sideways
     */
    @JsonInclude(JsonInclude.Include.NON_EMPTY)
    public record Column(Optional<Integer> width, Optional<String> title, Optional<Boolean> pinned) {}

    /** How high a line is. */
    public enum Density {
        @JsonProperty("close")
        CLOSE,
        @JsonProperty("open")
        OPEN
    }

    /**
     * One level of groups.
     *
     * @param by what its groups are; of a date or moment the month when absent, of any other field its values
     * @param arranged how they follow one another; ascending when absent
     */
    @JsonInclude(JsonInclude.Include.NON_EMPTY)
    public record Grouping(String field, Optional<Groups.Kind> by, Optional<Groups.Arrangement> arranged) {}

    /**
     * A figure about the records of each group, and about all of them.
     *
     * @param field what it is about; absent for the number of records
     * @param percent of a percentile how many percent of the values are at or below it, 1 to 99; 90 when absent
     */
    @JsonInclude(JsonInclude.Include.NON_EMPTY)
    public record Figure(
            Measure.Function function, Optional<String> field, Optional<@Min(1) @Max(99) Integer> percent) {

        /**
         * The figure as the core takes it.
         *
         * @throws Problem {@code bad-measure}, where the function does not fit the field
         */
        public Measure of(Register register) {
            try {
                return new Measure(function, field.map(key -> Shape.field(register, key)), percent);
            } catch (IllegalArgumentException e) {
                throw Problem.unprocessable("bad-measure", "This cannot be measured: " + e.getMessage() + ".");
            }
        }

        private boolean fits(Field is) {
            return Measure.Function.of(is.type()).contains(function);
        }

        private boolean isAbout(String key) {
            return field.filter(key::equals).isPresent();
        }
    }

    /**
     * A part of the records: {@code first} so many; {@code from} one row {@code to} another, counted from 1; or a
     * {@code sample} of so many picked at random, the same ones again for the same {@code seed}.
     */
    @JsonInclude(JsonInclude.Include.NON_EMPTY)
    public record Part(
            Optional<Long> first,
            Optional<Long> from,
            Optional<Long> to,
            Optional<Integer> sample,
            Optional<Long> seed) {

        /** The part as the core takes it. */
        RowSlice read() {
            try {
                if (first.isPresent() && from.isEmpty() && to.isEmpty() && sample.isEmpty()) {
                    return new RowSlice.Stretch(1, first.get());
                }
                if (from.isPresent() && to.isPresent() && first.isEmpty() && sample.isEmpty()) {
                    return new RowSlice.Stretch(from.get(), to.get());
                }
                if (sample.isPresent() && first.isEmpty() && from.isEmpty() && to.isEmpty()) {
                    return new RowSlice.Sample(sample.get(), seed.orElse(1L));
                }
            } catch (IllegalArgumentException e) {
                throw Problem.unprocessable(
                        "bad-part", "This part of the records cannot be shown: " + e.getMessage() + ".");
            }
            throw Problem.unprocessable(
                    "bad-part", "Say the first so many, from one row to another, or a sample of so many; one of them.");
        }
    }

    /**
     * How a view is read as totals: a row of figures for each group instead of its records.
     *
     * @param across what the columns are, beside one another
     * @param keep what rows satisfy to be shown: a statement over the names of the figures, {@code sum_of_cost > 1000}
     * @param shares whether numbers and sums have their share of the total beside them
     * @param order the name of the figure that rows are ordered by; {@code "-sum_of_cost"} is descending; as the groups are arranged
     *     when absent
     * @param empties whether periods, weekdays and hours without records are shown; they are when absent
     * @param compare the earlier time whose figures stand beside those of the window that the view has
     * @param changes whether numbers have their change against the column before beside them
     * @param balances where the balances of the register's own number begin, when they are shown
     * @param chart how a figure is drawn beside the table, when it is
     * @param limit how many of the outermost rows are shown, the first ones in their order; all when absent
     */
    @JsonInclude(JsonInclude.Include.NON_EMPTY)
    public record Totals(
            Optional<Grouping> across,
            Optional<String> keep,
            Optional<Boolean> shares,
            Optional<String> order,
            Optional<Boolean> empties,
            Optional<Comparison.With> compare,
            Optional<Boolean> changes,
            Optional<Opening> balances,
            Optional<Chart> chart,
            Optional<@Min(1) @Max(MAX_ROWS_SHOWN) Integer> limit) {

        /** The most rows that can be said to be shown. */
        public static final int MAX_ROWS_SHOWN = 1_000;

        /** @throws Problem {@code bad-limit}, where so many rows cannot be said to be shown */
        public static void requireLimit(int limit) {
            if (limit < 1 || limit > MAX_ROWS_SHOWN) {
                throw Problem.unprocessable(
                        "bad-limit",
                        "The first 1 to " + String.format("%,d", MAX_ROWS_SHOWN) + " rows can be shown, not " + limit
                                + ".");
            }
        }

        private Totals fitting(Optional<Grouping> left, boolean hasRows, boolean hasBalances) {
            return new Totals(
                    left,
                    // Where there are no rows none is left out.
                    keep.filter(k -> hasRows),
                    shares,
                    order,
                    empties,
                    compare,
                    // A change is against the column before.
                    changes.filter(c -> left.isPresent()),
                    balances.filter(b -> hasBalances),
                    chart,
                    limit.filter(l -> hasRows));
        }
    }

    /**
     * A figure of totals, drawn.
     *
     * @param figure the name of the figure; the first one when absent, or when there is none of that name any more
     */
    public record Chart(Drawing kind, Optional<String> figure) {}

    /** What a chart is made of. */
    public enum Drawing {
        /** A bar for each row and column, beside one another. */
        @JsonProperty("bars")
        BARS,
        /** A bar for each row, what lies across upon one another. */
        @JsonProperty("stacked")
        STACKED,
        /** A line for each row along what lies across. */
        @JsonProperty("line")
        LINE,
        /** A small chart for each row, all by one measure. */
        @JsonProperty("multiples")
        MULTIPLES
    }

    /** What a running total begins with. */
    public enum Opening {
        /** The sum of everything that came before the first record shown. */
        @JsonProperty("beginning")
        BEGINNING,
        /** Nothing. */
        @JsonProperty("zero")
        ZERO
    }

    /** The same with other groups and figures, of another part of the records. */
    public Shape with(List<Grouping> by, List<Figure> told, Optional<Part> of) {
        return new Shape(columns, density, wrap, by, told, of, marked, running, totals);
    }

    /** The version, for whoever reads it later. */
    @JsonProperty(access = JsonProperty.Access.READ_ONLY)
    public int version() {
        return VERSION;
    }

    /** The part that is shown, as the core takes it. */
    public Optional<RowSlice> taken() {
        return take.map(Part::read);
    }

    /** The figures, as the core takes them. */
    public List<Measure> measures(RegisterForReader described) {
        return measures.stream().map(m -> m.of(described.register())).toList();
    }

    /** The heads of columns that are called something else here. */
    public Map<String, String> titles() {
        Map<String, String> titles = new LinkedHashMap<>();
        columns.forEach((key, column) -> column.title().ifPresent(t -> titles.put(key, t)));
        return titles;
    }

    /**
     * Refuses what a register cannot be shown as.
     *
     * @return this shape
     */
    public Shape checked(RegisterForReader described) {
        Register register = described.register();
        columns.forEach((key, column) -> {
            field(register, key);
            if (column.width().filter(w -> w < NARROWEST || w > WIDEST).isPresent()) {
                throw Problem.unprocessable(
                        "bad-width", "A column is from " + NARROWEST + " to " + WIDEST + " pixels wide.");
            }
            if (column.title()
                    .filter(t -> t.isBlank() || t.length() > MOST_LETTERS)
                    .isPresent()) {
                throw Problem.unprocessable(
                        "bad-title", "A column is called something of at most " + MOST_LETTERS + " characters.");
            }
        });
        if (groups.size() > MOST_GROUPS) {
            throw Problem.unprocessable("too-many-groups", "Records are grouped at most " + MOST_GROUPS + " deep.");
        }
        Set<String> grouped = new HashSet<>();
        for (Grouping group : levels()) {
            GroupLevels.check(field(register, group.field()), group);
            if (!grouped.add(group.field() + group.by())) {
                throw Problem.unprocessable("grouped-twice", "The records are grouped by " + group.field() + " twice.");
            }
        }
        if (measures.size() > MAX_MEASURES) {
            throw Problem.unprocessable("too-many-measures", "There are at most " + MAX_MEASURES + " figures.");
        }
        if (Set.copyOf(measures(described)).size() < measures.size()) {
            throw Problem.unprocessable("measured-twice", "The same figure is asked for twice.");
        }
        take.ifPresent(Part::read);
        if ((running.isPresent() || totals.flatMap(Totals::balances).isPresent())
                && described.running().isEmpty()) {
            throw Problem.unprocessable(
                    "no-running", register.label() + " declares no number that is added up as it goes.");
        }
        if (marked.orElse(false) && (!groups.isEmpty() || take.isPresent() || running.isPresent())) {
            throw Problem.unprocessable(
                    "marks-alone", "All records with matches marked go without groups, parts and running totals.");
        }
        totals.flatMap(Totals::limit).ifPresent(Totals::requireLimit);
        if (totals.isPresent() && (take.isPresent() || marked.orElse(false))) {
            throw Problem.unprocessable("totals-whole", "Totals are of all records that match, not of a part of them.");
        }
        if (running.isPresent() && take.isPresent()) {
            throw Problem.unprocessable("running-whole", "A running total goes over all records, not over a part.");
        }
        return this;
    }

    /** All levels that records are put together by: those of the rows, and that of the columns of totals. */
    public List<Grouping> levels() {
        return Stream.concat(groups.stream(), totals.flatMap(Totals::across).stream())
                .toList();
    }

    /** The same, for records in an order, which a running total has to go with. */
    public Shape checked(RegisterForReader described, Order order) {
        if (running.isPresent()) {
            Orders.amount(described, order);
        }
        return checked(described);
    }

    /**
     * The same shape without what belongs to fields that are not there (any more, or for this reader), and without groups and figures
     * that a field does not make (any more).
     */
    public Shape fitting(RegisterForReader described) {
        Register register = described.register();
        Map<String, Column> there = new LinkedHashMap<>();
        columns.forEach((key, column) -> register.field(key).ifPresent(f -> there.put(key, column)));
        List<Grouping> rows = groups.stream()
                .filter(g -> register.field(g.field())
                        .filter(f -> GroupLevels.fits(f, g))
                        .isPresent())
                .toList();
        return new Shape(
                there,
                density,
                wrap,
                rows,
                measures.stream()
                        .filter(m -> m.field().isEmpty()
                                || m.field()
                                        .flatMap(register::field)
                                        .filter(m::fits)
                                        .isPresent())
                        .toList(),
                take,
                marked,
                running.filter(r -> described.running().isPresent()),
                totals.map(t -> t.fitting(
                        t.across()
                                .filter(a -> register.field(a.field())
                                        .filter(f -> GroupLevels.fits(f, a))
                                        .isPresent()),
                        !rows.isEmpty(),
                        described.running().isPresent())));
    }

    /** Whether its groups and figures go with a field as it is to be. */
    public boolean goesWith(Field field) {
        return levels().stream().filter(g -> g.field().equals(field.key())).allMatch(g -> GroupLevels.fits(field, g))
                && measures.stream().filter(m -> m.isAbout(field.key())).allMatch(m -> m.fits(field));
    }

    /** The fields that the shape needs. */
    public Set<String> fields() {
        Set<String> fields = new HashSet<>(columns.keySet());
        levels().forEach(g -> fields.add(g.field()));
        measures.forEach(m -> m.field().ifPresent(fields::add));
        return fields;
    }

    private static Field field(Register register, String key) {
        return register.field(key)
                .filter(f -> f.type() != FieldType.SPAN)
                .orElseThrow(() ->
                        Problem.unprocessable("unknown-field", register.label() + " has no column “" + key + "”."));
    }
}
