package deftlens.server.registers;

import java.util.List;
import org.springframework.data.repository.Repository;

interface AccessStore extends Repository<AccessEntity, Long> {
    AccessEntity save(AccessEntity access);

    List<AccessEntity> findAllByOrderById();

    List<AccessEntity> findByRegisterIdOrderById(long registerId);

    void deleteByRegisterId(long registerId);
}
