package deftlens.demo;

import static deftlens.demo.Fields.field;

import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.function.Consumer;

/**
 * The berth stays of the demo world: {@value #COUNT} spans over three years, some of them booked for the weeks ahead,
 * some still running, with stays that begin or end at midnight, that have no length, and that run across everything.
 */
final class Stays implements DemoRegister {

    static final int COUNT = 12_000;

    private static final long SEED = 20_417;
    private static final int DAYS_BACK = 1_095;
    private static final int DAYS_AHEAD = 45;
    private static final int FIRST_NUMBER = 40_001;
    private static final List<String> FIRST = List.of(
            "Grey",
            "Silver",
            "Northern",
            "Little",
            "Morning",
            "Salt",
            "Amber",
            "Quiet",
            "Bold",
            "Winter",
            "Marram",
            "Gannet");
    private static final List<String> SECOND = List.of(
            "Tern",
            "Skipper",
            "Lantern",
            "Petrel",
            "Star",
            "Wake",
            "Kestrel",
            "Sandpiper",
            "Swell",
            "Teal",
            "Anchor",
            "Merle");
    private static final List<String> AGENTS =
            List.of("Harrow & Finn", "Ostrey Shipping", "Vane Brothers", "Lowtide Agency", "Marek Sound");

    /** One stay, in the order of the register's stored fields; {@code null} is empty. */
    record Stay(
            String number,
            String vessel,
            String berth,
            String site,
            Instant arrives,
            Instant leaves,
            BigDecimal length,
            BigDecimal draught,
            BigDecimal berthDepth,
            LocalTime lockAt,
            String agent,
            String status) {}

    private final LocalDate today;
    private final ZoneId zone;
    private final SplittableRandom random = new SplittableRandom(SEED);

    /** Stays around a day in a zone. */
    Stays(LocalDate today, ZoneId zone) {
        this.today = today;
        this.zone = zone;
    }

    @Override
    public RegisterDefinition register() {
        return new RegisterDefinition(
                        "stays",
                        "Berth stays",
                        "berth stay",
                        "arrives",
                        "vessel",
                        true,
                        List.of(
                                field("number", "Number", FieldType.TEXT, true, true)
                                        .identifying()
                                        .alsoIn("dues", "reference"),
                                field("vessel", "Vessel", FieldType.TEXT, true, true)
                                        .useful(),
                                field("berth", "Berth", FieldType.TEXT, true, true),
                                new FieldDefinition("site", "Site", FieldType.CHOICE, true, true, Staff.SITES).useful(),
                                field("arrives", "Arrives", FieldType.MOMENT, true, true),
                                field("leaves", "Leaves", FieldType.MOMENT, false, true)
                                        .described("Empty while the vessel is still here without a day to leave.")
                                        .correctable(),
                                field("length", "Length", FieldType.NUMBER, true, true)
                                        .in("m")
                                        .withBands(List.of(
                                                new Band(
                                                        "Small craft",
                                                        List.of(),
                                                        List.of(
                                                                Band.of("Tender", Band.Numbers.from(0, 6)),
                                                                Band.of("Yacht", Band.Numbers.from(6, 18)))),
                                                Band.of("Coaster", Band.Numbers.from(18, 60)),
                                                Band.of(
                                                        "Ship",
                                                        new Band.Numbers(
                                                                Optional.of(BigDecimal.valueOf(60)),
                                                                true,
                                                                Optional.empty(),
                                                                false)))),
                                field("draught", "Draught", FieldType.NUMBER, true, false)
                                        .in("m"),
                                field("berth_depth", "Berth depth", FieldType.NUMBER, false, false)
                                        .in("m"),
                                field("lock_at", "Lock at", FieldType.TIME, false, false)
                                        .withBands(List.of(
                                                Band.of(
                                                        "Night lock",
                                                        new Band.Times(LocalTime.of(22, 0), LocalTime.of(6, 0))),
                                                Band.of(
                                                        "Day lock",
                                                        new Band.Times(LocalTime.of(6, 0), LocalTime.of(22, 0))))),
                                new FieldDefinition("agent", "Agent", FieldType.CHOICE, false, false, AGENTS),
                                new FieldDefinition(
                                        "status",
                                        "Status",
                                        FieldType.CHOICE,
                                        true,
                                        true,
                                        List.of("Booked", "Here", "Gone")),
                                FieldDefinition.span("stay", "Stay", new Field.Ends("arrives", "leaves", false))))
                .described("Which vessel lies where, from when until when.");
    }

