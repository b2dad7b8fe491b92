package deftlens.core.statement;

import static deftlens.core.statement.grammar.StatementParser.*;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Fit;
import deftlens.core.condition.Operand;
import deftlens.core.condition.Test;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.statement.grammar.StatementParser;
import deftlens.core.time.Period;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.antlr.v4.runtime.ParserRuleContext;
import org.antlr.v4.runtime.Token;
import org.antlr.v4.runtime.tree.TerminalNode;

/**
 * Reads statements over one register. Stateless apart from what it knows; safe for use by many threads.
 *
 * @param register whose fields may be named
 * @param attributes what may follow {@code my}: site, team, …
 */
public record Reader(Register register, Set<String> attributes) {

    public Reader {
        attributes = Set.copyOf(attributes);
    }

    /**
     * The condition a statement asks, in normal form. An empty statement is every record.
     *
     * @throws StatementError when the statement cannot be read, and never anything else
     */
    public Condition read(String statement) {
        return new Walk(new Source(statement)).read();
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

    /** One reading of one text. */
    private final class Walk {
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

        private Source.Expectation.Hint expectation(Set<Integer> expected, List<Token> before) {
            Optional<Field> bare = bareLabel(before);
            if (bare.isPresent()) {
                return new Source.Expectation.Hint(
                        "[" + bare.get().label() + "] or " + bare.get().key() + " for the field “"
                                + bare.get().label() + "”",
                        List.of(),
                        List.of());
            }
            if (expected.contains(BRACKETED)) {
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
                                    + field.type().label() + "): " + String.join(", ", Verbs.words(field.type())),
                            Verbs.words(field.type()),
                            List.of()))
                    .orElseGet(() -> new Source.Expectation.Hint(
                            "a test, such as is, contains, before or >=; “" + Source.shortened(token.getText())
                                    + "” is no field of " + register.label()
                                    + Source.didYouMean(Nearest.to(name, fieldNames()))
                                            .replace("?", ""),
                            List.of(),
                            List.of()));
        }

        private Condition any(AnyContext context) {
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
            if (!Fit.allows(field.type(), test)) {
                throw unfit(field, test, context.test());
            }
            return new Condition.Criterion(field.key(), test, negated);
        }

        private Field field(FieldContext context) {
            String name = unbracketed(context.getText());
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
                case IsLikeContext c -> find(field, Test.Search.LIKE, c.STRING(), c.EXACTLY());
                case IsValueContext c -> new Test.Is(operand(field, c.value()), c.EXACTLY() != null);
                case CompareSignContext c -> compare(field, c);
                case CompareWordsContext c -> {
                    Test.Order order = c.MORE_WORD() != null
                            ? Test.Order.MORE
                            : c.LESS() != null
                                    ? Test.Order.LESS
                                    : c.LEAST() != null ? Test.Order.AT_LEAST : Test.Order.AT_MOST;
                    yield new Test.Compare(order, operand(field, c.value()));
                }
                case ContainsContext c -> find(field, Test.Search.CONTAINS, c.STRING(), c.EXACTLY());
                case ContainsNotContext c -> find(field, Test.Search.CONTAINS, c.STRING(), c.EXACTLY());
                case StartsWithContext c -> find(field, Test.Search.STARTS_WITH, c.STRING(), c.EXACTLY());
                case EndsWithContext c -> find(field, Test.Search.ENDS_WITH, c.STRING(), c.EXACTLY());
                case TaggedContext c -> new Test.Tagged(c.ALL() != null, operands(field, c.valueList()));
                case BetweenContext c -> between(field, c);
                case InPeriodContext c -> new Test.Dated(Test.Stand.IN, periods.period(c.period()));
                case DatedContext c -> {
                    Test.Stand stand = c.BEFORE() != null
                            ? Test.Stand.BEFORE
                            : c.AFTER() != null
                                    ? Test.Stand.AFTER
                                    : c.FROM() != null ? Test.Stand.FROM : Test.Stand.UP_TO;
                    yield new Test.Dated(stand, periods.period(c.period()));
                }
                case DistanceContext c -> distance(c);
                default -> throw new IllegalStateException("a test without a reading");
            };
        }

        private Test compare(Field field, CompareSignContext context) {
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
            if (!field.type().isNumeric()) {
                try {
                    return new Test.DatedBetween(periods.period(context.period(0)), periods.period(context.period(1)));
                } catch (IllegalArgumentException e) {
                    throw source.error("Here " + e.getMessage() + ".", context, List.of());
                }
            }
            return new Test.Between(number(field, context.period(0)), number(field, context.period(1)));
        }

