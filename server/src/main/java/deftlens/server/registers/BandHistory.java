package deftlens.server.registers;

import deftlens.core.condition.Condition;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.Register;
import deftlens.server.trail.Trail;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.ObjectMapper;

/** The names that bands have had, so that what was written by an old one is still understood. */
@Service
public class BandHistory {

    static final String RENAMED = "bands renamed";

    private final Trail trail;
    private final ObjectMapper json;

    BandHistory(Trail trail, ObjectMapper json) {
        this.trail = trail;
        this.json = json;
    }

    /** Notes the new names by the old ones, for each field. */
    void write(RegisterForReader register, List<BandChange> changes, long by) {
        Map<String, Map<String, String>> renamed = new TreeMap<>();
        changes.stream()
                .filter(c -> !c.renamed().isEmpty())
                .forEach(c -> renamed.put(c.before().key(), asTheyWereWritten(c)));
        if (!renamed.isEmpty()) {
            trail.write(Optional.of(by), CatalogueEditor.SUBJECT, register.id(), RENAMED, null, renamed);
        }
    }

    private static Map<String, String> asTheyWereWritten(BandChange change) {
        Map<String, String> names = new TreeMap<>();
        change.renamed()
                .forEach((was, is) ->
                        names.put(change.before().band(was).orElseThrow().name(), is));
        return names;
    }

    /** A register in which what was written by a former name of a band can be read; such a condition means nothing by itself. */
    @Transactional(readOnly = true)
    public Register withFormerNames(RegisterForReader register) {
        Map<String, Field> fields = new TreeMap<>();
        for (Trail.Change renaming : renamings(register)) {
            renamed(renaming)
                    .forEach((key, names) -> register.register()
                            .field(key)
                            .map(f -> fields.getOrDefault(key, f))
                            .ifPresent(f -> fields.put(key, answeringTo(f, names.keySet()))));
        }
        Register now = register.register();
        return new Register(
                now.key(),
                now.label(),
                now.table(),
                now.idColumn(),
                now.fields().stream().map(f -> fields.getOrDefault(f.key(), f)).toList());
    }

    private static Field answeringTo(Field field, Set<String> names) {
        if (field.bands().isEmpty()) {
            return field;
        }
        List<Band> bands = new ArrayList<>(field.bands());
        // Only the name is read; what the band holds is that of the one it became, which it is carried to.
        List<Band.Extent> some = field.bands().getFirst().all();
        names.stream()
                .filter(name -> field.band(name).isEmpty())
                .forEach(name -> bands.add(new Band(name, some, List.of())));
        return field.withBands(bands);
    }

    private List<Trail.Change> renamings(RegisterForReader register) {
        return trail.of(CatalogueEditor.SUBJECT, register.id()).stream()
                .filter(c -> c.action().equals(RENAMED))
                .sorted(Comparator.comparing(Trail.Change::id))
                .toList();
    }

    private Map<String, Map<String, String>> renamed(Trail.Change renaming) {
        return json.convertValue(renaming.after(), new TypeReference<Map<String, Map<String, String>>>() {});
    }

    /**
     * A condition with the names that its bands have today.
     *
     * @param since the number in the trail of the step that it was written in
     */
    @Transactional(readOnly = true)
    public Condition today(RegisterForReader register, Condition condition, long since) {
        Condition now = condition;
        for (Trail.Change renaming : renamings(register)) {
            if (renaming.id() > since) {
                for (Map.Entry<String, Map<String, String>> field :
                        renamed(renaming).entrySet()) {
                    now = BandChange.carry(now, field.getKey(), field.getValue());
                }
            }
        }
        return now;
    }
}
