package deftlens.core.time;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.statement.Printer;
import deftlens.testing.TestCluster;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.Month;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.zone.ZoneOffsetTransition;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/**
 * Windows beside an independent calculation: the same phrases put into PostgreSQL's own date arithmetic, over random
 * moments, at clock changes, month and year ends, in zones with days that have no midnight or two.
 */
class WindowsAgainstDatabaseTest {

    private static final long SEED = 31_337;
    private static final int CASES = 6_000;
    private static final List<ZoneId> ZONES = List.of(
            ZoneId.of("Europe/London"),
            ZoneId.of("America/New_York"),
            ZoneId.of("America/Sao_Paulo"),
            ZoneId.of("America/Havana"),
            ZoneId.of("Asia/Beirut"),
            ZoneId.of("Asia/Kathmandu"),
            ZoneId.of("Australia/Lord_Howe"),
            ZoneId.of("Pacific/Chatham"),
            ZoneId.of("Pacific/Apia"),
            ZoneId.of("UTC"));

    private static Connection connection;

    @BeforeAll
    static void open() throws SQLException {
        connection = DriverManager.getConnection(
                TestCluster.freshDatabase("core_windows"), TestCluster.user(), TestCluster.password());
        try (Statement statement = connection.createStatement()) {
            // The first instant of a local day; where midnight comes twice, PostgreSQL itself takes the second.
            statement.execute("""
                    create function starts(day date, zone text) returns timestamptz language sql immutable as $$
                        select case when ((at - interval '1 hour') at time zone zone) = day::timestamp
                                    then at - interval '1 hour' else at end
                        from (select day::timestamp at time zone zone as at) taken
                    $$""");
            statement.execute("""
                    create function working(from_day date, steps int, step int) returns date language plpgsql immutable as $$
                    declare day date := from_day; left_over int := steps;
                    begin
                        while left_over > 0 loop
                            day := day + step;
                            if extract(isodow from day) < 6 then left_over := left_over - 1; end if;
                        end loop;
                        return day;
                    end $$""");
        }
    }

    @AfterAll
    static void close() throws SQLException {
        connection.close();
    }

    @Test
    void windowsAreThoseOfTheDatabasesOwnArithmetic() throws SQLException {
        Generate generate = new Generate(SEED);
        int compared = 0;
        for (int i = 0; i < CASES; i++) {
            ZoneId zone = generate.pick(ZONES);
            Reading reading = new Reading(
                    now(generate, zone),
                    zone,
                    generate.pick(List.of(DayOfWeek.values())),
                    generate.pick(List.of(Month.values())),
                    WorkingCalendar.standard());
            Period period = generate.period();
            if (period.isAsked()) {
                continue;
            }
            Window window = Windows.resolve(period, reading);
            Bounds bounds = new Sql(reading).bounds(period);
            String said = "seed %d, case %d: %s at %s in %s, weeks from %s, years from %s"
                    .formatted(
                            SEED,
                            i,
                            Printer.period(period),
                            reading.now(),
                            zone,
                            reading.weekStarts(),
                            reading.fiscalYearStarts());
            try (PreparedStatement query = connection.prepareStatement("select " + bounds.start + ", " + bounds.end);
                    ResultSet result = query.executeQuery()) {
                result.next();
                if (window instanceof Window.Days days) {
                    assertThat(days.firstDay()).as(said).isEqualTo(result.getObject(1, LocalDate.class));
                    assertThat(days.dayAfterLast()).as(said).isEqualTo(result.getObject(2, LocalDate.class));
                    assertThat(days.start())
                            .as(said)
                            .isEqualTo(instant("starts(" + bounds.start + ", '" + zone + "')"));
                    assertThat(days.end()).as(said).isEqualTo(instant("starts(" + bounds.end + ", '" + zone + "')"));
                } else {
                    assertThat(window.start())
                            .as(said)
                            .isEqualTo(result.getObject(1, OffsetDateTime.class).toInstant());
                    assertThat(window.end())
                            .as(said)
                            .isEqualTo(result.getObject(2, OffsetDateTime.class).toInstant());
                }
            }
            compared++;
        }
        assertThat(compared).isGreaterThan(CASES * 3 / 4);
    }

