package deftlens.core.condition;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.UnaryOperator;

/** The parts of a condition that are asked, each with the condition as it would be without it. */
public final class Parts {

    private Parts() {}

    /**
     * One part in its place.
     *
     * @param path its JSON Pointer (RFC 6901) in the tree's JSON: {@code /all/1/any/0}, empty for the whole
     * @param part the part itself
     * @param inPlace the whole condition with something else in the place of this part
     */
    public record Part(String path, Condition part, UnaryOperator<Condition> inPlace) {

        /** The whole condition with this part switched off; made anew at each call, as large as the whole. */
        public Condition without() {
            return inPlace.apply(new Condition.Off(part));
        }
    }

    /** Every criterion and group that is switched on, in the order of the tree; the whole condition first. */
    public static List<Part> of(Condition condition) {
        List<Part> found = new ArrayList<>();
        collect(condition, "", off -> off, found);
        return List.copyOf(found);
    }

    /**
     * What decides about the records for which a part makes the difference.
     *
     * @param condition those records: all for which the whole condition with the part held to be true is another than with it
     *     held to be false
     * @param turned whether such a record is in the whole exactly when the part does not hold, as under a <em>none of</em>
     */
    public record Decided(Condition condition, boolean turned) {}

    /**
     * The records that the part at a path decides about. Beside it in an <em>all of</em> everything has to hold, beside it in an
     * <em>any of</em> or <em>none of</em> nothing may, on every level.
     *
     * <p>Of {@code a and (b or c)}, {@code b} decides about the records of {@code a and not c}; of {@code none of (a, b)},
     * {@code a} about those of {@code not b}, and turned.
     *
     * @param path a JSON Pointer as {@link #of} gives it, of a part that is switched on
     */
    public static Decided decided(Condition condition, String path) {
        List<Condition> needed = new ArrayList<>();
        boolean turned = false;
        Condition here = condition;
        String[] steps = path.split("/");
        for (int i = 2; i < steps.length; i += 2) {
            int at = Integer.parseInt(steps[i]);
            List<Condition> beside = new ArrayList<>(here.children());
            Condition next = beside.remove(at);
            if (here instanceof Condition.All) {
                needed.addAll(beside);
            } else {
                needed.add(new Condition.None(beside));
                turned ^= here instanceof Condition.None;
            }
            here = next;
        }
        return new Decided(new Condition.All(needed).normal(), turned);
    }

    /** The part at a path, if something stands there that is switched on. */
    public static Optional<Condition> at(Condition condition, String path) {
        Condition here = condition;
        String[] steps = path.split("/");
        for (int i = 1; i < steps.length; i += 2) {
            String group = switch (here) {
                case Condition.All all -> "all";
                case Condition.Any any -> "any";
                case Condition.None none -> "none";
                case Condition.Off off -> "";
                case Condition.Criterion criterion -> "";
            };
            int at = i + 1 < steps.length && steps[i + 1].matches("\\d{1,9}") ? Integer.parseInt(steps[i + 1]) : -1;
            if (!group.equals(steps[i]) || at < 0 || at >= here.children().size()) {
                return Optional.empty();
            }
            here = here.children().get(at);
        }
        return here instanceof Condition.Off ? Optional.empty() : Optional.of(here);
    }

    /**
     * The condition with the part at a path replaced.
     *
     * @param path a JSON Pointer as {@link #of} gives it
     * @throws IllegalArgumentException when nothing stands at the path
     */
    public static Condition replaced(Condition condition, String path, Condition by) {
        if (path.isEmpty()) {
            return by;
        }
        String[] steps = path.split("/", 4);
        try {
            if (condition instanceof Condition.Off(Condition part) && steps[1].equals("off")) {
                return new Condition.Off(replaced(part, path.substring("/off".length()), by));
            }
            int at = Integer.parseInt(steps[2]);
            String rest = steps.length > 3 ? "/" + steps[3] : "";
            List<Condition> parts = new ArrayList<>(condition.children());
            parts.set(at, replaced(parts.get(at), rest, by));
            return switch (condition) {
                case Condition.All all when steps[1].equals("all") -> new Condition.All(parts);
                case Condition.Any any when steps[1].equals("any") -> new Condition.Any(parts);
                case Condition.None none when steps[1].equals("none") -> new Condition.None(parts);
                default -> throw new IllegalArgumentException("nothing stands at " + path);
            };
        } catch (IndexOutOfBoundsException | NumberFormatException e) {
            throw new IllegalArgumentException("nothing stands at " + path, e);
        }
    }

    /**
     * The condition as it would be if it ended after the part at a path: what is read later is not there, at every level above.
     *
     * <p>Of {@code a and (b or c) and d}, up to {@code /all/1/any/0}, it is {@code a and b}; up to {@code /all/1},
     * {@code a and (b or c)}.
     *
     * @param path a JSON Pointer as {@link #of} gives it
     */
    public static Condition upTo(Condition condition, String path) {
        if (path.isEmpty()) {
            return condition;
        }
        String[] steps = path.split("/", 4);
        int at = Integer.parseInt(steps[2]);
        List<Condition> parts = new ArrayList<>(condition.children().subList(0, at));
        parts.add(upTo(condition.children().get(at), steps.length > 3 ? "/" + steps[3] : ""));
        return switch (condition) {
            case Condition.All all -> new Condition.All(parts);
            case Condition.Any any -> new Condition.Any(parts);
            case Condition.None none -> new Condition.None(parts);
            default -> throw new IllegalArgumentException("nothing stands at " + path);
        };
    }

    /** The condition without the part at a path. */
    public static Condition removed(Condition condition, String path) {
        return replaced(condition, path, Condition.EVERYTHING).normal();
    }

    private static void collect(Condition part, String path, UnaryOperator<Condition> inPlace, List<Part> into) {
        if (part instanceof Condition.Off) {
            return;
        }
        into.add(new Part(path, part, inPlace));
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
