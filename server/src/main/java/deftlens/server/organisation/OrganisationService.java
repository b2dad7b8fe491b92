package deftlens.server.organisation;

import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import deftlens.core.time.WorkingCalendar;
import deftlens.server.platform.EpochCache;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import java.time.Clock;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.Month;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** The organisation's name and calendar. */
@Service
public class OrganisationService {

    private final OrganisationStore store;
    private final Clock clock;
    private final EpochCache remembered;
    private final ApplicationEventPublisher events;
    private final ObjectMapper json;
    private volatile Known known;

    OrganisationService(
            OrganisationStore store,
            Clock clock,
            EpochCache remembered,
            ApplicationEventPublisher events,
            ObjectMapper json) {
        this.events = events;
        this.store = store;
        this.clock = clock;
        this.remembered = remembered;
        this.json = json;
    }

    /** The organisation's name. */
    @Transactional(readOnly = true)
    public String name() {
        return store.getById(Organisation.ONLY).name();
    }

    /** The organisation's zone. */
    @Transactional(readOnly = true)
    public ZoneId zone() {
        return usual().zone();
    }

    /**
     * The reading of one request: its only "now".
     *
     * @param asOf another moment to read at, if the reader chose one
     * @param zone another zone than the organisation's, if a view has its own
     */
    @Transactional(readOnly = true)
    public Reading reading(Optional<Instant> asOf, Optional<ZoneId> zone) {
        Usual usual = usual();
        return new Reading(
                asOf.orElseGet(clock::instant),
                zone.orElseGet(usual::zone),
                usual.weekStarts(),
                usual.fiscalYearStarts(),
                usual.working());
    }

    /** What every reading of the organisation has in common. */
    private record Usual(
            ZoneId zone, DayOfWeek weekStarts, Month fiscalYearStarts, WorkingCalendar working, int version) {}

    private Usual usual() {
        return remembered.get(Usual.class, () -> {
            Organisation organisation = store.getById(Organisation.ONLY);
            return new Usual(
                    ZoneId.of(organisation.zone()),
                    DayOfWeek.of(organisation.weekStarts()),
                    Month.of(organisation.fiscalYearStarts()),
                    working(organisation),
                    organisation.version());
        });
    }

    /** Counts the changes of the organisation's settings. */
    @Transactional(readOnly = true)
    public int version() {
        return usual().version();
    }

    /** The working calendar, read again only when the organisation has changed. */
    private WorkingCalendar working(Organisation organisation) {
        Known latest = known;
        if (latest == null || latest.version() != organisation.version()) {
            latest = new Known(organisation.version(), calendar(organisation));
            known = latest;
        }
        return latest.calendar();
    }

    private record Known(int version, WorkingCalendar calendar) {}

    private WorkingCalendar calendar(Organisation organisation) {
        Map<DayOfWeek, List<WorkingCalendar.Hours>> weekly = new EnumMap<>(DayOfWeek.class);
        organisation.hours().stream()
                .sorted(Comparator.comparing(Organisation.WorkingHours::from))
                .forEach(h -> weekly.computeIfAbsent(DayOfWeek.of(h.weekday()), d -> new ArrayList<>())
                        .add(new WorkingCalendar.Hours(h.from(), h.to())));
        Map<LocalDate, List<WorkingCalendar.Hours>> single = new HashMap<>();
        organisation.exceptions().forEach(e -> single.put(e.day(), hours(e)));
        return new WorkingCalendar(weekly, single);
    }

    private List<WorkingCalendar.Hours> hours(Organisation.WorkingException exception) {
        return Arrays.stream(json.readValue(exception.hours(), Stretch[].class))
                .map(s -> new WorkingCalendar.Hours(s.from(), s.to()))
                .toList();
    }

    /** A stretch of wall-clock time; {@code to} 00:00 is the end of the day. */
    public record Stretch(LocalTime from, LocalTime to) {}

    /** The working time of one day of the week, 1 Monday to 7 Sunday; no hours is a day off. */
    public record Weekly(int weekday, List<Stretch> hours) {}

    /** A date whose hours replace those of its weekday: a holiday or closure with none, a half day with fewer. */
    public record Single(LocalDate day, String label, List<Stretch> hours) {}

    /** The most windows that are offered first. */
    private static final int MOST_WINDOWS = 20;

    /**
     * The organisation as it is set up.
     *
     * @param windows the date phrases that are offered first, in their order; none for the usual ones
     * @param version counts its changes
     */
    public record Settings(
            String name,
            String zone,
            DayOfWeek weekStarts,
            int fiscalYearStartsMonth,
            List<Weekly> weekly,
            List<Single> exceptions,
            List<String> windows,
            int version) {

        public Settings {
            windows = windows == null ? List.of() : List.copyOf(windows);
        }
    }

    /** How the organisation is set up. */
    @Transactional(readOnly = true)
    public Settings settings() {
        return settings(store.getById(Organisation.ONLY));
    }

    private Settings settings(Organisation organisation) {
        WorkingCalendar calendar = calendar(organisation);
        List<Weekly> weekly = new ArrayList<>();
        for (DayOfWeek day : DayOfWeek.values()) {
            weekly.add(new Weekly(day.getValue(), stretches(calendar.weekly().getOrDefault(day, List.of()))));
        }
        return new Settings(
                organisation.name(),
                organisation.zone(),
                DayOfWeek.of(organisation.weekStarts()),
                organisation.fiscalYearStarts(),
                weekly,
                organisation.exceptions().stream()
                        .sorted(Comparator.comparing(Organisation.WorkingException::day))
                        .map(e -> new Single(e.day(), e.label(), stretches(hours(e))))
                        .toList(),
                windows(organisation),
                organisation.version());
    }

