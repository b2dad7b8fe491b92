package deftlens.server.organisation;

import deftlens.server.organisation.OrganisationService.Single;
import deftlens.server.organisation.OrganisationService.Stretch;
import deftlens.server.platform.Problem;
import java.io.IOException;
import java.io.StringReader;
import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.time.format.ResolverStyle;
import java.time.temporal.ChronoUnit;
import java.time.temporal.Temporal;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import net.fortuna.ical4j.data.CalendarBuilder;
import net.fortuna.ical4j.data.ParserException;
import net.fortuna.ical4j.model.Component;
import net.fortuna.ical4j.model.Period;
import net.fortuna.ical4j.model.Property;
import net.fortuna.ical4j.model.component.VEvent;
import net.fortuna.ical4j.model.property.DateProperty;
import net.fortuna.ical4j.model.property.Duration;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVParser;
import org.apache.commons.csv.CSVRecord;

/**
 * Single days of the working calendar out of a file: an iCalendar (RFC 5545), whose events of whole days are days off, or a CSV
 * (RFC 4180; comma, semicolon or tab) with a column of days and, where there are any, one of names and one of hours.
 */
public final class HolidayFile {

    /** The most days of one file. */
    private static final int MOST_DAYS = 2_000;
    /** The longest event, in days. */
    private static final int LONGEST = 366;
    /** How many years ahead an event that repeats is followed. */
    private static final int YEARS_AHEAD = 5;
    /** The longest name of a day, in characters. */
    private static final int LONGEST_LABEL = 80;

    private static final Pattern HOURS = Pattern.compile("(\\d{1,2}:\\d\\d)\\s*(?:-|–|to)\\s*(\\d{1,2}:\\d\\d)");

    /** The ways in which days are written in tables, by what they look like. */
    private static final Map<String, DateTimeFormatter> FORMS =
            forms("uuuu-M-d", "d.M.uuuu", "d/M/uuuu", "M/d/uuuu", "d MMM uuuu", "d MMMM uuuu");

    private final LocalDate today;
    private final Map<LocalDate, Single> days = new TreeMap<>();
    private final List<String> notes = new ArrayList<>();

    private HolidayFile(LocalDate today) {
        this.today = today;
    }

    /**
     * What a file says.
     *
     * @param days in their order, each once
     * @param notes what was left out and why, in sentences
     */
    public record Holidays(List<Single> days, List<String> notes) {}

    /**
     * Reads a file.
     *
     * @param today from which events that repeat are followed for five years
     * @throws Problem (422, {@code no-holidays}) when no day can be read in it
     */
    public static Holidays read(String text, LocalDate today) {
        HolidayFile file = new HolidayFile(today);
        String plain = text.startsWith("\uFEFF") ? text.substring(1) : text;
        if (plain.stripLeading().regionMatches(true, 0, "BEGIN:VCALENDAR", 0, 15)) {
            file.calendar(plain.stripLeading());
        } else {
            file.table(plain);
        }
        if (file.days.isEmpty()) {
            throw none(file.notes.isEmpty() ? "It has no days." : String.join(" ", file.notes));
        }
        return new Holidays(List.copyOf(file.days.values()), List.copyOf(file.notes));
    }

    private static Problem none(String why) {
        return Problem.unprocessable(
                "no-holidays",
                "No days could be read in this file. " + why
                        + " It has to be an iCalendar, or a CSV whose lines are like 2026-12-25,Christmas Day.");
    }

    private void add(LocalDate day, String label, List<Stretch> hours) {
        String shortened = label.length() > LONGEST_LABEL ? label.substring(0, LONGEST_LABEL - 1) + "…" : label;
        days.merge(
                day,
                new Single(day, shortened, hours),
                // Two names of one day: both stand, as far as there is room.
                (a, b) -> a.label().equals(b.label()) || (a.label() + ", " + b.label()).length() > LONGEST_LABEL
                        ? a
                        : new Single(day, a.label() + ", " + b.label(), a.hours()));
        if (days.size() > MOST_DAYS) {
            throw Problem.unprocessable(
                    "too-many-days",
                    "This file has more than " + MOST_DAYS + " days. Leave the years out that do not matter.");
        }
    }

