package deftlens.server.transactions;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.sql.Numbering;
import deftlens.core.sql.Sql;
import deftlens.core.sql.Undo;
import deftlens.core.sql.Write;
import deftlens.server.changes.ChangeSet;
import deftlens.server.changes.ChangeSets;
import deftlens.server.closing.ClosedPeriods;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsTexts;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.question.Question;
import deftlens.server.question.Questions;
import deftlens.server.question.ResultRow;
import deftlens.server.question.Shape;
import deftlens.server.records.Answers;
import deftlens.server.records.RecordValues;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.registers.TransactionRules;
import deftlens.server.rows.RowsService;
import deftlens.server.trail.Trail;
import deftlens.server.values.Statements;
import deftlens.server.values.Unfitting;
import deftlens.server.values.ValueType;
import jakarta.persistence.EntityManager;
import java.math.BigDecimal;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Clock;
import java.time.LocalDate;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.hibernate.Session;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.ObjectMapper;

/**
 * Posts transactions: records whose amounts add up to zero to the last unit, all of them or none, by the {@linkplain TransactionRules
 * rules} of their register. Whoever may change many of its records may post.
 */
@Service
public class TransactionsService {

    static final int MOST_LINES = 500;

    private static final int MOST_LETTERS = 500;
    /** Tells our lock from others; the second part is the register. */
    private static final int NUMBERING_LOCK = 0x6e756d62;

    private final EntityManager entities;
    private final RegisterCatalogue registers;
    private final RowsService rows;
    private final Questions questions;
    private final Answers answers;
    private final ChangeSets changes;
    private final ClosedPeriods periods;
    private final OrganisationService organisation;
    private final PostedStore posted;
    private final Trail trail;
    private final Clock clock;
    private final ObjectMapper json;

    TransactionsService(
            EntityManager entities,
            RegisterCatalogue registers,
            RowsService rows,
            Questions questions,
            Answers answers,
            ChangeSets changes,
            ClosedPeriods periods,
            OrganisationService organisation,
            PostedStore posted,
            Trail trail,
            Clock clock,
            ObjectMapper json) {
        this.entities = entities;
        this.registers = registers;
        this.rows = rows;
        this.questions = questions;
        this.answers = answers;
        this.changes = changes;
        this.periods = periods;
        this.organisation = organisation;
        this.posted = posted;
        this.trail = trail;
        this.clock = clock;
        this.json = json;
    }

    /**
     * A transaction that was posted.
     *
     * @param number the one it was given
     * @param records the numbers of its records, in the order of the lines
     */
    public record Posted(String number, @AsTexts List<Long> records) {}

    /**
     * A transaction as a reader sees it.
     *
     * @param records its lines that the reader sees, in the order in which they were made
     * @param difference what the amounts of those add up to
     * @param reverses the number of the transaction that it is the opposite of
     * @param reversedBy the number of its opposite, where that was posted
     * @param mayPost whether the reader may post another from it
     */
    public record ShownTransaction(
            String number,
            List<ResultRow> records,
            BigDecimal difference,
            Optional<String> reverses,
            Optional<String> reversedBy,
            boolean mayPost) {}

    /** What is wrong with one line, the first of which is 1. */
    public record LineRefusal(int line, String reason) {}

    /** Posts a transaction. */
    @Transactional
    public Posted post(
            String key,
            Map<String, JsonNode> values,
            List<Map<String, JsonNode>> lines,
            Optional<String> reason,
            Optional<String> idempotency,
            SignedIn who) {
        RegisterForReader described = mayPost(key, who);
        TransactionRules rules = described.transactions().orElseThrow();
        Optional<String> why = reason.map(String::strip).filter(r -> !r.isEmpty());
        return answers.once(
                idempotency,
                who,
                "post " + key + " " + json.writeValueAsString(values) + " " + json.writeValueAsString(lines) + " "
                        + why.orElse(""),
                Posted.class,
                () -> {
                    if (lines.size() < 2) {
                        throw Problem.unprocessable(
                                "bad-lines", "A transaction has at least two lines, from where to where.");
                    }
                    return write(described, rules, read(described, rules, values, lines), why, Optional.empty(), who);
                });
    }

