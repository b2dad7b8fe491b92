package deftlens.core.sql;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.time.Fixing;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Shift;
import deftlens.core.time.Window;
import deftlens.core.time.Windows;
import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.YearMonth;
import java.time.ZoneId;
import java.time.temporal.IsoFields;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/**
 * The SQL of groups: how many matching records there are for each value, period or band of a field, and what their numbers
 * add up to. A record is in exactly one group of a level, those without a value in one of their own.
 */
public final class Groups {

    /** The kinds of groups that fields make. */
    public enum Kind {
        /** Records of one value. */
        VALUE,
        /** Records in one band. */
        BAND,
        HOUR,
        DAY,
        WEEK,
        MONTH,
        QUARTER,
        YEAR,
        FISCAL_QUARTER,
        FISCAL_YEAR,
        /** Records of one day of the week, of any week. */
        WEEKDAY,
        /** Records of one month, of any year. */
        MONTH_OF_YEAR,
        /** Records of one hour of the local clock, of any day. */
        HOUR_OF_DAY;

        /** The step of the calendar, of kinds that are periods. */
        public Optional<Histogram.Step> step() {
            return switch (this) {
                case VALUE, BAND, WEEKDAY, MONTH_OF_YEAR, HOUR_OF_DAY -> Optional.empty();
                case HOUR, DAY, WEEK, MONTH, QUARTER, YEAR, FISCAL_QUARTER, FISCAL_YEAR ->
                    Optional.of(Histogram.Step.valueOf(name()));
            };
        }

        /** What it is called: {@code fiscal quarter}. */
        public String words() {
            return name().toLowerCase(Locale.ROOT).replace('_', ' ');
        }

        /** The kinds of groups that a field makes, the usual one first; none where it makes no groups. */
        public static List<Kind> of(Field field) {
            List<Kind> kinds = new ArrayList<>();
            switch (field.type()) {
                case DATE, MOMENT -> {
                    kinds.addAll(List.of(MONTH, DAY, WEEK, QUARTER, YEAR, FISCAL_QUARTER, FISCAL_YEAR));
                    kinds.addAll(List.of(WEEKDAY, MONTH_OF_YEAR));
                    if (field.type() == FieldType.MOMENT) {
                        kinds.addAll(List.of(HOUR, HOUR_OF_DAY));
                    }
                }
                case TIME -> kinds.addAll(List.of(VALUE, HOUR_OF_DAY));
                case TEXT, NUMBER, MONEY, DURATION, CHOICE, PERSON, YES_NO -> kinds.add(VALUE);
                case TAGS, SPAN -> {
                    // A record has several tags, and a span is a matter of its two ends.
                }
            }
            if (!field.bands().isEmpty()) {
                kinds.add(BAND);
            }
            return List.copyOf(kinds);
        }
    }

    /** What the records of one group have in common. */
    public sealed interface Level {

        /** The field that is grouped by. */
        Field field();

        /** Each value of a field that is no date, moment, span or set of tags. */
        record Values(Field field) implements Level {
            public Values {
                if (field.type().isTemporal()
                        || field.type() == FieldType.TAGS
                        || !field.type().isStored()) {
                    throw new IllegalArgumentException(
                            "no groups by the values of a " + field.type().words() + " field");
                }
            }
        }

        /** Each period of the local calendar on a date or moment. */
        record Periods(Field field, Histogram.Step step) implements Level {
            public Periods {
                if (!field.type().isTemporal()) {
                    throw new IllegalArgumentException(
                            "no periods of a " + field.type().words() + " field");
                }
            }
        }

        /** Each weekday, 1 for Monday, or each month of any year, on a date or moment by the local calendar. */
        record Parts(Field field, Test.Part part) implements Level {
            public Parts {
                if (!field.type().isTemporal()) {
                    throw new IllegalArgumentException(
                            "no parts of the calendar in a " + field.type().words() + " field");
                }
            }
        }

        /** Each hour of any day, 0 to 23, of a moment by the local clock or of a time of day. */
        record Hours(Field field) implements Level {
            public Hours {
                if (field.type() != FieldType.MOMENT && field.type() != FieldType.TIME) {
                    throw new IllegalArgumentException(
                            "no hours in a " + field.type().words() + " field");
                }
            }
        }

