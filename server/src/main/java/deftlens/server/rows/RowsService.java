package deftlens.server.rows;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.LetterCase;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Parts;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.match.Why;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Where;
import deftlens.core.statement.Pasted;
import deftlens.core.statement.Printer;
import deftlens.core.time.Reading;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.Described;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.statements.Questions;
import jakarta.persistence.EntityManager;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.hibernate.Session;
import org.hibernate.query.NativeQuery;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** Reads records: pages, counts, values, whole results. The only place that does. */
@Service
public class RowsService {

    /** A count stops here unless the exact one is asked for. */
    public static final int COUNT_CAP = 10_000;

    /** The most rows of one page. */
    public static final int MOST_ROWS = 1_000;

    /** What an order that follows a list begins with. */
    public static final String AS_LISTED = "as-listed:";

    private static final int MOST_VALUES = 500;
    private static final int MOST_PARTS = 60;
    private static final int FETCH = 2_000;

    private final EntityManager entities;
    private final RowAccess access;
    private final Questions questions;
    private final RegisterCatalogue registers;
    private final RunningQuestions running;
    private final KeptCounts kept;
    private final ObjectMapper json;
    private final Duration timeout;

    RowsService(
            EntityManager entities,
            RowAccess access,
            Questions questions,
            RegisterCatalogue registers,
            RunningQuestions running,
            KeptCounts kept,
            ObjectMapper json,
            @Value("${deft.limits.statement-timeout}") Duration timeout) {
        this.entities = entities;
        this.access = access;
        this.questions = questions;
        this.registers = registers;
        this.running = running;
        this.kept = kept;
        this.json = json;
        this.timeout = timeout;
    }

    /**
     * One question over one register, by one person, at one reading.
     *
     * @param name the name under which the reader may stop it
     */
    public record Question(
            Described described, Condition condition, Reading reading, SignedIn who, Optional<String> name) {}

    /** One record: its number and the values asked for. */
    public record Row(long id, Map<String, Object> values) {}

    /** A page of records. */
    public record Rows(List<Row> rows, Optional<String> next, Instant asOf) {}

    /** How many match, whether that is all of them, and of how many. */
    public record Count(long matching, boolean exact, long total) {}

    /**
     * What one part of the condition does.
     *
     * @param path the part's JSON Pointer in the condition
     * @param alone how many records are in the part by itself
     * @param without how many would match if the part were switched off
     */
    public record PartCount(String path, long alone, long without) {}

    /** What each part that is switched on does, beside the number that match. */
    public record PartCounts(long matching, List<PartCount> parts) {}

    /** One value of a field with the number of records that have it; no value for the empty ones. */
    public record ValueCount(Optional<Object> value, Optional<String> label, long count) {}

    /** The most frequent values of a field. */
    public record Values(List<ValueCount> values, boolean more) {}

    /** A page of records in order. */
    @Transactional(readOnly = true)
    public Rows rows(Question question, Order order, List<Field> columns, Optional<String> after, int limit) {
        if (limit < 1 || limit > MOST_ROWS) {
            throw Problem.badRequest("bad-limit", "“limit” runs from 1 to " + MOST_ROWS + ".");
        }
        Sql sql = Page.rows(
                scope(question),
                where(unlisted(question, order)),
                order,
                columns,
                after.map(token -> Cursor.read(json, order, token)),
                limit + 1);
        List<Field> selected = new ArrayList<>(columns);
        order.keys().forEach(k -> selected.add(k.field()));
        boolean listed = order.listed().isPresent();
        List<Object[]> found = listed ? runListed(question, sql, selected) : run(question, sql, selected);
        List<Row> rows = new ArrayList<>();
        for (Object[] values : found.subList(0, Math.min(limit, found.size()))) {
            rows.add(row(columns, values));
        }
        Optional<String> next = Optional.empty();
        if (found.size() > limit) {
            Object[] last = found.get(limit - 1);
            next = Optional.of(Cursor.write(
                    json, order, Arrays.asList(last).subList(1 + columns.size(), last.length), (Long) last[0]));
        }
        return new Rows(rows, next, question.reading().now());
    }

