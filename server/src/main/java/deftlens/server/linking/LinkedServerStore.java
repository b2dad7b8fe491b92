package deftlens.server.linking;

import java.util.List;
import java.util.Optional;
import org.springframework.data.repository.Repository;

interface LinkedServerStore extends Repository<LinkedServer, Long> {
    LinkedServer saveAndFlush(LinkedServer server);

    Optional<LinkedServer> findByKey(String key);

    List<LinkedServer> findAllByOrderByLabel();

    void delete(LinkedServer server);
}
