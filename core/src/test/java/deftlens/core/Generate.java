package deftlens.core;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Fit;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import deftlens.core.time.Period;
import deftlens.core.time.Unit;
import deftlens.core.time.WorkingCalendar;
import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Supplier;
import java.util.stream.Collectors;

/** Seeded random registers' contents, conditions and periods, with the hard cases well represented. */
public final class Generate {

    public static final Set<String> ATTRIBUTES = Set.of("me", "site", "team");
    private static final List<String> TEXTS = List.of(
            "Fender",
            "fender rail",
            "FENDER RAIL",
            "Ångström",
            "ångström",
            "ÉCLAIR",
            "straße",
            "STRASSE",
            "İstanbul",
            "100%",
            "under_score",
            "back\\slash",
            "quote \" inside",
            "O'Neil",
            "Ωmega",
            "ωMEGA",
            "Σίσυφος",
            "日本語",
            " trailing ",
            "tab\there",
            "00417",
            "*",
            "?",
            "a",
            "ab",
            "%_%",
            "😀 smile",
            "Док",
            "док 7",
            "ǅ");
    private static final List<String> CHOICES = List.of("New", "In hand", "Done", "Dropped");
    private static final List<String> PEOPLE = List.of("asta.quill", "bram.oake", "lise.farrow");
    private static final List<String> TAGS = List.of("Safety", "winter", "a,b", "crew \"B\"");
    /** Nights over midnight, a half day, a day in two stretches, and single dates off and on around November 2026. */
    public static final WorkingCalendar WORKING = new WorkingCalendar(
            Map.of(
                    DayOfWeek.MONDAY,
                    List.of(hours(8, 12), hours(13, 17)),
                    DayOfWeek.TUESDAY,
                    List.of(hours(8, 12), hours(13, 17)),
                    DayOfWeek.WEDNESDAY,
                    List.of(hours(22, 0)),
                    DayOfWeek.THURSDAY,
                    List.of(hours(0, 6), hours(22, 0)),
                    DayOfWeek.FRIDAY,
                    List.of(hours(8, 12))),
            Map.of(
                    LocalDate.of(2026, 11, 20),
                    List.of(),
                    LocalDate.of(2026, 11, 23),
                    List.of(hours(9, 12)),
                    LocalDate.of(2026, 11, 28),
                    List.of(hours(9, 12)),
                    LocalDate.of(2026, 12, 25),
                    List.of()));

    private static WorkingCalendar.Hours hours(int from, int to) {
        return new WorkingCalendar.Hours(LocalTime.of(from, 0), LocalTime.of(to, 0));
    }

    private static final List<ZoneId> ZONES = List.of(
            ZoneId.of("Europe/London"),
            ZoneId.of("America/Sao_Paulo"),
            ZoneId.of("Australia/Lord_Howe"),
            ZoneId.of("Asia/Kathmandu"),
            ZoneId.of("Pacific/Apia"),
            ZoneId.of("UTC"));