    /** The SQL of a question's first page. */
    @Transactional(readOnly = true)
    public Sql page(Question question, Order order, List<Field> columns, int limit) {
        return Page.rows(scope(question), where(question), order, columns, Optional.empty(), limit);
    }

    /** How many records match; beyond the cap only when the exact number is asked for. */
    @Transactional(readOnly = true)
    public Count count(Question question, boolean exact) {
        Scope scope = scope(question);
        Optional<Long> known = kept.total(question);
        long total =
                known.isPresent() ? known.get() : number(question, Page.count(scope, Sql.of("true"), Optional.empty()));
        if (KeptCounts.asksEverything(question)) {
            return new Count(total, true, total);
        }
        long matching = number(
                question, Page.count(scope, where(question), exact ? Optional.empty() : Optional.of(COUNT_CAP + 1)));
        boolean all = exact || matching <= COUNT_CAP;
        return new Count(all ? matching : COUNT_CAP, all, total);
    }

    /** What each part of the condition lets in by itself, and what the whole would be without it; one pass for all. */
    @Transactional(readOnly = true)
    public PartCounts parts(Question question) {
        Register register = question.described().register();
        List<Parts.Part> parts = Parts.of(question.condition());
        if (parts.size() > MOST_PARTS) {
            throw Problem.unprocessable(
                    "too-many-parts", "Counts are kept for at most " + MOST_PARTS + " criteria and groups.");
        }
        Binder binder = questions.binder(register, question.reading(), question.who());
        Bound whole = questions.bind(register, question.condition(), question.reading(), question.who());
        List<Sql> conditions = new ArrayList<>();
        conditions.add(Where.of(whole));
        for (Parts.Part part : parts) {
            conditions.add(Where.of(binder.bind(part.part())));
            conditions.add(Where.of(binder.bind(part.without())));
        }
        NativeQuery<Object[]> query = query(question, Page.counts(scope(question), conditions));
        for (int i = 0; i < conditions.size(); i++) {
            query.addScalar("c" + i, Long.class);
        }
        List<Long> counts = longs(tracked(question, () -> (Object) query.getSingleResult()));
        List<PartCount> found = new ArrayList<>();
        for (int i = 0; i < parts.size(); i++) {
            found.add(new PartCount(parts.get(i).path(), counts.get(2 * i + 1), counts.get(2 * i + 2)));
        }
        return new PartCounts(counts.get(0), found);
    }

    /** The values of a field among the matching records, the most frequent first. */
    @Transactional(readOnly = true)
    public Values values(Question question, Field field, int limit) {
        if (limit < 1 || limit > MOST_VALUES) {
            throw Problem.badRequest("bad-limit", "“limit” runs from 1 to " + MOST_VALUES + ".");
        }
        Optional<List<KeptCounts.Kept>> known = kept.values(question, field);
        if (known.isPresent()) {
            return values(known.get(), field, limit);
        }
        Sql sql = Page.values(scope(question), where(question), field, limit + 1);
        NativeQuery<Object[]> query = query(question, sql);
        boolean tags = field.type() == FieldType.TAGS;
        query.addScalar("c0", tags ? String.class : Cursor.fetched(field.type()));
        query.addScalar("c1", Long.class);
        List<ValueCount> values = new ArrayList<>();
        for (Object[] row : tracked(question, query::getResultList)) {
            values.add(new ValueCount(
                    Optional.ofNullable(row[0]),
                    Optional.ofNullable(row[0])
                            .filter(v -> field.type().isListed())
                            .flatMap(v -> field.option(v.toString()))
                            .map(o -> o.label()),
                    (Long) row[1]));
        }
        boolean more = values.size() > limit;
        return new Values(more ? values.subList(0, limit) : values, more);
    }

