package deftlens.server.question;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Operands;
import deftlens.core.condition.Test;
import deftlens.core.condition.Verb;
import deftlens.core.field.FieldType;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.statement.StatementError;
import deftlens.core.time.DurationText;
import deftlens.core.time.Period;
import deftlens.core.time.Unit;
import deftlens.server.platform.Problem;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.function.Supplier;
import java.util.function.UnaryOperator;
import java.util.regex.Pattern;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.JsonNodeFactory;
import tools.jackson.databind.node.ObjectNode;

/**
 * The condition tree as JSON, version {@value #VERSION}; docs/condition-tree.md describes it. Anything unknown is refused
 * with the path (a JSON Pointer, RFC 6901) of the part that holds it.
 */
public final class ConditionJson {

    /** The version that is written. Older ones are read and brought up to it. */
    public static final int VERSION = 3;

    private static final Pattern CLOCK = Pattern.compile("\\d\\d:\\d\\d.*");
    private static final JsonNodeFactory NODES = JsonNodeFactory.instance;

    private ConditionJson() {}

    /** The stored document: version and tree. */
    public static ObjectNode document(Condition condition) {
        ObjectNode document = NODES.objectNode();
        document.put("version", VERSION);
        document.set("condition", write(condition));
        return document;
    }

    /**
     * How a tree of one version becomes one of the next, by the version it starts from. Each step is kept for ever, so
     * that a document of any age can be read; it is written back in the latest version when its view is next kept.
     */
    private static final Map<Integer, UnaryOperator<JsonNode>> STEPS = Map.of(
            // Version 2 added tests, blanks and fields beside fields. All of version 1 reads as it did.
            1, tree -> tree,
            // Version 3 added values of other records.
            2, tree -> tree);

    /** The tree of a stored document of this or any earlier version. */
    public static Condition fromDocument(JsonNode document) {
        JsonNode version = document.get("version");
        if (version == null || !version.isInt() || version.intValue() < 1 || version.intValue() > VERSION) {
            throw refuse("/version", "is no version that is known here; 1 to " + VERSION + " are");
        }
        JsonNode tree = document.get("condition");
        for (int from = version.intValue(); from < VERSION; from++) {
            tree = STEPS.get(from).apply(tree);
        }
        return read(tree);
    }

    /** The JSON of a tree. */
    public static ObjectNode write(Condition condition) {
        ObjectNode node = NODES.objectNode();
        switch (condition) {
            case Condition.All(List<Condition> parts) -> node.set("all", array(parts));
            case Condition.Any(List<Condition> parts) -> node.set("any", array(parts));
            case Condition.None(List<Condition> parts) -> node.set("none", array(parts));
            case Condition.Off(Condition part) -> node.set("off", write(part));
            case Condition.Criterion criterion -> criterion(node, criterion);
        }
        return node;
    }

    private static ArrayNode array(List<Condition> parts) {
        ArrayNode array = NODES.arrayNode();
        parts.forEach(part -> array.add(write(part)));
        return array;
    }

