package deftlens.server.registers;

import deftlens.core.calculation.Calculation;
import deftlens.core.calculation.Expression;
import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.field.Option;
import deftlens.core.field.Register;
import deftlens.core.sql.Order;
import deftlens.core.sql.Sql;
import deftlens.core.statement.Reader;
import deftlens.core.statement.StatementError;
import deftlens.core.statement.Wording;
import deftlens.core.time.Reading;
import deftlens.server.people.PeopleService;
import deftlens.server.people.Role;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.EpochCache;
import deftlens.server.platform.Problem;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/**
 * The registers there are, as each person sees them. A field that is hidden from a person is not in the register they are
 * given: no statement, column, order or file of theirs can name it.
 */
@Service
public class RegisterCatalogue {

    private final RegisterStore store;
    private final AccessStore access;
    private final PeopleService people;
    private final RecordTables tables;
    private final AddedFields added;
    private final Clock clock;
    private final EpochCache remembered;
    private final ObjectMapper json;

    RegisterCatalogue(
            RegisterStore store,
            AccessStore access,
            PeopleService people,
            RecordTables tables,
            AddedFields added,
            Clock clock,
            EpochCache remembered,
            ObjectMapper json) {
        this.store = store;
        this.access = access;
        this.people = people;
        this.tables = tables;
        this.added = added;
        this.clock = clock;
        this.remembered = remembered;
        this.json = json;
    }

    /** The registers that the person may read, in their order. */
    public List<RegisterForReader> all(SignedIn who) {
        List<String> keys = remembered.get(
                new KeysKey(),
                () -> store.findAllByOrderByPosition().stream()
                        .filter(e -> e.deletedAt() == null)
                        .map(RegisterEntity::key)
                        .toList());
        return keys.stream().flatMap(key -> find(key, who).stream()).toList();
    }

    /**
     * The register of that key as the person sees it; one they may not read is not there for them.
     *
     * @param key also one with {@linkplain AddedFields fields that are added} to it
     */
    public RegisterForReader get(String key, SignedIn who) {
        return find(key, who).orElseThrow(() -> missing(key, who));
    }

    private Problem missing(String key, SignedIn who) {
        return AddedFields.handle(key).isPresent()
                        && find(AddedFields.register(key), who).isPresent()
                ? Problem.notFound("What this address calculates beside the fields of its register")
                : Problem.notFound("The register “" + AddedFields.register(key) + "”");
    }

    /** The register of that key as the person sees it, if it is there for them. */
    public Optional<RegisterForReader> find(String key, SignedIn who) {
        return rights(key, who).flatMap(r -> seen(key, r));
    }

    /** A register with all its fields, for what is not done in the name of a reader. */
    public Optional<RegisterForReader> whole(String key) {
        return seen(key, Rights.WHOLE);
    }

    /** A register with what changes as time goes by as it is at another reading, beside the same as it is. */
    public CalculatedTwice twice(RegisterForReader described, Reading reading) {
        Set<String> fields = new LinkedHashSet<>();
        for (RegisterForReader.Member member : described.members()) {
            whole(member.key())
                    .map(m -> CalculatedTwice.at(m, Set.of(), reading).later().keySet())
                    .ifPresent(moving -> fields.addAll(member.readingFrom(moving)));
        }
        return CalculatedTwice.at(described, fields, reading);
    }

    /** A combined register with what comes out otherwise when calculated fields of one of its members are calculated otherwise. */
    public CalculatedTwice twice(
            RegisterForReader combined, RegisterForReader member, Map<String, Expression> calculations) {
        Set<String> changing = CalculatedTwice.of(member, calculations).later().keySet();
        Set<String> fields = new LinkedHashSet<>();
        combined.members().stream()
                .filter(m -> m.key().equals(member.register().key()))
                .forEach(m -> fields.addAll(m.readingFrom(changing)));
        return CalculatedTwice.of(
                combined,
                fields,
                new CalculatedTwice.Otherwise.With(member.register().key(), calculations));
    }

    /** What is remembered of a person and a register; the role is part of what they may see. */
    private record RightsKey(String register, long person, Role role) {}

    /** What is remembered of a register: the same for all who have the same rights in it. */
    private record SeenKey(String register, Rights rights) {}

    /** What is remembered of which registers there are. */
    private record KeysKey() {}

    private Optional<Rights> rights(String key, SignedIn who) {
        return remembered.get(
                new RightsKey(key, who.id(), who.role()), () -> entity(key).flatMap(e -> rights(e, who)));
    }