        /**
         * Each band of a field. A record is in the first band that holds it.
         *
         * @param bands the bands as conditions, in their declared order; group {@code 0} is the first
         */
        record Bands(Field field, List<Bound> bands) implements Level {
            public Bands {
                bands = List.copyOf(bands);
            }
        }
    }

    /** How groups follow one another. */
    public enum Arrangement {
        /** By value, the least first; choices and bands as they are declared. */
        ASCENDING,
        /** By value, the greatest first. */
        DESCENDING,
        /** Those with the most records first. */
        LARGEST;

        /** What it is called: {@code largest}. */
        public String words() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    private static final int DAYS_OF_WEEK = 7;
    private static final int HOURS_OF_DAY = 24;

    private Groups() {}

    /**
     * Selects the groups of a level: {@code c0} the value (of periods the local beginning as text,
     * {@code 2026-11-01 00:00:00}; of bands the number from 0; of weekdays, months and hours their number; empty for the records
     * without), {@code c1} the number of records, from {@code c2} on the measures. The group without a value comes last.
     *
     * @param limit the most groups, 1 or more
     */
    public static Sql of(
            Scope scope,
            Sql condition,
            Level level,
            Arrangement arrangement,
            Measures measures,
            Reading reading,
            int limit) {
        Sql sql = new Sql().add("select c0, c1");
        for (int i = 0; i < measures.width(); i++) {
            sql.add(", c" + (i + 2));
        }
        sql.add(" from (select ").add(value(level, reading)).add(" as c0, count(*) as c1" + measures.columns(2));
        sql.add(scope.source()).add(" and ").add(condition).add(" group by 1) deft_groups order by c0 is null, ");
        if (arrangement == Arrangement.LARGEST) {
            sql.add("c1 desc, c0");
        } else {
            sql.add(order(level, "c0", arrangement == Arrangement.DESCENDING, reading));
        }
        return sql.add(" limit ").bind((long) limit);
    }

    /** How the groups of a level follow one another by their values. */
    static Sql order(Level level, String column, boolean descending, Reading reading) {
        String direction = descending ? " desc" : "";
        Sql sql = new Sql();
        if (level instanceof Level.Values(Field field) && field.type().isListed()) {
            // The declared order; what is not declared comes after it.
            sql.add("array_position(cast(")
                    .bind(field.options().stream().map(Option::value).toArray(String[]::new))
                    .add(" as text[]), " + column + ")" + direction + ", ");
        } else if (level instanceof Level.Values(Field field) && field.type() == FieldType.TEXT) {
            sql.add(column + " collate \"und-x-icu\"" + direction + ", ");
        } else if (level instanceof Level.Parts(Field field, Test.Part part) && part == Test.Part.WEEKDAY) {
            return sql.add("(" + column + " + "
                    + (DAYS_OF_WEEK - reading.weekStarts().getValue()) + ") % " + DAYS_OF_WEEK + direction);
        }
        return sql.add(column + direction);
    }

    /** Counts the matching records, {@code c0}, and measures all of them together, from {@code c1} on. */
    public static Sql whole(Scope scope, Sql condition, Measures measures) {
        return new Sql()
                .add("select count(*) as c0" + measures.columns(1))
                .add(scope.source())
                .add(" and ")
                .add(condition);
    }

    /**
     * What the records of one group have in common, of a record whose dates are moved to stand beside later ones.
     *
     * @param moved the date or moment whose periods are moved; nothing else is
     */
    static Sql key(Level level, Field moved, Shift shift, Reading reading) {
        return level instanceof Level.Periods(Field field, Histogram.Step step) && field.equals(moved)
                ? Histogram.beginning(
                        new Sql()
                                .add("(")
                                .add(Histogram.local(field, reading.zone()))
                                .add(
                                        shift.months() > 0
                                                ? " + interval '" + shift.months() + " months')"
                                                : " + interval '" + shift.days() + " days')"),
                        step,
                        reading)
                : key(level, reading);
    }

