package deftlens.server.views;

import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.views.ViewsService.Who;
import jakarta.persistence.EntityManager;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Who opens which view: what shows that a view is used, by whom, and where it is leaned on. */
@Service
public class ViewUse {

    /** For how many days it is told by name who opened a view. */
    static final int TOLD_DAYS = 30;

    private final ViewRights rights;
    private final EntityManager entities;
    private final ViewsService views;
    private final PeopleService people;
    private final OrganisationService organisation;
    private final Clock clock;

    ViewUse(
            ViewRights rights,
            EntityManager entities,
            ViewsService views,
            PeopleService people,
            OrganisationService organisation,
            Clock clock) {
        this.rights = rights;
        this.entities = entities;
        this.views = views;
        this.people = people;
        this.organisation = organisation;
        this.clock = clock;
    }

    /**
     * How a view is used.
     *
     * @param lastOpenedAt when anybody opened it last
     * @param readers how many people did in the last {@value #TOLD_DAYS} days
     * @param mineAt when the reader opened it last
     * @param attention what the nightly check found
     */
    public record Use(
            @AsText long view,
            Optional<Instant> lastOpenedAt,
            int readers,
            Optional<Instant> mineAt,
            List<Attention.Note> attention) {}

    /** Somebody who opened a view. */
    record OpenedBy(Who who, Instant lastAt, int times) {}

    /**
     * Who leans on a view and where; what to know before it is changed.
     *
     * @param readers who opened it in the last {@value #TOLD_DAYS} days, the latest first
     * @param pinnedBy how many others have pinned it
     * @param beginningOf teams, or everybody, who begin its register with it
     * @param listOf teams that have it on their list
     * @param refinedBy how many others have kept a refinement of it
     */
    record Reliance(
            List<OpenedBy> readers, int pinnedBy, List<String> beginningOf, List<String> listOf, int refinedBy) {}

    /** Notes that somebody opened a view. */
    @Transactional
    public void opened(long id, SignedIn who) {
        rights.find(id, who);
        if (who.watcher().isPresent()) {
            return;
        }
        entities.createNativeQuery("""
                        insert into view_opening (view_id, person_id, day, times, last_at) values (?1, ?2, ?3, 1, ?4)
                        on conflict (view_id, person_id, day)
                        do update set times = view_opening.times + 1, last_at = excluded.last_at""")
                .setParameter(1, id)
                .setParameter(2, who.id())
                .setParameter(3, today())
                .setParameter(4, clock.instant())
                .executeUpdate();
    }

    /** How the views that are open to a person are used. */
    @Transactional(readOnly = true)
    public List<Use> all(SignedIn who) {
        Set<Long> open = views.numbersOpenTo(who);
        Map<Long, List<Attention.Note>> notes = new HashMap<>();
        rows("select view_id, code, message, found_at from view_attention order by view_id, code, message")
                .forEach(r -> notes.computeIfAbsent(number(r[0]), id -> new java.util.ArrayList<>())
                        .add(new Attention.Note((String) r[1], (String) r[2], (Instant) r[3])));
        Map<Long, Use> used = new HashMap<>();
        List<?> found = entities.createNativeQuery("""
                        select view_id, max(last_at),
                               count(distinct person_id) filter (where day > ?1),
                               max(last_at) filter (where person_id = ?2)
                        from view_opening group by view_id""")
                .setParameter(1, today().minusDays(TOLD_DAYS))
                .setParameter(2, who.id())
                .getResultList();
        found.stream()
                .map(Object[].class::cast)
                .forEach(r -> used.put(
                        number(r[0]),
                        new Use(
                                number(r[0]),
                                Optional.ofNullable((Instant) r[1]),
                                ((Number) r[2]).intValue(),
                                Optional.ofNullable((Instant) r[3]),
                                List.of())));
        return open.stream()
                .map(id -> {
                    Use use = used.getOrDefault(id, new Use(id, Optional.empty(), 0, Optional.empty(), List.of()));
                    return new Use(
                            id, use.lastOpenedAt(), use.readers(), use.mineAt(), notes.getOrDefault(id, List.of()));
                })
                .toList();
    }

    /** Who leans on a view; for whoever may change it, and for those who read everything. */
    @Transactional(readOnly = true)
    public Reliance reliance(long id, SignedIn who) {
        ViewEntity view = rights.find(id, who);
        if (!who.readsEverything()
                && rights.may(view, who)
                        .filter(m -> m.includes(ViewPermission.CHANGE))
                        .isEmpty()) {
            throw deftlens.server.platform.Problem.forbidden("Who opens a view is told to those who may change it.");
        }
        Map<Long, Who> persons = people.everyone().stream()
                .collect(Collectors.toMap(PeopleService.Profile::id, p -> new Who(p.id(), p.name(), p.fullName())));
        List<?> readers = entities.createNativeQuery("""
                        select person_id, max(last_at), sum(times) from view_opening
                        where view_id = ?1 and day > ?2 group by person_id order by max(last_at) desc""")
                .setParameter(1, id)
                .setParameter(2, today().minusDays(TOLD_DAYS))
                .getResultList();
        return new Reliance(
                readers.stream()
                        .map(Object[].class::cast)
                        .map(r -> new OpenedBy(persons.get(number(r[0])), (Instant) r[1], ((Number) r[2]).intValue()))
                        .toList(),
                count("select count(*) from pin where view_id = ?1 and person_id <> ?2", id, who.id()),
                names("""
                        select coalesce(t.name, 'Everybody') from register_start s
                        left join team t on t.id = s.team_id where s.view_id = ?1 order by 1""", id),
                names("""
                        select t.name from team_view v join team t on t.id = v.team_id
                        where v.view_id = ?1 order by 1""", id),
                count(
                        "select count(*) from view_reader where view_id = ?1 and person_id <> ?2 and refinement is not null",
                        id,
                        who.id()));
    }

    private LocalDate today() {
        return LocalDate.ofInstant(clock.instant(), organisation.zone());
    }

    private int count(String sql, long view, long person) {
        return ((Number) entities.createNativeQuery(sql)
                        .setParameter(1, view)
                        .setParameter(2, person)
                        .getSingleResult())
                .intValue();
    }

    private List<String> names(String sql, long view) {
        List<?> found = entities.createNativeQuery(sql).setParameter(1, view).getResultList();
        return found.stream().map(String.class::cast).toList();
    }

    private List<Object[]> rows(String sql) {
        List<?> found = entities.createNativeQuery(sql).getResultList();
        return found.stream().map(Object[].class::cast).toList();
    }

    private static long number(Object value) {
        return ((Number) value).longValue();
    }
}