    private Optional<RegisterForReader> seen(String key, Rights rights) {
        return remembered.get(
                new SeenKey(key, rights),
                () -> entity(key)
                        .flatMap(e -> AddedFields.handle(key)
                                .map(handle -> added.find(e.id(), handle)
                                        .map(a -> describe(e, people.options(), rights, Optional.of(a))))
                                .orElseGet(
                                        () -> Optional.of(describe(e, people.options(), rights, Optional.empty())))));
    }

    /**
     * The statements that limit the records a person sees of a register: a record is seen when at least one of them holds.
     * None at all is no limit.
     */
    public List<String> limits(String key, SignedIn who) {
        return rights(key, who).map(Rights::limits).orElse(List.of());
    }

    private Optional<RegisterEntity> entity(String key) {
        return store.findByKey(AddedFields.register(key)).filter(e -> e.deletedAt() == null);
    }

    /** What a person may see: the limits of the records, any of which opens one, and the hidden fields; and whether they change many at once. */
    private record Rights(List<String> limits, Set<String> hidden, boolean changesMany) {
        static final Rights WHOLE = new Rights(List.of(), Set.of(), false);
        static final Rights ALL = new Rights(List.of(), Set.of(), true);
    }

    /**
     * The rights of a person. Records open to any of their teams are open to them; a field hidden from any of their teams is
     * hidden, since it could not be shown in some records only.
     */
    private Optional<Rights> rights(RegisterEntity register, SignedIn who) {
        if (who.readsEverything()) {
            return Optional.of(who.administers() ? Rights.ALL : Rights.WHOLE);
        }
        List<AccessEntity> lines = access.findByRegisterIdOrderById(register.id());
        if (lines.isEmpty()) {
            return Optional.of(Rights.WHOLE);
        }
        List<Long> teams = people.teamsOf(who);
        List<AccessEntity> own = lines.stream()
                .filter(l -> l.teamId().filter(teams::contains).isPresent())
                .toList();
        List<AccessEntity> holding =
                own.isEmpty() ? lines.stream().filter(l -> l.teamId().isEmpty()).toList() : own;
        if (holding.isEmpty()) {
            return Optional.of(Rights.WHOLE);
        }
        List<AccessEntity> reading =
                holding.stream().filter(AccessEntity::mayRead).toList();
        if (reading.isEmpty()) {
            return Optional.empty();
        }
        Set<String> hidden = new LinkedHashSet<>();
        reading.forEach(l -> hidden.addAll(strings(l.hidden())));
        boolean unlimited = reading.stream().anyMatch(l -> l.statement().isEmpty());
        return Optional.of(new Rights(
                unlimited
                        ? List.of()
                        : reading.stream().map(AccessEntity::statement).toList(),
                hidden,
                reading.stream().anyMatch(AccessEntity::mayChangeMany)));
    }

    /** Fills the table of a register that is being made, on the connection of the transaction that makes it. */
    @FunctionalInterface
    public interface Filling {
        void fill(RegisterForReader described, Connection connection) throws SQLException;

        /** Is told how many of the indexes are built. */
        default void indexing(int done, int of) {}
    }

    /** Lets no member see a register until somebody says who may; administrators and auditors read everything. */
    @Transactional
    public void closeToMembers(RegisterForReader described) {
        access.save(new AccessEntity(described.id(), null, false, false, "", "[]"));
    }

    /**
     * Notes up to which day a register is closed from now on; not a new version of its entry.
     *
     * @return what it was before
     */
    @Transactional
    public Optional<LocalDate> closeUpTo(String key, Optional<LocalDate> upTo) {
        Optional<LocalDate> before = store.lockedClosedUpTo(key).map(LocalDate::parse);
        store.closeUpTo(key, upTo.map(LocalDate::toString).orElse(null));
        return before;
    }

    /** Makes a register of our own: its entry and its table, with the indexes that its order and its dates need. */
    @Transactional
    public RegisterForReader add(RegisterDefinition definition) {
        return add(definition, (described, connection) -> {});
    }

