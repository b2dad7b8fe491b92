package deftlens.demo;

import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.views.ViewsService;
import java.io.IOException;
import java.io.StringReader;
import java.io.UncheckedIOException;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Clock;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.Month;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import javax.sql.DataSource;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.postgresql.PGConnection;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.ApplicationArguments;
import org.springframework.boot.ApplicationRunner;
import org.springframework.core.annotation.Order;

/** Loads the demo world into a server that has nobody in it yet; afterwards it leaves everything as it is. */
@Order(1)
class DemoLoader implements ApplicationRunner {

    private static final Logger LOG = LoggerFactory.getLogger(DemoLoader.class);
    private static final ZoneId ZONE = ZoneId.of("Europe/London");

    private final OrganisationService organisation;
    private final PeopleService people;
    private final RegisterCatalogue registers;
    private final ViewsService views;
    private final DataSource database;
    private final Clock clock;

    DemoLoader(
            OrganisationService organisation,
            PeopleService people,
            RegisterCatalogue registers,
            ViewsService views,
            DataSource database,
            Clock clock) {
        this.organisation = organisation;
        this.people = people;
        this.registers = registers;
        this.views = views;
        this.database = database;
        this.clock = clock;
    }

    @Override
    public void run(ApplicationArguments arguments) throws SQLException {
        if (registers.whole("defects").isEmpty()) {
            if (people.isEmpty()) {
                organisation.settle("Hollin Sound Harbour Trust", ZONE, DayOfWeek.MONDAY, Month.APRIL);
                addPeople();
            }
            registers.add(Defects.register());
            int defects = copyDefects();
            keepViews("defects");
            LOG.info("the demo world is loaded: {} defects", defects);
        }
        if (registers.whole("stays").isEmpty()) {
            setWorkingHours();
            registers.add(Stays.register());
            int stays = copyStays();
            keepViews("stays");
            LOG.info("the demo world is loaded: {} berth stays", stays);
        }
    }

    private void addPeople() {
        Map<String, PeopleService.TeamName> teams = new HashMap<>();
        Staff.TEAMS.forEach(name -> teams.put(name, people.addTeam(name)));
        for (Staff.Member member : Staff.everybody()) {
            people.addPerson(
                    member.name(),
                    member.fullName(),
                    Staff.PASSWORD,
                    member.role(),
                    member.site(),
                    member.teams().stream().map(teams::get).toList());
        }
    }

    private int copyDefects() throws SQLException {
        List<Object[]> rows = new ArrayList<>();
        new Defects(LocalDate.now(clock.withZone(ZONE)), ZONE)
                .each(d -> rows.add(new Object[] {
                    d.number(),
                    d.title(),
                    d.site(),
                    d.asset(),
                    d.severity(),
                    d.status(),
                    d.team(),
                    d.assignee(),
                    d.reportedAt(),
                    d.due(),
                    d.closedAt(),
                    d.cost(),
                    d.blocksBerth(),
                    array(d.tags()),
                    d.note()
                }));
        return copy(
                "defects",
                "number, title, site, asset, severity, status, team, assignee, reported_at, due, closed_at, cost,"
                        + " blocks_berth, tags, note",
                rows);
    }

    private int copyStays() throws SQLException {
        List<Object[]> rows = new ArrayList<>();
        new Stays(LocalDate.now(clock.withZone(ZONE)), ZONE)
                .each(s -> rows.add(new Object[] {
                    s.number(),
                    s.vessel(),
                    s.berth(),
                    s.site(),
                    s.arrives(),
                    s.leaves(),
                    s.length(),
                    s.draught(),
                    s.berthDepth(),
                    s.lockAt(),
                    s.agent(),
                    s.status()
                }));
        return copy(
                "stays",
                "number, vessel, berth, site, arrives, leaves, length, draught, berth_depth, lock_at, agent, status",
                rows);
    }

    /** Copies records into the table of a register; the columns are those of the demo world itself. */
    private int copy(String table, String columns, List<Object[]> records) throws SQLException {
        StringBuilder rows = new StringBuilder();
        try (CSVPrinter csv = new CSVPrinter(rows, CSVFormat.POSTGRESQL_CSV)) {
            for (Object[] values : records) {
                csv.printRecord(values);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            connection
                    .unwrap(PGConnection.class)
                    .getCopyAPI()
                    .copyIn(
                            "copy records." + table + " (" + columns + ") from stdin (format csv)",
                            new StringReader(rows.toString()));
            statement.execute("analyze records." + table);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return records.size();
    }

    /** A PostgreSQL array in text; the tags of the demo world hold no quotes. */
    private static String array(List<String> tags) {
        return "{" + String.join(",", tags) + "}";
    }

    private void keepViews(String register) {
        Map<String, PeopleService.Profile> byName = new HashMap<>();
        people.everyone().forEach(p -> byName.put(p.name(), p));
        Optional<Long> quayCrews = people.teams().stream()
                .filter(t -> t.name().equals("Quay crews"))
                .map(PeopleService.TeamName::id)
                .findFirst();
        for (DemoViews.DemoView view : DemoViews.all()) {
            if (view.register().equals(register)) {
                keep(
                        byName.get(view.owner()),
                        view,
                        new ViewsService.Share(
                                Optional.empty(),
                                view.forEveryone() ? Optional.empty() : quayCrews,
                                view.mayChange(),
                                Optional.empty()));
            }
        }
    }

    /** Quay hours on weekdays, and the single days of each year that differ. */
    private void setWorkingHours() {
        OrganisationService.Settings settings = organisation.settings();
        OrganisationService.Stretch day = new OrganisationService.Stretch(LocalTime.of(8, 0), LocalTime.of(17, 0));
        OrganisationService.Stretch half = new OrganisationService.Stretch(LocalTime.of(8, 0), LocalTime.NOON);
        List<OrganisationService.Weekly> weekly = new ArrayList<>();
        for (int weekday = 1; weekday <= 7; weekday++) {
            weekly.add(new OrganisationService.Weekly(weekday, weekday <= 5 ? List.of(day) : List.of()));
        }
        List<OrganisationService.Single> exceptions = new ArrayList<>();
        int thisYear = LocalDate.now(clock.withZone(ZONE)).getYear();
        for (int year = thisYear - 3; year <= thisYear + 1; year++) {
            exceptions.add(new OrganisationService.Single(LocalDate.of(year, 1, 1), "New Year's Day", List.of()));
            exceptions.add(new OrganisationService.Single(LocalDate.of(year, 12, 24), "Half day", List.of(half)));
            exceptions.add(new OrganisationService.Single(LocalDate.of(year, 12, 25), "Christmas Day", List.of()));
            exceptions.add(new OrganisationService.Single(LocalDate.of(year, 12, 26), "Boxing Day", List.of()));
            exceptions.add(new OrganisationService.Single(LocalDate.of(year, 6, 14), "Harbour day", List.of()));
        }
        organisation.change(new OrganisationService.Settings(
                settings.name(),
                settings.zone(),
                settings.weekStarts(),
                settings.fiscalYearStartsMonth(),
                weekly,
                exceptions,
                settings.version()));
    }

    private void keep(PeopleService.Profile owner, DemoViews.DemoView view, ViewsService.Share share) {
        SignedIn who = new SignedIn(owner.id(), owner.name(), owner.role());
        ViewsService.View kept = views.keep(
                who,
                view.register(),
                new ViewsService.Draft(
                        Optional.of(view.name()),
                        Optional.of(view.purpose()),
                        Optional.of(view.statement()),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.of(List.of(view.order())),
                        Optional.empty()));
        views.share(kept.id(), who, kept.version(), List.of(share));
    }
}
