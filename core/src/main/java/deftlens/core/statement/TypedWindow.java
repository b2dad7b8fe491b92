package deftlens.core.statement;

import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.Month;
import java.time.YearMonth;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * What somebody may mean who types a window as people write it down: {@code Q3}, {@code mon last week}, {@code 3/11},
 * {@code Nov 25}, {@code since March}, {@code year to date}. The language itself stays strict; this only finds its phrases.
 * What can mean several things is never decided here: all readings are given, the likeliest first, and somebody chooses.
 */
public final class TypedWindow {

    /** The longest text that is looked at, in characters. */
    private static final int LONGEST = 80;

    private static final int MOST = 6;

    private static final Pattern QUARTER = Pattern.compile("(?:(\\d{4})[- ]?)?q([1-4])(?:[ -]?(\\d{4}|\\d{2}))?");
    private static final Pattern HALF = Pattern.compile("(?:(\\d{4})[- ]?)?h([12])(?:[ -]?(\\d{4}))?");
    private static final Pattern NUMBERS = Pattern.compile("(\\d{1,2})[/.-](\\d{1,2})(?:[/.-](\\d{4}|\\d{2}))?");
    private static final Pattern BACKWARDS = Pattern.compile("(\\d{4})[/.](\\d{1,2})[/.](\\d{1,2})");
    private static final Pattern DAY_MONTH =
            Pattern.compile("(\\d{1,2})(?:st|nd|rd|th)?(?: of)? ([a-z]{3,9})\\.?,?(?: (\\d{4}|\\d{2}))?");
    private static final Pattern MONTH_NUMBER =
            Pattern.compile("([a-z]{3,9})\\.? (\\d{1,2})(?:st|nd|rd|th)?(?:,? (\\d{4}))?");
    private static final Pattern MONTH_YEAR = Pattern.compile("([a-z]{3,9})\\.?,?(?: (\\d{4}))?");
    private static final Pattern WEEKDAY =
            Pattern.compile("(?:(last|this|next) )?([a-z]{3,9})(?: (?:of )?(?:(last|this|next)(?: week)?))?");
    private static final Pattern COUNTED =
            Pattern.compile("(?:(last|past|previous|next|coming) )?(\\d{1,4}) ?([a-z]+)(?: (ago|from now|back))?");
    private static final Pattern WEEK = Pattern.compile("(?:week|wk|w) ?(\\d{1,2})(?: (\\d{4}))?");
    private static final Pattern SINCE = Pattern.compile("(?:since|from) (.+)");
    private static final Pattern UNTIL = Pattern.compile("(?:until|till|up to|to) (.+)");
    private static final Pattern RANGE =
            Pattern.compile("(.+?) ?(?:\\.\\.\\.?|–|—| to | - |(?<=[a-z])-(?=[a-z])) ?(.+)");

    private final Reading reading;

    private TypedWindow(Reading reading) {
        this.reading = reading;
    }

    /**
     * The phrases of the language that a text may stand for, as they are printed, the likeliest first; none when it stands
     * for nothing that is known, one when there is no doubt.
     *
     * @param reading what years and weeks are filled in from
     */
    public static List<String> read(String text, Reading reading) {
        String plain = text.strip().toLowerCase(Locale.ROOT).replaceAll("\\s+", " ");
        if (plain.isEmpty() || plain.length() > LONGEST) {
            return List.of();
        }
        return new TypedWindow(reading).whole(plain).stream().limit(MOST).toList();
    }

    private List<String> whole(String text) {
        Optional<String> exact = phrase(text);
        if (exact.isPresent()) {
            return List.of(exact.get());
        }
        List<String> single = single(text);
        return single.isEmpty() ? open(text) : single;
    }

    /** A stretch with one end named, or both. */
    private List<String> open(String text) {
        Matcher since = SINCE.matcher(text);
        if (since.matches() && !since.group(1).contains(" to ")) {
            return phrases(each(since.group(1)).stream().map(from -> from + " to today"));
        }
        Matcher until = UNTIL.matcher(text);
        if (until.matches()) {
            return phrases(each(until.group(1)).stream().map(to -> "today to " + to));
        }
        Matcher range = RANGE.matcher(text.startsWith("from ") ? text.substring("from ".length()) : text);
        if (!range.matches()) {
            return List.of();
        }
        List<String> from = each(range.group(1));
        List<String> to = each(range.group(2));
        // Both ends are read the same way: 3/11 to 4/12 is not a day first and then a month first.
        if (from.size() == to.size()) {
            List<String> pairs = new ArrayList<>();
            for (int i = 0; i < from.size(); i++) {
                pairs.add(from.get(i) + " to " + to.get(i));
            }
            return phrases(pairs.stream());
        }
        return phrases(from.stream().flatMap(f -> to.stream().map(t -> f + " to " + t)));
    }

