package deftlens.server.registers;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.condition.Condition;
import deftlens.core.field.Band;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Register;
import deftlens.core.sql.Page;
import deftlens.core.statement.Asks;
import deftlens.core.statement.Printer;
import deftlens.core.statement.Reader;
import deftlens.core.statement.StatementError;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.AsText;
import deftlens.server.platform.AsTexts;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.trail.Trail;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** Changes to the catalogue, by administrators, each with its entry in the trail. */
@Service
public class CatalogueEditor {

    static final String SUBJECT = "register";
    private static final int MOST_LETTERS = 120;
    static final int MOST_OPTIONS = 500;

    private final RegisterStore store;
    private final AccessStore access;
    private final RegisterCatalogue catalogue;
    private final RecordTables tables;
    private final PeopleService people;
    private final Trail trail;
    private final BandChanges bandChanges;
    private final ApplicationEventPublisher events;
    private final Clock clock;
    private final ObjectMapper json;

    CatalogueEditor(
            RegisterStore store,
            AccessStore access,
            RegisterCatalogue catalogue,
            RecordTables tables,
            PeopleService people,
            Trail trail,
            BandChanges bandChanges,
            ApplicationEventPublisher events,
            Clock clock,
            ObjectMapper json) {
        this.store = store;
        this.access = access;
        this.catalogue = catalogue;
        this.tables = tables;
        this.people = people;
        this.trail = trail;
        this.bandChanges = bandChanges;
        this.events = events;
        this.clock = clock;
        this.json = json;
    }

    /**
     * What may be changed of a field; its key, type and place in the table stay.
     *
     * @param options the known values in their order
     * @param correctors the teams whose members may correct it, where it is correctable; none for everybody who sees it
     * @param calculation how a calculated field comes to its value from now on, of the same type; absent leaves it as it is
     */
    record FieldChange(
            String key,
            String label,
            String description,
            String unit,
            boolean shown,
            boolean useful,
            boolean identifying,
            boolean correctable,
            List<String> options,
            List<BandJson> bands,
            List<RegisterDefinition.Relation> relates,
            @AsTexts Optional<List<Long>> correctors,
            Optional<String> calculation) {}

    /**
     * A register as it is to be.
     *
     * @param order the order at rest, {@code "due"} or {@code "-due"} for each field; none: by the main date, newest first
     * @param fields all its fields, in their new order
     * @param recordsLabel what several records are called; absent or blank is what the rule makes of one
     * @param running the number whose sum so far means something, if one is
     * @param transactions how its records are posted together, if they are
     * @param version the version that the change was made from
     */
    record RegisterChange(
            String label,
            String recordLabel,
            Optional<String> recordsLabel,
            String description,
            Optional<String> mainField,
            String titleField,
            List<String> order,
            List<FieldChange> fields,
            Optional<String> running,
            Optional<TransactionRules> transactions,
            int version) {}

    /**
     * What one team may see of a register; without a team, everybody whom no other line is about.
     *
     * @param statement what limits the records, in the language; empty for no limit
     * @param hidden the keys of the fields that are not shown
     */
    public record AccessLine(
            @AsText Optional<Long> team,
            boolean mayRead,
            Optional<Boolean> mayChangeMany,
            String statement,
            List<String> hidden) {}

