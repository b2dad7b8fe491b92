package deftlens.server.views;

import jakarta.persistence.CascadeType;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.FetchType;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.JoinColumn;
import jakarta.persistence.OneToMany;
import jakarta.persistence.OrderBy;
import jakarta.persistence.Table;
import jakarta.persistence.Version;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** A kept question. */
@Entity
@Table(name = "kept_view")
class ViewEntity {

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    @Column(name = "register_key")
    private String registerKey;

    private String name;
    private String purpose;

    @JdbcTypeCode(SqlTypes.JSON)
    private String condition;

    @JdbcTypeCode(SqlTypes.JSON)
    private String columns;

    @JdbcTypeCode(SqlTypes.JSON)
    private String ordering;

    private String zone;

    @Column(name = "owner_id")
    private long ownerId;

    @Column(name = "changed_by")
    private long changedBy;

    @Column(name = "created_at")
    private Instant createdAt;

    @Column(name = "changed_at")
    private Instant changedAt;

    @Column(name = "deleted_at")
    private Instant deletedAt;

    @Version
    private int version;

    @OneToMany(cascade = CascadeType.ALL, orphanRemoval = true, fetch = FetchType.LAZY)
    @JoinColumn(name = "view_id", nullable = false)
    @OrderBy("id")
    private List<ShareEntity> shares = new ArrayList<>();

    protected ViewEntity() {}

    ViewEntity(String registerKey, long ownerId, Instant at) {
        this.registerKey = registerKey;
        this.ownerId = ownerId;
        this.createdAt = at;
    }

    Long id() {
        return id;
    }

    String registerKey() {
        return registerKey;
    }

    String name() {
        return name;
    }

    String purpose() {
        return purpose;
    }

    String condition() {
        return condition;
    }

    String columns() {
        return columns;
    }

    String ordering() {
        return ordering;
    }

    String zone() {
        return zone;
    }

    long ownerId() {
        return ownerId;
    }

    long changedBy() {
        return changedBy;
    }

    Instant createdAt() {
        return createdAt;
    }

    Instant changedAt() {
        return changedAt;
    }

    Instant deletedAt() {
        return deletedAt;
    }

    int version() {
        return version;
    }

    List<ShareEntity> shares() {
        return shares;
    }

    void write(
            String newName,
            String newPurpose,
            String newCondition,
            String newColumns,
            String newOrdering,
            String newZone) {
        this.name = newName;
        this.purpose = newPurpose;
        this.condition = newCondition;
        this.columns = newColumns;
        this.ordering = newOrdering;
        this.zone = newZone;
    }

    void touch(long by, Instant at) {
        this.changedBy = by;
        this.changedAt = at;
    }

    void delete(Instant at) {
        this.deletedAt = at;
    }
}
