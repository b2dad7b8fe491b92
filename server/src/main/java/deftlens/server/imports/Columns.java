package deftlens.server.imports;

import deftlens.core.field.FieldType;
import deftlens.core.time.DurationText;
import deftlens.server.values.DateText;
import deftlens.server.values.NumberText;
import deftlens.server.values.YesNoValues;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/** What the columns of a file hold, found by reading all of it once. */
final class Columns {

    private static final int MOST_SAMPLES = 5;
    private static final int MOST_KNOWN = 60;
    private static final int MOST_ODD = 5;
    private static final int PREVIEW = 20;
    private static final Set<String> MONEY_WORDS =
            Set.of("amount", "cost", "price", "total", "net", "gross", "fee", "balance", "tax", "paid");

    /**
     * What a column seems to be.
     *
     * @param type what it seems to hold
     * @param order which of two short numbers of a date is the day, where that matters
     * @param decimal which sign comes before decimals, where that matters
     * @param ask whether the file cannot say and a person has to
     * @param evidence a sentence about how many values read that way
     * @param odd some values that do not, with their lines
     */
    record Guess(
            FieldType type,
            Optional<DateText.Order> order,
            Optional<NumberText.Decimal> decimal,
            boolean ask,
            String evidence,
            List<Odd> odd) {}

    /** A value that does not read like the others of its column. */
    record Odd(long line, String value) {}

    /**
     * A column.
     *
     * @param index its place, from 0
     * @param filled how many rows have a value
     * @param known its values, where they are few
     * @param unique whether every row has a value and no two the same
     * @param formulas how many cells are formulas that the file has no value for
     * @param formulaLines the first lines of them
     */
    record FileColumn(
            int index,
            String name,
            long filled,
            long rows,
            List<String> samples,
            Guess guess,
            List<String> known,
            boolean unique,
            long formulas,
            List<Long> formulaLines) {}

    private final long namesAt;
    private final Set<String> persons;
    private final List<Counting> counting = new ArrayList<>();
    private final List<List<String>> preview = new ArrayList<>();
    private List<String> names = List.of();
    private long rows;

    /**
     * Columns not looked at yet.
     *
     * @param namesAt the line of the row that names them, and with which they begin; 0 for none
     * @param persons the sign-in and full names of people, in small letters
     */
    Columns(long namesAt, Set<String> persons) {
        this.namesAt = namesAt;
        this.persons = persons;
    }

    /** Looks at one row. */
    void row(long line, List<String> cells) {
        if (line < namesAt) {
            return;
        }
        if (line == namesAt) {
            names = cells.stream().map(String::strip).toList();
            grow(names.size());
            return;
        }
        rows++;
        grow(cells.size());
        if (preview.size() < PREVIEW) {
            preview.add(List.copyOf(cells));
        }
        for (int i = 0; i < cells.size(); i++) {
            counting.get(i).value(line, cells.get(i).strip());
        }
    }

    /** Notes a formula without a value; it counts as empty. */
    void formula(long line, int column) {
        if (line > namesAt) {
            grow(column + 1);
            counting.get(column).formula(line);
        }
    }

    private void grow(int width) {
        while (counting.size() < width) {
            counting.add(new Counting());
        }
    }

    long rows() {
        return rows;
    }

    List<List<String>> preview() {
        return preview;
    }

    /** The columns, with what they seem to hold. */
    List<FileColumn> columns() {
        List<FileColumn> found = new ArrayList<>();
        for (int i = 0; i < counting.size(); i++) {
            String name = i < names.size() && !names.get(i).isEmpty() ? names.get(i) : "Column " + (i + 1);
            Counting c = counting.get(i);
            found.add(new FileColumn(
                    i,
                    name,
                    c.filled,
                    rows,
                    List.copyOf(c.samples),
                    c.guess(name),
                    c.isFew() ? c.byFrequency() : List.of(),
                    c.filled == rows && rows > 0 && c.distinct.areAll(),
                    c.formulas,
                    List.copyOf(c.formulaLines)));
        }
        return found;
    }

