package deftlens.core.statement;

import static deftlens.core.statement.grammar.StatementParser.*;

import deftlens.core.calculation.Expression;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Elsewhere;
import deftlens.core.condition.Fit;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.condition.Verb;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.statement.grammar.StatementParser;
import deftlens.core.time.DurationText;
import deftlens.core.time.Period;
import deftlens.core.time.Unit;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.LocalTime;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import org.antlr.v4.runtime.ParserRuleContext;
import org.antlr.v4.runtime.Token;
import org.antlr.v4.runtime.tree.ParseTree;
import org.antlr.v4.runtime.tree.TerminalNode;

/**
 * Reads statements over one register. Stateless apart from what it knows; safe for use by many threads.
 *
 * @param register whose fields may be named
 * @param attributes what may follow {@code my}: site, team, …
 * @param elsewhere where values may be looked for besides
 */
public record Reader(Register register, Set<String> attributes, Elsewhere elsewhere) {

    public Reader {
        attributes = Set.copyOf(attributes);
    }

    /** A reader of statements that ask about no other records. */
    public Reader(Register register, Set<String> attributes) {
        this(register, attributes, Elsewhere.NOWHERE);
    }

    /** The same for the records of a place. */
    Reader at(Elsewhere.Place place) {
        return new Reader(place.register(), attributes, place.elsewhere());
    }

    /**
     * The condition a statement asks, in normal form. An empty statement is every record.
     *
     * @throws StatementError when the statement cannot be read, and never anything else
     */
    public Condition read(String statement) {
        try {
            return asWritten(statement);
        } catch (StatementError error) {
            throw Respelling.of(statement, error, this::asWritten).orElse(error);
        }
    }

    private Condition asWritten(String statement) {
        return new Walk(new Source(statement, fields(statement))).read();
    }

    /**
     * The period a date phrase names.
     *
     * @throws StatementError when the phrase cannot be read, and never anything else
     */
    public static Period period(String phrase) {
        Source source = new Source(phrase);
        LonePeriodContext context = source.parse(
                StatementParser::lonePeriod,
                (expected, before) -> Expected.hint(expected, Expected.PERIOD_EXAMPLES, List.of()));
        return new PeriodReader(source).period(context.period());
    }

    /**
     * How a field of the register is calculated, as {@link Printer#print(Expression)} writes it: {@code amount / 2},
     * {@code days_between(due, today)}, or a statement, which is yes or no.
     *
     * @throws StatementError when it cannot be read, and never anything else
     */
    public Expression calculation(String text) {
        return new ExpressionReader(this, text).read();
    }

    boolean isField(String word) {
        return register.named(word).isPresent();
    }

    /** Which words of a statement are fields: where it asks about other records, theirs, too. */
    private Predicate<String> fields(String statement) {
        if (!statement.toLowerCase(Locale.ROOT).contains("where")) {
            return this::isField;
        }
        Map<String, Register> asked = new HashMap<>();
        gather(asked);
        return word -> asked.values().stream().anyMatch(r -> r.named(word).isPresent());
    }

    private void gather(Map<String, Register> into) {
        if (into.putIfAbsent(register.key(), register) == null) {
            register.fields().stream()
                    .flatMap(f -> elsewhere.of(f.key()).stream())
                    .forEach(place -> at(place).gather(into));
        }
    }

    /** The reader of what stands at the end of these tokens: inside of what is asked of other records, theirs. */
    Reader innermost(List<Token> before) {
        Deque<Reader> open = new ArrayDeque<>(List.of(this));
        for (int i = 0; i < before.size(); i++) {
            switch (before.get(i).getType()) {
                case LPAREN -> open.push(placed(open.element(), before, i).orElse(open.element()));
                case RPAREN -> {
                    if (open.size() > 1) {
                        open.pop();
                    }
                }
                default -> {
                    // Only brackets lead to other records, and back.
                }
            }
        }
        return open.element();
    }

    /** The reader behind {@code field in (register where}, where a bracket opens so. */
    private static Optional<Reader> placed(Reader outer, List<Token> tokens, int bracket) {
        boolean opens = bracket > 1
                && bracket + 2 < tokens.size()
                && tokens.get(bracket - 1).getType() == IN
                && tokens.get(bracket + 2).getType() == WHERE;
        if (!opens) {
            return Optional.empty();
        }
        int at = bracket - 2 - (tokens.get(bracket - 2).getType() == NOT ? 1 : 0);
        return at < 0
                ? Optional.empty()
                : outer.register
                        .named(unbracketed(tokens.get(at).getText()))
                        .flatMap(field -> outer.elsewhere.of(
                                field.key(), unbracketed(tokens.get(bracket + 1).getText())))
                        .map(outer::at);
    }

    /**
     * The value that a reader fills into a blank of a field: a number, yes or no, or a text, with or without quotes.
     *
     * @throws StatementError when it does not fit the field
     */
    Operand answer(Field field, String text) {
        boolean plain = (field.type() == FieldType.TEXT || field.type().isListed() || field.type() == FieldType.TAGS)
                && !text.startsWith("\"")
                && !text.equalsIgnoreCase("me")
                && !attributes.contains(text.toLowerCase(Locale.ROOT).replaceFirst("^my\\s+", ""));
        return value(field, plain ? Printer.quoted(text) : text);
    }