    /** What {@link #value} is made of: of periods their beginning, which takes less to be grouped by than its text. */
    static Sql key(Level level, Reading reading) {
        return level instanceof Level.Periods(Field field, Histogram.Step step)
                ? Histogram.beginning(Histogram.local(field, reading.zone()), step, reading)
                : value(level, reading);
    }

    /** The {@link #value} of a {@link #key} in a column. */
    static String value(Level level, String column) {
        return level instanceof Level.Periods ? "cast(" + column + " as text)" : column;
    }

    /** What the records of one group have in common, of a record. */
    static Sql value(Level level, Reading reading) {
        return switch (level) {
            case Level.Values(Field field) -> Sql.of(Where.value(field));
            case Level.Periods(Field field, Histogram.Step step) ->
                Histogram.bucket(Histogram.local(field, reading.zone()), step, reading);
            case Level.Parts(Field field, Test.Part part) ->
                whole(
                        switch (part) {
                            case WEEKDAY -> "isodow";
                            case MONTH -> "month";
                            case DAY_OF_MONTH -> "day";
                        },
                        Histogram.local(field, reading.zone()));
            case Level.Hours(Field field) ->
                whole(
                        "hour",
                        field.type() == FieldType.TIME
                                ? Sql.of(Where.column(field))
                                : Histogram.local(field, reading.zone()));
            case Level.Bands(Field field, List<Bound> bands) -> {
                if (bands.isEmpty()) {
                    yield Sql.of("cast(null as integer)");
                }
                Sql sql = new Sql().add("case");
                for (int i = 0; i < bands.size(); i++) {
                    sql.add(" when ").add(Where.of(bands.get(i))).add(" then " + i);
                }
                yield sql.add(" end");
            }
        };
    }

    private static Sql whole(String part, Sql of) {
        return new Sql().add("cast(extract(" + part + " from ").add(of).add(") as integer)");
    }

    /**
     * The condition that holds for the records of one group.
     *
     * @param value as {@link #of} selects it: a {@code String}, {@code BigDecimal}, {@code Boolean} or {@code LocalTime} as the field
     *     has it, the {@code LocalDate} that a period begins with ({@code LocalDateTime} for an hour), the {@code Integer} of a band,
     *     weekday, month or hour; empty for the records without
     * @throws IllegalArgumentException when a value is of no group of this level
     */
    public static Bound within(Level level, Optional<Object> value, Reading reading) {
        ZoneId zone = reading.zone();
        Field field = level.field();
        return switch (level) {
            case Level.Values l when value.isEmpty() -> new Bound.IsEmpty(field);
            case Level.Values l ->
                switch (value.get()) {
                    case String text -> new Bound.OneOf(field, Set.of(text), false);
                    case BigDecimal number -> new Bound.Numbers(field, List.of(number));
                    case Boolean yes -> new Bound.Truth(field, yes);
                    case LocalTime time -> new Bound.TimeRange(field, Optional.of(time), true, Optional.of(time), true);
                    default -> throw new IllegalArgumentException("no value of " + field.label() + ": " + value.get());
                };
            case Level.Periods l when value.isEmpty() -> new Bound.IsEmpty(field);
            case Level.Periods(Field date, Histogram.Step step) -> {
                LocalDateTime start = begin(step, value.get(), reading);
                LocalDateTime end = step.next(start);
                yield date.type() == FieldType.DATE
                        ? new Bound.DayRange(date, Optional.of(start.toLocalDate()), Optional.of(end.toLocalDate()))
                        : new Bound.InstantRange(
                                date, Optional.of(instant(start, zone)), true, Optional.of(instant(end, zone)), false);
            }
            case Level.Parts l when value.isEmpty() -> new Bound.IsEmpty(field);
            case Level.Parts(Field date, Test.Part part) ->
                new Bound.LocalPart(date, zone, part, Set.of(within(1, part.most(), value.get())));
            case Level.Hours l when value.isEmpty() -> new Bound.IsEmpty(field);
            case Level.Hours(Field clocked) -> {
                int hour = within(0, HOURS_OF_DAY - 1, value.get());
                Optional<LocalTime> from = Optional.of(LocalTime.of(hour, 0));
                Optional<LocalTime> to =
                        hour == HOURS_OF_DAY - 1 ? Optional.empty() : Optional.of(LocalTime.of(hour + 1, 0));
                yield clocked.type() == FieldType.TIME
                        ? new Bound.TimeRange(clocked, from, true, to, false)
                        : new Bound.ClockRange(clocked, zone, from, to);
            }
            case Level.Bands(Field banded, List<Bound> bands) -> {
                int at = value.map(v -> (Integer) v).orElse(bands.size());
                if (at < 0 || value.isPresent() && at >= bands.size()) {
                    throw new IllegalArgumentException(banded.label() + " has no band " + at);
                }
                List<Bound> parts = new ArrayList<>();
                bands.subList(0, at).forEach(earlier -> parts.add(new Bound.Not(earlier)));
                if (value.isPresent()) {
                    parts.add(bands.get(at));
                }
                yield parts.isEmpty() ? new Bound.Constant(true) : new Bound.Every(parts);
            }
        };
    }