    private final class Counting {
        private final Set<String> samples = new java.util.LinkedHashSet<>();
        private final Map<String, Integer> known = new LinkedHashMap<>();
        private final Distinct distinct = new Distinct();
        private final long[] counts = new long[Kind.values().length];
        private final Map<Kind, List<Odd>> odd = new HashMap<>();
        private final List<Long> formulaLines = new ArrayList<>();
        private long formulas;
        private long filled;

        void formula(long line) {
            formulas++;
            if (formulaLines.size() < MOST_ODD) {
                formulaLines.add(line);
            }
        }

        void value(long line, String text) {
            if (text.isEmpty()) {
                return;
            }
            filled++;
            if (samples.size() < MOST_SAMPLES) {
                samples.add(text);
            }
            if (known.size() <= MOST_KNOWN) {
                known.merge(text, 1, Integer::sum);
            }
            distinct.add(text);
            if (isOpen(Kind.YES_NO) || isOpen(Kind.PERSON)) {
                String small = text.length() < 60 ? text.toLowerCase(Locale.ROOT) : "";
                boolean yesNo = YesNoValues.YES.contains(small) || YesNoValues.NO.contains(small);
                tell(Kind.YES_NO, yesNo, line, text);
                count(Kind.WORDED_YES_NO, yesNo && small.length() > 1);
                tell(Kind.PERSON, persons.contains(small), line, text);
            }
            tell(Kind.TIME, isOpen(Kind.TIME) && DateText.time(text).isPresent(), line, text);
            tell(
                    Kind.DURATION,
                    isOpen(Kind.DURATION) && DurationText.seconds(text).isPresent(),
                    line,
                    text);
            numbers(line, text);
            dates(line, text);
        }

        private void numbers(long line, String text) {
            boolean plain = !NumberText.losesZero(text);
            count(Kind.ZERO_FIRST, !plain);
            if (isOpen(Kind.POINT_NUMBER)) {
                Optional<NumberText.Read> read =
                        plain ? NumberText.number(text, NumberText.Decimal.POINT) : Optional.empty();
                tell(Kind.POINT_NUMBER, read.isPresent(), line, text);
                read.ifPresent(r -> {
                    count(Kind.EITHER_NUMBER, r.either());
                    count(Kind.CURRENCY, r.currency());
                    count(Kind.FINE_DECIMALS, r.value().scale() > 2);
                    count(Kind.DECIMALS, r.value().scale() > 0);
                });
            }
            if (isOpen(Kind.COMMA_NUMBER)) {
                Optional<NumberText.Read> read =
                        plain ? NumberText.number(text, NumberText.Decimal.COMMA) : Optional.empty();
                tell(Kind.COMMA_NUMBER, read.isPresent(), line, text);
                read.ifPresent(r -> {
                    count(Kind.COMMA_CURRENCY, r.currency());
                    count(Kind.COMMA_FINE_DECIMALS, r.value().scale() > 2);
                    count(Kind.COMMA_DECIMALS, r.value().scale() > 0);
                });
            }
        }

        private void dates(long line, String text) {
            if (isOpen(Kind.DAY_FIRST)) {
                Optional<DateText.Read> read = DateText.date(text, DateText.Order.DAY_FIRST);
                tell(Kind.DAY_FIRST, read.isPresent(), line, text);
                read.ifPresent(r -> {
                    count(Kind.EITHER_DATE, r.either());
                    count(Kind.TIMED, r.time().isPresent());
                    count(Kind.ZONED, r.offset().isPresent());
                });
            }
            if (isOpen(Kind.MONTH_FIRST)) {
                Optional<DateText.Read> read = DateText.date(text, DateText.Order.MONTH_FIRST);
                tell(Kind.MONTH_FIRST, read.isPresent(), line, text);
                read.ifPresent(r -> count(Kind.TIMED_MONTH_FIRST, r.time().isPresent()));
            }
        }

        /** Whether it still could be: a kind that most of the first values are not is not looked for any more. */
        private boolean isOpen(Kind kind) {
            return filled < 200 || is(kind) * 2 > filled;
        }

        private void tell(Kind kind, boolean holds, long line, String text) {
            if (holds) {
                counts[kind.ordinal()]++;
            } else {
                List<Odd> others = odd.computeIfAbsent(kind, k -> new ArrayList<>());
                if (others.size() < MOST_ODD) {
                    others.add(new Odd(line, text));
                }
            }
        }