    private Operand value(Field field, String text) {
        Source source = new Source(text);
        Walk walk = new Walk(source);
        LoneValueContext context = source.parse(
                StatementParser::loneValue,
                (expected, before) -> Expected.hint(expected, Expected.PERIOD_EXAMPLES, List.copyOf(attributes)));
        return walk.operand(field, context.value());
    }

    /** One reading of one text. */
    final class Walk {
        private final Source source;
        private final PeriodReader periods;

        Walk(Source source) {
            this.source = source;
            this.periods = new PeriodReader(source);
        }

        Condition read() {
            StatementContext context = source.parse(StatementParser::statement, this::expectation);
            if (context.any() == null) {
                return Condition.EVERYTHING;
            }
            return any(context.any()).normal();
        }

        Source.Expectation.Hint expectation(Set<Integer> expected, List<Token> before) {
            Reader innermost = innermost(before);
            return innermost == Reader.this
                    ? ownExpectation(expected, before)
                    : innermost.new Walk(source).ownExpectation(expected, before);
        }

        private Source.Expectation.Hint ownExpectation(Set<Integer> expected, List<Token> before) {
            Optional<Field> bare = bareLabel(before);
            if (bare.isPresent()) {
                return new Source.Expectation.Hint(
                        "[" + bare.get().label() + "] or " + bare.get().key() + " for the field “"
                                + bare.get().label() + "”",
                        List.of(),
                        List.of());
            }
            if (expected.contains(BRACKETED) && expected.contains(LPAREN)) {
                boolean afterNot = !before.isEmpty() && before.getLast().getType() == NOT;
                return new Source.Expectation.Hint(
                        "a field of " + register.label() + (afterNot ? " or “(”" : ", “not” or “(”"),
                        fieldNames(),
                        List.of());
            }
            if (expected.contains(EQ) && expected.contains(CONTAINS) && !before.isEmpty()) {
                Token last = before.get(before.size() - 1);
                return afterField(last);
            }
            return Expected.hint(expected, Expected.PERIOD_EXAMPLES, List.copyOf(attributes));
        }

        /** The field whose label of several words was written bare just before the error. */
        private Optional<Field> bareLabel(List<Token> before) {
            for (int length = 2; length <= Math.min(6, before.size()); length++) {
                String written = before.subList(before.size() - length, before.size()).stream()
                        .map(Token::getText)
                        .collect(Collectors.joining(" "));
                Optional<Field> field = register.fields().stream()
                        .filter(f -> f.label().equalsIgnoreCase(written))
                        .findFirst();
                if (field.isPresent()) {
                    return field;
                }
            }
            return Optional.empty();
        }

        /** A test was expected: name those that fit the field. */
        private Source.Expectation.Hint afterField(Token token) {
            String name = unbracketed(token.getText());
            return register.named(name)
                    .map(field -> new Source.Expectation.Hint(
                            "a test for “" + field.label() + "” ("
                                    + field.type().words() + "): " + String.join(", ", Verb.words(register, field)),
                            Verb.words(register, field),
                            List.of()))
                    .orElseGet(() -> new Source.Expectation.Hint(
                            "a test, such as is, contains, before or >=; “" + Source.shortened(token.getText())
                                    + "” is no field of " + register.label()
                                    + Source.didYouMean(Nearest.to(name, fieldNames()))
                                            .replace("?", ""),
                            List.of(),
                            List.of()));
        }

        Condition any(AnyContext context) {
            List<Condition> parts = new ArrayList<>();
            context.all().forEach(all -> parts.add(all(all)));
            return parts.size() == 1 ? parts.get(0) : new Condition.Any(parts);
        }

        private Condition all(AllContext context) {
            List<Condition> parts = new ArrayList<>();
            context.unit().forEach(unit -> parts.add(unit(unit)));
            return parts.size() == 1 ? parts.get(0) : new Condition.All(parts);
        }

        private Condition unit(UnitContext context) {
            Condition atom = switch (context.atom()) {
                case BracketContext c -> any(c.any());
                case OffContext c -> new Condition.Off(any(c.any()));
                case CriterionContext c -> criterion(c);
                default -> throw new IllegalStateException("an atom without a reading");
            };
            return context.NOT() == null ? atom : new Condition.None(List.of(atom));
        }

        private Condition criterion(CriterionContext context) {
            Field field = field(context.field());
            Test test = test(field, context.test());
            boolean negated = negated(context.test());
            if (!Fit.allows(register, field, test)) {
                throw unfit(field, test, context.test());
            }
            return new Condition.Criterion(field.key(), test, negated);
        }

        Field field(FieldContext context) {
            return named(unbracketed(context.getText()), context);
        }

        private Field named(String name, ParserRuleContext context) {
            return register.named(name).orElseThrow(() -> {
                List<String> near = nearestFields(name);
                return source.error(
                        "“" + Source.shortened(name) + "” is no field of " + register.label() + "."
                                + (near.isEmpty()
                                        ? " Its fields are " + String.join(", ", keys()) + "."
                                        : Source.didYouMean(near)),
                        context,
                        near);
            });
        }

        /** The keys of the fields that a mistyped key or label was probably meant for. */
        private List<String> nearestFields(String name) {
            return Nearest.to(name, fieldNames()).stream()
                    .map(near -> register.named(near).map(Field::key).orElse(near))
                    .distinct()
                    .toList();
        }

