package deftlens.server.organisation;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import deftlens.server.organisation.OrganisationService.Single;
import deftlens.server.platform.Problem;
import java.time.LocalDate;
import java.util.List;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class HolidayFileTest {

    private static final LocalDate TODAY = LocalDate.of(2026, 11, 23);

    private static HolidayFile.Holidays read(String text) {
        return HolidayFile.read(text, TODAY);
    }

    private static List<String> days(String text) {
        return read(text).days().stream().map(HolidayFileTest::words).toList();
    }

    private static String words(Single single) {
        return (single.day() + " " + single.label()
                        + single.hours().stream()
                                .map(h -> " " + h.from() + "-" + h.to())
                                .reduce("", String::concat))
                .strip();
    }

    private static String refusal(String text) {
        return catchThrowableOfType(Problem.class, () -> read(text)).detail().getDetail();
    }

    private static String calendar(String... events) {
        return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Hollin Sound//Days//EN\r\n"
                + IntStream.range(0, events.length)
                        .mapToObj(i -> "BEGIN:VEVENT\r\nUID:" + i + "@hollin.example\r\nDTSTAMP:20260101T000000Z\r\n"
                                + events[i].replace("|", "\r\n") + "\r\nEND:VEVENT\r\n")
                        .reduce("", String::concat)
                + "END:VCALENDAR\r\n";
    }

    @Test
    void wholeDaysOfACalendarAreDaysOff() {
        HolidayFile.Holidays found = read(calendar(
                "DTSTART;VALUE=DATE:20261225|DTEND;VALUE=DATE:20261227|SUMMARY:Christmas\\, both days",
                "DTSTART;VALUE=DATE:20260101|SUMMARY:New Year",
                "DTSTART;VALUE=DATE:20270501|DURATION:P2D|SUMMARY:Spring",
                "DTSTART:20261224T120000Z|DTEND:20261224T170000Z|SUMMARY:Party",
                "DTSTART;VALUE=DATE:20261103|STATUS:CANCELLED|SUMMARY:Fair"));
        assertThat(found.days())
                .extracting(HolidayFileTest::words)
                .containsExactly(
                        "2026-01-01 New Year",
                        "2026-12-25 Christmas, both days",
                        "2026-12-26 Christmas, both days",
                        "2027-05-01 Spring",
                        "2027-05-02 Spring");
        assertThat(found.notes())
                .containsExactly(
                        "1 event has a time of day and was left out: single days are whole days.",
                        "1 event is cancelled and was left out.");
    }

    @Test
    void whatRepeatsIsFollowedForFiveYears() {
        HolidayFile.Holidays found = read(
                calendar(
                        "DTSTART;VALUE=DATE:20001225|RRULE:FREQ=YEARLY|EXDATE;VALUE=DATE:20281225|SUMMARY:Christmas Day",
                        "DTSTART;VALUE=DATE:20200501|DTEND;VALUE=DATE:20200503|RRULE:FREQ=YEARLY;UNTIL=20270101|SUMMARY:Spring"));
        assertThat(found.days())
                .extracting(HolidayFileTest::words)
                .containsExactly(
                        "2025-05-01 Spring",
                        "2025-05-02 Spring",
                        "2025-12-25 Christmas Day",
                        "2026-05-01 Spring",
                        "2026-05-02 Spring",
                        "2026-12-25 Christmas Day",
                        "2027-12-25 Christmas Day",
                        "2029-12-25 Christmas Day",
                        "2030-12-25 Christmas Day",
                        "2031-12-25 Christmas Day");
        assertThat(found.notes()).containsExactly("2 events repeat; their days up to the end of 2031 were taken.");
    }

    @Test
    void whatRepeatsWithoutEndIsLeftOutOrRefused() {
        HolidayFile.Holidays found = read(calendar(
                "DTSTART;VALUE=DATE:20260101|RRULE:FREQ=SECONDLY|SUMMARY:Ticking",
                "DTSTART;VALUE=DATE:20260101|RRULE:FREQ=DAILY;BYHOUR=1,2,3;BYMINUTE=1|SUMMARY:Chimes",
                "DTSTART;VALUE=DATE:20261225|SUMMARY:Christmas"));
        assertThat(found.days()).extracting(HolidayFileTest::words).containsExactly("2026-12-25 Christmas");
        assertThat(found.notes()).hasSize(1);
        assertThat(refusal(calendar("DTSTART;VALUE=DATE:20260101|RRULE:FREQ=DAILY|SUMMARY:Every day")))
                .contains("more than 2000 days");
        for (String event : List.of(
                "DTSTART;VALUE=DATE:2026|SUMMARY:x",
                "DTSTART;VALUE=DATE:20261399|SUMMARY:x",
                "DTSTART;VALUE=DATE:20260101|DURATION:soon|SUMMARY:x",
                "DTSTART;VALUE=DATE:20260101|RRULE:FREQ=NEVER|SUMMARY:x",
                "DTSTART;VALUE=DATE:20260101|DTEND;VALUE=DATE:x|SUMMARY:x",
                "DTSTART;TZID=Nowhere/Here:20260101T120000|SUMMARY:x",
                "SUMMARY:x")) {
            try {
                assertThat(read(calendar(event)).days()).as(event).isNotEmpty();
            } catch (Problem refused) {
                assertThat(refused.detail().getDetail()).as(event).contains("an iCalendar, or a CSV");
            }
        }
    }

    @Test
    void anUnusualButHarmlessCalendarIsRead() {
        assertThat(days("\uFEFF\n"
                        + calendar("DTSTART;VALUE=DATE:20261225|X-COLOUR:red|SUMMARY;LANGUAGE=en:Long "
                                        + "n".repeat(90))
                                .replace("\r\n", "\n")))
                .singleElement()
                .asString()
                .hasSize(11 + 80)
                .endsWith("…");
        assertThat(days(calendar(
                        "DTSTART;VALUE=DATE:20261225|SUMMARY:One", "DTSTART;VALUE=DATE:20261225|SUMMARY:Other")))
                .containsExactly("2026-12-25 One, Other");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '!',
            quoteCharacter = '`',
            value = {
                "2026-12-25,Christmas Day!2026-12-25 Christmas Day",
                "Day;What;Hours|25.12.2026;Christmas Day;|24.12.2026;Eve;8:00-12:00, 13:00–14:30!2026-12-24 Eve 08:00-12:00 13:00-14:30+2026-12-25 Christmas Day",
                "name,day|Christmas,25/12/2026|\"Boxing, day\",26/12/2026!2026-12-25 Christmas+2026-12-26 Boxing, day",
                "12/25/2026\tChristmas!2026-12-25 Christmas",
                "25 Dec 2026,Christmas|1 January 2027,New Year!error Line 2 has “1 January 2027”",
                "1 may 2027!2027-05-01",
                "2026-12-25,One|2026-12-25,Other!2026-12-25 One, Other",
                "4/5/2026,Ascension!error read two ways",
                "2026-12-25,One|2026-02-30,Other!error Line 2 has “2026-02-30”",
                "what,when|Christmas,soon!error Its line 2 has no day.",
                "``!error It has no days.",
                "day,name!error It has no days.",
            })
    void aTableIsReadWhereItSaysOneThing(String text, String expected) {
        String lines = text.replace("|", "\n").replace("\\t", "\t").replace("\\\"", "\"");
        if (expected.startsWith("error ")) {
            assertThat(refusal(lines)).contains(expected.substring(6));
        } else {
            assertThat(days(lines)).containsExactly(expected.split("\\+"));
        }
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"BEGIN:VCALENDAR\nnonsense", "BEGIN:VCALENDAR\nVERSION:2.0\nBEGIN:VEVENT\n", "\u0000", "\"open"})
    void whatIsNoneIsRefusedWithWhatItHasToBe(String text) {
        assertThat(refusal(text)).contains("an iCalendar, or a CSV");
    }

    @Test
    void aFileWithoutEndIsRefused() {
        String all = IntStream.range(0, 3_000)
                .mapToObj(i -> TODAY.plusDays(i) + ",x\n")
                .reduce("", String::concat);
        assertThat(refusal(all)).contains("more than 2000 days");
    }
}
