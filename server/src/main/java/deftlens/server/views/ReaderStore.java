package deftlens.server.views;

import java.util.List;
import java.util.Optional;
import org.springframework.data.repository.Repository;

interface ReaderStore extends Repository<ReaderEntity, ReaderEntity.Key> {
    ReaderEntity save(ReaderEntity reader);

    Optional<ReaderEntity> findById(ReaderEntity.Key key);

    List<ReaderEntity> findByViewId(long viewId);
}