        private void count(Kind kind, boolean holds) {
            if (holds) {
                counts[kind.ordinal()]++;
            }
        }

        private long is(Kind kind) {
            return counts[kind.ordinal()];
        }

        private boolean mostly(Kind kind) {
            return filled > 0 && is(kind) * 20 >= filled * 19;
        }

        boolean isFew() {
            return known.size() <= MOST_KNOWN;
        }

        List<String> byFrequency() {
            return known.entrySet().stream()
                    .sorted(Map.Entry.<String, Integer>comparingByValue()
                            .reversed()
                            .thenComparing(Map.Entry.comparingByKey()))
                    .map(Map.Entry::getKey)
                    .toList();
        }

        Guess guess(String name) {
            if (filled == 0) {
                return plain(FieldType.TEXT, "No row has a value");
            }
            if (mostly(Kind.DAY_FIRST) || mostly(Kind.MONTH_FIRST)) {
                return date();
            }
            if (mostly(Kind.TIME)) {
                return told(FieldType.TIME, Kind.TIME, "times of day");
            }
            if (mostly(Kind.DURATION)) {
                return told(FieldType.DURATION, Kind.DURATION, "durations");
            }
            if (is(Kind.YES_NO) == filled
                    && (is(Kind.WORDED_YES_NO) == filled || known.size() == 2 && filled > 20)
                    && known.size() <= 4) {
                return told(FieldType.YES_NO, Kind.YES_NO, "yes or no");
            }
            if (mostly(Kind.POINT_NUMBER) || mostly(Kind.COMMA_NUMBER)) {
                return number(name);
            }
            if (is(Kind.PERSON) == filled) {
                return told(FieldType.PERSON, Kind.PERSON, "people who can sign in");
            }
            String texts = counted(filled, "text");
            if (is(Kind.ZERO_FIRST) > 0 && is(Kind.ZERO_FIRST) + is(Kind.POINT_NUMBER) >= filled) {
                return plain(
                        FieldType.TEXT,
                        texts + "; as numbers, " + many(is(Kind.ZERO_FIRST)) + " would lose the zeros they begin with");
            }
            if (isFew() && filled >= 5L * known.size() && known.size() <= 40) {
                return rather(
                        FieldType.CHOICE,
                        known.size() == 1
                                ? "One value in all " + many(filled) + " rows that have one"
                                : known.size() + " values in " + many(filled) + " rows");
            }
            boolean repeats = isFew() && known.size() < filled && filled >= 20;
            return rather(
                    FieldType.TEXT,
                    repeats ? texts + "; with " + known.size() + " different ones, not few enough for choices" : texts);
        }

        /** A guess, with what else most of the values could be, and why the column is not read so. */
        private Guess rather(FieldType type, String evidence) {
            Optional<Kind> nearest = Stream.of(
                            Kind.DAY_FIRST,
                            Kind.MONTH_FIRST,
                            Kind.TIME,
                            Kind.DURATION,
                            Kind.POINT_NUMBER,
                            Kind.COMMA_NUMBER,
                            Kind.YES_NO,
                            Kind.PERSON)
                    .filter(k -> is(k) * 2 > filled)
                    .max(Comparator.comparingLong(this::is));
            if (nearest.isEmpty()) {
                return plain(type, evidence);
            }
            Kind kind = nearest.get();
            String what = switch (kind) {
                case TIME -> "times of day";
                case DURATION -> "durations";
                case POINT_NUMBER, COMMA_NUMBER -> "numbers";
                case YES_NO -> "yes or no";
                case PERSON -> "people who can sign in";
                default -> "dates";
            };
            long others = filled - is(kind);
            return new Guess(
                    type,
                    Optional.empty(),
                    Optional.empty(),
                    false,
                    evidence + "; " + of(kind) + " read as " + what + ", but " + many(others)
                            + (others == 1 ? " does not" : " do not"),
                    odd.getOrDefault(kind, List.of()));
        }

