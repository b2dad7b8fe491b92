package deftlens.server.views;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
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

    @Column(name = "may_change")
    private boolean mayChange;

    protected ShareEntity() {}

    ShareEntity(Long personId, Long teamId, boolean mayChange) {
        this.personId = personId;
        this.teamId = teamId;
        this.mayChange = mayChange;
    }

    Long personId() {
        return personId;
    }

    Long teamId() {
        return teamId;
    }

    boolean mayChange() {
        return mayChange;
    }
}
