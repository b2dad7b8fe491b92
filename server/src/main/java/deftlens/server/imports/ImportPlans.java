package deftlens.server.imports;

import deftlens.core.field.Field;
import deftlens.core.field.FieldType;
import deftlens.server.organisation.OrganisationService;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.Problem;
import deftlens.server.platform.VisibleText;
import deftlens.server.question.Questions;
import deftlens.server.registers.FieldTypes;
import deftlens.server.registers.Keys;
import deftlens.server.registers.Origin;
import deftlens.server.registers.RecordTables;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterDefinition;
import deftlens.server.registers.RegisterDefinition.FieldDefinition;
import deftlens.server.registers.RegisterForReader;
import deftlens.server.values.Notation;
import java.time.Clock;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import tools.jackson.databind.ObjectMapper;

/** Where the rows of a file go and how: what a plan means for a register, and the plans that were kept. */
@Component
class ImportPlans {

    private final RegisterCatalogue registers;
    private final OrganisationService organisation;
    private final ImportStore store;
    private final Clock clock;
    private final ObjectMapper json;

    ImportPlans(
            RegisterCatalogue registers,
            OrganisationService organisation,
            ImportStore store,
            Clock clock,
            ObjectMapper json) {
        this.registers = registers;
        this.organisation = organisation;
        this.store = store;
        this.clock = clock;
        this.json = json;
    }

    /**
     * Where the rows go.
     *
     * @param register the key of a register that is there; or else
     * @param label what the new register is called
     * @param mainField the label of its main date
     * @param titleField the label of the field that names a record to people
     * @param open whether everybody may see the new register at once; else only administrators and auditors do, until
     *     somebody says who may
     */
    record Into(
            Optional<String> register,
            Optional<String> label,
            Optional<String> recordLabel,
            Optional<String> mainField,
            Optional<String> titleField,
            Optional<Boolean> open) {}

    /** Where rows go: into a register that is there, or one that is made for them. */
    record Target(Optional<RegisterDefinition> fresh, String key) {}

    Target target(Into into, ImportPlan plan, FileLooks.FileLook look, SignedIn who) {
        if (plan.columns().isEmpty()) {
            throw Problem.unprocessable("nothing-taken", "Take at least one column.");
        }
        columns(plan, look);
        if (into.register().isPresent()) {
            RegisterForReader described = registers.get(into.register().get(), who);
            if (!described.can(Origin.Capability.RECORDS)) {
                throw Problem.unprocessable(
                        "not-ours", described.register().label() + " are only read here; no file can be imported.");
            }
            conversions(described, plan, look);
            return new Target(Optional.empty(), described.register().key());
        }
        RegisterDefinition definition = definition(into, plan, look);
        return new Target(Optional.of(definition), definition.key());
    }

    /** The file's columns that a plan takes, in the order of the plan. Columns of one name are told apart by their place. */
    private static List<Columns.FileColumn> columns(ImportPlan plan, FileLooks.FileLook look) {
        List<Columns.FileColumn> left = new ArrayList<>(look.columns());
        List<Optional<Columns.FileColumn>> found = new ArrayList<>();
        // Those whose place is known first, so that none of them goes to another of the name.
        for (ImportPlan.Taken taken : plan.columns()) {
            Optional<Columns.FileColumn> column = left.stream()
                    .filter(c -> c.name().equals(taken.name())
                            && taken.place().filter(p -> p == c.index()).isPresent())
                    .findFirst();
            column.ifPresent(left::remove);
            found.add(column);
        }
        List<Columns.FileColumn> columns = new ArrayList<>();
        for (int i = 0; i < found.size(); i++) {
            String name = plan.columns().get(i).name();
            Columns.FileColumn column = found.get(i)
                    .or(() -> left.stream().filter(c -> c.name().equals(name)).findFirst())
                    .orElseThrow(() -> Problem.unprocessable(
                            "column-missing",
                            "The file has no column “" + name
                                    + "” (any more than are taken). Leave it out, or choose another."));
            left.remove(column);
            columns.add(column);
        }
        return columns;
    }