    private static Values values(List<KeptCounts.Kept> known, Field field, int limit) {
        List<ValueCount> values = known.stream()
                .sorted(Comparator.comparingLong(KeptCounts.Kept::records)
                        .reversed()
                        .thenComparing(k -> k.value().orElse("\uffff")))
                .limit(limit)
                .map(k -> new ValueCount(
                        k.value().map(v -> field.type() == FieldType.YES_NO ? (Object) Boolean.valueOf(v) : v),
                        k.value()
                                .filter(v -> field.type().isListed())
                                .flatMap(field::option)
                                .map(o -> o.label()),
                        k.records()))
                .toList();
        return new Values(values, known.size() > limit);
    }

    /**
     * A pasted list.
     *
     * @param values what it holds, each once, in its order
     * @param repeated how many stood there more than once
     * @param missing the values that no record has
     * @param statement the criterion that asks for the values that some record has, in the language
     */
    public record PastedList(List<String> values, int repeated, List<String> missing, Optional<String> statement) {}

    /** What a pasted list holds, and which of it no record has. */
    @Transactional(readOnly = true)
    public PastedList pasted(Question question, Field field, String text) {
        Pasted pasted = Pasted.split(text);
        if (pasted.values().isEmpty()) {
            throw Problem.unprocessable("nothing-pasted", "There are no values in this text.");
        }
        if (pasted.values().size() > Test.MAX_VALUES) {
            throw Problem.unprocessable(
                    "too-many-values",
                    "A list holds at most " + Test.MAX_VALUES + " values; this one has "
                            + pasted.values().size() + ".");
        }
        List<Operand> operands = new ArrayList<>();
        for (String value : pasted.values()) {
            operands.add(operand(field, value));
        }
        List<Operand> missing = missing(question, field, operands, false, timeout);
        Set<Operand> gone = new HashSet<>(missing);
        List<Operand> there = operands.stream().filter(o -> !gone.contains(o)).toList();
        return new PastedList(
                pasted.values(),
                pasted.repeated(),
                missing.stream().map(RowsService::plain).toList(),
                there.isEmpty()
                        ? Optional.empty()
                        : Optional.of(
                                Printer.criterion(Condition.Criterion.of(field.key(), new Test.In(there, false)))));
    }

    private static Operand operand(Field field, String value) {
        try {
            return switch (field.type()) {
                case TEXT -> new Operand.Text(value);
                case CHOICE, PERSON ->
                    new Operand.Text(field.option(value).map(o -> o.value()).orElse(value));
                case NUMBER, MONEY -> new Operand.Number(new BigDecimal(value));
                default ->
                    throw Problem.unprocessable(
                            "no-list",
                            field.label() + " is a " + field.type().label()
                                    + " field; lists are looked for in texts, numbers, choices and people.");
            };
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable("bad-value", "“" + value + "” is nothing that " + field.label() + " can hold.");
        }
    }

    /** The values of a list that no record has which the person may see; within a time of its own. */
    @Transactional(readOnly = true)
    public List<Operand> missing(
            Question question, Field field, List<Operand> values, boolean exactly, Duration within) {
        Map<String, Operand> byText = new LinkedHashMap<>();
        boolean fold = field.type() == FieldType.TEXT && !exactly;
        for (Operand value : values) {
            byText.putIfAbsent(fold ? LetterCase.fold(plain(value)) : plain(value), value);
        }
        NativeQuery<Object[]> query = query(
                question,
                Page.missing(scope(question), new Order.Listed(field, List.copyOf(byText.keySet()), fold)),
                within);
        query.addScalar("c0", String.class);
        List<?> found = tracked(question, query::getResultList);
        return found.stream()
                .map(o -> byText.get(o instanceof Object[] a ? (String) a[0] : (String) o))
                .toList();
    }

    private static String plain(Operand value) {
        return value instanceof Operand.Text(String text) ? text : Printer.operand(value);
    }

