package deftlens.core.condition;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;

/**
 * What a reader made of somebody else's condition, part by part, so that it can be carried over when that condition changes.
 * Parts are those of the outermost <em>all of</em>; what is changed inside a group changes the group as a whole. Immutable.
 */
public final class Refinement {

    private final Condition base;
    private final Condition mine;
    private final List<Condition> from;
    private final List<Condition> to;
    /** for each part of the base the index of the part that stands in its place, or {@value #DROPPED} */
    private final int[] places;

    private static final int DROPPED = -1;

    private Refinement(Condition base, Condition mine) {
        this.base = base;
        this.mine = mine;
        this.from = parts(base);
        this.to = parts(mine);
        this.places = align(from, to);
    }

    /** What leads from one condition to the other. */
    public static Refinement between(Condition base, Condition mine) {
        return new Refinement(base.normal(), mine.normal());
    }

    /**
     * A refinement brought to bear on another condition.
     *
     * @param condition the condition with what could be carried over
     * @param lost what could not, because the part it was about is gone or is another now: the reader's part, or the part that
     *     the reader had left out, switched off
     */
    public record Outcome(Condition condition, List<Condition> lost) {}

    /** The parts of a condition's outermost <em>all of</em>: the condition itself where it is no such group. */
    public static List<Condition> parts(Condition condition) {
        return condition instanceof Condition.All(List<Condition> parts) ? parts : List.of(condition);
    }

    /** Whether nothing is refined. */
    public boolean isNothing() {
        return base.equals(mine);
    }

    /** The parts of the base, counted from 0, that the refinement changes or leaves out. */
    public Set<Integer> touched() {
        Set<Integer> found = new TreeSet<>();
        for (int i = 0; i < places.length; i++) {
            if (places[i] == DROPPED || !to.get(places[i]).equals(from.get(i))) {
                found.add(i);
            }
        }
        return found;
    }

    /** Where marks on parts of the base stand in what was made of it; the marks of parts that were left out are gone. */
    public Set<Integer> carry(Set<Integer> marks) {
        Set<Integer> carried = new TreeSet<>();
        for (int mark : marks) {
            if (mark >= 0 && mark < places.length && places[mark] != DROPPED) {
                carried.add(places[mark]);
            }
        }
        return carried;
    }

    /** The same refinement of what the condition has become since; parts that the reader added stand last. */
    public Outcome on(Condition now) {
        Condition current = now.normal();
        if (current.equals(base)) {
            return new Outcome(mine, List.of());
        }
        Map<Integer, Integer> same = new LinkedHashMap<>();
        List<Condition> parts = parts(current);
        for (int i = 0; i < parts.size(); i++) {
            for (int k = 0; k < from.size(); k++) {
                if (!same.containsValue(k) && from.get(k).equals(parts.get(i))) {
                    same.put(i, k);
                    break;
                }
            }
        }
        List<Condition> made = new ArrayList<>();
        for (int i = 0; i < parts.size(); i++) {
            Integer k = same.get(i);
            if (k == null) {
                made.add(parts.get(i));
            } else if (places[k] != DROPPED) {
                made.add(to.get(places[k]));
            }
        }
        List<Condition> lost = new ArrayList<>();
        for (int k : touched()) {
            if (!same.containsValue(k)) {
                lost.add(places[k] == DROPPED ? new Condition.Off(from.get(k)) : to.get(places[k]));
            }
        }
        for (int j = 0; j < to.size(); j++) {
            if (isAdded(j) && !made.contains(to.get(j))) {
                made.add(to.get(j));
            }
        }
        return new Outcome(new Condition.All(made).normal(), List.copyOf(lost));
    }

    private boolean isAdded(int j) {
        for (int place : places) {
            if (place == j) {
                return false;
            }
        }
        return true;
    }

    /**
     * Finds for each part what became of it: equal parts by their longest common subsequence; between two of those, what
     * stands at the same place, as far as there is something on both sides.
     */
    private static int[] align(List<Condition> from, List<Condition> to) {
        int[][] common = new int[from.size() + 1][to.size() + 1];
        for (int i = from.size() - 1; i >= 0; i--) {
            for (int j = to.size() - 1; j >= 0; j--) {
                common[i][j] = from.get(i).equals(to.get(j))
                        ? common[i + 1][j + 1] + 1
                        : Math.max(common[i + 1][j], common[i][j + 1]);
            }
        }
        int[] places = new int[from.size()];
        int i = 0;
        int j = 0;
        int gapFrom = 0;
        int gapTo = 0;
        while (i < from.size() || j < to.size()) {
            boolean equal = i < from.size() && j < to.size() && from.get(i).equals(to.get(j));
            if (equal) {
                fill(places, gapFrom, i, gapTo, j);
                places[i++] = j++;
                gapFrom = i;
                gapTo = j;
            } else if (j == to.size() || i < from.size() && common[i + 1][j] >= common[i][j + 1]) {
                i++;
            } else {
                j++;
            }
        }
        fill(places, gapFrom, from.size(), gapTo, to.size());
        return places;
    }

    private static void fill(int[] places, int i, int iEnd, int j, int jEnd) {
        for (int at = i; at < iEnd; at++) {
            places[at] = j + at - i < jEnd ? j + at - i : DROPPED;
        }
    }
}
