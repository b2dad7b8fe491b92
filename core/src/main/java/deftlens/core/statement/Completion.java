package deftlens.core.statement;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Elsewhere;
import deftlens.core.condition.Fit;
import deftlens.core.condition.Test;
import deftlens.core.condition.Verb;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.IntStream;

/** Proposes how a statement could go on at a place: fields, tests that fit, values, date phrases, and/or. */
public final class Completion {

    /** What is proposed. */
    public enum Kind {
        FIELD,
        TEST,
        VALUE,
        PERIOD,
        WORD
    }

    /**
     * One way to go on.
     *
     * @param insert what to write from {@link Answer#from()} on
     * @param detail a word of explanation, or empty
     */
    public record Proposal(String insert, String detail, Kind kind) {}

    /**
     * The ways to go on.
     *
     * @param from where the text they replace begins, in UTF-16 units; it ends at the asked position
     */
    public record Answer(int from, List<Proposal> proposals) {}

    private static final List<String> PERIODS = List.of(
            "today",
            "yesterday",
            "tomorrow",
            "this week",
            "last week",
            "next week",
            "this month",
            "last month",
            "next month",
            "this quarter",
            "last quarter",
            "this year",
            "last year",
            "last 7 days",
            "last 30 days",
            "last 3 full months",
            "next 7 days",
            "next 30 days",
            "30 days ago",
            "30 days from now",
            "start of this month",
            "end of this month",
            "this fiscal quarter",
            "this fiscal year");
    private static final List<String> HOURS = List.of("last 4 hours", "next 8 hours", "2 hours ago");

    private final Register register;
    private final Set<String> attributes;
    private final Elsewhere elsewhere;

    /** Completion for statements over a register that ask about no other records. */
    public Completion(Register register, Set<String> attributes) {
        this(register, attributes, Elsewhere.NOWHERE);
    }

    /** Completion for statements over a register. */
    public Completion(Register register, Set<String> attributes, Elsewhere elsewhere) {
        this.register = register;
        this.attributes = Set.copyOf(attributes);
        this.elsewhere = elsewhere;
    }

    /** What may be written at a position (UTF-16 units) of a text that need not be complete. */
    public Answer at(String text, int position) {
        String before = text.substring(0, Math.clamp(position, 0, text.length()));
        Optional<Answer> there = elsewhere(before);
        if (there.isPresent()) {
            return there.get();
        }
        int start = criterionStart(before);
        String piece = before.substring(start);
        Optional<Named> named = fieldAt(piece);
        if (named.isEmpty() || named.get().length() == piece.length()) {
            return new Answer(start, fields(piece, before.substring(0, start)));
        }
        Field field = named.get().field();
        String rest = piece.substring(named.get().length());
        int restStart = start
                + named.get().length()
                + (rest.length() - rest.stripLeading().length());
        return afterField(field, rest.stripLeading(), restStart, before);
    }

    private static final Pattern TO_OTHERS = Pattern.compile(
            "(\\w+|\\[[^\\]]+\\])\\s+(?:not\\s+)?in\\s*\\(\\s*(\\w+|\\[[^\\]]+\\])\\s+where\\s",
            Pattern.CASE_INSENSITIVE | Pattern.UNICODE_CHARACTER_CLASS);

    /** What may be written at the end of what is asked of other records, where the text ends in that. */
    private Optional<Answer> elsewhere(String before) {
        Matcher opening = TO_OTHERS.matcher(before);
        while (opening.find()) {
            String inside = before.substring(opening.end());
            Optional<Elsewhere.Place> place = register.named(Reader.unbracketed(opening.group(1)))
                    .flatMap(field -> elsewhere.of(field.key(), Reader.unbracketed(opening.group(2))));
            if (place.isPresent() && !isClosed(inside)) {
                Answer answer = new Completion(
                                place.get().register(), attributes, place.get().elsewhere())
                        .at(inside, inside.length());
                List<Proposal> proposals = new ArrayList<>(answer.proposals());
                if (proposals.stream().anyMatch(p -> p.insert().equals("and"))
                        && proposals.stream().noneMatch(p -> p.insert().equals(")"))) {
                    proposals.add(new Proposal(")", "back to " + register.label(), Kind.WORD));
                }
                return Optional.of(new Answer(answer.from() + opening.end(), proposals));
            }
        }
        return Optional.empty();
    }

