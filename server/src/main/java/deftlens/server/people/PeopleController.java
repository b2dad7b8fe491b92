package deftlens.server.people;

import deftlens.server.platform.AsTexts;
import jakarta.validation.Valid;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Size;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** People, teams and what is known of them: everybody may look, administrators change. */
@RestController
@RequestMapping("/api")
class PeopleController {

    private final PeopleService people;
    private final PeopleAdministration administration;
    private final TeamsAdministration teams;
    private final AttributesAdministration attributes;
    private final PeopleImport imports;

    PeopleController(
            PeopleService people,
            PeopleAdministration administration,
            TeamsAdministration teams,
            AttributesAdministration attributes,
            PeopleImport imports) {
        this.people = people;
        this.administration = administration;
        this.teams = teams;
        this.attributes = attributes;
        this.imports = imports;
    }

    /** A person to be added. The password has to be changed at the first sign-in. */
    record PersonWanted(
            @NotNull @Size(max = 200) String name,
            @NotNull @Size(max = 200) String password,
            @NotNull String fullName,
            @NotNull Role role,
            @AsTexts Optional<List<Long>> teams,
            Optional<Map<String, List<String>>> values) {}

    /** What is said of a person, from the version that it was changed from. */
    record PersonChange(
            @NotNull Integer version,
            @NotNull String fullName,
            @NotNull Role role,
            @NotNull @AsTexts List<Long> teams,
            @NotNull Map<String, List<String>> values) {}

    /** The version that something is done from. */
    record AtVersion(@NotNull Integer version) {}

    record FreshPassword(@NotNull @Size(max = 200) String password) {}

    record TeamWanted(@NotNull String name) {}

    record TeamChange(
            @NotNull Integer version,
            @NotNull String name,
            @NotNull @AsTexts List<Long> members) {}

    /** A file of people as text, and whether it is to be written or only looked at. */
    record FileOfPeople(@NotNull String text, boolean write) {}

    /** Everybody, by full name. What is known of others is told to administrators and auditors only. */
    @GetMapping("/people")
    List<PeopleService.Profile> everyone(@AuthenticationPrincipal SignedIn who) {
        List<PeopleService.Profile> all = people.everyone();
        return who.readsEverything()
                ? all
                : all.stream()
                        .map(p -> p.id() == who.id() ? p : p.asOthersSeeIt())
                        .toList();
    }

    /** One person with teams and what is known of them. */
    @GetMapping("/people/{id}")
    PeopleAdministration.PersonEntry one(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return administration.entry(id, who);
    }

    /** Adds a person; administrators only. The password given has to be changed at the first sign-in. */
    @PostMapping("/people")
    @ResponseStatus(HttpStatus.CREATED)
    PeopleAdministration.PersonEntry add(
            @Valid @RequestBody PersonWanted wanted, @AuthenticationPrincipal SignedIn who) {
        return administration.add(
                who,
                wanted.name(),
                wanted.password(),
                new PeopleAdministration.PersonInput(
                        wanted.fullName(),
                        wanted.role(),
                        wanted.teams().orElse(List.of()),
                        wanted.values().orElse(Map.of())));
    }

    /** Changes a person, as they were at the version sent; administrators only. */
    @PutMapping("/people/{id}")
    PeopleAdministration.PersonEntry change(
            @PathVariable long id, @Valid @RequestBody PersonChange change, @AuthenticationPrincipal SignedIn who) {
        return administration.change(
                who,
                id,
                change.version(),
                new PeopleAdministration.PersonInput(
                        change.fullName(), change.role(), change.teams(), change.values()));
    }

    /** Disables somebody who leaves; sessions and tokens end at once. */
    @PostMapping("/people/{id}/leave")
    PeopleAdministration.PersonEntry leave(
            @PathVariable long id, @Valid @RequestBody AtVersion at, @AuthenticationPrincipal SignedIn who) {
        return administration.leave(who, id, at.version());
    }

    /** Lets somebody who left sign in again. */
    @PostMapping("/people/{id}/return")
    PeopleAdministration.PersonEntry comeBack(
            @PathVariable long id, @Valid @RequestBody AtVersion at, @AuthenticationPrincipal SignedIn who) {
        return administration.comeBack(who, id, at.version());
    }

    /** Gives somebody a password for their next sign-in; their sessions end. */
    @PutMapping("/people/{id}/password")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void setPassword(
            @PathVariable long id, @Valid @RequestBody FreshPassword fresh, @AuthenticationPrincipal SignedIn who) {
        administration.setPassword(who, id, fresh.password());
    }

    /** Signs somebody out everywhere. */
    @DeleteMapping("/people/{id}/sessions")
    AccountController.Ended endSessions(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return new AccountController.Ended(administration.endSessions(who, id));
    }

    /** Takes the tie to the identity provider away. */
    @DeleteMapping("/people/{id}/identity")
    PeopleAdministration.PersonEntry unlink(@PathVariable long id, @AuthenticationPrincipal SignedIn who) {
        return administration.unlink(who, id);
    }

    /** Looks at a file of people, or brings it in; all or nothing. */
    @PostMapping("/people/file")
    PeopleImport.PeopleReport file(@Valid @RequestBody FileOfPeople file, @AuthenticationPrincipal SignedIn who) {
        return imports.bringIn(who, file.text(), file.write());
    }

    /** All teams, with their people. */
    @GetMapping("/teams")
    List<TeamsAdministration.TeamEntry> teams() {
        return teams.all();
    }

    /** Adds a team; administrators only. */
    @PostMapping("/teams")
    @ResponseStatus(HttpStatus.CREATED)
    PeopleService.TeamName addTeam(@Valid @RequestBody TeamWanted wanted, @AuthenticationPrincipal SignedIn who) {
        return teams.add(who, wanted.name());
    }

    /** Changes a team, as it was at the version sent; administrators only. */
    @PutMapping("/teams/{id}")
    TeamsAdministration.TeamEntry changeTeam(
            @PathVariable long id, @Valid @RequestBody TeamChange change, @AuthenticationPrincipal SignedIn who) {
        return teams.change(who, id, change.version(), change.name(), change.members());
    }

    /** Takes a team away that nothing rests on; administrators only. */
    @DeleteMapping("/teams/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void removeTeam(@PathVariable long id, @RequestParam int version, @AuthenticationPrincipal SignedIn who) {
        teams.remove(who, id, version);
    }

    /** What is known of people, and may follow “my” in a statement. */
    @GetMapping("/viewer-attributes")
    List<PeopleService.Attribute> known() {
        return people.known();
    }

    /** Says anew what is known of people: what may follow “my”. */
    @PutMapping("/viewer-attributes")
    List<PeopleService.Attribute> settle(
            @RequestBody List<PeopleService.Attribute> wanted, @AuthenticationPrincipal SignedIn who) {
        return attributes.settle(who, wanted);
    }
}