    @Transactional
    RegisterForReader change(String key, RegisterChange wanted, SignedIn who) {
        requireAdministrator(who);
        RegisterEntity register = store.there(key);
        if (register.version() != wanted.version()) {
            throw RegisterStore.changedMeanwhile().with("current", RegisterDescription.of(catalogue.get(key, who)));
        }
        RegisterForReader before = catalogue.get(key, who);
        RegisterForReader whole = catalogue.whole(key).orElseThrow();
        Map<String, FieldEntity> known = new HashMap<>();
        register.fields().forEach(f -> known.put(f.key(), f));
        if (wanted.fields().size() != known.size()
                || !wanted.fields().stream()
                        .map(FieldChange::key)
                        .collect(Collectors.toSet())
                        .equals(known.keySet())) {
            throw Problem.unprocessable(
                    "fields-differ", "Send every field of the register once, in the order they are to have.");
        }
        List<BandChange> bands = wanted.fields().stream()
                .map(f -> BandChange.of(whole.register().field(f.key()).orElseThrow(), f.bands()))
                .filter(BandChange::regroups)
                .toList();
        List<FieldEntity> fields = wanted.fields().stream()
                .map(f -> changed(known.get(f.key()), f, whole, bands))
                .toList();
        register.describe(new RegisterDefinition(
                key,
                text("label", wanted.label(), "The register needs a name"),
                text("recordLabel", wanted.recordLabel(), "One record needs a name"),
                wanted.description().strip(),
                wanted.mainField(),
                wanted.titleField(),
                register.newestFirst(),
                List.of(),
                wanted.running()));
        register.callSeveral(wanted.recordsLabel()
                .map(String::strip)
                .filter(several -> !several.isEmpty())
                .orElseGet(() -> Plurals.of(register.recordLabel())));
        register.order(json.writeValueAsString(wanted.order()));
        register.post(wanted.transactions().map(json::writeValueAsString).orElse(null));
        register.fields().clear();
        register.fields().addAll(fields);
        RegisterForReader after = described(store.saveAndFlush(register));
        check(after, wanted);
        checkCalculations(whole, after);
        wanted.transactions().ifPresent(rules -> TransactionRulesCheck.check(after, rules));
        if (before.closedUpTo().isPresent() && !before.main().map(Field::key).equals(wanted.mainField())) {
            throw Problem.unprocessable(
                            "closed-period",
                            "A period of this register is closed by its main date. Reopen it before you choose another.")
                    .at("mainField");
        }
        if (after.can(Origin.Capability.COUNTS)
                && !before.main().map(Field::key).equals(wanted.mainField())) {
            tables.keep(after);
        }
        trail.write(
                Optional.of(who.id()),
                SUBJECT,
                register.id(),
                "changed",
                RegisterDescription.of(before),
                RegisterDescription.of(after));
        if (!bands.isEmpty()) {
            bandChanges.carry(whole, bands, who);
        }
        events.publishEvent(new RegisterChanged(key));
        return after;
    }

    /** Refuses what a definition cannot say, before anything is written for good. */
    private static void check(RegisterForReader after, RegisterChange wanted) {
        Register register = after.register();
        wanted.mainField().ifPresent(m -> {
            if (register.field(m).filter(f -> f.type().isTemporal()).isEmpty()) {
                throw Problem.unprocessable("bad-main-field", "The main date must be a date or a date and time.")
                        .at("mainField");
            }
            if (after.notes().get(m).origin() == FieldOrigin.CALCULATED) {
                throw Problem.unprocessable(
                                "bad-main-field",
                                "A calculated field cannot be the main date. Choose one that is stored.")
                        .at("mainField");
            }
        });
        wanted.running().ifPresent(r -> {
            if (register.field(r).filter(f -> f.type().isNumeric()).isEmpty()) {
                throw Problem.unprocessable("bad-running", "What is added up as it goes must be a number or an amount.")
                        .at("running");
            }
            if (wanted.mainField().isEmpty()) {
                throw Problem.unprocessable("bad-running", "A running total goes by the main date; choose that first.")
                        .at("running");
            }
        });
        if (register.field(wanted.titleField()).filter(f -> f.type().isStored()).isEmpty()) {
            throw Problem.unprocessable("bad-title-field", "Choose a field that names a record to people.")
                    .at("titleField");
        }
        for (String order : wanted.order()) {
            String key = OrderWord.read(order).field();
            if (register.field(key).filter(f -> Page.isOrderable(f.type())).isEmpty()) {
                throw Problem.unprocessable("bad-order", "Records cannot be ordered by “" + key + "”.")
                        .at("order");
            }
        }
        if (after.shown().stream().anyMatch(f -> !f.type().isStored())) {
            throw Problem.unprocessable("no-column", "A span is shown by its two ends, not as a column of its own.");
        }
    }

    /** Refuses what makes a calculation impossible that was possible before. */
    private static void checkCalculations(RegisterForReader before, RegisterForReader after) {
        for (Field field : after.uncalculated()) {
            boolean was = before.notes()
                    .get(field.key())
                    .calculated()
                    .filter(c -> c.expression().isPresent())
                    .isPresent();
            if (was) {
                throw Problem.unprocessable(
                                "bad-calculation",
                                "“" + field.label() + "” could no longer be calculated. "
                                        + after.notes()
                                                .get(field.key())
                                                .calculated()
                                                .orElseThrow()
                                                .trouble()
                                                .orElseThrow())
                        .at("fields/" + field.key() + "/calculation");
            }
        }
    }

