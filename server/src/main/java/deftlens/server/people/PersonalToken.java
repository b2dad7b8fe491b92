package deftlens.server.people;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
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

    protected PersonalToken() {}

    PersonalToken(Person person, String label, String hash, Instant createdAt) {
        this.person = person;
        this.label = label;
        this.hash = hash;
        this.createdAt = createdAt;
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

    Instant createdAt() {
        return createdAt;
    }

    void revoke(Instant at) {
        this.revokedAt = at;
    }
}
