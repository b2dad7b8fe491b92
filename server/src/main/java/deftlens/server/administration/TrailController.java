package deftlens.server.administration;

import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Named;
import deftlens.server.trail.Trail;
import jakarta.servlet.http.HttpServletResponse;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.springframework.http.HttpHeaders;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.JsonNode;

/** The trail of sign-ins, and of who may do what: for administrators and auditors. */
@RestController
@RequestMapping("/api/trail")
class TrailController {

    private static final int MOST = 200;
    private static final Map<String, List<String>> KINDS = Map.of(
            "sign-ins", List.of("sign-in", "token"),
            "people", List.of("person", "team", "viewer-attributes", "token"),
            "views", List.of("view"),
            "registers", List.of("register", "linked server"),
            "organisation", List.of("organisation"));

    private final Trail trail;
    private final PeopleService people;
    private final OrganisationService organisation;
    private final List<Named> named;

    TrailController(Trail trail, PeopleService people, OrganisationService organisation, List<Named> named) {
        this.trail = trail;
        this.people = people;
        this.organisation = organisation;
        this.named = named;
    }

    /**
     * One entry.
     *
     * @param who the full name of whoever did it; absent where nobody was signed in
     * @param about the name of the person, view, register, team or server it is about, as it is now; absent where that is gone
     *     for good, or where there is no such thing
     */
    record Entered(
            @AsText long id,
            Instant at,
            Optional<String> who,
            String subject,
            @AsText long subjectId,
            Optional<String> about,
            String action,
            JsonNode before,
            JsonNode after) {}

    /** A page of the trail, newest first; {@code next} goes into {@code before} for the one after it. */
    record TrailPage(List<Entered> entries, @AsText Optional<Long> next) {}

    /**
     * The trail, newest first.
     *
     * @param kind sign-ins, people, views, registers or organisation
     * @param person only what this person did
     * @param from only what was done on this day of the organisation or later
     * @param to only what was done on this day or earlier
     * @param before only what came before the entry of this number
     */
    @GetMapping
    TrailPage entries(
            @RequestParam(defaultValue = "sign-ins") String kind,
            @RequestParam Optional<Long> person,
            @RequestParam Optional<LocalDate> from,
            @RequestParam Optional<LocalDate> to,
            @RequestParam Optional<Long> before,
            @RequestParam(defaultValue = "100") int limit,
            @AuthenticationPrincipal SignedIn who) {
        requireReader(who);
        int most = Math.clamp(limit, 1, MOST);
        List<Entered> entries = page(wanted(kind, person, from, to), before, most);
        return new TrailPage(
                entries, entries.size() == most ? Optional.of(entries.getLast().id()) : Optional.empty());
    }

    /** The same as a file (RFC 4180, UTF-8), all of it; what was before and after as JSON. */
    @GetMapping(path = "/export.csv", produces = "text/csv")
    void export(
            @RequestParam(defaultValue = "sign-ins") String kind,
            @RequestParam Optional<Long> person,
            @RequestParam Optional<LocalDate> from,
            @RequestParam Optional<LocalDate> to,
            @AuthenticationPrincipal SignedIn who,
            HttpServletResponse response)
            throws IOException {
        requireReader(who);
        Trail.Wanted wanted = wanted(kind, person, from, to);
        ZoneId zone = organisation.zone();
        List<Entered> page = page(wanted, Optional.empty(), MOST);
        response.setContentType("text/csv; charset=UTF-8; header=present");
        response.setHeader(HttpHeaders.CONTENT_DISPOSITION, "attachment; filename=\"trail-" + kind + ".csv\"");
        // The pages are read one after the other, each in a moment, so a slow reader holds nothing meanwhile.
        Writer writer =
                new BufferedWriter(new OutputStreamWriter(response.getOutputStream(), StandardCharsets.UTF_8), 1 << 16);
        try (CSVPrinter csv = new CSVPrinter(writer, CSVFormat.RFC4180)) {
            csv.printRecord("When (" + zone + ")", "Who", "Did", "To", "Name", "Before", "After");
            while (!page.isEmpty()) {
                for (Entered e : page) {
                    csv.printRecord(
                            DateTimeFormatter.ISO_OFFSET_DATE_TIME.format(e.at().atZone(zone)),
                            safe(e.who().orElse("")),
                            e.action(),
                            e.subject() + (e.subjectId() == 0 ? "" : " " + e.subjectId()),
                            safe(e.about().orElse("")),
                            e.before() == null ? "" : e.before().toString(),
                            e.after() == null ? "" : e.after().toString());
                }
                page = page.size() < MOST
                        ? List.of()
                        : page(wanted, Optional.of(page.getLast().id()), MOST);
            }
        }
    }

    /** A name that no spreadsheet runs. */
    private static String safe(String text) {
        return !text.isEmpty() && "=+-@\t\r\n".indexOf(text.charAt(0)) >= 0 ? "'" + text : text;
    }

    private static void requireReader(SignedIn who) {
        if (!who.readsEverything()) {
            throw Problem.forbidden("The trail of sign-ins and rights is for administrators and auditors.");
        }
    }

    private Trail.Wanted wanted(String kind, Optional<Long> person, Optional<LocalDate> from, Optional<LocalDate> to) {
        List<String> subjects = Optional.ofNullable(KINDS.get(kind))
                .orElseThrow(() -> Problem.badRequest(
                        "unknown-kind",
                        "There is no trail of “" + kind
                                + "”; there is one of sign-ins, people, views, registers and organisation."));
        for (Optional<LocalDate> day : List.of(from, to)) {
            if (day.filter(d -> d.getYear() < 1 || d.getYear() > 9_998).isPresent()) {
                throw Problem.badRequest("bad-day", "A day of the trail is of the years 1 to 9998.");
            }
        }
        ZoneId zone = organisation.zone();
        return new Trail.Wanted(
                subjects,
                person,
                from.map(d -> d.atStartOfDay(zone).toInstant()),
                to.map(d -> d.plusDays(1).atStartOfDay(zone).toInstant()));
    }

    private List<Entered> page(Trail.Wanted wanted, Optional<Long> before, int most) {
        List<Trail.Change> changes = trail.all(wanted, before, most);
        Map<Long, String> persons = people.everyone().stream()
                .collect(Collectors.toMap(PeopleService.Profile::id, PeopleService.Profile::fullName));
        Map<String, Map<Long, String>> names = new HashMap<>(Map.of("person", persons, "sign-in", persons));
        named.forEach(n -> {
            Set<Long> ids = changes.stream()
                    .filter(c -> c.subject().equals(n.subject()))
                    .map(Trail.Change::subjectId)
                    .collect(Collectors.toSet());
            names.put(n.subject(), ids.isEmpty() ? Map.of() : n.names(ids));
        });
        return changes.stream()
                .map(c -> new Entered(
                        c.id(),
                        c.at(),
                        c.person().map(persons::get),
                        c.subject(),
                        c.subjectId(),
                        Optional.ofNullable(
                                names.getOrDefault(c.subject(), Map.of()).get(c.subjectId())),
                        c.action(),
                        c.before(),
                        c.after()))
                .toList();
    }
}
