package deftlens.server.views;

import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import jakarta.persistence.EntityManager;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The views that the members of a team find on their list from their first day. */
@Service
public class TeamLists {

    private static final int MOST_VIEWS = 30;

    private final EntityManager entities;
    private final ViewsService views;
    private final PeopleService people;
    private final Trail trail;

    TeamLists(EntityManager entities, ViewsService views, PeopleService people, Trail trail) {
        this.entities = entities;
        this.views = views;
        this.people = people;
        this.trail = trail;
    }

    /** A team's list, as far as its views are open to the reader. */
    public record TeamList(@AsText long team, String name, List<PinsService.Pin> views) {}

    /** The lists of the reader's teams; of all teams for those who read everything and ask for all. */
    @Transactional(readOnly = true)
    public List<TeamList> lists(SignedIn who, boolean all) {
        List<Long> own = people.teamsOf(who);
        Map<Long, ViewsService.View> open =
                views.openTo(who).stream().collect(Collectors.toMap(ViewsService.View::id, Function.identity()));
        List<TeamList> lists = new ArrayList<>();
        for (PeopleService.TeamName team : people.teams()) {
            if (own.contains(team.id()) || all && who.readsEverything()) {
                List<PinsService.Pin> pins = ids(team.id()).stream()
                        .map(open::get)
                        .filter(v -> v != null)
                        .map(v -> PinsService.Pin.of(v, Optional.empty()))
                        .toList();
                if (!pins.isEmpty() || all && who.readsEverything()) {
                    lists.add(new TeamList(team.id(), team.name(), pins));
                }
            }
        }
        return lists;
    }

    private List<Long> ids(long team) {
        List<?> found = entities.createNativeQuery("select view_id from team_view where team_id = ?1 order by position")
                .setParameter(1, team)
                .getResultList();
        return found.stream().map(id -> ((Number) id).longValue()).toList();
    }

    /** Says anew which views are on a team's list. Each must be open to the whole team. */
    @Transactional
    public TeamList set(SignedIn who, long team, List<Long> wanted) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator says what a team finds on its list.");
        }
        String name = people.teams().stream()
                .filter(t -> t.id() == team)
                .map(PeopleService.TeamName::name)
                .findFirst()
                .orElseThrow(() -> Problem.notFound("This team"));
        Set<Long> each = new LinkedHashSet<>(wanted);
        if (each.size() > MOST_VIEWS) {
            throw Problem.unprocessable("too-many-views", "A team's list has at most " + MOST_VIEWS + " views.");
        }
        for (Long id : each) {
            ViewsService.View view = views.get(id, who);
            boolean open = view.shares().stream()
                    .anyMatch(s -> s.person().isEmpty()
                            && (s.team().isEmpty() || s.team().equals(Optional.of(team))));
            if (!open) {
                throw Problem.unprocessable(
                        "not-shared",
                        "“" + view.name() + "” is not shared with the team " + name + ". Share it first.");
            }
        }
        List<Long> before = ids(team);
        entities.createNativeQuery("delete from team_view where team_id = ?1")
                .setParameter(1, team)
                .executeUpdate();
        int position = 0;
        for (Long id : each) {
            entities.createNativeQuery("insert into team_view (team_id, view_id, position) values (?1, ?2, ?3)")
                    .setParameter(1, team)
                    .setParameter(2, id)
                    .setParameter(3, position++)
                    .executeUpdate();
        }
        trail.write(Optional.of(who.id()), "team", team, "list", before, each);
        return lists(who, true).stream()
                .filter(l -> l.team() == team)
                .findFirst()
                .orElseThrow();
    }
}
