package deftlens.server.administration;

import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
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

    /** What the entries are about, by the names under which they are asked for. */
    private static final Map<String, List<String>> KINDS = Map.of(
            "sign-ins", List.of("sign-in", "token"),
            "people", List.of("person", "team", "viewer-attributes", "token"),
            "views", List.of("view"),
            "registers", List.of("register"),
            "organisation", List.of("organisation"));

    private final Trail trail;
    private final PeopleService people;

    TrailController(Trail trail, PeopleService people) {
        this.trail = trail;
        this.people = people;
    }

    /**
     * One entry.
     *
     * @param who the full name of whoever did it; absent where nobody was signed in
     * @param about the full name of the person it is about, for entries about people
     */
    record Entered(
            long id,
            Instant at,
            Optional<String> who,
            String subject,
            long subjectId,
            Optional<String> about,
            String action,
            JsonNode before,
            JsonNode after) {}

    /** A page of the trail, newest first; {@code next} goes into {@code before} for the one after it. */
    record TrailPage(List<Entered> entries, Optional<Long> next) {}

    /**
     * The trail, newest first.
     *
     * @param kind sign-ins, people, views, registers or organisation
     * @param person only what this person did
     * @param before only what came before the entry of this number
     */
    @GetMapping
    TrailPage entries(
            @RequestParam(defaultValue = "sign-ins") String kind,
            @RequestParam Optional<Long> person,
            @RequestParam Optional<Long> before,
            @RequestParam(defaultValue = "100") int limit,
            @AuthenticationPrincipal SignedIn who) {
        if (!who.readsEverything()) {
            throw Problem.forbidden("The trail of sign-ins and rights is for administrators and auditors.");
        }
        List<String> subjects = Optional.ofNullable(KINDS.get(kind))
                .orElseThrow(() -> Problem.badRequest(
                        "unknown-kind",
                        "There is no trail of “" + kind
                                + "”; there is one of sign-ins, people, views, registers and organisation."));
        int most = Math.clamp(limit, 1, 200);
        Map<Long, String> names = people.everyone().stream()
                .collect(Collectors.toMap(PeopleService.Profile::id, PeopleService.Profile::fullName));
        List<Entered> entries = trail.all(subjects, person, before, most).stream()
                .map(c -> new Entered(
                        c.id(),
                        c.at(),
                        c.person().map(names::get),
                        c.subject(),
                        c.subjectId(),
                        c.subject().equals("person") || c.subject().equals("sign-in")
                                ? Optional.ofNullable(names.get(c.subjectId()))
                                : Optional.empty(),
                        c.action(),
                        c.before(),
                        c.after()))
                .toList();
        return new TrailPage(
                entries, entries.size() == most ? Optional.of(entries.getLast().id()) : Optional.empty());
    }
}
