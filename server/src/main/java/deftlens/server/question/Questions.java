package deftlens.server.question;

import deftlens.core.condition.Binder;
import deftlens.core.condition.Bound;
import deftlens.core.condition.Condition;
import deftlens.core.condition.Elsewhere;
import deftlens.core.condition.Viewer;
import deftlens.core.field.Register;
import deftlens.core.statement.Asks;
import deftlens.core.statement.Reader;
import deftlens.core.time.LocalTimes;
import deftlens.core.time.Reading;
import deftlens.core.time.Unanswered;
import deftlens.server.lanes.ProcessorWork;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterForReader;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Stream;
import org.springframework.stereotype.Service;
import tools.jackson.databind.JsonNode;

/** Reads the question of a request: what is asked, as of when, for whom. */
@Service
public class Questions {

    private static final Instant EARLIEST = Instant.parse("0001-01-02T00:00:00Z");
    private static final Instant LATEST = Instant.parse("9999-12-30T00:00:00Z");

    /** Characters of a statement that is read in a moment. */
    private static final int READ_AT_ONCE = 10_000;

    private final OrganisationService organisation;
    private final PeopleService people;
    private final RelatedRecords related;
    private final ProcessorWork processor;

    Questions(OrganisationService organisation, PeopleService people, RelatedRecords related, ProcessorWork processor) {
        this.organisation = organisation;
        this.people = people;
        this.related = related;
        this.processor = processor;
    }

    /** Whether a request carries a tree: an absent member and an explicit null both mean that it does not. */
    public static boolean isSent(Optional<JsonNode> tree) {
        return tree.filter(node -> !node.isNull() && !node.isMissingNode()).isPresent();
    }

    /** The question of a request, its records shown as usual. */
    public Question question(RegisterForReader register, QuestionRequest request, SignedIn who) {
        return Question.of(register, condition(register, request, who), reading(request.asOf(), request.zone()), who)
                .asRecordsStood(recordsAt(request.recordsAt(), request.zone()));
    }

    /**
     * The question of a request with what is shown of its answer.
     *
     * @throws Problem where the register has no such columns, order or shape
     */
    public Question question(
            RegisterForReader register, QuestionRequest request, PresentationRequest presentation, SignedIn who) {
        Question question = question(register, request, who);
        return question.shown(
                Orders.order(register, presentation.order(), question.condition()),
                Orders.columns(register, presentation.columns()),
                presentation.shape().orElse(Shape.USUAL).checked(register));
    }

    /** The question that asks for every record, now. */
    public Question everything(RegisterForReader register, SignedIn who) {
        return Question.of(register, Condition.EVERYTHING, reading(Optional.empty(), Optional.empty()), who);
    }

    /** The condition of a request that carries a statement, or a tree, or neither (every record). */
    public Condition condition(
            RegisterForReader described, Optional<String> statement, Optional<JsonNode> tree, SignedIn who) {
        return condition(reader(described, who), statement, tree);
    }

    /** The same over a register that has no records of its own, such as that of figures: no others are asked about. */
    public Condition condition(Register register, Optional<String> statement, Optional<JsonNode> tree) {
        return condition(new Reader(register, attributes()), statement, tree);
    }

    /**
     * The condition of a statement over a register as it was once.
     *
     * @param readable the register with the names of then
     */
    public Condition condition(RegisterForReader described, Register readable, String statement, SignedIn who) {
        Reader reader = new Reader(readable, attributes(), elsewhere(described, who));
        return condition(reader, Optional.of(statement), Optional.empty());
    }

    /** What reads statements over a register for one person. */
    public Reader reader(RegisterForReader described, SignedIn who) {
        return new Reader(described.register(), attributes(), elsewhere(described, who));
    }

    /** Where the values of a register's fields may be looked for besides, now. */
    public Elsewhere elsewhere(RegisterForReader described, SignedIn who) {
        return related.of(described, who, reading(Optional.empty(), Optional.empty()), Optional.empty());
    }

    private Condition condition(Reader reader, Optional<String> statement, Optional<JsonNode> tree) {
        Optional<JsonNode> sent = tree.filter(node -> isSent(tree));
        if (statement.isPresent() && sent.isPresent()) {
            throw Problem.badRequest("two-questions", "Send either a statement or a condition, not both.");
        }
        Condition condition = statement
                .map(s -> read(reader, s))
                .orElseGet(() -> sent.map(ConditionJson::read).orElse(Condition.EVERYTHING));
        return condition.normal();
    }

    private Condition read(Reader reader, String statement) {
        return statement.length() <= READ_AT_ONCE
                ? reader.read(statement)
                : processor.run(() -> reader.read(statement));
    }

    /** The condition of a request, its blanks filled in with the reader's answers. */
    public Condition condition(RegisterForReader register, QuestionRequest request, SignedIn who) {
        return answered(
                register, condition(register, request.statement(), request.condition(), who), request.answers(), who);
    }

    /** A condition with the reader's answers in the place of its blanks. */
    public Condition answered(
            RegisterForReader register, Condition condition, Optional<Map<String, String>> answers, SignedIn who) {
        if (answers.isEmpty()) {
            return condition;
        }
        try {
            return Asks.fill(condition, answers.get(), reader(register, who)).normal();
        } catch (Asks.Unfitting unfitting) {
            throw Problem.unprocessable("bad-answer", unfitting.getMessage()).with("ask", unfitting.label());
        }
    }

    /**
     * The one reading of a request.
     *
     * @param asOf an instant (ISO 8601 with offset), or a day, which is read at its noon; absent is now
     * @param zone a zone of its own, or absent for the organisation's
     */
    public Reading reading(Optional<String> asOf, Optional<String> zone) {
        Optional<ZoneId> own = zone.map(Questions::zone);
        return organisation.reading(
                asOf.map(text -> moment("“As of”", text, own, day -> day.atTime(LocalTime.NOON))), own);
    }