    private static void criterion(ObjectNode node, Condition.Criterion criterion) {
        node.put("field", criterion.field());
        node.put("test", Verb.of(criterion).words());
        switch (Operands.of(criterion.test())) {
            case Operands.Nothing() -> {
                // The test says it all.
            }
            case Operands.One(Operand value, boolean exactly) -> {
                node.set("value", operand(value));
                exactly(node, exactly);
            }
            case Operands.Several(List<Operand> values, boolean exactly) -> {
                node.set("values", operands(values));
                exactly(node, exactly);
            }
            case Operands.Piece(Operand text, boolean exactly) -> {
                node.set("text", operand(text));
                exactly(node, exactly);
            }
            case Operands.TwoNumbers(Operand low, Operand high) -> {
                node.set("low", operand(low));
                node.set("high", operand(high));
            }
            case Operands.Window(Period period) -> node.put("period", Printer.period(period));
            case Operands.TwoWindows(Period from, Period to) -> {
                node.put("from", Printer.period(from));
                node.put("to", Printer.period(to));
            }
            case Operands.Distance distance -> distance(node, distance);
            case Operands.Clock(Operand at) -> node.set("time", operand(at));
            case Operands.TwoClocks(Operand from, Operand to) -> {
                node.set("from", operand(from));
                node.set("to", operand(to));
            }
            case Operands.ClocksOnDays(Operand from, Operand to, Period days) -> {
                node.set("from", operand(from));
                node.set("to", operand(to));
                node.put("period", Printer.period(days));
            }
            case Operands.CalendarNumbers(Test.Part part, var numbers) -> {
                ArrayNode values = node.putArray("values");
                numbers.forEach(n -> {
                    if (part == Test.Part.DAY_OF_MONTH) {
                        values.add(n);
                    } else {
                        values.add(Printer.calendar(part, n));
                    }
                });
            }
            case Operands.Bands(List<Operand> names) -> node.set("bands", operands(names));
            case Operands.Pattern(String pattern, boolean exactly) -> {
                node.put("pattern", pattern);
                exactly(node, exactly);
            }
            case Operands.OtherField(String other, var offset, boolean exactly) -> {
                node.put("other", other);
                offset.ifPresent(o -> {
                    switch (o) {
                        case Test.Offset.Time(int count, Unit unit) ->
                            node.putObject("plus").put("count", count).put("unit", unit.singular());
                        case Test.Offset.Amount(Operand.Number number) -> node.put("plus", number.value());
                        case Test.Offset.Length(Operand.Duration duration) -> node.set("plus", operand(duration));
                    }
                });
                exactly(node, exactly);
            }
            case Operands.Others(String register, Condition where) -> {
                node.put("register", register);
                if (!where.equals(Condition.EVERYTHING)) {
                    node.set("where", write(where));
                }
            }
        }
    }

    private static void distance(ObjectNode node, Operands.Distance distance) {
        Period.Away mark = distance.mark();
        if (distance.away() instanceof Period.AskedCount(String label, boolean hasPreset, Period shape)) {
            ObjectNode ask = node.putObject("count").put("ask", label);
            if (hasPreset) {
                ask.put("default", mark.count());
            }
        } else {
            node.put("count", mark.count());
        }
        node.put("unit", mark.unit().singular());
        node.put("side", mark.side() == Period.Side.LAST ? "ago" : "from now");
    }

    private static void exactly(ObjectNode node, boolean exactly) {
        if (exactly) {
            node.put("exactly", true);
        }
    }

    private static ArrayNode operands(List<Operand> values) {
        ArrayNode array = NODES.arrayNode();
        values.forEach(v -> array.add(operand(v)));
        return array;
    }

    private static JsonNode operand(Operand operand) {
        return switch (operand) {
            case Operand.Text(String text) -> NODES.stringNode(text);
            case Operand.Number(var number) ->
                isHeldByDouble(number)
                        ? NODES.numberNode(number)
                        : NODES.objectNode().put("number", number.toPlainString());
            case Operand.Duration(var seconds) -> NODES.objectNode().put("duration", DurationText.iso(seconds));
            case Operand.Time(LocalTime time) -> NODES.stringNode(time.toString());
            case Operand.YesNo(boolean yes) -> NODES.booleanNode(yes);
            case Operand.Viewer(String attribute) -> NODES.objectNode().put("viewer", attribute);
            case Operand.Ask(String label, var preset) -> {
                ObjectNode ask = NODES.objectNode().put("ask", label);
                preset.ifPresent(p -> ask.set("default", operand(p)));
                yield ask;
            }
        };
    }

    /** Many readers of JSON hold numbers in doubles: what these would change is written as text. */
    private static boolean isHeldByDouble(BigDecimal number) {
        double held = number.doubleValue();
        return Double.isFinite(held) && BigDecimal.valueOf(held).compareTo(number) == 0;
    }

    /**
     * The tree of a JSON value.
     *
     * @throws Problem (422, {@code condition-unreadable}) with the path of the first part that cannot be read
     */
    public static Condition read(JsonNode node) {
        if (criteria(node, 1) > Condition.MAX_CRITERIA) {
            throw refuse(
                    "", "has more than " + Condition.MAX_CRITERIA + " criteria; list the values of one field in one");
        }
        return read(node, "", 1);
    }

