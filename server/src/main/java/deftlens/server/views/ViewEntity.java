package deftlens.server.views;

import deftlens.server.registers.AddedFields;
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
import java.util.Optional;
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

    /** the handle of the fields that it adds to those of its register */
    private String added;

    private String name;
    private String purpose;

    @JdbcTypeCode(SqlTypes.JSON)
    private String condition;

    @JdbcTypeCode(SqlTypes.JSON)
    private String columns;

    @JdbcTypeCode(SqlTypes.JSON)
    private String ordering;

    private String zone;

    @JdbcTypeCode(SqlTypes.JSON)
    private String shape;

    @JdbcTypeCode(SqlTypes.JSON)
    private String labels = "[]";

    @JdbcTypeCode(SqlTypes.JSON)
    private String locked = "[]";

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

    /** What its records are asked for by: its register, with the fields that it adds. */
    String reads() {
        return AddedFields.key(registerKey, added());
    }

    Optional<String> added() {
        return Optional.ofNullable(added);
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

    String shape() {
        return shape;
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

    String labels() {
        return labels;
    }

    String locked() {
        return locked;
    }

    /** What a view is called and what it is for; labels as a JSON array. */
    void call(String newName, String newPurpose, String newLabels) {
        this.name = newName;
        this.purpose = newPurpose;
        this.labels = newLabels;
    }

    /** Which fields it adds to those of its register, by their handle. */
    void add(Optional<String> handle) {
        this.added = handle.orElse(null);
    }

    /** What a view asks: its condition as a document, and the parts of it that readers may not change. */
    void ask(String newCondition, String newLocked) {
        this.condition = newCondition;
        this.locked = newLocked;
    }

    /** How the answer is shown. */
    void show(String newColumns, String newOrdering, String newZone, String newShape) {
        this.columns = newColumns;
        this.ordering = newOrdering;
        this.zone = newZone;
        this.shape = newShape;
    }

    void handOverTo(long newOwner) {
        this.ownerId = newOwner;
    }

    void touch(long by, Instant at) {
        this.changedBy = by;
        this.changedAt = at;
    }

    void delete(Instant at) {
        this.deletedAt = at;
    }
}
