package deftlens.server.administration;

import deftlens.server.organisation.OrganisationService;
import deftlens.server.organisation.OrganisationService.Settings;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** The organisation's name, calendar and working hours: everybody may look, administrators change. */
@RestController
@RequestMapping("/api/organisation")
class OrganisationController {

    private final OrganisationService organisation;
    private final AdministrationService administration;

    OrganisationController(OrganisationService organisation, AdministrationService administration) {
        this.organisation = organisation;
        this.administration = administration;
    }

    @GetMapping
    Settings settings() {
        return organisation.settings();
    }

    @PutMapping
    Settings change(@RequestBody Settings wanted, @AuthenticationPrincipal SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator changes the organisation's calendar.");
        }
        return administration.change(wanted, who);
    }
}