        private Guess date() {
            boolean dayFirst = is(Kind.DAY_FIRST) >= is(Kind.MONTH_FIRST);
            boolean ask = is(Kind.EITHER_DATE) > 0 && is(Kind.DAY_FIRST) == is(Kind.MONTH_FIRST);
            Kind kind = dayFirst ? Kind.DAY_FIRST : Kind.MONTH_FIRST;
            boolean timed = (dayFirst ? is(Kind.TIMED) : is(Kind.TIMED_MONTH_FIRST)) > 0;
            boolean ordered = is(Kind.DAY_FIRST) != is(Kind.MONTH_FIRST) || is(Kind.EITHER_DATE) > 0;
            String what = timed ? "dates and times" : "dates";
            String evidence = of(kind) + " read as " + what
                    + (ask ? "" : ordered ? dayFirst ? ", day first" : ", month first" : "")
                    + (is(Kind.EITHER_DATE) > 0
                            ? "; " + many(is(Kind.EITHER_DATE)) + " could be either"
                                    + (ask ? ", and nothing in the file says which" : "")
                            : "")
                    + (timed && is(Kind.ZONED) < is(kind) ? "; the times say no zone" : "");
            return new Guess(
                    timed ? FieldType.MOMENT : FieldType.DATE,
                    Optional.of(dayFirst ? DateText.Order.DAY_FIRST : DateText.Order.MONTH_FIRST),
                    Optional.empty(),
                    ask,
                    evidence,
                    odd.getOrDefault(kind, List.of()));
        }

        private Guess number(String name) {
            boolean point = is(Kind.POINT_NUMBER) >= is(Kind.COMMA_NUMBER);
            boolean same = is(Kind.POINT_NUMBER) == is(Kind.COMMA_NUMBER);
            boolean ask = same && is(Kind.EITHER_NUMBER) > 0;
            Kind kind = point ? Kind.POINT_NUMBER : Kind.COMMA_NUMBER;
            boolean named = MONEY_WORDS.stream().anyMatch(name.toLowerCase(Locale.ROOT)::contains);
            boolean fine = is(point ? Kind.FINE_DECIMALS : Kind.COMMA_FINE_DECIMALS) > 0;
            boolean decimals = is(point ? Kind.DECIMALS : Kind.COMMA_DECIMALS) > 0;
            boolean currency = is(point ? Kind.CURRENCY : Kind.COMMA_CURRENCY) > 0;
            boolean money = !fine && (currency || named && decimals);
            String evidence = of(kind) + " read as " + (money ? "amounts of money" : "numbers")
                    + (ask
                            ? "; " + many(is(Kind.EITHER_NUMBER))
                                    + " could have decimals or thousands behind their sign"
                            : same ? "" : point ? ", decimals behind a point" : ", decimals behind a comma");
            return new Guess(
                    money ? FieldType.MONEY : FieldType.NUMBER,
                    Optional.empty(),
                    Optional.of(point ? NumberText.Decimal.POINT : NumberText.Decimal.COMMA),
                    ask,
                    evidence,
                    odd.getOrDefault(kind, List.of()));
        }

        private Guess told(FieldType type, Kind kind, String what) {
            return new Guess(
                    type,
                    Optional.empty(),
                    Optional.empty(),
                    false,
                    of(kind) + " read as " + what,
                    odd.getOrDefault(kind, List.of()));
        }

        private Guess plain(FieldType type, String evidence) {
            return new Guess(type, Optional.empty(), Optional.empty(), false, evidence, List.of());
        }

        private String of(Kind kind) {
            return many(is(kind)) + " of " + many(filled);
        }
    }

    /** What a value can be, and what can be noticed about it. */
    private enum Kind {
        YES_NO,
        WORDED_YES_NO,
        PERSON,
        TIME,
        DURATION,
        ZERO_FIRST,
        POINT_NUMBER,
        COMMA_NUMBER,
        EITHER_NUMBER,
        CURRENCY,
        DECIMALS,
        FINE_DECIMALS,
        COMMA_CURRENCY,
        COMMA_DECIMALS,
        COMMA_FINE_DECIMALS,
        DAY_FIRST,
        MONTH_FIRST,
        EITHER_DATE,
        TIMED,
        TIMED_MONTH_FIRST,
        ZONED
    }

    private static String counted(long number, String one) {
        return many(number) + " " + one + (number == 1 ? "" : "s");
    }

    private static String many(long number) {
        return String.format(Locale.ROOT, "%,d", number);
    }
}