    /** How many records are in each of the conditions, in one pass; within a time of its own. */
    @Transactional(readOnly = true)
    public List<Long> numbers(Question question, List<Condition> conditions, Duration within) {
        Register register = question.described().register();
        Binder binder = questions.binder(register, question.reading(), question.who());
        List<Sql> expressions =
                conditions.stream().map(c -> Where.of(binder.bind(c))).toList();
        NativeQuery<Object[]> query = query(question, Page.counts(scope(question), expressions), within);
        for (int i = 0; i < expressions.size(); i++) {
            query.addScalar("c" + i, Long.class);
        }
        return longs(tracked(question, () -> (Object) query.getSingleResult()));
    }

    /** A row of counts; one of a single column comes without its row. */
    private static List<Long> longs(Object row) {
        return row instanceof Object[] several
                ? Arrays.stream(several).map(Long.class::cast).toList()
                : List.of((Long) row);
    }

    /** One record with all its fields. */
    @Transactional(readOnly = true)
    public Row record(Question question, long id) {
        Register register = question.described().register();
        Sql condition = new Sql()
                .add(where(question))
                .add(" and " + Sql.identifier(register.idColumn()) + " = ")
                .bind(id);
        List<Object[]> found = run(
                question,
                Page.rows(scope(question), condition, Order.NEWEST, register.stored(), Optional.empty(), 1),
                register.stored());
        if (found.isEmpty()) {
            throw Problem.notFound("This " + question.described().recordLabel());
        }
        return row(register.stored(), found.get(0));
    }

    /**
     * Why one record is in the question, or is not: the verdict of each part.
     *
     * @param named the record's number, or the exact text (letter case ignored) of one of its required text fields
     */
    @Transactional(readOnly = true)
    public Reasons why(Question question, String named) {
        Register register = question.described().register();
        Question everything = new Question(
                question.described(), Condition.EVERYTHING, question.reading(), question.who(), question.name());
        Row found = identified(everything, named.strip());
        Binder binder = questions.binder(register, question.reading(), question.who());
        questions.bind(register, question.condition(), question.reading(), question.who());
        Object[] values = register.fields().stream()
                .map(f -> found.values().get(f.key()))
                .map(v -> v instanceof String[] tags ? List.of(tags) : v)
                .toArray();
        return new Reasons(found, Why.of(question.condition(), binder, at -> values[at]));
    }

    /** A record and the verdicts on it. */
    public record Reasons(Row record, Why.Outcome outcome) {}

    private Row identified(Question everything, String named) {
        Register register = everything.described().register();
        List<Condition> ways = register.fields().stream()
                .filter(f -> f.type() == FieldType.TEXT && f.required())
                .<Condition>map(f -> Condition.Criterion.of(f.key(), new Test.Is(new Operand.Text(named), false)))
                .toList();
        if (!named.isEmpty() && !ways.isEmpty()) {
            Question byText = new Question(
                    everything.described(),
                    new Condition.Any(ways),
                    everything.reading(),
                    everything.who(),
                    everything.name());
            List<Row> rows = rows(byText, Order.NEWEST, register.stored(), Optional.empty(), 2)
                    .rows();
            if (rows.size() == 1) {
                return rows.get(0);
            }
            if (rows.size() > 1) {
                throw Problem.unprocessable(
                        "several-records",
                        "More than one " + everything.described().recordLabel() + " is called “" + named
                                + "”. Use its number.");
            }
        }
        if (named.matches("\\d{1,18}")) {
            return record(everything, Long.parseLong(named));
        }
        throw Problem.notFound("A " + everything.described().recordLabel() + " called “" + named + "”");
    }

    /** Hands every matching record to the consumer, in order, without keeping them. */
    @Transactional(readOnly = true)
    public void stream(Question question, Order order, List<Field> columns, Consumer<Row> each) {
        Sql sql = Page.all(scope(question), where(question), order, columns);
        NativeQuery<Object[]> query = query(question, sql);
        scalars(query, columns);
        query.setFetchSize(FETCH);
        tracked(question, () -> {
            try (Stream<Object[]> stream = query.getResultStream()) {
                stream.forEach(values -> each.accept(row(columns, values)));
            }
            return null;
        });
    }

