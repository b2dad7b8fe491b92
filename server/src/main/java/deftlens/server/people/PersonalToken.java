package deftlens.server.people;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.JoinColumn;
import jakarta.persistence.ManyToOne;
import jakarta.persistence.Table;
import java.time.Instant;

/** A person's key for programs; only its SHA-256 is kept. */
@Entity
@Table(name = "personal_token")
class PersonalToken {

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    @ManyToOne
    @JoinColumn(name = "person_id")
    private Person person;

    private String label;
    private String hash;

    @Column(name = "created_at")
    private Instant createdAt;

    @Column(name = "revoked_at")
    private Instant revokedAt;

    @Enumerated(EnumType.STRING)
    private Scope scope;

    @Column(name = "expires_at")
    private Instant expiresAt;

    @Column(name = "last_used_at")
    private Instant lastUsedAt;

    /** What a token is good for. */
    enum Scope {
        /** Reads what its person may read. */
        READ,
        /** Does what its person may do. */
        WRITE
    }

    protected PersonalToken() {}

    PersonalToken(Person person, String label, String hash, Scope scope, Instant createdAt, Instant expiresAt) {
        this.person = person;
        this.label = label;
        this.hash = hash;
        this.scope = scope;
        this.createdAt = createdAt;
        this.expiresAt = expiresAt;
    }

    Long id() {
        return id;
    }

    Person person() {
        return person;
    }

    String label() {
        return label;
    }

    String hash() {
        return hash;
    }

    Instant createdAt() {
        return createdAt;
    }

    Scope scope() {
        return scope;
    }

    Instant expiresAt() {
        return expiresAt;
    }

    Instant lastUsedAt() {
        return lastUsedAt;
    }

    boolean worksAt(Instant moment) {
        return revokedAt == null && (expiresAt == null || expiresAt.isAfter(moment));
    }

    void revoke(Instant at) {
        this.revokedAt = at;
    }
}
