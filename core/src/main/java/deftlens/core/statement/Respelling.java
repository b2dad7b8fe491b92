package deftlens.core.statement;

import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Spellings that people bring along from elsewhere, and how the language writes them: {@code ==} for {@code =},
 * {@code severity in (1, 2)} for {@code severity is in (1, 2)}. What cannot be read is only answered with another spelling if it
 * can be read with it, at least further than before.
 */
final class Respelling {

    /** Beyond so many characters nobody is typing, and reading again takes its time. */
    private static final int LONGEST = 20_000;

    /** How far before the place where a text stops making sense the cause of it may stand, in characters. */
    private static final int REACH = 40;

    /** Characters that mean nothing in a statement, and much elsewhere. */
    private static final Set<String> STRAYS = Set.of("'", "“", "”", "„", "&", "|", "≥", "≤", "≠", "!");

    private static final String DAY =
            "(?=\\d{4}\\b|today\\b|yesterday\\b|tomorrow\\b|this\\b|last\\b|next\\b|\\d+ \\w+ ago\\b)";
    private static final String WEEKDAYS = "(mon|tues|wednes|thurs|fri|satur|sun)day";
    private static final String MONTHS =
            "(january|february|march|april|may|june|july|august|september|october|november|december)";
    /** A list, and not records of another register. */
    private static final String VALUES = "(?=\\s*\\()(?!\\s*\\([^()\"]*\\bwhere\\b)";

    private static final String NOT_AFTER_IS = "(?<!\\bis )(?<!\\bnot )";

    /**
     * One habit.
     *
     * @param written what is written
     * @param instead what is written here, with what the only group found as {@code $1}
     */
    private record Habit(Pattern written, String instead) {}

    private static Habit habit(String written, String instead) {
        return new Habit(
                Pattern.compile(
                        written.replace(" ", "\\s+"),
                        Pattern.CASE_INSENSITIVE | Pattern.UNICODE_CASE | Pattern.UNICODE_CHARACTER_CLASS),
                instead);
    }

    /** The likelier ones first; of two that go, the first is proposed. */
    private static final List<Habit> HABITS = List.of(
            // Quotes and signs.
            habit("'([^'\"\\n]*)'", "\"$1\""),
            habit("[“”„]([^“”„\"\\n]*)[“”]", "\"$1\""),
            habit("(?:==+|(?<![<>!=])=)\\s*" + DAY, "in "),
            habit("(?:!=|<>)\\s*" + DAY, "not in "),
            habit("(?:>=|=>|≥)\\s*" + DAY, "from "),
            habit("(?:<=|=<|≤)\\s*" + DAY, "up to "),
            habit("(?<![<>=])>\\s*" + DAY, "after "),
            habit("(?<![<>=])<(?![>=])\\s*" + DAY, "before "),
            habit("==+", "="),
            habit("<>|≠|=!", "!="),
            habit("=>|≥", ">="),
            habit("=<|≤", "<="),
            habit("&&?", "and"),
            habit("\\|\\|?", "or"),
            // Lists.
            habit(NOT_AFTER_IS + "\\bnot in\\b" + VALUES, "is not in"),
            habit("(?:\\bis )?(?<!\\bhas )\\b(?:not any|none) of\\b(?=\\s*\\()", "is not in"),
            habit("(?:\\bis )?(?<!\\bhas )\\b(?:any|one) of\\b(?=\\s*\\()", "is in"),
            habit(NOT_AFTER_IS + "\\bin\\b" + VALUES, "is in"),
            // Days of the week and months, which are parts of a date.
            habit("\\bweekday (?:is|on|=) \\(?" + WEEKDAYS + "s?\\)?", "weekday in ($1day)"),
            habit("\\bweekday is not " + WEEKDAYS, "weekday not in ($1day)"),
            habit("\\b(?:is )?(?:on )?(?:a |every )?" + WEEKDAYS + "s\\b", "weekday in ($1day)"),
            habit("\\bis (?:on )?(?:a )?" + WEEKDAYS + "\\b", "weekday in ($1day)"),
            habit("\\bmonth (?:is|=) " + MONTHS + "\\b", "month in ($1)"),
            habit("\\bis not (?:on )?" + DAY, "not in "),
            habit("\\bis (?:on )?" + DAY, "in "),
            // Comparing in words.
            habit("\\b(?:is )?(?:greater|bigger|higher|larger|more) than or equal(?: to)?\\b", "is at least"),
            habit("\\b(?:is )?(?:smaller|lower|less|fewer) than or equal(?: to)?\\b", "is at most"),
            habit("\\b(?:is )?(?:greater|bigger|higher|larger) than\\b", "is more than"),
            habit("\\b(?:is )?(?:smaller|lower|fewer) than\\b", "is less than"),
            habit("\\b(?:is )?(?:over|above|exceeds)\\b", "is more than"),
            habit("\\b(?:is )?(?:under|below)\\b", "is less than"),
            habit("(?<!\\bis )\\b(more|less) than\\b", "is $1 than"),
            habit("(?<!\\bis )\\bat (least|most)\\b", "is at $1"),
            habit("\\b(?:is )?not equals?(?: to)?\\b", "is not"),
            habit("\\b(?:is )?equals?(?: to)?\\b", "is"),
            // Empty, yes and no.
            habit("\\bis not (?:null|blank|none|missing)\\b|\\bhas (?:a|any) value\\b", "is not empty"),
            habit("\\bis (?:null|blank|none|missing)\\b|\\bhas no value\\b", "is empty"),
            habit(NOT_AFTER_IS + "\\bnot empty\\b", "is not empty"),
            habit(NOT_AFTER_IS + "\\bempty\\b", "is empty"),
            habit("\\bis true\\b", "is yes"),
            habit("\\bis false\\b", "is no"),
            // Texts.
            habit("\\bisn[’']t\\b", "is not"),
            habit("\\bdoesn[’']t contain\\b|\\bnot contains?\\b|\\bexcludes\\b", "does not contain"),
            habit("\\bbegins with\\b", "starts with"),
            habit("\\bincludes\\b", "contains"),
            habit("\\bafter or on\\b|\\bon or after\\b|\\bsince\\b", "from"),
            habit("\\bbefore or on\\b|\\bon or before\\b|\\buntil\\b", "up to"));