    /** Whether a bracket that was open before a text is closed in it. */
    private static boolean isClosed(String text) {
        int open = 1;
        boolean quoted = false;
        for (int i = 0; i < text.length() && open > 0; i++) {
            char c = text.charAt(i);
            if (quoted && c == '\\') {
                i++;
            } else if (c == '"') {
                quoted = !quoted;
            } else if (!quoted) {
                open += c == '(' ? 1 : c == ')' ? -1 : 0;
            }
        }
        return open == 0;
    }

    /** The tests of a field that are about other records, as far as they are typed; nothing where another one is. */
    private Optional<Answer> others(Field field, String typed, int start, String before) {
        List<Elsewhere.Place> places = elsewhere.of(field.key());
        Matcher opened = Pattern.compile("(?:not\\s+)?in\\s*\\(\\s*", Pattern.CASE_INSENSITIVE)
                .matcher(typed);
        if (places.isEmpty() || !opened.lookingAt()) {
            return Optional.empty();
        }
        String name = typed.substring(opened.end());
        if (isClosed(name)) {
            return Optional.of(name.endsWith(")") ? new Answer(before.length(), List.of()) : words(before));
        }
        return Optional.of(new Answer(
                start + opened.end(),
                places.stream()
                        .map(Elsewhere.Place::register)
                        .filter(r -> startsWith(r.key(), name) || startsWith(r.label(), name))
                        .map(r -> new Proposal(Printer.field(r.key()) + " where ", r.label(), Kind.WORD))
                        .toList()));
    }

    private static boolean startsWith(String word, String typed) {
        return word.regionMatches(true, 0, typed, 0, typed.length());
    }

    private Answer afterField(Field field, String typed, int start, String before) {
        Optional<Answer> others = others(field, typed, start, before);
        if (others.isPresent()) {
            return others.get();
        }
        List<Proposal> proposals = new ArrayList<>();
        String lower = typed.toLowerCase(Locale.ROOT);
        if (!elsewhere.of(field.key()).isEmpty()) {
            for (String words : List.of("in (", "not in (")) {
                if (words.startsWith(lower)) {
                    proposals.add(new Proposal(words, "values of other records", Kind.TEST));
                }
            }
        }
        Verb longest = null;
        for (Verb verb : Verb.of(register, field)) {
            if (verb.words().startsWith(lower)) {
                proposals.add(new Proposal(verb.words(), detail(verb, field), Kind.TEST));
            }
            if (lower.startsWith(verb.words() + " ")
                    || lower.startsWith(verb.words())
                            && !Character.isLetter(verb.words().charAt(0))) {
                longest = longest == null
                                || verb.words().length() > longest.words().length()
                        ? verb
                        : longest;
            }
        }
        if (field.type().isTemporal() && "on".startsWith(lower)) {
            proposals.add(new Proposal("on", detail(Verb.IN, field), Kind.TEST));
        }
        if (field.type().isTemporal() && lower.startsWith("on ") && (lower.equals("on ") || proposals.isEmpty())) {
            return argument(field, Verb.IN, typed.substring(3), start + 3, before);
        }
        if (longest != null) {
            Answer argument = argument(
                    field,
                    longest,
                    typed.substring(longest.words().length()),
                    start + longest.words().length(),
                    before);
            if (!argument.proposals().isEmpty() || proposals.isEmpty()) {
                return argument;
            }
        }
        return new Answer(start, proposals);
    }