    /** The columns of a request by their keys, or those shown at rest. */
    public List<Field> columns(Described described, Optional<List<String>> keys) {
        return keys.map(k ->
                        k.stream().map(key -> column(described, key)).distinct().toList())
                .orElse(described.shown());
    }

    /**
     * The order of a request: {@code "due"} or {@code "-due"} for each field, or {@code "as-listed:number"} for the order of
     * the list that the condition holds the field against; or the order at rest.
     */
    public Order order(Described described, Optional<List<String>> keys, Condition condition) {
        if (keys.isEmpty()) {
            return described.atRest();
        }
        if (keys.get().size() == 1 && keys.get().get(0).startsWith(AS_LISTED)) {
            return asListed(described, keys.get().get(0).substring(AS_LISTED.length()), condition);
        }
        List<Order.Key> order = new ArrayList<>();
        for (String key : keys.get()) {
            boolean descending = key.startsWith("-");
            Field field = field(described, descending ? key.substring(1) : key);
            if (!Page.isOrderable(field.type())) {
                throw Problem.unprocessable("not-orderable", "Records cannot be ordered by " + field.label() + ".");
            }
            order.add(new Order.Key(field, descending));
        }
        try {
            return new Order(order);
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable("bad-order", "The records are " + e.getMessage() + "; name each field once.");
        }
    }

    /**
     * The question without the criterion whose list the order follows, where every record has to satisfy it: the order
     * leaves out what is not listed, and the database need not look at thousands of values twice.
     */
    private static Question unlisted(Question question, Order order) {
        if (order.listed().isEmpty()) {
            return question;
        }
        String key = order.listed().get().field().key();
        Optional<Condition.Criterion> followed = question.condition().criteria().stream()
                .filter(c -> isList(c, key))
                .findFirst();
        Condition left = switch (question.condition()) {
            case Condition.Criterion criterion
            when followed.filter(criterion::equals).isPresent() -> Condition.EVERYTHING;
            case Condition.All(List<Condition> parts)
            when followed.filter(parts::contains).isPresent() -> {
                List<Condition> others = new ArrayList<>(parts);
                others.remove(followed.get());
                yield new Condition.All(others).normal();
            }
            default -> question.condition();
        };
        return new Question(question.described(), left, question.reading(), question.who(), question.name());
    }

    private static boolean isList(Condition.Criterion criterion, String key) {
        return criterion.field().equals(key) && !criterion.negated() && criterion.test() instanceof Test.In;
    }

    private Order asListed(Described described, String key, Condition condition) {
        Field field = column(described, key);
        return condition.criteria().stream()
                .filter(c -> c.field().equals(key) && !c.negated() && c.test() instanceof Test.In)
                .map(c -> (Test.In) c.test())
                .findFirst()
                .map(in -> {
                    boolean fold = field.type() == FieldType.TEXT && !in.exactly();
                    return Order.as(new Order.Listed(
                            field,
                            in.values().stream()
                                    .filter(v -> v instanceof Operand.Text || v instanceof Operand.Number)
                                    .map(v -> fold ? LetterCase.fold(plain(v)) : plain(v))
                                    .distinct()
                                    .toList(),
                            fold));
                })
                .orElseThrow(() -> Problem.unprocessable(
                        "no-list-to-follow",
                        "The records can follow a list only where the statement holds one: " + key + " is in (…)."));
    }

    /** A field that can be shown, by its key. */
    public Field column(Described described, String key) {
        Field field = field(described, key);
        if (!field.type().isStored()) {
            Field.Ends ends = field.ends().orElseThrow();
            throw Problem.unprocessable(
                    "no-column",
                    field.label() + " is the span from " + ends.start() + " to " + ends.end()
                            + "; name those two as columns.");
        }
        return field;
    }