    private List<String> windows(Organisation organisation) {
        return List.of(json.readValue(organisation.windows(), String[].class));
    }

    /** The date phrases that are offered first. */
    @Transactional(readOnly = true)
    public List<String> windows() {
        return windows(store.getById(Organisation.ONLY));
    }

    /** Phrases as they are printed, each once; what is no date phrase is refused with its sentence. */
    private static List<String> phrases(List<String> windows) {
        List<String> phrases = new ArrayList<>();
        for (String window : windows) {
            if (window.isBlank()) {
                continue;
            }
            String phrase = Printer.period(Reader.period(window.strip()));
            if (!phrases.contains(phrase)) {
                phrases.add(phrase);
            }
        }
        if (phrases.size() > MOST_WINDOWS) {
            throw Problem.unprocessable("too-many-windows", "At most " + MOST_WINDOWS + " windows are offered first.")
                    .at("windows");
        }
        return phrases;
    }

    private static List<Stretch> stretches(List<WorkingCalendar.Hours> hours) {
        return hours.stream().map(h -> new Stretch(h.from(), h.to())).toList();
    }

    /**
     * Sets the organisation up anew.
     *
     * @throws Problem when somebody else changed it meanwhile, or when the hours make no calendar
     */
    @Transactional
    public Settings change(Settings wanted) {
        Organisation organisation = store.getById(Organisation.ONLY);
        if (organisation.version() != wanted.version()) {
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "changed-meanwhile",
                            "Somebody changed the organisation's settings after you opened them. Nothing of yours was written.")
                    .with("current", settings(organisation));
        }
        if (!VisibleText.isVisible(wanted.name())) {
            throw Problem.unprocessable("no-name", "The organisation needs a name.")
                    .at("name");
        }
        checked(wanted);
        String zoneBefore = organisation.zone();
        String zoneNow = zone(wanted.zone()).getId();
        organisation.settle(
                wanted.name().strip(), zoneNow, wanted.weekStarts().getValue(), wanted.fiscalYearStartsMonth());
        Set<Organisation.WorkingHours> hours = new HashSet<>();
        wanted.weekly()
                .forEach(day -> day.hours()
                        .forEach(h ->
                                hours.add(new Organisation.WorkingHours((short) day.weekday(), h.from(), h.to()))));
        Set<Organisation.WorkingException> exceptions = new HashSet<>();
        wanted.exceptions()
                .forEach(e -> exceptions.add(new Organisation.WorkingException(
                        e.day(), e.label().strip(), json.writeValueAsString(e.hours()))));
        organisation.work(hours, exceptions);
        organisation.offer(json.writeValueAsString(phrases(wanted.windows())));
        if (!zoneBefore.equals(zoneNow)) {
            events.publishEvent(new ZoneChanged(zoneBefore, zoneNow));
        }
        store.flush();
        return settings(organisation);
    }

    private static ZoneId zone(String name) {
        try {
            return ZoneId.of(name);
        } catch (java.time.DateTimeException e) {
            throw Problem.unprocessable("bad-zone", "“" + name + "” is no time zone; write one such as Europe/London.")
                    .at("zone");
        }
    }

    private static void checked(Settings wanted) {
        if (wanted.fiscalYearStartsMonth() < 1 || wanted.fiscalYearStartsMonth() > 12) {
            throw Problem.unprocessable("bad-month", "The fiscal year starts in a month from 1 to 12.")
                    .at("fiscalYearStartsMonth");
        }
        try {
            Map<DayOfWeek, List<WorkingCalendar.Hours>> weekly = new EnumMap<>(DayOfWeek.class);
            for (Weekly day : wanted.weekly()) {
                if (weekly.put(DayOfWeek.of(day.weekday()), working(day.hours())) != null) {
                    throw new IllegalArgumentException("a day of the week is named twice");
                }
            }
            Map<LocalDate, List<WorkingCalendar.Hours>> single = new HashMap<>();
            for (Single exception : wanted.exceptions()) {
                if (single.put(exception.day(), working(exception.hours())) != null) {
                    throw new IllegalArgumentException(exception.day() + " is named twice");
                }
            }
            new WorkingCalendar(weekly, single);
        } catch (IllegalArgumentException | java.time.DateTimeException e) {
            throw Problem.unprocessable("bad-hours", "These working hours make no calendar: " + e.getMessage() + ".");
        }
    }

    private static List<WorkingCalendar.Hours> working(List<Stretch> stretches) {
        List<WorkingCalendar.Hours> hours = stretches.stream()
                .map(s -> new WorkingCalendar.Hours(s.from(), s.to()))
                .sorted(Comparator.comparing(WorkingCalendar.Hours::from))
                .toList();
        for (int i = 1; i < hours.size(); i++) {
            LocalTime before = hours.get(i - 1).to();
            if (before.equals(LocalTime.MIDNIGHT) || hours.get(i).from().isBefore(before)) {
                throw new IllegalArgumentException("two stretches of one day overlap");
            }
        }
        return hours;
    }

    /** Sets the organisation's name and calendar. */
    @Transactional
    public void settle(String name, ZoneId zone, DayOfWeek weekStarts, Month fiscalYearStarts) {
        store.getById(Organisation.ONLY).settle(name, zone.getId(), weekStarts.getValue(), fiscalYearStarts.getValue());
    }
}
