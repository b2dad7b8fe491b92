package deftlens.server.registers;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Sql;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.registers.Attaching.Column;
import deftlens.server.registers.Attaching.Part;
import deftlens.server.registers.Attaching.Read;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.trail.Trail;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/** Tells how the table behind an attached register has changed, and takes it as it is now. */
@Service
public class TableShapes {

    private final Attaching attaching;
    private final RegisterStore store;
    private final RegisterCatalogue catalogue;
    private final PeopleService people;
    private final Trail trail;
    private final ApplicationEventPublisher events;
    private final ObjectMapper json;

    TableShapes(
            Attaching attaching,
            RegisterStore store,
            RegisterCatalogue catalogue,
            PeopleService people,
            Trail trail,
            ApplicationEventPublisher events,
            ObjectMapper json) {
        this.attaching = attaching;
        this.store = store;
        this.catalogue = catalogue;
        this.people = people;
        this.trail = trail;
        this.events = events;
        this.json = json;
    }

    /**
     * How the table behind a register differs from what it was when somebody last took it.
     *
     * @param gone whether there is no such table any more
     * @param missing columns that are gone, with the fields read from them
     * @param retyped columns that hold something else now
     * @param fresh columns that no field is read from
     * @param renamed for each column that is gone, the new columns of its type: it may be one of them under another name
     * @param values columns whose known values, of an enumeration or a check, are more than the field knows
     */
    public record Shape(
            boolean gone,
            List<String> missing,
            List<String> retyped,
            List<String> fresh,
            Map<String, List<String>> renamed,
            List<String> values) {

        static final Shape UNCHANGED = new Shape(false, List.of(), List.of(), List.of(), Map.of(), List.of());

        /** Whether the register cannot be read as it stands. */
        public boolean isBroken() {
            return gone || !missing.isEmpty() || !retyped.isEmpty();
        }
    }

    /** How the table behind a register differs from what it was; unchanged for registers that are not attached. */
    @Transactional(readOnly = true)
    public Shape shape(RegisterForReader described) {
        RegisterEntity entity = store.findByKey(described.register().key()).orElseThrow();
        return entity.origin() == Origin.ATTACHED ? shape(entity) : Shape.UNCHANGED;
    }

    private Shape shape(RegisterEntity entity) {
        List<Read> columns = attaching.read(entity.sourceSchema(), entity.tableName());
        Map<String, Column> now = new LinkedHashMap<>();
        Attaching.shapeOf(columns).forEach(c -> now.put(c.name(), c));
        Map<String, Column> was = new LinkedHashMap<>();
        Arrays.stream(json.readValue(entity.shape(), Column[].class)).forEach(c -> was.put(c.name(), c));
        Set<String> used = new LinkedHashSet<>(strings(entity.keyColumns()));
        entity.fields().stream().filter(f -> f.origin() == FieldOrigin.COLUMN).forEach(f -> used.add(f.columnName()));
        List<String> missing = used.stream().filter(c -> !now.containsKey(c)).toList();
        List<String> fresh =
                now.keySet().stream().filter(c -> !was.containsKey(c)).toList();
        Map<String, List<String>> renamed = new TreeMap<>();
        for (String column : missing) {
            List<String> alike = fresh.stream()
                    .filter(c -> was.containsKey(column)
                            && now.get(c).type().equals(was.get(column).type()))
                    .toList();
            if (!alike.isEmpty() && !now.isEmpty()) {
                renamed.put(column, alike);
            }
        }
        return new Shape(
                now.isEmpty(),
                missing,
                used.stream()
                        .filter(c -> now.containsKey(c)
                                && was.containsKey(c)
                                && !now.get(c).type().equals(was.get(c).type()))
                        .toList(),
                fresh,
                renamed,
                columns.stream()
                        .filter(c -> entity.fields().stream().anyMatch(f -> isReadFrom(f, c) && knowsLess(f, c)))
                        .map(Read::name)
                        .toList());
    }

    private static boolean isReadFrom(FieldEntity field, Read column) {
        return field.origin() == FieldOrigin.COLUMN && field.columnName().equals(column.name());
    }

    private boolean knowsLess(FieldEntity field, Read column) {
        return field.type() == FieldType.CHOICE
                && !new HashSet<>(strings(field.options())).containsAll(attaching.options(column));
    }

