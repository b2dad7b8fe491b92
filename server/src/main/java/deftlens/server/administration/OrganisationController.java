package deftlens.server.administration;

import deftlens.server.organisation.HolidayFile;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.organisation.OrganisationService.Settings;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.time.Clock;
import java.time.LocalDate;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
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
    private final Clock clock;

    OrganisationController(OrganisationService organisation, AdministrationService administration, Clock clock) {
        this.organisation = organisation;
        this.administration = administration;
        this.clock = clock;
    }

    /** The calendar that every window is read in, and the working hours. */
    @GetMapping
    Settings settings() {
        return organisation.settings();
    }

    /** Changes the calendar; administrators only. What is sent takes the place of everything, so send back what was read, with its version. */
    @PutMapping
    Settings change(@RequestBody Settings wanted, @AuthenticationPrincipal SignedIn who) {
        requireAdministrator(who);
        return administration.change(wanted, who);
    }

    /**
     * A file of holidays that is looked at.
     *
     * @param text an iCalendar (RFC 5545) or a CSV with a column of days, at most a million characters
     */
    record HolidayText(@NotNull @Size(max = 1_000_000) String text) {}

    /** The days that a file of holidays has; nothing is written. They are sent with the settings. */
    @PostMapping("/holidays")
    HolidayFile.Holidays holidays(@Valid @RequestBody HolidayText file, @AuthenticationPrincipal SignedIn who) {
        requireAdministrator(who);
        return HolidayFile.read(file.text(), LocalDate.ofInstant(clock.instant(), organisation.zone()));
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator changes the organisation's calendar.");
        }
    }
}