    /** A register with a field of every type, some required. */
    public static final Register REGISTER = new Register(
            "things",
            "Things",
            "things",
            "id",
            List.of(
                    Field.of("title", "Title", FieldType.TEXT),
                    Field.of("code", "Code number", FieldType.TEXT).always(),
                    Field.of("severity", "Severity", FieldType.NUMBER),
                    Field.of("rank", "Rank", FieldType.NUMBER)
                            .always()
                            .withBands(List.of(
                                    new Band(
                                            "Any rank",
                                            List.of(),
                                            List.of(
                                                    Band.of("Low", Band.Numbers.from(-1, 1)),
                                                    Band.of(
                                                            "Middle",
                                                            new Band.Numbers(
                                                                    Optional.of(BigDecimal.ONE),
                                                                    false,
                                                                    Optional.of(BigDecimal.valueOf(4)),
                                                                    true)))),
                                    Band.of(
                                            "High",
                                            new Band.Numbers(
                                                    Optional.of(BigDecimal.valueOf(4)),
                                                    true,
                                                    Optional.empty(),
                                                    false)))),
                    Field.of("cost", "Cost", FieldType.MONEY),
                    Field.of("allowed", "Allowed", FieldType.MONEY),
                    Field.of("spent", "Spent", FieldType.DURATION)
                            .withBands(List.of(Band.of("Short", Band.Numbers.from(0, 3_600)))),
                    Field.of("planned", "Planned", FieldType.DURATION),
                    Field.of("status", "Status", FieldType.CHOICE)
                            .withOptions(CHOICES.stream().map(Option::of).toList())
                            .withBands(List.of(
                                    Band.of("Open", new Band.Texts(Set.of("New", "In hand"))),
                                    Band.of("Ended", new Band.Texts(Set.of("Done", "Dropped", "Gone"))))),
                    Field.of("site", "Site", FieldType.CHOICE)
                            .withOptions(List.of(Option.of("North Quay"), Option.of("Lantern Pier")))
                            .always(),
                    Field.of("assignee", "Assignee", FieldType.PERSON)
                            .withOptions(List.of(
                                    new Option("asta.quill", "Asta Quill"),
                                    new Option("bram.oake", "Bram Oake"),
                                    new Option("lise.farrow", "Lise Farrow"))),
                    Field.of("owner", "Owner", FieldType.PERSON),
                    Field.of("urgent", "Urgent", FieldType.YES_NO),
                    Field.of("paid", "Paid", FieldType.YES_NO).always(),
                    Field.of("tags", "Tags", FieldType.TAGS)
                            .withOptions(TAGS.stream().map(Option::of).toList()),
                    Field.of("due", "Due", FieldType.DATE)
                            .withBands(List.of(Band.of(
                                    "Old", new Band.Days(Optional.empty(), Optional.of(LocalDate.of(2026, 11, 1)))))),
                    Field.of("until", "Until", FieldType.DATE),
                    Field.of("reported_at", "Reported at", FieldType.MOMENT)
                            .always()
                            .withBands(List.of(
                                    Band.of("Night", new Band.Times(LocalTime.of(22, 0), LocalTime.of(6, 0))),
                                    Band.of(
                                            "This winter",
                                            new Band.Days(Optional.of(LocalDate.of(2026, 10, 25)), Optional.empty())))),
                    Field.of("closed_at", "Closed at", FieldType.MOMENT),
                    Field.of("opens", "Opens", FieldType.TIME)
                            .withBands(List.of(Band.of("Morning", new Band.Times(LocalTime.of(6, 0), LocalTime.NOON)))),
                    Field.of("shuts", "Shuts", FieldType.TIME),
                    Field.span("open", "Open time", new Field.Ends("reported_at", "closed_at", false)),
                    Field.span("closure", "Closure", new Field.Ends("due", "until", true)),
                    Field.span("leave", "Leave", new Field.Ends("due", "until", false))));

    private final Random random;

    public Generate(long seed) {
        this.random = new Random(seed);
    }

    public Random random() {
        return random;
    }

    public ZoneId zone() {
        return pick(ZONES);
    }

    /** A moment from 2018 to 2027, often at or next to a local midnight. */
    public Instant moment(ZoneId zone) {
        LocalDate day = day();
        Instant midnight = day.atStartOfDay(zone).toInstant();
        return switch (random.nextInt(5)) {
            case 0 -> midnight;
            case 1 -> midnight.minusNanos(1_000);
            case 2 -> midnight.plusSeconds(random.nextInt(86_400));
            default -> midnight.plusSeconds(random.nextInt(86_400)).plusNanos(random.nextInt(1_000_000) * 1_000L);
        };
    }

    /** A day from 2018 to 2027, often near the middle of November 2026. */
    public LocalDate day() {
        return random.nextInt(3) == 0
                ? LocalDate.of(2018, 1, 1).plusDays(random.nextInt(3_650))
                : LocalDate.of(2026, 11, 23).plusDays((long) (random.nextGaussian() * 40));
    }

