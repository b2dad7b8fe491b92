package deftlens.server.rows;

import deftlens.core.condition.Bound;
import deftlens.core.condition.Relaxed;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.sql.Histogram;
import deftlens.core.sql.Page;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Where;
import deftlens.server.platform.Problem;
import deftlens.server.question.QueryRunner;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.Selections;
import deftlens.server.registers.Origin;
import deftlens.server.values.ValueType;
import java.math.BigDecimal;
import java.math.MathContext;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.zone.ZoneOffsetTransition;
import java.time.zone.ZoneRules;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Records over time. */
@Service
public class HistogramService {

    private static final int USUAL_BUCKETS = 80;
    private static final int MOST_BUCKETS = 2_000;
    private static final int STRETCHES = 48;

    private final QueryRunner runner;
    private final Selections selections;
    private final Questions questions;
    private final KeptCounts kept;

    HistogramService(QueryRunner runner, Selections selections, Questions questions, KeptCounts kept) {
        this.runner = runner;
        this.selections = selections;
        this.questions = questions;
        this.kept = kept;
    }

    /**
     * One stretch of time, {@code [start, end)}, by the local clock of the zone.
     *
     * @param records the records in it under the criteria on other fields
     * @param matching those of them that are in the whole question
     */
    public record Bucket(LocalDateTime start, LocalDateTime end, long records, long matching) {}

    /**
     * Records over time, without gaps.
     *
     * @param step hour, day, week, month, quarter or year
     */
    public record OverTime(String field, String label, String step, String zone, List<Bucket> buckets) {}

    /**
     * Records over time on a date or moment; on a span, the records that run at any time in each stretch, so that one record
     * may be in several.
     */
    @Transactional(readOnly = true)
    public OverTime histogram(
            Question question,
            Optional<String> key,
            Optional<String> step,
            Optional<LocalDate> from,
            Optional<LocalDate> to) {
        Register register = question.register();
        Field asked = key.map(k -> register.field(k)
                        .orElseThrow(() -> Problem.unprocessable(
                                "unknown-field", register.label() + " has no field “" + k + "”.")))
                .or(() -> question.registerForReader().main())
                .orElseThrow(() -> Problem.unprocessable(
                        "no-time", register.label() + " has no main date; name a date, or a date and time."));
        if (asked.type() == FieldType.SPAN) {
            return running(question, asked, step, from, to);
        }
        Field field = asked;
        if (!field.type().isTemporal()) {
            throw Problem.unprocessable(
                    "no-time",
                    field.label() + " is a " + field.type().words() + " field; choose a date, or a date and time.");
        }
        ZoneId zone = question.reading().zone();
        Bound whole = questions.bindAlone(question, question.condition());
        Bound others = Relaxed.without(whole, Set.of(field.key()));
        List<Bound> limits = new ArrayList<>(List.of(others));
        if (from.isPresent() || to.isPresent()) {
            limits.add(
                    field.type() == FieldType.DATE
                            ? new Bound.DayRange(field, from, to.map(d -> d.plusDays(1)))
                            : new Bound.InstantRange(
                                    field,
                                    from.map(d -> d.atStartOfDay(zone).toInstant()),
                                    true,
                                    to.map(d -> d.plusDays(1).atStartOfDay(zone).toInstant()),
                                    false));
        }
        Sql condition = Where.of(new Bound.Every(limits));
        Optional<TreeMap<LocalDateTime, Long>> known =
                keptDays(question, field, step, from, to).or(() -> kept(question, field, from, to));
        if (known.isPresent()) {
            return overTime(question, field, step, from, to, known.get());
        }
        Object[] ends = from.isPresent() && to.isPresent() ? UNASKED : reach(question, condition, field);
        if (ends[0] == null && from.isEmpty()) {
            return new OverTime(field.key(), field.label(), "day", zone.getId(), List.of());
        }
        LocalDateTime first = from.map(LocalDate::atStartOfDay).orElseGet(() -> local(ends[0], zone));
        LocalDateTime last = to.map(d -> d.plusDays(1).atStartOfDay().minusSeconds(1))
                .orElseGet(() -> ends[1] == null ? first : local(ends[1], zone));
        Histogram.Step length = step.map(HistogramService::step)
                .orElseGet(() -> fitting(Histogram.Step.dividing(first, last, USUAL_BUCKETS), field));
        Map<LocalDateTime, Bucket> counted = counted(question, field, condition, Where.of(whole), length);
        return overTime(question, field, length, first, last, counted);
    }