    /** All of them, in the order of their arrival. */
    List<Stay> all() {
        List<Stay> all = new ArrayList<>();
        hand(all::add);
        return all;
    }

    @Override
    public void each(Consumer<Object[]> row) {
        hand(s -> row.accept(new Object[] {
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
    }

    private void hand(Consumer<Stay> to) {
        List<Instant> arrivals = new ArrayList<>();
        for (int i = 0; i < COUNT; i++) {
            LocalDate day = today.minusDays(DAYS_BACK).plusDays(random.nextInt(DAYS_BACK + DAYS_AHEAD));
            int minute = random.nextInt(40) == 0 ? 0 : 5 * random.nextInt(24 * 12);
            arrivals.add(day.atStartOfDay().plusMinutes(minute).atZone(zone).toInstant());
        }
        arrivals.sort(null);
        Instant now = today.atTime(9, 30).atZone(zone).toInstant();
        for (int i = 0; i < COUNT; i++) {
            to.accept(stay(i, arrivals.get(i), now));
        }
    }

    private Stay stay(int i, Instant arrives, Instant now) {
        BigDecimal length = length();
        Instant leaves = leaving(i, arrives);
        boolean over = leaves.isBefore(now);
        boolean here = !over && !arrives.isAfter(now);
        // Those that are here have mostly not said when they leave; a few that were forgotten run on for ever.
        boolean open = here && random.nextInt(3) > 0 || over && random.nextInt(800) == 0;
        double draught = Math.round((0.8 + length.doubleValue() / 14 + random.nextDouble()) * 10) / 10.0;
        boolean locked = random.nextInt(3) > 0;
        return new Stay(
                "S-" + (FIRST_NUMBER + i),
                FIRST.get(random.nextInt(FIRST.size())) + " " + SECOND.get(random.nextInt(SECOND.size())),
                "B" + (1 + random.nextInt(48)),
                Staff.SITES.get(random.nextInt(Staff.SITES.size())),
                arrives,
                open ? null : leaves,
                length,
                BigDecimal.valueOf(draught),
                random.nextInt(25) == 0 ? null : BigDecimal.valueOf(20 + random.nextInt(70), 1),
                locked ? LocalTime.of(random.nextInt(24), 5 * random.nextInt(12)) : null,
                random.nextInt(4) == 0 ? null : AGENTS.get(random.nextInt(AGENTS.size())),
                open || here ? "Here" : over ? "Gone" : "Booked");
    }

    private BigDecimal length() {
        int kind = random.nextInt(20);
        double metres = kind < 3
                ? 3 + random.nextDouble() * 3
                : kind < 13
                        ? 6 + random.nextDouble() * 12
                        : kind < 18 ? 18 + random.nextDouble() * 42 : 60 + random.nextDouble() * 80;
        return random.nextInt(60) == 0
                ? BigDecimal.valueOf(List.of(6, 18, 60).get(random.nextInt(3)))
                : BigDecimal.valueOf(Math.round(metres * 10), 1);
    }

    private Instant leaving(int i, Instant arrives) {
        if (i % 211 == 0) {
            return arrives;
        }
        if (i % 97 == 0) {
            // Leaves at a midnight, the first instant outside.
            return arrives.atZone(zone)
                    .toLocalDate()
                    .plusDays(1 + random.nextInt(5))
                    .atStartOfDay(zone)
                    .toInstant();
        }
        long hours = random.nextInt(12) == 0 ? 24 * (20 + random.nextInt(150)) : 6 + random.nextInt(24 * 6);
        return arrives.plus(hours * 60 + 5 * random.nextInt(12), ChronoUnit.MINUTES);
    }
}