    /** A field by its key. */
    private Field field(Described described, String key) {
        return described
                .register()
                .field(key)
                .orElseThrow(() -> Problem.unprocessable(
                        "unknown-field", described.register().label() + " has no field “" + key + "”."));
    }

    /** Stops a question of this person's. */
    public void stop(SignedIn who, String question) {
        running.stop(who, question);
    }

    /** What is asked of the records that the person may see. */
    Sql where(Question question) {
        return Where.of(questions.bind(
                question.described().register(), question.condition(), question.reading(), question.who()));
    }

    private List<Object[]> runListed(Question question, Sql sql, List<Field> fields) {
        NativeQuery<Object[]> query = query(question, sql);
        scalars(query, fields);
        query.addScalar("c" + (fields.size() + 1), Long.class);
        return tracked(question, query::getResultList);
    }

    private List<Object[]> run(Question question, Sql sql, List<Field> fields) {
        NativeQuery<Object[]> query = query(question, sql);
        scalars(query, fields);
        return tracked(
                question,
                () -> fields.isEmpty()
                        ? query.getResultList().stream()
                                .map(r -> r instanceof Object[] a ? a : new Object[] {r})
                                .toList()
                        : query.getResultList());
    }

    private long number(Question question, Sql sql) {
        NativeQuery<Object[]> query = query(question, sql);
        return tracked(question, () -> ((Number) (Object) query.getSingleResult()).longValue());
    }

    private static void scalars(NativeQuery<Object[]> query, List<Field> fields) {
        query.addScalar("c0", Long.class);
        for (int i = 0; i < fields.size(); i++) {
            query.addScalar("c" + (i + 1), Cursor.fetched(fields.get(i).type()));
        }
    }

    /** The longest that one question may take. */
    Duration patience() {
        return timeout;
    }

    NativeQuery<Object[]> query(Question question, Sql sql) {
        return query(question, sql, timeout);
    }

    /** A query with its values bound, stopped by the database after a while. */
    @SuppressWarnings({"unchecked", "rawtypes"})
    NativeQuery<Object[]> query(Question question, Sql sql, Duration within) {
        Session session = entities.unwrap(Session.class);
        session.createNativeQuery("select set_config('statement_timeout', ?1, true)", String.class)
                .setParameter(1, String.valueOf(within.toMillis()))
                .getSingleResult();
        NativeQuery query = session.createNativeQuery(sql.text(i -> "?" + (i + 1)));
        for (int i = 0; i < sql.values().size(); i++) {
            query.setParameter(i + 1, sql.values().get(i));
        }
        query.setReadOnly(true);
        return query;
    }

    <T> T tracked(Question question, java.util.function.Supplier<T> work) {
        return entities.unwrap(Session.class).doReturningWork(connection -> {
            try (AutoCloseable tracking = running.track(question.who(), question.name(), connection)) {
                return work.get();
            } catch (RuntimeException | java.sql.SQLException e) {
                if (!question.described().isOwn() && ChangedTable.isBehind(e)) {
                    throw ChangedTable.problem(question.described());
                }
                throw e;
            } catch (Exception e) {
                throw new IllegalStateException(e);
            }
        });
    }

    static Row row(List<Field> columns, Object[] values) {
        Map<String, Object> named = new LinkedHashMap<>();
        for (int i = 0; i < columns.size(); i++) {
            named.put(columns.get(i).key(), Cursor.value(columns.get(i).type(), values[i + 1]));
        }
        return new Row((Long) values[0], named);
    }

    /** The class that a field's column is fetched as. */
    public static Class<?> fetched(FieldType type) {
        return Cursor.fetched(type);
    }

    /** A fetched value as the rest of the server knows it. */
    public static Object fetched(FieldType type, Object value) {
        return Cursor.value(type, value);
    }

    /** The records that the person may see. */
    Scope scope(Question question) {
        return access.scope(question.described(), question.who());
    }

    /** The register of a key, as the person sees it. */
    public Described register(String key, SignedIn who) {
        return registers.get(key, who);
    }
}
