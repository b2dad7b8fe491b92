package deftlens.server.people;

import static deftlens.server.people.Administering.changedMeanwhile;
import static deftlens.server.people.Administering.requireAdministrator;
import static deftlens.server.people.Administering.requireUnused;
import static deftlens.server.people.Administering.required;

import deftlens.server.people.PeopleService.TeamName;
import deftlens.server.platform.AsText;
import deftlens.server.platform.AsTexts;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** What administrators do with teams; each change with its entry in the trail. */
@Service
class TeamsAdministration {

    private static final String TEAM = "team";

    private final PeopleStore people;
    private final TeamStore teams;
    private final Trail trail;
    private final List<PeopleUse> uses;

    TeamsAdministration(PeopleStore people, TeamStore teams, Trail trail, List<PeopleUse> uses) {
        this.people = people;
        this.teams = teams;
        this.trail = trail;
        this.uses = uses;
    }

    /** A team with its members. */
    record TeamEntry(
            @AsText long id,
            String name,
            int version,
            @AsTexts List<Long> members) {}

    /** All teams with their members, by name. */
    @Transactional(readOnly = true)
    public List<TeamEntry> all() {
        Map<Long, List<Long>> members = new TreeMap<>();
        people.everyone()
                .forEach(p -> p.teams()
                        .forEach(t -> members.computeIfAbsent(t.id(), i -> new ArrayList<>())
                                .add(p.id())));
        return teams.findAllByOrderByName().stream()
                .map(t -> new TeamEntry(t.id(), t.name(), t.version(), members.getOrDefault(t.id(), List.of())))
                .toList();
    }

    /** Adds a team. */
    @Transactional
    public TeamName add(SignedIn who, String name) {
        requireAdministrator(who);
        Team team = teams.saveAndFlush(new Team(freeTeamName(name, Optional.empty())));
        trail.write(Optional.of(who.id()), TEAM, team.id(), "added", null, team.name());
        return new TeamName(team.id(), team.name());
    }

    /** Changes a team's name and who is in it. */
    @Transactional
    public TeamEntry change(SignedIn who, long id, int version, String name, List<Long> members) {
        requireAdministrator(who);
        Team team = teams.findById(id).orElseThrow(() -> Problem.notFound("This team"));
        if (team.version() != version) {
            throw changedMeanwhile("this team");
        }
        List<String> before = names(people.membersOf(id));
        String oldName = team.name();
        team.rename(freeTeamName(name, Optional.of(id)));
        Set<Long> wanted = new HashSet<>(members);
        for (Person person : people.everyone()) {
            boolean in = person.teams().contains(team);
            if (wanted.remove(person.id()) != in) {
                if (in) {
                    person.teams().remove(team);
                } else {
                    person.teams().add(team);
                }
                people.save(person);
            }
        }
        if (!wanted.isEmpty()) {
            throw Problem.unprocessable("unknown-person", "There is no person with the number " + wanted + ".");
        }
        teams.saveAndFlush(team);
        trail.write(
                Optional.of(who.id()),
                TEAM,
                id,
                "changed",
                Map.of("name", oldName, "members", before),
                Map.of("name", team.name(), "members", names(people.membersOf(id))));
        return new TeamEntry(
                id,
                team.name(),
                team.version(),
                people.membersOf(id).stream().map(Person::id).toList());
    }

    /** Takes a team away that nothing leans on. */
    @Transactional
    public void remove(SignedIn who, long id, int version) {
        requireAdministrator(who);
        Team team = teams.findById(id).orElseThrow(() -> Problem.notFound("This team"));
        if (team.version() != version) {
            throw changedMeanwhile("this team");
        }
        requireUnused(
                "The team “" + team.name() + "” is still used",
                uses.stream().flatMap(u -> u.ofTeam(id).stream()).toList());
        List<Person> members = people.membersOf(id);
        List<String> before = names(members);
        members.forEach(p -> {
            p.teams().remove(team);
            people.save(p);
        });
        teams.delete(team);
        trail.write(Optional.of(who.id()), TEAM, id, "removed", Map.of("name", team.name(), "members", before), null);
    }

    private static List<String> names(List<Person> members) {
        return members.stream().map(Person::fullName).toList();
    }

    private String freeTeamName(String name, Optional<Long> own) {
        String plain = required("name", "A team's name", name);
        teams.findByNameIgnoreCase(plain)
                .filter(t -> own.filter(t.id()::equals).isEmpty())
                .ifPresent(t -> {
                    throw new Problem(HttpStatus.CONFLICT, "name-taken", "There is a team “" + t.name() + "” already.")
                            .at("name");
                });
        return plain;
    }
}