    private static OverTime overTime(
            Question question,
            Field field,
            Histogram.Step length,
            LocalDateTime first,
            LocalDateTime last,
            Map<LocalDateTime, Bucket> counted) {
        List<Bucket> buckets = new ArrayList<>();
        LocalDateTime at = length.floor(first, question.reading());
        while (!at.isAfter(last)) {
            LocalDateTime next = length.next(at);
            buckets.add(counted.getOrDefault(at, new Bucket(at, next, 0, 0)));
            if (buckets.size() > MOST_BUCKETS) {
                throw Problem.unprocessable(
                        "too-many-buckets", "That would be more than " + MOST_BUCKETS + " bars; choose a longer step.");
            }
            at = next;
        }
        return new OverTime(
                field.key(),
                field.label(),
                length.name().toLowerCase(Locale.ROOT),
                question.reading().zone().getId(),
                buckets);
    }

    /** The records of a span that run in each stretch: those that have begun by its end, without those that ended before it. */
    private OverTime running(
            Question question, Field span, Optional<String> step, Optional<LocalDate> from, Optional<LocalDate> to) {
        Register register = question.register();
        Field start = register.start(span);
        Field end = register.end(span);
        ZoneId zone = question.reading().zone();
        Bound asked = questions.bindAlone(question, question.condition());
        Sql whole = Where.of(asked);
        Bound others = Relaxed.without(asked, Set.of(start.key(), end.key()));
        Sql condition = Where.of(new Bound.Every(List.of(others, new Bound.Not(new Bound.IsEmpty(start)))));
        // Every record would be read for what the question says already.
        boolean given = from.isPresent() && to.isPresent();
        Object[] starts = given ? UNASKED : reach(question, condition, start);
        Object[] ends = given ? UNASKED : reach(question, condition, end);
        if (starts[0] == null && from.isEmpty()) {
            return new OverTime(span.key(), span.label(), "day", zone.getId(), List.of());
        }
        LocalDateTime first = from.map(LocalDate::atStartOfDay).orElseGet(() -> local(starts[0], zone));
        LocalDateTime last = to.map(d -> d.plusDays(1).atStartOfDay().minusSeconds(1))
                .orElseGet(() -> later(
                        starts[1] == null ? first : local(starts[1], zone),
                        ends[1] == null ? first : local(ends[1], zone)));
        Histogram.Step length = step.map(HistogramService::step)
                .orElseGet(() -> fitting(Histogram.Step.dividing(first, last, USUAL_BUCKETS), start));
        LocalDateTime since = length.floor(first, question.reading());
        Map<LocalDateTime, Bucket> begun = ends(question, condition, whole, start, start, true, length, since);
        // The last day of a span counts whole; a moment at which it ends is no longer inside.
        Map<LocalDateTime, Bucket> ended = ends(
                question,
                condition,
                whole,
                end,
                start,
                start.type() == FieldType.DATE && span.ends().orElseThrow().lastDayBelongs(),
                length,
                since);
        Map<LocalDateTime, Bucket> counted = new HashMap<>();
        Bucket before = begun.getOrDefault(LocalDateTime.MIN, NOTHING);
        Bucket over = ended.getOrDefault(LocalDateTime.MIN, NOTHING);
        long records = before.records() - over.records();
        long matching = before.matching() - over.matching();
        int buckets = 0;
        for (LocalDateTime at = since; !at.isAfter(last) && buckets++ <= MOST_BUCKETS; at = length.next(at)) {
            Bucket here = begun.getOrDefault(at, NOTHING);
            records += here.records();
            matching += here.matching();
            counted.put(at, new Bucket(at, length.next(at), records, matching));
            Bucket gone = ended.getOrDefault(at, NOTHING);
            records -= gone.records();
            matching -= gone.matching();
        }
        return overTime(question, span, length, first, last, counted);
    }

    /** In the place of the first and last value, where the stretch is given and they are not looked for. */
    private static final Object[] UNASKED = {null, null};

    private static final Bucket NOTHING = new Bucket(LocalDateTime.MIN, LocalDateTime.MIN, 0, 0);

    private static LocalDateTime later(LocalDateTime a, LocalDateTime b) {
        return a.isAfter(b) ? a : b;
    }

    /** The first and last value that can be drawn. */
    private Object[] reach(Question question, Sql condition, Field field) {
        Object[] ends = ends(question, condition, field);
        return Arrays.stream(ends).anyMatch(e -> Beyond.words(e).isPresent())
                ? ends(question, finite(condition, field), field)
                : ends;
    }

    private static Sql finite(Sql condition, Field field) {
        return new Sql().add(condition).add(" and ").add(Histogram.finite(field));
    }

    private Object[] ends(Question question, Sql condition, Field field) {
        ValueType type = ValueType.of(field);
        return runner.single(question, Histogram.reach(selections.scope(question), condition, field), row ->
                new Object[] {type.read(row, 1), type.read(row, 2)});
    }

