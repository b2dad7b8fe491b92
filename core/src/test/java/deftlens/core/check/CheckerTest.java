package deftlens.core.check;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.match.Matcher;
import deftlens.core.match.Row;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.core.time.WorkingCalendar;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.Month;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class CheckerTest {

    private static final Reading READING = new Reading(
            Instant.parse("2026-11-23T09:30:00Z"),
            ZoneId.of("Europe/London"),
            DayOfWeek.MONDAY,
            Month.APRIL,
            WorkingCalendar.standard());
    private static final Viewer ASTA =
            new Viewer(Map.of("me", List.of("asta.quill"), "site", List.of("North Quay"), "team", List.of("fender")));
    private static final Binder BINDER = new Binder(Generate.REGISTER, READING, ASTA);
    private static final Reader READER = new Reader(Generate.REGISTER, Generate.ATTRIBUTES);

    private static List<Finding> check(String statement) {
        return Checker.findings(READER.read(statement), BINDER, Checker.About.QUESTION);
    }

    private static List<Finding> check(String statement, String name) {
        return Checker.findings(READER.read(statement), BINDER, new Checker.About(name, "", true, Set.of()));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "due before today and due after 2099|never|``",
                "site is \"North Quay\" and site is \"Lantern Pier\"|never|``",
                "site is \"North Quay\" and (rank = 1 or rank = 2) and rank > 2|never|``",
                "site is \"North Quay\" and not (site is \"North Quay\" or rank = 1)|never|``",
                "rank between 7 and 5|never|``",
                "due between 2026-12-01 and 2026-11-01|never|``",
                "rank = 1 or due in 2026-12-01 to 2026-11-01|never|/any/1",
                "title is \"a\" and title contains \"b\"|never|``",
                "title starts with \"ab\" and title starts with \"ac\"|never|``",
                "title contains \"abc\" and not title contains \"b\"|never|``",
                "title is empty and title contains \"b\"|never|``",
                "rank is empty|never|``",
                "urgent is yes and urgent is no|never|``",
                "tags has all of (\"Safety\", \"winter\") and tags has none of (\"winter\")|never|``",
                "due on 2026-11-23 and due weekday in (Tue)|never|``",
                "reported_at in 2026-11-21 to 2026-11-22 and reported_at on a working day|never|``",
                "reported_at time between 08:00 and 10:00 and reported_at time between 11:00 and 12:00|never|``",
                "reported_at time between 08:00 and 08:00|never|``",
                "reported_at in working hours and reported_at outside working hours|never|``",
                "cost > allowed and cost <= allowed|never|``",
                "rank > severity and severity is empty|never|``",
                "opens before 06:00 and opens after 07:00|never|``",
                "open overlaps 2026-03 and open within 2025|never|``",
                "rank = 1 and (due before today and (paid is yes or due from today) and paid is no)|never|``",
                "reported_at on 2026-11-23T14:30|never|``",
                "status is in band \"Open\" and status is \"Done\"|never|``",
                "title matches /^a/ and title is \"bcd\"|never|``",
                "rank > 3 or rank <= 3|always|``",
                "rank = 2 and (paid is yes or paid is no)|always|/all/1",
                "due is empty or due before today or due from today|always|``",
                "title is not \"a\" or title is not \"b\"|always|``",
                "severity > 3 and severity > 3|repeats|/all/1",
                "severity > 3 and severity >= 2|contained|/all/1",
                "severity = 1 or severity < 3|contained|/any/0",
                "due in this month and due in this year|contained|/all/1",
                "title is \"fender\" and title contains \"fend\"|contained|/all/1",
                "site is \"North Quay\" and (site is \"Lantern Pier\" or rank = 2)|contained|/all/1/any/0",
                "due before today and due is not empty|contained|/all/1",
                "severity = 1 and not severity = 2|contained|/all/1",
                "status is \"Nwe\"|choice-gone|``",
                "assignee is in (\"asta.quill\", \"no.body\")|choice-gone|``",
            })
    void noticesWhatCannotBeMeant(String statement, String code, String path) {
        List<Finding> findings = check(statement);
        assertThat(findings)
                .as("%s: %s", statement, findings)
                .anyMatch(f -> f.code().code().equals(code) && f.path().equals(path));
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "due before today and status is not in (\"Done\", \"Dropped\") and site is my site",
                "reported_at in this week and (tags has any of (\"Safety\") or severity >= 5)",
                "reported_at in last 7 days or due in next 7 days",
                "status is \"New\" or (status is \"Done\" and closed_at in today)",
                "title contains \"a\" and title contains \"b\"",
                "title is like \"a*\" and not title is like \"ab*\"",
                "rank > 1 and rank < 3",
                "cost > allowed or cost < allowed",
                "due is empty or due before today",
                "reported_at in last 30 days and reported_at weekday in (Sat, Sun) and reported_at time between 22:00 and 06:00",
                "reported_at in last month and reported_at outside working hours",
                "open overlaps last week and not open within last week",
                "closure covers today or closure starts in next 14 days",
                "tags has any of (\"Safety\", \"winter\") and tags has none of (\"a,b\")",
                "due in 2026-11-01 to 2026-11-30",
                "off(severity > 3) and severity > 3",
                "assignee is me or owner is me",
                "title is \"Fender\" exactly or title is \"FENDER\" exactly",
                "due more than {days overdue = 30} days ago and cost >= {at least}",
            })
    void saysNothingAgainstGoodQuestions(String statement) {
        assertThat(check(statement)).as(statement).isEmpty();
    }

    @Test
    void fixedWindowsAreWatched() {
        assertThat(codes(check("due in 2026-03-01 to 2026-03-30"))).contains("day-short");
        Finding day = check("due between 2026-07-01 and 2026-09-29").get(0);
        assertThat(day.code()).isEqualTo(Finding.Code.DAY_SHORT);
        assertThat(day.message()).contains("the quarter").contains("30 Sep 2026");
        assertThat(Printer.print(day.mend().orElseThrow().condition()))
                .isEqualTo("due between 2026-07-01 and 2026-09-30");
        assertThat(codes(check("reported_at in 2026-11-01T00:00 to 2026-11-30T00:00")))
                .contains("day-short");
        assertThat(codes(check("due in 2026-03-01 to 2026-03-31"))).doesNotContain("day-short");
        assertThat(codes(check("due in 2026-Q3"))).containsExactly("passed");
        assertThat(codes(check("due in 2026-Q4"))).isEmpty();
        assertThat(codes(check("due before 2026-01-01"))).isEmpty();
    }

    @Test
    void aNameThatSpeaksOfAnotherWindowIsWatched() {
        Finding finding = check("due in 2026-10", "Due last month").get(0);
        assertThat(finding.code()).isEqualTo(Finding.Code.FIXED_NOT_ROLLING);
        assertThat(Printer.print(finding.mend().orElseThrow().condition())).isEqualTo("due in last month");
        Finding other = check("due in last quarter", "Q3 dues").get(0);
        assertThat(other.code()).isEqualTo(Finding.Code.ROLLING_NOT_FIXED);
        assertThat(Printer.print(other.mend().orElseThrow().condition())).isEqualTo("due in 2026-Q3");
        assertThat(check("due in 2026-Q3", "Q3 dues")).isEmpty();
        assertThat(check("due in last quarter", "Last quarter's dues")).isEmpty();
        assertThat(codes(check("", "Everything there is"))).containsExactly("everything");
        assertThat(check("")).isEmpty();
    }

    @Test
    void whatIsGoneOrNotTheReadersIsSaid() {
        Register smaller =
                new Register("things", "Things", "things", "id", List.of(Field.of("due", "Due", FieldType.DATE)));
        Binder binder = new Binder(smaller, READING, ASTA);
        Condition condition = READER.read("due before today and severity > 3");
        Finding gone =
                Checker.findings(condition, binder, Checker.About.QUESTION).get(0);
        assertThat(gone.code()).isEqualTo(Finding.Code.FIELD_GONE);
        assertThat(gone.path()).isEqualTo("/all/1");
        assertThat(Printer.print(gone.mend().orElseThrow().condition())).isEqualTo("due before today");
        assertThat(Checker.findings(condition, BINDER, new Checker.About("", "", false, Set.of("severity"))))
                .extracting(f -> f.code().code() + f.path())
                .containsExactly("not-yours/all/1");
        Viewer nobody = Viewer.NOBODY;
        assertThat(codes(Checker.findings(
                        READER.read("site is my site"),
                        new Binder(Generate.REGISTER, READING, nobody),
                        Checker.About.QUESTION)))
                .containsExactly("viewer-empty");
    }

    @Test
    void mendsMend() {
        int mended = 0;
        for (String statement : List.of(
                "rank between 7 and 5",
                "due in 2026-12-01 to 2026-11-01",
                "site is \"North Quay\" and site is \"Lantern Pier\"",
                "severity > 3 and severity > 3",
                "severity > 3 and severity >= 2 and due before today",
                "status is \"Nwe\"",
                "rank = 2 and (paid is yes or paid is no)",
                "due in 2026-03-01 to 2026-03-30")) {
            for (Finding finding : check(statement)) {
                if (finding.mend().isPresent()) {
                    String after = Printer.print(finding.mend().get().condition());
                    assertThat(check(after))
                            .as("%s, mended to %s", statement, after)
                            .noneMatch(f -> f.code() == finding.code());
                    mended++;
                }
            }
        }
        assertThat(mended).isGreaterThanOrEqualTo(8);
    }

    @Test
    void wantedNumbersBecomeFindings() {
        Condition condition = READER.read("due before today and severity > 3 and site is not \"North Quay\"");
        List<Checker.Wanted> wanted = Checker.wanted(condition, BINDER);
        List<String> said = wanted.stream()
                .flatMap(w -> w.finding().by(12, false).stream())
                .map(f -> f.code().code() + f.path() + ": " + f.message())
                .toList();
        assertThat(said)
                .containsExactly(
                        "empty-left-out/all/0: 12 records without due are left out.",
                        "empty-left-out/all/1: 12 records without severity are left out.",
                        "at-boundary/all/1: 12 records have severity of exactly 3, which does not count.");
        assertThat(wanted).allMatch(w -> w.finding().by(0, false).isEmpty());
        assertThat(wanted.get(0).finding().by(10_000, true).orElseThrow().message())
                .isEqualTo("More than 10,000 records without due are left out.");
        assertThat(Checker.wanted(READER.read("due before today or due is empty"), BINDER))
                .isEmpty();
        assertThat(Checker.wanted(READER.read("status is not \"Done\""), BINDER)
                        .get(0)
                        .finding()
                        .by(3, false)
                        .orElseThrow())
                .extracting(
                        f -> f.code().code(),
                        f -> Printer.print(f.mend().orElseThrow().condition()))
                .containsExactly("empty-let-in", "status is not \"Done\" and status is not empty");
    }

    @Test
    void listedValuesThatNobodyHasCanBeTakenOut() {
        Condition condition = READER.read("code is in (\"D-1\", \"D-2\", \"D-3\") and rank is in band \"Low\"");
        Checker.Listed listed = Checker.listed(condition, Generate.REGISTER).get(0);
        Finding finding = Checker.missing(condition, listed, List.of(new Operand.Text("D-2")));
        assertThat(finding.message()).isEqualTo("No record has \"D-2\" as its code number.");
        assertThat(Printer.print(finding.mend().orElseThrow().condition()))
                .isEqualTo("code is in (\"D-1\", \"D-3\") and rank is in band \"Low\"");
    }

    /** What is proved holds for every record, also for the records it was not made for. */
    @Test
    void aProofIsNeverWrong() {
        long seed = 4711;
        Generate generate = new Generate(seed);
        List<Object[]> rows = new ArrayList<>();
        for (int i = 0; i < 300; i++) {
            rows.add(generate.row(READING.zone()));
        }
        int never = 0;
        int always = 0;
        for (int tree = 0; tree < 4_000; tree++) {
            Condition condition = generate.condition(1 + tree % 4);
            Bound bound = BINDER.bind(condition);
            Predicate<Row> test = Matcher.of(Generate.REGISTER, bound);
            long matching =
                    rows.stream().filter(row -> test.test(at -> row[at])).count();
            if (Reasoning.isNever(bound)) {
                assertThat(matching)
                        .as("seed %d: %s", seed, Printer.print(condition))
                        .isZero();
                never++;
            }
            if (Reasoning.isAlways(bound)) {
                assertThat(matching)
                        .as("seed %d: %s", seed, Printer.print(condition))
                        .isEqualTo(rows.size());
                always++;
            }
            Checker.findings(condition.normal(), BINDER, Checker.About.QUESTION);
        }
        assertThat(never).isGreaterThan(50);
        assertThat(always).isGreaterThan(20);
    }

    private static List<String> codes(List<Finding> findings) {
        return findings.stream().map(f -> f.code().code()).collect(Collectors.toList());
    }
}