    /** Makes a register of our own and fills it; its indexes are built when the records are there. All, or nothing. */
    @Transactional
    public RegisterForReader add(RegisterDefinition definition, Filling filling) {
        requireFree(definition.key());
        RegisterEntity entity = store.saveAndFlush(new RegisterEntity(
                definition,
                RegisterEntity.Source.own(definition.key()),
                store.findAllByOrderByPosition().size(),
                clock.instant(),
                definition.fields().stream().map(this::own).toList()));
        definition.transactions().map(json::writeValueAsString).ifPresent(entity::post);
        RegisterForReader described = describe(store.saveAndFlush(entity), people.options(), Set.of());
        definition.transactions().ifPresent(rules -> TransactionRulesCheck.check(described, rules));
        tables.create(described, filling);
        return described;
    }

    /**
     * Makes a register in which several others are read together.
     *
     * @param definition with one {@linkplain FieldDefinition#member member field}
     * @param members at least two; each gives every required field a value
     */
    @Transactional
    public RegisterForReader combine(RegisterDefinition definition, List<RegisterForReader.Member> members) {
        requireFree(definition.key());
        List<FieldEntity> fields =
                definition.fields().stream().map(f -> entity(f, f.key(), "")).toList();
        RegisterEntity entity = new RegisterEntity(
                definition,
                RegisterEntity.Source.combined(),
                store.findAllByOrderByPosition().size(),
                clock.instant(),
                fields);
        entity.combine(members.stream()
                .map(m -> new MemberEntity(m.key(), m.label(), json.writeValueAsString(m.mapping())))
                .toList());
        return describe(store.saveAndFlush(entity), people.options(), Set.of());
    }

    /** Whether a key is that of a register, or of one that was deleted. */
    @Transactional(readOnly = true)
    public boolean isTaken(String key) {
        return store.findByKey(key).isPresent();
    }

    /** A key made from a label that no register has or had. */
    @Transactional(readOnly = true)
    public String freeKey(String label) {
        String key = Keys.of(label);
        String free = key;
        for (int i = 2; isTaken(free); i++) {
            free = (key.length() > 36 ? key.substring(0, 36) : key) + "_" + i;
        }
        return free;
    }

    private void requireFree(String key) {
        if (isTaken(key)) {
            throw Problem.unprocessable("key-taken", "There is (or was) a register with the key “" + key + "”.");
        }
    }

    private FieldEntity own(FieldDefinition field) {
        // The record's own number stands in the column "id".
        return entity(
                field,
                field.calculation().isPresent()
                        ? Calculation.column(field.key())
                        : field.key().equals("id") ? "id_" : field.key(),
                "");
    }

    /** The catalogue's entry of a field. */
    FieldEntity entity(FieldDefinition field, String column, String expression) {
        return new FieldEntity(
                field,
                column,
                expression,
                json.writeValueAsString(field.options()),
                json.writeValueAsString(field.bands().stream().map(BandJson::of).toList()),
                json.writeValueAsString(field.about().relates()),
                json.writeValueAsString(field.about().correctors()));
    }

    /** A definition with what the catalogue says of a field that is there: bands, description, unit and the like. */
    FieldDefinition like(FieldDefinition definition, FieldEntity known) {
        return new FieldDefinition(
                definition.key(),
                definition.label(),
                definition.type(),
                definition.required(),
                definition.shown(),
                definition.options(),
                Arrays.stream(json.readValue(known.bands(), BandJson[].class))
                        .map(BandJson::band)
                        .toList(),
                definition.ends(),
                definition.origin(),
                about(known),
                known.calculation());
    }

    /** A register as it is seen without some of its fields. */
    RegisterForReader describe(RegisterEntity entity, List<Option> persons, Set<String> hidden) {
        return describe(entity, persons, new Rights(List.of(), hidden, false), Optional.empty());
    }