    private Map<LocalDateTime, Bucket> ends(
            Question question,
            Sql condition,
            Sql whole,
            Field field,
            Field begins,
            boolean inclusive,
            Histogram.Step length,
            LocalDateTime since) {
        return buckets(
                question,
                length,
                Histogram.ends(
                        selections.scope(question),
                        condition,
                        whole,
                        field,
                        begins,
                        inclusive,
                        length,
                        since,
                        question.reading()));
    }

    /** The kept counts by local days, where whole days answer the question. */
    private Optional<TreeMap<LocalDateTime, Long>> keptDays(
            Question question, Field field, Optional<String> step, Optional<LocalDate> from, Optional<LocalDate> to) {
        ZoneId zone = question.reading().zone();
        return kept.days(question, field, zone).flatMap(all -> {
            Instant first = Instant.ofEpochSecond(all.firstHour() * 3_600);
            Instant last = Instant.ofEpochSecond(all.lastHour() * 3_600);
            LocalDateTime begin =
                    from.map(LocalDate::atStartOfDay).orElseGet(() -> LocalDateTime.ofInstant(first, zone));
            LocalDateTime end =
                    to.map(d -> d.plusDays(1).atStartOfDay()).orElseGet(() -> LocalDateTime.ofInstant(last, zone));
            boolean hours = step.filter("hour"::equalsIgnoreCase).isPresent()
                    || step.isEmpty() && Histogram.Step.dividing(begin, end, USUAL_BUCKETS) == Histogram.Step.HOUR;
            if (hours || !hasWholeHours(zone, first, last)) {
                return Optional.empty();
            }
            TreeMap<LocalDateTime, Long> local = new TreeMap<>();
            all.days().stream()
                    .filter(d -> from.map(f -> !d.day().isBefore(f)).orElse(true)
                            && to.map(t -> !d.day().isAfter(t)).orElse(true))
                    .forEach(d -> local.put(d.day().atStartOfDay(), d.records()));
            return Optional.of(local);
        });
    }

    /** Whether the clocks of a zone are off by whole hours all the time between two instants. */
    private static boolean hasWholeHours(ZoneId zone, Instant first, Instant last) {
        ZoneRules rules = zone.getRules();
        if (rules.getOffset(first).getTotalSeconds() % 3_600 != 0) {
            return false;
        }
        for (ZoneOffsetTransition change = rules.nextTransition(first);
                change != null && change.getInstant().isBefore(last);
                change = rules.nextTransition(change.getInstant())) {
            if (change.getOffsetAfter().getTotalSeconds() % 3_600 != 0) {
                return false;
            }
        }
        return true;
    }

    /**
     * The kept counts by local hours or days, where they answer the question: nothing else is asked, and the clocks of the
     * zone are off by whole hours.
     */
    private Optional<TreeMap<LocalDateTime, Long>> kept(
            Question question, Field field, Optional<LocalDate> from, Optional<LocalDate> to) {
        ZoneId zone = question.reading().zone();
        return kept.main(question, field).flatMap(counts -> {
            TreeMap<LocalDateTime, Long> local = new TreeMap<>();
            for (KeptCounts.Kept one : counts) {
                if (one.value().isEmpty()) {
                    continue;
                }
                LocalDateTime at;
                if (field.type() == FieldType.DATE) {
                    at = LocalDate.parse(one.value().get()).atStartOfDay();
                } else {
                    Instant hour =
                            Instant.ofEpochSecond(Long.parseLong(one.value().get()) * 3_600);
                    if (zone.getRules().getOffset(hour).getTotalSeconds() % 3_600 != 0) {
                        return Optional.empty();
                    }
                    at = LocalDateTime.ofInstant(hour, zone);
                }
                boolean inside = from.map(d -> !at.toLocalDate().isBefore(d)).orElse(true)
                        && to.map(d -> !at.toLocalDate().isAfter(d)).orElse(true);
                if (inside) {
                    local.merge(at, one.records(), Long::sum);
                }
            }
            return Optional.of(local);
        });
    }

    private static OverTime overTime(
            Question question,
            Field field,
            Optional<String> step,
            Optional<LocalDate> from,
            Optional<LocalDate> to,
            TreeMap<LocalDateTime, Long> known) {
        if (known.isEmpty() && from.isEmpty()) {
            return new OverTime(
                    field.key(), field.label(), "day", question.reading().zone().getId(), List.of());
        }
        LocalDateTime first = from.map(LocalDate::atStartOfDay).orElseGet(known::firstKey);
        LocalDateTime last = to.map(d -> d.plusDays(1).atStartOfDay().minusSeconds(1))
                .orElseGet(() -> known.isEmpty() ? first : known.lastKey());
        Histogram.Step length = step.map(HistogramService::step)
                .orElseGet(() -> fitting(Histogram.Step.dividing(first, last, USUAL_BUCKETS), field));
        Map<LocalDateTime, Bucket> counted = new HashMap<>();
        known.forEach((at, n) -> {
            LocalDateTime start = length.floor(at, question.reading());
            counted.merge(
                    start,
                    new Bucket(start, length.next(start), n, n),
                    (a, b) -> new Bucket(a.start(), a.end(), a.records() + b.records(), a.matching() + b.matching()));
        });
        return overTime(question, field, length, first, last, counted);
    }