    /** The transaction that a record is a line of. */
    @Transactional(readOnly = true)
    public ShownTransaction transaction(String key, long id, SignedIn who) {
        RegisterForReader described = declaring(key, who);
        String number = number(described, id, who);
        List<ResultRow> lines = lines(described, number, who);
        return new ShownTransaction(
                number,
                lines,
                sum(described, lines),
                posted.reverses(described.id(), number).filter(n -> isSeen(described, n, who)),
                reversal(described, number).filter(n -> isSeen(described, n, who)),
                mayPost(described, who));
    }

    /** Posts the opposite of a whole transaction. */
    @Transactional
    public Posted reverse(
            String key,
            long id,
            Map<String, JsonNode> values,
            String reason,
            Optional<String> idempotency,
            SignedIn who) {
        RegisterForReader described = mayPost(key, who);
        String why = reason.strip();
        if (!VisibleText.isVisible(why) || why.length() > MOST_LETTERS) {
            throw Problem.unprocessable("bad-value", "Say why, in at most " + MOST_LETTERS + " characters.")
                    .at("reason");
        }
        return answers.once(
                idempotency,
                who,
                "reverse " + key + " " + id + " " + json.writeValueAsString(values) + " " + why,
                Posted.class,
                () -> {
                    lock(described);
                    String number = number(described, id, who);
                    return write(
                            described,
                            described.transactions().orElseThrow(),
                            opposite(described, number, values, who),
                            Optional.of(why),
                            Optional.of(number),
                            who);
                });
    }

    // ------------------------------------------------------------------ who may

    private RegisterForReader declaring(String key, SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        if (described.transactions().isEmpty()) {
            throw Problem.unprocessable(
                    "no-transactions",
                    "Nothing is posted in “" + described.register().label() + "” in lines that add up to zero,"
                            + " or you do not see all the fields of that.");
        }
        return described;
    }

    private static boolean mayPost(RegisterForReader described, SignedIn who) {
        return described.mayChangeMany() && !who.changesNothing();
    }

    /** The register, where somebody may post transactions in it. */
    RegisterForReader mayPost(String key, SignedIn who) {
        RecordValues.requireWriter(who);
        RegisterForReader described = declaring(key, who);
        RecordValues.requireOwn(described);
        if (!mayPost(described, who)) {
            throw Problem.forbidden("Posting transactions is a right of its own, with that of changing many "
                    + described.recordsLabel() + ". An administrator gives it to a team, under Access.");
        }
        return described;
    }

    // ------------------------------------------------------------------ what is there

    private static Field field(RegisterForReader described, String key) {
        return described.register().field(key).orElseThrow();
    }

    private static Field numberField(RegisterForReader described) {
        return field(described, described.transactions().orElseThrow().number().field());
    }

    private String number(RegisterForReader described, long id, SignedIn who) {
        Object number = rows.record(questions.everything(described, who), id)
                .values()
                .get(numberField(described).key());
        if (!(number instanceof String text) || text.isEmpty()) {
            throw Problem.unprocessable(
                    "no-transactions", "This " + described.recordLabel() + " belongs to no transaction.");
        }
        return text;
    }

    private Question ofTransaction(RegisterForReader described, String number, SignedIn who) {
        return questions
                .everything(described, who)
                .asking(Condition.Criterion.of(
                        numberField(described).key(), new Test.Is(new Operand.Text(number), false)))
                .shown(described.defaultOrder(), described.register().stored(), Shape.USUAL);
    }

    /** The lines that somebody sees, at most one more than a transaction may have. */
    private List<ResultRow> lines(RegisterForReader described, String number, SignedIn who) {
        return rows.rows(ofTransaction(described, number, who), Optional.empty(), MOST_LINES + 1).rows().stream()
                .sorted(Comparator.comparingLong(ResultRow::id))
                .toList();
    }