    private static Instant instant(String sql) throws SQLException {
        try (Statement statement = connection.createStatement();
                ResultSet result = statement.executeQuery("select " + sql)) {
            result.next();
            return result.getObject(1, OffsetDateTime.class).toInstant();
        }
    }

    /** A moment around a clock change, an end of a month or year, a midnight, or anywhere. */
    private static Instant now(Generate generate, ZoneId zone) {
        int aside = generate.random().nextInt(7_200) - 3_600;
        return switch (generate.random().nextInt(4)) {
            case 0 -> {
                ZoneOffsetTransition change = zone.getRules().nextTransition(generate.moment(zone));
                yield (change == null ? generate.moment(zone) : change.getInstant()).plusSeconds(aside);
            }
            case 1 ->
                LocalDate.of(
                                2018 + generate.random().nextInt(10),
                                1 + generate.random().nextInt(12),
                                1)
                        .atStartOfDay(zone)
                        .toInstant()
                        .plusSeconds(aside);
            case 2 ->
                LocalDate.of(2018 + generate.random().nextInt(10), 1, 1)
                        .plusDays(generate.random().nextInt(14) - 7)
                        .atTime(12, 0)
                        .atZone(zone)
                        .toInstant();
            default -> generate.moment(zone);
        };
    }

    private record Bounds(String start, String end) {}

    /** Phrases as expressions over dates (or timestamps with zone for clock phrases). */
    private record Sql(Reading reading) {

        private String now() {
            return "timestamptz '" + reading.now().atOffset(ZoneOffset.UTC) + "'";
        }

        private String today() {
            return "(" + now() + " at time zone '" + reading.zone() + "')::date";
        }

        Bounds bounds(Period period) {
            return switch (period) {
                case Period.NearDay(int offset) -> day(plus(today(), offset, Unit.DAY));
                case Period.Calendar(Period.Which which, Unit unit) -> {
                    String start = plus(floor(unit, today()), which.ordinal() - 1, unit);
                    yield new Bounds(start, plus(start, 1, unit));
                }
                case Period.Running(Period.Side side, int count, Unit unit) -> running(side, count, unit);
                case Period.Full(Period.Side side, int count, Unit unit) -> {
                    String start = floor(unit, today());
                    String next = plus(start, 1, unit);
                    yield side == Period.Side.LAST
                            ? new Bounds(plus(start, -count, unit), start)
                            : new Bounds(next, plus(next, count, unit));
                }
                case Period.Away(Period.Side side, int count, Unit unit) -> {
                    int sign = side == Period.Side.LAST ? -1 : 1;
                    if (unit.isClock()) {
                        String at = "(" + now() + " + interval '" + sign * count + " " + unit.name() + "')";
                        yield new Bounds(at, at);
                    }
                    yield day(
                            unit == Unit.WORKING_DAY
                                    ? "working(" + today() + ", " + count + ", " + sign + ")"
                                    : plus(today(), sign * count, unit));
                }
                case Period.WeekdayOf(DayOfWeek weekday, Period.Which which) -> {
                    int days = Math.floorMod(
                            weekday.getValue() - reading.weekStarts().getValue(), 7);
                    yield day(plus(plus(floor(Unit.WEEK, today()), which.ordinal() - 1, Unit.WEEK), days, Unit.DAY));
                }
                case Period.StartOf(Period of) -> day(bounds(of).start);
                case Period.EndOf(Period of) -> day(plus(bounds(of).end, -1, Unit.DAY));
                case Period.Day(LocalDate day) -> day("date '" + day + "'");
                case Period.Month(var month) -> whole("date '" + month + "-01'", Unit.MONTH);
                case Period.Quarter(int year, int quarter) ->
                    whole("make_date(" + year + ", " + (quarter * 3 - 2) + ", 1)", Unit.QUARTER);
                case Period.Half(int year, int half) ->
                    whole("make_date(" + year + ", " + (half * 6 - 5) + ", 1)", Unit.HALF);
                case Period.Week(int year, int week) ->
                    whole("to_date('" + year + "-" + week + "', 'IYYY-IW')", Unit.WEEK);
                case Period.Year(int year) -> whole("make_date(" + year + ", 1, 1)", Unit.YEAR);
                case Period.FiscalYear(int year) -> whole(fiscalYear(year), Unit.YEAR);
                case Period.FiscalQuarter(int year, int quarter) ->
                    whole(plus(fiscalYear(year), quarter - 1, Unit.QUARTER), Unit.QUARTER);
                case Period.Moment(var at, var offset) -> {
                    String instant = offset.map(o -> "timestamptz '" + at + o + "'")
                            .orElse("(timestamp '" + at + "' at time zone '" + reading.zone() + "')");
                    yield new Bounds(instant, instant);
                }
                case Period.Range(Period from, Period to) -> {
                    Bounds first = bounds(from);
                    Bounds last = bounds(to);
                    yield from.isClock() == to.isClock()
                            ? new Bounds(first.start, last.end)
                            : new Bounds(
                                    from.isClock() ? first.start : starts(first.start),
                                    to.isClock() ? last.end : starts(last.end));
                }
                case Period.Asked asked -> throw new IllegalStateException("no blank is compared");
                case Period.AskedCount asked -> throw new IllegalStateException("no blank is compared");
            };
        }