    /** How many criteria a tree has, counted before anything is made of it; no deeper than it is read. */
    private static int criteria(JsonNode node, int depth) {
        if (node == null || depth > Condition.MAX_DEPTH + 1) {
            return 0;
        }
        int count =
                node.has("field") ? 1 + criteria(node.get("where"), depth + 1) : criteria(node.get("off"), depth + 1);
        for (String group : List.of("all", "any", "none")) {
            for (JsonNode part : node.path(group)) {
                count += criteria(part, depth + 1);
            }
        }
        return count;
    }

    private static Condition read(JsonNode node, String path, int depth) {
        if (node == null || !node.isObject()) {
            throw refuse(path, "is no group and no criterion: an object was expected");
        }
        if (depth > Condition.MAX_DEPTH) {
            throw refuse(path, "is nested more than " + Condition.MAX_DEPTH + " deep");
        }
        if (node.has("all")) {
            only(node, path, "all");
            return new Condition.All(parts(node.get("all"), path + "/all", depth));
        }
        if (node.has("any")) {
            only(node, path, "any");
            return new Condition.Any(parts(node.get("any"), path + "/any", depth));
        }
        if (node.has("none")) {
            only(node, path, "none");
            return new Condition.None(parts(node.get("none"), path + "/none", depth));
        }
        if (node.has("off")) {
            only(node, path, "off");
            return new Condition.Off(read(node.get("off"), path + "/off", depth + 1));
        }
        return criterion(node, path, depth);
    }

    private static List<Condition> parts(JsonNode array, String path, int depth) {
        if (!array.isArray()) {
            throw refuse(path, "is no list");
        }
        List<Condition> parts = new ArrayList<>();
        for (int i = 0; i < array.size(); i++) {
            parts.add(read(array.get(i), path + "/" + i, depth + 1));
        }
        return parts;
    }

    private static Condition criterion(JsonNode node, String path, int depth) {
        String field = string(node, "field", path);
        String words = string(node, "test", path);
        return allowed(path, () -> {
            if (node.has("other")) {
                // Two dates on one day stand so to each other as one stands in it.
                Verb verb = Verb.named(words.equals("on") ? Verb.IN.words() : words).stream()
                        .filter(v -> v.relation().isPresent())
                        .findFirst()
                        .orElseThrow(() -> refuse(path + "/test", "“" + words + "” does not compare two fields"));
                only(node, path, "field", "test", "other", "plus", "exactly");
                return verb.criterion(
                        field,
                        new Operands.OtherField(
                                string(node, "other", path), plus(node.get("plus"), path), flag(node, path)));
            }
            Verb verb = Verb.named(words).stream()
                    .filter(v -> isMeant(v, node))
                    .findFirst()
                    .orElseThrow(() -> refuse(path + "/test", "“" + words + "” is no test that is known here"));
            return verb.criterion(field, follows(verb, node, path, depth));
        });
    }

    /** Whether what stands in a criterion follows the verb, rather than another one of the same words. */
    private static boolean isMeant(Verb verb, JsonNode node) {
        if (Verb.named(verb.words()).size() == 1) {
            return true;
        }
        // A date phrase is always a text, with a blank in it; a blank for a time is an object.
        boolean clocks = Stream.of("from", "to")
                .anyMatch(name -> node.path(name).isObject()
                        || CLOCK.matcher(node.path(name).stringValue("")).matches());
        return switch (verb.takes()) {
            case TWO_NUMBERS -> node.has("low");
            case TWO_TIMES -> !node.has("low") && clocks;
            case TWO_PERIODS -> !node.has("low") && !clocks;
            case TIME -> node.has("time");
            case RECORDS -> node.has("register");
            case PERIOD -> !node.has("time") && !node.has("register");
            case NOTHING,
                    VALUE,
                    VALUES,
                    TEXT,
                    NUMBER,
                    DISTANCE,
                    TIMES_ON_DAYS,
                    WEEKDAYS,
                    MONTHS,
                    DAYS_OF_MONTH,
                    BANDS,
                    PATTERN -> true;
        };
    }

