package deftlens.server.registers;

import java.util.List;
import java.util.Optional;
import org.springframework.data.repository.Repository;

interface RegisterStore extends Repository<RegisterEntity, Long> {
    RegisterEntity save(RegisterEntity register);

    RegisterEntity saveAndFlush(RegisterEntity register);

    Optional<RegisterEntity> findByKey(String key);

    List<RegisterEntity> findAllByOrderByPosition();
}
