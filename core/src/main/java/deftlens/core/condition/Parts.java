package deftlens.core.condition;

import java.util.ArrayList;
import java.util.List;
import java.util.function.UnaryOperator;

/** The parts of a condition that are asked, each with the condition as it would be without it. */
public final class Parts {

    private Parts() {}

    /**
     * One part in its place.
     *
     * @param path its JSON Pointer (RFC 6901) in the tree's JSON: {@code /all/1/any/0}, empty for the whole
     * @param part the part itself
     * @param without the whole condition with this part switched off
     */
    public record Part(String path, Condition part, Condition without) {}

    /** Every criterion and group that is switched on, in the order of the tree; the whole condition first. */
    public static List<Part> of(Condition condition) {
        List<Part> found = new ArrayList<>();
        collect(condition, "", off -> off, found);
        return List.copyOf(found);
    }

    private static void collect(Condition part, String path, UnaryOperator<Condition> inPlace, List<Part> into) {
        if (part instanceof Condition.Off) {
            return;
        }
        into.add(new Part(path, part, inPlace.apply(new Condition.Off(part))));
        switch (part) {
            case Condition.All(List<Condition> parts) -> each(parts, path + "/all/", Condition.All::new, inPlace, into);
            case Condition.Any(List<Condition> parts) -> each(parts, path + "/any/", Condition.Any::new, inPlace, into);
            case Condition.None(List<Condition> parts) ->
                each(parts, path + "/none/", Condition.None::new, inPlace, into);
            default -> {
                // A criterion has no parts.
            }
        }
    }

    private static void each(
            List<Condition> parts,
            String path,
            java.util.function.Function<List<Condition>, Condition> group,
            UnaryOperator<Condition> inPlace,
            List<Part> into) {
        for (int i = 0; i < parts.size(); i++) {
            int at = i;
            collect(
                    parts.get(i),
                    path + i,
                    changed -> {
                        List<Condition> others = new ArrayList<>(parts);
                        others.set(at, changed);
                        return inPlace.apply(group.apply(others));
                    },
                    into);
        }
    }
}