    private RegisterForReader describe(
            RegisterEntity entity, List<Option> persons, Rights rights, Optional<AddedFields.Added> added) {
        Set<String> hidden = rights.hidden();
        List<Place> places = places(entity);
        List<FieldEntity> fields = new ArrayList<>(entity.fields());
        added.ifPresent(a -> a.fields().forEach(f -> fields.add(entity(f, fields))));
        CalculatedFields calculated = CalculatedFields.of(
                new Register(entity.key(), entity.label(), "", "", List.of()),
                fields,
                fields.stream()
                        .map(f -> field(f, persons, isRequired(f, places)))
                        .toList());
        List<FieldEntity> seen = fields.stream()
                .filter(f -> calculated.needs(f.key()).stream().noneMatch(hidden::contains))
                .toList();
        Map<String, RegisterForReader.Notes> notes = new LinkedHashMap<>();
        seen.forEach(f -> notes.put(f.key(), notes(f, calculated.of(f.key()))));
        Map<String, String> left = new LinkedHashMap<>();
        fields.stream().filter(f -> !notes.containsKey(f.key())).forEach(f -> left.put(f.key(), f.label()));
        String name = entity.origin() == Origin.COMBINED
                ? ""
                : Sql.identifier(entity.sourceSchema()) + "." + Sql.identifier(entity.tableName());
        Register register = new Register(
                entity.key(),
                entity.label(),
                name,
                entity.origin() == Origin.OWN ? "id" : RecordTables.KEY,
                seen.stream().map(f -> calculated.field(f.key())).toList());
        Optional<Field> main = entity.mainField().flatMap(register::field);
        List<Field> shown = seen.stream()
                .filter(FieldEntity::shown)
                .map(f -> register.field(f.key()).orElseThrow())
                .toList();
        Field title = register.field(entity.titleField())
                .or(() -> register.stored().stream().findFirst())
                .orElseThrow(() -> new IllegalStateException("no field of " + entity.key() + " is left to show"));
        return new RegisterForReader(
                entity.id(),
                entity.origin(),
                register,
                entity.recordLabel(),
                entity.recordsLabel(),
                entity.description(),
                shown.isEmpty() ? List.of(title) : shown,
                main,
                entity.runningField().flatMap(register::field),
                title,
                defaultOrder(entity, register, main),
                notes,
                left,
                rights.limits(),
                rights.limits().isEmpty()
                        ? List.of()
                        : inWords(
                                rights.limits(),
                                describe(entity, persons, Set.of()).register()),
                entity.members().stream().map(this::member).toList(),
                gaps(entity, places),
                new RegisterForReader.Table(name, strings(entity.keyColumns()), entity.numbered()),
                people.attributes().stream().filter(a -> !a.equals("me")).toList(),
                added,
                entity.closedUpTo(),
                pastSince(entity, places),
                transactions(entity, register),
                rights.changesMany(),
                entity.version());
    }

    /** Not for who does not see all the fields that are written. */
    private Optional<TransactionRules> transactions(RegisterEntity entity, Register register) {
        return entity.transactions()
                .map(rules -> json.readValue(rules, TransactionRules.class))
                .filter(rules -> rules.fields().stream()
                        .allMatch(key -> register.field(key).isPresent()));
    }

    /** The entry of a field that is added to others. Its label has a word more where one of them has come to have the same since. */
    private FieldEntity entity(AddedFields.AddedField field, List<FieldEntity> others) {
        String label = field.label();
        while (isLabel(label, others)) {
            label += " (added)";
        }
        return entity(
                FieldDefinition.calculated(field.key(), label, field.type(), false, field.calculation()),
                Calculation.column(field.key()),
                "");
    }

    private static boolean isLabel(String label, List<FieldEntity> fields) {
        return fields.stream()
                .anyMatch(f -> f.label().equalsIgnoreCase(label) || f.key().equalsIgnoreCase(label));
    }

    /** Limits as people read them; a field that is hidden from them is said all the same, since the limit rests on it. */
    private List<String> inWords(List<String> limits, Register whole) {
        Reader reader = new Reader(whole, people.attributes());
        return limits.stream()
                .map(limit -> {
                    try {
                        return String.join(" and ", Wording.lines(reader.read(limit), whole));
                    } catch (StatementError unreadable) {
                        return limit;
                    }
                })
                .toList();
    }

    private Order defaultOrder(RegisterEntity entity, Register register, Optional<Field> main) {
        List<Order.Key> keys = new ArrayList<>();
        for (String key : strings(entity.ordering())) {
            OrderWord word = OrderWord.read(key);
            register.field(word.field())
                    .ifPresent(f -> keys.add(new Order.Key(f, word.descending(), word.emptiesFirst())));
        }
        if (keys.isEmpty()) {
            main.ifPresent(f -> keys.add(new Order.Key(f, entity.newestFirst())));
        }
        return new Order(keys);
    }

    /**
     * What one member gives a combined register.
     *
     * @param register absent when it was taken away
     */
    private record Place(RegisterForReader.Member member, Optional<RegisterEntity> register) {

        /** The member's field that a field is read from, if it is there and can be read so. */
        Optional<FieldEntity> source(FieldEntity field) {
            return register.flatMap(
                            r -> RegisterCatalogue.field(r, member.mapping().get(field.key())))
                    .filter(s -> Combining.fits(s.type(), field.type()));
        }

