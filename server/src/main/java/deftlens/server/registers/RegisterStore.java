package deftlens.server.registers;

import deftlens.server.platform.Problem;
import java.util.List;
import java.util.Optional;
import org.springframework.data.jpa.repository.Modifying;
import org.springframework.data.jpa.repository.Query;
import org.springframework.data.repository.Repository;
import org.springframework.http.HttpStatus;

interface RegisterStore extends Repository<RegisterEntity, Long> {
    RegisterEntity save(RegisterEntity register);

    RegisterEntity saveAndFlush(RegisterEntity register);

    Optional<RegisterEntity> findByKey(String key);

    List<RegisterEntity> findAllByOrderByPosition();

    /** The last closed day of a register as it is now, which nobody else changes until the transaction ends. */
    @Query(value = "select cast(closed_up_to as text) from register where key = ?1 for update", nativeQuery = true)
    Optional<String> lockedClosedUpTo(String key);

    @Modifying
    @Query(value = "update register set closed_up_to = cast(?2 as date) where key = ?1", nativeQuery = true)
    void closeUpTo(String key, String upTo);

    /**
     * The register of that key, unless it was deleted.
     *
     * @throws Problem (404) when there is none
     */
    default RegisterEntity there(String key) {
        return findByKey(key)
                .filter(r -> r.deletedAt() == null)
                .orElseThrow(() -> Problem.notFound("The register “" + key + "”"));
    }

    /**
     * The register of that key as it was when somebody looked at it.
     *
     * @throws Problem (404) when there is none, (409) when it was changed since
     */
    default RegisterEntity there(String key, int version) {
        RegisterEntity register = there(key);
        if (register.version() != version) {
            throw changedMeanwhile();
        }
        return register;
    }

    /** What is said to whoever changes a register that somebody else changed meanwhile. */
    static Problem changedMeanwhile() {
        return new Problem(
                HttpStatus.CONFLICT,
                "changed-meanwhile",
                "Somebody changed this register after you opened it. Nothing of yours was written.");
    }
}
