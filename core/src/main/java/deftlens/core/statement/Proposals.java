package deftlens.core.statement;

import deftlens.core.condition.Condition;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import deftlens.core.time.DurationText;
import deftlens.core.time.Reading;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/**
 * What somebody may be looking for who types a few words: {@code north quay open safety last month}. Words are matched to the
 * register's choices, tags, people, bands, fields, numbers and windows; the longest run of words that means something counts,
 * from the left on. Nothing is decided here: each part comes with all its meanings, the likeliest first, and somebody takes
 * what they meant. A word that means nothing else is looked for in the texts.
 */
public final class Proposals {

    /** The longest text that is looked at, in characters. */
    public static final int LONGEST = 200;

    /** The most meanings that one part is given. */
    public static final int MOST_MEANINGS = 5;

    private static final int MOST_WORDS = 6;

    private static final Pattern WORD = Pattern.compile("\"[^\"]*\"?|\\S+");
    private static final Pattern NUMBER = Pattern.compile("-?\\d{1,20}(?:\\.\\d{1,10})?");
    private static final String COMPARING =
            "(?:(over|above|more than|longer than|>)|(at least|from|>=)|(under|below|less than|shorter than|<)|(at most|up to|<=)|(?:is|=|equals)?) ?";
    private static final Pattern COMPARED = Pattern.compile(COMPARING + "(-?\\d{1,20}(?:\\.\\d{1,10})?)");
    private static final Pattern COMPARED_DURATION = Pattern.compile(COMPARING + "(-?(?:\\d|pt?\\d).*)");
    private static final Pattern IDENTIFIER = Pattern.compile("(?=\\S*\\d)\\S*[^\\d\\s]\\S*|\\d{4,}");
    /** Words that join others and say nothing of the records. */
    private static final Set<String> SMALL = Set.of(
            "a", "all", "an", "and", "are", "at", "by", "every", "for", "from", "in", "is", "of", "on", "show", "that",
            "the", "their", "to", "was", "were", "which", "whose", "with");

    private static final Set<String> NOT = Set.of("not", "except", "but", "without", "no");

    /**
     * A part of what was typed, and what it may mean.
     *
     * @param typed the words, as they were typed
     * @param meanings at least one, the likeliest first
     */
    public record Proposal(String typed, List<Condition.Criterion> meanings) {}

    private final Register register;
    private final Optional<Field> main;
    private final Field title;
    private final Set<String> identifiers;
    private final Set<String> attributes;
    private final Reader reader;
    private final Reading reading;

    /**
     * What a register can be asked in a few words.
     *
     * @param main the register's main date; it comes before the others where only a window is typed
     * @param title the field that names a record; words that mean nothing else are looked for in it first
     * @param identifiers the keys of fields whose value identifies a record; no plain word is looked for there first
     * @param attributes what may follow {@code my}
     * @param reading what years and weeks are filled in from
     */
    public Proposals(
            Register register,
            Optional<Field> main,
            Field title,
            Set<String> identifiers,
            Set<String> attributes,
            Reading reading) {
        this.register = register;
        this.main = main;
        this.title = title;
        this.identifiers = identifiers;
        this.attributes = attributes;
        this.reader = new Reader(register, attributes);
        this.reading = reading;
    }

    /** What a text may mean, part by part in its order; nothing for a text that says nothing. */
    public List<Proposal> read(String text) {
        List<String> words = WORD.matcher(text.length() > LONGEST ? text.substring(0, LONGEST) : text)
                .results()
                .map(m -> m.group().replaceAll("^[,;]+|[,;]+$", ""))
                .filter(w -> !w.isEmpty())
                .toList();
        List<Proposal> found = new ArrayList<>();
        int at = 0;
        while (at < words.size()) {
            int taken = part(words, at, found);
            at += Math.max(1, taken);
        }
        return found;
    }

