package deftlens.server.views;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.EnumType;
import jakarta.persistence.Enumerated;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;

/** With whom a view is shared: a person, a team, or everyone when it names neither. */
@Entity
@Table(name = "view_share")
class ShareEntity {

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    @Column(name = "person_id")
    private Long personId;

    @Column(name = "team_id")
    private Long teamId;

    @Enumerated(EnumType.STRING)
    private ViewPermission may;

    protected ShareEntity() {}

    ShareEntity(Long personId, Long teamId, ViewPermission may) {
        this.personId = personId;
        this.teamId = teamId;
        this.may = may;
    }

    Long personId() {
        return personId;
    }

    Long teamId() {
        return teamId;
    }

    ViewPermission may() {
        return may;
    }
}
