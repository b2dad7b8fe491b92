package deftlens.core.condition;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.match.Matcher;
import deftlens.core.match.Row;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.function.Predicate;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Spans that are under way at hours of the day, beside their definition minute by minute. */
class SpannedDailyTest {

    private static final Register STAYS = new Register(
            "stays",
            "Stays",
            "stays",
            "id",
            List.of(
                    Field.of("arrives", "Arrives", FieldType.MOMENT),
                    Field.of("leaves", "Leaves", FieldType.MOMENT),
                    Field.span("stay", "Stay", new Field.Ends("arrives", "leaves", false))));

    private static Predicate<Row> test(String statement, ZoneId zone) {
        Condition condition = new Reader(STAYS, Set.of()).read(statement);
        Binder binder = new Binder(STAYS, Reading.at(Instant.parse("2026-11-23T09:30:00Z"), zone), Viewer.NOBODY);
        return Matcher.of(STAYS, binder.bind(condition));
    }

    private static boolean holds(String statement, String arrives, String leaves, ZoneId zone) {
        Object[] row = {instant(arrives, zone), instant(leaves, zone), null};
        return test(statement, zone).test(at -> row[at]);
    }

    private static Instant instant(String local, ZoneId zone) {
        return local == null || local.isEmpty()
                ? null
                : LocalDateTime.parse(local).atZone(zone).toInstant();
    }

    @ParameterizedTest
    @CsvSource(
            nullValues = "none",
            value = {
                "12:00 and 16:00 on 2026-11-18, 2026-11-18T15:59, 2026-11-18T20:00, true",
                "12:00 and 16:00 on 2026-11-18, 2026-11-18T16:00, 2026-11-18T20:00, false",
                "12:00 and 16:00 on 2026-11-18, 2026-11-18T08:00, 2026-11-18T12:00, false",
                "12:00 and 16:00 on 2026-11-18, 2026-11-18T08:00, 2026-11-18T12:01, true",
                "12:00 and 16:00 in last week, 2026-11-18T16:00, 2026-11-19T12:00, false",
                "12:00 and 16:00 in last week, 2026-11-18T16:00, 2026-11-19T12:01, true",
                "12:00 and 16:00 in last week, 2026-11-01T00:00, none, true",
                "12:00 and 16:00 in last week, 2026-11-22T16:00, none, false",
                "12:00 and 16:00 in last week, none, 2026-11-19T12:01, false",
                "12:00 and 16:00 on 2026-11-18, 2026-11-18T12:00, 2026-11-18T12:00, true",
                "12:00 and 16:00 on 2026-11-18, 2026-11-18T16:00, 2026-11-18T16:00, false",
                "22:00 and 06:00 on 2026-11-18, 2026-11-19T05:00, 2026-11-19T05:30, true",
                "22:00 and 06:00 on 2026-11-18, 2026-11-18T05:00, 2026-11-18T05:30, false",
                "12:00 and 12:00 in last week, 2026-11-01T00:00, none, false",
            })
    void aSpanIsUnderWayInTheHoursOfOneOfTheDays(String hours, String arrives, String leaves, boolean expected) {
        String statement = "stay overlaps time between " + hours;
        for (ZoneId zone : List.of(ZoneOffset.UTC, ZoneId.of("Europe/London"), ZoneId.of("Asia/Kathmandu"))) {
            assertThat(holds(statement, arrives, leaves, zone)).as(zone.getId()).isEqualTo(expected);
            // Records without a span are in the opposite only.
            assertThat(holds("not " + statement, arrives, leaves, zone)).isEqualTo(!expected);
        }
    }

    @Test
    void theMinutesOfASpanDecide() {
        Random random = new Random(15);
        ZoneId zone = ZoneOffset.UTC;
        LocalDateTime origin = LocalDateTime.of(2026, 11, 16, 0, 0);
        int held = 0;
        for (int round = 0; round < 400; round++) {
            LocalDate first = LocalDate.of(2026, 11, 17);
            int days = 1 + random.nextInt(3);
            LocalTime from = LocalTime.of(random.nextInt(24), 20 * random.nextInt(3));
            LocalTime to = LocalTime.of(random.nextInt(24), 20 * random.nextInt(3));
            Predicate<Row> test = test(
                    "stay overlaps between " + from + " and " + to + " in " + first + " to " + first.plusDays(days - 1),
                    zone);
            LocalDateTime arrives = origin.plusMinutes(20L * random.nextInt(400));
            LocalDateTime leaves = random.nextInt(8) == 0 ? null : arrives.plusMinutes(20L * random.nextInt(120));
            boolean expected = false;
            for (int day = 0; day < days; day++) {
                LocalDateTime minute = first.plusDays(day).atTime(from);
                LocalDateTime end = (to.isBefore(from) ? first.plusDays(day + 1) : first.plusDays(day)).atTime(to);
                for (; minute.isBefore(end); minute = minute.plus(1, ChronoUnit.MINUTES)) {
                    boolean noLength = arrives.equals(leaves) && arrives.equals(minute);
                    expected |= noLength || !minute.isBefore(arrives) && (leaves == null || minute.isBefore(leaves));
                }
            }
            Object[] row = {
                arrives.toInstant(ZoneOffset.UTC), leaves == null ? null : leaves.toInstant(ZoneOffset.UTC), null
            };
            assertThat(test.test(at -> row[at]))
                    .as("%s to %s, %s and %s on %s days", arrives, leaves, from, to, days)
                    .isEqualTo(expected);
            held += expected ? 1 : 0;
        }
        assertThat(held).isBetween(50, 350);
    }

    @Test
    void daysThatAreTooManyAreRefused() {
        Binder.Unfit refused = catchThrowableOfType(
                Binder.Unfit.class,
                () -> test("stay overlaps time between 12:00 and 16:00 in 2020 to 2026", ZoneId.of("Europe/London")));
        assertThat(refused).hasMessageContaining("at most 400 days");
        assertThat(test("stay overlaps time between 12:00 and 16:00 in 2026", ZoneId.of("Europe/London")))
                .isNotNull();
    }
}