    private static final Set<Verb.Takes> MAY_BE_EXACT =
            EnumSet.of(Verb.Takes.VALUE, Verb.Takes.VALUES, Verb.Takes.TEXT, Verb.Takes.PATTERN);

    /** Reads what follows a verb, and nothing else. */
    private static Operands follows(Verb verb, JsonNode node, String path, int depth) {
        List<String> members = new ArrayList<>(List.of("field", "test"));
        members.addAll(members(verb.takes()));
        // The case of letters matters to texts only.
        if (verb.fits(FieldType.TEXT) && MAY_BE_EXACT.contains(verb.takes())) {
            members.add("exactly");
        }
        only(node, path, members.toArray(String[]::new));
        boolean exactly = flag(node, path);
        return switch (verb.takes()) {
            case NOTHING -> new Operands.Nothing();
            case VALUE, NUMBER -> new Operands.One(operand(node.get("value"), path + "/value"), exactly);
            case VALUES -> new Operands.Several(operands(node, path), exactly);
            case TEXT -> new Operands.Piece(text(node.path("text"), path + "/text"), exactly);
            case TWO_NUMBERS ->
                new Operands.TwoNumbers(
                        operand(node.get("low"), path + "/low"), operand(node.get("high"), path + "/high"));
            case PERIOD -> new Operands.Window(period(node, "period", path));
            case TWO_PERIODS -> new Operands.TwoWindows(period(node, "from", path), period(node, "to", path));
            case DISTANCE -> new Operands.Distance(away(node, path));
            case TIME -> new Operands.Clock(time(node, "time", path));
            case TWO_TIMES -> new Operands.TwoClocks(time(node, "from", path), time(node, "to", path));
            case TIMES_ON_DAYS ->
                new Operands.ClocksOnDays(
                        time(node, "from", path), time(node, "to", path), period(node, "period", path));
            case WEEKDAYS -> numbers(node, Test.Part.WEEKDAY, path);
            case MONTHS -> numbers(node, Test.Part.MONTH, path);
            case DAYS_OF_MONTH -> numbers(node, Test.Part.DAY_OF_MONTH, path);
            case BANDS -> new Operands.Bands(bands(node, path));
            case PATTERN -> new Operands.Pattern(string(node, "pattern", path), exactly);
            case RECORDS ->
                new Operands.Others(
                        string(node, "register", path),
                        node.has("where") ? read(node.get("where"), path + "/where", depth + 1) : Condition.EVERYTHING);
        };
    }

    /** The members of a criterion that hold what follows its verb. */
    private static List<String> members(Verb.Takes takes) {
        return switch (takes) {
            case NOTHING -> List.of();
            case VALUE, NUMBER -> List.of("value");
            case VALUES, WEEKDAYS, MONTHS, DAYS_OF_MONTH -> List.of("values");
            case TEXT -> List.of("text");
            case TWO_NUMBERS -> List.of("low", "high");
            case PERIOD -> List.of("period");
            case TWO_PERIODS, TWO_TIMES -> List.of("from", "to");
            case DISTANCE -> List.of("count", "unit", "side");
            case TIME -> List.of("time");
            case TIMES_ON_DAYS -> List.of("from", "to", "period");
            case BANDS -> List.of("bands");
            case PATTERN -> List.of("pattern");
            case RECORDS -> List.of("register", "where");
        };
    }

    private static Period away(JsonNode node, String path) {
        Period.Side side = switch (string(node, "side", path)) {
            case "ago" -> Period.Side.LAST;
            case "from now" -> Period.Side.NEXT;
            default -> throw refuse(path + "/side", "is neither “ago” nor “from now”");
        };
        Unit unit = unit(node, path);
        JsonNode count = node.get("count");
        if (count == null || !count.isObject()) {
            return new Period.Away(side, whole(node, "count", path), unit);
        }
        only(count, path + "/count", "ask", "default");
        boolean preset = count.has("default");
        return new Period.AskedCount(
                string(count, "ask", path + "/count"),
                preset,
                new Period.Away(side, preset ? whole(count, "default", path + "/count") : 1, unit));
    }