    /** One stretch of numbers, from {@code low} up to {@code high}; the last one with its end. */
    public record NumberBucket(BigDecimal low, BigDecimal high, long records) {}

    /**
     * Records by a number, without gaps.
     *
     * @param empty the records without a value
     */
    public record Distribution(String field, List<NumberBucket> stretches, long empty) {}

    /**
     * Records by a number field, in stretches of one width from the least value to the greatest.
     *
     * @param beside whether what the question asks of this very field is left out
     */
    @Transactional(readOnly = true)
    public Distribution distribution(Question question, Field field, boolean beside) {
        if (!field.type().isNumeric()) {
            throw Problem.unprocessable(
                    "no-number", field.label() + " is a " + field.type().words() + " field; choose a number.");
        }
        Scope scope = selections.scope(question);
        Sql condition = beside ? Where.of(selections.without(question, field)) : selections.where(question);
        Object[] ends = reach(question, condition, field);
        long empty = runner.number(
                question,
                Page.count(
                        scope,
                        new Sql().add(condition).add(" and ").add(Where.of(new Bound.IsEmpty(field))),
                        Optional.empty()));
        if (ends[0] == null) {
            return new Distribution(field.key(), List.of(), empty);
        }
        BigDecimal low = (BigDecimal) ends[0];
        BigDecimal high = ((BigDecimal) ends[1]).compareTo(low) > 0 ? (BigDecimal) ends[1] : low.add(BigDecimal.ONE);
        BigDecimal width = high.subtract(low).divide(BigDecimal.valueOf(STRETCHES), MathContext.DECIMAL64);
        Sql stretched = Histogram.numbers(
                scope,
                question.registerForReader().can(Origin.Capability.GUARDED) ? condition : finite(condition, field),
                field,
                low,
                high,
                STRETCHES);
        Map<Integer, Long> counts = new HashMap<>();
        runner.list(question, stretched, row -> Map.entry(row.getInt(1), row.getLong(2)))
                .forEach(e -> counts.put(e.getKey(), e.getValue()));
        List<NumberBucket> stretches = new ArrayList<>();
        for (int i = 0; i < STRETCHES; i++) {
            stretches.add(new NumberBucket(
                    low.add(width.multiply(BigDecimal.valueOf(i))),
                    i == STRETCHES - 1 ? high : low.add(width.multiply(BigDecimal.valueOf(i + 1L))),
                    counts.getOrDefault(i + 1, 0L)));
        }
        return new Distribution(field.key(), stretches, empty);
    }

    private Map<LocalDateTime, Bucket> counted(
            Question question, Field field, Sql condition, Sql whole, Histogram.Step length) {
        return buckets(
                question,
                length,
                Histogram.of(selections.scope(question), condition, whole, field, length, question.reading()));
    }

    private Map<LocalDateTime, Bucket> buckets(Question question, Histogram.Step length, Sql sql) {
        Map<LocalDateTime, Bucket> counted = new HashMap<>();
        runner.list(question, sql, row -> bucket(row.getString(1), row.getLong(2), row.getLong(3), length)).stream()
                // What is nowhere on the axis.
                .flatMap(Optional::stream)
                .forEach(b -> counted.put(b.start(), b));
        return counted;
    }

    private static Optional<Bucket> bucket(String written, long records, long matching, Histogram.Step length) {
        if (written == null) {
            return Optional.of(new Bucket(LocalDateTime.MIN, LocalDateTime.MIN, records, matching));
        }
        if (written.endsWith("infinity")) {
            return Optional.empty();
        }
        LocalDateTime start = Histogram.begins(written);
        return Optional.of(new Bucket(start, length.next(start), records, matching));
    }

    private static LocalDateTime local(Object value, ZoneId zone) {
        return value instanceof LocalDate day ? day.atStartOfDay() : LocalDateTime.ofInstant((Instant) value, zone);
    }

    private static Histogram.Step fitting(Histogram.Step step, Field field) {
        return step == Histogram.Step.HOUR && field.type() == FieldType.DATE ? Histogram.Step.DAY : step;
    }

    private static Histogram.Step step(String name) {
        return Arrays.stream(Histogram.Step.values())
                .filter(s -> !s.isFiscal() && s.name().equalsIgnoreCase(name))
                .findFirst()
                .orElseThrow(() -> Problem.unprocessable(
                        "bad-step", "“" + name + "” is no step; write hour, day, week, month, quarter or year."));
    }
}
