package deftlens.server.registers;

import deftlens.server.people.PeopleUse;
import jakarta.persistence.EntityManager;
import java.util.List;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** The lines of “who sees what” that lean on a team, or on a fact about people. */
@Component
class RegistersPeopleUse implements PeopleUse {

    private final EntityManager entities;

    RegistersPeopleUse(EntityManager entities) {
        this.entities = entities;
    }

    @Override
    @Transactional(readOnly = true)
    public List<String> ofTeam(long team) {
        List<?> correcting = entities.createNativeQuery(
                        "select distinct 'who corrects “' || f.label || '” of “' || r.label || '”' from register_field f join register r on r.id = f.register_id where f.correctors @> to_jsonb(?1) order by 1")
                .setParameter(1, team)
                .getResultList();
        return Stream.concat(
                        labels("a.team_id = ?1", team).stream(),
                        correcting.stream().map(String.class::cast))
                .toList();
    }

    @Override
    @Transactional(readOnly = true)
    public List<String> ofAttribute(String key) {
        return labels("a.statement ~ ('\\mmy ' || ?1 || '\\M')", key);
    }

    private List<String> labels(String where, Object value) {
        List<?> found = entities.createNativeQuery(
                        "select distinct 'who sees what of “' || r.label || '”' from register_access a join register r on r.id = a.register_id where "
                                + where + " order by 1")
                .setParameter(1, value)
                .getResultList();
        return found.stream().map(String.class::cast).toList();
    }
}
