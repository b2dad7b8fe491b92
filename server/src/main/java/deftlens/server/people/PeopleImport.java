package deftlens.server.people;

import static deftlens.server.people.Administering.requireAdministrator;

import deftlens.server.people.PeopleAdministration.PersonInput;
import deftlens.server.people.PeopleAdministration.PersonSnapshot;
import deftlens.server.platform.Problem;
import deftlens.server.trail.Trail;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.interceptor.TransactionAspectSupport;

/** Brings people in from a file. */
@Service
class PeopleImport {

    private static final String PERSON = PeopleAdministration.PERSON;

    private final PeopleAdministration administration;
    private final PeopleStore people;
    private final TeamStore teams;
    private final AttributeStore attributes;
    private final Trail trail;

    PeopleImport(
            PeopleAdministration administration,
            PeopleStore people,
            TeamStore teams,
            AttributeStore attributes,
            Trail trail) {
        this.administration = administration;
        this.people = people;
        this.teams = teams;
        this.attributes = attributes;
        this.trail = trail;
    }

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
                    Person person =
                            administration.make(line.name(), line.password().orElse(""), said);
                    trail.write(
                            Optional.of(who.id()),
                            PERSON,
                            person.id(),
                            "added",
                            null,
                            PeopleAdministration.kept(person));
                    added.add(person.name());
                } else {
                    PersonSnapshot before = PeopleAdministration.kept(known.get());
                    if (before.role() == Role.ADMINISTRATOR && said.role() != Role.ADMINISTRATOR) {
                        administration.requireOtherAdministrator(known.get());
                    }
                    administration.describe(known.get(), said);
                    PersonSnapshot after = PeopleAdministration.kept(people.saveAndFlush(known.get()));
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
            TransactionAspectSupport.currentTransactionStatus().setRollbackOnly();
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
        Set<String> keys = new TreeSet<>(before.values().keySet());
        keys.addAll(after.values().keySet());
        for (String key : keys) {
            List<String> now = after.values().getOrDefault(key, List.of());
            if (!now.equals(before.values().getOrDefault(key, List.of()))) {
                found.add("my " + key + " = " + (now.isEmpty() ? "nothing" : String.join(", ", now)));
            }
        }
        return String.join("; ", found);
    }
}