        private Test test(Field field, TestContext context) {
            return switch (context) {
                case IsEmptyContext c -> new Test.Empty();
                case IsInContext c -> new Test.In(operands(field, c.valueList()), c.EXACTLY() != null);
                case IsLikeContext c -> find(field, Test.Search.LIKE, c.piece(), c.EXACTLY());
                case IsValueContext c -> {
                    Optional<Field> other = otherField(c.value());
                    yield other.isPresent()
                            ? against(
                                    field,
                                    field.type().isNumeric() ? Test.Relation.EQUAL : Test.Relation.IS,
                                    other.get(),
                                    c.value().offset(),
                                    c.EXACTLY() != null,
                                    c)
                            : new Test.Is(operand(field, c.value()), c.EXACTLY() != null);
                }
                case CompareSignContext c -> compare(field, c);
                case CompareWordsContext c -> {
                    Test.Order order = c.MORE_WORD() != null
                            ? Test.Order.MORE
                            : c.LESS() != null
                                    ? Test.Order.LESS
                                    : c.LEAST() != null ? Test.Order.AT_LEAST : Test.Order.AT_MOST;
                    Optional<Field> other = otherField(c.value());
                    yield other.isPresent()
                            ? against(
                                    field,
                                    relation(order),
                                    other.get(),
                                    c.value().offset(),
                                    false,
                                    c)
                            : new Test.Compare(order, operand(field, c.value()));
                }
                case ContainsContext c -> find(field, Test.Search.CONTAINS, c.piece(), c.EXACTLY());
                case ContainsNotContext c -> find(field, Test.Search.CONTAINS, c.piece(), c.EXACTLY());
                case StartsWithContext c -> find(field, Test.Search.STARTS_WITH, c.piece(), c.EXACTLY());
                case EndsWithContext c -> find(field, Test.Search.ENDS_WITH, c.piece(), c.EXACTLY());
                case TaggedContext c -> new Test.Tagged(c.ALL() != null, operands(field, c.valueList()));
                case BetweenContext c -> between(field, c);
                case BetweenLengthsContext c ->
                    new Test.Between(length(field, c.lengthOrAsk(0)), length(field, c.lengthOrAsk(1)));
                case InPeriodContext c ->
                    c.when().otherField() == null
                            ? new Test.Dated(
                                    Test.DateRelation.IN,
                                    periods.period(c.when().period()))
                            : against(field, Test.Relation.ON, c.when().otherField());
                case DatedContext c -> {
                    Test.DateRelation stand = c.BEFORE() != null
                            ? Test.DateRelation.BEFORE
                            : c.AFTER() != null
                                    ? Test.DateRelation.AFTER
                                    : c.FROM() != null ? Test.DateRelation.FROM : Test.DateRelation.UP_TO;
                    yield c.when().otherField() != null
                            ? against(field, relation(stand), c.when().otherField())
                            : field.type() == FieldType.TIME && isAsk(c.when().period())
                                    ? new Test.Timed(
                                            stand, clock(c.when().period().getStart()))
                                    : new Test.Dated(
                                            stand, periods.period(c.when().period()));
                }
                case DistanceContext c -> distance(c);
                case MatchesContext c -> matches(c);
                case RelatedContext c -> related(field, c);
                case BandedContext c -> banded(field, c);
                case WeekdayInContext c ->
                    new Test.OnCalendar(
                            Test.Part.WEEKDAY,
                            c.weekday().stream()
                                    .map(d -> d.getStart().getType() - MONDAY + 1)
                                    .collect(Collectors.toCollection(TreeSet::new)));
                case MonthInContext c ->
                    new Test.OnCalendar(
                            Test.Part.MONTH,
                            c.monthName().stream()
                                    .map(m -> m.getStart().getType() - JANUARY + 1)
                                    .collect(Collectors.toCollection(TreeSet::new)));
                case DayOfMonthInContext c -> dayOfMonth(c);
                case TimeBetweenContext c -> {
                    Operand from = clock(c.clock(0).getStart());
                    Operand to = clock(c.clock(1).getStart());
                    yield field.type() == FieldType.TIME
                            ? new Test.TimeBetween(from, to)
                            : new Test.ClockBetween(from, to);
                }
                case TimedContext c ->
                    new Test.Timed(
                            c.BEFORE() != null
                                    ? Test.DateRelation.BEFORE
                                    : c.AFTER() != null
                                            ? Test.DateRelation.AFTER
                                            : c.FROM() != null ? Test.DateRelation.FROM : Test.DateRelation.UP_TO,
                            clock(c.CLOCK().getSymbol()));
                case WorkingHoursContext c ->
                    new Test.Working(c.OUTSIDE() != null ? Test.Work.OUTSIDE_HOURS : Test.Work.IN_HOURS);
                case WorkingDayContext c ->
                    new Test.Working(c.OFF() != null ? Test.Work.DAY_OFF : Test.Work.WORKING_DAY);
                case SpannedDailyContext c ->
                    new Test.SpannedDaily(
                            clock(c.clock(0).getStart()), clock(c.clock(1).getStart()), periods.period(c.period()));
                case SpannedContext c ->
                    new Test.Spanned(
                            c.OVERLAPS() != null
                                    ? Test.Extent.OVERLAPS
                                    : c.WITHIN() != null
                                            ? Test.Extent.WITHIN
                                            : c.COVERS() != null
                                                    ? Test.Extent.COVERS
                                                    : c.STARTS() != null ? Test.Extent.STARTS_IN : Test.Extent.ENDS_IN,
                            periods.period(c.period()));
                default -> throw new IllegalStateException("a test without a reading");
            };
        }

