package deftlens.server.trail;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** One change: who, when, what, from what to what. */
@Entity
@Table(name = "trail")
class TrailEntry {

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    private Instant at;

    @Column(name = "person_id")
    private Long personId;

    private String subject;

    @Column(name = "subject_id")
    private long subjectId;

    private String action;

    @JdbcTypeCode(SqlTypes.JSON)
    private String before;

    @JdbcTypeCode(SqlTypes.JSON)
    private String after;

    protected TrailEntry() {}

    TrailEntry(Instant at, Long personId, String subject, long subjectId, String action, String before, String after) {
        this.at = at;
        this.personId = personId;
        this.subject = subject;
        this.subjectId = subjectId;
        this.action = action;
        this.before = before;
        this.after = after;
    }

    Long id() {
        return id;
    }

    String subject() {
        return subject;
    }

    long subjectId() {
        return subjectId;
    }

    Instant at() {
        return at;
    }

    Long personId() {
        return personId;
    }

    String action() {
        return action;
    }

    String before() {
        return before;
    }

    String after() {
        return after;
    }
}