    private static List<Operand> bands(JsonNode node, String path) {
        JsonNode names = node.get("bands");
        if (names == null || !names.isArray()) {
            throw refuse(path + "/bands", "is no list");
        }
        List<Operand> bands = new ArrayList<>();
        for (int i = 0; i < names.size(); i++) {
            bands.add(text(names.get(i), path + "/bands/" + i));
        }
        return bands;
    }

    private static Operand.Duration duration(JsonNode node, String path) {
        String written = string(node, "duration", path);
        return new Operand.Duration(DurationText.seconds(written)
                .orElseThrow(() -> refuse(
                        path + "/duration",
                        "is no duration: “" + written + "”. Write one such as 2 h 30 min, 3 days or PT2H30M")));
    }

    private static Optional<Test.Offset> plus(JsonNode plus, String path) {
        if (plus == null) {
            return Optional.empty();
        }
        if (plus.isNumber()) {
            return plus.decimalValue().signum() == 0
                    ? Optional.empty()
                    : Optional.of(new Test.Offset.Amount(new Operand.Number(plus.decimalValue())));
        }
        if (!plus.isObject()) {
            throw refuse(path + "/plus", "is neither a number nor a length of time");
        }
        if (plus.has("duration")) {
            only(plus, path + "/plus", "duration");
            Operand.Duration duration = duration(plus, path + "/plus");
            return duration.seconds().signum() == 0 ? Optional.empty() : Optional.of(new Test.Offset.Length(duration));
        }
        only(plus, path + "/plus", "count", "unit");
        int count = whole(plus, "count", path + "/plus");
        Unit unit = unit(plus, path + "/plus");
        return count == 0 ? Optional.empty() : Optional.of(new Test.Offset.Time(count, unit));
    }

    private static int whole(JsonNode node, String name, String path) {
        JsonNode number = node.get(name);
        if (number == null || !number.isInt()) {
            throw refuse(path + "/" + name, "is no whole number");
        }
        return number.intValue();
    }

    private static Operand time(JsonNode node, String name, String path) {
        return valueOrBlank(node.path(name), path + "/" + name, "is no time of day such as 14:30", text -> {
            try {
                return new Operand.Time(LocalTime.parse(text));
            } catch (DateTimeException e) {
                throw refuse(path + "/" + name, "is no time of day such as 14:30");
            }
        });
    }

    private static Operand text(JsonNode value, String path) {
        return valueOrBlank(value, path, "is no text and no ask", Operand.Text::new);
    }

    /** What is written as a text, or an ask whose default is. */
    private static Operand valueOrBlank(JsonNode value, String path, String otherwise, Function<String, Operand> read) {
        if (value.isString()) {
            return allowed(path, () -> read.apply(value.stringValue()));
        }
        if (!value.isObject() || !value.has("ask")) {
            throw refuse(path, otherwise);
        }
        only(value, path, "ask", "default");
        return allowed(
                path,
                () -> new Operand.Ask(
                        string(value, "ask", path),
                        value.has("default")
                                ? Optional.of(read.apply(string(value, "default", path)))
                                : Optional.empty()));
    }

    private static Operands numbers(JsonNode node, Test.Part part, String path) {
        JsonNode values = node.get("values");
        if (values == null || !values.isArray()) {
            throw refuse(path + "/values", "is no list");
        }
        SortedSet<Integer> numbers = new TreeSet<>();
        for (int i = 0; i < values.size(); i++) {
            JsonNode value = values.get(i);
            if (part == Test.Part.DAY_OF_MONTH && value.isInt()) {
                numbers.add(value.intValue());
            } else {
                String name = value.isString() ? value.stringValue() : "";
                numbers.add(IntStream.rangeClosed(1, part.most())
                        .filter(n -> Printer.calendar(part, n).equalsIgnoreCase(name))
                        .boxed()
                        .findFirst()
                        .orElseThrow(() -> refuse(path + "/values", "holds what is no " + part.words())));
            }
        }
        return new Operands.CalendarNumbers(part, numbers);
    }