    private Answer argument(Field field, Verb verb, String typed, int start, String before) {
        String rest = typed.stripLeading();
        int from = start + typed.length() - rest.length();
        return switch (verb.takes()) {
            case NOTHING -> words(before);
            case PERIOD, TWO_PERIODS -> {
                boolean second = verb.takes() == Verb.Takes.TWO_PERIODS
                        && rest.toLowerCase(Locale.ROOT).contains(" and ");
                int skip = second ? rest.toLowerCase(Locale.ROOT).indexOf(" and ") + 5 : 0;
                String phrase = rest.substring(skip);
                if (isPeriod(phrase) && !phrase.equals(phrase.stripTrailing())) {
                    yield verb.takes() == Verb.Takes.TWO_PERIODS && !second
                            ? new Answer(before.length(), List.of(new Proposal("and", "the second end", Kind.WORD)))
                            : words(before);
                }
                List<Proposal> proposals = new ArrayList<>(periods(field, phrase.stripLeading()));
                proposals.addAll(others(field, verb, phrase.stripLeading()));
                yield new Answer(from + skip, proposals);
            }
            case VALUE -> value(field, rest, from, before);
            case VALUES -> {
                int last = Math.max(rest.lastIndexOf(','), rest.lastIndexOf('('));
                if (rest.stripTrailing().endsWith(")") && !rest.equals(rest.stripTrailing())) {
                    yield words(before);
                }
                if (last < 0) {
                    yield new Answer(from, List.of(new Proposal("(", "the list of values", Kind.WORD)));
                }
                String value = rest.substring(last + 1);
                String open = value.stripLeading();
                yield new Answer(from + last + 1 + value.length() - open.length(), values(field, open));
            }
            case BANDS -> bands(field, rest, from, before);
            case WEEKDAYS, MONTHS, DAYS_OF_MONTH -> calendar(verb, rest, from, before);
            case NUMBER ->
                rest.isBlank() || !reads(field, before)
                        ? new Answer(from, others(field, verb, rest))
                        : rest.equals(rest.stripTrailing()) ? new Answer(before.length(), List.of()) : words(before);
            case TEXT, TWO_NUMBERS, DISTANCE, TIME, TWO_TIMES, TIMES_ON_DAYS, PATTERN, RECORDS ->
                !rest.isBlank() && !rest.equals(rest.stripTrailing()) && reads(field, before)
                        ? words(before)
                        : new Answer(before.length(), List.of());
        };
    }

    /** The fields that can stand in the place of what follows a verb. */
    private List<Proposal> others(Field field, Verb verb, String typed) {
        String lower = typed.toLowerCase(Locale.ROOT);
        return Fit.others(register, field, verb).stream()
                .filter(f -> f.key().toLowerCase(Locale.ROOT).startsWith(lower))
                .map(f -> new Proposal(Printer.field(f.key()), "the field " + f.label(), Kind.FIELD))
                .toList();
    }

    private static Answer bands(Field field, String rest, int from, String before) {
        if (rest.strip().endsWith("\"") && rest.strip().length() > 1 && !rest.equals(rest.stripTrailing())) {
            return words(before);
        }
        String bare = rest.replace("\"", "").toLowerCase(Locale.ROOT);
        return new Answer(
                from,
                field.bands().stream()
                        .flatMap(Band::tree)
                        .filter(b -> b.name().toLowerCase(Locale.ROOT).startsWith(bare))
                        .map(b -> new Proposal(Printer.quoted(b.name()), "band", Kind.VALUE))
                        .toList());
    }

    private static Answer calendar(Verb verb, String rest, int from, String before) {
        if (rest.stripTrailing().endsWith(")") && !rest.equals(rest.stripTrailing())) {
            return words(before);
        }
        int last = Math.max(rest.lastIndexOf(','), rest.lastIndexOf('('));
        if (last < 0) {
            return new Answer(from, List.of(new Proposal("(", "the list", Kind.WORD)));
        }
        String value = rest.substring(last + 1);
        String open = value.stripLeading();
        Test.Part part = verb.takes() == Verb.Takes.WEEKDAYS
                ? Test.Part.WEEKDAY
                : verb.takes() == Verb.Takes.MONTHS ? Test.Part.MONTH : Test.Part.DAY_OF_MONTH;
        List<Proposal> proposals = IntStream.rangeClosed(1, part.most())
                .mapToObj(n -> Printer.calendar(part, n))
                .filter(n -> n.toLowerCase(Locale.ROOT).startsWith(open.toLowerCase(Locale.ROOT)))
                .map(n -> new Proposal(n, "", Kind.VALUE))
                .toList();
        return new Answer(from + last + 1 + value.length() - open.length(), proposals);
    }

