package deftlens.server.views;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.io.Serializable;
import java.time.Instant;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** What is a reader's own about a view. */
@Entity
@Table(name = "view_reader")
@IdClass(ReaderEntity.Key.class)
class ReaderEntity {

    /** Which reader of which view. */
    record Key(long viewId, long personId) implements Serializable {}

    @Id
    @Column(name = "view_id")
    private long viewId;

    @Id
    @Column(name = "person_id")
    private long personId;

    @JdbcTypeCode(SqlTypes.JSON)
    private String answers = "{}";

    @JdbcTypeCode(SqlTypes.JSON)
    private String refinement;

    @Column(name = "changed_at")
    private Instant changedAt;

    @JdbcTypeCode(SqlTypes.JSON)
    private String draft;

    @Column(name = "draft_at")
    private Instant draftAt;

    protected ReaderEntity() {}

    ReaderEntity(long viewId, long personId) {
        this.viewId = viewId;
        this.personId = personId;
    }

    String answers() {
        return answers;
    }

    /** The refinement as JSON, or null for none. */
    String refinement() {
        return refinement;
    }

    Instant changedAt() {
        return changedAt;
    }

    void answer(String newAnswers, Instant at) {
        this.answers = newAnswers;
        this.changedAt = at;
    }

    /** Unsaved changes as JSON, or null for none. */
    String draft() {
        return draft;
    }

    Instant draftAt() {
        return draftAt;
    }

    void draft(String changes, Instant at) {
        this.draft = changes;
        this.draftAt = at;
        if (changedAt == null) {
            changedAt = at;
        }
    }

    void refine(String newRefinement, Instant at) {
        this.refinement = newRefinement;
        this.changedAt = at;
    }
}