    /** The register with its new words; two fields of one name are refused. */
    private RegisterForReader described(RegisterEntity entity) {
        try {
            return catalogue.describe(entity, people.options(), Set.of());
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable("bad-register", sentence(e.getMessage()));
        }
    }

    /**
     * A calculation, read.
     *
     * @param at where it stands in the request
     */
    private static Expression calculation(RegisterForReader whole, String text, String at) {
        try {
            return new Reader(whole.register(), Set.of()).calculation(text);
        } catch (StatementError error) {
            throw Problem.unprocessable("bad-calculation", error.getMessage())
                    .at(at)
                    .with("offset", error.place().offset())
                    .with("length", error.place().length())
                    .with("suggestions", error.suggestions());
        }
    }

    /** How a calculated field is calculated from now on, with the new names of bands. */
    private String calculation(FieldEntity known, FieldChange wanted, RegisterForReader whole, List<BandChange> bands) {
        String was = known.calculation().orElseThrow();
        String at = "fields/" + known.key() + "/calculation";
        String text = wanted.calculation().map(String::strip).orElse(was);
        boolean broken = whole.notes()
                .get(known.key())
                .calculated()
                .filter(c -> c.expression().isEmpty())
                .isPresent();
        if (broken && text.equals(was)) {
            return was;
        }
        Expression expression = calculation(whole, text, at);
        if (expression.type() != known.type()) {
            throw Problem.unprocessable(
                            "other-type",
                            "What comes out of this is " + expression.type().words() + ", and “" + known.label()
                                    + "” is a " + known.type().words()
                                    + " field. Add another field for it, and remove this one where nothing needs it.")
                    .at(at);
        }
        String words = Printer.print(expression.with(c -> BandChanges.carried(c, bands)));
        if (!Printer.print(expression).equals(was) && limits(whole, known.key())) {
            throw Problem.unprocessable(
                            "field-needed",
                            "Who sees which records is limited by “" + known.label()
                                    + "”. Change that first, under Access.")
                    .at(at);
        }
        return words;
    }

    /** Whether who sees which records is limited by a field, or by what is calculated from it. */
    private boolean limits(RegisterForReader whole, String key) {
        Set<String> resting = whole.restingOn(key);
        return bandChanges.limits(whole).stream()
                .flatMap(limit -> limit.condition().criteria().stream())
                .flatMap(criterion -> criterion.fields().stream())
                .anyMatch(resting::contains);
    }

    /** Gives a register a calculated field. */
    @Transactional
    RegisterForReader addCalculated(String key, String field, String label, String text, SignedIn who) {
        requireAdministrator(who);
        Expression expression = calculation(
                catalogue.whole(key).orElseThrow(() -> Problem.notFound("The register “" + key + "”")),
                text,
                "calculation");
        return addField(
                key,
                FieldDefinition.calculated(field, label, expression.type(), false, Printer.print(expression)),
                who);
    }

    private FieldEntity changed(
            FieldEntity known, FieldChange wanted, RegisterForReader whole, List<BandChange> bandsChanged) {
        if (wanted.options().size() > MOST_OPTIONS) {
            throw Problem.unprocessable("too-many-options", "A field has at most " + MOST_OPTIONS + " known values.");
        }
        if (new HashSet<>(wanted.options()).size() != wanted.options().size()
                || wanted.options().stream().anyMatch(String::isBlank)) {
            throw Problem.unprocessable(
                    "bad-options", "Each known value of “" + wanted.label() + "” stands once, and none is blank.");
        }
        List<Band> bands = wanted.bands().stream().map(BandJson::band).toList();
        FieldDefinition definition = new FieldDefinition(
                known.key(),
                text("fields/" + known.key() + "/label", wanted.label(), "Each field needs a name"),
                known.type(),
                known.required(),
                wanted.shown(),
                known.type() == FieldType.PERSON ? List.of() : wanted.options(),
                bands,
                known.ends(),
                known.origin(),
                new FieldDefinition.About(
                        wanted.description().strip(),
                        wanted.unit().strip(),
                        wanted.useful(),
                        wanted.identifying(),
                        wanted.correctable() && known.calculation().isEmpty(),
                        wanted.relates(),
                        teams(wanted.correctors().orElse(List.of()))),
                known.calculation().map(c -> calculation(known, wanted, whole, bandsChanged)));
        return catalogue.entity(definition, known.columnName(), known.expression());
    }

