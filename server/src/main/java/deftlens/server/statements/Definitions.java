package deftlens.server.statements;

import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.Role;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.EpochCache;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.TreeMap;
import org.springframework.stereotype.Service;

/**
 * What the answers of a register rest on beside its records: the organisation's zone, week, fiscal year and calendar, the
 * register's fields and bands, what the reader may see of them, and the facts behind {@code me} and {@code my …}. Two answers
 * with the same stamp may stand on one page.
 */
@Service
public class Definitions {

    private static final int DIGITS = 16;

    private final OrganisationService organisation;
    private final RegisterCatalogue registers;
    private final PeopleService people;
    private final EpochCache remembered;

    Definitions(
            OrganisationService organisation,
            RegisterCatalogue registers,
            PeopleService people,
            EpochCache remembered) {
        this.organisation = organisation;
        this.registers = registers;
        this.people = people;
        this.remembered = remembered;
    }

    /**
     * What one register's answers rest on for one reader.
     *
     * @param since counts the changes of people, registers and the organisation; of two stamps, the one with more is the later
     * @param stamp another one when anything is different that an answer could show; it says nothing of what that is
     */
    public record Stamp(long since, String stamp) {

        /** The two as one word: {@code 41-9f3a0c77d2be1845}. */
        @Override
        public String toString() {
            return since + "-" + stamp;
        }
    }

    private record Asked(String key, long person, Role role) {}

    /** The stamp of a register for a reader; none when it is not there for them. */
    public Optional<Stamp> of(String key, SignedIn who) {
        long since = remembered.number();
        return remembered
                .get(
                        new Asked(key, who.id(), who.role()),
                        () -> registers.find(key, who).map(d -> stamp(d, who)))
                .map(stamp -> new Stamp(since, stamp));
    }

    private String stamp(RegisterForReader described, SignedIn who) {
        List<Object> parts = new ArrayList<>();
        parts.add(organisation.version());
        parts.add(described.version());
        parts.add(described.limits());
        parts.add(described.hidden().keySet());
        for (RegisterForReader.Member member : described.members()) {
            parts.add(member.key());
            parts.add(registers.whole(member.key()).map(RegisterForReader::version));
            parts.add(registers.limits(member.key(), who));
        }
        parts.add(new TreeMap<>(people.viewer(who).facts()));
        return digest(parts.toString());
    }

    private static String digest(String text) {
        try {
            byte[] hash = MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(hash).substring(0, DIGITS);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }
}