    /** The moment that a request reads records as they stood at; a day is read at its end. */
    public Optional<Instant> recordsAt(Optional<String> asked, Optional<String> zone) {
        return asked.map(text -> {
            Optional<ZoneId> own = zone.map(Questions::zone);
            Instant at = moment(
                    "“Records as they stood at”",
                    text,
                    own,
                    day -> day.plusDays(1).atStartOfDay());
            Instant now = organisation.reading(Optional.empty(), own).now();
            if (at.isAfter(now.plus(Duration.ofDays(1)))) {
                throw Problem.badRequest("bad-as-of", "Records are read as they stood at a moment that has been.");
            }
            return at;
        });
    }

    /** The moment since which something is asked; of a day, its beginning. */
    public Instant since(String asked, Optional<String> zone) {
        return moment("“Since”", asked, zone.map(Questions::zone), LocalDate::atStartOfDay);
    }

    /** What may follow {@code my}, and {@code me}. */
    public Set<String> attributes() {
        return people.attributes();
    }

    /** The facts behind {@code me} and {@code my …} for whoever asks. */
    public Viewer viewer(SignedIn who) {
        return people.viewer(who);
    }

    /** What binds conditions for one person at one reading. */
    public Binder binder(RegisterForReader register, Reading reading, SignedIn who) {
        return binder(register, reading, who, Optional.empty());
    }

    private Binder binder(RegisterForReader register, Reading reading, SignedIn who, Optional<Instant> recordsAt) {
        return new Binder(
                register.register(), reading, viewer(who), Map.of(), related.of(register, who, reading, recordsAt));
    }

    /** The condition bound for one person at one reading; what does not fit the register is refused with its sentence. */
    public Bound bind(RegisterForReader register, Condition condition, Reading reading, SignedIn who) {
        return bind(binder(register, reading, who), condition);
    }

    /** The same over a register that has no records of its own, such as that of figures. */
    public Bound bind(Register register, Condition condition, Reading reading, SignedIn who) {
        return bind(new Binder(register, reading, viewer(who)), condition);
    }

    static Bound bind(Binder binder, Condition condition) {
        try {
            return binder.bind(condition);
        } catch (Binder.Unfit unfit) {
            throw Problem.unprocessable("condition-unfit", unfit.getMessage() + ".")
                    .with("field", unfit.criterion().field());
        } catch (Unanswered open) {
            throw Problem.unprocessable("ask-open", open.getMessage() + ".").with("ask", open.label());
        }
    }

    /** The condition of a question bound, with all that its records satisfy besides. */
    public Bound bind(Question question) {
        return besides(question, bind(binder(question), question.condition()));
    }

    /** The same, with criteria on calculated fields as they are: each is on its own field, whatever that is calculated from. */
    public Bound bindPlain(Question question) {
        return besides(question, bindAlone(question, question.condition()));
    }

    /** A condition over a question's records by itself, with criteria on calculated fields as they are. */
    public Bound bindAlone(Question question, Condition condition) {
        return bind(
                binder(question.registerForReader(), question.reading(), question.who(), question.recordsAt()),
                condition);
    }

    private static Bound besides(Question question, Bound asked) {
        List<Bound> besides = question.besides();
        return besides.isEmpty()
                ? asked
                : new Bound.Every(
                        Stream.concat(Stream.of(asked), besides.stream()).toList());
    }

    /** What binds further conditions as those of a question; it sees what calculated fields stand for. */
    public Binder binder(Question question) {
        return binder(question.registerForReader(), question.reading(), question.who(), question.recordsAt())
                .meaning(question.registerForReader().meanings());
    }

    /** Refuses a condition that does not fit the register; blanks may be open. */
    public void requireFit(RegisterForReader register, Condition condition, Reading reading, SignedIn who) {
        for (Condition.Criterion criterion : condition.criteria()) {
            try {
                bind(register, criterion, reading, who);
            } catch (Problem problem) {
                if (!"ask-open".equals(problem.code())) {
                    throw problem;
                }
            }
        }
    }

    private Instant moment(String what, String text, Optional<ZoneId> zone, Function<LocalDate, LocalDateTime> ofDay) {
        Instant moment = parsed(what, text, zone, ofDay);
        if (moment.isBefore(EARLIEST) || moment.isAfter(LATEST)) {
            throw Problem.badRequest("bad-as-of", what + " runs from the year 1 to the year 9999.");
        }
        return moment;
    }

    private Instant parsed(String what, String text, Optional<ZoneId> zone, Function<LocalDate, LocalDateTime> ofDay) {
        try {
            return OffsetDateTime.parse(text).toInstant();
        } catch (DateTimeException notAnInstant) {
            try {
                return LocalTimes.instant(
                        text.contains("T") ? LocalDateTime.parse(text) : ofDay.apply(LocalDate.parse(text)),
                        zone.orElseGet(organisation::zone));
            } catch (DateTimeException e) {
                throw Problem.badRequest(
                        "bad-as-of",
                        what
                                + " takes a day such as 2026-11-23 a time of it such as 2026-11-23T14:30, or one with its offset such as 2026-11-23T14:30:00Z, not “"
                                + text + "”.");
            }
        }
    }

    /** A zone of the IANA database. */
    public static ZoneId zone(String name) {
        try {
            return ZoneId.of(name);
        } catch (DateTimeException e) {
            throw Problem.badRequest("bad-zone", "“" + name + "” is no time zone; write one such as Europe/London.");
        }
    }
}
