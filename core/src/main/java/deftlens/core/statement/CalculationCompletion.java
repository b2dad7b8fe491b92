package deftlens.core.statement;

import deftlens.core.calculation.Function;
import deftlens.core.field.Register;
import deftlens.core.statement.Completion.Answer;
import deftlens.core.statement.Completion.Kind;
import deftlens.core.statement.Completion.Proposal;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Proposes how a calculation could go on at a place: fields, functions, and inside a condition what {@link Completion} proposes
 * there.
 *
 * @param register over whose fields it is
 */
public record CalculationCompletion(Register register) {

    private static final Pattern WORD = Pattern.compile("(?:\\[[^\\]]*|[\\p{L}_][\\p{L}\\p{N}_]*)$");

    /** A field, or “not”, with something behind it that is no sign of arithmetic: a condition is under way. */
    private static final Pattern CONDITION = Pattern.compile(
            "\\s*(?:not\\s+|.*\\s(?:and|or|not)\\s+)?(?:\\[[^\\]]*\\]|[\\p{L}_][\\p{L}\\p{N}_]*)\\s+(?![-+*/]).*",
            Pattern.CASE_INSENSITIVE | Pattern.DOTALL);

    /** What may be written at a position (UTF-16 units) of a text that need not be complete. */
    public Answer at(String text, int position) {
        String before = text.substring(0, Math.clamp(position, 0, text.length()));
        int start = argumentStart(before);
        if (start < 0) {
            return new Answer(before.length(), List.of());
        }
        String argument = before.substring(start);
        if (CONDITION.matcher(argument).matches()) {
            Answer inside = new Completion(register, Set.of()).at(argument, argument.length());
            return new Answer(start + inside.from(), inside.proposals());
        }
        Matcher word = WORD.matcher(before);
        String typed = word.find() ? word.group() : "";
        if (typed.isEmpty() && !argument.isBlank() && !argument.matches("(?s).*[-+*/(]\\s*")) {
            return new Answer(before.length(), List.of());
        }
        return new Answer(before.length() - typed.length(), proposals(typed.toLowerCase(Locale.ROOT)));
    }

    private List<Proposal> proposals(String typed) {
        String bare = typed.startsWith("[") ? typed.substring(1) : typed;
        List<Proposal> proposals = new ArrayList<>();
        register.fields().stream()
                .filter(f -> f.key().toLowerCase(Locale.ROOT).startsWith(bare)
                        || f.label().toLowerCase(Locale.ROOT).startsWith(bare))
                .forEach(f -> proposals.add(new Proposal(
                        Words.isWord(f.key()) ? "[" + f.key() + "]" : f.key(),
                        f.label() + " · " + f.type().words(),
                        Kind.FIELD)));
        if (!typed.startsWith("[")) {
            for (Function function : Function.values()) {
                add(proposals, typed, function.word() + "(", function.usage());
            }
            add(proposals, typed, "when(", "when(condition, value, …, otherwise)");
            add(proposals, typed, "today", "the day it is read on");
            add(proposals, typed, "now", "the moment it is read at");
        }
        return proposals;
    }

    private static void add(List<Proposal> proposals, String typed, String insert, String detail) {
        if (insert.startsWith(typed)) {
            proposals.add(new Proposal(insert, detail, Kind.WORD));
        }
    }

    /** Where the argument under way begins: behind the last bracket or comma that belongs to no list; −1 inside a text. */
    private static int argumentStart(String text) {
        List<Integer> starts = new ArrayList<>(List.of(0));
        List<Boolean> lists = new ArrayList<>(List.of(false));
        boolean quoted = false;
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
                String word =
                        text.substring(starts.getLast(), i).stripTrailing().toLowerCase(Locale.ROOT);
                boolean list = word.endsWith(" in") || word.endsWith(" of") || word.endsWith(" bands");
                lists.add(list);
                starts.add(list ? starts.getLast() : i + 1);
            } else if (c == ')' && starts.size() > 1) {
                starts.removeLast();
                lists.removeLast();
            } else if (c == ',' && !lists.getLast()) {
                starts.set(starts.size() - 1, i + 1);
            }
        }
        // What stands in a text inside a condition is a value, which is proposed.
        return quoted && !CONDITION.matcher(text.substring(starts.getLast())).matches() ? -1 : starts.getLast();
    }
}
