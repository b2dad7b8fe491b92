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
import java.time.Month;
import java.time.ZoneId;
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
        if (registers.find("defects").isEmpty()) {
            if (people.isEmpty()) {
                organisation.settle("Hollin Sound Harbour Trust", ZONE, DayOfWeek.MONDAY, Month.APRIL);
                addPeople();
            }
            registers.add(Defects.register());
            int defects = copyDefects();
            keepViews();
            LOG.info("the demo world is loaded: {} defects", defects);
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
        StringBuilder rows = new StringBuilder();
        int[] count = {0};
        try (CSVPrinter csv = new CSVPrinter(rows, CSVFormat.POSTGRESQL_CSV)) {
            new Defects(LocalDate.now(clock.withZone(ZONE)), ZONE).each(d -> {
                try {
                    csv.printRecord(
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
                            d.note());
                    count[0]++;
                } catch (IOException e) {
                    throw new UncheckedIOException(e);
                }
            });
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        try (Connection connection = database.getConnection();
                Statement statement = connection.createStatement()) {
            connection
                    .unwrap(PGConnection.class)
                    .getCopyAPI()
                    .copyIn(
                            "copy records.defects (number, title, site, asset, severity, status, team, assignee, reported_at,"
                                    + " due, closed_at, cost, blocks_berth, tags, note) from stdin (format csv)",
                            new StringReader(rows.toString()));
            statement.execute("analyze records.defects");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return count[0];
    }

    /** A PostgreSQL array in text; the tags of the demo world hold no quotes. */
    private static String array(List<String> tags) {
        return "{" + String.join(",", tags) + "}";
    }

    private void keepViews() {
        Map<String, PeopleService.Profile> byName = new HashMap<>();
        people.everyone().forEach(p -> byName.put(p.name(), p));
        Optional<Long> quayCrews = people.teams().stream()
                .filter(t -> t.name().equals("Quay crews"))
                .map(PeopleService.TeamName::id)
                .findFirst();
        keep(
                byName.get("ines.marlow"),
                "Overdue at my site",
                "The morning round: what should have been mended by now, at the reader's own site.",
                "due before today and status is not in (\"Done\", \"Dropped\") and site is my site",
                List.of("due"),
                new ViewsService.Share(Optional.empty(), quayCrews, false, Optional.empty()));
        keep(
                byName.get("wren.halloway"),
                "Waiting for parts over a fortnight",
                "For the weekly call with the suppliers.",
                "status is \"Waiting for parts\" and reported_at more than 14 days ago",
                List.of("reported_at"),
                new ViewsService.Share(Optional.empty(), Optional.empty(), true, Optional.empty()));
        keep(
                byName.get("bram.oake"),
                "Safety, reported this week",
                "Read out at the Monday meeting.",
                "reported_at in this week and (tags has any of (\"Safety\") or severity >= 5)",
                List.of("-severity", "-reported_at"),
                new ViewsService.Share(Optional.empty(), quayCrews, true, Optional.empty()));
    }

    private void keep(
            PeopleService.Profile owner,
            String name,
            String purpose,
            String statement,
            List<String> order,
            ViewsService.Share share) {
        SignedIn who = new SignedIn(owner.id(), owner.name(), owner.role());
        ViewsService.View kept = views.keep(
                who,
                "defects",
                new ViewsService.Draft(
                        Optional.of(name),
                        Optional.of(purpose),
                        Optional.of(statement),
                        Optional.empty(),
                        Optional.empty(),
                        Optional.of(order),
                        Optional.empty()));
        views.share(kept.id(), who, kept.version(), List.of(share));
    }
}
