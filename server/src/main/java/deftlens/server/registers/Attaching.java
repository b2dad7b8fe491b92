package deftlens.server.registers;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.core.sql.Sql;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.PeopleService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.Visible;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.trail.Trail;
import jakarta.persistence.EntityManager;
import jakarta.validation.Valid;
import java.time.Clock;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.ObjectMapper;

/**
 * Attaches tables and database views that are there already, in place: their columns, keys, choices and comments are read
 * from PostgreSQL's catalogue, nothing is ever written to them.
 */
@Service
public class Attaching {

    /** Where our own tables are, and PostgreSQL's. */
    private static final Set<String> CLOSED =
            Set.of("public", "records", "pg_catalog", "information_schema", "pg_toast");

    private static final Set<String> WHOLE = Set.of("int2", "int4", "int8");
    private static final int MOST_SHOWN = 8;

    private final EntityManager entities;
    private final RegisterStore store;
    private final RegisterCatalogue catalogue;
    private final OrganisationService organisation;
    private final PeopleService people;
    private final Trail trail;
    private final Clock clock;
    private final ObjectMapper json;
    private final ForeignTableMetadata elsewhere;

    Attaching(
            EntityManager entities,
            RegisterStore store,
            RegisterCatalogue catalogue,
            OrganisationService organisation,
            PeopleService people,
            Trail trail,
            Clock clock,
            ObjectMapper json,
            ForeignTableMetadata elsewhere) {
        this.entities = entities;
        this.store = store;
        this.catalogue = catalogue;
        this.organisation = organisation;
        this.people = people;
        this.trail = trail;
        this.clock = clock;
        this.json = json;
        this.elsewhere = elsewhere;
    }

    /**
     * A table that can be attached.
     *
     * @param kind table, view, materialised view or foreign table
     * @param rows about how many rows it has; negative where PostgreSQL does not know
     * @param register the register that it is attached as, if it is
     */
    public record Attachable(
            String schema, String table, String kind, String comment, long rows, Optional<String> register) {}

    /**
     * A column as the database describes it.
     *
     * @param type the database's name of its type
     */
    record Column(String name, String type, boolean required) {}

    /**
     * A field that a column can become.
     *
     * @param column the columns it is read from
     * @param type the field's type in the words of the product
     * @param databaseType the database's name of the column's type
     * @param options its choices, as far as the database knows them
     */
    public record Proposed(
            String key,
            String label,
            String column,
            String type,
            String databaseType,
            boolean required,
            boolean shown,
            boolean identifying,
            String description,
            List<String> options) {}

    /**
     * What a table can be attached as.
     *
     * @param keyColumns the columns that tell its rows apart, as far as the database knows
     * @param columns its columns, for choosing others
     * @param skipped columns that cannot be shown
     */
    public record TableProposal(
            String schema,
            String table,
            String kind,
            String label,
            String comment,
            long rows,
            List<String> keyColumns,
            List<String> columns,
            Optional<String> mainField,
            String titleField,
            List<Proposed> fields,
            List<String> skipped) {}

    /** A field as it is wanted. */
    public record WantedField(String key, @Visible String label, String type, boolean shown, String description) {}

    /** A table to be attached. */
    public record Attached(
            String schema,
            String table,
            @Visible String label,
            String recordLabel,
            List<String> keyColumns,
            Optional<String> mainField,
            String titleField,
            List<@Valid WantedField> fields) {}

    /** The tables that can be attached. */
    @Transactional(readOnly = true)
    public List<Attachable> attachable(SignedIn who) {
        CatalogueEditor.requireAdministrator(who);
        Map<String, String> taken = new LinkedHashMap<>();
        store.findAllByOrderByPosition().stream()
                .filter(r -> r.origin() == Origin.ATTACHED && r.deletedAt() == null)
                .forEach(r -> taken.put(r.sourceSchema() + "." + r.tableName(), r.key()));
        List<?> found = entities.createNativeQuery("""
                        select n.nspname, c.relname, cast(c.relkind as text), coalesce(obj_description(c.oid, 'pg_class'), ''),
                               cast(c.reltuples as bigint)
                        from pg_class c join pg_namespace n on n.oid = c.relnamespace
                        where c.relkind in ('r', 'v', 'm', 'f', 'p') and not c.relispartition
                          and n.nspname not like 'pg\\_%' and not (n.nspname = any(cast(?1 as text[])))
                          and has_table_privilege(c.oid, 'select')
                        order by 1, 2""")
                .setParameter(1, CLOSED.toArray(String[]::new))
                .getResultList();
        return found.stream()
                .map(Object[].class::cast)
                .map(r -> new Attachable(
                        (String) r[0],
                        (String) r[1],
                        SystemCatalogue.kind((String) r[2]),
                        (String) r[3],
                        rows(r),
                        Optional.ofNullable(taken.get(r[0] + "." + r[1]))))
                .toList();
    }