    /** A record's values by position in {@link #REGISTER}; {@code null} is empty. */
    public Object[] row(ZoneId zone) {
        Object[] row = REGISTER.fields().stream()
                .map(field -> !field.required() && random.nextInt(5) == 0 ? null : value(field, zone))
                .toArray();
        // Values that meet in one record: spans without length or of one day, texts that differ in letter case alone.
        if (random.nextInt(4) == 0) {
            row[at("closed_at")] = row[at("reported_at")];
        }
        if (row[at("due")] instanceof LocalDate due && random.nextInt(2) == 0) {
            row[at("until")] = due.plusDays(random.nextInt(4) - 1L);
        }
        if (row[at("title")] instanceof String title && random.nextInt(4) == 0 && !title.isEmpty()) {
            row[at("code")] = LetterCase.fold(title);
        }
        return row;
    }

    /** The position of a field in {@link #REGISTER}. */
    public static int at(String key) {
        return REGISTER.fields().indexOf(REGISTER.field(key).orElseThrow());
    }

    private Object value(Field field, ZoneId zone) {
        return switch (field.type()) {
            case TEXT -> random.nextInt(12) == 0 ? "" : pick(TEXTS);
            case NUMBER -> BigDecimal.valueOf(random.nextInt(7) - 1);
            case MONEY -> BigDecimal.valueOf(random.nextInt(2_000) - 500, 2);
            case DURATION -> seconds();
            case CHOICE -> pick(field.options()).value();
            case PERSON -> pick(PEOPLE);
            case YES_NO -> random.nextBoolean();
            case TAGS -> {
                Set<String> tags = new TreeSet<>();
                for (int i = random.nextInt(3); i > 0; i--) {
                    tags.add(pick(TAGS));
                }
                yield List.copyOf(tags);
            }
            case DATE -> day();
            case MOMENT -> moment(zone);
            case TIME -> time();
            case SPAN -> null;
        };
    }

    /** A duration in seconds: often whole minutes, now and then parts of a second, nothing, or less. */
    private BigDecimal seconds() {
        return switch (random.nextInt(6)) {
            case 0 -> BigDecimal.valueOf(random.nextInt(20_000) - 2_000, 1);
            case 1 -> BigDecimal.valueOf(86_400L * random.nextInt(4));
            default -> BigDecimal.valueOf(300L * random.nextInt(30));
        };
    }

    /** A time of day, often on the hour or next to it. */
    public LocalTime time() {
        LocalTime hour = LocalTime.of(random.nextInt(24), 0);
        return switch (random.nextInt(4)) {
            case 0 -> hour.minusNanos(1_000);
            case 1 -> hour.plusMinutes(random.nextInt(60));
            default -> hour;
        };
    }

    /** A tree of at most the given depth; any kind of part in any place, switched-off ones and empty groups too. */
    public Condition condition(int depth) {
        if (depth <= 1 || random.nextInt(4) == 0) {
            return criterion();
        }
        return switch (random.nextInt(9)) {
            case 0 -> new Condition.Off(condition(depth - 1));
            case 1, 2 -> new Condition.None(conditions(depth - 1));
            case 3, 4, 5 -> new Condition.All(conditions(depth - 1));
            default -> new Condition.Any(conditions(depth - 1));
        };
    }

    private List<Condition> conditions(int depth) {
        List<Condition> parts = new ArrayList<>();
        for (int i = random.nextInt(4); i >= 0; i--) {
            parts.add(condition(depth));
        }
        if (random.nextInt(15) == 0) {
            parts.clear();
        }
        return parts;
    }

    public Condition.Criterion criterion() {
        Field field = pick(REGISTER.fields());
        Test test;
        do {
            test = test(field);
        } while (!Fit.allows(REGISTER, field, test));
        return new Condition.Criterion(field.key(), test, test.hasOpposite() && random.nextInt(3) == 0);
    }

