package deftlens.server.people;

import static deftlens.server.people.Administering.changedMeanwhile;
import static deftlens.server.people.Administering.requireAdministrator;
import static deftlens.server.people.Administering.required;

import deftlens.server.people.PeopleService.Profile;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import java.time.Clock;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.regex.Pattern;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.http.HttpStatus;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** What administrators do with people; each change with its entry in the trail. */
@Service
class PeopleAdministration {

    private static final Pattern NAME = Pattern.compile("[\\p{L}\\p{N}][\\p{L}\\p{N}._@+-]{0,59}");
    private static final int MOST_VALUES = 50;
    static final String PERSON = "person";

    private final PeopleStore people;
    private final TeamStore teams;
    private final AttributeStore attributes;
    private final TokensService tokens;
    private final SessionsService sessions;
    private final PasswordEncoder passwords;
    private final PasswordRules rules;
    private final ApplicationEventPublisher events;
    private final Trail trail;
    private final Clock clock;
    private final List<PeopleUse> uses;

    PeopleAdministration(
            PeopleStore people,
            TeamStore teams,
            AttributeStore attributes,
            TokensService tokens,
            SessionsService sessions,
            PasswordEncoder passwords,
            PasswordRules rules,
            ApplicationEventPublisher events,
            Trail trail,
            Clock clock,
            List<PeopleUse> uses) {
        this.people = people;
        this.teams = teams;
        this.attributes = attributes;
        this.tokens = tokens;
        this.sessions = sessions;
        this.passwords = passwords;
        this.rules = rules;
        this.events = events;
        this.trail = trail;
        this.clock = clock;
        this.uses = uses;
    }

    /**
     * A person as administrators see them.
     *
     * @param leftAt when the person was disabled
     * @param linked whether the identity provider's sign-in is tied to them
     * @param sessions how many browsers they are signed in with
     * @param tokens how many tokens of theirs work
     * @param views how many views they own
     */
    record PersonEntry(
            Profile person,
            int version,
            Optional<Instant> leftAt,
            boolean linked,
            boolean mustChangePassword,
            int sessions,
            int tokens,
            int views) {}

    /** What is said of a person; teams by their numbers. */
    record PersonInput(String fullName, Role role, List<Long> teams, Map<String, List<String>> values) {}

    /** What the trail keeps of a person. */
    record PersonSnapshot(
            String name, String fullName, Role role, List<String> teams, Map<String, List<String>> values) {}

    /** A person with all that administrators and auditors see. */
    @Transactional(readOnly = true)
    public PersonEntry entry(long id, SignedIn who) {
        if (!who.readsEverything()) {
            throw Problem.forbidden("Only administrators and auditors look at how somebody signs in.");
        }
        return entry(person(id));
    }

    /** Adds a person. The password is for the first sign-in and has to be changed there. */
    @Transactional
    public PersonEntry add(SignedIn who, String name, String password, PersonInput said) {
        requireAdministrator(who);
        Person person = make(name, password, said);
        trail.write(Optional.of(who.id()), PERSON, person.id(), "added", null, kept(person));
        return entry(person);
    }

    /** Makes a person, without a word in the trail. */
    Person make(String name, String password, PersonInput said) {
        String plain = name.strip().toLowerCase(Locale.ROOT);
        if (!NAME.matcher(plain).matches()) {
            throw Problem.unprocessable(
                            "bad-name",
                            "A sign-in name has letters, digits, dots, dashes and @, at most 60, and no spaces; not “"
                                    + name + "”.")
                    .at("name");
        }
        if (people.findByNameIgnoreCase(plain).isPresent()) {
            throw new Problem(HttpStatus.CONFLICT, "name-taken", "Somebody signs in as “" + plain + "” already.")
                    .at("name");
        }
        rules.require("password", password, plain, said.fullName());
        Person person = new Person(plain, passwords.encode(password));
        person.changePassword(passwords.encode(password), true);
        describe(person, said);
        return people.saveAndFlush(person);
    }

    /** Changes what is said of a person. */
    @Transactional
    public PersonEntry change(SignedIn who, long id, int version, PersonInput said) {
        requireAdministrator(who);
        Person person = person(id, version);
        PersonSnapshot before = kept(person);
        if (person.role() == Role.ADMINISTRATOR && said.role() != Role.ADMINISTRATOR) {
            requireOtherAdministrator(person);
        }
        describe(person, said);
        PersonSnapshot after = kept(people.saveAndFlush(person));
        if (!after.equals(before)) {
            trail.write(Optional.of(who.id()), PERSON, id, "changed", before, after);
        }
        return entry(person);
    }

    /** Changes one's own full name. */
    @Transactional
    public Profile rename(SignedIn who, String fullName) {
        Person person = person(who.id());
        PersonSnapshot before = kept(person);
        describe(
                person,
                new PersonInput(
                        fullName,
                        person.role(),
                        person.teams().stream().map(Team::id).toList(),
                        person.values()));
        trail.write(Optional.of(who.id()), PERSON, who.id(), "changed", before, kept(people.saveAndFlush(person)));
        return PeopleService.profile(person);
    }

    /** Switches one's own keys of one letter on or off. */
    @Transactional
    public void useLetterKeys(SignedIn who, boolean on) {
        Person person = person(who.id());
        person.useLetterKeys(on);
        people.saveAndFlush(person);
    }

    /** Arranges one's own list of views and registers. */
    @Transactional
    public void arrangeList(SignedIn who, ListArrangement arrangement) {
        Person person = person(who.id());
        person.arrangeList(arrangement);
        people.saveAndFlush(person);
    }

