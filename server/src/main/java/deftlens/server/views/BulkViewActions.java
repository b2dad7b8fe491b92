package deftlens.server.views;

import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.views.ViewsService.Share;
import deftlens.server.views.ViewsService.View;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Doing the same to many views at once: all of them, or none. */
@Service
class BulkViewActions {

    private static final int MOST_VIEWS = 500;

    private final ViewsService views;
    private final ViewStore store;
    private final PeopleService people;

    BulkViewActions(ViewsService views, ViewStore store, PeopleService people) {
        this.views = views;
        this.store = store;
        this.people = people;
    }

    /** A view at the version at which it was chosen. */
    record Chosen(@AsText long view, int version) {}

    /**
     * What is to be done; several of these may be, deleting only by itself.
     *
     * @param handOverTo the person who owns them from now on
     * @param share with whom they are shared besides; one who has less gets this
     * @param unshare with whom they are shared no more
     */
    record Wanted(
            @AsText Optional<Long> handOverTo,
            Optional<List<String>> addLabels,
            Optional<List<String>> removeLabels,
            Optional<List<Share>> share,
            Optional<List<Share>> unshare,
            boolean delete) {}

    /** A view that goes by another name, since its new owner had one of that name. */
    record Renamed(@AsText long view, String from, String to) {}

    /** What was done. */
    record Done(int views, List<Renamed> renamed) {}

    /** Does what is wanted to all of the views; the first that it cannot be done to stops it, and nothing is done. */
    @Transactional
    public Done care(SignedIn who, List<Chosen> chosen, Wanted wanted) {
        if (chosen.isEmpty()) {
            throw Problem.unprocessable("no-views", "Choose at least one view.");
        }
        if (chosen.size() > MOST_VIEWS) {
            throw Problem.unprocessable("too-many-views", "At most " + MOST_VIEWS + " views are done at once.");
        }
        List<Renamed> renamed = new ArrayList<>();
        for (Chosen one : chosen) {
            try {
                View view = views.get(one.view(), who);
                if (wanted.delete()) {
                    views.delete(view.id(), who, one.version());
                } else {
                    care(view, one.version(), wanted, who, renamed);
                }
            } catch (Problem problem) {
                String name = store.findById(one.view()).map(ViewEntity::name).orElse("a view");
                throw problem.code().equals("not-found")
                        ? problem.with("view", one.view())
                        : new Problem(
                                        org.springframework.http.HttpStatus.valueOf(
                                                problem.detail().getStatus()),
                                        problem.code(),
                                        "“" + name + "”: " + problem.getMessage() + " Nothing was done to any of them.")
                                .with("view", one.view());
            }
        }
        return new Done(chosen.size(), renamed);
    }

    private void care(View view, int version, Wanted wanted, SignedIn who, List<Renamed> renamed) {
        View now = view;
        int at = version;
        if (wanted.addLabels().isPresent() || wanted.removeLabels().isPresent()) {
            Set<String> labels = new LinkedHashSet<>(view.labels());
            wanted.removeLabels().ifPresent(labels::removeAll);
            wanted.addLabels().ifPresent(labels::addAll);
            now = views.relabel(view.id(), who, at, List.copyOf(labels));
            at = now.version();
        }
        if (wanted.share().isPresent() || wanted.unshare().isPresent()) {
            List<Share> shares = new ArrayList<>(now.shares());
            wanted.unshare().ifPresent(gone -> gone.forEach(g -> shares.removeIf(s -> same(s, g))));
            wanted.share()
                    .ifPresent(more -> more.forEach(m -> {
                        boolean enough = shares.stream()
                                .anyMatch(s -> same(s, m) && s.granted().includes(m.granted()));
                        if (!enough) {
                            shares.removeIf(s -> same(s, m));
                            shares.add(m);
                        }
                    }));
            now = views.share(view.id(), who, at, shares);
            at = now.version();
        }
        if (wanted.handOverTo().isPresent()) {
            View after = views.handOver(view.id(), who, at, wanted.handOverTo().get());
            if (!after.name().equals(view.name())) {
                renamed.add(new Renamed(view.id(), view.name(), after.name()));
            }
        }
    }

    private static boolean same(Share one, Share other) {
        return one.person().equals(other.person()) && one.team().equals(other.team());
    }

    /** Hands all views of somebody over to somebody else. */
    @Transactional
    public Done handOverAll(SignedIn who, long from, long to) {
        if (!who.administers() && who.id() != from) {
            throw Problem.forbidden("Only an administrator hands over what belongs to somebody else.");
        }
        people.profile(from);
        List<Chosen> all = store.ownedBy(from).stream()
                .map(v -> new Chosen(v.id(), v.version()))
                .toList();
        return all.isEmpty()
                ? new Done(0, List.of())
                : care(
                        who,
                        all,
                        new Wanted(
                                Optional.of(to),
                                Optional.empty(),
                                Optional.empty(),
                                Optional.empty(),
                                Optional.empty(),
                                false));
    }
}