    private Test test(Field field) {
        if (random.nextInt(10) == 0) {
            return new Test.Empty();
        }
        if (!field.bands().isEmpty() && random.nextInt(6) == 0) {
            List<String> names =
                    field.bands().stream().flatMap(Band::tree).map(Band::name).toList();
            return new Test.Banded(some(() -> asked("which band", new Operand.Text(pick(names)))));
        }
        if (random.nextInt(7) == 0) {
            return against(field);
        }
        return switch (field.type()) {
            case TEXT -> {
                boolean exactly = random.nextInt(3) == 0;
                yield switch (random.nextInt(5)) {
                    case 4 -> new Test.Matches(regex(), exactly);
                    case 0 -> new Test.Is(operand(field), exactly);
                    case 1 -> new Test.In(some(() -> operand(field)), exactly);
                    default ->
                        new Test.Find(
                                pick(List.of(Test.Search.values())),
                                asked("what text", new Operand.Text(piece())),
                                exactly);
                };
            }
            case NUMBER, MONEY, DURATION ->
                switch (random.nextInt(4)) {
                    case 0 -> new Test.Is(operand(field), false);
                    case 1 -> new Test.In(some(() -> operand(field)), false);
                    case 2 -> new Test.Between(operand(field), operand(field));
                    default -> new Test.Compare(pick(List.of(Test.Order.values())), operand(field));
                };
            case CHOICE, PERSON ->
                random.nextBoolean()
                        ? new Test.Is(operand(field), false)
                        : new Test.In(some(() -> operand(field)), false);
            case YES_NO -> new Test.Is(new Operand.YesNo(random.nextBoolean()), false);
            case TAGS -> new Test.Tagged(random.nextBoolean(), some(() -> new Operand.Text(pick(TAGS))));
            case DATE, MOMENT -> dated();
            case TIME ->
                random.nextBoolean()
                        ? new Test.TimeBetween(clock(), clock())
                        : new Test.Timed(
                                pick(List.of(
                                        Test.DateRelation.BEFORE,
                                        Test.DateRelation.AFTER,
                                        Test.DateRelation.FROM,
                                        Test.DateRelation.UP_TO)),
                                clock());
            case SPAN ->
                random.nextInt(4) == 0
                        ? new Test.SpannedDaily(clock(), clock(), fewDays())
                        : new Test.Spanned(pick(List.of(Test.Extent.values())), period());
        };
    }

    /** Days that are looked through one by one: some weeks at most. */
    private Period fewDays() {
        return switch (random.nextInt(4)) {
            case 0 -> new Period.Running(side(), 1 + random.nextInt(40), Unit.DAY);
            case 1 -> new Period.Calendar(pick(List.of(Period.Which.values())), Unit.WEEK);
            case 2 -> new Period.NearDay(random.nextInt(3) - 1);
            default -> new Period.Calendar(pick(List.of(Period.Which.values())), Unit.QUARTER);
        };
    }

    private record Meeting(Test.Relation relation, String other) {}

    /** In which ways a field can be held against which others. */
    private static final Map<String, List<Meeting>> MEETINGS = REGISTER.fields().stream()
            .collect(Collectors.toMap(
                    Field::key,
                    field -> Arrays.stream(Test.Relation.values())
                            .flatMap(relation -> REGISTER.fields().stream()
                                    .filter(other -> Fit.allows(
                                            REGISTER,
                                            field,
                                            new Test.FieldComparison(relation, other.key(), Optional.empty(), false)))
                                    .map(other -> new Meeting(relation, other.key())))
                            .toList()));

    private Test against(Field field) {
        List<Meeting> meetings = MEETINGS.get(field.key());
        if (meetings.isEmpty()) {
            return new Test.Empty();
        }
        Meeting meeting = pick(meetings);
        Optional<Test.Offset> offset = random.nextInt(3) == 0
                ? Optional.empty()
                : offset(field, REGISTER.field(meeting.other()).orElseThrow());
        return new Test.FieldComparison(
                meeting.relation(), meeting.other(), offset, field.type() == FieldType.TEXT && random.nextInt(3) == 0);
    }

