package deftlens.server.people;

import deftlens.core.condition.Viewer;
import deftlens.core.field.Option;
import deftlens.server.platform.AsText;
import deftlens.server.platform.EpochCache;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The people and teams of the organisation. */
@Service
public class PeopleService {

    /** The attribute that the demo and many organisations have; others are added by administrators. */
    public static final String SITE = "site";

    private final PeopleStore people;
    private final TeamStore teams;
    private final AttributeStore attributes;
    private final PasswordEncoder passwords;
    private final PasswordRules rules;
    private final TokensService tokens;
    private final Trail trail;
    private final EpochCache remembered;
    private final ApplicationEventPublisher events;
    private final String nobodysHash;

    PeopleService(
            PeopleStore people,
            TeamStore teams,
            AttributeStore attributes,
            PasswordEncoder passwords,
            PasswordRules rules,
            TokensService tokens,
            Trail trail,
            EpochCache remembered,
            ApplicationEventPublisher events) {
        this.people = people;
        this.teams = teams;
        this.attributes = attributes;
        this.passwords = passwords;
        this.rules = rules;
        this.tokens = tokens;
        this.trail = trail;
        this.remembered = remembered;
        this.events = events;
        this.nobodysHash = passwords.encode("nobody has this password");
    }

    /**
     * A person as others see them.
     *
     * @param site the first of their sites, where the organisation knows sites
     * @param values what is known of them, by attribute: what {@code my …} stands for
     * @param active whether they can sign in; who has left stays known by name
     */
    public record Profile(
            @AsText long id,
            String name,
            String fullName,
            Role role,
            Optional<String> site,
            Map<String, List<String>> values,
            List<TeamName> teams,
            boolean active) {

        /** The same without what is known of the person. */
        Profile asOthersSeeIt() {
            return new Profile(id, name, fullName, role, Optional.empty(), Map.of(), teams, active);
        }
    }

    /** A team's number and name. */
    public record TeamName(@AsText long id, String name) {}

    /** Something that is known of people: what may follow {@code my}. */
    public record Attribute(String key, String label, String description) {}

    /** What is remembered of a person, or of all (0). */
    private record Asked(String what, long person) {}

    /** The person with this name and password. It takes as long for a name that nobody has. */
    @Transactional(readOnly = true)
    public Optional<SignedIn> check(String name, String password) {
        Optional<Person> person = people.findByNameIgnoreCase(name.strip()).filter(Person::active);
        boolean right =
                passwords.matches(password, person.map(Person::passwordHash).orElse(nobodysHash));
        return right ? person.map(PeopleService::signedIn) : Optional.empty();
    }

    /**
     * A person as they are now.
     *
     * @param mustChangePassword whether somebody else chose the password, so that it has to be changed first; not where the
     *     identity provider signs the person in
     * @param letterKeys whether keys of one letter do something on the desk
     * @param list how they have the list of views and registers
     */
    public record Standing(
            SignedIn who, String fullName, boolean mustChangePassword, boolean letterKeys, ListArrangement list) {

        /** The same person, seen or restrained in another way. */
        Standing as(SignedIn other) {
            return new Standing(other, fullName, mustChangePassword, letterKeys, list);
        }
    }

    static Standing standing(Person person) {
        return new Standing(
                signedIn(person),
                person.fullName(),
                person.mustChangePassword() && person.subject() == null,
                person.letterKeys(),
                person.listArrangement());
    }

    /** The person as they are now: none when they have left. Role and name may have changed since they signed in. */
    public Optional<Standing> now(long id) {
        return remembered.get(
                new Asked("standing", id),
                () -> people.findById(id).filter(Person::active).map(PeopleService::standing));
    }

    /** The person whom the identity provider knows by this subject. */
    @Transactional(readOnly = true)
    public Optional<SignedIn> bySubject(String subject) {
        return people.findBySubject(subject).filter(Person::active).map(PeopleService::signedIn);
    }

    /**
     * Ties a person to a subject of the identity provider, at their first sign-in there. Nobody who has another subject is
     * tied anew.
     */
    @Transactional
    public Optional<SignedIn> link(String name, String subject) {
        Optional<Person> person =
                people.findByNameIgnoreCase(name.strip()).filter(Person::active).filter(p -> p.subject() == null);
        person.ifPresent(p -> {
            p.linkTo(subject);
            trail.write(Optional.of(p.id()), "person", p.id(), "linked", null, subject);
        });
        return person.map(PeopleService::signedIn);
    }

    /**
     * Changes a person's own password.
     *
     * @param keepTokens whether the person's tokens go on working; whoever knew the old password may have made some
     */
    @Transactional
    public void changePassword(SignedIn who, String old, String fresh, boolean keepTokens) {
        Person person = people.findById(who.id()).orElseThrow();
        if (!passwords.matches(old, person.passwordHash())) {
            throw Problem.unprocessable("wrong-password", "The old password is not right. Nothing was changed.")
                    .at("old");
        }
        rules.require("fresh", fresh, person.name(), person.fullName());
        if (passwords.matches(fresh, person.passwordHash())) {
            throw Problem.unprocessable("same-password", "This is the old password. Choose another.")
                    .at("fresh");
        }
        person.changePassword(passwords.encode(fresh), false);
        if (!keepTokens) {
            tokens.revokeAll(who.id(), who);
        }
        trail.write(Optional.of(who.id()), "person", who.id(), "password changed", null, null);
        events.publishEvent(new PasswordChanged(person.name()));
    }

