package deftlens.server.registers;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.util.Optional;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** What one team, or everybody else, may see of a register. */
@Entity
@Table(name = "register_access")
class AccessEntity {

    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    @Column(name = "register_id")
    private long registerId;

    @Column(name = "team_id")
    private Long teamId;

    @Column(name = "may_read")
    private boolean mayRead;

    @Column(name = "may_change_many")
    private boolean mayChangeMany;

    private String statement;

    @JdbcTypeCode(SqlTypes.JSON)
    private String hidden;

    protected AccessEntity() {}

    /**
     * A line of access.
     *
     * @param teamId the team, or {@code null} for everybody whom no other line is about
     * @param mayChangeMany whether many records can be changed at once
     * @param statement what limits the records, in the language; empty for none
     * @param hidden the keys of the fields that are not shown, as a JSON array
     */
    AccessEntity(
            long registerId, Long teamId, boolean mayRead, boolean mayChangeMany, String statement, String hidden) {
        this.registerId = registerId;
        this.teamId = teamId;
        this.mayRead = mayRead;
        this.mayChangeMany = mayChangeMany;
        this.statement = statement;
        this.hidden = hidden;
    }

    long registerId() {
        return registerId;
    }

    Optional<Long> teamId() {
        return Optional.ofNullable(teamId);
    }

    boolean mayRead() {
        return mayRead;
    }

    boolean mayChangeMany() {
        return mayChangeMany;
    }

    String statement() {
        return statement;
    }

    /** Limits the records by another statement from now on. */
    void limit(String newStatement) {
        this.statement = newStatement;
    }

    String hidden() {
        return hidden;
    }

    /** Does not show these fields from now on; a JSON array of their keys. */
    void hide(String keys) {
        this.hidden = keys;
    }
}
