package deftlens.server.totals;

import com.fasterxml.jackson.annotation.JsonProperty;
import deftlens.core.condition.Comparison;
import deftlens.core.field.Field;
import deftlens.core.field.Measure;
import deftlens.core.field.Register;
import deftlens.core.sql.Totals;
import deftlens.server.platform.Problem;
import deftlens.server.question.Shape;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.totals.TotalFigure.Kind;
import jakarta.validation.constraints.Max;
import jakarta.validation.constraints.Min;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/**
 * How totals are made of a question's records.
 *
 * @param rows the levels of the rows, the outermost first
 * @param across the level of the columns
 * @param figures what is told in each
 * @param keep what the innermost rows satisfy: a statement over the names of the figures
 * @param order the name of the figure that rows are ordered by, after a {@code -} where the greatest comes first
 * @param empties whether periods, weekdays and hours without records are there
 * @param compare the earlier time whose figures stand beside
 * @param balances where the balances of the register's own number begin; absent where none are shown
 * @param limit how many of the outermost rows are shown, the first ones in their order; all when absent
 */
record TotalsPlan(
        List<Shape.Grouping> rows,
        Optional<Shape.Grouping> across,
        List<TotalFigure> figures,
        Optional<String> keep,
        Optional<String> order,
        boolean empties,
        Optional<Comparison.With> compare,
        Optional<Shape.Opening> balances,
        Optional<Integer> limit) {

    private static final int MAX_FIGURES = 20;
    private static final int LONGEST_NAME = 63;

    /** What is told of records. */
    enum Function {
        @JsonProperty("count")
        COUNT,
        @JsonProperty("distinct")
        DISTINCT,
        @JsonProperty("sum")
        SUM,
        @JsonProperty("average")
        AVERAGE,
        @JsonProperty("median")
        MEDIAN,
        @JsonProperty("percentile")
        PERCENTILE,
        @JsonProperty("min")
        MIN,
        @JsonProperty("max")
        MAX,
        /** The share of the total: of the sum of the field, or of the number of records where there is none. */
        @JsonProperty("share")
        SHARE
    }

    /**
     * A figure as it is asked for.
     *
     * @param name a letter, then letters, digits and underscores, at most 63; {@code number} or {@code sum_of_cost} when absent
     * @param field what it is about; absent for the number of records, and for the share of it
     * @param percent of a percentile how many percent of the values are at or below it, 1 to 99; 90 when absent
     */
    record FigureRequest(
            Optional<String> name,
            Function function,
            Optional<String> field,
            Optional<@Min(1) @Max(99) Integer> percent) {

        /** The number of records. */
        static final FigureRequest NUMBER =
                of(new Shape.Figure(Measure.Function.COUNT, Optional.empty(), Optional.empty()));

        static FigureRequest of(Shape.Figure figure) {
            return new FigureRequest(
                    Optional.empty(), Function.valueOf(figure.function().name()), figure.field(), figure.percent());
        }

        static FigureRequest share(Optional<String> field) {
            return new FigureRequest(Optional.empty(), Function.SHARE, field, Optional.empty());
        }
    }

    /** The totals that a view keeps: its groups are the rows, its measures the figures; the number of records where it has none. */
    static TotalsPlan of(Shape shape, RegisterForReader described) {
        Shape.Totals totals = shape.totals().orElseThrow();
        List<Shape.Figure> told =
                shape.measures().isEmpty() && totals.balances().isEmpty()
                        ? List.of(new Shape.Figure(Measure.Function.COUNT, Optional.empty(), Optional.empty()))
                        : shape.measures();
        boolean shares = totals.shares().orElse(false);
        List<FigureRequest> asked = told.stream()
                .flatMap(f -> {
                    FigureRequest figure = FigureRequest.of(f);
                    return shares && f.function().addsUp()
                            ? Stream.of(figure, FigureRequest.share(f.field()))
                            : Stream.of(figure);
                })
                .toList();
        return of(
                described,
                shape.groups(),
                totals.across(),
                asked,
                totals.keep(),
                totals.order(),
                totals.empties().orElse(true),
                totals.compare(),
                totals.changes().orElse(false),
                totals.balances(),
                totals.limit());
    }

    /**
     * Totals as they are asked for.
     *
     * @param changes whether numbers have their change against the column before beside them
     * @throws Problem where the register has no such fields, or figures are not told apart
     */
    static TotalsPlan of(
            RegisterForReader described,
            List<Shape.Grouping> rows,
            Optional<Shape.Grouping> across,
            List<FigureRequest> asked,
            Optional<String> keep,
            Optional<String> order,
            boolean empties,
            Optional<Comparison.With> compare,
            boolean changes,
            Optional<Shape.Opening> balances,
            Optional<Integer> limit) {
        Register register = described.register();
        if (rows.size() > Totals.MAX_ROWS) {
            throw Problem.unprocessable("too-many-groups", "Rows are at most " + Totals.MAX_ROWS + " levels deep.");
        }
        if (asked.size() > MAX_FIGURES) {
            throw Problem.unprocessable("too-many-measures", "There are at most " + MAX_FIGURES + " figures.");
        }
        if (changes && across.isEmpty()) {
            throw Problem.unprocessable(
                    "no-columns", "A change is against the column before. Choose what lies across first.");
        }
        List<TotalFigure> figures = new ArrayList<>();
        if (balances.isPresent()) {
            figures.addAll(balance(described, rows, compare, keep, limit));
        }
        for (FigureRequest figure : asked) {
            TotalFigure read = read(register, figure, figures.size());
            figures.add(read);
            if (read.kind() == Kind.VALUE && changes && TotalFigure.subtracts(read.measure())) {
                figures.add(of(read, Kind.CHANGE));
            }
            if (read.kind() == Kind.VALUE && compare.isPresent()) {
                figures.add(of(read, Kind.EARLIER));
                if (TotalFigure.subtracts(read.measure())) {
                    figures.add(of(read, Kind.DIFFERENCE));
                    figures.add(of(read, Kind.GROWTH));
                }
            }
        }
        Set<String> names = new HashSet<>();
        figures.forEach(f -> {
            if (!names.add(f.name().toLowerCase(Locale.ROOT))) {
                throw Problem.unprocessable("named-twice", "Two figures are called “" + f.name() + "”.");
            }
        });
        Optional<String> kept = keep.map(String::strip).filter(k -> !k.isEmpty());
        if (kept.isPresent() && rows.isEmpty()) {
            throw Problem.unprocessable(
                    "no-rows", "Criteria on figures leave rows out. Choose what the rows are first.");
        }
        limit.ifPresent(Shape.Totals::requireLimit);
        if (limit.isPresent() && rows.isEmpty()) {
            throw Problem.unprocessable(
                    "no-rows", "The first rows are shown where there are rows. Choose what the rows are first.");
        }
        TotalsPlan plan = new TotalsPlan(
                List.copyOf(rows), across, List.copyOf(figures), kept, order, empties, compare, balances, limit);
        plan.ordered();
        return plan;
    }

    private static TotalFigure read(Register register, FigureRequest asked, int at) {
        boolean share = asked.function() == Function.SHARE;
        Measure.Function function = share
                ? asked.field().isPresent() ? Measure.Function.SUM : Measure.Function.COUNT
                : Measure.Function.valueOf(asked.function().name());
        Measure measure = new Shape.Figure(function, asked.field(), asked.percent()).of(register);
        String usual = share ? "share_of_" + measure.key() : measure.key();
        String name = asked.name().orElse(usual.length() > LONGEST_NAME ? "figure_" + (at + 1) : usual);
        try {
            String label = asked.name().orElse(share ? "share of the " + measure.words() : measure.words());
            TotalFigure figure = new TotalFigure(name, label, measure, share ? Kind.SHARE : Kind.VALUE);
            Field.of(name, label, figure.type());
            return figure;
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable(
                    "bad-name",
                    "A figure is called a letter, then letters, digits and underscores, at most " + LONGEST_NAME
                            + ", not “" + name + "”.");
        }
    }

    /** A figure that is made of another one; it is called by its name, however long that is. */
    private static TotalFigure of(TotalFigure figure, Kind kind) {
        String words = kind.name().toLowerCase(Locale.ROOT);
        String label = switch (kind) {
            case VALUE, SHARE, OPENING, IN, OUT, MOVEMENT, CLOSING ->
                throw new IllegalArgumentException("made of no other figure: " + kind);
            case CHANGE -> "change of the " + figure.label();
            case EARLIER -> figure.label() + ", earlier";
            case DIFFERENCE -> "difference of the " + figure.label();
            case GROWTH -> "growth of the " + figure.label();
        };
        return new TotalFigure(words + "_of_" + figure.name(), label, figure.measure(), kind);
    }

    /** The figures of the balance of a register's own number. */
    private static List<TotalFigure> balance(
            RegisterForReader described,
            List<Shape.Grouping> rows,
            Optional<Comparison.With> compare,
            Optional<String> keep,
            Optional<Integer> limit) {
        Field amount = described
                .running()
                .orElseThrow(() -> Problem.unprocessable(
                        "no-running",
                        described.register().label() + " declares no number that is added up as it goes."));
        Field date = described.main().orElseThrow();
        if (compare.isPresent()) {
            throw Problem.unprocessable(
                    "balances-alone", "Balances say themselves what was before; nothing earlier stands beside them.");
        }
        // A balance is carried from period to period within what the rows above have in common.
        boolean inside = false;
        for (Shape.Grouping row : rows) {
            boolean period = row.field().equals(date.key())
                    && row.by().filter(b -> b.step().isEmpty()).isEmpty();
            if (inside && !period) {
                throw Problem.unprocessable(
                        "balances-order",
                        "For balances the periods of " + date.label() + " come last among the rows, or across.");
            }
            inside |= period;
        }
        if (inside && rows.size() == 1 && limit.isPresent()) {
            throw Problem.unprocessable(
                    "balances-rows",
                    "A balance goes through every period, so the first ones are not shown alone. Put the periods across,"
                            + " or show all rows.");
        }
        if (inside && keep.filter(k -> !k.isBlank()).isPresent()) {
            throw Problem.unprocessable(
                    "balances-rows",
                    "A balance goes through every period, so none can be left out. Put the periods across, or take out"
                            + " what only rows are shown where.");
        }
        Measure sum = new Measure(Measure.Function.SUM, Optional.of(amount));
        return Kind.BALANCE.stream()
                .map(kind -> new TotalFigure(nameOf(kind), nameOf(kind) + " of " + amount.label(), sum, kind))
                .toList();
    }

    /** What a figure of a balance is called. */
    static String nameOf(Kind kind) {
        return kind.name().toLowerCase(Locale.ROOT);
    }

    /** Balances alone. */
    static TotalsPlan balances(RegisterForReader described, List<Shape.Grouping> rows, Shape.Opening opening) {
        return of(
                described,
                rows,
                Optional.empty(),
                List.of(),
                Optional.empty(),
                Optional.empty(),
                true,
                Optional.empty(),
                false,
                Optional.of(opening),
                Optional.empty());
    }

    /** The number of which balances are shown. */
    Optional<Field> balanced() {
        return figures.stream()
                .filter(f -> f.kind() == Kind.CLOSING)
                .flatMap(f -> f.measure().field().stream())
                .findFirst();
    }

    /** The same totals without an earlier time beside them, and in no order by figures of it. */
    TotalsPlan alone() {
        List<TotalFigure> left = figures.stream()
                .filter(f -> f.kind() != Kind.EARLIER && f.kind() != Kind.DIFFERENCE && f.kind() != Kind.GROWTH)
                .toList();
        return new TotalsPlan(
                rows,
                across,
                left,
                keep,
                order.filter(o -> left.stream().anyMatch(f -> f.name().equals(o.startsWith("-") ? o.substring(1) : o))),
                empties,
                Optional.empty(),
                balances,
                limit);
    }

    /** The line under all rows alone. */
    TotalsPlan underneath() {
        return new TotalsPlan(
                List.of(),
                Optional.empty(),
                figures.stream().filter(f -> f.kind() != Kind.CHANGE).toList(),
                Optional.empty(),
                Optional.empty(),
                empties,
                compare,
                balances,
                Optional.empty());
    }

    /** The outermost rows alone. */
    TotalsPlan outermost() {
        return new TotalsPlan(
                rows.subList(0, 1), Optional.empty(), figures, keep, order, empties, compare, balances, limit);
    }

    /** The measures that the figures are made of, each once. */
    List<Measure> measures() {
        return figures.stream().map(TotalFigure::measure).distinct().toList();
    }

    /** The figures as the fields of a register that statements over them are read with. */
    Register asRegister() {
        List<Measure> measures = measures();
        return new Register(
                "figures",
                "figures",
                "figures",
                "id",
                figures.stream()
                        .filter(f -> f.kind().isAsked())
                        .map(f -> f.field(measures))
                        .toList());
    }

    /** The name of the figure that is the sum of a field. */
    Optional<String> sumOf(String field) {
        return figures.stream()
                .filter(f -> f.kind() == Kind.VALUE && f.measure().function() == Measure.Function.SUM)
                .filter(f -> f.measure().field().map(Field::key).equals(Optional.of(field)))
                .map(TotalFigure::name)
                .findFirst();
    }

    /** The place of the figure that rows are ordered by. */
    Optional<Integer> ordered() {
        return order.map(o -> figures.indexOf(named(o.startsWith("-") ? o.substring(1) : o)));
    }

    /**
     * The figure of a name.
     *
     * @throws Problem {@code unknown-figure}
     */
    TotalFigure named(String name) {
        return figures.stream()
                .filter(f -> f.name().equals(name))
                .findFirst()
                .orElseThrow(() -> Problem.unprocessable(
                        "unknown-figure",
                        "There is no figure “" + name + "”. There are "
                                + String.join(
                                        ", ",
                                        figures.stream().map(TotalFigure::name).toList()) + "."));
    }

    /** Whether the greatest comes first. */
    boolean descends() {
        return order.filter(o -> o.startsWith("-")).isPresent();
    }
}