    private Answer value(Field field, String rest, int from, String before) {
        if (!rest.isBlank() && !rest.equals(rest.stripTrailing()) && reads(field, before)) {
            return words(before);
        }
        return new Answer(from, values(field, rest));
    }

    private List<Proposal> values(Field field, String typed) {
        String bare = typed.replace("\"", "").toLowerCase(Locale.ROOT);
        LinkedHashMap<String, String> values = new LinkedHashMap<>();
        if (field.type() == FieldType.YES_NO) {
            values.put("yes", "");
            values.put("no", "");
        }
        for (Option option : field.options()) {
            String label = option.label().equals(option.value()) ? "" : option.label();
            if (option.value().toLowerCase(Locale.ROOT).startsWith(bare)
                    || option.label().toLowerCase(Locale.ROOT).contains(bare)) {
                values.put(Printer.quoted(option.value()), label);
            }
        }
        if (field.type() == FieldType.PERSON && "me".startsWith(bare)) {
            values.putFirst("me", "whoever reads");
        }
        if (field.type() == FieldType.TEXT || field.type() == FieldType.CHOICE) {
            attributes.stream()
                    .filter(a -> !a.equals("me") && ("my " + a).startsWith(bare))
                    .sorted()
                    .forEach(a -> values.put("my " + a, "the reader's own"));
        }
        List<Proposal> proposals = new ArrayList<>();
        values.forEach((insert, detail) -> proposals.add(new Proposal(insert, detail, Kind.VALUE)));
        return proposals.stream().limit(50).toList();
    }

    private static List<Proposal> periods(Field field, String typed) {
        String lower = typed.toLowerCase(Locale.ROOT);
        List<Proposal> proposals = new ArrayList<>();
        for (String period : PERIODS) {
            if (period.startsWith(lower)) {
                proposals.add(new Proposal(period, "", Kind.PERIOD));
            }
        }
        if (field.type() == FieldType.MOMENT || field.type() == FieldType.SPAN) {
            HOURS.stream()
                    .filter(p -> p.startsWith(lower))
                    .forEach(p -> proposals.add(new Proposal(p, "", Kind.PERIOD)));
        }
        // A count that has been typed is carried through the units.
        Matcher count = Pattern.compile("((?:last |next )?\\d{1,6}) ?([a-z]*)").matcher(lower);
        if (count.matches()) {
            boolean running = !Character.isDigit(lower.charAt(0));
            for (String unit : List.of("days", "weeks", "months", "quarters", "years", "working days")) {
                if (unit.startsWith(count.group(2))) {
                    proposals.add(new Proposal(count.group(1) + " " + unit + (running ? "" : " ago"), "", Kind.PERIOD));
                    if (!running) {
                        proposals.add(new Proposal(count.group(1) + " " + unit + " from now", "", Kind.PERIOD));
                    }
                }
            }
        }
        return proposals.stream().distinct().toList();
    }

    private static boolean isPeriod(String phrase) {
        try {
            Reader.period(phrase);
            return true;
        } catch (StatementError e) {
            return false;
        }
    }

    /** Whether the criterion that the text ends with can be read as it stands. */
    private boolean reads(Field field, String before) {
        try {
            Condition read = new Reader(register, attributes, elsewhere).read(before.substring(criterionStart(before)));
            return read instanceof Condition.Criterion c && c.field().equals(field.key());
        } catch (StatementError e) {
            return false;
        }
    }

    private static Answer words(String before) {
        List<Proposal> proposals = new ArrayList<>();
        proposals.add(new Proposal("and", "", Kind.WORD));
        proposals.add(new Proposal("or", "", Kind.WORD));
        if (before.chars().filter(c -> c == '(').count()
                > before.chars().filter(c -> c == ')').count()) {
            proposals.add(new Proposal(")", "closes the group", Kind.WORD));
        }
        return new Answer(before.length(), proposals);
    }

