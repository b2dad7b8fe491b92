package deftlens.core.condition;

import java.util.List;
import java.util.Set;

/** A bound condition as wide as it is when nothing is asked of some fields: whatever satisfies the whole satisfies it too. */
public final class Relaxed {

    private Relaxed() {}

    /**
     * The condition with every test of these fields held to be satisfied, and under a negation to be not. A test that holds
     * one of them against another field is one of them.
     *
     * @param fields keys of fields that have values; a span is tested by its two ends
     */
    public static Bound without(Bound bound, Set<String> fields) {
        return without(bound, fields, true);
    }

    private static Bound without(Bound bound, Set<String> fields, boolean wanted) {
        return switch (bound) {
            case Bound.Constant constant -> constant;
            case Bound.Not(Bound part) -> new Bound.Not(without(part, fields, !wanted));
            case Bound.Every(List<Bound> parts) ->
                new Bound.Every(
                        parts.stream().map(p -> without(p, fields, wanted)).toList());
            case Bound.Some(List<Bound> parts) ->
                new Bound.Some(
                        parts.stream().map(p -> without(p, fields, wanted)).toList());
            case Bound.FieldComparison beside
            when fields.contains(beside.other().key()) -> new Bound.Constant(wanted);
            case Bound.Leaf leaf -> fields.contains(leaf.field().key()) ? new Bound.Constant(wanted) : leaf;
        };
    }
}