    /** Disables somebody who leaves: their sessions and tokens end at once; views and trail stay theirs until handed over. */
    @Transactional
    public PersonEntry leave(SignedIn who, long id, int version) {
        requireAdministrator(who);
        Person person = person(id, version);
        if (id == who.id()) {
            throw Problem.unprocessable("oneself", "Nobody disables themselves; another administrator can.");
        }
        requireOtherAdministrator(person);
        if (person.active()) {
            person.leave(clock.instant());
            people.saveAndFlush(person);
            tokens.revokeAll(id, who);
            sessions.endAll(who, id, person.name(), Optional.empty());
            trail.write(Optional.of(who.id()), PERSON, id, "disabled", null, null);
        }
        return entry(person);
    }

    /** Lets somebody who left sign in again. */
    @Transactional
    public PersonEntry comeBack(SignedIn who, long id, int version) {
        requireAdministrator(who);
        Person person = person(id, version);
        if (!person.active()) {
            person.comeBack();
            people.saveAndFlush(person);
            trail.write(Optional.of(who.id()), PERSON, id, "enabled", null, null);
        }
        return entry(person);
    }

    /** Gives somebody a password for their next sign-in, where they have to change it; their sessions and tokens end. */
    @Transactional
    public void setPassword(SignedIn who, long id, String password) {
        requireAdministrator(who);
        Person person = person(id);
        rules.require("password", password, person.name(), person.fullName());
        person.changePassword(passwords.encode(password), true);
        people.saveAndFlush(person);
        sessions.endAll(who, id, person.name(), Optional.empty());
        tokens.revokeAll(id, who);
        trail.write(Optional.of(who.id()), PERSON, id, "password set", null, null);
        events.publishEvent(new PasswordChanged(person.name()));
    }

    /** Signs somebody out everywhere. */
    @Transactional
    public int endSessions(SignedIn who, long id) {
        requireAdministrator(who);
        return sessions.endAll(who, id, person(id).name(), Optional.empty());
    }

    /** Takes the tie to the identity provider away. */
    @Transactional
    public PersonEntry unlink(SignedIn who, long id) {
        requireAdministrator(who);
        Person person = person(id);
        String before = person.subject();
        if (before != null) {
            person.linkTo(null);
            people.saveAndFlush(person);
            trail.write(Optional.of(who.id()), PERSON, id, "unlinked", before, null);
        }
        return entry(person);
    }

    /** Whom an administrator looks as from now on; noted in the trail. */
    @Transactional
    public SignedIn lookAs(SignedIn who, long id) {
        requireAdministrator(who);
        if (who.restrained()) {
            throw Problem.forbidden("Stop looking as somebody else first.");
        }
        Person person = person(id);
        if (!person.active()) {
            throw Problem.unprocessable(
                    "not-active", person.fullName() + " cannot sign in, so there is nothing to see.");
        }
        trail.write(Optional.of(who.id()), PERSON, id, "looked as", null, null);
        return PeopleService.signedIn(person).lookedAt(person(who.id()).fullName());
    }

    /** Says something of a person, and refuses what does not fit. */
    void describe(Person person, PersonInput said) {
        Set<String> known = new HashSet<>();
        attributes.findAllByOrderByPosition().forEach(a -> known.add(a.key()));
        Map<String, List<String>> values = new TreeMap<>();
        said.values().forEach((key, each) -> {
            if (!known.contains(key)) {
                throw Problem.unprocessable(
                        "unknown-attribute", "“my " + key + "” is not known here. Add it under People, What is known.");
            }
            List<String> plain = each.stream()
                    .map(String::strip)
                    .filter(v -> !v.isEmpty())
                    .distinct()
                    .toList();
            if (plain.size() > MOST_VALUES || plain.stream().anyMatch(v -> v.length() > Administering.LONGEST)) {
                throw Problem.unprocessable(
                        "long-values",
                        "“my " + key + "” has at most " + MOST_VALUES + " values of " + Administering.LONGEST
                                + " characters.");
            }
            if (!plain.isEmpty()) {
                values.put(key, plain);
            }
        });
        List<Team> memberOf = said.teams().stream()
                .distinct()
                .map(id -> teams.findById(id)
                        .orElseThrow(() ->
                                Problem.unprocessable("unknown-team", "There is no team with the number " + id + ".")))
                .sorted(java.util.Comparator.comparing(Team::name))
                .toList();
        person.describe(required("fullName", "A full name", said.fullName()), said.role(), values, memberOf);
    }

    private Person person(long id) {
        return people.findById(id).orElseThrow(() -> Problem.notFound("This person"));
    }

    private Person person(long id, int version) {
        Person person = person(id);
        if (person.version() != version) {
            throw changedMeanwhile(person.fullName()).with("current", entry(person));
        }
        return person;
    }

    /** @throws Problem when nobody else would be an administrator */
    void requireOtherAdministrator(Person person) {
        // Locked, so that two administrators who demote each other at one moment come one after the other.
        if (person.role() == Role.ADMINISTRATOR
                && person.active()
                && people.lockAdministrators().size() < 2) {
            throw Problem.unprocessable(
                    "last-administrator",
                    person.fullName() + " is the only administrator. Make somebody else one first.");
        }
    }

    private PersonEntry entry(Person person) {
        return new PersonEntry(
                PeopleService.profile(person),
                person.version(),
                Optional.ofNullable(person.leftAt()),
                person.subject() != null,
                person.mustChangePassword(),
                sessions.of(person.name(), Optional.empty()).size(),
                (int) tokens.of(person.id()).stream().filter(t -> !t.expired()).count(),
                uses.stream().mapToInt(u -> u.ownedBy(person.id())).sum());
    }

    static PersonSnapshot kept(Person person) {
        return new PersonSnapshot(
                person.name(),
                person.fullName(),
                person.role(),
                person.teams().stream().map(Team::name).sorted().toList(),
                person.values());
    }
}
