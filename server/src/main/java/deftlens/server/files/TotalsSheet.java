package deftlens.server.files;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Groups;
import deftlens.core.sql.Histogram;
import deftlens.core.time.Reading;
import deftlens.server.question.GroupKey;
import deftlens.server.question.Question;
import deftlens.server.totals.TotalsAnswer;
import deftlens.server.values.ValueType;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Totals as lines of a sheet: a head, the innermost rows, and the line of all together. Rows above others are left out, so that a column
 * that somebody adds up is added up once. Where rows are left out, the last two lines are of the rows shown and of all
 * records.
 */
final class TotalsSheet {

    private final Question question;
    private final List<Groups.Level> levels;
    private final Optional<Groups.Level> across;
    private final TotalsAnswer answer;
    private final boolean offsets;

    /**
     * @param levels those of the rows
     * @param across that of the columns
     * @param offsets whether moments have their offset from UTC
     */
    TotalsSheet(
            Question question,
            List<Groups.Level> levels,
            Optional<Groups.Level> across,
            TotalsAnswer answer,
            boolean offsets) {
        this.question = question;
        this.levels = levels;
        this.across = across;
        this.answer = answer;
        this.offsets = offsets;
    }

    List<String> heads() {
        List<String> heads = new ArrayList<>();
        for (Groups.Level level : levels) {
            heads.add(head(level));
        }
        if (levels.isEmpty()) {
            heads.add("");
        }
        for (GroupKey column : answer.columns()) {
            answer.figures().forEach(f -> heads.add(key(across.orElseThrow(), column) + ", " + f.label()));
        }
        String all = answer.columns().isEmpty() ? "" : "all, ";
        answer.figures().forEach(f -> heads.add(all + f.label()));
        return heads.stream().map(CsvResults::safe).toList();
    }

    List<List<String>> lines() {
        List<List<String>> lines = new ArrayList<>();
        List<TotalsAnswer.TotalsRow> cells = List.of();
        TotalsAnswer.TotalsRow row = null;
        for (TotalsAnswer.TotalsRow next : answer.rows()) {
            if (next.across().isPresent()) {
                cells = joined(cells, next);
                continue;
            }
            add(lines, row, cells);
            row = next;
            cells = List.of();
        }
        add(lines, row, cells);
        if (!answer.shownTotal().equals(answer.total())) {
            lines.add(line(List.of("total of the rows shown"), answer.shownTotal(), answer.shownTotals()));
        }
        lines.add(line(List.of("total"), answer.total(), answer.totals()));
        return lines;
    }

    private void add(List<List<String>> lines, TotalsAnswer.TotalsRow row, List<TotalsAnswer.TotalsRow> cells) {
        if (row == null || row.keys().size() < levels.size()) {
            return;
        }
        List<String> keys = new ArrayList<>();
        for (int i = 0; i < levels.size(); i++) {
            keys.add(CsvResults.safe(key(levels.get(i), row.keys().get(i))));
        }
        lines.add(line(keys, row, cells));
    }

    private List<String> line(List<String> keys, TotalsAnswer.TotalsRow row, List<TotalsAnswer.TotalsRow> cells) {
        List<String> line = new ArrayList<>(keys);
        while (line.size() < Math.max(1, levels.size())) {
            line.add("");
        }
        Map<GroupKey, TotalsAnswer.TotalsRow> byColumn = new HashMap<>();
        cells.forEach(c -> byColumn.put(c.across().orElseThrow(), c));
        for (GroupKey column : answer.columns()) {
            Optional<TotalsAnswer.TotalsRow> cell = Optional.ofNullable(byColumn.get(column));
            answer.figures().forEach(f -> line.add(cell.map(c -> figure(f, c)).orElse("")));
        }
        answer.figures().forEach(f -> line.add(figure(f, row)));
        return line;
    }

    private String figure(TotalsAnswer.TotalsFigure figure, TotalsAnswer.TotalsRow row) {
        Optional<Object> value = row.values().get(figure.name());
        Field field = figure.field()
                .filter(key -> !figure.isPart())
                .flatMap(key -> question.register().field(key))
                .filter(f -> f.type().label().equals(figure.type()))
                .orElseGet(() -> Field.of("number", "number", FieldType.NUMBER));
        return value.map(v ->
                        ValueType.of(field).words(field, v, question.reading().zone(), offsets))
                .orElse("");
    }

    private static String head(Groups.Level level) {
        String label = level.field().label();
        return switch (level) {
            case Groups.Level.Values v -> label;
            case Groups.Level.Periods(Field field, Histogram.Step step) -> label + ", " + step.words();
            case Groups.Level.Parts(Field field, deftlens.core.condition.Test.Part part) -> label + ", " + part.words();
            case Groups.Level.Hours h -> label + ", hour";
            case Groups.Level.Bands b -> label + ", band";
        };
    }

    private String key(Groups.Level level, GroupKey key) {
        Reading reading = question.reading();
        if (level instanceof Groups.Level.Periods(Field field, Histogram.Step step)
                && key.from().isPresent()) {
            return FileColumns.period(step, key.from().get().atStartOfDay(), reading);
        }
        if (level instanceof Groups.Level.Periods(Field field, Histogram.Step step) && step == Histogram.Step.HOUR) {
            return key.value().orElse("");
        }
        return key.label().or(key::value).orElse("");
    }

    private static List<TotalsAnswer.TotalsRow> joined(List<TotalsAnswer.TotalsRow> rows, TotalsAnswer.TotalsRow one) {
        List<TotalsAnswer.TotalsRow> joined = new ArrayList<>(rows);
        joined.add(one);
        return joined;
    }
}