    // ------------------------------------------------------------------ iCalendar

    private void calendar(String text) {
        try {
            events(text);
        } catch (Problem refused) {
            throw refused;
        } catch (RuntimeException e) {
            // A library that reads what others write leniently finds some of it out late.
            throw none("It begins as an iCalendar, but one of its events cannot be read.");
        }
    }

    private void events(String text) {
        List<VEvent> events;
        try {
            events = new CalendarBuilder().build(new StringReader(text)).getComponents(Component.VEVENT);
        } catch (IOException | ParserException | RuntimeException e) {
            String line = e instanceof ParserException at ? " It cannot be read at line " + at.getLineNo() + "." : "";
            throw none("It begins as an iCalendar." + line);
        }
        int timed = 0;
        int cancelled = 0;
        int endless = 0;
        for (VEvent event : events) {
            Optional<LocalDate> start = day(event, Property.DTSTART);
            if (event.getProperty(Property.STATUS)
                    .filter(s -> s.getValue().equalsIgnoreCase("CANCELLED"))
                    .isPresent()) {
                cancelled++;
            } else if (start.isEmpty() || isOftenerThanDaily(event)) {
                timed++;
            } else {
                String label = event.getProperty(Property.SUMMARY)
                        .map(Property::getValue)
                        .orElse("")
                        .strip();
                endless += event(event, start.get(), label) ? 1 : 0;
            }
        }
        note(
                timed,
                "event has a time of day and was left out: single days are whole days.",
                "events have a time of day and were left out: single days are whole days.");
        note(cancelled, "event is cancelled and was left out.", "events are cancelled and were left out.");
        note(
                endless,
                "event repeats; its days up to the end of " + (today.getYear() + YEARS_AHEAD) + " were taken.",
                "events repeat; their days up to the end of " + (today.getYear() + YEARS_AHEAD) + " were taken.");
    }

    private void note(int count, String one, String several) {
        if (count > 0) {
            notes.add(count + " " + (count == 1 ? one : several));
        }
    }

    /** Whether it repeats within a day, which whole days do not, and which would have no end. */
    private static boolean isOftenerThanDaily(VEvent event) {
        return event.getProperties(Property.RRULE).stream()
                .map(rule -> rule.getValue().toUpperCase(Locale.ROOT))
                .anyMatch(rule -> rule.matches(".*(SECONDLY|MINUTELY|HOURLY|BYHOUR|BYMINUTE|BYSECOND).*"));
    }

    /** Takes the days of one event, and says whether it repeats. */
    private boolean event(VEvent event, LocalDate start, String label) {
        long length = Math.clamp(length(event, start), 1, LONGEST);
        boolean repeats = !event.getProperties(Property.RRULE, Property.RDATE).isEmpty();
        if (!repeats) {
            occurs(start, length, label);
            return false;
        }
        Period<LocalDate> window = new Period<>(
                LocalDate.of(today.getYear() - 1, 1, 1), LocalDate.of(today.getYear() + YEARS_AHEAD, 12, 31));
        event.<LocalDate>calculateRecurrenceSet(window).stream()
                .map(Period::getStart)
                .sorted()
                .forEach(day -> occurs(day, length, label));
        return true;
    }

    private void occurs(LocalDate start, long length, String label) {
        for (long i = 0; i < length; i++) {
            add(start.plusDays(i), label, List.of());
        }
    }

    private static long length(VEvent event, LocalDate start) {
        return day(event, Property.DTEND)
                .map(end -> ChronoUnit.DAYS.between(start, end))
                .or(() -> event.<Duration>getProperty(Property.DURATION)
                        .map(d -> ChronoUnit.DAYS.between(
                                start,
                                start.atStartOfDay().plus(d.getDuration()).toLocalDate())))
                .orElse(1L);
    }

    /** The day of a property that holds a whole day; nothing for one with a time of day. */
    private static Optional<LocalDate> day(VEvent event, String property) {
        return event.<DateProperty<Temporal>>getProperty(property)
                .map(DateProperty::getDate)
                .filter(LocalDate.class::isInstance)
                .map(LocalDate.class::cast);
    }

    // ------------------------------------------------------------------ a table