    /**
     * Takes the table as it is now: fields whose column is gone go unless it has another name, others get the type that their
     * column has and the values that it may have, new columns become fields that are not shown.
     *
     * @param renamed the new names of columns, by the old ones; such a column is read by the field that there is, with its
     *     name, bands and all
     */
    @Transactional
    public RegisterForReader accept(String key, Map<String, String> renamed, SignedIn who) {
        CatalogueEditor.requireAdministrator(who);
        RegisterForReader before = catalogue.get(key, who);
        RegisterEntity entity = store.findByKey(key).orElseThrow();
        Shape shape = shape(before);
        if (entity.origin() != Origin.ATTACHED || shape.gone()) {
            throw Problem.unprocessable("no-table", "There is no table behind this register to be taken as it is.");
        }
        requireRenamed(shape, renamed);
        rename(entity, renamed);
        if (strings(entity.keyColumns()).stream().anyMatch(c -> shape.missing().contains(c))) {
            throw Problem.unprocessable(
                    "key-gone",
                    "A column of the key is gone. Say which column it is now, or attach the table anew with another key.");
        }
        Map<String, Read> columns = new LinkedHashMap<>();
        attaching.read(entity.sourceSchema(), entity.tableName()).forEach(c -> columns.put(c.name(), c));
        Set<String> taken = new HashSet<>();
        List<FieldEntity> fields = new ArrayList<>();
        Set<String> anew = new LinkedHashSet<>();
        for (FieldEntity field : entity.fields()) {
            taken.add(field.key());
            boolean ofColumn = field.origin() == FieldOrigin.COLUMN
                    || !field.columnName().isEmpty() && field.type() == FieldType.SPAN;
            if (!ofColumn) {
                fields.add(field);
            } else if (shape.retyped().contains(field.columnName())) {
                Read column = columns.get(field.columnName());
                List<Part> parts = attaching.parts(column);
                // What was or becomes a range is several fields; they are taken anew below.
                if (parts.size() == 1 && field.type() != FieldType.SPAN && !isPartOfSpan(field, entity)) {
                    fields.add(entity(field.key(), field.label(), column, parts.get(0), field.shown()));
                } else {
                    anew.add(field.columnName());
                }
            } else if (columns.containsKey(field.columnName())) {
                takeValues(field, columns.get(field.columnName()));
                fields.add(field);
            }
        }
        shape.fresh().stream().filter(c -> !renamed.containsValue(c)).forEach(anew::add);
        taken.removeIf(k -> fields.stream().noneMatch(f -> f.key().equals(k)));
        for (String name : anew) {
            Read column = columns.get(name);
            List<String> keys = new ArrayList<>();
            for (Part part : attaching.parts(column)) {
                String fieldKey = Attaching.free(Keys.of(name) + part.suffix(), taken);
                if (part.mapped().type() == FieldType.SPAN) {
                    Field.Ends ends = new Field.Ends(
                            keys.get(0), keys.get(1), column.base().equals("daterange"));
                    fields.add(catalogue.entity(FieldDefinition.span(fieldKey, Attaching.label(name), ends), name, ""));
                } else {
                    fields.add(entity(fieldKey, Attaching.label(name) + part.words(), column, part, false));
                }
                keys.add(fieldKey);
            }
        }
        entity.fields().clear();
        entity.fields().addAll(fields);
        entity.accept(json.writeValueAsString(Attaching.shapeOf(columns.values())));
        RegisterForReader after = catalogue.describe(store.saveAndFlush(entity), people.options(), Set.of());
        trail.write(Optional.of(who.id()), CatalogueEditor.SUBJECT, before.id(), "taken as it is", shape, renamed);
        events.publishEvent(new RegisterChanged(key));
        return after;
    }

    private static void requireRenamed(Shape shape, Map<String, String> renamed) {
        renamed.forEach((was, is) -> {
            if (!shape.renamed().getOrDefault(was, List.of()).contains(is)) {
                throw Problem.unprocessable(
                        "bad-rename",
                        "The column “" + was + "” cannot be “" + is
                                + "” now: the one must be gone, the other new and of the same type.");
            }
        });
        if (new HashSet<>(renamed.values()).size() != renamed.size()) {
            throw Problem.unprocessable("bad-rename", "Two columns cannot be the same one now.");
        }
    }

    private void rename(RegisterEntity entity, Map<String, String> renamed) {
        entity.fields().stream()
                .filter(f -> renamed.containsKey(f.columnName()))
                .forEach(f -> f.readFrom(
                        renamed.get(f.columnName()),
                        f.expression()
                                .replace(
                                        "t." + Sql.identifier(f.columnName()),
                                        "t." + Sql.identifier(renamed.get(f.columnName())))));
        entity.tellApartBy(json.writeValueAsString(strings(entity.keyColumns()).stream()
                .map(c -> renamed.getOrDefault(c, c))
                .toList()));
    }

    private boolean takeValues(FieldEntity field, Read column) {
        if (!isReadFrom(field, column) || !knowsLess(field, column)) {
            return false;
        }
        // In the order of the database; what somebody has added to them stays, after the others.
        Set<String> all = new LinkedHashSet<>(attaching.options(column));
        all.addAll(strings(field.options()));
        field.choose(json.writeValueAsString(all));
        return true;
    }

    /** Takes the new values of enumerations and checks behind all attached registers; nothing else of them changes. */
    @Transactional
    public void takeValues() {
        for (RegisterEntity entity : store.findAllByOrderByPosition()) {
            if (entity.origin() != Origin.ATTACHED || entity.deletedAt() != null) {
                continue;
            }
            List<String> took = new ArrayList<>();
            for (Read column : attaching.read(entity.sourceSchema(), entity.tableName())) {
                for (FieldEntity field : entity.fields()) {
                    if (takeValues(field, column)) {
                        took.add(field.label());
                    }
                }
            }
            if (!took.isEmpty()) {
                store.saveAndFlush(entity);
                trail.write(Optional.empty(), CatalogueEditor.SUBJECT, entity.id(), "values taken", null, took);
                events.publishEvent(new RegisterChanged(entity.key()));
            }
        }
    }

    private static boolean isPartOfSpan(FieldEntity field, RegisterEntity entity) {
        return entity.fields().stream()
                .flatMap(f -> f.ends().stream())
                .anyMatch(e -> e.start().equals(field.key()) || e.end().equals(field.key()));
    }

    private FieldEntity entity(String key, String label, Read column, Part part, boolean shown) {
        FieldDefinition definition = new FieldDefinition(
                        key,
                        label,
                        part.mapped().type(),
                        part.required() || part.mapped().type() == FieldType.TAGS,
                        shown,
                        part.mapped().options())
                .described(column.comment().isEmpty() ? part.note() : column.comment());
        return catalogue.entity(definition, column.name(), part.mapped().expression());
    }

    /** The fields of a register that are read from a column. */
    public static List<String> fieldsOf(RegisterForReader described, List<String> columns) {
        return described.register().stored().stream()
                .filter(f -> columns.contains(described.notes().get(f.key()).source()))
                .map(Field::key)
                .toList();
    }

    private List<String> strings(String array) {
        return List.of(json.readValue(array, String[].class));
    }
}
