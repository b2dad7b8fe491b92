package deftlens.server.testing;

import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.Role;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import java.sql.SQLException;
import java.time.DayOfWeek;
import java.time.Month;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import org.springframework.context.ApplicationContext;

/** A small world for the server's own tests: five people, two teams, and a register of 300 jobs made by plain SQL. */
final class TestWorld {

    private TestWorld() {}

    static void load(ApplicationContext context) {
        context.getBean(OrganisationService.class)
                .settle("Test House", ZoneId.of("Europe/London"), DayOfWeek.MONDAY, Month.APRIL);
        PeopleService people = context.getBean(PeopleService.class);
        var day = people.addTeam("Day shift");
        var night = people.addTeam("Night shift");
        people.addPerson("ada", "Ada Admin", "ada-password", Role.ADMINISTRATOR, Optional.empty(), List.of());
        people.addPerson("dora", "Dora Day", "dora-password", Role.MEMBER, Optional.of("North"), List.of(day));
        people.addPerson("dan", "Dan Day", "dan-password", Role.MEMBER, Optional.of("South"), List.of(day));
        people.addPerson("nina", "Nina Night", "nina-password", Role.MEMBER, Optional.of("South"), List.of(night));
        people.addPerson("audrey", "Audrey Audit", "audrey-password", Role.AUDITOR, Optional.empty(), List.of());
        context.getBean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "jobs",
                        "Jobs",
                        "job",
                        "made_at",
                        "title",
                        true,
                        List.of(
                                field("number", "Number", FieldType.TEXT, true, List.of()),
                                field("title", "Title", FieldType.TEXT, true, List.of()),
                                field("site", "Site", FieldType.CHOICE, false, List.of("North", "South")),
                                field("level", "Level", FieldType.NUMBER, true, List.of()),
                                field("state", "State", FieldType.CHOICE, true, List.of("Open", "Done")),
                                field("owner", "Owner", FieldType.PERSON, false, List.of()),
                                field("made_at", "Made at", FieldType.MOMENT, true, List.of()),
                                field("due", "Due", FieldType.DATE, false, List.of()),
                                field("cost", "Cost", FieldType.MONEY, false, List.of()),
                                field("tags", "Tags", FieldType.TAGS, true, List.of("Safety", "Winter")))));
        context.getBean(RegisterCatalogue.class)
                .add(new RegisterDefinition(
                        "stays",
                        "Stays",
                        "stay",
                        "arrives",
                        "number",
                        true,
                        List.of(
                                field("number", "Number", FieldType.TEXT, true, List.of()),
                                field("arrives", "Arrives", FieldType.MOMENT, true, List.of()),
                                field("leaves", "Leaves", FieldType.MOMENT, false, List.of()),
                                field("from_day", "From day", FieldType.DATE, true, List.of()),
                                field("until_day", "Until day", FieldType.DATE, false, List.of()),
                                field("gate", "Gate", FieldType.TIME, false, List.of()),
                                field("length", "Length", FieldType.NUMBER, true, List.of())
                                        .withBands(List.of(
                                                new Band(
                                                        "Small craft",
                                                        List.of(),
                                                        List.of(
                                                                Band.of("Tender", Band.Numbers.from(0, 5)),
                                                                Band.of("Yacht", Band.Numbers.from(5, 15)))),
                                                Band.of("Ship", Band.Numbers.from(15, 1_000)))),
                                field("allowed", "Allowed", FieldType.NUMBER, false, List.of()),
                                FieldDefinition.span("stay", "Stay", new Field.Ends("arrives", "leaves", false)),
                                FieldDefinition.span(
                                        "booked", "Booked", new Field.Ends("from_day", "until_day", true)))));
        try {
            TestServer.sql("""
                    insert into records.stays
                        (number, arrives, leaves, from_day, until_day, gate, length, allowed)
                    select 'S-' || i,
                           timestamptz '2026-11-01 06:00 Europe/London' + interval '5 hours' * i,
                           case when i % 9 = 0 then null
                                else timestamptz '2026-11-01 06:00 Europe/London' + interval '5 hours' * i
                                     + interval '7 hours' * (i % 12) end,
                           date '2026-11-01' + i / 5,
                           case when i % 9 = 0 then null else date '2026-11-01' + i / 5 + i % 4 end,
                           case when i % 8 = 0 then null else time '00:00' + interval '37 minutes' * i end,
                           i % 20,
                           case when i % 6 = 0 then null else (i * 7) % 20 end
                    from generate_series(0, 199) i""");
            TestServer.sql("""
                    insert into records.jobs (number, title, site, level, state, owner, made_at, due, cost, tags)
                    select 'J-' || lpad(i::text, 3, '0'),
                           (array['Pump', 'Lamp, "old"', '=SUM(A1)', 'Ångström gate'])[1 + i % 4] || ' ' || i,
                           (array['North', 'South', null])[1 + i % 3],
                           1 + i % 5,
                           (array['Open', 'Done'])[1 + (i / 3) % 2],
                           (array['dora', 'dan', null, 'nina'])[1 + i % 4],
                           timestamptz '2026-11-23 00:00 Europe/London' - interval '1 hour' * i,
                           case when i % 10 = 0 then null else date '2026-11-23' + (i % 41) - 20 end,
                           case when i % 7 = 0 then null else (i * 1.25)::numeric(14, 2) - 50 end,
                           case i % 6 when 0 then '{Safety}' when 1 then '{Safety,Winter}' else '{}' end::text[]
                    from generate_series(0, 299) i""");
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    private static FieldDefinition field(
            String key, String label, FieldType type, boolean required, List<String> options) {
        return new FieldDefinition(key, label, type, required, true, options);
    }
}