    private long rows(Object[] found) {
        long counted = ((Number) found[4]).longValue();
        return counted < 0 && "f".equals(found[2])
                ? elsewhere
                        .known((String) found[0], (String) found[1])
                        .map(ForeignTableMetadata.Known::rows)
                        .orElse(counted)
                : counted;
    }

    /** What a table can be attached as. */
    @Transactional(readOnly = true)
    public TableProposal propose(String schema, String table, SignedIn who) {
        Attachable found = attachable(who).stream()
                .filter(a -> a.schema().equals(schema) && a.table().equals(table))
                .findFirst()
                .orElseThrow(() -> Problem.notFound("The table “" + schema + "." + table + "”"));
        List<Read> columns = read(schema, table);
        List<String> keys = keys(schema, table);
        List<Proposed> fields = new ArrayList<>();
        List<String> skipped = new ArrayList<>();
        Set<String> taken = new HashSet<>();
        for (Read column : columns) {
            List<Part> parts = parts(column);
            if (parts.isEmpty()) {
                skipped.add(column.name);
            }
            for (Part part : parts) {
                fields.add(new Proposed(
                        free(Keys.of(column.name) + part.suffix, taken),
                        label(column.name) + part.words,
                        column.name,
                        part.mapped.type.label(),
                        column.type,
                        part.required,
                        fields.size() < MOST_SHOWN && part.mapped.type.isStored(),
                        keys.size() == 1 && keys.contains(column.name),
                        column.comment.isEmpty() ? part.note : column.comment,
                        part.mapped.options));
            }
        }
        if (fields.isEmpty()) {
            throw Problem.unprocessable("nothing-to-show", "No column of this table can be shown.");
        }
        Optional<String> main = fields.stream()
                .filter(f -> f.type().equals(FieldType.MOMENT.label()) && f.required())
                .findFirst()
                .or(() -> fields.stream()
                        .filter(f -> f.type().equals(FieldType.MOMENT.label())
                                || f.type().equals(FieldType.DATE.label()))
                        .findFirst())
                .map(Proposed::key);
        String title = fields.stream()
                .filter(f -> f.type().equals(FieldType.TEXT.label()) && f.required())
                .findFirst()
                .orElse(fields.get(0))
                .key();
        return new TableProposal(
                schema,
                table,
                found.kind(),
                label(table),
                found.comment(),
                found.rows(),
                keys,
                columns.stream().map(c -> c.name).toList(),
                main,
                title,
                fields,
                skipped);
    }

    static String free(String key, Set<String> taken) {
        String free = key;
        for (int i = 2; !taken.add(free); i++) {
            free = key + "_" + i;
        }
        return free;
    }

    /** {@code reported_at} as people read it. */
    static String label(String name) {
        String plain = name.replace('_', ' ').strip();
        return plain.isEmpty() ? name : plain.substring(0, 1).toUpperCase(Locale.ROOT) + plain.substring(1);
    }

    /** A column with everything the database says of it. */
    record Read(
            String name, String type, String base, boolean required, String comment, String element, String labels) {}

