package deftlens.server.registers;

import java.time.Instant;
import java.util.Optional;
import java.util.Set;

/**
 * A register, as one of several.
 *
 * @param capabilities what can be done with its records, or is known of them, beside reading them
 * @param deletedAt when it was deleted; absent for one that is there
 */
public record RegisterName(
        String key,
        String label,
        String recordLabel,
        String description,
        Origin origin,
        Set<Origin.Capability> capabilities,
        int fields,
        Optional<Instant> deletedAt) {

    /** The name of one that is there. */
    public static RegisterName of(RegisterForReader described) {
        return new RegisterName(
                described.register().key(),
                described.register().label(),
                described.recordLabel(),
                described.description(),
                described.origin(),
                described.origin().capabilities(),
                described.register().fields().size(),
                Optional.empty());
    }
}
