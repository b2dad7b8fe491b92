package deftlens.server.totals;

import deftlens.core.condition.Comparison;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Groups;
import deftlens.core.time.Reading;
import deftlens.server.platform.Problem;
import deftlens.server.question.GroupKey;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** The criteria that the records behind a figure have in common. */
final class RecordsBehind {

    private RecordsBehind() {}

    /** The records of the rows inside one that criteria on figures have not left out. */
    static Condition anyOf(
            TotalsTable table, List<Optional<Object>> path, Optional<Comparison> earlier, Reading reading) {
        List<Groups.Level> rows = table.rows();
        // Values of one field beside one another are a list, which may be long; other rows are criteria of their own.
        Map<List<Condition>, List<Operand>> lists = new LinkedHashMap<>();
        List<Condition> others = new ArrayList<>();
        Groups.Level last = rows.getLast();
        for (List<Optional<Object>> row : table.paths(rows.size())) {
            if (!row.subList(0, path.size()).equals(path)) {
                continue;
            }
            List<Condition> outer = new ArrayList<>();
            for (int i = path.size(); i < rows.size() - 1; i++) {
                outer.add(criterion(rows.get(i), row.get(i), earlier, reading));
            }
            Condition inner = criterion(last, row.getLast(), earlier, reading);
            if (inner
                    instanceof
                    Condition.Criterion(String field, Test.Is(Operand value, boolean exactly), boolean not)) {
                lists.computeIfAbsent(outer, o -> new ArrayList<>()).add(value);
            } else {
                outer.add(inner);
                others.add(new Condition.All(outer));
            }
        }
        List<Condition> any = new ArrayList<>();
        lists.forEach((outer, values) -> {
            if (values.size() > Test.MAX_VALUES) {
                throw tooMany();
            }
            List<Condition> all = new ArrayList<>(outer);
            boolean exactly = last.field().type() == FieldType.TEXT;
            all.add(Condition.Criterion.of(last.field().key(), new Test.In(values, exactly)));
            any.add(new Condition.All(all));
        });
        any.addAll(others);
        return any.isEmpty() ? none(last.field()) : new Condition.Any(any);
    }

    /** What no record satisfies, since no row is left. */
    private static Condition none(Field field) {
        return new Condition.All(List.of(
                Condition.Criterion.of(field.key(), new Test.Empty()),
                Condition.Criterion.not(field.key(), new Test.Empty())));
    }

    /** More rows than one statement can ask for. */
    static Problem tooMany() {
        return Problem.unprocessable(
                "too-many-rows",
                "The records behind this figure are those of many rows. Open one of these rows instead.");
    }

    /**
     * The criterion for the records of one row or column.
     *
     * @param earlier the comparison where those of the earlier time are wanted
     * @throws Problem {@code no-words}
     */
    static Condition criterion(
            Groups.Level level, Optional<Object> value, Optional<Comparison> earlier, Reading reading) {
        if (earlier.isPresent()
                && value.isPresent()
                && level instanceof Groups.Level.Periods periods
                && periods.field().equals(earlier.get().field())) {
            return Groups.criterion(periods, value.get(), earlier.get().shift().orElseThrow(), reading)
                    .orElseGet(() -> none(level.field()));
        }
        Optional<Condition> criterion = value.filter(GroupKey::isBeyond).isPresent()
                ? Optional.empty()
                : Groups.criterion(level, value, reading);
        return criterion.orElseThrow(() -> Problem.unprocessable(
                "no-words",
                "The records of this " + level.field().label()
                        + " cannot be asked for in words: it is beyond all dates or numbers that a statement has."));
    }
}
