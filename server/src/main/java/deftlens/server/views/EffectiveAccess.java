package deftlens.server.views;

import deftlens.core.condition.Condition;
import deftlens.core.time.Reading;
import deftlens.server.people.PeopleService;
import deftlens.server.people.PeopleService.Profile;
import deftlens.server.people.Role;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.rows.CountsService;
import deftlens.server.views.ViewsService.Share;
import deftlens.server.views.ViewsService.Who;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** What a view comes to for each person: whether it is open to them, why, and what of its records they see. */
@Service
class EffectiveAccess {

    private static final int MOST_PEOPLE = 400;

    private final ViewRights rights;
    private final ViewParts parts;
    private final ViewsService views;
    private final RegisterCatalogue registers;
    private final PeopleService people;
    private final Questions questions;
    private final CountsService counts;
    private final ReadersOwn own;

    EffectiveAccess(
            ViewRights rights,
            ViewParts parts,
            ViewsService views,
            RegisterCatalogue registers,
            PeopleService people,
            Questions questions,
            CountsService counts,
            ReadersOwn own) {
        this.rights = rights;
        this.parts = parts;
        this.views = views;
        this.registers = registers;
        this.people = people;
        this.questions = questions;
        this.counts = counts;
        this.own = own;
    }

    /**
     * What one person may do with a view and sees of it.
     *
     * @param may absent when it is not open to them
     * @param why sentences that say what opens it, or what keeps it closed
     * @param limits in words, what of which at least one must hold for a record to be seen; none is no limit
     * @param hidden the labels of fields that are hidden
     * @param refined whether they have a refinement of their own
     * @param matching how many records it shows them now, with their own viewer values and without a refinement; absent when
     *     that cannot be said, and then {@code unfit} says why
     */
    record ViewAccess(
            Who person,
            Optional<ViewPermission> may,
            List<String> why,
            List<String> limits,
            List<String> hidden,
            boolean refined,
            Optional<Long> matching,
            Optional<Long> total,
            Optional<String> unfit) {}

    /**
     * Whom a set of shares reaches.
     *
     * @param people how many people who can sign in
     * @param closed who of them may not read the register at all, so that the view stays closed to them
     * @param limited who of them see only some of its records or fields, and which, said once for all that it is so for
     * @param cut whether there are more people than were looked at
     */
    record Audience(int people, List<String> closed, List<Limited> limited, boolean cut) {}

    /** People who see only some records or fields. */
    record Limited(List<String> people, List<String> limits, List<String> hidden) {}

    /** What a person may do with a view and sees of it; for those who manage it or read everything, and oneself. */
    @Transactional(readOnly = true)
    public ViewAccess of(long id, long person, SignedIn who) {
        ViewEntity view = rights.find(id, who);
        if (person != who.id()) {
            requireMayAsk(view, who);
        }
        Profile profile = people.profile(person);
        SignedIn other = new SignedIn(profile.id(), profile.name(), profile.role());
        Optional<RegisterForReader> described = registers.find(view.reads(), other);
        Optional<ViewPermission> may = rights.may(view, other).filter(m -> profile.active() && described.isPresent());
        List<String> why = why(view, profile, described.isPresent());
        Who name = new Who(profile.id(), profile.name(), profile.fullName());
        if (may.isEmpty()) {
            return new ViewAccess(
                    name, may, why, List.of(), List.of(), false, Optional.empty(), Optional.empty(), Optional.empty());
        }
        ReadersOwn.Own theirs = own.own(view, other);
        Optional<Long> matching = Optional.empty();
        Optional<Long> total = Optional.empty();
        Optional<String> unfit = Optional.empty();
        try {
            Condition condition =
                    questions.answered(described.get(), parts.condition(view), Optional.of(theirs.answers()), other);
            Reading reading = parts.now(view);
            // What does not fit is found here, before anything is counted.
            questions.bind(described.get(), condition, reading, other);
            CountsService.Count count = counts.count(Question.of(described.get(), condition, reading, other), false);
            matching = Optional.of(count.matching());
            total = Optional.of(count.total());
        } catch (Problem problem) {
            unfit = Optional.of(problem.getMessage());
        }
        return new ViewAccess(
                name,
                may,
                why,
                described.get().limitsInWords(),
                List.copyOf(described.get().hidden().values()),
                theirs.refined().isPresent(),
                matching,
                total,
                unfit);
    }