    List<Read> read(String schema, String table) {
        List<?> found = entities.createNativeQuery("""
                        select a.attname, format_type(a.atttypid, a.atttypmod), t.typname, a.attnotnull,
                               coalesce(col_description(c.oid, a.attnum), ''),
                               coalesce((select coalesce(b.typname, e.typname) from pg_type e left join pg_type b on b.oid = e.typbasetype
                                         where e.oid = t.typelem and t.typcategory = 'A'), ''),
                               coalesce(cast((select json_agg(l.enumlabel order by l.enumsortorder)
                                              from pg_enum l where l.enumtypid = t.oid) as text),
                                        (select min(pg_get_constraintdef(k.oid)) from pg_constraint k
                                         where k.conrelid = c.oid and k.contype = 'c' and k.conkey = array[a.attnum]
                                           and pg_get_constraintdef(k.oid) like '%ANY%ARRAY%'), '')
                        from pg_attribute a join pg_class c on c.oid = a.attrelid
                             join pg_namespace n on n.oid = c.relnamespace
                             join pg_type t0 on t0.oid = a.atttypid
                             join pg_type t on t.oid = case when t0.typtype = 'd' then t0.typbasetype else t0.oid end
                        where n.nspname = ?1 and c.relname = ?2 and a.attnum > 0 and not a.attisdropped
                        order by a.attnum""")
                .setParameter(1, schema)
                .setParameter(2, table)
                .getResultList();
        Map<String, List<String>> choices = elsewhere
                .known(schema, table)
                .map(ForeignTableMetadata.Known::choices)
                .orElse(Map.of());
        return found.stream()
                .map(Object[].class::cast)
                .map(r -> new Read(
                        (String) r[0],
                        (String) r[1],
                        (String) r[2],
                        (Boolean) r[3],
                        (String) r[4],
                        (String) r[5],
                        choices.containsKey(r[0]) ? json.writeValueAsString(choices.get(r[0])) : (String) r[6]))
                .toList();
    }

    /** The columns of the primary key, or else of the first unique index over columns that are never empty. */
    private List<String> keys(String schema, String table) {
        List<?> found = entities.createNativeQuery("""
                        select cast(array_to_json(array(
                                   select a.attname from unnest(i.indkey) with ordinality k(n, o)
                                   join pg_attribute a on a.attrelid = c.oid and a.attnum = k.n order by k.o)) as text)
                        from pg_index i join pg_class c on c.oid = i.indrelid join pg_namespace n on n.oid = c.relnamespace
                        where n.nspname = ?1 and c.relname = ?2 and i.indisunique and i.indpred is null
                          and i.indexprs is null and not exists (
                              select 1 from unnest(i.indkey) k(n) join pg_attribute a
                              on a.attrelid = c.oid and a.attnum = k.n where not a.attnotnull)
                        order by i.indisprimary desc, i.indnatts limit 1""")
                .setParameter(1, schema)
                .setParameter(2, table)
                .getResultList();
        return found.isEmpty()
                ? elsewhere
                        .known(schema, table)
                        .map(ForeignTableMetadata.Known::keyColumns)
                        .orElse(List.of())
                : strings((String) found.get(0));
    }

    /** What a column becomes: a type of ours, and the SQL over {@code t} where it is more than the column. */
    record Mapped(FieldType type, String expression, List<String> options) {}

    /**
     * A field that a column becomes; a range becomes three: its two ends, and the span between them.
     *
     * @param suffix what follows the column's name in the field's key
     * @param words what follows it in the label
     */
    record Part(String suffix, String words, Mapped mapped, boolean required, String note) {}

    private static final String FROM = "_from";
    private static final String UNTIL = "_until";

    List<Part> parts(Read column) {
        FieldType ends = switch (column.base) {
            case "daterange" -> FieldType.DATE;
            case "tstzrange", "tsrange" -> FieldType.MOMENT;
            default -> null;
        };
        if (ends == null) {
            return map(column)
                    .map(m -> List.of(new Part("", "", m, column.required, "")))
                    .orElse(List.of());
        }
        String plain = "t." + Sql.identifier(column.name);
        String beginning = ends == FieldType.DATE
                ? "date '0001-01-01'"
                : "timestamp" + (column.base.equals("tsrange") ? "" : "tz") + " '0001-01-01 00:00'";
        // A range without a beginning holds everything before its end; no date can say so, a very early one does.
        String low = "case when lower_inf(" + plain + ") then " + beginning + " else lower(" + plain + ") end";
        String high = ends == FieldType.DATE ? "(upper(" + plain + ") - 1)" : "upper(" + plain + ")";
        return List.of(
                new Part(
                        FROM,
                        " from",
                        new Mapped(ends, zoned(column, low), List.of()),
                        false,
                        "The beginning of " + column.name + "; the year 1 where it has none."),
                new Part(
                        UNTIL,
                        " until",
                        new Mapped(ends, zoned(column, high), List.of()),
                        false,
                        ends == FieldType.DATE
                                ? "The last day of " + column.name + "; empty where it has no end."
                                : "The end of " + column.name + ", which is not in it; empty where it has none."),
                new Part("", "", new Mapped(FieldType.SPAN, "", List.of()), false, ""));
    }