        private String starts(String day) {
            return "starts(" + day + ", '" + reading.zone() + "')";
        }

        private String fiscalYear(int year) {
            int month = reading.fiscalYearStarts().getValue();
            return "make_date(" + (month == 1 ? year : year - 1) + ", " + month + ", 1)";
        }

        private Bounds running(Period.Side side, int count, Unit unit) {
            if (unit.isClock()) {
                String away = "(" + now() + (side == Period.Side.LAST ? " - " : " + ") + "interval '" + count + " "
                        + unit.name() + "')";
                return side == Period.Side.LAST ? new Bounds(away, now()) : new Bounds(now(), away);
            }
            String tomorrow = plus(today(), 1, Unit.DAY);
            if (unit == Unit.WORKING_DAY) {
                return side == Period.Side.LAST
                        ? new Bounds("working(" + tomorrow + ", " + count + ", -1)", tomorrow)
                        : new Bounds(today(), "working(" + plus(today(), -1, Unit.DAY) + ", " + count + ", 1) + 1");
            }
            return side == Period.Side.LAST
                    ? new Bounds(plus(tomorrow, -count, unit), tomorrow)
                    : new Bounds(today(), plus(today(), count, unit));
        }

        private static Bounds day(String day) {
            return new Bounds(day, plus(day, 1, Unit.DAY));
        }

        private static Bounds whole(String start, Unit unit) {
            return new Bounds(start, plus(start, 1, unit));
        }

        private static String plus(String day, int count, Unit unit) {
            String length = switch (unit) {
                case DAY -> count + " days";
                case WEEK -> count + " weeks";
                case MONTH -> count + " months";
                case QUARTER, FISCAL_QUARTER -> 3 * count + " months";
                case HALF -> 6 * count + " months";
                default -> count + " years";
            };
            return "(" + day + " + interval '" + length + "')::date";
        }

        private String floor(Unit unit, String day) {
            int aside = reading.weekStarts().getValue() - 1;
            int fiscal = reading.fiscalYearStarts().getValue() - 1;
            return switch (unit) {
                case DAY -> day;
                case WEEK -> "(date_trunc('week', " + day + " - " + aside + ")::date + " + aside + ")";
                case MONTH -> "date_trunc('month', " + day + ")::date";
                case QUARTER -> "date_trunc('quarter', " + day + ")::date";
                case HALF ->
                    "(date_trunc('year', " + day + ") + case when extract(month from " + day
                            + ") > 6 then interval '6 months' else interval '0' end)::date";
                case YEAR -> "date_trunc('year', " + day + ")::date";
                case FISCAL_YEAR ->
                    "(date_trunc('year', date_trunc('month', " + day + ") - interval '" + fiscal
                            + " months') + interval '" + fiscal + " months')::date";
                case FISCAL_QUARTER ->
                    "(date_trunc('quarter', date_trunc('month', " + day + ") - interval '" + fiscal % 3
                            + " months') + interval '" + fiscal % 3 + " months')::date";
                default -> throw new IllegalStateException("no calendar period of " + unit);
            };
        }
    }
}
