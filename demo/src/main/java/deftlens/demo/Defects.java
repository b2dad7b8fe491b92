package deftlens.demo;

import static deftlens.demo.Fields.calculated;
import static deftlens.demo.Fields.choice;
import static deftlens.demo.Fields.field;
import static deftlens.demo.Fields.tags;

import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.time.temporal.TemporalAdjusters;
import java.time.zone.ZoneOffsetTransition;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.TreeSet;
import java.util.function.Consumer;

/**
 * The defects of the demo world: {@value #COUNT} tickets reported over the three years up to a day, most of them long
 * done, with the hard cases of dates and texts planted among the latest.
 */
final class Defects implements DemoRegister {

    static final int COUNT = 24_000;

    private static final long SEED = 10_417;
    private static final int DAYS = 1_095;
    private static final int FIRST_NUMBER = 10_001;
    private static final List<String> STATUSES =
            List.of("New", "Triaged", "In hand", "Waiting for parts", "Done", "Dropped");
    private static final List<String> TAGS =
            List.of("Safety", "Winter", "Insurance", "Repeat", "Contractor", "Public", "Tidal", "Noise");
    private static final int[] DAYS_TO_MEND = {90, 60, 30, 14, 5};

    private static final List<String> THINGS = List.of(
            "Fender rail",
            "Shore power post",
            "Mooring ring",
            "Bilge pump-out hose",
            "Navigation light",
            "Slipway winch",
            "Gangway hinge",
            "Water meter",
            "Crane limit switch",
            "Lifebuoy housing",
            "Fuel berth boom",
            "Ladder",
            "Pontoon float",
            "Bollard",
            "Tide gauge",
            "Gate lock",
            "Cable tray",
            "Deck board",
            "Drain cover",
            "Radar post",
            "Fire hydrant",
            "Hoist sling",
            "Signal mast",
            "Chain locker",
            "Handrail",
            "Sluice gate",
            "Warning sign",
            "Harbour lamp",
            "Fish-hall door",
            "Weighbridge");
    private static final List<String> TROUBLES = List.of(
            "loose",
            "trips under load",
            "weathered",
            "split",
            "flickers",
            "slips",
            "worn",
            "reads backwards",
            "sticking",
            "cracked",
            "chafed",
            "rung missing",
            "leaking",
            "corroded",
            "blocked",
            "bent",
            "out of true",
            "rattles in swell",
            "will not close",
            "paint gone");
    private static final List<String> PLACES = List.of(
            "at ladder 7",
            "berth 12",
            "pier head",
            "pontoon C",
            "by the ice house",
            "east steps",
            "inner wall",
            "slip 2",
            "fuel berth",
            "under the crane",
            "outer knuckle",
            "gate 4",
            "north face",
            "visitor berths");
    private static final List<String> NOTES = List.of(
            "Seen on the morning round.",
            "Reported by a berth holder.",
            "Taped off.",
            "Part ordered.",
            "Second time this season.",
            "Needs low water.",
            "Photograph with the crew.",
            "Agreed with the harbour office.");
    private static final List<String> HARD_TITLES = List.of(
            "Sign reads \"No mooring\" twice",
            "Bryggegrind sitter fast – Åsa meldte",
            "Καλώδιο χαλαρό στην προβλήτα",
            "係船柱にひび",
            "Gate code 00417 not accepted",
            "Meter stuck at 100%",
            "Cable_tray 3_B open",
            "Ladder's foot moved, O'Brine berth",
            "  Double space  in name ",
            "Light out \\ relay 7",
            "=SUM(1,2) printed on label",
            "-5 °C: hydrant frozen",
            "@deck: lamp 4 dark",
            "Straße zum Kai blockiert");

    /** One record, in the order of the register's fields; {@code null} is empty. */
    record Defect(
            String number,
            String title,
            String site,
            String asset,
            int severity,
            String status,
            String team,
            String assignee,
            Instant reportedAt,
            LocalDate due,
            Instant closedAt,
            BigDecimal cost,
            BigDecimal workTime,
            boolean blocksBerth,
            List<String> tags,
            String note) {}

    private final LocalDate today;
    private final ZoneId zone;
    private final SplittableRandom random = new SplittableRandom(SEED);
    private final List<Staff.Member> crew =
            Staff.everybody().stream().filter(m -> m.site().isPresent()).toList();

    /** Defects up to a day in a zone. */
    Defects(LocalDate today, ZoneId zone) {
        this.today = today;
        this.zone = zone;
    }

