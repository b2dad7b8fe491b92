package deftlens.core.sql;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.time.Period;
import deftlens.core.time.Reading;
import deftlens.core.time.Unit;
import deftlens.core.time.Windows;
import java.math.BigDecimal;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.Locale;
import java.util.Optional;

/** The SQL of records over time: how many in each hour, day, week, … of the local calendar. */
public final class Histogram {

    /** The length of one bucket, by the local calendar. */
    public enum Step {
        HOUR,
        DAY,
        WEEK,
        MONTH,
        QUARTER,
        YEAR,
        FISCAL_QUARTER,
        FISCAL_YEAR;

        /** What it is called: {@code fiscal quarter}. */
        public String words() {
            return name().toLowerCase(Locale.ROOT).replace('_', ' ');
        }

        /** Whether it follows the organisation's fiscal year. */
        public boolean isFiscal() {
            return this == FISCAL_QUARTER || this == FISCAL_YEAR;
        }

        /** The shortest step that divides a stretch into at most the given number of buckets; a year if none does. */
        public static Step dividing(LocalDateTime from, LocalDateTime to, int most) {
            long hours = Math.max(0, ChronoUnit.HOURS.between(from, to));
            long days = hours / 24;
            return hours < most
                    ? HOUR
                    : days < most
                            ? DAY
                            : days / 7 < most ? WEEK : days / 30 < most ? MONTH : days / 91 < most ? QUARTER : YEAR;
        }

        /** The beginning of the bucket that holds a local time, by the calendar of a reading. */
        public LocalDateTime floor(LocalDateTime at, Reading reading) {
            return this == HOUR
                    ? at.truncatedTo(ChronoUnit.HOURS)
                    : Windows.startOf(Unit.valueOf(name()), at.toLocalDate(), reading)
                            .atStartOfDay();
        }

        /** The beginning of the next bucket. */
        public LocalDateTime next(LocalDateTime start) {
            return switch (this) {
                case HOUR -> start.plusHours(1);
                case DAY -> start.plusDays(1);
                case WEEK -> start.plusWeeks(1);
                case MONTH -> start.plusMonths(1);
                case QUARTER, FISCAL_QUARTER -> start.plusMonths(3);
                case YEAR, FISCAL_YEAR -> start.plusYears(1);
            };
        }

        /** The period of the fiscal year that a bucket is; nothing for the other steps, and where years have no four digits. */
        public Optional<Period> fiscal(LocalDate begins, Reading reading) {
            if (begins.getYear() < 1 || begins.getYear() > 9998) {
                return Optional.empty();
            }
            return switch (this) {
                case FISCAL_YEAR -> Optional.of(Windows.fiscalYear(begins, reading));
                case FISCAL_QUARTER -> Optional.of(Windows.fiscalQuarter(begins, reading));
                case HOUR, DAY, WEEK, MONTH, QUARTER, YEAR -> Optional.empty();
            };
        }
    }

    private Histogram() {}

    /** Selects the first and last value of a date or moment field: {@code c0} and {@code c1}, empty without records. */
    public static Sql reach(Scope scope, Sql condition, Field field) {
        String column = Where.column(field);
        return new Sql()
                .add("select min(" + column + ") as c0, max(" + column + ") as c1")
                .add(scope.source())
                .add(" and ")
                .add(condition);
    }

    /** What holds for values that are numbers or dates, and not for {@code NaN} and {@code infinity}. */
    public static Sql finite(Field field) {
        String column = Where.column(field);
        return Sql.of(field.type().isNumeric() ? "(" + Page.bounded(column) + ")" : "isfinite(" + column + ")");
    }

    /**
     * Counts records by a number: {@code c0} the bucket from 1 to the number of buckets, {@code c1} its records. Empty
     * buckets are left out.
     *
     * @param low where the first bucket begins
     * @param high where the last one ends; greater than {@code low}. A record exactly there is in the last bucket.
     */
    public static Sql numbers(Scope scope, Sql condition, Field field, BigDecimal low, BigDecimal high, int buckets) {
        String column = Where.column(field);
        return new Sql()
                .add("select least(" + buckets + ", width_bucket(cast(" + column + " as numeric), ")
                .bind(low)
                .add(", ")
                .bind(high)
                .add(", " + buckets + ")) as c0, count(*) as c1")
                .add(scope.source())
                .add(" and ")
                .add(condition)
                .add(" and " + column + " is not null group by 1 order by 1");
    }