    /** Reads the longest part that begins at a word; says of how many words it is. */
    private int part(List<String> words, int at, List<Proposal> found) {
        // "not", "but not", "not in", "without an": what says no, and the small words behind it, belong to what
        // follows.
        int from = at;
        List<String> saysNo = new ArrayList<>();
        while (from < words.size() && isBefore(plain(words.get(from)), saysNo)) {
            from++;
        }
        if (from == words.size()) {
            return from - at;
        }
        // "All but those" says no; in "but not those" only the second word does.
        List<String> said = saysNo.stream().filter(w -> !w.equals("but")).toList();
        boolean not = said.isEmpty() ? !saysNo.isEmpty() : said.size() % 2 == 1;
        boolean lacks = not && (said.contains("no") || said.contains("without"));
        for (int n = Math.min(MOST_WORDS, words.size() - from); n > 0; n--) {
            String meant = plain(String.join(" ", words.subList(from, from + n)));
            String typed = String.join(" ", words.subList(at, from + n));
            List<String> meanings = meanings(meant, n);
            if (!meanings.isEmpty()) {
                return add(found, typed, meanings, not, from + n - at);
            }
            List<String> empties = lacks ? empties(meant) : List.of();
            if (!empties.isEmpty()) {
                return add(found, typed, empties, false, from + n - at);
            }
        }
        String word = words.get(from);
        if (!SMALL.contains(plain(word)) && !names(plain(word))) {
            return add(found, String.join(" ", words.subList(at, from + 1)), inTexts(word), not, from + 1 - at);
        }
        return from + 1 - at;
    }

    /** Whether a word only says no to what follows, or stands between that and what is meant. */
    private static boolean isBefore(String word, List<String> saysNo) {
        if (NOT.contains(word)) {
            saysNo.add(word);
            return true;
        }
        return !saysNo.isEmpty() && SMALL.contains(word);
    }

    private int add(List<Proposal> found, String typed, List<String> statements, boolean not, int words) {
        Map<String, Condition.Criterion> meanings = new LinkedHashMap<>();
        for (String statement : statements) {
            try {
                if (reader.read(statement) instanceof Condition.Criterion criterion) {
                    Condition.Criterion meant = not
                            ? new Condition.Criterion(criterion.field(), criterion.test(), !criterion.negated())
                            : criterion;
                    // Only what can be said is proposed: not every test has its opposite.
                    reader.read(Printer.criterion(meant));
                    meanings.putIfAbsent(Printer.criterion(meant), meant);
                }
            } catch (StatementError | IllegalArgumentException unfit) {
                // One meaning less.
            }
        }
        if (!meanings.isEmpty()) {
            found.add(new Proposal(
                    typed, meanings.values().stream().limit(MOST_MEANINGS).toList()));
        }
        return words;
    }

    /** What a run of words may mean, as statements, the likeliest first. */
    private List<String> meanings(String words, int count) {
        List<String> found = new ArrayList<>();
        // A field by its name and what is asked of it: "severity over 3", "due last week", "team quay crews".
        for (Field field : byLongestLabel()) {
            for (String name : List.of(field.label().toLowerCase(Locale.ROOT), field.key())) {
                if (words.startsWith(name + " ")) {
                    found.addAll(ofField(
                            field,
                            words.substring(name.length() + 1)
                                    .replaceFirst("^(?:is|in|on|at(?! least| most)|=|:) ", "")));
                }
            }
        }
        if (!found.isEmpty()) {
            return found;
        }
        register.fields().forEach(field -> exactly(field, words).ifPresent(found::add));
        found.addAll(readers(words));
        for (Field field : register.fields()) {
            if (field.type() == FieldType.YES_NO && field.label().equalsIgnoreCase(words)) {
                found.add(field.key() + " is yes");
            }
        }
        if (found.isEmpty() && !SMALL.contains(words)) {
            found.addAll(windows(words));
        }
        if (found.isEmpty() && count == 1 && IDENTIFIER.matcher(words).matches()) {
            Stream.concat(Stream.of(title), register.fields().stream().filter(f -> f != title))
                    .filter(f -> f.type() == FieldType.TEXT)
                    .limit(2)
                    .forEach(f -> found.add(f.key() + " is " + quoted(words)));
        }
        if (found.isEmpty()) {
            register.fields().stream().filter(f -> f.type().isNumeric()).forEach(f -> found.addAll(compared(f, words)));
        }
        if (found.isEmpty() && words.length() >= 3) {
            found.addAll(begun(words));
        }
        return found;
    }

    /** The value of a listed field, or the band, that is called so. */
    private static Optional<String> exactly(Field field, String words) {
        return field.options().stream()
                .filter(o -> o.label().equalsIgnoreCase(words) || o.value().equalsIgnoreCase(words))
                .findFirst()
                .map(o -> is(field, o))
                .or(() -> field.bands().stream()
                        .flatMap(Band::tree)
                        .filter(b -> b.name().equalsIgnoreCase(words))
                        .findFirst()
                        .map(b -> field.key() + " is in band " + quoted(b.name())));
    }

