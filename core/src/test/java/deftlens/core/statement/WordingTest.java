package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.match.Matcher;
import deftlens.core.time.Reading;
import deftlens.core.time.Window;
import deftlens.core.time.WorkingCalendar;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.Month;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class WordingTest {

    private static final Reading READING = new Reading(
            Instant.parse("2026-11-23T09:30:00Z"),
            ZoneId.of("Europe/London"),
            DayOfWeek.MONDAY,
            Month.APRIL,
            WorkingCalendar.standard());
    private static final Reader READER = new Reader(Generate.REGISTER, Generate.ATTRIBUTES);

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "due before today|before Mon 23 Nov 2026|true|",
                "due up to today|up to and including Mon 23 Nov 2026|true|",
                "due after today|after Mon 23 Nov 2026|true|",
                "due from tomorrow|from Tue 24 Nov 2026 on|true|",
                "due on today|on Mon 23 Nov 2026|true|",
                "due not on 2026-11-23|not on Mon 23 Nov 2026|false|",
                "due in last 7 days|from Tue 17 Nov 2026 up to and including Mon 23 Nov 2026|true|7 days",
                "due in 2026-10|from Thu 1 Oct 2026 up to and including Sat 31 Oct 2026|false|31 days",
                "due between 2026-11-10 and 2026-11-01|never: nothing lies in this window|false|",
                "due more than 30 days ago|before Sat 24 Oct 2026|true|",
                "due at least 30 days ago|up to and including Sat 24 Oct 2026|true|",
                "due less than 30 days ago|after Sat 24 Oct 2026, not later than today|true|",
                "due less than 2 days from now|before Wed 25 Nov 2026, not earlier than today|true|",
                "reported_at before today|before Mon 23 Nov 2026, 00:00|true|",
                "reported_at after today|from Tue 24 Nov 2026, 00:00 on|true|",
                "reported_at up to today|up to, not including, Tue 24 Nov 2026, 00:00|true|",
                "reported_at on today|on Mon 23 Nov 2026, the whole day|true|",
                "reported_at in last week|from Mon 16 Nov 2026, 00:00 up to, not including, Mon 23 Nov 2026, 00:00|true|7 days",
                "reported_at in last 4 hours|from Mon 23 Nov 2026, 05:30 up to, not including, Mon 23 Nov 2026, 09:30|true|",
                "reported_at after 2026-11-23T14:30|after Mon 23 Nov 2026, 14:30|false|",
                "reported_at more than 2 hours ago|before Mon 23 Nov 2026, 07:30|true|",
                "reported_at less than 2 hours from now|before Mon 23 Nov 2026, 11:30, not earlier than now|true|",
            })
    void windowsAreSaidWithTheirExactBounds(String statement, String words, boolean rolling, String length) {
        Condition.Criterion criterion = (Condition.Criterion) READER.read(statement);
        Wording.Stands stands =
                Wording.stands(criterion, Generate.REGISTER, READING).orElseThrow();
        assertThat(stands.words()).isEqualTo(words);
        assertThat(stands.rolling()).isEqualTo(rolling);
        assertThat(stands.length()).isEqualTo(Optional.ofNullable(length));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "status is not in (\"Done\", \"Dropped\")|status|is none of|Done, Dropped|PLAIN",
                "site is my site|site|is|my site|VIEWER",
                "assignee is in (me, \"bram.oake\")|assignee|is one of|me, Bram Oake|VIEWER",
                "severity >= 4|severity|is|at least 4|PLAIN",
                "cost between 1 and 2.5|cost|is|between 1 and 2.5|PLAIN",
                "reported_at in last 7 days|reported at|is|in the last 7 days|TIME",
                "due on today|due|is|today|TIME",
                "due not on yesterday|due|is not|yesterday|TIME",
                "due on 2026-11-23|due|is|on 23 Nov 2026|PLAIN",
                "due before 2026-Q3|due|is|before Q3 2026|PLAIN",
                "due in 2026-01 to end of this month|due|is|in January 2026 to the last day of this month|TIME",
                "due more than 1 week ago|due|is|more than 1 week ago|TIME",
                "title contains \"loose\" exactly|title|contains|“loose”, letter case counting|PLAIN",
                "title is not empty|title|is not empty|``|PLAIN",
                "open overlaps this week|open time|overlaps|this week|TIME",
                "closure ends in today|closure|ends on|today|TIME",
                "due weekday not in (Mon, Fri)|due|does not fall on|Mon or Fri|PLAIN",
                "due month in (March)|due|falls in|March|PLAIN",
                "due day of month in (1, 15)|due|falls on|1 or 15 of the month|PLAIN",
                "reported_at time between 22:00 and 06:00|reported at|is|between 22:00 and 06:00 on any day|PLAIN",
                "reported_at outside working hours|reported at|is|outside working hours|PLAIN",
                "rank is in bands (\"Low\", \"High\")|rank|is in|the bands “Low” or “High”|PLAIN",
                "closed_at after due + 2 days|closed at|is|after due + 2 days|PLAIN",
                "cost != allowed|cost|is not|equal to allowed|PLAIN",
                "title matches /^a/|title|matches|/^a/|PLAIN",
                "severity >= {at least = 3}|severity|is|at least ‹at least› (3)|VIEWER",
                "due in last {n} days|due|is|in the last … days ‹n›|VIEWER",
                "urgent is no|urgent|is|no|PLAIN",
                "code is in (\"1\",\"2\",\"3\",\"4\",\"5\",\"6\",\"7\",\"8\")|code number|is one of|“1”, “2”, “3”, “4”, “5”, “6” and 2 more|PLAIN",
            })
    void criteriaReadAsSentences(String statement, String field, String verb, String object, Wording.Tone tone) {
        Condition.Criterion criterion = (Condition.Criterion) READER.read(statement);
        assertThat(Wording.phrase(criterion, Generate.REGISTER))
                .isEqualTo(new Wording.Phrase(field, verb, object, tone));
    }

    @Test
    void aStatementIsSaidInWholePhrases() {
        assertThat(Wording.lines(
                        READER.read("severity >= 3 and (status is \"New\" or site is my site and urgent is yes)"
                                + " and not (rank = 1 or rank = 2) and off(code is \"X\")"),
                        Generate.REGISTER))
                .containsExactly(
                        "severity is at least 3",
                        "status is New or (site is my site and urgent is yes)",
                        "none of: rank is 1 or rank is 2",
                        "code number is “X” (off)");
        assertThat(Wording.lines(READER.read("severity > 3 or rank = 1"), Generate.REGISTER))
                .containsExactly("severity is more than 3 or rank is 1");
        assertThat(Wording.lines(Condition.EVERYTHING, Generate.REGISTER)).isEmpty();
    }

    @Test
    void aCriterionOnAFieldThatIsGoneIsStillSaid() {
        Condition.Criterion criterion = (Condition.Criterion) READER.read("severity > 3");
        assertThat(Wording.phrase(criterion, new Register("things", "Things", "things", "id", List.of()))
                        .field())
                .isEqualTo("severity");
    }

    @Test
    void theBoundsThatAreSaidAreTheBoundsThatAreUsed() {
        Generate generate = new Generate(77);
        Field due = Generate.REGISTER.field("due").orElseThrow();
        int at = Generate.REGISTER.fields().indexOf(due);
        Binder binder = new Binder(Generate.REGISTER, READING, Viewer.NOBODY);
        int checked = 0;
        while (checked < 2_000) {
            Condition.Criterion criterion = generate.criterion();
            if (!criterion.field().equals("due")) {
                continue;
            }
            Optional<Wording.Stands> stands = Wording.stands(criterion, Generate.REGISTER, READING);
            if (stands.isEmpty() || !(stands.get().window() instanceof Window.Days days) || days.isEmpty()) {
                continue;
            }
            if (!stands.get().words().startsWith("on ") && !stands.get().words().startsWith("from ")) {
                continue;
            }
            boolean open = stands.get().words().endsWith(" on");
            var test = Matcher.of(Generate.REGISTER, binder.bind(criterion));
            assertThat(test.test(i -> i == at ? days.firstDay() : null))
                    .as("%s", criterion)
                    .isTrue();
            assertThat(test.test(i -> i == at ? days.lastDay() : null))
                    .as("%s", criterion)
                    .isTrue();
            assertThat(test.test(i -> i == at ? days.firstDay().minusDays(1) : null))
                    .as("%s", criterion)
                    .isFalse();
            assertThat(test.test(i -> i == at ? days.dayAfterLast() : null))
                    .as("%s", criterion)
                    .isEqualTo(open);
            checked++;
        }
    }

    @Test
    void theStretchThatIsDrawnIsTheStretchThatIsMeant() {
        Generate generate = new Generate(78);
        Binder binder = new Binder(Generate.REGISTER, READING, Viewer.NOBODY);
        int checked = 0;
        int open = 0;
        while (checked < 4_000) {
            Condition.Criterion criterion = generate.criterion();
            Field field = Generate.REGISTER.field(criterion.field()).orElseThrow();
            Optional<Wording.Stands> stands = Wording.stands(criterion, Generate.REGISTER, READING);
            if (stands.isEmpty() || !field.type().isTemporal()) {
                continue;
            }
            Wording.Reach reach = stands.get().reach();
            int at = Generate.REGISTER.stored().indexOf(field);
            var test = Matcher.of(Generate.REGISTER, binder.bind(criterion));
            for (Optional<Instant> end : List.of(reach.from(), reach.to())) {
                if (end.isEmpty()) {
                    open++;
                    continue;
                }
                for (int micros = -1; micros <= 0; micros++) {
                    Instant instant = end.get().plus(micros, ChronoUnit.MICROS);
                    LocalDate day = LocalDate.ofInstant(instant, READING.zone());
                    Object value = field.type() == FieldType.DATE ? day : instant;
                    Instant lies = field.type() == FieldType.DATE
                            ? day.atStartOfDay(READING.zone()).toInstant()
                            : instant;
                    boolean inside = reach.from().map(f -> !lies.isBefore(f)).orElse(true)
                            && reach.to().map(t -> lies.isBefore(t)).orElse(true);
                    assertThat(test.test(i -> i == at ? value : null))
                            .as("%s at %s: %s", criterion, value, reach)
                            .isEqualTo(inside != reach.outside());
                }
            }
            checked++;
        }
        assertThat(open).isGreaterThan(200);
    }
}
