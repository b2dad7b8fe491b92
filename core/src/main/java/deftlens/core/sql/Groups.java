package deftlens.core.sql;

import deftlens.core.condition.Bound;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.time.Reading;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;

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
        DAY,
        WEEK,
        MONTH,
        QUARTER,
        YEAR,
        FISCAL_QUARTER,
        FISCAL_YEAR;

        /** The step of the calendar, of kinds that are periods. */
        public Optional<Histogram.Step> step() {
            return switch (this) {
                case VALUE, BAND -> Optional.empty();
                case DAY, WEEK, MONTH, QUARTER, YEAR, FISCAL_QUARTER, FISCAL_YEAR ->
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
                case DATE, MOMENT ->
                    kinds.addAll(List.of(MONTH, DAY, WEEK, QUARTER, YEAR, FISCAL_QUARTER, FISCAL_YEAR));
                case TEXT, NUMBER, MONEY, DURATION, CHOICE, PERSON, YES_NO, TIME -> kinds.add(VALUE);
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

    private Groups() {}

    /**
     * Selects the groups of a level: {@code c0} the value (of periods the local beginning as text,
     * {@code 2026-11-01 00:00:00}; of bands the number from 0; empty for the records without), {@code c1} the number of
     * records, from {@code c2} on the measures. The group without a value comes last.
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
        String direction = arrangement == Arrangement.DESCENDING ? " desc" : "";
        if (arrangement == Arrangement.LARGEST) {
            sql.add("c1 desc, ");
        } else if (level instanceof Level.Values(Field field) && field.type().isListed()) {
            // The declared order; what is not declared comes after it.
            sql.add("array_position(cast(")
                    .bind(field.options().stream().map(Option::value).toArray(String[]::new))
                    .add(" as text[]), c0)" + direction + ", ");
        } else if (level instanceof Level.Values(Field field) && field.type() == FieldType.TEXT) {
            sql.add("c0 collate \"und-x-icu\"" + direction + ", ");
        }
        return sql.add("c0" + direction + " limit ").bind((long) limit);
    }

    /** Counts the matching records, {@code c0}, and measures all of them together, from {@code c1} on. */
    public static Sql whole(Scope scope, Sql condition, Measures measures) {
        return new Sql()
                .add("select count(*) as c0" + measures.columns(1))
                .add(scope.source())
                .add(" and ")
                .add(condition);
    }

    private static Sql value(Level level, Reading reading) {
        return switch (level) {
            case Level.Values(Field field) -> Sql.of(Where.value(field));
            case Level.Periods(Field field, Histogram.Step step) ->
                Histogram.bucket(Histogram.local(field, reading.zone()), step, reading);
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

    /**
     * The condition that holds for the records of one group.
     *
     * @param value as {@link #of} selects it: a {@code String}, {@code BigDecimal} or {@code Boolean} as the field has it, the
     *     {@code LocalDate} that a period begins with, the {@code Integer} of a band; empty for the records without
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
                    case java.time.LocalTime time ->
                        new Bound.TimeRange(field, Optional.of(time), true, Optional.of(time), true);
                    default -> throw new IllegalArgumentException("no value of " + field.label() + ": " + value.get());
                };
            case Level.Periods l when value.isEmpty() -> new Bound.IsEmpty(field);
            case Level.Periods(Field date, Histogram.Step step) -> {
                if (!(value.get() instanceof LocalDate start)
                        || !step.floor(start.atStartOfDay(), reading).equals(start.atStartOfDay())) {
                    throw new IllegalArgumentException("no "
                            + step.name().toLowerCase(java.util.Locale.ROOT).replace('_', ' ') + " begins at "
                            + value.get());
                }
                LocalDate end = step.next(start.atStartOfDay()).toLocalDate();
                yield date.type() == FieldType.DATE
                        ? new Bound.DayRange(date, Optional.of(start), Optional.of(end))
                        : new Bound.InstantRange(
                                date,
                                Optional.of(start.atStartOfDay(zone).toInstant()),
                                true,
                                Optional.of(end.atStartOfDay(zone).toInstant()),
                                false);
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
}