    /**
     * Counts records in buckets of the local calendar: {@code c0} the bucket's beginning by the local clock as
     * text ({@code 2026-11-23 00:00:00}), {@code c1} the
     * records that satisfy {@code others}, {@code c2} those of them in the whole condition. Empty buckets are left out.
     *
     * @param others what the records satisfy in any case, with plain bounds on the field where it is to be short
     */
    public static Sql of(Scope scope, Sql others, Sql whole, Field field, Step step, Reading reading) {
        return counts(scope, others, whole, field, bucket(local(field, reading.zone()), step, reading))
                .add(" order by 1");
    }

    private static Sql counts(Scope scope, Sql others, Sql whole, Field field, Sql bucket) {
        return new Sql()
                .add("select ")
                .add(bucket)
                .add(" as c0, count(*) as c1, count(*) filter (where ")
                .add(whole)
                .add(") as c2")
                .add(scope.source())
                .add(" and ")
                .add(others)
                .add(" and " + Where.column(field) + " is not null group by 1");
    }

    /**
     * Counts the beginnings or ends of spans in buckets of the local calendar, in the columns of {@link #of};
     * everything before {@code since} counts as one bucket without a beginning.
     *
     * @param field the start or the end of the span
     * @param begins the start, before which no end is counted
     * @param inclusive whether a value at a bucket's very beginning is in that bucket; otherwise in the one before
     * @param since the local time before which buckets do not matter
     */
    public static Sql ends(
            Scope scope,
            Sql others,
            Sql whole,
            Field field,
            Field begins,
            boolean inclusive,
            Step step,
            LocalDateTime since,
            Reading reading) {
        Sql local = local(field, reading.zone());
        if (!inclusive) {
            local = new Sql().add("(").add(local).add(" - interval '1 microsecond')");
        }
        if (!field.equals(begins)) {
            local = new Sql()
                    .add("greatest(")
                    .add(local)
                    .add(", ")
                    .add(local(begins, reading.zone()))
                    .add(")");
        }
        Sql bucket = new Sql()
                .add("case when ")
                .add(local)
                .add(" >= cast(")
                .bind(since.toString())
                .add(" as timestamp) then ")
                .add(bucket(local, step, reading))
                .add(" end");
        return counts(scope, others, whole, field, bucket);
    }

    /** The beginning of a bucket as PostgreSQL writes it: {@code 2026-11-23 09:00:00}, or {@code 0044-03-15 00:00:00 BC}. */
    public static LocalDateTime begins(String written) {
        boolean before = written.endsWith(" BC");
        LocalDateTime at =
                LocalDateTime.parse((before ? written.substring(0, written.length() - 3) : written).replace(' ', 'T'));
        return before ? at.withYear(1 - at.getYear()) : at;
    }

    /** A date or moment by the local clock of a zone. */
    static Sql local(Field field, ZoneId zone) {
        return field.type() == FieldType.DATE
                ? Sql.of("cast(" + Where.column(field) + " as timestamp)")
                : new Sql()
                        .add("(" + Where.column(field) + " at time zone ")
                        .bind(zone.getId())
                        .add(")");
    }

    /** The beginning of the bucket that holds a local time, as text. */
    static Sql bucket(Sql local, Step step, Reading reading) {
        return new Sql().add("cast(").add(beginning(local, step, reading)).add(" as text)");
    }

    /** The beginning of the bucket that holds a local time. */
    static Sql beginning(Sql local, Step step, Reading reading) {
        // PostgreSQL's weeks begin on Monday and its years in January: move to that, cut, and move back.
        int months = reading.fiscalYearStarts().getValue() - 1;
        String moved = switch (step) {
            case WEEK -> reading.weekStarts().getValue() - 1 + " day";
            case FISCAL_QUARTER -> months % 3 + " month";
            case FISCAL_YEAR -> months + " month";
            case HOUR, DAY, MONTH, QUARTER, YEAR -> "0 day";
        };
        boolean stays = moved.startsWith("0 ");
        String unit = step.name().toLowerCase(Locale.ROOT).replace("fiscal_", "");
        return new Sql()
                .add("date_trunc('" + unit + "', ")
                .add(local)
                .add(stays ? "" : " - interval '" + moved + "'")
                .add(")" + (stays ? "" : " + interval '" + moved + "'"));
    }
}
