package deftlens.server.views;

import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.registers.TableShapes;
import deftlens.server.totals.TotalsService;
import deftlens.server.trail.Trail;
import jakarta.persistence.EntityManager;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The views that people keep at hand: pinned in a list of their own, or the one that a team begins with. */
@Service
public class PinsService {

    private static final int MOST_PINS = 30;

    private final EntityManager entities;
    private final ViewsService views;
    private final TotalsService totals;
    private final RegisterCatalogue registers;
    private final TableShapes shapes;
    private final PeopleService people;
    private final Trail trail;

    PinsService(
            EntityManager entities,
            ViewsService views,
            TotalsService totals,
            RegisterCatalogue registers,
            TableShapes shapes,
            PeopleService people,
            Trail trail) {
        this.entities = entities;
        this.views = views;
        this.totals = totals;
        this.registers = registers;
        this.shapes = shapes;
        this.people = people;
        this.trail = trail;
    }

    /**
     * A pinned view.
     *
     * @param figure the name of the figure of its totals that stands beside it on the list; the number of records when absent
     */
    public record Pin(@AsText long id, String name, String register, String registerLabel, Optional<String> figure) {

        static Pin of(ViewsService.View view, Optional<String> figure) {
            return new Pin(view.id(), view.name(), view.register(), view.registerLabel(), figure);
        }
    }

    /** The view that a team begins a register with; without a team, everybody else. */
    record Start(@AsText Optional<Long> team, @AsText long view) {}

    /**
     * How the table behind a register differs from what it was, and the views that this touches.
     *
     * @param broken whether the register cannot be read as it stands
     * @param renamed for each column that is gone, the new columns that it may be under another name
     * @param values columns that may hold values which the register does not know yet
     * @param gaps what a combined register should have of its members and does not get, each in a sentence
     */
    record ShapeAnswer(
            boolean broken,
            boolean gone,
            List<String> missing,
            List<String> retyped,
            List<String> fresh,
            Map<String, List<String>> renamed,
            List<String> values,
            List<String> gaps,
            List<Touched> views) {}

    /** A view that uses what changed. */
    record Touched(@AsText long id, String name, String register) {}

    /** The pinned views of a person that are open to them, in their order. */
    @Transactional(readOnly = true)
    public List<Pin> pins(SignedIn who) {
        Map<Long, ViewsService.View> open = open(who);
        return rows(who).entrySet().stream()
                .filter(pin -> open.containsKey(pin.getKey()))
                .map(pin -> Pin.of(open.get(pin.getKey()), pin.getValue()))
                .toList();
    }

    /** The names of the figures that stand beside pinned views on a person's list, by the view. */
    @Transactional(readOnly = true)
    public Map<Long, String> figures(SignedIn who) {
        return rows(who).entrySet().stream()
                .filter(pin -> pin.getValue().isPresent())
                .collect(Collectors.toMap(
                        Map.Entry::getKey, pin -> pin.getValue().orElseThrow()));
    }

    private Map<Long, Optional<String>> rows(SignedIn who) {
        List<?> rows = entities.createNativeQuery(
                        "select view_id, figure from pin where person_id = ?1 order by position")
                .setParameter(1, who.id())
                .getResultList();
        Map<Long, Optional<String>> pins = new LinkedHashMap<>();
        rows.stream()
                .map(Object[].class::cast)
                .forEach(row -> pins.put(((Number) row[0]).longValue(), Optional.ofNullable((String) row[1])));
        return pins;
    }

    /**
     * Says what stands beside a pinned view on the list.
     *
     * @param figure the name of a figure of its totals; the number of records when absent
     * @throws Problem where the view is not pinned or has no such figure
     */
    @Transactional
    public List<Pin> tell(long id, Optional<String> figure, SignedIn who) {
        ViewsService.View view = views.get(id, who);
        figure.ifPresent(name -> totals.requireFigure(
                ViewsService.shown(view, views.question(id, who, ViewsService.ViewParameters.AS_SHARED)), name));
        int changed = entities.createNativeQuery(
                        "update pin set figure = cast(?3 as text) where person_id = ?1 and view_id = ?2")
                .setParameter(1, who.id())
                .setParameter(2, id)
                .setParameter(3, figure.orElse(null))
                .executeUpdate();
        if (changed == 0) {
            throw Problem.unprocessable("not-pinned", "Pin “" + view.name() + "” to your list first.");
        }
        return pins(who);
    }

    /** Pins these views and no others, in this order. */
    @Transactional
    public List<Pin> pin(List<Long> ids, SignedIn who) {
        Set<Long> wanted = new LinkedHashSet<>(ids);
        if (wanted.size() > MOST_PINS) {
            throw Problem.unprocessable("too-many-pins", "At most " + MOST_PINS + " views can be pinned.");
        }
        if (!open(who).keySet().containsAll(wanted)) {
            throw Problem.notFound("One of these views");
        }
        Map<Long, Optional<String>> before = rows(who);
        entities.createNativeQuery("delete from pin where person_id = ?1")
                .setParameter(1, who.id())
                .executeUpdate();
        int position = 0;
        for (Long id : wanted) {
            entities.createNativeQuery(
                            "insert into pin (person_id, view_id, position, figure) values (?1, ?2, ?3, cast(?4 as text))")
                    .setParameter(1, who.id())
                    .setParameter(2, id)
                    .setParameter(3, position++)
                    .setParameter(4, before.getOrDefault(id, Optional.empty()).orElse(null))
                    .executeUpdate();
        }
        return pins(who);
    }