        /** The other field that a value names; nothing when it is a value of its own. */
        private Optional<Field> otherField(ValueContext context) {
            if (context.BRACKETED() != null) {
                return Optional.of(named(unbracketed(context.BRACKETED().getText()), context));
            }
            return context.name() != null && context.MY() == null
                    ? register.named(context.name().getText())
                    : Optional.empty();
        }

        private Test against(Field field, Test.Relation relation, OtherFieldContext context) {
            Field other = named(unbracketed(context.getStart().getText()), context);
            return against(field, relation, other, context.offset(), false, context);
        }

        private Test against(
                Field field,
                Test.Relation relation,
                Field other,
                OffsetContext offset,
                boolean exactly,
                ParserRuleContext place) {
            if (other.key().equals(field.key())) {
                throw source.error(field.label() + " is compared with itself; name another field.", place, List.of());
            }
            Optional<Test.Offset> added = offset == null ? Optional.empty() : offset(offset);
            if (field.type() == FieldType.DURATION) {
                added = added.map(
                        a -> a instanceof Test.Offset.Time(int count, Unit unit) ? length(count, unit, place) : a);
            }
            return new Test.FieldComparison(relation, other.key(), added, exactly);
        }

        /** What is added to a duration is one itself. */
        private Test.Offset length(int count, Unit unit, ParserRuleContext place) {
            BigDecimal seconds = DurationText.unit(unit.plural())
                    .orElseThrow(() -> source.error(
                            "No " + unit.plural() + " are added to a duration. Write weeks, days, h, min or s.",
                            place,
                            List.of()));
            return new Test.Offset.Length(new Operand.Duration(seconds.multiply(BigDecimal.valueOf(count))));
        }

        /** What is added; nothing where that is written as + 0. */
        private Optional<Test.Offset> offset(OffsetContext context) {
            if (context.length() != null) {
                return length(context);
            }
            String digits = context.NUMBER().getText();
            boolean signed = digits.startsWith("-");
            if (signed == (context.PLUS() != null || context.MINUS() != null)) {
                throw source.error("An offset is written + 2 days or - 2 days.", context, List.of());
            }
            boolean negative = signed || context.MINUS() != null;
            try {
                if (context.unitName() == null) {
                    BigDecimal amount =
                            number(context.NUMBER().getSymbol()).value().abs();
                    return amount.signum() == 0
                            ? Optional.empty()
                            : Optional.of(
                                    new Test.Offset.Amount(new Operand.Number(negative ? amount.negate() : amount)));
                }
                int count = PeriodReader.small(signed ? digits.substring(1) : digits);
                if (count < 0) {
                    throw new IllegalArgumentException("an offset is a whole number of days, weeks, …");
                }
                Unit unit = periods.unit(context.unitName());
                return count == 0
                        ? Optional.empty()
                        : Optional.of(new Test.Offset.Time(negative ? -count : count, unit));
            } catch (IllegalArgumentException e) {
                throw source.error("This offset cannot be read: " + e.getMessage() + ".", context, List.of());
            }
        }

        /** A duration that is added; nothing where it is none. */
        private Optional<Test.Offset> length(OffsetContext context) {
            BigDecimal seconds = length(context.length()).seconds();
            if ((seconds.signum() < 0) == (context.PLUS() != null || context.MINUS() != null)
                    && seconds.signum() != 0) {
                throw source.error("An offset is written + 30 min or - 30 min.", context, List.of());
            }
            return seconds.signum() == 0
                    ? Optional.empty()
                    : Optional.of(new Test.Offset.Length(
                            new Operand.Duration(context.MINUS() != null ? seconds.negate() : seconds)));
        }

        private static Test.Relation relation(Test.Order order) {
            return switch (order) {
                case MORE -> Test.Relation.MORE;
                case AT_LEAST -> Test.Relation.AT_LEAST;
                case LESS -> Test.Relation.LESS;
                case AT_MOST -> Test.Relation.AT_MOST;
            };
        }

        private static Test.Relation relation(Test.DateRelation stand) {
            return switch (stand) {
                case IN -> Test.Relation.ON;
                case BEFORE -> Test.Relation.BEFORE;
                case AFTER -> Test.Relation.AFTER;
                case UP_TO -> Test.Relation.UP_TO;
                case FROM -> Test.Relation.FROM;
            };
        }

        private Test related(Field field, RelatedContext context) {
            String name = unbracketed(context.place().getText());
            Elsewhere.Place place =
                    elsewhere.of(field.key(), name).orElseThrow(() -> noPlace(field, name, context.place()));
            return new Test.Related(
                    place.register().key(),
                    context.any() == null ? Condition.EVERYTHING : at(place).new Walk(source).any(context.any()));
        }

