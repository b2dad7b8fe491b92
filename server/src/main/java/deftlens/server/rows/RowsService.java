package deftlens.server.rows;

import com.fasterxml.jackson.annotation.JsonProperty;
import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Relaxed;
import deftlens.core.condition.Test;
import deftlens.core.field.Beyond;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.match.Why;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.sql.Scope;
import deftlens.core.sql.Sql;
import deftlens.core.sql.RowSlice;
import deftlens.core.sql.Where;
import deftlens.core.time.Reading;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.Problem;
import deftlens.server.lanes.Attempt;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.statements.Questions;
import deftlens.server.values.ValueType;
import jakarta.persistence.EntityManager;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.stream.Stream;
import org.hibernate.Session;
import org.hibernate.query.NativeQuery;
import org.postgresql.PGConnection;
import org.postgresql.PGStatement;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;
import tools.jackson.databind.annotation.JsonSerialize;

/** Reads records: pages, counts, values, whole results. The only place that does. */
@Service
public class RowsService {

    /** A count stops here unless the exact one is asked for. */
    public static final int COUNT_CAP = 10_000;

    /** Up to so many records, several counts are one pass over all; above, each is looked for by itself. */
    public static final int READ_WHOLE = 200_000;

    /** Up to so many records, counting several things at once takes no longer than a reader notices. */
    public static final int READ_AT_ONCE = 100_000;

    /** The most rows of one page. */
    public static final int MOST_ROWS = 1_000;

    private static final int FETCH = 2_000;

    private final EntityManager entities;
    private final RowAccess access;
    private final Questions questions;
    private final RegisterCatalogue registers;
    private final KeptCounts kept;
    private final ObjectMapper json;
    private final Duration timeout;

    RowsService(
            EntityManager entities,
            RowAccess access,
            Questions questions,
            RegisterCatalogue registers,
            KeptCounts kept,
            ObjectMapper json,
            @Value("${deft.limits.statement-timeout}") Duration timeout) {
        this.entities = entities;
        this.access = access;
        this.questions = questions;
        this.registers = registers;
        this.kept = kept;
        this.json = json;
        this.timeout = timeout;
    }

    /**
     * One question over one register, by one person, at one reading.
     *
     * @param name the name under which the reader may stop it
     * @param also what the records satisfy besides: another reading
     * @param inside the groups that they are looked for in; of a part of the records, those of the part
     */
    public record Question(
            RegisterForReader described,
            Condition condition,
            Reading reading,
            SignedIn who,
            Optional<String> name,
            List<Bound> also,
            List<Bound> inside) {

        public Question {
            also = List.copyOf(also);
            inside = List.copyOf(inside);
        }

        public Question(
                RegisterForReader described, Condition condition, Reading reading, SignedIn who, Optional<String> name) {
            this(described, condition, reading, who, name, List.of(), List.of());
        }

        /** The same question to the records that satisfy something besides. */
        public Question with(Bound more) {
            return new Question(described, condition, reading, who, name, joined(also, more), inside);
        }

        /** The same question to the records of a group. */
        Question inside(Bound group) {
            return new Question(described, condition, reading, who, name, also, joined(inside, group));
        }

        private Question anywhere() {
            return new Question(described, condition, reading, who, name, also, List.of());
        }

        /** All that the records satisfy beside the condition. */
        List<Bound> besides() {
            return Stream.concat(also.stream(), inside.stream()).toList();
        }

        private static List<Bound> joined(List<Bound> bounds, Bound more) {
            return Stream.concat(bounds.stream(), Stream.of(more)).toList();
        }

        Question asking(Condition other) {
            return new Question(described, other, reading, who, name, also, inside);
        }
    }

    /**
     * One record: its number and the values asked for.
     *
     * @param matches whether it is in the question, where all records are shown
     * @param running the running total up to and with it, where one is asked for
     */
    public record Row(
            @AsText long id,
            @JsonSerialize(contentUsing = ShownValue.class) Map<String, Object> values,
            Optional<Boolean> matches,
            Optional<BigDecimal> running) {

        /** A record of its values alone. */
        public Row(long id, Map<String, Object> values) {
            this(id, values, Optional.empty(), Optional.empty());
        }
    }

    /**
     * A page of records.
     *
     * @param opening what the running total begins with, on a first page
     */
    public record Rows(List<Row> rows, Optional<String> next, Instant asOf, Optional<BigDecimal> opening) {}

