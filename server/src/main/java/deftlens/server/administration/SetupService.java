package deftlens.server.administration;

import deftlens.server.people.InstallationBegun;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.trail.Trail;
import jakarta.persistence.EntityManager;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The steps by which a new installation is set up; an installation that did not begin empty has none. */
@Service
public class SetupService {

    private final EntityManager entities;
    private final PeopleService people;
    private final RegisterCatalogue registers;
    private final Trail trail;

    SetupService(EntityManager entities, PeopleService people, RegisterCatalogue registers, Trail trail) {
        this.entities = entities;
        this.people = people;
        this.registers = registers;
        this.trail = trail;
    }

    /** What has to be set up, in the order in which it is best done. */
    public enum Step {
        ORGANISATION,
        RECORDS,
        PEOPLE
    }

    /** How far a step is. */
    public enum State {
        OPEN,
        /** Somebody left it for later. */
        LATER,
        DONE
    }

    /** A step and how far it is. */
    public record SetupStep(Step step, State state) {}

    @EventListener
    @Transactional
    public void begin(InstallationBegun event) {
        for (Step step : Step.values()) {
            entities.createNativeQuery("insert into setup_step (step) values (?1) on conflict do nothing")
                    .setParameter(1, step.name())
                    .executeUpdate();
        }
    }

    /** The steps; none where the installation did not begin empty. */
    @Transactional(readOnly = true)
    public List<SetupStep> steps(SignedIn who) {
        Map<Step, Boolean> later = new EnumMap<>(Step.class);
        for (Object row :
                entities.createNativeQuery("select step, later from setup_step").getResultList()) {
            Object[] columns = (Object[]) row;
            later.put(Step.valueOf((String) columns[0]), (Boolean) columns[1]);
        }
        return later.entrySet().stream()
                .map(e -> new SetupStep(
                        e.getKey(), isDone(e.getKey(), who) ? State.DONE : e.getValue() ? State.LATER : State.OPEN))
                .toList();
    }

    private boolean isDone(Step step, SignedIn who) {
        return switch (step) {
            case ORGANISATION -> !trail.of("organisation", 1).isEmpty();
            case RECORDS -> !registers.all(who).isEmpty();
            case PEOPLE -> people.everyone().size() > 1;
        };
    }

    /** Leaves a step for later, or takes it up again. */
    @Transactional
    public List<SetupStep> leave(Step step, boolean later, SignedIn who) {
        entities.createNativeQuery("update setup_step set later = ?1 where step = ?2")
                .setParameter(1, later)
                .setParameter(2, step.name())
                .executeUpdate();
        return steps(who);
    }
}