    private List<String> each(String text) {
        return phrase(text).map(List::of).orElseGet(() -> single(text));
    }

    private List<String> single(String text) {
        List<String> found = new ArrayList<>();
        Matcher m;
        if ((m = QUARTER.matcher(text)).matches()) {
            quarter(found, m);
        } else if ((m = HALF.matcher(text)).matches()) {
            String year = m.group(1) != null ? m.group(1) : m.group(3);
            years(year).forEach(y -> found.add(y + "-H" + m2(text, HALF, 2)));
        } else if ((m = BACKWARDS.matcher(text)).matches()) {
            add(found, number(m, 1), number(m, 2), number(m, 3));
        } else if ((m = NUMBERS.matcher(text)).matches()) {
            numbers(found, m);
        } else if ((m = WEEK.matcher(text)).matches()) {
            int week = number(m, 1);
            years(m.group(2)).forEach(y -> found.add(String.format(Locale.ROOT, "%s-W%02d", y, week)));
        } else if ((m = DAY_MONTH.matcher(text)).matches() && month(m.group(2)).isPresent()) {
            dayOfMonth(found, number(m, 1), month(m.group(2)).get(), m.group(3));
        } else if ((m = MONTH_NUMBER.matcher(text)).matches()
                && month(m.group(1)).isPresent()) {
            monthAndNumber(found, m);
        } else if ((m = MONTH_YEAR.matcher(text)).matches() && month(m.group(1)).isPresent()) {
            Month month = month(m.group(1)).get();
            years(m.group(2))
                    .forEach(y ->
                            found.add(YearMonth.of(Integer.parseInt(y), month).toString()));
        } else if ((m = WEEKDAY.matcher(text)).matches() && weekday(m.group(2)).isPresent()) {
            weekday(found, m);
        } else if ((m = COUNTED.matcher(text)).matches()) {
            counted(found, m);
        } else {
            found.addAll(idiom(text));
        }
        return phrases(found.stream());
    }

    private static String m2(String text, Pattern pattern, int group) {
        Matcher m = pattern.matcher(text);
        return m.matches() ? m.group(group) : "";
    }

    private void quarter(List<String> found, Matcher m) {
        String year = m.group(1) != null ? m.group(1) : m.group(3);
        String full = year != null && year.length() == 2 ? "20" + year : year;
        String number = m.group(2);
        List<String> calendar = years(full).stream().map(y -> y + "-Q" + number).toList();
        if (reading.fiscalYearStarts() == Month.JANUARY) {
            found.addAll(calendar);
            return;
        }
        // Which of the two years somebody counts in is theirs to say.
        found.add(calendar.get(0));
        int fiscal = full != null ? Integer.parseInt(full) : fiscalYear();
        found.add("FY" + fiscal + "-Q" + number);
        if (full == null) {
            found.add(calendar.get(1));
            found.add("FY" + (fiscal - 1) + "-Q" + number);
        }
    }

    /** The fiscal year of today, by the year that it ends in. */
    private int fiscalYear() {
        LocalDate today = reading.today();
        return today.getYear() + (today.getMonth().compareTo(reading.fiscalYearStarts()) >= 0 ? 1 : 0);
    }

    /** The year that is named, or this one and then its neighbours. */
    private List<String> years(String named) {
        int now = reading.today().getYear();
        return named != null ? List.of(named) : List.of("" + now, "" + (now - 1), "" + (now + 1));
    }

    private void numbers(List<String> found, Matcher m) {
        int first = number(m, 1);
        int second = number(m, 2);
        String year = m.group(3);
        int y = year == null
                ? reading.today().getYear()
                : year.length() == 2 ? 2000 + Integer.parseInt(year) : Integer.parseInt(year);
        add(found, y, second, first);
        add(found, y, first, second);
    }

    private void dayOfMonth(List<String> found, int day, Month month, String year) {
        int now = reading.today().getYear();
        if (year != null) {
            add(
                    found,
                    year.length() == 2 ? 2000 + Integer.parseInt(year) : Integer.parseInt(year),
                    month.getValue(),
                    day);
        } else if (day > 31) {
            found.add(YearMonth.of(2000 + day, month).toString());
        } else {
            add(found, now, month.getValue(), day);
            add(found, now - 1, month.getValue(), day);
            add(found, now + 1, month.getValue(), day);
        }
    }

    /** {@code Nov 25}: a day of this year's November, or November 2025. */
    private void monthAndNumber(List<String> found, Matcher m) {
        Month month = month(m.group(1)).get();
        int number = number(m, 2);
        if (m.group(3) != null) {
            add(found, number(m, 3), month.getValue(), number);
            return;
        }
        add(found, reading.today().getYear(), month.getValue(), number);
        found.add(YearMonth.of(2000 + number, month).toString());
    }

