package deftlens.server.administration;

import deftlens.server.organisation.OrganisationService;
import deftlens.server.organisation.OrganisationService.Settings;
import deftlens.server.people.SignedIn;
import deftlens.server.trail.Trail;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Changes to the organisation, each with its entry in the trail. */
@Service
class AdministrationService {

    private final OrganisationService organisation;
    private final Trail trail;

    AdministrationService(OrganisationService organisation, Trail trail) {
        this.organisation = organisation;
        this.trail = trail;
    }

    @Transactional
    Settings change(Settings wanted, SignedIn who) {
        Settings before = organisation.settings();
        Settings after = organisation.change(wanted);
        trail.write(Optional.of(who.id()), "organisation", 1, "changed", before, after);
        return after;
    }
}
