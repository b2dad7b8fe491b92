package deftlens.server.views;

import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.views.ViewsService.Share;
import deftlens.server.views.ViewsService.Who;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;

/** The names of people and teams, and the registers, each looked up once for a request. */
final class ViewNames {
    private final RegisterCatalogue registers;
    private final Map<Long, Who> persons = new HashMap<>();
    private final Map<Long, String> teams = new HashMap<>();
    private final Map<String, Optional<RegisterForReader>> described = new HashMap<>();

    ViewNames(PeopleService people, RegisterCatalogue registers) {
        this.registers = registers;
        people.everyone().forEach(p -> persons.put(p.id(), new Who(p.id(), p.name(), p.fullName())));
        people.teams().forEach(t -> teams.put(t.id(), t.name()));
    }

    Who who(long id) {
        return persons.getOrDefault(id, new Who(id, "", "Somebody who is gone"));
    }

    boolean canRead(String key, SignedIn who) {
        if (!described.containsKey(key)) {
            described.put(key, registers.find(key, who));
        }
        return described.get(key).isPresent();
    }

    RegisterForReader register(String key, SignedIn who) {
        canRead(key, who);
        return described.get(key).orElseThrow(() -> Problem.notFound("The register “" + key + "”"));
    }

    String label(ShareEntity share) {
        return share.personId() != null
                ? who(share.personId()).fullName()
                : share.teamId() != null ? teams.getOrDefault(share.teamId(), "A team that is gone") : "Everyone";
    }

    void require(Share share) {
        if (share.person().isPresent() && !persons.containsKey(share.person().get())) {
            throw Problem.unprocessable(
                    "unknown-person",
                    "There is no person with the number " + share.person().get() + ".");
        }
        if (share.team().isPresent() && !teams.containsKey(share.team().get())) {
            throw Problem.unprocessable(
                    "unknown-team",
                    "There is no team with the number " + share.team().get() + ".");
        }
    }
}