    private String zoned(Read column, String expression) {
        return column.base.equals("tsrange")
                ? "((" + expression + ")"
                        + AttachedZones.clause(organisation.zone().getId()) + ")"
                : "(" + expression + ")";
    }

    private Optional<Mapped> map(Read column) {
        String plain = "t." + Sql.identifier(column.name);
        List<String> options = options(column);
        return switch (column.base) {
            case "text", "varchar", "bpchar", "name" ->
                Optional.of(new Mapped(
                        options.isEmpty() ? FieldType.TEXT : FieldType.CHOICE,
                        column.base.equals("text") || column.base.equals("varchar") ? "" : cast(plain, "text"),
                        options));
            case "int2", "int4", "int8", "numeric" -> Optional.of(new Mapped(FieldType.NUMBER, "", List.of()));
            case "float4", "float8" -> Optional.of(new Mapped(FieldType.NUMBER, cast(plain, "numeric"), List.of()));
            case "money" -> Optional.of(new Mapped(FieldType.MONEY, cast(plain, "numeric"), List.of()));
            case "bool" -> Optional.of(new Mapped(FieldType.YES_NO, "", List.of()));
            case "date" -> Optional.of(new Mapped(FieldType.DATE, "", List.of()));
            case "timestamptz" -> Optional.of(new Mapped(FieldType.MOMENT, "", List.of()));
            case "timestamp" ->
                Optional.of(new Mapped(
                        FieldType.MOMENT,
                        "(" + plain + AttachedZones.clause(organisation.zone().getId()) + ")",
                        List.of()));
            case "time" -> Optional.of(new Mapped(FieldType.TIME, "", List.of()));
            case "timetz" -> Optional.of(new Mapped(FieldType.TIME, cast(plain, "time"), List.of()));
            // A cast would add the mask to an address that was written without one.
            case "inet" -> Optional.of(new Mapped(FieldType.TEXT, "abbrev(" + plain + ")", List.of()));
            case "bytea", "tsvector", "tsquery" -> Optional.empty();
            default ->
                Set.of("text", "varchar").contains(column.element)
                        ? Optional.of(
                                new Mapped(FieldType.TAGS, "coalesce(" + cast(plain, "text[]") + ", '{}')", List.of()))
                        : Optional.of(new Mapped(
                                options.isEmpty() ? FieldType.TEXT : FieldType.CHOICE, cast(plain, "text"), options));
        };
    }

    private static String cast(String expression, String type) {
        return "cast(" + expression + " as " + type + ")";
    }

    /** The labels of an enumeration, or the values that a check allows. */
    List<String> options(Read column) {
        if (column.labels.isEmpty()) {
            return List.of();
        }
        if (column.labels.startsWith("[")) {
            return strings(column.labels);
        }
        return SystemCatalogue.allowedBy(column.labels);
    }

