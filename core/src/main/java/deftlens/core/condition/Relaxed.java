package deftlens.core.condition;

import deftlens.core.field.Field;
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
            case Bound.Beside beside when fields.contains(beside.other().key()) -> new Bound.Constant(wanted);
            default -> fields.contains(field(bound).key()) ? new Bound.Constant(wanted) : bound;
        };
    }

    private static Field field(Bound leaf) {
        return switch (leaf) {
            case Bound.IsEmpty l -> l.field();
            case Bound.OneOf l -> l.field();
            case Bound.Finds l -> l.field();
            case Bound.Numbers l -> l.field();
            case Bound.NumberRange l -> l.field();
            case Bound.Truth l -> l.field();
            case Bound.Tags l -> l.field();
            case Bound.DayRange l -> l.field();
            case Bound.InstantRange l -> l.field();
            case Bound.TimeRange l -> l.field();
            case Bound.ClockRange l -> l.field();
            case Bound.LocalPart l -> l.field();
            case Bound.LocalDays l -> l.field();
            case Bound.Matches l -> l.field();
            case Bound.Beside l -> l.field();
            case Bound.Constant l -> throw new IllegalStateException();
            case Bound.Every l -> throw new IllegalStateException();
            case Bound.Some l -> throw new IllegalStateException();
            case Bound.Not l -> throw new IllegalStateException();
        };
    }
}
