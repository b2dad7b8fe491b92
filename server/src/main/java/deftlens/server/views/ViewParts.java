package deftlens.server.views;

import deftlens.core.condition.Condition;
import deftlens.core.condition.Refinement;
import deftlens.core.field.Field;
import deftlens.core.sql.Order;
import deftlens.core.sql.Page;
import deftlens.core.statement.Printer;
import deftlens.core.time.Reading;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.question.ConditionJson;
import deftlens.server.question.Orders;
import deftlens.server.question.Questions;
import deftlens.server.question.Shape;
import deftlens.server.registers.AddedFields;
import deftlens.server.registers.AddedFields.AddedField;
import deftlens.server.registers.OrderWord;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.views.ViewsService.Draft;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Component;
import tools.jackson.databind.ObjectMapper;

/** What a kept view consists of: read from what is stored, and checked before it is stored. */
@Component
class ViewParts {

    private static final int MOST_LABELS = 12;
    private static final int MOST_NAME = 120;
    private static final int MOST_PURPOSE = 2_000;

    private final Questions questions;
    private final AddedFields added;
    private final ObjectMapper json;

    ViewParts(Questions questions, AddedFields added, ObjectMapper json) {
        this.questions = questions;
        this.added = added;
        this.json = json;
    }

    /**
     * What the trail keeps of a view.
     *
     * @param added the calculated fields that it adds to those of its register
     */
    record Kept(
            String name,
            String purpose,
            String statement,
            List<String> columns,
            List<String> order,
            String zone,
            Shape shape,
            List<String> labels,
            List<Integer> locked,
            List<AddedField> added) {

        Kept {
            // Nothing of it was kept before views could add fields.
            added = added == null ? List.of() : List.copyOf(added);
        }
    }

    /** A statement over a view's register, in its normal form; what does not fit is refused with its sentence. */
    Condition read(RegisterForReader described, String statement, Optional<String> zone, SignedIn who) {
        return fitting(
                described, questions.condition(described, Optional.of(statement), Optional.empty(), who), zone, who);
    }

    /** Now, in the view's zone; in the organisation's for a view that each reader reads in their own. */
    Reading now(Optional<String> zone) {
        return questions.reading(
                Optional.empty(), zone.filter(z -> !z.isEmpty() && !z.equals(ViewsService.READERS_ZONE)));
    }

    /** Now, in the zone of a kept view. */
    Reading now(ViewEntity view) {
        return now(Optional.ofNullable(view.zone()));
    }

    /** What a draft asks, in its normal form; what does not fit is refused with its sentence. */
    Condition checked(RegisterForReader described, Draft draft, SignedIn who) {
        return fitting(
                described,
                questions.condition(described, draft.statement(), draft.condition(), who),
                draft.zone(),
                who);
    }

    /** A condition as it is; what does not fit the register is refused with its sentence. */
    Condition fitting(RegisterForReader described, Condition condition, Optional<String> zone, SignedIn who) {
        questions.requireFit(described, condition, now(zone), who);
        return condition;
    }

    /** Refuses a shape that the register, or the view's order, does not go with. */
    void requireShown(ViewEntity view, RegisterForReader described) {
        shape(view)
                .fitting(described)
                .checked(
                        described,
                        Orders.order(
                                described,
                                Optional.of(orderFor(described, strings(view.ordering()))),
                                condition(view)));
    }

    /** Whether a view tests, shows or is ordered by one of the fields. */
    boolean uses(ViewEntity view, Set<String> fields) {
        return condition(view).criteria().stream().anyMatch(c -> fields.stream().anyMatch(c::names))
                || shows(view, fields);
    }

    /** Whether a view shows, or is ordered by, one of the fields. */
    boolean shows(ViewEntity view, Set<String> fields) {
        return strings(view.columns()).stream().anyMatch(fields::contains)
                || strings(view.ordering()).stream()
                        .anyMatch(o -> fields.contains(OrderWord.read(o).field()))
                || shape(view).fields().stream().anyMatch(fields::contains);
    }

    Shape shape(ViewEntity view) {
        return json.readValue(view.shape(), Shape.class);
    }

    String document(Condition condition) {
        return json.writeValueAsString(ConditionJson.document(condition));
    }

    Condition condition(ViewEntity view) {
        return ConditionJson.fromDocument(json.readTree(view.condition()));
    }

