package deftlens.server.people;

import deftlens.core.condition.Viewer;
import deftlens.core.field.Option;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.time.Clock;
import java.util.Base64;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The people and teams of the organisation. */
@Service
public class PeopleService {

    /** What may follow {@code my}, and {@code me}. */
    public static final Set<String> ATTRIBUTES = Set.of("me", "site", "team");

    private static final int LEAST_PASSWORD = 9;

    private final PeopleStore people;
    private final TeamStore teams;
    private final TokenStore tokens;
    private final PasswordEncoder passwords;
    private final Trail trail;
    private final Clock clock;
    private final String nobodysHash;

    PeopleService(
            PeopleStore people,
            TeamStore teams,
            TokenStore tokens,
            PasswordEncoder passwords,
            Trail trail,
            Clock clock) {
        this.people = people;
        this.teams = teams;
        this.tokens = tokens;
        this.passwords = passwords;
        this.trail = trail;
        this.clock = clock;
        this.nobodysHash = passwords.encode("nobody has this password");
    }

    /** A person as others see them. */
    public record Profile(
            long id, String name, String fullName, Role role, Optional<String> site, List<TeamName> teams) {}

    /** A team's number and name. */
    public record TeamName(long id, String name) {}

    /** A token's number, label and age; the token itself is shown once, when it is made. */
    public record TokenName(long id, String label, java.time.Instant createdAt) {}

    /** The person with this name and password. It takes as long for a name that nobody has. */
    @Transactional(readOnly = true)
    public Optional<SignedIn> check(String name, String password) {
        Optional<Person> person = people.findByNameIgnoreCase(name.strip()).filter(Person::active);
        boolean right =
                passwords.matches(password, person.map(Person::passwordHash).orElse(nobodysHash));
        return right ? person.map(PeopleService::signedIn) : Optional.empty();
    }

    /** The person that a bearer token stands for. */
    @Transactional(readOnly = true)
    public Optional<SignedIn> byToken(String token) {
        return tokens.findByHashAndRevokedAtIsNull(hash(token))
                .map(PersonalToken::person)
                .filter(Person::active)
                .map(PeopleService::signedIn);
    }

    /** Makes a token for a person and tells it, once. */
    @Transactional
    public String makeToken(SignedIn who, String label) {
        byte[] random = new byte[32];
        new SecureRandom().nextBytes(random);
        String token = "deft_" + Base64.getUrlEncoder().withoutPadding().encodeToString(random);
        Person person = people.findById(who.id()).orElseThrow();
        PersonalToken kept = tokens.save(new PersonalToken(person, label, hash(token), clock.instant()));
        trail.write(Optional.of(who.id()), "token", kept.id(), "made", null, label);
        return token;
    }

    /** The tokens of a person that still work. */
    @Transactional(readOnly = true)
    public List<TokenName> tokens(SignedIn who) {
        return tokens.findByPersonIdAndRevokedAtIsNullOrderById(who.id()).stream()
                .map(t -> new TokenName(t.id(), t.label(), t.createdAt()))
                .toList();
    }

    /** Ends a token. */
    @Transactional
    public void revokeToken(SignedIn who, long id) {
        PersonalToken token =
                tokens.findByIdAndPersonId(id, who.id()).orElseThrow(() -> Problem.notFound("This token"));
        token.revoke(clock.instant());
        trail.write(Optional.of(who.id()), "token", id, "revoked", token.label(), null);
    }

    /** Changes a person's own password. */
    @Transactional
    public void changePassword(SignedIn who, String old, String fresh) {
        Person person = people.findById(who.id()).orElseThrow();
        if (!passwords.matches(old, person.passwordHash())) {
            throw Problem.unprocessable("wrong-password", "The old password is not right. Nothing was changed.");
        }
        requirePassword(fresh);
        person.changePassword(passwords.encode(fresh));
        trail.write(Optional.of(who.id()), "person", who.id(), "password changed", null, null);
    }

    /** A person as others see them. */
    @Transactional(readOnly = true)
    public Profile profile(long id) {
        return people.findById(id).map(PeopleService::profile).orElseThrow(() -> Problem.notFound("This person"));
    }

    /** Everybody, by full name. */
    @Transactional(readOnly = true)
    public List<Profile> everyone() {
        return people.everyone().stream().map(PeopleService::profile).toList();
    }

    /** All teams, by name. */
    @Transactional(readOnly = true)
    public List<TeamName> teams() {
        return teams.findAllByOrderByName().stream()
                .map(t -> new TeamName(t.id(), t.name()))
                .toList();
    }

    /** The known values of a person field: sign-in names with full names. */
    @Transactional(readOnly = true)
    public List<Option> options() {
        return people.everyone().stream()
                .map(p -> new Option(p.name(), p.fullName()))
                .toList();
    }

    /** The facts behind {@code me} and {@code my …} for a person. */
    @Transactional(readOnly = true)
    public Viewer viewer(SignedIn who) {
        Person person = people.findById(who.id()).orElseThrow(() -> Problem.notFound("This person"));
        Map<String, List<String>> facts = new HashMap<>();
        facts.put("me", List.of(person.name()));
        if (person.site() != null) {
            facts.put("site", List.of(person.site()));
        }
        facts.put("team", person.teams().stream().map(Team::name).toList());
        return new Viewer(facts);
    }

    /** The numbers of a person's teams. */
    @Transactional(readOnly = true)
    public List<Long> teamsOf(SignedIn who) {
        return people.findById(who.id()).orElseThrow().teams().stream()
                .map(Team::id)
                .toList();
    }

    /** Whether nobody can sign in yet. */
    @Transactional(readOnly = true)
    public boolean isEmpty() {
        return people.count() == 0;
    }

    /** Adds a team. */
    @Transactional
    public TeamName addTeam(String name) {
        Team team = teams.save(new Team(name));
        return new TeamName(team.id(), team.name());
    }

    /** Adds a person; the password is kept as a hash only. */
    @Transactional
    public Profile addPerson(
            String name, String fullName, String password, Role role, Optional<String> site, List<TeamName> memberOf) {
        requirePassword(password);
        List<Team> all = teams.findAllByOrderByName();
        Person person = people.save(new Person(
                name,
                fullName,
                passwords.encode(password),
                role,
                site.orElse(null),
                all.stream()
                        .filter(t -> memberOf.stream().anyMatch(m -> m.id() == t.id()))
                        .toList()));
        trail.write(Optional.empty(), "person", person.id(), "added", null, name);
        return profile(person);
    }

    private static void requirePassword(String password) {
        if (password.length() < LEAST_PASSWORD) {
            throw Problem.unprocessable(
                    "weak-password", "A password needs at least " + LEAST_PASSWORD + " characters.");
        }
        if (password.getBytes(StandardCharsets.UTF_8).length > 72) {
            throw Problem.unprocessable("long-password", "A password may have at most 72 bytes.");
        }
    }

    private static SignedIn signedIn(Person person) {
        return new SignedIn(person.id(), person.name(), person.role());
    }

    private static Profile profile(Person p) {
        return new Profile(
                p.id(),
                p.name(),
                p.fullName(),
                p.role(),
                Optional.ofNullable(p.site()),
                p.teams().stream().map(t -> new TeamName(t.id(), t.name())).toList());
    }

    private static String hash(String token) {
        try {
            return HexFormat.of()
                    .formatHex(MessageDigest.getInstance("SHA-256").digest(token.getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
