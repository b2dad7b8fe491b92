package deftlens.server.views;

import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterCatalogue;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/**
 * Who may do what with a view. A view whose register is closed to somebody is closed to them, whatever its shares say; every
 * other answer here is about views alone, since rows are limited where they are read.
 */
@Component
class ViewRights {

    private final ViewStore store;
    private final RegisterCatalogue registers;
    private final PeopleService people;

    ViewRights(ViewStore store, RegisterCatalogue registers, PeopleService people) {
        this.store = store;
        this.registers = registers;
        this.people = people;
    }

    /** A view that is there and open to the person. */
    ViewEntity find(long id, SignedIn who) {
        return store.findById(id)
                .filter(v -> v.deletedAt() == null
                        && may(v, who).isPresent()
                        && registers.find(v.registerKey(), who).isPresent())
                .orElseThrow(() -> Problem.notFound("This view"));
    }

    /** A view that the person may change; others are told to keep a copy. */
    ViewEntity changeable(long id, SignedIn who) {
        requireWriter(who);
        ViewEntity view = find(id, who);
        if (!may(view, who).filter(m -> m.includes(ViewPermission.CHANGE)).isPresent()) {
            throw Problem.forbidden("This view is shared with you to look at. Save it as a new view to change it.");
        }
        return view;
    }

    /** Refuses whoever changes nothing. */
    static void requireWriter(SignedIn who) {
        if (who.changesNothing()) {
            throw Problem.forbidden("An auditor reads everything and changes nothing.");
        }
    }

    /** Refuses whoever does not manage the view. */
    void requireManager(ViewEntity view, SignedIn who) {
        requireWriter(who);
        if (!may(view, who).filter(m -> m.includes(ViewPermission.MANAGE)).isPresent()) {
            throw Problem.forbidden(
                    "Only the owner of a view, somebody who manages it, or an administrator says who may do what with it, and deletes it.");
        }
    }

    /** What a person may do with a view, if it is open to them at all. */
    Optional<ViewPermission> may(ViewEntity view, SignedIn who) {
        if (view.ownerId() == who.id() || who.administers()) {
            return Optional.of(ViewPermission.MANAGE);
        }
        Optional<ViewPermission> shared =
                matchingShares(view, who).map(ShareEntity::may).max(Comparator.naturalOrder());
        return who.changesNothing() && (who.readsEverything() || shared.isPresent())
                ? Optional.of(ViewPermission.LOOK)
                : shared;
    }

    /** The shares of a view that are for the person: theirs, their teams', and those with everyone. */
    Stream<ShareEntity> matchingShares(ViewEntity view, SignedIn who) {
        List<Long> teams = people.teamsOf(who);
        return view.shares().stream()
                .filter(s -> s.personId() == null && s.teamId() == null
                        || s.personId() != null && s.personId() == who.id()
                        || s.teamId() != null && teams.contains(s.teamId()));
    }
}
