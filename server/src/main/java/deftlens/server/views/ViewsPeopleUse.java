package deftlens.server.views;

import deftlens.core.statement.Printer;
import deftlens.server.people.PeopleUse;
import jakarta.persistence.EntityManager;
import java.util.List;
import java.util.regex.Pattern;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** The views that lean on a team, or on a fact about people. */
@Component
class ViewsPeopleUse implements PeopleUse {

    private final ViewParts parts;
    private final EntityManager entities;
    private final ViewStore store;

    ViewsPeopleUse(ViewParts parts, EntityManager entities, ViewStore store) {
        this.parts = parts;
        this.entities = entities;
        this.store = store;
    }

    @Override
    @Transactional(readOnly = true)
    public List<String> ofTeam(long team) {
        List<?> found = entities.createNativeQuery("""
                        select 'the view “' || v.name || '”, shared with it' from kept_view v
                        where exists (select from view_share s where s.view_id = v.id and s.team_id = ?1)
                        union all
                        select 'the beginning of the register “' || r.label || '”' from register_start b
                        join register r on r.id = b.register_id where b.team_id = ?1
                        order by 1""").setParameter(1, team).getResultList();
        return found.stream().map(String.class::cast).toList();
    }

    @Override
    @Transactional(readOnly = true)
    public List<String> ofAttribute(String key) {
        Pattern said = Pattern.compile("\\bmy " + Pattern.quote(key) + "\\b");
        return store.everyView().stream()
                .distinct()
                .filter(v -> said.matcher(Printer.print(parts.condition(v))).find())
                .map(v -> "the view “" + v.name() + "”")
                .toList();
    }

    @Override
    @Transactional(readOnly = true)
    public int ownedBy(long person) {
        return store.countByOwnerIdAndDeletedAtIsNull(person);
    }
}