    @Override
    public RegisterDefinition register() {
        return new RegisterDefinition(
                        "defects",
                        "Defects",
                        "defect",
                        "reported_at",
                        "title",
                        true,
                        List.of(
                                field("number", "Number", FieldType.TEXT, true, true)
                                        .identifying(),
                                field("title", "Title", FieldType.TEXT, true, true)
                                        .useful(),
                                choice("site", "Site", false, true, Staff.SITES)
                                        .useful()
                                        .correctable(),
                                field("asset", "Asset", FieldType.TEXT, false, false)
                                        .described("The tag on the thing that is broken, with its leading zeros."),
                                field("severity", "Severity", FieldType.NUMBER, true, true)
                                        .described("From 1, can wait, to 5, dangerous.")
                                        .useful(),
                                choice("status", "Status", true, true, STATUSES)
                                        .useful()
                                        .correctable(),
                                choice("team", "Team", false, false, Staff.TEAMS)
                                        .correctable(),
                                field("assignee", "Assignee", FieldType.PERSON, false, true)
                                        .useful()
                                        .correctable(),
                                field("reported_at", "Reported at", FieldType.MOMENT, true, true),
                                field("due", "Due", FieldType.DATE, false, true)
                                        .useful()
                                        .correctable(),
                                field("closed_at", "Closed at", FieldType.MOMENT, false, false),
                                field("cost", "Cost", FieldType.MONEY, false, false)
                                        .in("£")
                                        .correctable(),
                                field("work_time", "Work time", FieldType.DURATION, false, false)
                                        .described("How long it was worked on, all hands together.")
                                        .correctable(),
                                field("blocks_berth", "Blocks berth", FieldType.YES_NO, true, false),
                                tags(false, TAGS),
                                field("note", "Note", FieldType.TEXT, false, false)
                                        .correctable(),
                                calculated(
                                                "days_overdue",
                                                "Days overdue",
                                                FieldType.NUMBER,
                                                "when(status is not in (\"Done\", \"Dropped\"), greatest(0, days_between(due, today)))")
                                        .described("How long the due day is over; empty where nothing is left to do."),
                                calculated(
                                                "time_to_close",
                                                "Time to close",
                                                FieldType.DURATION,
                                                "closed_at - reported_at")
                                        .described("From the report to the end of the work.")))
                .described("What is broken on the quays, who mends it, and by when.");
    }

    /** All of them, in the order they were reported. */
    List<Defect> all() {
        List<Defect> all = new ArrayList<>();
        hand(all::add);
        return all;
    }

    @Override
    public void each(Consumer<Object[]> row) {
        hand(d -> row.accept(new Object[] {
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
            d.workTime(),
            d.blocksBerth(),
            DemoLoader.array(d.tags()),
            d.note()
        }));
    }

    private void hand(Consumer<Defect> to) {
        List<Instant> moments = new ArrayList<>();
        for (int i = 0; i < COUNT; i++) {
            moments.add(ordinaryMoment(i));
        }
        List<Instant> hard = hardMoments();
        for (int i = 0; i < hard.size(); i++) {
            // Spread over the last fifth, in place of ordinary ones.
            moments.set(COUNT - 1 - i * 7, hard.get(i));
        }
        moments.sort(null);
        for (int i = 0; i < COUNT; i++) {
            to.accept(defect(i, moments.get(i)));
        }
    }

    private Instant ordinaryMoment(int i) {
        // A little denser towards today; most in working hours.
        double share = Math.pow((i + random.nextDouble()) / COUNT, 0.85);
        LocalDate day = today.minusDays(DAYS).plusDays((long) (share * (DAYS + 1)));
        int minute = random.nextInt(10) == 0 ? random.nextInt(24 * 60) : 6 * 60 + random.nextInt(13 * 60);
        if (day.equals(today)) {
            minute = Math.min(minute, 9 * 60);
        }
        return day.atTime(LocalTime.ofSecondOfDay(minute * 60L + random.nextInt(60)))
                .atZone(zone)
                .toInstant();
    }

    /** Midnights, the microsecond before them, month and year ends, and both latest clock changes. */
    private List<Instant> hardMoments() {
        List<Instant> hard = new ArrayList<>();
        for (LocalDate day : List.of(
                today,
                today.minusDays(1),
                today.minusDays(6),
                today.minusDays(7),
                today.minusDays(30),
                today.with(TemporalAdjusters.firstDayOfMonth()),
                today.with(TemporalAdjusters.firstDayOfMonth()).minusMonths(1),
                today.with(TemporalAdjusters.firstDayOfYear()))) {
            Instant midnight = day.atStartOfDay(zone).toInstant();
            hard.add(midnight);
            hard.add(midnight.minus(1, ChronoUnit.MICROS));
            hard.add(midnight.plus(1, ChronoUnit.MICROS));
        }
        ZoneOffsetTransition latest =
                zone.getRules().previousTransition(today.atStartOfDay(zone).toInstant());
        for (int i = 0; i < 2 && latest != null; i++) {
            Instant change = latest.getInstant();
            hard.addAll(List.of(change.minusSeconds(1_800), change.minusSeconds(1), change, change.plusSeconds(1_800)));
            latest = zone.getRules().previousTransition(change);
        }
        return hard;
    }