    private Optional<Test.Offset> offset(Field field, Field other) {
        boolean clock = field.type() == FieldType.MOMENT && other.type() == FieldType.MOMENT && random.nextBoolean();
        return switch (field.type()) {
            case DURATION ->
                Optional.of(
                        new Test.Offset.Length(new Operand.Duration(BigDecimal.valueOf(1 + random.nextInt(9_000)))));
            case NUMBER, MONEY -> Optional.of(new Test.Offset.Amount(Operand.Number.of(1 + random.nextInt(9))));
            case DATE, MOMENT ->
                Optional.of(new Test.Offset.Time(
                        (1 + random.nextInt(40)) * (random.nextBoolean() ? 1 : -1),
                        pick(
                                clock
                                        ? List.of(Unit.MINUTE, Unit.HOUR)
                                        : List.of(Unit.DAY, Unit.WEEK, Unit.MONTH, Unit.QUARTER, Unit.YEAR))));
            case TEXT, CHOICE, PERSON, YES_NO, TAGS, TIME, SPAN -> Optional.empty();
        };
    }

    private static final List<String> REGEXES = List.of(
            "a",
            "^f",
            "e$",
            "[0-9]+",
            "\\d{2,}",
            "^.{3}$",
            "(rail|ring)",
            "o.*o",
            "[^a-z ]",
            "\\s",
            "\\S\\s+\\S",
            "^$|x",
            "\\\\",
            "100%|_",
            "(?:ab?)+",
            "[à-ÿ]",
            "日.?語",
            "[Α-Ωα-ω]{2}",
            "\\*|\\?",
            "(a+)+$",
            "[A-F]",
            "😀",
            "[\\]\\[\\\\-]",
            "\"");

    private String regex() {
        String regex = pick(REGEXES);
        return switch (random.nextInt(3)) {
            case 0 -> "(" + regex + "|" + pick(REGEXES) + ")";
            case 1 -> regex.endsWith("$") || regex.startsWith("^") ? regex : "(" + regex + "){1,2}";
            default -> regex;
        };
    }

    private Test dated() {
        return switch (random.nextInt(9)) {
            case 0 -> new Test.DatedBetween(singlePeriod(), singlePeriod());
            case 6 -> {
                Test.Part part = pick(List.of(Test.Part.values()));
                yield new Test.OnCalendar(part, new TreeSet<>(some(() -> 1 + random.nextInt(part.most()))));
            }
            case 7 -> new Test.ClockBetween(clock(), clock());
            case 8 -> new Test.Working(pick(List.of(Test.Work.values())));
            case 1 -> {
                Period.Away away = new Period.Away(side(), random.nextInt(60), countedUnit());
                yield new Test.Distance(
                        pick(List.of(Test.DistanceRelation.values())),
                        random.nextInt(4) == 0 ? new Period.AskedCount("how far", true, away) : away);
            }
            default -> new Test.Dated(pick(List.of(Test.DateRelation.values())), period());
        };
    }

    private Operand clock() {
        return asked("what time", new Operand.Time(time()));
    }

    /** A value, or now and then a blank with it as its default. */
    private Operand asked(String label, Operand value) {
        return random.nextInt(5) == 0 ? new Operand.Ask(label, Optional.of(value)) : value;
    }

    private Operand operand(Field field) {
        Operand value = value(field);
        return random.nextInt(12) == 0
                ? new Operand.Ask(pick(List.of("which", "of what kind")), Optional.of(value))
                : value;
    }

    private Operand value(Field field) {
        return switch (field.type()) {
            case NUMBER -> Operand.Number.of(random.nextInt(7) - 1);
            case MONEY -> new Operand.Number(BigDecimal.valueOf(random.nextInt(2_000) - 500, random.nextInt(3)));
            case DURATION -> new Operand.Duration(seconds());
            case PERSON -> random.nextInt(4) == 0 ? Operand.ME : new Operand.Text(pick(PEOPLE));
            case CHOICE ->
                random.nextInt(4) == 0
                        ? new Operand.Viewer("site")
                        : new Operand.Text(
                                random.nextInt(6) == 0
                                        ? "Gone"
                                        : pick(field.options()).value());
            default -> random.nextInt(8) == 0 ? new Operand.Viewer("team") : new Operand.Text(pick(TEXTS));
        };
    }

