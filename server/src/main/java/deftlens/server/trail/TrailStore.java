package deftlens.server.trail;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.springframework.data.domain.Limit;
import org.springframework.data.jpa.repository.Query;
import org.springframework.data.repository.Repository;

interface TrailStore extends Repository<TrailEntry, Long> {
    TrailEntry save(TrailEntry entry);

    Optional<TrailEntry> findById(long id);

    @Query("""
            select e from TrailEntry e
            where e.subject in :subjects and e.id < :before and (:by = 0 or e.personId = :by)
            and e.at >= :from and e.at < :to
            order by e.id desc""")
    List<TrailEntry> all(List<String> subjects, long by, Instant from, Instant to, long before, Limit limit);

    List<TrailEntry> findBySubjectAndSubjectIdOrderByIdDesc(String subject, long subjectId, Limit limit);
}