    private static String is(Field field, Option option) {
        return field.type() == FieldType.TAGS
                ? field.key() + " has any of (" + quoted(option.value()) + ")"
                : field.key() + " is " + quoted(option.value());
    }

    /** Values whose names have a word that begins so: {@code north} for North Quay. */
    private List<String> begun(String words) {
        record Begun(String statement, boolean first) {}
        List<Begun> found = new ArrayList<>();
        for (Field field : register.fields()) {
            field.options().stream()
                    .filter(o -> beginsAWord(o.label(), words))
                    .forEach(o -> found.add(new Begun(
                            is(field, o), o.label().toLowerCase(Locale.ROOT).startsWith(words))));
            field.bands().stream()
                    .flatMap(Band::tree)
                    .filter(b -> beginsAWord(b.name(), words))
                    .forEach(b -> found.add(new Begun(field.key() + " is in band " + quoted(b.name()), false)));
        }
        return found.stream()
                .sorted(Comparator.comparing(Begun::first).reversed())
                .map(Begun::statement)
                .toList();
    }

    private static boolean beginsAWord(String label, String words) {
        String plain = label.toLowerCase(Locale.ROOT);
        for (int at = plain.indexOf(words); at >= 0; at = plain.indexOf(words, at + 1)) {
            if (at == 0 || !Character.isLetterOrDigit(plain.charAt(at - 1))) {
                return true;
            }
        }
        return false;
    }

    /** What depends on the reader: {@code my site}, {@code mine}, {@code me}. */
    private List<String> readers(String words) {
        if (Set.of("me", "mine", "my own").contains(words)) {
            return register.fields().stream()
                    .filter(f -> f.type() == FieldType.PERSON)
                    .map(f -> f.key() + " is me")
                    .toList();
        }
        return words.startsWith("my ") && attributes.contains(words.substring(3))
                ? register.fields().stream()
                        .filter(f -> f.type() == FieldType.CHOICE || f.type() == FieldType.TEXT)
                        .filter(f ->
                                f.key().equals(words.substring(3)) || f.label().equalsIgnoreCase(words.substring(3)))
                        .map(f -> f.key() + " is " + words)
                        .toList()
                : List.of();
    }

    /** A window on each date of the register: the main one first, with all that the words may mean. */
    private List<String> windows(String words) {
        if (NUMBER.matcher(words).matches() && !words.matches("(?:19|20)\\d\\d")) {
            return List.of();
        }
        List<String> phrases = TypedWindow.read(words, reading);
        if (phrases.isEmpty()) {
            return repeating(words);
        }
        List<String> found = new ArrayList<>();
        List<Field> dated = dated();
        for (String phrase : phrases) {
            if (!dated.isEmpty()) {
                found.add(during(dated.get(0), phrase));
            }
        }
        // The others have the likeliest reading each, right after the main one's.
        List<String> others =
                dated.stream().skip(1).map(f -> during(f, phrases.get(0))).toList();
        found.addAll(Math.min(1, found.size()), others);
        return found;
    }

    private List<Field> dated() {
        return Stream.concat(
                        main.stream(),
                        register.fields().stream()
                                .filter(f -> f.type().isTemporal() || f.type() == FieldType.SPAN)
                                .filter(f -> !main.equals(Optional.of(f))))
                .toList();
    }

    private static String during(Field field, String phrase) {
        return field.key() + (field.type() == FieldType.SPAN ? " overlaps " : " in ") + phrase;
    }

    private List<String> repeating(String words) {
        return TypedWindow.repeating(words).stream()
                .flatMap(r -> register.fields().stream()
                        .filter(f -> f.type().isTemporal())
                        .map(f -> f.key() + " " + r.part().words() + " in (" + Printer.calendar(r.part(), r.number())
                                + ")"))
                .toList();
    }

    /** What words after a field's name ask of it. */
    private static List<String> compared(Field field, String words) {
        return field.type() == FieldType.DURATION
                ? durations(field, words)
                : COMPARED.matcher(words).matches() ? numbers(field, words) : List.of();
    }

