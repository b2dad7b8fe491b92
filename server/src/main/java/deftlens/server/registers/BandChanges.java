package deftlens.server.registers;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Test;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Changing bands, with all that rests on them. */
@Service
public class BandChanges {

    private final AccessStore access;
    private final PeopleService people;
    private final BandHistory history;
    private final ApplicationEventPublisher events;

    BandChanges(AccessStore access, PeopleService people, BandHistory history, ApplicationEventPublisher events) {
        this.access = access;
        this.people = people;
        this.history = history;
        this.events = events;
    }

    /** What becomes of the bands of a register where they are to be these, by the keys of their fields. */
    @Transactional(readOnly = true)
    public List<BandChange> changes(RegisterForReader before, Map<String, List<BandJson>> wanted) {
        return wanted.entrySet().stream()
                .map(e -> BandChange.of(
                        before.register()
                                .field(e.getKey())
                                .orElseThrow(() -> Problem.unprocessable(
                                        "unknown-field", "There is no field “" + e.getKey() + "”.")),
                        e.getValue()))
                .filter(BandChange::regroups)
                .toList();
    }

    /**
     * A line of a register's access that limits records.
     *
     * @param team the team that it is about; absent for everybody whom no other line is about
     */
    public record Limit(Optional<String> team, Condition condition) {}

    /** The lines of a register's access that limit records. */
    @Transactional(readOnly = true)
    public List<Limit> limits(RegisterForReader register) {
        return lines(register)
                .map(line -> new Limit(line.teamId().map(this::teamName), condition(register, line)))
                .toList();
    }

    private Stream<AccessEntity> lines(RegisterForReader register) {
        return access.findByRegisterIdOrderById(register.id()).stream()
                .filter(line -> line.mayRead() && !line.statement().isEmpty());
    }

    private String teamName(long id) {
        return people.teams().stream()
                .filter(t -> t.id() == id)
                .map(PeopleService.TeamName::name)
                .findFirst()
                .orElse("a team");
    }

    private Condition condition(RegisterForReader register, AccessEntity line) {
        return new Reader(register.register(), people.attributes()).read(line.statement());
    }

    /**
     * Carries the new names of bands to all that rests on them, in the transaction that changes the bands.
     *
     * @param before the register as it was, with all its fields
     * @throws Problem when somebody's access is limited by a band that is gone
     */
    void carry(RegisterForReader before, List<BandChange> changes, SignedIn who) {
        history.write(before, changes, who.id());
        for (AccessEntity line : lines(before).toList()) {
            Condition condition = condition(before, line);
            Condition carried = carried(condition, changes);
            requireThere(carried, changes, before);
            if (!carried.equals(condition)) {
                line.limit(Printer.print(carried.normal()));
                access.save(line);
            }
        }
        events.publishEvent(new BandsChanged(before, changes, who));
    }

    /** A condition with all the new names. */
    public static Condition carried(Condition condition, List<BandChange> changes) {
        Condition carried = condition;
        for (BandChange change : changes) {
            carried = change.carry(carried);
        }
        return carried;
    }

    private static void requireThere(Condition condition, List<BandChange> changes, RegisterForReader register) {
        for (BandChange change : changes) {
            gone(condition, change).stream().findFirst().ifPresent(name -> {
                throw Problem.unprocessable(
                        "band-in-access",
                        "Who sees what of " + register.register().label() + " is limited by the band “" + name
                                + "” of " + change.before().label()
                                + ". Change that line first, or give the band another name instead.");
            });
        }
    }

    /** The bands that a condition asks for by their new names and that are not there any more. */
    private static List<String> gone(Condition condition, BandChange change) {
        List<String> gone = new ArrayList<>();
        for (Condition.Criterion criterion : condition.criteria()) {
            if (criterion.field().equals(change.before().key()) && criterion.test() instanceof Test.Banded banded) {
                banded.names().stream()
                        .filter(name -> change.after().band(name).isEmpty())
                        .forEach(gone::add);
            }
        }
        return gone;
    }
}
