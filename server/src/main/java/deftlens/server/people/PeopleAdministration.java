package deftlens.server.people;

import deftlens.server.people.PeopleService.Attribute;
import deftlens.server.people.PeopleService.Profile;
import deftlens.server.people.PeopleService.TeamName;
import deftlens.server.platform.AsText;
import deftlens.server.platform.AsTexts;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.trail.Trail;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
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

/** What administrators do with people, teams and the facts about them; each change with its entry in the trail. */
@Service
class PeopleAdministration {

    private static final Pattern NAME = Pattern.compile("[\\p{L}\\p{N}][\\p{L}\\p{N}._@+-]{0,59}");
    private static final Pattern KEY = Pattern.compile("[a-z][a-z0-9_]{0,39}");
    private static final Set<String> RESERVED = Set.of("me", "team", "my", "and", "or", "not", "off", "is", "in");
    private static final int LONGEST = 120;
    private static final int MOST_VALUES = 50;
    private static final String PERSON = "person";
    private static final String TEAM = "team";

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

    /** A team with its members. */
    record TeamEntry(
            @AsText long id,
            String name,
            int version,
            @AsTexts List<Long> members) {}

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

    private Person make(String name, String password, PersonInput said) {
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

    // ------------------------------------------------------------------ teams

    /** All teams with their members, by name. */
    @Transactional(readOnly = true)
    public List<TeamEntry> teams() {
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
    public TeamName addTeam(SignedIn who, String name) {
        requireAdministrator(who);
        Team team = teams.saveAndFlush(new Team(freeTeamName(name, Optional.empty())));
        trail.write(Optional.of(who.id()), TEAM, team.id(), "added", null, team.name());
        return new TeamName(team.id(), team.name());
    }

    /** Changes a team's name and who is in it. */
    @Transactional
    public TeamEntry changeTeam(SignedIn who, long id, int version, String name, List<Long> members) {
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
    public void removeTeam(SignedIn who, long id, int version) {
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

    // ------------------------------------------------------------------ what is known of people

    /** Says anew what is known of people: what may follow {@code my}. One that something leans on cannot go. */
    @Transactional
    public List<Attribute> settle(SignedIn who, List<Attribute> wanted) {
        requireAdministrator(who);
        Map<String, ViewerAttribute> there = new LinkedHashMap<>();
        attributes.findAllByOrderByPosition().forEach(a -> there.put(a.key(), a));
        List<Attribute> before = known(there);
        Set<String> named = new HashSet<>();
        int position = 0;
        for (Attribute attribute : wanted) {
            if (!KEY.matcher(attribute.key()).matches() || RESERVED.contains(attribute.key())) {
                throw Problem.unprocessable(
                        "bad-attribute",
                        "What may follow “my” is one word of small letters, digits and _, such as site or cost_centre; not “"
                                + attribute.key() + "”.");
            }
            if (!named.add(attribute.key())) {
                throw Problem.unprocessable("attribute-twice", "“my " + attribute.key() + "” is there twice.");
            }
            String label = required("label", "The label of “my " + attribute.key() + "”", attribute.label());
            ViewerAttribute known = there.get(attribute.key());
            if (known == null) {
                attributes.save(new ViewerAttribute(attribute.key(), label, attribute.description(), position));
            } else {
                known.describe(label, attribute.description(), position);
            }
            position++;
        }
        for (ViewerAttribute old : there.values()) {
            if (!named.contains(old.key())) {
                requireUnused(
                        "“my " + old.key() + "” is still used",
                        uses.stream()
                                .flatMap(u -> u.ofAttribute(old.key()).stream())
                                .toList());
                attributes.delete(old);
            }
        }
        attributes.flush();
        List<Attribute> after = attributes.findAllByOrderByPosition().stream()
                .map(a -> new Attribute(a.key(), a.label(), a.description()))
                .toList();
        trail.write(Optional.of(who.id()), "viewer-attributes", 0, "changed", before, after);
        return after;
    }

    private static List<Attribute> known(Map<String, ViewerAttribute> there) {
        return there.values().stream()
                .map(a -> new Attribute(a.key(), a.label(), a.description()))
                .toList();
    }

    // ------------------------------------------------------------------ many at once

    /**
     * What a file of people would do, or did.
     *
     * @param added the sign-in names of those who are new
     * @param changed what changes of whom, in words
     * @param same how many are in the file as they are here
     * @param refused lines that do not fit; while there are any, nothing is written
     * @param written whether it was done
     */
    record PeopleReport(
            List<String> added, List<String> changed, int same, List<RefusedLine> refused, boolean written) {}

    /** A line that does not fit, counted from 1 with the heading, and why. */
    record RefusedLine(long line, String reason) {}

    /**
     * Brings people in from a file: new ones with a first password, known ones changed in what the file names. All or nothing.
     *
     * @param write false only tells what it would do
     */
    @Transactional
    public PeopleReport bringIn(SignedIn who, String csv, boolean write) {
        requireAdministrator(who);
        Map<String, Long> byTeam = new LinkedHashMap<>();
        teams.findAllByOrderByName().forEach(t -> byTeam.put(t.name().toLowerCase(Locale.ROOT), t.id()));
        PeopleFile file = PeopleFile.read(csv, attributes.findAllByOrderByPosition());
        List<RefusedLine> refused = new ArrayList<>(file.refused());
        List<String> added = new ArrayList<>();
        List<String> changed = new ArrayList<>();
        int same = 0;
        Set<String> seen = new HashSet<>();
        for (PeopleFile.Line line : file.lines()) {
            try {
                if (!seen.add(line.name())) {
                    throw Problem.unprocessable("twice", "“" + line.name() + "” stands in the file twice.");
                }
                Optional<Person> known = people.findByNameIgnoreCase(line.name());
                PersonInput said = said(line, known, byTeam);
                if (known.isEmpty()) {
                    Person person = make(line.name(), line.password().orElse(""), said);
                    trail.write(Optional.of(who.id()), PERSON, person.id(), "added", null, kept(person));
                    added.add(person.name());
                } else {
                    PersonSnapshot before = kept(known.get());
                    if (before.role() == Role.ADMINISTRATOR && said.role() != Role.ADMINISTRATOR) {
                        requireOtherAdministrator(known.get());
                    }
                    describe(known.get(), said);
                    PersonSnapshot after = kept(people.saveAndFlush(known.get()));
                    if (after.equals(before)) {
                        same++;
                    } else {
                        trail.write(Optional.of(who.id()), PERSON, known.get().id(), "changed", before, after);
                        changed.add(before.name() + ": " + difference(before, after));
                    }
                }
            } catch (Problem problem) {
                refused.add(new RefusedLine(line.number(), problem.getMessage()));
            }
        }
        boolean written = write && refused.isEmpty();
        if (!written) {
            org.springframework.transaction.interceptor.TransactionAspectSupport.currentTransactionStatus()
                    .setRollbackOnly();
        }
        return new PeopleReport(added, changed, same, refused, written);
    }

    private static PersonInput said(PeopleFile.Line line, Optional<Person> known, Map<String, Long> byTeam) {
        List<Long> teams = line.teams()
                .map(names -> names.stream()
                        .map(n -> Optional.ofNullable(byTeam.get(n.toLowerCase(Locale.ROOT)))
                                .orElseThrow(
                                        () -> Problem.unprocessable("unknown-team", "There is no team “" + n + "”.")))
                        .toList())
                .orElseGet(() -> known.map(p -> p.teams().stream().map(Team::id).toList())
                        .orElse(List.of()));
        Map<String, List<String>> values =
                new TreeMap<>(known.map(Person::values).orElse(Map.of()));
        line.values().forEach((key, each) -> {
            if (each.isEmpty()) {
                values.remove(key);
            } else {
                values.put(key, each);
            }
        });
        return new PersonInput(
                line.fullName().or(() -> known.map(Person::fullName)).orElse(line.name()),
                line.role().or(() -> known.map(Person::role)).orElse(Role.MEMBER),
                teams,
                values);
    }

    private static String difference(PersonSnapshot before, PersonSnapshot after) {
        List<String> found = new ArrayList<>();
        if (!before.fullName().equals(after.fullName())) {
            found.add("called " + after.fullName());
        }
        if (before.role() != after.role()) {
            found.add("role " + after.role().name().toLowerCase(Locale.ROOT));
        }
        if (!before.teams().equals(after.teams())) {
            found.add("teams " + String.join(", ", after.teams()));
        }
        Set<String> keys = new java.util.TreeSet<>(before.values().keySet());
        keys.addAll(after.values().keySet());
        for (String key : keys) {
            List<String> now = after.values().getOrDefault(key, List.of());
            if (!now.equals(before.values().getOrDefault(key, List.of()))) {
                found.add("my " + key + " = " + (now.isEmpty() ? "nothing" : String.join(", ", now)));
            }
        }
        return String.join("; ", found);
    }

    // ------------------------------------------------------------------ in common

    private void describe(Person person, PersonInput said) {
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
            if (plain.size() > MOST_VALUES || plain.stream().anyMatch(v -> v.length() > LONGEST)) {
                throw Problem.unprocessable(
                        "long-values",
                        "“my " + key + "” has at most " + MOST_VALUES + " values of " + LONGEST + " characters.");
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

    private static String required(String at, String what, String text) {
        String plain = text.strip().replaceAll("\\s+", " ");
        if (!VisibleText.isVisible(plain) || plain.codePointCount(0, plain.length()) > LONGEST) {
            throw Problem.unprocessable("bad-text", what + " has 1 to " + LONGEST + " characters.")
                    .at(at);
        }
        return plain;
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

    private static Problem changedMeanwhile(String what) {
        return new Problem(
                HttpStatus.CONFLICT,
                "changed-meanwhile",
                "Somebody else changed " + what
                        + " after you opened it. Nothing of yours was written; look at theirs and try again.");
    }

    private void requireOtherAdministrator(Person person) {
        // Locked, so that two administrators who demote each other at one moment come one after the other.
        if (person.role() == Role.ADMINISTRATOR
                && person.active()
                && people.lockAdministrators().size() < 2) {
            throw Problem.unprocessable(
                    "last-administrator",
                    person.fullName() + " is the only administrator. Make somebody else one first.");
        }
    }

    private static void requireUnused(String what, List<String> used) {
        if (!used.isEmpty()) {
            List<String> shown = used.subList(0, Math.min(used.size(), 5));
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "still-used",
                            what + " by " + String.join(", ", shown)
                                    + (used.size() > shown.size()
                                            ? " and " + (used.size() - shown.size()) + " more"
                                            : "")
                                    + ". Change those first.")
                    .with("used", used);
        }
    }

    private static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator changes people and teams.");
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

    private static PersonSnapshot kept(Person person) {
        return new PersonSnapshot(
                person.name(),
                person.fullName(),
                person.role(),
                person.teams().stream().map(Team::name).sorted().toList(),
                person.values());
    }
}
