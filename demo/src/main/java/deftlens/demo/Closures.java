package deftlens.demo;

import static deftlens.demo.Fields.choice;
import static deftlens.demo.Fields.field;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.SplittableRandom;
import java.util.function.Consumer;

/** The closures of the demo world: {@value #COUNT} spans in which a berth, a lock or a channel was or will be shut. */
final class Closures implements DemoRegister {

    static final int COUNT = 1_000;

    private static final long SEED = 30_417;
    private static final int DAYS_BACK = 1_095;
    private static final int DAYS_AHEAD = 90;
    private static final List<String> PLACES = List.of(
            "Sea lock",
            "Inner lock",
            "North channel",
            "Fuel berth",
            "Visitor pontoon",
            "Fish quay",
            "Swing bridge",
            "Slipway 2",
            "Crane berth",
            "East steps");
    private static final List<String> REASONS =
            List.of("Dredging", "Repairs", "Regatta", "High water", "Ice", "Diving", "Filming", "Survey");

    private final LocalDate today;
    private final ZoneId zone;
    private final SplittableRandom random = new SplittableRandom(SEED);

    /** Closures around a day in a zone. */
    Closures(LocalDate today, ZoneId zone) {
        this.today = today;
        this.zone = zone;
    }

    @Override
    public RegisterDefinition register() {
        return new RegisterDefinition(
                        "closures",
                        "Closures",
                        "closure",
                        "closed_from",
                        "place",
                        true,
                        List.of(
                                field("number", "Number", FieldType.TEXT, true, true)
                                        .identifying(),
                                field("place", "Place", FieldType.TEXT, true, true)
                                        .useful(),
                                choice("site", "Site", true, true, Staff.SITES).useful(),
                                field("closed_from", "Closed from", FieldType.MOMENT, true, true)
                                        .correctable(),
                                field("closed_until", "Closed until", FieldType.MOMENT, false, true)
                                        .described(
                                                "The first moment at which the place is open again; empty while nobody knows.")
                                        .correctable(),
                                choice("reason", "Reason", true, true, REASONS).useful(),
                                field("notice", "Notice", FieldType.TEXT, false, false)
                                        .described("The number of the notice to mariners."),
                                FieldDefinition.span(
                                        "closed", "Closed", new Field.Ends("closed_from", "closed_until", false))))
                .described("Berths, locks and channels that were or will be shut.");
    }

    @Override
    public void each(Consumer<Object[]> row) {
        for (int i = 0; i < COUNT; i++) {
            LocalDate day = today.minusDays(DAYS_BACK)
                    .plusDays((long) ((i + random.nextDouble()) / COUNT * (DAYS_BACK + DAYS_AHEAD)));
            // Every thirteenth begins at midnight; some last until one.
            LocalTime time =
                    i % 13 == 0 ? LocalTime.MIDNIGHT : LocalTime.of(5 + random.nextInt(10), 30 * random.nextInt(2));
            Instant from = day.atTime(time).atZone(zone).toInstant();
            Instant until = i % 10 == 0
                    ? day.plusDays(1 + random.nextInt(9)).atStartOfDay(zone).toInstant()
                    : from.plus(60L * (2 + random.nextInt(random.nextInt(6) == 0 ? 400 : 20)), ChronoUnit.MINUTES);
            boolean open = day.isAfter(today.minusDays(60)) && random.nextInt(12) == 0;
            row.accept(new Object[] {
                "C-" + (3_001 + i),
                PLACES.get(random.nextInt(PLACES.size())),
                Staff.SITES.get(random.nextInt(Staff.SITES.size())),
                from,
                open ? null : until,
                REASONS.get(random.nextInt(REASONS.size())),
                random.nextInt(5) == 0 ? null : day.getYear() + "/" + (1 + i % 90)
            });
        }
    }
}