        /** Why a field is empty in the records of this member though it is to be read from it. */
        Optional<String> gap(FieldEntity field) {
            if (register.isEmpty()
                    || !member.mapping().containsKey(field.key())
                    || source(field).isPresent()) {
                return Optional.empty();
            }
            String empty = "“" + field.label() + "” is empty in the records of "
                    + register.get().label() + ": ";
            return Optional.of(RegisterCatalogue.field(
                            register.get(), member.mapping().get(field.key()))
                    .map(s -> empty + "“" + s.label() + "” holds " + s.type().words() + " now.")
                    .orElse(empty + "the field that it was read from is gone."));
        }
    }

    private List<Place> places(RegisterEntity combined) {
        return combined.members().stream()
                .map(m -> new Place(member(m), entity(m.memberKey())))
                .toList();
    }

    /** What a combined register should have of its members and does not get: a sentence for each field, or member. */
    private static List<RegisterForReader.Gap> gaps(RegisterEntity combined, List<Place> places) {
        List<RegisterForReader.Gap> gaps = new ArrayList<>();
        for (Place place : places) {
            if (place.register().isEmpty()) {
                gaps.add(new RegisterForReader.Gap(
                        Optional.empty(),
                        "The records called “" + place.member().label()
                                + "” are missing: their register was taken away."));
            }
            combined.fields()
                    .forEach(field -> place.gap(field)
                            .ifPresent(words -> gaps.add(new RegisterForReader.Gap(Optional.of(field.key()), words))));
        }
        return gaps;
    }

    /** From when on it is known what the records of a register were; of a combined one, those of all its members. */
    private static Optional<Instant> pastSince(RegisterEntity entity, List<Place> places) {
        if (entity.origin() != Origin.COMBINED) {
            return entity.pastSince();
        }
        List<Optional<Instant>> members = places.stream()
                .flatMap(p -> p.register().stream())
                .map(RegisterEntity::pastSince)
                .toList();
        return members.stream().allMatch(Optional::isPresent)
                ? members.stream().flatMap(Optional::stream).max(Comparator.naturalOrder())
                : Optional.empty();
    }

    /** Whether every record has a value of a field; in a combined register that is as its members say today. */
    private static boolean isRequired(FieldEntity field, List<Place> places) {
        return field.required()
                && (field.origin() != FieldOrigin.COLUMN
                        || field.type() == FieldType.TAGS
                        || places.stream()
                                .filter(p -> p.register().isPresent())
                                .allMatch(p -> p.source(field)
                                        .filter(FieldEntity::required)
                                        .isPresent()));
    }

    private static Optional<FieldEntity> field(RegisterEntity register, String key) {
        return register.fields().stream().filter(f -> f.key().equals(key)).findFirst();
    }

    @SuppressWarnings("unchecked")
    private RegisterForReader.Member member(MemberEntity member) {
        return new RegisterForReader.Member(
                member.memberKey(), member.label(), json.readValue(member.mapping(), LinkedHashMap.class));
    }

    private RegisterForReader.Notes notes(FieldEntity field, Optional<RegisterForReader.Calculated> calculated) {
        return new RegisterForReader.Notes(
                field.origin(),
                field.columnName(),
                about(field),
                Optional.of(field.expression()).filter(e -> !e.isEmpty()),
                calculated);
    }

    private FieldDefinition.About about(FieldEntity field) {
        return new FieldDefinition.About(
                field.description(),
                field.unit(),
                field.useful(),
                field.identifying(),
                field.correctable(),
                List.of(json.readValue(field.relates(), RegisterDefinition.Relation[].class)),
                List.of(json.readValue(field.correctors(), Long[].class)));
    }

    private Field field(FieldEntity entity, List<Option> persons, boolean required) {
        List<Option> options = entity.type() == FieldType.PERSON
                ? persons
                : strings(entity.options()).stream().map(Option::of).toList();
        return new Field(
                entity.key(),
                entity.label(),
                entity.type(),
                column(entity),
                required,
                options,
                Arrays.stream(json.readValue(entity.bands(), BandJson[].class))
                        .map(BandJson::band)
                        .toList(),
                entity.ends());
    }

    /** The column as queries see it: where more is read than the column itself, several fields may be read from it. */
    private static String column(FieldEntity entity) {
        return entity.expression().isEmpty() ? entity.columnName() : "deft_" + entity.key();
    }

    private List<String> strings(String array) {
        return List.of(json.readValue(array, String[].class));
    }
}