    private Respelling() {}

    /**
     * What to write instead, for a text that cannot be read.
     *
     * @param error why and where it cannot be read
     * @param reading reads a text, or throws what is wrong with it
     */
    static Optional<StatementError> of(String text, StatementError error, Consumer<String> reading) {
        if (text.length() > LONGEST) {
            return Optional.empty();
        }
        int stops = error.place().offset();
        for (Habit habit : HABITS) {
            Matcher found = habit.written().matcher(text);
            found.region(
                    Math.max(0, stops - REACH),
                    Math.min(text.length(), stops + error.place().length() + REACH));
            found.useTransparentBounds(true);
            while (found.find()) {
                // What begins behind the place is not what is wrong there.
                if (found.start() > stops + error.place().length()) {
                    break;
                }
                String instead = replacement(habit, found);
                if (readsFurther(text, found, instead, error, reading)) {
                    return Optional.of(answer(text, found, instead));
                }
            }
        }
        return Optional.empty();
    }

    private static String replacement(Habit habit, Matcher found) {
        return found.groupCount() == 0 ? habit.instead() : habit.instead().replace("$1", found.group(1));
    }

    private static boolean readsFurther(
            String text, Matcher found, String instead, StatementError error, Consumer<String> reading) {
        String other = text.substring(0, found.start()) + instead + text.substring(found.end());
        try {
            reading.accept(other);
            return true;
        } catch (StatementError next) {
            int stops = next.place().offset();
            int moved = instead.length() - (found.end() - found.start());
            // A character that means nothing is found before the words around it are looked at.
            return STRAYS.contains(error.found())
                    ? stops < found.start() || stops >= found.end() + moved
                    : stops > Math.max(error.place().offset(), found.end()) + moved;
        }
    }

    private static StatementError answer(String text, Matcher found, String instead) {
        String written = text.substring(found.start(), found.end());
        return new StatementError(
                "“" + written.strip() + "” is written “" + instead.strip() + "” here.",
                StatementError.Place.of(text, found.start(), found.end() - found.start()),
                written,
                List.of(instead));
    }
}