    /**
     * What is shown of a question's records.
     *
     * @param take the part of them, all when absent
     * @param marked whether the other records are shown too
     * @param running where the running total begins, when it is shown
     */
    public record Shown(
            Order order, List<Field> columns, Optional<RowSlice> take, boolean marked, Optional<Shape.Opening> running) {

        /** All matching records, as they are. */
        public Shown(Order order, List<Field> columns) {
            this(order, columns, Optional.empty(), false, Optional.empty());
        }

        /** What a view's shape shows. */
        public Shown(Order order, List<Field> columns, Shape shape) {
            this(order, columns, shape.taken(), shape.marked().orElse(false), shape.running());
        }
    }

    /** How many match, whether that is all of them, and of how many. */
    public record Count(long matching, boolean exact, long total) {}

    /**
     * What one part of the condition does.
     *
     * @param path the part's JSON Pointer in the condition
     * @param alone how many records are in the part by itself
     * @param aloneMore whether it was only counted that far, and there are more
     * @param without how many would match if the part were switched off
     * @param withoutMore whether it was only counted that far, and there are more
     * @param leavesOut how many records the part leaves out of an all-of group, where that was counted by itself
     * @param left how many would match if the statement ended after this part; absent where counting took too long
     * @param leftMore whether it was only counted that far, and there are more
     */
    public record PartCount(
            String path,
            long alone,
            boolean aloneMore,
            long without,
            boolean withoutMore,
            Optional<Long> leavesOut,
            Optional<Long> left,
            boolean leftMore) {}

    /**
     * What each part that is switched on does. Of a large register, parts that take too long to count are not there.
     *
     * @param count how many records the whole question has, where that was counted along with the parts
     * @param later whether nothing was counted, since that takes more than a moment and only what does not was to be
     */
    public record PartCounts(List<PartCount> parts, Optional<Count> count, boolean later) {

        PartCounts(List<PartCount> parts) {
            this(parts, Optional.empty(), false);
        }
    }

    /** A page of all matching records in order. */
    @Transactional(readOnly = true)
    public Rows rows(Question question, Order order, List<Field> columns, Optional<String> after, int limit) {
        return rows(question, new Shown(order, columns), after, limit);
    }

    /** A page of records in order. */
    @Transactional(readOnly = true)
    public Rows rows(Question question, Shown shown, Optional<String> after, int limit) {
        if (limit < 1 || limit > MOST_ROWS) {
            throw Problem.badRequest("bad-limit", "“limit” runs from 1 to " + MOST_ROWS + ".");
        }
        Order order = shown.order();
        boolean listed = order.listed().isPresent();
        if (shown.marked() && listed) {
            throw Problem.unprocessable(
                    "marks-alone", "Records in the order of a list are those of the list; no others can be shown.");
        }
        List<Field> columns = new ArrayList<>(shown.columns());
        Optional<Field> amount = shown.running().map(r -> RunningTotals.amount(question.described(), order));
        amount.filter(a -> !columns.contains(a)).ifPresent(columns::add);
        Base base = shown.marked()
                ? new Base(scope(question), Where.of(every(question.besides())))
                : base(question, order, shown.take());
        Optional<Sql> marks = shown.marked() ? Optional.of(where(question)) : Optional.empty();
        Optional<Page.After> end = after.map(token -> Cursor.read(json, order, token));
        // What the first, short try along the order did not find is found before it is ordered.
        boolean walks = Attempt.current().map(Attempt::isFirst).orElse(true);
        Sql sql = walks
                ? Page.rows(base.scope(), base.where(), marks, order, columns, end, limit + 1)
                : Page.rowsFoundFirst(base.scope(), base.where(), marks, order, columns, end, limit + 1);
        List<Field> selected = new ArrayList<>(columns);
        order.keys().forEach(k -> selected.add(k.field()));
        NativeQuery<Object[]> query = query(question, sql);
        scalars(query, selected);
        int further = selected.size() + 1;
        if (listed) {
            query.addScalar("c" + further++, Long.class);
        }
        if (shown.marked()) {
            query.addScalar("c" + further, Boolean.class);
        }
        List<Object[]> found = fetched(question, query, selected.isEmpty() && !listed && !shown.marked());
        List<Object[]> page = found.subList(0, Math.min(limit, found.size()));
        RunningTotals.Running running = shown.running()
                .map(opening -> new RunningTotals(this, json)
                        .totals(question, order, amount.orElseThrow(), opening, columns, page, after))
                .orElse(RunningTotals.Running.NONE);
        List<Row> rows = new ArrayList<>();
        for (int i = 0; i < page.size(); i++) {
            Row plain = row(columns, page.get(i));
            rows.add(new Row(
                    plain.id(),
                    plain.values(),
                    shown.marked() ? Optional.of((Boolean) page.get(i)[page.get(i).length - 1]) : Optional.empty(),
                    running.at(i)));
        }
        Optional<String> next = Optional.empty();
        if (found.size() > limit) {
            Object[] last = found.get(limit - 1);
            next = Optional.of(Cursor.write(
                    json,
                    order,
                    Arrays.asList(last).subList(1 + columns.size(), last.length - (shown.marked() ? 1 : 0)),
                    (Long) last[0],
                    running.carried()));
        }
        return new Rows(rows, next, question.reading().now(), running.opening());
    }