    private List<String> why(ViewEntity view, Profile person, boolean readable) {
        List<String> why = new ArrayList<>();
        if (!person.active()) {
            why.add(person.fullName() + " has left and cannot sign in.");
        }
        if (!readable) {
            why.add("The register is closed to " + person.fullName() + " and all of their teams.");
        }
        if (view.ownerId() == person.id()) {
            why.add("It is their own.");
        }
        if (person.role() == Role.ADMINISTRATOR) {
            why.add("Administrators manage every view.");
        }
        if (person.role() == Role.AUDITOR) {
            why.add("Auditors look at every view and change none.");
        }
        SignedIn other = new SignedIn(person.id(), person.name(), person.role());
        Map<Long, String> teams = person.teams().stream()
                .collect(Collectors.toMap(PeopleService.TeamName::id, PeopleService.TeamName::name));
        rights.matchingShares(view, other)
                .map(s -> "It is shared with "
                        + (s.personId() != null
                                ? person.fullName()
                                : s.teamId() != null ? "the team " + teams.get(s.teamId()) : "everyone")
                        + ", " + words(s.may()) + ".")
                .forEach(why::add);
        if (why.isEmpty()) {
            why.add("It is not shared with " + person.fullName() + ", nor with a team of theirs.");
        }
        return why;
    }

    private static String words(ViewPermission may) {
        return switch (may) {
            case LOOK -> "to look";
            case CHANGE -> "to change";
            case MANAGE -> "to manage";
        };
    }

    /** Whom a view would reach with these shares, and who of them would see less than all. */
    @Transactional(readOnly = true)
    public Audience audience(long id, SignedIn who, List<Share> shares) {
        ViewEntity view = rights.find(id, who);
        requireMayAsk(view, who);
        List<Profile> reached = people.everyone().stream()
                .filter(p -> p.active() && p.id() != view.ownerId() && reaches(shares, p))
                .toList();
        List<String> closed = new ArrayList<>();
        Map<List<List<String>>, List<String>> limited = new LinkedHashMap<>();
        for (Profile person : reached.subList(0, Math.min(reached.size(), MOST_PEOPLE))) {
            Optional<RegisterForReader> described =
                    registers.find(view.reads(), new SignedIn(person.id(), person.name(), person.role()));
            if (described.isEmpty()) {
                closed.add(person.fullName());
            } else if (!described.get().limits().isEmpty()
                    || !described.get().hidden().isEmpty()) {
                limited.computeIfAbsent(
                                List.of(
                                        described.get().limitsInWords(),
                                        List.copyOf(described.get().hidden().values())),
                                k -> new ArrayList<>())
                        .add(person.fullName());
            }
        }
        return new Audience(
                reached.size(),
                closed,
                limited.entrySet().stream()
                        .map(e -> new Limited(
                                e.getValue(), e.getKey().get(0), e.getKey().get(1)))
                        .toList(),
                reached.size() > MOST_PEOPLE);
    }

    private static boolean reaches(List<Share> shares, Profile person) {
        return shares.stream()
                .anyMatch(s -> s.person().isEmpty() && s.team().isEmpty()
                        || s.person().filter(p -> p == person.id()).isPresent()
                        || s.team()
                                .filter(t -> person.teams().stream().anyMatch(own -> own.id() == t))
                                .isPresent());
    }

    private void requireMayAsk(ViewEntity view, SignedIn who) {
        if (!who.readsEverything()
                && rights.may(view, who)
                        .filter(m -> m.includes(ViewPermission.MANAGE))
                        .isEmpty()) {
            throw Problem.forbidden("What others see of a view is told to those who manage it.");
        }
    }
}