        private StatementError noPlace(Field field, String name, ParserRuleContext context) {
            List<String> keys = elsewhere.of(field.key()).stream()
                    .map(place -> place.register().key())
                    .toList();
            List<String> near = Nearest.to(name, keys);
            return source.error(
                    keys.isEmpty()
                            ? "No other records are known to hold values of " + field.label()
                                    + ". Whoever administers the register says which do."
                            : "“" + Source.shortened(name) + "” is no register that holds values of " + field.label()
                                    + ". " + (keys.size() == 1 ? "There is " : "There are ") + String.join(", ", keys)
                                    + ".",
                    context,
                    near.isEmpty() ? keys : near);
        }

        private Test matches(MatchesContext context) {
            String token = context.MATCHING().getText();
            String pattern = token.substring(token.indexOf('/') + 1, token.length() - 1);
            try {
                return new Test.Matches(pattern, context.EXACTLY() != null);
            } catch (IllegalArgumentException e) {
                String why = e.getMessage();
                throw source.error(
                        Character.toUpperCase(why.charAt(0)) + why.substring(1) + ".",
                        context.MATCHING().getSymbol(),
                        List.of());
            }
        }

        private Test banded(Field field, BandedContext context) {
            List<Operand> bands = new ArrayList<>();
            for (PieceContext piece : context.piece()) {
                Token token = piece.getStart();
                bands.add(
                        piece.ASK() == null
                                ? band(field, text(token).value(), token)
                                : ask(token, written -> {
                                    Source source = new Source(written);
                                    Token name = source.parse(StatementParser::lonePiece, Walk::loneText)
                                            .STRING()
                                            .getSymbol();
                                    return new Walk(source)
                                            .band(field, text(name).value(), name);
                                }));
            }
            return new Test.Banded(bands);
        }

        private static Source.Expectation.Hint loneText(Set<Integer> expected, List<Token> before) {
            return Expected.hint(expected, Expected.PERIOD_EXAMPLES, List.of());
        }

        private Operand.Text band(Field field, String name, Token token) {
            List<String> names =
                    field.bands().stream().flatMap(Band::tree).map(Band::name).toList();
            return new Operand.Text(field.band(name).map(Band::name).orElseThrow(() -> {
                List<String> near = Nearest.to(name, names);
                return source.error(
                        names.isEmpty()
                                ? field.label() + " has no bands."
                                : "“" + Source.shortened(name) + "” is no band of " + field.label() + "."
                                        + (near.isEmpty()
                                                ? " Its bands are " + String.join(", ", names) + "."
                                                : Source.didYouMean(near)),
                        token,
                        near.stream().map(Printer::quoted).toList());
            }));
        }

        private Test dayOfMonth(DayOfMonthInContext context) {
            TreeSet<Integer> days = new TreeSet<>();
            for (TerminalNode number : context.NUMBER()) {
                int day = PeriodReader.small(number.getText());
                if (day < 1 || day > 31) {
                    throw source.error("Days of the month run from 1 to 31.", number.getSymbol(), List.of());
                }
                days.add(day);
            }
            return new Test.OnCalendar(Test.Part.DAY_OF_MONTH, days);
        }

        private Operand clock(Token token) {
            if (token.getType() == ASK) {
                return ask(token, written -> new Operand.Time(Reader.clock(written)));
            }
            try {
                return new Operand.Time(Reader.clock(token.getText()));
            } catch (IllegalArgumentException e) {
                throw source.error(
                        e.getMessage(), token, token.getText().equals("24:00") ? List.of("00:00") : List.of());
            }
        }

        private static boolean isAsk(PeriodContext context) {
            return context.getStart() == context.getStop() && context.getStart().getType() == ASK;
        }

        private Test compare(Field field, CompareSignContext context) {
            Optional<Field> other = otherField(context.value());
            if (other.isPresent()) {
                return against(
                        field,
                        switch (context.sign().getStart().getType()) {
                            case EQ, NE -> field.type().isNumeric() ? Test.Relation.EQUAL : Test.Relation.IS;
                            case GT -> relation(Test.Order.MORE);
                            case GE -> relation(Test.Order.AT_LEAST);
                            case LT -> relation(Test.Order.LESS);
                            default -> relation(Test.Order.AT_MOST);
                        },
                        other.get(),
                        context.value().offset(),
                        false,
                        context);
            }
            Operand value = operand(field, context.value());
            return switch (context.sign().getStart().getType()) {
                case EQ, NE -> new Test.Is(value, false);
                case GT -> new Test.Compare(Test.Order.MORE, value);
                case GE -> new Test.Compare(Test.Order.AT_LEAST, value);
                case LT -> new Test.Compare(Test.Order.LESS, value);
                default -> new Test.Compare(Test.Order.AT_MOST, value);
            };
        }

        private Test between(Field field, BetweenContext context) {
            if (field.type() == FieldType.TIME && context.period().stream().allMatch(Walk::isAsk)) {
                return new Test.TimeBetween(
                        clock(context.period(0).getStart()),
                        clock(context.period(1).getStart()));
            }
            if (!field.type().isNumeric()) {
                try {
                    // Of a range, the end that is asked for: its beginning as the first, its end as the second.
                    Period from = periods.period(context.period(0));
                    Period to = periods.period(context.period(1));
                    return new Test.DatedBetween(
                            from instanceof Period.Range range ? range.from() : from,
                            to instanceof Period.Range range ? range.to() : to);
                } catch (IllegalArgumentException e) {
                    throw source.error("Here " + e.getMessage() + ".", context, List.of());
                }
            }
            return new Test.Between(number(field, context.period(0)), number(field, context.period(1)));
        }

