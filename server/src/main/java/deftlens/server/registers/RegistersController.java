package deftlens.server.registers;

import deftlens.core.field.Field;
import deftlens.core.field.Option;
import deftlens.core.sql.Page;
import deftlens.core.statement.Verbs;
import deftlens.server.people.PeopleService;
import deftlens.server.registers.RegisterCatalogue.Described;
import java.util.List;
import java.util.Optional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** What registers there are, with their fields and the tests that fit them. */
@RestController
@RequestMapping("/api/registers")
class RegistersController {

    private final RegisterCatalogue catalogue;

    RegistersController(RegisterCatalogue catalogue) {
        this.catalogue = catalogue;
    }

    record Name(String key, String label, String recordLabel) {}

    record Test(String words, Verbs.Takes takes) {}

    record FieldDescription(
            String key,
            String label,
            String type,
            boolean required,
            boolean orderable,
            List<Option> options,
            List<BandJson> bands,
            Optional<Field.Ends> ends,
            List<Test> tests) {}

    record OrderKey(String field, boolean descending) {}

    record Description(
            String key,
            String label,
            String recordLabel,
            List<FieldDescription> fields,
            List<String> columns,
            List<OrderKey> order,
            String mainField,
            String titleField,
            List<String> viewerValues) {}

    @GetMapping
    List<Name> all() {
        return catalogue.all().stream()
                .map(d -> new Name(d.register().key(), d.register().label(), d.recordLabel()))
                .toList();
    }

    @GetMapping("/{key}")
    Description one(@PathVariable String key) {
        Described described = catalogue.get(key);
        return new Description(
                described.register().key(),
                described.register().label(),
                described.recordLabel(),
                described.register().fields().stream()
                        .map(RegistersController::field)
                        .toList(),
                described.shown().stream().map(Field::key).toList(),
                described.atRest().keys().stream()
                        .map(k -> new OrderKey(k.field().key(), k.descending()))
                        .toList(),
                described.main().key(),
                described.title().key(),
                PeopleService.ATTRIBUTES.stream()
                        .filter(a -> !a.equals("me"))
                        .sorted()
                        .toList());
    }

    private static FieldDescription field(Field field) {
        return new FieldDescription(
                field.key(),
                field.label(),
                field.type().label(),
                field.required(),
                Page.isOrderable(field.type()),
                field.options(),
                field.bands().stream().map(BandJson::of).toList(),
                field.ends(),
                Verbs.of(field).stream()
                        .map(v -> new Test(v.words(), v.takes()))
                        .toList());
    }
}