    private List<Proposal> fields(String typed, String before) {
        String lower =
                Reader.unbracketed(typed.startsWith("[") ? typed + "]" : typed).toLowerCase(Locale.ROOT);
        List<Proposal> proposals = new ArrayList<>();
        for (Field field : register.fields()) {
            if (field.key().toLowerCase(Locale.ROOT).startsWith(lower)
                    || field.label().toLowerCase(Locale.ROOT).startsWith(lower)) {
                proposals.add(new Proposal(
                        Printer.field(field.key()),
                        field.label() + " · " + field.type().words(),
                        Kind.FIELD));
            }
        }
        if (!before.stripTrailing().toLowerCase(Locale.ROOT).endsWith("not") && "not".startsWith(lower)) {
            proposals.add(new Proposal("not", "the opposite of what follows", Kind.WORD));
        }
        return proposals;
    }

    private static String detail(Verb verb, Field field) {
        boolean durations = field.type() == FieldType.DURATION;
        return switch (verb.takes()) {
            case NOTHING -> "";
            case VALUE -> "a value";
            case VALUES -> "a list: (\"…\", \"…\")";
            case TEXT -> "a text in quotes";
            case NUMBER -> durations ? "a duration such as 2 h 30 min" : "a number";
            case TWO_NUMBERS -> durations ? "two durations, both belong" : "two numbers, both belong";
            case PERIOD -> "a date phrase";
            case TWO_PERIODS -> "two dates, both belong";
            case DISTANCE -> "30 days ago, 2 weeks from now, …";
            case TIME -> "a time such as 14:30";
            case TWO_TIMES -> "two times: 22:00 and 06:00";
            case TIMES_ON_DAYS -> "two times and days: 12:00 and 16:00 in last week";
            case WEEKDAYS -> "a list: (Mon, Fri)";
            case MONTHS -> "a list: (March, April)";
            case DAYS_OF_MONTH -> "a list: (1, 15)";
            case BANDS -> "the name of a band";
            case PATTERN -> "/a regular expression/";
            case RECORDS -> "values of other records";
        };
    }

    private record Named(Field field, int length) {}

    /** The field that a piece of text begins with, by its longest name. */
    private Optional<Named> fieldAt(String piece) {
        Optional<Named> best = Optional.empty();
        for (Field field : register.fields()) {
            for (String name :
                    List.of(field.key(), "[" + field.label() + "]", "[" + field.key() + "]", field.label())) {
                boolean ends = piece.length() == name.length()
                        || piece.length() > name.length() && !isWord(piece.charAt(name.length()));
                if (piece.regionMatches(true, 0, name, 0, name.length())
                        && ends
                        && (best.isEmpty() || best.get().length() < name.length())) {
                    best = Optional.of(new Named(field, name.length()));
                }
            }
        }
        return best;
    }

    private static boolean isWord(char c) {
        return Character.isLetterOrDigit(c) || c == '_';
    }

    /**
     * Where the criterion under way begins: behind the last and, or, not or group bracket that is neither in quotes nor
     * part of a list or a between.
     */
    private static int criterionStart(String text) {
        int start = 0;
        boolean quoted = false;
        boolean between = false;
        int list = 0;
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (quoted) {
                if (c == '\\') {
                    i++;
                } else if (c == '"') {
                    quoted = false;
                }
            } else if (c == '"') {
                quoted = true;
            } else if (c == '(') {
                String word = text.substring(start, i).strip().toLowerCase(Locale.ROOT);
                if (word.endsWith(" in") || word.endsWith(" of") || word.endsWith(" bands") || list > 0) {
                    list++;
                } else {
                    start = i + 1;
                    between = false;
                }
            } else if (c == ')') {
                list = Math.max(0, list - 1);
            } else if (list == 0 && isWord(c) && (i == 0 || !isWord(text.charAt(i - 1)))) {
                int end = i;
                while (end < text.length() && isWord(text.charAt(end))) {
                    end++;
                }
                String word = text.substring(i, end).toLowerCase(Locale.ROOT);
                boolean complete = end < text.length();
                if (complete && word.equals("between")) {
                    between = true;
                } else if (complete && (word.equals("and") || word.equals("or"))) {
                    if (between && word.equals("and")) {
                        between = false;
                    } else {
                        start = end;
                        between = false;
                    }
                } else if (complete
                        && word.equals("not")
                        && text.substring(start, i).isBlank()) {
                    start = end;
                }
                i = end - 1;
            }
        }
        while (start < text.length() && Character.isWhitespace(text.charAt(start))) {
            start++;
        }
        return start;
    }
}