    private boolean isSeen(RegisterForReader described, String number, SignedIn who) {
        return !rows.rows(ofTransaction(described, number, who), Optional.empty(), 1)
                .rows()
                .isEmpty();
    }

    private static BigDecimal sum(RegisterForReader described, List<ResultRow> lines) {
        String amount = described.transactions().orElseThrow().amount();
        return lines.stream()
                .map(line -> (BigDecimal) line.values().get(amount))
                .filter(Objects::nonNull)
                .reduce(BigDecimal.ZERO, BigDecimal::add);
    }

    /** The opposite of a transaction that is there still, in whoever's eyes. */
    private Optional<String> reversal(RegisterForReader described, String number) {
        return posted.reversals(described.id(), number).stream()
                .filter(n -> count(described, n) > 0)
                .findFirst();
    }

    private long count(RegisterForReader described, String number) {
        return on(connection ->
                Statements.number(connection, Numbering.count(described.register(), numberField(described), number)));
    }

    // ------------------------------------------------------------------ what is to be

    /** The values of the lines as they were sent. */
    private List<Map<Field, Optional<Object>>> read(
            RegisterForReader described,
            TransactionRules rules,
            Map<String, JsonNode> values,
            List<Map<String, JsonNode>> lines) {
        Map<Field, Optional<Object>> shared;
        try {
            requireAsked(described, values, rules.shared(), "is said once for the whole transaction");
            shared = RecordValues.values(described, values);
        } catch (Unfitting e) {
            throw Problem.unprocessable("bad-value", e.getMessage());
        }
        List<String> each = new ArrayList<>(rules.each());
        each.add(rules.amount());
        List<Map<Field, Optional<Object>>> read = new ArrayList<>();
        List<LineRefusal> refused = new ArrayList<>();
        for (int i = 0; i < lines.size(); i++) {
            try {
                requireAsked(described, lines.get(i), each, "is said for each line");
                Map<Field, Optional<Object>> line = new LinkedHashMap<>(shared);
                line.putAll(RecordValues.values(described, lines.get(i)));
                Field amount = field(described, rules.amount());
                if (line.getOrDefault(amount, Optional.empty()).isEmpty()) {
                    throw new Unfitting("Say the " + amount.label() + ".");
                }
                read.add(line);
            } catch (Unfitting e) {
                refused.add(new LineRefusal(i + 1, e.getMessage()));
            }
        }
        refuse(refused);
        return read;
    }

    private static void requireAsked(
            RegisterForReader described, Map<String, JsonNode> sent, List<String> asked, String how) throws Unfitting {
        for (String key : sent.keySet()) {
            if (!asked.contains(key)) {
                throw new Unfitting(described
                        .register()
                        .field(key)
                        .map(f -> f.label() + " is not what " + how + ".")
                        .orElse(described.register().label() + " have no field “" + key + "” that can be written."));
            }
        }
    }

    private static void refuse(List<LineRefusal> refused) {
        if (!refused.isEmpty()) {
            throw Problem.unprocessable(
                            "lines-refused",
                            "Line " + refused.getFirst().line() + ": "
                                    + refused.getFirst().reason() + " Nothing was posted.")
                    .with("refused", refused);
        }
    }

