package deftlens.server.registers;

import jakarta.persistence.Column;
import jakarta.persistence.Embeddable;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** One of the registers that a combined one is read from. */
@Embeddable
class MemberEntity {

    @Column(name = "member_key")
    private String memberKey;

    private String label;

    @JdbcTypeCode(SqlTypes.JSON)
    private String mapping;

    protected MemberEntity() {}

    /**
     * A member.
     *
     * @param label what its records are called in the combined register
     * @param mapping field of the combined register to field of the member, as a JSON object
     */
    MemberEntity(String memberKey, String label, String mapping) {
        this.memberKey = memberKey;
        this.label = label;
        this.mapping = mapping;
    }

    String memberKey() {
        return memberKey;
    }

    String label() {
        return label;
    }

    String mapping() {
        return mapping;
    }
}