    private Defect defect(int i, Instant reportedAt) {
        LocalDate reported = reportedAt.atZone(zone).toLocalDate();
        int severity = 1 + weighted(18, 30, 28, 16, 8);
        String site = random.nextInt(300) == 0 ? null : Staff.SITES.get(weighted(34, 22, 20, 14, 10));
        long age = ChronoUnit.DAYS.between(reported, today);
        String status = status(age, severity);
        boolean closed = status.equals("Done") || status.equals("Dropped");
        LocalDate due =
                random.nextInt(100) < 3 ? null : reported.plusDays(DAYS_TO_MEND[severity - 1] + random.nextInt(4) - 1L);
        Instant closedAt = closed ? closing(reportedAt, age) : null;
        boolean assigned = closed ? random.nextInt(20) > 0 : !status.equals("New") || random.nextInt(3) == 0;
        TreeSet<String> tags = new TreeSet<>();
        if (random.nextInt(100) < (severity >= 4 ? 25 : 8)) {
            tags.add("Safety");
        }
        for (int n = weighted(60, 30, 10); n > 0; n--) {
            tags.add(TAGS.get(1 + random.nextInt(TAGS.size() - 1)));
        }
        return new Defect(
                "D-" + (FIRST_NUMBER + i),
                title(i),
                site,
                random.nextInt(12) == 0 ? null : asset(),
                severity,
                status,
                site == null ? null : Staff.TEAMS.get(1 + random.nextInt(Staff.TEAMS.size() - 1)),
                assigned ? assignee(site) : null,
                reportedAt,
                due,
                closedAt,
                cost(closed),
                closed ? workTime(i) : null,
                random.nextInt(9) == 0,
                List.copyOf(tags),
                random.nextInt(3) == 0 ? NOTES.get(random.nextInt(NOTES.size())) : null);
    }

    private String status(long age, int severity) {
        double open = age < 7 ? 0.85 : age < 30 ? 0.45 : age < 90 ? 0.12 : age < 365 ? 0.012 : 0.002;
        if (random.nextDouble() < open * (severity >= 4 ? 0.8 : 1)) {
            return STATUSES.get(age < 3 ? weighted(60, 30, 10) : weighted(15, 25, 40, 20));
        }
        return random.nextInt(12) == 0 ? "Dropped" : "Done";
    }

    private Instant closing(Instant reportedAt, long age) {
        long most = Math.max(1, Math.min(age, 80)) * 24 * 60;
        Instant closed =
                reportedAt.plus(30 + random.nextLong(most), ChronoUnit.MINUTES).truncatedTo(ChronoUnit.SECONDS);
        Instant now = today.atTime(9, 0).atZone(zone).toInstant();
        return closed.isAfter(now) ? now : closed;
    }

    private String title(int i) {
        // The last day's stretch carries the hard texts, so that they are seen.
        int back = COUNT - 1 - i;
        if (back % 11 == 3 && back / 11 < HARD_TITLES.size()) {
            return HARD_TITLES.get(back / 11);
        }
        String title = pick(THINGS) + " " + pick(TROUBLES);
        return random.nextInt(3) == 0 ? title + ", " + pick(PLACES) : title;
    }

    private String asset() {
        return String.format("%05d", random.nextInt(900));
    }

    private BigDecimal cost(boolean closed) {
        return !closed || random.nextInt(10) == 0
                ? null
                : random.nextInt(8) == 0
                        ? BigDecimal.ZERO.setScale(2)
                        : BigDecimal.valueOf(500 + random.nextInt(120_000), 2);
    }

    /** In quarters of an hour, up to some days; now and then none was noted. */
    private static BigDecimal workTime(int i) {
        long drawn = (i * 2_654_435_761L >>> 8) % 97;
        return drawn < 9 ? null : BigDecimal.valueOf(900 * (drawn < 80 ? 1 + drawn % 20 : 24 + drawn * 3));
    }

    private String assignee(String site) {
        List<Staff.Member> near = crew.stream()
                .filter(m -> site == null || m.site().equals(Optional.of(site)))
                .toList();
        return near.get(random.nextInt(near.size())).name();
    }

    private String pick(List<String> from) {
        return from.get(random.nextInt(from.size()));
    }

    /** An index drawn by weight. */
    private int weighted(int... weights) {
        int sum = 0;
        for (int weight : weights) {
            sum += weight;
        }
        int drawn = random.nextInt(sum);
        int index = 0;
        while (drawn >= weights[index]) {
            drawn -= weights[index++];
        }
        return index;
    }
}