    private List<Long> teams(List<Long> wanted) {
        List<Long> known =
                people.teams().stream().map(PeopleService.TeamName::id).toList();
        if (!known.containsAll(wanted)) {
            throw Problem.unprocessable("unknown-team", "There is no team with one of these numbers: " + wanted + ".");
        }
        return wanted.stream().distinct().toList();
    }

    /** Gives a register a field that it did not have; records get it empty. */
    @Transactional
    RegisterForReader addField(String key, FieldDefinition field, SignedIn who) {
        requireAdministrator(who);
        RegisterEntity register = store.there(key);
        if (register.fields().stream().anyMatch(f -> f.key().equals(field.key()))) {
            throw Problem.unprocessable("field-taken", "There is a field “" + field.key() + "” already.")
                    .at("label");
        }
        if (register.removedFields().stream().anyMatch(f -> f.key().equals(field.key()))) {
            throw Problem.unprocessable(
                            "field-removed",
                            "There was a field “" + field.key()
                                    + "”, and its values are there still. Restore it, or give this one another name.")
                    .at("label");
        }
        boolean beside = switch (field.origin()) {
            case SEEN, TAGS, CALCULATED -> true;
            case COLUMN, SPAN, MEMBER -> false;
        };
        if (!beside && (!register.origin().can(Origin.Capability.FIELDS) || field.origin() != FieldOrigin.COLUMN)) {
            throw Problem.unprocessable(
                    "not-ours",
                    "Only calculated fields, seen marks and tags can be added to records that are not stored here.");
        }
        String column = field.calculation().isPresent()
                ? Calculation.column(field.key())
                : beside
                        ? field.key()
                        : tables.addColumn(catalogue.whole(key).orElseThrow(), field.key(), field.type());
        register.fields().add(catalogue.entity(field, column, ""));
        RegisterForReader after = described(store.saveAndFlush(register));
        if (!beside) {
            tables.keep(after);
        }
        trail.write(Optional.of(who.id()), SUBJECT, register.id(), "field added", null, field.label());
        return after;
    }

    /** Who sees what of a register. */
    @Transactional(readOnly = true)
    List<AccessLine> access(String key, SignedIn who) {
        requireReader(who);
        return lines(store.there(key));
    }

    private List<AccessLine> lines(RegisterEntity register) {
        return access.findByRegisterIdOrderById(register.id()).stream()
                .map(l -> new AccessLine(
                        l.teamId(),
                        l.mayRead(),
                        Optional.of(l.mayChangeMany()),
                        l.statement(),
                        List.of(json.readValue(l.hidden(), String[].class))))
                .toList();
    }

    /** Says anew who sees what of a register; it holds from the next request on. */
    @Transactional
    public List<AccessLine> setAccess(String key, List<AccessLine> wanted, SignedIn who) {
        requireAdministrator(who);
        RegisterEntity register = store.there(key);
        RegisterForReader whole = catalogue.whole(key).orElseThrow();
        List<AccessLine> before = lines(register);
        Set<Optional<Long>> named = new HashSet<>();
        List<AccessEntity> fresh = new ArrayList<>();
        for (AccessLine line : wanted) {
            if (!named.add(line.team())) {
                throw Problem.unprocessable("team-twice", "Each team stands in one line only.");
            }
            if (line.team().isPresent()
                    && people.teams().stream()
                            .noneMatch(t -> t.id() == line.team().get())) {
                throw Problem.unprocessable(
                        "unknown-team",
                        "There is no team with the number " + line.team().get() + ".");
            }
            fresh.add(new AccessEntity(
                    register.id(),
                    line.team().orElse(null),
                    line.mayRead(),
                    line.mayRead() && line.mayChangeMany().orElse(false),
                    limit(whole.register(), line.statement()),
                    json.writeValueAsString(hidden(whole, register, line.hidden()))));
        }
        access.deleteByRegisterId(register.id());
        access.flush();
        fresh.forEach(access::save);
        access.flush();
        List<AccessLine> after = lines(register);
        trail.write(Optional.of(who.id()), SUBJECT, register.id(), "access", before, after);
        return after;
    }