    private String piece() {
        String text = pick(TEXTS);
        if (random.nextBoolean()) {
            int[] codes = text.codePoints().toArray();
            int from = random.nextInt(codes.length);
            text = new String(codes, from, 1 + random.nextInt(codes.length - from));
        }
        if (random.nextInt(4) == 0) {
            text = text + pick(List.of("*", "?", "\\*", "*a*", "\\"));
        }
        return random.nextInt(4) == 0 ? pick(List.of("*", "?", "%", "_")) + text : text;
    }

    /** Any period, ranges included. */
    public Period period() {
        return random.nextInt(8) == 0 ? new Period.Range(singlePeriod(), singlePeriod()) : singlePeriod();
    }

    /** Any period but a range. */
    public Period singlePeriod() {
        if (random.nextInt(15) == 0) {
            Period of = plainPeriod();
            return of instanceof Period.Running && random.nextBoolean()
                    ? new Period.AskedCount("how many", true, of)
                    : new Period.Asked("since when", Optional.of(of));
        }
        if (random.nextInt(10) == 0) {
            Period of = plainPeriod();
            if (!of.isClock()) {
                return random.nextBoolean() ? new Period.StartOf(of) : new Period.EndOf(of);
            }
        }
        return plainPeriod();
    }

    private Period plainPeriod() {
        int year = 2018 + random.nextInt(10);
        return switch (random.nextInt(16)) {
            case 0 -> new Period.NearDay(random.nextInt(3) - 1);
            case 1 -> new Period.Calendar(which(), unit(Unit::isCalendar));
            case 2, 3 -> new Period.Running(side(), 1 + random.nextInt(100), countedUnit());
            case 4 -> new Period.Full(side(), 1 + random.nextInt(6), unit(Unit::isWhole));
            case 5, 6 -> new Period.Away(side(), random.nextInt(100), countedUnit());
            case 7 -> new Period.WeekdayOf(pick(List.of(DayOfWeek.values())), which());
            case 8 -> new Period.Day(day());
            case 9 -> new Period.Month(YearMonth.from(day()));
            case 10 -> new Period.Quarter(year, 1 + random.nextInt(4));
            case 11 -> new Period.Half(year, 1 + random.nextInt(2));
            case 12 -> new Period.Week(year, 1 + random.nextInt(52));
            case 13 -> new Period.Year(year);
            case 14 ->
                random.nextBoolean()
                        ? new Period.FiscalYear(year)
                        : new Period.FiscalQuarter(year, 1 + random.nextInt(4));
            default ->
                new Period.Moment(
                        LocalDateTime.of(day(), LocalTime.of(random.nextInt(24), 30)),
                        random.nextInt(4) > 0
                                ? Optional.empty()
                                : Optional.of(ZoneOffset.ofHours(random.nextInt(27) - 12)));
        };
    }

    private Unit countedUnit() {
        return unit(Unit::isCounted);
    }

    private Unit unit(java.util.function.Predicate<Unit> which) {
        return pick(Arrays.stream(Unit.values()).filter(which).toList());
    }

    private Period.Which which() {
        return pick(List.of(Period.Which.values()));
    }

    private Period.Side side() {
        return random.nextBoolean() ? Period.Side.LAST : Period.Side.NEXT;
    }

    private <T> List<T> some(Supplier<T> one) {
        List<T> list = new ArrayList<>();
        for (int i = random.nextInt(4); i >= 0; i--) {
            list.add(one.get());
        }
        return list;
    }

    public <T> T pick(List<T> from) {
        return from.get(random.nextInt(from.size()));
    }
}
