package deftlens.core.match;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.Generate;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Parts;
import deftlens.core.condition.Viewer;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

class WhyTest {

    private static final Binder BINDER = new Binder(
            Generate.REGISTER,
            Reading.at(Instant.parse("2026-11-23T09:30:00Z"), ZoneId.of("Europe/London")),
            new Viewer(Map.of("me", List.of("asta.quill"), "site", List.of("North Quay"), "team", List.of())));

    @Test
    void everyPartSaysWhetherItLetsTheRecordIn() {
        Condition condition = new Reader(Generate.REGISTER, Generate.ATTRIBUTES)
                .read("severity >= 3 and off(status is \"Done\") and (site is my site or not due before today)");
        Object[] row = new Object[Generate.REGISTER.fields().size()];
        row[Generate.at("severity")] = new java.math.BigDecimal(2);
        row[Generate.at("site")] = "North Quay";
        row[Generate.at("due")] = java.time.LocalDate.of(2026, 11, 22);
        List<String> verdicts = new ArrayList<>();
        collect(Why.of(condition, BINDER, at -> row[at]), verdicts);
        assertThat(verdicts)
                .containsExactly(
                        " OUT",
                        "/all/0 OUT",
                        "/all/1 OFF",
                        "/all/1/off OFF",
                        "/all/2 IN",
                        "/all/2/any/0 IN",
                        "/all/2/any/1 OUT",
                        "/all/2/any/1/none/0 IN");
    }

    @Test
    void groupsFollowFromTheirParts() {
        Generate generate = new Generate(31);
        for (int i = 0; i < 4_000; i++) {
            Condition condition = generate.condition(4);
            Object[] row = generate.row(generate.zone());
            check(Why.of(condition, BINDER, at -> row[at]));
        }
    }

    @Test
    void switchingAPartOffIsTheSameAsReadingItAway() {
        Generate generate = new Generate(32);
        for (int i = 0; i < 2_000; i++) {
            Condition condition = generate.condition(4).normal();
            for (Parts.Part part : Parts.of(condition)) {
                assertThat(part.without().criteria()).isEqualTo(condition.criteria());
                if (part.path().isEmpty()) {
                    assertThat(part.part()).isEqualTo(condition);
                }
            }
        }
    }

    private static void check(Why.Outcome outcome) {
        outcome.parts().forEach(WhyTest::check);
        List<Why.Verdict> asked = outcome.parts().stream()
                .map(WhyTest::effective)
                .filter(v -> v != Why.Verdict.OFF)
                .toList();
        if (outcome.verdict() == Why.Verdict.OFF || asked.isEmpty()) {
            return;
        }
        boolean in = outcome.verdict() == Why.Verdict.IN;
        switch (outcome.part()) {
            case Condition.All p -> assertThat(in).isEqualTo(asked.stream().allMatch(v -> v == Why.Verdict.IN));
            case Condition.Any p -> assertThat(in).isEqualTo(asked.contains(Why.Verdict.IN));
            case Condition.None p -> assertThat(in).isEqualTo(!asked.contains(Why.Verdict.IN));
            default -> {
                // Criteria and switched-off parts follow from no parts.
            }
        }
    }

    /** A group in which nothing is asked leaves its own group as if it were not there. */
    private static Why.Verdict effective(Why.Outcome outcome) {
        boolean group = !(outcome.part() instanceof Condition.Criterion);
        boolean silent = group && outcome.parts().stream().allMatch(p -> effective(p) == Why.Verdict.OFF);
        return silent ? Why.Verdict.OFF : outcome.verdict();
    }

    private static void collect(Why.Outcome outcome, List<String> into) {
        into.add(outcome.path() + " " + outcome.verdict());
        outcome.parts().forEach(part -> collect(part, into));
    }
}