        private Test distance(DistanceContext context) {
            Test.DistanceRelation far = context.MORE_WORD() != null
                    ? Test.DistanceRelation.MORE_THAN
                    : context.LESS() != null ? Test.DistanceRelation.LESS_THAN : Test.DistanceRelation.AT_LEAST;
            try {
                return new Test.Distance(
                        far,
                        periods.counted(
                                context.count(),
                                n -> new Period.Away(
                                        context.AGO() != null ? Period.Side.LAST : Period.Side.NEXT,
                                        n,
                                        periods.unit(context.unitName()))));
            } catch (IllegalArgumentException e) {
                throw source.error("Here " + e.getMessage() + ".", context, List.of());
            }
        }

        private Test find(Field field, Test.Search search, PieceContext piece, TerminalNode exactly) {
            Operand text = piece.ASK() != null ? ask(field, piece.getStart()) : text(piece.getStart());
            try {
                return new Test.Find(search, text, exactly != null);
            } catch (IllegalArgumentException e) {
                throw source.error(
                        text.known().filter(t -> t instanceof Operand.Text).isPresent()
                                ? "An empty text is found everywhere. Write some characters, or “is empty”."
                                : "Here " + e.getMessage() + ".",
                        piece,
                        List.of());
            }
        }

        private static boolean negated(TestContext context) {
            return switch (context) {
                case IsEmptyContext c -> c.NOT() != null;
                case IsInContext c -> c.NOT() != null;
                case IsValueContext c -> c.NOT() != null;
                case InPeriodContext c -> c.NOT() != null;
                case ContainsNotContext c -> true;
                case TaggedContext c -> c.NONE() != null;
                case CompareSignContext c -> c.sign().NE() != null;
                case BandedContext c -> c.NOT() != null;
                case RelatedContext c -> c.NOT() != null;
                case WeekdayInContext c -> c.NOT() != null;
                case MonthInContext c -> c.NOT() != null;
                case DayOfMonthInContext c -> c.NOT() != null;
                default -> false;
            };
        }

        private List<Operand> operands(Field field, ValueListContext context) {
            List<Operand> values = new ArrayList<>();
            for (ValueContext value : context.value()) {
                values.add(operand(field, value));
            }
            if (values.size() > Test.MAX_VALUES) {
                throw source.error(
                        "A list holds at most " + Test.MAX_VALUES + " values; this one has " + values.size() + ".",
                        context,
                        List.of());
            }
            return values;
        }

        private Operand operand(Field field, ValueContext context) {
            Token token = context.getStart();
            if (context.STRING() != null) {
                return textFor(field, text(token), context);
            }
            if (context.length() != null) {
                return length(field, context.length());
            }
            if (context.NUMBER() != null) {
                if (field.type() == FieldType.DURATION) {
                    throw unitless(field, token, context);
                }
                if (!field.type().isNumeric()) {
                    throw quoteIt(field, context);
                }
                return number(token);
            }
            if (context.ASK() != null) {
                return ask(field, token);
            }
            if (context.MY() != null) {
                String attribute = context.name().getText().toLowerCase(Locale.ROOT);
                if (!attributes.contains(attribute) || attribute.equals("me")) {
                    List<String> near = Nearest.to(attribute, attributes);
                    throw source.error(
                            "There is no attribute “my " + Source.shortened(attribute) + "”. There is "
                                    + String.join(
                                            ", ",
                                            attributes.stream()
                                                    .filter(a -> !a.equals("me"))
                                                    .sorted()
                                                    .map(a -> "my " + a)
                                                    .toList())
                                    + ".",
                            context,
                            near.stream().map(n -> "my " + n).toList());
                }
                return viewer(field, new Operand.Viewer(attribute), context);
            }
            if (context.ME() != null) {
                return viewer(field, Operand.ME, context);
            }
            if ((context.YES() != null || context.NO() != null) && field.type() == FieldType.YES_NO) {
                return new Operand.YesNo(context.YES() != null);
            }
            throw quoteIt(field, context);
        }

        private Operand ask(Field field, Token token) {
            return ask(token, preset -> value(field, preset));
        }

        /** A blank whose default is read as it is meant there. */
        private Operand ask(Token token, Function<String, Operand> preset) {
            PeriodReader.Ask ask = PeriodReader.Ask.of(source, token);
            if (ask.preset().isEmpty()) {
                return new Operand.Ask(ask.label(), Optional.empty());
            }
            try {
                return new Operand.Ask(ask.label(), Optional.of(preset.apply(ask.preset())));
            } catch (StatementError | IllegalArgumentException e) {
                throw source.error("In the default of “" + ask.label() + "”: " + e.getMessage(), token, List.of());
            }
        }

        private Operand viewer(Field field, Operand.Viewer value, ParserRuleContext context) {
            switch (field.type()) {
                case TEXT, CHOICE, PERSON -> {
                    return value;
                }
                default ->
                    throw source.error(
                            "“" + value.words() + "” is a text, and " + field.label() + " is a "
                                    + field.type().words() + " field.",
                            context,
                            List.of());
            }
        }

