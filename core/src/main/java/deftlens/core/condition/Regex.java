package deftlens.core.condition;

import com.google.re2j.Pattern;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;

/**
 * A regular expression of the subset that PostgreSQL (its "advanced" flavour) and a matcher without backtracking read
 * alike, looked for anywhere in the text:
 *
 * <ul>
 *   <li>characters as themselves, {@code .} for any one, {@code \} before punctuation, {@code \t \n \r}
 *   <li>sets {@code [a-z,]} and {@code [^0-9]}; {@code \d} and {@code \s} with their opposites {@code \D} and {@code \S},
 *       for the ASCII digits and the ASCII white space
 *   <li>{@code ^} and {@code $} for the very start and end
 *   <li>groups {@code (…)} and {@code (?:…)}, alternatives {@code |}
 *   <li>{@code * + ?} and {@code {2}}, {@code {2,}}, {@code {2,5}} up to {@value #MAX_REPEAT}
 * </ul>
 *
 * <p>Anything else (references back, looking around, lazy or possessive repeats, flags, {@code \w}, {@code \b}) is refused
 * with a sentence. Both readers take time in proportion to the text, whatever the expression.
 */
public final class Regex {

    /** The most repetitions that can be asked for by number. */
    public static final int MAX_REPEAT = 255;

    /** The longest expression, in characters. */
    public static final int MAX_LENGTH = 1_000;

    private static final int MAX_DEPTH = 20;
    private static final int MAX_SIZE = 2_000;
    private static final int MAX_FOLDED_RANGE = 3_000;
    private static final String PUNCTUATION = "\\^$.|?*+()[]{}-/\"'`~!@#%&=:;<>,_ ";

    private final String text;
    private final boolean fold;
    private final String sql;
    private final Pattern pattern;

    /**
     * Reads an expression.
     *
     * @param text the expression, without slashes around it
     * @param fold whether letter case is ignored; the text it is held against must then be folded already
     * @throws IllegalArgumentException with a sentence when it holds what the two readers do not share
     */
    public Regex(String text, boolean fold) {
        if (text.isEmpty()) {
            throw new IllegalArgumentException("an empty expression is found everywhere");
        }
        if (text.codePointCount(0, text.length()) > MAX_LENGTH) {
            throw new IllegalArgumentException("an expression has at most " + MAX_LENGTH + " characters");
        }
        new Operand.Text(text);
        this.text = text;
        this.fold = fold;
        Node root = new Parse(text).all();
        if (root.size() > MAX_SIZE) {
            throw new IllegalArgumentException(
                    "this regular expression cannot be read: its repeats multiply to too many; ask for fewer");
        }
        StringBuilder forSql = new StringBuilder();
        print(root, forSql, false);
        this.sql = forSql.toString();
        StringBuilder forMemory = new StringBuilder();
        print(root, forMemory, true);
        this.pattern = Pattern.compile(forMemory.toString(), Pattern.DOTALL);
    }

