package deftlens.core.sql;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/** Indexes that a question could be answered along, to be tried before one is built. */
public final class Indexes {

    /** The fewest letters that a search inside texts can use an index of trigrams for. */
    private static final int TRIGRAM = 3;

    private static final int MOST = 6;

    /**
     * An index that could help.
     *
     * @param method {@code btree}, or {@code gin} over trigrams
     * @param columns what stands in its brackets; made of identifiers only
     * @param words what it is for
     */
    public record Candidate(String method, String columns, String words) {}

    private Indexes() {}

    /**
     * The indexes that could serve the first page of a question, the likeliest first.
     *
     * @param columns the fields that are columns of the register's own table; no others have indexes
     * @param whole what is asked, bound
     */
    public static List<Candidate> of(Register register, Collection<Field> columns, Bound whole, Order order) {
        Set<Candidate> found = new LinkedHashSet<>();
        List<Bound.Leaf> needed = new ArrayList<>();
        conjuncts(whole, needed);
        needed.removeIf(leaf -> !columns.contains(leaf.field()));
        boolean walks =
                order.listed().isEmpty() && order.keys().stream().allMatch(key -> columns.contains(key.field()));
        String walked = walks ? Page.index(register, order) : "";
        List<String> equal = new ArrayList<>();
        List<String> names = new ArrayList<>();
        for (Bound.Leaf leaf : needed) {
            equality(leaf).ifPresent(e -> {
                if (!equal.contains(e.expression)) {
                    equal.add(e.expression);
                    names.add(e.field.label());
                }
            });
        }
        if (!equal.isEmpty() && !walked.isEmpty()) {
            found.add(new Candidate(
                    "btree",
                    String.join(", ", equal) + ", " + walked,
                    String.join(", ", names) + ", in the order of the view"));
            for (int i = 0; i < equal.size() && equal.size() > 1; i++) {
                found.add(new Candidate(
                        "btree", equal.get(i) + ", " + walked, names.get(i) + ", in the order of the view"));
            }
        }
        for (Bound.Leaf leaf : needed) {
            ranged(leaf).ifPresent(f -> {
                String column = Where.column(f);
                String front = equal.isEmpty() ? "" : equal.get(0) + ", ";
                found.add(new Candidate(
                        "btree",
                        front + column + ", " + Sql.identifier(register.idColumn()),
                        (equal.isEmpty() ? "" : names.get(0) + ", ") + f.label()));
            });
            if (leaf instanceof Bound.Finds(Field field, Test.Search search, String text, boolean fold)
                    && text.length() >= TRIGRAM) {
                String column = Where.column(field);
                found.add(new Candidate(
                        "gin",
                        (fold ? "lower(" + column + ")" : column) + " gin_trgm_ops",
                        "pieces of text in " + field.label()));
            }
        }
        if (!walked.isEmpty()) {
            found.add(new Candidate("btree", walked, "the order of the view"));
        }
        return found.stream().limit(MOST).toList();
    }

    /** What every record of the answer satisfies. */
    private static void conjuncts(Bound bound, List<Bound.Leaf> into) {
        switch (bound) {
            case Bound.Every(List<Bound> parts) -> parts.forEach(p -> conjuncts(p, into));
            case Bound.Leaf leaf -> into.add(leaf);
            case Bound.Some _, Bound.Not _, Bound.Constant _ -> {
                // No index serves what may be one thing or another.
            }
        }
    }

    private record Equality(Field field, String expression) {}

    private static Optional<Equality> equality(Bound.Leaf leaf) {
        return switch (leaf) {
            case Bound.OneOf(Field field, var values, boolean fold) ->
                Optional.of(new Equality(field, fold ? "lower(" + Where.column(field) + ")" : Where.column(field)));
            case Bound.Numbers(Field field, var values) -> Optional.of(new Equality(field, Where.column(field)));
            case Bound.Truth(Field field, boolean value) -> Optional.of(new Equality(field, Where.column(field)));
            case Bound.IsEmpty(Field field)
            when field.type() != FieldType.TEXT && field.type() != FieldType.TAGS ->
                Optional.of(new Equality(field, Where.column(field)));
            case Bound.IsEmpty _,
                    Bound.Finds _,
                    Bound.NumberRange _,
                    Bound.Tags _,
                    Bound.DayRange _,
                    Bound.InstantRange _,
                    Bound.TimeRange _,
                    Bound.ClockRange _,
                    Bound.LocalPart _,
                    Bound.LocalDays _,
                    Bound.Matches _,
                    Bound.FieldComparison _,
                    Bound.Related _ -> Optional.empty();
        };
    }

    private static Optional<Field> ranged(Bound.Leaf leaf) {
        return switch (leaf) {
            case Bound.DayRange range -> Optional.of(range.field());
            case Bound.InstantRange range -> Optional.of(range.field());
            case Bound.NumberRange range -> Optional.of(range.field());
            case Bound.IsEmpty _,
                    Bound.OneOf _,
                    Bound.Finds _,
                    Bound.Numbers _,
                    Bound.Truth _,
                    Bound.Tags _,
                    Bound.TimeRange _,
                    Bound.ClockRange _,
                    Bound.LocalPart _,
                    Bound.LocalDays _,
                    Bound.Matches _,
                    Bound.FieldComparison _,
                    Bound.Related _ -> Optional.empty();
        };
    }
}
