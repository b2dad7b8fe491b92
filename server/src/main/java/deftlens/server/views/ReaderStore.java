package deftlens.server.views;

import jakarta.persistence.LockModeType;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.springframework.data.jpa.repository.Lock;
import org.springframework.data.jpa.repository.Modifying;
import org.springframework.data.jpa.repository.Query;
import org.springframework.data.repository.Repository;

interface ReaderStore extends Repository<ReaderEntity, ReaderEntity.Key> {
    ReaderEntity save(ReaderEntity reader);

    Optional<ReaderEntity> findById(ReaderEntity.Key key);

    List<ReaderEntity> findByViewId(long viewId);

    /** Makes the row of a reader who has nothing of their own yet; of others nothing is changed. */
    @Modifying
    @Query(
            value = "insert into view_reader (view_id, person_id, answers, changed_at)"
                    + " values (:view, :person, '{}', :at) on conflict do nothing",
            nativeQuery = true)
    void ensure(long view, long person, Instant at);

    /** The row of a reader, which nobody else writes until the transaction ends. */
    @Lock(LockModeType.PESSIMISTIC_WRITE)
    @Query("select r from ReaderEntity r where r.viewId = :view and r.personId = :person")
    Optional<ReaderEntity> findToWrite(long view, long person);
}
