package deftlens.demo;

import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.registers.CatalogueEditor;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.sums.SumsService;
import deftlens.server.views.ViewPermission;
import deftlens.server.views.ViewsService;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.Month;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.Collectors;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.postgresql.PGConnection;
import org.postgresql.copy.PGCopyOutputStream;
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
    private static final int USUAL_DAYS = 1_095;
    private static final int LARGE_DAYS = 2_190;

    private final OrganisationService organisation;
    private final PeopleService people;
    private final RegisterCatalogue registers;
    private final CatalogueEditor catalogue;
    private final ViewsService views;
    private final SumsService sums;
    private final Corrections corrections;
    private final DemoSettings settings;
    private final Clock clock;

    DemoLoader(
            OrganisationService organisation,
            PeopleService people,
            RegisterCatalogue registers,
            CatalogueEditor catalogue,
            ViewsService views,
            SumsService sums,
            Corrections corrections,
            DemoSettings settings,
            Clock clock) {
        this.organisation = organisation;
        this.people = people;
        this.registers = registers;
        this.catalogue = catalogue;
        this.views = views;
        this.sums = sums;
        this.corrections = corrections;
        this.settings = settings;
        this.clock = clock;
    }

    @Override
    public void run(ApplicationArguments arguments) {
        LocalDate today = LocalDate.now(clock.withZone(ZONE));
        if (people.isEmpty()) {
            organisation.settle("Hollin Sound Harbour Trust", ZONE, DayOfWeek.MONDAY, Month.APRIL);
            addPeople();
            setWorkingHours();
        }
        boolean large = settings.scale().equals("large");
        List<DemoRegister> all = List.of(
                new Defects(today, ZONE),
                new Stays(today, ZONE),
                large
                        ? new Dues(today, ZONE, new Stays(today, ZONE).all(), 500_000, LARGE_DAYS)
                        : Dues.usual(today, ZONE, new Stays(today, ZONE).all()),
                new Permits(today, ZONE),
                large
                        ? new Moves(today, ZONE, Moves.COUNT + 5_000_000, LARGE_DAYS, new Defects(today, ZONE).all())
                        : new Moves(today, ZONE, Moves.COUNT, USUAL_DAYS, new Defects(today, ZONE).all()),
                new Closures(today, ZONE));
        long started = System.nanoTime();
        long records = 0;
        for (DemoRegister register : all) {
            String key = register.register().key();
            if (registers.whole(key).isEmpty()) {
                records += load(register);
                keepViews(key);
                register.sums().ifPresent(kept -> sums.keep(key, kept.keys(), kept.amounts(), somebody("ines.marlow")));
                if (key.equals(Corrections.REGISTER)) {
                    corrections.make(somebody("tomas.rell"), today, ZONE);
                    mayChangeMany(key, "Harbour office");
                }
            }
        }
        if (registers.whole(OnTheWater.KEY).isEmpty()) {
            registers.combine(OnTheWater.register(), OnTheWater.members());
            keepViews(OnTheWater.KEY);
        }
        if (records > 0) {
            LOG.info(
                    "the demo world is loaded: {} records in {} s",
                    String.format(Locale.ROOT, "%,d", records),
                    (System.nanoTime() - started) / 1_000_000_000);
        }
    }

    /** Makes a register and copies its records in. */
    private long load(DemoRegister register) {
        AtomicLong rows = new AtomicLong();
        registers.add(register.register(), (described, connection) -> {
            String columns = RecordTables.columns(described).stream()
                    .map(f -> '"' + f.column() + '"')
                    .collect(Collectors.joining(", "));
            try (PGCopyOutputStream copy = new PGCopyOutputStream(
                            connection.unwrap(PGConnection.class),
                            "copy " + described.register().table() + " (" + columns + ") from stdin (format csv)",
                            1 << 16);
                    Writer writer = new OutputStreamWriter(copy, StandardCharsets.UTF_8);
                    CSVPrinter csv = new CSVPrinter(writer, CSVFormat.POSTGRESQL_CSV)) {
                register.each(values -> {
                    try {
                        csv.printRecord(values);
                    } catch (IOException e) {
                        throw new UncheckedIOException(e);
                    }
                    if (rows.incrementAndGet() % 250_000 == 0) {
                        LOG.info(
                                "loading {}: {} records",
                                described.register().label(),
                                String.format(Locale.ROOT, "%,d", rows.get()));
                    }
                });
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        });
        return rows.get();
    }

    /** Gives a team the right to change many records at once and to post transactions. */
    private void mayChangeMany(String register, String team) {
        long office = people.teams().stream()
                .filter(t -> t.name().equals(team))
                .map(PeopleService.TeamName::id)
                .findFirst()
                .orElseThrow();
        catalogue.setAccess(
                register,
                List.of(new CatalogueEditor.AccessLine(Optional.of(office), true, Optional.of(true), "", List.of())),
                somebody("ines.marlow"));
    }

    private SignedIn somebody(String name) {
        PeopleService.Profile found = people.everyone().stream()
                .filter(p -> p.name().equals(name))
                .findFirst()
                .orElseThrow();
        return new SignedIn(found.id(), found.name(), found.role());
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

    /** A PostgreSQL array in text; the tags of the demo world hold no quotes. */
    static String array(List<String> tags) {
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
                        ViewsService.Share.with(
                                Optional.empty(),
                                view.forEveryone() ? Optional.empty() : quayCrews,
                                view.mayChange() ? ViewPermission.CHANGE : ViewPermission.LOOK));
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
                settings.windows(),
                settings.version()));
    }

    private void keep(PeopleService.Profile owner, DemoViews.DemoView view, ViewsService.Share share) {
        SignedIn who = new SignedIn(owner.id(), owner.name(), owner.role());
        ViewsService.View kept = views.keep(
                who,
                view.register(),
                ViewsService.Draft.of(
                        view.name(), view.purpose(), view.statement(), List.of(view.order()), List.of(view.label())));
        views.share(kept.id(), who, kept.version(), List.of(share));
    }
}
