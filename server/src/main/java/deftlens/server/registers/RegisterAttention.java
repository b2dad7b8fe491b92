package deftlens.server.registers;

import deftlens.server.people.SignedIn;
import deftlens.server.platform.FailureElsewhere;
import deftlens.server.platform.Problem;
import jakarta.persistence.EntityManager;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Service;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.TransactionDefinition;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * What an administrator should see to about registers, before anybody is misled: tables that are not what they were, servers
 * that do not answer, combined registers that lack something. Found at night, or when an administrator has it looked at.
 */
@Service
public class RegisterAttention {

    /** How long a table is waited for. */
    private static final Duration PATIENCE = Duration.ofSeconds(10);

    private final EntityManager entities;
    private final RegisterStore store;
    private final RegisterCatalogue catalogue;
    private final TableShapes shapes;
    private final TransactionTemplate apart;
    private final Clock clock;

    RegisterAttention(
            EntityManager entities,
            RegisterStore store,
            RegisterCatalogue catalogue,
            TableShapes shapes,
            PlatformTransactionManager transactions,
            Clock clock) {
        this.entities = entities;
        this.store = store;
        this.catalogue = catalogue;
        this.shapes = shapes;
        this.apart = new TransactionTemplate(transactions);
        this.apart.setPropagationBehavior(TransactionDefinition.PROPAGATION_REQUIRES_NEW);
        this.clock = clock;
    }

    /**
     * Something to be seen to.
     *
     * @param code stable name of the kind: table-gone, table-changed, unreachable, gaps
     */
    public record RegisterNote(String register, String label, String code, String message, Instant foundAt) {}

    private record Found(String code, String message) {}

    /** What was found last. */
    @Transactional(readOnly = true)
    public List<RegisterNote> all(SignedIn who) {
        if (!who.readsEverything()) {
            throw Problem.forbidden("Only administrators and auditors see what registers need.");
        }
        List<?> found = entities.createNativeQuery("""
                        select r.key, r.label, a.code, a.message, a.found_at
                        from register_attention a join register r on r.id = a.register_id
                        where r.deleted_at is null order by r.position, a.code, a.message""").getResultList();
        return found.stream()
                .map(Object[].class::cast)
                .map(r -> new RegisterNote((String) r[0], (String) r[1], (String) r[2], (String) r[3], (Instant) r[4]))
                .toList();
    }

    /** Looks at all registers anew; new values of enumerations are taken on the way. Gives how many need somebody. */
    public int look() {
        apart.executeWithoutResult(status -> shapes.takeValues());
        List<String> keys = apart.execute(status -> store.findAllByOrderByPosition().stream()
                .filter(r -> r.deletedAt() == null)
                .map(RegisterEntity::key)
                .toList());
        int needing = 0;
        for (String key : keys) {
            needing += look(key) ? 1 : 0;
        }
        return needing;
    }

    private boolean look(String key) {
        Optional<RegisterForReader> described = catalogue.whole(key);
        if (described.isEmpty()) {
            return false;
        }
        List<Found> found = found(described.get());
        apart.executeWithoutResult(status -> {
            entities.createNativeQuery("delete from register_attention where register_id = ?1")
                    .setParameter(1, described.get().id())
                    .executeUpdate();
            for (Found one : found) {
                entities.createNativeQuery("insert into register_attention values (?1, ?2, ?3, ?4)")
                        .setParameter(1, described.get().id())
                        .setParameter(2, one.code())
                        .setParameter(3, one.message())
                        .setParameter(4, clock.instant())
                        .executeUpdate();
            }
        });
        return !found.isEmpty();
    }

    private List<Found> found(RegisterForReader register) {
        List<Found> found = new ArrayList<>();
        register.gaps().forEach(gap -> found.add(new Found("gaps", gap.words())));
        register.uncalculated()
                .forEach(f -> found.add(new Found(
                        "calculations",
                        "“" + f.label() + "” cannot be calculated any more, and is empty in all records. "
                                + register.notes()
                                        .get(f.key())
                                        .calculated()
                                        .flatMap(RegisterForReader.Calculated::trouble)
                                        .orElse(""))));
        trouble(register).ifPresent(t -> found.add(new Found(t.code(), t.message())));
        return found;
    }

    /**
     * Why the records of a register cannot be read as they should be.
     *
     * @param code table-gone, table-changed or unreachable
     */
    public record Trouble(String code, String message) {}

    /** Why the records of an attached register cannot be read as they should be, if that is so. */
    public Optional<Trouble> trouble(RegisterForReader register) {
        if (register.origin() != Origin.ATTACHED) {
            return Optional.empty();
        }
        TableShapes.Shape shape = shapes.shape(register);
        if (shape.gone()) {
            return Optional.of(
                    new Trouble("table-gone", "The table " + register.table().name() + " is gone."));
        }
        if (shape.isBroken()) {
            List<String> parts = new ArrayList<>();
            if (!shape.missing().isEmpty()) {
                parts.add("without " + String.join(", ", shape.missing()));
            }
            if (!shape.retyped().isEmpty()) {
                parts.add("with something else in " + String.join(", ", shape.retyped()));
            }
            return Optional.of(new Trouble(
                    "table-changed",
                    "The table " + register.table().name() + " is not what it was: " + String.join(", and ", parts)
                            + "."));
        }
        return unreachable(register);
    }

    /** Whether PostgreSQL says that something it was asked for is not there, or is not of the kind that was meant. */
    private static boolean isAboutColumns(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql
                    && String.valueOf(sql.getSQLState()).startsWith("42")) {
                return true;
            }
        }
        return false;
    }

    private Optional<Trouble> unreachable(RegisterForReader register) {
        try {
            apart.executeWithoutResult(status -> {
                entities.createNativeQuery("set local statement_timeout = " + PATIENCE.toMillis())
                        .executeUpdate();
                // One whole record, so that every column is asked for on the other server too.
                entities.createNativeQuery("select cast(t as text) from "
                                + register.table().name() + " t limit 1")
                        .getResultList();
            });
            return Optional.empty();
        } catch (RuntimeException e) {
            // A database view of our own may take its time; a server that does not answer is another matter.
            return FailureElsewhere.behind(e)
                    .map(says -> isAboutColumns(e)
                            ? new Trouble(
                                    "table-changed",
                                    "The table on the other server is not what it was; read it anew. The server says: "
                                            + says)
                            : new Trouble(
                                    "unreachable",
                                    "Its records are on another server, which cannot be read. It says: " + says));
        }
    }
}