        private Operand textFor(Field field, Operand.Text text, ParserRuleContext context) {
            return switch (field.type()) {
                case CHOICE, PERSON, TAGS ->
                    field.option(text.value())
                            .map(o -> new Operand.Text(o.value()))
                            .orElse(text);
                case TEXT -> text;
                case NUMBER, MONEY -> {
                    String bare = text.value().strip();
                    throw source.error(
                            field.label() + " is a " + field.type().words()
                                    + " field: write the number without quotes.",
                            context,
                            bare.matches("-?\\d+(\\.\\d+)?") ? List.of(bare) : List.of());
                }
                case DURATION ->
                    throw source.error(
                            field.label() + " is a duration: write it without quotes, such as 2 h 30 min.",
                            context,
                            DurationText.seconds(text.value()).map(DurationText::words).stream()
                                    .toList());
                case YES_NO ->
                    throw source.error(
                            field.label() + " is a yes/no field: write yes or no, without quotes.",
                            context,
                            List.of("yes", "no"));
                case DATE, MOMENT ->
                    throw source.error(
                            field.label() + " is a " + field.type().words()
                                    + " field: write “on”, “before” or “in” with a date phrase, without quotes.",
                            context,
                            List.of());
                case TIME ->
                    throw source.error(
                            field.label()
                                    + " is a time of day: write “between 12:00 and 16:00”, “before” or “from” with a time, without quotes.",
                            context,
                            List.of());
                case SPAN ->
                    throw source.error(
                            field.label()
                                    + " is a span: write “overlaps”, “within” or “starts in” with a date phrase, without quotes.",
                            context,
                            List.of());
            };
        }

        private StatementError quoteIt(Field field, ValueContext context) {
            String bare = context.getText();
            // A test that stops half-way looks like a bare word to the grammar.
            if (bare.equalsIgnoreCase("in")) {
                return source.error("A list has to follow “is in”: (\"…\", \"…\").", context, List.of());
            }
            if (bare.equalsIgnoreCase("like")) {
                return source.error("A pattern in double quotes has to follow “is like”.", context, List.of());
            }
            return switch (field.type()) {
                case NUMBER, MONEY ->
                    source.error(
                            field.label() + " is a " + field.type().words() + " field, and “" + Source.shortened(bare)
                                    + "” is no number.",
                            context,
                            List.of());
                case DURATION ->
                    source.error(
                            field.label() + " is a duration, and “" + Source.shortened(bare)
                                    + "” is none. Write one such as 2 h 30 min, 3 days or PT2H30M.",
                            context,
                            List.of());
                case YES_NO ->
                    source.error(field.label() + " is a yes/no field: write yes or no.", context, List.of("yes", "no"));
                case DATE, MOMENT ->
                    source.error(
                            field.label() + " is a " + field.type().words()
                                    + " field: “is” and signs do not fit it. Write on, in, before, after, from or up to.",
                            context,
                            List.of());
                case TIME, SPAN ->
                    source.error(
                            "“is” and signs do not fit " + field.label() + ", a "
                                    + field.type().words() + " field. Tests that fit: "
                                    + String.join(", ", Verb.words(register, field)) + ".",
                            context,
                            List.of());
                default -> {
                    String quoted = Printer.quoted(
                            field.option(bare).map(o -> o.value()).orElse(bare));
                    yield source.error(
                            "Text goes in double quotes: " + Source.shortened(quoted) + ".", context, List.of(quoted));
                }
            };
        }

        private Operand number(Field field, PeriodContext context) {
            if (context.getStart() == context.getStop() && context.getStart().getType() == NUMBER) {
                if (field.type() == FieldType.DURATION) {
                    throw unitless(field, context.getStart(), context);
                }
                return number(context.getStart());
            }
            if (isAsk(context)) {
                return ask(field, context.getStart());
            }
            throw source.error(
                    field.label() + " is a " + field.type().words() + " field: it lies between two "
                            + (field.type() == FieldType.DURATION ? "durations, such as 30 min and 2 h." : "numbers."),
                    context,
                    List.of());
        }

        private Operand length(Field field, LengthOrAskContext context) {
            return context.ASK() != null ? ask(field, context.ASK().getSymbol()) : length(field, context.length());
        }

        private Operand.Duration length(Field field, LengthContext context) {
            if (field.type() != FieldType.DURATION) {
                throw source.error(
                        "“" + Source.shortened(written(context)) + "” is a duration, and " + field.label() + " is a "
                                + field.type().words() + " field."
                                + (field.type().isNumeric() ? " Write the number without a unit." : ""),
                        context,
                        field.type().isNumeric() && context.NUMBER().size() == 1
                                ? List.of(context.NUMBER(0).getText())
                                : List.of());
            }
            return length(context);
        }

        Operand.Duration length(LengthContext context) {
            try {
                return new Operand.Duration(DurationText.seconds(written(context))
                        .orElseThrow(() -> new IllegalArgumentException(
                                "write each unit once, the longest first: 1 day 2 h 30 min, or PT2H30M")));
            } catch (IllegalArgumentException e) {
                throw source.error("This duration cannot be read: " + e.getMessage() + ".", context, List.of());
            }
        }

        private static String written(LengthContext context) {
            return context.children.stream()
                    .map(ParseTree::getText)
                    .collect(Collectors.joining(" "))
                    .replace("- ", "-");
        }