    private void table(String text) {
        List<CSVRecord> lines;
        char delimiter = Stream.of('\t', ';', ',')
                .max(Comparator.comparingLong(d ->
                        text.lines().limit(50).filter(l -> l.indexOf(d) >= 0).count()))
                .orElseThrow();
        try (CSVParser parser = CSVFormat.RFC4180
                .builder()
                .setDelimiter(delimiter)
                .setIgnoreEmptyLines(true)
                .setTrim(true)
                .get()
                .parse(new StringReader(text))) {
            lines = parser.getRecords();
        } catch (IOException | RuntimeException e) {
            throw none("It is no table either: " + e.getMessage() + ".");
        }
        // The first line may be of names.
        int first = !lines.isEmpty() && lines.get(0).stream().noneMatch(HolidayFile::isADay) ? 1 : 0;
        List<CSVRecord> body = lines.subList(first, lines.size());
        if (body.isEmpty()) {
            return;
        }
        int column = IntStream.range(0, body.get(0).size())
                .filter(i -> isADay(body.get(0).get(i)))
                .findFirst()
                .orElse(-1);
        if (column < 0) {
            throw none("Its line " + (first + 1) + " has no day.");
        }
        DateTimeFormatter form = form(body, column);
        for (CSVRecord line : body) {
            LocalDate day = parsed(line.get(column), form).orElseThrow();
            List<String> others = new ArrayList<>(line.toList());
            others.remove(column);
            List<Stretch> hours = others.stream()
                    .map(HolidayFile::hours)
                    .filter(h -> !h.isEmpty())
                    .findFirst()
                    .orElse(List.of());
            String label = others.stream()
                    .filter(o -> !o.isBlank() && hours(o).isEmpty())
                    .findFirst()
                    .orElse("");
            add(day, label, hours);
        }
    }

    /** The one way in which all days of a column can be read. */
    private static DateTimeFormatter form(List<CSVRecord> body, int column) {
        Map<String, DateTimeFormatter> fit = new LinkedHashMap<>(FORMS);
        for (CSVRecord line : body) {
            String written = column < line.size() ? line.get(column) : "";
            fit.values().removeIf(form -> parsed(written, form).isEmpty());
            if (fit.isEmpty()) {
                throw none("Line " + line.getRecordNumber() + " has “" + written
                        + "” where the others have a day: write all days alike, such as 2026-12-25.");
            }
        }
        if (fit.containsKey("d/M/uuuu") && fit.containsKey("M/d/uuuu")) {
            throw none(
                    "Its days can be read two ways, with the day or with the month first: write them like 2026-12-25.");
        }
        return fit.values().iterator().next();
    }

    private static boolean isADay(String text) {
        return FORMS.values().stream().anyMatch(form -> parsed(text, form).isPresent());
    }

    private static Optional<LocalDate> parsed(String text, DateTimeFormatter form) {
        try {
            return Optional.of(LocalDate.parse(text.strip(), form));
        } catch (DateTimeException e) {
            return Optional.empty();
        }
    }

    /** Hours as they are typed on the page, {@code 08:00–12:00, 13:00-17:00}; none when it is something else. */
    private static List<Stretch> hours(String text) {
        List<Stretch> hours = new ArrayList<>();
        for (String piece : text.split("[,;]")) {
            Matcher matcher = HOURS.matcher(piece.strip());
            if (!matcher.matches()) {
                return List.of();
            }
            try {
                hours.add(new Stretch(time(matcher.group(1)), time(matcher.group(2))));
            } catch (DateTimeException e) {
                return List.of();
            }
        }
        return hours;
    }

    private static LocalTime time(String text) {
        return LocalTime.parse(text.length() == 4 ? "0" + text : text);
    }

    private static Map<String, DateTimeFormatter> forms(String... patterns) {
        Map<String, DateTimeFormatter> forms = new LinkedHashMap<>();
        for (String pattern : patterns) {
            forms.put(
                    pattern,
                    new DateTimeFormatterBuilder()
                            .parseCaseInsensitive()
                            .appendPattern(pattern)
                            .toFormatter(Locale.ENGLISH)
                            .withResolverStyle(ResolverStyle.STRICT));
        }
        return forms;
    }
}