    private static Unit unit(JsonNode node, String path) {
        String name = string(node, "unit", path);
        return Arrays.stream(Unit.values())
                .filter(u -> u.singular().equals(name.toLowerCase(Locale.ROOT)))
                .findFirst()
                .orElseThrow(() -> refuse(path + "/unit", "“" + name + "” is no unit"));
    }

    private static List<Operand> operands(JsonNode node, String path) {
        JsonNode values = node.get("values");
        if (values == null || !values.isArray()) {
            throw refuse(path + "/values", "is no list");
        }
        List<Operand> operands = new ArrayList<>();
        for (int i = 0; i < values.size(); i++) {
            operands.add(operand(values.get(i), path + "/values/" + i));
        }
        return operands;
    }

    private static Operand operand(JsonNode node, String path) {
        return allowed(path, () -> {
            if (node == null) {
                throw refuse(path, "is missing");
            }
            if (node.isString()) {
                return new Operand.Text(node.stringValue());
            }
            if (node.isNumber()) {
                return new Operand.Number(node.decimalValue());
            }
            if (node.isBoolean()) {
                return new Operand.YesNo(node.booleanValue());
            }
            if (node.isObject() && node.size() == 1 && node.has("number")) {
                return new Operand.Number(written(string(node, "number", path), path + "/number"));
            }
            if (node.isObject() && node.size() == 1 && node.has("duration")) {
                return duration(node, path);
            }
            if (node.isObject() && node.size() == 1 && node.has("viewer")) {
                return new Operand.Viewer(string(node, "viewer", path));
            }
            if (node.isObject() && node.has("ask")) {
                only(node, path, "ask", "default");
                return new Operand.Ask(
                        string(node, "ask", path),
                        node.has("default")
                                ? Optional.of(operand(node.get("default"), path + "/default"))
                                : Optional.empty());
            }
            throw refuse(path, "is no text, number, yes/no, viewer value or ask");
        });
    }

    /** A number in figures; at most as many as a number of JSON may have here. */
    private static BigDecimal written(String figures, String path) {
        if (!figures.matches("-?[0-9]{1,400}(\\.[0-9]{1,400})?")) {
            throw refuse(path, "is no number in figures, such as 9007199254740993");
        }
        return new BigDecimal(figures);
    }

    private static Period period(JsonNode node, String name, String path) {
        try {
            return Reader.period(string(node, name, path));
        } catch (StatementError e) {
            throw refuse(path + "/" + name, e.getMessage());
        }
    }

    private static boolean flag(JsonNode node, String path) {
        JsonNode flag = node.get("exactly");
        if (flag == null) {
            return false;
        }
        if (!flag.isBoolean()) {
            throw refuse(path + "/exactly", "is neither true nor false");
        }
        return flag.booleanValue();
    }

    private static String string(JsonNode node, String name, String path) {
        JsonNode value = node.get(name);
        if (value == null || !value.isString()) {
            throw refuse(path + "/" + name, "is no text");
        }
        return value.stringValue();
    }

    private static void only(JsonNode node, String path, String... names) {
        Set<String> unknown = new HashSet<>(node.propertyNames());
        Arrays.asList(names).forEach(unknown::remove);
        if (!unknown.isEmpty()) {
            throw refuse(path + "/" + unknown.iterator().next(), "is no part that is known here");
        }
    }

    /** Runs a constructor of the core and gives its refusal the path. */
    private static <T> T allowed(String path, Supplier<T> make) {
        try {
            return make.get();
        } catch (IllegalArgumentException e) {
            throw refuse(path, e.getMessage());
        }
    }

    private static Problem refuse(String path, String why) {
        return Problem.unprocessable(
                        "condition-unreadable",
                        "The condition cannot be read: " + (path.isEmpty() ? "it" : path) + " " + why + ".")
                .with("path", path);
    }
}
