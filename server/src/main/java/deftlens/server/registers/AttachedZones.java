package deftlens.server.registers;

import deftlens.server.organisation.ZoneChanged;
import jakarta.persistence.EntityManager;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/** Attached tables say times without a zone as the organisation's clocks do, whatever zone that has when they are read. */
@Component
class AttachedZones {

    private final EntityManager entities;

    AttachedZones(EntityManager entities) {
        this.entities = entities;
    }

    @EventListener
    void changed(ZoneChanged change) {
        entities.createNativeQuery(
                        "update register_field set expression = replace(expression, ?1, ?2) where strpos(expression, ?1) > 0")
                .setParameter(1, clause(change.before()))
                .setParameter(2, clause(change.now()))
                .executeUpdate();
    }

    /** How an expression says a zone. */
    static String clause(String zone) {
        return " at time zone '" + zone.replace("'", "''") + "'";
    }
}