        private Test distance(DistanceContext context) {
            Test.Far far = context.MORE_WORD() != null
                    ? Test.Far.MORE_THAN
                    : context.LESS() != null ? Test.Far.LESS_THAN : Test.Far.AT_LEAST;
            try {
                return new Test.Distance(
                        far,
                        context.AGO() != null ? Period.Side.LAST : Period.Side.NEXT,
                        periods.count(context.NUMBER().getSymbol()),
                        periods.unit(context.unitName()));
            } catch (IllegalArgumentException e) {
                throw source.error("Here " + e.getMessage() + ".", context, List.of());
            }
        }

        private Test find(Field field, Test.Search search, TerminalNode string, TerminalNode exactly) {
            Operand.Text text = text(string.getSymbol());
            if (text.value().isEmpty()) {
                throw source.error(
                        "An empty text is found everywhere. Write some characters, or “is empty”.",
                        string.getSymbol(),
                        List.of());
            }
            return new Test.Find(search, text.value(), exactly != null);
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
            if (context.NUMBER() != null) {
                if (!field.type().isNumeric()) {
                    throw quoteIt(field, context);
                }
                return number(token);
            }
            if (context.MY() != null) {
                String attribute = context.name().getText().toLowerCase(Locale.ROOT);
                if (!attributes.contains(attribute) || attribute.equals("me")) {
                    List<String> near = Nearest.to(attribute, attributes);
                    throw source.error(
                            "Nothing is kept about a reader as “my " + Source.shortened(attribute) + "”. There is "
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

        private Operand viewer(Field field, Operand.Viewer value, ParserRuleContext context) {
            switch (field.type()) {
                case TEXT, CHOICE, PERSON -> {
                    return value;
                }
                default ->
                    throw source.error(
                            "“" + value.words() + "” is a text, and " + field.label() + " is a "
                                    + field.type().label() + " field.",
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
                            field.label() + " is a " + field.type().label()
                                    + " field: write the number without quotes.",
                            context,
                            bare.matches("-?\\d+(\\.\\d+)?") ? List.of(bare) : List.of());
                }
                case YES_NO ->
                    throw source.error(
                            field.label() + " is a yes/no field: write yes or no, without quotes.",
                            context,
                            List.of("yes", "no"));
                case DATE, MOMENT ->
                    throw source.error(
                            field.label() + " is a " + field.type().label()
                                    + " field: write “on”, “before” or “in” with a date phrase, without quotes.",
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
                            field.label() + " is a " + field.type().label() + " field, and “" + Source.shortened(bare)
                                    + "” is no number.",
                            context,
                            List.of());
                case YES_NO ->
                    source.error(field.label() + " is a yes/no field: write yes or no.", context, List.of("yes", "no"));
                case DATE, MOMENT ->
                    source.error(
                            field.label() + " is a " + field.type().label()
                                    + " field: “is” and signs do not fit it. Write on, in, before, after, from or up to.",
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

        private Operand.Number number(Field field, PeriodContext context) {
            if (context.getStart() == context.getStop() && context.getStart().getType() == NUMBER) {
                return number(context.getStart());
            }
            throw source.error(
                    field.label() + " is a " + field.type().label() + " field: it lies between two numbers.",
                    context,
                    List.of());
        }

        private Operand.Number number(Token token) {
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

        private Operand.Text text(Token token) {
            try {
                return new Operand.Text(unquoted(token.getText()));
            } catch (IllegalArgumentException e) {
                throw source.error("This text cannot be read: " + e.getMessage() + ".", token, List.of());
            }
        }

        private StatementError unfit(Field field, Test test, TestContext context) {
            if (field.type() == FieldType.DATE && Fit.allows(FieldType.MOMENT, test)) {
                return source.error(
                        field.label()
                                + " is a day without a time of day: hours, minutes and moments do not fit it. Say it in days.",
                        context,
                        List.of());
            }
            String exact = test instanceof Test.Is(Operand v, boolean exactly) && exactly
                            || test instanceof Test.In(List<Operand> l, boolean exactlyIn) && exactlyIn
                    ? " “exactly” goes with text fields."
                    : "";
            return source.error(
                    "This test does not fit " + field.label() + ", a "
                            + field.type().label() + " field." + exact + " Tests that fit: "
                            + String.join(", ", Verbs.words(field.type())) + ".",
                    context,
                    List.of());
        }

        private List<String> fieldNames() {
            List<String> names = new ArrayList<>(keys());
            register.fields().forEach(f -> names.add(f.label()));
            return names;
        }

        private List<String> keys() {
            return register.fields().stream().map(Field::key).toList();
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