    /** What the records are read over and what they satisfy there. */
    record Base(Scope scope, Sql where) {}

    /** The records of a question, or a part of them. */
    Base base(Question question, Order order, Optional<RowSlice> take) {
        if (take.isEmpty()) {
            return new Base(scope(question), where(Orders.unlisted(question, order)));
        }
        Sql whole = where(Orders.unlisted(question.anywhere(), order));
        return new Base(Page.taken(scope(question), whole, order, take.get()), Where.of(every(question.inside())));
    }

    /** All of these; true where there are none. */
    private static Bound every(List<Bound> bounds) {
        return bounds.isEmpty() ? new Bound.Constant(true) : new Bound.Every(bounds);
    }

    /**
     * What a shape shows of a register.
     *
     * @throws Problem where the register cannot be shown so
     */
    public Shown shown(RegisterForReader described, Order order, List<Field> columns, Shape shape) {
        Shape checked = shape.checked(described);
        if (checked.running().isPresent()) {
            RunningTotals.amount(described, order);
        }
        return new Shown(order, columns, checked);
    }

    // ------------------------------------------------------------------ two readings of one question

    /** Which of two readings has a record. */
    public enum Side {
        /** This one and not the other. */
        @JsonProperty("here")
        HERE,
        /** The other one and not this. */
        @JsonProperty("there")
        THERE,
        /** Both. */
        @JsonProperty("both")
        BOTH
    }

    /**
     * One question read at two moments.
     *
     * @param here the records that only the first reading has
     * @param there those that only the other one has
     * @param both those of both
     * @param asOf the moment of the first reading
     * @param against the moment of the other
     */
    public record Comparison(long here, long there, long both, Instant asOf, Instant against) {}

    /** The question put to the records of one side only. */
    public Question onSide(Question question, Reading other, Side side) {
        Question there =
                new Question(question.described(), question.condition(), other, question.who(), question.name());
        return switch (side) {
            case HERE -> question.with(new Bound.Not(bound(there)));
            case BOTH -> question.with(bound(there));
            // What is kept is the reading of the first, so that a page says the moment it was asked for.
            case THERE ->
                question.asking(Condition.EVERYTHING).with(bound(there)).with(new Bound.Not(bound(question)));
        };
    }