    private RegisterDefinition definition(Into into, ImportPlan plan, FileLooks.FileLook look) {
        String label = into.label()
                .map(String::strip)
                .filter(VisibleText::isVisible)
                .orElseThrow(() -> Problem.unprocessable("no-name", "Give the new register a name.")
                        .at("label"));
        List<Columns.FileColumn> columns = columns(plan, look);
        List<String> keys =
                Keys.of(plan.columns().stream().map(ImportPlan.Taken::label).toList());
        List<FieldDefinition> fields = new ArrayList<>();
        Optional<String> main = Optional.empty();
        String title = keys.get(0);
        Set<String> labels = new HashSet<>();
        for (int i = 0; i < keys.size(); i++) {
            ImportPlan.Taken taken = plan.columns().get(i);
            if (!labels.add(taken.label().strip().toLowerCase(Locale.ROOT)) || !VisibleText.isVisible(taken.label())) {
                throw Problem.unprocessable(
                        "name-twice", "Each field needs a name of its own; “" + taken.label() + "” stands twice.");
            }
            FieldType type = FieldTypes.named(taken.type());
            Columns.FileColumn column = columns.get(i);
            boolean isMain = into.mainField().filter(taken.label()::equals).isPresent();
            if (isMain && !type.isTemporal()) {
                throw Problem.unprocessable("bad-main-field", "The main date must be a date or a date and time.");
            }
            // What has a value in every row, and is walked along or names the record, is to have one always.
            boolean full = column.filled() == column.rows() && taken.unfit() == ImportPlan.Unfit.REFUSE;
            FieldDefinition field = new FieldDefinition(
                    keys.get(i),
                    taken.label().strip(),
                    type,
                    full && (isMain || taken.identifying()) || type == FieldType.TAGS,
                    taken.shown(),
                    type == FieldType.CHOICE ? column.known() : List.of());
            // Nobody but an administrator corrects anything of it until it is said who does.
            fields.add(taken.identifying() ? field.identifying() : field);
            if (isMain) {
                main = Optional.of(keys.get(i));
            }
            if (into.titleField().filter(taken.label()::equals).isPresent()) {
                title = keys.get(i);
            }
        }
        return new RegisterDefinition(
                registers.freeKey(label),
                label,
                into.recordLabel().map(String::strip).filter(l -> !l.isEmpty()).orElse("record"),
                "Imported from " + look.name() + ".",
                main,
                title,
                true,
                fields);
    }

    List<Conversion> conversions(RegisterForReader described, ImportPlan plan, FileLooks.FileLook look) {
        List<Columns.FileColumn> taking = columns(plan, look);
        ZoneId own = plan.zone().map(Questions::zone).orElseGet(organisation::zone);
        Map<String, Field> columns =
                RecordTables.columns(described).stream().collect(Collectors.toMap(Field::key, f -> f));
        List<String> keys =
                Keys.of(plan.columns().stream().map(ImportPlan.Taken::label).toList());
        List<Conversion> conversions = new ArrayList<>();
        Set<Field> given = new HashSet<>();
        for (int i = 0; i < plan.columns().size(); i++) {
            ImportPlan.Taken taken = plan.columns().get(i);
            Field field = columns.get(taken.field().orElse(keys.get(i)));
            if (field == null) {
                throw Problem.unprocessable(
                        "unknown-field",
                        described.register().label() + " have no field for the column “" + taken.name() + "”.");
            }
            if (!given.add(field)) {
                throw Problem.unprocessable("field-twice", "Two columns go into " + field.label() + "; leave one out.");
            }
            conversions.add(new Conversion(
                    field,
                    taking.get(i).index(),
                    new Notation(taken.order(), taken.decimal(), taken.unit(), own),
                    taken.unfit()));
        }
        for (Field field : columns.values()) {
            boolean updates = plan.known() == ImportPlan.Known.UPDATE;
            if (field.required() && field.type() != FieldType.TAGS && !given.contains(field) && !updates) {
                throw Problem.unprocessable(
                        "field-missing", field.label() + " is needed in every record; choose its column.");
            }
        }
        for (String key : plan.by()) {
            if (given.stream().noneMatch(f -> f.key().equals(key))) {
                throw Problem.unprocessable("bad-key", "Records are told apart by a field that the file gives.");
            }
        }
        if (plan.by().isEmpty() && plan.recognises()) {
            throw Problem.unprocessable("no-key", "Choose the fields that tell records apart.");
        }
        return conversions;
    }

    /** A plan that was kept with a name. */
    record KeptPlan(String name, ImportPlan plan) {}

    /** Keeps a plan, so that the next file of this kind comes in the same way. */
    void keep(String register, String name, ImportPlan plan, SignedIn who) {
        if (!VisibleText.isVisible(name) || name.length() > 120) {
            throw Problem.unprocessable("no-name", "Give the plan a name of at most 120 characters.")
                    .at("keepAs");
        }
        store.keep(
                registers.get(register, who).id(), name.strip(), json.writeValueAsString(plan), who, clock.instant());
    }

    /** The plans kept for a register. */
    List<KeptPlan> plans(String register, SignedIn who) {
        return store.plans(registers.get(register, who).id()).stream()
                .map(p -> new KeptPlan(p.name(), json.readValue(p.plan(), ImportPlan.class)))
                .toList();
    }
}