        /** A number alone says no duration. */
        private StatementError unitless(Field field, Token number, ParserRuleContext context) {
            String digits = number.getText();
            return source.error(
                    field.label() + " is a duration: a unit has to follow the number.",
                    context,
                    List.of(digits + " h", digits + " min"));
        }

        Operand.Number number(Token token) {
            try {
                if (token.getText().length() > 2 * Operand.Number.MAX_DIGITS + 2) {
                    throw new IllegalArgumentException("a number here has at most 60 digits");
                }
                return new Operand.Number(new BigDecimal(token.getText()));
            } catch (IllegalArgumentException e) {
                throw source.error(
                        "“" + Source.shortened(token.getText()) + "” is too long: " + e.getMessage() + ".",
                        token,
                        List.of());
            }
        }

        Operand.Text text(Token token) {
            try {
                return new Operand.Text(unquoted(token.getText()));
            } catch (IllegalArgumentException e) {
                throw source.error("This text cannot be read: " + e.getMessage() + ".", token, List.of());
            }
        }

        private StatementError unfit(Field field, Test test, TestContext context) {
            if (test instanceof Test.FieldComparison against
                    && register.field(against.other()).isPresent()) {
                return unlike(field, against, register.field(against.other()).orElseThrow(), context);
            }
            boolean hoursOfDays = field.type() == FieldType.DATE && Fit.allows(FieldType.MOMENT, test)
                    || field.type() == FieldType.SPAN
                            && (test instanceof Test.Spanned || test instanceof Test.SpannedDaily);
            if (hoursOfDays) {
                return source.error(
                        field.label()
                                + (test instanceof Test.SpannedDaily daily
                                                && daily.days().isClock()
                                        ? ": the days after the times are whole days"
                                        : field.type() == FieldType.SPAN
                                                ? " runs from day to day"
                                                : " is a day without a time of day")
                                + ": hours, minutes and times do not fit it. Say it in days.",
                        context,
                        List.of());
            }
            String exact = test instanceof Test.Is(Operand v, boolean exactly) && exactly
                            || test instanceof Test.In(List<Operand> l, boolean exactlyIn) && exactlyIn
                    ? " “exactly” goes with text fields."
                    : "";
            return source.error(
                    "This test does not fit " + field.label() + ", a "
                            + field.type().words() + " field." + exact + " Tests that fit: "
                            + String.join(", ", Verb.words(register, field)) + ".",
                    context,
                    List.of());
        }

        private StatementError unlike(Field field, Test.FieldComparison against, Field other, TestContext context) {
            boolean moments = field.type() == FieldType.MOMENT && other.type() == FieldType.MOMENT;
            String why;
            if (moments && against.relation() == Test.Relation.ON) {
                why = "Two times are hardly ever the same. Write before, after, from or up to.";
            } else if (Fit.allows(
                    register,
                    field,
                    new Test.FieldComparison(against.relation(), other.key(), Optional.empty(), false))) {
                why = against.exactly()
                        ? "“exactly” goes with text fields."
                        : "This offset does not fit " + other.label() + "."
                                + (field.type().isTemporal()
                                        ? " Say it in days, weeks, months, quarters or years"
                                                + (moments ? ", hours or minutes." : ".")
                                        : "");
            } else {
                why = field.label() + " is a " + field.type().words() + " field and " + other.label() + " a "
                        + other.type().words() + " field: "
                        + (field.type() == other.type()
                                ? "they cannot be compared in this way."
                                : "only fields of one type are compared, and a date with a date and time.");
            }
            return source.error(why, context, List.of());
        }

        List<String> fieldNames() {
            List<String> names = new ArrayList<>(keys());
            register.fields().forEach(f -> names.add(f.label()));
            return names;
        }

        private List<String> keys() {
            return register.fields().stream().map(Field::key).toList();
        }
    }

    /**
     * The time of day that is written: {@code 9:30}, {@code 22:00:15}.
     *
     * @throws IllegalArgumentException with a sentence for whoever wrote it, when there is no such time
     */
    static LocalTime clock(String text) {
        try {
            return new Operand.Time(LocalTime.parse(text.indexOf(':') == 1 ? "0" + text : text)).value();
        } catch (DateTimeException | IllegalArgumentException e) {
            throw new IllegalArgumentException("“" + Source.shortened(text)
                    + "” is no time of day. Write one from 00:00 to 23:59"
                    + (text.startsWith("24:00") ? "; midnight is 00:00." : "."));
        }
    }

    static String unbracketed(String name) {
        return name.startsWith("[") && name.endsWith("]")
                ? name.substring(1, name.length() - 1).strip()
                : name;
    }

    /** The text that a quoted token stands for: {@code \"} and {@code \\} are the quote and the backslash. */
    static String unquoted(String token) {
        String inner = token.substring(1, token.length() - 1);
        if (inner.indexOf('\\') < 0) {
            return inner;
        }
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < inner.length(); i++) {
            char c = inner.charAt(i);
            if (c == '\\' && i + 1 < inner.length() && (inner.charAt(i + 1) == '"' || inner.charAt(i + 1) == '\\')) {
                text.append(inner.charAt(++i));
            } else {
                text.append(c);
            }
        }
        return text.toString();
    }
}
