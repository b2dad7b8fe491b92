package deftlens.demo;

import static deftlens.demo.Fields.choice;
import static deftlens.demo.Fields.field;

import deftlens.core.field.Band;
import deftlens.core.field.FieldType;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.SplittableRandom;
import java.util.function.Consumer;

/** The permits of the demo world: {@value #COUNT} submissions of four forms, the latest not all decided yet. */
final class Permits implements DemoRegister {

    static final int COUNT = 9_000;

    private static final long SEED = 40_417;
    private static final int DAYS = 1_095;
    private static final List<String> FORMS = List.of("Hot work", "Diving", "Crane hire", "Event on the quay");
    private static final List<String> STATUSES = List.of("Submitted", "Asked back", "Granted", "Refused", "Withdrawn");
    private static final List<String> TAGS = List.of("Night", "Regatta", "Repeat", "Fire watch", "Lock closed");
    private static final List<String> APPLICANTS = List.of(
            "Harrow & Finn",
            "Ostrey Shipping",
            "Vane Brothers",
            "Lowtide Agency",
            "Marek Sound",
            "Sound Rowing Club",
            "Bask Welding",
            "D'Arden Divers",
            "Åsen Kranlift",
            "Quay Market \"Friday\"",
            "Trench & Sons",
            "Ελληνική Ναυτική",
            "Müller Bootsbau",
            "The  Two Spaces",
            "O'Brine Rigging");

    private final LocalDate today;
    private final ZoneId zone;
    private final SplittableRandom random = new SplittableRandom(SEED);

    /** Permits asked for up to a day in a zone. */
    Permits(LocalDate today, ZoneId zone) {
        this.today = today;
        this.zone = zone;
    }

    @Override
    public RegisterDefinition register() {
        return new RegisterDefinition(
                        "permits",
                        "Permits",
                        "permit",
                        "submitted_at",
                        "number",
                        true,
                        List.of(
                                field("number", "Number", FieldType.TEXT, true, true)
                                        .identifying(),
                                choice("form", "Form", true, true, FORMS).useful(),
                                field("applicant", "Applicant", FieldType.TEXT, true, true)
                                        .useful(),
                                choice("site", "Site", true, true, Staff.SITES)
                                        .useful()
                                        .correctable(),
                                field("submitted_at", "Submitted at", FieldType.MOMENT, true, true),
                                choice("status", "Status", true, true, STATUSES)
                                        .useful()
                                        .correctable(),
                                field("decided_on", "Decided on", FieldType.DATE, false, true)
                                        .correctable(),
                                field("decided_by", "Decided by", FieldType.PERSON, false, false),
                                field("fire_watch", "Fire watch", FieldType.YES_NO, false, false)
                                        .described("Answer: will somebody keep a fire watch? Asked for hot work only."),
                                field("after_dark", "After dark", FieldType.YES_NO, true, false)
                                        .described("Answer: will the work go on after dark?"),
                                field("people", "People", FieldType.NUMBER, true, false)
                                        .described("Answer: how many people take part."),
                                field("vessel_length", "Vessel length", FieldType.NUMBER, false, false)
                                        .in("m")
                                        .withBands(List.of(
                                                Band.of("Boat", Band.Numbers.from(0, 12)),
                                                Band.of(
                                                        "Vessel",
                                                        new Band.Numbers(
                                                                Optional.of(BigDecimal.valueOf(12)),
                                                                true,
                                                                Optional.empty(),
                                                                false)))),
                                field("starts_on", "Starts on", FieldType.DATE, true, true)
                                        .correctable(),
                                new FieldDefinition("tags", "Tags", FieldType.TAGS, true, false, TAGS).correctable(),
                                FieldDefinition.seen(true),
                                field("note", "Note", FieldType.TEXT, false, false)
                                        .correctable()))
                .described("What people ask to be allowed to do on the quays, with their answers.");
    }

    @Override
    public void each(Consumer<Object[]> row) {
        for (int i = 0; i < COUNT; i++) {
            LocalDate day = today.minusDays(DAYS).plusDays((long) ((i + random.nextDouble()) / COUNT * (DAYS + 1)));
            int minute =
                    i % 29 == 0 ? 0 : day.equals(today) ? random.nextInt(9 * 60) : 6 * 60 + random.nextInt(16 * 60);
            Instant submitted = day.atTime(LocalTime.ofSecondOfDay(minute * 60L))
                    .atZone(zone)
                    .toInstant();
            String form = FORMS.get(random.nextInt(FORMS.size()));
            long age = today.toEpochDay() - day.toEpochDay();
            boolean decided = random.nextInt(20) < (age < 3 ? 3 : age < 10 ? 14 : 20);
            String status = decided
                    ? STATUSES.get(random.nextInt(10) < 7 ? 2 : 3 + random.nextInt(2))
                    : STATUSES.get(random.nextInt(4) == 0 ? 1 : 0);
            boolean hot = form.equals("Hot work");
            row.accept(new Object[] {
                "P-" + (70_001 + i),
                form,
                APPLICANTS.get(random.nextInt(APPLICANTS.size())),
                Staff.SITES.get(random.nextInt(Staff.SITES.size())),
                submitted,
                status,
                decided ? day.plusDays(random.nextInt((int) Math.min(9, age + 1))) : null,
                decided ? Staff.offered().get(2 + random.nextInt(2)).name() : null,
                hot ? random.nextInt(4) > 0 : null,
                random.nextInt(5) == 0,
                random.nextInt(30) == 0 ? 0 : 1 + random.nextInt(12),
                random.nextInt(3) == 0 ? null : BigDecimal.valueOf(40 + random.nextInt(400), 1),
                day.plusDays(3 + random.nextInt(40)),
                DemoLoader.array(random.nextInt(3) == 0 ? List.of(TAGS.get(random.nextInt(TAGS.size()))) : List.of()),
                random.nextInt(6) == 0
                        ? "Phoned " + (1 + random.nextInt(3)) + " times; reference 00" + (417 + i % 80)
                        : null
            });
        }
    }
}
