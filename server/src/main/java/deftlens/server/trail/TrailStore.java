package deftlens.server.trail;

import java.util.List;
import org.springframework.data.domain.Limit;
import org.springframework.data.repository.Repository;

interface TrailStore extends Repository<TrailEntry, Long> {
    TrailEntry save(TrailEntry entry);

    List<TrailEntry> findBySubjectAndSubjectIdOrderByIdDesc(String subject, long subjectId, Limit limit);
}
