package deftlens.core.match;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Says for one record which parts of a condition let it in and which shut it out. */
public final class Why {

    /** What the path of a verdict ends with that is on what a calculated field stands for. */
    public static final String MEANS = "/means";

    private Why() {}

    /** What the path of a verdict ends with that is on a record somewhere else which has the value. */
    public static final String WHERE = "/where";

    /** How a part stands to the record. */
    public enum Verdict {
        /** The record is in the part. */
        IN,
        /** The record is not in the part. */
        OUT,
        /** The part is switched off, or stands in one that is, and is not asked. */
        OFF
    }

    /**
     * The verdict on one part.
     *
     * @param path its JSON Pointer (RFC 6901) in the tree's JSON
     * @param part the part itself
     * @param binder what the part is bound by: of what is asked of other records, for their register
     * @param row the record that the part is held against: one of the others, there
     * @param parts the verdicts on its own parts; of a criterion on a yes/no field that is calculated from a statement, the verdict on
     *     that, under the criterion's path with {@code /means} behind it; of one that looks for a value in other records, the verdict on
     *     what is asked of them for one that has it, with {@code /where} behind it, and none where no record has it
     */
    public record Outcome(String path, Condition part, Verdict verdict, Binder binder, Row row, List<Outcome> parts) {}

    private static Optional<Row> other(Condition.Criterion criterion, Binder binder, Row row) {
        Bound bound = binder.bind(criterion);
        Bound.Related related = (Bound.Related) (bound instanceof Bound.Not(Bound part) ? part : bound);
        Object value = row.value(binder.register().fields().indexOf(related.field()));
        return value == null || value.equals("") ? Optional.empty() : Matcher.other(related, value);
    }

    /** The verdict on a condition and all its parts. */
    public static Outcome of(Condition condition, Binder binder, Row row) {
        return of(condition, "", false, binder, row);
    }

    private static Outcome of(Condition part, String path, boolean off, Binder binder, Row row) {
        boolean unasked = off || part instanceof Condition.Off;
        Verdict verdict = unasked
                ? Verdict.OFF
                : Matcher.of(binder.register(), binder.bind(part)).test(row) ? Verdict.IN : Verdict.OUT;
        String kind = switch (part) {
            case Condition.All p -> "/all/";
            case Condition.Any p -> "/any/";
            case Condition.None p -> "/none/";
            case Condition.Off p -> "/off";
            case Condition.Criterion p -> "";
        };
        List<Outcome> parts = new ArrayList<>();
        List<Condition> children = part.children();
        for (int i = 0; i < children.size(); i++) {
            String below = path + kind + (part instanceof Condition.Off ? "" : i);
            parts.add(of(children.get(i), below, unasked, binder, row));
        }
        if (part instanceof Condition.Criterion criterion) {
            binder.meaning(criterion).ifPresent(meaning -> parts.add(of(meaning, path + MEANS, unasked, binder, row)));
            if (!unasked && criterion.test() instanceof Test.Related(String register, Condition where)) {
                other(criterion, binder, row)
                        .ifPresent(other -> parts.add(of(
                                where,
                                path + WHERE,
                                false,
                                binder.at(binder.place(criterion).orElseThrow()),
                                other)));
            }
        }
        return new Outcome(path, part, verdict, binder, row, List.copyOf(parts));
    }
}