    private void weekday(List<String> found, Matcher m) {
        String name = name(weekday(m.group(2)).get().name());
        String which = m.group(3);
        if (which != null) {
            found.add(name + " of " + which + " week");
        } else if (m.group(1) != null) {
            // "Last Monday" is the Monday of last week to some, the latest Monday to others.
            found.add(name + " of " + m.group(1) + " week");
            if (!m.group(1).equals("this")) {
                found.add(name + " of this week");
            }
        } else {
            List.of("this", "last", "next").forEach(w -> found.add(name + " of " + w + " week"));
        }
    }

    private void counted(List<String> found, Matcher m) {
        Optional<String> unit = unit(m.group(3));
        if (unit.isEmpty()) {
            return;
        }
        int count = number(m, 2) * (isFortnight(m.group(3)) ? 14 : 1);
        String words = count + " " + unit.get();
        if (m.group(4) != null) {
            found.add(words + (m.group(4).equals("back") ? " ago" : " " + m.group(4)));
        } else if (m.group(1) != null) {
            found.add((m.group(1).equals("next") || m.group(1).equals("coming") ? "next " : "last ") + words);
        } else {
            List.of("last ", "next ").forEach(side -> found.add(side + words));
        }
    }

    private List<String> idiom(String text) {
        int now = reading.today().getYear();
        return switch (text) {
            case "ytd", "year to date" -> List.of("start of this year to today", "start of this fiscal year to today");
            case "mtd", "month to date" -> List.of("start of this month to today");
            case "qtd", "quarter to date" ->
                List.of("start of this quarter to today", "start of this fiscal quarter to today");
            case "wtd", "week to date" -> List.of("start of this week to today");
            case "weekend", "this weekend" -> List.of("Saturday of this week to Sunday of this week");
            case "last weekend" -> List.of("Saturday of last week to Sunday of last week");
            case "next weekend" -> List.of("Saturday of next week to Sunday of next week");
            case "fortnight", "last fortnight", "past fortnight" -> List.of("last 14 days");
            case "next fortnight" -> List.of("next 14 days");
            case "past week", "previous week" -> List.of("last 7 days", "last week");
            case "past month", "previous month" -> List.of("last month", "last 1 month");
            case "past year", "previous year" -> List.of("last year", "last 1 year");
            case "now" -> List.of("today");
            case "fiscal year", "fy" -> List.of("this fiscal year");
            case "year" -> List.of("this year", "" + (now - 1));
            case "week", "month", "quarter" -> List.of("this " + text, "last " + text);
            default -> List.of();
        };
    }

    // ------------------------------------------------------------------ names

    private static Optional<Month> month(String name) {
        for (Month month : Month.values()) {
            String full = month.name().toLowerCase(Locale.ROOT);
            if (full.startsWith(name) && name.length() >= 3 || name.equals("sept") && month == Month.SEPTEMBER) {
                return Optional.of(month);
            }
        }
        return Optional.empty();
    }

    private static Optional<DayOfWeek> weekday(String name) {
        for (DayOfWeek day : DayOfWeek.values()) {
            if (name.length() >= 3 && day.name().toLowerCase(Locale.ROOT).startsWith(name)) {
                return Optional.of(day);
            }
        }
        return Optional.empty();
    }

    private static boolean isFortnight(String unit) {
        return unit.startsWith("fortnight");
    }

    private static Optional<String> unit(String name) {
        return Optional.ofNullable(
                switch (name) {
                    case "d", "day", "days", "fortnight", "fortnights" -> "days";
                    case "w", "wk", "wks", "week", "weeks" -> "weeks";
                    case "m", "mo", "mth", "mths", "mnth", "month", "months" -> "months";
                    case "q", "qtr", "qtrs", "quarter", "quarters" -> "quarters";
                    case "y", "yr", "yrs", "year", "years" -> "years";
                    case "h", "hr", "hrs", "hour", "hours" -> "hours";
                    case "min", "mins", "minute", "minutes" -> "minutes";
                    default -> null;
                });
    }

    private static String name(String constant) {
        return constant.charAt(0) + constant.substring(1).toLowerCase(Locale.ROOT);
    }

    private static int number(Matcher m, int group) {
        return Integer.parseInt(m.group(group));
    }

    /** Adds a day where the calendar has it. */
    private static void add(List<String> found, int year, int month, int day) {
        try {
            found.add(LocalDate.of(year, month, day).toString());
        } catch (DateTimeException noSuchDay) {
            // One reading less.
        }
    }

    /** Those that are phrases of the language, each once, as they are printed. */
    private static List<String> phrases(java.util.stream.Stream<String> texts) {
        Set<String> printed = new LinkedHashSet<>();
        texts.forEach(text -> phrase(text).ifPresent(printed::add));
        return List.copyOf(printed);
    }

    private static Optional<String> phrase(String text) {
        try {
            Period period = Reader.period(text);
            return Optional.of(Printer.period(period));
        } catch (StatementError noPhrase) {
            return Optional.empty();
        }
    }
}