    /** Attaches a table as a register. */
    @Transactional
    public RegisterForReader attach(Attached wanted, SignedIn who) {
        TableProposal proposal = propose(wanted.schema(), wanted.table(), who);
        Map<String, Read> columns = new LinkedHashMap<>();
        read(wanted.schema(), wanted.table()).forEach(c -> columns.put(c.name, c));
        Map<String, Proposed> proposed = new LinkedHashMap<>();
        proposal.fields().forEach(f -> proposed.put(f.key(), f));
        List<String> keys = wanted.keyColumns().isEmpty() ? proposal.keyColumns() : wanted.keyColumns();
        if (keys.isEmpty()) {
            throw Problem.unprocessable(
                    "no-key", "The database knows no key of this table. Choose the columns that tell its rows apart.");
        }
        for (String key : keys) {
            if (!columns.containsKey(key)) {
                throw Problem.unprocessable("bad-key", "The table has no column “" + key + "”.");
            }
        }
        if (!keys.equals(proposal.keyColumns())) {
            requireApart(wanted, keys);
        }
        boolean numbered = keys.size() == 1 && WHOLE.contains(columns.get(keys.get(0)).base);
        List<FieldEntity> fields = new ArrayList<>();
        List<FieldDefinition> definitions = new ArrayList<>();
        for (WantedField field : wanted.fields()) {
            Proposed from = Optional.ofNullable(proposed.get(field.key()))
                    .orElseThrow(() -> Problem.unprocessable(
                            "unknown-field", "There is no column for the field “" + field.key() + "”."));
            List<Part> parts = parts(columns.get(from.column()));
            if (from.type().equals(FieldType.SPAN.label())) {
                FieldDefinition span = FieldDefinition.span(
                                from.key(), field.label().strip(), ends(from, proposal.fields()))
                        .described(field.description());
                definitions.add(span);
                fields.add(catalogue.entity(span, from.column(), ""));
                continue;
            }
            Part part = parts.get((int) proposal.fields().stream()
                    .takeWhile(p -> p != from)
                    .filter(p -> p.column().equals(from.column()))
                    .count());
            Mapped mapped = retyped(part.mapped, field, from);
            FieldDefinition definition = new FieldDefinition(
                            from.key(),
                            field.label().strip(),
                            mapped.type,
                            from.required() || mapped.type == FieldType.TAGS,
                            field.shown(),
                            mapped.options)
                    .described(field.description());
            definitions.add(from.identifying() ? definition.identifying() : definition);
            fields.add(catalogue.entity(definitions.get(definitions.size() - 1), from.column(), mapped.expression));
        }
        RegisterDefinition definition = new RegisterDefinition(
                catalogue.freeKey(wanted.label()),
                wanted.label().strip(),
                wanted.recordLabel().isBlank() ? "record" : wanted.recordLabel().strip(),
                proposal.comment(),
                wanted.mainField(),
                wanted.titleField(),
                true,
                definitions);
        RegisterEntity entity = new RegisterEntity(
                definition,
                new RegisterEntity.Source(
                        Origin.ATTACHED,
                        wanted.schema(),
                        wanted.table(),
                        json.writeValueAsString(keys),
                        numbered,
                        json.writeValueAsString(shapeOf(columns.values()))),
                store.findAllByOrderByPosition().size(),
                clock.instant(),
                fields);
        RegisterForReader described;
        try {
            described = catalogue.describe(store.saveAndFlush(entity), people.options(), Set.of());
        } catch (IllegalArgumentException e) {
            throw Problem.unprocessable("bad-register", "These fields make no register: " + e.getMessage() + ".");
        }
        trail.write(
                Optional.of(who.id()),
                "register",
                described.id(),
                "attached",
                null,
                described.table().name());
        return described;
    }

    /** The ends of a span read from a range: the two fields of the same column before it. */
    private static Field.Ends ends(Proposed span, List<Proposed> all) {
        List<Proposed> ends = all.stream()
                .filter(p -> p.column().equals(span.column()) && p != span)
                .toList();
        return new Field.Ends(
                ends.get(0).key(), ends.get(1).key(), ends.get(0).type().equals(FieldType.DATE.label()));
    }

    private static Mapped retyped(Mapped mapped, WantedField wanted, Proposed from) {
        if (wanted.type().equals(mapped.type.label())) {
            return mapped;
        }
        FieldType type = Arrays.stream(FieldType.values())
                .filter(t -> t.label().equals(wanted.type()))
                .findFirst()
                .orElseThrow(() -> Problem.unprocessable("bad-type", "“" + wanted.type() + "” is no type."));
        boolean texts =
                Set.of(FieldType.TEXT, FieldType.CHOICE, FieldType.PERSON).contains(type)
                        && Set.of(FieldType.TEXT, FieldType.CHOICE).contains(mapped.type);
        boolean numbers = type.isNumeric() && mapped.type.isNumeric();
        if (!texts && !numbers) {
            throw Problem.unprocessable(
                    "bad-type",
                    from.label() + " holds " + from.databaseType() + " and cannot be read as " + wanted.type() + ".");
        }
        return new Mapped(type, mapped.expression, mapped.options);
    }

    private void requireApart(Attached wanted, List<String> keys) {
        String list = keys.stream().map(Sql::identifier).collect(Collectors.joining(", "));
        String from = " from " + Sql.identifier(wanted.schema()) + "." + Sql.identifier(wanted.table());
        boolean repeated = !entities.createNativeQuery(
                        "select 1" + from + " group by " + list + " having count(*) > 1 limit 1")
                .getResultList()
                .isEmpty();
        if (repeated) {
            throw Problem.unprocessable(
                    "key-repeats", "Some rows have the same " + String.join(" and ", keys) + "; choose more columns.");
        }
    }

    static List<Column> shapeOf(java.util.Collection<Read> columns) {
        return columns.stream().map(c -> new Column(c.name, c.type, c.required)).toList();
    }

    private List<String> strings(String array) {
        return List.of(json.readValue(array, String[].class));
    }
}