    private String limit(Register register, String statement) {
        if (statement.isBlank()) {
            return "";
        }
        Condition condition =
                new Reader(register, people.attributes()).read(statement).normal();
        if (!Asks.of(condition).isEmpty()) {
            throw Problem.unprocessable(
                    "ask-in-limit", "What limits the records cannot ask its reader; use “my site” or a fixed value.");
        }
        return Printer.print(condition);
    }

    private static List<String> hidden(RegisterForReader whole, RegisterEntity register, List<String> keys) {
        for (String key : keys) {
            // A field that was removed stays hidden, for when it is brought back.
            boolean removed =
                    register.removedFields().stream().anyMatch(f -> f.key().equals(key));
            if (whole.register().field(key).isEmpty() && !removed) {
                throw Problem.unprocessable("unknown-field", "There is no field “" + key + "” to hide.");
            }
            if (key.equals(whole.title().key())
                    || whole.main().filter(m -> m.key().equals(key)).isPresent()) {
                throw Problem.unprocessable(
                        "field-needed", "The main date, and the field that names a record, cannot be hidden.");
            }
        }
        return keys.stream().distinct().toList();
    }

    /** Takes a register away; its records stay, and it can be brought back. */
    @Transactional
    void delete(String key, SignedIn who) {
        requireAdministrator(who);
        RegisterEntity register = store.there(key);
        Optional<String> holder = store.findAllByOrderByPosition().stream()
                .filter(r -> r.deletedAt() == null
                        && r.members().stream().anyMatch(m -> m.memberKey().equals(key)))
                .map(RegisterEntity::label)
                .findFirst();
        if (holder.isPresent()) {
            throw Problem.unprocessable("register-in-use", "“" + holder.get() + "” is read from this register.");
        }
        if (register.closedUpTo().isPresent()) {
            throw Problem.unprocessable(
                    "closed-period",
                    "A period of “" + register.label() + "” is closed. Reopen it first, under Closed period.");
        }
        register.delete(clock.instant());
        store.saveAndFlush(register);
        trail.write(Optional.of(who.id()), SUBJECT, register.id(), "deleted", register.label(), null);
    }

    /** The registers that were deleted, latest first. */
    @Transactional(readOnly = true)
    List<RegisterEntity> deleted(SignedIn who) {
        requireAdministrator(who);
        return store.findAllByOrderByPosition().stream()
                .filter(r -> r.deletedAt() != null)
                .sorted(Comparator.comparing(RegisterEntity::deletedAt).reversed())
                .toList();
    }

    /** Brings a register back. */
    @Transactional
    void restore(String key, SignedIn who) {
        requireAdministrator(who);
        RegisterEntity register = store.findByKey(key)
                .filter(r -> r.deletedAt() != null)
                .orElseThrow(() -> Problem.notFound("This deleted register"));
        register.delete(null);
        store.saveAndFlush(register);
        trail.write(Optional.of(who.id()), SUBJECT, register.id(), "restored", null, register.label());
    }

    private static String text(String at, String given, String otherwise) {
        String plain = given.strip();
        if (!VisibleText.isVisible(plain) || plain.length() > MOST_LETTERS) {
            throw Problem.unprocessable("no-name", otherwise + " of at most " + MOST_LETTERS + " characters.")
                    .at(at);
        }
        return plain;
    }

    private static String sentence(String message) {
        return Character.toUpperCase(message.charAt(0)) + message.substring(1) + ".";
    }

    static void requireAdministrator(SignedIn who) {
        if (!who.administers()) {
            throw Problem.forbidden("Only an administrator changes the catalogue.");
        }
    }

    private static void requireReader(SignedIn who) {
        if (!who.readsEverything()) {
            throw Problem.forbidden("Only administrators and auditors see who sees what.");
        }
    }
}