    /** The lines of a transaction with their amounts turned round, today, and as somebody wants them otherwise. */
    private List<Map<Field, Optional<Object>>> opposite(
            RegisterForReader described, String number, Map<String, JsonNode> values, SignedIn who) {
        TransactionRules rules = described.transactions().orElseThrow();
        List<ResultRow> lines = lines(described, number, who);
        if (lines.size() > MOST_LINES) {
            throw Problem.unprocessable(
                    "bad-lines", number + " has more than " + MOST_LINES + " lines; that is no transaction.");
        }
        if (lines.size() != count(described, number)) {
            throw Problem.forbidden("You do not see all lines of " + number
                    + ", so you cannot take it back as a whole. Ask an administrator.");
        }
        reversal(described, number).ifPresent(by -> {
            throw new Problem(
                            HttpStatus.CONFLICT,
                            "reversed-already",
                            number + " was taken back by " + by + " already. Nothing was posted.")
                    .with("reversedBy", by);
        });
        Map<Field, Optional<Object>> otherwise = new LinkedHashMap<>();
        rules.shared()
                .forEach(key -> today(field(described, key))
                        .ifPresent(today -> otherwise.put(field(described, key), Optional.of(today))));
        try {
            requireAsked(described, values, rules.shared(), "is said once for the whole transaction");
            otherwise.putAll(RecordValues.values(described, values));
        } catch (Unfitting e) {
            throw Problem.unprocessable("bad-value", e.getMessage());
        }
        List<String> kept = new ArrayList<>(rules.shared());
        kept.addAll(rules.each());
        rules.along().forEach(a -> kept.add(a.field()));
        Field amount = field(described, rules.amount());
        return lines.stream()
                .map(line -> {
                    Map<Field, Optional<Object>> turned = new LinkedHashMap<>();
                    kept.forEach(key -> turned.put(
                            field(described, key),
                            Optional.ofNullable(line.values().get(key))));
                    turned.putAll(otherwise);
                    BigDecimal was = (BigDecimal) line.values().get(amount.key());
                    turned.put(amount, Optional.ofNullable(was).map(BigDecimal::negate));
                    return turned;
                })
                .toList();
    }

    private Optional<Object> today(Field field) {
        return switch (field.type()) {
            case DATE -> Optional.of(LocalDate.ofInstant(clock.instant(), organisation.zone()));
            case MOMENT -> Optional.of(clock.instant().truncatedTo(ChronoUnit.MICROS));
            case TEXT, CHOICE, PERSON, NUMBER, MONEY, DURATION, YES_NO, TAGS, TIME, SPAN -> Optional.empty();
        };
    }

    // ------------------------------------------------------------------ writing

    private Posted write(
            RegisterForReader described,
            TransactionRules rules,
            List<Map<Field, Optional<Object>>> lines,
            Optional<String> reason,
            Optional<String> reverses,
            SignedIn who) {
        Field amount = field(described, rules.amount());
        BigDecimal difference = lines.stream()
                .map(l -> (BigDecimal) l.getOrDefault(amount, Optional.empty()).orElse(BigDecimal.ZERO))
                .reduce(BigDecimal.ZERO, BigDecimal::add);
        if (difference.signum() != 0) {
            throw Problem.unprocessable(
                            "not-balanced",
                            "The lines do not add up to zero: " + difference.toPlainString()
                                    + " is left over. Nothing was posted.")
                    .with("difference", difference);
        }
        lock(described);
        String number = on(connection -> next(
                        connection,
                        new Numbering(
                                described.register(),
                                numberField(described),
                                rules.number().prefix()),
                        1))
                .getFirst();
        Optional<List<String>> lineNumbers = rules.line()
                .map(l -> on(connection -> next(
                        connection,
                        new Numbering(described.register(), field(described, l.field()), l.prefix()),
                        lines.size())));
        List<LineRefusal> refused = new ArrayList<>();
        for (int i = 0; i < lines.size(); i++) {
            Map<Field, Optional<Object>> line = lines.get(i);
            line.put(numberField(described), Optional.of(number));
            int at = i;
            rules.line()
                    .ifPresent(l -> line.put(
                            field(described, l.field()),
                            Optional.of(lineNumbers.orElseThrow().get(at))));
            rules.mark().ifPresent(m -> line.put(field(described, m.field()), Optional.of(m.value())));
            rules.by().ifPresent(b -> line.put(field(described, b), Optional.of(who.name())));
            along(described, rules, line);
            missing(described, rules, line).ifPresent(reasonWhy -> refused.add(new LineRefusal(at + 1, reasonWhy)));
        }
        refuse(refused);
        ChangeSet set = changes.begin(
                described.id(), Optional.of(who.id()), ChangeSet.Origin.POSTED, Optional.of(number), Optional.empty());
        List<Field> fields = RecordTables.columns(described);
        List<Long> records = periods.guarded(
                described,
                () -> on(connection -> {
                    List<Long> made = new ArrayList<>();
                    for (Map<Field, Optional<Object>> line : lines) {
                        List<Optional<Object>> row = fields.stream()
                                .map(f -> line.getOrDefault(f, Optional.empty()))
                                .toList();
                        made.add(Statements.number(connection, Write.insert(described.register(), fields, row)));
                    }
                    return made;
                }));
        changes.made(set, new Undo.Made(records.getFirst(), records.getLast()));
        changes.describe(set, reason.orElse(""), records.size(), Optional.empty());
        posted.add(described.id(), number, set.id(), reverses);
        if (lines(described, number, who).size() != records.size()) {
            throw Problem.forbidden(
                    "You would not see all of these lines afterwards. Post what lies within what you see. Nothing was posted.");
        }
        trail.write(
                Optional.of(who.id()),
                "register",
                described.id(),
                reverses.isPresent() ? "transaction taken back" : "transaction posted",
                reverses.orElse(null),
                Map.of("number", number, "lines", records.size(), "reason", reason.orElse("")));
        return new Posted(number, records);
    }