    /** A person as others see them. */
    @Transactional(readOnly = true)
    public Profile profile(long id) {
        return people.findById(id).map(PeopleService::profile).orElseThrow(() -> Problem.notFound("This person"));
    }

    /** Everybody, by full name. */
    public List<Profile> everyone() {
        return remembered.get(
                new Asked("everyone", 0),
                () -> people.everyone().stream().map(PeopleService::profile).toList());
    }

    /** All teams, by name. */
    public List<TeamName> teams() {
        return remembered.get(
                new Asked("all teams", 0),
                () -> teams.findAllByOrderByName().stream()
                        .map(t -> new TeamName(t.id(), t.name()))
                        .toList());
    }

    /** The known values of a person field: sign-in names with full names. */
    public List<Option> options() {
        return remembered.get(
                new Asked("options", 0),
                () -> people.everyone().stream()
                        .map(p -> new Option(p.name(), p.fullName()))
                        .toList());
    }

    /** What is known of people, in its order. */
    @Transactional(readOnly = true)
    public List<Attribute> known() {
        return attributes.findAllByOrderByPosition().stream()
                .map(a -> new Attribute(a.key(), a.label(), a.description()))
                .toList();
    }

    /** What may follow {@code my}, and {@code me}. */
    public Set<String> attributes() {
        return remembered.get(new Asked("attributes", 0), () -> {
            Set<String> names = new TreeSet<>(Set.of("me", "team"));
            attributes.findAllByOrderByPosition().forEach(a -> names.add(a.key()));
            return Collections.unmodifiableSet(names);
        });
    }

    /** The facts behind {@code me} and {@code my …} for a person. */
    public Viewer viewer(SignedIn who) {
        return remembered.get(new Asked("viewer", who.id()), () -> {
            Person person = people.findById(who.id()).orElseThrow(() -> Problem.notFound("This person"));
            Map<String, List<String>> facts = new HashMap<>(person.values());
            facts.put("me", List.of(person.name()));
            facts.put("team", person.teams().stream().map(Team::name).toList());
            return new Viewer(facts);
        });
    }

    /** The numbers of a person's teams. */
    public List<Long> teamsOf(SignedIn who) {
        return remembered.get(
                new Asked("teams", who.id()),
                () -> people.findById(who.id()).orElseThrow().teams().stream()
                        .map(Team::id)
                        .toList());
    }

    /** Says that a person has to choose a password of their own before anything else. */
    @Transactional
    public void requirePasswordChange(String name) {
        Person person = people.findByNameIgnoreCase(name).orElseThrow();
        person.changePassword(person.passwordHash(), true);
    }

    /** Whether nobody can sign in yet. */
    @Transactional(readOnly = true)
    public boolean isEmpty() {
        return people.count() == 0;
    }

    /** Whether nobody signs in by this name, nor ever did. */
    @Transactional(readOnly = true)
    public boolean isFree(String name) {
        return !name.isBlank() && people.findByNameIgnoreCase(name.strip()).isEmpty();
    }

    /** Adds a member who comes in through the identity provider only. */
    @Transactional
    public SignedIn addLinked(String name, String fullName, String subject) {
        Person person = new Person(
                name.strip().toLowerCase(Locale.ROOT),
                passwords.encode(UUID.randomUUID().toString()));
        person.describe(fullName, Role.MEMBER, Map.of(), List.of());
        person.linkTo(subject);
        people.save(person);
        trail.write(Optional.of(person.id()), "person", person.id(), "added", null, added(person));
        return signedIn(person);
    }

    /** Adds a team. */
    @Transactional
    public TeamName addTeam(String name) {
        Team team = teams.save(new Team(name));
        return new TeamName(team.id(), team.name());
    }

    /**
     * Adds a person for an installation that loads itself; the password is kept as a hash only. How easily it is guessed is
     * the installation's matter.
     */
    @Transactional
    public Profile addPerson(
            String name, String fullName, String password, Role role, Optional<String> site, List<TeamName> memberOf) {
        PasswordRules.requireLength("password", password);
        List<Team> all = teams.findAllByOrderByName();
        Person person = new Person(name, passwords.encode(password));
        person.describe(
                fullName,
                role,
                site.map(s -> Map.of(SITE, List.of(s))).orElse(Map.of()),
                all.stream()
                        .filter(t -> memberOf.stream().anyMatch(m -> m.id() == t.id()))
                        .toList());
        people.save(person);
        trail.write(Optional.empty(), "person", person.id(), "added", null, added(person));
        return profile(person);
    }

    private static Map<String, String> added(Person person) {
        return Map.of(
                "name", person.name(),
                "fullName", person.fullName(),
                "role", person.role().name());
    }

    static SignedIn signedIn(Person person) {
        return new SignedIn(person.id(), person.name(), person.role());
    }

    static Profile profile(Person p) {
        Map<String, List<String>> values = p.values();
        return new Profile(
                p.id(),
                p.name(),
                p.fullName(),
                p.role(),
                values.getOrDefault(SITE, List.of()).stream().findFirst(),
                values,
                p.teams().stream().map(t -> new TeamName(t.id(), t.name())).toList(),
                p.active());
    }
}
