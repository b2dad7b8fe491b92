package deftlens.server.registers;

import java.time.Instant;
import java.util.Optional;

/**
 * A register, as one of several.
 *
 * @param deletedAt when it was deleted; absent for one that is there
 */
public record RegisterName(
        String key,
        String label,
        String recordLabel,
        String description,
        Origin origin,
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
                described.register().fields().size(),
                Optional.empty());
    }
}