    /** The expression with {@code \/} as a plain slash, so that it has one spelling with and without slashes around it. */
    static String withoutEscapedSlashes(String text) {
        StringBuilder plain = new StringBuilder(text.length());
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c == '\\' && i + 1 < text.length()) {
                char next = text.charAt(++i);
                plain.append(next == '/' ? "/" : "\\" + next);
            } else {
                plain.append(c);
            }
        }
        return plain.toString();
    }

    /** The expression as it was written. */
    public String text() {
        return text;
    }

    /** The same expression as PostgreSQL's {@code ~} takes it. */
    public String sql() {
        return sql;
    }

    /** Whether it is found in a text, which is folded already if letter case is ignored. */
    public boolean isFoundIn(String value) {
        return pattern.matcher(value).find();
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof Regex r && r.text.equals(text) && r.fold == fold;
    }

    @Override
    public int hashCode() {
        return text.hashCode();
    }

    @Override
    public String toString() {
        return "/" + text + "/";
    }

    private sealed interface Node {
        /** The states it takes, with repeats written out. */
        default long size() {
            return switch (this) {
                case Sequence(List<Node> parts) ->
                    parts.stream().mapToLong(Node::size).sum();
                case Choice(List<Node> parts) ->
                    1 + parts.stream().mapToLong(Node::size).sum();
                case Repeat(Node part, int least, int most) -> Math.max(1, Math.max(least, most)) * part.size();
                default -> 1;
            };
        }
    }

    private record Sequence(List<Node> parts) implements Node {}

    private record Choice(List<Node> parts) implements Node {}

    /** {@code most} is -1 for any number. */
    private record Repeat(Node part, int least, int most) implements Node {}

    private record Literal(int codePoint) implements Node {}

    private record AnyOne() implements Node {}

    private record Start() implements Node {}

    private record End() implements Node {}

    private record Range(int from, int to) {}

    private record Set(boolean negated, List<Range> ranges) implements Node {}

    private static final List<Range> DIGITS = List.of(new Range('0', '9'));
    private static final List<Range> SPACES = List.of(new Range('\t', '\r'), new Range(' ', ' '));

    private final class Parse {
        private final int[] in;
        private int at;

        Parse(String text) {
            in = text.codePoints().toArray();
        }

        Node all() {
            Node node = choice(1);
            if (at < in.length) {
                throw refuse("“)” closes nothing; write \\) for the character");
            }
            return node;
        }

        private Node choice(int depth) {
            if (depth > MAX_DEPTH) {
                throw refuse("groups are nested more than " + MAX_DEPTH + " deep");
            }
            List<Node> parts = new ArrayList<>();
            parts.add(sequence(depth));
            while (at < in.length && in[at] == '|') {
                at++;
                parts.add(sequence(depth));
            }
            return parts.size() == 1 ? parts.get(0) : new Choice(parts);
        }

        private Node sequence(int depth) {
            List<Node> parts = new ArrayList<>();
            while (at < in.length && in[at] != '|' && in[at] != ')') {
                parts.add(repeated(depth));
            }
            if (parts.isEmpty()) {
                throw refuse("an alternative or a group is empty; write ( … )? for what may be missing");
            }
            return parts.size() == 1 ? parts.get(0) : new Sequence(parts);
        }

        private Node repeated(int depth) {
            boolean bare = in[at] == '*' || in[at] == '+' || in[at] == '?' || in[at] == '{';
            if (bare) {
                throw refuse("“" + Character.toString(in[at]) + "” repeats nothing; write \\"
                        + Character.toString(in[at]) + " for the character");
            }
            Node node = atom(depth);
            if (at >= in.length) {
                return node;
            }
            int least;
            int most;
            switch (in[at]) {
                case '*' -> {
                    least = 0;
                    most = -1;
                    at++;
                }
                case '+' -> {
                    least = 1;
                    most = -1;
                    at++;
                }
                case '?' -> {
                    least = 0;
                    most = 1;
                    at++;
                }
                case '{' -> {
                    at++;
                    least = number();
                    most = least;
                    if (at < in.length && in[at] == ',') {
                        at++;
                        most = at < in.length && in[at] == '}' ? -1 : number();
                    }
                    if (at >= in.length || in[at] != '}' || most >= 0 && most < least) {
                        throw refuse("a number of repeats is written {2}, {2,} or {2,5}");
                    }
                    at++;
                }
                default -> {
                    return node;
                }
            }
            if (node instanceof Start || node instanceof End) {
                throw refuse("the start or end of the text cannot be repeated");
            }
            if (at < in.length && (in[at] == '*' || in[at] == '+' || in[at] == '?' || in[at] == '{')) {
                throw refuse("two repeats stand side by side (lazy and possessive ones are not read here)");
            }
            return new Repeat(node, least, most);
        }

        private int number() {
            int value = 0;
            int from = at;
            while (at < in.length && in[at] >= '0' && in[at] <= '9' && value <= MAX_REPEAT) {
                value = value * 10 + in[at++] - '0';
            }
            if (from == at || value > MAX_REPEAT) {
                throw refuse("a number of repeats is written {2}, {2,} or {2,5}, up to " + MAX_REPEAT);
            }
            return value;
        }

        private Node atom(int depth) {
            int c = in[at++];
            if (c == '\n' || c == '\r') {
                throw refuse("write \\n or \\r for a line break");
            }
            return switch (c) {
                case '.' -> new AnyOne();
                case '^' -> new Start();
                case '$' -> new End();
                case '[' -> set();
                case '(' -> {
                    if (at < in.length && in[at] == '?') {
                        if (at + 1 < in.length && in[at + 1] == ':') {
                            at += 2;
                        } else {
                            throw refuse("“(?” begins looking around, a name or flags, which are not read here");
                        }
                    }
                    Node inner = choice(depth + 1);
                    if (at >= in.length) {
                        throw refuse("“(” is never closed");
                    }
                    at++;
                    yield inner;
                }
                case '\\' -> {
                    List<Range> kind = kind();
                    yield kind.isEmpty() ? literal(escaped()) : new Set(isOpposite(), kind);
                }
                case ']', '}' -> literal(c);
                default -> literal(c);
            };
        }

        private Node literal(int c) {
            return new Literal(fold ? LetterCase.fold(Character.toString(c)).codePointAt(0) : c);
        }

        /** The characters of a kind that the escape at hand names, or none; leaves the letter behind. */
        private List<Range> kind() {
            if (at >= in.length) {
                throw refuse("a backslash ends it; write \\\\ for the character");
            }
            List<Range> kind = switch (in[at]) {
                case 'd', 'D' -> DIGITS;
                case 's', 'S' -> SPACES;
                default -> List.<Range>of();
            };
            if (!kind.isEmpty()) {
                at++;
            }
            return kind;
        }

        private boolean isOpposite() {
            return Character.isUpperCase(in[at - 1]);
        }

        private int escaped() {
            int c = in[at++];
            if (PUNCTUATION.indexOf(c) >= 0) {
                return c;
            }
            return switch (c) {
                case 't' -> '\t';
                case 'n' -> '\n';
                case 'r' -> '\r';
                default ->
                    throw refuse("“\\" + Character.toString(c) + "” is not read alike everywhere"
                            + (c == 'w' ? "; write [A-Za-z0-9_]" : ""));
            };
        }

        private Node set() {
            boolean negated = at < in.length && in[at] == '^';
            if (negated) {
                at++;
            }
            List<Range> ranges = new ArrayList<>();
            while (at < in.length && in[at] != ']') {
                int from = in[at++];
                if (from == '\n' || from == '\r') {
                    throw refuse("write \\n or \\r for a line break");
                }
                if (from == '[') {
                    throw refuse("write \\[ for a bracket inside a set; named classes are not read here");
                }
                if (from == '\\') {
                    List<Range> kind = kind();
                    if (!kind.isEmpty()) {
                        if (isOpposite()) {
                            throw refuse("\\D and \\S stand outside of sets only");
                        }
                        ranges.addAll(kind);
                        continue;
                    }
                    from = escaped();
                }
                int to = from;
                if (at + 1 < in.length && in[at] == '-' && in[at + 1] != ']') {
                    at++;
                    to = in[at++];
                    if (to == '\\') {
                        to = escaped();
                    } else if (to == '[') {
                        throw refuse("write \\[ for a bracket inside a set");
                    }
                    if (to < from) {
                        throw refuse("a range in a set runs backwards");
                    }
                }
                ranges.add(new Range(from, to));
            }
            if (at >= in.length) {
                throw refuse("“[” is never closed");
            }
            at++;
            if (ranges.isEmpty()) {
                throw refuse("a set holds nothing");
            }
            return new Set(negated, fold ? folded(ranges) : List.copyOf(ranges));
        }

        /** The folded characters of the ranges; folded text holds no others of them. */
        private List<Range> folded(List<Range> ranges) {
            TreeSet<Integer> all = new TreeSet<>();
            for (Range range : ranges) {
                if (range.to - range.from > MAX_FOLDED_RANGE) {
                    throw refuse("a range in a set is too wide to ignore letter case in; add “exactly”");
                }
                for (int c = range.from; c <= range.to; c++) {
                    if (c < Character.MIN_SURROGATE || c > Character.MAX_SURROGATE) {
                        all.add(LetterCase.fold(Character.toString(c)).codePointAt(0));
                    }
                }
            }
            List<Range> merged = new ArrayList<>();
            for (int c : all) {
                Range last = merged.isEmpty() ? null : merged.get(merged.size() - 1);
                if (last != null && last.to + 1 == c) {
                    merged.set(merged.size() - 1, new Range(last.from, c));
                } else {
                    merged.add(new Range(c, c));
                }
            }
            if (merged.isEmpty()) {
                throw refuse("a set holds no character that a text can have");
            }
            return merged;
        }

        private IllegalArgumentException refuse(String why) {
            return new IllegalArgumentException("this regular expression cannot be read: " + why);
        }
    }

    private static void print(Node node, StringBuilder into, boolean memory) {
        switch (node) {
            case Sequence(List<Node> parts) -> parts.forEach(p -> print(p, into, memory));
            case Choice(List<Node> parts) -> {
                into.append("(?:");
                for (int i = 0; i < parts.size(); i++) {
                    into.append(i == 0 ? "" : "|");
                    print(parts.get(i), into, memory);
                }
                into.append(')');
            }
            case Repeat(Node part, int least, int most) -> {
                into.append("(?:");
                print(part, into, memory);
                into.append(')');
                if (least == 0 && most < 0) {
                    into.append('*');
                } else if (least == 1 && most < 0) {
                    into.append('+');
                } else {
                    into.append('{').append(least);
                    if (most != least) {
                        into.append(',').append(most < 0 ? "" : String.valueOf(most));
                    }
                    into.append('}');
                }
            }
            case Literal(int c) -> character(c, into);
            case AnyOne() -> into.append('.');
            case Start() -> into.append(memory ? "\\A" : "^");
            case End() -> into.append(memory ? "\\z" : "$");
            case Set(boolean negated, List<Range> ranges) -> {
                into.append(negated ? "[^" : "[");
                for (Range range : ranges) {
                    character(range.from, into);
                    if (range.to > range.from) {
                        into.append('-');
                        character(range.to, into);
                    }
                }
                into.append(']');
            }
        }
    }

    private static void character(int c, StringBuilder into) {
        boolean plain = c >= 0x80 || Character.isLetterOrDigit(c) || c <= ' ';
        if (!plain) {
            into.append('\\');
        }
        into.appendCodePoint(c);
    }
}