    /** Fills the fields that go with others, where they are not known already. */
    private void along(RegisterForReader described, TransactionRules rules, Map<Field, Optional<Object>> line) {
        for (TransactionRules.Along along : rules.along()) {
            Field field = field(described, along.field());
            Field with = field(described, along.with());
            Optional<Object> value = line.getOrDefault(with, Optional.empty());
            if (!line.containsKey(field) && value.isPresent()) {
                line.put(
                        field,
                        on(connection -> Statements.list(
                                        connection,
                                        Numbering.along(described.register(), field, with, value.get()),
                                        row -> ValueType.of(field).read(row, 1))
                                .stream()
                                .findFirst()));
            }
        }
    }

    private static Optional<String> missing(
            RegisterForReader described, TransactionRules rules, Map<Field, Optional<Object>> line) {
        for (TransactionRules.Along along : rules.along()) {
            Field field = field(described, along.field());
            Field with = field(described, along.with());
            if (field.required()
                    && line.getOrDefault(with, Optional.empty()).isPresent()
                    && line.getOrDefault(field, Optional.empty()).isEmpty()) {
                return Optional.of("No " + described.recordLabel() + " says yet which " + field.label()
                        + " goes with this " + with.label() + ". An administrator makes the first one.");
            }
        }
        return RecordValues.missing(described, line);
    }

    private void lock(RegisterForReader described) {
        // Two who post at once are given numbers one after the other.
        on(connection -> Statements.list(
                connection,
                new Sql()
                        .add("select pg_advisory_xact_lock(" + NUMBERING_LOCK + ", cast(")
                        .bind(described.id())
                        .add(" as integer))"),
                row -> true));
    }

    /** The numbers after the last one: the latest records have it, but where others came in since. */
    private static List<String> next(Connection connection, Numbering numbering, int count) throws SQLException {
        List<String> latest = Statements.list(connection, numbering.latest(), row -> row.getString(1));
        if (numbering.isAny(latest)) {
            List<String> next = numbering.after(latest, count);
            if (!Statements.list(connection, numbering.taken(next), row -> row.getBoolean(1))
                    .getFirst()) {
                return next;
            }
        }
        return numbering.after(Statements.list(connection, numbering.highest(), row -> row.getString(1)), count);
    }

    @FunctionalInterface
    private interface OnConnection<T> {
        T on(Connection connection) throws SQLException;
    }

    private <T> T on(OnConnection<T> work) {
        return entities.unwrap(Session.class).doReturningWork(work::on);
    }
}
