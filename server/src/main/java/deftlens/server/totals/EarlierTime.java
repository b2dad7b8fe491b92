package deftlens.server.totals;

import deftlens.core.condition.Comparison;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Histogram;
import deftlens.core.time.Shift;
import deftlens.core.time.Window;
import deftlens.server.question.Question;
import java.time.Instant;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * The earlier time that a question is compared with.
 *
 * @param comparison absent where there is none for this question
 * @param notes what is to be known about it, in whole sentences
 */
record EarlierTime(Optional<Comparison> comparison, List<String> notes) {

    private static final DateTimeFormatter DAY = DateTimeFormatter.ofPattern("d MMM uuuu", Locale.ENGLISH);

    static EarlierTime of(Question question, Comparison.With with, List<Groups.Level> levels) {
        Register register = question.register();
        Optional<Field> main = question.registerForReader().main();
        Optional<Comparison> found = Comparison.of(
                question.condition(), with, main.map(Field::key).orElse(""), register, question.reading());
        if (found.isEmpty()) {
            String label = main.map(Field::label).orElse("Date");
            return none(
                    "Nothing is compared: the question has no window with two ends that all its records lie in, such as “"
                            + label + " in this month”.");
        }
        Comparison comparison = found.get();
        List<Histogram.Step> steps = steps(levels, comparison);
        if (comparison.shift().isEmpty() && !steps.isEmpty()) {
            return none("Nothing is compared: rows and columns by "
                    + steps.getFirst().words() + " of " + comparison.field().label() + " need a window of whole days.");
        }
        List<String> notes = new ArrayList<>();
        Instant now = question.reading().now();
        if (comparison.window().end().isAfter(now)) {
            String begun = comparison.window().start().isAfter(now) ? "has not begun" : "is not over";
            notes.add("This window " + begun
                    + switch (comparison.window()) {
                        case Window.Days days -> ": it ends on " + DAY.format(days.lastDay()) + ".";
                        case Window.Instants i -> ".";
                    });
        }
        if (comparison.window() instanceof Window.Days days
                && comparison.earlier() instanceof Window.Days earlier
                && days.length() != earlier.length()) {
            notes.add("It has " + days(days.length()) + ", the earlier one " + earlier.length() + ".");
        }
        if (comparison.shift().map(Shift::months).orElse(0) > 0
                && steps.stream().anyMatch(s -> s == Histogram.Step.DAY || s == Histogram.Step.HOUR)) {
            notes.add("A day that a month does not have stands on its last day.");
        }
        return new EarlierTime(found, List.copyOf(notes));
    }

    private static EarlierTime none(String note) {
        return new EarlierTime(Optional.empty(), List.of(note));
    }

    private static String days(long count) {
        return count == 1 ? "1 day" : count + " days";
    }

    /** The steps of the rows and columns that are periods of the field whose window is moved. */
    private static List<Histogram.Step> steps(List<Groups.Level> levels, Comparison comparison) {
        List<Histogram.Step> steps = new ArrayList<>();
        for (Groups.Level level : levels) {
            if (level instanceof Groups.Level.Periods periods && periods.field().equals(comparison.field())) {
                steps.add(periods.step());
            }
        }
        return steps;
    }

    /** What is said of it beside the totals. */
    TotalsAnswer.TotalsComparison said(Comparison.With with) {
        return new TotalsAnswer.TotalsComparison(
                with, comparison.map(c -> said(c, c.window())), comparison.map(c -> said(c, c.earlier())), notes);
    }

    private static TotalsAnswer.TotalsWindow said(Comparison comparison, Window window) {
        return new TotalsAnswer.TotalsWindow(
                comparison.field().key(),
                Optional.of(
                        switch (window) {
                            case Window.Days days -> days.firstDay().toString();
                            case Window.Instants i -> i.start().toString();
                        }),
                Optional.of(
                        switch (window) {
                            case Window.Days days -> days.lastDay().toString();
                            case Window.Instants i -> i.end().toString();
                        }));
    }
}