    private List<String> ofField(Field field, String words) {
        if (words.isEmpty()) {
            return List.of();
        }
        String key = field.key();
        if (words.equals("empty") || words.equals("missing") || words.equals("none")) {
            return List.of(key + " is empty");
        }
        return switch (field.type()) {
            case DATE, MOMENT, SPAN -> dates(field, words);
            case NUMBER, MONEY -> numbers(field, words);
            case DURATION -> durations(field, words);
            case CHOICE, PERSON, TAGS ->
                exactly(field, words).map(List::of).orElseGet(() -> {
                    List<String> own = readers(words).stream()
                            .filter(s -> s.startsWith(key + " "))
                            .toList();
                    return own.isEmpty()
                            ? field.options().stream()
                                    .filter(o -> words.length() >= 2 && beginsAWord(o.label(), words))
                                    .map(o -> is(field, o))
                                    .toList()
                            : own;
                });
            case YES_NO -> words.equals("yes") || words.equals("no") ? List.of(key + " is " + words) : List.of();
            // How far a text goes is not known; it is one word, or what stands in quotes.
            case TEXT ->
                words.contains(" ")
                        ? List.of()
                        : List.of(key + " contains " + quoted(words), key + " is " + quoted(words));
            case TIME -> List.of();
        };
    }

    private List<String> dates(Field field, String words) {
        Matcher stand =
                Pattern.compile("(before|after|since|from|until|up to|by) (.+)").matcher(words);
        if (stand.matches() && field.type() != FieldType.SPAN) {
            String word = switch (stand.group(1)) {
                case "since" -> "from";
                case "until", "by" -> "up to";
                default -> stand.group(1);
            };
            List<String> found = TypedWindow.read(stand.group(2), reading).stream()
                    .map(p -> field.key() + " " + word + " " + p)
                    .toList();
            if (!found.isEmpty()) {
                return found;
            }
        }
        List<String> windows = TypedWindow.read(words, reading).stream()
                .map(p -> during(field, p))
                .toList();
        return windows.isEmpty()
                ? repeating(words).stream()
                        .filter(s -> s.startsWith(field.key() + " "))
                        .toList()
                : windows;
    }

    private static List<String> numbers(Field field, String words) {
        Matcher m = COMPARED.matcher(words);
        if (!m.matches()) {
            return exactly(field, words).map(List::of).orElse(List.of());
        }
        return List.of(field.key() + sign(m) + m.group(5));
    }

    private static List<String> durations(Field field, String words) {
        Matcher m = COMPARED_DURATION.matcher(words);
        return m.matches()
                ? DurationText.seconds(m.group(5))
                        .map(seconds -> field.key() + sign(m) + DurationText.words(seconds))
                        .map(List::of)
                        .orElse(List.of())
                : List.of();
    }

    /** The sign of a comparison; of none {@code =}. */
    private static String sign(Matcher m) {
        return m.group(1) != null
                ? " > "
                : m.group(2) != null ? " >= " : m.group(3) != null ? " < " : m.group(4) != null ? " <= " : " = ";
    }

    /** Fields without a value: {@code no assignee}. */
    private List<String> empties(String words) {
        return register.fields().stream()
                .filter(f -> f.type() != FieldType.YES_NO && !f.required())
                .filter(f -> f.label().equalsIgnoreCase(words) || f.key().equalsIgnoreCase(words))
                .map(f -> f.key() + " is empty")
                .toList();
    }

    private List<String> inTexts(String word) {
        return register.fields().stream()
                .filter(f -> f.type() == FieldType.TEXT)
                .sorted(Comparator.comparing((Field f) -> identifiers.contains(f.key()))
                        .thenComparing(f -> f != title))
                .map(f -> f.key() + " contains " + quoted(word.replace("\"", "")))
                .toList();
    }

    /** Whether a word is what the records, or their fields, are called. */
    private boolean names(String word) {
        Function<String, String> stem = w -> w.toLowerCase(Locale.ROOT).replaceFirst("s$", "");
        return stem.apply(register.label()).equals(stem.apply(word))
                || register.fields().stream().anyMatch(f -> f.label().equalsIgnoreCase(word));
    }

    private List<Field> byLongestLabel() {
        return register.fields().stream()
                .sorted(Comparator.comparingInt((Field f) -> f.label().length()).reversed())
                .toList();
    }

    private static String plain(String words) {
        return words.toLowerCase(Locale.ROOT).replace("\"", "");
    }

    private static String quoted(String value) {
        return "\"" + value.replace("\\", "\\\\").replace("\"", "\\\"") + "\"";
    }
}
