package deftlens.core.statement;

import deftlens.core.condition.Test;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Unanswered;
import deftlens.core.time.Window;
import deftlens.core.time.Windows;
import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalDate;
import java.time.Month;
import java.time.YearMonth;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;

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
            Pattern.compile("(.+?) ?(?:\\.\\.\\.?|–|—| to | until | till | through | - |(?<=[a-z])-(?=[a-z])) ?(.+)");
    private static final String BETWEEN = " ?(?:to|and|-|–|until|till|through) ?";
    /** {@code 1 to 30 March}: two days of the month that follows. */
    private static final Pattern DAYS_OF_MONTH = Pattern.compile(
            "(\\d{1,2})(?:st|nd|rd|th)?" + BETWEEN + "(\\d{1,2})(?:st|nd|rd|th)?(?: of)? ([a-z]{3,9}),?(?: (\\d{4}))?");
    /** {@code March 1 to 30}. */
    private static final Pattern MONTH_DAYS = Pattern.compile(
            "([a-z]{3,9}) (\\d{1,2})(?:st|nd|rd|th)?" + BETWEEN + "(\\d{1,2})(?:st|nd|rd|th)?,?(?: (\\d{4}))?");
    /** {@code 4 to 8 hours from now}. */
    private static final Pattern COUNTED_RANGE = Pattern.compile("(?:between |in |next |last )?(\\d{1,4})" + BETWEEN
            + "(\\d{1,4}) ((?:working )?[a-z]+)(?: (ago|from now|back))?");

    private static final Pattern FISCAL = Pattern.compile(
            "(?:fy|fiscal year|financial year) ?(\\d{4}|\\d{2})(?:[/-](\\d{4}|\\d{2}))?(?:[ -]?q([1-4]))?");
    private static final Pattern ONE =
            Pattern.compile("(last|past|previous|next|coming) (minute|hour|day|working day)");
    private static final Pattern EDGE = Pattern.compile(
            "(?:(start|beginning|end) of )?(?:(this|last|next) )?((?:fiscal )?(?:week|month|quarter|year))(?:[ -](start|end))?");
    private static final Pattern TIMED =
            Pattern.compile("(.+?),?(?: at)? (noon|midnight|\\d{1,2}:\\d{2}|\\d{1,2}(?::\\d{2})? ?(?:am|pm))");
    private static final Pattern TIME = Pattern.compile("(\\d{1,2})(?::(\\d{2}))? ?(am|pm)?");
    private static final Pattern DAY = Pattern.compile("\\d{4}-\\d{2}-\\d{2}");
    private static final Pattern EVERY = Pattern.compile(
            "(?:in |on )?(?:every|any|each) ([a-z]+)|([a-z]+) (?:in|of) (?:any|every|each) year|(?:on )?([a-z]+days)");
    private static final List<String> NUMBER_WORDS = List.of(
            "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen twenty"
                    .split(" "));
    private static final Map<String, String> TENS =
            Map.of("thirty", "30", "forty", "40", "sixty", "60", "ninety", "90");

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
        String plain = plain(text);
        if (plain.isEmpty() || plain.length() > LONGEST) {
            return List.of();
        }
        TypedWindow typed = new TypedWindow(reading);
        List<String> found = typed.whole(plain);
        return (found.isEmpty() ? typed.whole(simpler(plain)) : found)
                .stream().limit(MOST).toList();
    }

    /**
     * What repeats in the calendar: {@code March in any year}, {@code every Monday}. No window is meant, but a test.
     *
     * @param part month or weekday
     * @param number from 1 for January or Monday
     */
    public record Repeating(Test.Part part, int number) {}

    /** What a text says that repeats, if it does. */
    public static Optional<Repeating> repeating(String text) {
        Matcher m = EVERY.matcher(plain(text));
        if (!m.matches()) {
            return Optional.empty();
        }
        String name = m.group(1) != null ? m.group(1) : m.group(2) != null ? m.group(2) : m.group(3);
        return month(name)
                .map(month -> new Repeating(Test.Part.MONTH, month.getValue()))
                .or(() -> weekday(name.endsWith("days") ? name.substring(0, name.length() - 1) : name)
                        .map(day -> new Repeating(Test.Part.WEEKDAY, day.getValue())));
    }

    private static String plain(String text) {
        return text.strip().toLowerCase(Locale.ROOT).replaceAll("\\s+", " ").replaceFirst("[.,;]$", "");
    }

    /** The same without words that say nothing of the dates, and with the numbers in figures. */
    private static String simpler(String text) {
        String plain = text.replaceFirst("^(?:in|on|within|during|over|for) ", "")
                .replaceAll("\\b(?:the|whole|entire) ", "")
                .replaceAll("\\b(?:an?|one) (?=minute|hour|day|week|month|quarter|year|fortnight)", "1 ")
                .replaceAll("\\b(?:a )?couple(?: of)? ", "2 ")
                .replaceAll("\\b(?:financial|fin\\.?) (?=year|quarter)", "fiscal ")
                .replaceAll("\\bbusiness (?=days?)", "working ");
        for (int i = 1; i < NUMBER_WORDS.size(); i++) {
            plain = plain.replaceAll("\\b" + NUMBER_WORDS.get(i) + "\\b", Integer.toString(i));
        }
        for (Map.Entry<String, String> ten : TENS.entrySet()) {
            plain = plain.replaceAll("\\b" + ten.getKey() + "\\b", ten.getValue());
        }
        return plain;
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
        Matcher range =
                RANGE.matcher(text.replaceFirst("^(?:from|between) ", "").replaceFirst("^(.+) and (.+)$", "$1 to $2"));
        if (!range.matches()) {
            return List.of();
        }
        List<String> from = each(range.group(1));
        List<String> to = each(range.group(2));
        if (to.isEmpty() && !from.isEmpty()) {
            // 3 nov 9:00 to 17:00: the second time is of the same day.
            to = time(range.group(2))
                    .map(at -> from.stream()
                            .filter(f -> f.contains("T"))
                            .map(f -> f.substring(0, f.indexOf('T') + 1) + at)
                            .toList())
                    .orElse(List.of());
        }
        // Both ends are read the same way: 3/11 to 4/12 is not a day first and then a month first.
        if (from.size() == to.size()) {
            List<String> pairs = new ArrayList<>();
            for (int i = 0; i < from.size(); i++) {
                pairs.add(from.get(i) + " to " + to.get(i));
            }
            List<String> forward = phrases(pairs.stream());
            if (!forward.isEmpty()) {
                return forward;
            }
        }
        // November to February: of each beginning, the end that comes soonest.
        List<String> ends = to;
        return from.stream()
                .flatMap(f ->
                        phrases(ends.stream().map(t -> f + " to " + t)).stream()
                                .min(Comparator.comparing(this::length))
                                .stream())
                .toList();
    }

    private Duration length(String phrase) {
        try {
            Window window = Windows.resolve(Reader.period(phrase), reading);
            return Duration.between(window.start(), window.end());
        } catch (Unanswered open) {
            return Duration.ZERO;
        }
    }

    private List<String> each(String text) {
        return phrase(text).map(List::of).orElseGet(() -> single(text));
    }

    private List<String> single(String text) {
        List<String> found = new ArrayList<>();
        Matcher m;
        if ((m = DAYS_OF_MONTH.matcher(text)).matches() && month(m.group(3)).isPresent()) {
            days(found, number(m, 1), number(m, 2), month(m.group(3)).get(), m.group(4));
        } else if ((m = MONTH_DAYS.matcher(text)).matches() && month(m.group(1)).isPresent()) {
            days(found, number(m, 2), number(m, 3), month(m.group(1)).get(), m.group(4));
        } else if ((m = COUNTED_RANGE.matcher(text)).matches()
                && unit(m.group(3)).isPresent()) {
            countedRange(found, text, m);
        } else if ((m = FISCAL.matcher(text)).matches()) {
            // 2025/26 is the year that ends in 2026, as the language counts.
            String year = m.group(2) != null ? m.group(2) : m.group(1);
            found.add("FY" + (year.length() == 2 ? "20" + year : year) + (m.group(3) == null ? "" : "-Q" + m.group(3)));
        } else if ((m = ONE.matcher(text)).matches()) {
            boolean ahead = m.group(1).equals("next") || m.group(1).equals("coming");
            if (m.group(2).equals("day")) {
                found.add(ahead ? "tomorrow" : "yesterday");
            }
            found.add((ahead ? "next 1 " : "last 1 ") + m.group(2));
        } else if ((m = EDGE.matcher(text)).matches() && (m.group(1) != null || m.group(4) != null)) {
            String edge = "end".equals(m.group(1)) || "end".equals(m.group(4)) ? "end of " : "start of ";
            String unit = m.group(3);
            (m.group(2) != null ? List.of(m.group(2)) : List.of("this", "last", "next"))
                    .forEach(which -> found.add(edge + which + " " + unit));
        } else if ((m = TIMED.matcher(text)).matches() && time(m.group(2)).isPresent()) {
            String at = time(m.group(2)).get();
            each(m.group(1)).stream()
                    .map(this::oneDay)
                    .flatMap(Optional::stream)
                    .forEach(day -> found.add(day + "T" + at));
        } else if ((m = QUARTER.matcher(text)).matches()) {
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

    /** Days of one month, of this year first; none where they run backwards. */
    private void days(List<String> found, int first, int last, Month month, String year) {
        for (String y : years(year)) {
            try {
                found.add(LocalDate.of(Integer.parseInt(y), month, first) + " to "
                        + LocalDate.of(Integer.parseInt(y), month, last));
            } catch (DateTimeException noSuchDay) {
                // One reading less.
            }
        }
    }

    private void countedRange(List<String> found, String text, Matcher m) {
        String unit = unit(m.group(3)).get();
        int near = Math.min(number(m, 1), number(m, 2));
        int far = Math.max(number(m, 1), number(m, 2));
        String ahead = near + " " + unit + " from now to " + far + " " + unit + " from now";
        String back = far + " " + unit + " ago to " + near + " " + unit + " ago";
        if ("from now".equals(m.group(4)) || text.startsWith("in ") || text.startsWith("next ")) {
            found.add(ahead);
        } else if (m.group(4) != null || text.startsWith("last ")) {
            found.add(back);
        } else {
            found.add(ahead);
            found.add(back);
        }
    }

    /** The day that a phrase stands for, where it is one day. */
    private Optional<LocalDate> oneDay(String phrase) {
        if (DAY.matcher(phrase).matches()) {
            return Optional.of(LocalDate.parse(phrase));
        }
        try {
            return Windows.resolve(Reader.period(phrase), reading) instanceof Window.Days days && days.length() == 1
                    ? Optional.of(days.firstDay())
                    : Optional.empty();
        } catch (Unanswered open) {
            return Optional.empty();
        }
    }

    /** A time of day as the language writes it. */
    private static Optional<String> time(String text) {
        if (text.equals("noon") || text.equals("midnight")) {
            return Optional.of(text.equals("noon") ? "12:00" : "00:00");
        }
        Matcher m = TIME.matcher(text);
        if (!m.matches() || m.group(2) == null && m.group(3) == null) {
            return Optional.empty();
        }
        int hour = number(m, 1);
        if (m.group(3) != null) {
            hour = hour % 12 + (m.group(3).equals("pm") ? 12 : 0);
        }
        return hour > 23
                ? Optional.empty()
                : Optional.of(String.format(Locale.ROOT, "%02d:", hour) + (m.group(2) == null ? "00" : m.group(2)));
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
        LocalDate today = reading.today();
        int now = today.getYear();
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
            case "tonight", "this evening" -> hours(today, 18, 24);
            case "this morning" -> hours(today, 6, 12);
            case "this afternoon" -> hours(today, 12, 18);
            case "last night" -> hours(today.minusDays(1), 18, 30);
            case "tomorrow morning" -> hours(today.plusDays(1), 6, 12);
            case "eom" -> List.of("end of this month", "end of last month");
            case "eoq" -> List.of("end of this quarter", "end of last quarter");
            case "eoy" -> List.of("end of this year", "end of last year");
            case "fiscal year", "fy" -> List.of("this fiscal year");
            case "year" -> List.of("this year", "" + (now - 1));
            case "week", "month", "quarter" -> List.of("this " + text, "last " + text);
            default -> List.of();
        };
    }

    /** Hours from midnight of a day on, and the whole day, which rolls where the hours cannot. */
    private List<String> hours(LocalDate day, int from, int to) {
        String nearby =
                day.equals(reading.today()) ? "today" : day.isBefore(reading.today()) ? "yesterday" : "tomorrow";
        return List.of(
                day.atStartOfDay().plusHours(from) + " to " + day.atStartOfDay().plusHours(to), nearby);
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
                    case "working day", "working days" -> "working days";
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

    /** Those that are phrases of the language, each once, as they are printed; none that ends before it begins. */
    private List<String> phrases(Stream<String> texts) {
        Set<String> printed = new LinkedHashSet<>();
        texts.forEach(text -> phrase(text).filter(this::isForward).ifPresent(printed::add));
        return List.copyOf(printed);
    }

    private boolean isForward(String phrase) {
        try {
            return !(Reader.period(phrase) instanceof Period.Range range)
                    || Windows.resolve(range, reading)
                            .start()
                            .isBefore(Windows.resolve(range, reading).end());
        } catch (Unanswered open) {
            return true;
        }
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
