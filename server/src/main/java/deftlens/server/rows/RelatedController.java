package deftlens.server.rows;

import deftlens.server.lanes.AsksRecords;
import deftlens.server.people.SignedIn;
import deftlens.server.platform.ReadsOnly;
import deftlens.server.question.Question;
import deftlens.server.question.QuestionRequest;
import deftlens.server.question.Questions;
import deftlens.server.question.RelatedRecords;
import deftlens.server.registers.RegisterCatalogue;
import deftlens.server.registers.RegisterForReader;
import jakarta.validation.Valid;
import java.util.List;
import java.util.Optional;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What shares a value with records. */
@RestController
@RequestMapping("/api/registers/{key}")
class RelatedController {

    private final RelatedService related;
    private final RelatedRecords records;
    private final RegisterCatalogue registers;
    private final Questions questions;

    RelatedController(
            RelatedService related, RelatedRecords records, RegisterCatalogue registers, Questions questions) {
        this.related = related;
        this.records = records;
        this.registers = registers;
        this.questions = questions;
    }

    /**
     * Records that are said to hold the values of a field.
     *
     * @param field the field's key
     * @param register the key of the register that they are in
     * @param label what people call it
     * @param records several of them in words
     * @param there the key of the field there
     */
    record ValuePlace(String field, String register, String label, String records, String there) {}

    /** In which records the values of a register's fields can be looked for, as it is said in either register. */
    @GetMapping("/places")
    List<ValuePlace> places(@PathVariable String key, @AuthenticationPrincipal SignedIn who) {
        RegisterForReader described = registers.get(key, who);
        return described.register().fields().stream()
                .flatMap(field -> records.declared(described, field.key(), who).stream()
                        .map(found -> new ValuePlace(
                                field.key(),
                                found.register().register().key(),
                                found.register().register().label(),
                                found.register().recordsLabel(),
                                found.field().key())))
                .toList();
    }

    /** What shares a declared value with one record. */
    @AsksRecords
    @GetMapping("/records/{id}/related")
    List<RelatedService.Related> ofRecord(
            @PathVariable String key,
            @PathVariable long id,
            @RequestParam Optional<String> recordsAt,
            @RequestParam Optional<String> zone,
            @AuthenticationPrincipal SignedIn who) {
        return related.ofRecord(
                questions.everything(registers.get(key, who), who).asRecordsStood(questions.recordsAt(recordsAt, zone)),
                id);
    }

    /** What shares a declared value with any record of a question. */
    @AsksRecords
    @ReadsOnly
    @PostMapping("/related")
    List<RelatedService.Related> ofAll(
            @PathVariable String key,
            @Valid @RequestBody QuestionRequest request,
            @AuthenticationPrincipal SignedIn who,
            @RequestHeader(name = RowsController.NAME, required = false) Optional<String> name) {
        Question question =
                questions.question(registers.get(key, who), request, who).named(name);
        return related.ofAll(question);
    }
}