    /** The first instant at which the local clock shows a time, or a later one where it jumps over it. */
    private static Instant instant(LocalDateTime local, ZoneId zone) {
        ZoneOffsetTransition change = zone.getRules().getTransition(local);
        return change != null && change.isGap()
                ? change.getInstant()
                : local.atZone(zone).toInstant();
    }

    private static LocalDateTime begin(Histogram.Step step, Object value, Reading reading) {
        LocalDateTime start = switch (value) {
            case LocalDate day -> day.atStartOfDay();
            case LocalDateTime local -> local;
            default -> throw new IllegalArgumentException("no period begins at " + value);
        };
        if (!step.floor(start, reading).equals(start)) {
            throw new IllegalArgumentException("no " + step.words() + " begins at " + value);
        }
        return start;
    }

    private static int within(int least, int most, Object value) {
        if (!(value instanceof Integer number) || number < least || number > most) {
            throw new IllegalArgumentException("not from " + least + " to " + most + ": " + value);
        }
        return number;
    }

    /**
     * The criterion, in the language of statements, that holds for the records of one group and for no others.
     *
     * @param value as for {@link #within}
     * @return nothing where the language has no words for it: years beyond four digits, numbers of more than 60
     * @throws IllegalArgumentException when a value is of no group of this level
     */
    public static Optional<Condition> criterion(Level level, Optional<Object> value, Reading reading) {
        String key = level.field().key();
        within(level, value, reading);
        try {
            return Optional.of(
                    switch (level) {
                        case Level.Bands(Field field, List<Bound> bands) -> banded(field, value.map(v -> (Integer) v));
                        case Level.Values l when value.isEmpty() -> Condition.Criterion.of(key, new Test.Empty());
                        case Level.Periods l when value.isEmpty() -> Condition.Criterion.of(key, new Test.Empty());
                        case Level.Parts l when value.isEmpty() -> Condition.Criterion.of(key, new Test.Empty());
                        case Level.Hours l when value.isEmpty() -> Condition.Criterion.of(key, new Test.Empty());
                        case Level.Values(Field field) -> valued(field, value.get());
                        case Level.Periods(Field field, Histogram.Step step) ->
                            Condition.Criterion.of(
                                    key,
                                    new Test.Dated(
                                            Test.DateRelation.IN,
                                            period(step, begin(step, value.get(), reading), reading)));
                        case Level.Parts(Field field, Test.Part part) ->
                            Condition.Criterion.of(
                                    key, new Test.OnCalendar(part, new TreeSet<>(Set.of((Integer) value.get()))));
                        case Level.Hours(Field field) -> {
                            Operand from = new Operand.Time(LocalTime.of((Integer) value.get(), 0));
                            Operand to = new Operand.Time(LocalTime.of(((Integer) value.get() + 1) % HOURS_OF_DAY, 0));
                            yield Condition.Criterion.of(
                                    key,
                                    field.type() == FieldType.TIME
                                            ? new Test.TimeBetween(from, to)
                                            : new Test.ClockBetween(from, to));
                        }
                    });
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    /**
     * The criterion for the records whose dates are moved into one period.
     *
     * @param value as for {@link #within}, not empty
     * @return nothing where no date is moved there, and where the language has no words for those that are: years beyond four digits
     * @throws IllegalArgumentException when a value is of no group of this level
     */
    public static Optional<Condition> criterion(Level.Periods level, Object value, Shift shift, Reading reading) {
        LocalDateTime start = begin(level.step(), value, reading);
        LocalDateTime from = shift.origin(start);
        LocalDateTime to = shift.origin(level.step().next(start));
        if (!from.isBefore(to) || from.getYear() < 1 || to.getYear() > Windows.LAST_DAY.getYear()) {
            return Optional.empty();
        }
        Period period = level.step() == Histogram.Step.HOUR
                ? new Period.Range(
                        Period.Moment.of(instant(from, reading.zone()), reading.zone()),
                        Period.Moment.of(instant(to, reading.zone()), reading.zone()))
                : Fixing.named(new Window.Days(from.toLocalDate(), to.toLocalDate(), reading.zone()), reading);
        return Optional.of(Condition.Criterion.of(level.field().key(), new Test.Dated(Test.DateRelation.IN, period)));
    }

    private static Condition banded(Field field, Optional<Integer> at) {
        List<String> names = field.bands().stream().map(Band::name).toList();
        List<String> earlier = names.subList(0, at.orElse(names.size()));
        List<Condition> parts = new ArrayList<>();
        if (!earlier.isEmpty()) {
            parts.add(new Condition.None(
                    List.of(Condition.Criterion.of(field.key(), Test.Banded.of(earlier.toArray(String[]::new))))));
        }
        at.ifPresent(i -> parts.add(Condition.Criterion.of(field.key(), Test.Banded.of(names.get(i)))));
        return new Condition.All(parts).normal();
    }

    private static Condition valued(Field field, Object value) {
        String key = field.key();
        return switch (value) {
            case String text ->
                Condition.Criterion.of(key, new Test.Is(new Operand.Text(text), field.type() == FieldType.TEXT));
            case BigDecimal number ->
                Condition.Criterion.of(
                        key,
                        new Test.Is(
                                field.type() == FieldType.DURATION
                                        ? new Operand.Duration(number)
                                        : new Operand.Number(number),
                                false));
            case Boolean yes -> Condition.Criterion.of(key, new Test.Is(new Operand.YesNo(yes), false));
            case LocalTime time ->
                new Condition.All(List.of(
                        Condition.Criterion.of(key, new Test.Timed(Test.DateRelation.FROM, new Operand.Time(time))),
                        Condition.Criterion.of(key, new Test.Timed(Test.DateRelation.UP_TO, new Operand.Time(time)))));
            default -> throw new IllegalArgumentException("no value of " + field.label() + ": " + value);
        };
    }

    /** A period as people write it: {@code 2026-11}, {@code FY2026-Q2}. */
    private static Period period(Histogram.Step step, LocalDateTime start, Reading reading) {
        LocalDate day = start.toLocalDate();
        return switch (step) {
            case HOUR ->
                new Period.Range(
                        Period.Moment.of(instant(start, reading.zone()), reading.zone()),
                        Period.Moment.of(instant(step.next(start), reading.zone()), reading.zone()));
            case DAY -> new Period.Day(day);
            case WEEK ->
                day.getDayOfWeek() == DayOfWeek.MONDAY
                        ? new Period.Week(
                                day.get(IsoFields.WEEK_BASED_YEAR), day.get(IsoFields.WEEK_OF_WEEK_BASED_YEAR))
                        : new Period.Range(new Period.Day(day), new Period.Day(day.plusDays(6)));
            case MONTH -> new Period.Month(YearMonth.from(day));
            case QUARTER -> new Period.Quarter(day.getYear(), day.get(IsoFields.QUARTER_OF_YEAR));
            case YEAR -> new Period.Year(day.getYear());
            case FISCAL_QUARTER, FISCAL_YEAR ->
                step.fiscal(day, reading).orElseThrow(() -> new IllegalArgumentException("no year of four digits"));
        };
    }
}
