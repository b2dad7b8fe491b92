package deftlens.bench;

import deftlens.core.check.Checker;
import deftlens.core.check.Finding;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import deftlens.core.match.Matcher;
import deftlens.core.match.Row;
import deftlens.core.sql.Where;
import deftlens.core.statement.Reader;
import deftlens.core.time.Reading;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.TimeUnit;
import java.util.function.Predicate;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Fork;
import org.openjdk.jmh.annotations.Measurement;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.Warmup;

/** A statement of 20 criteria: read, compiled to SQL, and put to one record in memory. */
@State(Scope.Benchmark)
@BenchmarkMode(Mode.AverageTime)
@OutputTimeUnit(TimeUnit.NANOSECONDS)
@Warmup(iterations = 5, time = 1)
@Measurement(iterations = 5, time = 1)
@Fork(1)
public class StatementBench {

    private static final String STATEMENT = """
            due before today and status is not in ("Done", "Dropped") and site is my site
            and (severity >= 3 or tags has any of ("Safety") or title contains "ladder" or cost > 120.50)
            and reported_at in last 6 months and reported_at not on 2026-11-01 and note is not empty
            and (title starts with "Fender" or title is like "N?v*light" or title does not contain "crane")
            and not (assignee is empty or assignee is me) and cost between 0 and 5000 and severity < 6
            and due between 2026-01-01 and end of this month and (reported_at more than 2 hours ago or due in this quarter)
            and note contains "round" and status is "In hand"
            """;

    private final Register register = new Register(
            "defects",
            "Defects",
            "records.defects",
            "id",
            List.of(
                    Field.of("title", "Title", FieldType.TEXT).always(),
                    Field.of("site", "Site", FieldType.CHOICE).withOptions(List.of(Option.of("North Quay"))),
                    Field.of("severity", "Severity", FieldType.NUMBER).always(),
                    Field.of("status", "Status", FieldType.CHOICE)
                            .withOptions(List.of(Option.of("In hand"), Option.of("Done"), Option.of("Dropped"))),
                    Field.of("assignee", "Assignee", FieldType.PERSON),
                    Field.of("reported_at", "Reported at", FieldType.MOMENT).always(),
                    Field.of("due", "Due", FieldType.DATE),
                    Field.of("cost", "Cost", FieldType.MONEY),
                    Field.of("tags", "Tags", FieldType.TAGS),
                    Field.of("note", "Note", FieldType.TEXT)));
    private final Reader reader = new Reader(register, Set.of("me", "site"));
    private final Reading reading = Reading.at(Instant.parse("2026-11-23T09:30:00Z"), ZoneId.of("Europe/London"));
    private final Viewer viewer = new Viewer(Map.of("me", List.of("asta.quill"), "site", List.of("North Quay")));
    private final Condition condition = reader.read(STATEMENT);
    private final Bound bound = new Binder(register, reading, viewer).bind(condition);
    private final Predicate<Row> matcher = Matcher.of(register, bound);
    private final Object[] values = {
        "Fender rail loose at ladder 7",
        "North Quay",
        BigDecimal.valueOf(4),
        "In hand",
        "lise.farrow",
        Instant.parse("2026-11-02T10:00:00Z"),
        LocalDate.of(2026, 11, 20),
        new BigDecimal("240.00"),
        List.of("Safety"),
        "Seen on the morning round."
    };
    private final Row row = at -> values[at];

    /** Words to tree. */
    @Benchmark
    public Condition read() {
        return reader.read(STATEMENT);
    }

    /** Tree to SQL, windows resolved. */
    @Benchmark
    public String compile() {
        return Where.of(new Binder(register, reading, viewer).bind(condition)).text();
    }

    /** What the checker notices without looking at records. */
    @Benchmark
    public List<Finding> check() {
        return Checker.findings(condition, new Binder(register, reading, viewer), Checker.About.QUESTION);
    }

    /** One record that passes every criterion, so that none is skipped by an early no. */
    @Benchmark
    public boolean match() {
        return matcher.test(row);
    }
}