    /** How many records two readings have each, in one pass. */
    @Transactional(readOnly = true)
    public Comparison comparison(Question question, Reading other) {
        List<Sql> sides = java.util.Arrays.stream(Side.values())
                .map(side -> where(onSide(question, other, side)))
                .toList();
        NativeQuery<Object[]> query = query(question, Page.counts(scope(question), sides));
        for (int i = 0; i < sides.size(); i++) {
            query.addScalar("c" + i, Long.class);
        }
        List<Long> counts = longs(tracked(question, () -> (Object) query.getSingleResult()));
        return new Comparison(
                counts.get(0), counts.get(1), counts.get(2), question.reading().now(), other.now());
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

    /** Whether a register has more records than are read whole to count something. */
    @Transactional(readOnly = true)
    public boolean isLarge(Question question, int records) {
        return kept.total(question)
                        .orElseGet(() ->
                                number(question, Page.count(scope(question), Sql.of("true"), Optional.of(records + 1))))
                > records;
    }

    /**
     * How many records are in a condition, counted no further than a cap; in a transaction of its own, since a count that
     * takes too long ends it.
     */
    @Transactional(readOnly = true, propagation = Propagation.REQUIRES_NEW)
    public long counted(Question question, Condition condition, int cap, Duration within) {
        Bound bound = questions
                .binder(question.described().register(), question.reading(), question.who())
                .bind(condition);
        NativeQuery<Object[]> query =
                query(question, Page.count(scope(question), Where.of(bound), Optional.of(cap)), within);
        return tracked(question, () -> ((Number) (Object) query.getSingleResult()).longValue());
    }

    /** How many records are in each of the conditions, each counted by itself and no further than a cap; in one statement. */
    @Transactional(readOnly = true, propagation = Propagation.REQUIRES_NEW)
    public List<Long> counted(Question question, List<Condition> conditions, int cap, Duration within) {
        return numbers(
                question, conditions, expressions -> Page.cappedCounts(scope(question), expressions, cap), within);
    }

    /** How many records are in each of the conditions, in one pass; within a time of its own. */
    @Transactional(readOnly = true)
    public List<Long> numbers(Question question, List<Condition> conditions, Duration within) {
        return numbers(question, conditions, expressions -> Page.counts(scope(question), expressions), within);
    }

    /** How many records are in each of the conditions, which are bound already, in one pass; within a time of its own. */
    @Transactional(readOnly = true, propagation = Propagation.REQUIRES_NEW)
    public List<Long> numbersOf(Question question, List<Bound> conditions, Duration within) {
        return numbers(
                question, conditions, expressions -> Page.counts(scope(question), expressions), within, Where::of);
    }

    private List<Long> numbers(
            Question question, List<Condition> conditions, Function<List<Sql>, Sql> counting, Duration within) {
        Binder binder = questions.binder(question.described().register(), question.reading(), question.who());
        return numbers(question, conditions, counting, within, c -> Where.of(binder.bind(c)));
    }

    private <C> List<Long> numbers(
            Question question,
            List<C> conditions,
            Function<List<Sql>, Sql> counting,
            Duration within,
            Function<C, Sql> where) {
        NativeQuery<Object[]> query =
                query(question, counting.apply(conditions.stream().map(where).toList()), within);
        for (int i = 0; i < conditions.size(); i++) {
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
                .map(v -> v instanceof String[] tags ? Arrays.asList(tags) : v)
                .toArray();
        return new Reasons(found, Why.of(question.condition(), binder, at -> values[at]));
    }

    /** A record and the verdicts on it. */
    public record Reasons(Row record, Why.Outcome outcome) {}

    /**
     * The record of a name. Fields that identify records are asked first, each by itself: asked together, and in an order, all
     * records would be walked along until some have it.
     */
    private Row identified(Question everything, String named) {
        RegisterForReader described = everything.described();
        List<Field> ways = described.register().fields().stream()
                .filter(f -> f.type() == FieldType.TEXT && f.required())
                .sorted(Comparator.comparing(f -> !described.identifying().contains(f.key())))
                .toList();
        for (Field way : named.isEmpty() ? List.<Field>of() : ways) {
            Question byText =
                    everything.asking(Condition.Criterion.of(way.key(), new Test.Is(new Operand.Text(named), false)));
            List<Object[]> found = run(byText, Page.some(scope(byText), where(byText), 2), List.of());
            if (found.size() == 1) {
                return record(everything, (Long) found.get(0)[0]);
            }
            if (found.size() > 1) {
                throw Problem.unprocessable(
                        "several-records",
                        "More than one " + described.recordLabel() + " is called “" + named + "”. Use its number.");
            }
        }
        if (named.matches("-?\\d{1,19}")) {
            try {
                return record(everything, Long.parseLong(named));
            } catch (NumberFormatException tooLong) {
                // No id is as long as that.
            }
        }
        throw Problem.notFound("A " + described.recordLabel() + " called “" + named + "”");
    }

    /** Hands every matching record to the consumer, in order, without keeping them. */
    @Transactional(readOnly = true)
    public void stream(Question question, Order order, List<Field> columns, Optional<RowSlice> take, Consumer<Row> each) {
        Base base = base(question, order, take);
        Sql sql = Page.all(base.scope(), base.where(), order, columns);
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

    /** What is asked of the records that the person may see. */
    Sql where(Question question) {
        return Where.of(bound(question));
    }

    Bound bound(Question question) {
        Bound asked = questions.bind(
                question.described().register(), question.condition(), question.reading(), question.who());
        List<Bound> besides = question.besides();
        return besides.isEmpty()
                ? asked
                : new Bound.Every(
                        Stream.concat(Stream.of(asked), besides.stream()).toList());
    }

    /** What is asked of the records, but for what is asked of one field. */
    Bound besides(Question question, Field field) {
        return Relaxed.without(bound(question), Set.of(field.key()));
    }

    List<Object[]> run(Question question, Sql sql, List<Field> fields) {
        NativeQuery<Object[]> query = query(question, sql);
        scalars(query, fields);
        return fetched(question, query, fields.isEmpty());
    }

    /** @param bare whether the record's number is all that is selected, which comes without its row */
    private List<Object[]> fetched(Question question, NativeQuery<Object[]> query, boolean bare) {
        return tracked(question, () -> {
            // Declared as rows, but a single column comes by itself.
            List<?> found = query.getResultList();
            return found.stream()
                    .map(r -> bare ? new Object[] {r} : (Object[]) r)
                    .toList();
        });
    }

    long number(Question question, Sql sql) {
        NativeQuery<Object[]> query = query(question, sql);
        return tracked(question, () -> ((Number) (Object) query.getSingleResult()).longValue());
    }

    private static void scalars(NativeQuery<Object[]> query, List<Field> fields) {
        query.addScalar("c0", Long.class);
        for (int i = 0; i < fields.size(); i++) {
            ValueType.of(fields.get(i)).fetch(query, "c" + (i + 1));
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
        session.createNativeQuery(
                        "select set_config('statement_timeout', ?1, true) || set_config('max_parallel_workers_per_gather', ?2, true)",
                        String.class)
                .setParameter(
                        1,
                        String.valueOf(Attempt.current()
                                .map(a -> a.within(within))
                                .orElse(within)
                                .toMillis()))
                // Where others ask too, nobody has more than one processor.
                .setParameter(2, Attempt.current().map(Attempt::isAlone).orElse(true) ? "2" : "0")
                .getSingleResult();
        NativeQuery query = session.createNativeQuery(sql.text(i -> "?" + (i + 1)));
        bind(session, query, sql);
        query.setReadOnly(true);
        return query;
    }

    /** Binds the values of a statement, each as the database's driver takes it without moving it. */
    @SuppressWarnings({"unchecked", "rawtypes"})
    public static void bind(Session session, NativeQuery query, Sql sql) {
        for (int i = 0; i < sql.values().size(); i++) {
            switch (bound(sql.values().get(i))) {
                case LocalDate day -> query.setParameter(i + 1, day, DirectDay.in(session));
                case Object value -> query.setParameter(i + 1, value);
            }
        }
    }

    /** What is beyond numbers and dates, as the database's driver takes it. */
    private static Object bound(Object value) {
        Optional<String> words = Beyond.words(value);
        if (words.isEmpty()) {
            return value;
        }
        long end = words.get().equals("infinity")
                ? PGStatement.DATE_POSITIVE_INFINITY
                : PGStatement.DATE_NEGATIVE_INFINITY;
        return switch (value) {
            case BigDecimal number -> Beyond.asDouble(number).orElseThrow();
            case LocalDate day -> new java.sql.Date(end);
            default -> new java.sql.Timestamp(end);
        };
    }

    <T> T tracked(Question question, java.util.function.Supplier<T> work) {
        return entities.unwrap(Session.class).doReturningWork(connection -> {
            try (AutoCloseable tracking = tracking(connection)) {
                return work.get();
            } catch (RuntimeException | SQLException e) {
                if (!question.described().isOwn() && ChangedTable.isBehind(e)) {
                    throw ChangedTable.problem(question.described());
                }
                throw e;
            } catch (Exception e) {
                throw new IllegalStateException(e);
            }
        });
    }

    private static AutoCloseable tracking(Connection connection) throws SQLException {
        Optional<Attempt> attempt = Attempt.current();
        return attempt.isPresent() ? attempt.get().track(connection.unwrap(PGConnection.class)) : () -> {};
    }

    static Row row(List<Field> columns, Object[] values) {
        Map<String, Object> named = new LinkedHashMap<>();
        for (int i = 0; i < columns.size(); i++) {
            named.put(columns.get(i).key(), ValueType.of(columns.get(i)).fetched(values[i + 1]));
        }
        return new Row((Long) values[0], named);
    }

    /** The records that the person may see. */
    Scope scope(Question question) {
        return access.scope(question.described(), question.who());
    }

    /** The register of a key, as the person sees it. */
    public RegisterForReader register(String key, SignedIn who) {
        return registers.get(key, who);
    }
}
