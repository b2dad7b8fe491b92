package deftlens.demo;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.Field;
import deftlens.server.registers.FieldOrigin;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The demo world hangs together, whatever day it is built around. */
class WorldTest {

    private static final ZoneId ZONE = ZoneId.of("Europe/London");
    private static final LocalDate TODAY = LocalDate.of(2026, 11, 23);

    private static List<DemoRegister> world(LocalDate today) {
        return List.of(
                new Defects(today, ZONE),
                new Stays(today, ZONE),
                Dues.usual(today, ZONE, new Stays(today, ZONE).all()),
                new Permits(today, ZONE),
                new Moves(today, ZONE, Moves.COUNT, 1_095, new Defects(today, ZONE).all()),
                new Closures(today, ZONE));
    }

    /** The records of a register by the keys of its fields. */
    private static List<Map<String, Object>> records(DemoRegister register) {
        List<String> keys = register.register().fields().stream()
                .filter(f -> f.origin() == FieldOrigin.COLUMN)
                .map(FieldDefinition::key)
                .toList();
        List<Map<String, Object>> records = new ArrayList<>();
        register.each(values -> {
            if (values.length != keys.size()) {
                throw new AssertionError(
                        "a record of " + register.register().label() + " has another number of values");
            }
            Map<String, Object> record = new HashMap<>();
            for (int i = 0; i < keys.size(); i++) {
                record.put(keys.get(i), values[i]);
            }
            records.add(record);
        });
        return records;
    }

    private static Set<Object> values(List<Map<String, Object>> records, String field) {
        return records.stream().map(r -> r.get(field)).collect(Collectors.toSet());
    }

    @Test
    void thereAreAboutAHundredAndFiftyThousandRecords() {
        int total = world(TODAY).stream().mapToInt(r -> records(r).size()).sum();
        assertThat(total).isBetween(145_000, 160_000);
    }

    @ParameterizedTest
    @ValueSource(strings = {"2026-11-23", "2028-02-29"})
    void theSameDayGivesTheSameWorldAndChoicesAreDeclared(String day) {
        LocalDate today = LocalDate.parse(day);
        List<DemoRegister> one = world(today);
        List<DemoRegister> two = world(today);
        for (int i = 0; i < one.size(); i++) {
            List<Map<String, Object>> records = records(one.get(i));
            assertThat(records.equals(records(two.get(i)))).isTrue();
            for (FieldDefinition field : one.get(i).register().fields()) {
                Set<Object> values = values(records, field.key());
                if (field.required() && field.origin() == FieldOrigin.COLUMN) {
                    assertThat(values).as(field.label()).doesNotContainNull();
                }
                if (!field.options().isEmpty() && field.type() == deftlens.core.field.FieldType.CHOICE) {
                    values.remove(null);
                    assertThat(new HashSet<Object>(field.options()))
                            .as(field.label())
                            .containsAll(values);
                }
            }
        }
    }

    @Test
    void transactionsBalanceAndBillsAreThoseOfStays() {
        List<Map<String, Object>> dues = records(world(TODAY).get(2));
        Map<Object, BigDecimal> sums = new HashMap<>();
        dues.forEach(e -> sums.merge(e.get("transaction"), (BigDecimal) e.get("amount"), BigDecimal::add));
        assertThat(sums.values()).allMatch(s -> s.signum() == 0);
        Map<Object, Map<String, Object>> stays = new HashMap<>();
        records(new Stays(TODAY, ZONE)).forEach(s -> stays.put(s.get("number"), s));
        for (Map<String, Object> entry : dues) {
            if (entry.get("source").equals("Stay")) {
                Map<String, Object> stay = stays.get(entry.get("reference"));
                assertThat(stay.get("site")).isEqualTo(entry.get("site"));
                assertThat((Instant) entry.get("posted_at")).isAfter((Instant) stay.get("leaves"));
            }
        }
        assertThat(values(dues, "reference")).hasSizeGreaterThan(10_000);
    }

    @Test
    void whatIsOnHandAddsUpAndIssuesNameDefectsAndReturnsComeBack() {
        List<Map<String, Object>> moves = records(world(TODAY).get(4));
        Set<Object> defects = values(records(new Defects(TODAY, ZONE)), "number");
        Map<Object, Long> onHand = new HashMap<>();
        Instant before = Instant.MIN;
        Set<Instant> back = new HashSet<>();
        for (Map<String, Object> move : moves) {
            long change = ((Number) move.get("change")).longValue();
            long now = onHand.merge(move.get("item"), change, Long::sum);
            assertThat(((Number) move.get("on_hand_after")).longValue())
                    .isEqualTo(now)
                    .isNotNegative();
            assertThat((Instant) move.get("moved_at")).isAfterOrEqualTo(before);
            before = (Instant) move.get("moved_at");
            if (move.get("for_order") != null) {
                assertThat(defects).contains(move.get("for_order"));
            }
            if (move.get("returned_at") != null) {
                assertThat(move.get("kind")).isEqualTo("Issued");
                back.add((Instant) move.get("returned_at"));
            }
        }
        Set<Object> returned = moves.stream()
                .filter(m -> m.get("kind").equals("Returned"))
                .map(m -> m.get("moved_at"))
                .collect(Collectors.toSet());
        assertThat(returned).containsAll(back);
        assertThat(values(moves, "kind")).hasSize(6);
    }

    @Test
    void theHardCasesAreThere() {
        List<Map<String, Object>> moves = records(world(TODAY).get(4));
        assertThat(moves).anyMatch(m -> ((Number) m.get("quantity")).longValue() == 0);
        assertThat(moves.stream()
                        .map(m -> ((Instant) m.get("moved_at"))
                                .atZone(ZONE)
                                .toLocalTime()
                                .toString()))
                .contains("00:00", "23:59:59.999999");
        List<Map<String, Object>> permits = records(new Permits(TODAY, ZONE));
        assertThat(values(permits, "applicant"))
                .contains("O'Brine Rigging", "Quay Market \"Friday\"", "The  Two Spaces");
        assertThat(values(permits, "status")).hasSize(5);
        List<Map<String, Object>> closures = records(new Closures(TODAY, ZONE));
        assertThat(closures).anyMatch(c -> c.get("closed_until") == null);
    }

    @Test
    void everyRelationNamesAFieldThatIsThere() {
        Map<String, Set<String>> fields = new HashMap<>();
        world(TODAY)
                .forEach(r -> fields.put(
                        r.register().key(),
                        r.register().fields().stream().map(FieldDefinition::key).collect(Collectors.toSet())));
        for (DemoRegister register : world(TODAY)) {
            for (FieldDefinition field : register.register().fields()) {
                field.about()
                        .relates()
                        .forEach(r -> assertThat(fields.get(r.register())).contains(r.field()));
                field.ends()
                        .map(Field.Ends::start)
                        .ifPresent(
                                s -> assertThat(fields.get(register.register().key()))
                                        .contains(s));
            }
        }
        OnTheWater.members()
                .forEach(m ->
                        assertThat(fields.get(m.key())).containsAll(m.mapping().values()));
    }
}
