package deftlens.server.people;

import deftlens.server.organisation.OrganisationService;
import java.time.Clock;
import java.time.DayOfWeek;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Service;

/** Says who is signed in, and by what clock they read. */
@Service
public class SessionDescriptions {

    private final PeopleService people;
    private final OrganisationService organisation;
    private final Clock clock;
    private final Optional<DemoSignIns> demo;

    SessionDescriptions(
            PeopleService people, OrganisationService organisation, Clock clock, Optional<DemoSignIns> demo) {
        this.people = people;
        this.organisation = organisation;
        this.clock = clock;
        this.demo = demo;
    }

    /**
     * Who is signed in, with the organisation and its clock.
     *
     * @param windows the date phrases that the organisation offers first; none for the usual ones
     * @param lookedAtBy the administrator who looks as this person and changes nothing meanwhile
     * @param mustChangePassword whether nothing else is answered until the password is changed
     * @param letterKeys whether keys of one letter do something on the desk
     * @param list how they have the list of views and registers
     */
    public record Session(
            PeopleService.Profile person,
            String organisation,
            String zone,
            DayOfWeek weekStarts,
            List<String> windows,
            Instant now,
            boolean demo,
            Optional<String> lookedAtBy,
            boolean mustChangePassword,
            boolean letterKeys,
            ListArrangement list) {}

    /** The session of a person who is signed in. */
    public Session of(SignedIn who) {
        OrganisationService.Settings settings = organisation.settings();
        Optional<PeopleService.Standing> standing = people.now(who.id());
        return new Session(
                people.profile(who.id()),
                settings.name(),
                settings.zone(),
                settings.weekStarts(),
                settings.windows(),
                clock.instant(),
                demo.isPresent(),
                who.watcher(),
                who.watcher().isEmpty()
                        && standing.map(PeopleService.Standing::mustChangePassword)
                                .orElse(false),
                standing.map(PeopleService.Standing::letterKeys).orElse(true),
                standing.map(PeopleService.Standing::list).orElse(ListArrangement.USUAL));
    }
}