    private Map<Long, ViewsService.View> open(SignedIn who) {
        return views.openTo(who).stream().collect(Collectors.toMap(ViewsService.View::id, Function.identity()));
    }

    /** The view that a person begins a register with: that of one of their teams, else that of everybody; if open to them. */
    @Transactional(readOnly = true)
    public Optional<Pin> start(String register, SignedIn who) {
        RegisterForReader described = registers.get(register, who);
        List<Long> teams = people.teamsOf(who);
        Map<Long, ViewsService.View> open = open(who);
        List<Start> all = read(described);
        return all.stream()
                .filter(s -> s.team().map(teams::contains).orElse(false))
                .findFirst()
                .or(() -> all.stream().filter(s -> s.team().isEmpty()).findFirst())
                .map(s -> open.get(s.view()))
                .map(v -> Pin.of(v, Optional.empty()));
    }

    /** With which views the teams begin. */
    @Transactional(readOnly = true)
    public List<Start> starts(String register, SignedIn who) {
        return read(registers.get(register, who));
    }

    private List<Start> read(RegisterForReader described) {
        List<?> rows = entities.createNativeQuery(
                        "select team_id, view_id from register_start where register_id = ?1 order by team_id nulls last")
                .setParameter(1, described.id())
                .getResultList();
        return rows.stream()
                .map(Object[].class::cast)
                .map(r -> new Start(
                        Optional.ofNullable((Number) r[0]).map(Number::longValue), ((Number) r[1]).longValue()))
                .toList();
    }

    /** Says anew with which views the teams begin. */
    @Transactional
    public List<Start> begin(String register, List<Start> wanted, SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator says with which view a team begins.");
        }
        RegisterForReader described = registers.get(register, who);
        List<Start> before = read(described);
        Set<Optional<Long>> named = new HashSet<>();
        for (Start start : wanted) {
            if (!named.add(start.team())) {
                throw Problem.unprocessable("team-twice", "Each team begins with one view.");
            }
            if (!views.get(start.view(), who).register().equals(register)) {
                throw Problem.unprocessable("other-register", "That view is over another register.");
            }
            if (start.team().isPresent()
                    && people.teams().stream()
                            .noneMatch(t -> t.id() == start.team().get())) {
                throw Problem.unprocessable("unknown-team", "There is no such team.");
            }
        }
        entities.createNativeQuery("delete from register_start where register_id = ?1")
                .setParameter(1, described.id())
                .executeUpdate();
        for (Start start : wanted) {
            entities.createNativeQuery(
                            "insert into register_start (register_id, team_id, view_id) values (?1, cast(?2 as bigint), ?3)")
                    .setParameter(1, described.id())
                    .setParameter(2, start.team().map(String::valueOf).orElse(null))
                    .setParameter(3, start.view())
                    .executeUpdate();
        }
        trail.write(Optional.of(who.id()), "register", described.id(), "starting views", before, wanted);
        return read(described);
    }

    /** How the table behind a register differs from what it was, and which views are touched by that. */
    @Transactional(readOnly = true)
    public ShapeAnswer shape(String register, SignedIn who) {
        if (!who.readsEverything()) {
            throw Problem.forbidden("Only administrators and auditors look behind a register.");
        }
        RegisterForReader described = registers.get(register, who);
        TableShapes.Shape shape = shapes.shape(described);
        Map<String, Set<String>> touched = new java.util.HashMap<>();
        Set<String> own = new HashSet<>(TableShapes.fieldsOf(described, shape.missing()));
        own.addAll(TableShapes.fieldsOf(described, shape.retyped()));
        if (shape.isBroken()) {
            touched.put(register, own);
            for (RegisterForReader other : registers.all(who)) {
                other.members().stream()
                        .filter(m -> m.key().equals(register))
                        .findFirst()
                        .ifPresent(m -> touched.put(
                                other.register().key(),
                                m.mapping().entrySet().stream()
                                        .filter(e -> own.contains(e.getValue()))
                                        .map(Map.Entry::getKey)
                                        .collect(Collectors.toSet())));
            }
        }
        boolean missing = described.gaps().stream().anyMatch(g -> g.field().isEmpty());
        if (!described.gaps().isEmpty()) {
            touched.put(
                    register,
                    described.gaps().stream().flatMap(g -> g.field().stream()).collect(Collectors.toSet()));
        }
        List<Touched> found = new ArrayList<>();
        for (ViewsService.View view : views.openTo(who)) {
            Set<String> fields = touched.get(view.register());
            if (fields != null && (shape.gone() || missing || views.uses(view, fields))) {
                found.add(new Touched(view.id(), view.name(), view.registerLabel()));
            }
        }
        return new ShapeAnswer(
                shape.isBroken() || !described.gaps().isEmpty(),
                shape.gone(),
                shape.missing(),
                shape.retyped(),
                shape.fresh(),
                shape.renamed(),
                shape.values(),
                described.gaps().stream().map(RegisterForReader.Gap::words).toList(),
                found);
    }
}
