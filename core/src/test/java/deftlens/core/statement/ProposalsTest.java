package deftlens.core.statement;

import static org.assertj.core.api.Assertions.assertThat;

import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import deftlens.core.time.Reading;
import deftlens.core.time.WorkingCalendar;
import java.math.BigDecimal;
import java.time.DayOfWeek;
import java.time.Instant;
import java.time.Month;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.SplittableRandom;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ProposalsTest {

    private static final Reading READING = new Reading(
            Instant.parse("2026-11-23T14:30:00Z"),
            ZoneId.of("Europe/London"),
            DayOfWeek.MONDAY,
            Month.APRIL,
            WorkingCalendar.standard());
    private static final Field TITLE = Field.of("title", "Title", FieldType.TEXT);
    private static final Field REPORTED = Field.of("reported_at", "Reported at", FieldType.MOMENT);
    private static final Register DEFECTS = new Register(
            "defects",
            "Defects",
            "defects",
            "id",
            List.of(
                    Field.of("number", "Number", FieldType.TEXT).always(),
                    TITLE,
                    Field.of("site", "Site", FieldType.CHOICE)
                            .withOptions(options("North Quay", "Lantern Pier", "Outer Roads")),
                    Field.of("status", "Status", FieldType.CHOICE)
                            .withOptions(options("Open", "Waiting for parts", "Done")),
                    Field.of("severity", "Severity", FieldType.NUMBER)
                            .withBands(List.of(new Band(
                                    "Grave",
                                    List.of(new Band.Numbers(
                                            Optional.of(BigDecimal.valueOf(4)), true, Optional.empty(), false)),
                                    List.of()))),
                    Field.of("assignee", "Assignee", FieldType.PERSON)
                            .withOptions(List.of(
                                    new Option("asta.quill", "Asta Quill"), new Option("bram.oake", "Bram Oake"))),
                    Field.of("tags", "Tags", FieldType.TAGS).withOptions(options("Safety", "Electric")),
                    Field.of("urgent", "Urgent", FieldType.YES_NO),
                    Field.of("cost", "Cost", FieldType.MONEY),
                    REPORTED,
                    Field.of("due", "Due", FieldType.DATE)));
    private static final Proposals PROPOSALS = new Proposals(
            DEFECTS,
            Optional.of(REPORTED),
            DEFECTS.field("number").orElseThrow(),
            Set.of("number"),
            Set.of("me", "site"),
            READING);

    private static List<Option> options(String... values) {
        return Stream.of(values).map(v -> new Option(v, v)).toList();
    }

    /** Each part as it was typed and its likeliest meaning. */
    private static String likeliest(String typed) {
        return PROPOSALS.read(typed).stream()
                .map(p -> p.typed() + " → " + Printer.criterion(p.meanings().get(0)))
                .collect(Collectors.joining("; "));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "north quay open safety last month|north quay → site is \"North Quay\"; open → status is \"Open\"; safety → tags has any of (\"Safety\"); last month → reported_at in last month",
                "due before next friday|due before next friday → due before Friday of next week",
                "severity over 3, cost at least 500.50|severity over 3 → severity > 3; cost at least 500.50 → cost >= 500.5",
                "grave at my site|grave → severity is in band \"Grave\"; my site → site is my site",
                "asta quill not done|asta quill → assignee is \"asta.quill\"; not done → status is not \"Done\"",
                "mine|mine → assignee is me",
                "no assignee|no assignee → assignee is empty",
                "without an assignee|without an assignee → assignee is empty",
                "urgent but not done|urgent → urgent is yes; but not done → status is not \"Done\"",
                "not in north quay|not in north quay → site is not \"North Quay\"",
                "not at the lantern pier|not at the lantern pier → site is not \"Lantern Pier\"",
                "not in last month|not in last month → reported_at not in last month",
                "all but done|but done → status is not \"Done\"",
                "not without crane|not without crane → title contains \"crane\"",
                "without the crane|without the crane → title does not contain \"crane\"",
                "open not|open → status is \"Open\"",
                "urgent defects|urgent → urgent is yes",
                "not urgent|not urgent → urgent is not yes",
                "D-00417|D-00417 → number is \"d-00417\"",
                "lantern crane|lantern → site is \"Lantern Pier\"; crane → title contains \"crane\"",
                "waiting|waiting → status is \"Waiting for parts\"",
                "\"brass lamp\"|\"brass lamp\" → title contains \"brass lamp\"",
                "site lantern|site lantern → site is \"Lantern Pier\"",
                "due on mondays|due on mondays → due weekday in (Mon)",
                "the defects at|",
                "|"
            })
    void aFewWordsBecomeCriteria(String typed, String expected) {
        assertThat(likeliest(typed == null ? "" : typed)).isEqualTo(expected == null ? "" : expected);
    }

    @Test
    void whatMayMeanSeveralThingsComesWithAllOfThem() {
        assertThat(PROPOSALS.read("last month").get(0).meanings())
                .extracting(Printer::criterion)
                .containsExactly("reported_at in last month", "due in last month");
        assertThat(PROPOSALS.read("over 3").get(0).meanings())
                .extracting(Printer::criterion)
                .containsExactly("severity > 3", "cost > 3");
        assertThat(PROPOSALS.read("due 3/11").get(0).meanings())
                .extracting(Printer::criterion)
                .containsExactly("due on 2026-11-03", "due on 2026-03-11");
        assertThat(PROPOSALS.read("crane").get(0).meanings())
                .extracting(Printer::criterion)
                .containsExactly("title contains \"crane\"", "number contains \"crane\"");
    }

    @Test
    void whateverIsTypedIsProposedAsWhatTheRegisterCanBeAsked() {
        SplittableRandom random = new SplittableRandom(15);
        String[] words = {
            "north",
            "quay",
            "not",
            "no",
            "\"",
            "last",
            "month",
            "due",
            "severity",
            "3",
            "over",
            "my",
            "site",
            "site is",
            "D-1",
            "{x}",
            "(",
            "and",
            "to",
            "2026",
            "friday",
            "\\",
            "é",
            "without",
            "/",
            "tags",
            ",",
            "before",
            "empty",
            "quill"
        };
        Reader reader = new Reader(DEFECTS, Set.of("me", "site"));
        for (int i = 0; i < 1_000; i++) {
            String typed = random.ints(random.nextInt(1, 8), 0, words.length)
                    .mapToObj(w -> words[w])
                    .collect(Collectors.joining(" "));
            for (Proposals.Proposal proposal : PROPOSALS.read(typed)) {
                assertThat(proposal.meanings())
                        .as(typed)
                        .isNotEmpty()
                        .hasSizeLessThanOrEqualTo(Proposals.MOST_MEANINGS);
                proposal.meanings()
                        .forEach(m -> assertThat(reader.read(Printer.criterion(m)))
                                .as(typed)
                                .isEqualTo(m));
            }
        }
    }
}
