package deftlens.server.records;

import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSets;
import deftlens.server.people.PeopleService;
import deftlens.server.question.RowValues;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RegisterForReader;
import jakarta.persistence.EntityManager;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.annotation.JsonSerialize;

/** What was done to records: by whom, when, why, from what to what. */
@Component
public class RecordHistory {

    private final EntityManager entities;
    private final PeopleService people;
    private final ChangeSets changes;

    RecordHistory(EntityManager entities, PeopleService people, ChangeSets changes) {
        this.entities = entities;
        this.people = people;
        this.changes = changes;
    }

    /**
     * One change of a record.
     *
     * @param who the full name of whoever made it
     * @param action what was done, in words
     * @param reason why, where somebody said so; empty otherwise
     * @param before the values of the fields that changed, by field; absent of a record that was made
     * @param after the same afterwards; absent of a record that was taken away
     */
    public record RecordChange(
            Instant at,
            Optional<String> who,
            String action,
            String reason,

            @JsonSerialize(contentUsing = RowValues.Json.class)
            Optional<Map<String, Object>> before,

            @JsonSerialize(contentUsing = RowValues.Json.class)
            Optional<Map<String, Object>> after) {

        /** The same without the values. */
        RecordChange withoutValues() {
            return new RecordChange(at, who, action, reason, Optional.empty(), Optional.empty());
        }
    }

    /** What was done to a record, the latest first; fields that the reader does not have are left out. */
    @Transactional(propagation = Propagation.MANDATORY)
    public List<RecordChange> of(RegisterForReader described, long id) {
        return of(described, List.of(id)).get(id);
    }

    /** What was done to each of several records. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Map<Long, List<RecordChange>> of(RegisterForReader described, Collection<Long> ids) {
        Map<Long, List<ChangeSets.Step>> steps = steps(described, ids);
        Map<Long, ChangeSets.Listed> sets = changes.all(steps.values().stream()
                .flatMap(List::stream)
                .map(ChangeSets.Step::set)
                .distinct()
                .toList());
        Map<Long, String> names = people.everyone().stream()
                .collect(Collectors.toMap(PeopleService.Profile::id, PeopleService.Profile::fullName));
        return steps.entrySet().stream()
                .collect(Collectors.toMap(
                        Map.Entry::getKey,
                        e -> e.getValue().stream()
                                .map(s -> change(described, s, sets.get(s.set()), names))
                                .toList()));
    }

    private Map<Long, List<ChangeSets.Step>> steps(RegisterForReader described, Collection<Long> ids) {
        Map<Long, List<ChangeSets.Step>> told = described.can(Origin.Capability.RECORDS)
                ? entities.unwrap(Session.class)
                        .doReturningWork(connection -> RecordStory.steps(connection, described, ids))
                : Map.of();
        Map<Long, List<ChangeSets.Step>> noted = changes.noted(described.id(), ids, told);
        Map<Long, List<ChangeSets.Step>> steps = new HashMap<>();
        for (Long id : ids) {
            List<ChangeSets.Step> all = new ArrayList<>(told.getOrDefault(id, List.of()));
            all.addAll(noted.getOrDefault(id, List.of()));
            steps.put(id, all);
        }
        return steps;
    }

    private static RecordChange change(
            RegisterForReader described, ChangeSets.Step step, ChangeSets.Listed set, Map<Long, String> names) {
        return new RecordChange(
                set.at(),
                set.person().map(names::get),
                words(set, step.kind()),
                set.reason(),
                step.before().map(values -> seen(described, values)),
                step.after().map(values -> seen(described, values)));
    }

    private static String words(ChangeSets.Listed set, ChangeSet.Kind kind) {
        String did = switch (kind) {
            case MADE -> "made";
            case CHANGED -> "changed";
            case REMOVED -> "removed";
        };
        return switch (set.origin()) {
            case RECORD -> did;
            case BULK -> did + " in bulk";
            case POSTED -> kind == ChangeSet.Kind.MADE ? "posted" : did;
            case TAGS -> "tagged";
            case FILE -> did + " by the file “" + set.title() + "”";
            case DATABASE -> did + " in the database itself";
            case UNDONE -> did + " by taking a change back";
            case TAKEN_BACK -> did + " by taking back the file “" + set.title() + "”";
        };
    }

    private static Map<String, Object> seen(RegisterForReader described, Map<String, Object> values) {
        Map<String, Object> left = new LinkedHashMap<>(values);
        left.keySet().removeIf(key -> described.register().field(key).isEmpty());
        return left;
    }
}
