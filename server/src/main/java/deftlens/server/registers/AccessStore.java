package deftlens.server.registers;

import java.util.List;
import org.springframework.data.jpa.repository.JpaRepository;

interface AccessStore extends JpaRepository<AccessEntity, Long> {
    List<AccessEntity> findByRegisterIdOrderById(long registerId);

    void deleteByRegisterId(long registerId);
}
