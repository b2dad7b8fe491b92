package deftlens.server.registers;

import deftlens.server.platform.Problem;
import java.util.List;
import java.util.Optional;
import org.springframework.data.repository.Repository;

interface RegisterStore extends Repository<RegisterEntity, Long> {
    RegisterEntity save(RegisterEntity register);

    RegisterEntity saveAndFlush(RegisterEntity register);

    Optional<RegisterEntity> findByKey(String key);

    List<RegisterEntity> findAllByOrderByPosition();

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
}