    List<String> columns(RegisterForReader described, Optional<List<String>> keys) {
        List<String> columns =
                Orders.columns(described, keys).stream().map(Field::key).toList();
        if (columns.isEmpty()) {
            throw Problem.unprocessable("no-columns", "A view shows at least one column.");
        }
        return columns;
    }

    List<String> order(RegisterForReader described, Optional<List<String>> keys, Condition condition) {
        return orderWords(Orders.order(described, keys, condition));
    }

    private static List<String> orderWords(Order order) {
        return order.listed().isPresent()
                ? List.of(Orders.AS_LISTED + order.listed().get().field().key())
                : order.keys().stream()
                        .map(k -> new OrderWord(k.field().key(), k.descending(), k.emptiesFirst()).toString())
                        .toList();
    }

    static List<String> labels(List<String> labels) {
        List<String> plain = labels.stream()
                .map(l -> l.strip().replaceAll("\\s+", " "))
                .filter(l -> !l.isEmpty())
                .distinct()
                .toList();
        if (plain.size() > MOST_LABELS || plain.stream().anyMatch(l -> l.codePointCount(0, l.length()) > 40)) {
            throw Problem.unprocessable(
                            "bad-labels", "A view has at most " + MOST_LABELS + " labels of 40 characters each.")
                    .at("labels");
        }
        return plain;
    }

    static List<Integer> locked(List<Integer> locked, Condition condition) {
        int parts = Refinement.parts(condition).size();
        List<Integer> plain = locked.stream().distinct().sorted().toList();
        if (plain.stream().anyMatch(l -> l < 0 || l >= parts)) {
            throw Problem.unprocessable(
                    "bad-lock", "A lock is on one of the statement's " + parts + " parts, counted from 0.");
        }
        return plain;
    }

    List<Integer> locked(ViewEntity view) {
        return List.of(json.readValue(view.locked(), Integer[].class));
    }

    static String name(String name) {
        String plain = name.strip();
        if (!VisibleText.isVisible(plain)) {
            throw Problem.unprocessable("no-name", "Give the view a name, so that it can be found again.")
                    .at("name");
        }
        if (plain.codePointCount(0, plain.length()) > MOST_NAME) {
            throw Problem.unprocessable("long-name", "A view's name has at most 120 characters.")
                    .at("name");
        }
        return plain;
    }

    static String purpose(String purpose) {
        String plain = purpose.strip();
        if (plain.codePointCount(0, plain.length()) > MOST_PURPOSE) {
            throw Problem.unprocessable("long-purpose", "What a view is for is said in at most 2,000 characters.")
                    .at("purpose");
        }
        return plain;
    }

    static String zone(String given) {
        return given.isEmpty()
                ? null
                : given.equals(ViewsService.READERS_ZONE)
                        ? given
                        : Questions.zone(given).getId();
    }

    /** What the trail keeps of a view as it stands. */
    Kept kept(ViewEntity view) {
        return new Kept(
                view.name(),
                view.purpose(),
                Printer.print(condition(view)),
                strings(view.columns()),
                strings(view.ordering()),
                view.zone(),
                shape(view),
                strings(view.labels()),
                locked(view),
                added.fields(view.added()));
    }

    /** The columns that are there for a reader. */
    static List<String> columnsFor(RegisterForReader described, List<String> columns) {
        List<String> there = columns.stream()
                .filter(c -> described.register().field(c).isPresent())
                .toList();
        return there.isEmpty() ? List.of(described.title().key()) : there;
    }

    /** The order without what a reader has no field for, or has one that nothing can be ordered by (any more). */
    static List<String> orderFor(RegisterForReader described, List<String> order) {
        return order.stream()
                .filter(o -> described
                        .register()
                        .field(orderedBy(o))
                        .filter(f -> Page.isOrderable(f.type()))
                        .isPresent())
                .toList();
    }

    private static String orderedBy(String order) {
        return order.startsWith(Orders.AS_LISTED)
                ? order.substring(Orders.AS_LISTED.length())
                : OrderWord.read(order).field();
    }

    /** Whether a view is ordered, grouped and added up as it is when one of its fields is to be another. */
    boolean isShownWith(ViewEntity view, Field field) {
        return shape(view).goesWith(field)
                && (Page.isOrderable(field.type())
                        || strings(view.ordering()).stream()
                                .noneMatch(o -> orderedBy(o).equals(field.key())));
    }

    List<String> strings(String array) {
        return List.of(json.readValue(array, String[].class));
    }
}
